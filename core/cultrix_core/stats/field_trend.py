"""A second look at the ground: strips in a line that resemble their neighbours, or that lie on a smooth trend.

AR(1): the covariance of two strips of one row that lie d places apart is σ² φ^d; blocks stay in the model where they are given.
φ is found by the profile of the restricted likelihood, σ² = rest ÷ (n − p); standard errors at that φ, n − p degrees of
freedom. [1]

Smooth trend: a penalised spline of the place [2], as a mixed model: treatments and a straight line are fixed, the bends random,

    y = Xβ + Zb + e,  Z = B U Λ^−½,  b ~ N(0, σ_b²), e ~ N(0, σ²),

B cubic B-splines on evenly spaced knots, UΛU′ the part of D′D that is not nought, D second differences. Fitted by REML;
standard errors and degrees of freedom by Kenward and Roger [3], V being linear in both variances. Log-likelihoods are told for
levels coded against the first, as R does.

Either is shown beside the verdict and decides nothing unless the frozen protocol names it: a trend that is chosen because it is
seen makes errors look smaller than they are.

References: [1] Cullis & Gleeson (1991) Biometrics 47:1449–1460; [2] Eilers & Marx (1996) Stat. Sci. 11:89–121; Currie & Durbán
(2002) Stat. Model. 2:333–349; [3] Kenward & Roger (1997) Biometrics 53:983–997 (all from memory).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import combinations
from math import log, pi, sqrt

import numpy as np
import scipy
from numpy.typing import NDArray

from cultrix_core.errors import Refusal, require_between, require_finite
from cultrix_core.stats.linear_model import Factor, Term, design_matrix

Array = NDArray[np.float64]
INNER = 12  # columns of the spline basis, cubic: eight stretches between inner knots and one beyond them at each end
DEGREE = 3
MOST_STRIPS = 600
LEAST_FREEDOM = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class TrendDifference:
    """left − right with its interval, by one of the two models."""

    left: str
    right: str
    estimate: float
    se: float
    df: float
    p: float
    lower: float
    upper: float


@dataclass(frozen=True, slots=True, kw_only=True)
class NeighbourLook:
    """AR(1): how alike neighbours are (``phi``), the variance, and the differences."""

    phi: float
    variance: float
    reml_loglik: float
    differences: tuple[TrendDifference, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class TrendLook:
    """Smooth trend: both variances, the trend at each strip (mean nought), and the differences."""

    error_variance: float
    trend_variance: float
    reml_loglik: float
    trend: tuple[float, ...]
    differences: tuple[TrendDifference, ...]


def neighbours(
    response: Sequence[float],
    treatment: Sequence[str],
    place: Sequence[float],
    *,
    row: Sequence[str] | None = None,
    block: Sequence[str] | None = None,
    alpha: float = 0.10,
    levels: Sequence[str] | None = None,
) -> NeighbourLook:
    """Compare treatments where neighbouring strips resemble each other.

    Parameters
    ----------
    response, treatment : n strips. ``place`` : number of each in its row; gaps count. ``row`` : rows of strips, one without it.
    block : blocks that stay in the model.

    Raises
    ------
    Refusal : ``no_response``, ``lengths_differ``, ``not_finite``, ``too_large`` beyond 600 strips, ``too_few_strips``.
    """
    y, x, pairs, coded = _model(response, treatment, place, block, levels, alpha)
    rows = np.array(row if row is not None else ["1"] * y.size)
    apart = np.abs(np.subtract.outer(np.asarray(place, dtype=np.float64), np.asarray(place, dtype=np.float64)))
    same = rows[:, None] == rows[None, :]

    def fitted(phi: float) -> _Reml:
        return _reml(y, x, np.where(same, phi**apart, 0.0))

    result = scipy.optimize.minimize_scalar(
        lambda phi: -fitted(float(phi)).loglik, bounds=(0.0, 0.995), method="bounded", options={"xatol": 1e-9}
    )
    phi = float(result.x)
    best = fitted(phi)
    df = float(y.size - x.shape[1])
    return NeighbourLook(
        phi=phi,
        variance=best.variance,
        reml_loglik=best.loglik - coded,
        differences=tuple(
            _difference(left, right, contrast, best.beta, best.variance * best.phi, df, alpha)
            for left, right, contrast in pairs
        ),
    )


def smooth_trend(
    response: Sequence[float],
    treatment: Sequence[str],
    place: Sequence[float],
    *,
    alpha: float = 0.10,
    levels: Sequence[str] | None = None,
    inner: int = INNER,
) -> TrendLook:
    """Compare treatments on a smooth trend along the strips, which stands in the place of blocks.

    Parameters
    ----------
    response, treatment, place : n strips in one line; ``place`` in any unit.
    inner : columns of the spline basis.

    Raises
    ------
    Refusal : those of ``neighbours``.
    """
    y, x, pairs, coded = _model(response, treatment, place, None, levels, alpha)
    at = np.asarray(place, dtype=np.float64)
    x = np.column_stack([x, at - at.mean()])
    if y.size - x.shape[1] < LEAST_FREEDOM:
        raise Refusal("too_few_strips", field="response", value="A smooth trend")
    z = _bends(at, inner)
    g = z @ z.T

    def fitted(ratio: float) -> _Reml:
        return _reml(y, x, np.eye(y.size) + np.exp(ratio) * g)

    result = scipy.optimize.minimize_scalar(
        lambda ratio: -fitted(float(ratio)).loglik, bounds=(-12.0, 12.0), method="bounded", options={"xatol": 1e-9}
    )
    ratio = float(np.exp(result.x))
    best = fitted(float(result.x))
    error, bend = best.variance, best.variance * ratio
    adjusted, freedom = _kenward_roger(x, (np.eye(y.size), g), (error, bend))
    inverse = np.linalg.inv(error * np.eye(y.size) + bend * g)
    wave = bend * g @ inverse @ (y - x @ best.beta) + (at - at.mean()) * best.beta[-1]
    return TrendLook(
        error_variance=error,
        trend_variance=bend,
        reml_loglik=best.loglik - coded,
        trend=tuple(float(value) for value in wave - wave.mean()),
        differences=tuple(
            _difference(left, right, row, best.beta, adjusted, freedom(row), alpha)
            for left, right, contrast in pairs
            for row in [np.append(contrast, 0.0)]
        ),
    )


def _model(
    response: Sequence[float],
    treatment: Sequence[str],
    place: Sequence[float],
    block: Sequence[str] | None,
    levels: Sequence[str] | None,
    alpha: float,
) -> tuple[Array, Array, list[tuple[str, str, Array]], float]:
    """Responses, fixed columns, the contrast of every pair of treatments, and what the coding adds to the likelihood."""
    require_between(alpha, 0.001, 0.5, "alpha", label="Significance level")
    y = np.asarray(response, dtype=np.float64)
    if not y.size:
        raise Refusal("no_response", field="response")
    if y.size > MOST_STRIPS:
        raise Refusal("too_large", field="response", label="Strips", value=y.size, limit=MOST_STRIPS)
    for other in (treatment, place, *([block] if block is not None else [])):
        if len(other) != y.size:
            raise Refusal("lengths_differ", field="place", limit=y.size, value=len(other))
    for value in (*y, *place):
        require_finite(float(value), "response")
    factor = Factor.of("treatment", treatment, levels)
    factors, terms = [factor], [("treatment",)]
    if block is not None and len(set(block)) > 1:
        factors, terms = [Factor.of("block", block), factor], [("block",), ("treatment",)]
    named: list[Term] = [*terms]
    x, columns = design_matrix(y.size, factors, named)
    if y.size - x.shape[1] < LEAST_FREEDOM:
        raise Refusal("too_few_strips", field="response", value="The treatments")
    pairs = []
    for left, right in combinations(factor.levels, 2):
        contrast = np.zeros(x.shape[1])
        contrast[columns["treatment",]] = factor.average(left) - factor.average(right)
        pairs.append((left, right, contrast))
    first, _ = design_matrix(y.size, factors, named, against_first=True)
    coded = float(np.linalg.slogdet(np.linalg.lstsq(x, first, rcond=None)[0])[1])
    return y, x, pairs, coded


@dataclass(frozen=True, slots=True)
class _Reml:
    beta: Array
    phi: Array
    variance: float
    loglik: float


def _reml(y: Array, x: Array, correlation: Array) -> _Reml:
    """Generalised least squares with the variance profiled out; the full restricted log-likelihood."""
    root = np.linalg.cholesky(correlation)
    wy, wx = np.linalg.solve(root, y), np.linalg.solve(root, x)
    inner = wx.T @ wx
    phi = np.asarray(np.linalg.inv(inner), dtype=np.float64)
    beta = phi @ (wx.T @ wy)
    freedom = y.size - x.shape[1]
    variance = float(((wy - wx @ beta) ** 2).sum()) / freedom
    determinants = 2 * float(np.log(np.diag(root)).sum()) + float(np.linalg.slogdet(inner)[1])
    loglik = -0.5 * (freedom * (log(2 * pi * variance) + 1) + determinants)
    return _Reml(np.asarray(beta), phi, variance, loglik)


def _bends(at: Array, inner: int) -> Array:
    """The random part of the penalised spline; (n, inner − 2). Knots as is usual: a thousandth beyond the ends."""
    low, high = float(at.min()), float(at.max())
    beyond = (high - low) * 0.001
    step = (high - low + 2 * beyond) / (inner - DEGREE)
    knots = low - beyond + step * np.arange(-DEGREE, inner + 1)
    basis = scipy.interpolate.BSpline.design_matrix(at, knots, DEGREE).toarray()
    second = np.diff(np.eye(inner), n=2, axis=0)
    values, vectors = np.linalg.eigh(second.T @ second)
    kept = values > 1e-10 * values.max()
    return np.asarray(basis @ vectors[:, kept] / np.sqrt(values[kept]))


def _kenward_roger(x: Array, parts: Sequence[Array], variances: Sequence[float]) -> tuple[Array, Callable[[Array], float]]:
    """Adjusted covariance of β and the degrees of freedom of one contrast, for V = Σ θ_i G_i. [3]"""
    inverse = np.linalg.inv(sum((value * part for value, part in zip(variances, parts, strict=True)), np.zeros_like(parts[0])))
    phi = np.asarray(np.linalg.inv(x.T @ inverse @ x), dtype=np.float64)
    projected = inverse - inverse @ x @ phi @ x.T @ inverse
    count = range(len(parts))
    information = np.array([[0.5 * np.trace(projected @ parts[i] @ projected @ parts[j]) for j in count] for i in count])
    covariance = np.linalg.inv(information)
    slopes = [-x.T @ inverse @ part @ inverse @ x for part in parts]
    middle = np.zeros_like(phi)
    for i in count:
        for j in count:
            q = x.T @ inverse @ parts[i] @ inverse @ parts[j] @ inverse @ x
            middle += covariance[i, j] * (q - slopes[i] @ phi @ slopes[j])
    adjusted = np.asarray(phi + 2 * phi @ middle @ phi)

    def freedom(row: Array) -> float:
        variance = float(row @ phi @ row)
        changes = np.array([float(row @ phi @ -slope @ phi @ row) for slope in slopes]) / variance
        return float(2 / (changes @ covariance @ changes))

    return adjusted, freedom


def _difference(left: str, right: str, row: Array, beta: Array, covariance: Array, df: float, alpha: float) -> TrendDifference:
    estimate, se = float(row @ beta), sqrt(float(row @ covariance @ row))
    reach = float(scipy.stats.t.isf(alpha / 2, df)) * se
    return TrendDifference(
        left=left,
        right=right,
        estimate=estimate,
        se=se,
        df=df,
        p=float(2 * scipy.stats.t.sf(abs(estimate) / se, df)),
        lower=estimate - reach,
        upper=estimate + reach,
    )
