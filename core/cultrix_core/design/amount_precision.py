"""How well a planned ladder of amounts would find the best one: simulated trials through the code of the answer.

Truths are parabolas with their top at a third, the half and two thirds of the range tried, that fall by ``fall`` of the yield
from the top to the farther end; yields are adjusted means with the error of the plan's own stratum. Every trial is answered as
the verdict answers (``averaged_curve``), with fewer draws in its bootstrap.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from cultrix_core.errors import Refusal, require_positive
from cultrix_core.stats.averaged_curve import LEAST_LEVELS, fit_averaged

TOPS = (1 / 3, 1 / 2, 2 / 3)
TRIALS = 6
DRAWS = 149
SEED = 4711


@dataclass(frozen=True, slots=True, kw_only=True)
class AmountPrecision:
    """Medians over the trials simulated.

    ``interval`` : width of the interval of the best amount. ``shown`` : share of trials in which some amounts are shown to lose
    no more than the stated sum, ``shown_width`` : how wide their range is then, None where none is. ``at_stake`` : what the
    worst amount of the interval truly loses against the best, in money.
    """

    interval: float
    shown: float
    shown_width: float | None
    at_stake: float
    trials: int


def amount_precision(
    amounts: Sequence[float],
    *,
    level: float,
    sed: float,
    df: float,
    fall: float,
    alpha: float,
    price: float,
    cost: float,
    within: float,
    trials: int = TRIALS,
) -> AmountPrecision:
    """Simulate a plan.

    Parameters
    ----------
    amounts : those planned, any unit. level : expected yield. sed, df : standard error of a difference of two amounts, unit of
        the yield, and its degrees of freedom. fall : from the top to the farther end, unit of the yield.
    price, cost : of one unit of yield and of the amount. within : the loss that would be put up with, in money.
    trials : how many for each truth.

    Raises
    ------
    Refusal : ``too_few_treatments`` with fewer than three amounts, ``not_positive`` errors, falls or sums.
    """
    x = np.unique(np.asarray(amounts, dtype=np.float64))
    if x.size < LEAST_LEVELS:
        raise Refusal("too_few_treatments", field="x", label="Amounts", value=int(x.size))
    for value, name in ((sed, "sed"), (df, "df"), (fall, "fall"), (within, "within"), (price, "price")):
        require_positive(value, name)
    rng = np.random.default_rng(SEED)
    covariance = np.eye(x.size) * sed**2 / 2
    widths, ranges, stakes = [], [], []
    for share in TOPS:
        top = x[0] + share * (x[-1] - x[0])
        bend = fall / max(top - x[0], x[-1] - top) ** 2
        truth = level - bend * (x - top) ** 2
        for _ in range(trials):
            spread = np.sqrt(rng.chisquare(df) / df)
            means = truth + rng.normal(0, sed / np.sqrt(2), x.size)
            # in units of the error's own estimate: the same fit as with the covariance times spread², from one set of bases
            curve = fit_averaged(
                x.tolist(),
                (means / spread).tolist(),
                covariance,
                df,
                alpha=alpha,
                price=price * spread,
                cost=cost,
                within=within,
                draws=DRAWS,
            )
            best = curve.profit or curve.best
            widths.append(best.upper - best.lower)
            ranges.append(None if curve.shown is None else curve.shown.upper - curve.shown.lower)
            grid = np.asarray(curve.x)
            net = price * (level - bend * (grid - top) ** 2) - cost * grid
            inside = (grid >= best.lower) & (grid <= best.upper)
            stakes.append(float(net.max() - net[inside].min()) if inside.any() else 0.0)
    shown = [width for width in ranges if width is not None]
    return AmountPrecision(
        interval=float(np.median(widths)),
        shown=len(shown) / len(ranges),
        shown_width=float(np.median(shown)) if shown else None,
        at_stake=float(np.median(stakes)),
        trials=len(widths),
    )
