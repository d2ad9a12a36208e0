"""Where a passphrase is read from: a file, the environment, or the terminal, never the command line itself."""

from __future__ import annotations

import getpass
import os
from pathlib import Path

from apps.backup.errors import BackupError


def asked_for(file: Path | None, *, twice: bool = False) -> str:
    """The passphrase; asked for twice where it is new."""
    if file is not None:
        try:
            return file.read_text().strip()
        except OSError as error:
            raise BackupError(f"{file} cannot be read: {error.strerror}.") from error
    if "CULTRIX_PASSPHRASE" in os.environ:
        return os.environ["CULTRIX_PASSPHRASE"]
    try:
        phrase = getpass.getpass("Passphrase: ")
        if twice and getpass.getpass("Once more: ") != phrase:
            raise BackupError("The two are not the same. Nothing was written.")
    except (EOFError, OSError) as error:
        raise BackupError("No passphrase was given. Use --passphrase-file, or CULTRIX_PASSPHRASE.") from error
    return phrase
