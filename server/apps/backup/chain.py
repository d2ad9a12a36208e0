"""History chained day by day: a row that was altered, added late or taken away without a stone is found.

Made by the worker once a day is over, never in a write. Whoever keeps the printed head of a day can show years later that
nothing before it was changed (``manage.py history_heads``); who may change the database may also chain anew, so a head that
nobody keeps elsewhere shows faults and slips only.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from typing import Any

from django.apps import apps
from django.core.serializers.json import DjangoJSONEncoder
from django.db import models, transaction
from django.db.models import Min
from django.utils import timezone

from apps.backup.models import HistoryDay, HistoryTombstone

MOST_TOLD = 5
Columns = dict[str, list[str]]


@dataclass(frozen=True, slots=True, kw_only=True)
class Broken:
    """A day whose rows do not make its head any more."""

    day: date
    why: str


def tables() -> dict[str, type[models.Model]]:
    """Every table of history by its name; which strips an event names hangs on its row and has no day of its own."""
    dated = (model for model in apps.get_models() if hasattr(model, "history_date"))
    return {model._meta.db_table: model for model in dated}


def chain() -> int:
    """Chain the days that are over; returns how many there were. Days without a row are no links."""
    last = HistoryDay.objects.last()
    start = last.day + timedelta(days=1) if last else _first_day()
    made = 0
    while start is not None and start < timezone.now().astimezone(UTC).date():
        made += _link(start)
        start += timedelta(days=1)
    return made


def _link(day: date) -> int:
    columns = {name: [field.attname for field in model._meta.concrete_fields] for name, model in tables().items()}
    digests = dict(_digests(day, columns))
    if not digests:
        return 0
    with transaction.atomic():
        last = HistoryDay.objects.last()
        before = last.head if last else ""
        HistoryDay.objects.create(day=day, before=before, head=_head(before, digests), rows=len(digests), columns=columns)
    return 1


def verify() -> list[Broken]:
    """Days that do not fit, the earliest first; every row that is chained is read."""
    broken, before = [], ""
    for link in HistoryDay.objects.iterator():
        digests = dict(_digests(link.day, link.columns))
        stones = HistoryTombstone.objects.filter(day=link.day).values_list("table", "row", "digest")
        digests |= {f"{table}:{row}": digest for table, row, digest in stones}
        if link.before != before:
            broken.append(Broken(day=link.day, why="it does not follow the day before it"))
        elif len(digests) != link.rows:
            broken.append(Broken(day=link.day, why=f"{link.rows} rows were chained, {len(digests)} are there"))
        elif _head(link.before, digests) != link.head:
            broken.append(Broken(day=link.day, why="a row is not what it was"))
        before = link.head
    return broken


def lay_stones(model: type[models.Model], keys: Iterable[Any]) -> None:
    """Keep the digests of rows of history that are about to be removed, as far as they are chained."""
    if model not in tables().values():
        return
    chained = {link.day: link.columns for link in HistoryDay.objects.all()}
    table = model._meta.db_table
    stones = []
    for row in model._default_manager.filter(pk__in=list(keys)).values():
        day = row["history_date"].astimezone(UTC).date()
        if day in chained and table in chained[day]:
            digest = _digest({name: row[name] for name in chained[day][table] if name in row})
            stones.append(HistoryTombstone(table=table, row=str(row["history_id"]), day=day, digest=digest))
    HistoryTombstone.objects.bulk_create(stones, batch_size=400, ignore_conflicts=True)


def _first_day() -> date | None:
    firsts = [model._default_manager.aggregate(first=Min("history_date"))["first"] for model in tables().values()]
    known = [first for first in firsts if first is not None]
    return min(known).astimezone(UTC).date() if known else None


def _digests(day: date, columns: Columns) -> Iterator[tuple[str, str]]:
    begins = datetime.combine(day, time(), UTC)
    within = {"history_date__gte": begins, "history_date__lt": begins + timedelta(days=1)}
    for name, model in tables().items():
        there = {field.attname for field in model._meta.concrete_fields}
        wanted = [column for column in columns.get(name, ()) if column in there]
        if wanted:
            for row in model._default_manager.filter(**within).order_by("history_id").values("history_id", *wanted):
                yield f"{name}:{row['history_id']}", _digest({column: row[column] for column in wanted})


def _digest(values: dict[str, Any]) -> str:
    return hashlib.sha256(json.dumps(values, sort_keys=True, cls=DjangoJSONEncoder).encode()).hexdigest()


def _head(before: str, digests: dict[str, str]) -> str:
    lines = [before, *(f"{key} {digests[key]}" for key in sorted(digests))]
    return hashlib.sha256("\n".join(lines).encode()).hexdigest()
