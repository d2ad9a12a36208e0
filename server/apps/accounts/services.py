"""Signing in and out, preferences, and the check that a person may write."""

from __future__ import annotations

import threading
from uuid import UUID

from cultrix_core.errors import Refusal, require_between
from django.contrib.auth import authenticate, login, logout
from django.db import models
from django.http import HttpRequest

from apps.accounts.devices import register
from apps.accounts.faults import Busy, Forbidden
from apps.accounts.models import Device, User, Workspace
from apps.accounts.selectors import role_in, workspace_for
from apps.accounts.throttle import begin_try, forgive

READ_ONLY = "You can look at this workspace but not change it. Ask its lead for a scout's part."
HASHES_AT_ONCE = 2  # a hash takes a hundred megabytes of memory: many at once must not take it all
HASH_PATIENCE_S = 10.0
_hashing = threading.BoundedSemaphore(HASHES_AT_ONCE)
CHOICES = {"unit_system": ("metric", "us"), "theme": ("day", "night", "sun")}


def require_writer(user: User, workspace: Workspace) -> None:
    """Let leads and scouts pass; viewers are refused, strangers find nothing."""
    if role_in(user, workspace) == "viewer":
        raise Forbidden(READ_ONLY)


class MustWait(Exception):
    """Too many wrong tries; the next one is looked at after so many seconds."""

    def __init__(self, seconds: int) -> None:
        self.seconds = seconds
        super().__init__(f"{seconds} s")


def sign_in(request: HttpRequest, *, username: str, password: str, shared: bool = False) -> User | None:
    """Sign in; None for a wrong name or password.

    Raises
    ------
    MustWait : after many wrong tries. Busy : too many passwords are being checked at the same time.
    """
    seconds = begin_try(request, username)
    if seconds:
        raise MustWait(seconds)
    if not _hashing.acquire(timeout=HASH_PATIENCE_S):
        raise Busy("Many people are signing in. Try again in a moment.")
    try:
        user = authenticate(request, username=username, password=password)
    finally:
        _hashing.release()
    if not isinstance(user, User):
        return None
    forgive(request, username)
    login(request, user)
    register(request, user, shared=shared)
    return user


def sign_out(request: HttpRequest) -> None:
    """End the session, and forget the device."""
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


def save_as(record: models.Model, user: User, reason: str) -> None:
    """Save with who and why in the record's history."""
    record._history_user = user  # type: ignore[attr-defined]
    record._change_reason = reason[:100]  # type: ignore[attr-defined]
    record.save()


def set_workspace(user: User, workspace_id: UUID, *, pack_days: int) -> Workspace:
    """Change how long devices keep what they saved for offline use; the lead's to say."""
    workspace = workspace_for(user, workspace_id)
    require_lead(user, workspace)
    workspace.pack_days = int(require_between(pack_days, 1, 60, "pack_days", label="Days that offline copies are kept"))
    workspace.save(update_fields=["pack_days"])
    return workspace


def require_lead(user: User, workspace: Workspace) -> None:
    """Let leads pass; others are refused, strangers find nothing."""
    if role_in(user, workspace) != "lead":
        raise Forbidden("This is for the lead of the workspace.")
