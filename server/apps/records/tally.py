"""How many records hang on strips, by the registry of kinds."""

from __future__ import annotations

from collections.abc import Sequence
from uuid import UUID

from django.db.models import Q

from apps.records.kinds import KINDS
from apps.trials.hooks import RecordTally, records_on_strips


@records_on_strips.follow
def records_tally(strip_ids: Sequence[UUID]) -> RecordTally:
    """Records on these strips, void ones included."""
    result = {"counts": 0, "loads": 0, "planting": 0, "season": 0}
    for kind in KINDS.values():
        if kind.tallied:
            hung = Q(strip_id__in=strip_ids)
            result[kind.tallied] += kind.model._default_manager.filter(hung).count()
    return RecordTally(**result)
