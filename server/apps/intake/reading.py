"""Reading an uploaded file in a process of its own: bounded in memory, time, number and what comes back."""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Any

from cultrix_core.errors import WORDING, Refusal
from django.conf import settings

from apps.base.errors import Busy
from apps.intake.quota import take_back

PROGRAM = Path(__file__).parent / "reader"
AT_ONCE = 2  # children of one process; what comes beyond waits its turn
IN_ALL = 4  # children and those who wait for one: of eight threads the others go on answering everybody else
PATIENCE_S = 30.0
MOST_HEAD_BYTES = 40_000_000
OTHERS = "Other files are being read. Try again in a minute; nothing was taken in."
_turns = threading.BoundedSemaphore(AT_ONCE)
_places = threading.BoundedSemaphore(IN_ALL)


@dataclass(frozen=True, slots=True, kw_only=True)
class Bounds:
    """What a child may take: memory, processor time, time on the clock, bytes it may answer with."""

    memory_bytes: int = 1_200_000_000
    seconds: int = 20
    wall_s: float = 40.0
    answer_bytes: int = 120_000_000


LARGE = Bounds(memory_bytes=2_000_000_000, seconds=240, wall_s=400.0, answer_bytes=900_000_000)
PREVIEW = Bounds(memory_bytes=2_000_000_000, seconds=40, wall_s=80.0, answer_bytes=10_000_000)


def read(task: str, source: IO[bytes], bounds: Bounds | None = None, **details: Any) -> tuple[dict[str, Any], bytes]:
    """Have a file read by the child; its refusals are raised here.

    Raises
    ------
    Refusal : what is wrong with the file. Busy : other files are being read for longer than anybody should wait.
    """
    bounds = bounds or Bounds()
    asked = {"task": task, "memory_bytes": bounds.memory_bytes, "seconds": bounds.seconds} | details
    with _turn(), tempfile.TemporaryFile() as content:
        source.seek(0)
        for chunk in iter(lambda: source.read(1 << 20), b""):
            content.write(chunk)
        content.seek(0)
        head, rest = _answer(json.dumps(asked), content, bounds)
    if "refusal" in head:
        code, field, params = head["refusal"]
        raise Refusal(code if code in WORDING else "bad_geometry", field=field, **params)
    if "swelled" in head:
        raise _too_much()
    return head["found"], rest


@contextmanager
def _turn() -> Iterator[None]:
    if not _places.acquire(blocking=False):
        take_back()
        raise Busy(OTHERS)
    try:
        if not _turns.acquire(timeout=PATIENCE_S):
            take_back()
            raise Busy(OTHERS)
        try:
            yield
        finally:
            _turns.release()
    finally:
        _places.release()


def _answer(asked: str, content: IO[bytes], bounds: Bounds) -> tuple[dict[str, Any], bytes]:
    with tempfile.TemporaryDirectory(prefix="cultrix-reader-") as folder:
        child = subprocess.Popen(
            [sys.executable, "-I", str(PROGRAM), asked],
            stdin=content,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            cwd=folder,
            env={"LC_ALL": "C.UTF-8", "OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"},
        )
        assert child.stdout is not None
        timer = threading.Timer(bounds.wall_s, child.kill)
        timer.start()
        try:
            head = child.stdout.readline(MOST_HEAD_BYTES)
            rest = child.stdout.read(bounds.answer_bytes + 1)
        finally:
            timer.cancel()
            child.kill()
            child.stdout.close()
            child.wait()
    if not head.endswith(b"\n") or len(rest) > bounds.answer_bytes:
        raise _too_much()  # killed by one of its limits, or by the clock
    result: dict[str, Any] = json.loads(head)
    return result, rest


def _too_much() -> Refusal:
    limit = settings.UPLOAD_LIMIT_BYTES / 1e6
    return Refusal(
        "bad_geometry",
        field="file",
        label="The file",
        value="reading it takes more memory or time than any field needs",
        remedy=f"Export the one field only; a few hundred kB are usual for an outline, {limit:.0f} MB the most.",
    )
