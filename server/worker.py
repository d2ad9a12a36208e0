"""A process that does long work: ``python server/worker.py``. ``serve.py`` starts one and starts it again if it dies."""

from __future__ import annotations

import argparse
import os
import sys
import threading
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
LOOK_EVERY_S = 0.3
PURGE_EVERY_S = 3600.0  # looks at what has lain in the bin for its days
SUMMARIES_AT_ONCE = 5  # between two looks at what waits for people


def _end_with(parent: int) -> None:
    """A worker must not outlive the server that started it, not even one that ended before the worker was up."""
    pause = threading.Event()
    while os.getppid() == parent:
        pause.wait(1)
    os._exit(0)


def main() -> int:
    parser = argparse.ArgumentParser(description="Do what takes long.")
    parser.add_argument("--with-parent", type=int, help="end when this process is no longer the parent")
    arguments = parser.parse_args()
    sys.path[:0] = [str(ROOT / "server"), str(ROOT / "core")]
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")
    os.environ["CULTRIX_PROCESS"] = "worker"
    os.umask(0o077)
    import django

    django.setup()
    from apps.backup import schedule
    from apps.backup.chain import chain
    from apps.backup.errors import BackupError
    from apps.backup.locking import together
    from apps.health.heartbeats import beat
    from apps.jobs.services import claim, name_of_worker, run
    from apps.trial_state.listing import make_old_ones_anew
    from apps.trials.life import bin_old, purge_overdue
    from django.conf import settings
    from django.db import DatabaseError

    try:
        together(settings.VAR)
    except BackupError as error:
        print(error)
        return 1
    schedule.start()
    if arguments.with_parent:
        threading.Thread(target=_end_with, args=(arguments.with_parent,), daemon=True).start()
    name, pause = name_of_worker(), threading.Event()
    purged_at = 0.0
    while True:
        beat("worker")
        try:
            job = claim(name)
        except DatabaseError:  # the disk is full or the file is being moved: the row waits, and so does this
            pause.wait(5)
            continue
        if job is not None:
            run(job)
            continue
        try:
            if time.monotonic() - purged_at > PURGE_EVERY_S:
                purged_at = time.monotonic()
                bin_old()
                purge_overdue()
                chain()
            result = make_old_ones_anew(most=SUMMARIES_AT_ONCE)
        except DatabaseError:
            result = 0
        if not result:
            pause.wait(LOOK_EVERY_S)


if __name__ == "__main__":
    raise SystemExit(main())
