"""Session, preferences and people."""

from typing import Any, cast
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import get_token
from ninja import Router, Status
from ninja.utils import check_csrf

from apps.accounts import devices, selectors, services
from apps.accounts.models import User, Workspace
from apps.accounts.schemas import (
    DeviceOut,
    FaultOut,
    MemberOut,
    PersonOut,
    PreferencesIn,
    SessionOut,
    SignInIn,
    WorkspaceIn,
    WorkspaceOut,
)
from apps.accounts.throttle import remember_device

router = Router(tags=["accounts"])


def _workspace(workspace: Workspace, role: str) -> WorkspaceOut:
    return WorkspaceOut(
        id=workspace.id, name=workspace.name, currency=workspace.currency, role=cast(Any, role), pack_days=workspace.pack_days
    )


def _person(user: User) -> PersonOut:
    return PersonOut(
        username=user.username,
        name=user.get_full_name() or user.username,
        unit_system=cast(Any, user.unit_system),
        theme=cast(Any, user.theme),
        single_keys=user.single_keys,
        workspaces=[_workspace(membership.workspace, membership.role) for membership in selectors.memberships_of(user)],
    )


@router.get("/session", auth=None, response=SessionOut, operation_id="session")
def session(request: HttpRequest):
    get_token(request)
    user = request.user
    return SessionOut(person=_person(user) if isinstance(user, User) else None)


@router.post(
    "/session", auth=None, response={200: SessionOut, 401: FaultOut, 403: FaultOut, 429: FaultOut}, operation_id="sign_in"
)
def sign_in(request: HttpRequest, response: HttpResponse, body: SignInIn):
    if check_csrf(request) is not None:
        return Status(403, FaultOut(code="csrf", message="This page is out of date. Load it again, then sign in.", field=None))
    try:
        user = services.sign_in(request, username=body.username, password=body.password, shared=body.shared)
    except services.MustWait as wait:
        response["Retry-After"] = str(wait.seconds)
        message = f"Too many wrong tries. Wait {wait.seconds} {'second' if wait.seconds == 1 else 'seconds'}, then try again."
        return Status(429, FaultOut(code="too_many_tries", field="password", message=message))
    if user is None:
        return Status(
            401, FaultOut(code="wrong_sign_in", field="password", message="This name and password do not belong together.")
        )
    remember_device(request, response, user.username)
    get_token(request)
    return SessionOut(person=_person(user))


@router.delete("/session", response={204: None}, operation_id="sign_out")
def sign_out(request: HttpRequest):
    services.sign_out(request)
    return Status(204, None)


@router.get("/sessions", response=list[DeviceOut], operation_id="sessions")
def sessions(request: HttpRequest):
    here = request.session.session_key
    return [
        DeviceOut(
            id=one.id, name=one.name, shared=one.shared, signed_in_at=one.signed_in_at, last_contact=one.last_contact,
            here=one.session_key == here,
        )
        for one in devices.devices_of(selectors.actor(request))
    ]  # fmt: skip


@router.delete("/sessions/{device_id}", response={204: None}, operation_id="end_session")
def end_session(request: HttpRequest, device_id: UUID):
    devices.end(selectors.actor(request), device_id)
    return Status(204, None)


@router.delete("/sessions", response={204: None}, operation_id="end_other_sessions")
def end_other_sessions(request: HttpRequest):
    devices.end_others(selectors.actor(request), but=request.session.session_key)
    return Status(204, None)


@router.patch("/session", response=SessionOut, operation_id="set_preferences")
def set_preferences(request: HttpRequest, body: PreferencesIn):
    user = services.set_preferences(
        selectors.actor(request), unit_system=body.unit_system, theme=body.theme, single_keys=body.single_keys
    )
    return SessionOut(person=_person(user))


@router.get("/workspaces/{workspace_id}/people", response=list[MemberOut], operation_id="people")
def people(request: HttpRequest, workspace_id: UUID):
    workspace = selectors.workspace_for(selectors.actor(request), workspace_id)
    return [
        MemberOut(username=membership.user.username, name=membership.user.get_full_name(), role=cast(Any, membership.role))
        for membership in workspace.memberships.select_related("user").order_by("role", "user__first_name")
    ]


@router.patch("/workspaces/{workspace_id}", response=WorkspaceOut, operation_id="set_workspace")
def set_workspace(request: HttpRequest, workspace_id: UUID, body: WorkspaceIn):
    user = selectors.actor(request)
    workspace = services.set_workspace(user, workspace_id, pack_days=body.pack_days)
    return _workspace(workspace, selectors.role_in(user, workspace))
