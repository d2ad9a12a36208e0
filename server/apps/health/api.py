"""The state of the installation, and of a workspace's limits, for its people."""

from datetime import datetime
from uuid import UUID

from django.http import HttpRequest
from django.utils import timezone
from ninja import Router, Schema

from apps.accounts.queries import actor, workspace_for
from apps.accounts.rights import require
from apps.health.report import checks, last_contacts
from apps.intake.quota import usage_of

router = Router(tags=["health"])


class CheckOut(Schema):
    name: str
    well: bool
    words: str


class ContactOut(Schema):
    person: str
    device: str
    last_contact: datetime


class HealthOut(Schema):
    well: bool
    checks: list[CheckOut]
    devices: list[ContactOut]


class UsageOut(Schema):
    """What the uploads of a workspace take of its limits."""

    space_bytes: int
    space_limit_bytes: int
    uploads_this_hour: int
    uploads_limit: int


class ClockOut(Schema):
    now: datetime


@router.get("/clock", auth=None, response=ClockOut, operation_id="clock")
def clock(request: HttpRequest):  # noqa: ARG001 - every view takes it
    """The server's clock, for devices to compare theirs with."""
    return ClockOut(now=timezone.now())


@router.get("/workspaces/{workspace_id}/health", response=HealthOut, operation_id="health")
def health(request: HttpRequest, workspace_id: UUID):
    user = actor(request)
    workspace = workspace_for(user, workspace_id)
    require(user, workspace, "settings")
    result = checks()
    return HealthOut(
        well=all(check.well for check in result),
        checks=[CheckOut(name=check.name, well=check.well, words=check.words) for check in result],
        devices=[
            ContactOut(
                person=device.user.get_full_name() or device.user.username,
                device=device.name,
                last_contact=device.last_contact,
            )
            for device in last_contacts(workspace)
        ],
    )


@router.get("/workspaces/{workspace_id}/usage", response=UsageOut, operation_id="usage")
def usage(request: HttpRequest, workspace_id: UUID):
    used = usage_of(workspace_for(actor(request), workspace_id))
    return UsageOut(
        space_bytes=used.space_bytes,
        space_limit_bytes=used.space_limit_bytes,
        uploads_this_hour=used.uploads_this_hour,
        uploads_limit=used.uploads_limit,
    )
