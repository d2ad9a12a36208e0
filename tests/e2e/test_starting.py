"""What the server refuses to serve, and what it does before it changes a database."""

from __future__ import annotations

import os
import sqlite3
import subprocess
import sys
from contextlib import closing
from pathlib import Path

import pytest

from tests.e2e.conftest import ROOT, started
from tests.made_once import copied, manage


def served(var: Path, *options: str, **environment: str) -> str:
    """What a server that refuses prints; it must end by itself."""
    done = subprocess.run(
        [sys.executable, str(ROOT / "server" / "serve.py"), "--port", "1", *options],
        check=False,
        capture_output=True,
        text=True,
        timeout=120,
        env=os.environ | {"CULTRIX_VAR": str(var), "DJANGO_SETTINGS_MODULE": "config.settings"} | environment,
    )
    assert done.returncode == 1, done.stdout + done.stderr
    return done.stdout


@pytest.mark.parametrize(("options", "hosts"), [(["--host", "0.0.0.0"], ""), ([], "trials.farm.lan")])
def test_the_demo_is_served_on_this_machine_only(filled: Path, tmp_path: Path, options: list[str], hosts: str) -> None:
    text = served(copied(filled, tmp_path / "var"), *options, CULTRIX_HOSTS=hosts)
    assert "on this machine only" in text


def test_the_demo_is_not_loaded_beside_people(empty: Path, tmp_path: Path) -> None:
    var = copied(empty, tmp_path / "var")
    with closing(sqlite3.connect(var / "cultrix.sqlite3")) as database, database:
        columns = "username, password, first_name, last_name, email, is_active, is_staff, is_superuser, date_joined"
        values = "'mira', '!', 'Mira', '', '', 1, 0, 1, '2026-01-01'"
        preferences = "unit_system, theme, single_keys", "'metric', 'day', 1"
        database.execute(f"INSERT INTO accounts_user ({columns}, {preferences[0]}) VALUES ({values}, {preferences[1]})")
    assert "people of its own" in served(var, "--demo")


def test_a_newer_database_is_not_touched(empty: Path, tmp_path: Path) -> None:
    var = copied(empty, tmp_path / "var")
    with closing(sqlite3.connect(var / "cultrix.sqlite3")) as database, database:
        database.execute("INSERT INTO django_migrations (app, name, applied) VALUES ('trials', '9999_later', '2030-01-01')")
    text = served(var)
    assert "newer version than this program" in text
    assert "trials.9999_later" in text
    assert not (var / "backups").exists()


def test_before_a_migration_there_is_a_copy(empty: Path, tmp_path: Path) -> None:
    """The database as the version before left it: one migration of this one is still to come."""
    var = copied(empty, tmp_path / "var")
    manage(var, "migrate", "reports", "zero", "--verbosity=0")
    with started(var) as (_, text):
        assert "a copy of before is" in text
    (copy,) = (var / "backups").glob("before-migration-*.zip")
    assert copy.stat().st_size > 10_000
