"""Accounts and workspaces as the API tells them."""

from __future__ import annotations

from typing import Any, cast

from cultrix_core import __version__
from cultrix_core.crops import crop
from cultrix_core.regions import QUANTITIES, REGIONS
from cultrix_core.unit_formatting import KINDS
from cultrix_core.units import units_of
from cultrix_core.writing import WRITINGS
from django.db.models import Count, Max, Q

from apps.accounts import first_start, queries, second_factor
from apps.accounts.links import PATH
from apps.accounts.models import AccountLink, MembershipFarm, User, Workspace
from apps.accounts.refusals import ACCOUNT_WORDING
from apps.accounts.rights import DEEDS, Reach, ids_of, reach_of
from apps.accounts.schemas import (
    AccountLinkOut,
    CropChoiceOut,
    MemberOut,
    NewAccountLinkOut,
    PersonOut,
    QuantityKindOut,
    RegionOut,
    RegionsOut,
    SessionOut,
    WelcomeOut,
    WorkspaceOut,
)


def workspace_out(user: User, workspace: Workspace, reach: Reach, *, second_factor_on: bool) -> WorkspaceOut:
    """A workspace as one of its people sees it."""
    here, reader = queries.region_of(workspace), queries.reader_region(user, workspace)
    return WorkspaceOut(
        id=workspace.id,
        name=workspace.name,
        currency=workspace.currency,
        time_zone=workspace.time_zone,
        region=here.key,
        changed_units=workspace.region_changes.get("units", {}),
        alpha=here.alpha,
        paper=cast(Any, here.paper),
        writing=cast(Any, here.writing),
        crops=[
            CropChoiceOut(key=profile.key, name=profile.name, relative=profile.relative)
            for profile in map(crop, (*workspace.own_crops, *here.crops()))
        ],
        units=reader.units_for(None),
        own_units=reader.own_units(),
        role=reach.role,
        deeds=[deed for deed in DEEDS if reach.may(deed)],
        farms=None if reach.farms is None else ids_of(reach),
        pack_days=workspace.pack_days,
        bin_days=workspace.bin_days,
        keep_years=workspace.keep_years or 0,
        practice=workspace.practice,
        leads_need_second_factor=workspace.leads_need_second_factor,
        shut=workspace.leads_need_second_factor and reach.may("people") and not second_factor_on,
    )


def regions_out() -> RegionsOut:
    """The regions to choose from, and what of them may be changed."""
    return RegionsOut(
        regions=[
            RegionOut(
                key=region.key,
                name=region.name,
                currency=region.currency,
                alpha=region.alpha,
                paper=cast(Any, region.paper),
                writing=cast(Any, region.writing),
                units=region.units_for(None),
            )
            for region in REGIONS
        ],
        quantities=[
            QuantityKindOut(
                kind=kind, name=name, units=[[unit.code, unit.label] for unit in units_of(KINDS[kind][0]) if not unit.bushel]
            )
            for kind, name in QUANTITIES.items()
        ],
        writings=[[writing.key, writing.name] for writing in WRITINGS],
    )


def session_out(user: object) -> SessionOut:
    """Who is signed in, and what kind of installation this is."""
    person = user if isinstance(user, User) else None
    return SessionOut(
        person=_person_out(person) if person else None,
        demo=first_start.is_demo(),
        first_start=person is None and first_start.is_new(),
        version=__version__,
    )


def _person_out(user: User) -> PersonOut:
    on = second_factor.is_on(user)
    return PersonOut(
        username=user.username,
        name=user.get_full_name() or user.username,
        unit_system=cast(Any, user.unit_system),
        theme=cast(Any, user.theme),
        single_keys=user.single_keys,
        workspaces=[
            workspace_out(user, membership.workspace, reach_of(membership), second_factor_on=on)
            for membership in queries.memberships_of(user)
        ],
    )


def farms_in(workspace: Workspace, reach: Reach) -> list[str]:
    """Farms that fields of a workspace name, as far as they are within reach."""
    return sorted(farm for farm in set(workspace.fields.values_list("farm", flat=True)) - {""} if reach.on(farm))


def members_out(workspace: Workspace, reach: Reach | None = None) -> list[MemberOut]:
    """The people of a workspace; four queries, however many there are. Of growers, those who share a farm with the reader."""
    farms: dict[int, list[str]] = {}
    named = MembershipFarm.objects.filter(membership__workspace=workspace)
    for user_id, farm in named.values_list("membership__user_id", "farm"):
        farms.setdefault(user_id, []).append(farm)
    people = (
        User.objects.filter(memberships__workspace=workspace)
        .annotate(
            role=Max("memberships__role", filter=Q(memberships__workspace=workspace)),
            contact=Max("devices__last_contact"),
        )
        .order_by("role", "first_name", "username")
    )
    in_hand = dict(workspace.trials.exclude(responsible=None).values_list("responsible").annotate(Count("id")).order_by())
    guarded = set(
        User.objects.filter(memberships__workspace=workspace, totpdevice__confirmed=True).values_list("id", flat=True)
    )
    return [
        MemberOut(
            username=person.username,
            name=person.get_full_name() or person.username,
            role=person.role,
            farms=sorted(farms.get(person.pk, [])),
            active=person.is_active,
            second_factor=person.pk in guarded,
            trials_in_hand=in_hand.get(person.pk, 0),
            last_contact=person.contact,
        )
        for person in people
        if _is_seen(reach, farms.get(person.pk))
    ]


def _is_seen(reach: Reach | None, farms: list[str] | None) -> bool:
    return reach is None or reach.farms is None or farms is None or bool(reach.farms & set(farms))


def link_out(link: AccountLink) -> AccountLinkOut:
    """A link that is open, without its token."""
    return AccountLinkOut(
        id=link.id,
        kind=cast(Any, link.kind),
        name=link.name,
        role=link.role,
        farms=link.farms,
        email=link.email,
        made_by=link.made_by.get_full_name() if link.made_by else "",
        expires_at=link.expires_at,
    )


def new_link_out(link: AccountLink, token: str, *, mailed: bool, wanted: bool = False) -> NewAccountLinkOut:
    """A link that was just made: the only time its token is told. After ``#`` it reaches no server's log."""
    return NewAccountLinkOut(
        link=link_out(link), path=f"{PATH}{token}", mailed=mailed, trouble=ACCOUNT_WORDING["mail_failed"] if wanted else ""
    )


def welcome_out(link: AccountLink) -> WelcomeOut:
    """What somebody who opens a link is told."""
    return WelcomeOut(
        kind=cast(Any, link.kind),
        name=link.name,
        username=link.user.username if link.user else "",
        workspace=link.workspace.name if link.workspace else "",
        role=link.role,
        farms=link.farms,
        invited_by=link.made_by.get_full_name() if link.made_by else "",
    )
