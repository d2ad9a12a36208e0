"""Calculators of rows, rates, beds, money and loads."""

from __future__ import annotations

from functools import partial

from cultrix_core.calculators.inputs import Calculator, Values, number, of, percent, whole
from cultrix_core.economics.break_even import break_even, break_even_working
from cultrix_core.harvest.loads import strip_yield, yield_working
from cultrix_core.seeding.grids import grid_working, planting_grid
from cultrix_core.seeding.rates import Lot, rate_working, row_geometry, row_geometry_working
from cultrix_core.stand.row_lengths import count_on_rows, count_working, tape_working, thousandth_length
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.working import Working

ROW_SPACING = of("row_spacing", "Row spacing", "length", ("75", "cm"), ("30", "in"))


def _row_length(values: Values, show: UnitFormatter) -> Working:
    tape = thousandth_length(values["row_spacing"], system=show.system, rows=whole(values, "rows"))
    return tape_working(tape, values["row_spacing"], show)


def _stand(values: Values, show: UnitFormatter) -> Working:
    rows = whole(values, "rows")
    count = count_on_rows(whole(values, "plants"), length_m=values["length"], rows=rows, row_spacing_m=values["row_spacing"])
    how = (
        f"{show.text(values['length'], 'tape_length')} × {rows} row{'s' if rows != 1 else ''} × "
        f"{show.text(values['row_spacing'], 'row_spacing')}"
    )
    return count_working(count, how, show)


def _along_the_row(values: Values, show: UnitFormatter) -> Working:
    geometry = row_geometry(seeds_per_m2=values["rate"], row_spacing_m=values["row_spacing"])
    return row_geometry_working(geometry, show)


def _difference(values: Values, show: UnitFormatter) -> Working:
    result = break_even(
        extra_cost_per_ha=values["extra_cost"], price_per_t=values["price"], unit_cost_per_t=values["unit_cost"]
    )
    return break_even_working(result, show)


def _load(values: Values, show: UnitFormatter) -> Working:
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


def _rate(values: Values, show: UnitFormatter) -> Working:
    lot = Lot(
        thousand_seed_weight_g=values["weight"], emergence_frac=values["emergence"] / 100, seeds_in_bag=values["bag_seeds"]
    )
    return rate_working(values["rate"], lot, show)


def _bed(values: Values, show: UnitFormatter, *, staggered: bool) -> Working:
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
)
