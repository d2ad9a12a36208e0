"""All counts of a trial by visit and by strip, each strip on its own clock."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from functools import cached_property
from uuid import UUID

from cultrix_core.stand.emergence_by_strip import EmergenceByStrip, StripVisits, emergence_by_strip

from apps.field.stand.models import StandCount
from apps.field.visits.queries import day_of, visits_of
from apps.trial_state.view import TrialView
from apps.trials.models import Strip, Treatment


@dataclass(frozen=True, kw_only=True)
class StandOverTime:
    """All counts of a trial by visit and by strip, each strip on its own clock."""

    view: TrialView
    counts: Sequence[StandCount]

    @cached_property
    def visits(self) -> list[tuple[date, dict[UUID, list[float]]]]:
        """First day of each visit and the stands counted on each strip."""
        visits = []
        for days in visits_of(self.view.trial, "count", (day_of(count) for count in self.counts)):
            of: dict[UUID, list[float]] = defaultdict(list)
            for count in self.counts:
                if day_of(count) in days:
                    of[count.strip_id].append(count.plants_per_m2)
            visits.append((days[0], dict(of)))
        return visits

    def age(self, strip: Strip, day: date) -> int | None:
        """Days from the strip's own sowing; None before it and where it is not known."""
        sown = self.view.records[strip.id].sown_on
        return None if sown is None or day < sown else (day - sown).days

    def strips_of(self, treatment: Treatment) -> list[Strip]:
        """Standing strips that got a treatment."""
        return [strip for strip in self.view.strips if strip.received.id == treatment.id and not strip.lost]

    @cached_property
    def area_by_strip(self) -> dict[UUID, float]:
        """Ground counted on each strip at its latest day, m²."""
        latest: dict[UUID, date] = {}
        for count in self.counts:
            latest[count.strip_id] = max(latest.get(count.strip_id, day_of(count)), day_of(count))
        areas: dict[UUID, float] = defaultdict(float)
        for count in self.counts:
            if day_of(count) == latest[count.strip_id]:
                areas[count.strip_id] += _area(count)
        return dict(areas)

    @cached_property
    def by_strip(self) -> EmergenceByStrip:
        """Times of every strip that was counted after its sowing."""
        rows = []
        for strip in self.view.strips:
            by_age: dict[int, list[StandCount]] = defaultdict(list)
            for count in self.counts:
                age = self.age(strip, day_of(count)) if count.strip_id == strip.id else None
                if age is not None:
                    by_age[age].append(count)
            if by_age and not strip.lost:
                rows.append(_strip_visits(strip, by_age))
        return emergence_by_strip(rows)


def _strip_visits(strip: Strip, by_age: Mapping[int, Sequence[StandCount]]) -> StripVisits:
    ages = sorted(by_age)
    return StripVisits(
        strip=str(strip.id),
        days=tuple(ages),
        plants_per_m2=tuple(_mean([count.plants_per_m2 for count in by_age[age]]) for age in ages),
        area_m2=tuple(sum(_area(count) for count in by_age[age]) for age in ages),
    )


def _area(count: StandCount) -> float:
    """Ground that a count looked at; one square metre where it found nothing to tell it by."""
    return count.plants / count.plants_per_m2 if count.plants_per_m2 else 1.0


def _mean(values: Sequence[float]) -> float:
    return sum(values) / len(values)
