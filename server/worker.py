"""The one process that does long work: ``python server/worker.py``. ``serve.py`` starts it and starts it again if it dies."""

from __future__ import annotations

import argparse
import logging
import os
import sys
import threading
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]


def _end_with(parent: int) -> None:
    """A worker must not outlive the server that started it, not even one that ended before the worker was up."""
    while os.getppid() == parent:
        time.sleep(1)
    os._exit(0)


def main() -> int:
    parser = argparse.ArgumentParser(description="Do what takes long.")
    parser.add_argument("--with-parent", type=int, help="end when this process is no longer the parent")
    arguments = parser.parse_args()
    sys.path[:0] = [str(ROOT / "server"), str(ROOT / "core")]
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")
    import django

    django.setup()
    from apps.jobs.queue import queue
    from apps.jobs.services import bury

    bury(all_running=True)  # there is one worker, so nothing else can be at work
    if arguments.with_parent:
        threading.Thread(target=_end_with, args=(arguments.with_parent,), daemon=True).start()
    logging.basicConfig(level=logging.WARNING)
    queue.create_consumer(workers=1, worker_type="thread", periodic=False, initial_delay=0.1, max_delay=0.5, backoff=1.2).run()
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
