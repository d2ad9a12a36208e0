"""Between geographic files and the metres of a layout: frames, boundaries read, strips written and read back.

Every layout has a frame of its own: a transverse Mercator projection centred on the field, so that lengths and
areas on one farm are true within a few parts in a hundred thousand. Files carry longitude and latitude (WGS 84).
"""

from __future__ import annotations

import io
import math
import tempfile
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING, Any

from cultrix_core.design.geometry import Ring, repaired
from cultrix_core.errors import Refusal
from pyproj import CRS, Transformer
from shapely import force_2d
from shapely.geometry import MultiPoint, Polygon, mapping, shape
from shapely.geometry.base import BaseGeometry
from shapely.ops import unary_union

if TYPE_CHECKING:
    import geopandas

WGS84 = "EPSG:4326"
MOST_FEATURES = 2_000
MOST_UNPACKED = 60_000_000
READABLE = (".geojson", ".json", ".gpkg", ".kml", ".zip")


@dataclass(frozen=True, slots=True, kw_only=True)
class Boundary:
    """A boundary in longitude and latitude, and what was done to it."""

    polygon: Polygon
    said: tuple[str, ...]


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


def read_boundary(name: str, content: bytes) -> Boundary:
    """The boundary in a GeoJSON, zipped Shapefile, KML or GeoPackage file.

    Raises
    ------
    Refusal : ``bad_geometry`` with the reason: not readable, no area, wrong coordinates.
    """
    frame = _read(name, content)
    polygons = [one for one in frame.geometry if one is not None and not one.is_empty and one.geom_type.endswith("Polygon")]
    if not polygons:
        raise _bad("no area in it", "Draw the field as a closed outline and save that.")
    said = [] if len(polygons) == 1 else [f"{len(polygons)} outlines in the file were joined."]
    joined = force_2d(polygons[0] if len(polygons) == 1 else unary_union(polygons))
    polygon, mended = repaired(joined)
    check_degrees(polygon)
    return Boundary(polygon=polygon, said=(f"Read from {name[:60]}.", *said, *mended))


def check_degrees(geometry: BaseGeometry, *, field: str = "file", label: str = "The file") -> None:
    """Refuse coordinates that are no longitude and latitude, or swapped ones."""
    order = "longitude first, in WGS 84" if field == "file" else "latitude first, then longitude"
    west, south, east, north = geometry.bounds
    if not all(math.isfinite(value) for value in (west, south, east, north)) or abs(south) > 90 or abs(north) > 90:
        swapped = all(abs(value) <= 90 for value in (west, east)) and all(abs(value) <= 180 for value in (south, north))
        why = "latitude and longitude look swapped" if swapped else "the coordinates are no longitude and latitude"
        raise _bad(why, f"Coordinates are wanted {order}.", field=field, label=label)
    if abs(west) > 180 or abs(east) > 180 or east - west > 1 or north - south > 1:
        raise _bad(
            "it spans more than a degree, far more than a field", f"Coordinates are wanted {order}.", field=field, label=label
        )


def _bad(value: str, remedy: str, *, field: str = "file", label: str = "The file") -> Refusal:
    return Refusal("bad_geometry", field=field, label=label, value=value, remedy=remedy)


def read_points(path: Path, suffix: str, *, rows: int, most_unpacked: int) -> geopandas.GeoDataFrame:
    """Points of a file in WGS 84; refuses other shapes."""
    frame = _opened(path, suffix, rows=rows, most_unpacked=most_unpacked)
    frame = frame[frame.geometry.notna() & ~frame.geometry.is_empty]
    if not len(frame) or not (frame.geometry.geom_type == "Point").all():
        raise _bad("its shapes are not points", "Export the readings as points.")
    check_degrees(MultiPoint([(west, south) for west, south in _corners(frame)]))
    return frame


def _corners(frame: geopandas.GeoDataFrame) -> tuple[tuple[float, float], tuple[float, float]]:
    west, south, east, north = (float(value) for value in frame.total_bounds)
    return (west, south), (east, north)


def _read(name: str, content: bytes) -> geopandas.GeoDataFrame:
    """Features of an uploaded file in WGS 84."""
    suffix = Path(name.lower()).suffix
    if suffix not in READABLE:
        raise _bad(f"“{suffix or name[:20]}” is not read here", "Use GeoJSON, a zipped Shapefile, KML or GeoPackage.")
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"upload{suffix}"
        path.write_bytes(content)
        frame = _opened(path, suffix, rows=MOST_FEATURES + 1, most_unpacked=MOST_UNPACKED)
    if len(frame) > MOST_FEATURES:
        raise _bad(f"more than {MOST_FEATURES} shapes", "Export the one field only.")
    return frame


def _opened(path: Path, suffix: str, *, rows: int, most_unpacked: int) -> geopandas.GeoDataFrame:
    """Features of a file on disk in WGS 84, at most so many."""
    import geopandas  # noqa: PLC0415 - slow to import, needed by few requests

    with tempfile.TemporaryDirectory() as folder:
        source = _unpacked(path, Path(folder), most_unpacked) if suffix == ".zip" else path
        try:
            frame = geopandas.read_file(source, engine="pyogrio", rows=rows)
        except Exception as error:  # the drivers raise many kinds; a person needs one sentence
            raise _bad("it could not be read as what its name says", "Export it anew, or choose another format.") from error
    if "geometry" not in frame or frame.geometry.isna().all():
        raise _bad("no shapes in it", "Export the outline of the field, or the readings as points.")
    if frame.crs is None:
        west, south, east, north = frame.total_bounds
        if max(abs(west), abs(east)) > 180 or max(abs(south), abs(north)) > 90:
            raise _bad("its coordinate system is not given", "Include the .prj file, or export in WGS 84.")
        return frame.set_crs(WGS84)
    return frame.to_crs(WGS84)


def _unpacked(path: Path, folder: Path, most: int) -> Path:
    """The shapefile in a zip, unpacked under known names; refuses bombs and strangers."""
    try:
        archive = zipfile.ZipFile(path)
    except zipfile.BadZipFile as error:
        raise _bad("it is no zip file", "Zip the .shp, .shx, .dbf and .prj files together.") from error
    with archive:
        members = [one for one in archive.infolist() if not one.is_dir()]
        if len(members) > 60 or sum(one.file_size for one in members) > most:
            raise _bad("it unpacks to far more than a field needs", "Export the one field only.")
        shapes = [one for one in members if one.filename.lower().endswith(".shp")]
        if not shapes:
            raise _bad("no .shp file in the zip", "Zip the .shp, .shx, .dbf and .prj files together.")
        stem = shapes[0].filename[:-4].lower()
        for one in members:
            lower = one.filename.lower()
            if lower[: len(stem)] == stem and lower[len(stem) :] in (".shp", ".shx", ".dbf", ".prj", ".cpg"):
                (folder / f"shape{lower[len(stem) :]}").write_bytes(archive.read(one))
    return folder / "shape.shp"


def rows_of(name: str, content: bytes) -> list[tuple[Polygon, dict[str, Any]]]:
    """Polygons with their attributes, names in lower case: for a finished layout."""
    found = []
    for record in _read(name, content).to_dict("records"):
        geometry = record.pop("geometry", None)
        if geometry is None or geometry.is_empty or not geometry.geom_type.endswith("Polygon"):
            continue
        polygon, _ = repaired(force_2d(geometry))
        check_degrees(polygon)
        found.append((polygon, {str(key).lower(): value for key, value in record.items()}))
    return found


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
    found: dict[str, Any] = mapping(polygon)
    return {"type": "Polygon", "coordinates": [[list(point[:2]) for point in ring] for ring in found["coordinates"]]}


def polygon_from(geometry: dict[str, Any]) -> Polygon:
    """GeoJSON as a polygon."""
    found = shape(geometry)
    assert isinstance(found, Polygon)
    return found
