"""The daily backup, looked after beside the worker's other work."""

from __future__ import annotations

import logging
import threading

from django.db import close_old_connections

from apps.backup import rotation
from apps.backup.errors import BackupError

FIRST_LOOK_S = 120.0
LOOK_EVERY_S = 300.0
log = logging.getLogger("cultrix.backup")


def start() -> threading.Thread:
    """Look every few minutes whether a backup is due, in a thread of its own."""
    thread = threading.Thread(target=_look_after, daemon=True)
    thread.start()
    return thread


def _look_after() -> None:
    never = threading.Event()
    never.wait(FIRST_LOOK_S)  # a server that has just started has other things to do
    while True:
        look()
        never.wait(LOOK_EVERY_S)


def look() -> bool:
    """Make the daily backup when it is due; whether one was made. A failure is noted, told on the pages, and tried again."""
    try:
        if not rotation.is_due():
            return False
        backup = rotation.keep_one("daily")
    except BackupError as error:
        log.error("the daily backup failed: %s", error)
        return False
    except Exception:
        log.exception("the daily backup failed")
        return False
    finally:
        close_old_connections()
    log.info("backed up: %s, %d bytes", backup.name, backup.size)
    return True
