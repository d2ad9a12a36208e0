"""Around the amount that pays best: how flat it is, and how many plants one can lose.

With y(x) the fitted response, w the worth of a unit of yield and k the cost of a unit of x, profit is w y(x) − k x.

- Flatness: the amounts whose profit is within a given money of the best.
- Margin of safety: with the best amount sown and paid for, the loss of yield when only part of it stands is w (y(x*) − y(x)).
  The margin is how far x may fall before that loss reaches a given money.

Both are read off the curve inside the range that was tried; what lies outside is not known and is said to be open. The
interval of the best amount itself is the profile interval of the curve's fit (``stats.curves``).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import scipy

from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.stats.curves import CurveFit, Shape, best_x

GRID = 801


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


def best_amount(fit: CurveFit, ratio: float) -> float:
    """Amount inside the range tried at which profit is highest, for a ratio of cost to worth; an end where it lies beyond."""
    require_between(ratio, 0, 1e12, "ratio", label="Cost over price")
    shape = _chosen(fit)
    low, high = fit.range
    value = best_x(shape, ratio, low, high)
    candidates = [low, high, *([value] if value is not None and low < value < high else [])]
    return max(candidates, key=lambda x: float(shape.at(x)[0]) - ratio * x)


def around(fit: CurveFit, *, worth: float, cost: float, within: float, loss: float) -> Around:
    """The flat range and the margin of safety of the best amount.

    Parameters
    ----------
    fit : curve of yield over x. worth : money per unit of y. cost : money per unit of x, so that profit is money per hectare.
    within : money from the best that counts as equal. loss : money of yield that one would bear.

    Raises
    ------
    Refusal : ``not_positive`` worth, within or loss; ``too_small`` cost.
    """
    require_positive(worth, "price", label="Worth of a unit of yield")
    require_between(cost, 0, 1e12, "cost", label="Cost of a unit")
    require_positive(within, "within", label="Money within the best")
    require_positive(loss, "loss", label="Loss one would bear")
    shape = _chosen(fit)
    low, high = fit.range
    best = best_amount(fit, cost / worth)

    def profit(x: float) -> float:
        return worth * float(shape.at(x)[0]) - cost * x

    def value(x: float) -> float:
        return worth * float(shape.at(x)[0])

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


def _chosen(fit: CurveFit) -> Shape:
    chosen = next((shape for shape in fit.shapes if shape.name == fit.chosen), None)
    if chosen is None or not chosen.parameters:
        raise Refusal("too_few_strips", field="response", value="A best amount")
    return chosen
