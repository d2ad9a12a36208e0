"""A line of the season's log as the API carries it."""

from __future__ import annotations

from apps.field.events.models import FieldEvent
from apps.field.events.queries import reentry_until
from apps.field.events.schemas import FieldEventOut


def event_out(event: FieldEvent) -> FieldEventOut:
    """One line of the season's log."""
    return FieldEventOut(
        id=event.id,
        version=event.version,
        kind=event.kind,
        kind_label=dict(FieldEvent.KINDS)[event.kind],
        happened_on=event.happened_on,
        text=event.text,
        reentry_hours=event.reentry_hours,
        reentry_until=reentry_until(event),
        strip_ids=[strip.id for strip in event.strips.all()],
        recorded_by=event.recorded_by.get_full_name(),
    )
