"""Finding a machine, lot or field by an id that may have been merged into another."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TypeVar
from uuid import UUID

from apps.accounts.models import Workspace
from apps.farms.models import Field, Machine, Merged, SeedLot

Thing = TypeVar("Thing", Field, Machine, SeedLot)
MOST_STEPS = 20  # merged into one that was itself merged, and so on


def kept_id(workspace: Workspace, key: UUID) -> UUID:
    """The id that stands for this one now."""
    for _ in range(MOST_STEPS):
        row = Merged.objects.filter(workspace=workspace, gone=key).first()
        if row is None:
            return key
        key = row.kept
    return key


def found(model: type[Thing], workspace: Workspace, key: UUID) -> Thing | None:
    """A row of a workspace by its id, also by one that is gone; None where there is none."""
    rows = model._default_manager.filter(workspace=workspace)
    return rows.filter(pk=key).first() or rows.filter(pk=kept_id(workspace, key)).first()


def kept_ids(workspace: Workspace, keys: Sequence[UUID]) -> list[UUID]:
    """The same for several."""
    known = dict(Merged.objects.filter(workspace=workspace, gone__in=keys).values_list("gone", "kept"))
    return [kept_id(workspace, known[key]) if key in known else key for key in keys]
