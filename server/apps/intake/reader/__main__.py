"""Read one uploaded file: ``python -I server/apps/intake/reader TASK``, the file on standard input.

The answer goes to standard output: one line of JSON (what was found, or a refusal as code and parameters), then bytes where
the task has any. Confined before the first byte is looked at; see ``confine``.
"""

from __future__ import annotations

import io
import json
import sys
from importlib import import_module
from pathlib import Path
from typing import Any

sys.path[:0] = [str(Path(__file__).resolve().parents[3]), str(Path(__file__).resolve().parents[4] / "core")]

from cultrix_core.errors import Refusal  # noqa: E402 - the sources are found by the line above

BOUNDARY_SHAPES = 2_000
STRIP_SHAPES = 400
STRIP_CORNERS = 20_000


def _features(kind: str, content: bytes, *, rows: int, most_bytes: int) -> Any:
    """One file a format, named after its kind."""
    reader = import_module(f"apps.intake.reader.{ {'zip': 'shapefile_zip'}.get(kind, kind) }")
    return reader.read(content, rows=rows, most_bytes=most_bytes)


def boundary(content: bytes, task: dict[str, Any]) -> tuple[dict[str, Any], bytes]:
    """The outline of a field: all outlines of the file joined, sound, in longitude and latitude."""
    import shapely
    from cultrix_core.design.geometry import repaired
    from shapely.ops import unary_union

    from apps.base.geometry_checks import check_degrees
    from apps.intake.reader.features import gathered
    from apps.intake.reader.refusal import refused

    features = _features(task["kind"], content, rows=BOUNDARY_SHAPES + 1, most_bytes=task["most_bytes"])
    outlines = [geometry for geometry, _ in gathered(features, most=BOUNDARY_SHAPES) if geometry.geom_type.endswith("Polygon")]
    if not outlines:
        raise refused("no area in it", "Draw the field as a closed outline and save that.")
    sentences = [] if len(outlines) == 1 else [f"{len(outlines)} outlines in the file were joined."]
    polygon, mended = repaired(outlines[0] if len(outlines) == 1 else unary_union(outlines))
    check_degrees(polygon)
    return {"polygon": json.loads(shapely.to_geojson(polygon)), "said": [*sentences, *mended]}, b""


def strips(content: bytes, task: dict[str, Any]) -> tuple[dict[str, Any], bytes]:
    """Outlines of strips with their attributes, names in lower case."""
    import shapely
    from cultrix_core.design.geometry import repaired

    from apps.base.geometry_checks import check_degrees
    from apps.intake.reader.features import gathered

    features = _features(task["kind"], content, rows=STRIP_SHAPES + 1, most_bytes=task["most_bytes"])
    rows = []
    for outline, names in gathered(features, most=STRIP_SHAPES, corners=STRIP_CORNERS):
        if outline.geom_type.endswith("Polygon"):
            polygon, _ = repaired(outline)
            check_degrees(polygon)
            values = {str(key).lower(): value for key, value in names.items()}
            rows.append({"polygon": json.loads(shapely.to_geojson(polygon)), "values": values})
    return {"rows": rows}, b""


def points(content: bytes, task: dict[str, Any]) -> tuple[dict[str, Any], bytes]:
    """Readings of a log: columns by name, longitude and latitude first, as NumPy's archive without objects."""
    import numpy as np
    import shapely
    from shapely.geometry import MultiPoint

    from apps.base.geometry_checks import check_degrees
    from apps.intake.reader.features import gathered
    from apps.intake.reader.refusal import refused

    most = int(task["rows"])
    features = _features(task["kind"], content, rows=most + 1, most_bytes=task["most_bytes"])
    if task.get("preview"):
        features = type(features)(rows=_first(features.rows, most), crs=features.crs)
    result = gathered(features, most=most, corners=most)
    if any(geometry.geom_type != "Point" for geometry, _ in result):
        raise refused("its shapes are not points", "Export the readings as points.")
    xy = shapely.get_coordinates([geometry for geometry, _ in result])
    check_degrees(MultiPoint([xy.min(axis=0), xy.max(axis=0)]))
    names = list(dict.fromkeys(name for _, row in result for name in row))[:200]
    columns = {"0": xy[:, 0], "1": xy[:, 1]}
    for place, name in enumerate(names, start=2):
        columns[str(place)] = _column(np, [row.get(name) for _, row in result])
    out = io.BytesIO()
    np.savez(out, allow_pickle=False, **columns)
    return {"names": names, "readings": len(result)}, out.getvalue()


def _first(rows: Any, most: int) -> Any:
    for _, row in zip(range(most), rows, strict=False):
        yield row


def _column(np: Any, values: list[Any]) -> Any:
    if all(isinstance(value, (int, float)) or value is None for value in values):
        return np.array([np.nan if value is None else float(value) for value in values])
    return np.array(["" if value is None else str(value)[:64] for value in values], dtype="U64")


def photograph(content: bytes, task: dict[str, Any]) -> tuple[dict[str, Any], bytes]:
    """A photograph encoded anew."""
    from apps.intake.reader.picture import clean

    picture, width, height = clean(content, form=task["kind"].upper())
    return {"width": width, "height": height}, picture


def archive(content: bytes, task: dict[str, Any]) -> tuple[dict[str, Any], bytes]:
    """The files of a data package, one after another."""
    from apps.intake.reader.archive import entries

    result = entries(content, most_files=task["most_files"], most_bytes=task["most_bytes"])
    return {"sizes": {name: len(data) for name, data in result.items()}}, b"".join(result.values())


TASKS = {"boundary": boundary, "strips": strips, "points": points, "photograph": photograph, "archive": archive}


def _imports(name: str) -> None:
    """What a task needs is loaded before the process is confined, so that nothing is looked up later."""
    if name == "photograph":
        from PIL import ImageOps, JpegImagePlugin, PngImagePlugin, WebPImagePlugin  # noqa: F401
    elif name == "archive":
        import zipfile  # noqa: F401
    else:
        import shapefile  # noqa: F401
        from cultrix_core.design.geometry import repaired  # noqa: F401
        from pyproj import CRS

        from apps.base.geometry_checks import check_degrees  # noqa: F401
        from apps.intake.reader import features, geojson, geopackage, kml  # noqa: F401

        CRS.from_epsg(4326)


def main() -> int:
    from apps.intake.reader.confine import confine

    task = json.loads(sys.argv[1])
    _imports(task["task"])
    confine(memory_bytes=task["memory_bytes"], seconds=task["seconds"])
    try:
        result, content = TASKS[task["task"]](sys.stdin.buffer.read(), task)
        head = json.dumps({"found": result})
    except Refusal as refusal:
        head, content = json.dumps({"refusal": [refusal.code, refusal.field, _said(refusal)]}), b""
    except MemoryError:
        head, content = json.dumps({"swelled": True}), b""
    sys.stdout.buffer.write(head.encode() + b"\n" + content)
    sys.stdout.buffer.flush()
    return 0


def _said(refusal: Refusal) -> dict[str, str]:
    return {key: str(value) for key, value in refusal.params.items()}


if __name__ == "__main__":
    raise SystemExit(main())
