"""A trial as a row of a list, and a strip as the ribbon draws it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any, cast

from apps.base.formatting import ShownOut, shown
from apps.trial_state.stages import Stage
from apps.trial_state.view import TrialView
from apps.trials.models import Strip
from apps.trials.naming import treatment_name
from apps.trials.schemas import StageOut, StripOut


def strip_out(view: TrialView, strip: Strip) -> StripOut:
    """A strip with what the ribbon draws on it; the working of its money is the trial's own page's."""
    records, show = view.records[strip.id], view.show
    received = next(treatment for treatment in view.treatments if treatment.id == strip.received.id)
    budget = view.budget_of(strip)
    return StripOut(
        id=strip.id,
        order=strip.order,
        block=strip.block.number,
        block_name=strip.block.name or f"Block {strip.block.number}",
        treatment_id=strip.treatment_id,
        received_id=received.id,
        main=strip.main,
        column=strip.column,
        row=strip.row,
        place=_place(view, strip),
        area=shown(strip.area_m2, "area", show),
        lost=strip.lost,
        reason=strip.reason,
        width=shown(strip.width.value, "strip_width", show),
        length=shown(strip.length.value, "strip_length", show),
        sown=records.sown,
        sown_on=records.sown_on,
        depths=records.depths,
        depth=shown(records.depth_m, "depth", show),
        deviations=list(records.deviations),
        events=list(records.events),
        counts=records.counts,
        stand=shown(records.plants_per_m2, "density", show),
        samples=records.samples,
        estimate=shown(records.estimate.value, "yield", show) if records.estimate else None,
        loads=records.loads,
        yield_=shown(records.yield_kg_per_ha, "yield", show),
        net_return=shown(None if budget is None else budget.net_per_ha, "net_return", show),
        net_return_working=None,
    )


def _place(view: TrialView, strip: Strip) -> list[float] | None:
    if not strip.ring:
        return None
    turn = math.radians(float(view.trial.plan.get("heading_deg", 0.0)))
    across = [x * math.cos(turn) - y * math.sin(turn) for x, y in strip.ring]
    along = [x * math.sin(turn) + y * math.cos(turn) for x, y in strip.ring]
    edges = (min(across), min(along), max(across), max(along))
    return [round(edge, 2) for edge in edges]


def stages_out(stages: Sequence[Stage]) -> list[StageOut]:
    """The season line."""
    return [StageOut(key=stage.key, label=stage.label, state=cast(Any, stage.state), note=stage.note) for stage in stages]


LAYERS = ("depth", "stand", "estimate", "yield_", "net_return")
FLAGS = {"lost": 1, "deviations": 2, "events": 4}
SCALE = 1000  # places on a small ribbon are told in thousandths of its box


EMPTY_RIBBON: dict[str, Any] = {
    name: [] for name in ("blocks", "planned", "received", "flags", "main", "columns", "rows", "places")
} | {"layers": {}}


def fixed_part(view: TrialView) -> dict[str, Any]:
    """What of a trial's row changes with the trial only, as JSON has it; the season line goes with the day."""
    return {
        "treatments": [treatment_name(treatment, view.show) for treatment in view.treatments],
        "letters": [treatment.letter for treatment in view.treatments],
        "ribbon": _ribbon(view),
    }


def _ribbon(view: TrialView) -> dict[str, Any]:
    """The strips in columns, one entry a strip in field order; ``layers``: what may be drawn over them."""
    number = {treatment.id: index for index, treatment in enumerate(view.treatments)}
    strips = [strip_out(view, strip) for strip in view.strips]
    return {
        "blocks": [strip.block for strip in strips],
        "planned": [number[strip.treatment_id] for strip in strips],
        "received": [number[strip.received_id] for strip in strips],
        "flags": [sum(bit for name, bit in FLAGS.items() if getattr(strip, name)) for strip in strips],
        "main": [strip.main for strip in strips],
        "columns": [strip.column for strip in strips],
        "rows": [strip.row for strip in strips],
        "places": _places([strip.place for strip in strips]),
        "layers": {layer: _layer([getattr(strip, layer) for strip in strips]) for layer in LAYERS},
    }


def _layer(values: Sequence[ShownOut | None]) -> list[float | None]:
    """Values of a layer to three digits of their span, more than a small column shows; nothing where no strip has one."""
    known = [value.value for value in values if value is not None]
    if not known:
        return []
    span = max(known) - min(known) or abs(known[0]) or 1.0
    digits = max(0, 3 - math.floor(math.log10(span)))
    return [None if value is None else round(value.value, digits) for value in values]


def _places(places: Sequence[list[float] | None]) -> list[list[int]]:
    """Edges of the strips (left, near, right, far) in thousandths of the ground they cover; none unless all are placed."""
    placed = [place for place in places if place is not None]
    if not placed or len(placed) < len(places):
        return []
    left, near = min(place[0] for place in placed), min(place[1] for place in placed)
    wide = max(place[2] for place in placed) - left or 1.0
    far = max(place[3] for place in placed) - near or 1.0
    return [
        [
            round(SCALE * (place[0] - left) / wide),
            round(SCALE * (place[1] - near) / far),
            round(SCALE * (place[2] - left) / wide),
            round(SCALE * (place[3] - near) / far),
        ]
        for place in placed
    ]
