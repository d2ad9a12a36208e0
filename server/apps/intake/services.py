"""The one way in for files: size, quota, then what the content is, then the one reader for that; nothing else opens a file."""

from __future__ import annotations

import io
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Any

import numpy as np
from cultrix_core.errors import Refusal
from django.conf import settings
from django.core.files.uploadedfile import UploadedFile
from shapely.geometry import Polygon, shape

from apps.base.untrusted_text import first_bad_sign
from apps.intake.reading import LARGE, PREVIEW, read
from apps.intake.signature import HEAD_BYTES, Kind, kind_of

GEOMETRY: tuple[Kind, ...] = ("geojson", "kml", "geopackage", "zip")
POINTS: tuple[Kind, ...] = ("geojson", "geopackage", "zip")
PICTURES: tuple[Kind, ...] = ("jpeg", "png", "webp")
MOST_UNPACKED = 60_000_000
MOST_LOG_UNPACKED = 600_000_000
LON, LAT = "longitude of the point", "latitude of the point"
READERS = {"geojson": "GeoJSON", "kml": "KML", "geopackage": "GeoPackage", "zip": "a zipped Shapefile"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Outline:
    """The boundary of a field in longitude and latitude, and what was done to it."""

    polygon: Polygon
    said: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Picture:
    """A photograph encoded anew as JPEG."""

    content: bytes
    width: int
    height: int


def name_of(file: UploadedFile, otherwise: str = "file") -> str:
    """What somebody called a file, fit to be shown and stored."""
    name = "".join(letter for letter in Path(file.name or "").name if letter.isprintable())
    return name.encode("utf-8", "ignore").decode()[:80] or otherwise


def check_size(file: UploadedFile, limit: int, *, label: str, remedy: str) -> None:
    """Refuse a file over its limit."""
    if (file.size or 0) > limit:
        raise Refusal(
            "too_large",
            field="file",
            label=label,
            value=f"{(file.size or 0) / 1e6:.0f}",
            limit=f"{limit / 1e6:.0f}",
            unit=" MB",
            remedy=remedy,
        )


def kind_in(handle: IO[bytes]) -> Kind:
    """What an open file is, by its first bytes."""
    handle.seek(0)
    head = handle.read(HEAD_BYTES)
    handle.seek(0)
    return kind_of(head)


def _geometry_kind(handle: IO[bytes], known: tuple[Kind, ...], name: str) -> Kind:
    kind = kind_in(handle)
    if kind not in known:
        raise Refusal(
            "bad_geometry",
            field="file",
            label="The file",
            value=f"“{name}” is none of the formats that are read here",
            remedy=f"Use {', '.join(READERS[item] for item in known[:-1])} or {READERS[known[-1]]}.",
        )
    return kind


def outline_in(file: UploadedFile) -> Outline:
    """The outline of a field in a file of geometry."""
    check_size(file, settings.UPLOAD_LIMIT_BYTES, label="The file", remedy="Export the one field only.")
    kind = _geometry_kind(file, GEOMETRY, name_of(file))
    result, _ = read("boundary", file, kind=kind, most_bytes=MOST_UNPACKED)
    polygon = shape(result["polygon"])
    assert isinstance(polygon, Polygon)
    return Outline(polygon=polygon, said=(f"Read from {name_of(file)[:60]}.", *result["said"]))


def strips_in(file: UploadedFile) -> list[tuple[Polygon, dict[str, Any]]]:
    """Outlines of strips with their attributes in a file of geometry."""
    check_size(file, settings.UPLOAD_LIMIT_BYTES, label="The file", remedy="Export the one trial only.")
    kind = _geometry_kind(file, GEOMETRY, name_of(file))
    result, _ = read("strips", file, kind=kind, most_bytes=MOST_UNPACKED)
    rows = []
    for row in result["rows"]:
        polygon = shape(row["polygon"])
        assert isinstance(polygon, Polygon)
        rows.append((polygon, row["values"]))
    return rows


def points_in(handle: IO[bytes], *, rows: int, preview: bool = False) -> Mapping[str, Any]:
    """Columns of a file of points, longitude and latitude first: all of them, or a preview of the first rows."""
    kind = _geometry_kind(handle, POINTS, "the log")
    bounds = PREVIEW if preview else LARGE
    result, content = read("points", handle, bounds, kind=kind, rows=rows, preview=preview, most_bytes=MOST_LOG_UNPACKED)
    with np.load(io.BytesIO(content), allow_pickle=False) as columns:
        table = {name: columns[str(place)] for place, name in enumerate(result["names"], start=2)}
        return {LON: columns["0"], LAT: columns["1"]} | table


def text_in(file: UploadedFile, *, remedy: str) -> str:
    """A small table as text; refuses what is over the limit, no text, or not in UTF-8."""
    check_size(file, settings.UPLOAD_LIMIT_BYTES, label="The file", remedy=remedy)
    file.seek(0)
    content = file.read()
    try:
        if kind_of(content[:HEAD_BYTES]) in ("text", "geojson"):
            return _clean(content.decode("utf-8-sig"))
    except UnicodeDecodeError:
        pass
    raise Refusal(
        "missing",
        field="file",
        label="A readable table",
        remedy="The file is not UTF-8 text. Save it as “CSV UTF-8” and try again.",
    )


def _clean(text: str) -> str:
    """A text without signs that are none; refused with the line of the first one."""
    bad = first_bad_sign(text)
    if bad is not None:
        line = text[: text.index(bad)].count("\n") + 1
        raise Refusal("no_text", field="file", label=f"Line {line} of the file", value=f"U+{ord(bad):04X}")
    return text


def picture_in(file: UploadedFile) -> Picture:
    """A photograph, encoded anew."""
    check_size(file, settings.PHOTO_LIMIT_BYTES, label="The photograph", remedy="Take it with a lower resolution.")
    kind = kind_in(file)
    if kind not in PICTURES:
        raise Refusal(
            "unknown_choice", field="file", label="The photograph", value=name_of(file)[:40], limit="JPEG, PNG or WebP pictures"
        )
    result, content = read("photograph", file, kind=kind)
    return Picture(content=content, width=result["width"], height=result["height"])


def archive_in(file: UploadedFile, *, most_files: int, most_bytes: int) -> dict[str, bytes]:
    """The files of a zip by name."""
    check_size(file, settings.PACKAGE_LIMIT_BYTES, label="The package", remedy="Leave the raw logs out of it.")
    if kind_in(file) != "zip":
        raise Refusal(
            "bad_geometry",
            field="file",
            label="The package",
            value="it is no zip file",
            remedy="Save the trial again as a data package, and send that file as it is",
        )
    result, content = read("archive", file, most_files=most_files, most_bytes=most_bytes)
    files, at = {}, 0
    for name, size in result["sizes"].items():
        files[name] = content[at : at + size]
        at += size
    return files
