"""Planting grids of small plots: how many plants a bed holds, square or staggered, and without its edge rows.

Square: positions k·s from one corner. Staggered (hexagonal): every other row shifted by half a spacing, rows
s·√3/2 apart, so that each plant has six neighbours at distance s and density rises by 2/√3. Definitions.

``rule`` says how close to an edge a line may stand: ``from_corner`` takes lines at s, 2s, … short of the far
edge; ``free_edges`` keeps a whole spacing free on every side, lines at s, 2s, … with
k·s ≤ size − s.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil, floor, sqrt
from typing import Literal

from cultrix_core.errors import require_between, require_positive
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.working import Step, Working

Rule = Literal["from_corner", "free_edges"]
ROW_FACTOR = sqrt(3) / 2
_SLACK = 1e-9


@dataclass(frozen=True, slots=True, kw_only=True)
class Grid:
    """Rows of positions, ``per_row`` in each; ``counted`` leaves the edge rows and end plants out."""

    spacing_m: float
    row_distance_m: float
    per_row: tuple[int, ...]
    edge_rows: int
    counted: int

    @property
    def positions(self) -> int:
        return sum(self.per_row)


def planting_grid(
    *, width_m: float, length_m: float, spacing_m: float, staggered: bool = False, rule: Rule = "free_edges", edge_rows: int = 0
) -> Grid:
    """Positions of a grid on a bed ``width_m`` × ``length_m``.

    Raises
    ------
    Refusal : ``not_positive`` sizes, ``too_large`` edge rows.
    """
    require_positive(width_m, "width", unit=" m")
    require_positive(length_m, "length", unit=" m")
    require_positive(spacing_m, "spacing", unit=" m")
    require_between(edge_rows, 0, 20, "edge_rows", label="Edge rows")
    distance = spacing_m * (ROW_FACTOR if staggered else 1.0)
    rows = _lines(length_m, distance, spacing_m, rule, 0.0)
    per_row = tuple(
        _lines(width_m, spacing_m, spacing_m, rule, spacing_m / 2 if staggered and row % 2 else 0.0) for row in range(rows)
    )
    inner = per_row[edge_rows : len(per_row) - edge_rows] if edge_rows else per_row
    counted = sum(max(count - 2 * edge_rows, 0) for count in inner)
    return Grid(spacing_m=spacing_m, row_distance_m=distance, per_row=per_row, edge_rows=edge_rows, counted=counted)


def _lines(size: float, step: float, edge: float, rule: Rule, shift: float) -> int:
    if rule == "from_corner":
        return max(0, ceil((size - shift) / step - _SLACK) - 1)
    room = size - 2 * edge - shift
    return 0 if room < -_SLACK else floor(room / step + _SLACK) + 1


def grid_working(grid: Grid, show: UnitFormatter, *, width_m: float, length_m: float, staggered: bool) -> Working:
    """The working of ``planting_grid`` in the reader's units."""
    area = width_m * length_m
    rows = len(grid.per_row)
    each = f"{min(grid.per_row)} to {max(grid.per_row)}" if rows and min(grid.per_row) != max(grid.per_row) else ""
    steps = [
        Step(
            label="Rows",
            formula="spacing × √3 ÷ 2 between staggered rows" if staggered else "one spacing between rows",
            numbers=f"{show.text(grid.row_distance_m, 'in_row_spacing')} apart in {show.text(length_m, 'strip_length')}",
            outcome=f"{rows} rows",
            source="definition",
        ),
        Step(
            label="Positions",
            formula="positions in every row, added up",
            numbers=f"{rows} rows of {each or (grid.per_row[0] if rows else 0)}",
            outcome=f"{grid.positions}",
            source="definition",
        ),
        Step(
            label="Plants per area",
            formula="positions ÷ bed",
            numbers=f"{grid.positions} ÷ {show.text(area, 'sample_area')}",
            outcome=show.text(grid.positions / area, "density_dense"),
            source="definition",
        ),
    ]
    if grid.edge_rows:
        steps.append(
            Step(
                label="Counted",
                formula="positions without the edge rows and the end plants",
                numbers=f"{grid.edge_rows} off every side",
                outcome=f"{grid.counted} plants",
                source="common practice, no source",
            )
        )
    return Working(
        title="Planting grid",
        outcome=f"{format_number(grid.positions, 0)} positions",
        steps=tuple(steps),
        assumption="The first line: on the edge of the bed, or a whole spacing inside it.",
    )
