"""Whether a name and a password belong together: counted, slowed down, and never too many at the same time."""

from __future__ import annotations

import threading

from django.contrib.auth import authenticate
from django.http import HttpRequest

from apps.accounts.models import User
from apps.accounts.throttle import begin_try, forgive
from apps.base.errors import Busy

HASHES_AT_ONCE = 2  # a hash takes a hundred megabytes of memory: many at once must not take it all
HASH_PATIENCE_S = 10.0
_hashing = threading.BoundedSemaphore(HASHES_AT_ONCE)


class MustWait(Exception):
    """Too many wrong tries; the next one is looked at after so many seconds."""

    def __init__(self, seconds: int) -> None:
        self.seconds = seconds
        super().__init__(f"{seconds} s")


def account_of(request: HttpRequest, username: str, password: str) -> User | None:
    """The account that a name and password open; a try counts as wrong until ``forgive`` is called for it.

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
    return user if isinstance(user, User) else None


def password_is_right(request: HttpRequest, user: User, password: str) -> bool:
    """Whether the person who is signed in knows the password, asked before something weighty is changed."""
    right = account_of(request, user.username, password) == user
    if right:
        forgive(request, user.username)
    return right
