"""What stands on each strip of a trial: means of its records."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from uuid import UUID

from cultrix_core.estimate.propagate import StripEstimate
from cultrix_core.stand.visits import visits_of_days
from cultrix_core.writing import written_day
from django.db.models import Count

from apps.field.events.models import FieldEvent
from apps.field.logs.calibrated_yields import chosen_log
from apps.field.logs.calibrated_yields import read as read_log
from apps.field.planting.clock import StripSowing, days_by_strip, sowings_by_strip
from apps.field.planting.models import DepthCheck, Deviation
from apps.field.queries import loads_of, yields_of
from apps.field.samples.queries import estimates_of, samples_of
from apps.field.season.models import PlantMeasure, Rating
from apps.field.stand.models import StandCount
from apps.field.visits.queries import spans_of
from apps.trials.models import Strip, Trial


@dataclass(frozen=True, slots=True, kw_only=True)
class StripRecords:
    """What stands on one strip; means are None without records. The stand is that of the trial's latest visit.

    ``yield_kg_per_ha`` is that of the source chosen, a log or the loads; ``scale_kg_per_ha`` always that of the loads.
    ``sown_on``: the day its age counts from; ``sowing``: how it was sown, by its records; ``sown_per_m2``: seeds really sown.
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
    sown_on: date | None = None
    measured: int = 0
    rated: int = 0
    sowing: StripSowing | None = None


def strip_records(trial: Trial, every_strip: Sequence[Strip], events: Sequence[FieldEvent] = ()) -> dict[UUID, StripRecords]:
    """Means by strip; ``events`` of the trial are put to the strips they name."""
    number, counts = _counts(trial)
    named: dict[UUID, list[str]] = {}
    for event in events:
        for strip in event.strips.all():
            noted = written_day(event.happened_on, year=False)
            named.setdefault(strip.id, []).append(f"{event.get_kind_display()}, {noted}: {event.text}")
    every_load = loads_of(trial)
    by_scale = yields_of(every_load)
    log = chosen_log(trial)
    yields = (
        by_scale
        if log is None
        else {key: log_strip.yield_kg_per_ha for key, log_strip in read_log(log, every_load).strips.items()}
    )
    sowings = sowings_by_strip(trial)
    sown_on = days_by_strip(trial, (strip.id for strip in every_strip), sowings)
    depths: dict[UUID, list[float]] = {}
    for strip_id, depth in DepthCheck.objects.filter(strip__trial=trial, voided=False).values_list("strip_id", "depth_m"):
        depths.setdefault(strip_id, []).append(depth or 0.0)
    deviations: dict[UUID, list[str]] = {}
    for deviation in Deviation.objects.filter(strip__trial=trial, voided=False):
        deviations.setdefault(deviation.strip_id, []).append(deviation.get_kind_display())
    measured, rated = (_numbers(model, trial) for model in (PlantMeasure, Rating))
    samples = samples_of(trial)
    strips = {strip.id: strip for strip in every_strip}
    estimates = estimates_of(trial, samples, strips, alpha=trial.alpha) if samples else None
    return {
        strip.id: StripRecords(
            counts=number[strip.id],
            plants_per_m2=sum(counts[strip.id]) / len(counts[strip.id]) if strip.id in counts else None,
            loads=sum(1 for load in every_load if load.strip_id == strip.id),
            yield_kg_per_ha=yields.get(strip.id),
            scale_kg_per_ha=by_scale.get(strip.id),
            sown=strip.id in sowings,
            depth_m=sum(depths[strip.id]) / len(depths[strip.id]) if strip.id in depths else None,
            depths=len(depths.get(strip.id, [])),
            deviations=tuple(deviations.get(strip.id, [])),
            events=tuple(named.get(strip.id, [])),
            samples=sum(1 for sample in samples if sample.strip_id == strip.id),
            estimate=estimates.strips.get(strip.id) if estimates else None,
            sown_per_m2=sowings[strip.id].seeds_per_m2 if strip.id in sowings else None,
            sown_on=sown_on.get(strip.id),
            sowing=sowings.get(strip.id),
            measured=measured[strip.id],
            rated=rated[strip.id],
        )
        for strip in strips.values()
    }


def _numbers(model: type[PlantMeasure] | type[Rating], trial: Trial) -> Counter[UUID]:
    """How many standing records of a kind each strip has."""
    standing = model._default_manager.filter(strip__trial=trial, voided=False).order_by()
    return Counter(dict(standing.values_list("strip_id").annotate(number=Count("id"))))


def _counts(trial: Trial) -> tuple[Counter[UUID], dict[UUID, list[float]]]:
    """How many standing counts each strip has, and the stands of those of the latest visit."""
    number: Counter[UUID] = Counter()
    by_day: dict[date, list[tuple[UUID, float]]] = {}
    standing = StandCount.objects.filter(strip__trial=trial, voided=False)
    for strip_id, at, per_m2 in standing.values_list("strip_id", "recorded_at", "plants_per_m2"):
        number[strip_id] += 1
        by_day.setdefault(at.date(), []).append((strip_id, per_m2))
    counts: dict[UUID, list[float]] = {}
    for day in visits_of_days(by_day, spans_of(trial, "count"))[-1] if by_day else ():
        for strip_id, per_m2 in by_day[day]:
            counts.setdefault(strip_id, []).append(per_m2)
    return number, counts
