"""Strip tillage against ploughing in maize, with seeding rate inside it: a split-plot harvested, and the next one planned."""

from __future__ import annotations

from datetime import date
from typing import Any
from uuid import UUID

import numpy as np

from apps.accounts.models import User, Workspace
from apps.demo import sowing
from apps.demo.ground import Ground
from apps.demo.money import from_the_board
from apps.demo.writing import at, event, freeze_before, harvest, record_id, strips_of, typed
from apps.farms.models import Field, SeedLot
from apps.field.readings.schemas import reading_in
from apps.field.readings.services import put_reading
from apps.records.kinds import KINDS
from apps.trials.layout import draw_layout
from apps.trials.models import Trial
from apps.trials.schemas import CostIn, FactorIn, LayoutIn, SowingIn, SownIn, TreatmentIn, TreatmentsIn, TrialPatchIn
from apps.trials.services import add_trial, edit_trial
from apps.trials.sowing import set_sowing
from apps.trials.treatments import set_treatments

SERIES = "Strip tillage in maize"
RATES = ("70", "80", "90")
PLOUGHING = {
    "fuel": typed("24", "L/ha"),
    "fuel_price": typed("1.10", "money/L"),
    "hours": typed("1.2", "h/ha"),
    "wage": typed("22", "money/h"),
    "hire": typed("21", "money/h"),
}
# kg/ha that each treatment adds: ploughed with 70, 80, 90 thousand, then strip-tilled with the same
TRUTH = (-430, 0, 60, -720, -190, 20)


PLOUGH, STRIP = typed("Plough and harrow", ""), typed("Strip tillage", "")


def _treatments() -> list[TreatmentIn]:
    return [
        TreatmentIn(levels=[tillage, typed(rate, "k/ha")], is_control=tillage is PLOUGH and rate == "80")
        for tillage in (PLOUGH, STRIP)
        for rate in RATES
    ]


def _costs() -> list[CostIn]:
    return [
        CostIn(factor=0, level=PLOUGH, kind="passes", label="Plough", times="1", made_of=PLOUGHING),
        CostIn(factor=0, level=PLOUGH, kind="passes", label="Harrow", times="2", each=typed("21", "money/ha")),
        CostIn(factor=0, level=STRIP, kind="passes", label="Strip-till bar", times="1", each=typed("46", "money/ha")),
        CostIn(factor=0, level=STRIP, kind="product", label="Burndown spray", times="1", each=typed("31", "money/ha")),
        CostIn(
            factor=0,
            level=STRIP,
            kind="machinery",
            label="Share of the bar",
            times="1",
            basis="machine_year",
            each=typed("2520", "money"),
            spread=typed("180", "ha"),
        ),
    ]


def _asked(
    lead: User, workspace: Workspace, fields: dict[str, Field], title: str, season: int, field: str, planted: date | None
) -> Trial:
    """Question, costs and treatments of one year."""
    trial = add_trial(lead, workspace.id, title=title, crop_key="maize", season=season)
    trial = edit_trial(
        lead,
        trial.id,
        TrialPatchIn(
            version=trial.version,
            field_id=fields[field].id,
            series=SERIES,
            amounts_by="pairs",
            question="Does strip tillage hold maize yield against ploughing, and does it want another seeding rate?",
            guess="Same yield, two passes saved; the strips want the higher rate.",
            price=typed("192", "money/t"),
            unit_cost=typed("24", "money/t"),
            practical_margin=typed("250", "kg/ha"),
            net_margin=typed("25", "money/ha"),
            expected_yield=typed("10.4", "t/ha"),
            row_spacing=typed("75", "cm"),
            emergence=typed("92", "%"),
            sowing_depth=typed("5", "cm"),
            bag_price=typed("118", "money"),
            bag_seeds=typed("50000", ""),
            planted_on=planted,
        ),
    )
    return set_treatments(
        lead,
        trial.id,
        TreatmentsIn(
            version=trial.version,
            factors=[FactorIn(kind="tillage", hard_to_change=True), FactorIn(kind="seeding_rate")],
            treatments=_treatments(),
            costs=_costs(),
        ),
    )


def maize_tillage_harvested(lead: User, workspace: Workspace, fields: dict[str, Field]) -> Trial:
    """Five blocks on the terrace, weighed in October 2025."""
    planted = date(2025, 4, 29)
    trial = _asked(lead, workspace, fields, "Tillage by rate in maize 2025", 2025, "Upper Step", planted)
    trial = draw_layout(
        lead,
        trial.id,
        LayoutIn(
            version=trial.version,
            design="split_plot",
            blocks=5,
            seed=2518,
            strip_width=typed("6", "m"),
            strip_length=typed("340", "m"),
            headland=typed("12", "m"),
        ),
    )
    freeze_before(lead, trial, planted)
    _push_the_cone(lead, trial, date(2025, 5, 27))
    event(lead, trial, "rain", date(2025, 6, 8), "Forty millimetres in a night; ploughed strips capped, the others did not.")
    harvest(
        lead,
        trial,
        Ground(mean_kg_per_ha=10350, cv=0.022, slope=0.08, seed=2518),
        TRUTH,
        date(2025, 10, 17),
        swath="4.5",
        moisture=19.2,
    )
    return trial


def _push_the_cone(lead: User, trial: Trial, on: date) -> None:
    """Three readings a strip at 15 and at 30 cm: the plough has loosened one and not the other."""
    rng, kind = np.random.default_rng(2518), KINDS["penetrometer-reading"]
    number = 0
    for strip in strips_of(trial):
        ploughed = strip.received.levels.filter(name=PLOUGH.text).exists()
        for depth, base in (("15", 0.95 if ploughed else 1.55), ("30", 2.1)):
            for _ in range(3):
                number += 1
                values: dict[str, Any] = {
                    "resistance": typed(f"{base * (1 + 0.12 * rng.standard_normal()):.2f}", "MPa"),
                    "depth": typed(depth, "cm"),
                }
                body = reading_in(kind)(strip_id=strip.id, recorded_at=at(on, number), **values)
                put_reading(lead, kind, trial.id, record_id(trial, "cone", number), body)


def maize_tillage_planned(
    lead: User, workspace: Workspace, fields: dict[str, Field], lot: SeedLot, machines: dict[str, UUID]
) -> None:
    """The next year, planned on a field with a mast in it."""
    trial = _asked(lead, workspace, fields, "Strip tillage and maize rate", 2027, "Stone Row", None)
    trial = from_the_board(lead, trial)
    trial = set_sowing(lead, trial.id, SowingIn(version=trial.version, parts=[SownIn(part="crop", lot_id=lot.id)]))
    draw_layout(
        lead,
        trial.id,
        LayoutIn(
            version=trial.version,
            design="split_plot",
            blocks=3,
            seed=808,
            machines=[machines["Planter, 8 rows at 75 cm"], machines["Strip-till bar 6 m"], machines["Header 5.4 m"]],
            headland=typed("15", "m"),
            guards=1,
            no_equal_neighbours=True,
        ),
    )
    meter = {"discs": ("24 30", ""), "driving": ("17 19 22", ""), "driven": ("18 23 28", ""), "fixed_ratio": ("0.5", "")}
    sowing.keep(lead, trial, "meter", **meter, circumference=("2.1", "m"), seeds_a_hole=("1", ""), slip=("3", "%"))
