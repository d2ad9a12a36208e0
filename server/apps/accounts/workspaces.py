"""Making a workspace and saying what holds in it."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from uuid import UUID
from zoneinfo import ZoneInfo, available_timezones

from cultrix_core.errors import Refusal, require_between
from django.db import transaction
from django.http import HttpRequest, HttpResponseBase
from django.utils import timezone

from apps.accounts.links import checked_name
from apps.accounts.models import Membership, User, Workspace
from apps.accounts.queries import workspace_for
from apps.accounts.refusals import AccountRefusal
from apps.accounts.second_factor import is_on
from apps.accounts.services import require_lead
from apps.base.errors import Forbidden

UNIT_SYSTEMS = ("metric", "us")


@cache
def time_zones() -> tuple[str, ...]:
    """Time zones by their names, those of a place only."""
    return ("UTC", *sorted(name for name in available_timezones() if "/" in name and not name.startswith(("Etc/", "posix/"))))


def new_workspace(*, name: str, currency: str, time_zone: str, unit_system: str) -> Workspace:
    """A workspace with nobody in it yet; refuses what cannot be."""
    return Workspace.objects.create(
        name=checked_name(name), currency=_checked_currency(currency), time_zone=_checked_zone(time_zone),
        unit_system=_checked_units(unit_system),
    )  # fmt: skip


def add_workspace(user: User, *, name: str, currency: str, time_zone: str, unit_system: str) -> Workspace:
    """Another workspace, led by its maker; for people who lead one already."""
    if not user.is_superuser and not Membership.objects.filter(user=user, role="lead").exists():
        raise Forbidden("A new workspace is made by somebody who leads one already, or by the owner of this installation.")
    with transaction.atomic():
        workspace = new_workspace(name=name, currency=currency, time_zone=time_zone, unit_system=unit_system)
        Membership.objects.create(user=user, workspace=workspace, role="lead")
    return workspace


def set_workspace(user: User, workspace_id: UUID, **changes: object) -> Workspace:
    """Change what is sent of name, currency, time zone, units, days of offline copies, second factor; the lead's to say.

    Raises
    ------
    Forbidden : not a lead. Refusal : a value that cannot be, or a currency in which amounts are written already.
    """
    workspace = workspace_for(user, workspace_id)
    require_lead(user, workspace)
    with transaction.atomic():
        for name, value in changes.items():
            if value is not None:
                setattr(workspace, name, _CHECKS[name](user, workspace, value))
        workspace.save(update_fields=[name for name, value in changes.items() if value is not None])
    return workspace


def _days(_user: User, _workspace: Workspace, value: object) -> int:
    return int(require_between(float(str(value)), 1, 60, "pack_days", label="Days that offline copies are kept"))


def _currency(_user: User, workspace: Workspace, value: object) -> str:
    text = _checked_currency(str(value))
    trials = workspace.trials.count()
    if text != workspace.currency and trials:
        raise AccountRefusal("currency_bound", field="currency", value=trials, limit=workspace.currency)
    return text


def _second_factor(user: User, _workspace: Workspace, value: object) -> bool:
    if value and not is_on(user):
        raise AccountRefusal("second_factor_first", field="leads_need_second_factor")
    return bool(value)


_CHECKS: dict[str, Callable[[User, Workspace, object], object]] = {
    "name": lambda _user, _workspace, value: checked_name(str(value)),
    "currency": _currency,
    "time_zone": lambda _user, _workspace, value: _checked_zone(str(value)),
    "unit_system": lambda _user, _workspace, value: _checked_units(str(value)),
    "pack_days": _days,
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


def _checked_units(name: str) -> str:
    if name not in UNIT_SYSTEMS:
        raise Refusal("unknown_choice", field="unit_system", value=name, limit=", ".join(UNIT_SYSTEMS))
    return name


class TimeZoneMiddleware:
    """Days and times of a request are those of the workspace it is about, set by the door and taken back here."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        timezone.deactivate()
        try:
            return self.get_response(request)
        finally:
            timezone.deactivate()


def be_at_home(time_zone: str) -> None:
    """Let this request's today be the one of the workspace's time zone."""
    if time_zone != "UTC":
        timezone.activate(ZoneInfo(time_zone))
