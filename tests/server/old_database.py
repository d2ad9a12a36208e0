"""Makes a database as the version before left it: ``python -m tests.server.old_database`` in the folder ``CULTRIX_VAR`` names.

The tables come from the migrations of then, one after the other; the rows from the models as they were.
"""

from __future__ import annotations

import datetime
from uuid import uuid4

import django
from django.db import connection
from django.db.migrations.executor import MigrationExecutor
from django.db.migrations.loader import MigrationLoader

THEN = {
    "accounts": "0003_people",
    "estimates": "0002_clock_shift",
    "farms": "0003_seed_lots",
    "intake": "0002_what_is_there",
    "jobs": "0003_workspace",
    "money": "0001_first",
    "planting": "0002_clock_shift",
    "records": "0005_clock_shift",
    "reports": "0001_first",
    "scouting": "0002_clock_shift",
    "trials": "0007_responsible",
    "verdicts": "0001_initial",
    "weather": "0001_initial",
    "yieldlogs": "0002_clock_shift",
}
NOW = datetime.datetime(2026, 6, 1, tzinfo=datetime.UTC)


class AsThen(MigrationLoader):
    """Migrations one by one, as a database of then has applied them."""

    def __init__(self, *args: object, **_: object) -> None:
        super().__init__(*args, replace_migrations=False)  # type: ignore[arg-type]


def make() -> None:
    executor = MigrationExecutor(connection)
    executor.loader = AsThen(connection)
    targets = list(THEN.items())
    executor.migrate(targets)
    old = executor.loader.project_state(targets).apps
    person = old.get_model("accounts", "User").objects.create(username="mira", unit_system="us", password="!")
    other = old.get_model("accounts", "User").objects.create(username="jon", unit_system="metric", password="!")
    workspace = old.get_model("accounts", "Workspace").objects.create(name="Arden", currency="$", unit_system="us")
    for item, role in ((person, "lead"), (other, "scout")):
        old.get_model("accounts", "Membership").objects.create(user=item, workspace=workspace, role=role)
    trial = old.get_model("trials", "Trial").objects.create(
        workspace=workspace, title="Rows", crop="maize", season=2026, created_by=person
    )
    block = old.get_model("trials", "Block").objects.create(trial=trial, number=1)
    treatment = old.get_model("trials", "Treatment").objects.create(trial=trial, position=0)
    strip = old.get_model("trials", "Strip").objects.create(trial=trial, block=block, treatment=treatment, order=1)
    for plants, struck in ((31, False), (99, True)):
        old.get_model("records", "StandCount").objects.create(
            id=uuid4(),
            strip=strip,
            method="rows",
            plants=plants,
            plants_per_m2=8.0,
            struck=struck,
            struck_reason="miscounted" if struck else "",
            recorded_at=NOW,
            recorded_by=person,
        )


if __name__ == "__main__":
    django.setup()
    make()
