"""``manage.py restore FILE``: put a backup into the folder of this installation."""

from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser

from apps.backup.errors import BackupError
from apps.backup.passphrases import asked_for
from apps.backup.restoring import restore
from apps.backup.sealing import is_sealed


class Command(BaseCommand):
    help = "Put a backup into CULTRIX_VAR (or --to). Verifies it first; all of it or nothing."
    requires_system_checks: list[str] = []  # noqa: RUF012 - Django's own way of saying none
    requires_migrations_checks = False

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)
        parser.add_argument("--to", type=Path, help="another folder than CULTRIX_VAR")
        parser.add_argument("--replace", action="store_true", help="take the place of the database there, which is kept aside")
        parser.add_argument("--passphrase-file", type=Path, help="with the passphrase of a sealed backup")

    def handle(self, *_: Any, file: Path, **options: Any) -> None:
        folder = options["to"] or Path(settings.VAR)
        try:
            phrase = asked_for(options["passphrase_file"]) if is_sealed(file) else ""
            contents = restore(file, folder, replace=options["replace"], passphrase=phrase)
        except BackupError as error:
            raise CommandError(str(error)) from error
        moment = f"{contents.made_at:%d %b %Y, %H:%M} UTC"
        self.stdout.write(f"Restored into {folder}: the state of {moment}, {len(contents.files)} files, all whole.")
        self.stdout.write("Everybody signs in again. Start the server: make start")
