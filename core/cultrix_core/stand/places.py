"""Where to count: places drawn beforehand on a strip, and the order to walk them in.

Model. The part of a strip that may be counted is cut lengthwise into as many equal sections as places are planned, and
one place is drawn at random in each, on a row drawn at random (stratified random sampling [1]). The mean is unbiased;
the interval of independent counts is then on the safe side when stands change along the strip, because the spread
between sections is left in it. Places beyond the plan are drawn at random over the whole length.

A place never lies in the headland (``end_m`` at either end), on edge rows, on wheel rows, and the length or frame that
is counted from it ends inside as well. The same seed and strip give the same places for ever, and planning more of
them never moves a place that is an extra already.

Reference: [1] Cochran (1977), Sampling Techniques, chapter 5 (from memory).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import floor, sqrt

import numpy as np

from cultrix_core.errors import Refusal, require_between, require_positive

MOST_PLACES = 60
GRID_M = 0.1  # what a tape or a pace can still tell apart
USUAL_PACE_M = 0.75  # common practice, no source
USUAL_CV = 0.15  # count to count within a strip, where the farm has none of its own: common practice, no source
LEAST_DF = 8  # counts beyond the first of each strip before a farm's own variation is believed


@dataclass(frozen=True, slots=True, kw_only=True)
class CountGround:
    """What of a strip may be counted. Lengths in m; rows are numbered from 1 at the strip's left edge.

    ``row_spacing_m`` None: a broadcast stand or a frame laid anywhere; places then have metres from the left edge.
    ``sample_m``: length along the strip that one count covers; ``rows``: rows counted at once, or 1.
    """

    length_m: float
    width_m: float
    sample_m: float
    row_spacing_m: float | None = None
    rows: int = 1
    end_m: float = 5.0
    edge_rows: int = 1
    edge_m: float = 0.5
    wheel_rows: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Place:
    """One place: the first row to count, or metres from the left edge, and metres from the stake at the strip's start."""

    number: int
    row: int | None
    across_m: float
    along_m: float
    extra: bool


def first_rows(ground: CountGround) -> tuple[int, ...]:
    """Rows a count may start on, so that every row it takes in is neither an edge row nor a wheel row."""
    if ground.row_spacing_m is None:
        return ()
    total = floor(ground.width_m / ground.row_spacing_m + 1e-9)
    inside = range(1 + ground.edge_rows, total - ground.edge_rows - ground.rows + 2)
    wheels = set(ground.wheel_rows)
    return tuple(row for row in inside if wheels.isdisjoint(range(row, row + ground.rows)))


def draw_places(ground: CountGround, *, planned: int, extra: int, seed: Sequence[int]) -> tuple[Place, ...]:
    """Draw places on one strip.

    Parameters
    ----------
    planned : number wanted, one in each section. extra : further ones, for when the running precision asks for more.
    seed : whole numbers that name the draw: trial, visit, strip.

    Raises
    ------
    Refusal : ``does_not_fit`` when no row or no length is left, limits of the numbers.
    """
    require_between(planned, 1, MOST_PLACES, "planned", label="Counts a strip")
    require_between(extra, 0, MOST_PLACES, "extra", label="Counts in reserve")
    low, high = _span(ground)
    rows = first_rows(ground)
    if ground.row_spacing_m is not None and not rows:
        raise Refusal(
            "does_not_fit",
            field="rows",
            label="Rows to count",
            value=ground.rows,
            limit=f"a strip {ground.width_m:g} m wide once edge and wheel rows are left out",
            remedy="Count fewer rows at once, or free a row.",
        )
    more = np.random.default_rng([*seed, 1])
    section = (high - low) / planned
    drawn = np.random.default_rng([*seed, 0, planned])
    starts = [low + (item + drawn.random()) * section for item in range(planned)]
    places = [_place(ground, rows, number, start, drawn, low, high, extra=False) for number, start in enumerate(starts, 1)]
    for number in range(planned + 1, planned + extra + 1):
        places.append(_place(ground, rows, number, low + more.random() * (high - low), more, low, high, extra=True))
    return tuple(places)


def _span(ground: CountGround) -> tuple[float, float]:
    require_positive(ground.length_m, "length", label="Strip length")
    require_positive(ground.width_m, "width", label="Strip width")
    require_positive(ground.sample_m, "sample", label="Length that is counted")
    require_between(ground.end_m, 0, 1e4, "end", label="Kept free at the ends")
    low, high = ground.end_m, ground.length_m - ground.end_m - ground.sample_m
    if high < low:
        raise Refusal(
            "does_not_fit",
            field="sample",
            label="Length to count",
            value=f"{ground.sample_m:g}",
            unit=" m",
            limit=f"{ground.length_m - 2 * ground.end_m:g}",
            remedy="Count a shorter length, or keep less free at the ends.",
        )
    return low, high


def _place(
    ground: CountGround,
    rows: Sequence[int],
    number: int,
    start: float,
    draw: np.random.Generator,
    low: float,
    high: float,
    *,
    extra: bool,
) -> Place:
    along = min(max(round(start / GRID_M) * GRID_M, low), high)
    if ground.row_spacing_m is None:
        reach = max(ground.width_m - 2 * ground.edge_m - ground.sample_m, 0.0)
        edge = min(ground.edge_m, (ground.width_m - ground.sample_m) / 2) if ground.width_m > ground.sample_m else 0.0
        across = edge + round(draw.random() * reach / GRID_M) * GRID_M
        return Place(
            number=number, row=None, across_m=round(min(across, edge + reach), 3), along_m=round(along, 3), extra=extra
        )
    row = int(rows[int(draw.integers(len(rows)))])
    return Place(
        number=number, row=row, across_m=round((row - 0.5) * ground.row_spacing_m, 3), along_m=round(along, 3), extra=extra
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Walk:
    """Places in the order to walk them: (strip, place number), and the metres walked along the strips."""

    order: tuple[tuple[int, int], ...]
    walked_m: float
    from_stake_m: float


def walking_order(places: Mapping[int, Sequence[Place]], lengths_m: Mapping[int, float]) -> Walk:
    """Up one strip and down the next, so that nobody walks back to the stakes.

    ``places``: planned places by strip number, strips in the order they lie. ``from_stake_m`` is what it would be to
    start every strip at its stake again, for comparison.
    """
    order: list[tuple[int, int]] = []
    walked = 0.0
    back = 0.0
    for turn, strip in enumerate(places):
        planned = sorted((place for place in places[strip] if not place.extra), key=lambda place: place.along_m)
        if not planned:
            continue
        order += [(strip, place.number) for place in (planned if turn % 2 == 0 else reversed(planned))]
        walked += lengths_m[strip]
        back += 2 * planned[-1].along_m
    return Walk(order=tuple(order), walked_m=walked, from_stake_m=back)


def paces(along_m: float, *, pace_m: float = USUAL_PACE_M) -> int:
    """Paces from the stake."""
    require_between(pace_m, 0.3, 1.5, "pace", label="Length of a pace", unit=" m")
    return round(along_m / pace_m)


@dataclass(frozen=True, slots=True, kw_only=True)
class PastVariation:
    """Variation between counts of one strip, pooled over strips; ``own`` false where it is only the usual value."""

    cv: float
    df: int
    own: bool


def variation_sums(strips: Sequence[Sequence[float]]) -> tuple[float, int]:
    """Sum of squared coefficients of variation, each times its degrees of freedom, and the sum of these."""
    total, df = 0.0, 0
    for counts in strips:
        if len(counts) < 2 or not np.mean(counts) > 0:
            continue
        total += (len(counts) - 1) * float(np.std(counts, ddof=1) / np.mean(counts)) ** 2
        df += len(counts) - 1
    return total, df


def past_variation(strips: Sequence[Sequence[float]], *, also: Sequence[tuple[float, int]] = ()) -> PastVariation:
    """Pool the coefficients of variation of strips counted more than once, each weighted by its degrees of freedom.

    ``also``: sums from strips that are not at hand any more, as ``variation_sums`` gives them.
    """
    sums = [variation_sums(strips), *also]
    total, df = sum(part for part, _ in sums), sum(number for _, number in sums)
    if df < LEAST_DF or total == 0:
        return PastVariation(cv=USUAL_CV, df=df, own=False)
    return PastVariation(cv=sqrt(total / df), df=df, own=True)
