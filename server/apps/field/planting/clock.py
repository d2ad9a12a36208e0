"""The clock of each strip: the day from which its age, its heat units and its visits are counted.

Seed that goes in over several passes counts from the first of them; a strip that is sown again counts from then. A strip
without a record of its own has the day typed for the trial.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import date
from uuid import UUID

from django.utils import timezone

from apps.accounts.models import User
from apps.base.read_once import read_once
from apps.farms.models import Machine, SeedLot
from apps.field.planting.models import PlantingRecord
from apps.trials.models import Trial


@dataclass(frozen=True, slots=True, kw_only=True)
class StripSowing:
    """How a strip was sown: its day, the seeds in the ground since then, what it was done with."""

    day: date
    again: bool
    passes: int
    seeds_per_m2: float | None
    machine: Machine | None
    lot: SeedLot | None
    person: User


def day_sown(record: PlantingRecord) -> date:
    """The day of a record of sowing."""
    return timezone.localtime(record.sown_at).date()


@read_once
def sowings_by_strip(trial: Trial) -> dict[UUID, StripSowing]:
    """How each strip with a record was sown."""
    records: dict[UUID, list[PlantingRecord]] = {}
    standing = PlantingRecord.objects.filter(strip__trial=trial, voided=False).select_related("machine", "lot", "recorded_by")
    for record in standing.order_by("sown_at", "received_at"):
        records.setdefault(record.strip_id, []).append(record)
    return {strip_id: _of_strip(sowings) for strip_id, sowings in records.items()}


def _of_strip(records: list[PlantingRecord]) -> StripSowing:
    begins = max((place for place, record in enumerate(records) if record.way == "again"), default=0)
    standing = records[begins:]
    main = [record for record in standing if record.way != "pass"]
    # two records of the same sowing: the later one says it, as a correction does
    rates = [main[-1].rate.value if main else None, *(record.rate.value for record in standing if record.way == "pass")]
    known = [rate for rate in rates if rate is not None]
    first, last = standing[0], (main or standing)[-1]
    return StripSowing(
        day=day_sown(first),
        again=first.way == "again",
        passes=len({record.id for record in standing if record.way == "pass"}) + 1,
        seeds_per_m2=sum(known) if known else None,
        machine=last.machine,
        lot=last.lot,
        person=last.recorded_by,
    )


def days_by_strip(trial: Trial, strip_ids: Iterable[UUID], sowings: Mapping[UUID, StripSowing]) -> dict[UUID, date]:
    """The day of sowing of each strip that has one, by its record or as typed for the trial."""
    days = {strip_id: sowings[strip_id].day if strip_id in sowings else trial.planted_on for strip_id in strip_ids}
    return {strip_id: day for strip_id, day in days.items() if day is not None}
