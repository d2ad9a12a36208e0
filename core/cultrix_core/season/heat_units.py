"""Heat units (growing degree days) of a day and since a date, by both published ways of applying the base.

Definitions [1], base b, in °C·days:
- way 1, "mean first": (Tmax + Tmin) ÷ 2 − b, and 0 when the mean lies below the base;
- way 2, "limits first": Tmax and Tmin are each lifted to the base when below it (and, where the crop has an upper
  limit, lowered to it when above), then their mean − b.
They differ on every day whose minimum lies below the base, so the way must be named with the number. Two ways give two
sums; thresholds hold only for the way they were found with.

Reference: [1] McMaster & Wilhelm (1997) Agric. For. Meteorol. 87:291–300 (from memory).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from cultrix_core.crops import crop as profile_of
from cultrix_core.crops.profile import HeatProfile, HeatWay
from cultrix_core.errors import Refusal, require_between, require_finite
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.working import Step, Working

WAYS: tuple[tuple[HeatWay, str], ...] = (
    ("mean_first", "mean of the day first, then the base (way 1)"),
    ("limits_first", "each limit lifted to the base first (way 2)"),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Day:
    """Weather of one day: °C and mm. Soil temperature is at sowing depth."""

    on: date
    min_c: float
    max_c: float
    rain_mm: float = 0.0
    soil_c: float | None = None


def heat_profile(crop: str) -> HeatProfile:
    """Base and way of a crop; refuses one that the catalogue does not have."""
    return profile_of(crop).heat


def heat_of(min_c: float, max_c: float, *, base_c: float, way: HeatWay, upper_c: float | None = None) -> float:
    """Heat units of one day.

    Raises
    ------
    Refusal : ``not_finite``, ``too_small`` maximum below the minimum, ``too_large`` base above the upper limit.
    """
    require_finite(min_c, "min")
    require_between(max_c, min_c, 70, "max", label="Warmest of the day", unit=" °C", remedy="Were the two swapped?")
    require_finite(base_c, "base")
    if way == "mean_first":  # [1] way 1
        return max((max_c + min_c) / 2 - base_c, 0.0)
    if way != "limits_first":
        raise Refusal("unknown_choice", field="way", value=way, limit=", ".join(key for key, _ in WAYS))
    top = max_c if upper_c is None else min(max_c, upper_c)
    bottom = min_c if upper_c is None else min(min_c, upper_c)
    if upper_c is not None:
        require_between(base_c, -50, upper_c, "base", label="Base", unit=" °C")
    return (max(top, base_c) + max(bottom, base_c)) / 2 - base_c  # [1] way 2


def heat_sum(days: Sequence[Day], profile: HeatProfile, *, after: date, until: date) -> float:
    """Heat units from the day after ``after`` to ``until``, both known days only."""
    return sum(
        heat_of(day.min_c, day.max_c, base_c=profile.base_c, way=profile.way, upper_c=profile.upper_c)
        for day in days
        if after < day.on <= until
    )


def heat_working(min_c: float, max_c: float, profile: HeatProfile, show: UnitFormatter) -> Working:
    """Both ways of one day beside each other."""
    both = {way: heat_of(min_c, max_c, base_c=profile.base_c, way=way, upper_c=profile.upper_c) for way, _ in WAYS}
    low, high = show.text(min_c, "temperature"), show.text(max_c, "temperature")
    base = show.text(profile.base_c, "temperature")
    upper = "" if profile.upper_c is None else f", upper limit {show.text(profile.upper_c, 'temperature')}"
    source = "McMaster & Wilhelm 1997, from memory"
    text = {way: show.text(value, "heat", decimals=1) for way, value in both.items()}
    return Working(
        title="Heat units of a day",
        outcome=f"{text['mean_first']} or {text['limits_first']}",
        steps=(
            Step(
                label="Way 1",
                formula="mean of the day − base, never below 0",
                numbers=f"({high} + {low}) ÷ 2 − {base}",
                outcome=text["mean_first"],
                source=source,
            ),
            Step(
                label="Way 2",
                formula="each limit lifted to the base (and lowered to the upper limit), then their mean − base",
                numbers=f"{high} and {low}, base {base}{upper}",
                outcome=text["limits_first"],
                source=source,
            ),
        ),
        assumption="The way: thresholds found with one do not hold for the other on cold nights.",
    )
