"""What is due on trials: stages that wait for an entry, and visits by heat units and date."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from typing import Any, cast

from cultrix_core.season.heat_units import Day
from cultrix_core.season.schedule import COMING_DAYS, Due
from cultrix_core.writing import written_strips
from django.db.models import Case, QuerySet, Sum, When
from django.utils import timezone

from apps.accounts.models import User, Workspace
from apps.field.tasks.models import VisitTask
from apps.field.tasks.services import open_tasks
from apps.field.weather.queries import days_of
from apps.trial_state.listing import ListedTrial, Shelf, at_work, parts_of, shelf
from apps.trial_state.progress import progress_kept
from apps.trial_state.visits import reentry_words, ref_of, visits_due
from apps.trials.models import Trial
from apps.trials.schemas import DueOut

VISIT_URGENCY: dict[str, int] = {"overdue": 0, "due": 2, "wait": 3, "coming": 8}
VISIT_STAGE = {"count": "stand", "tape": "stand", "dig": "stand", "measure": "season", "rate": "season", "yield": "estimate"}
URGENCY = {"planting": 1, "harvest": 1, "stand": 2, "verdict": 3, "layout": 4, "treatments": 5, "question": 5, "seed": 6}
LATER = 10  # a trial of next year that is not in the ground yet can wait for what this year's trials need
WHAT = {
    "planting": ("Record the planting", "Deviations are remembered best on the day."),
    "harvest": ("Enter the loads", "A missing strip weakens every comparison."),
    "stand": ("Count the stand", "Plants are easiest to count before they close the rows."),
    "verdict": ("Read the verdict", "It stands on what is in so far."),
    "layout": ("Draw the layout", "Strips must be known before the drill is filled."),
    "treatments": ("Settle the treatments", "Without them nothing can be drawn."),
    "question": ("Finish the question", "The guess and the price belong in before the result."),
    "seed": ("Set rate and spacing", "Percent of seed sown and seeds along the row rest on them."),
}


def _can_wait(listed: ListedTrial) -> bool:
    return listed.trial.planted_on is None and listed.trial.season > timezone.localdate().year


def dues_in(user: User, workspace: Workspace, *, most: int) -> tuple[list[dict[str, Any]], int]:
    """What is due in a workspace as JSON has it, the reader's own first, then the most urgent; and how much in all."""
    here = at_work(shelf(user, workspace, timezone.localdate()))
    tasks = open_tasks(user, workspace)
    mine = {task.trial_id for task in tasks if task.given_to_id == user.pk}

    def first(trials: QuerySet[Trial]) -> QuerySet[Trial]:
        own = Case(When(id__in=mine, then=0), default=1)
        return _with_dues(trials).order_by(own, "summary__urgency", "summary__due_on")[:most]

    known = parts_of(here, "dues", first)
    dues = [due for _, part in known.kept for due in part] + [due for _, part in known.live for due in part]
    counted = _with_dues(here.rest).aggregate(number=Sum("summary__due_count"))["number"] or 0
    more = _give(dues, tasks, user)
    _warn(dues, here)
    ordered = sorted(dues, key=lambda due: (not (due["given"] or {}).get("mine"), due["urgency"], due["on"] or "9999"))
    return ordered[:most], counted + sum(len(part) for _, part in known.live) + more


def _give(dues: list[dict[str, Any]], tasks: Sequence[VisitTask], user: User) -> int:
    """Say of what is due to whom it is given, and add what is due by a task alone; how many those are."""
    of = {(str(task.trial_id), task.ref): task for task in tasks if task.ref}
    met = set()
    for due in dues:
        task = of.get((due["trial_id"], due["ref"]))
        due["given"] = None if task is None else _given(task, user)
        if task is not None:
            met.add(task.pk)
    more = [task for task in tasks if task.pk not in met and (not task.ref or task.given_to_id == user.pk)]
    dues.extend(_task_due(task, user) for task in more)
    return len(more)


def _given(task: VisitTask, user: User) -> dict[str, Any]:
    to = "" if task.given_to is None else task.given_to.get_full_name() or task.given_to.username
    return {"task_id": str(task.pk), "to": to, "mine": task.given_to_id == user.pk, "note": task.note}


def _task_due(task: VisitTask, user: User) -> dict[str, Any]:
    today = timezone.localdate()
    late = task.due_on is not None and task.due_on < today
    due = DueOut(
        trial_id=task.trial_id,
        trial_title=task.trial.title,
        ref=task.ref,
        stage="season",
        stage_label="Season",
        what=task.what,
        why="By the calendar of the crop it is not due: recorded already, or not yet." if task.ref else "",
        urgency=VISIT_URGENCY["overdue" if late else "due"],
        task="",
        trait="",
        on=task.due_on,
        state="overdue" if late else "due",
        cautions=[],
    )
    return {**due.model_dump(mode="json"), "given": _given(task, user)}


def _with_dues(trials: QuerySet[Trial]) -> QuerySet[Trial]:
    return trials.filter(summary__due_count__gt=0)


def _warn(dues: Sequence[dict[str, Any]], here: Shelf) -> None:
    """Put the re-entry intervals of this hour to what is due: they run out within the day."""
    sprayed = {str(listed_trial.trial.id): listed_trial.progress for listed_trial in here.live}
    kept = here.rest.filter(summary__sprayed=True).values_list("id", "summary__progress")
    sprayed |= {str(trial_id): progress_kept(progress) for trial_id, progress in kept}
    words = {trial_id: reentry_words(progress) for trial_id, progress in sprayed.items()}
    for due in dues:
        due["cautions"] = words.get(due["trial_id"], [])


def dues_part(listed: ListedTrial) -> list[dict[str, Any]]:
    """What a summary keeps of what is due today."""
    today = timezone.localdate()
    days = days_of(listed.trial.workspace, today=today)
    return [due.model_dump(mode="json") for due in dues_of(listed, days, today=today)]


def dues_of(listed: ListedTrial, days: Sequence[Day], *, today: date) -> list[DueOut]:
    """What is due on a trial, most urgent first: stages that wait, and visits by heat units and date."""
    every = visits_due(listed.trial, listed.profile, listed.progress, days, show=listed.show, today=today)
    visits = [due for due in every if _worth_saying(due, today)]
    counting = any(due.visit.task == "count" and due.state in VISIT_URGENCY for due in every)
    dues = [
        DueOut(
            trial_id=listed.trial.id,
            trial_title=listed.trial.title,
            ref=stage.key,
            stage=stage.key,
            stage_label=stage.label,
            what=f"{WHAT[stage.key][0]}: {stage.note}",
            why=WHAT[stage.key][1],
            urgency=URGENCY[stage.key] + (LATER if _can_wait(listed) else 0),
            task="",
            trait="",
            on=None,
            state="due",
            cautions=[],
        )
        for stage in listed.stages
        if stage.key in WHAT
        and _is_due(listed, stage.key, stage.state)
        and not (stage.key == "stand" and stage.state == "due" and counting)
    ]
    dues += [_visit_due(listed, due) for due in visits]
    return sorted(dues, key=urgency_of)


def urgency_of(due: DueOut) -> tuple[int, date]:
    """Most urgent first; the earlier day first among equals."""
    return due.urgency, due.on or date.max


def _worth_saying(due: Due, today: date) -> bool:
    """Visits to do now, and those of the next fortnight."""
    if due.state == "coming":
        return (due.on - today).days <= COMING_DAYS
    return due.state in VISIT_URGENCY


def _visit_due(listed: ListedTrial, due: Due) -> DueOut:
    stage = VISIT_STAGE[due.visit.task]
    return DueOut(
        trial_id=listed.trial.id,
        trial_title=listed.trial.title,
        ref=ref_of(due),
        stage=stage,
        stage_label=stage.capitalize(),
        what=f"{due.visit.what}, {written_strips(due.strips)}" if due.strips else due.visit.what,
        why=f"{due.reason[0].upper()}{due.reason[1:]}. {due.visit.why}",
        urgency=VISIT_URGENCY[due.state],
        task=due.visit.task,
        trait=due.visit.trait,
        on=due.on,
        state=cast(Any, due.state),
        cautions=[],
    )


def _is_due(listed: ListedTrial, key: str, state: str) -> bool:
    if key == "layout" and listed.progress.strips:
        return False
    if key == "verdict":
        return False
    finished = listed.stages[-1].state == "done"
    return state == "due" and not finished or state == "partly" and key in ("stand", "harvest") and not finished
