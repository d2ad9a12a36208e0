"""Tasks of a trial: who does what until when, and the labour that was noted, by area of the strips it was spent on."""

from datetime import date, datetime
from typing import Any
from uuid import UUID

from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.units import LABELS, find_unit
from django.http import HttpRequest
from ninja import Router, Schema

from apps.accounts.models import User
from apps.accounts.queries import actor, formatter_for
from apps.accounts.rights import reach_in
from apps.base.quantities import TypedIn
from apps.field.tasks import services
from apps.field.tasks.models import VisitTask
from apps.trials.models import Trial
from apps.trials.profiles import profile_of
from apps.trials.queries import treatments_of, trial_for

router = Router(tags=["tasks"])
HA_M2 = 10_000.0


class TaskIn(Schema):
    """``ref`` names the visit or stage that is due, as Today and Season give it; empty for anything else."""

    ref: str = ""
    what: str
    due_on: date | None = None
    given_to: str = ""
    note: str = ""
    hours: str = ""
    done: bool = False
    version: int | None = None


class TaskOut(Schema):
    id: UUID
    version: int
    ref: str
    what: str
    due_on: date | None
    given_to: str
    given_to_name: str
    note: str
    hours: str
    done_at: datetime | None
    made_by: str


class TaskPersonOut(Schema):
    username: str
    name: str


class LabourOut(Schema):
    """Hours of a task spread over the strips of a level, as a cost line takes them."""

    task_id: UUID
    factor: int
    level: TypedIn
    hours: TypedIn
    words: str


class TasksOut(Schema):
    """Tasks, open ones first; those who may be given one; hours noted in all; the same by area, for those who price."""

    tasks: list[TaskOut]
    people: list[TaskPersonOut]
    hours: float
    labour: list[LabourOut]


def named(person: User | None) -> str:
    """What a person is called; empty for nobody."""
    return "" if person is None else person.get_full_name() or person.username


def task_out(task: VisitTask) -> TaskOut:
    return TaskOut(
        id=task.id,
        version=task.version,
        ref=task.ref,
        what=task.what,
        due_on=task.due_on,
        given_to=task.given_to.username if task.given_to else "",
        given_to_name=named(task.given_to),
        note=task.note,
        hours=task.hours_typed,
        done_at=task.done_at,
        made_by=named(task.made_by),
    )


def _out(request: HttpRequest, trial: Trial) -> TasksOut:
    user, tasks = actor(request), services.tasks_of(trial)
    reach = reach_in(user, trial.workspace)
    everybody = services.people_for(trial)
    people = everybody if reach.may("design") else [person for person in everybody if person == user]
    show = formatter_for(user, trial.workspace, profile_of(trial))
    return TasksOut(
        tasks=[task_out(task) for task in tasks],
        people=[TaskPersonOut(username=person.username, name=named(person)) for person in people],
        hours=round(sum(task.hours or 0.0 for task in tasks), 2),
        labour=_labour(trial, tasks, show) if reach.may("prices") else [],
    )


def _labour(trial: Trial, tasks: list[VisitTask], show: UnitFormatter) -> list[LabourOut]:
    """Each task's hours by area, for each level: over the strips that received it. Nothing while strips have no size."""
    spent = [task for task in tasks if task.hours]
    if not spent:
        return []
    unit = show.unit_code("hours")
    factor_of_unit = find_unit("time_per_area", unit, field="hours").factor
    levels: dict[Any, tuple[int, TypedIn, float]] = {}
    places = {factor.pk: place for place, factor in enumerate(trial.factors.all())}
    of_treatment = {treatment.pk: list(treatment.levels.all()) for treatment in treatments_of(trial)}
    for strip in trial.strips.all():
        area = strip.area_m2 or (strip.width.value or 0.0) * (strip.length.value or 0.0)
        for level in of_treatment.get(strip.received_id, ()):
            typed = TypedIn(text=level.amount.text or level.name, unit=level.amount.unit)
            place, _, so_far = levels.get(level.pk, (places[level.factor_id], typed, 0.0))
            levels[level.pk] = (place, typed, so_far + area)
    result = []
    for task in spent:
        for place, typed, area in levels.values():
            if area > 0:
                per_area = (task.hours or 0.0) / (area / HA_M2) / factor_of_unit
                hours = TypedIn(text=f"{per_area:.3g}", unit=unit)
                of = f"{typed.text} {LABELS.get(typed.unit, typed.unit)}".strip()
                words = f"{task.hours_typed} h over {show.text(area, 'farm_area')} of {of}"
                result.append(LabourOut(task_id=task.id, factor=place, level=typed, hours=hours, words=words))
    return result


@router.get("/trials/{trial_id}/tasks", response=TasksOut, operation_id="tasks")
def tasks(request: HttpRequest, trial_id: UUID):
    return _out(request, trial_for(actor(request), trial_id))


@router.put("/trials/{trial_id}/tasks/{task_id}", response=TasksOut, operation_id="put_task")
def put_task(request: HttpRequest, trial_id: UUID, task_id: UUID, body: TaskIn):
    task = services.put_task(actor(request), trial_id, task_id, **body.dict())
    return _out(request, task.trial)
