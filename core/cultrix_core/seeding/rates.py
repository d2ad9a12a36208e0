"""Seeding rates: the many ways a rate is spoken, and what it means along a row.

Definitions. mass per area = seeds per area × thousand-seed weight / 1000. In-row spacing = 1 / (row
spacing × seeds per area); with inches and acres 6 272 640 / (width × rate), 6 272 640 being the square
inches of an acre. Seeds per length of row = row spacing × seeds per area, so at equal seeds per area
twice the width carries twice the seeds per length of row.
"""

from __future__ import annotations

from dataclasses import dataclass

from cultrix_core.errors import Refusal, require_positive
from cultrix_core.showing import Shower
from cultrix_core.units import to_canonical
from cultrix_core.working import Step, Working

COUNT_UNITS = ("/m2", "k/ha", "/ha", "/ft2", "/ac", "k/ac")
MASS_UNITS = ("kg/ha", "lb/ac")


@dataclass(frozen=True, slots=True, kw_only=True)
class RowGeometry:
    """What a rate means along the row. ``squareness``: in-row spacing ÷ row spacing, 1 is a square."""

    seeds_per_m2: float
    row_spacing_m: float
    seeds_per_m_row: float
    in_row_spacing_m: float
    squareness: float


def seeds_per_m2(value: float, unit: str, *, thousand_seed_weight_g: float | None = None) -> float:
    """A rate in any unit of ``COUNT_UNITS`` or ``MASS_UNITS`` as seeds per m².

    Raises
    ------
    Refusal : ``not_positive``, ``needs_seed_weight``, ``unknown_unit``.
    """
    require_positive(value, "seeding_rate")
    if unit in MASS_UNITS:
        if thousand_seed_weight_g is None:
            raise Refusal("needs_seed_weight", field="thousand_seed_weight", value=unit)
        require_positive(thousand_seed_weight_g, "thousand_seed_weight", unit=" g")
        grams_per_m2 = to_canonical(value, "mass_per_area", unit) / 10
        return grams_per_m2 / thousand_seed_weight_g * 1000
    return to_canonical(value, "areal_density", unit, field="seeding_rate")


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
    )


def row_geometry_working(geometry: RowGeometry, show: Shower) -> Working:
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
        ),
        assumption="Every seed falls singly and the rate is what the drill really delivered.",
    )
