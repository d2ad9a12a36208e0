"""Reading jobs, always through the reader's memberships."""

from __future__ import annotations

from uuid import UUID

from django.utils import timezone

from apps.accounts.models import User
from apps.accounts.rights import within_reach
from apps.base.errors import NotFound
from apps.jobs.models import Job


def job_for(user: User, job_id: UUID) -> Job:
    """A job in one of the person's workspaces, else ``NotFound``."""
    reach = within_reach(user, farm="trial__field__farm")
    job = Job.objects.filter(reach, id=job_id).select_related("workspace").first()
    if job is None:
        raise NotFound
    return job


def latest(subject: UUID, kind: str = "") -> Job | None:
    """The job last asked for about something, of a kind where one is named."""
    jobs = Job.objects.filter(subject=subject, kind=kind) if kind else Job.objects.filter(subject=subject)
    return jobs.order_by("-asked_at").first()


def state_of(job: Job) -> str:
    """State of a job; one whose worker is gone waits for another."""
    if job.state == "running" and job.lease_until is not None and job.lease_until < timezone.now():
        return "waiting"
    return job.state
