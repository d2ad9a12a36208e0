"""``manage.py history_heads``: the head of every day of history, to print and keep elsewhere."""

from __future__ import annotations

from datetime import date
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from apps.backup.chain import chain
from apps.backup.models import HistoryDay


class Command(BaseCommand):
    help = "Print the head of every day of history; whoever keeps one can show that nothing before it was changed."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--since", type=date.fromisoformat, help="from this day on, as 2026-05-01")

    def handle(self, *_: Any, since: date | None = None, **__: Any) -> None:
        chain()
        days = HistoryDay.objects.filter(day__gte=since) if since else HistoryDay.objects.all()
        for link in days:
            self.stdout.write(f"{link.day} {link.head} {link.rows} rows")
