"""Treatments compared over strips in any measured value: one value a strip, the trial's own design."""

from __future__ import annotations

from collections.abc import Mapping
from uuid import UUID

from cultrix_core.errors import Refusal
from cultrix_core.stats.compare import Comparison, StripResponse, compare

from apps.base.formatting import ShownOut, shown
from apps.field.season.schemas import TreatmentValueOut
from apps.trial_state.view import TrialView
from apps.trials.models import Strip

SPLIT_WORDS = "A split layout: means only; comparisons by factor, with the errors of its strips, are made of yields."
LOOK_WORDS = "One strip a treatment: described, no interval."


def compared(view: TrialView, values: Mapping[UUID, float]) -> Comparison | None:
    """Treatments compared over strips; None for split layouts and where nothing can be compared."""
    if view.design.split:
        return None
    rows = [
        StripResponse(
            treatment=str(strip.received.id),
            block=str(strip.block.number),
            row=str(strip.row),
            response=values[strip.id],
            label=f"Strip {strip.order}",
        )
        for strip in standing_strips(view)
        if strip.id in values
    ]
    present = {row.treatment for row in rows}
    control = str(view.control.id) if view.control and str(view.control.id) in present else None
    try:
        return compare(rows, design=view.design.family, alpha=view.trial.alpha, control=control)
    except Refusal:
        return None


def standing_strips(view: TrialView) -> list[Strip]:
    return [strip for strip in view.strips if not strip.lost]


def treatment_values(
    view: TrialView, values: Mapping[UUID, float], comparison: Comparison | None, kind: str, *, decimals: int | None = None
) -> list[TreatmentValueOut]:
    """Means by treatment, with differences to the control where the comparison gives them."""
    result = []
    differences = {item.left: item for item in comparison.to_control} if comparison and comparison.replicated else {}
    means = {item.level: item.mean for item in comparison.means} if comparison else {}
    for treatment in view.treatments:
        own = [values[strip.id] for strip in standing_strips(view) if strip.received.id == treatment.id and strip.id in values]
        mean = means.get(str(treatment.id), sum(own) / len(own) if own else None)
        difference = differences.get(str(treatment.id))

        def told(value: float | None, *, signed: bool = False) -> ShownOut | None:
            return shown(value, kind, view.show, signed=signed, decimals=decimals)

        result.append(
            TreatmentValueOut(
                treatment_id=treatment.id,
                strips=len(own),
                mean=told(mean),
                difference=told(difference.estimate, signed=True) if difference else None,
                lower=told(difference.lower, signed=True) if difference else None,
                upper=told(difference.upper, signed=True) if difference else None,
            )
        )
    return result


def words_of(view: TrialView, comparison: Comparison | None) -> str:
    """What kind of answer it is, in a few words."""
    if view.design.split:
        return SPLIT_WORDS
    if comparison is None or not comparison.replicated:
        return LOOK_WORDS
    level = 100 * (1 - view.trial.alpha)
    return f"Means of strips; differences to the control with their {level:.0f} % interval. Described, not called."
