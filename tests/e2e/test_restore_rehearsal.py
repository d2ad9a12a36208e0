"""A restore, rehearsed: backed up while people write, put into an empty folder, and nothing acknowledged is missing."""

from __future__ import annotations

import sqlite3
import threading
from contextlib import closing
from pathlib import Path
from typing import Any
from uuid import uuid4

import pytest

from tests.e2e.conftest import ROOT
from tests.faults.installation import Installation, Person, count_of, pause, photo_of
from tests.made_once import copied, manage

COUNTS = 200


@pytest.fixture
def farm(filled: Path, tmp_path: Path) -> Installation:
    return Installation(copied(filled, tmp_path / "var"))


def table(folder: Path, name: str) -> dict[Any, tuple[Any, ...]]:
    with closing(sqlite3.connect(folder / "cultrix.sqlite3")) as database:
        return {row[0]: row for row in database.execute(f"SELECT * FROM {name}")}


def test_nothing_acknowledged_is_missing(farm: Installation, tmp_path: Path) -> None:
    farm.start()
    person = Person(farm, "tobin")
    person.sign_in()
    trial = person.trial()
    strips = [item["id"] for item in trial["strips"]]
    form, kind = photo_of(strips[0], 7)
    picture = str(uuid4())
    assert person.send("POST", f"/trials/{trial['id']}/photos/{picture}", form=form, kind=kind)[0] == 201
    acknowledged: list[str] = []

    def write() -> None:
        for number in range(COUNTS):
            record = str(uuid4())
            path = f"/trials/{trial['id']}/stand-counts/{record}"
            status, _ = person.send("PUT", path, count_of(strips[number % len(strips)], 60 + number % 30))
            if status == 201:
                acknowledged.append(record.replace("-", ""))

    writer = threading.Thread(target=write)
    writer.start()
    while len(acknowledged) < COUNTS // 4:
        pause(0.02)
    before = list(acknowledged)
    file = tmp_path / "farm.zip"
    manage(farm.var, "backup", str(file))
    assert writer.is_alive(), "the backup was made while somebody wrote"
    writer.join()
    assert len(acknowledged) == COUNTS
    farm.kill()

    elsewhere = tmp_path / "elsewhere"
    manage(elsewhere, "restore", str(file))
    restored, live = table(elsewhere, "records_standcount"), table(farm.var, "records_standcount")
    assert set(before) <= set(restored)
    assert {key: live[key] for key in restored} == restored, "what is there is what was recorded"
    histories = table(elsewhere, "records_historicalstandcount")
    assert {row[0] for row in restored.values()} <= {key for row in histories.values() for key in row if isinstance(key, str)}
    assert (elsewhere / "secret.key").read_bytes() == (farm.var / "secret.key").read_bytes()
    photos = [path.relative_to(farm.var) for path in (farm.var / "photos").rglob("*.jpg")]
    assert photos
    for path in photos:
        assert (elsewhere / path).read_bytes() == (farm.var / path).read_bytes()

    # the copy is served, and whoever had an account signs in and goes on
    again = Installation(elsewhere)
    again.start()
    try:
        person = Person(again, "tobin")
        person.sign_in()
        path = f"/trials/{trial['id']}/stand-counts/{uuid4()}"
        assert person.send("PUT", path, count_of(strips[0], 77))[0] == 201
        assert person.send("GET", f"/trials/{trial['id']}")[0] == 200
        assert again.ask("PRAGMA integrity_check") == [("ok",)]
    finally:
        again.kill()


def test_the_database_made_by_migrations_is_the_one_the_tests_use(empty: Path, tmp_path: Path) -> None:
    """Tests make their tables from the models, which is quick; an installation makes them step by step."""
    manage(
        tmp_path / "models",
        "migrate",
        "--run-syncdb",
        "--verbosity=0",
        DJANGO_SETTINGS_MODULE="tests.no_migrations",
        PYTHONPATH=str(ROOT),
    )

    def columns(folder: Path) -> dict[str, dict[str, tuple[Any, ...]]]:
        with closing(sqlite3.connect(folder / "cultrix.sqlite3")) as database:
            names = [row[0] for row in database.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
            return {
                name: {row[1]: row[2:4] for row in database.execute(f"PRAGMA table_info({name})")}
                for name in names
                if name != "django_migrations" and not name.startswith("sqlite_")
            }

    made, wanted = columns(empty), columns(tmp_path / "models")
    assert set(made) == set(wanted)
    for name, result in wanted.items():
        assert made[name] == result, name
