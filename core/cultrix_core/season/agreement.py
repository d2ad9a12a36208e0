"""Does the eye agree with the count? Ratings and measurements of the same strips, each compared over strips.

Model. Both are compared by the trial's own design (blocks, treatments, strips as units), each difference to the control
with its Dunnett interval, and the two are put beside each other: better, worse or no difference shown. Ranks over strips
are compared by Spearman's coefficient [1]. A rating is ordinal; its means are used only to say which way it points.

Where strips of a treatment do not scatter at all there is no interval, and no certainty either: 4 on every strip against 7 on
every strip is told with the exact p of a permutation test, two-sided: 2 ÷ 2ᵇ turning round each of b blocks, without blocks
2 ÷ C(n, m) over all ways to choose the m strips.

Reference: [1] Spearman (1904) Am. J. Psychol. 15:72–101 (from memory).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import comb
from typing import Literal

import numpy as np

from cultrix_core.errors import Refusal
from cultrix_core.stats.compare import Design, Difference, StripResponse, compare
from cultrix_core.unit_formatting import format_number

Points = Literal["better", "worse", "none"]
PLACES = 6  # of a difference of ratings; further ones are rounding
LEAST_STRIPS = 5  # fewer give a rank correlation that means nothing


@dataclass(frozen=True, slots=True, kw_only=True)
class StripPair:
    """One strip with its rating and its measured value."""

    treatment: str
    block: str
    rating: float
    measured: float
    row: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Both:
    """A treatment against the control: what the eye said and what the count said."""

    treatment: str
    eye: Points
    count: Points
    eye_difference: Difference
    count_difference: Difference
    agree: bool
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Agreement:
    """All treatments against the control, and the ranks over strips (None when they cannot be told)."""

    strips: int
    both: tuple[Both, ...]
    rank_correlation: float | None
    words: str


def agreement_of(
    strips: Sequence[StripPair],
    *,
    design: Design,
    control: str,
    rating_up: bool,
    measured_up: bool,
    alpha: float = 0.10,
    names: Mapping[str, str] | None = None,
) -> Agreement:
    """Put ratings and measurements of the same strips side by side.

    ``rating_up``, ``measured_up``: whether more is better. ``names``: what a reader calls a treatment.

    Raises
    ------
    Refusal : ``missing`` without strips that have both, and those of ``compare``.
    """
    if not strips:
        raise Refusal("missing", field="strips", label="A strip with both", remedy="Rate and count the same strips.")
    eye = compare([_of(strip, strip.rating) for strip in strips], design=design, alpha=alpha, control=control)
    count = compare([_of(strip, strip.measured) for strip in strips], design=design, alpha=alpha, control=control)
    both = []
    if eye.replicated:
        for left, right in zip(eye.to_control, count.to_control, strict=True):
            text, shown = _points(left, rating_up), _points(right, measured_up)
            name = (names or {}).get(left.left, left.left)
            same = _unspread(strips, left, design) if left.lower is None else ""
            seen = f"the eye {same}" if same else ""
            both.append(
                Both(
                    treatment=left.left,
                    eye=text,
                    count=shown,
                    eye_difference=left,
                    count_difference=right,
                    agree=text == shown,
                    words=f"{name}: {seen or _words(text, shown)}{_counted(shown) if seen else ''}",
                )
            )
    correlation = _ranks(strips, rating_up == measured_up)
    return Agreement(strips=len(strips), both=tuple(both), rank_correlation=correlation, words=_rank_words(correlation, strips))


def _of(strip: StripPair, value: float) -> StripResponse:
    return StripResponse(treatment=strip.treatment, block=strip.block, row=strip.row, response=value)


def _points(difference: Difference, up: bool) -> Points:
    if difference.lower is None or difference.upper is None:
        step = round(difference.estimate, PLACES)
        return "none" if step == 0 else "better" if (step > 0) == up else "worse"
    if difference.lower > 0:
        return "better" if up else "worse"
    if difference.upper < 0:
        return "worse" if up else "better"
    return "none"


def _unspread(strips: Sequence[StripPair], difference: Difference, design: Design) -> str:
    """What ratings say that do not scatter: the same step on every strip, with its exact p."""
    ours = [strip for strip in strips if strip.treatment == difference.left]
    theirs = [strip for strip in strips if strip.treatment == difference.right]
    step = round(difference.estimate, PLACES)
    if step == 0:
        return "scored it the same on every strip"
    blocks = {strip.block for strip in ours} & {strip.block for strip in theirs}
    ways = comb(len(ours) + len(theirs), len(ours)) if design == "crd" else 2 ** len(blocks)
    size = format_number(abs(step), 0 if step.is_integer() else 1)
    points = "point" if size == "1" else "points"
    way = "higher" if step > 0 else "lower"
    return f"scored it {size} {points} {way} on every strip (exact p {2 / ways:.3g} by permutation)"


COUNTED = {
    "better": "the count says better",
    "worse": "the count says worse",
    "none": "the count shows no difference",
}


def _counted(count: Points) -> str:
    return f", {COUNTED[count]}"


def _words(eye: Points, count: Points) -> str:
    text = {"better": "the eye said better", "worse": "the eye said worse", "none": "the eye saw no difference"}[eye]
    shown = COUNTED[count]
    return f"{text}, {shown}" if eye != count else f"{text}, and {shown} too" if eye == "none" else f"{text}, so does the count"


def _ranks(strips: Sequence[StripPair], same_way: bool) -> float | None:
    from scipy.stats import spearmanr

    rating = np.asarray([strip.rating for strip in strips])
    value = np.asarray([strip.measured for strip in strips])
    if len(strips) < LEAST_STRIPS or np.ptp(rating) == 0 or np.ptp(value) == 0:
        return None
    result = float(spearmanr(rating, value).statistic)
    return result if same_way else -result


def _rank_words(correlation: float | None, strips: Sequence[StripPair]) -> str:
    if correlation is None:
        return "Too few strips, or all rated alike: ranks cannot be compared."
    strong = "rank the strips alike" if correlation >= 0.7 else "agree loosely" if correlation >= 0.4 else "do not agree"
    return f"Over {len(strips)} strips eye and count {strong} (rank correlation {format_number(correlation, 2)})."
