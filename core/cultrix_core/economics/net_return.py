"""Net return of a strip: what is left per area after the treatment and the cost of the yield itself.

Definition. net = yield × (price − cost per unit of yield) − extra cost of the treatment. Costs that all
strips share cancel in every comparison and are left out, which is said in the working.
"""

from __future__ import annotations

from cultrix_core.economics.break_even import MOST_MONEY, BreakEven
from cultrix_core.errors import require_between, require_finite
from cultrix_core.showing import Shower
from cultrix_core.working import Step, Working


def net_return_per_ha(yield_kg_per_ha: float, money: BreakEven) -> float:
    """Net return, money/ha, from yield in kg/ha; refuses a yield that is negative or not finite."""
    require_finite(yield_kg_per_ha, "yield")
    require_between(yield_kg_per_ha, 0, MOST_MONEY, "yield")
    return yield_kg_per_ha / 1000 * money.worth_per_t - money.extra_cost_per_ha


def net_return_working(yield_kg_per_ha: float, money: BreakEven, show: Shower, *, treatment: str) -> Working:
    """The working of ``net_return_per_ha`` for a treatment's mean."""
    worth = show.text(money.worth_per_t, "price")
    gross = yield_kg_per_ha / 1000 * money.worth_per_t
    outcome = show.text(gross - money.extra_cost_per_ha, "money_per_area")
    return Working(
        title=f"Net return of {treatment}",
        outcome=outcome,
        steps=(
            Step(
                label="Worth of one more unit",
                formula="price − cost per unit of yield",
                numbers=f"{show.text(money.price_per_t, 'price')} − {show.text(money.unit_cost_per_t, 'price')}",
                outcome=worth,
            ),
            Step(
                label="Worth of the yield",
                formula="yield × worth of one more unit",
                numbers=f"{show.text(yield_kg_per_ha, 'yield')} × {worth}",
                outcome=show.text(gross, "money_per_area"),
            ),
            Step(
                label="Net return",
                formula="worth of the yield − extra cost of the treatment",
                numbers=f"{show.text(gross, 'money_per_area')} − {show.text(money.extra_cost_per_ha, 'money_per_area')}",
                outcome=outcome,
            ),
        ),
        assumption="Costs that every strip carries alike are left out: they cancel in each comparison.",
    )
