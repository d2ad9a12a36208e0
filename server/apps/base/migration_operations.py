"""Tables made and fields renamed at once, for a database of this size.

Django renders every model anew for each table that it makes, which takes most of a minute for a database of this size. Here all
models of a migration are put into the state first, and the tables are made from that one state.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from django.db.backends.base.schema import BaseDatabaseSchemaEditor
from django.db.migrations.operations.base import Operation
from django.db.migrations.operations.models import CreateModel
from django.db.migrations.state import ProjectState
from django.db.models import Field


class CreateTables(Operation):
    """Make the tables of several models, as the operations together describe them; only for tables that do not exist yet."""

    reversible = True

    def __init__(self, operations: Sequence[Operation]) -> None:
        self.operations = list(operations)

    def _made(self) -> list[str]:
        return [operation.name for operation in self.operations if isinstance(operation, CreateModel)]

    def state_forwards(self, app_label: str, state: ProjectState) -> None:
        state.__dict__.pop("apps", None)  # rendered again when it is next asked for, once for all of these
        for operation in self.operations:
            operation.state_forwards(app_label, state)

    def database_forwards(
        self, app_label: str, schema_editor: BaseDatabaseSchemaEditor, _from_state: ProjectState, to_state: ProjectState
    ) -> None:
        for name in self._made():
            schema_editor.create_model(to_state.apps.get_model(app_label, name))

    def database_backwards(
        self, app_label: str, schema_editor: BaseDatabaseSchemaEditor, from_state: ProjectState, _to_state: ProjectState
    ) -> None:
        for name in reversed(self._made()):
            schema_editor.delete_model(from_state.apps.get_model(app_label, name))

    def describe(self) -> str:
        return f"Make the tables of {', '.join(self._made())}"


class RenameFields(Operation):
    """Other names for the same fields on several models, and on the models of their histories, in one step."""

    reversible = True

    def __init__(self, models: Sequence[str], names: Mapping[str, str]) -> None:
        self.models = [name for model in models for name in (model, f"historical{model}")]
        self.names = dict(names)

    def state_forwards(self, app_label: str, state: ProjectState) -> None:
        state.__dict__.pop("apps", None)
        for model in self.models:
            for old, new in self.names.items():
                state.rename_field(app_label, model, old, new)

    def _rename(self, schema_editor: BaseDatabaseSchemaEditor, app_label: str, old: ProjectState, new: ProjectState) -> None:
        names = self.names if old.models[app_label, self.models[0]].fields.keys() >= self.names.keys() else _turned(self.names)
        for model in self.models:
            before, after = old.apps.get_model(app_label, model), new.apps.get_model(app_label, model)
            for was, becomes in names.items():
                schema_editor.alter_field(before, before._meta.get_field(was), after._meta.get_field(becomes))

    def database_forwards(
        self, app_label: str, schema_editor: BaseDatabaseSchemaEditor, from_state: ProjectState, to_state: ProjectState
    ) -> None:
        self._rename(schema_editor, app_label, from_state, to_state)

    def database_backwards(
        self, app_label: str, schema_editor: BaseDatabaseSchemaEditor, from_state: ProjectState, to_state: ProjectState
    ) -> None:
        self._rename(schema_editor, app_label, from_state, to_state)

    def describe(self) -> str:
        return f"Rename {', '.join(self.names)} on {', '.join(self.models)}"


class AlterFields(Operation):
    """Other definitions for fields of several models, and on the models of their histories, in one step."""

    reversible = True

    def __init__(self, models: Sequence[str], name: str, field: Field[Any, Any]) -> None:
        self.models = list(models)
        self.name = name
        self.field = field

    def state_forwards(self, app_label: str, state: ProjectState) -> None:
        state.__dict__.pop("apps", None)
        for model in self.models:
            state.alter_field(app_label, model, self.name, self.field, preserve_default=True)

    def database_forwards(
        self, app_label: str, schema_editor: BaseDatabaseSchemaEditor, from_state: ProjectState, to_state: ProjectState
    ) -> None:
        for model in self.models:
            before, after = from_state.apps.get_model(app_label, model), to_state.apps.get_model(app_label, model)
            schema_editor.alter_field(before, before._meta.get_field(self.name), after._meta.get_field(self.name))

    def database_backwards(
        self, app_label: str, schema_editor: BaseDatabaseSchemaEditor, from_state: ProjectState, to_state: ProjectState
    ) -> None:
        self.database_forwards(app_label, schema_editor, from_state, to_state)

    def describe(self) -> str:
        return f"Alter {self.name} of {', '.join(self.models)}"


def _turned(names: Mapping[str, str]) -> dict[str, str]:
    return {new: old for old, new in names.items()}
