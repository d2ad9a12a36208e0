"""Signs of life of the processes, as files: written often, and of no use once the machine is off."""

from __future__ import annotations

import time
from pathlib import Path

from django.conf import settings

EVERY_S = 5.0
_last: dict[str, float] = {}


def _path(process: str) -> Path:
    return Path(settings.VAR) / "beats" / process


def beat(process: str) -> None:
    """Say that a process lives; cheap enough to be said at every turn."""
    now = time.monotonic()
    if now - _last.get(process, -EVERY_S) < EVERY_S:
        return
    _last[process] = now
    try:
        _path(process).parent.mkdir(exist_ok=True)
        _path(process).touch()
    except OSError:  # a full disk is told elsewhere
        return


def seconds_since(process: str) -> float | None:
    """How long ago a process was last heard of; None when never."""
    try:
        return max(time.time() - _path(process).stat().st_mtime, 0.0)
    except OSError:
        return None
