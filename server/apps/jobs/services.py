"""Asking for long work, doing it, and letting it be stopped.

The work itself computes outside transactions and hears from ``Said`` when it should stop; what it finds is stored by the
work in one transaction at its end, so that nothing half done is ever kept.
"""

from __future__ import annotations

import logging
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Protocol
from uuid import UUID

from cultrix_core.errors import Refusal
from django.db import transaction
from django.utils import timezone

from apps.accounts.models import User
from apps.accounts.services import require_writer
from apps.jobs.models import Job
from apps.jobs.selectors import LOST_AFTER, job_for
from apps.trials.models import Trial

TELL_EVERY_S = 0.3
OPEN = ("waiting", "running")
LOST = "The worker stopped in the middle of it. Nothing was taken in; start it again."
log = logging.getLogger("django.request")


class Cancelled(Exception):
    """Somebody asked the work to stop."""


class Said(Protocol):
    """Tells how far the work is; raises ``Cancelled`` when it should stop."""

    def __call__(self, share: float, words: str, /) -> None: ...


_AT_ONCE: ContextVar[bool] = ContextVar("at_once", default=False)
Work = Callable[[Job, Said], None]
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


def ask_for(user: User, trial: Trial, kind: str, *, subject: UUID, inputs_hash: str) -> Job:
    """Put work into the queue; open work on the same subject is told to stop first."""
    Job.objects.filter(subject=subject, kind=kind, state__in=OPEN).update(cancel=True)
    Job.objects.filter(subject=subject, kind=kind, state="waiting").update(state="cancelled", ended_at=timezone.now())
    job = Job.objects.create(trial=trial, kind=kind, subject=subject, inputs_hash=inputs_hash, asked_by=user)
    if _AT_ONCE.get():
        run(str(job.id))
        job.refresh_from_db()
    else:
        from apps.jobs.queue import work  # noqa: PLC0415 - the queue's file is made when it is first needed

        transaction.on_commit(lambda: work(str(job.id)))
    return job


def cancel(user: User, job_id: UUID) -> Job:
    """Ask a job to stop; one that waits is taken out at once."""
    job = job_for(user, job_id)
    require_writer(user, job.trial.workspace)
    Job.objects.filter(id=job.id, state="waiting").update(state="cancelled", said="Cancelled.", ended_at=timezone.now())
    Job.objects.filter(id=job.id, state="running").update(cancel=True)
    job.refresh_from_db()
    return job


def run(job_id: str) -> None:
    """Do a job; whatever happens, the row says how it ended."""
    if not Job.objects.filter(id=job_id, state="waiting").update(state="running", beat_at=timezone.now()):
        return
    job = Job.objects.select_related("trial", "asked_by").get(id=job_id)
    try:
        WORKS[job.kind](job, _teller(job))
    except Cancelled:
        _end(job, "cancelled", "Cancelled.")
    except Refusal as refusal:
        _end(job, "failed", refusal.message, refusal.field)
    except Exception:  # a job must end for the person who waits, whatever broke
        log.exception("job %s failed", job.kind)
        _end(job, "failed", "Something broke while working on it; the file is kept. Try again, or tell who looks after this.")
    else:
        _end(job, "done", "")


def _end(job: Job, state: str, said: str, field: str = "") -> None:
    Job.objects.filter(id=job.id).update(
        state=state,
        said=said[:400],
        field=field[:40],
        progress=1.0 if state == "done" else job.progress,
        ended_at=timezone.now(),
    )


def _teller(job: Job) -> Said:
    last = 0.0

    def said(share: float, words: str, /) -> None:
        nonlocal last
        now = time.monotonic()
        if now - last < TELL_EVERY_S:
            return
        last = now
        job.progress = min(max(share, 0.0), 1.0)
        Job.objects.filter(id=job.id).update(progress=job.progress, said=words[:400], beat_at=timezone.now())
        if Job.objects.filter(id=job.id, cancel=True).exists():
            raise Cancelled

    return said


def bury(*, all_running: bool = False) -> int:
    """End jobs whose worker is gone: all that run when a worker starts, else those without a sign of life for long."""
    running = Job.objects.filter(state="running")
    if not all_running:
        running = running.filter(beat_at__lt=timezone.now() - LOST_AFTER)
    return running.update(state="failed", said=LOST, ended_at=timezone.now())
