"""The budget of a strip or a treatment: what the crop brings, less what it costs.

Definition. net = yield × price − yield × (cost per unit of yield + the treatment's own cost per unit) − costs by area. The
costs by area are those of the treatment: its lines, its seed by the rate that was really sown, what was stated. Costs that
all strips carry alike may be left out: they cancel in every comparison, and the working says so.

A partial budget of a treatment against the control puts what it brings more against what it costs more [1]. What it would
take for the two to be equal:

    break-even yield gain    (ΔK + Δc × control's yield) ÷ (price − c)
    break-even price         (ΔK + c × yield − c₀ × yield₀) ÷ (yield − yield₀)
    break-even extra cost    (price − c) × yield − (price − c₀) × yield₀

K costs by area, c costs per unit of yield, ₀ the control's.

References: [1] CIMMYT (1988) From Agronomic Data to Farmer Recommendations, chs. 2–3: partial budgets (method, from memory).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from cultrix_core.economics.break_even import MOST_MONEY
from cultrix_core.economics.costs import TreatmentCost
from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.working import Step, Working

LEAST_COST = 0.005  # money per ha: what is less is rounding, and a return on it says nothing


@dataclass(frozen=True, slots=True, kw_only=True)
class Budget:
    """Money per hectare of a yield in kg/ha; ``by_yield_per_ha`` are costs that come with it, ``by_area_per_ha`` others."""

    yield_kg_per_ha: float
    price_per_t: float
    per_t: float
    income_per_ha: float
    by_yield_per_ha: float
    by_area_per_ha: float

    @property
    def net_per_ha(self) -> float:
        return self.income_per_ha - self.by_yield_per_ha - self.by_area_per_ha

    @property
    def costs_per_ha(self) -> float:
        return self.by_yield_per_ha + self.by_area_per_ha


def budget(
    yield_kg_per_ha: float,
    cost: TreatmentCost,
    *,
    price_per_t: float,
    unit_cost_per_t: float = 0.0,
    seed_per_ha: float | None = None,
) -> Budget:
    """Budget of a yield under a treatment.

    Parameters
    ----------
    yield_kg_per_ha : at standard moisture. price_per_t, unit_cost_per_t : price, and what drying and hauling a tonne cost.
    seed_per_ha : cost of the seed really sown, money per hectare; the planned seed of ``cost`` where None.

    Raises
    ------
    Refusal : ``not_positive`` price, ``too_small`` yield or cost, ``price_not_above_cost``.
    """
    require_between(yield_kg_per_ha, 0, MOST_MONEY, "yield", label="Yield")
    require_positive(price_per_t, "price", label="Price")
    require_between(unit_cost_per_t, 0, MOST_MONEY, "unit_cost", label="Cost per unit of yield")
    per_t = unit_cost_per_t + cost.per_t
    if price_per_t <= per_t:
        raise Refusal("price_not_above_cost", field="unit_cost", value=f"{price_per_t:g}", limit=f"{per_t:g}")
    by_area = cost.per_ha
    if seed_per_ha is not None:
        by_area += seed_per_ha - (cost.seed_per_ha or 0.0)
    tonnes = yield_kg_per_ha / 1000
    return Budget(
        yield_kg_per_ha=yield_kg_per_ha,
        price_per_t=price_per_t,
        per_t=per_t,
        income_per_ha=tonnes * price_per_t,
        by_yield_per_ha=tonnes * per_t,
        by_area_per_ha=by_area,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class PartialBudget:
    """A treatment against the control, money per hectare.

    ``return_on_cost``: net gain per unit of extra money, None where less than ``LEAST_COST`` extra is spent.
    ``break_even_price_per_t`` is None where no price makes both equal; ``pays_above``: whether the treatment pays above it or
    below it.
    """

    extra_income_per_ha: float
    extra_cost_per_ha: float
    extra_area_cost_per_ha: float
    net_gain_per_ha: float
    return_on_cost: float | None
    break_even_gain_kg_per_ha: float
    break_even_price_per_t: float | None
    pays_above: bool
    break_even_cost_per_ha: float


def partial_budget(treatment: Budget, control: Budget) -> PartialBudget:
    """What a treatment brings and costs more than the control, and what would make them equal.

    Raises
    ------
    Refusal : ``not_for_design`` where the two are reckoned at different prices.
    """
    if treatment.price_per_t != control.price_per_t:
        raise Refusal(
            "not_for_design",
            field="price",
            label="A partial budget",
            value="two prices",
            limit="both sides sell the same crop",
            remedy="Compare one scenario at a time.",
        )
    price = treatment.price_per_t
    income = treatment.income_per_ha - control.income_per_ha
    area = treatment.by_area_per_ha - control.by_area_per_ha
    cost = treatment.costs_per_ha - control.costs_per_ha
    tonnes = (treatment.yield_kg_per_ha - control.yield_kg_per_ha) / 1000
    value, base = treatment.yield_kg_per_ha / 1000, control.yield_kg_per_ha / 1000
    even = cost / tonnes if tonnes else None
    return PartialBudget(
        extra_income_per_ha=income,
        extra_cost_per_ha=cost,
        extra_area_cost_per_ha=area,
        net_gain_per_ha=income - cost,
        return_on_cost=(income - cost) / cost if cost > LEAST_COST else None,
        break_even_gain_kg_per_ha=1000 * (area + (treatment.per_t - control.per_t) * base) / (price - treatment.per_t),
        break_even_price_per_t=even if even is not None and even > 0 else None,
        pays_above=tonnes > 0,
        break_even_cost_per_ha=(price - treatment.per_t) * value - (price - control.per_t) * base,
    )


def budget_working(
    result: Budget, show: UnitFormatter, *, title: str, area_costs: str, seed: Literal["planned", "sown"] = "planned"
) -> Working:
    """The working of ``budget``; ``area_costs`` says in words what the costs by area are."""
    price, per_t = show.text(result.price_per_t, "price"), show.text(result.per_t, "price")
    yield_ = show.text(result.yield_kg_per_ha, "yield")
    income, by_yield, by_area, net = (
        show.text(value, "money_per_area")
        for value in (result.income_per_ha, result.by_yield_per_ha, result.by_area_per_ha, result.net_per_ha)
    )
    how = "by the rate really sown" if seed == "sown" else "by the planned rate"
    return Working(
        title=title,
        outcome=net,
        steps=(
            Step(label="What it brings", formula="yield × price", numbers=f"{yield_} × {price}", outcome=income),
            Step(
                label="Costs that come with the yield",
                formula="yield × cost per unit of yield",
                numbers=f"{yield_} × {per_t}",
                outcome=by_yield,
            ),
            Step(
                label="Costs by area",
                formula=f"cost lines, seed {how} and what is stated, added up",
                numbers=area_costs,
                outcome=by_area,
            ),
            Step(
                label="Net return",
                formula="income − costs with the yield − costs by area",
                numbers=f"{income} − {by_yield} − {by_area}",
                outcome=net,
                source="definition",
            ),
        ),
        assumption="Costs that every strip carries alike and that nobody typed are left out: they cancel in each comparison.",
    )


def partial_working(result: PartialBudget, show: UnitFormatter, *, treatment: str, control: str) -> Working:
    """The working of ``partial_budget``."""
    income, cost, net = (
        show.text(value, "money_per_area", signed=True)
        for value in (result.extra_income_per_ha, result.extra_cost_per_ha, result.net_gain_per_ha)
    )
    steps = [
        Step(label="Extra income", formula="difference in yield × price", numbers=f"{treatment} − {control}", outcome=income),
        Step(
            label="Extra cost",
            formula="costs by area and with the yield, treatment less control",
            numbers=f"{treatment} − {control}",
            outcome=cost,
        ),
        Step(
            label="Net gain",
            formula="extra income − extra cost",
            numbers=f"{income} − ({cost})",
            outcome=net,
            source="partial budget: CIMMYT 1988, from memory",
        ),
    ]
    if result.return_on_cost is not None:
        steps.append(
            Step(
                label="Return on the extra money",
                formula="net gain ÷ extra cost",
                numbers=f"{net} ÷ {cost}",
                outcome=f"{format_number(100 * result.return_on_cost, 0)} %",
                source="definition",
            )
        )
    return Working(
        title=f"{treatment} against {control}",
        outcome=net,
        steps=tuple(steps),
        assumption="Means of the strips; whether the difference is real is the verdict's question, not this table's.",
    )
