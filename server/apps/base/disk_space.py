"""Room on the disk: writing stops while there is still enough to read, to sign in, and to finish what is under way."""

from __future__ import annotations

import shutil

from django.conf import settings

from apps.base.errors import NoRoom

FULL = (
    "The server's disk is nearly full, so nothing more is taken in. What you typed is kept; reading goes on. "
    "Tell whoever runs the server to make room."
)


def free_bytes() -> int:
    """Bytes free where the database lies."""
    return shutil.disk_usage(settings.VAR).free


def require_space(more: int = 0) -> None:
    """Refuse to write when that would take the reserve."""
    if free_bytes() - more < settings.DISK_RESERVE_BYTES:
        raise NoRoom(FULL)
