"""Calculators of yield in the handbooks' own forms: acre methods, grain and test weight, residue, mixtures."""

from __future__ import annotations

from cultrix_core.calculators.estimate import rows_of
from cultrix_core.calculators.inputs import Calculator, Values, number, of, percent, whole
from cultrix_core.crops import crop
from cultrix_core.crops.grain import EAR_FACTORS
from cultrix_core.errors import Refusal, require_between
from cultrix_core.estimate import components
from cultrix_core.estimate.forage import Yielded, land_equivalent_ratio, residue_used_frac
from cultrix_core.estimate.grain_weight import (
    WeighedGrain,
    factor_to_thousand_weight_g,
    thousand_weight_g,
    thousand_weight_to_factor,
)
from cultrix_core.estimate.workings import land_working
from cultrix_core.estimate.workings import percent as as_percent
from cultrix_core.harvest.hectolitre_weight import kg_per_hl
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.units import ACRE_M2, BUSHEL_HL, LB_KG
from cultrix_core.working import Step, Working


def _residue(values: Values, show: UnitFormatter) -> Working:
    before, after = values["before"], values["after"]
    used = residue_used_frac(before=before, after=after)
    return Working(
        title="Residue before and after grazing",
        outcome=f"{as_percent(used)} used or lost",
        steps=(
            Step(
                label="Used or lost",
                formula="(before − after) ÷ before, both dry matter",
                numbers=f"({show.text(before, 'yield_by_weight')} − {show.text(after, 'yield_by_weight')}) ÷ before",
                outcome=f"{as_percent(used)} used or lost, {show.text(before - after, 'yield_by_weight')}",
                source="definition",
            ),
        ),
        assumption="Both cuts from drawn places. Trampling and wind take a share that no animal ate. Turn stock onto stubble "
        "slowly: grain overload kills.",
    )


def _land(values: Values, show: UnitFormatter) -> Working:
    yields = [values[key] for key in ("mixed_main", "alone_main", "mixed_companion", "alone_companion")]
    ratio = land_equivalent_ratio(
        mixed_main=Yielded(mean=yields[0]),
        alone_main=Yielded(mean=yields[1]),
        mixed_companion=Yielded(mean=yields[2]),
        alone_companion=Yielded(mean=yields[3]),
    )
    return land_working(ratio, show, yields)


def _grain(values: Values, show: UnitFormatter) -> Working:
    profile = crop(values["crop"])
    sample = WeighedGrain(seeds=whole(values, "seeds"), mass_g=1000 * values["mass"], moisture_pct=values["moisture"])
    weight = thousand_weight_g(sample, standard_moisture_pct=profile.standard_moisture_pct)
    steps = [
        Step(
            label="As weighed",
            formula="weight ÷ seeds × 1000",
            numbers=f"{show.text(values['mass'], 'catch')} ÷ {sample.seeds} × 1000",
            outcome=show.text(1000 * sample.mass_g / sample.seeds, "seed_mass"),
            source="definition",
        )
    ]
    if sample.moisture_pct is not None and profile.standard_moisture_pct is not None:
        steps.append(
            Step(
                label="At standard moisture",
                formula="× (100 − moisture) ÷ (100 − standard)",
                numbers=f"(100 − {sample.moisture_pct:g}) ÷ (100 − {profile.standard_moisture_pct:g})",
                outcome=show.text(weight, "seed_mass"),
                source="dry matter kept",
            )
        )
    steps.append(_spoken(weight, profile.bushel_kg))
    return Working(
        title="Grain weight from a sample",
        outcome=show.text(weight, "seed_mass"),
        steps=tuple(steps),
        assumption="The seeds counted are a fair handful: not the plump ones, not the screenings left out.",
    )


def _spoken(weight_g: float, bushel_kg: float | None) -> Step:
    per_lb = f"{format_number(1000 * LB_KG * 1000 / weight_g, 0)} seeds/lb"
    if bushel_kg is None:
        return Step(label="Spoken otherwise", formula="seeds per pound", numbers="453.59 g ÷ weight of one", outcome=per_lb)
    factor = thousand_weight_to_factor(weight_g, bushel_kg=bushel_kg)
    return Step(
        label="Spoken otherwise",
        formula="factor = weight of 1000 ÷ (bushel in kg × 1000); kernels in a bushel = 1000 ÷ factor",
        numbers=f"{format_number(weight_g, 1)} g ÷ ({format_number(bushel_kg, 3)} × 1000)",
        outcome=f"factor {factor:.5f}, {format_number(components.kernels_per_bushel(factor), 0)} kernels in a bushel, {per_lb}",
        source="definition",
    )


def _factor(values: Values, show: UnitFormatter) -> Working:
    bushel = crop(values["crop"]).bushel_kg
    if bushel is None:
        raise Refusal("not_for_crop", field="crop", label="A factor", value=values["crop"], remedy="It has no bushel weight.")
    factor = require_between(values["factor"], 0.001, 0.2, "factor", label="Weight factor")
    weight = factor_to_thousand_weight_g(factor, bushel_kg=bushel)
    return Working(
        title="Factor of the ear method",
        outcome=show.text(weight, "seed_mass"),
        steps=(
            Step(
                label="Weight",
                formula="bushel in kg × 1000 × factor",
                numbers=f"{format_number(bushel, 3)} × 1000 × {factor:g}",
                outcome=show.text(weight, "seed_mass"),
                source="definition",
            ),
            _spoken(weight, bushel),
        ),
        assumption="Stressed 0.009, usual about 0.011, excellent 0.013 in maize: common practice, no source.",
    )


def _test_weight(values: Values, show: UnitFormatter) -> Working:  # noqa: ARG001 - every calculator is given the reader's units
    given = require_between(values["test_weight"], 1, 120, "test_weight", label="Test weight")
    metric = kg_per_hl(given)
    return Working(
        title="Test weight",
        outcome=f"{format_number(metric, 1)} kg/hL",
        steps=(
            Step(
                label="Test weight",
                formula="lb/bu × 0.45359237 kg ÷ 0.3523907 hL",
                numbers=f"{given:g} × {format_number(LB_KG, 4)} ÷ {format_number(BUSHEL_HL, 4)}",
                outcome=f"{format_number(metric, 1)} kg/hL",
                source="bushel of 2150.42 in³, definition",
            ),
        ),
        assumption="Measured on the grain as it was weighed: test weight rises as grain dries.",
    )


def _ears_acre(values: Values, show: UnitFormatter) -> Working:
    rows, lengths = values["kernel_rows"], values["kernels_per_row"]
    pieces = rows_of({"kernel_rows": rows, "kernels_per_row": lengths})
    kernels = [(piece["kernel_rows"] or 0) * (piece["kernels_per_row"] or 0) for piece in pieces]
    mean = sum(kernels) / len(kernels)
    result = components.ears_bu_per_ac(
        ears_in_thousandth=values["ears"], kernel_rows=mean, kernels_per_row=1.0, factor=values["factor"]
    )
    low, high = (result / values["factor"] * factor for factor in (EAR_FACTORS[0], EAR_FACTORS[2]))
    each = " and ".join(f"{piece['kernel_rows']:g} × {piece['kernels_per_row']:g}" for piece in pieces[:3])
    return Working(
        title="Maize by ears in 1/1000 acre",
        outcome=f"{format_number(result, 1)} bu/ac",
        steps=(
            Step(
                label="Kernels on an ear",
                formula="kernel rows × kernels per row of each ear, then the mean",
                numbers=each + (" and so on" if len(pieces) > 3 else ""),
                outcome=format_number(mean, 1),
                source="definition",
            ),
            Step(
                label="Yield",
                formula="ears × kernels per ear × factor",
                numbers=f"{values['ears']:g} × {format_number(mean, 1)} × {values['factor']:g}",
                outcome=f"{format_number(result, 1)} bu/ac",
                source="definition",
            ),
            Step(
                label="Kernels in a bushel at this factor",
                formula="1000 ÷ factor",
                numbers=f"1000 ÷ {values['factor']:g}",
                outcome=format_number(components.kernels_per_bushel(values["factor"]), 0),
                source="definition",
            ),
            Step(
                label="Stressed to excellent grain",
                formula=f"the same with {EAR_FACTORS[0]:g} and {EAR_FACTORS[2]:g}",
                numbers=show.text(low * 56 * LB_KG / ACRE_M2 * 1e4, "yield_by_weight"),
                outcome=f"{format_number(low, 0)} to {format_number(high, 0)} bu/ac",
                source="common practice, no source",
            ),
        ),
        assumption="The factor: grain weight alone moves the answer by 40 %. Ears must be drawn blindly, not picked.",
    )


def _pods_acre(values: Values, show: UnitFormatter) -> Working:
    result = components.pods_bu_per_ac(
        pods_in_ten_thousandth=values["pods"], seeds_per_pod=values["seeds_per_pod"], seeds_per_lb=values["seeds_per_lb"]
    )
    divisor = values["seeds_per_lb"] * components.POUNDS_PER_BUSHEL_OF_PODS_CROP / 1e4
    outcome = f"{format_number(result, 1)} bu/ac"
    metric = show.text(result * 60 * LB_KG / ACRE_M2 * 1e4, "yield_by_weight")
    return Working(
        title="Soybean by pods in 1/10 000 acre",
        outcome=outcome,
        steps=(
            Step(
                label="Seeds in 1/10 000 of a bushel's acre",
                formula="seeds per lb × 60 ÷ 10 000",
                numbers=f"{values['seeds_per_lb']:g} × 60 ÷ 10 000",
                outcome=f"{divisor:g}",
                source="definition",
            ),
            Step(
                label="Yield",
                formula="pods × seeds per pod ÷ divisor",
                numbers=f"{values['pods']:g} × {values['seeds_per_pod']:g} ÷ {divisor:g}",
                outcome=f"{outcome} ({metric})",
                source="common practice, no source",
            ),
        ),
        assumption="Seeds per pod counted on this field (2.2–2.8 is usual), at least 8 plants, pods of 1 in or more.",
    )


CALCULATORS: tuple[Calculator, ...] = (
    Calculator(
        key="ears_acre",
        title="Ears in 1/1000 acre",
        purpose="The handbook's way, in bushels, with its range of factors.",
        inputs=(
            number("ears", "Ears in 1/1000 acre", "30"),
            number("kernel_rows", "Kernel rows, ear by ear", "16", several=True),
            number("kernels_per_row", "Kernels in a row, ear by ear", "34", several=True),
            number("factor", "Weight factor", "0.01116"),
        ),
        run=_ears_acre,
    ),
    Calculator(
        key="pods",
        title="Pods in 1/10 000 acre",
        purpose="The handbook's way, in bushels.",
        inputs=(
            number("pods", "Pods in 1/10 000 acre", "420"),
            number("seeds_per_pod", "Seeds per pod", "2.4"),
            number("seeds_per_lb", "Seeds per lb", "2800"),
        ),
        run=_pods_acre,
    ),
    Calculator(
        key="residue",
        title="Residue before and after grazing",
        purpose="What stock used or trampled, in dry matter.",
        inputs=(
            of("before", "Before, dry matter", "mass_per_area", ("6400", "kg/ha"), ("5700", "lb/ac")),
            of("after", "After, dry matter", "mass_per_area", ("4300", "kg/ha"), ("3800", "lb/ac")),
        ),
        run=_residue,
    ),
    Calculator(
        key="land_equivalent",
        title="Land-equivalent ratio",
        purpose="Whether two crops together make more of the land than side by side.",
        inputs=(
            of("mixed_main", "Main crop in the mixture", "mass_per_area", ("9.1", "t/ha"), ("8100", "lb/ac")),
            of("alone_main", "Main crop alone", "mass_per_area", ("11.8", "t/ha"), ("10500", "lb/ac")),
            of("mixed_companion", "Companion in the mixture", "mass_per_area", ("1.9", "t/ha"), ("1700", "lb/ac")),
            of("alone_companion", "Companion alone", "mass_per_area", ("4.6", "t/ha"), ("4100", "lb/ac")),
        ),
        run=_land,
    ),
    Calculator(
        key="grain_weight",
        title="Grain weight from a sample",
        purpose="Counted, weighed, brought to standard moisture; in all three ways of speaking.",
        inputs=(
            number("seeds", "Seeds counted", "500"),
            of("mass", "Their weight", "mass", ("22.4", "g"), ("0.79", "oz")),
            percent("moisture", "Moisture", "18", optional=True),
        ),
        run=_grain,
        needs_crop=True,
    ),
    Calculator(
        key="factor",
        title="Factor to grain weight",
        purpose="The ear method's factor as grams per 1000, kernels in a bushel and seeds per pound.",
        inputs=(number("factor", "Weight factor", "0.0112"),),
        run=_factor,
        needs_crop=True,
    ),
    Calculator(
        key="test_weight",
        title="Test weight",
        purpose="Pounds a bushel as kilograms a hectolitre.",
        inputs=(number("test_weight", "Test weight, lb/bu", "60"),),
        run=_test_weight,
    ),
)
