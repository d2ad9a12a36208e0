"""Emergence strip by strip: what each strip's counts say of its own time, so that treatments are compared over strips.

Each strip has its own clock, days from its own sowing. Different places are counted each time, so the stands of a strip are
first made non-decreasing up to the highest (``emergence.emergence_of``); each plant of that curve came up between two counts.
Where every strip has plants in three intervals or more, a log-logistic time is fitted to those intervals
(``emergence_time``, among those that came up), and gives days to half and to 90 % and the days between the first and the last
tenth. With fewer counts only the day of half is told, by a straight line between the counts, on every strip alike.

The number of plants behind a fit is that of the places counted: stand × area counted at a visit. It decides how sure a strip
is of its own time; it decides nothing between treatments, where strips are the units.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import exp, log
from statistics import median
from typing import Literal

from cultrix_core.errors import Refusal
from cultrix_core.stand.emergence import CountedStand, Emergence, emergence_of
from cultrix_core.stand.emergence_time import StripCounts, TimeFit, fit_time

By = Literal["intervals", "line"]
LEAST_INTERVALS = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class StripVisits:
    """Counts of one strip: days from its sowing, stand in plants per m², area counted in m² at each; (k,) each."""

    strip: str
    days: tuple[int, ...]
    plants_per_m2: tuple[float, ...]
    area_m2: tuple[float, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class StripTimes:
    """What a strip tells. Days are None where its counts do not tell them; ``fit`` where intervals decide."""

    strip: str
    curve: Emergence
    fit: TimeFit | None
    half_days: float | None
    ninety_days: float | None
    spread_days: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class EmergenceByStrip:
    """Strips with their times, and by what the times were found: on all of them the same."""

    by: By
    strips: tuple[StripTimes, ...]


def emergence_by_strip(strips: Sequence[StripVisits]) -> EmergenceByStrip:
    """The time of emergence of every strip.

    Raises
    ------
    Refusal : those of ``emergence_of``: ``missing`` without visits, ``duplicate`` day, ``too_small`` day before sowing.
    """
    curves = {strip.strip: _curve(strip) for strip in strips}
    rising = [strip for strip in strips if curves[strip.strip].final_per_m2 > 0]
    by: By = "intervals" if rising and all(_intervals(curves[strip.strip]) >= LEAST_INTERVALS for strip in rising) else "line"
    return EmergenceByStrip(by=by, strips=tuple(_times(strip, curves[strip.strip], by) for strip in strips))


def _curve(strip: StripVisits) -> Emergence:
    visits = [CountedStand(day=day, plants_per_m2=value) for day, value in zip(strip.days, strip.plants_per_m2, strict=True)]
    return emergence_of(visits)


def _intervals(curve: Emergence) -> int:
    """Intervals between counts in which plants came up."""
    stands = [0.0, *[visit.plants_per_m2 for visit in curve.curve]]
    return sum(1 for before, after in zip(stands, stands[1:], strict=False) if after > before)


def _times(strip: StripVisits, curve: Emergence, by: By) -> StripTimes:
    fit = _fit(strip, curve) if by == "intervals" and curve.final_per_m2 > 0 else None
    return StripTimes(
        strip=strip.strip,
        curve=curve,
        fit=fit,
        half_days=fit.t50 if fit else curve.half_days if by == "line" else None,
        ninety_days=fit.day_of(0.9) if fit else None,
        spread_days=fit.day_of(0.9) - fit.day_of(0.1) if fit else None,
    )


def _fit(strip: StripVisits, curve: Emergence) -> TimeFit | None:
    """The log-logistic time of a strip; None where its counts do not tell one."""
    visits = [visit for visit in curve.curve if visit.day > 0]
    area = median(strip.area_m2)
    emerged = tuple(visit.plants_per_m2 * area for visit in visits)
    counts = StripCounts(
        strip=strip.strip,
        treatment="",
        block="",
        days=tuple(float(visit.day) for visit in visits),
        emerged=emerged,
        sown=emerged[-1],
    )
    try:
        return fit_time([counts], "emerged")
    except Refusal:
        return None


def on_logs(days: float) -> float:
    """The scale on which days are compared over strips."""
    return log(days)


def from_logs(value: float) -> float:
    """Days again."""
    return exp(value)
