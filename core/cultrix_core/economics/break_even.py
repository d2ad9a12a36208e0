"""The yield gain a treatment must bring to pay for itself: the difference that matters.

Definition. m = |extra cost per area| ÷ (price − cost per unit of yield): the gain whose worth, after
drying and hauling it, equals what the treatment costs more (or saves) than the control.
"""

from __future__ import annotations

from dataclasses import dataclass

from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.working import Step, Working

MOST_MONEY = 1e9


@dataclass(frozen=True, slots=True, kw_only=True)
class BreakEven:
    """Money in the workspace's currency; ``gain_kg_per_ha`` is None when the extra cost is 0."""

    extra_cost_per_ha: float
    price_per_t: float
    unit_cost_per_t: float
    gain_kg_per_ha: float | None

    @property
    def worth_per_t(self) -> float:
        """Price less cost per unit of yield."""
        return self.price_per_t - self.unit_cost_per_t


def break_even(*, extra_cost_per_ha: float, price_per_t: float, unit_cost_per_t: float = 0.0) -> BreakEven:
    """Break-even yield gain of a treatment against the control.

    Raises
    ------
    Refusal : ``not_positive`` price, ``too_small`` unit cost, ``price_not_above_cost``.
    """
    require_positive(price_per_t, "price")
    require_between(unit_cost_per_t, 0, MOST_MONEY, "unit_cost", label="Cost per unit of yield")
    require_between(extra_cost_per_ha, -MOST_MONEY, MOST_MONEY, "extra_cost")
    worth = price_per_t - unit_cost_per_t
    if worth <= 0:
        raise Refusal("price_not_above_cost", field="unit_cost", value=f"{price_per_t:g}", limit=f"{unit_cost_per_t:g}")
    gain = abs(extra_cost_per_ha) / worth * 1000 if extra_cost_per_ha else None
    return BreakEven(
        extra_cost_per_ha=extra_cost_per_ha, price_per_t=price_per_t, unit_cost_per_t=unit_cost_per_t, gain_kg_per_ha=gain
    )


def break_even_working(result: BreakEven, show: UnitFormatter) -> Working:
    """The working of ``break_even`` in the reader's units."""
    price, unit_cost = show.text(result.price_per_t, "price"), show.text(result.unit_cost_per_t, "price")
    worth = show.text(result.worth_per_t, "price")
    steps = [
        Step(
            label="Worth of one more unit",
            formula="price − cost per unit of yield",
            numbers=f"{price} − {unit_cost}",
            outcome=worth,
            source="definition",
        )
    ]
    if result.gain_kg_per_ha is None:
        outcome = "no extra cost: any gain pays"
        assumption = "Set a practical margin, else “no difference that matters” cannot be called."
    else:
        outcome = show.text(result.gain_kg_per_ha, "yield")
        assumption = "The price: it is tomorrow's, and the gain that pays moves against it in proportion."
        cost = show.text(abs(result.extra_cost_per_ha), "money_per_area")
        label = "Gain that pays" if result.extra_cost_per_ha > 0 else "Loss the saving covers"
        steps.append(
            Step(
                label=label,
                formula="|extra cost| ÷ worth of one more unit",
                numbers=f"{cost} ÷ {worth}",
                outcome=outcome,
                source="definition",
            )
        )
    return Working(title="Difference that matters", outcome=outcome, steps=tuple(steps), assumption=assumption)
