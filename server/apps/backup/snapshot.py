"""The database as it is at one moment, copied while people go on writing (SQLite's online backup)."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path

from django.db import connection

from apps.backup.errors import BackupError

# What lets somebody in without a password: a copy that is stolen must not, and a restored one must not either.
LEFT_OUT = ("django_session", "accounts_device", "accounts_signinfailure", "accounts_accountlink")


def database_path() -> Path:
    """Where this installation's database lies."""
    return Path(str(connection.settings_dict["NAME"]))


def copy_database(source: Path, target: Path) -> None:
    """Copy the database to a new file; the copy is one moment of it, whole, and checked."""
    if not source.exists():
        raise BackupError(f"There is no database at {source}. Nothing was backed up.")
    with (
        closing(sqlite3.connect(f"file:{source}?mode=ro", uri=True, timeout=60)) as live,
        closing(sqlite3.connect(target)) as copy,
    ):
        live.backup(copy)  # one step: a reader of the write-ahead log keeps nobody from writing
        for table in LEFT_OUT:
            if copy.execute("SELECT 1 FROM sqlite_master WHERE type = 'table' AND name = ?", [table]).fetchone():
                copy.execute(f"DELETE FROM {table}")
        copy.commit()
        copy.execute("PRAGMA journal_mode = DELETE")
    require_whole(target)


def require_whole(path: Path) -> None:
    """Refuse a database that is damaged."""
    try:
        with closing(sqlite3.connect(path)) as database:
            names = [str(row[0]) for row in database.execute("PRAGMA integrity_check(5)")]
            broken = len(database.execute("PRAGMA foreign_key_check").fetchall())
    except sqlite3.DatabaseError as error:
        raise BackupError(f"The database in it cannot be read: {error}. Use another backup.") from error
    if names != ["ok"] or broken:
        raise BackupError(
            f"The database in it is damaged ({'; '.join(names)}; {broken} rows lead nowhere). Use another backup."
        )


def named_files(path: Path) -> Iterator[str]:
    """The files that the records of a database name, as paths below the folder of the installation."""
    with closing(sqlite3.connect(path)) as database:
        tables = {row[0] for row in database.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
        if "scouting_photo" in tables:
            for (digest,) in database.execute("SELECT DISTINCT digest FROM scouting_photo"):
                yield f"photos/{digest[:2]}/{digest}.jpg"
        if "attachments_attachment" in tables:
            for (digest,) in database.execute("SELECT DISTINCT digest FROM attachments_attachment"):
                yield f"attachments/{digest[:2]}/{digest}"
        if "yieldlogs_yieldlog" in tables:
            for digest, suffix in database.execute("SELECT DISTINCT digest, suffix FROM yieldlogs_yieldlog"):
                yield f"logs/{digest[:2]}/{digest}{suffix}"
            for (result,) in database.execute("SELECT DISTINCT result_hash FROM yieldlogs_yieldlog WHERE result_hash <> ''"):
                yield f"logs/points/{result}.npz"


def migrations_of(path: Path) -> dict[str, list[str]]:
    """The migrations that a database has been through, by app."""
    migrations: dict[str, list[str]] = {}
    with closing(sqlite3.connect(path)) as database:
        if database.execute("SELECT 1 FROM sqlite_master WHERE name = 'django_migrations'").fetchone():
            for app, name in database.execute("SELECT app, name FROM django_migrations ORDER BY app, name"):
                migrations.setdefault(app, []).append(name)
    return migrations
