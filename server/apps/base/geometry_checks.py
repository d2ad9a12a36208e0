"""Whether a geometry is one of a field on the earth; knows neither Django nor files."""

from __future__ import annotations

import math

from cultrix_core.errors import Refusal
from shapely.geometry.base import BaseGeometry


def check_degrees(geometry: BaseGeometry, *, field: str = "file", label: str = "The file") -> None:
    """Refuse coordinates that are no longitude and latitude, or swapped ones."""
    order = "longitude first, in WGS 84" if field == "file" else "latitude first, then longitude"

    def bad(value: str) -> Refusal:
        return Refusal("bad_geometry", field=field, label=label, value=value, remedy=f"Coordinates are wanted {order}.")

    west, south, east, north = geometry.bounds
    if not all(math.isfinite(value) for value in (west, south, east, north)) or abs(south) > 90 or abs(north) > 90:
        swapped = all(abs(value) <= 90 for value in (west, east)) and all(abs(value) <= 180 for value in (south, north))
        raise bad("latitude and longitude look swapped" if swapped else "the coordinates are no longitude and latitude")
    if abs(west) > 180 or abs(east) > 180 or east - west > 1 or north - south > 1:
        raise bad("it spans more than a degree, far more than a field")
