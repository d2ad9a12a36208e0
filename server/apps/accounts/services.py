"""Signing in and out, preferences, and the check that a person may write."""

from __future__ import annotations

from cultrix_core.errors import Refusal
from django.contrib.auth import authenticate, login, logout
from django.db import models
from django.http import HttpRequest, HttpResponse

from apps.accounts.faults import Forbidden
from apps.accounts.models import User, Workspace
from apps.accounts.selectors import role_in

CHOICES = {"unit_system": ("metric", "us"), "theme": ("day", "night", "sun")}


def require_writer(user: User, workspace: Workspace) -> None:
    """Let leads and scouts pass; viewers are refused, strangers find nothing."""
    if role_in(user, workspace) == "viewer":
        raise Forbidden("You can look at this workspace but not change it. Ask its lead for a scout's part.")


def sign_in(request: HttpRequest, *, username: str, password: str) -> User | None:
    """Sign in; None for a wrong name or password."""
    user = authenticate(request, username=username, password=password)
    if not isinstance(user, User):
        return None
    login(request, user)
    return user


def sign_out(request: HttpRequest) -> None:
    """End the session."""
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


def save_as(record: models.Model, user: User, reason: str) -> None:
    """Save with who and why in the record's history."""
    record._history_user = user  # type: ignore[attr-defined]
    record._change_reason = reason[:100]  # type: ignore[attr-defined]
    record.save()


def keep_answer(_request: HttpRequest, answer: HttpResponse, _credentials: object) -> HttpResponse:
    """Of a throttled sign-in: the API's own answer, not a page of the throttling package."""
    return answer
