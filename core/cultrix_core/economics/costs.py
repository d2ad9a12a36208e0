"""What a treatment costs per area: cost lines, and seed by its rate and the price of a bag.

A line is so many times so much: kg of product × price a kg, passes × cost a pass, a share of a machine. It is spoken of by
area; or in all, for the trial or for a machine's year, and then spread over an area; or by unit of yield, as drying is.
A pass costs its fuel, its labour and the hire of what does it: fuel per area × price + hours per area × (wage + hire).
Seed: seeds per area × price of a thousand, the price of a thousand being bag price ÷ thousands in the bag.
The control carries its own costs; what matters is the difference.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from cultrix_core.economics.break_even import MOST_MONEY
from cultrix_core.errors import require_between, require_positive
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.units import HA_M2
from cultrix_core.working import Step, Working


@dataclass(frozen=True, slots=True, kw_only=True)
class Line:
    """One cost line: ``times`` × ``each_per_ha``, money per hectare, or × ``each_per_t``, money per tonne of yield."""

    label: str
    times: float
    each_per_ha: float
    each_per_t: float = 0.0

    @property
    def per_ha(self) -> float:
        return self.times * self.each_per_ha

    @property
    def per_t(self) -> float:
        return self.times * self.each_per_t


@dataclass(frozen=True, slots=True, kw_only=True)
class TreatmentCost:
    """All costs of a treatment, money per hectare; ``seed_per_ha`` is None without rate or bag price."""

    lines: tuple[Line, ...]
    seed_per_ha: float | None
    stated_per_ha: float

    @property
    def per_ha(self) -> float:
        return sum(line.per_ha for line in self.lines) + (self.seed_per_ha or 0.0) + self.stated_per_ha

    @property
    def per_t(self) -> float:
        """What comes with every tonne beyond what all strips pay."""
        return sum(line.per_t for line in self.lines)


def price_per_thousand(*, bag_price: float, seeds_in_bag: float) -> float:
    """Price of a thousand seeds.

    Raises
    ------
    Refusal : ``not_positive`` seeds, ``too_small`` price.
    """
    require_between(bag_price, 0, MOST_MONEY, "bag_price", label="Price of a bag")
    require_positive(seeds_in_bag, "bag_seeds", label="Seeds in a bag")
    return bag_price / seeds_in_bag * 1000


def spread_over(total: float, area_m2: float) -> float:
    """Money per hectare of a sum that is spread over an area, such as a trial's or what a machine works in a year.

    Raises
    ------
    Refusal : ``not_positive`` area, limits of money.
    """
    require_between(total, 0, MOST_MONEY, "each", label="Cost")
    require_positive(area_m2, "spread", label="Area it is spread over")
    return total / (area_m2 / HA_M2)


def pass_cost(
    *,
    fuel_l_per_ha: float = 0.0,
    fuel_price_per_l: float = 0.0,
    hours_per_ha: float = 0.0,
    wage_per_h: float = 0.0,
    hire_per_h: float = 0.0,
) -> float:
    """Money per hectare of one pass, from its fuel and its hours.

    Raises
    ------
    Refusal : ``too_small``, ``too_large`` for amounts that cannot be.
    """
    for value, field, label, most in (
        (fuel_l_per_ha, "fuel", "Fuel", 1000.0),
        (fuel_price_per_l, "fuel_price", "Price of fuel", 1000.0),
        (hours_per_ha, "hours", "Hours", 1000.0),
        (wage_per_h, "wage", "Wage", 1e5),
        (hire_per_h, "hire", "Hire of the machine", 1e5),
    ):
        require_between(value, 0, most, field, label=label)
    return fuel_l_per_ha * fuel_price_per_l + hours_per_ha * (wage_per_h + hire_per_h)


def treatment_cost(
    *,
    lines: Sequence[Line] = (),
    seeds_per_m2: float | None = None,
    price_per_thousand_seeds: float | None = None,
    stated_per_ha: float = 0.0,
) -> TreatmentCost:
    """Costs of a treatment.

    Raises
    ------
    Refusal : ``too_small``, ``too_large`` for amounts that cannot be.
    """
    for line in lines:
        require_between(line.times, 0, 1e6, "times", label=line.label or "Times")
        require_between(line.each_per_ha, -MOST_MONEY, MOST_MONEY, "each", label=line.label or "Cost")
        require_between(line.each_per_t, -MOST_MONEY, MOST_MONEY, "each", label=line.label or "Cost")
    seed = None
    if seeds_per_m2 is not None and price_per_thousand_seeds is not None:
        seed = seeds_per_m2 * 10_000 / 1000 * price_per_thousand_seeds
    return TreatmentCost(lines=tuple(lines), seed_per_ha=seed, stated_per_ha=stated_per_ha)


def extra_cost_steps(
    mine: TreatmentCost, control: TreatmentCost, show: UnitFormatter, *, name: str, control_name: str
) -> tuple[Step, ...]:
    """The arithmetic from cost lines to the extra cost against the control."""
    return (
        _sum_step(mine, show, name),
        _sum_step(control, show, control_name),
        Step(
            label="Extra cost",
            formula="cost of the treatment − cost of the control",
            numbers=f"{show.text(mine.per_ha, 'money_per_area')} − {show.text(control.per_ha, 'money_per_area')}",
            outcome=show.text(mine.per_ha - control.per_ha, "money_per_area", signed=True),
            source="definition",
        ),
    )


def _sum_step(cost: TreatmentCost, show: UnitFormatter, name: str) -> Step:
    return Step(
        label=f"Costs of {name}",
        formula="cost lines, seed and what is stated, added up",
        numbers=cost_words(cost, show),
        outcome=show.text(cost.per_ha, "money_per_area"),
        source="definition",
    )


def cost_words(cost: TreatmentCost, show: UnitFormatter, *, seed_per_ha: float | None = None) -> str:
    """The costs by area as a sum in words; ``seed_per_ha`` takes the place of the planned seed."""
    parts = [
        f"{line.label} {format_number(line.times, 2).rstrip('0').rstrip('.')} × {show.text(line.each_per_ha, 'money_per_area')}"
        for line in cost.lines
        if not line.each_per_t
    ]
    seed = cost.seed_per_ha if seed_per_ha is None else seed_per_ha
    if seed is not None:
        parts.append(f"seed {show.text(seed, 'money_per_area')}")
    if cost.stated_per_ha or not parts:
        parts.append(f"stated {show.text(cost.stated_per_ha, 'money_per_area')}")
    return " + ".join(parts)


def with_extra_cost(working: Working, steps: Sequence[Step]) -> Working:
    """A break-even working with the steps to its extra cost put first."""
    return Working(title=working.title, outcome=working.outcome, steps=(*steps, *working.steps), assumption=working.assumption)
