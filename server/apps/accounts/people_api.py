"""Workspaces, their people, and the links that let people in."""

from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Status

from apps.accounts import links, people, second_factor, workspaces
from apps.accounts.models import Workspace
from apps.accounts.output import farms_in, link_out, members_out, new_link_out, regions_out, session_out, workspace_out
from apps.accounts.queries import actor, workspace_for
from apps.accounts.rights import DEED_NAMES, DEEDS, RIGHTS, ROLE_NAMES, ROLES, reach_in
from apps.accounts.schemas import (
    AccountLinkIn,
    AccountLinkOut,
    DeedOut,
    MemberOut,
    NewAccountLinkOut,
    OwnCropIn,
    RegionsOut,
    RightsOut,
    RoleIn,
    RoleRightsOut,
    SessionOut,
    WorkspaceIn,
    WorkspaceOut,
    WorkspacePatchIn,
)

router = Router(tags=["people"])


@router.get("/time-zones", auth=None, response=list[str], operation_id="time_zones")
def time_zones(request: HttpRequest):  # noqa: ARG001 - every view takes it
    return workspaces.time_zones()


@router.get("/regions", auth=None, response=RegionsOut, operation_id="regions")
def regions(request: HttpRequest):  # noqa: ARG001 - every view takes it
    return regions_out()


@router.post("/workspaces", response=SessionOut, operation_id="add_workspace")
def add_workspace(request: HttpRequest, body: WorkspaceIn):
    user = actor(request)
    workspaces.add_workspace(user, **body.dict())
    return session_out(user)


@router.patch("/workspaces/{workspace_id}", response=WorkspaceOut, operation_id="set_workspace")
def set_workspace(request: HttpRequest, workspace_id: UUID, body: WorkspacePatchIn):
    user = actor(request)
    workspace = workspaces.set_workspace(user, workspace_id, **body.dict(exclude_unset=True))
    return workspace_out(user, workspace, reach_in(user, workspace), second_factor_on=second_factor.is_on(user))


@router.post("/workspaces/{workspace_id}/crops", response=WorkspaceOut, operation_id="add_own_crop")
def add_own_crop(request: HttpRequest, workspace_id: UUID, body: OwnCropIn):
    user = actor(request)
    workspace = workspaces.add_own_crop(user, workspace_id, name=body.name, relative=body.relative)
    return workspace_out(user, workspace, reach_in(user, workspace), second_factor_on=second_factor.is_on(user))


@router.get("/workspaces/{workspace_id}/people", response=list[MemberOut], operation_id="people")
def list_people(request: HttpRequest, workspace_id: UUID):
    workspace = workspace_for(actor(request), workspace_id)
    return members_out(workspace, reach_in(actor(request), workspace))


@router.get("/workspaces/{workspace_id}/rights", response=RightsOut, operation_id="rights")
def rights(request: HttpRequest, workspace_id: UUID):
    """The table of roles and deeds, and the farms there are."""
    workspace = workspace_for(actor(request), workspace_id)
    return RightsOut(
        roles=[
            RoleRightsOut(
                role=role, name=ROLE_NAMES[role][0], what=ROLE_NAMES[role][1], deeds=sorted(RIGHTS[role], key=DEEDS.index)
            )
            for role in ROLES
        ],
        deeds=[DeedOut(deed=deed, name=DEED_NAMES[deed]) for deed in DEEDS],
        farms=farms_in(workspace, reach_in(actor(request), workspace)),
    )


def _people(workspace_id: UUID) -> list[MemberOut]:
    return members_out(Workspace.objects.get(id=workspace_id))


@router.patch("/workspaces/{workspace_id}/people/{username}", response=list[MemberOut], operation_id="set_role")
def set_role(request: HttpRequest, workspace_id: UUID, username: str, body: RoleIn):
    people.set_role(actor(request), workspace_id, username, body.role, body.farms)
    return _people(workspace_id)


@router.delete("/workspaces/{workspace_id}/people/{username}", response=list[MemberOut], operation_id="remove_person")
def remove_person(request: HttpRequest, workspace_id: UUID, username: str):
    people.remove(actor(request), workspace_id, username)
    return _people(workspace_id)


@router.post("/workspaces/{workspace_id}/people/{username}/deactivate", response=list[MemberOut], operation_id="deactivate")
def deactivate(request: HttpRequest, workspace_id: UUID, username: str):
    people.deactivate(actor(request), workspace_id, username)
    return _people(workspace_id)


@router.post("/workspaces/{workspace_id}/people/{username}/reactivate", response=list[MemberOut], operation_id="reactivate")
def reactivate(request: HttpRequest, workspace_id: UUID, username: str):
    people.reactivate(actor(request), workspace_id, username)
    return _people(workspace_id)


@router.post(
    "/workspaces/{workspace_id}/people/{username}/second-factor-off",
    response=list[MemberOut],
    operation_id="remove_second_factor",
)
def remove_second_factor(request: HttpRequest, workspace_id: UUID, username: str):
    people.remove_second_factor(actor(request), workspace_id, username)
    return _people(workspace_id)


@router.post(
    "/workspaces/{workspace_id}/people/{username}/reset-link", response=NewAccountLinkOut, operation_id="make_reset_link"
)
def make_reset_link(request: HttpRequest, workspace_id: UUID, username: str):
    link, token = links.reset_link(actor(request), workspace_id, username)
    return new_link_out(link, token, mailed=False)


@router.get("/workspaces/{workspace_id}/account-links", response=list[AccountLinkOut], operation_id="account_links")
def account_links(request: HttpRequest, workspace_id: UUID):
    return [link_out(link) for link in links.open_links(actor(request), workspace_id)]


@router.post("/workspaces/{workspace_id}/account-links", response=NewAccountLinkOut, operation_id="invite")
def invite(request: HttpRequest, workspace_id: UUID, body: AccountLinkIn):
    link, token = links.invite(actor(request), workspace_id, name=body.name, role=body.role, email=body.email, farms=body.farms)
    mailed = links.mail(link, request.build_absolute_uri(f"{links.PATH}{token}"))
    return new_link_out(link, token, mailed=mailed, wanted=bool(link.email) and links.can_mail() and not mailed)


@router.delete("/workspaces/{workspace_id}/account-links/{link_id}", response={204: None}, operation_id="revoke_link")
def revoke_link(request: HttpRequest, workspace_id: UUID, link_id: UUID):
    links.revoke(actor(request), workspace_id, link_id)
    return Status(204, None)
