"""Seed meters driven from the ground: discs with holes, sprockets or gears, and the rates they can make.

Definition. A turn of the wheel rolls its circumference ÷ (1 − slip) of ground and turns the disc by the ratio: teeth of
the driving sprocket ÷ teeth of the driven one × whatever fixed reduction lies between. Seeds per length of row =
holes × seeds a hole × ratio ÷ that length; seeds per area = the same ÷ row spacing.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.seeding.calibration import length_of_turns
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.working import Step, Working

MOST_COMBINATIONS = 2_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Meter:
    """A ground-driven meter: rolling circumference and row spacing in m, seeds a hole, slip of the wheel."""

    circumference_m: float
    row_spacing_m: float
    fixed_ratio: float = 1.0
    seeds_a_hole: float = 1.0
    slip_pct: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Combination:
    """One disc with one pair of sprockets: what it sows. ``off_frac`` is against a target, None without one."""

    holes: int
    driving: int
    driven: int
    seeds_per_m2: float
    in_row_spacing_m: float
    off_frac: float | None = None


def seeds_per_m2_of(meter: Meter, *, holes: int, driving: int, driven: int) -> float:
    """Seeds per m² of one combination.

    Raises
    ------
    Refusal : ``too_small`` holes or teeth, ``not_positive`` lengths or ratios, slip outside 0 to 40 %.
    """
    for value, name, label in (
        (holes, "holes", "Holes in the disc"),
        (driving, "driving", "Teeth of the driving sprocket"),
        (driven, "driven", "Teeth of the driven sprocket"),
    ):
        require_between(value, 1, 500, name, label=label)
    require_positive(meter.row_spacing_m, "row_spacing", label="Row spacing")
    require_positive(meter.fixed_ratio, "fixed_ratio", label="Fixed ratio")
    require_between(meter.seeds_a_hole, 0.1, 20, "seeds_a_hole", label="Seeds a hole")
    ground = length_of_turns(turns=1, circumference_m=meter.circumference_m, slip_pct=meter.slip_pct)
    return holes * meter.seeds_a_hole * driving / driven * meter.fixed_ratio / ground / meter.row_spacing_m


def rate_table(
    meter: Meter, *, discs: Sequence[int], driving: Sequence[int], driven: Sequence[int], target_per_m2: float | None = None
) -> tuple[Combination, ...]:
    """Every combination at hand, thinnest first, with its distance from a target.

    Raises
    ------
    Refusal : ``missing`` discs or sprockets, ``too_large`` number of combinations, those of ``seeds_per_m2_of``.
    """
    for values, name, label in (
        (discs, "discs", "A disc"),
        (driving, "driving", "A driving sprocket"),
        (driven, "driven", "A driven sprocket"),
    ):
        if not values:
            raise Refusal("missing", field=name, label=label, remedy="Give at least one.")
    size = len(discs) * len(driving) * len(driven)
    if size > MOST_COMBINATIONS:
        raise Refusal("too_large", field="discs", label="The number of combinations", value=size, limit=MOST_COMBINATIONS)
    if target_per_m2 is not None:
        require_positive(target_per_m2, "target", label="Target rate")
    result = []
    for holes in discs:
        for item in driving:
            for other in driven:
                rate = seeds_per_m2_of(meter, holes=holes, driving=item, driven=other)
                result.append(
                    Combination(
                        holes=holes,
                        driving=item,
                        driven=other,
                        seeds_per_m2=rate,
                        in_row_spacing_m=1 / (rate * meter.row_spacing_m),
                        off_frac=None if target_per_m2 is None else rate / target_per_m2 - 1,
                    )
                )
    return tuple(sorted(result, key=lambda combination: (combination.seeds_per_m2, combination.holes, combination.driving)))


def nearest(table: Sequence[Combination], target_per_m2: float) -> Combination:
    """The combination whose rate differs least from the target; ties go to fewer holes."""
    require_positive(target_per_m2, "target", label="Target rate")
    if not table:
        raise Refusal("missing", field="discs", label="A combination", remedy="Give discs and sprockets.")
    return min(
        table,
        key=lambda combination: (
            round(abs(combination.seeds_per_m2 - target_per_m2), 12),
            combination.holes,
            combination.driving,
        ),
    )


def meter_working(meter: Meter, table: Sequence[Combination], targets_per_m2: Sequence[float], show: UnitFormatter) -> Working:
    """The nearest combination to the first target with its arithmetic, those to the others, and the table, nearest first.

    Raises
    ------
    Refusal : ``missing`` targets or combinations, ``not_positive`` target.
    """
    if not targets_per_m2:
        raise Refusal("missing", field="target", label="Target rate", remedy="Give the rate that is wanted.")
    target_per_m2 = targets_per_m2[0]
    best = nearest(table, target_per_m2)
    rate = show.text(best.seeds_per_m2, "density")
    off = best.seeds_per_m2 / target_per_m2 - 1
    named = f"{best.holes} holes, {best.driving} on {best.driven} teeth"
    return Working(
        title="Rates of the seed meter",
        outcome=f"{named}: {rate}, {format_number(100 * off, 1, signed=True)} %",
        steps=(
            *_nearest_steps(meter, best, show),
            *(_other_target(table, other, show) for other in targets_per_m2[1:]),
        ),
        assumption="Rolling circumference under load, measured over ten turns in the field, and one seed in every hole.",
        table=(
            ("Holes", "Driving", "Driven", "Rate", "Seed to seed", "Off"),
            *(
                (
                    str(combination.holes),
                    str(combination.driving),
                    str(combination.driven),
                    show.text(combination.seeds_per_m2, "density"),
                    show.text(combination.in_row_spacing_m, "in_row_spacing"),
                    f"{format_number(100 * (combination.seeds_per_m2 / target_per_m2 - 1), 1, signed=True)} %",
                )
                for combination in sorted(table, key=lambda item: abs(item.seeds_per_m2 - target_per_m2))
            ),
        ),
    )


def _other_target(table: Sequence[Combination], target: float, show: UnitFormatter) -> Step:
    best = nearest(table, target)
    return Step(
        label=f"Nearest to {show.text(target, 'density')}",
        formula="the combination whose rate differs least",
        numbers=f"{best.holes} holes, {best.driving} on {best.driven} teeth",
        outcome=f"{show.text(best.seeds_per_m2, 'density')}, "
        f"{format_number(100 * (best.seeds_per_m2 / target - 1), 1, signed=True)} %",
        source="definition",
    )


def _nearest_steps(meter: Meter, best: Combination, show: UnitFormatter) -> list[Step]:
    ground = length_of_turns(turns=1, circumference_m=meter.circumference_m, slip_pct=meter.slip_pct)
    a_turn = format_number(best.seeds_per_m2 * ground * meter.row_spacing_m, 2)
    rate = show.text(best.seeds_per_m2, "density")
    return [
        Step(
            label="Ground for a turn of the wheel",
            formula="rolling circumference ÷ (100 % − slip)",
            numbers=f"{show.text(meter.circumference_m, 'tape_length')} ÷ (100 % − {meter.slip_pct:g} %)",
            outcome=show.text(ground, "tape_length"),
            source="definition",
        ),
        Step(
            label="Seeds for a turn of the wheel",
            formula="holes × seeds a hole × driving ÷ driven teeth × fixed ratio",
            numbers=f"{best.holes} × {meter.seeds_a_hole:g} × {best.driving} ÷ {best.driven} × {meter.fixed_ratio:g}",
            outcome=a_turn,
            source="definition",
        ),
        Step(
            label="Seed to seed",
            formula="ground ÷ seeds for a turn",
            numbers=f"{show.text(ground, 'tape_length')} ÷ {a_turn}",
            outcome=show.text(best.in_row_spacing_m, "in_row_spacing"),
            source="definition",
        ),
        Step(
            label="Rate",
            formula="1 ÷ (seed to seed × row spacing)",
            numbers=f"1 ÷ ({show.text(best.in_row_spacing_m, 'in_row_spacing')} × "
            f"{show.text(meter.row_spacing_m, 'row_spacing')})",
            outcome=rate,
            source="definition",
        ),
    ]
