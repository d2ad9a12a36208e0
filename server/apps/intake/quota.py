"""Limits of a workspace on what it uploads: files an hour, and space on the disk."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

from cultrix_core.errors import Refusal
from django.conf import settings
from django.db.models import Sum
from django.utils import timezone

from apps.accounts.models import User, Workspace
from apps.intake.models import Upload

HOUR = timedelta(hours=1)


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
    Refusal : ``too_large`` with the limit of space, or of uploads an hour.
    """
    used = usage_of(workspace)
    if used.uploads_this_hour >= used.uploads_limit:
        raise Refusal(
            "too_large", field="file", label="Uploads of this workspace in an hour", value=used.uploads_this_hour + 1,
            limit=used.uploads_limit, remedy="Wait a while, then send it again; nothing was lost.",
        )  # fmt: skip
    if used.space_bytes + size > used.space_limit_bytes:
        raise Refusal(
            "too_large", field="file", label="Photographs and logs of this workspace",
            value=f"{(used.space_bytes + size) / 1e9:.2f}", limit=f"{used.space_limit_bytes / 1e9:.2f}", unit=" GB",
            remedy="Whoever runs the server can raise the limit.",
        )  # fmt: skip
    return Upload.objects.create(workspace=workspace, person=user, kind=kind)


def keep(upload: Upload, size: int) -> None:
    """Say that an upload stays on the disk and how much it takes."""
    upload.kept_bytes = size
    upload.save(update_fields=["kept_bytes"])
