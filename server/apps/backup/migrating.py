"""Bringing the database to this version: refused when it is of a newer one, copied before it is changed."""

from __future__ import annotations

from collections.abc import Callable

from django.core.management import call_command

from apps.backup import rotation
from apps.backup.errors import BackupError
from apps.backup.snapshot import database_path, migrations_of
from apps.backup.versions import is_empty, newer_than_this, pending

NEWER = (
    "This database is of a newer version than this program (it knows {names}). Start that version, or restore a backup of this "
    "one. Nothing was changed."
)


def bring_up_to_date(say: Callable[[str], None], *, without_backup: bool = False) -> None:
    """Migrate, after a copy of what is there.

    Raises
    ------
    BackupError : the database is newer than this program, or could not be copied before the change.
    """
    database = database_path()
    if not is_empty(database):
        newer = newer_than_this(migrations_of(database))
        if newer:
            raise BackupError(NEWER.format(names=", ".join(newer[:3])))
        changes = pending()
        if changes and not without_backup:
            try:
                backup = rotation.keep_one("before-migration")
            except BackupError as error:
                raise BackupError(
                    f"The database is to be changed for this version ({len(changes)} changes), and no copy could be made "
                    f"before: {error} To go on without one, say --without-backup."
                ) from error
            say(f"The database is changed for this version; a copy of before is {rotation.folder() / backup.name}.")
    call_command("migrate", verbosity=0)
