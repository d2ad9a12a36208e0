"""Writing fields."""

from __future__ import annotations

from uuid import UUID

from cultrix_core.errors import Refusal, require_positive
from django.db import transaction

from apps.accounts.models import User
from apps.accounts.selectors import workspace_for
from apps.accounts.services import require_writer, save_as
from apps.farms.models import LENGTH, WIDTH, Field
from apps.quantities import TypedIn, fill


def add_field(user: User, workspace_id: UUID, *, name: str, farm: str, width: TypedIn, length: TypedIn) -> Field:
    """A new field from a name and a rectangle; refuses empty or used names and sizes that are not positive."""
    workspace = workspace_for(user, workspace_id)
    require_writer(user, workspace)
    if not name.strip():
        raise Refusal("missing", field="name", label="The field's name", remedy="Give it the name the farm uses.")
    field = Field(workspace=workspace, name=name.strip()[:80], farm=farm.strip()[:80])
    for quantity, typed in ((WIDTH, width), (LENGTH, length)):
        fill(field, quantity, typed)
        value = getattr(field, quantity.value_column)
        if value is None:
            raise Refusal("missing", field=quantity.name, label=quantity.label, remedy="Pace it, or read it off a map.")
        require_positive(value, quantity.name, label=quantity.label, unit=" m")
    with transaction.atomic():
        if Field.objects.filter(workspace=workspace, name=field.name, farm=field.farm).exists():
            raise Refusal(
                "duplicate",
                field="name",
                label="Field",
                value=str(field),
                remedy="Choose another name, or use the one there is.",
            )
        save_as(field, user, "added")
    return field
