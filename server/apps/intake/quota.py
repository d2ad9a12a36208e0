"""Limits of a workspace on what it uploads: files an hour, and space on the disk."""

from __future__ import annotations

from contextvars import ContextVar
from dataclasses import dataclass
from datetime import timedelta

from cultrix_core.errors import Refusal
from django.conf import settings
from django.db.models import Sum
from django.utils import timezone

from apps.accounts.models import User, Workspace
from apps.base.errors import Busy
from apps.intake.models import Upload

HOUR = timedelta(hours=1)
_admitted: ContextVar[Upload | None] = ContextVar("admitted", default=None)


@dataclass(frozen=True, slots=True, kw_only=True)
class Usage:
    """What a workspace has used of its limits."""

    space_bytes: int
    space_limit_bytes: int
    uploads_this_hour: int
    uploads_limit: int


def usage_of(workspace: Workspace) -> Usage:
    """Space and uploads of a workspace, beside its limits."""
    kept = workspace.uploads.aggregate(total=Sum("kept_bytes"))["total"] or 0
    return Usage(
        space_bytes=kept,
        space_limit_bytes=settings.WORKSPACE_SPACE_BYTES,
        uploads_this_hour=workspace.uploads.filter(at__gte=timezone.now() - HOUR).count(),
        uploads_limit=settings.WORKSPACE_UPLOADS_AN_HOUR,
    )


def admit(user: User, workspace: Workspace, kind: str, size: int) -> Upload:
    """Count an upload before it is looked at; refuses one that is over a limit.

    Raises
    ------
    Busy : too many uploads in this hour; a device keeps what it has and sends it again by itself.
    Refusal : ``too_large`` with the limit of space.
    """
    used = usage_of(workspace)
    if used.uploads_this_hour >= used.uploads_limit:
        raise Busy(
            f"This workspace has sent {used.uploads_limit} files within an hour, which is its limit. Nothing was lost; it is "
            "taken once the hour is over."
        )
    if used.space_bytes + size > used.space_limit_bytes:
        raise Refusal(
            "too_large",
            field="file",
            label="Photographs and logs of this workspace",
            value=f"{(used.space_bytes + size) / 1e9:.2f}",
            limit=f"{used.space_limit_bytes / 1e9:.2f}",
            unit=" GB",
            remedy="Whoever runs the server can raise the limit.",
        )
    upload = Upload.objects.create(workspace=workspace, person=user, kind=kind)
    _admitted.set(upload)
    return upload


def begin_request() -> None:
    """Forget what an earlier request of this thread sent, so that it is never taken for this one's."""
    _admitted.set(None)


def take_back() -> None:
    """Do not count the upload of this request: nobody had time to look at it, and it comes again."""
    upload = _admitted.get()
    if upload is not None and upload.pk is not None and not upload.kept_bytes:
        upload.delete()
    _admitted.set(None)


def keep(upload: Upload, size: int) -> None:
    """Say that an upload stays on the disk and how much it takes."""
    upload.kept_bytes = size
    upload.save(update_fields=["kept_bytes"])
