"""How the answer in money moves with prices and costs.

Net return of a strip is w × yield − costs, w being price less cost per unit of yield. Costs are the same for all strips of a
treatment but for the seed really sown, so a comparison's net return at another price p and other costs (times f) is

    estimate(p, f) = estimate + (p − p₀) × difference in yield − (f − 1) × extra cost,

and its interval keeps its width in units of yield: half width × (p − c) ÷ (p₀ − c). That is exact where costs differ between
treatments only, and it is the verdict's own number at the base.

The tornado changes one thing at a time from low to high and keeps the rest.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.stats.decision_rule import Call, agreed, make_call


@dataclass(frozen=True, slots=True, kw_only=True)
class NetComparison:
    """A comparison of net return at the base, money per hectare.

    ``yield_t_per_ha``: difference in yield; ``extra_cost_per_ha``: of costs by area; ``worth_per_t``: price less cost per unit.
    ``second``: estimate, lower and upper of the other analysis of an alternating layout.
    """

    estimate: float
    lower: float
    upper: float
    yield_t_per_ha: float
    extra_cost_per_ha: float
    price_per_t: float
    worth_per_t: float
    second: tuple[float, float, float] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Cell:
    """The comparison at one price and one level of extra cost; ``call`` is None where the price does not cover its costs."""

    price_per_t: float
    cost_factor: float
    estimate: float
    lower: float
    upper: float
    call: Call | None


def at(base: NetComparison, *, price_per_t: float, cost_factor: float, margin: float | None) -> Cell:
    """The comparison at another price and other extra costs.

    Raises
    ------
    Refusal : ``not_positive`` price, ``too_small`` factor, ``price_not_above_cost`` at the base.
    """
    require_positive(price_per_t, "price", label="Price")
    require_between(cost_factor, 0, 100, "cost_factor", label="Costs against today's")
    if base.worth_per_t <= 0:
        raise Refusal(
            "price_not_above_cost",
            field="unit_cost",
            value=f"{base.price_per_t:g}",
            limit=f"{base.price_per_t - base.worth_per_t:g}",
        )
    worth = base.worth_per_t + price_per_t - base.price_per_t
    estimate, lower, upper = _moved(base, (base.estimate, base.lower, base.upper), price_per_t, cost_factor)
    call = make_call(lower, upper, margin) if worth > 0 else None
    if call is not None and base.second is not None:
        _, low, high = _moved(base, base.second, price_per_t, cost_factor)
        call = agreed(call, make_call(low, high, margin))
    return Cell(price_per_t=price_per_t, cost_factor=cost_factor, estimate=estimate, lower=lower, upper=upper, call=call)


def _moved(
    base: NetComparison, interval: tuple[float, float, float], price: float, factor: float
) -> tuple[float, float, float]:
    middle, lower, upper = interval
    more = price - base.price_per_t
    estimate = middle + more * base.yield_t_per_ha - (factor - 1) * base.extra_cost_per_ha
    stretch = max((base.worth_per_t + more) / base.worth_per_t, 0.0)
    return estimate, estimate - (middle - lower) * stretch, estimate + (upper - middle) * stretch


def grid(
    base: NetComparison, prices: Sequence[float], factors: Sequence[float], *, margin: float | None
) -> tuple[tuple[Cell, ...], ...]:
    """Cells by cost factor (rows) and price (columns)."""
    return tuple(
        tuple(at(base, price_per_t=price, cost_factor=factor, margin=margin) for price in prices) for factor in factors
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Driver:
    """One thing that may be otherwise, from ``low`` to ``high``; ``outcome`` gives the net gain at a value."""

    name: str
    low: float
    high: float
    outcome: Callable[[float], float]


@dataclass(frozen=True, slots=True, kw_only=True)
class Bar:
    """A bar of the tornado: net gain at the low and at the high end."""

    name: str
    low: float
    high: float
    at_low: float
    at_high: float

    @property
    def swing(self) -> float:
        return abs(self.at_high - self.at_low)

    @property
    def turns(self) -> bool:
        """Whether the sign of the gain changes within the bar."""
        return self.at_low * self.at_high < 0


def tornado(drivers: Sequence[Driver]) -> tuple[Bar, ...]:
    """Bars by falling swing."""
    bars = [
        Bar(
            name=driver.name,
            low=driver.low,
            high=driver.high,
            at_low=driver.outcome(driver.low),
            at_high=driver.outcome(driver.high),
        )
        for driver in drivers
    ]
    return tuple(sorted(bars, key=lambda bar: -bar.swing))
