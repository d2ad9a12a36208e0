"""A database of the version before opens: its tables follow, and what lies in them stays."""

from __future__ import annotations

import os
import sqlite3
import subprocess
import sys
from contextlib import closing
from pathlib import Path

from django.apps import apps
from django.db.models import Model

ROOT = Path(__file__).resolve().parents[2]


def run(folder: Path, *command: str) -> str:
    done = subprocess.run(
        [sys.executable, *command],
        check=False,
        capture_output=True,
        text=True,
        cwd=ROOT,
        env=os.environ
        | {
            "CULTRIX_VAR": str(folder),
            "DJANGO_SETTINGS_MODULE": "config.settings",
            "PYTHONPATH": f"{ROOT / 'core'}{os.pathsep}{ROOT / 'server'}{os.pathsep}{ROOT}",
        },
    )
    assert done.returncode == 0, done.stdout + done.stderr
    return done.stdout


def tables(folder: Path) -> dict[str, set[str]]:
    """Columns of every table."""
    with closing(sqlite3.connect(folder / "cultrix.sqlite3")) as database:
        names = [name for (name,) in database.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
        return {name: {row[1] for row in database.execute(f'PRAGMA table_info("{name}")')} for name in names}


def columns_of_models() -> dict[str, set[str]]:
    return {model._meta.db_table: {field.column for field in model._meta.local_concrete_fields} for model in every_model()}


def every_model() -> list[type[Model]]:
    return apps.get_models(include_auto_created=True)


def test_a_database_of_the_version_before_opens(tmp_path: Path) -> None:
    old = tmp_path
    run(old, "-m", "tests.server.old_database")
    assert "struck" in tables(old)["records_standcount"]
    run(old, "server/manage.py", "migrate", "--verbosity=0")
    now = tables(old)
    for table, columns in columns_of_models().items():
        assert now[table] == columns, table
    with closing(sqlite3.connect(old / "cultrix.sqlite3")) as database:
        counts = database.execute("SELECT plants, voided, void_reason FROM records_standcount ORDER BY plants").fetchall()
        assert counts == [(31, 0, ""), (99, 1, "miscounted")]
        assert database.execute("SELECT region FROM accounts_workspace").fetchall() == [("us",)]
        people = dict(database.execute("SELECT username, unit_system FROM accounts_user"))
        assert people == {"mira": "home", "jon": "metric"}, "who read the workspace's units follows it from here on"
        assert database.execute("PRAGMA foreign_key_check").fetchall() == []
