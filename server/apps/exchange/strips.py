"""Strips to files and back.

Field names fit the ten letters a Shapefile allows and are the same in every format, so nothing is renamed:

    strip, block, main, col, row   whole numbers        treat   letter        name    text
    rate_m2 (seeds/m²), rate_kgha, row_cm, depth_cm     numbers, empty where not known
    width_m, length_m, area_ha                          numbers
    design, seed                                        text (a seed has more digits than a Shapefile number)

KML keeps ``strip`` as the name of the placemark, so ``name`` is ``label`` there, and its whole numbers come back
as text; reading a layout turns them into numbers again. GeoJSON, GeoPackage and KML carry nine decimals of a
degree, a tenth of a millimetre.
"""

from __future__ import annotations

import math
from typing import Any, cast
from uuid import UUID

from cultrix_core.design.designs import KEYS
from cultrix_core.design.geometry import Placed, PlacedStrip, longest_side_heading
from cultrix_core.design.randomise import PlannedStrip
from cultrix_core.errors import Refusal
from cultrix_core.seeding.rates import kg_per_ha
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from shapely import union_all
from shapely.geometry import Polygon

from apps.accounts.models import User
from apps.base.quantities import MeasuredValue, TypedIn
from apps.exchange.csv_files import csv_text
from apps.geography import frames
from apps.intake.quota import admit
from apps.intake.services import name_of, strips_in
from apps.trial_state.view import TrialView
from apps.trials.editing import require_loose_layout, saved, take_up_layout, writable
from apps.trials.layout import ground_of, lay_strips
from apps.trials.models import LayoutDraw, Strip, Treatment, Trial
from apps.trials.naming import treatment_name
from apps.trials.queries import treatments_of

Row = dict[str, Any]
NUMBERS = ("strip", "block", "main", "col", "row")
NAMES = {
    "treat": ("treat", "treatment", "trt", "variant", "var"),
    "strip": ("strip", "strip_id", "name", "id"),
    "block": ("block", "rep", "replicate"),
}


def attributes(view: TrialView, strip: Strip) -> Row:
    """What a file says of one strip."""
    treatment = strip.treatment
    rate, spacing = view.seeds_per_m2(treatment), view.row_spacing_m(treatment)
    depth = view.depth_m(treatment)
    weight = view.lot(treatment).thousand_seed_weight_g
    return {
        "strip": strip.order,
        "block": strip.block.number,
        "main": strip.main,
        "col": strip.column,
        "row": strip.row,
        "treat": treatment.letter,
        "name": treatment_name(treatment, view.show),
        "rate_m2": _rounded(rate, 4),
        "rate_kgha": _rounded(kg_per_ha(rate, thousand_seed_weight_g=weight) if rate and weight else None, 4),
        "row_cm": _rounded(spacing and spacing * 100, 3),
        "depth_cm": _rounded(depth and depth * 100, 3),
        "width_m": _rounded(strip.width.value, 3),
        "length_m": _rounded(strip.length.value, 2),
        "area_ha": _rounded(strip.area_m2 and strip.area_m2 / 1e4, 5),
        "design": view.trial.design,
        "seed": str(view.trial.seed or ""),
    }


def _rounded(value: float | None, decimals: int) -> float | None:
    return None if value is None else round(float(value), decimals)


def file_of(view: TrialView, form: str) -> tuple[bytes, str]:
    """Strips as a file of a format, with its content type. Geographic formats need a placed layout on the globe."""
    if not view.strips:
        raise Refusal("missing", field="layout", label="A layout", remedy="Draw the strips first.")
    rows = [attributes(view, strip) for strip in view.strips]
    if form == "csv":
        text = csv_text(list(rows[0]), [list(row.values()) for row in rows])
        return text.encode(), "text/csv; charset=utf-8"
    if form not in frames.FORMATS:
        raise Refusal("unknown_choice", field="format", value=form, limit=", ".join([*frames.FORMATS, "csv", "pdf"]))
    frame = view.trial.plan.get("frame")
    if not frame or view.strips[0].ring is None:
        raise Refusal(
            "missing",
            field="field",
            label="A boundary with longitude and latitude",
            remedy="Give the field its boundary in Setup and draw anew. CSV and the print work without.",
        )
    polygons = [(Polygon(frames.to_degrees(strip.ring, frame)), row) for strip, row in zip(view.strips, rows, strict=True)]
    return frames.write_strips(polygons, form, name="strips"), frames.FORMATS[form][1]


def import_layout(user: User, trial_id: UUID, version: int, file: UploadedFile, amendment: str = "") -> Trial:
    """A finished layout from a file: strips as outlines, with their treatment. All of it or nothing."""
    trial = writable(user, trial_id, version)
    require_loose_layout(trial, "The layout")  # before any work on the file
    admit(user, trial.workspace, "layout", file.size or 0)
    rows = strips_in(file)
    plan, polygons = _planned(rows, list(treatments_of(trial)))
    frame, placed, boundary = _placed(trial, plan, polygons)  # slow work on shapes: outside the transaction
    with transaction.atomic():
        trial = writable(user, trial_id, version)
        take_up_layout(trial, "The layout")
        treatments = list(treatments_of(trial))
        design = _design_of(rows, plan, len(treatments))
        trial.design, trial.seed, trial.drawn = design, None, False
        trial.plan = {
            "asked": {"design": design, "blocks": len({strip.block for strip in plan})},
            "record": ["Read from a file; the order is the file's and was not drawn here."],
            "frame": frame,
            "heading_deg": placed.heading_deg,
            "boundary": boundary,
            "obstacles": [],
            "no_go": [],
            "guards": [],
            "bands": placed.bands,
            "remarks": list(placed.remarks),
        }
        by_id = {str(treatment.id): treatment for treatment in treatments}
        strips = lay_strips(user, trial, plan, by_id, TypedIn(), TypedIn(), placed=placed)
        for strip, on_ground in zip(strips, placed.strips, strict=True):
            width_m = round(on_ground.area_m2 / on_ground.length_m, 3)
            strip.width = MeasuredValue(f"{width_m:g}", "m", width_m)
            strip.save()
        LayoutDraw.objects.create(trial=trial, by=user, design=design, seed=None, said=f"Read from {name_of(file)[:60]}.")
        return saved(trial, user, "layout from a file", amendment)


def _value(row: Row, name: str) -> Any:
    for known in NAMES.get(name, (name,)):
        value = row.get(known)
        if value is not None and value == value and str(value).strip():
            return value
    return None


def _whole(value: Any) -> int | None:
    try:
        return int(float(str(value)))
    except ValueError:
        return None


def _planned(rows: list[tuple[Polygon, Row]], treatments: list[Treatment]) -> tuple[list[PlannedStrip], list[Polygon]]:
    if not 2 <= len(rows) <= 400:
        raise _bad(f"{len(rows)} strips in it", "A layout has two to 400 outlines, one for each strip.")
    known = {one.letter.lower(): one for one in treatments}
    for item in treatments:
        known.setdefault(" · ".join(level.amount.text or level.name for level in item.levels.all()).lower(), item)
    result = []
    for place, (polygon, row) in enumerate(rows, start=1):
        text = str(_value(row, "treat") or "").strip()
        treatment = known.get(text.lower())
        if treatment is None:
            letters = ", ".join(one.letter for one in treatments)
            why = f"shape {place} names no treatment" if not text else f"shape {place} names treatment “{text[:30]}”"
            raise _bad(why, f"Its column “treat” must hold one of {letters}.")
        order = _whole(_value(row, "strip")) or place
        result.append(
            (
                PlannedStrip(
                    order=order,
                    block=_whole(_value(row, "block")) or 1,
                    treatment=str(treatment.id),
                    main=_whole(row.get("main")) or 0,
                    column=_whole(row.get("col")) or order,
                    row=_whole(row.get("row")) or 1,
                ),
                polygon,
            )
        )
    result.sort(key=lambda pair: pair[0].order)
    orders = [planned.order for planned, _ in result]
    if len(set(orders)) != len(orders):
        raise _bad("two strips share a number", "Number the strips from 1 in the column “strip”.")
    return [planned for planned, _ in result], [polygon for _, polygon in result]


def _design_of(rows: list[tuple[Polygon, Row]], plan: list[PlannedStrip], treatments: int) -> str:
    text = str(rows[0][1].get("design") or "")
    if text in KEYS:
        return text
    blocks: dict[int, list[str]] = {}
    for strip in plan:
        blocks.setdefault(strip.block, []).append(strip.treatment)
    if len(blocks) == 1:
        return "unreplicated" if len(plan) == len({strip.treatment for strip in plan}) else "crd"
    if any(len(set(members)) < treatments for members in blocks.values()):
        raise _bad("a block lacks a treatment", "Every block needs every treatment; number blocks in the column “block”.")
    return "rcbd"


def _placed(trial: Trial, plan: list[PlannedStrip], polygons: list[Polygon]) -> tuple[str, Placed, list[list[float]]]:
    site = ground_of(trial.field)
    georeferenced = site is not None and site[1] != ""
    frame = site[1] if georeferenced and site else frames.frame_of(polygons[0])
    rings = [frames.to_metres(list(polygon.exterior.coords)[:-1], frame) for polygon in polygons]
    shapes = [Polygon(ring) for ring in rings]
    for number, shape in enumerate(shapes):
        for other in range(number + 1, len(shapes)):
            if shape.intersection(shapes[other]).area > 0.01 * min(shape.area, shapes[other].area):
                raise _bad(
                    f"strips {plan[number].order} and {plan[other].order} lie over each other", "Draw them side by side."
                )
    heading = longest_side_heading(rings[0])
    remarks = []
    if georeferenced and site:
        outline = Polygon(site[0].boundary).buffer(0.5)
        outside = [strip.order for strip, shape in zip(plan, shapes, strict=True) if not outline.contains(shape)]
        if outside:
            remarks.append(f"Strips {', '.join(map(str, outside))} reach outside the field's boundary.")
        boundary = [list(point) for point in site[0].boundary]
    else:
        hull = cast(Polygon, union_all(shapes).convex_hull)
        boundary = [[float(x), float(y)] for x, y in list(hull.exterior.coords)[:-1]]
    strips = tuple(
        PlacedStrip(
            order=strip.order,
            ring=ring,
            swath=ring,
            length_m=_length(shape),
            area_m2=float(shape.area),
            centre=(float(shape.centroid.x), float(shape.centroid.y)),
        )
        for strip, ring, shape in zip(plan, rings, shapes, strict=True)
    )
    return (
        frame,
        Placed(
            strips=strips,
            guards=(),
            bands=len(strips),
            longest_m=min(strip.length_m for strip in strips),
            heading_deg=heading,
            remarks=tuple(remarks),
        ),
        boundary,
    )


def _length(shape: Polygon) -> float:
    corners = list(cast(Polygon, shape.minimum_rotated_rectangle).exterior.coords)
    return max(math.dist(corners[0], corners[1]), math.dist(corners[1], corners[2]))


def _bad(value: str, remedy: str) -> Refusal:
    return Refusal("bad_geometry", field="file", label="The layout", value=value, remedy=remedy)
