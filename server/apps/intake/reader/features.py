"""What the readers of geographic files have in common: features, their coordinate system, and the way to WGS 84."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from pyproj import CRS, Transformer
from pyproj.exceptions import ProjError
from shapely.geometry.base import BaseGeometry

from apps.intake.reader.refusal import refused

WGS84 = "EPSG:4326"
MOST_CORNERS = 100_000
_FILES_IN_WORDS = ("nadgrids", "geoidgrids", "parameterfile", "+init")


@dataclass(frozen=True, slots=True, kw_only=True)
class Features:
    """Features of one layer as they come. ``crs``: an authority's code, well-known text, or None where nothing is said."""

    rows: Iterator[tuple[BaseGeometry, dict[str, Any]]]
    crs: str | None


def system_of(text: str) -> CRS:
    """A coordinate system by code or well-known text; never one that names files."""
    if any(word in text.lower().split("authority")[0] for word in _FILES_IN_WORDS):
        raise refused("its coordinate system needs files of its own", "Export in WGS 84.")
    try:
        if text.upper().startswith("EPSG:"):
            return CRS.from_epsg(int(text[5:]))
        return CRS.from_wkt(text)
    except (ProjError, ValueError) as error:
        raise refused("its coordinate system is not known here", "Export in WGS 84.") from error


def gathered(features: Features, *, most: int, corners: int = MOST_CORNERS) -> list[tuple[BaseGeometry, dict[str, Any]]]:
    """Features in WGS 84, at most so many with at most so many corners; refuses what is no place on the earth."""
    result: list[tuple[BaseGeometry, dict[str, Any]]] = []
    left = corners
    for geometry, row in features.rows:
        if geometry is None or geometry.is_empty:
            continue
        if len(result) == most:
            raise refused(f"more than {most} shapes", "Export the one field only.")
        left -= int(shapely.get_num_coordinates(geometry))
        if left < 0:
            raise refused(f"more than {corners} corners", "Simplify the outlines, or export the one field only.")
        result.append((geometry, row))
    if not result:
        raise refused("no shapes in it", "Export the outline of the field, or the readings as points.")
    moved = _in_wgs84([geometry for geometry, _ in result], features.crs)
    return [(geometry, row) for geometry, (_, row) in zip(moved, result, strict=True)]


def _in_wgs84(geometries: list[BaseGeometry], crs: str | None) -> list[BaseGeometry]:
    flat = [shapely.force_2d(geometry) for geometry in geometries]
    xy = shapely.get_coordinates(flat)
    if not np.isfinite(xy).all() or np.abs(xy).max() > 1e8:
        raise refused("a coordinate in it is no place on the earth", "Draw the outline anew, and export it again.")
    if crs is None:
        if np.abs(xy[:, 0]).max() > 180 or np.abs(xy[:, 1]).max() > 90:
            raise refused("its coordinate system is not given", "Include the .prj file, or export in WGS 84.")
        return flat
    system = system_of(crs)
    if system.equals(CRS.from_epsg(4326), ignore_axis_order=True):
        return flat
    transform = Transformer.from_crs(system, WGS84, always_xy=True).transform
    moved = np.column_stack(transform(xy[:, 0], xy[:, 1]))
    if not np.isfinite(moved).all():
        raise refused("its coordinates do not lie in its coordinate system", "Export in WGS 84.")
    return list(shapely.set_coordinates(np.asarray(flat, dtype=object), moved))


def plain(value: Any) -> Any:
    """An attribute as text, number, or None: the rest of what formats can hold is not used here."""
    if value is None or isinstance(value, (bool, int, str)):
        return value if not isinstance(value, int) or abs(value) < 2**53 else str(value)
    if isinstance(value, float):
        return value if math.isfinite(value) else None
    return str(value)[:200]
