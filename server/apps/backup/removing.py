"""Removing a workspace or a trial with everything in it: rows, their history, and files that nothing else names.

Which tables belong to it is read from the models: every table that leads to it by foreign keys.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

from django.apps import apps
from django.conf import settings
from django.db import connection, models, transaction

from apps.backup.chain import lay_stones
from apps.backup.snapshot import database_path, named_files


def remove_whole(root: models.Model) -> None:
    """Remove a row with everything that belongs to it, whole or not at all; what only points at it lets go of it."""
    before = set(_files())
    model = type(root)
    with transaction.atomic():
        # found while every way to the root still stands; whatever were left pointing nowhere would stop the commit
        result = {
            of: {key for path in paths for key in of._default_manager.filter(**{path: root.pk}).values_list("pk", flat=True)}
            for of, paths in paths_to(model).items()
        }
        for of, name in _loose(model):
            of._default_manager.filter(**{name: root.pk}).update(**{name: None})
        past = getattr(model, "history", None)
        if past is not None:  # what it was itself, which points at nothing
            result[past.model] = set(past.model._default_manager.filter(id=root.pk).values_list("pk", flat=True))
        for of, keys in result.items():
            lay_stones(of, keys)
            _delete(of, keys)
        _delete(model, {root.pk})
        transaction.on_commit(lambda: _sweep(before))


def _sweep(before: set[str]) -> None:
    """Take from the disk what records named before and none names now, once that is for good."""
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


def paths_to(root: type[models.Model]) -> dict[type[models.Model], list[str]]:
    """Look-ups from every table of a root to it; several where a table leads there by several ways."""
    paths: dict[type[models.Model], list[str]] = {}
    every = [model for model in apps.get_models(include_auto_created=True) if model is not root]
    grown = True
    while grown:
        grown = False
        for model in every:
            for field in _foreign_keys(model):
                target = field.related_model
                beyond = [""] if target is root else [f"__{path}" for path in paths.get(target, ())[:1]]
                new = [field.name + path for path in beyond]
                for path in new:
                    if path not in paths.get(model, ()) and _is_owner(field, root) and path.count("__") < 6:
                        paths.setdefault(model, []).append(path)
                        grown = True
    return paths


def _loose(root: type[models.Model]) -> list[tuple[type[models.Model], str]]:
    """Columns that point at the root and are emptied when it goes."""
    return [
        (model, field.name)
        for model in apps.get_models()
        for field in _foreign_keys(model)
        if field.related_model is root and _lets_go(field)
    ]


def _foreign_keys(model: type[models.Model]) -> list[models.ForeignKey]:
    return [field for field in model._meta.get_fields() if isinstance(field, models.ForeignKey) and field.model is model]


def _lets_go(field: models.ForeignKey) -> bool:
    return field.remote_field.on_delete is models.SET_NULL


def _is_owner(field: models.ForeignKey, root: type[models.Model]) -> bool:
    """Whether a row goes when what it points at goes; people belong to nothing, and some rows only point at the root."""
    target = field.related_model
    tracked = getattr(field.model, "instance_type", None)  # of what a table of history is
    if tracked is not None and any(own.name == field.name and _lets_go(own) for own in _foreign_keys(tracked)):
        return False
    if target is root:
        return not _lets_go(field)
    return target._meta.app_label not in ("auth", "contenttypes") and target._meta.model_name != "user"
