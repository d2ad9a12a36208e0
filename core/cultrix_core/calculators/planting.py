"""Calculators of drill and bed: calibration, seed meters, envelopes, seedbed, depth, fertiliser, wheels, canopy."""

from __future__ import annotations

from dataclasses import replace

from cultrix_core.calculators.inputs import Calculator, Input, Values, choice, number, of, percent, whole, whole_number, words
from cultrix_core.economics.wheel_tracks import Pass, tracks_working, wheel_tracks
from cultrix_core.seeding import calibration, seed_meter
from cultrix_core.seeding.depth import advise_depth, depths_dug, depths_working
from cultrix_core.seeding.fertiliser import furrow_working, furrows
from cultrix_core.seeding.rates import canopy_share
from cultrix_core.seeding.seedbed import Seedbed, judge
from cultrix_core.seeding.sowing_profiles import needed_profile
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.working import Step, Working

SPACING = of("row_spacing", "Row spacing", "length", ("12.5", "cm"), ("7.5", "in"))
TARGET = of("target", "Rate wanted", "mass_per_area", ("140", "kg/ha"), ("125", "lb/ac"))
TOLERANCE = percent("tolerance", "Accepted within", "5")
SETTING = number("setting", "Setting on the scale", "42", optional=True)
MASSES = of("mass", "Seed caught, one weight for each catch", "mass", ("262 258 266", "g"), ("9.2 9.1 9.4", "oz"), several=True)


def _catches(rates: list[float], values: Values, show: UnitFormatter) -> Working:
    setting = values.get("setting")
    caught = [calibration.Catch(delivered_kg_per_ha=rate, setting=setting) for rate in rates]
    done = calibration.calibrate(caught, target_kg_per_ha=values["target"], tolerance_pct=values["tolerance"])
    return calibration.calibration_working(done, show)


def _catch_length(values: Values, show: UnitFormatter) -> Working:
    rates = [
        calibration.catch_rate(
            mass_kg=mass, openers=whole(values, "openers"), row_spacing_m=values["row_spacing"], length_m=values["length"]
        )
        for mass in values["mass"]
    ]
    return _catches(rates, values, show)


def _catch_turns(values: Values, show: UnitFormatter) -> Working:
    length = calibration.length_of_turns(
        turns=values["turns"], circumference_m=values["circumference"], slip_pct=values["slip"]
    )
    rates = [
        calibration.catch_rate(
            mass_kg=mass, openers=whole(values, "openers"), row_spacing_m=values["row_spacing"], length_m=length
        )
        for mass in values["mass"]
    ]
    done = _catches(rates, values, show)
    ground = Step(
        label="Ground the turns stand for",
        formula="turns × rolling circumference ÷ (100 % − slip)",
        numbers=f"{values['turns']:g} × {show.text(values['circumference'], 'tape_length')} ÷ (100 % − {values['slip']:g} %)",
        outcome=show.text(length, "tape_length"),
        source="definition",
    )
    return Working(title=done.title, outcome=done.outcome, steps=(ground, *done.steps), assumption=done.assumption)


def _bag_test(values: Values, show: UnitFormatter) -> Working:
    rates = [calibration.bag_rate(mass_kg=values["bag_weight"], area_m2=area) for area in values["area"]]
    return _catches(rates, values, show)


def _meter(values: Values, show: UnitFormatter) -> Working:
    meter = seed_meter.Meter(
        circumference_m=values["circumference"],
        row_spacing_m=values["row_spacing"],
        fixed_ratio=values["fixed_ratio"],
        seeds_a_hole=values["seeds_a_hole"],
        slip_pct=values["slip"],
    )
    discs, driving, driven = ([whole_number(value, name) for value in values[name]] for name in ("discs", "driving", "driven"))
    targets = values["rate"]
    table = seed_meter.rate_table(meter, discs=discs, driving=driving, driven=driven, target_per_m2=targets[0])
    # what a disc sows is spoken of in thousands per area, whatever the crop
    return seed_meter.meter_working(meter, table, targets, replace(show, sparse=True))


def _envelope(values: Values, show: UnitFormatter) -> Working:
    rows = whole(values, "rows")
    area = rows * values["row_spacing"] * values["length"]
    envelope = calibration.envelope(seeds_per_m2=values["rate"], area_m2=area, weight_g=values["weight"], rows=rows)
    return calibration.envelope_working(envelope, show, seeds_per_m2=values["rate"], area_m2=area)


def _bed(values: Values, show: UnitFormatter) -> Working:
    bed = Seedbed(
        boot_sink_m=values.get("boot_sink"),
        soil_c=values.get("soil_temperature"),
        ph=values.get("ph"),
        residue_pct=values.get("residue"),
        moisture_line_m=values.get("moisture_line"),
        weeds=None if values["weeds"] == "unknown" else values["weeds"],
        seeds_on_top_per_m2=values.get("seeds_on_top"),
    )
    judged = judge(bed, needed_profile(values["crop"]), show)
    overall = {"ready": "Ready", "with_care": "With care", "not_ready": "Not ready", "not_known": "Nothing measured yet"}
    state = {"good": "good", "watch": "watch", "poor": "poor", "unknown": "not known"}
    return Working(
        title="The seedbed",
        outcome=overall[judged.overall],
        steps=(
            *(
                Step(
                    label=finding.check,
                    formula="against the crop's value",
                    numbers=finding.reason,
                    outcome=state[finding.state],
                    source=finding.source,
                )
                for finding in judged.findings
            ),
            Step(
                label="Altogether",
                formula="the worst finding decides",
                numbers=", ".join(state[finding.state] for finding in judged.findings),
                outcome=overall[judged.overall],
            ),
        ),
        assumption="Low pH, loose soil and wrong depth cause most failed stands of small seeds (common practice, no source).",
    )


def _depth(values: Values, show: UnitFormatter) -> Working:
    advice = advise_depth(
        needed_profile(values["crop"]),
        show,
        moisture_line_m=values.get("moisture_line"),
        texture=values["texture"],
        soil_c=values.get("soil_temperature"),
    )
    steps = [
        Step(
            label=school.title,
            formula=" ".join(school.risks),
            numbers=school.verdict,
            outcome=school.working.outcome,
            source="common practice, no source",
        )
        for school in (advice.into_moisture, advice.fixed)
    ]
    return Working(
        title="Sowing depth, two schools",
        outcome=f"{show.number(advice.least_m, 'depth')} to {show.text(advice.most_m, 'depth')} at most",
        steps=(*steps, *advice.into_moisture.working.steps),
        assumption="Where the moisture line lies: dig in several places, down to where soil holds together in the hand.",
    )


def _dug(values: Values, show: UnitFormatter) -> Working:
    dug = depths_dug(values["depths"], window_m=needed_profile(values["crop"]).window_m, target_m=values.get("target"))
    return depths_working(dug, show)


def _fertiliser(values: Values, show: UnitFormatter) -> Working:
    rate, spread, reference = values["rate"], values["spread"], values["reference_spacing"]
    result = furrows(rate_kg_per_ha=rate, row_spacings_m=values["row_spacing"], spread_m=spread, reference_spacing_m=reference)
    worst = max(result, key=lambda furrow: furrow.relative)
    working = furrow_working(
        worst, show, rate_kg_per_ha=rate, spread_m=spread, reference_spacing_m=reference, product=values.get("product")
    )
    rows = [
        (
            show.text(furrow.row_spacing_m, "row_spacing"),
            show.text(furrow.per_row_g_per_m, "mass_per_row"),
            f"{format_number(100 * furrow.seedbed_use_frac, 1)} %",
            show.text(furrow.in_band_kg_per_ha, "seed_rate_mass"),
            f"{format_number(furrow.relative, 2)} ×{', thicker: caution' if furrow.warns else ''}",
        )
        for furrow in result
    ]
    table = (("Row spacing", "Along the row", "Seedbed use", "In the band", "Reference"), *rows)
    return Working(
        title=working.title, outcome=working.outcome, steps=working.steps, assumption=working.assumption, table=table
    )


def _wheels(values: Values, show: UnitFormatter) -> Working:
    driven = Pass(
        track_m=values["track"], tyre_m=values["tyre"], width_m=values["pass_width"], plant_half_m=values["plant_half"]
    )
    tracks = wheel_tracks(driven, row_spacing_m=values["row_spacing"], centre=values["centre"], made_up_pct=values["made_up"])
    return tracks_working(tracks, driven, show, made_up_pct=values["made_up"])


def _canopy(values: Values, show: UnitFormatter) -> Working:
    share = canopy_share(leaf_span_m=values["leaf_span"], row_spacing_m=values["row_spacing"])
    outcome = f"{format_number(100 * share, 0)} % of the ground"
    return Working(
        title="Canopy share",
        outcome=outcome,
        steps=(
            Step(
                label="Ground under leaves",
                formula="width of the leaves across the row ÷ row spacing, the whole once rows meet",
                numbers=f"{show.text(values['leaf_span'], 'row_spacing')} ÷ {show.text(values['row_spacing'], 'row_spacing')}",
                outcome=outcome,
                source="definition",
            ),
        ),
        assumption="Leaves span the row evenly and without gaps along it.",
    )


def _circumference(metric: str, us: str) -> Input:
    return of("circumference", "Rolling circumference", "length", (metric, "m"), (us, "ft"))


CALCULATORS: tuple[Calculator, ...] = (
    Calculator(
        key="catch_length",
        title="Catch test over a length",
        run=_catch_length,
        purpose="Seed caught under some openers over a measured way.",
        inputs=(
            MASSES,
            number("openers", "Openers caught", "3"),
            SPACING,
            of("length", "Length driven", "length", ("50", "m"), ("165", "ft")),
            TARGET,
            TOLERANCE,
            SETTING,
        ),
    ),
    Calculator(
        key="catch_turns",
        title="Catch test by wheel turns",
        run=_catch_turns,
        purpose="Seed caught while the drive wheel is turned by hand.",
        inputs=(
            MASSES,
            number("openers", "Openers caught", "3"),
            SPACING,
            number("turns", "Turns of the wheel", "25"),
            _circumference("2.05", "6.7"),
            percent("slip", "Slip of the wheel in the field", "3"),
            TARGET,
            TOLERANCE,
            SETTING,
        ),
    ),
    Calculator(
        key="bag_test",
        title="Bag test",
        run=_bag_test,
        purpose="The area one bag covered.",
        inputs=(
            of("bag_weight", "Weight of a bag", "mass", ("25", "kg"), ("50", "lb")),
            of("area", "Area covered, one for each bag", "area", ("0.18 0.176", "ha"), ("0.4 0.39", "ac"), several=True),
            TARGET,
            TOLERANCE,
            SETTING,
        ),
    ),
    Calculator(
        key="meter",
        title="Seed meter: discs and sprockets",
        run=_meter,
        purpose="Every rate the discs and sprockets at hand can make, and the nearest to the one wanted.",
        inputs=(
            of(
                "rate",
                "Rates wanted, one after the other",
                "areal_density",
                ("80 70 90", "k/ha"),
                ("32000 28000", "/ac"),
                several=True,
            ),
            number("discs", "Holes of the discs at hand", "24 30", several=True),
            number("driving", "Teeth of the driving sprockets", "17 19 22", several=True),
            number("driven", "Teeth of the driven sprockets", "18 23 28", several=True),
            number("fixed_ratio", "Fixed ratio besides", "0.5"),
            _circumference("2.1", "6.9"),
            of("row_spacing", "Row spacing", "length", ("75", "cm"), ("30", "in")),
            number("seeds_a_hole", "Seeds a hole", "1"),
            percent("slip", "Slip of the wheel in the field", "3"),
        ),
    ),
    Calculator(
        key="envelope",
        title="Counted seed for a small plot",
        run=_envelope,
        purpose="Whole seeds for every row of a plot, and their weight to check the counting by.",
        inputs=(
            of("rate", "Seeding rate", "areal_density", ("320", "/m2"), ("30", "/ft2")),
            number("rows", "Rows of the plot", "6"),
            of("row_spacing", "Row spacing", "length", ("20", "cm"), ("8", "in")),
            of("length", "Length of the plot", "length", ("4", "m"), ("14", "ft")),
            of("weight", "Thousand-seed weight", "seed_mass", ("44", "g/1000"), ("10300", "seeds/lb")),
        ),
    ),
    Calculator(
        key="seedbed",
        title="Seedbed checks",
        run=_bed,
        needs_crop=True,
        purpose="Firm, warm, moist, clean, sweet enough? Leave empty what was not measured.",
        inputs=(
            of("boot_sink", "A boot sinks", "length", ("5", "mm"), ("0.25", "in"), optional=True),
            of("soil_temperature", "Soil temperature at depth", "temperature", ("9", "C"), ("48", "F"), optional=True),
            number("ph", "Soil pH", "6.8", optional=True),
            percent("residue", "Ground under residue", "30", optional=True),
            of("moisture_line", "Depth of the moisture line", "length", ("2", "cm"), ("0.75", "in"), optional=True),
            choice("weeds", "Weeds standing", ("none", "none"), ("few", "few"), ("many", "many"), ("unknown", "not looked")),
            of(
                "seeds_on_top", "Seeds left on top, small seeds only", "areal_density", ("", "/m2"), ("", "/ft2"), optional=True
            ),
        ),
    ),
    Calculator(
        key="depth",
        title="Sowing depth, two schools",
        run=_depth,
        needs_crop=True,
        purpose="Into moisture or at a fixed depth: both, with what each risks.",
        inputs=(
            of("moisture_line", "Depth of the moisture line", "length", ("4", "cm"), ("1.5", "in"), optional=True),
            choice("texture", "Soil", ("loam", "loam"), ("sand", "sand"), ("clay", "clay")),
            of("soil_temperature", "Soil temperature at depth", "temperature", ("9", "C"), ("48", "F"), optional=True),
        ),
    ),
    Calculator(
        key="depths_dug",
        title="Depths dug and measured",
        run=_dug,
        needs_crop=True,
        purpose="Mean, spread and share inside the crop's window.",
        inputs=(
            of(
                "depths",
                "Depths, one after the other",
                "length",
                ("38 41 35 44 39", "mm"),
                ("1.5 1.6 1.4 1.7 1.5", "in"),
                several=True,
            ),
            of("target", "Depth wanted", "length", ("40", "mm"), ("1.5", "in"), optional=True),
        ),
    ),
    Calculator(
        key="fertiliser",
        title="Fertiliser with the seed",
        run=_fertiliser,
        purpose="How thick the same rate lies along wider rows, against a spacing you know.",
        inputs=(
            words("product", "Product", "Starter 11-52"),
            of("rate", "Rate of the product", "mass_per_area", ("80", "kg/ha"), ("70", "lb/ac")),
            of("row_spacing", "Row spacings", "length", ("12.5 18 25", "cm"), ("7.5 15 30", "in"), several=True),
            of("spread", "Width of the opener's band", "length", ("2.5", "cm"), ("1", "in")),
            of("reference_spacing", "Row spacing you know", "length", ("12.5", "cm"), ("7.5", "in")),
        ),
    ),
    Calculator(
        key="wheels",
        title="Wheels of later passes",
        run=_wheels,
        purpose="Rows run over and the share of yield they cost.",
        inputs=(
            of("track", "Track, wheel centre to wheel centre", "length", ("1.8", "m"), ("72", "in")),
            of("tyre", "Tyre width", "length", ("32", "cm"), ("12.6", "in")),
            of("pass_width", "Working width of the pass", "length", ("24", "m"), ("80", "ft")),
            of("row_spacing", "Row spacing", "length", ("37.5", "cm"), ("15", "in")),
            of("plant_half", "Half the width of a plant", "length", ("2", "cm"), ("0.75", "in")),
            choice("centre", "The machine's centre runs", ("between", "between two rows"), ("on_row", "on a row")),
            percent("made_up", "Made up by neighbours", "0"),
        ),
    ),
    Calculator(
        key="canopy",
        title="Canopy share",
        run=_canopy,
        purpose="How much of the ground the leaves cover at a row spacing.",
        inputs=(
            of("leaf_span", "Width of the leaves across the row", "length", ("40", "cm"), ("16", "in")),
            of("row_spacing", "Row spacing", "length", ("75", "cm"), ("30", "in")),
        ),
    ),
)
