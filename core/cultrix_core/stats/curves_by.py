"""Response curves where another factor is varied too: one over it, one at each of its levels, and whether they differ.

Over the other factors the curve is fitted to the means of strips with the same amount in a block, so that every amount
counts once a block whatever the layout nests in what. At one level it is fitted to that level's strips, blocks taken out.

Whether curves differ is tested in the layout's own mixed model: other + x + x² + other × x + other × x², the last two
together by Kenward and Roger; with three amounts the quadratic passes through all of them, so nothing of the shape is lost.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from cultrix_core.errors import Refusal
from cultrix_core.stats.curves import CurveFit, fit_curves
from cultrix_core.stats.linear_model import Column, Covariate, Factor, Term
from cultrix_core.stats.mixed_model import MixedTest, fit_mixed, rows_test

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True, kw_only=True)
class CurvesBy:
    """The curve over the other factor, those at its levels, and the test that they differ (None: cannot be tested)."""

    over: CurveFit
    at: Mapping[str, CurveFit]
    differ: MixedTest | None


def averaged(
    x: Sequence[float], y: Sequence[float], block: Sequence[str], other: Sequence[str]
) -> tuple[list[float], list[float], list[str]]:
    """Means of strips with the same amount in a block, where every level of the other factor stands there."""
    levels = set(other)
    cells: dict[tuple[str, float], dict[str, float]] = {}
    for amount, value, place, level in zip(x, y, block, other, strict=True):
        cells.setdefault((place, amount), {})[level] = value
    whole = {key: own for key, own in cells.items() if set(own) == levels}
    return (
        [amount for _, amount in whole],
        [float(np.mean(list(own.values()))) for own in whole.values()],
        [place for place, _ in whole],
    )


def fit_curves_by(
    x: Sequence[float],
    y: Sequence[float],
    block: Sequence[str],
    other: Sequence[str],
    *,
    random: Sequence[tuple[str, ...]],
    ratio: float | None = None,
    alpha: float = 0.10,
) -> CurvesBy:
    """Fit curves over and at the levels of another factor.

    Parameters
    ----------
    x, y, block, other : n strips each.
    random : errors of the layout beside the residual, of the columns ``block``, ``amount`` and ``other``; empty: blocks fixed.
    ratio : cost of one unit of x ÷ price of one unit of y.

    Raises
    ------
    Refusal : those of ``fit_curves`` for the curve over the other factor.
    """
    over = fit_curves(*averaged(x, y, block, other), ratio=ratio, alpha=alpha)
    at: dict[str, CurveFit] = {}
    for level in dict.fromkeys(other):
        own = [place for place, name in enumerate(other) if name == level]
        try:
            at[level] = fit_curves(
                [x[place] for place in own],
                [y[place] for place in own],
                [block[place] for place in own],
                ratio=ratio,
                alpha=alpha,
            )
        except Refusal:
            continue
    return CurvesBy(over=over, at=at, differ=_differ(x, y, block, other, random))


def _differ(
    x: Sequence[float], y: Sequence[float], block: Sequence[str], other: Sequence[str], random: Sequence[tuple[str, ...]]
) -> MixedTest | None:
    amounts = np.asarray(x, dtype=np.float64)
    scaled = (amounts - amounts.mean()) / (np.ptp(amounts) or 1.0)
    columns: list[Column] = [
        Factor.of("block", block),
        Factor.of("other", other),
        Factor.of("amount", [f"{value:g}" for value in x]),
        Covariate(name="x", values=tuple(scaled)),
        Covariate(name="xx", values=tuple(scaled**2)),
    ]
    terms: list[Term] = [*([] if random else [("block",)]), ("other",), ("x",), ("xx",), ("other", "x"), ("other", "xx")]
    try:
        fit = fit_mixed(y, columns, terms, random)
    except Refusal:
        return None
    places = [*range(*fit.columns["other", "x"].indices(10**6)), *range(*fit.columns["other", "xx"].indices(10**6))]
    return rows_test(fit, np.eye(fit.x.shape[1])[places])
