"""``manage.py backup FILE``: everything of this installation in one verified file, while it is in use."""

import hashlib
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from apps.backup.archive import make
from apps.backup.errors import BackupError
from apps.backup.passphrases import asked_for


class Command(BaseCommand):
    help = "Back up database, photographs, yield logs and key into one verified file; people may go on working."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)
        parser.add_argument("--passphrase", action="store_true", help="seal it; asks, or reads CULTRIX_PASSPHRASE")
        parser.add_argument("--passphrase-file", type=Path, help="seal it with the passphrase in this file")

    def handle(self, *_: Any, file: Path, **options: Any) -> None:
        try:
            sealed = options["passphrase"] or options["passphrase_file"]
            phrase = asked_for(options["passphrase_file"], twice=True) if sealed else ""
            contents = make(file, passphrase=phrase)
        except BackupError as error:
            raise CommandError(str(error)) from error
        with file.open("rb") as handle:
            digest = hashlib.file_digest(handle, "sha256").hexdigest()
        self.stdout.write(f"{file}: {len(contents.files)} files, {contents.size / 1e6:.1f} MB of them, read back and whole.")
        self.stdout.write(f"sha256 {digest}")
        if contents.missing:
            self.stdout.write(
                f"{len(contents.missing)} files that records name were not there: {', '.join(contents.missing[:5])}"
            )
        if not phrase:
            self.stdout.write("It is not sealed: whoever has it can read everything in it. Keep it where only you can.")
