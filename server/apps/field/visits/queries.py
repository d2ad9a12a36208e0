"""Which days of a trial are one visit."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import date, datetime
from typing import Literal, Protocol, TypeVar

from cultrix_core.stand.visits import Span, visits_of_days
from cultrix_core.writing import written_days, written_strips

from apps.base.read_once import read_once
from apps.field.visits.models import JoinedVisit
from apps.records.models import FieldRecord
from apps.trials.models import Trial

Task = Literal["count", "tape", "dug", "measure", "rating", "reading", "yield"]
Days = tuple[date, ...]
NEAR_DAYS = 7  # a count that takes longer is two: only asked about, nothing is joined by it
Record = TypeVar("Record", bound=FieldRecord)


class Recorded(Protocol):
    """Whatever was made at a moment."""

    @property
    def recorded_at(self) -> datetime:
        """When it was made."""
        ...


def day_of(record: Recorded) -> date:
    """The day a record was made on."""
    return record.recorded_at.date()


def joined_of(trial: Trial, task: Task) -> list[JoinedVisit]:
    """What a person joined, earliest first."""
    return [joined for joined in _joined(trial) if joined.task == task]


@read_once
def _joined(trial: Trial) -> list[JoinedVisit]:
    return list(JoinedVisit.objects.filter(trial=trial, voided=False).select_related("recorded_by"))


def spans_of(trial: Trial, task: Task) -> tuple[Span, ...]:
    """First and last days of what a person joined."""
    return tuple((joined.first_on, joined.last_on) for joined in joined_of(trial, task))


def visits_of(trial: Trial, task: Task, days: Iterable[date]) -> tuple[Days, ...]:
    """Visits that the days of a task make, earliest first."""
    return visits_of_days(days, spans_of(trial, task))


def latest_of(records: Sequence[Record], spans: Sequence[Span]) -> list[Record]:
    """Records of the latest visit among these."""
    visits = visits_of_days((day_of(record) for record in records), spans)
    return [record for record in records if day_of(record) in visits[-1]] if visits else []


def other_visits(records: Iterable[tuple[int, date]], chosen: Days, *, verb: str) -> list[str]:
    """Strips that have records of other visits only, in words: what a table of one visit leaves out, and why.

    ``records``: number of the strip and day of each record; ``verb``: what was done to them, such as “counted”.
    """
    days: dict[int, set[date]] = {}
    for order, day in records:
        days.setdefault(order, set()).add(day)
    groups: dict[date, list[int]] = {}
    for order, on in days.items():
        if not on & set(chosen):
            nearest = min(on, key=lambda day: (min(abs((day - own).days) for own in chosen), day))
            groups.setdefault(nearest, []).append(order)
    return [
        f"{written_strips(orders).capitalize()}: {verb} on {written_days([day], year=False)}, another visit, so not in this "
        f"table.{' Join the days if it was one visit.' if _near(day, chosen) else ''}"
        for day, orders in sorted(groups.items())
    ]


def _near(day: date, chosen: Days) -> bool:
    """Whether one count may have taken so long."""
    return min(abs((day - own).days) for own in chosen) <= NEAR_DAYS
