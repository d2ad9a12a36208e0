"""Setting a password: its strength is checked here, wherever it is set."""

from __future__ import annotations

from django.contrib.auth import update_session_auth_hash
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.http import HttpRequest

from apps.accounts.credentials import password_is_right
from apps.accounts.devices import end_others
from apps.accounts.models import Device, User
from apps.accounts.refusals import AccountRefusal


def require_strong(user: User, password: str) -> None:
    """Refuse a password that is short, common, or much like the person's name."""
    try:
        validate_password(password, user)
    except ValidationError as error:
        reasons = " ".join(str(message) for message in error.messages)
        raise AccountRefusal("weak_password", field="password", reasons=reasons) from error


def set_password(user: User, password: str, *, keep_session: str | None = None) -> User:
    """Set a password and end the person's sessions on all devices, but the one to be kept."""
    require_strong(user, password)
    user.set_password(password)
    user.save(update_fields=["password"])
    end_others(user, but=keep_session)
    return user


def change_password(request: HttpRequest, user: User, *, current: str, new: str) -> User:
    """Change one's own password; other devices are signed out, this one stays signed in.

    Raises
    ------
    AccountRefusal : the present password is wrong, or the new one is weak.
    MustWait, Busy : as at signing in.
    """
    if not password_is_right(request, user, current):
        raise AccountRefusal("wrong_password", field="current")
    set_password(user, new, keep_session=request.session.session_key)
    before = request.session.session_key
    update_session_auth_hash(request, user)  # gives the session another key
    Device.objects.filter(session_key=before).update(session_key=request.session.session_key)
    return user
