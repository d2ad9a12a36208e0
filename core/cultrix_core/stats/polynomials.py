"""Polynomial contrasts over the levels of an amount, evenly spaced or not.

Coefficients are orthonormal over the levels with equal weight, of degree 1, 2, … levels − 1, signed so that the highest level
has a positive coefficient in degree 1 and the leading power is positive: the Q of a QR decomposition of 1, x, x², … [1].

Reference: [1] Narula (1979) Orthogonal polynomial regression, Int. Stat. Rev. 47:31–36 (from memory).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from cultrix_core.errors import Refusal, require_finite
from cultrix_core.stats.linear_model import FixedFit
from cultrix_core.stats.mixed_model import Contrast, MixedFit, cell_row, contrast

Array = NDArray[np.float64]
MOST_DEGREE = 5
NAMES = ("linear", "quadratic", "cubic", "quartic", "quintic")


@dataclass(frozen=True, slots=True, kw_only=True)
class PolynomialTest:
    """One degree: F on 1 and ``df``, estimate and standard error in the unit of the response."""

    degree: int
    name: str
    coefficients: tuple[float, ...]
    estimate: float
    se: float
    df: float
    f: float
    p: float


def polynomial_coefficients(amounts: Sequence[float]) -> Array:
    """Orthonormal contrasts, (levels − 1, levels); row d − 1 has degree d.

    Raises
    ------
    Refusal : ``too_few_treatments`` for fewer than two amounts, ``not_finite``; ``unknown_choice`` when two are equal.
    """
    x = np.asarray(amounts, dtype=np.float64)
    for value in x:
        require_finite(float(value), "amounts")
    if x.size < 2:
        raise Refusal("too_few_treatments", field="amounts", value=x.size)
    if np.unique(x).size < x.size:
        raise Refusal("unknown_choice", field="amounts", label="Amounts", value="two that are equal", limit="different amounts")
    centred = (x - x.mean()) / (x.max() - x.min())
    q, r = np.linalg.qr(np.vander(centred, x.size, increasing=True))
    return np.asarray((q * np.sign(np.diag(r))).T[1:])


def polynomials(amounts: Sequence[float], judge: Callable[[Array], Contrast]) -> list[PolynomialTest]:
    """Every degree up to the fifth; ``judge`` turns weights of the levels, in the order of ``amounts``, into a contrast."""
    result = []
    for degree, weights in enumerate(polynomial_coefficients(amounts)[:MOST_DEGREE], start=1):
        item = judge(weights)
        f = (item.estimate / item.se) ** 2
        result.append(
            PolynomialTest(
                degree=degree,
                name=NAMES[degree - 1],
                coefficients=tuple(float(weight) for weight in weights),
                estimate=item.estimate,
                se=item.se,
                df=item.df,
                f=f,
                p=float(scipy.stats.f.sf(f, 1, item.df)),
            )
        )
    return result


def of_mixed(fit: MixedFit, factor: str, levels: Sequence[str]) -> Callable[[Array], Contrast]:
    """Weights of the levels of a factor, other factors averaged, by Kenward and Roger."""
    rows = np.array([cell_row(fit, {factor: level}) for level in levels])
    return lambda weights: contrast(fit, weights @ rows)


def of_fixed(fit: FixedFit, factor: str) -> Callable[[Array], Contrast]:
    """Weights of the levels of a factor of a fixed model."""
    rows, mse = fit.mean_rows(factor), fit.mse or 0.0

    def judge(weights: Array) -> Contrast:
        row = weights @ rows
        return Contrast(
            estimate=float(row @ fit.beta), se=float(np.sqrt(mse * row @ fit.cov_unscaled @ row)), df=float(fit.df_error)
        )

    return judge
