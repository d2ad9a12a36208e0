"""What a fixture has built once is put back row by row: a trial made through the API costs a second, its rows a hundredth.

The first test of a process builds it through the API; its rows are kept with what the database held before. Where a later test
starts from the same, the rows are put in as they were; else it is built anew. The test itself sees no difference.
"""

from __future__ import annotations

import copy
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, TypeVar

from django.db import connection, transaction

Built = TypeVar("Built")
Rows = dict[str, list[tuple[Any, ...]]]
# Who is there is compared row by row, and never put back: a person of this test has a session and a device of this test.
PEOPLE = ("accounts_", "django_session", "sessions_", "otp_", "auth_", "django_")


@dataclass(frozen=True, slots=True, kw_only=True)
class Remembered:
    """Rows by table, added or changed while something was built, and what the builder returned."""

    rows: Rows
    built: Any


_KEPT: dict[tuple[str, Any], Remembered] = {}


def remembered(name: str, build: Callable[[], Built]) -> Built:
    """What ``build`` makes, from its rows of an earlier test where the database is as it was then."""
    before = _standing()
    result = _KEPT.get((name, before))
    if result is None:
        rows = {table: set(lines) for table, lines in _rows().items()}
        built = build()
        changed = {table: [row for row in lines if row not in rows[table]] for table, lines in _rows().items()}
        _KEPT[name, before] = Remembered(rows={t: r for t, r in changed.items() if r}, built=copy.deepcopy(built))
        return built
    with transaction.atomic(), connection.cursor() as cursor:  # keys are checked once all rows are there
        for table, lines in result.rows.items():
            marks = ", ".join("?" * len(lines[0]))
            # the connection of the driver itself: what was read from it goes back as it is
            cursor.cursor.connection.executemany(f'INSERT OR REPLACE INTO "{table}" VALUES ({marks})', lines)
    return copy.deepcopy(result.built)  # type: ignore[no-any-return]


def _tables() -> list[str]:
    return [name for name in connection.introspection.table_names() if not name.startswith("sqlite_")]


def _rows() -> Rows:
    """All rows that may be put back."""
    with connection.cursor() as cursor:
        raw = cursor.cursor.connection
        return {
            table: raw.execute(f'SELECT * FROM "{table}"').fetchall() for table in _tables() if not table.startswith(PEOPLE)
        }


def _standing() -> tuple[Any, ...]:
    """What the database holds: people and workspaces row by row, of all else how much."""
    with connection.cursor() as cursor:
        raw = cursor.cursor.connection
        people = raw.execute("SELECT id, username, unit_system FROM accounts_user ORDER BY id").fetchall()
        homes = raw.execute("SELECT * FROM accounts_workspace ORDER BY id").fetchall()
        roles = raw.execute("SELECT user_id, workspace_id, role FROM accounts_membership ORDER BY id").fetchall()
        counts = [
            (table, *raw.execute(f'SELECT count(*), max(rowid) FROM "{table}"').fetchone())
            for table in _tables()
            if not table.startswith(PEOPLE)
        ]
    return (tuple(people), tuple(homes), tuple(roles), tuple(counts))
