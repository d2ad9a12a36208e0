"""Linear mixed models for strips: REML, Kenward–Roger covariance and degrees of freedom.

Model. y = Xβ + Σ Z_k u_k + e, u_k ~ N(0, θ_k I), e ~ N(0, θ_e I); X from factors in sum-to-zero coding. The covariance is
linear in its components, V = Σ θ_k Z_k Z_k′ + θ_e I, so second derivatives vanish and the correction of Kenward & Roger
takes its simple form [1].

Components are not negative. The restricted likelihood is climbed by Fisher scoring with the components that are held at
zero left out of the step; a component stays at zero as long as its score points below it. Components at zero stay in the
Kenward–Roger computation, so degrees of freedom do not pool.

Assumptions. Normal random terms and errors, independent between terms, equal variances.

Notation. n rows, p columns of X (of full rank), W = V⁻¹, Φ = (X′WX)⁻¹, G_k = Z_k Z_k′, G_e = I,
P_k = −X′W G_k W X, Q_kl = X′W G_k W G_l W X.

References
----------
[1] Kenward & Roger (1997) Small sample inference for fixed effects from restricted maximum likelihood, Biometrics
    53:983–997.
[2] Halekoh & Højsgaard (2014) A Kenward–Roger approximation and parametric bootstrap methods, J. Stat. Softw. 59(9):
    the form of the bounds A1, A2 and of the scaled F used here. Both from memory.
[3] Searle, Casella & McCulloch (1992) Variance Components, ch. 6: score and information of REML (from memory).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import log, pi, sqrt

import numpy as np
from numpy.typing import NDArray
from scipy import linalg, stats

from cultrix_core.errors import Refusal
from cultrix_core.stats.linear_model import Factor, Term, checked_response, design_matrix

Array = NDArray[np.float64]
MOST_STEPS = 200
CLOSE = 1e-10  # change of the restricted log-likelihood, relative to its size, that ends the climb
RESIDUAL = "Residual"


@dataclass(frozen=True, slots=True, kw_only=True)
class MixedFit:
    """A fitted model. ``components``: variance by random term and residual; ``phi_adjusted``: covariance of β by [1].

    ``reml_loglik``: restricted log-likelihood with levels coded against the first.
    """

    y: Array
    x: Array
    beta: Array
    phi: Array
    phi_adjusted: Array
    components: Mapping[str, float]
    reml_loglik: float
    factors: tuple[Factor, ...]
    columns: Mapping[Term, slice]
    p_matrices: tuple[Array, ...]
    component_covariance: Array

    @property
    def singular(self) -> bool:
        """Whether a component is estimated as zero."""
        return any(value == 0 for value in self.components.values())

    def factor(self, name: str) -> Factor:
        """The factor called ``name``."""
        return next(factor for factor in self.factors if factor.name == name)


@dataclass(frozen=True, slots=True, kw_only=True)
class MixedTest:
    """F test of several rows of β at once; ``scale``: what the Wald statistic was multiplied by."""

    num_df: int
    den_df: float
    f: float
    p: float
    scale: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Contrast:
    """One linear combination of β with its Kenward–Roger standard error and degrees of freedom."""

    estimate: float
    se: float
    df: float


def fit_mixed(response: Sequence[float], factors: Sequence[Factor], fixed: Sequence[Term], random: Sequence[Term]) -> MixedFit:
    """Fit by REML.

    Parameters
    ----------
    response : n finite values, any unit.
    factors : factors named in the terms, each with n labels.
    fixed : fixed terms in order, such as ``("variety",)`` and ``("variety", "nitro")``; a constant is always in.
    random : random terms such as ``("block",)`` and ``("block", "variety")``; a term with one level per row is refused.

    Raises
    ------
    Refusal : ``no_response``, ``lengths_differ``, ``not_finite``; ``not_estimable`` when the fixed terms are not of full
        rank, when nothing is left to estimate variances from, or when a random term is the residual itself.
    """
    y = checked_response(response, factors)
    x, columns = design_matrix(y.size, factors, fixed)
    if np.linalg.matrix_rank(x) < x.shape[1]:
        raise Refusal("not_estimable", field="fixed", value="some cells of the fixed terms, which have no strip")
    if y.size <= x.shape[1]:
        raise Refusal("not_estimable", field="response", value="all treatments, with as many of them as strips")
    named = {":".join(term): incidence(y.size, factors, term) for term in random}
    for name, z in named.items():
        if z.shape[1] == y.size:
            raise Refusal("not_estimable", field=name, value=f"{name}, which has a level for every row")
    centred, scale = _scaled(y)
    theta, loglik = _climb(centred, x, list(named.values()))
    # the restricted likelihood depends on the coding by a constant: told for levels coded against the first, as R does
    first, _ = design_matrix(y.size, factors, fixed, against_first=True)
    coded = float(np.linalg.slogdet(np.linalg.lstsq(x, first, rcond=None)[0])[1])
    told = loglik - (y.size - x.shape[1]) * log(scale) - coded
    return _finish(y, x, columns, tuple(factors), named, theta * scale**2, told)


def _scaled(y: Array) -> tuple[Array, float]:
    """Responses about their mean in units of their spread, so that kg and t converge alike."""
    centred = y - y.mean()
    spread = float(np.sqrt((centred**2).mean()))
    if spread <= 1e-12 * max(float(np.abs(y).max()), 1e-300):
        raise Refusal("not_estimable", field="response", value="anything, all responses being equal")
    return centred / spread, spread


def incidence(n: int, factors: Sequence[Factor], term: Term) -> Array:
    """Z of a random term, one column for every combination of levels that occurs; (n, levels)."""
    by_name = {factor.name: factor for factor in factors}
    labels = list(zip(*(by_name[name].labels for name in term), strict=True))
    places = {label: place for place, label in enumerate(dict.fromkeys(labels))}
    z = np.zeros((n, len(places)))
    z[np.arange(n), [places[label] for label in labels]] = 1.0
    return z


@dataclass(frozen=True, slots=True)
class _At:
    """The restricted likelihood at θ: its value, score and expected information. [3] ch. 6."""

    loglik: float
    score: Array
    information: Array


def _covariance(theta: Array, zs: Sequence[Array], n: int) -> Array:
    v: Array = np.eye(n) * theta[-1]
    for value, z in zip(theta[:-1], zs, strict=True):
        v += value * (z @ z.T)
    return v


def _at(theta: Array, y: Array, x: Array, zs: Sequence[Array]) -> _At | None:
    """None where V is not positive definite."""
    n, p = x.shape
    try:
        chol = linalg.cho_factor(_covariance(theta, zs, n), lower=True)
    except linalg.LinAlgError:
        return None
    w = linalg.cho_solve(chol, np.eye(n))
    wx = w @ x
    xwx = x.T @ wx
    sign, logdet = np.linalg.slogdet(xwx)
    if sign <= 0:
        return None
    project = w - wx @ np.linalg.solve(xwx, wx.T)
    py = project @ y
    log_v = 2 * float(np.log(np.diag(chol[0])).sum())
    loglik = -0.5 * (log_v + float(logdet) + float(y @ py) + (n - p) * log(2 * pi))
    sides = [*zs, np.eye(n)]
    moved = [project @ z for z in sides]
    score = np.array(
        [-0.5 * (float((z * m).sum()) - float(((z.T @ py) ** 2).sum())) for z, m in zip(sides, moved, strict=True)]
    )
    k = len(sides)
    information = np.empty((k, k))
    for i in range(k):
        for j in range(i, k):
            information[i, j] = information[j, i] = 0.5 * float(((sides[i].T @ moved[j]) ** 2).sum())
    return _At(loglik, score, information)


def _climb(y: Array, x: Array, zs: Sequence[Array]) -> tuple[Array, float]:
    """Components at the top of the restricted likelihood and its value."""
    theta = np.full(len(zs) + 1, float(y.var()) / (len(zs) + 1) + 1e-6)
    here = _at(theta, y, x, zs)
    assert here is not None
    for _ in range(MOST_STEPS):
        free = (theta > 0) | (here.score > 0)
        free[-1] = True
        step = np.zeros_like(theta)
        step[free] = np.linalg.lstsq(here.information[np.ix_(free, free)], here.score[free], rcond=None)[0]
        gained = None
        for share in 0.5 ** np.arange(40):
            tried = np.maximum(theta + share * step, 0.0)
            tried[-1] = max(tried[-1], 1e-12)
            gained = _at(tried, y, x, zs)
            if gained is not None and gained.loglik >= here.loglik - 1e-13 * abs(here.loglik):
                break
            gained = None
        if gained is None:
            break
        moved = float(np.abs(tried - theta).max())
        rose = gained.loglik - here.loglik
        theta, here = tried, gained
        if rose <= CLOSE * abs(here.loglik) and moved <= 1e-9 * float(theta.max()):
            break
    # what has crept to nothing is nothing
    theta[:-1][theta[:-1] < 1e-10 * theta[-1]] = 0.0
    final = _at(theta, y, x, zs)
    return theta, (final or here).loglik


def _finish(
    y: Array, x: Array, columns: Mapping[Term, slice], factors: tuple[Factor, ...], named: Mapping[str, Array],
    theta: Array, loglik: float,
) -> MixedFit:  # fmt: skip
    """Estimates and the Kenward–Roger correction at the components found. [1], [2] section 4."""
    zs = list(named.values())
    n = y.size
    w = linalg.cho_solve(linalg.cho_factor(_covariance(theta, zs, n), lower=True), np.eye(n))
    wx = w @ x
    phi: Array = np.asarray(np.linalg.inv(x.T @ wx), dtype=np.float64)
    beta = phi @ (wx.T @ y)
    sides = [*zs, np.eye(n)]
    side_x = [z.T @ wx for z in sides]  # Z′WX
    p_matrices = tuple(-zx.T @ zx for zx in side_x)
    k = len(sides)
    information = np.empty((k, k))
    middle = np.zeros_like(phi)
    q_matrices: dict[tuple[int, int], Array] = {}
    for i in range(k):
        for j in range(k):
            cross = sides[i].T @ w @ sides[j]
            q_matrices[i, j] = side_x[i].T @ cross @ side_x[j]
            information[i, j] = (
                float((cross**2).sum())
                - 2 * float((phi * q_matrices[i, j].T).sum())
                + float(np.trace(phi @ p_matrices[i] @ phi @ p_matrices[j]))
            )
    covariance: Array = np.asarray(2 * np.linalg.pinv(information), dtype=np.float64)
    for i in range(k):
        for j in range(k):
            middle += covariance[i, j] * (q_matrices[i, j] - p_matrices[i] @ phi @ p_matrices[j])
    adjusted = phi + 2 * phi @ middle @ phi
    return MixedFit(
        y=y,
        x=x,
        beta=beta,
        phi=phi,
        phi_adjusted=(adjusted + adjusted.T) / 2,
        components=dict(zip((*named, RESIDUAL), (float(value) for value in theta), strict=True)),
        reml_loglik=loglik,
        factors=factors,
        columns=columns,
        p_matrices=p_matrices,
        component_covariance=covariance,
    )


def _bounds(fit: MixedFit, rows: Array) -> tuple[float, float]:
    """A1 and A2 of [1] eq. (before 8) for the hypothesis Lβ = 0."""
    theta = rows.T @ np.linalg.solve(rows @ fit.phi @ rows.T, rows)
    parts = [theta @ fit.phi @ p @ fit.phi for p in fit.p_matrices]
    traces = np.array([float(np.trace(part)) for part in parts])
    a1 = float(traces @ fit.component_covariance @ traces)
    a2 = sum(
        fit.component_covariance[i, j] * float((parts[i] * parts[j].T).sum())
        for i in range(len(parts))
        for j in range(len(parts))
    )
    return a1, float(a2)


def rows_test(fit: MixedFit, rows: Array) -> MixedTest:
    """Kenward–Roger F test of Lβ = 0; ``rows`` (q, p) of full rank. [1] eqs 8–10 as in [2]."""
    rows = np.atleast_2d(rows)
    q = rows.shape[0]
    effect = rows @ fit.beta
    wald = float(effect @ np.linalg.solve(rows @ fit.phi_adjusted @ rows.T, effect)) / q
    a1, a2 = _bounds(fit, rows)
    if q == 1:
        den, scale = 2 / a1, 1.0
    else:
        b = (a1 + 6 * a2) / (2 * q)
        g = ((q + 1) * a1 - (q + 4) * a2) / ((q + 2) * a2)
        below = 3 * q + 2 * (1 - g)
        c1, c2, c3 = g / below, (q - g) / below, (q + 2 - g) / below
        mean = 1 / (1 - a2 / q)
        variance = (2 / q) * (1 + c1 * b) / ((1 - c2 * b) ** 2 * (1 - c3 * b))
        rho = variance / (2 * mean**2)
        den = 4 + (q + 2) / (q * rho - 1)
        scale = den / (mean * (den - 2))
    f = scale * wald
    return MixedTest(num_df=q, den_df=float(den), f=f, p=float(stats.f.sf(f, q, den)), scale=float(scale))


def term_test(fit: MixedFit, term: Term) -> MixedTest:
    """Type III test of a fixed term, all others in the model."""
    columns = fit.columns[term]
    rows = np.zeros((columns.stop - columns.start, fit.x.shape[1]))
    rows[:, columns] = np.eye(rows.shape[0])
    return rows_test(fit, rows)


def contrast(fit: MixedFit, row: Array) -> Contrast:
    """One combination of β: a mean, a difference, a polynomial. df = 2 ÷ A1. [1]"""
    row = np.asarray(row, dtype=np.float64)
    a1, _ = _bounds(fit, row[None, :])
    return Contrast(estimate=float(row @ fit.beta), se=sqrt(float(row @ fit.phi_adjusted @ row)), df=2 / a1)


def cell_row(fit: MixedFit, levels: Mapping[str, str]) -> Array:
    """Row L with Lβ = mean of a cell; factors not named are averaged with equal weights. Shape (p,)."""
    row = np.zeros(fit.x.shape[1])
    row[0] = 1.0
    for term, columns in fit.columns.items():
        part = np.ones(1)
        for name in term:
            factor = fit.factor(name)
            coding = factor.coding()
            own = coding[factor.levels.index(levels[name])] if name in levels else np.zeros(coding.shape[1])
            part = np.outer(part, own).ravel()
        row[columns] = part
    return row
