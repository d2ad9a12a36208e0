"""Seeding rates: the many ways a rate is spoken, and what it means along a row.

Definitions. mass per area = seeds per area × thousand-seed weight / 1000. In-row spacing = 1 / (row
spacing × seeds per area); with inches and acres 6 272 640 / (width × rate), 6 272 640 being the square
inches of an acre. Seeds per length of row = row spacing × seeds per area, so at equal seeds per area
twice the width carries twice the seeds per length of row.

Equidistance: distance to the nearest neighbour ÷ what it would be if all plants stood as far apart as they can, on a
staggered grid of equal triangles with spacing √(2 ÷ (√3 × density)); a square grid reaches √(√3/2) = 0.931. Canopy
share: width a row's leaves span ÷ row spacing, at most the whole, when rows meet.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.units import HA_M2, find_unit, from_canonical, to_canonical
from cultrix_core.working import Step, Working

COUNT_UNITS = ("/m2", "k/ha", "/ha", "/ft2", "/ac", "k/ac")
MASS_UNITS = ("kg/ha", "lb/ac")
PLANT_UNITS = ("plants/m2", "kplants/ha", "plants/ft2", "plants/ac")
BAG_UNITS = ("bags/ha", "bags/ac")
RATE_UNITS = (*COUNT_UNITS, *MASS_UNITS, *PLANT_UNITS, *BAG_UNITS)


@dataclass(frozen=True, slots=True, kw_only=True)
class RowGeometry:
    """What a rate means along the row.

    ``squareness``: in-row spacing ÷ row spacing, 1 is a square. ``equidistance``: 0 to 1, see the module.
    """

    seeds_per_m2: float
    row_spacing_m: float
    seeds_per_m_row: float
    in_row_spacing_m: float
    squareness: float
    equidistance: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Lot:
    """What a rate needs to be spoken in other units; None where not known.

    ``emergence_frac`` is the share of seeds sown that is expected to come up; a germination test is not in it.
    """

    thousand_seed_weight_g: float | None = None
    emergence_frac: float | None = None
    seeds_in_bag: float | None = None


def seeds_per_m2(value: float, unit: str, *, thousand_seed_weight_g: float | None = None, lot: Lot | None = None) -> float:
    """A rate in any unit of ``COUNT_UNITS``, ``MASS_UNITS``, ``PLANT_UNITS`` or ``BAG_UNITS`` as seeds per m².

    Raises
    ------
    Refusal : ``not_positive``, ``needs_seed_weight``, ``needs_emergence``, ``needs_bag``, ``unknown_unit``.
    """
    require_positive(value, "seeding_rate")
    known = lot or Lot(thousand_seed_weight_g=thousand_seed_weight_g)
    if unit in MASS_UNITS:
        weight = known.thousand_seed_weight_g
        if weight is None:
            raise Refusal("needs_seed_weight", field="thousand_seed_weight", value=unit)
        require_positive(weight, "thousand_seed_weight", unit=" g")
        return to_canonical(value, "mass_per_area", unit) / 10 / weight * 1000
    if unit in PLANT_UNITS:
        if known.emergence_frac is None:
            raise Refusal("needs_emergence", field="emergence", value=unit)
        require_between(known.emergence_frac, 1e-6, 1, "emergence", label="Expected emergence")
        return to_canonical(value, "plant_density", unit) / known.emergence_frac
    if unit in BAG_UNITS:
        if known.seeds_in_bag is None:
            raise Refusal("needs_bag", field="bag_seeds", value=unit)
        require_positive(known.seeds_in_bag, "bag_seeds", label="Seeds in a bag")
        return to_canonical(value, "bag_density", unit) * known.seeds_in_bag / HA_M2
    return to_canonical(value, "areal_density", unit, field="seeding_rate")


def rate_in(rate_per_m2: float, unit: str, lot: Lot) -> float | None:
    """Seeds per m² in any unit a rate is spoken in; None where the lot does not tell. Inverse of ``seeds_per_m2``."""
    require_positive(rate_per_m2, "seeding_rate")
    if unit in MASS_UNITS:
        weight = lot.thousand_seed_weight_g
        return None if weight is None else from_canonical(rate_per_m2 * weight / 100, "mass_per_area", unit)
    if unit in PLANT_UNITS:
        share = lot.emergence_frac
        return None if share is None else from_canonical(rate_per_m2 * share, "plant_density", unit)
    if unit in BAG_UNITS:
        seeds = lot.seeds_in_bag
        return None if seeds is None else from_canonical(rate_per_m2 * HA_M2 / seeds, "bag_density", unit)
    return from_canonical(rate_per_m2, "areal_density", unit)


def kg_per_ha(seeds_per_m2: float, *, thousand_seed_weight_g: float) -> float:
    """Seed mass sown, kg/ha, from seeds per m² and thousand-seed weight in g."""
    require_positive(seeds_per_m2, "seeding_rate")
    require_positive(thousand_seed_weight_g, "thousand_seed_weight", unit=" g")
    return seeds_per_m2 * thousand_seed_weight_g / 1000 * 10


def row_geometry(*, seeds_per_m2: float, row_spacing_m: float) -> RowGeometry:
    """Seeds per length of row and in-row spacing of a rate at a row spacing."""
    require_positive(seeds_per_m2, "seeding_rate")
    require_positive(row_spacing_m, "row_spacing")
    per_m = seeds_per_m2 * row_spacing_m
    return RowGeometry(
        seeds_per_m2=seeds_per_m2,
        row_spacing_m=row_spacing_m,
        seeds_per_m_row=per_m,
        in_row_spacing_m=1 / per_m,
        squareness=1 / per_m / row_spacing_m,
        equidistance=min(1 / per_m, row_spacing_m) / sqrt(2 / (sqrt(3) * seeds_per_m2)),
    )


def canopy_share(*, leaf_span_m: float, row_spacing_m: float) -> float:
    """Share of the ground under leaves that span ``leaf_span_m`` across the row; 1 once rows meet."""
    require_positive(leaf_span_m, "leaf_span", label="Width of the leaves across the row")
    require_positive(row_spacing_m, "row_spacing", label="Row spacing")
    return min(1.0, leaf_span_m / row_spacing_m)


def row_geometry_working(geometry: RowGeometry, show: UnitFormatter) -> Working:
    """The working of ``row_geometry`` in the reader's units."""
    per_row = show.text(geometry.seeds_per_m_row, "linear_density")
    return Working(
        title="Seeds along the row",
        outcome=f"{per_row}, one every {show.text(geometry.in_row_spacing_m, 'in_row_spacing')}",
        steps=(
            Step(
                label="Seeds per length of row",
                formula="seeds per area × row spacing",
                numbers=f"{show.text(geometry.seeds_per_m2, 'density')} × {show.text(geometry.row_spacing_m, 'row_spacing')}",
                outcome=per_row,
                source="definition",
            ),
            Step(
                label="Spacing in the row",
                formula="1 ÷ seeds per length of row",
                numbers=f"1 ÷ {per_row}",
                outcome=show.text(geometry.in_row_spacing_m, "in_row_spacing"),
                source="definition",
            ),
            Step(
                label="Shape of the space per seed",
                formula="spacing in the row ÷ row spacing",
                numbers=f"{show.text(geometry.in_row_spacing_m, 'in_row_spacing')} ÷ "
                f"{show.text(geometry.row_spacing_m, 'row_spacing')}",
                outcome=f"1 : {1 / geometry.squareness:.1f}",
                source="definition",
            ),
            Step(
                label="Evenness of the space",
                formula="nearest neighbour ÷ spacing of a staggered grid with as many plants",
                numbers=f"{show.text(min(geometry.in_row_spacing_m, geometry.row_spacing_m), 'in_row_spacing')} ÷ "
                f"{show.text(sqrt(2 / (sqrt(3) * geometry.seeds_per_m2)), 'in_row_spacing')}",
                outcome=f"{geometry.equidistance:.2f} (a square grid has 0.93)",
                source="definition",
            ),
        ),
        assumption="Every seed falls singly and the rate is what the drill really delivered.",
    )


def rate_dimension(unit: str) -> str:
    """Dimension of a unit a rate is spoken in."""
    for units, dimension in ((MASS_UNITS, "mass_per_area"), (PLANT_UNITS, "plant_density"), (BAG_UNITS, "bag_density")):
        if unit in units:
            return dimension
    return "areal_density"


def rate_table(rate_per_m2: float, lot: Lot) -> tuple[tuple[str, str], ...]:
    """A rate in every unit the lot allows: (label of the unit, number with four figures)."""
    rows = []
    for unit in RATE_UNITS:
        value = rate_in(rate_per_m2, unit, lot)
        if value is not None:
            decimals = max(0, 3 - len(str(int(value)))) if value >= 1 else 3
            rows.append((find_unit(rate_dimension(unit), unit).label, format_number(value, decimals)))
    return tuple(rows)


def rate_working(rate_per_m2: float, lot: Lot, show: UnitFormatter) -> Working:
    """The working of ``rate_table``."""
    text = show.text(rate_per_m2, "density")
    return Working(
        title="A rate in every unit",
        outcome=text,
        steps=tuple(
            Step(
                label=label, formula="seeds per area, converted", numbers=text, outcome=f"{number} {label}", source="definition"
            )
            for label, number in rate_table(rate_per_m2, lot)
        ),
        assumption="Seed weight, expected emergence and seeds in a bag are the lot's own.",
    )
