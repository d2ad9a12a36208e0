"""Second looks at a comparison of treatments, in sentences: by ranks, on the logarithmic scale, and for uneven ground."""

from __future__ import annotations

from collections.abc import Sequence

from cultrix_core.errors import Refusal
from cultrix_core.stats.compare import Comparison, StripResponse
from cultrix_core.stats.field_trend import TrendDifference, neighbours, smooth_trend
from cultrix_core.stats.second_looks import BackRatio, rank_test, transformed
from cultrix_core.unit_formatting import format_number

from apps.analysis.verdict.responses import kind_of, strips_with, value_of
from apps.trial_state.view import TrialView

NEVER = "A second look never makes the call."


def second_looks(view: TrialView, result: Comparison, response: str) -> list[str]:
    """Sentences; empty where the layout or the values allow none."""
    if not result.replicated or not result.mse:
        return []
    of = value_of(view, response)
    strips = [(strip, value) for strip in strips_with(view, response) if (value := of(view, strip)) is not None]
    rows = [
        StripResponse(
            treatment=str(strip.received.id),
            block=str(strip.block.number),
            row=str(strip.row),
            response=value,
            position=float(strip.order),
        )
        for strip, value in strips
    ]
    ranks = rank_test(rows, blocked=view.design.blocking != "none") if view.design.blocking != "rows_and_columns" else None
    names = [f"{ranks.name}. {ranks.words}"] if ranks is not None else []
    if response == "yield" and result.to_control:
        names += _logs(view, rows, result)
    names += _ground(view, rows, result, response)
    return [*names, NEVER] if names else []


def _logs(view: TrialView, rows: list[StripResponse], result: Comparison) -> list[str]:
    control = result.to_control[0].right
    try:
        looked = transformed(
            rows,
            "log",
            design=view.design.family,
            alpha=view.trial.alpha,
            control=control,
            levels=[str(treatment.id) for treatment in view.treatments],
        )
    except Refusal:
        return []
    by_id = {str(treatment.id): treatment.letter for treatment in view.treatments}
    plain = {difference.left: difference for difference in result.to_control}
    told = []
    for ratio in looked.ratios:
        item = plain.get(ratio.left)
        if item is None or ratio.lower is None or ratio.upper is None or item.lower is None or item.upper is None:
            continue
        same = _side(item.lower, item.upper, 0.0) == _side(ratio.lower, ratio.upper, 1.0)
        told.append(f"{by_id[ratio.left]} yields {_percent(ratio)} of {by_id[ratio.right]}{'' if same else ', another answer'}")
    return [f"On logarithms, turned back: {'; '.join(told)}."] if told else []


def _ground(view: TrialView, rows: list[StripResponse], result: Comparison, response: str) -> list[str]:
    """Strips that resemble their neighbours, or lie on a smooth trend along their order: decides nothing."""
    values, treatments = [row.response for row in rows], [row.treatment for row in rows]
    places = [row.position or 0.0 for row in rows]
    levels = [str(treatment.id) for treatment in view.treatments]
    blocks = [row.block for row in rows] if view.design.blocking != "none" else None
    told = []
    try:
        alike = neighbours(values, treatments, places, block=blocks, alpha=view.trial.alpha, levels=levels)
        words = f"Were strips like their neighbours (AR(1), correlation {format_number(alike.phi, 2)})"
        told += _moved(view, words, alike.differences, result, response)
        smooth = smooth_trend(values, treatments, places, alpha=view.trial.alpha, levels=levels)
        words = "With a smooth trend along the strips (penalised spline) in the place of blocks"
        told += _moved(view, words, smooth.differences, result, response)
    except Refusal:
        pass
    return told


def _moved(view: TrialView, words: str, differences: Sequence[TrendDifference], result: Comparison, response: str) -> list[str]:
    """The differences to the control by another model, each with whether its interval lies elsewhere than the verdict's."""
    show, kind = view.show, kind_of(response)
    letters = {str(treatment.id): treatment.letter for treatment in view.treatments}
    looked = {(row.left, row.right): (row.estimate, row.lower, row.upper) for row in differences}
    looked |= {(row.right, row.left): (-row.estimate, -row.upper, -row.lower) for row in differences}
    parts = []
    for item in result.to_control:
        if item.lower is None or item.upper is None or (item.left, item.right) not in looked:
            continue
        estimate, lower, upper = looked[item.left, item.right]
        size, *ends = (show.text(value, kind, signed=True) for value in (estimate, lower, upper))
        same = _side(item.lower, item.upper, 0.0) == _side(lower, upper, 0.0)
        parts.append(f"{letters[item.left]} {size} ({ends[0]} to {ends[1]}){'' if same else ', another answer'}")
    against = letters[result.to_control[0].right] if result.to_control else ""
    return [f"{words}, against {against}: {'; '.join(parts)}."] if parts else []


def _side(lower: float, upper: float, nought: float) -> int:
    return 1 if lower > nought else -1 if upper < nought else 0


def _percent(ratio: BackRatio) -> str:
    middle, low, high = (format_number(100 * value, 1) for value in (ratio.ratio, ratio.lower or 0.0, ratio.upper or 0.0))
    return f"{middle} % ({low} to {high} %)"
