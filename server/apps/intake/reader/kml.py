"""KML: placemarks with outlines or points. No document type, no entity, no link is followed (defusedxml)."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any
from xml.etree.ElementTree import Element, ParseError

import shapely
from defusedxml import ElementTree
from defusedxml.common import DefusedXmlException
from shapely.geometry import GeometryCollection, LineString, MultiPoint, MultiPolygon, Point, Polygon
from shapely.geometry.base import BaseGeometry

from apps.intake.reader.features import Features, plain
from apps.intake.reader.refusal import refused, unreadable


def read(content: bytes, **_: int) -> Features:
    """Placemarks of a document."""
    try:
        root = ElementTree.fromstring(content, forbid_dtd=True)
    except (ParseError, DefusedXmlException, ValueError, LookupError) as error:
        raise unreadable() from error
    if _name(root) != "kml":
        raise unreadable()
    placemarks = [item for item in root.iter() if _name(item) == "Placemark"]
    if not placemarks and any(_name(item) == "NetworkLink" for item in root.iter()):
        raise refused("it only links to another file", "Save the outline itself, not a link to it.")
    return Features(rows=_rows(placemarks), crs="EPSG:4326")  # by the standard, OGC 12-007r2


def _name(element: Element) -> str:
    return element.tag.rsplit("}", 1)[-1] if isinstance(element.tag, str) else ""


def _child(element: Element, name: str) -> Element | None:
    return next((item for item in element if _name(item) == name), None)


def _rows(placemarks: list[Element]) -> Iterator[tuple[BaseGeometry, dict[str, Any]]]:
    for placemark in placemarks:
        shapes = [geometry for element in placemark for geometry in _shapes(element)]
        if shapes:
            yield _together(shapes), _attributes(placemark)


def _shapes(element: Element, depth: int = 0) -> list[BaseGeometry]:
    kind = _name(element)
    if kind == "MultiGeometry" and depth < 8:
        return [geometry for item in element for geometry in _shapes(item, depth + 1)]
    try:
        if kind == "Point":
            return [Point(point) for point in _points(_child(element, "coordinates"))[:1]]
        if kind == "LineString":
            return [LineString(_points(_child(element, "coordinates")))]
        if kind == "Polygon":
            outer = [ring for item in element if _name(item) == "outerBoundaryIs" for ring in _rings(item)]
            inner = [ring for item in element if _name(item) == "innerBoundaryIs" for ring in _rings(item)]
            return [Polygon(outer[0], inner)] if outer else []
    except (ValueError, IndexError, shapely.errors.ShapelyError) as error:
        raise unreadable() from error
    return []


def _rings(boundary: Element) -> list[list[tuple[float, float]]]:
    return [_points(_child(ring, "coordinates")) for ring in boundary if _name(ring) == "LinearRing"]


def _points(coordinates: Element | None) -> list[tuple[float, float]]:
    if coordinates is None or not coordinates.text:
        return []
    points = []
    for part in coordinates.text.split():
        west, north, *_ = part.split(",")
        points.append((float(west), float(north)))
    return points


def _together(shapes: list[BaseGeometry]) -> BaseGeometry:
    if len(shapes) == 1:
        return shapes[0]
    polygons = [shape for shape in shapes if isinstance(shape, Polygon)]
    points = [shape for shape in shapes if isinstance(shape, Point)]
    if len(polygons) == len(shapes):
        return MultiPolygon(polygons)
    return MultiPoint(points) if len(points) == len(shapes) else GeometryCollection(shapes)


def _attributes(placemark: Element) -> dict[str, Any]:
    """Name of the placemark and its extended data, numbers where they are written as numbers."""
    attributes: dict[str, Any] = {}
    name = _child(placemark, "name")
    if name is not None and name.text:
        attributes["Name"] = plain(name.text.strip())
    for element in placemark.iter():
        if _name(element) == "SimpleData":
            attributes[element.get("name", "")[:80]] = _value(element.text)
        elif _name(element) == "Data":
            value = _child(element, "value")
            attributes[element.get("name", "")[:80]] = _value(value.text if value is not None else None)
    return attributes


def _value(text: str | None) -> Any:
    said = (text or "").strip()
    try:
        return float(said)
    except ValueError:
        return plain(said) or None
