"""Reading records: per strip and per trial."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from uuid import UUID

from cultrix_core.estimate.propagate import StripEstimate
from cultrix_core.harvest.loads import LoadShare, yield_of_loads
from cultrix_core.stand.visits import visits_of_days

from apps.estimates.models import GrainSample, YieldSample
from apps.estimates.reading import estimates_of, samples_of
from apps.planting.models import DepthCheck, Deviation, PlantingRecord, SeedbedCheck
from apps.records.ground import area_of
from apps.records.models import FieldEvent, HarvestLoad, StandCount
from apps.scouting.models import DugPlant, Photo, PlantMeasure, Rating, TapeRun
from apps.trials.models import Strip, Trial
from apps.yieldlogs.reading import chosen_log
from apps.yieldlogs.reading import read as read_log


@dataclass(frozen=True, slots=True, kw_only=True)
class StripRecords:
    """What stands on one strip; means are None without records. The stand is that of the trial's latest visit.

    ``yield_kg_per_ha`` is that of the source chosen, a log or the loads; ``scale_kg_per_ha`` always that of the loads.
    ``sown_per_m2``: seeds really sown, by the latest planting record.
    """

    counts: int
    plants_per_m2: float | None
    loads: int
    yield_kg_per_ha: float | None
    scale_kg_per_ha: float | None
    sown: bool
    depth_m: float | None
    depths: int
    deviations: tuple[str, ...]
    events: tuple[str, ...] = ()
    samples: int = 0
    estimate: StripEstimate | None = None
    sown_per_m2: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordTally:
    """How many records hang on something; ``planting``: of sowing, depths, deviations; ``season``: of tapes to photos."""

    counts: int
    loads: int
    planting: int = 0
    season: int = 0

    def __bool__(self) -> bool:
        return bool(self.counts or self.loads or self.planting or self.season)

    @property
    def words(self) -> str:
        """Such as “12 stand counts and 3 loads”."""
        parts = [
            f"{number} {name}{'s' if number != 1 else ''}"
            for number, name in (
                (self.counts, "stand count"),
                (self.loads, "load"),
                (self.planting, "record of planting"),
                (self.season, "record of the season"),
            )
            if number
        ]
        words = " and ".join(parts)
        return words.replace("record of plantings", "records of planting").replace(
            "record of the seasons", "records of the season"
        )


def counts_of(trial: Trial) -> list[StandCount]:
    """Standing counts of a trial in the order they were made."""
    return list(StandCount.objects.filter(strip__trial=trial, struck=False).select_related("strip", "recorded_by"))


def loads_of(trial: Trial) -> list[HarvestLoad]:
    """Standing loads of a trial."""
    return list(HarvestLoad.objects.filter(strip__trial=trial, struck=False).select_related("strip", "recorded_by"))


def events_of(trial: Trial) -> list[FieldEvent]:
    """The season's log of a trial, earliest first."""
    return list(trial.field_events.filter(struck=False).prefetch_related("strips").select_related("recorded_by"))


def tally(strips: Iterable[Strip]) -> RecordTally:
    """Records on these strips, struck ones included: they are history that must not lose its strip."""
    ids = [strip.id for strip in strips]
    of_planting = (PlantingRecord, DepthCheck, Deviation, SeedbedCheck)
    of_season = (TapeRun, DugPlant, PlantMeasure, Rating, Photo, YieldSample, GrainSample)
    return RecordTally(
        counts=StandCount.objects.filter(strip_id__in=ids).count(),
        loads=HarvestLoad.objects.filter(strip_id__in=ids).count(),
        planting=sum(model._default_manager.filter(strip_id__in=ids).count() for model in of_planting),
        season=sum(model._default_manager.filter(strip_id__in=ids).count() for model in of_season),
    )


def latest_visit(counts: Sequence[StandCount]) -> list[StandCount]:
    """The counts of the latest visit among these."""
    visits = visits_of_days(count.recorded_at.date() for count in counts)
    return [count for count in counts if count.recorded_at.date() in visits[-1]] if visits else []


def strip_records(trial: Trial, events: Sequence[FieldEvent] = ()) -> dict[UUID, StripRecords]:
    """Means by strip; ``events`` of the trial are put to the strips they name."""
    found: dict[UUID, list[StandCount]] = {}
    every = counts_of(trial)
    for count in every:
        found.setdefault(count.strip_id, []).append(count)
    counts: dict[UUID, list[float]] = {}
    for count in latest_visit(every):
        counts.setdefault(count.strip_id, []).append(count.plants_per_m2)
    named: dict[UUID, list[str]] = {}
    for event in events:
        for strip in event.strips.all():
            named.setdefault(strip.id, []).append(f"{event.get_kind_display()}, {event.happened_on:%d %b}: {event.text}")
    every_load = loads_of(trial)
    by_scale = yields_of(every_load)
    log = chosen_log(trial)
    yields = by_scale if log is None else {key: one.yield_kg_per_ha for key, one in read_log(log, every_load).strips.items()}
    sown = dict(PlantingRecord.objects.filter(strip__trial=trial, struck=False).values_list("strip_id", "rate_per_m2"))
    depths: dict[UUID, list[float]] = {}
    for strip_id, depth in DepthCheck.objects.filter(strip__trial=trial, struck=False).values_list("strip_id", "depth_m"):
        depths.setdefault(strip_id, []).append(depth or 0.0)
    deviations: dict[UUID, list[str]] = {}
    for one in Deviation.objects.filter(strip__trial=trial, struck=False):
        deviations.setdefault(one.strip_id, []).append(one.get_kind_display())
    samples = samples_of(trial)
    strips = {strip.id: strip for strip in trial.strips.all()}
    estimates = estimates_of(trial, samples, strips, alpha=trial.alpha) if samples else None
    return {
        strip.id: StripRecords(
            counts=len(found.get(strip.id, [])),
            plants_per_m2=sum(counts[strip.id]) / len(counts[strip.id]) if strip.id in counts else None,
            loads=sum(1 for load in every_load if load.strip_id == strip.id),
            yield_kg_per_ha=yields.get(strip.id),
            scale_kg_per_ha=by_scale.get(strip.id),
            sown=strip.id in sown,
            depth_m=sum(depths[strip.id]) / len(depths[strip.id]) if strip.id in depths else None,
            depths=len(depths.get(strip.id, [])),
            deviations=tuple(deviations.get(strip.id, [])),
            events=tuple(named.get(strip.id, [])),
            samples=sum(1 for sample in samples if sample.strip_id == strip.id),
            estimate=estimates.strips.get(strip.id) if estimates else None,
            sown_per_m2=sown.get(strip.id),
        )
        for strip in strips.values()
    }


def yields_of(every: Iterable[HarvestLoad]) -> dict[UUID, float]:
    """Harvested yield in kg/ha by strip id; loads that wait for their moisture have none yet."""
    loads: dict[UUID, list[HarvestLoad]] = {}
    for load in every:
        if load.yield_kg_per_ha is not None:
            loads.setdefault(load.strip_id, []).append(load)
    return {key: yield_of_loads(shares_of(own)) for key, own in loads.items()}


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
