"""Row lengths for a stand count, and plants per area from a count.

Definition. The length of one row that holds a share of an area unit is share × area ÷ row spacing;
several rows divide it. The tape value is the exact length rounded to what a tape shows: whole inches, or
centimetres. Plants per area = plants ÷ (length × rows × row spacing), whatever the row width; plants per
foot of row equals plants per square foot only at 12-inch rows.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import pi

from cultrix_core.errors import require_between, require_positive
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.units import ACRE_M2, FT_M, HA_M2, IN_M, System
from cultrix_core.working import Step, Working

MOST_ROWS = 48


@dataclass(frozen=True, slots=True, kw_only=True)
class TapeLength:
    """Exact length and the rounded tape value with its bias, for each of ``rows`` rows."""

    exact_m: float
    tape_m: float
    tape_text: str
    bias_frac: float
    rows: int
    share_text: str


@dataclass(frozen=True, slots=True, kw_only=True)
class AreaCount:
    """A count turned into plants per m²."""

    plants: int
    area_m2: float
    plants_per_m2: float


def thousandth_length(row_spacing_m: float, *, system: System, rows: int = 1, share: float = 1 / 1000) -> TapeLength:
    """Length of each of ``rows`` rows that together hold ``share`` of an acre (US) or hectare (metric).

    Raises
    ------
    Refusal : ``not_positive`` for the row spacing, ``too_small``/``too_large`` for rows.
    """
    require_positive(row_spacing_m, "row_spacing")
    require_between(rows, 1, MOST_ROWS, "rows")
    unit_area = ACRE_M2 if system == "us" else HA_M2
    exact = share * unit_area / row_spacing_m / rows
    grid = IN_M if system == "us" else 0.01
    tape = max(round(exact / grid), 1) * grid
    return TapeLength(
        exact_m=exact,
        tape_m=tape,
        tape_text=_tape_text(tape, system),
        bias_frac=tape / exact - 1,
        rows=rows,
        share_text=f"1/{round(1 / share):,} {'ac' if system == 'us' else 'ha'}".replace(",", " "),
    )


def _tape_text(length_m: float, system: System) -> str:
    if system == "metric":
        return f"{length_m:.2f} m"
    inches = round(length_m / IN_M)
    return f"{inches // 12} ft {inches % 12} in" if inches >= 36 else f"{inches} in"


def count_on_rows(plants: int, *, length_m: float, rows: int, row_spacing_m: float) -> AreaCount:
    """Plants per m² from plants on ``rows`` rows of ``length_m`` each."""
    require_between(plants, 0, 1e6, "plants")
    require_between(rows, 1, MOST_ROWS, "rows")
    require_positive(length_m, "length")
    require_positive(row_spacing_m, "row_spacing")
    area = length_m * rows * row_spacing_m
    return AreaCount(plants=plants, area_m2=area, plants_per_m2=plants / area)


def count_in_quadrat(plants: int, *, area_m2: float) -> AreaCount:
    """Plants per m² from a quadrat or hoop of known area."""
    require_between(plants, 0, 1e6, "plants")
    require_positive(area_m2, "area")
    return AreaCount(plants=plants, area_m2=area_m2, plants_per_m2=plants / area_m2)


def hoop_area(diameter_m: float) -> float:
    """Area of a hoop in m²: π ÷ 4 × diameter²."""
    require_positive(diameter_m, "diameter", label="Diameter of the hoop", unit=" m")
    return pi / 4 * diameter_m**2


def share_of_seed_pct(plants_per_m2: float, seeds_per_m2: float) -> float:
    """Plants as percent of the seed sown."""
    require_positive(seeds_per_m2, "seeding_rate")
    return 100 * plants_per_m2 / seeds_per_m2


def share_step(plants_per_m2: float, seeds_per_m2: float, show: UnitFormatter) -> Step:
    """The step of a working that takes plants as percent of the seed sown."""
    return Step(
        label="Of the seed sown",
        formula="plants ÷ seeds sown on the same area",
        numbers=f"{show.text(plants_per_m2, 'density')} ÷ {show.text(seeds_per_m2, 'density')}",
        outcome=f"{format_number(share_of_seed_pct(plants_per_m2, seeds_per_m2), 0)} %",
    )


def tape_working(tape: TapeLength, row_spacing_m: float, show: UnitFormatter) -> Working:
    """The working of ``thousandth_length``."""
    if show.system == "us":
        share_area = tape.exact_m * tape.rows * row_spacing_m / FT_M**2
        area_text, spacing_text = f"{share_area:.2f} ft²", f"{row_spacing_m / FT_M:.4g} ft"
    else:
        share_area = tape.exact_m * tape.rows * row_spacing_m
        area_text, spacing_text = f"{share_area:.2f} m²", f"{row_spacing_m:.4g} m"
    rows_text = f" ÷ {tape.rows} rows" if tape.rows > 1 else ""
    exact = show.text(tape.exact_m, "tape_length")
    return Working(
        title=f"Row length that holds {tape.share_text}",
        outcome=f"{exact}; on the tape {tape.tape_text}",
        steps=(
            Step(
                label="Exact length",
                formula="share of the area unit ÷ row spacing ÷ rows",
                numbers=f"{area_text} ÷ {spacing_text}{rows_text}",
                outcome=exact,
                source="definition",
            ),
            Step(
                label="On the tape",
                formula="exact length, rounded to the tape's marks",
                numbers=exact,
                outcome=f"{tape.tape_text} ({format_number(100 * tape.bias_frac, 2, signed=True)} %)",
                source="common practice, no source",
            ),
        ),
        assumption="The row spacing: the count is divided by it, so 1 % off in the spacing is 1 % off in the stand.",
    )


def count_working(
    count: AreaCount, how: str, show: UnitFormatter, *, seeds_per_m2: float | None = None, row_m: float | None = None
) -> Working:
    """The working of a count; ``how`` is the measured area in words, such as “2 rows × 5.00 m × 75.0 cm”.

    ``row_m``: length of row counted, all rows together, for plants along the row.
    """
    density = show.text(count.plants_per_m2, "density")
    area = show.text(count.area_m2, "sample_area")
    steps = [
        Step(
            label="Area counted",
            formula="length × rows × row spacing, or the frame's area",
            numbers=how,
            outcome=area,
            source="definition",
        ),
        Step(label="Stand", formula="plants ÷ area", numbers=f"{count.plants} ÷ {area}", outcome=density, source="definition"),
    ]
    if row_m:
        steps.append(
            Step(
                label="Along the row",
                formula="plants ÷ length of row; the same number as per area at one row width only",
                numbers=f"{count.plants} ÷ {show.text(row_m, 'tape_length')}",
                outcome=show.text(count.plants / row_m, "linear_density"),
                source="definition",
            )
        )
    if seeds_per_m2:
        steps.append(share_step(count.plants_per_m2, seeds_per_m2, show))
    return Working(
        title="Stand from a count",
        outcome=density,
        steps=tuple(steps),
        assumption="The place was not chosen for its looks, and gaps were counted through.",
    )
