"""Removing a workspace with everything in it: rows, their history, and files that nothing else names.

Which tables belong to a workspace is read from the models: every table that leads to it by foreign keys.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

from django.apps import apps
from django.conf import settings
from django.db import connection, models, transaction

from apps.accounts.models import Workspace
from apps.backup.snapshot import database_path, named_files


def remove_workspace(workspace: Workspace) -> None:
    """Remove a workspace, whole or not at all."""
    before = set(_files())
    with transaction.atomic():
        # found while every way to the workspace still stands; whatever were left pointing nowhere would stop the commit
        result = {
            model: {
                key
                for path in paths
                for key in model._default_manager.filter(**{path: workspace.pk}).values_list("pk", flat=True)
            }
            for model, paths in _paths().items()
        }
        for model, keys in result.items():
            _delete(model, keys)
        _delete(Workspace, {workspace.pk})
    for name in before - set(_files()):
        (Path(settings.VAR) / name).unlink(missing_ok=True)


def _delete(model: type[models.Model], keys: set[Any]) -> None:
    """Delete rows as they are: told to nobody, for a history of what is removed whole must not begin anew with it."""
    field = model._meta.pk
    assert field is not None
    assert field.column is not None
    names = connection.ops.quote_name(model._meta.db_table), connection.ops.quote_name(field.column)
    with connection.cursor() as cursor:
        cursor.executemany(
            f"DELETE FROM {names[0]} WHERE {names[1]} = %s", [[field.get_db_prep_value(key, connection)] for key in keys]
        )


def _files() -> Iterator[str]:
    return named_files(database_path())


def _paths() -> dict[type[models.Model], list[str]]:
    """Look-ups from every table of a workspace to the workspace; several where a table leads there by several ways."""
    paths: dict[type[models.Model], list[str]] = {}
    every = [model for model in apps.get_models(include_auto_created=True) if model is not Workspace]
    grown = True
    while grown:
        grown = False
        for model in every:
            for field in _foreign_keys(model):
                target = field.related_model
                beyond = [""] if target is Workspace else [f"__{path}" for path in paths.get(target, ())[:1]]
                new = [field.name + path for path in beyond]
                for path in new:
                    if path not in paths.get(model, ()) and _is_owner(field) and path.count("__") < 6:
                        paths.setdefault(model, []).append(path)
                        grown = True
    return paths


def _foreign_keys(model: type[models.Model]) -> list[models.ForeignKey]:
    return [field for field in model._meta.get_fields() if isinstance(field, models.ForeignKey) and field.model is model]


def _is_owner(field: models.ForeignKey) -> bool:
    """Whether a row goes when what it points at goes; people do not belong to a workspace."""
    target = field.related_model
    return target is Workspace or target._meta.app_label not in ("auth", "contenttypes") and target._meta.model_name != "user"
