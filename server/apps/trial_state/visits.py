"""Which visits are due on a trial, by heat units and date, and where nobody may go in yet."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime

from cultrix_core.season.heat_units import Day
from cultrix_core.season.schedule import Due, done_as, schedule
from cultrix_core.writing import written_day
from django.utils import timezone

from apps.field.events.queries import reentry_until
from apps.field.queries import counts_of
from apps.field.samples.models import YieldSample
from apps.field.season.models import DugPlant, PlantMeasure, Rating, TapeRun
from apps.trial_state.view import TrialView


def visits_due(view: TrialView, days: Sequence[Day], *, today: date) -> tuple[Due, ...]:
    """The visits of a trial; empty before planting and once the strips of an annual crop are harvested."""
    planted = view.trial.planted_on
    if planted is None or planted > today or not view.strips:
        return ()
    if not view.profile.perennial and any(
        record.loads or record.yield_kg_per_ha is not None for record in view.records.values()
    ):
        return ()
    return schedule(view.trial.crop, planted_on=planted, today=today, weather=days, done=_done(view), show=view.show)


def _done(view: TrialView) -> dict[str, list[date]]:
    found: dict[str, set[date]] = {"count": {count.recorded_at.date() for count in counts_of(view.trial)}}
    runs = TapeRun.objects.filter(strip__trial=view.trial, voided=False).values_list("recorded_at", flat=True)
    plants = DugPlant.objects.filter(strip__trial=view.trial, voided=False).values_list("recorded_at", flat=True)
    found["tape"], found["dig"] = {at.date() for at in runs}, {at.date() for at in plants}
    samples = YieldSample.objects.filter(strip__trial=view.trial, voided=False).exclude(method="residue")
    found["yield"] = {at.date() for at in samples.values_list("recorded_at", flat=True)}
    measures = PlantMeasure.objects.filter(strip__trial=view.trial, voided=False).values_list("trait", "recorded_at")
    ratings = Rating.objects.filter(strip__trial=view.trial, voided=False).values_list("trait", "recorded_at")
    for task, of_traits in (("measure", measures), ("rate", ratings)):
        for trait, at in of_traits:
            found.setdefault(done_as(task, trait), set()).add(at.date())
    return {name: sorted(dates) for name, dates in found.items()}


def reentry_words(view: TrialView, *, now: datetime | None = None) -> list[str]:
    """The label's re-entry interval where a spray was logged and has not run out."""
    at = now or timezone.now()
    words = []
    for event in view.events:
        until = reentry_until(event)
        if until is None or until <= at:
            continue
        strips = [str(strip.order) for strip in event.strips.all()]
        where = f" on strip{'s' if len(strips) > 1 else ''} {', '.join(strips)}" if strips else ""
        sprayed, free = written_day(event.happened_on, year=False), f"{written_day(until, year=False)} {until:%H:%M} UTC"
        words.append(
            f"Sprayed on {sprayed}{where}: nobody in before {free} "
            f"(re-entry {event.reentry_hours} h, as noted from the label). The label is the law."
        )
    return words
