"""Making a workspace and saying what holds in it."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from typing import Any, cast
from uuid import UUID
from zoneinfo import ZoneInfo, available_timezones

from cultrix_core.crops import own_crop_key
from cultrix_core.errors import require_between
from cultrix_core.regions import REGIONS, RegionProfile, find_region, region_profile
from cultrix_core.writing import write_as, written_as
from django.db import transaction
from django.http import HttpRequest, HttpResponseBase
from django.utils import timezone

from apps.accounts.links import checked_name
from apps.accounts.models import Membership, User, Workspace
from apps.accounts.queries import workspace_for
from apps.accounts.refusals import AccountRefusal
from apps.accounts.rights import require
from apps.accounts.second_factor import is_on
from apps.audit.services import note
from apps.base.errors import Forbidden

MOST_OWN_CROPS = 60


@cache
def time_zones() -> tuple[str, ...]:
    """Time zones by their names, those of a place only."""
    return ("UTC", *sorted(name for name in available_timezones() if "/" in name and not name.startswith(("Etc/", "posix/"))))


def new_workspace(*, name: str, currency: str, time_zone: str, region: str) -> Workspace:
    """A workspace with nobody in it yet; refuses what cannot be."""
    return Workspace.objects.create(
        name=checked_name(name),
        currency=_checked_currency(currency),
        time_zone=_checked_zone(time_zone),
        region=find_region(region).key,
    )


def add_workspace(user: User, *, name: str, currency: str, time_zone: str, region: str) -> Workspace:
    """Another workspace, owned by its maker; for people who own one already."""
    if not user.is_superuser and not Membership.objects.filter(user=user, role="owner").exists():
        raise Forbidden("A new workspace is made by somebody who owns one already, or by the owner of this installation.")
    with transaction.atomic():
        workspace = new_workspace(name=name, currency=currency, time_zone=time_zone, region=region)
        Membership.objects.create(user=user, workspace=workspace, role="owner")
    return workspace


def set_workspace(user: User, workspace_id: UUID, **changes: object) -> Workspace:
    """Change what is sent of name, currency, time zone, region, days of offline copies, second factor; an owner's to say.

    Another region takes its own units with it: what was changed of the one before is dropped.

    Raises
    ------
    Forbidden : not a lead. Refusal : a value that cannot be, or a currency in which amounts are written already.
    """
    workspace = workspace_for(user, workspace_id)
    require(user, workspace, "settings")
    with transaction.atomic():
        before = {name: str(getattr(workspace, name)) for name in changes}
        for name, value in changes.items():
            if value is not None:
                setattr(workspace, name, _CHECKS[name](user, workspace, value))
        workspace.save()
        labels = {name: name.replace("_", " ") for name in changes}
        note(
            user,
            "settings",
            "changed settings of the workspace",
            workspace=workspace,
            before={labels[name]: text for name, text in before.items()},
            after={labels[name]: str(getattr(workspace, name)) for name in changes},
        )
    return workspace


def add_own_crop(user: User, workspace_id: UUID, *, name: str, relative: str) -> Workspace:
    """Offer a crop that the catalogue does not have, with everything of its nearest relative; for people who enter.

    Raises
    ------
    Refusal : a name or relative that cannot be. Forbidden : somebody who only looks on.
    """
    workspace = workspace_for(user, workspace_id)
    require(user, workspace, "design")
    offer_own_crop(workspace, own_crop_key(name, relative))
    return workspace


def offer_own_crop(workspace: Workspace, key: str) -> None:
    """Let a crop of one's own be chosen from now on."""
    with transaction.atomic():
        held = Workspace.objects.select_for_update().get(pk=workspace.pk)
        if key not in held.own_crops:
            if len(held.own_crops) >= MOST_OWN_CROPS:
                raise AccountRefusal("too_many_crops", field="name", limit=MOST_OWN_CROPS)
            held.own_crops = [*held.own_crops, key]
            held.save(update_fields=["own_crops"])
        workspace.own_crops = held.own_crops


def _days(_user: User, _workspace: Workspace, value: object) -> int:
    return int(require_between(float(str(value)), 1, 60, "pack_days", label="Days that offline copies are kept"))


def _bin_days(_user: User, _workspace: Workspace, value: object) -> int:
    return int(require_between(float(str(value)), 30, 730, "bin_days", label="Days in the bin"))


def _keep_years(_user: User, _workspace: Workspace, value: object) -> int | None:
    """Years that trials are kept; 0 for as long as the workspace is there."""
    years = int(require_between(float(str(value)), 0, 100, "keep_years", label="Years that trials are kept"))
    return years or None


def _currency(_user: User, workspace: Workspace, value: object) -> str:
    text = _checked_currency(str(value))
    trials = workspace.trials.count()
    if text != workspace.currency and trials:
        raise AccountRefusal("currency_bound", field="currency", value=trials, limit=workspace.currency)
    return text


def _region(_user: User, workspace: Workspace, value: object) -> str:
    key = find_region(str(value)).key
    if key != workspace.region:
        workspace.region_changes = {}
    return key


def _region_changes(_user: User, workspace: Workspace, value: object) -> dict[str, Any]:
    """What was changed before with what is changed now; an empty value gives a part back to the region."""
    now = cast(dict[str, Any], value)
    kept = {**workspace.region_changes, **now}
    if "units" in now:
        kept["units"] = {**workspace.region_changes.get("units", {}), **now["units"]}
        kept["units"] = {kind: code for kind, code in kept["units"].items() if code}
    kept = {name: part for name, part in kept.items() if part}
    region_profile(workspace.region, kept)  # refuses what cannot be
    return kept


def _second_factor(user: User, _workspace: Workspace, value: object) -> bool:
    if value and not is_on(user):
        raise AccountRefusal("second_factor_first", field="leads_need_second_factor")
    return bool(value)


_CHECKS: dict[str, Callable[[User, Workspace, object], object]] = {
    "name": lambda _user, _workspace, value: checked_name(str(value)),
    "currency": _currency,
    "time_zone": lambda _user, _workspace, value: _checked_zone(str(value)),
    "region": _region,
    "region_changes": _region_changes,
    "pack_days": _days,
    "bin_days": _bin_days,
    "keep_years": _keep_years,
    "leads_need_second_factor": _second_factor,
}


def _checked_currency(text: str) -> str:
    plain = text.strip()
    if not 1 <= len(plain) <= 8 or any(sign.isdigit() or sign.isspace() for sign in plain):
        raise AccountRefusal("bad_currency", field="currency", value=plain)
    return plain


def _checked_zone(name: str) -> str:
    if name not in time_zones():
        raise AccountRefusal("bad_zone", field="time_zone", value=name)
    return name


class TimeZoneMiddleware:
    """Days, times and writing of a request are those of the workspace it is about, set by the door and taken back here."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        timezone.deactivate()
        try:
            with written_as(REGIONS[0].writing):
                return self.get_response(request)
        finally:
            timezone.deactivate()


def be_at_home(time_zone: str, region: RegionProfile) -> None:
    """Let this request's today be the one of the workspace's time zone, and its numbers and days be written as there."""
    write_as(region.writing)
    if time_zone != "UTC":
        timezone.activate(ZoneInfo(time_zone))
