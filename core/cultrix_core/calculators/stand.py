"""Calculators of stand and season: counts wanted, tape run, keep or replant, crowns, stage, heat units, nutrients."""

from __future__ import annotations

from cultrix_core.calculators.inputs import Calculator, Values, number, of, percent, whole, whole_number
from cultrix_core.crops.profile import HeatProfile, StandCurve
from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.season.heat_units import heat_profile, heat_working
from cultrix_core.stand.crowns import Dug, crowns_of, crowns_working
from cultrix_core.stand.decision import Case, decide, decision_working, own_curve, stand_curve
from cultrix_core.stand.growth_stage import stage_rule, stand_stage
from cultrix_core.stand.precision import MOST_COUNTS, counts_wanted
from cultrix_core.stand.tape import spacings_of, tape_run_working
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.working import Step, Working


def _counts(values: Values, show: UnitFormatter) -> Working:  # noqa: ARG001 - every calculator is given the reader's units
    cv = require_between(values["cv"], 0.1, 200, "cv", label="Variation from count to count", unit=" %")
    share = require_between(values["within"], 0.5, 50, "within", label="Wanted within", unit=" %")
    n = counts_wanted(cv / 100, wanted_share=share / 100)
    outcome = f"more than {MOST_COUNTS}" if n > MOST_COUNTS else f"{n} counts"
    return Working(
        title="Counts wanted",
        outcome=outcome,
        steps=(
            Step(
                label="Counts",
                formula="least n with t(n − 1) × variation ÷ √n ≤ share, 90 % interval",
                numbers=f"variation {cv:g} %, within ±{share:g} %",
                outcome=outcome,
                source="Stein 1945, from memory",
            ),
        ),
        assumption="The variation: in a patchy stand it is several times that of an even one.",
    )


def _tape(values: Values, show: UnitFormatter) -> Working:
    return tape_run_working(spacings_of(values["positions"], reference_m=values["reference"]), show)


def keep_case(values: Values, known: StandCurve, *, stand_per_m2: float, half_per_m2: float) -> tuple[Case, StandCurve]:
    """The case and curve that typed inputs stand for, with a stand that may come from a trial's own counts."""
    case = Case(
        stand_per_m2=stand_per_m2,
        stand_half_per_m2=half_per_m2,
        wanted_per_m2=values["wanted"],
        full_yield_kg_per_ha=values["full_yield"],
        worth_per_t=values["worth"],
        days_late=values["days_late"],
        seed_per_ha=values["seed"],
        passes_per_ha=values["passes"],
    )
    half_stand, penalty = values["half_stand_yield"], values["penalty"]
    return case, own_curve(known, half_stand_yield_pct=half_stand, penalty_pct_a_day=penalty)


def _keep(values: Values, show: UnitFormatter) -> Working:
    known = stand_curve(values["crop"])
    if known is None:
        raise Refusal(
            "not_for_crop",
            field="crop",
            label="Keep or replant",
            value=values["crop"].replace("_", " "),
            remedy="Perennial stands are judged by plants, shoots and age, on the Stand page of their trial.",
        )
    case, curve = keep_case(values, known, stand_per_m2=values["stand"], half_per_m2=values["stand_half"] or 0.0)
    return decision_working(case, curve, decide(case, curve), show)


def _crowns(values: Values, show: UnitFormatter) -> Working:
    tallies = {key: whole(values, key) for key in ("firm", "doubtful", "dead")}
    shoots = [whole_number(value, "shoots") for value in values["shoots"] or []]
    living = tallies["firm"] + tallies["doubtful"]
    if len(shoots) > living:
        raise Refusal("too_large", field="shoots", label="Crowns with shoots", value=len(shoots), limit=living)
    for key, number_of in tallies.items():
        require_between(number_of, 0, 500, key, label=f"Plants {key}")
    plants = [Dug(health=key) for key in ("firm", "doubtful", "dead") for _ in range(tallies[key])]
    counted = [
        Dug(health=plant.health, shoots=shoots[place] if place < len(shoots) else None) for place, plant in enumerate(plants)
    ]
    return crowns_working(crowns_of(counted), show, plants_per_m2=values["plants"])


def _stage(values: Values, show: UnitFormatter) -> Working:  # noqa: ARG001
    rule = stage_rule(values["crop"])
    if rule is None:
        raise Refusal(
            "not_for_crop",
            field="crop",
            label="Stage",
            value=values["crop"].replace("_", " "),
            remedy="We have no counting rule for it.",
        )
    stage = stand_stage(values["leaves"], rule)
    return Working(
        title="Stage of the stand",
        outcome=show.words(stage.words),
        steps=(
            Step(
                label="Counted",
                formula=show.words("; ".join(rule.counts)),
                numbers="not counted: " + "; ".join(rule.counts_not),
                outcome=show.words(rule.what),
                source="common practice, no source",
            ),
            Step(
                label="Stage",
                formula="the highest number that at least half of the plants have reached",
                numbers=f"{stage.n} plants, {stage.lowest} to {stage.highest}",
                outcome=stage.stage,
                source="common practice, no source",
            ),
        ),
        assumption="Plants were taken as drawn, not the tallest.",
    )


def _heat(values: Values, show: UnitFormatter) -> Working:
    own = values["base"]
    profile = heat_profile(values["crop"])
    if own is not None:
        profile = HeatProfile(base_c=own, upper_c=values["upper"], way=profile.way)
    return heat_working(values["min"], values["max"], profile, show)


def _ratio(values: Values, show: UnitFormatter) -> Working:
    rate = require_positive(values["rate"], "rate", label="Nitrogen")
    ratio = require_between(values["ratio"], 0.5, 50, "ratio", label="Ratio")
    product = require_between(values["content"], 0.5, 100, "content", label="Sulphur in the product", unit=" %")
    sulphur = rate / ratio
    text = show.text(sulphur, "seed_rate_mass")
    return Working(
        title="Sulphur beside nitrogen",
        outcome=f"{text} of sulphur",
        steps=(
            Step(
                label="Sulphur",
                formula="nitrogen ÷ ratio",
                numbers=f"{show.text(rate, 'seed_rate_mass')} ÷ {ratio:g}",
                outcome=text,
                source="about 6 : 1, common practice, no source",
            ),
            Step(
                label="Product",
                formula="sulphur ÷ its share in the product",
                numbers=f"{text} ÷ {format_number(product, 1)} %",
                outcome=show.text(100 * sulphur / product, "seed_rate_mass"),
                source="definition",
            ),
        ),
        assumption="What the soil and earlier dressings give. Local rules and the product's label decide on rate and timing.",
    )


CALCULATORS: tuple[Calculator, ...] = (
    Calculator(
        key="counts_wanted",
        title="Counts wanted",
        purpose="How many counts a strip needs before its mean is known well enough.",
        inputs=(percent("cv", "Variation from count to count", "15"), percent("within", "Wanted within ±", "5")),
        run=_counts,
    ),
    Calculator(
        key="tape_run",
        title="Spacing on a tape",
        purpose="Mean, unevenness, doubles, skips and precision from the positions of plants.",
        inputs=(
            of(
                "positions",
                "Positions of the plants, one after the other",
                "length",
                ("0 17 33 36 68 85 101 120 134 152", "cm"),
                ("0 6.5 13 14.5 27 33.5 40 47 53 60", "in"),
                several=True,
            ),
            of("reference", "Spacing wanted", "length", ("17", "cm"), ("6.5", "in")),
        ),
        run=_tape,
    ),
    Calculator(
        key="keep_or_replant",
        title="Keep or replant",
        purpose="What a thin stand makes against sowing again later, in yield and money, with its interval.",
        inputs=(
            of("stand", "Stand counted", "plant_density", ("4.2", "plants/m2"), ("17000", "plants/ac")),
            of("stand_half", "± of the stand", "plant_density", ("0.4", "plants/m2"), ("1600", "plants/ac"), optional=True),
            of("wanted", "Stand wanted", "plant_density", ("8", "plants/m2"), ("32000", "plants/ac")),
            of("full_yield", "Yield of a full stand", "mass_per_area", ("10.4", "t/ha"), ("165", "bu/ac")),
            of("worth", "Price less costs of a unit", "price", ("168", "money/t"), ("4.20", "money/bu")),
            number("days_late", "Days later than the first sowing", "18"),
            of("seed", "Seed for replanting", "money_per_area", ("95", "money/ha"), ("42", "money/ac")),
            of("passes", "Passes for replanting", "money_per_area", ("70", "money/ha"), ("28", "money/ac")),
            percent("penalty", "Lost for each day later", "", optional=True),
            percent("half_stand_yield", "Yield of half the plants", "", optional=True),
        ),
        run=_keep,
        needs_crop=True,
    ),
    Calculator(
        key="crowns",
        title="Crowns and roots",
        purpose="Share of dug plants that live, and shoots per area.",
        inputs=(
            number("firm", "Firm and white", "11"),
            number("doubtful", "Discoloured", "3"),
            number("dead", "Brown, soft, pull out", "2"),
            number("shoots", "Shoots on living crowns", "6 9 8 5 7 10", several=True, optional=True),
            of("plants", "Plants", "plant_density", ("58", "plants/m2"), ("5.4", "plants/ft2"), optional=True),
        ),
        run=_crowns,
    ),
    Calculator(
        key="stage",
        title="Stage of the stand",
        purpose="Leaves counted by the crop's own rule, on several plants.",
        inputs=(number("leaves", "Leaves on each plant", "5 5 6 4 5 6 5 5", several=True),),
        run=_stage,
        needs_crop=True,
    ),
    Calculator(
        key="heat_units",
        title="Heat units of a day",
        purpose="Growing degree days by both published ways.",
        inputs=(
            of("min", "Coldest", "temperature", ("6", "C"), ("43", "F")),
            of("max", "Warmest", "temperature", ("24", "C"), ("75", "F")),
            of("base", "Base, if not the crop's", "temperature", ("", "C"), ("", "F"), optional=True),
            of("upper", "Upper limit, if any", "temperature", ("", "C"), ("", "F"), optional=True),
        ),
        run=_heat,
        needs_crop=True,
    ),
    Calculator(
        key="sulphur",
        title="Sulphur beside nitrogen",
        purpose="A second nutrient by its ratio to the first, and the product that carries it.",
        inputs=(
            of("rate", "Nitrogen side-dressed", "mass_per_area", ("180", "kg/ha"), ("160", "lb/ac")),
            number("ratio", "Nitrogen to sulphur", "6"),
            percent("content", "Sulphur in the product", "24"),
        ),
        run=_ratio,
    ),
)
