"""How many records hang on strips, by the registry of kinds."""

from __future__ import annotations

from collections.abc import Sequence
from uuid import UUID

from django.db.models import Count, Q, Value

from apps.records.kinds import KINDS
from apps.trials.hooks import RecordTally, records_on_strips


@records_on_strips.follow
def records_tally(strip_ids: Sequence[UUID]) -> RecordTally:
    """Records on these strips, void ones included."""
    result = {"counts": 0, "loads": 0, "planting": 0, "season": 0}
    hung = [
        kind.model._default_manager.filter(Q(strip_id__in=strip_ids))
        .order_by()
        .annotate(of=Value(kind.tallied))
        .values("of")
        .annotate(number=Count("pk"))
        .values_list("of", "number")
        for kind in KINDS.values()
        if kind.tallied
    ]
    for tallied, number in hung[0].union(*hung[1:], all=True):
        result[tallied] += number
    return RecordTally(**result)
