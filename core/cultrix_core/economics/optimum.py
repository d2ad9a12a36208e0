"""Around the amount that pays best: how flat it is, and how many plants one can lose.

With y(x) the fitted response, w the worth of a unit of yield and k the cost of a unit of x, profit is w y(x) − k x.

- Flatness: the amounts whose profit is within a given money of the best.
- Margin of safety: with the best amount sown and paid for, the loss of yield when only part of it stands is w (y(x*) − y(x)).
  The margin is how far x may fall before that loss reaches a given money.

Both are read off the curve inside the range that was tried; what lies outside is not known and is said to be open. The
interval of the best amount itself comes with the curve (``stats.averaged_curve``).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

import numpy as np
import scipy

from cultrix_core.errors import require_between, require_positive

GRID = 801


class YieldCurve(Protocol):
    """A response over the range that was tried."""

    @property
    def range(self) -> tuple[float, float]:
        """Lowest and highest amount tried."""

    def at(self, x: float) -> float:
        """The response at an amount."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Around:
    """What surrounds the best amount. Ends that are None are open: not reached within the range tried.

    ``at_edge``: the best amount is an end of the range, so the true one may lie beyond.
    ``safe_loss``: how much of x may be lost; None when even the lowest amount tried does not cost that much.
    """

    x: float
    at_edge: bool
    profit: float
    flat_lower: float | None
    flat_upper: float | None
    safe_loss: float | None


def best_amount(curve: YieldCurve, ratio: float) -> float:
    """Amount inside the range tried at which profit is highest, for a ratio of cost to worth; an end where it lies beyond."""
    require_between(ratio, 0, 1e12, "ratio", label="Cost over price")
    low, high = curve.range
    steps = np.linspace(low, high, GRID)

    def loss(x: float) -> float:
        return ratio * x - curve.at(x)

    place = int(np.argmin([loss(float(step)) for step in steps]))
    between = (float(steps[max(place - 1, 0)]), float(steps[min(place + 1, GRID - 1)]))
    inner = scipy.optimize.minimize_scalar(loss, bounds=between, method="bounded", options={"xatol": 1e-9 * (high - low)}).x
    return min((float(steps[place]), float(inner)), key=loss)


def around(curve: YieldCurve, *, worth: float, cost: float, within: float, loss: float) -> Around:
    """The flat range and the margin of safety of the best amount.

    Parameters
    ----------
    curve : yield over x. worth : money per unit of y. cost : money per unit of x, so that profit is money per hectare.
    within : money from the best that counts as equal. loss : money of yield that one would bear.

    Raises
    ------
    Refusal : ``not_positive`` worth, within or loss; ``too_small`` cost.
    """
    require_positive(worth, "price", label="Worth of a unit of yield")
    require_between(cost, 0, 1e12, "cost", label="Cost of a unit")
    require_positive(within, "within", label="Money within the best")
    require_positive(loss, "loss", label="Loss one would bear")
    low, high = curve.range
    best = best_amount(curve, cost / worth)

    def profit(x: float) -> float:
        return worth * curve.at(x) - cost * x

    def value(x: float) -> float:
        return worth * curve.at(x)

    top = profit(best)
    safe = _crossing(lambda x: value(x) - value(best) + loss, best, low)
    edge = 1e-6 * (high - low)
    return Around(
        x=best,
        at_edge=best - low < edge or high - best < edge,
        profit=top,
        flat_lower=_crossing(lambda x: profit(x) - top + within, best, low),
        flat_upper=_crossing(lambda x: profit(x) - top + within, best, high),
        safe_loss=None if safe is None else best - safe,
    )


def _crossing(room: Callable[[float], float], start: float, end: float) -> float | None:
    """Where ``room`` first falls to nought on the way from ``start`` to ``end``; None when it stays above."""
    steps = np.linspace(start, end, GRID)
    for before, after in zip(steps[:-1], steps[1:], strict=True):
        if room(float(after)) <= 0:
            return float(scipy.optimize.brentq(room, float(before), float(after)))
    return None
