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

from cultrix_core.season.heat_units import Day, HeatProfile, heat_of, heat_profile, heat_sum

Task = Literal["count", "tape", "dig", "measure", "rate", "yield"]
State = Literal["overdue", "due", "wait", "coming", "done", "missed"]

WET_MM = 12.0
COMING_DAYS = 14
PERENNIAL = frozenset({"lucerne"})  # cut more than once, so that a harvest does not end the visits
GRACE_DAYS = 4  # after this a visit is overdue
LOST_AFTER_DAYS = 45  # later nobody can make up for it
RECENT_DAYS = 14
NEAR_DAYS = 28  # how far the last fortnight may stand for the days to come


@dataclass(frozen=True, slots=True, kw_only=True)
class Visit:
    """One visit: field-book task, heat units (°C·days by the crop's own way) or days from sowing, and why then.

    ``trait`` names what is measured or judged.
    """

    key: str
    task: Task
    what: str
    heat: float | None
    days: int
    why: str
    trait: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Due:
    """A visit with its day, its state and the reason in words. ``heat`` is the sum so far, None without weather."""

    visit: Visit
    on: date
    state: State
    reason: str
    heat: float | None


def _visits(half: float, half_days: int, full: float, full_days: int, later: Sequence[Visit] = ()) -> tuple[Visit, ...]:
    return (
        Visit(
            key="first_count",
            task="count",
            what="First count: emergence under way",
            heat=half,
            days=half_days,
            why="Half emergence can only be told from a count before the stand is complete.",
        ),
        Visit(
            key="full_count",
            task="count",
            what="Full count: the stand is complete",
            heat=full,
            days=full_days,
            why="Later, tillers and branches hide plants, and thinning begins.",
        ),
        *later,
    )


def _tape(heat: float, days: int) -> Visit:
    return Visit(
        key="tape",
        task="tape",
        what="Tape run: spacing along the row",
        heat=heat,
        days=days,
        why="Doubles and skips are told apart while plants are small.",
    )


def _measure(key: str, trait: str, what: str, heat: float | None, days: int, why: str) -> Visit:
    return Visit(key=key, task="measure", what=what, heat=heat, days=days, why=why, trait=trait)


def _sampled(heat: float | None, days: int) -> Visit:
    return Visit(
        key="estimate",
        task="yield",
        what="Sample yield: what will it make?",
        heat=heat,
        days=days,
        why="Seeds are set and can be counted; their weight still comes. Samples now teach how estimates err here.",
    )


_LODGED = "Before the first storm after ripening; the harvester lifts what lies."
_FLOWER = "Evenness of flowering tells of even depth and water."
_CLOSED = "Rows that close earlier shade weeds; after closing there is nothing left to see."
_WINTER = (
    Visit(
        key="spring_count",
        task="count",
        what="Count after winter",
        heat=None,
        days=165,
        why="What winter took is only known from the same strips counted before and after.",
    ),
)
_PLANS: dict[str, tuple[Visit, ...]] = {
    "maize": _visits(
        70, 10, 130, 21,
        (_tape(150, 24), _measure("canopy", "canopy", "Ground covered", 380, 45, _CLOSED),
         _sampled(1100, 108), _measure("lodging", "lodged", "Lodging before harvest", 1350, 130, _LODGED)),
    ),
    "sorghum": _visits(
        75, 9, 140, 19,
        (_tape(160, 22), _measure("canopy", "canopy", "Ground covered", 420, 42, _CLOSED),
         _measure("flowering", "flowering", "Plants in flower", 850, 72, _FLOWER), _sampled(1200, 95)),
    ),
    "sunflower": _visits(
        90, 12, 170, 24,
        (_tape(190, 27), _measure("flowering", "flowering", "Plants in flower", 850, 72, _FLOWER),
         _sampled(1300, 100), _measure("lodging", "lodged", "Lodging before harvest", 1500, 115, _LODGED)),
    ),
    "winter_wheat": _visits(
        110, 13, 200, 26,
        (*_WINTER, _sampled(2050, 250), _measure("lodging", "lodged", "Lodging before harvest", 2300, 265, _LODGED)),
    ),
    "barley": _visits(110, 12, 190, 22,
        (_sampled(1200, 75), _measure("lodging", "lodged", "Lodging before harvest", 1400, 85, _LODGED)),
    ),
    "oats": _visits(110, 12, 190, 22,
        (_sampled(1250, 78), _measure("lodging", "lodged", "Lodging before harvest", 1500, 90, _LODGED)),
    ),
    "field_pea": _visits(
        100, 12, 180, 22, (_measure("flowering", "flowering", "Plants in flower", 600, 55, _FLOWER), _sampled(900, 70),
                           _measure("lodging", "lodged", "Lodging before harvest", 1100, 80, _LODGED)),
    ),
    "soybean": _visits(70, 9, 130, 18, (_measure("canopy", "canopy", "Ground covered", 500, 45, _CLOSED), _sampled(1150, 90)),
    ),
    "dry_bean": _visits(70, 9, 130, 18, (_measure("canopy", "canopy", "Ground covered", 480, 42, _CLOSED), _sampled(950, 72)),
    ),
    "oilseed_rape": _visits(100, 10, 190, 22, (*_WINTER, _sampled(None, 250))),
    "lucerne": _visits(
        90, 11, 190, 25,
        (Visit(key="crowns", task="dig", what="Dig plants: crowns and roots", heat=None, days=190,
               why="Before winter only a formed crown counts; in spring firm and white is alive."), *_WINTER),
    ),
}  # fmt: skip
_OTHER = _visits(100, 12, 190, 24)


def visits_of(crop: str) -> tuple[Visit, ...]:
    """The visits a crop asks for."""
    return _PLANS.get(crop, _OTHER)


def schedule(
    crop: str, *, planted_on: date, today: date, weather: Sequence[Day], done: Mapping[str, Sequence[date]]
) -> tuple[Due, ...]:
    """Visits of a trial in the order of their days, with their state.

    ``done``: days on which a task was carried out, by ``done_as``. A day serves one visit, from a tenth of the wait before
    the visit is due (at least three days) on.
    """
    profile = heat_profile(crop)
    known = sorted((day for day in weather if day.on <= today), key=lambda day: day.on)
    heat = heat_sum(known, profile, after=planted_on, until=today) if _covers(known, planted_on, today) else None
    found = []
    used: set[tuple[str, date]] = set()
    for visit in visits_of(crop):
        on, reason = _day_of(visit, planted_on, today, known, profile, heat)
        slack = max(3, (on - planted_on).days // 10)
        early = on - timedelta(days=slack)
        key = done_as(visit.task, visit.trait)
        days = [day for day in done.get(key, ()) if day >= early and (key, day) not in used]
        if days:
            used.add((key, min(days)))
            found.append(Due(visit=visit, on=on, state="done", reason=f"done on {min(days):%d %b}", heat=heat))
            continue
        found.append(_state(visit, on, reason, today, known, heat))
    return tuple(sorted(found, key=lambda due: due.on))


def done_as(task: str, trait: str = "") -> str:
    """The name under which a day of work counts: the task, with the trait where one is measured."""
    return f"{task}:{trait}" if trait else task


def _covers(known: Sequence[Day], planted_on: date, today: date) -> bool:
    """Whether weather is there from sowing on, with at most a few days missing."""
    days = (today - planted_on).days
    return days > 0 and sum(1 for day in known if planted_on < day.on <= today) >= 0.9 * days


def _day_of(
    visit: Visit, planted_on: date, today: date, known: Sequence[Day], profile: HeatProfile, heat: float | None
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
                return day.on, f"{visit.heat:.0f} heat units since sowing reached on {day.on:%d %b}"
    words = f"{heat:.0f} of {visit.heat:.0f} heat units so far"
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


def _state(visit: Visit, on: date, reason: str, today: date, known: Sequence[Day], heat: float | None) -> Due:
    late = (today - on).days
    if late > LOST_AFTER_DAYS:
        return Due(visit=visit, on=on, state="missed", reason=f"{reason}; too late to make up for", heat=heat)
    if late < 0:
        return Due(visit=visit, on=on, state="coming", reason=reason, heat=heat)
    rain = wet_mm(known, today)
    if rain > WET_MM:
        moved = today + timedelta(days=1)
        words = f"{reason}; {rain:.0f} mm since yesterday, too wet to enter: look again on {moved:%d %b}"
        return Due(visit=visit, on=moved, state="wait", reason=words, heat=heat)
    if late > GRACE_DAYS:
        return Due(visit=visit, on=on, state="overdue", reason=f"{reason}, {late} days ago", heat=heat)
    return Due(visit=visit, on=on, state="due", reason=reason, heat=heat)


def wet_mm(known: Sequence[Day], today: date) -> float:
    """Rain of today and yesterday in mm."""
    return sum(day.rain_mm for day in known if today - timedelta(days=1) <= day.on <= today)
