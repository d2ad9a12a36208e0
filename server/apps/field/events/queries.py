"""What a line of the season's log means for those who go in."""

from __future__ import annotations

from datetime import UTC, datetime, time, timedelta

from apps.field.events.models import FieldEvent


def reentry_until(event: FieldEvent) -> datetime | None:
    """When the label's re-entry interval ends, counted from the end of the day of spraying: the hour is not kept."""
    if event.reentry_hours is None:
        return None
    end_of_day = datetime.combine(event.happened_on + timedelta(days=1), time.min, tzinfo=UTC)
    return end_of_day + timedelta(hours=event.reentry_hours)
