"""The answer of a trial whose treatments are amounts: does the amount matter, which is best, how flat is it there.

Every amount gets its adjusted mean from the layout's own model, with the covariance of the means by Kenward and Roger and the
least degrees of freedom of their differences; ``contrast_test`` and ``averaged_curve`` answer from those.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from cultrix_core.stats.averaged_curve import AveragedCurve, fit_averaged
from cultrix_core.stats.contrast_test import ContrastTest, Guess, contrast_test, usual_guesses
from cultrix_core.stats.linear_model import Factor, Term
from cultrix_core.stats.mixed_model import MixedFit, cell_row, contrast, fit_mixed

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True, kw_only=True)
class AmountAnswer:
    """The averaged curve and the test that the amount matters."""

    curve: AveragedCurve
    test: ContrastTest


def fit_amounts(
    amounts: Sequence[float],
    response: Sequence[float],
    block: Sequence[str] | None = None,
    other: Sequence[str] | None = None,
    random: Sequence[Term] = (),
) -> MixedFit:
    """The strips with a mean for every amount, at every level of another factor where there is one.

    Parameters
    ----------
    amounts, response : n strips. ``block``, ``other`` : n labels; fewer than two different ones take nothing out.
    random : errors of the layout beside the residual, of ``block``, ``amount`` and ``other``; empty: blocks fixed.

    Raises
    ------
    Refusal : those of ``fit_mixed``.
    """
    levels = [repr(value) for value in sorted(set(amounts))]
    factors = [Factor.of("amount", [repr(value) for value in amounts], levels)]
    terms: list[Term] = [("amount",)]
    if other is not None and len(set(other)) > 1:
        factors.append(Factor.of("other", other))
        terms = [("other",), ("amount",), ("other", "amount")]
    if block is not None and len(set(block)) > 1:
        factors.append(Factor.of("block", block))
        terms = terms if random else [("block",), *terms]
    return fit_mixed(response, factors, terms, list(random))


def answer_amounts(
    fit: MixedFit,
    *,
    at: Mapping[str, str] | None = None,
    alpha: float = 0.10,
    price: float | None = None,
    cost: float | Sequence[float] | None = None,
    within: float | None = None,
    guesses: Sequence[Guess] = (),
) -> AmountAnswer:
    """Answer from a fit of ``fit_amounts``, over the other factor or at one of its levels.

    Parameters
    ----------
    at : level of ``other``; None: averaged over it.
    price, cost, within, alpha : as in ``fit_averaged``, costs as a sequence by amount from the lowest.
    guesses : frozen shapes; empty: the usual ones.

    Raises
    ------
    Refusal : those of ``fit_averaged`` and ``contrast_test``.
    """
    names = fit.factor("amount").levels
    levels = [float(name) for name in names]
    rows = np.array([cell_row(fit, {**(at or {}), "amount": name}) for name in names])
    means = [float(value) for value in rows @ fit.beta]
    covariance = np.asarray(rows @ fit.phi_adjusted @ rows.T, dtype=np.float64)
    df = min(contrast(fit, row - rows[0]).df for row in rows[1:])
    return AmountAnswer(
        curve=fit_averaged(levels, means, covariance, df, alpha=alpha, price=price, cost=cost, within=within),
        test=contrast_test(levels, means, covariance, df, guesses or usual_guesses(levels[0], levels[-1])),
    )
