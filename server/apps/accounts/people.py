"""The people of a workspace: their part in it, handing their trials over, removing them, deactivating their account.

A lead's reach ends at the lead's own workspaces: whoever also belongs to another one keeps the account, whatever a lead of this
one does. What somebody recorded stays under that person's name.
"""

from __future__ import annotations

from uuid import UUID

from cultrix_core.errors import Refusal
from django.db import transaction
from django.utils import timezone

from apps.accounts import second_factor
from apps.accounts.devices import end_others
from apps.accounts.models import AccountLink, Membership, PastMembership, User, Workspace
from apps.accounts.queries import workspace_for
from apps.accounts.refusals import AccountRefusal
from apps.accounts.services import require_lead
from apps.base.errors import NotFound

ROLES = ("lead", "scout", "viewer")


def checked_role(role: str) -> str:
    """A part in a workspace, else refused."""
    if role not in ROLES:
        raise Refusal("unknown_choice", field="role", label="Part", value=role, limit=", ".join(ROLES))
    return role


def require_reach(user: User, person: User, deed: str) -> None:
    """Refuse unless the lead leads every workspace that the person belongs to."""
    others = Workspace.objects.filter(memberships__user=person, practice=False).exclude(
        memberships__in=Membership.objects.filter(user=user, role="lead")
    )
    if others.exists():
        raise AccountRefusal("of_other_workspaces", field="username", value=person.username, limit=deed)


def set_role(user: User, workspace_id: UUID, username: str, role: str) -> Membership:
    """Change somebody's part; a workspace keeps at least one lead."""
    with transaction.atomic():
        membership = _membership(user, workspace_id, username)
        if membership.role == "lead" and role != "lead":
            _require_other_lead(membership)
        membership.role = checked_role(role)
        membership.save(update_fields=["role"])
    return membership


def remove(user: User, workspace_id: UUID, username: str) -> None:
    """Take somebody out of a workspace; the account stays, records stay under the person's name."""
    with transaction.atomic():
        membership = _membership(user, workspace_id, username)
        if membership.role == "lead":
            _require_other_lead(membership)
        membership.delete()


def deactivate(user: User, workspace_id: UUID, username: str) -> User:
    """Shut somebody's account: no sign-in, no session, no link; nothing that person recorded changes."""
    with transaction.atomic():
        membership = _membership(user, workspace_id, username)
        person = membership.user
        if person == user:
            raise AccountRefusal("not_yourself", field="username")
        require_reach(user, person, "deactivate")
        for item in Membership.objects.filter(user=person, role="lead", workspace__practice=False).select_related("workspace"):
            _require_other_lead(item)
        shut(person)
    return person


def reactivate(user: User, workspace_id: UUID, username: str) -> User:
    """Open an account again that was shut."""
    with transaction.atomic():
        person = _membership(user, workspace_id, username).user
        require_reach(user, person, "add")
        person.is_active = True
        person.save(update_fields=["is_active"])
    return person


def remove_second_factor(user: User, workspace_id: UUID, username: str) -> None:
    """Let somebody in by password alone again who has lost the phone and the recovery codes."""
    person = _membership(user, workspace_id, username).user
    if person == user:
        raise AccountRefusal("not_yourself", field="username")
    require_reach(user, person, "reset")
    second_factor.remove(person)


def shut(person: User) -> None:
    """End an account: sessions, open links, invitations made by it. Offline copies go when a device next asks."""
    person.is_active = False
    person.save(update_fields=["is_active"])
    end_others(person, but=None)
    for links in (AccountLink.objects.filter(user=person), AccountLink.objects.filter(made_by=person)):
        links.filter(used_at=None, revoked_at=None).update(revoked_at=timezone.now())


def writer_of(workspace: Workspace, username: str) -> User:
    """Somebody of the workspace who may write in it, for handing over to."""
    membership = (
        Membership.objects.filter(workspace=workspace, user__username=username, user__is_active=True)
        .exclude(role="viewer")
        .select_related("user")
        .first()
    )
    if membership is None:
        raise AccountRefusal("no_successor", field="to", value=username)
    return membership.user


def was_member(workspace: Workspace, username: str) -> User:
    """Somebody who belongs to a workspace or has belonged to it, else ``NotFound``."""
    person = User.objects.filter(username=username).first()
    if person is None or not (
        Membership.objects.filter(user=person, workspace=workspace).exists()
        or PastMembership.objects.filter(user=person, workspace=workspace).exists()
    ):
        raise NotFound
    return person


def _membership(user: User, workspace_id: UUID, username: str) -> Membership:
    workspace = workspace_for(user, workspace_id)
    require_lead(user, workspace)
    membership = Membership.objects.filter(workspace=workspace, user__username=username).select_related("user").first()
    if membership is None:
        raise NotFound
    return membership


def _require_other_lead(membership: Membership) -> None:
    others = Membership.objects.filter(workspace=membership.workspace, role="lead", user__is_active=True)
    if not others.exclude(pk=membership.pk).exists():
        raise AccountRefusal(
            "last_lead",
            field="role",
            value=membership.user.get_full_name() or membership.user.username,
            limit=membership.workspace.name,
        )
