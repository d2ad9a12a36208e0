"""What is due on trials: stages that wait for an entry, and visits by heat units and date."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from typing import Any, cast

from cultrix_core.season.heat_units import Day
from cultrix_core.season.schedule import COMING_DAYS, Due
from django.utils import timezone

from apps.trial_state.listing import ListedTrial
from apps.trial_state.visits import reentry_words, visits_due
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


def dues_of(listed: ListedTrial, days: Sequence[Day], *, today: date) -> list[DueOut]:
    """What is due on a trial, most urgent first: stages that wait, and visits by heat units and date."""
    every = visits_due(listed.trial, listed.profile, listed.progress, days, show=listed.show, today=today)
    visits = [due for due in every if _worth_saying(due, today)]
    counting = any(due.visit.task == "count" and due.state in VISIT_URGENCY for due in every)
    cautions = reentry_words(listed.progress)
    dues = [
        DueOut(
            trial_id=listed.trial.id,
            trial_title=listed.trial.title,
            stage=stage.key,
            stage_label=stage.label,
            what=f"{WHAT[stage.key][0]}: {stage.note}",
            why=WHAT[stage.key][1],
            urgency=URGENCY[stage.key] + (LATER if _can_wait(listed) else 0),
            task="",
            trait="",
            on=None,
            state="due",
            cautions=cautions,
        )
        for stage in listed.stages
        if stage.key in WHAT
        and _is_due(listed, stage.key, stage.state)
        and not (stage.key == "stand" and stage.state == "due" and counting)
    ]
    dues += [_visit_due(listed, due, cautions) for due in visits]
    return sorted(dues, key=urgency_of)


def urgency_of(due: DueOut) -> tuple[int, date]:
    """Most urgent first; the earlier day first among equals."""
    return due.urgency, due.on or date.max


def _worth_saying(due: Due, today: date) -> bool:
    """Visits to do now, and those of the next fortnight."""
    if due.state == "coming":
        return (due.on - today).days <= COMING_DAYS
    return due.state in VISIT_URGENCY


def _visit_due(listed: ListedTrial, due: Due, cautions: list[str]) -> DueOut:
    stage = VISIT_STAGE[due.visit.task]
    return DueOut(
        trial_id=listed.trial.id,
        trial_title=listed.trial.title,
        stage=stage,
        stage_label=stage.capitalize(),
        what=due.visit.what,
        why=f"{due.reason[0].upper()}{due.reason[1:]}. {due.visit.why}",
        urgency=VISIT_URGENCY[due.state],
        task=due.visit.task,
        trait=due.visit.trait,
        on=due.on,
        state=cast(Any, due.state),
        cautions=cautions,
    )


def _is_due(listed: ListedTrial, key: str, state: str) -> bool:
    if key == "layout" and listed.progress.strips:
        return False
    if key == "verdict":
        return False
    finished = listed.stages[-1].state == "done"
    return state == "due" and not finished or state == "partly" and key in ("stand", "harvest") and not finished
