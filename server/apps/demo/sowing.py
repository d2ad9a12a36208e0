"""Seed and planting of the demo, written through the services: lots, calibrations, records, depths, passes."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any, cast

import numpy as np

from apps.accounts.models import User, Workspace
from apps.demo.writing import NAMESPACE, at, record_id, strips_of, typed
from apps.farms.models import SeedLot
from apps.farms.schemas import SeedLotIn
from apps.farms.seed_lots import add_lot
from apps.field.planting.calibration import put_calibration
from apps.field.planting.schemas import (
    CalibrationIn,
    CatchIn,
    DepthCheckIn,
    DeviationIn,
    PlantingRecordIn,
    SeedbedCheckIn,
    TillagePassIn,
)
from apps.field.planting.services import (
    put_depth_check,
    put_deviation,
    put_planting_record,
    put_seedbed_check,
    put_tillage_pass,
)
from apps.trials.models import Level, Trial
from apps.trials.queries import trial_for
from apps.trials.schemas import KeptIn, SowingIn, SownIn
from apps.trials.sowing import keep_inputs, set_sowing


@dataclass(frozen=True, slots=True, kw_only=True)
class Tag:
    """A lot of the demo as its tag tells it; percentages as typed."""

    crop: str
    name: str
    tag: str
    weight: str
    germination: str
    tested: date | None
    purity: str = "99"
    bag: tuple[str, str, str] = ("", "", "")  # price, kg, seeds
    coating: str = ""
    treatment: str = ""


TAGS = (
    Tag(
        crop="winter_wheat",
        name="Terrace Gold",
        tag="TG-24",
        weight="44",
        germination="94",
        tested=date(2023, 8, 20),
        bag=("21", "25", ""),
    ),
    Tag(
        crop="winter_wheat",
        name="Terrace Gold",
        tag="TG-25",
        weight="43",
        germination="93",
        tested=date(2024, 8, 18),
        bag=("22", "25", ""),
    ),
    Tag(
        crop="winter_wheat",
        name="Terrace Gold",
        tag="TG-26",
        weight="45",
        germination="95",
        tested=date(2025, 8, 22),
        bag=("22", "25", ""),
    ),
    Tag(
        crop="winter_wheat",
        name="Stepstone",
        tag="ST-11",
        weight="46",
        germination="93",
        tested=date(2026, 8, 14),
        purity="98.5",
        bag=("23", "25", ""),
        treatment="a seed dressing against bunt",
    ),
    Tag(
        crop="sorghum",
        name="Amberline",
        tag="AM-7",
        weight="31",
        germination="88",
        tested=date(2026, 2, 2),
        bag=("96", "", "300000"),
    ),
    Tag(
        crop="sunflower",
        name="Noonface",
        tag="NF-3",
        weight="62",
        germination="91",
        tested=date(2026, 1, 19),
        bag=("150", "", "150000"),
    ),
    Tag(
        crop="maize",
        name="Long Ember",
        tag="LE-88",
        weight="290",
        germination="96",
        tested=date(2026, 2, 10),
        bag=("118", "", "50000"),
        treatment="a film against wireworm",
    ),
    Tag(
        crop="field_pea", name="Tern", tag="TE-2", weight="240", germination="86", tested=date(2025, 2, 3), bag=("31", "25", "")
    ),
    Tag(
        crop="lucerne",
        name="Vale Blue",
        tag="VB-5",
        weight="2.1",
        germination="84",
        tested=date(2026, 6, 30),
        coating="32",
        bag=("235", "22.7", ""),
    ),
    Tag(
        crop="other",
        name="Cowpea Dusk",
        tag="CD-1",
        weight="130",
        germination="90",
        tested=date(2026, 9, 1),
        bag=("44", "20", ""),
    ),
)


def lots(lead: User, workspace: Workspace) -> dict[str, SeedLot]:
    """All lots, by the number on their tag."""
    return {tag.tag: add_lot(lead, workspace.id, _lot(tag)) for tag in TAGS}


def _lot(tag: Tag) -> SeedLotIn:
    price, kg, seeds = tag.bag
    return SeedLotIn(
        crop=tag.crop,
        name=tag.name,
        tag=tag.tag,
        thousand_seed_weight=typed(tag.weight, "g/1000"),
        germination=typed(tag.germination, "%"),
        tested_on=tag.tested,
        purity=typed(tag.purity, "%"),
        coating=typed(tag.coating, "%"),
        treated=bool(tag.treatment),
        treatment=tag.treatment,
        bag_price=typed(price, "money"),
        bag_weight=typed(kg, "kg"),
        bag_seeds=typed(seeds, ""),
    )


def add_companion(lead: User, trial: Trial, lot: SeedLot, companion: SeedLot, rate: str, level: str) -> Trial:
    """The crop's lot everywhere, and a companion at a rate in kg/ha between the rows of one level, by its typed text."""
    bound = Level.objects.get(factor__trial=trial, amount_typed=level)
    other = SownIn(part="companion", lot_id=companion.id, level_id=bound.pk, rate=typed(rate, "kg/ha"), place="between")
    version = trial_for(lead, trial.id).version
    return set_sowing(lead, trial.id, SowingIn(version=version, parts=[SownIn(part="crop", lot_id=lot.id), other]))


def calibrate(
    user: User,
    workspace: Workspace,
    lot: SeedLot,
    machine: uuid.UUID,
    on: date,
    target: str,
    catches: Sequence[tuple[str, str]],
) -> None:
    """Catches over 50 m under three openers at 15 cm: (setting, grams)."""
    body = CalibrationIn(
        lot_id=lot.id,
        machine_id=machine,
        done_on=on,
        method="length",
        target=typed(target, "kg/ha"),
        openers=3,
        row_spacing=typed("15", "cm"),
        catches=[CatchIn(setting=setting, mass=typed(grams, "g"), way=typed("50", "m")) for setting, grams in catches],
        recorded_at=at(on, 5),
    )
    put_calibration(user, workspace.id, uuid.uuid5(NAMESPACE, f"{lot.tag}/{machine}/{target}"), body)


@dataclass(frozen=True, slots=True, kw_only=True)
class Day:
    """A planting day: who, when, with what; depth in mm meant and its spread. ``strips``: how many got done."""

    user: User
    on: date
    machine: uuid.UUID
    settings: Sequence[str]
    rates: Sequence[str]
    depths_mm: Sequence[float]
    spread_mm: float
    soil: str
    weather: str
    speed: str = "8"
    strips: int | None = None
    checks: int = 5
    seed: int = 1


def plant(trial: Trial, day: Day) -> None:
    """Record strips as sown and depths dug on them; settings and depths by treatment."""
    draw = np.random.default_rng(day.seed)
    for strip in strips_of(trial):
        if day.strips is not None and strip.order > day.strips:
            continue
        place = strip.received.position
        put_planting_record(
            day.user,
            trial.id,
            record_id(trial, "sown", strip.order),
            PlantingRecordIn(
                strip_id=strip.id,
                sown_at=at(day.on, 60 + 11 * strip.order),
                machine_id=day.machine,
                setting=day.settings[place],
                rate=typed(day.rates[place], "kg/ha"),
                speed=typed(day.speed, "km/h"),
                soil=cast(Any, day.soil),
                weather=day.weather,
                recorded_at=at(day.on, 62 + 11 * strip.order),
            ),
        )
        for number in range(day.checks):
            depth = max(5, round(float(draw.normal(day.depths_mm[place], day.spread_mm))))
            put_depth_check(
                day.user,
                trial.id,
                record_id(trial, f"depth{strip.order}", number),
                DepthCheckIn(strip_id=strip.id, depth=typed(str(depth), "mm"), recorded_at=at(day.on, 64 + 11 * strip.order)),
            )


def deviate(user: User, trial: Trial, order: int, on: date, kind: str, note: str, **more: Any) -> None:
    """Something that went otherwise on one strip."""
    strip = next(item for item in strips_of(trial) if item.order == order)
    body = DeviationIn(strip_id=strip.id, kind=cast(Any, kind), note=note, recorded_at=at(on, 90), **more)
    put_deviation(user, trial.id, record_id(trial, "deviation", order), body)


def bed(user: User, trial: Trial, on: date, **more: Any) -> None:
    """The seedbed as it was found."""
    body = SeedbedCheckIn(checked_on=on, recorded_at=at(on, 30), **more)
    put_seedbed_check(user, trial.id, record_id(trial, "bed", on.toordinal()), body)


def passed(user: User, trial: Trial, on: date, kind: str, note: str = "", **more: Any) -> None:
    """A pass over the ground on all strips."""
    body = TillagePassIn(done_on=on, kind=cast(Any, kind), note=note, recorded_at=at(on, 20), **more)
    put_tillage_pass(user, trial.id, record_id(trial, f"pass {kind}", on.toordinal()), body)


def keep(lead: User, trial: Trial, calculator: str, **values: tuple[str, str]) -> Trial:
    """Typed inputs of a calculator kept with the trial."""
    version = trial_for(lead, trial.id).version
    body = KeptIn(
        version=version, calculator=cast(Any, calculator), values={name: typed(*item) for name, item in values.items()}
    )
    return keep_inputs(lead, trial.id, body)
