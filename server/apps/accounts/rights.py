"""Who may do what: the one table of roles and deeds, and the farms that a membership reaches.

A role is a set of deeds; a membership has a role and reaches all farms of the workspace, or those it names. A grower always
reaches named farms only. The pages show the same table under Setup.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, cast, get_args

from django.db.models import Exists, OuterRef, Q
from django.db.models.expressions import Combinable

from apps.accounts.models import Membership, MembershipFarm, User, Workspace
from apps.base.errors import Forbidden, NotFound
from apps.base.read_once import read_once

Role = Literal["owner", "adviser", "field_hand", "grower", "reader"]
ROLES: tuple[Role, ...] = get_args(Role)
Deed = Literal[
    "see",
    "money",
    "record",
    "correct_own",
    "correct_others",
    "void",
    "design",
    "freeze",
    "amend",
    "prices",
    "share",
    "export",
    "people",
    "settings",
]
DEEDS: tuple[Deed, ...] = get_args(Deed)

ROLE_NAMES: dict[Role, tuple[str, str]] = {
    "owner": ("Owner", "Everything, people and settings of the workspace too."),
    "adviser": ("Adviser", "Designs, freezes, amends, shares and lets people in."),
    "field_hand": ("Field hand", "Sees trials and field book, records and corrects own records; no money."),
    "grower": ("Grower", "Own farms only: trials, answers and money, and records on them."),
    "reader": ("Reader", "Looks at everything and changes nothing."),
}
DEED_NAMES: dict[Deed, str] = {
    "see": "See trials and records",
    "money": "See answers and money",
    "record": "Record in the field",
    "correct_own": "Correct and void own records",
    "correct_others": "Correct records of others",
    "void": "Void records of others",
    "design": "Set up trials, fields, lots and machines",
    "freeze": "Freeze a protocol",
    "amend": "Amend a frozen protocol",
    "prices": "Change prices and costs",
    "share": "Make links for people outside",
    "export": "Take data out as files",
    "people": "Let people in, change their part",
    "settings": "Settings, backups and health of the workspace",
}
RIGHTS: dict[Role, frozenset[Deed]] = {
    "owner": frozenset(DEEDS),
    "adviser": frozenset(DEEDS) - {"settings"},
    "field_hand": frozenset({"see", "record", "correct_own"}),
    "grower": frozenset({"see", "money", "record", "correct_own", "export"}),
    "reader": frozenset({"see", "money", "export"}),
}
# Roles that never reach all farms of a workspace.
OF_NAMED_FARMS: frozenset[Role] = frozenset({"grower"})
# What somebody may do where nobody said otherwise: asked for by the deed that is missing.
ASK = "Ask the owner or an adviser of the workspace."


def as_role(stored: str) -> Role:
    """A role as the database has it: one of the table, by the choices of its column."""
    return cast(Role, stored)


@dataclass(frozen=True, slots=True, kw_only=True)
class Reach:
    """What somebody may do in a workspace, and on which farms; ``farms`` is None for all of them."""

    role: Role
    farms: frozenset[str] | None

    @property
    def deeds(self) -> frozenset[Deed]:
        """Deeds of the role."""
        return RIGHTS[self.role]

    def may(self, deed: Deed) -> bool:
        """Whether a deed is among them."""
        return deed in RIGHTS[self.role]

    def on(self, farm: str | None) -> bool:
        """Whether a farm is within reach; None: no farm, which is only where all are."""
        return self.farms is None or farm in self.farms


def refused(role: Role, deed: Deed) -> Forbidden:
    """The refusal of a deed, in words that say what is missing and who can give it."""
    return Forbidden(f"“{DEED_NAMES[deed]}” is not part of a {ROLE_NAMES[role][0].lower()}'s rights here. {ASK}")


@read_once
def _reach_in(workspace: Workspace, user_id: int) -> Reach | None:
    membership = Membership.objects.filter(user_id=user_id, workspace=workspace).first()
    if membership is None:
        return None
    return reach_of(membership)


def reach_of(membership: Membership) -> Reach:
    """What a membership reaches."""
    role = as_role(membership.role)
    if membership.all_farms and role not in OF_NAMED_FARMS:
        return Reach(role=role, farms=None)
    return Reach(role=role, farms=frozenset(row.farm for row in membership.farms.all()))


def reach_in(user: User, workspace: Workspace) -> Reach:
    """What a person reaches in a workspace, else ``NotFound``."""
    reach = _reach_in(workspace, user.pk)
    if reach is None:
        raise NotFound
    return reach


def require(user: User, workspace: Workspace, deed: Deed) -> Reach:
    """Let those pass who may do it; others are refused, strangers find nothing."""
    reach = reach_in(user, workspace)
    if not reach.may(deed):
        raise refused(reach.role, deed)
    return reach


def require_farm(reach: Reach, farm: str | None) -> None:
    """Refuse a farm that is out of reach; None: no farm, which only those may who reach all."""
    if not reach.on(farm):
        farms = ", ".join(ids_of(reach)) or "none yet"
        raise Forbidden(f"This is outside your farms ({farms}). Choose a field of one of them.")


def within_reach(user: User, *, workspace: str = "workspace", farm: str | None = None) -> Exists:
    """The condition that a row is of a workspace of the person and, where it has a farm, of a farm within reach.

    ``workspace``, ``farm``: where the row keeps them, as Django names columns across tables.
    """
    memberships = Membership.objects.filter(user=user, workspace=OuterRef(workspace))
    if farm is not None:
        memberships = memberships.filter(_farms(OuterRef(OuterRef(farm))))
    return Exists(memberships)


def _farms(farm: Combinable) -> Q:
    named = MembershipFarm.objects.filter(membership=OuterRef("pk"), farm=farm)
    return Q(all_farms=True) & ~Q(role__in=OF_NAMED_FARMS) | Q(Exists(named))


def reaches_farm_of(farm: object) -> Q:
    """The condition on memberships that the farm a query finds is within reach."""
    return Q(all_farms=True) & ~Q(role__in=OF_NAMED_FARMS) | Q(farms__farm__in=farm)


def stronger(reach: Reach, role: str) -> bool:
    """Whether a role may something that this person may not: then it is not theirs to give or to take."""
    return not RIGHTS[as_role(role)] <= reach.deeds


def ids_of(reach: Reach) -> list[str]:
    """The farms of a reach in order; empty for all."""
    return sorted(reach.farms or ())
