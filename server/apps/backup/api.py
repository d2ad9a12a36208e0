"""Backups, for whoever answers for the data of the whole installation."""

from datetime import datetime
from uuid import UUID

from django.http import FileResponse, HttpRequest
from ninja import Router, Schema

from apps.accounts.queries import actor, workspace_for
from apps.accounts.rights import require
from apps.backup import rotation
from apps.backup.access import require_keeper
from apps.base.errors import Forbidden, NotFound
from apps.jobs.queries import latest, state_of
from apps.jobs.services import ask_for

router = Router(tags=["backup"])


class BackupOut(Schema):
    name: str
    kind: str
    made_at: datetime
    size_bytes: int


class BackupsOut(Schema):
    well: bool
    words: str
    last_good_at: datetime | None
    may_take: bool
    """Whether this person may make and download backups; the list is empty where not."""
    under_way: bool
    trouble: str
    kept: list[BackupOut]


@router.get("/workspaces/{workspace_id}/backups", response=BackupsOut, operation_id="backups")
def backups(request: HttpRequest, workspace_id: UUID):
    user = actor(request)
    workspace = workspace_for(user, workspace_id)
    require(user, workspace, "settings")
    try:
        require_keeper(user, workspace_id)
        may_take = True
    except Forbidden:
        may_take = False
    state = rotation.state()
    job = latest(workspace.id, rotation.KIND)
    return BackupsOut(
        well=state.well,
        words=state.words,
        last_good_at=state.last_good_at,
        may_take=may_take,
        under_way=job is not None and state_of(job) in ("waiting", "running"),
        trouble=job.said if job is not None and job.state == "failed" else "",
        kept=[
            BackupOut(name=backup.name, kind=backup.kind, made_at=backup.made_at, size_bytes=backup.size)
            for backup in (rotation.kept() if may_take else ())
        ],
    )


@router.post("/workspaces/{workspace_id}/backups", response=BackupsOut, operation_id="back_up")
def back_up(request: HttpRequest, workspace_id: UUID):
    """Ask the worker for a backup."""
    user = actor(request)
    workspace = require_keeper(user, workspace_id)
    ask_for(user, rotation.KIND, workspace=workspace, subject=workspace.id, inputs_hash="")
    return backups(request, workspace_id)


@router.get("/workspaces/{workspace_id}/backups/{name}", response={200: None}, operation_id="download_backup")
def download_backup(request: HttpRequest, workspace_id: UUID, name: str):
    require_keeper(actor(request), workspace_id)
    path = rotation.path_of(name)
    if path is None:
        raise NotFound
    return FileResponse(path.open("rb"), as_attachment=True, filename=f"cultrix-{path.name}", content_type="application/zip")
