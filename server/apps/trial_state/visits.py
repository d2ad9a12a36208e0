"""Which visits are due on a trial, by heat units and date, and where nobody may go in yet."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date, datetime

from cultrix_core.crops import CropProfile
from cultrix_core.season.heat_units import Day
from cultrix_core.season.schedule import Due, schedule
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.writing import written_day
from django.utils import timezone

from apps.field.season.own_traits import visits_planned
from apps.trial_state.progress import Progress
from apps.trials.models import Trial


def visits_due(
    trial: Trial, profile: CropProfile, progress: Progress, days: Sequence[Day], *, show: UnitFormatter, today: date
) -> tuple[Due, ...]:
    """The visits of a trial; empty before planting and once the strips of an annual crop are harvested.

    Each strip has its own clock: where strips were sown on several days each group has visits of its own. ``progress`` knows on
    which days each task was done.
    """
    if not profile.perennial and progress.loaded:
        return ()
    groups = [group for group in progress.sown_together if group.day <= today]
    also = visits_planned(trial.workspace, trial.crop)
    dues = [
        replace(due, strips=group.strips if len(progress.sown_together) > 1 else ())
        for group in groups
        for due in schedule(trial.crop, planted_on=group.day, today=today, weather=days, done=group.done, show=show, also=also)
    ]
    return tuple(sorted(dues, key=lambda due: (due.on, due.strips)))


def ref_of(due: Due) -> str:
    """What a due visit is called for good, also when its day moves: by its key and the first strip of its group."""
    return due.visit.key + (f"-{due.strips[0]}" if due.strips else "")


def reentry_words(progress: Progress, *, now: datetime | None = None) -> list[str]:
    """The label's re-entry interval where a spray was logged and has not run out."""
    at = now or timezone.now()
    words = []
    for spray in progress.sprays:
        if spray.free_at <= at:
            continue
        strips = [str(order) for order in spray.strips]
        where = f" on strip{'s' if len(strips) > 1 else ''} {', '.join(strips)}" if strips else ""
        sprayed = written_day(spray.sprayed_on, year=False)
        free = f"{written_day(spray.free_at, year=False)} {spray.free_at:%H:%M} UTC"
        words.append(
            f"Sprayed on {sprayed}{where}: nobody in before {free} "
            f"(re-entry {spray.hours} h, as noted from the label). The label is the law."
        )
    return words
