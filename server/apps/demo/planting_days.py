"""Planting days of the demo: one well recorded, one half done, one with rows for a companion still to come."""

from __future__ import annotations

from datetime import date
from uuid import UUID

from apps.accounts.models import User, Workspace
from apps.demo import sowing
from apps.demo.writing import Plan, begin, strips_of, typed
from apps.farms.models import Field, SeedLot
from apps.trials.models import Trial


def sorghum_planted(tobin: User, trial: Trial, drill: UUID) -> None:
    """A drill left at the wrong setting on strip 7, a stone on strip 11, hoed once after planting."""
    day = date(2026, 5, 14)
    wrong = next(strip for strip in strips_of(trial) if strip.order == 7)
    other = next(
        treatment for treatment in trial.treatments.all() if treatment.id != wrong.treatment_id and not treatment.is_control
    )
    note = "drill left at the setting of the strip before"
    sowing.deviate(tobin, trial, 7, day, "wrong_setting", note, sown_treatment_id=other.id)
    stretch = {"rows": 1, "start": typed("210", "m"), "end": typed("218", "m")}
    sowing.deviate(tobin, trial, 11, day, "skip", "opener lifted over a stone", **stretch)
    sowing.plant(
        trial,
        sowing.Day(
            user=tobin,
            on=day,
            machine=drill,
            settings=("18", "24", "30", "36"),
            rates=("5.7", "7.4", "9.5", "11.2"),
            depths_mm=(36, 35, 37, 36),
            spread_mm=6,
            soil="dry",
            weather="warm, light wind",
            seed=31,
        ),
    )
    sowing.passed(tobin, trial, date(2026, 5, 9), "harrow", times=2, depth=typed("6", "cm"))
    sowing.passed(tobin, trial, date(2026, 6, 11), "hoe", "weeds in the white-thread stage", depth=typed("3", "cm"))


def wheat_rate_planted(tobin: User, workspace: Workspace, trial: Trial, lot: SeedLot, drill: UUID) -> None:
    """Calibration, bed, planting day and passes of the wheat rate trial."""
    catches = (("40", "291"), ("40", "287"), ("44", "318"), ("44", "316"), ("44", "320"))
    sowing.calibrate(tobin, workspace, lot, drill, date(2026, 10, 1), "140", catches)
    sowing.bed(
        tobin,
        trial,
        date(2026, 10, 1),
        boot_sink=typed("12", "mm"),
        soil_temperature=typed("13.5", "C"),
        ph=typed("6.4", ""),
        residue=typed("25", "%"),
        moisture_line=typed("2.2", "cm"),
        weeds="few",
        texture="loam",
        note="Volunteer peas on the low side.",
    )
    sowing.passed(tobin, trial, date(2026, 9, 24), "harrow", times=2, depth=typed("8", "cm"))
    sowing.plant(
        trial,
        sowing.Day(
            user=tobin,
            on=date(2026, 10, 2),
            machine=drill,
            settings=("31", "42", "54"),
            rates=("104", "139", "180"),
            depths_mm=(34, 35, 36),
            spread_mm=5,
            soil="moist",
            weather="dry, overcast",
            seed=61,
        ),
    )
    stretch = {"rows": 1, "start": typed("120", "m"), "end": typed("174", "m")}
    sowing.deviate(tobin, trial, 5, date(2026, 10, 2), "plugged_row", "straw in the outer coulter", **stretch)
    sowing.passed(tobin, trial, date(2026, 10, 3), "roll")


def wheat_depth(
    people: dict[str, User], workspace: Workspace, fields: dict[str, Field], lot: SeedLot, machines: dict[str, UUID]
) -> None:
    """Planting day: half the strips sown, the lot not yet caught."""
    trial = begin(
        people["ilse"],
        workspace,
        fields,
        Plan(
            key="wheatdepth",
            title="Late wheat, 3 or 5 cm deep",
            crop="winter_wheat",
            season=2027,
            field="Ferry Ground",
            seed=3305,
            blocks=4,
            design="pairs",
            control=0,
            question="Sown late into dry ground, is it worth going down to the moisture?",
            guess="Deeper comes up later but all of it.",
            factor="seeding_depth",
            levels=(("3", "cm", "0"), ("5", "cm", "4")),
            rate=("340", "/m2"),
            row_spacing="15",
            strip_length="300",
            emergence="80",
        ),
        lot,
    )
    day = date(2026, 11, 24)
    sowing.bed(
        people["tobin"],
        trial,
        day,
        soil_temperature=typed("6", "C"),
        moisture_line=typed("3.8", "cm"),
        residue=typed("70", "%"),
        boot_sink=typed("20", "mm"),
        weeds="none",
        texture="sand",
    )
    sowing.plant(
        trial,
        sowing.Day(
            user=people["tobin"],
            on=day,
            machine=machines["Drill 6 m"],
            settings=("45", "45"),
            rates=("", ""),
            depths_mm=(31, 49),
            spread_mm=6,
            soil="dry",
            weather="cold, clear",
            strips=3,
            seed=77,
        ),
    )


def wide_sorghum(lead: User, workspace: Workspace, fields: dict[str, Field], lots: dict[str, SeedLot]) -> None:
    """Rows twice as wide at the same seeds per area, cowpea between them: planned, with its wheels and its fertiliser."""
    trial = begin(
        lead,
        workspace,
        fields,
        Plan(
            key="widesorghum",
            title="Double-width sorghum, cowpea between",
            crop="sorghum",
            season=2027,
            field="Kiln Bank",
            seed=1507,
            blocks=4,
            design="pairs",
            control=0,
            question="Do 150 cm rows with cowpea between them hold sorghum yield, and feed the soil for less?",
            guess="A tenth less sorghum; the cowpea saves nitrogen next year.",
            factor="row_spacing",
            levels=(("75", "cm", "0"), ("150", "cm", "0")),
            rate=("220", "k/ha"),
            price="188",
            unit_cost="16",
            practical="200",
            strip_length="330",
            emergence="72",
            depth="3.5",
        ),
        lots["AM-7"],
    )
    trial = sowing.add_companion(lead, trial, lots["AM-7"], lots["CD-1"], "24", "150")
    wheels = {"track": ("1.8", "m"), "tyre": ("36", "cm"), "pass_width": ("24", "m"), "plant_half": ("4", "cm")}
    trial = sowing.keep(lead, trial, "wheels", **wheels, centre=("on_row", ""), made_up=("25", "%"), leaf_span=("70", "cm"))
    sowing.keep(
        lead,
        trial,
        "fertiliser",
        product=("Starter 10-34", ""),
        rate=("60", "kg/ha"),
        spread=("2.5", "cm"),
        reference_spacing=("50", "cm"),
    )
