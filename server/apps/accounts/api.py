"""Session, preferences and people."""

from typing import Any, cast
from uuid import UUID

from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Router, Status
from ninja.utils import check_csrf

from apps.accounts import selectors, services
from apps.accounts.models import User
from apps.accounts.schemas import FaultOut, MemberOut, PersonOut, PreferencesIn, SessionOut, SignInIn, WorkspaceOut

router = Router(tags=["accounts"])


def _person(user: User) -> PersonOut:
    return PersonOut(
        username=user.username,
        name=user.get_full_name() or user.username,
        unit_system=cast(Any, user.unit_system),
        theme=cast(Any, user.theme),
        single_keys=user.single_keys,
        workspaces=[
            WorkspaceOut(
                id=membership.workspace.id,
                name=membership.workspace.name,
                currency=membership.workspace.currency,
                role=cast(Any, membership.role),
            )
            for membership in selectors.memberships_of(user)
        ],
    )


@router.get("/session", auth=None, response=SessionOut, operation_id="session")
def session(request: HttpRequest):
    get_token(request)
    user = request.user
    return SessionOut(person=_person(user) if isinstance(user, User) else None)


@router.post(
    "/session", auth=None, response={200: SessionOut, 401: FaultOut, 403: FaultOut, 429: FaultOut}, operation_id="sign_in"
)
def sign_in(request: HttpRequest, body: SignInIn):
    if check_csrf(request) is not None:
        return Status(403, FaultOut(code="csrf", message="This page is out of date. Load it again, then sign in.", field=None))
    user = services.sign_in(request, username=body.username, password=body.password)
    if getattr(request, "axes_locked_out", False):
        return Status(
            429,
            FaultOut(
                code="too_many_tries",
                field="password",
                message="Too many wrong tries. Wait a quarter of an hour, then try again.",
            ),
        )
    if user is None:
        return Status(
            401, FaultOut(code="wrong_sign_in", field="password", message="This name and password do not belong together.")
        )
    get_token(request)
    return SessionOut(person=_person(user))


@router.delete("/session", response={204: None}, operation_id="sign_out")
def sign_out(request: HttpRequest):
    services.sign_out(request)
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
