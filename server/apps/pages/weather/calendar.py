"""Visits as an iCalendar file that any calendar reads."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import datetime, timedelta
from typing import Any

from cultrix_core.season.schedule import Due
from cultrix_core.writing import written_strips

from apps.field.tasks.models import VisitTask
from apps.trial_state.visits import ref_of
from apps.trials.models import Trial

SHOWN = ("overdue", "due", "wait", "coming")


def calendar_of(name: str, dues: Iterable[tuple[Trial, Due]], tasks: Sequence[VisitTask] = (), *, stamp: datetime) -> bytes:
    """An all-day event for every visit that is due or to come; the same visit keeps its identity when its day moves.

    ``tasks``: open ones; a visit says who was given it, and what is no visit has an event of its own where it has a day.
    """
    from icalendar import Calendar, Event

    calendar = Calendar()
    calendar.add("prodid", "-//Cultrix//visits//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", f"Visits at {name}")
    given = {(task.trial_id, task.ref): task for task in tasks}
    for task in tasks:
        if task.due_on is not None and not task.ref:
            calendar.add_component(_task_event(task, stamp))
    for trial, due in dues:
        if due.state not in SHOWN:
            continue
        event, work = Event(), given.get((trial.pk, ref_of(due)))
        event.add("uid", f"{trial.id}-{ref_of(due)}@cultrix")
        event.add("dtstamp", stamp)
        event.add("dtstart", due.on)
        event.add("dtend", due.on + timedelta(days=1))
        where = f", {written_strips(due.strips)}" if due.strips else ""
        event.add("summary", f"{due.visit.what}{where}: {trial.title}{_for(work)}")
        note = f" {work.note}" if work is not None and work.note else ""
        event.add("description", f"{due.reason[0].upper()}{due.reason[1:]}. {due.visit.why}{note}")
        if trial.field:
            event.add("location", str(trial.field))
        calendar.add_component(event)
    return bytes(calendar.to_ical())


def _for(task: VisitTask | None) -> str:
    if task is None or task.given_to is None:
        return ""
    return f" ({task.given_to.get_full_name() or task.given_to.username})"


def _task_event(task: VisitTask, stamp: datetime) -> Any:
    from icalendar import Event

    assert task.due_on is not None
    event = Event()
    event.add("uid", f"{task.id}@cultrix")
    event.add("dtstamp", stamp)
    event.add("dtstart", task.due_on)
    event.add("dtend", task.due_on + timedelta(days=1))
    event.add("summary", f"{task.what}: {task.trial.title}{_for(task)}")
    if task.note:
        event.add("description", task.note)
    return event
