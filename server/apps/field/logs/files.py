"""Raw logs: taken in bounded, kept unchanged under their hash, read as columns whatever the format."""

from __future__ import annotations

import csv
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from cultrix_core.errors import Refusal
from cultrix_core.harvest.yield_log import MOST_READINGS, header_of
from django.conf import settings
from django.core.files.uploadedfile import UploadedFile

from apps.intake.services import check_size, kind_in, name_of, points_in

TEXT = (".csv", ".txt")
VECTOR = (".geojson", ".json", ".gpkg", ".zip")
PREVIEW_ROWS = 5
PREVIEW_BYTES = 200_000
SUFFIXES = {"text": ".csv", "geojson": ".geojson", "geopackage": ".gpkg", "zip": ".zip"}
FORMATS = "Use CSV, GeoJSON, GeoPackage or a zipped Shapefile."


def suffix_of(file: UploadedFile) -> str:
    """How a log is kept, by what it is; its name decides nothing but between the two names of text."""
    check_size(file, settings.LOG_LIMIT_BYTES, label="The log", remedy="Export the one field only.")
    kind = kind_in(file)
    if kind not in SUFFIXES:
        raise _bad(f"“{name_of(file)}” is none of the formats that are read here", FORMATS)
    return ".txt" if kind == "text" and name_of(file).lower().endswith(".txt") else SUFFIXES[kind]


def path_of(digest: str, suffix: str) -> Path:
    """Where a raw log lies."""
    return Path(settings.LOGS) / digest[:2] / f"{digest}{suffix}"


def points_path(result_hash: str) -> Path:
    """Where the points of a cleaned log lie, as columns."""
    return Path(settings.LOGS) / "points" / f"{result_hash}.npz"


def header(path: Path, suffix: str) -> dict[str, Any]:
    """Names of the columns and the first rows, without reading the whole; refuses what cannot be read."""
    if suffix in TEXT:
        with path.open("rb") as handle:
            head = _text(handle.read(PREVIEW_BYTES), whole=False)
        names, apart = header_of(head)
        if len(names) < 4:
            raise _bad("it has no table with a line of names", "Export it as CSV with a header.")
        lines = list(csv.reader(head.splitlines()[1 : PREVIEW_ROWS + 1], delimiter=apart))
        return {"names": names, "rows": [[cell.strip()[:40] for cell in line[: len(names)]] for line in lines]}
    with path.open("rb") as handle:
        table = points_in(handle, rows=PREVIEW_ROWS, preview=True)
    names = list(table)
    rows = zip(*(list(table[name]) for name in names), strict=True)
    return {"names": names, "rows": [[str(cell)[:40] for cell in row] for row in rows]}


def text_of(digest: str, suffix: str) -> str:
    """A text log whole."""
    return _text(path_of(digest, suffix).read_bytes(), whole=True)


def table_of(digest: str, suffix: str) -> Mapping[str, Any]:
    """A vector log as columns by name, its points as longitude and latitude."""
    with path_of(digest, suffix).open("rb") as handle:
        return points_in(handle, rows=MOST_READINGS)


def _text(content: bytes, *, whole: bool) -> str:
    if b"\x00" in content[:20_000]:
        raise _bad("it is no text", "Export it as CSV with a header.")
    try:
        return content.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        if not whole and error.start > len(content) - 4:  # cut in the middle of a letter
            return content[: error.start].decode("utf-8-sig")
        return content.decode("latin-1")


def _bad(value: str, remedy: str) -> Refusal:
    return Refusal("bad_geometry", field="file", label="The file", value=value, remedy=remedy)
