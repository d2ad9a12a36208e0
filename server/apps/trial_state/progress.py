"""How far a trial is, in plain numbers and days: what the season line and the visits that are due follow from."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field
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
    sprays: tuple[Spray, ...] = ()
    done: Mapping[str, tuple[date, ...]] = field(default_factory=dict)

    def kept(self) -> dict[str, Any]:
        """As it is stored."""
        kept = asdict(self)
        kept["sprays"] = [
            [spray.sprayed_on.isoformat(), spray.free_at.isoformat(), spray.hours, list(spray.strips)] for spray in self.sprays
        ]
        kept["done"] = {task: [day.isoformat() for day in days] for task, days in self.done.items()}
        return kept


def progress_kept(kept: Mapping[str, Any]) -> Progress:
    """The progress that was stored."""
    sprays = tuple(
        Spray(sprayed_on=date.fromisoformat(on), free_at=datetime.fromisoformat(free), hours=hours, strips=tuple(strips))
        for on, free, hours, strips in kept["sprays"]
    )
    done = {task: tuple(date.fromisoformat(day) for day in days) for task, days in kept["done"].items()}
    return Progress(**{**kept, "factor_kinds": tuple(kept["factor_kinds"]), "sprays": sprays, "done": done})


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
    """How far a trial is, days of the tasks apart (``days_done``)."""
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
        counted=sum(1 for strip_records in result if strip_records.plants_per_m2 is not None),
        sown=sum(1 for strip_records in result if strip_records.sown),
        sampled=sum(1 for strip_records in result if strip_records.samples),
        harvested=sum(1 for strip_records in result if strip_records.yield_kg_per_ha is not None),
        loaded=any(record.loads or record.yield_kg_per_ha is not None for record in records.values()),
        events=len(events),
        sprays=tuple(_sprays(events)),
    )


def _sprays(events: Sequence[FieldEvent]) -> list[Spray]:
    sprays = []
    for event in events:
        free_at = reentry_until(event)
        if free_at is not None and event.reentry_hours is not None:
            orders = tuple(strip.order for strip in event.strips.all())
            sprays.append(Spray(sprayed_on=event.happened_on, free_at=free_at, hours=event.reentry_hours, strips=orders))
    return sprays


def days_done(trial: Trial) -> dict[str, tuple[date, ...]]:
    """Days on which each task of the field book was carried out."""
    days: dict[str, set[date]] = {}
    for task, records in (
        ("count", StandCount.objects.all()),
        ("tape", TapeRun.objects.all()),
        ("dig", DugPlant.objects.all()),
        ("yield", YieldSample.objects.exclude(method="residue")),
    ):
        moments = records.filter(strip__trial=trial, voided=False).values_list("recorded_at", flat=True)
        days[task] = {at.date() for at in moments}
    for task, judged in (("measure", PlantMeasure.objects.all()), ("rate", Rating.objects.all())):
        for trait, at in judged.filter(strip__trial=trial, voided=False).values_list("trait", "recorded_at"):
            days.setdefault(done_as(task, trait), set()).add(at.date())
    return {task: tuple(sorted(of_task)) for task, of_task in days.items()}
