"""Standing counts, loads and events of a trial, and the yields that loads make."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date, datetime
from typing import NamedTuple
from uuid import UUID

from cultrix_core.harvest.loads import LoadShare, net_mass, yield_of_loads

from apps.base.read_once import read_once
from apps.field.events.models import FieldEvent
from apps.field.harvest.ground import area_of
from apps.field.harvest.models import HarvestLoad
from apps.field.stand.models import StandCount
from apps.field.visits.queries import latest_of, spans_of
from apps.trials.models import Trial


@read_once
def counts_of(trial: Trial) -> list[StandCount]:
    """Standing counts of a trial in the order they were made."""
    return list(StandCount.objects.filter(strip__trial=trial, voided=False).select_related("strip", "recorded_by"))


class Counted(NamedTuple):
    """A standing count as far as means and visits need it."""

    strip_id: UUID
    recorded_at: datetime
    plants_per_m2: float
    by_eye: bool
    plan_id: UUID | None
    place: int | None


@read_once
def counted_of(trial: Trial) -> tuple[Counted, ...]:
    """Standing counts of a trial as numbers, in the order they were made."""
    standing = StandCount.objects.filter(strip__trial=trial, voided=False)
    return tuple(Counted(*row) for row in standing.values_list(*Counted._fields))


def counted_by_day(trial: Trial) -> dict[date, list[Counted]]:
    """The same by day."""
    by_day: dict[date, list[Counted]] = {}
    for count in counted_of(trial):
        by_day.setdefault(count.recorded_at.date(), []).append(count)
    return by_day


@read_once
def loads_of(trial: Trial) -> list[HarvestLoad]:
    """Standing loads of a trial."""
    return list(HarvestLoad.objects.filter(strip__trial=trial, voided=False).select_related("strip", "recorded_by"))


def events_of(trial: Trial) -> list[FieldEvent]:
    """The season's log of a trial, earliest first."""
    return list(trial.field_events.filter(voided=False).prefetch_related("strips").select_related("recorded_by"))


def latest_counts(trial: Trial) -> list[StandCount]:
    """The counts of the latest visit to a trial."""
    return latest_of(counts_of(trial), spans_of(trial, "count"))


def yields_of(every: Iterable[HarvestLoad]) -> dict[UUID, float]:
    """Harvested yield in kg/ha by strip id; loads that wait for their moisture have none yet."""
    loads: dict[UUID, list[HarvestLoad]] = {}
    for load in every:
        if load.yield_kg_per_ha is not None:
            loads.setdefault(load.strip_id, []).append(load)
    return {key: yield_of_loads(shares_of(harvest_loads)) for key, harvest_loads in loads.items()}


def shares_of(loads: Iterable[HarvestLoad]) -> list[LoadShare]:
    """Loads of a strip as the core weighs them together."""
    return [
        LoadShare(
            yield_kg_per_ha=load.yield_kg_per_ha,
            area_m2=area_of(load),
        )
        for load in loads
        if load.yield_kg_per_ha is not None
    ]


def net_of_load(load: HarvestLoad) -> float | None:
    """Net weight of a load in kg; None where it was not weighed."""
    return load.net.value if load.gross.value is None else net_mass(gross_kg=load.gross.value, tare_kg=load.tare.value or 0.0)
