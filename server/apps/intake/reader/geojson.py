"""GeoJSON and nothing that looks like it: RFC 7946, with the older member ``crs`` where it is a code and no link."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from typing import Any

import shapely
from shapely.geometry import shape
from shapely.geometry.base import BaseGeometry

from apps.intake.reader.features import Features, plain
from apps.intake.reader.refusal import refused, unreadable

_CODE = re.compile(r"(?:urn:ogc:def:crs:)?EPSG:(?:[\d.]*:)?(\d{3,6})", re.IGNORECASE)
_WGS84 = re.compile(r"(?:urn:ogc:def:crs:)?OGC:(?:[\d.]*:)?CRS84", re.IGNORECASE)
_SHAPES = ("Point", "MultiPoint", "LineString", "MultiLineString", "Polygon", "MultiPolygon", "GeometryCollection")


def read(content: bytes, **_: int) -> Features:
    """Features of a document."""
    try:
        document = json.loads(content.decode("utf-8-sig"), parse_constant=_no_constant)
    except (ValueError, RecursionError) as error:
        raise unreadable() from error
    if not isinstance(document, dict):
        raise unreadable()
    return Features(rows=_rows(document), crs=_system(document.get("crs")))


def _no_constant(name: str) -> None:
    raise ValueError(name)


def _system(crs: Any) -> str | None:
    if crs is None:
        return "EPSG:4326"
    name = crs.get("properties", {}).get("name") if isinstance(crs, dict) and crs.get("type") == "name" else None
    if not isinstance(name, str):
        raise refused("its coordinate system is a link and not a name", "Export in WGS 84.")
    if _WGS84.fullmatch(name):
        return "EPSG:4326"
    code = _CODE.fullmatch(name)
    if code is None:
        raise refused("its coordinate system is not known here", "Export in WGS 84.")
    return f"EPSG:{code[1]}"


def _rows(document: dict[str, Any]) -> Iterator[tuple[BaseGeometry, dict[str, Any]]]:
    kind = document.get("type")
    if kind == "FeatureCollection":
        features = document.get("features")
        if not isinstance(features, list):
            raise unreadable()
        for feature in features:
            if isinstance(feature, dict):
                yield from _rows(feature)
    elif kind == "Feature":
        geometry = document.get("geometry")
        if isinstance(geometry, dict):
            said = document.get("properties")
            names = said if isinstance(said, dict) else {}
            yield _geometry(geometry), {str(key)[:80]: plain(value) for key, value in names.items()}
    elif kind in _SHAPES:
        yield _geometry(document), {}
    else:
        raise unreadable()


def _geometry(result: dict[str, Any]) -> BaseGeometry:
    if result.get("type") not in _SHAPES:
        raise unreadable()
    try:
        return shape(result)
    except (ValueError, TypeError, IndexError, KeyError, AttributeError, RecursionError, shapely.errors.ShapelyError) as error:
        raise unreadable() from error
