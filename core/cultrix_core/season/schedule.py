"""What is due in a trial: by heat units since sowing where the weather is known, else by days; wet days move on.

Model. Each visit of a crop is due when the heat units from the day after sowing pass its number. Within the known
weather the day is read off; beyond it the rest is projected by the heat of the same days in earlier years, for the next
weeks else by that of the last fortnight, and where neither tells the usual days are used. A day is too wet to enter when
the rain of that day and the day before passes ``WET_MM``; a visit due then moves to tomorrow, and again while it stays
wet. Heat units, days and the wet limit are defaults of ours: common practice, no source.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Literal

from cultrix_core.crops import crop as profile_of
from cultrix_core.crops.profile import HeatProfile, Visit
from cultrix_core.season.heat_units import Day, heat_of, heat_profile, heat_sum
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.writing import written_day

State = Literal["overdue", "due", "wait", "coming", "done", "missed"]

WET_MM = 12.0
COMING_DAYS = 14
GRACE_DAYS = 4  # after this a visit is overdue
LOST_AFTER_DAYS = 45  # later nobody can make up for it
RECENT_DAYS = 14
NEAR_DAYS = 28  # how far the last fortnight may stand for the days to come


@dataclass(frozen=True, slots=True, kw_only=True)
class Due:
    """A visit with its day, its state and the reason in words. ``heat`` is the sum so far, None without weather.

    ``strips``: numbers of those it is due on, none where it is due on all.
    """

    visit: Visit
    on: date
    state: State
    reason: str
    heat: float | None
    strips: tuple[int, ...] = ()


METRIC = UnitFormatter(system="metric")


def visits_of(crop: str) -> tuple[Visit, ...]:
    """The visits a crop asks for; refuses one that the catalogue does not have."""
    return profile_of(crop).visits


def schedule(
    crop: str,
    *,
    planted_on: date,
    today: date,
    weather: Sequence[Day],
    done: Mapping[str, Sequence[date]],
    show: UnitFormatter = METRIC,
    also: Sequence[Visit] = (),
) -> tuple[Due, ...]:
    """Visits of a trial in the order of their days, with their state; ``also``: visits beside those of the crop.

    ``show`` writes heat and rain.
    ``done``: days on which a task was carried out, by ``done_as``. A day serves one visit, from a tenth of the wait before
    the visit is due (at least three days) on.
    """
    profile = heat_profile(crop)
    known = sorted((day for day in weather if day.on <= today), key=lambda day: day.on)
    heat = heat_sum(known, profile, after=planted_on, until=today) if _covers(known, planted_on, today) else None
    result = []
    used: set[tuple[str, date]] = set()
    for visit in (*visits_of(crop), *also):
        on, reason = _day_of(visit, planted_on, today, known, profile, heat, show)
        slack = max(3, (on - planted_on).days // 10)
        early = on - timedelta(days=slack)
        key = done_as(visit.task, visit.trait)
        days = [day for day in done.get(key, ()) if day >= early and (key, day) not in used]
        if days:
            used.add((key, min(days)))
            result.append(
                Due(visit=visit, on=on, state="done", reason=f"done on {written_day(min(days), year=False)}", heat=heat)
            )
            continue
        result.append(_state(visit, on, reason, today, known, heat, show))
    return tuple(sorted(result, key=lambda due: due.on))


def done_as(task: str, trait: str = "") -> str:
    """The name under which a day of work counts: the task, with the trait where one is measured."""
    return f"{task}:{trait}" if trait else task


def _covers(known: Sequence[Day], planted_on: date, today: date) -> bool:
    """Whether weather is there from sowing on, with at most a few days missing."""
    days = (today - planted_on).days
    return days > 0 and sum(1 for day in known if planted_on < day.on <= today) >= 0.9 * days


def _day_of(
    visit: Visit,
    planted_on: date,
    today: date,
    known: Sequence[Day],
    profile: HeatProfile,
    heat: float | None,
    show: UnitFormatter,
) -> tuple[date, str]:
    usual = planted_on + timedelta(days=visit.days)
    if visit.heat is None or heat is None:
        return usual, f"{visit.days} days after sowing" + ("" if visit.heat is None else ", no weather known")
    if heat >= visit.heat:
        total = 0.0
        for day in known:
            if day.on <= planted_on:
                continue
            total += _heat(day, profile)
            if total >= visit.heat:
                return day.on, f"{show.text(visit.heat, 'heat')} since sowing reached on {written_day(day.on, year=False)}"
    words = f"{show.number(heat, 'heat')} of {show.text(visit.heat, 'heat')} so far"
    projected = _project(visit.heat - heat, today, known, profile)
    if projected is None:
        return max(usual, today + timedelta(days=1)), f"{words}; the rest by the usual days"
    return projected, words


def _project(left: float, today: date, known: Sequence[Day], profile: HeatProfile) -> date | None:
    """The day on which the heat still wanted will be there: by the same days of earlier years, else by the last fortnight.

    None where neither tells: no earlier year, and the fortnight would have to stand for more than ``NEAR_DAYS``.
    """
    earlier: dict[tuple[int, int], list[float]] = {}
    for day in known:
        if day.on < today - timedelta(days=200):
            earlier.setdefault((day.on.month, day.on.day), []).append(_heat(day, profile))
    recent = [_heat(day, profile) for day in known[-RECENT_DAYS:]]
    rate = sum(recent) / len(recent) if recent else 0.0
    total = 0.0
    for number in range(1, 366):
        on = today + timedelta(days=number)
        past = earlier.get((on.month, on.day))
        if past is None and number > NEAR_DAYS:
            return None
        total += rate if past is None else sum(past) / len(past)
        if total >= left:
            return on
    return None


def _heat(day: Day, profile: HeatProfile) -> float:
    return heat_of(day.min_c, day.max_c, base_c=profile.base_c, way=profile.way, upper_c=profile.upper_c)


def _state(
    visit: Visit, on: date, reason: str, today: date, known: Sequence[Day], heat: float | None, show: UnitFormatter
) -> Due:
    late = (today - on).days
    if late > LOST_AFTER_DAYS:
        return Due(visit=visit, on=on, state="missed", reason=f"{reason}; too late to make up for", heat=heat)
    if late < 0:
        return Due(visit=visit, on=on, state="coming", reason=reason, heat=heat)
    rain = wet_mm(known, today)
    if rain > WET_MM:
        moved = today + timedelta(days=1)
        again, fallen = written_day(moved, year=False), show.text(rain / 1000, "rain", decimals=show.decimals("rain") - 1)
        words = f"{reason}; {fallen} since yesterday, too wet to enter: look again on {again}"
        return Due(visit=visit, on=moved, state="wait", reason=words, heat=heat)
    if late > GRACE_DAYS:
        return Due(visit=visit, on=on, state="overdue", reason=f"{reason}, {late} days ago", heat=heat)
    return Due(visit=visit, on=on, state="due", reason=reason, heat=heat)


def wet_mm(known: Sequence[Day], today: date) -> float:
    """Rain of today and yesterday in mm."""
    return sum(day.rain_mm for day in known if today - timedelta(days=1) <= day.on <= today)
