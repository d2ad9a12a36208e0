"""The people of a workspace: their part in it, handing their trials over, removing them, deactivating their account.

Nobody's reach goes beyond their own workspaces and their own rights there: whoever also belongs to another workspace, or may
more than the one who asks, keeps the account. What somebody recorded stays under that person's name.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any
from uuid import UUID

from cultrix_core.errors import Refusal
from django.db import transaction
from django.utils import timezone

from apps.accounts import second_factor
from apps.accounts.devices import end_others
from apps.accounts.models import AccountLink, Membership, MembershipFarm, PastMembership, User, Workspace
from apps.accounts.queries import workspace_for
from apps.accounts.refusals import AccountRefusal
from apps.accounts.rights import OF_NAMED_FARMS, RIGHTS, ROLE_NAMES, ROLES, as_role, reach_in, require, stronger
from apps.audit.services import note
from apps.base.errors import Forbidden, NotFound


def checked_role(role: str) -> str:
    """A part in a workspace, else refused."""
    if role not in ROLES:
        raise Refusal("unknown_choice", field="role", label="Part", value=role, limit=", ".join(ROLES))
    return role


def require_reach(user: User, person: User, deed: str) -> None:
    """Refuse unless, in every workspace that the person belongs to, this person may let people in and may no less there."""
    parts = dict(Membership.objects.filter(user=user, all_farms=True).values_list("workspace_id", "role"))
    theirs = Membership.objects.filter(user=person, workspace__practice=False).values_list("workspace_id", "role")
    for workspace_id, role in theirs:
        own = RIGHTS[as_role(parts[workspace_id])] if workspace_id in parts else frozenset()
        if "people" not in own or not RIGHTS[as_role(role)] <= own:
            raise AccountRefusal("of_other_workspaces", field="username", value=person.username, limit=deed)


def set_role(user: User, workspace_id: UUID, username: str, role: str, farms: Sequence[str] | None = None) -> Membership:
    """Change somebody's part, and the farms it reaches (None leaves them); a workspace keeps at least one owner.

    Raises
    ------
    Forbidden : a part that may more than one's own, given or taken. Refusal : a role or a farm that is none.
    """
    with transaction.atomic():
        membership = _membership(user, workspace_id, username)
        require_no_stronger(user, membership.workspace, checked_role(role))
        if membership.role == "owner" and role != "owner":
            _require_other_owner(membership)
        reached = farms_for(membership.workspace, role, membership_farms(membership) if farms is None else farms)
        before = _part(membership)
        membership.role = role
        membership.save(update_fields=["role"])
        reach_farms(membership, reached)
        _note(user, membership, "changed the part of", before=before, after=_part(membership))
    return membership


def _part(membership: Membership) -> dict[str, str]:
    farms = ", ".join(membership_farms(Membership.objects.get(pk=membership.pk)))
    return {"part": ROLE_NAMES[as_role(membership.role)][0], "farms": "all" if membership.all_farms else farms or "none"}


def _note(user: User, membership: Membership, done: str, **more: Any) -> None:
    person = membership.user.get_full_name() or membership.user.username
    note(user, "people", f"{done} {person}", workspace=membership.workspace, **more)


def membership_farms(membership: Membership) -> list[str]:
    """Farms named in a membership, in order."""
    return sorted(farm.farm for farm in membership.farms.all())


def reach_farms(membership: Membership, farms: Sequence[str]) -> None:
    """Let a part reach these farms and no others; none named: all of them, save for a grower."""
    membership.farms.all().delete()
    MembershipFarm.objects.bulk_create(MembershipFarm(membership=membership, farm=farm) for farm in farms)
    membership.all_farms = not farms and membership.role not in OF_NAMED_FARMS
    membership.save(update_fields=["all_farms"])


def farms_for(workspace: Workspace, role: str, farms: Sequence[str]) -> list[str]:
    """The farms that a part may be given: an owner's is the whole workspace, a grower's at least one farm of it."""
    wanted = checked_farms(workspace, farms)
    if role == "owner" and wanted:
        raise AccountRefusal("owner_of_all", field="farms")
    if role in OF_NAMED_FARMS and not wanted:
        raise Refusal("missing", field="farms", label="A grower's farm", remedy="Choose the farms that this grower may see.")
    return wanted


def checked_farms(workspace: Workspace, farms: Sequence[str]) -> list[str]:
    """Farms that fields of the workspace name, each once; refuses one that none does."""
    there = set(workspace.fields.values_list("farm", flat=True)) - {""}
    for farm in farms:
        if farm not in there:
            known = ", ".join(sorted(there)) or "none yet: add a field with its farm first"
            raise Refusal("unknown_choice", field="farms", label="Farm", value=farm, limit=known)
    return sorted(set(farms))


def require_no_stronger(user: User, workspace: Workspace, *roles: str) -> None:
    """Refuse to give or take a part that may what one may not oneself."""
    reach = reach_in(user, workspace)
    for role in roles:
        if stronger(reach, role):
            raise Forbidden(f"Only somebody who may everything that an {role} may can give that part or take it away.")
    if reach.farms is not None:
        raise Forbidden("Your part reaches some farms only, and people are let in by somebody whose part reaches all.")


def remove(user: User, workspace_id: UUID, username: str) -> None:
    """Take somebody out of a workspace; the account stays, records stay under the person's name."""
    with transaction.atomic():
        membership = _membership(user, workspace_id, username)
        if membership.role == "owner":
            _require_other_owner(membership)
        _note(user, membership, "removed", before=_part(membership))
        membership.delete()


def deactivate(user: User, workspace_id: UUID, username: str) -> User:
    """Shut somebody's account: no sign-in, no session, no link; nothing that person recorded changes."""
    with transaction.atomic():
        membership = _membership(user, workspace_id, username)
        person = membership.user
        if person == user:
            raise AccountRefusal("not_yourself", field="username")
        require_reach(user, person, "deactivate")
        for item in Membership.objects.filter(user=person, role="owner", workspace__practice=False).select_related("workspace"):
            _require_other_owner(item)
        shut(person)
        _note(user, membership, "deactivated the account of")
    return person


def reactivate(user: User, workspace_id: UUID, username: str) -> User:
    """Open an account again that was shut."""
    with transaction.atomic():
        membership = _membership(user, workspace_id, username)
        person = membership.user
        require_reach(user, person, "add")
        person.is_active = True
        person.save(update_fields=["is_active"])
        _note(user, membership, "opened again the account of")
    return person


def remove_second_factor(user: User, workspace_id: UUID, username: str) -> None:
    """Let somebody in by password alone again who has lost the phone and the recovery codes."""
    membership = _membership(user, workspace_id, username)
    person = membership.user
    if person == user:
        raise AccountRefusal("not_yourself", field="username")
    require_reach(user, person, "reset")
    second_factor.remove(person)
    _note(user, membership, "took away the second factor of")


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
        .filter(role__in=[role for role, deeds in RIGHTS.items() if "design" in deeds])
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
    require(user, workspace, "people")
    membership = (
        Membership.objects.filter(workspace=workspace, user__username=username).select_related("user", "workspace").first()
    )
    if membership is None:
        raise NotFound
    require_no_stronger(user, workspace, membership.role)
    return membership


def _require_other_owner(membership: Membership) -> None:
    others = Membership.objects.filter(workspace=membership.workspace, role="owner", user__is_active=True)
    if not others.exclude(pk=membership.pk).exists():
        raise AccountRefusal(
            "last_owner",
            field="role",
            value=membership.user.get_full_name() or membership.user.username,
            limit=membership.workspace.name,
        )
