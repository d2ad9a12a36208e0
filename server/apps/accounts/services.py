"""Signing in and out, preferences, and saving under a person's name."""

from __future__ import annotations

from cultrix_core.errors import Refusal
from django.contrib.auth import login, logout
from django.db import models
from django.http import HttpRequest

from apps.accounts import second_factor
from apps.accounts.credentials import account_of
from apps.accounts.devices import register
from apps.accounts.models import Device, User
from apps.accounts.refusals import AccountRefusal
from apps.accounts.throttle import forgive
from apps.audit.services import note

CHOICES = {"unit_system": ("home", "metric", "us"), "theme": ("day", "night", "sun")}


class CodeNeeded(Exception):
    """Name and password are right; the code of the second factor is asked for."""


def sign_in(request: HttpRequest, *, username: str, password: str, code: str = "", shared: bool = False) -> User | None:
    """Sign in; None for a wrong name or password.

    Raises
    ------
    CodeNeeded : the person has a second factor and sent no code. AccountRefusal : the code is wrong.
    MustWait : after many wrong tries, codes among them. Busy : too many passwords are being checked at the same time.
    """
    user = account_of(request, username, password)
    if user is None:
        known = User.objects.filter(username=username).first()
        if known is not None:
            note(known, "sign_in", "had a sign-in refused for a wrong password")
        return None
    if second_factor.is_on(user):
        if not code.strip():
            raise CodeNeeded
        if not second_factor.code_is_right(user, code):
            note(user, "sign_in", "had a sign-in refused for a wrong code")
            raise AccountRefusal("wrong_code", field="code")
    enter(request, user, shared=shared)
    return user


def enter(request: HttpRequest, user: User, *, shared: bool = False) -> None:
    """Begin a session of somebody who has shown who they are."""
    forgive(request, user.username)
    login(request, user, backend="django.contrib.auth.backends.ModelBackend")
    device = register(request, user, shared=shared)
    note(user, "sign_in", f"signed in on {device.name}{', a shared device' if shared else ''}")


def sign_out(request: HttpRequest) -> None:
    """End the session, and forget the device."""
    if request.user.is_authenticated:
        note(request.user, "sign_in", "signed out")
    Device.objects.filter(session_key=request.session.session_key or "").delete()
    logout(request)


def set_preferences(user: User, *, unit_system: str | None, theme: str | None, single_keys: bool | None) -> User:
    """Change how this person reads and types; records stay as they are."""
    for field, value in (("unit_system", unit_system), ("theme", theme)):
        if value is None:
            continue
        if value not in CHOICES[field]:
            raise Refusal("unknown_choice", field=field, value=value, limit=", ".join(CHOICES[field]))
        setattr(user, field, value)
    if single_keys is not None:
        user.single_keys = single_keys
    user.save(update_fields=["unit_system", "theme", "single_keys"])
    return user


def save_as(record: models.Model, user: User, reason: str, *, new: bool = False) -> None:
    """Save with who and why in the record's history; ``new``: it is known not to be there yet."""
    record._history_user = user  # type: ignore[attr-defined]
    record._change_reason = reason[:100]  # type: ignore[attr-defined]
    record.save(force_insert=new)
