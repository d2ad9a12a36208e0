"""The queue between requests and the worker, a file beside the database."""

from __future__ import annotations

from django.conf import settings
from huey import SqliteHuey  # type: ignore[import-untyped]

queue = SqliteHuey(name="cultrix", filename=str(settings.VAR / "queue.sqlite3"), results=False)


@queue.task()
def work(job_id: str) -> None:
    """Run a job by its id."""
    from apps.jobs.services import run  # noqa: PLC0415 - services put jobs into this queue

    run(job_id)
