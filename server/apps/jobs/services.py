"""Asking for long work, doing it, and letting it be stopped.

A worker claims a waiting row with a lease and renews the lease while it lives. Whatever ends a worker, the row is still there:
another claims it once the lease has run out, or at once where the process is seen to be gone. Several workers do no harm.

The work itself computes outside transactions and hears from ``ReportProgress`` when it should stop; what it finds is stored by
the work in one transaction at its end, so that nothing half done is ever kept.
"""

from __future__ import annotations

import logging
import os
import socket
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from datetime import timedelta
from typing import Protocol
from uuid import UUID

from cultrix_core.errors import Refusal
from django.db import DatabaseError, close_old_connections, connection, transaction
from django.db.models import F
from django.utils import timezone

from apps.accounts.models import User, Workspace
from apps.accounts.rights import require
from apps.jobs.models import Job
from apps.jobs.queries import job_for

TELL_EVERY_S = 0.3
OPEN = ("waiting", "running")
LEASE = timedelta(seconds=60)
RENEW_EVERY_S = 10.0
MOST_TRIES = 3
LOST = "The worker stopped in the middle of it {tries} times, so it was given up. Nothing was taken in; start it again."
log = logging.getLogger("django.request")


class Cancelled(Exception):
    """Somebody asked the work to stop."""


class ReportProgress(Protocol):
    """Tells how far the work is; raises ``Cancelled`` when it should stop."""

    def __call__(self, share: float, words: str, /) -> None: ...


_AT_ONCE: ContextVar[bool] = ContextVar("at_once", default=False)
Work = Callable[[Job, ReportProgress], None]
WORKS: dict[str, Work] = {}


@contextmanager
def at_once() -> Iterator[None]:
    """Do work where it is asked for, without queue and worker: for loading the demo and for tests."""
    token = _AT_ONCE.set(True)
    try:
        yield
    finally:
        _AT_ONCE.reset(token)


def does(kind: str) -> Callable[[Work], Work]:
    """Name a function as the work of a kind of job."""

    def put(work: Work) -> Work:
        WORKS[kind] = work
        return work

    return put


def ask_for(
    user: User, kind: str, *, workspace: Workspace, trial_id: UUID | None = None, subject: UUID, inputs_hash: str
) -> Job:
    """Ask for work in the transaction of what it follows from; open work on the same subject is told to stop first."""
    Job.objects.filter(subject=subject, kind=kind, state__in=OPEN).update(cancel=True)
    Job.objects.filter(subject=subject, kind=kind, state="waiting").update(state="cancelled", ended_at=timezone.now())
    job = Job.objects.create(
        workspace=workspace, trial_id=trial_id, kind=kind, subject=subject, inputs_hash=inputs_hash, asked_by=user
    )
    if _AT_ONCE.get():
        taken = take(job, "at once")
        assert taken is not None
        run(taken)
        job.refresh_from_db()
    return job


def cancel(user: User, job_id: UUID) -> Job:
    """Ask a job to stop; one that waits is taken out at once."""
    job = job_for(user, job_id)
    require(user, job.workspace, "record")
    Job.objects.filter(id=job.id, state="waiting").update(state="cancelled", said="Cancelled.", ended_at=timezone.now())
    Job.objects.filter(id=job.id, state="running").update(cancel=True)
    job.refresh_from_db()
    return job


def claim(worker: str) -> Job | None:
    """The oldest work that waits, taken by a worker; work whose lease ran out waits again, or is given up with the reason."""
    if not Job.objects.filter(state__in=OPEN).exists():
        return None
    with transaction.atomic():
        _release_lost()
        job = Job.objects.filter(state="waiting").order_by("asked_at").first()
        return take(job, worker) if job is not None else None


def take(job: Job, worker: str) -> Job | None:
    """One job, if nobody else has it."""
    taken = Job.objects.filter(id=job.id, state="waiting").update(
        state="running", worker=worker, lease_until=timezone.now() + LEASE, tries=F("tries") + 1
    )
    return Job.objects.select_related("workspace", "trial", "asked_by").get(id=job.id) if taken else None


def _release_lost() -> None:
    for job in Job.objects.filter(state="running"):
        if job.lease_until is not None and job.lease_until > timezone.now() and not _is_gone(job.worker):
            continue
        if job.cancel:
            _end(job, "cancelled", "Cancelled.")
        elif job.tries >= MOST_TRIES:
            _end(job, "failed", LOST.format(tries=job.tries))
        else:
            Job.objects.filter(id=job.id, worker=job.worker).update(state="waiting", worker="", lease_until=None, progress=0)


def name_of_worker() -> str:
    """A name that tells host and process."""
    return f"{socket.gethostname()[:50]}:{os.getpid()}"


def _is_gone(worker: str) -> bool:
    """Whether a worker was a process of this machine that is not there any more."""
    host, _, number = worker.rpartition(":")
    if host != socket.gethostname()[:50] or not number.isdigit():
        return False
    try:
        os.kill(int(number), 0)
    except ProcessLookupError:
        return True
    except PermissionError:
        return False
    return False


def still_ours(job: Job) -> bool:
    """Whether a job is still this worker's and wanted; asked before anything is stored."""
    return Job.objects.filter(id=job.id, state="running", worker=job.worker, cancel=False).exists()


def run(job: Job) -> None:
    """Do a job that was taken; whatever happens, the row says how it ended."""
    ended = threading.Event()
    renewing = threading.Thread(target=_renew, args=(job, ended), daemon=True)
    if not connection.in_atomic_block:
        renewing.start()
    try:
        WORKS[job.kind](job, _teller(job))
    except Cancelled:
        _end(job, "cancelled", "Cancelled.")
    except Refusal as refusal:
        _end(job, "failed", refusal.message, refusal.field)
    except Exception:  # a job must end for the person who waits, whatever broke
        log.exception("job %s %s failed", job.kind, job.id)
        _end(job, "failed", "An error occurred while working on it; the file is kept. Try again, or tell who runs the server.")
    else:
        _end(job, "done", "")
    finally:
        ended.set()


def _renew(job: Job, ended: threading.Event) -> None:
    """Keep the lease while the work goes on; a thread of its own, for some steps say nothing for long."""
    while not ended.wait(RENEW_EVERY_S):
        try:
            Job.objects.filter(id=job.id, worker=job.worker, state="running").update(lease_until=timezone.now() + LEASE)
        except DatabaseError:
            log.exception("lease of job %s could not be renewed", job.id)
        finally:
            close_old_connections()
    connection.close()


def _end(job: Job, state: str, said: str, field: str = "") -> None:
    """Say how a job ended, unless somebody else has taken it meanwhile."""
    Job.objects.filter(id=job.id, state="running", worker=job.worker).update(
        state=state,
        said=said[:400],
        field=field[:40],
        progress=1.0 if state == "done" else job.progress,
        ended_at=timezone.now(),
    )


def _teller(job: Job) -> ReportProgress:
    last = 0.0

    def report_progress(share: float, words: str, /) -> None:
        nonlocal last
        now = time.monotonic()
        if now - last < TELL_EVERY_S:
            return
        last = now
        job.progress = min(max(share, 0.0), 1.0)
        Job.objects.filter(id=job.id, worker=job.worker).update(progress=job.progress, said=words[:400])
        if not still_ours(job):
            raise Cancelled

    return report_progress
