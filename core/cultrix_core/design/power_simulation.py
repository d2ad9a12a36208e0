"""A rehearsal: the planned design laid over many fields, and how often each call would be right.

For every field the order is drawn anew, the strips take the field's values, and the comparison with the control
is made as the verdict makes it, each by its own stratum: blocks (or rows and columns) and treatments taken out,
the rest is error. A true difference is added to one treatment; since the estimate moves with it and the error
does not, one draw serves all truths. A systematic order over the same fields is counted beside.

Right: at truth 0 “no difference that matters”; at a truth of the margin or more “gain”. Wrong: at truth 0 a gain
or a loss; otherwise a loss or “no difference that matters”. “Not clear yet” is neither.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from cultrix_core.design.detectable_difference import DesignSize, Stratum, Variation, critical_value, strata
from cultrix_core.design.randomise import Cell, Constraints, PlannedStrip, in_tiers, lay_out
from cultrix_core.errors import Refusal, require_between
from cultrix_core.simulate.variation import FieldVariation, mapped, simulated

Array = NDArray[np.float64]
TRUTHS = (0.0, 1.0, 2.0)  # in margins
CALLS = ("gain", "loss", "no_difference_that_matters", "cannot_tell_yet")
MOST_AT_ONCE = 250


@dataclass(frozen=True, slots=True, kw_only=True)
class Rehearsed:
    """What is rehearsed: the design, its cells, and the judgement it is put to."""

    size: DesignSize
    cells: tuple[Cell, ...]
    control: str
    alpha: float
    margin_pct: float
    constraints: Constraints
    tiers: int = 1
    part: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Tally:
    """Counts over fields: ``calls[order][truth][call]``; sums of the estimate's error, its square, its claimed variance."""

    fields: int
    calls: dict[str, tuple[tuple[int, ...], ...]]
    error_sum: dict[str, float]
    error_squares: dict[str, float]
    claimed_squares: dict[str, float]


def merged(tally: Tally | None, other: Tally) -> Tally:
    """Two tallies of the same rehearsal as one."""
    if tally is None:
        return other
    return Tally(
        fields=tally.fields + other.fields,
        calls={
            order: tuple(
                tuple(a + b for a, b in zip(row, more, strict=True)) for row, more in zip(rows, other.calls[order], strict=True)
            )
            for order, rows in tally.calls.items()
        },
        error_sum={order: value + other.error_sum[order] for order, value in tally.error_sum.items()},
        error_squares={order: value + other.error_squares[order] for order, value in tally.error_squares.items()},
        claimed_squares={order: value + other.claimed_squares[order] for order, value in tally.claimed_squares.items()},
    )


def rehearse(plan: Rehearsed, ground: FieldVariation | None, *, fields: int, seed: int) -> Tally:
    """Rehearse on ``fields`` fields; ``ground`` None takes the uniformity map.

    Raises
    ------
    Refusal : ``too_large`` above ``MOST_AT_ONCE`` fields, ``not_for_design`` for a look, ``not_positive`` margin.
    """
    require_between(fields, 1, MOST_AT_ONCE, "fields", label="Fields at once")
    if plan.margin_pct <= 0:
        raise Refusal("missing", field="margin", label="A difference that matters", remedy="Set price and costs first.")
    stratum = _stratum(plan)
    orders = {"as planned": [_draw(plan, seed + index) for index in range(fields)]}
    if plan.size.kind.in_drawn_blocks and not plan.size.kind.extra_control:
        fixed = lay_out("systematic", plan.cells, blocks=plan.size.blocks, seed=0).strips
        orders["systematic"] = [in_tiers(fixed, plan.tiers)] * fields
    places = orders["as planned"][0]
    values = mapped(places, fields=fields, seed=seed) if ground is None else simulated(places, ground, fields=fields, seed=seed)
    calls, sums, squares, claimed = {}, {}, {}, {}
    for order, layouts in orders.items():
        estimates, ses = _estimates(plan, stratum, layouts, values, places)
        calls[order] = _count(estimates, ses, critical_value(stratum, plan.alpha), plan.margin_pct)
        sums[order] = float(estimates.sum())
        squares[order] = float((estimates**2).sum())
        claimed[order] = float((ses**2).sum())
    return Tally(fields=fields, calls=calls, error_sum=sums, error_squares=squares, claimed_squares=claimed)


def _stratum(plan: Rehearsed) -> Stratum:
    stratums = strata(plan.size, Variation(cv_pct=10))
    return next((stratum for stratum in stratums if stratum.key == plan.part), stratums[0])


def _draw(plan: Rehearsed, seed: int) -> tuple[PlannedStrip, ...]:
    # balance among two hundred draws is left out here: it costs two hundred times the work and changes the call little
    wanted = Constraints(no_equal_neighbours=plan.constraints.no_equal_neighbours, first=plan.constraints.first)
    strips = lay_out(
        plan.size.design, plan.cells, blocks=plan.size.blocks, seed=seed, control=plan.control, constraints=wanted
    ).strips
    return in_tiers(strips, plan.tiers)


def _estimates(
    plan: Rehearsed,
    stratum: Stratum,
    layouts: Sequence[tuple[PlannedStrip, ...]],
    values: Array,
    places: Sequence[PlannedStrip],
) -> tuple[Array, Array]:
    """Estimated difference of the first other level from the control's, and its claimed standard error."""
    by_place = {(strip.column, strip.row): number for number, strip in enumerate(places)}
    level_of = _levels(plan, stratum)
    control = level_of[plan.control]
    other = next(level for level in dict.fromkeys(level_of[cell.name] for cell in plan.cells) if level != control)
    estimates, ses = np.empty(len(layouts)), np.empty(len(layouts))
    for index, layout in enumerate(layouts):
        response = np.array([values[index, by_place[strip.column, strip.row]] for strip in layout])
        levels = [level_of[strip.treatment] for strip in layout]
        y, names, nuisance = _at_stratum(plan, stratum, layout, response, levels)
        estimates[index], ses[index] = _difference(y, names, nuisance, other, control)
    return estimates, ses


def _levels(plan: Rehearsed, stratum: Stratum) -> dict[str, str]:
    """The level of every treatment that a stratum compares."""
    if plan.size.kind.split and stratum.key in ("main", "sub", "subsub"):
        return {cell.name: getattr(cell, stratum.key) for cell in plan.cells}
    return {cell.name: cell.name for cell in plan.cells}


def _at_stratum(
    plan: Rehearsed, stratum: Stratum, layout: Sequence[PlannedStrip], y: Array, levels: Sequence[str]
) -> tuple[Array, list[str], list[list[str]]]:
    """Responses of the units a stratum compares, their levels, and what is taken out of their error."""
    blocks = [str(strip.block) for strip in layout]
    design = plan.size.kind
    if design.blocking == "none":
        return y, list(levels), []
    if design.blocking == "rows_and_columns":
        return y, list(levels), [[str(strip.row) for strip in layout], [str(strip.column) for strip in layout]]
    if not design.split:
        return y, list(levels), [blocks]
    cells = {cell.name: cell for cell in plan.cells}
    if stratum.key == "main" or design.crossed:
        units = [f"{block}|{level}" for block, level in zip(blocks, levels, strict=True)]
        return _averaged(units, y, levels, blocks)
    units = [f"{block}|{cells[strip.treatment].main}" for block, strip in zip(blocks, layout, strict=True)]
    if stratum.key == "sub":
        inner = [f"{unit}|{level}" for unit, level in zip(units, levels, strict=True)]
        return _averaged(inner, y, levels, units)
    units = [f"{unit}|{cells[strip.treatment].sub}" for unit, strip in zip(units, layout, strict=True)]
    return y, list(levels), [units]


def _averaged(
    units: Sequence[str], y: Array, levels: Sequence[str], outer: Sequence[str]
) -> tuple[Array, list[str], list[list[str]]]:
    order = {unit: place for place, unit in enumerate(dict.fromkeys(units))}
    place = np.array([order[unit] for unit in units])
    means = np.bincount(place, y) / np.bincount(place)
    first = [int(np.argmax(place == number)) for number in range(len(order))]
    return means, [levels[number] for number in first], [[outer[number] for number in first]]


def _difference(
    y: Array, levels: Sequence[str], nuisance: Sequence[Sequence[str]], other: str, control: str
) -> tuple[float, float]:
    """Least squares with the nuisance terms fixed: the difference of two levels and its standard error."""
    names = list(dict.fromkeys(levels))
    columns = [np.array([level == name for level in levels], dtype=float) for name in names]
    for term in nuisance:
        columns += [np.array([value == name for value in term], dtype=float) for name in list(dict.fromkeys(term))[1:]]
    design = np.column_stack(columns)
    orthogonal, triangle = np.linalg.qr(design)
    beta = np.linalg.solve(triangle, orthogonal.T @ y)
    residual = y - design @ beta
    mse = float(residual @ residual) / (len(y) - design.shape[1])
    contrast = np.zeros(design.shape[1])
    contrast[names.index(other)], contrast[names.index(control)] = 1.0, -1.0
    spread = np.linalg.solve(triangle.T, contrast)
    return float(contrast @ beta), float(np.sqrt(mse * (spread @ spread)))


def _count(estimates: Array, ses: Array, critical: float, margin: float) -> tuple[tuple[int, ...], ...]:
    rows = []
    for truth in TRUTHS:
        lower, upper = estimates + truth * margin - critical * ses, estimates + truth * margin + critical * ses
        gain, loss = lower > 0, upper < 0
        none = (lower >= -margin) & (upper <= margin) & ~gain & ~loss
        rows.append((int(gain.sum()), int(loss.sum()), int(none.sum()), int((~(none | gain | loss)).sum())))
    return tuple(rows)
