"""How long to wait before the next try to sign in.

Wrong tries are counted by the address they come from and by the name they aim at, each alone. Waiting doubles with every
wrong try up to a limit and is never a lock. A device on which the person has signed in before is counted alone, so that a
stranger who tries a name makes the stranger wait and not its owner (device cookies, OWASP, from memory). Counts are taken
before the password is looked at, so that many tries at once count as many.
"""

from __future__ import annotations

import hashlib
import math
from datetime import timedelta

from django.conf import settings
from django.core import signing
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from apps.accounts.models import SignInFailure

FORGIVEN_AFTER = timedelta(hours=1)
KNOWN_COOKIE = "known_device"
KNOWN_AGE_S = 60 * 60 * 24 * 400
# wrong tries without waiting, and the longest wait in seconds
BY_ADDRESS, BY_NAME, BY_KNOWN_DEVICE, BY_LOCAL_ADDRESS = (10, 300), (25, 15), (5, 60), (5, 60)
LOCAL = ("127.0.0.1", "::1", "")


def address_of(request: HttpRequest) -> str:
    """Where a request comes from; what a proxy says of it counts only where the proxy is said to be there."""
    if settings.BEHIND_PROXY:
        forwarded = str(request.META.get("HTTP_X_FORWARDED_FOR", "")).rsplit(",", 1)[-1].strip()
        if forwarded:
            return forwarded[:60]
    return str(request.META.get("REMOTE_ADDR", ""))[:60]


def is_known(request: HttpRequest, username: str) -> bool:
    """Whether this person has signed in on this device before."""
    try:
        names = signing.loads(request.COOKIES.get(KNOWN_COOKIE, ""), salt=KNOWN_COOKIE, max_age=KNOWN_AGE_S)
    except signing.BadSignature:
        return False
    return isinstance(names, list) and _short(username) in names


def remember_device(request: HttpRequest, response: HttpResponse, username: str) -> None:
    """Let this device be known to belong to a person; a cookie that names nobody in words."""
    try:
        names = signing.loads(request.COOKIES.get(KNOWN_COOKIE, ""), salt=KNOWN_COOKIE, max_age=KNOWN_AGE_S)
    except signing.BadSignature:
        names = []
    names = [*(name for name in names if name != _short(username)), _short(username)][-20:]
    response.set_cookie(
        KNOWN_COOKIE,
        signing.dumps(names, salt=KNOWN_COOKIE),
        max_age=KNOWN_AGE_S,
        httponly=True,
        samesite="Lax",
        secure=settings.HTTPS,
    )


def _short(username: str) -> str:
    return hashlib.sha256(username.casefold().encode()).hexdigest()[:16]


def _counts(request: HttpRequest, username: str) -> dict[str, tuple[int, int]]:
    """What this try counts for, with the limits of each."""
    name, address = _short(username), address_of(request)
    if is_known(request, username):
        return {f"device:{_short(request.COOKIES[KNOWN_COOKIE])}:{name}": BY_KNOWN_DEVICE}
    if address in LOCAL:  # everybody behind a proxy that is not trusted: one must not make the others wait
        return {f"from:{address}:{name}": BY_LOCAL_ADDRESS, f"name:{name}": BY_NAME}
    return {f"from:{address}": BY_ADDRESS, f"name:{name}": BY_NAME}


def begin_try(request: HttpRequest, username: str) -> int:
    """Count a try as wrong until it is right; returns the seconds to wait, 0 when it may go on."""
    now = timezone.now()
    counts = _counts(request, username)
    with transaction.atomic():
        SignInFailure.objects.filter(last_at__lt=now - FORGIVEN_AFTER).delete()
        rows = {failure.key: failure for failure in SignInFailure.objects.filter(key__in=counts)}
        waits = [_left(rows[key], *limits) for key, limits in counts.items() if key in rows]
        if any(waits):
            return math.ceil(max(waits))
        for key in counts:
            row = rows.get(key) or SignInFailure(key=key)
            row.failures, row.last_at = row.failures + 1, now
            row.save()
    return 0


def _left(row: SignInFailure, free: int, longest_s: int) -> float:
    if row.failures < free:
        return 0.0
    wait = min(2.0 ** min(row.failures - free, 20), longest_s)
    return max(wait - (timezone.now() - row.last_at).total_seconds(), 0.0)


def forgive(request: HttpRequest, username: str) -> None:
    """A right password ends the count of its name on this device and address."""
    SignInFailure.objects.filter(key__in=_counts(request, username)).delete()
