"""Tables made at once: for migrations that stand for all those before them.

Django renders every model anew for each table that it makes, which takes most of a minute for a database of this size. Here all
models of a migration are put into the state first, and the tables are made from that one state.
"""

from __future__ import annotations

from collections.abc import Sequence

from django.db.backends.base.schema import BaseDatabaseSchemaEditor
from django.db.migrations.operations.base import Operation
from django.db.migrations.operations.models import CreateModel
from django.db.migrations.state import ProjectState


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
