"""Raw logs: taken in bounded, kept unchanged under their hash, read as columns whatever the format."""

from __future__ import annotations

import csv
import hashlib
import os
import tempfile
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from cultrix_core.errors import Refusal
from cultrix_core.harvest.yield_log import MOST_READINGS, header_of
from django.conf import settings
from django.core.files.uploadedfile import UploadedFile

from apps.exchange import geo

TEXT = (".csv", ".txt")
VECTOR = (".geojson", ".json", ".gpkg", ".zip")
PREVIEW_ROWS = 5
PREVIEW_BYTES = 200_000
MOST_UNPACKED = 600_000_000
LON, LAT = "longitude of the point", "latitude of the point"


def store(file: UploadedFile) -> tuple[str, str, int]:
    """Write an upload once under its hash; returns hash, suffix and size. A half-written file never gets the name."""
    limit = settings.LOG_LIMIT_BYTES
    suffix = Path((file.name or "").lower()).suffix
    if suffix not in TEXT + VECTOR:
        raise _bad(
            f"“{suffix or (file.name or '')[:20]}” is not read here", "Use CSV, GeoJSON, GeoPackage or a zipped Shapefile."
        )
    if (file.size or 0) > limit:
        raise Refusal(
            "too_large", field="file", label="The log", value=f"{(file.size or 0) / 1e6:.0f}", unit=" MB",
            limit=f"{limit / 1e6:.0f}", remedy="Export the one field only.",
        )  # fmt: skip
    folder = Path(settings.LOGS)
    folder.mkdir(parents=True, exist_ok=True)
    sha, size = hashlib.sha256(), 0
    handle, half = tempfile.mkstemp(dir=folder, suffix=".part")
    try:
        with os.fdopen(handle, "wb") as out:
            for chunk in file.chunks():
                sha.update(chunk)
                size += len(chunk)
                out.write(chunk)
        path = path_of(sha.hexdigest(), suffix)
        path.parent.mkdir(exist_ok=True)
        Path(half).replace(path)
    except BaseException:
        Path(half).unlink(missing_ok=True)
        raise
    return sha.hexdigest(), suffix, size


def path_of(digest: str, suffix: str) -> Path:
    """Where a raw log lies."""
    return Path(settings.LOGS) / digest[:2] / f"{digest}{suffix}"


def points_path(result_hash: str) -> Path:
    """Where the points of a cleaned log lie, as columns."""
    return Path(settings.LOGS) / "points" / f"{result_hash}.npz"


def header(digest: str, suffix: str) -> dict[str, Any]:
    """Names of the columns and the first rows, without reading the whole; refuses what cannot be read."""
    path = path_of(digest, suffix)
    if suffix in TEXT:
        with path.open("rb") as handle:
            head = _text(handle.read(PREVIEW_BYTES), whole=False)
        names, apart = header_of(head)
        if len(names) < 4:
            raise _bad("it has no table with a line of names", "Export it as CSV with a header.")
        lines = list(csv.reader(head.splitlines()[1 : PREVIEW_ROWS + 1], delimiter=apart))
        return {"names": names, "rows": [[cell.strip()[:40] for cell in line[: len(names)]] for line in lines]}
    table = _vector(path, suffix, rows=PREVIEW_ROWS)
    names = list(table)
    rows = zip(*(list(table[name]) for name in names), strict=True)
    return {"names": names, "rows": [[str(cell)[:40] for cell in row] for row in rows]}


def text_of(digest: str, suffix: str) -> str:
    """A text log whole."""
    return _text(path_of(digest, suffix).read_bytes(), whole=True)


def table_of(digest: str, suffix: str) -> Mapping[str, Any]:
    """A vector log as columns by name, its points as longitude and latitude."""
    return _vector(path_of(digest, suffix), suffix, rows=MOST_READINGS + 1)


def _text(content: bytes, *, whole: bool) -> str:
    if b"\x00" in content[:20_000]:
        raise _bad("it is no text", "Export it as CSV with a header.")
    try:
        return content.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        if not whole and error.start > len(content) - 4:  # cut in the middle of a letter
            return content[: error.start].decode("utf-8-sig")
        return content.decode("latin-1")


def _vector(path: Path, suffix: str, *, rows: int) -> dict[str, Any]:
    """Columns of a file of points; refuses other shapes and what the driver cannot read."""
    frame = geo.read_points(path, suffix, rows=rows, most_unpacked=MOST_UNPACKED)
    if len(frame) > MOST_READINGS:
        raise Refusal("too_large", field="file", label="Readings", value=len(frame), limit=MOST_READINGS)
    table = {str(name): frame[name].to_numpy() for name in frame.columns if name != "geometry"}
    return {LON: frame.geometry.x.to_numpy(), LAT: frame.geometry.y.to_numpy()} | table


def _bad(value: str, remedy: str) -> Refusal:
    return Refusal("bad_geometry", field="file", label="The file", value=value, remedy=remedy)
