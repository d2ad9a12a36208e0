"""Reading the weather of a workspace, and what is due by it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date, datetime
from functools import lru_cache

from cultrix_core.season.heat_units import Day
from cultrix_core.season.schedule import Due, done_as, schedule
from cultrix_core.season.weather import read_weather, write_weather
from cultrix_core.simulate.weather import Climate
from cultrix_core.simulate.weather import station as simulated
from django.utils import timezone

from apps.accounts.models import Workspace
from apps.estimates.models import YieldSample
from apps.records.answers import reentry_until
from apps.records.selectors import counts_of
from apps.scouting.models import DugPlant, PlantMeasure, Rating, TapeRun
from apps.trials.selectors import TrialView
from apps.weather.models import Station

SOUTH_WARMEST_DAY = 17


def station_of(workspace: Workspace) -> Station | None:
    """The workspace's station."""
    return Station.objects.filter(workspace=workspace).first()


def days_of(workspace: Workspace, *, today: date) -> tuple[Day, ...]:
    """Daily weather up to today, earliest first; empty without a station."""
    station = station_of(workspace)
    if station is None:
        return ()
    if station.kind == "simulated":
        return read_station(station.seed, station.southern, today)
    return tuple(
        Day(on=one.on, min_c=one.min_c, max_c=one.max_c, rain_mm=one.rain_mm, soil_c=one.soil_c)
        for one in station.days.filter(on__lte=today)
    )


@lru_cache(maxsize=8)
def read_station(seed: int, southern: bool, today: date) -> tuple[Day, ...]:
    """What the simulated station reports, read as a file is: its text goes through the same parser."""
    climate = Climate()
    if southern:
        climate = replace(climate, warmest_day=SOUTH_WARMEST_DAY)
    return read_weather(write_weather(simulated(seed, until=today, climate=climate)))


def visits_due(view: TrialView, days: Sequence[Day], *, today: date) -> tuple[Due, ...]:
    """The visits of a trial; empty before planting and once the strips of an annual crop are harvested."""
    planted = view.trial.planted_on
    if planted is None or planted > today or not view.strips:
        return ()
    if not view.profile.perennial and any(one.loads or one.yield_kg_per_ha is not None for one in view.records.values()):
        return ()
    return schedule(view.trial.crop, planted_on=planted, today=today, weather=days, done=_done(view))


def _done(view: TrialView) -> dict[str, list[date]]:
    found: dict[str, set[date]] = {"count": {count.recorded_at.date() for count in counts_of(view.trial)}}
    runs = TapeRun.objects.filter(strip__trial=view.trial, struck=False).values_list("recorded_at", flat=True)
    plants = DugPlant.objects.filter(strip__trial=view.trial, struck=False).values_list("recorded_at", flat=True)
    found["tape"], found["dig"] = {at.date() for at in runs}, {at.date() for at in plants}
    samples = YieldSample.objects.filter(strip__trial=view.trial, struck=False).exclude(method="residue")
    found["yield"] = {at.date() for at in samples.values_list("recorded_at", flat=True)}
    measures = PlantMeasure.objects.filter(strip__trial=view.trial, struck=False).values_list("trait", "recorded_at")
    ratings = Rating.objects.filter(strip__trial=view.trial, struck=False).values_list("trait", "recorded_at")
    for task, of_traits in (("measure", measures), ("rate", ratings)):
        for trait, at in of_traits:
            found.setdefault(done_as(task, trait), set()).add(at.date())
    return {name: sorted(dates) for name, dates in found.items()}


def reentry_words(view: TrialView, *, now: datetime | None = None) -> list[str]:
    """The label's re-entry interval where a spray was logged and has not run out."""
    at = now or timezone.now()
    words = []
    for event in view.events:
        until = reentry_until(event)
        if until is None or until <= at:
            continue
        strips = [str(strip.order) for strip in event.strips.all()]
        where = f" on strip{'s' if len(strips) > 1 else ''} {', '.join(strips)}" if strips else ""
        words.append(
            f"Sprayed on {event.happened_on:%d %b}{where}: nobody in before {until:%d %b %H:%M} UTC "
            f"(re-entry {event.reentry_hours} h, as noted from the label). The label is the law."
        )
    return words
