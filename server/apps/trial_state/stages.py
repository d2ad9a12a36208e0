"""The season line: what is done, due and missing at each stage of a trial."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Literal

from cultrix_core.crops import crop
from cultrix_core.design.designs import design_kind
from cultrix_core.writing import written_days

from apps.trial_state.progress import Progress
from apps.trials.models import Trial

State = Literal["done", "partly", "due", "ahead"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Stage:
    """One stage: its state and, in a few words, why."""

    key: str
    label: str
    state: State
    note: str


def season_line(trial: Trial, progress: Progress, *, today: date) -> tuple[Stage, ...]:
    """The ten stages in the order people work."""
    first = progress.sown_together[0].day if progress.sown_together else None
    ripe = first is not None and today >= first + timedelta(days=crop(trial.crop).days_to_harvest)
    standing = progress.standing
    line = [
        _question(trial),
        _treatments(trial, progress),
        _layout(trial, progress),
        _seed(trial, progress),
        _planting(trial, progress),
        _progress("stand", "Stand", progress.counted, standing, "counted", bool(trial.planted_on)),
        _season(progress),
        _estimate(progress),
        _progress("harvest", "Harvest", progress.harvested, standing, "harvested", ripe or trial.season < today.year),
        _verdict(trial, progress),
    ]
    return tuple(Stage(key=key, label=label, state=state, note=note) for key, label, state, note in line)


def next_step(stages: Sequence[Stage]) -> int:
    """Place of the stage that comes next: the first that is due or begun, else the last."""
    return next((place for place, stage in enumerate(stages) if stage.state in ("due", "partly")), len(stages) - 1)


def is_finished(stages: Sequence[Stage]) -> bool:
    """Whether the last stage is done."""
    return stages[-1].state == "done"


Row = tuple[str, str, State, str]


def _question(trial: Trial) -> Row:
    missing = [
        name
        for name, value in (
            ("the question", trial.question),
            ("a guess", trial.guess),
            ("the field", trial.field_id),
            ("the price", trial.price.value),
        )
        if not value
    ]
    state: State = "done" if not missing else "partly" if len(missing) < 4 else "due"
    return "question", "Question", state, f"missing: {', '.join(missing)}" if missing else "asked"


def _treatments(trial: Trial, progress: Progress) -> Row:
    if progress.treatments < 2:
        return "treatments", "Treatments", "due", "at least two are needed"
    if not progress.has_control:
        return "treatments", "Treatments", "partly", "no control chosen"
    if trial.primary_response == "yield" and trial.price.value is None:
        return "treatments", "Treatments", "partly", "no price, so no gain that pays"
    return "treatments", "Treatments", "done", f"{progress.treatments} treatments"


def _layout(trial: Trial, progress: Progress) -> Row:
    strips, blocks = progress.strips, progress.blocks
    if not strips:
        return "layout", "Layout", "due", "not drawn"
    if not design_kind(trial.design).replicated:
        return "layout", "Layout", "partly", "one strip a treatment: a look"
    drawn = f"{strips} strips" if blocks == 1 else f"{blocks} blocks, {strips} strips"
    return "layout", "Layout", "done", f"{strips} strips, frozen" if progress.frozen else drawn


def _seed(trial: Trial, progress: Progress) -> Row:
    missing = [
        name
        for name, known in (
            ("row spacing", trial.row_spacing.value or "row_spacing" in progress.factor_kinds),
            ("seeding rate", trial.seeding_rate.value or "seeding_rate" in progress.factor_kinds),
        )
        if not known
    ]
    if missing:
        return "seed", "Seed", "due" if progress.strips else "ahead", f"missing: {', '.join(missing)}"
    if not progress.has_lot:
        return "seed", "Seed", "partly", "no seed lot chosen"
    return "seed", "Seed", "done", "rate and lot known"


def _planting(trial: Trial, progress: Progress) -> Row:
    lost, wrong = progress.lost, progress.sown_otherwise
    odd = ", ".join(part for part in (f"{lost} lost" if lost else "", f"{wrong} sown otherwise" if wrong else "") if part)
    if not trial.planted_on:
        return "planting", "Planting", "due" if progress.strips else "ahead", odd or "not sown yet"
    if 0 < progress.sown < progress.standing:
        return "planting", "Planting", "due", f"{progress.sown} of {progress.standing} strips recorded"
    days = [group.day for group in progress.sown_together] or [trial.planted_on]
    return "planting", "Planting", "partly" if odd else "done", odd or f"sown {written_days(days)}"


def _progress(key: str, label: str, got: int, wanted: int, verb: str, ready: bool) -> Row:
    if not wanted:
        return key, label, "ahead", "no strips yet"
    if not got:
        return key, label, "due" if ready else "ahead", f"no strip {verb}"
    return key, label, "done" if got >= wanted else "partly", f"{got} of {wanted} strips {verb}"


def _season(progress: Progress) -> Row:
    """What was noted and what was measured or rated since sowing."""
    told = [
        f"{number} {what}{'' if number == 1 else 's'}"
        for number, what in ((progress.events, "note"), (progress.measured, "measurement"), (progress.rated, "rating"))
        if number
    ]
    return "season", "Season", "done" if told else "ahead", ", ".join(told) or "nothing noted or measured"


def _estimate(progress: Progress) -> Row:
    sampled, wanted = progress.sampled, progress.standing
    if not sampled:
        return "estimate", "Estimate", "ahead", "no strip sampled" if wanted else "no strips yet"
    state: State = "done" if sampled >= wanted or progress.harvested else "partly"
    return "estimate", "Estimate", state, f"{sampled} of {wanted} strips sampled"


def _verdict(trial: Trial, progress: Progress) -> Row:
    harvested, wanted = progress.harvested, progress.standing
    if not harvested:
        return "verdict", "Verdict", "ahead", "after harvest"
    if harvested < wanted:
        return "verdict", "Verdict", "partly", f"from {harvested} of {wanted} strips"
    return "verdict", "Verdict", "done", "description only" if not design_kind(trial.design).replicated else "called"
