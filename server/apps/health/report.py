"""The state of the installation, check by check: what is measured, whether it is well, and what to do where it is not."""

from __future__ import annotations

import os
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from django.conf import settings
from django.db import DatabaseError, connection
from django.utils import timezone

from apps.accounts.models import Device, Workspace
from apps.backup import rotation
from apps.backup.chain import MOST_TOLD, verify
from apps.backup.models import HistoryDay
from apps.base.disk_space import free_bytes
from apps.field.attachments.models import Attachment
from apps.field.attachments.services import path_of as attachment_path
from apps.field.logs.files import path_of as log_path
from apps.field.logs.files import points_path
from apps.field.logs.models import YieldLog
from apps.field.season.models import Photo
from apps.field.season.photos import path_of as photo_path
from apps.health.heartbeats import seconds_since
from apps.intake.reader.confine import landlock_version
from apps.jobs.models import Job

WORKER_QUIET_S = 180.0  # a long step of work says nothing meanwhile
QUEUE_OLD_S = 900.0
MOST_NAMED = 20


@dataclass(frozen=True, slots=True, kw_only=True)
class Check:
    """One check. ``words``: what was found and, where it is not well, what to do."""

    name: str
    well: bool
    words: str
    value: float | None = None


def checks(*, thorough: bool = False) -> list[Check]:
    """Every check; ``thorough`` reads the whole database rather than its structure."""
    return [
        _database(thorough),
        _space(),
        _worker(),
        _queue(),
        _files(),
        _backups(),
        _owner_only(),
        _reader(),
        _history(thorough),
    ]


def _database(thorough: bool) -> Check:
    try:
        with connection.cursor() as cursor:
            cursor.execute("PRAGMA integrity_check(5)" if thorough else "PRAGMA quick_check(5)")
            names = [str(row[0]) for row in cursor.fetchall()]
            cursor.execute("PRAGMA foreign_key_check")
            broken = len(cursor.fetchall())
    except DatabaseError as error:
        return Check(name="database", well=False, words=f"The database cannot be read: {error}. Restore the last backup.")
    well = names == ["ok"] and not broken
    words = "The database is whole." if well else f"{'; '.join(names)}; {broken} rows lead nowhere. Restore the last backup."
    return Check(name="database", well=well, words=words)


def _history(thorough: bool) -> Check:
    """The chain of history: its days, and, where asked thoroughly, every row of them."""
    links = HistoryDay.objects.count()
    last = HistoryDay.objects.last()
    words = f"{links} days of history are chained, the last one {last.day}." if last else "No day of history is over yet."
    broken = verify() if thorough else []
    if broken:
        words += " Changed behind the application's back: " + "; ".join(
            f"{link.day}, {link.why}" for link in broken[:MOST_TOLD]
        )
        words += ". Compare with a backup from before."
    return Check(name="history", well=not broken, words=words, value=float(links))


def _space() -> Check:
    free = free_bytes()
    well = free > 2 * settings.DISK_RESERVE_BYTES
    words = f"{free / 1e9:.1f} GB are free; writing stops below {settings.DISK_RESERVE_BYTES / 1e9:.1f} GB."
    return Check(name="space", well=well, words=words if well else f"{words} Make room on the disk.", value=float(free))


def _worker() -> Check:
    quiet = seconds_since("worker")
    running = Job.objects.filter(state="running", lease_until__gt=timezone.now()).exists()
    well = running or (quiet is not None and quiet < WORKER_QUIET_S)
    words = "never heard of" if quiet is None else f"last heard of {quiet:.0f} s ago"
    return Check(
        name="worker", well=well, words=f"The worker was {words}.{'' if well else ' Start the server again.'}", value=quiet
    )


def _queue() -> Check:
    waiting = Job.objects.filter(state="waiting").order_by("asked_at")
    first = waiting.first()
    age = (timezone.now() - first.asked_at).total_seconds() if first else 0.0
    words = f"{waiting.count()} pieces of work wait, the oldest for {age:.0f} s." if first else "No work waits."
    return Check(name="queue", well=age < QUEUE_OLD_S, words=words, value=age)


def _kept() -> Iterator[Path]:
    for digest in Photo.objects.values_list("digest", flat=True).distinct():
        yield photo_path(digest)
    for digest, suffix in YieldLog.objects.values_list("digest", "suffix").distinct():
        yield log_path(digest, suffix)
    for digest in Attachment.objects.values_list("digest", flat=True).distinct():
        yield attachment_path(digest)


def _files() -> Check:
    """Files of records that are missing are losses; files that no record names only take room."""
    kept = set(_kept())
    missing = sorted(path for path in kept if not path.exists())
    points = {
        points_path(name) for name in YieldLog.objects.exclude(result_hash="").values_list("result_hash", flat=True) if name
    }
    there = {
        path
        for folder in (Path(settings.PHOTOS), Path(settings.LOGS), Path(settings.ATTACHMENTS))
        for path in folder.rglob("*")
        if path.is_file() and path.suffix != ".part" and path.parent.name != "points"
    }
    orphans = sorted(there - kept - points)
    words = f"{len(kept)} files are named by records; {len(missing)} of them are missing, {len(orphans)} others are there."
    if missing:
        words += f" Missing: {', '.join(path.name for path in missing[:MOST_NAMED])}. Restore them from a backup."
    if orphans:
        words += f" Named by nothing: {', '.join(path.name for path in orphans[:MOST_NAMED])}."
    return Check(name="files", well=not missing, words=words, value=float(len(orphans)))


def _backups() -> Check:
    state = rotation.state()
    last = "" if state.last_good_at is None else f"The last one is of {state.last_good_at:%d %b %Y, %H:%M} UTC. "
    return Check(name="backups", well=state.well, words=last + state.words)


def open_paths() -> list[Path]:
    """What in the folder of the installation others than its owner may read or write."""
    folder = Path(settings.VAR)
    return [path for path in (folder, *folder.rglob("*")) if not path.is_symlink() and path.stat().st_mode & 0o077]


def close_paths() -> int:
    """Take from others what they may not read; returns how many paths were open."""
    paths = open_paths()
    for path in paths:
        os.chmod(path, 0o700 if path.is_dir() else 0o600)
    return len(paths)


def _owner_only() -> Check:
    count = len(open_paths())
    words = (
        "Only the owner can read the files." if not count else f"{count} files can be read by others. Start the server again."
    )
    return Check(name="permissions", well=not count, words=words, value=float(count))


def _reader() -> Check:
    version = landlock_version()
    words = (
        f"Files that come in are read in a closed process (Landlock {version})."
        if version
        else ("This kernel has no Landlock: files that come in are read behind the interpreter's own refusals only.")
    )
    return Check(name="reader", well=True, words=words, value=float(version))


def last_contacts(workspace: Workspace | None = None) -> list[Device]:
    """Devices of a workspace's people, or of all, the latest contact first."""
    devices = Device.objects.select_related("user").order_by("-last_contact")
    if workspace is not None:
        devices = devices.filter(user__memberships__workspace=workspace)
    return list(devices[:200])
