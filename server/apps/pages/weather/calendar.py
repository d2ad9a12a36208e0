"""Visits as an iCalendar file that any calendar reads."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime, timedelta

from cultrix_core.season.schedule import Due
from cultrix_core.writing import written_strips

from apps.trials.models import Trial

SHOWN = ("overdue", "due", "wait", "coming")


def calendar_of(name: str, dues: Iterable[tuple[Trial, Due]], *, stamp: datetime) -> bytes:
    """An all-day event for every visit that is due or to come; the same visit keeps its identity when its day moves."""
    from icalendar import Calendar, Event

    calendar = Calendar()
    calendar.add("prodid", "-//Cultrix//visits//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", f"Visits at {name}")
    for trial, due in dues:
        if due.state not in SHOWN:
            continue
        event = Event()
        group = f"-{due.strips[0]}" if due.strips else ""
        event.add("uid", f"{trial.id}-{due.visit.key}{group}@cultrix")
        event.add("dtstamp", stamp)
        event.add("dtstart", due.on)
        event.add("dtend", due.on + timedelta(days=1))
        where = f", {written_strips(due.strips)}" if due.strips else ""
        event.add("summary", f"{due.visit.what}{where}: {trial.title}")
        event.add("description", f"{due.reason[0].upper()}{due.reason[1:]}. {due.visit.why}")
        if trial.field:
            event.add("location", str(trial.field))
        calendar.add_component(event)
    return bytes(calendar.to_ical())
