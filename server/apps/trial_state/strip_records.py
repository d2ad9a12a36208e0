"""What stands on each strip of a trial: means of its records."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, date
from functools import cached_property
from uuid import UUID

from cultrix_core.estimate.propagate import StripEstimate
from cultrix_core.stand.visits import visits_of_days
from cultrix_core.writing import written_day
from django.db.models import Avg, Count
from django.db.models.functions import TruncDate

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


class RecordsOfTrial:
    """The standing records of a trial by strip. Each kind is read from the database when it is first asked for, and once."""

    def __init__(self, trial: Trial, strips: Sequence[Strip], events: Sequence[FieldEvent]) -> None:
        self.trial, self.strips, self.events = trial, strips, events

    @cached_property
    def noted(self) -> dict[UUID, list[str]]:
        """Events of the season that name the strip, in words."""
        named: dict[UUID, list[str]] = {}
        for event in self.events:
            for strip in event.strips.all():
                noted = written_day(event.happened_on, year=False)
                named.setdefault(strip.id, []).append(f"{event.get_kind_display()}, {noted}: {event.text}")
        return named

    @cached_property
    def loads(self) -> Counter[UUID]:
        """How many loads each strip has."""
        return Counter(load.strip_id for load in loads_of(self.trial))

    @cached_property
    def by_scale(self) -> dict[UUID, float]:
        """Yields of the loads in kg/ha."""
        return yields_of(loads_of(self.trial))

    @cached_property
    def yields(self) -> Mapping[UUID, float | None]:
        """Yields of the source chosen in kg/ha."""
        log = chosen_log(self.trial)
        if log is None:
            return self.by_scale
        return {key: log_strip.yield_kg_per_ha for key, log_strip in read_log(log, loads_of(self.trial)).strips.items()}

    @cached_property
    def sowings(self) -> dict[UUID, StripSowing]:
        """How strips with a record were sown."""
        return sowings_by_strip(self.trial)

    @cached_property
    def sown_on(self) -> dict[UUID, date]:
        """The day each strip's age counts from."""
        return days_by_strip(self.trial, (strip.id for strip in self.strips), self.sowings)

    @cached_property
    def depths(self) -> dict[UUID, list[float]]:
        """Depths of seed in m."""
        depths: dict[UUID, list[float]] = {}
        checks = DepthCheck.objects.filter(strip__trial=self.trial, voided=False)
        for strip_id, depth in checks.values_list("strip_id", "depth_m"):
            depths.setdefault(strip_id, []).append(depth or 0.0)
        return depths

    @cached_property
    def deviations(self) -> dict[UUID, list[str]]:
        """What went otherwise than planned at planting, in words."""
        deviations: dict[UUID, list[str]] = {}
        for deviation in Deviation.objects.filter(strip__trial=self.trial, voided=False):
            deviations.setdefault(deviation.strip_id, []).append(deviation.get_kind_display())
        return deviations

    @cached_property
    def measured(self) -> Counter[UUID]:
        """How many measurements each strip has."""
        return _numbers(PlantMeasure, self.trial)

    @cached_property
    def rated(self) -> Counter[UUID]:
        """How many ratings each strip has."""
        return _numbers(Rating, self.trial)

    @cached_property
    def samples(self) -> Counter[UUID]:
        """How many samples of yield each strip has."""
        return Counter(sample.strip_id for sample in samples_of(self.trial))

    @cached_property
    def estimates(self) -> Mapping[UUID, StripEstimate]:
        """Yields estimated from the latest look at samples."""
        samples, strips = samples_of(self.trial), {strip.id: strip for strip in self.strips}
        estimates = estimates_of(self.trial, samples, strips, alpha=self.trial.alpha) if samples else None
        return estimates.strips if estimates else {}

    @cached_property
    def stands(self) -> tuple[Counter[UUID], dict[UUID, float]]:
        """How many counts each strip has, and the mean stand of those of the latest visit, in plants per m²."""
        number: Counter[UUID] = Counter()
        by_day: dict[date, dict[UUID, tuple[float, int]]] = {}
        for strip_id, day, mean, times in _daily_counts(self.trial):
            number[strip_id] += times
            by_day.setdefault(day, {})[strip_id] = (mean, times)
        totals: dict[UUID, tuple[float, int]] = {}
        for day in visits_of_days(by_day, spans_of(self.trial, "count"))[-1] if by_day else ():
            for strip_id, (mean, times) in by_day[day].items():
                total, so_far = totals.get(strip_id, (0.0, 0))
                totals[strip_id] = (total + mean * times, so_far + times)
        return number, {strip_id: total / times for strip_id, (total, times) in totals.items()}


@dataclass(frozen=True, slots=True)
class StripRecords:
    """What stands on one strip; means are None without records."""

    of: RecordsOfTrial
    strip_id: UUID

    @property
    def counts(self) -> int:
        """How many counts stand."""
        return self.of.stands[0][self.strip_id]

    @property
    def plants_per_m2(self) -> float | None:
        """The stand of the trial's latest visit."""
        return self.of.stands[1].get(self.strip_id)

    @property
    def loads(self) -> int:
        """How many loads stand."""
        return self.of.loads[self.strip_id]

    @property
    def yield_kg_per_ha(self) -> float | None:
        """Yield of the source chosen, a log or the loads."""
        return self.of.yields.get(self.strip_id)

    @property
    def scale_kg_per_ha(self) -> float | None:
        """Yield of the loads, whatever source is chosen."""
        return self.of.by_scale.get(self.strip_id)

    @property
    def sown(self) -> bool:
        """Whether its sowing is recorded."""
        return self.strip_id in self.of.sowings

    @property
    def sowing(self) -> StripSowing | None:
        """How it was sown, by its records."""
        return self.of.sowings.get(self.strip_id)

    @property
    def sown_per_m2(self) -> float | None:
        """Seeds really sown."""
        return self.sowing.seeds_per_m2 if self.sowing else None

    @property
    def sown_on(self) -> date | None:
        """The day its age counts from."""
        return self.of.sown_on.get(self.strip_id)

    @property
    def depth_m(self) -> float | None:
        """Mean depth of seed."""
        depths = self.of.depths.get(self.strip_id)
        return sum(depths) / len(depths) if depths else None

    @property
    def depths(self) -> int:
        """How many depths stand."""
        return len(self.of.depths.get(self.strip_id, []))

    @property
    def deviations(self) -> tuple[str, ...]:
        """What went otherwise than planned at planting."""
        return tuple(self.of.deviations.get(self.strip_id, ()))

    @property
    def events(self) -> tuple[str, ...]:
        """Events of the season that name it."""
        return tuple(self.of.noted.get(self.strip_id, ()))

    @property
    def samples(self) -> int:
        """How many samples of yield stand."""
        return self.of.samples[self.strip_id]

    @property
    def estimate(self) -> StripEstimate | None:
        """Its yield estimated from samples."""
        return self.of.estimates.get(self.strip_id)

    @property
    def measured(self) -> int:
        """How many measurements stand."""
        return self.of.measured[self.strip_id]

    @property
    def rated(self) -> int:
        """How many ratings stand."""
        return self.of.rated[self.strip_id]


def strip_records(trial: Trial, strips: Sequence[Strip], events: Sequence[FieldEvent] = ()) -> dict[UUID, StripRecords]:
    """Records by strip; ``events`` of the trial are put to the strips they name."""
    of_trial = RecordsOfTrial(trial, strips, events)
    return {strip.id: StripRecords(of_trial, strip.id) for strip in strips}


def _numbers(model: type[PlantMeasure] | type[Rating], trial: Trial) -> Counter[UUID]:
    """How many standing records of a kind each strip has."""
    standing = model._default_manager.filter(strip__trial=trial, voided=False).order_by()
    return Counter(dict(standing.values_list("strip_id").annotate(number=Count("id"))))


def _daily_counts(trial: Trial) -> list[tuple[UUID, date, float, int]]:
    """Mean stand and number of standing counts by strip and day, from the database."""
    standing = StandCount.objects.filter(strip__trial=trial, voided=False).order_by()
    days = standing.annotate(day=TruncDate("recorded_at", tzinfo=UTC)).values_list("strip_id", "day")
    return list(days.annotate(mean=Avg("plants_per_m2"), times=Count("id")))
