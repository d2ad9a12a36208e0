"""Who uses the folder of an installation: servers and workers together, a restore alone. The lock ends with its process."""

from __future__ import annotations

import fcntl
import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from apps.backup.errors import BackupError

NAME = "in-use.lock"


def together(folder: Path) -> int:
    """Use a folder beside others, for as long as the process lives.

    Raises
    ------
    BackupError : a restore is under way.
    """
    handle = os.open(folder / NAME, os.O_RDWR | os.O_CREAT, 0o600)
    try:
        fcntl.flock(handle, fcntl.LOCK_SH | fcntl.LOCK_NB)
    except BlockingIOError as error:
        os.close(handle)
        raise BackupError("A restore is under way in this folder. Wait until it has ended.") from error
    return handle


@contextmanager
def alone(folder: Path) -> Iterator[None]:
    """Use a folder with nobody beside.

    Raises
    ------
    BackupError : a server or worker runs on it.
    """
    handle = os.open(folder / NAME, os.O_RDWR | os.O_CREAT, 0o600)
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError as error:
        os.close(handle)
        raise BackupError("A server or a worker runs on this folder. Stop it first (Ctrl-C where it was started).") from error
    try:
        yield
    finally:
        os.close(handle)
