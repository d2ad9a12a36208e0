"""Writing a trial of the demo through the services, as a person would: question, counts, loads, events."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from typing import Any, Literal, cast

import numpy as np
from cultrix_core.crops import crop

from apps.accounts.models import User, Workspace
from apps.base.quantities import TypedIn
from apps.demo.ground import Ground
from apps.farms.models import Field, SeedLot
from apps.field.events.schemas import FieldEventIn
from apps.field.events.services import put_field_event
from apps.field.harvest.schemas import HarvestLoadIn
from apps.field.harvest.services import put_harvest_load
from apps.field.stand.models import SamplingPlan
from apps.field.stand.schemas import StandCountIn
from apps.field.stand.services import put_stand_count
from apps.trials.layout import draw_layout
from apps.trials.models import Protocol, Strip, Trial
from apps.trials.protocol import freeze
from apps.trials.schemas import FactorIn, LayoutIn, SowingIn, SownIn, TreatmentIn, TreatmentsIn, TrialPatchIn
from apps.trials.services import add_trial, edit_trial
from apps.trials.sowing import set_sowing
from apps.trials.treatments import set_treatments

NAMESPACE = uuid.UUID("6f3d0c1e-8a51-4b0e-9a57-0d6f3f1b2c77")


# What the valley usually harvests, t/ha.
USUAL_YIELD = {"winter_wheat": "7", "sorghum": "6.4", "sunflower": "2.9", "maize": "10.4", "lucerne": "11"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """A trial of the demo."""

    key: str
    title: str
    crop: str
    season: int
    field: str
    question: str
    guess: str
    factor: str
    levels: Sequence[tuple[str, str, str]]  # level, unit, extra cost per ha
    control: int
    blocks: int
    seed: int
    strip_width: str = "6"
    strip_length: str = "320"
    design: str = "rcbd"
    price: str = "205"
    unit_cost: str = "11"
    practical: str = "150"
    series: str = ""
    row_spacing: str = ""
    rate: tuple[str, str] = ("", "")
    seed_weight: str = ""
    planted: date | None = None
    emergence: str = ""
    survival: str = ""
    depth: str = ""
    amounts_by: Literal["curve", "pairs"] = "pairs"


def typed(text: str, unit: str) -> TypedIn:
    return TypedIn(text=text, unit=unit)


def begin(lead: User, workspace: Workspace, fields: dict[str, Field], plan: Plan, lot: SeedLot | None = None) -> Trial:
    """Question, treatments, layout and seed lot of a plan."""
    trial = add_trial(lead, workspace.id, title=plan.title, crop_key=plan.crop, season=plan.season)
    patch = TrialPatchIn(
        version=trial.version,
        field_id=fields[plan.field].id,
        question=plan.question,
        guess=plan.guess,
        series=plan.series,
        price=typed(plan.price, "money/t"),
        expected_yield=typed(USUAL_YIELD[plan.crop], "t/ha"),
        unit_cost=typed(plan.unit_cost, "money/t"),
        practical_margin=typed(plan.practical, "kg/ha"),
        net_margin=typed("25", "money/ha"),
        row_spacing=typed(plan.row_spacing, "cm"),
        thousand_seed_weight=typed(plan.seed_weight, "g/1000"),
        seeding_rate=typed(*plan.rate),
        emergence=typed(plan.emergence, "%"),
        survival=typed(plan.survival, "%"),
        sowing_depth=typed(plan.depth, "cm"),
        planted_on=plan.planted,
        amounts_by=plan.amounts_by,
    )
    trial = edit_trial(lead, trial.id, patch)
    rows = [
        TreatmentIn(levels=[typed(level, unit)], is_control=place == plan.control, extra_cost=typed(cost, "money/ha"))
        for place, (level, unit, cost) in enumerate(plan.levels)
    ]
    trial = set_treatments(
        lead, trial.id, TreatmentsIn(version=trial.version, factors=[FactorIn(kind=cast(Any, plan.factor))], treatments=rows)
    )
    trial = draw_layout(
        lead,
        trial.id,
        LayoutIn(
            version=trial.version,
            design=cast(Any, plan.design),
            blocks=plan.blocks,
            strip_width=typed(plan.strip_width, "m"),
            strip_length=typed(plan.strip_length, "m"),
            headland=typed("12", "m"),
            guards=1,
            seed=plan.seed,
        ),
    )
    if lot is not None:
        part = SownIn(part="crop", lot_id=lot.id)
        trial = set_sowing(lead, trial.id, SowingIn(version=trial.version, parts=[part]))
    if plan.planted and plan.design != "unreplicated":
        freeze_before(lead, trial, plan.planted)
    return trial


def freeze_before(lead: User, trial: Trial, planted: date) -> None:
    """Freeze the protocol, dated a week before planting."""
    freeze(lead, trial.id)
    Protocol.objects.filter(trial=trial).update(frozen_at=at(planted - timedelta(days=7), 0))


def strips_of(trial: Trial) -> list[Strip]:
    return list(trial.strips.select_related("treatment", "sown_treatment"))


def harvest(
    user: User,
    trial: Trial,
    ground: Ground,
    effects: Sequence[float],
    on: date,
    *,
    swath: str,
    moisture: float,
    only: int | None = None,
    tared: bool = True,
) -> None:
    """Weigh every strip that stands, at field moisture."""
    strips = strips_of(trial)
    draw = np.random.default_rng(ground.seed + 500)
    standard = crop(trial.crop).standard_moisture_pct or 0.0
    truth = ground.yields([effects[strip.received.position] for strip in strips])
    for strip, kg_per_ha in zip(strips, truth, strict=True):
        wet_pct = round(float(draw.normal(moisture, 0.35)), 1)
        if strip.lost or (only is not None and strip.order > only):
            continue
        area = float(swath) * (strip.length.value or 0) / 1e4
        net = kg_per_ha * area * (100 - standard) / (100 - wet_pct)
        tare = 5620 if tared else 0
        put_harvest_load(
            user,
            trial.id,
            record_id(trial, "load", strip.order),
            HarvestLoadIn(
                strip_id=strip.id,
                method="weighed",
                recorded_at=at(on, strip.order),
                gross=typed(f"{round((net + tare) / 5) * 5}", "kg"),
                tare=typed(str(tare), "kg") if tared else TypedIn(),
                moisture=typed(f"{wet_pct}", "%"),
                swath_width=typed(swath, "m"),
                length=typed(strip.length.text, "m"),
            ),
        )


def count(
    user: User,
    trial: Trial,
    ground: Ground,
    on: date,
    *,
    counts: int,
    length_m: float,
    rows: int,
    emergence: float,
    only: int | None = None,
    plan: SamplingPlan | None = None,
) -> None:
    """Count every strip at several places; with a plan, at the places it has drawn."""
    for strip in strips_of(trial):
        if strip.lost or (only is not None and strip.order > only):
            continue
        level = strip.received.levels.select_related("factor").get()
        kind = level.factor.kind
        seeds = level.amount.value if kind == "seeding_rate" else trial.seeding_rate.value
        spacing = (
            (level.amount.text, level.amount.value)
            if kind == "row_spacing"
            else (trial.row_spacing.text, trial.row_spacing.value)
        )
        area = length_m * rows * (spacing[1] or 0)
        for place, plants in enumerate(ground.plants(seeds or 0, area, counts, strip.order, emergence)):
            put_stand_count(
                user,
                trial.id,
                record_id(trial, f"count{on}", strip.order * 100 + place),
                StandCountIn(
                    strip_id=strip.id,
                    method="rows",
                    plants=str(plants),
                    rows=str(rows),
                    length=typed(f"{length_m:g}", "m"),
                    row_spacing=typed(spacing[0], "cm"),
                    plan_id=plan.id if plan else None,
                    place=place + 1 if plan else None,
                    recorded_at=at(on, strip.order * 10 + place),
                ),
            )


def event(user: User, trial: Trial, kind: str, on: date, text: str, orders: Sequence[int] = ()) -> None:
    strips = [strip.id for strip in strips_of(trial) if strip.order in orders]
    put_field_event(
        user,
        trial.id,
        record_id(trial, "event", on.toordinal()),
        FieldEventIn(kind=cast(Any, kind), happened_on=on, text=text, strip_ids=strips, recorded_at=at(on, 0)),
    )


def record_id(trial: Trial, kind: str, number: int) -> uuid.UUID:
    return uuid.uuid5(NAMESPACE, f"{trial.id}/{kind}/{number}")


def at(on: date, minutes: int) -> datetime:
    return datetime(on.year, on.month, on.day, 8, tzinfo=UTC) + timedelta(minutes=minutes)
