"""Backups that make themselves: daily by the worker, one before every migration; the older ones give way.

Of the daily ones the last seven are kept, then the last of each of four weeks, then of each of six months. How the last try
ended lies in a file beside them, so that it is known even where the database is not.
"""

from __future__ import annotations

import fcntl
import json
import os
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from django.conf import settings

from apps.accounts.models import Installation
from apps.backup import archive
from apps.backup.errors import BackupError
from apps.backup.snapshot import database_path
from apps.jobs.models import Job
from apps.jobs.services import ReportProgress, does

EVERY = timedelta(hours=24)
TRY_AGAIN = timedelta(hours=1)
LATE = timedelta(hours=50)
DAYS, WEEKS, MONTHS, OTHERS = 7, 4, 6, 5
KINDS = ("daily", "by-hand", "before-migration")
STAMP = "%Y-%m-%dT%H%M%SZ"
STATE = "state.json"
KIND = "backup"


@dataclass(frozen=True, slots=True, kw_only=True)
class Kept:
    """A backup in the folder of backups."""

    name: str
    kind: str
    made_at: datetime
    size: int


@dataclass(frozen=True, slots=True, kw_only=True)
class State:
    """How backups stand. ``words``: what to know, and to do where it is not well."""

    well: bool
    words: str
    last_good_at: datetime | None


def folder() -> Path:
    return Path(settings.BACKUPS)


def passphrase() -> str:
    """The passphrase of the backups that make themselves; empty where none is set."""
    if not settings.BACKUP_PASSPHRASE_FILE:
        return ""
    try:
        return Path(settings.BACKUP_PASSPHRASE_FILE).read_text().strip()
    except OSError as error:
        raise BackupError(f"The passphrase in {settings.BACKUP_PASSPHRASE_FILE} cannot be read: {error.strerror}.") from error


def keep_one(kind: str, now: datetime | None = None) -> Kept:
    """Make a backup into the folder of backups, let older ones give way, and note how it ended."""
    now = now or datetime.now(UTC)
    with _one_at_a_time():
        try:
            _require_room()
            name = f"{kind}-{now:{STAMP}}.zip"
            archive.make(folder() / name, whole=kind != "before-migration", passphrase=passphrase())
        except BackupError as error:
            _note(failed={"at": now.isoformat(), "words": str(error)})
            raise
        if kind == "before-migration":
            _note(failed=None)
        else:
            _note(failed=None, last_good={"at": now.isoformat(), "name": name})
        let_go(now)
        backup = _kept_of(folder() / name)
        assert backup is not None
        return backup


def kept() -> list[Kept]:
    """Backups in the folder, the latest first."""
    result = (_kept_of(path) for path in folder().glob("*.zip"))
    return sorted((backup for backup in result if backup), key=lambda backup: backup.made_at, reverse=True)


def path_of(name: str) -> Path | None:
    """The file of a backup by its name; None for a name that is none of them."""
    return next((folder() / backup.name for backup in kept() if backup.name == name), None)


def is_due(now: datetime | None = None) -> bool:
    """Whether a daily backup is to be made now."""
    now = now or datetime.now(UTC)
    state = _state()
    last, failed = _moment(state.get("last_good")), _moment(state.get("failed"))
    if failed and now - failed < TRY_AGAIN:
        return False
    return last is None or now - last >= EVERY


def state(now: datetime | None = None) -> State:
    """How backups stand, for whoever answers for the data."""
    now = now or datetime.now(UTC)
    state = _state()
    last, failed = _moment(state.get("last_good")), state.get("failed")
    there = last is not None and path_of(str(state["last_good"]["name"])) is not None
    if failed:
        return State(well=False, words=f"The last backup failed. {failed['words']}", last_good_at=last)
    if last is None or not there:
        words = (
            "There is no backup yet. One is made by itself within minutes."
            if last is None
            else ("The last backup is not in its folder any more. Make one now.")
        )
        return State(well=last is None and _has_just_begun(now), words=words, last_good_at=None)
    if now - last > LATE:
        words = "The last backup is older than two days. Is the worker running? Make one now."
        return State(well=False, words=words, last_good_at=last)
    words = "It was read back and is whole."
    if on_same_disk():
        words += " It lies on the same disk as the data: take a copy elsewhere, or set CULTRIX_BACKUPS to another disk."
    return State(well=True, words=words, last_good_at=last)


def _has_just_begun(now: datetime) -> bool:
    """Whether the installation is so young that its first daily backup is still to come."""
    begun = Installation.objects.values_list("started_at", flat=True).first()
    return begun is None or now - begun < EVERY


def on_same_disk() -> bool:
    """Whether the backups would be lost with the disk of the data."""
    try:
        return folder().stat().st_dev == Path(settings.VAR).stat().st_dev
    except OSError:
        return True


def let_go(now: datetime) -> list[str]:
    """Remove backups that newer ones replace; returns their names. Files of other names are left alone."""
    there = kept()
    stay = {each.name for kind in KINDS[1:] for each in [each for each in there if each.kind == kind][:OTHERS]}
    daily = [backup for backup in there if backup.kind == "daily"]
    stay |= {backup.name for backup in daily[:DAYS]}
    for periods, named in ((WEEKS, "%G-W%V"), (MONTHS, "%Y-%m")):
        last_of = {f"{backup.made_at:{named}}": backup.name for backup in reversed(daily)}
        stay |= {last_of[period] for period in sorted(last_of)[-periods:]}
    gone = [backup.name for backup in there if backup.name not in stay and backup.made_at <= now]
    for name in gone:
        (folder() / name).unlink(missing_ok=True)
    return gone


@does(KIND)
def back_up_by_hand(_job: Job, report_progress: ReportProgress) -> None:
    """A backup somebody asked for, made by the worker."""
    report_progress(0.1, "Copying the database and the files.")
    keep_one("by-hand")


def _kept_of(path: Path) -> Kept | None:
    kind, _, stamp = path.stem.rpartition("-20")
    try:
        made_at = datetime.strptime(f"20{stamp}", STAMP).replace(tzinfo=UTC)
        size = path.stat().st_size
    except (ValueError, OSError):
        return None
    return Kept(name=path.name, kind=kind, made_at=made_at, size=size) if kind in KINDS else None


def _require_room() -> None:
    """Refuse before the disk is full: the next one takes about as much as the last, and the database twice while it is made."""
    folder().mkdir(mode=0o700, parents=True, exist_ok=True)
    last = next((backup.size for backup in kept() if backup.kind != "before-migration"), 0)
    database = database_path()
    needed = last + 2 * (database.stat().st_size if database.exists() else 0) + settings.DISK_RESERVE_BYTES
    free = shutil.disk_usage(folder()).free
    if free < needed:
        raise BackupError(
            f"{folder()} has {free / 1e9:.1f} GB free and about {needed / 1e9:.1f} GB are needed. "
            "Make room, or set CULTRIX_BACKUPS to a larger disk."
        )


def _moment(entry: Any) -> datetime | None:
    try:
        return datetime.fromisoformat(entry["at"])
    except (TypeError, KeyError, ValueError):
        return None


def _state() -> dict[str, Any]:
    try:
        result = json.loads((folder() / STATE).read_text())
    except (OSError, ValueError):
        return {}
    return result if isinstance(result, dict) else {}


def _note(**changes: Any) -> None:
    state = _state() | changes
    part = folder() / f"{STATE}.part"
    try:
        folder().mkdir(mode=0o700, parents=True, exist_ok=True)
        part.write_text(json.dumps(state, indent=1))
        part.chmod(0o600)
        part.replace(folder() / STATE)
    except OSError:  # a full disk is told by what failed before
        part.unlink(missing_ok=True)


@contextmanager
def _one_at_a_time() -> Iterator[None]:
    folder().mkdir(mode=0o700, parents=True, exist_ok=True)
    handle = os.open(folder() / "making.lock", os.O_RDWR | os.O_CREAT, 0o600)
    try:
        fcntl.flock(handle, fcntl.LOCK_EX)
        yield
    finally:
        os.close(handle)
