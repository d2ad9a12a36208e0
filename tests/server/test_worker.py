"""The real worker process: it takes what waits, it is cancelled, it is killed; nothing half done is ever kept."""

from __future__ import annotations

import os
import signal
import sqlite3
import subprocess
import sys
import threading
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager
from pathlib import Path

import pytest

from tests.made_once import copied, empty_installation

ROOT = Path(__file__).resolve().parents[2]
PATIENCE_S = 120


class Own:
    """A folder with a database and a log of its own."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.environment = os.environ | {
            "CULTRIX_VAR": str(folder),
            "DJANGO_SETTINGS_MODULE": "config.settings",
            "PYTHONPATH": f"{ROOT / 'core'}{os.pathsep}{ROOT / 'server'}{os.pathsep}{ROOT}",
        }

    def waits(self, metres: float, copies: int = 1) -> None:
        script = [sys.executable, str(ROOT / "tests" / "server" / "worker_setting.py"), str(metres), str(copies)]
        done = subprocess.run(script, env=self.environment, capture_output=True, text=True, check=False)
        assert done.returncode == 0, done.stderr

    @contextmanager
    def worker(self) -> Iterator[subprocess.Popen[bytes]]:
        process = subprocess.Popen([sys.executable, str(ROOT / "server" / "worker.py")], env=self.environment)
        try:
            yield process
        finally:
            process.kill()
            process.wait()

    def ask(self, sql: str) -> list[tuple[object, ...]]:
        with closing(sqlite3.connect(self.folder / "cultrix.sqlite3", timeout=20)) as database, database:
            return database.execute(sql).fetchall()

    def job(self) -> tuple[object, ...]:
        return self.ask("SELECT state, progress, said FROM jobs_job ORDER BY asked_at DESC LIMIT 1")[0]

    def results(self) -> int:
        return len(self.ask("SELECT id FROM yieldlogs_yieldlog WHERE result IS NOT NULL"))


def until(true: Callable[[], bool]) -> None:
    """Look again until it is so; fail when it never is."""
    never = threading.Event()
    for _ in range(PATIENCE_S * 20):
        if true():
            return
        never.wait(0.05)
    pytest.fail("It never came about.")


@pytest.fixture
def own(tmp_path: Path) -> Own:
    return Own(copied(empty_installation(), tmp_path / "var"))


def test_a_worker_takes_what_waits(own: Own) -> None:
    own.waits(200)
    assert own.job()[0] == "waiting"
    with own.worker():
        until(lambda: own.job()[0] not in ("waiting", "running"))
    assert own.job()[0] == "done", own.job()
    assert own.results() == 1
    assert len(list((own.folder / "logs" / "points").glob("*.npz"))) == 1


def test_work_of_a_killed_worker_is_taken_again(own: Own) -> None:
    """Killed in the middle of it: nothing half done is kept, and the next worker does it from the beginning."""
    own.waits(6_000)
    with own.worker() as process:
        until(lambda: own.job()[0] == "running")
        process.send_signal(signal.SIGKILL)
        process.wait()
    assert own.job()[0] == "running", "nobody has said yet how it ended"
    assert own.results() == 0
    with own.worker():
        until(lambda: own.job()[0] not in ("running", "waiting"))
    assert own.job()[0] == "done", own.job()
    assert own.ask("SELECT tries FROM jobs_job") == [(2,)]
    assert own.results() == 1


def test_work_that_ends_every_worker_is_given_up(own: Own) -> None:
    own.waits(20_000)
    with own.worker() as process:
        until(lambda: own.job()[0] == "running")
        process.send_signal(signal.SIGKILL)
        process.wait()
    own.ask("UPDATE jobs_job SET tries = 3")
    with own.worker():
        until(lambda: own.job()[0] == "failed")
    assert "3 times" in str(own.job()[2])
    assert "Nothing was taken in" in str(own.job()[2])
    assert own.results() == 0


def test_two_workers_do_no_harm(own: Own) -> None:
    """Eight pieces of work, two workers: each is done by one of them, once."""
    own.waits(200, copies=8)
    with own.worker(), own.worker():
        until(lambda: not own.ask("SELECT id FROM jobs_job WHERE state IN ('running', 'waiting')"))
    assert own.ask("SELECT state, tries FROM jobs_job") == [("done", 1)] * 8
    assert len(own.ask("SELECT DISTINCT worker FROM jobs_job")) in (1, 2)
    assert own.results() == 8


def test_a_running_job_stops_when_it_is_asked_to(own: Own) -> None:
    own.waits(20_000)
    with own.worker():
        until(lambda: own.job()[0] == "running")
        own.ask("UPDATE jobs_job SET cancel = 1")
        until(lambda: own.job()[0] != "running")
    assert own.job()[0] == "cancelled"
    assert own.results() == 0


def test_a_worker_ends_when_its_server_is_gone(own: Own) -> None:
    """Even one whose server ended before it was up: the process named as parent is not its parent any more."""
    own.waits(200)
    nobody = subprocess.Popen([sys.executable, "-c", "pass"])
    nobody.wait()
    worker = [sys.executable, str(ROOT / "server" / "worker.py"), f"--with-parent={nobody.pid}"]
    assert subprocess.run(worker, env=own.environment, check=False, timeout=PATIENCE_S).returncode == 0
