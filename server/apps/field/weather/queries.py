"""The weather of a workspace, by day."""

from __future__ import annotations

from dataclasses import replace
from datetime import date
from functools import lru_cache

from cultrix_core.season.heat_units import Day
from cultrix_core.season.weather import read_weather, write_weather
from cultrix_core.simulate.weather import Climate
from cultrix_core.simulate.weather import station as simulated

from apps.accounts.models import Workspace
from apps.field.weather.models import Station

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
        Day(on=day.on, min_c=day.min_c, max_c=day.max_c, rain_mm=day.rain_mm, soil_c=day.soil_c)
        for day in station.days.filter(on__lte=today)
    )


@lru_cache(maxsize=8)
def read_station(seed: int, southern: bool, today: date) -> tuple[Day, ...]:
    """What the simulated station reports, read as a file is: its text goes through the same parser."""
    climate = Climate()
    if southern:
        climate = replace(climate, warmest_day=SOUTH_WARMEST_DAY)
    return read_weather(write_weather(simulated(seed, until=today, climate=climate)))
