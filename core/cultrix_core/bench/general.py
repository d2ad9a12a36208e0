"""Calculators of rows, rates, beds, money, loads and yield from its components."""

from __future__ import annotations

from functools import partial

from cultrix_core.bench.inputs import Calculator, Values, number, of, percent, whole
from cultrix_core.economics.break_even import break_even, break_even_working
from cultrix_core.estimate import components
from cultrix_core.harvest.loads import strip_yield, yield_working
from cultrix_core.seeding.grids import grid_working, planting_grid
from cultrix_core.seeding.rates import Lot, rate_working, row_geometry, row_geometry_working
from cultrix_core.showing import Shower, format_number
from cultrix_core.stand.row_lengths import count_on_rows, count_working, tape_working, thousandth_length
from cultrix_core.units import ACRE_M2, LB_KG
from cultrix_core.working import Step, Working

ROW_SPACING = of("row_spacing", "Row spacing", "length", ("75", "cm"), ("30", "in"))


def _row_length(values: Values, show: Shower) -> Working:
    tape = thousandth_length(values["row_spacing"], system=show.system, rows=whole(values, "rows"))
    return tape_working(tape, values["row_spacing"], show)


def _stand(values: Values, show: Shower) -> Working:
    rows = whole(values, "rows")
    count = count_on_rows(whole(values, "plants"), length_m=values["length"], rows=rows, row_spacing_m=values["row_spacing"])
    how = (
        f"{show.text(values['length'], 'tape_length')} × {rows} row{'s' if rows != 1 else ''} × "
        f"{show.text(values['row_spacing'], 'row_spacing')}"
    )
    return count_working(count, how, show)


def _along_the_row(values: Values, show: Shower) -> Working:
    geometry = row_geometry(seeds_per_m2=values["rate"], row_spacing_m=values["row_spacing"])
    return row_geometry_working(geometry, show)


def _difference(values: Values, show: Shower) -> Working:
    result = break_even(
        extra_cost_per_ha=values["extra_cost"], price_per_t=values["price"], unit_cost_per_t=values["unit_cost"]
    )
    return break_even_working(result, show)


def _load(values: Values, show: Shower) -> Working:
    result = strip_yield(
        net_kg=values["net"],
        swath_width_m=values["swath_width"],
        length_m=values["length"],
        moisture_pct=values["moisture"],
        standard_moisture_pct=values["standard_moisture"],
    )
    return yield_working(
        result, show, gross_kg=None, tare_kg=None, swath_width_m=values["swath_width"], length_m=values["length"]
    )


def _ears_acre(values: Values, show: Shower) -> Working:
    result = components.ears_bu_per_ac(
        ears_in_thousandth=values["ears"],
        kernel_rows=values["kernel_rows"],
        kernels_per_row=values["kernels_per_row"],
        factor=values["factor"],
    )
    numbers = " × ".join(f"{values[name]:g}" for name in ("ears", "kernel_rows", "kernels_per_row", "factor"))
    low, high = (result / values["factor"] * factor for factor in (0.009, 0.013))
    return Working(
        title="Maize by ears in 1/1000 acre",
        outcome=f"{format_number(result, 1)} bu/ac",
        steps=(
            Step(
                label="Yield",
                formula="ears × kernel rows × kernels per row × factor",
                numbers=numbers,
                outcome=f"{format_number(result, 1)} bu/ac",
                source="definition",
            ),
            Step(
                label="Kernels in a bushel at this factor",
                formula="1000 ÷ factor",
                numbers=f"1000 ÷ {values['factor']:g}",
                outcome=format_number(components.kernels_per_bushel(values["factor"]), 0),
            ),
            Step(
                label="Stressed to excellent grain",
                formula="the same with 0.009 and 0.013",
                numbers=show.text(low * 56 * LB_KG / ACRE_M2 * 1e4, "yield_by_weight"),
                outcome=f"{format_number(low, 0)} to {format_number(high, 0)} bu/ac",
                source="common practice, no source",
            ),
        ),
        assumption="The factor: grain weight alone moves the answer by 40 %. Ears must be drawn blindly, not picked.",
    )


def _ears_metric(values: Values, show: Shower) -> Working:
    result = components.ears_kg_per_ha(
        ears_per_ha=values["ears"] * 1e4, kernels_per_ear=values["kernels"], thousand_kernel_weight_g=values["weight"]
    )
    return _product(
        "Maize by ears",
        "ears per area × kernels per ear × thousand-kernel weight",
        result,
        show,
        (show.text(values["ears"], "density_sparse"), f"{values['kernels']:g}", show.text(values["weight"], "seed_mass")),
        "Yield stands at the moisture of the weighed kernels.",
    )


def _heads(values: Values, show: Shower) -> Working:
    result = components.heads_kg_per_ha(
        heads_per_m2=values["heads"], seeds_per_head=values["seeds"], thousand_seed_weight_g=values["weight"]
    )
    return _product(
        "Cereals and sorghum by heads",
        "heads per area × seeds per head × thousand-seed weight",
        result,
        show,
        (show.text(values["heads"], "density_dense"), f"{values['seeds']:g}", show.text(values["weight"], "seed_mass")),
        "Heads counted on drawn places; small late heads count too.",
    )


def _discs(values: Values, show: Shower) -> Working:
    seeds = components.disc_seeds(
        diameter_cm=values["diameter"] * 100, empty_centre_cm=values["empty_centre"] * 100, filled_per_cm2=values["filled"]
    )
    result = components.heads_kg_per_ha(
        heads_per_m2=values["heads"], seeds_per_head=seeds, thousand_seed_weight_g=values["weight"]
    )
    base = _product(
        "Sunflower by discs",
        "heads per area × seeds per head × thousand-seed weight",
        result,
        show,
        (show.text(values["heads"], "density_sparse"), format_number(seeds, 0), show.text(values["weight"], "seed_mass")),
        "Filled seeds per cm², counted on these discs: the empty centre is taken off as a circle.",
    )
    numbers = f"π/4 × ({values['diameter'] * 100:g}² − {values['empty_centre'] * 100:g}²) cm² × {values['filled']:g}"
    disc = Step(
        label="Filled seeds per head",
        formula="π/4 × (D² − d²) × filled seeds per cm²",
        numbers=numbers,
        outcome=format_number(seeds, 0),
        source="definition",
    )
    return Working(title=base.title, outcome=base.outcome, steps=(disc, *base.steps), assumption=base.assumption)


def _product(title: str, formula: str, result: float, show: Shower, parts: tuple[str, ...], assumption: str) -> Working:
    outcome = show.text(result, "yield_by_weight", decimals=2 if show.system == "metric" else 0)
    return Working(
        title=title,
        outcome=outcome,
        assumption=assumption,
        steps=(Step(label="Yield", formula=formula, numbers=" × ".join(parts), outcome=outcome, source="definition"),),
    )


def _pods(values: Values, show: Shower) -> Working:
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


_WEIGHT = of("weight", "Thousand-seed weight", "seed_mass", ("280", "g/1000"), ("1620", "seeds/lb"))


def _rate(values: Values, show: Shower) -> Working:
    lot = Lot(
        thousand_seed_weight_g=values["weight"], emergence_frac=values["emergence"] / 100, seeds_in_bag=values["bag_seeds"]
    )
    return rate_working(values["rate"], lot, show)


def _bed(values: Values, show: Shower, *, staggered: bool) -> Working:
    width, length = values["width"], values["length"]
    grid = planting_grid(
        width_m=width,
        length_m=length,
        spacing_m=values["spacing"],
        staggered=staggered,
        edge_rows=whole(values, "edge_rows"),
    )
    return grid_working(grid, show, width_m=width, length_m=length, staggered=staggered)


_BED = (
    of("width", "Width of the bed", "length", ("1.2", "m"), ("48", "in")),
    of("length", "Length of the bed", "length", ("4", "m"), ("14", "ft")),
    of("spacing", "Plant to plant", "length", ("12", "cm"), ("5", "in")),
    number("edge_rows", "Edge rows not counted", "1"),
)


CALCULATORS: tuple[Calculator, ...] = (
    Calculator(
        key="row_length",
        title="Row length for a count",
        run=_row_length,
        purpose="How long a row holds 1/1000 of an acre or hectare, exactly and on the tape.",
        inputs=(ROW_SPACING, number("rows", "Rows counted", "1")),
    ),
    Calculator(
        key="stand",
        title="Stand from a row count",
        run=_stand,
        purpose="Plants on any length of any number of rows, as plants per area.",
        inputs=(
            number("plants", "Plants counted", "31"),
            of("length", "Length of row", "length", ("5", "m"), ("17.42", "ft")),
            number("rows", "Rows counted", "1"),
            ROW_SPACING,
        ),
    ),
    Calculator(
        key="along_the_row",
        title="Seeds along the row",
        run=_along_the_row,
        purpose="What a rate means in the furrow when the row spacing changes.",
        inputs=(of("rate", "Seeding rate", "areal_density", ("80", "k/ha"), ("32000", "/ac")), ROW_SPACING),
    ),
    Calculator(
        key="rate",
        title="A rate in every unit",
        run=_rate,
        purpose="Seeds, weight, plants wanted and bags: one rate in all the ways it is spoken.",
        inputs=(
            of("rate", "Seeding rate", "areal_density", ("320", "/m2"), ("1300000", "/ac")),
            of("weight", "Thousand-seed weight", "seed_mass", ("44", "g/1000"), ("10300", "seeds/lb")),
            percent("emergence", "Seeds expected up", "80"),
            number("bag_seeds", "Seeds in a bag", "500000"),
        ),
    ),
    Calculator(
        key="bed_square",
        title="Planting grid, square",
        run=partial(_bed, staggered=False),
        purpose="Positions in a bed on a square grid, a spacing free on every side.",
        inputs=_BED,
    ),
    Calculator(
        key="bed_staggered",
        title="Planting grid, staggered",
        run=partial(_bed, staggered=True),
        purpose="Every other row shifted by half a spacing: 15 % more plants at the same distance.",
        inputs=_BED,
    ),
    Calculator(
        key="break_even",
        needs_crop=True,
        title="Difference that matters",
        run=_difference,
        purpose="The yield gain that pays for an extra cost.",
        inputs=(
            of("extra_cost", "Extra cost", "money_per_area", ("45", "money/ha"), ("18", "money/ac")),
            of("price", "Price", "price", ("210", "money/t"), ("9.00", "money/bu")),
            of("unit_cost", "Drying, hauling per unit", "price", ("12", "money/t"), ("0.30", "money/bu")),
        ),
    ),
    Calculator(
        key="load",
        needs_crop=True,
        title="Yield from a load",
        run=_load,
        purpose="A weighed load at standard moisture.",
        inputs=(
            of("net", "Net weight", "mass", ("1840", "kg"), ("4060", "lb")),
            of("swath_width", "Swath width", "length", ("6", "m"), ("20", "ft")),
            of("length", "Length cut", "length", ("380", "m"), ("1250", "ft")),
            percent("moisture", "Moisture", "18.2"),
            percent("standard_moisture", "Standard moisture", "15.5"),
        ),
    ),
    Calculator(
        key="heads",
        title="Cereals and sorghum by heads",
        run=_heads,
        purpose="Heads per area, seeds per head, seed weight.",
        inputs=(
            of("heads", "Heads per area", "areal_density", ("400", "/m2"), ("37", "/ft2")),
            number("seeds", "Seeds per head", "35"),
            of("weight", "Thousand-seed weight", "seed_mass", ("42", "g/1000"), ("10800", "seeds/lb")),
        ),
    ),
    Calculator(
        key="ears_acre",
        title="Maize by ears, 1/1000 acre",
        run=_ears_acre,
        purpose="Ears, kernel rows, kernels per row and the weight factor.",
        inputs=(
            number("ears", "Ears in 1/1000 acre", "30"),
            number("kernel_rows", "Kernel rows, mean", "16"),
            number("kernels_per_row", "Kernels per row, mean", "34"),
            number("factor", "Weight factor", "0.01116"),
        ),
    ),
    Calculator(
        key="ears_metric",
        title="Maize by ears, per hectare",
        run=_ears_metric,
        purpose="Ears per area, kernels per ear, thousand-kernel weight.",
        inputs=(
            of("ears", "Ears per area", "areal_density", ("75", "k/ha"), ("30", "k/ac")),
            number("kernels", "Kernels per ear, mean of ears", "544"),
            _WEIGHT,
        ),
    ),
    Calculator(
        key="pods",
        title="Soybean by pods, 1/10 000 acre",
        run=_pods,
        purpose="Pods, seeds per pod and seed size.",
        inputs=(
            number("pods", "Pods in 1/10 000 acre", "420"),
            number("seeds_per_pod", "Seeds per pod", "2.4"),
            number("seeds_per_lb", "Seeds per pound", "2800"),
        ),
    ),
    Calculator(
        key="discs",
        title="Sunflower by discs",
        run=_discs,
        purpose="Disc size less the empty centre, seeds per cm² and seed weight.",
        inputs=(
            of("heads", "Heads per area", "areal_density", ("55", "k/ha"), ("22", "k/ac")),
            of("diameter", "Disc diameter", "length", ("18", "cm"), ("7", "in")),
            of("empty_centre", "Empty centre", "length", ("4", "cm"), ("1.5", "in")),
            number("filled", "Filled seeds per cm²", "6"),
            of("weight", "Thousand-seed weight", "seed_mass", ("50", "g/1000"), ("9000", "seeds/lb")),
        ),
    ),
)
