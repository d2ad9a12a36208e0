"""Putting a backup back: into an empty folder, or in the place of what is there, which is kept aside."""

from __future__ import annotations

import os
import tempfile
from datetime import UTC, datetime
from pathlib import Path

from apps.backup import archive, sealing
from apps.backup.archive import DATABASE, KEY, Contents
from apps.backup.errors import BackupError
from apps.backup.locking import alone
from apps.backup.snapshot import require_whole
from apps.backup.versions import newer_than_this

NAME = "cultrix.sqlite3"  # of the database in a folder
ASIDE = (NAME, f"{NAME}-wal", f"{NAME}-shm", KEY)


def restore(path: Path, folder: Path, *, replace: bool = False, passphrase: str = "") -> Contents:
    """Put a backup into a folder; all of it or nothing.

    Parameters
    ----------
    path : the archive, open or sealed. folder : of the installation (CULTRIX_VAR).
    replace : take the place of a database that is there; that one is moved to ``before-restore-…`` and kept.

    Raises
    ------
    BackupError : it was cut off, altered, sealed with another passphrase, is of a newer version; a server runs on the folder;
        there is a database already and ``replace`` was not said.
    """
    if not path.exists():
        raise BackupError(f"There is no file {path}.")
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    with alone(folder):
        if (folder / NAME).exists() and not replace:
            raise BackupError(
                f"There is a database in {folder} already. Choose an empty folder, or say --replace: the present one is then "
                "moved aside and kept."
            )
        with tempfile.TemporaryDirectory(prefix=".restoring-", dir=folder) as name:
            return _restored(path, folder, Path(name), passphrase)


def _restored(path: Path, folder: Path, work: Path, passphrase: str) -> Contents:
    plain = path
    if sealing.is_sealed(path):
        if not passphrase:
            raise BackupError("This backup is sealed. Give its passphrase.")
        plain = work / "archive.zip"
        sealing.unseal(path, plain, passphrase)
    there = work / "there"
    contents = archive.unpack(plain, there)
    require_whole(there / DATABASE)
    newer = newer_than_this(contents.migrations)
    if newer:
        raise BackupError(
            f"This backup is of version {contents.version}, newer than this program ({', '.join(newer[:3])}). "
            "Install that version, then restore."
        )
    _move_aside(folder)
    for name in contents.files:
        if name != DATABASE:
            place = folder / name
            place.parent.mkdir(parents=True, exist_ok=True)
            (there / name).chmod(0o600)
            (there / name).replace(place)
    # last, so that a database is never there without what it names
    (there / DATABASE).chmod(0o600)
    (there / DATABASE).replace(folder / NAME)
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
    return contents


def _move_aside(folder: Path) -> None:
    if not (folder / NAME).exists():
        return
    aside = folder / f"before-restore-{datetime.now(UTC):%Y-%m-%dT%H%M%S}"
    aside.mkdir(mode=0o700)
    for name in ASIDE:
        if (folder / name).exists():
            (folder / name).replace(aside / name)
