"""``manage.py history_heads``: the head of every day of history, to print or mail and keep elsewhere."""

from __future__ import annotations

from datetime import date
from typing import Any

from django.conf import settings
from django.core.mail import send_mail
from django.core.management.base import BaseCommand, CommandError, CommandParser

from apps.backup.chain import chain
from apps.backup.models import HistoryDay


class Command(BaseCommand):
    help = "Print the head of every day of history; whoever keeps one can show that nothing before it was changed."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--since", type=date.fromisoformat, help="from this day on, as 2026-05-01")
        parser.add_argument("--mail", metavar="ADDRESS", help="send them there instead, by the mail server of the installation")

    def handle(self, *_: Any, since: date | None = None, mail: str = "", **__: Any) -> None:
        chain()
        days = HistoryDay.objects.filter(day__gte=since) if since else HistoryDay.objects.all()
        lines = [f"{link.day} {link.head} {link.rows} rows" for link in days]
        if not mail:
            self.stdout.writelines(f"{line}\n" for line in lines)
            return
        if not settings.EMAIL_HOST:
            raise CommandError("This installation sends no mail: CULTRIX_EMAIL_HOST is not set. Print the heads instead.")
        send_mail(f"Heads of history up to {days[len(days) - 1].day if lines else 'today'}", "\n".join(lines), None, [mail])
        self.stdout.write(f"{len(lines)} heads sent to {mail}")
