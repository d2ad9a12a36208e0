from typing import Any

from django.core.management.base import BaseCommand

from apps.records.kinds import field_book_kinds_text


class Command(BaseCommand):
    help = "Print what the field book must know of each kind of record, for web/src/features/fieldbook/kinds.json."

    def handle(self, *_args: Any, **_options: Any) -> None:
        self.stdout.write(field_book_kinds_text())
