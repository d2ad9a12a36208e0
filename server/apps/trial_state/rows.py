"""A trial as a row of a list, and a strip as the ribbon draws it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any, cast

from apps.base.formatting import shown
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


def fixed_part(view: TrialView) -> dict[str, Any]:
    """What of a trial's row changes with the trial only, as JSON has it; the season line goes with the day."""
    return {
        "treatments": [treatment_name(treatment, view.show) for treatment in view.treatments],
        "treatment_letters": {str(treatment.id): treatment.letter for treatment in view.treatments},
        "strips": [strip_out(view, strip).model_dump(mode="json") for strip in view.strips],
    }
