"""Between geographic files and the metres of a layout: frames, and strips written.

Every layout has a frame of its own: a transverse Mercator projection centred on the field, so that lengths and
areas on one farm are true within a few parts in a hundred thousand. Files carry longitude and latitude (WGS 84).
"""

from __future__ import annotations

import io
import tempfile
import zipfile
from collections.abc import Sequence
from functools import lru_cache
from pathlib import Path
from typing import Any

from cultrix_core.design.geometry import Ring
from pyproj import CRS, Transformer
from shapely.geometry import Polygon, mapping, shape

WGS84 = "EPSG:4326"


def frame_of(polygon: Polygon) -> str:
    """The frame of a layout on a field: a PROJ string to be stored with it."""
    middle = polygon.centroid
    return f"+proj=tmerc +lat_0={middle.y:.7f} +lon_0={middle.x:.7f} +k=1 +x_0=0 +y_0=0 +ellps=WGS84 +units=m +no_defs"


@lru_cache(maxsize=64)
def _transformer(frame: str, inward: bool) -> Transformer:
    local = CRS.from_proj4(frame)
    if inward:
        return Transformer.from_crs(WGS84, local, always_xy=True)
    return Transformer.from_crs(local, WGS84, always_xy=True)


def transformer_to(frame: str) -> Transformer:
    """From longitude and latitude to metres of a frame."""
    return _transformer(frame, True)


def to_metres(coordinates: Any, frame: str) -> Ring:
    """Longitude and latitude pairs as metres of a frame."""
    there = _transformer(frame, True)
    return tuple((float(x), float(y)) for x, y in (there.transform(*point[:2]) for point in coordinates))


def to_degrees(ring: Any, frame: str) -> list[list[float]]:
    """Metres of a frame as a closed ring of longitude and latitude, nine decimals (a tenth of a millimetre)."""
    back = _transformer(frame, False)
    points = [[round(value, 9) for value in back.transform(*point)] for point in ring]
    return points if not points or points[0] == points[-1] else [*points, points[0]]


def many_to_degrees(points: Sequence[tuple[float, float]], frame: str) -> list[tuple[float, float]]:
    """Many points in metres of a frame as longitude and latitude."""
    lon, lat = _transformer(frame, False).transform([x for x, _ in points], [y for _, y in points])
    return list(zip(lon, lat, strict=True))


FORMATS = {
    "geojson": ("GeoJSON", "application/geo+json"),
    "gpkg": ("GPKG", "application/geopackage+sqlite3"),
    "kml": ("KML", "application/vnd.google-earth.kml+xml"),
    "zip": ("ESRI Shapefile", "application/zip"),
}


def write_strips(rows: list[tuple[Polygon, dict[str, Any]]], form: str, *, name: str) -> bytes:
    """Strips with attributes as a file's bytes; ``form`` is a key of ``FORMATS``."""
    import geopandas  # noqa: PLC0415 - slow to import, needed by few requests

    frame = geopandas.GeoDataFrame([row for _, row in rows], geometry=[polygon for polygon, _ in rows], crs=WGS84)
    for column in frame.columns:
        if column.endswith(("_m2", "_kgha", "_cm", "_m", "_ha")):
            frame[column] = frame[column].astype(float)  # empty columns keep their type
    driver, _ = FORMATS[form]
    with tempfile.TemporaryDirectory() as folder:
        if form == "zip":
            frame.to_file(Path(folder) / "strips.shp", driver=driver, engine="pyogrio", encoding="UTF-8")
            buffer = io.BytesIO()
            with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
                for path in sorted(Path(folder).iterdir()):
                    archive.write(path, path.name)
            return buffer.getvalue()
        path = Path(folder) / f"strips.{form}"
        more = {"RFC7946": "YES", "COORDINATE_PRECISION": 9} if form == "geojson" else {}
        if form == "kml":
            frame = frame.rename(columns={"name": "label", "strip": "Name"})
            frame["Name"] = frame["Name"].astype(str)
        frame.to_file(path, driver=driver, engine="pyogrio", layer=name if form == "gpkg" else None, **more)
        return path.read_bytes()


def polygon_json(polygon: Polygon) -> dict[str, Any]:
    """A polygon as GeoJSON."""
    result: dict[str, Any] = mapping(polygon)
    return {"type": "Polygon", "coordinates": [[list(point[:2]) for point in ring] for ring in result["coordinates"]]}


def polygon_from(geometry: dict[str, Any]) -> Polygon:
    """GeoJSON as a polygon."""
    polygon = shape(geometry)
    assert isinstance(polygon, Polygon)
    return polygon
