"""A zipped Shapefile: the first one in the archive, read from memory by pyshp, which knows this one format only."""

from __future__ import annotations

import io
import struct
from collections.abc import Iterator
from typing import Any

import shapefile
import shapely
from shapely.geometry import shape
from shapely.geometry.base import BaseGeometry

from apps.intake.reader.archive import entries
from apps.intake.reader.features import Features, plain
from apps.intake.reader.refusal import refused, unreadable

MOST_FILES = 60
_PARTS = (".shp", ".shx", ".dbf", ".prj", ".cpg")


def read(content: bytes, *, most_bytes: int, **_: int) -> Features:
    """Shapes with their attributes; the coordinate system is that of the .prj file."""
    files = entries(content, most_files=MOST_FILES, most_bytes=most_bytes)
    stem = next((name[:-4] for name in files if name.lower().endswith(".shp")), None)
    if stem is None:
        raise refused("no .shp file in the zip", "Zip the .shp, .shx, .dbf and .prj files together.")
    parts = {
        name[len(stem) :].lower(): data
        for name, data in files.items()
        if name.lower().startswith(stem.lower()) and name[len(stem) :].lower() in _PARTS
    }
    _check_sizes(parts)
    system = parts.get(".prj", b"").decode("utf-8", "replace").strip()
    return Features(rows=_rows(parts), crs=system or None)


def _check_sizes(parts: dict[str, bytes]) -> None:
    """The head of a Shapefile says how long it is; one that says more than is there is broken or made to harm."""
    head = parts[".shp"][:100]
    if (
        len(head) < 100
        or struct.unpack(">i", head[:4])[0] != 9994
        or 2 * struct.unpack(">i", head[24:28])[0] > len(parts[".shp"])
    ):
        raise unreadable()


def _rows(parts: dict[str, bytes]) -> Iterator[tuple[BaseGeometry, dict[str, Any]]]:
    encoding = "utf-8" if b"8" in parts.get(".cpg", b"utf-8") else "latin-1"
    streams = {name[1:]: io.BytesIO(parts[name]) for name in (".shp", ".shx", ".dbf") if name in parts}
    try:
        with shapefile.Reader(**streams, encoding=encoding, encodingErrors="replace") as reader:
            with_rows = ".dbf" in parts
            for item in reader.iterShapeRecords() if with_rows else reader.iterShapes():
                result = item.shape if with_rows else item
                if result.shapeType == shapefile.NULL:
                    continue
                names = item.record.as_dict() if with_rows else {}
                yield shape(result.__geo_interface__), {key: plain(_unpadded(value)) for key, value in names.items()}
    except (
        shapefile.ShapefileException,
        shapely.errors.ShapelyError,
        struct.error,
        ValueError,
        TypeError,
        IndexError,
        KeyError,
        OverflowError,
        AttributeError,
        EOFError,
        OSError,
        MemoryError,
        UnicodeError,
    ) as error:
        raise unreadable() from error


def _unpadded(value: Any) -> Any:
    return value.strip() if isinstance(value, str) else value
