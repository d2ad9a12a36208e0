"""How far a trial is, in plain numbers and days: what the season line and the visits that are due follow from."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field, replace
from datetime import date, datetime
from typing import Any
from uuid import UUID

from cultrix_core.season.schedule import done_as

from apps.field.events.models import FieldEvent
from apps.field.events.queries import reentry_until
from apps.field.samples.models import YieldSample
from apps.field.season.models import DugPlant, PlantMeasure, Rating, TapeRun
from apps.field.stand.models import StandCount
from apps.trial_state.strip_records import StripRecords
from apps.trials.models import Factor, Strip, Treatment, Trial


@dataclass(frozen=True, slots=True, kw_only=True)
class Spray:
    """A spray with a re-entry interval; ``strips``: their numbers, none where it went everywhere."""

    sprayed_on: date
    free_at: datetime
    hours: int
    strips: tuple[int, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class SownTogether:
    """Strips that were sown on one day, by their numbers, and the days on which each task was done on any of them."""

    day: date
    strips: tuple[int, ...]
    done: Mapping[str, tuple[date, ...]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class Progress:
    """Numbers of a trial. Strips that count are those that stand; ``loaded``: whether anything was harvested at all."""

    treatments: int
    has_control: bool
    factor_kinds: tuple[str, ...]
    has_lot: bool
    frozen: bool
    strips: int
    blocks: int
    lost: int
    sown_otherwise: int
    standing: int
    counted: int
    sown: int
    sampled: int
    harvested: int
    loaded: bool
    events: int
    measured: int = 0
    rated: int = 0
    sprays: tuple[Spray, ...] = ()
    sown_together: tuple[SownTogether, ...] = ()

    def kept(self) -> dict[str, Any]:
        """As it is stored."""
        kept = asdict(self)
        kept["sprays"] = [
            [spray.sprayed_on.isoformat(), spray.free_at.isoformat(), spray.hours, list(spray.strips)] for spray in self.sprays
        ]
        kept["sown_together"] = [
            [
                group.day.isoformat(),
                list(group.strips),
                {task: [day.isoformat() for day in days] for task, days in group.done.items()},
            ]
            for group in self.sown_together
        ]
        return kept


def progress_kept(kept: Mapping[str, Any]) -> Progress:
    """The progress that was stored."""
    sprays = tuple(
        Spray(sprayed_on=date.fromisoformat(on), free_at=datetime.fromisoformat(free), hours=hours, strips=tuple(strips))
        for on, free, hours, strips in kept["sprays"]
    )
    sown = tuple(
        SownTogether(
            day=date.fromisoformat(day),
            strips=tuple(strips),
            done={task: tuple(date.fromisoformat(on) for on in days) for task, days in done.items()},
        )
        for day, strips, done in kept["sown_together"]
    )
    return Progress(**{**kept, "factor_kinds": tuple(kept["factor_kinds"]), "sprays": sprays, "sown_together": sown})


def progress_of(
    *,
    factors: Sequence[Factor],
    treatments: Sequence[Treatment],
    strips: Sequence[Strip],
    records: Mapping[UUID, StripRecords],
    events: Sequence[FieldEvent],
    has_lot: bool,
    frozen: bool,
) -> Progress:
    """How far a trial is, days of the tasks apart (``with_days_done``)."""
    standing = [strip for strip in strips if not strip.lost]
    result = [records[strip.id] for strip in standing]
    return Progress(
        treatments=len(treatments),
        has_control=any(treatment.is_control for treatment in treatments),
        factor_kinds=tuple(factor.kind for factor in factors),
        has_lot=has_lot,
        frozen=frozen,
        strips=len(strips),
        blocks=len({strip.block_id for strip in strips}),
        lost=len(strips) - len(standing),
        sown_otherwise=sum(1 for strip in strips if strip.sown_treatment_id),
        standing=len(standing),
        counted=_counted(result),
        sown=sum(1 for strip_records in result if strip_records.sown),
        sampled=sum(1 for strip_records in result if strip_records.samples),
        harvested=sum(1 for strip_records in result if strip_records.yield_kg_per_ha is not None),
        loaded=any(record.loads or record.yield_kg_per_ha is not None for record in records.values()),
        events=len(events),
        measured=sum(record.measured for record in records.values()),
        rated=sum(record.rated for record in records.values()),
        sprays=tuple(_sprays(events)),
        sown_together=tuple(_sown_together(standing, records)),
    )


def _sprays(events: Sequence[FieldEvent]) -> list[Spray]:
    sprays = []
    for event in events:
        free_at = reentry_until(event)
        if free_at is not None and event.reentry_hours is not None:
            orders = tuple(strip.order for strip in event.strips.all())
            sprays.append(Spray(sprayed_on=event.happened_on, free_at=free_at, hours=event.reentry_hours, strips=orders))
    return sprays


def _counted(records: Sequence[StripRecords]) -> int:
    """Strips counted at the latest visit; strips of a sowing that was not visited then, if they were counted at all."""
    visited = {record.sown_on for record in records if record.plants_per_m2 is not None}
    return sum(
        1 for record in records if (record.plants_per_m2 is not None if record.sown_on in visited else record.counts > 0)
    )


def _sown_together(standing: Sequence[Strip], records: Mapping[UUID, StripRecords]) -> list[SownTogether]:
    groups: dict[date, list[int]] = {}
    for strip in standing:
        day = records[strip.id].sown_on
        if day is not None:
            groups.setdefault(day, []).append(strip.order)
    return [SownTogether(day=day, strips=tuple(orders)) for day, orders in sorted(groups.items())]


def with_days_done(progress: Progress, trial: Trial) -> Progress:
    """The same with the days on which each task of the field book was done, by the strips' day of sowing."""
    days: dict[tuple[int, str], set[date]] = {}
    for task, records in (
        ("count", StandCount.objects.all()),
        ("tape", TapeRun.objects.all()),
        ("dig", DugPlant.objects.all()),
        ("yield", YieldSample.objects.exclude(method="residue")),
    ):
        moments = records.filter(strip__trial=trial, voided=False).values_list("strip__order", "recorded_at")
        for order, at in moments:
            days.setdefault((order, task), set()).add(at.date())
    for task, judged in (("measure", PlantMeasure.objects.all()), ("rate", Rating.objects.all())):
        named = judged.filter(strip__trial=trial, voided=False).values_list("strip__order", "trait", "recorded_at")
        for order, trait, at in named:
            days.setdefault((order, done_as(task, trait)), set()).add(at.date())
    groups = []
    for group in progress.sown_together:
        done: dict[str, set[date]] = {}
        for (order, task), on in days.items():
            if order in group.strips:
                done.setdefault(task, set()).update(on)
        groups.append(replace(group, done={task: tuple(sorted(on)) for task, on in sorted(done.items())}))
    return replace(progress, sown_together=tuple(groups))
