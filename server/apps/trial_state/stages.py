"""The season line: what is done, due and missing at each stage of a trial."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Literal
from uuid import UUID

from cultrix_core.crops import crop
from cultrix_core.design.designs import design_kind
from cultrix_core.writing import written_day

from apps.trial_state.strip_records import StripRecords
from apps.trials.models import Factor, Strip, Treatment, Trial

State = Literal["done", "partly", "due", "ahead"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Stage:
    """One stage: its state and, in a few words, why."""

    key: str
    label: str
    state: State
    note: str


def season_line(
    trial: Trial,
    *,
    factors: Sequence[Factor],
    treatments: Sequence[Treatment],
    strips: Sequence[Strip],
    records: Mapping[UUID, StripRecords],
    events: int,
    today: date,
    frozen: bool = False,
    sown: bool = False,
) -> tuple[Stage, ...]:
    """The ten stages in the order people work."""
    standing = [strip for strip in strips if not strip.lost]
    counted = sum(1 for strip in standing if records[strip.id].plants_per_m2 is not None)
    harvested = sum(1 for strip in standing if records[strip.id].yield_kg_per_ha is not None)
    ripe = trial.planted_on is not None and today >= trial.planted_on + timedelta(days=crop(trial.crop).days_to_harvest)
    line = [
        _question(trial),
        _treatments(trial, treatments),
        _layout(trial, strips, frozen),
        _seed(trial, factors, bool(strips), sown),
        _planting(trial, strips, sum(1 for strip in standing if records[strip.id].sown), len(standing)),
        _progress("stand", "Stand", counted, len(standing), "counted", bool(trial.planted_on)),
        ("season", "Season", "done" if events else "ahead", f"{events} noted" if events else "nothing noted"),
        _estimate(sum(1 for strip in standing if records[strip.id].samples), len(standing), harvested),
        _progress("harvest", "Harvest", harvested, len(standing), "harvested", ripe or trial.season < today.year),
        _verdict(trial, harvested, len(standing)),
    ]
    return tuple(Stage(key=key, label=label, state=state, note=note) for key, label, state, note in line)


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


def _treatments(trial: Trial, treatments: Sequence[Treatment]) -> Row:
    if len(treatments) < 2:
        return "treatments", "Treatments", "due", "at least two are needed"
    if not any(treatment.is_control for treatment in treatments):
        return "treatments", "Treatments", "partly", "no control chosen"
    if trial.primary_response == "yield" and trial.price.value is None:
        return "treatments", "Treatments", "partly", "no price, so no gain that pays"
    return "treatments", "Treatments", "done", f"{len(treatments)} treatments"


def _layout(trial: Trial, strips: Sequence[Strip], frozen: bool) -> Row:
    if not strips:
        return "layout", "Layout", "due", "not drawn"
    if not design_kind(trial.design).replicated:
        return "layout", "Layout", "partly", "one strip a treatment: a look"
    blocks = len({strip.block_id for strip in strips})
    drawn = f"{len(strips)} strips" if blocks == 1 else f"{blocks} blocks, {len(strips)} strips"
    return "layout", "Layout", "done", f"{len(strips)} strips, frozen" if frozen else drawn


def _seed(trial: Trial, factors: Sequence[Factor], drawn: bool, sown: bool) -> Row:
    kinds = {factor.kind for factor in factors}
    missing = [
        name
        for name, known in (
            ("row spacing", trial.row_spacing.value or "row_spacing" in kinds),
            ("seeding rate", trial.seeding_rate.value or "seeding_rate" in kinds),
        )
        if not known
    ]
    if missing:
        return "seed", "Seed", "due" if drawn else "ahead", f"missing: {', '.join(missing)}"
    if not sown:
        return "seed", "Seed", "partly", "no seed lot chosen"
    return "seed", "Seed", "done", "rate and lot known"


def _planting(trial: Trial, strips: Sequence[Strip], sown: int, standing: int) -> Row:
    lost = sum(1 for strip in strips if strip.lost)
    wrong = sum(1 for strip in strips if strip.sown_treatment_id)
    odd = ", ".join(part for part in (f"{lost} lost" if lost else "", f"{wrong} sown otherwise" if wrong else "") if part)
    if not trial.planted_on:
        return "planting", "Planting", "due" if strips else "ahead", odd or "not sown yet"
    if 0 < sown < standing:
        return "planting", "Planting", "due", f"{sown} of {standing} strips recorded"
    return "planting", "Planting", "partly" if odd else "done", odd or f"sown {written_day(trial.planted_on)}"


def _progress(key: str, label: str, got: int, wanted: int, verb: str, ready: bool) -> Row:
    if not wanted:
        return key, label, "ahead", "no strips yet"
    if not got:
        return key, label, "due" if ready else "ahead", f"no strip {verb}"
    return key, label, "done" if got >= wanted else "partly", f"{got} of {wanted} strips {verb}"


def _estimate(sampled: int, wanted: int, harvested: int) -> Row:
    if not sampled:
        return "estimate", "Estimate", "ahead", "no strip sampled" if wanted else "no strips yet"
    state: State = "done" if sampled >= wanted or harvested else "partly"
    return "estimate", "Estimate", state, f"{sampled} of {wanted} strips sampled"


def _verdict(trial: Trial, harvested: int, wanted: int) -> Row:
    if not harvested:
        return "verdict", "Verdict", "ahead", "after harvest"
    if harvested < wanted:
        return "verdict", "Verdict", "partly", f"from {harvested} of {wanted} strips"
    return "verdict", "Verdict", "done", "description only" if not design_kind(trial.design).replicated else "called"
