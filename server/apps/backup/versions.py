"""Whether a database belongs to a newer version than this one, and whether it is to be migrated."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path

from django.apps import apps
from django.db import connection
from django.db.migrations.loader import MigrationLoader

from apps.backup.snapshot import migrations_of

# Packages that earlier versions used; their rows stay in the table of migrations and mean nothing.
RETIRED = {"axes", "admin", "huey_monitor"}


def newer_than_this(applied: Mapping[str, Sequence[str]]) -> list[str]:
    """Migrations that a database has been through and this version does not know."""
    loader = MigrationLoader(None)
    known = {app for app, _ in loader.disk_migrations} | {app.label for app in apps.get_app_configs()}
    replaced = {replace for migration in loader.disk_migrations.values() for replace in migration.replaces}
    here = set(loader.disk_migrations) | replaced
    return [
        f"{app}.{name}"
        for app, names in applied.items()
        for name in names
        if app not in RETIRED and (app not in known or (app, name) not in here)
    ]


def pending() -> list[str]:
    """Migrations of this version that the database has still to go through."""
    loader = MigrationLoader(connection)
    applied = set(loader.applied_migrations)
    return [f"{app}.{name}" for app, name in sorted(loader.disk_migrations) if (app, name) not in applied]


def is_empty(path: Path) -> bool:
    """Whether there is no database yet, or one with nothing in it."""
    return not path.exists() or not migrations_of(path)
