"""Asking for a practice workspace, and removing it."""

from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema, Status

from apps.accounts.models import User
from apps.accounts.queries import actor, workspace_for
from apps.demo import practice
from apps.jobs.queries import state_of

router = Router(tags=["practice"])


class PracticeOut(Schema):
    """A practice workspace, if there is one, and how far its filling is."""

    workspace_id: UUID | None
    under_way: bool
    progress: float
    said: str
    failed: bool


def _practice(user: User, workspace_id: UUID) -> PracticeOut:
    there = practice.practice_of(user)
    job = practice.under_way(workspace_for(user, workspace_id)) if there is None else None
    return PracticeOut(
        workspace_id=there.id if there else None,
        under_way=job is not None and state_of(job) in ("waiting", "running"),
        progress=job.progress if job else 0.0,
        said=job.said if job else "",
        failed=job is not None and job.state == "failed",
    )


@router.get("/workspaces/{workspace_id}/practice", response=PracticeOut, operation_id="practice")
def read_practice(request: HttpRequest, workspace_id: UUID):
    return _practice(actor(request), workspace_id)


@router.post("/workspaces/{workspace_id}/practice", response=PracticeOut, operation_id="begin_practice")
def begin_practice(request: HttpRequest, workspace_id: UUID):
    user = actor(request)
    practice.ask_for_practice(user, workspace_id)
    return _practice(user, workspace_id)


@router.delete("/workspaces/{workspace_id}/practice", response={204: None}, operation_id="remove_practice")
def remove_practice(request: HttpRequest, workspace_id: UUID):
    practice.remove_practice(actor(request), workspace_id)
    return Status(204, None)
