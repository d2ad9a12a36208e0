"""Calibration: what the drill really lets through, lot by lot.

Catch test [definition]: delivered rate = mass caught ÷ (openers caught × row spacing × length driven). Wheel turned
by hand: length = turns × rolling circumference ÷ (1 − slip), because a slipping wheel turns less over the ground than
its circumference says. Bag test: weight sown ÷ area covered.

Several catches at one setting give Student's interval of the mean. The call: *within* when the mean lies within the
tolerance of the target; *sure* when the whole interval does. Tolerance 5 % by default, up to 10 % in the trade; the
same setting has delivered from 14 to 21 lb/ac for lots of one species (both common practice, no source), so each lot
asks for its own.

Corrected setting. Catches at one setting: proportional through nought, setting × target ÷ delivered. Catches at
several settings: the straight line of least squares through them, read at the target.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil
from typing import Literal

import numpy as np

from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.stats.multiplicity import t_critical
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.working import Step, Working

DEFAULT_TOLERANCE_PCT = 5.0
MOST_TOLERANCE_PCT = 10.0
LEVEL_ALPHA = 0.10

Standing = Literal["within_sure", "within", "outside"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Catch:
    """A delivered rate in kg/ha at a setting; ``setting`` is None where the machine has no scale."""

    delivered_kg_per_ha: float
    setting: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Calibrated:
    """How catches stand against a target, kg/ha. Spread and interval are None with one catch.

    ``corrected_setting``: None without settings, and where the line through several has no rise.
    ``by_line``: whether it came from a line through several settings.
    """

    n: int
    mean_kg_per_ha: float
    sd_kg_per_ha: float | None
    lower_kg_per_ha: float | None
    upper_kg_per_ha: float | None
    target_kg_per_ha: float
    off_frac: float
    tolerance_pct: float
    standing: Standing
    setting: float | None
    corrected_setting: float | None
    by_line: bool
    alpha: float = LEVEL_ALPHA


def catch_rate(*, mass_kg: float, openers: int, row_spacing_m: float, length_m: float) -> float:
    """Delivered rate, kg/ha, from seed caught under some openers over a length.

    Raises
    ------
    Refusal : ``zero_catch``; ``not_positive`` spacing, length or mass; ``too_small`` openers.
    """
    if mass_kg == 0:
        raise Refusal("zero_catch", field="mass")
    require_positive(mass_kg, "mass", label="Seed caught")
    require_between(openers, 1, 500, "openers", label="Openers caught")
    require_positive(row_spacing_m, "row_spacing", label="Row spacing")
    require_positive(length_m, "length", label="Length driven")
    return mass_kg / (openers * row_spacing_m * length_m) * 1e4


def length_of_turns(*, turns: float, circumference_m: float, slip_pct: float = 0.0) -> float:
    """Length in m that wheel turns stand for.

    Raises
    ------
    Refusal : ``not_positive`` turns or circumference, slip outside 0 to 40 %.
    """
    require_positive(turns, "turns", label="Turns of the wheel")
    require_positive(circumference_m, "circumference", label="Rolling circumference")
    require_between(slip_pct, 0, 40, "slip", label="Slip", unit=" %")
    return turns * circumference_m / (1 - slip_pct / 100)


def bag_rate(*, mass_kg: float, area_m2: float) -> float:
    """Delivered rate, kg/ha, from the weight sown on an area."""
    if mass_kg == 0:
        raise Refusal("zero_catch", field="mass")
    require_positive(mass_kg, "mass", label="Seed sown")
    require_positive(area_m2, "area", label="Area covered")
    return mass_kg / area_m2 * 1e4


def calibrate(catches: Sequence[Catch], *, target_kg_per_ha: float, tolerance_pct: float = DEFAULT_TOLERANCE_PCT) -> Calibrated:
    """How the catches at the last setting stand against the target, and the setting that would meet it.

    Raises
    ------
    Refusal : ``missing`` catches, ``not_positive`` target, tolerance outside 1 to 10 %.
    """
    if not catches:
        raise Refusal("missing", field="catches", label="A catch", remedy="Weigh what the openers let through.")
    require_positive(target_kg_per_ha, "target", label="Target rate")
    require_between(
        tolerance_pct, 1, MOST_TOLERANCE_PCT, "tolerance", label="Tolerance", unit=" %", remedy="5 % is usual, 10 % the most."
    )
    last = catches[-1].setting
    here = np.array([catch.delivered_kg_per_ha for catch in catches if catch.setting == last])
    n, mean = len(here), float(here.mean())
    sd = lower = upper = None
    if n >= 2:
        sd = float(here.std(ddof=1))
        half = t_critical(LEVEL_ALPHA, n - 1) * sd / n**0.5
        lower, upper = mean - half, mean + half
    corrected, by_line = _corrected(catches, target_kg_per_ha, last, mean)
    return Calibrated(
        n=n,
        mean_kg_per_ha=mean,
        sd_kg_per_ha=sd,
        lower_kg_per_ha=lower,
        upper_kg_per_ha=upper,
        target_kg_per_ha=target_kg_per_ha,
        off_frac=mean / target_kg_per_ha - 1,
        tolerance_pct=tolerance_pct,
        standing=_standing(mean, lower, upper, target_kg_per_ha, tolerance_pct),
        setting=last,
        corrected_setting=corrected,
        by_line=by_line,
    )


def _standing(mean: float, lower: float | None, upper: float | None, target: float, tolerance_pct: float) -> Standing:
    low, high = target * (1 - tolerance_pct / 100), target * (1 + tolerance_pct / 100)
    near = 1e-12 * target
    if not low - near <= mean <= high + near:
        return "outside"
    if lower is not None and upper is not None and low - near <= lower and upper <= high + near:
        return "within_sure"
    return "within"


def _corrected(catches: Sequence[Catch], target: float, last: float | None, mean: float) -> tuple[float | None, bool]:
    if last is None:
        return None, False
    points = [(catch.setting, catch.delivered_kg_per_ha) for catch in catches if catch.setting is not None]
    if len({setting for setting, _ in points}) < 2:
        return last * target / mean, False
    settings, rates = (np.array(column, dtype=float) for column in zip(*points, strict=True))
    rise, start = np.polyfit(settings, rates, 1)
    # a scale on which more setting does not let through more cannot be read backwards
    return (float((target - start) / rise), True) if rise > 0 else (None, True)


WORDS: dict[Standing, str] = {
    "within_sure": "within the tolerance, the whole interval too",
    "within": "within the tolerance",
    "outside": "outside the tolerance",
}


def calibration_working(done: Calibrated, show: UnitFormatter) -> Working:
    """The working of ``calibrate``."""
    mean, target = (show.text(value, "seed_rate_mass") for value in (done.mean_kg_per_ha, done.target_kg_per_ha))
    steps = [Step(label="Mean of the catches", formula="sum ÷ n", numbers=f"n = {done.n}", outcome=mean)]
    if done.sd_kg_per_ha is not None and done.lower_kg_per_ha is not None and done.upper_kg_per_ha is not None:
        steps.append(
            Step(
                label="90 % interval",
                formula="mean ± t × spread ÷ √n",
                numbers=f"{mean} ± {t_critical(done.alpha, done.n - 1):.3f} × {show.text(done.sd_kg_per_ha, 'seed_rate_mass')} "
                f"÷ √{done.n}",
                outcome=f"{show.number(done.lower_kg_per_ha, 'seed_rate_mass')} to "
                f"{show.text(done.upper_kg_per_ha, 'seed_rate_mass')}",
                source="Student 1908, from memory",
            )
        )
    steps.append(
        Step(
            label="Against the target",
            formula=f"mean ÷ target − 1, accepted within {done.tolerance_pct:g} %",
            numbers=f"{mean} ÷ {target} − 1",
            outcome=f"{format_number(100 * done.off_frac, 1, signed=True)} %: {WORDS[done.standing]}",
            source="5 to 10 % is common practice, no source",
        )
    )
    if done.corrected_setting is not None and done.setting is not None:
        formula = "line through the settings tried, read at the target" if done.by_line else "setting × target ÷ mean"
        numbers = "least squares" if done.by_line else f"{done.setting:g} × {target} ÷ {mean}"
        steps.append(
            Step(
                label="Setting that would meet it",
                formula=formula,
                numbers=numbers,
                outcome=format_number(done.corrected_setting, 2),
                source="definition" if done.by_line else "a scale proportional through nought",
            )
        )
    return Working(
        title="Calibration",
        outcome=f"{mean}, {format_number(100 * done.off_frac, 1, signed=True)} % off, {WORDS[done.standing]}",
        steps=tuple(steps),
        assumption=_advice(done),
    )


def _advice(done: Calibrated) -> str:
    if done.by_line and done.corrected_setting is None:
        return "More setting did not let through more: was a catch lost, or are settings and weights mixed up?"
    if done.n < 2:
        return "One catch says nothing about how the drill scatters; take two more."
    if done.standing == "within":
        return "The catches scatter past the tolerance; more of them, over a longer way, tell whether the drill is even."
    return "Another lot of the same crop can flow half as much again at the same setting: each lot is caught anew."


@dataclass(frozen=True, slots=True, kw_only=True)
class Envelope:
    """Seed for one hand- or cone-sown plot: whole seeds, their weight in g, and the rate they really make per m²."""

    seeds: int
    weight_g: float
    row_seeds: int | None
    made_per_m2: float


def envelope(*, seeds_per_m2: float, area_m2: float, weight_g: float, rows: int | None = None) -> Envelope:
    """Counted seed for one plot, rounded up to whole seeds; with ``rows``, the same whole number for every row.

    Raises
    ------
    Refusal : ``not_positive`` rate, area or weight; ``too_small`` rows.
    """
    require_positive(seeds_per_m2, "seeding_rate", label="Seeding rate")
    require_positive(area_m2, "area", label="Area of the plot")
    require_positive(weight_g, "thousand_seed_weight", label="Thousand-seed weight", unit=" g")
    wanted = seeds_per_m2 * area_m2
    each = None
    if rows is not None:
        require_between(rows, 1, 500, "rows", label="Rows")
        each = ceil(round(wanted / rows, 9))
    seeds = each * rows if each is not None and rows is not None else ceil(round(wanted, 9))
    return Envelope(seeds=seeds, weight_g=seeds * weight_g / 1000, row_seeds=each, made_per_m2=seeds / area_m2)


def _weight(grams: float, show: UnitFormatter, decimals: int) -> str:
    """A light weight; in ounces with two more decimals than in grams."""
    return show.text(grams / 1000, "catch", decimals=decimals + (0 if show.unit_code("catch") == "g" else 2))


def envelope_working(made: Envelope, show: UnitFormatter, *, seeds_per_m2: float, area_m2: float) -> Working:
    """The working of ``envelope``."""
    rate = show.text(seeds_per_m2, "density")
    whole = "rounded up" if made.row_seeds is None else f"rounded up in every row: {made.row_seeds} a row"
    return Working(
        title="Seed for one plot",
        outcome=f"{made.seeds} seeds, {_weight(made.weight_g, show, 1)}",
        steps=(
            Step(
                label="Seeds",
                formula=f"rate × area, {whole}",
                numbers=f"{rate} × {show.text(area_m2, 'sample_area')}",
                outcome=str(made.seeds),
                source="definition",
            ),
            Step(
                label="Weight to check the counting by",
                formula="seeds × thousand-seed weight ÷ 1000",
                numbers=f"{made.seeds} × {_weight(made.weight_g / made.seeds * 1000, show, 2)} ÷ 1000",
                outcome=_weight(made.weight_g, show, 2),
                source="definition",
            ),
            Step(
                label="Rate the whole seeds make",
                formula="seeds ÷ area",
                numbers=f"{made.seeds} ÷ {show.text(area_m2, 'sample_area')}",
                outcome=show.text(made.made_per_m2, "density"),
                source="definition",
            ),
        ),
        assumption="Counted seed is rate as sown; germination and losses are in the rate already.",
    )
