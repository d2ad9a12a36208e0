"""Second looks at a comparison of treatments, in sentences: by ranks, and on the logarithmic scale."""

from __future__ import annotations

from cultrix_core.errors import Refusal
from cultrix_core.stats.compare import Comparison, StripResponse
from cultrix_core.stats.second_looks import BackRatio, rank_test, transformed
from cultrix_core.unit_formatting import format_number

from apps.analysis.verdict.comparisons import compared_strips, net_of, yield_of
from apps.trial_state.view import TrialView

NEVER = "A second look never makes the call."


def second_looks(view: TrialView, result: Comparison, response: str) -> list[str]:
    """Sentences; empty where the layout or the values allow none."""
    if not result.replicated or not result.mse:
        return []
    rows = []
    for strip in compared_strips(view):
        value = yield_of(view, strip) if response == "yield" else net_of(view, strip)
        if value is not None:
            rows.append(
                StripResponse(
                    treatment=str(strip.received.id), block=str(strip.block.number), row=str(strip.row), response=value
                )
            )
    ranks = rank_test(rows, blocked=view.design.blocking != "none") if view.design.blocking != "rows_and_columns" else None
    names = [f"{ranks.name}. {ranks.words}"] if ranks is not None else []
    if response == "yield" and result.to_control:
        names += _logs(view, rows, result)
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


def _side(lower: float, upper: float, nought: float) -> int:
    return 1 if lower > nought else -1 if upper < nought else 0


def _percent(ratio: BackRatio) -> str:
    middle, low, high = (format_number(100 * value, 1) for value in (ratio.ratio, ratio.lower or 0.0, ratio.upper or 0.0))
    return f"{middle} % ({low} to {high} %)"
