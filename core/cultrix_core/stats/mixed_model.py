"""Linear mixed models for strips: REML, Kenward–Roger covariance and degrees of freedom.

Model. y = Xβ + Σ Z_k u_k + e, u_k ~ N(0, θ_k I), e ~ N(0, θ_e I); X from factors in sum-to-zero coding. The covariance is
linear in its components, V = Σ θ_k Z_k Z_k′ + θ_e I, so second derivatives vanish and the correction of Kenward & Roger
takes its simple form [1].

Components are estimated by ``reml`` and are not negative. Those at zero stay in the Kenward–Roger computation, so degrees
of freedom do not pool.

Assumptions. Normal random terms and errors, independent between terms, equal variances.

Notation. n rows, p columns of X (of full rank); W, Φ, P_k, Q_kl as in ``reml``.

References
----------
[1] Kenward & Roger (1997) Small sample inference for fixed effects from restricted maximum likelihood, Biometrics
    53:983–997.
[2] Halekoh & Højsgaard (2014) A Kenward–Roger approximation and parametric bootstrap methods, J. Stat. Softw. 59(9):
    the form of the bounds A1, A2 and of the scaled F used here. Both from memory.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import log, sqrt

import numpy as np
import scipy
from numpy.typing import NDArray

from cultrix_core.errors import Refusal
from cultrix_core.stats.linear_model import Column, Factor, Term, checked_response, design_matrix, factor_called
from cultrix_core.stats.reml import Likelihood, Rows, Stack, climb, covariances, likelihood, stacks_of

Array = NDArray[np.float64]
RESIDUAL = "Residual"
EXACT = 1e-11  # error variance, in units of the responses' own, that is rounding and no variation


@dataclass(frozen=True, slots=True, kw_only=True)
class MixedFit:
    """A fitted model. ``components``: variance by random term and residual; ``phi_adjusted``: covariance of β by [1].

    ``reml_loglik``: restricted log-likelihood with levels coded against the first. ``slopes``: Φ P_k Φ, how the covariance
    of β leans on each component. ``residuals``: what is left after the predicted random terms, with their standard errors.
    ``stacks``: the rows in independent groups.
    """

    y: Array
    x: Array
    beta: Array
    phi: Array
    phi_adjusted: Array
    components: Mapping[str, float]
    reml_loglik: float
    factors: tuple[Column, ...]
    columns: Mapping[Term, slice]
    slopes: tuple[Array, ...]
    component_covariance: Array
    residuals: Array
    residual_errors: Array
    stacks: tuple[Stack, ...]

    @property
    def singular(self) -> bool:
        """Whether a component is estimated as zero."""
        return any(value == 0 for value in self.components.values())

    def factor(self, name: str) -> Factor:
        """The factor called ``name``."""
        return factor_called(self.factors, name)

    @property
    def fitted(self) -> Array:
        """y without its residuals, random terms predicted."""
        return self.y - self.residuals


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


def fit_mixed(response: Sequence[float], factors: Sequence[Column], fixed: Sequence[Term], random: Sequence[Term]) -> MixedFit:
    """Fit by REML.

    Parameters
    ----------
    response : n finite values, any unit.
    factors : factors and covariates named in the terms, each of n rows.
    fixed : fixed terms in order, such as ``("variety",)`` and ``("variety", "nitro")``; a constant is always in.
    random : random terms such as ``("block",)`` and ``("block", "variety")``; a term with one level per row is refused.

    Raises
    ------
    Refusal : ``no_response``, ``lengths_differ``, ``not_finite``; ``empty_cells`` when the fixed terms are not of full rank;
        ``too_few_strips`` when nothing is left to estimate variances from, or a random term is the residual itself;
        ``no_variation`` when responses are all equal or agree exactly within the smallest strips.
    """
    y = checked_response(response, factors)
    x, columns = design_matrix(y.size, factors, fixed)
    if np.linalg.matrix_rank(x) < x.shape[1]:
        raise Refusal("empty_cells", field="fixed", value=" and ".join(dict.fromkeys(name for term in fixed for name in term)))
    if y.size <= x.shape[1]:
        raise Refusal("too_few_strips", field="response", value="The treatments")
    named = {":".join(term): term_codes(factors, term) for term in random}
    for name, codes in named.items():
        if int(codes.max()) + 1 == y.size:
            raise Refusal("too_few_strips", field=name, value=f"A variance of {name}, which has a level for every row,")
    centred, scale = _scaled(y)
    theta, top = climb(stacks_of(centred, x, list(named.values())), float(centred.var()))
    if theta[-1] < EXACT:
        raise Refusal("no_variation", field="response")
    # the restricted likelihood depends on the coding by a constant: told for levels coded against the first, as R does
    first, _ = design_matrix(y.size, factors, fixed, against_first=True)
    coded = float(np.linalg.slogdet(np.linalg.lstsq(x, first, rcond=None)[0])[1])
    told = top.loglik - (y.size - x.shape[1]) * log(scale) - coded
    stacks = stacks_of(y, x, list(named.values()))
    return _finish(y, x, columns, tuple(factors), list(named), theta * scale**2, stacks, told)


def _scaled(y: Array) -> tuple[Array, float]:
    """Responses about their mean in units of their spread, so that kg and t converge alike."""
    centred = y - y.mean()
    spread = float(np.sqrt((centred**2).mean()))
    if spread <= 1e-12 * max(float(np.abs(y).max()), 1e-300):
        raise Refusal("no_variation", field="response")
    return centred / spread, spread


def term_codes(factors: Sequence[Column], term: Term) -> Rows:
    """Level of a random term by row, counted from 0: one for every combination of levels that occurs."""
    labels = list(zip(*(factor_called(factors, name).labels for name in term), strict=True))
    places = {label: place for place, label in enumerate(dict.fromkeys(labels))}
    return np.array([places[label] for label in labels], dtype=np.intp)


def incidence(factors: Sequence[Column], term: Term) -> Array:
    """Z of a random term, one column for every combination of levels that occurs; (n, levels)."""
    codes = term_codes(factors, term)
    return np.asarray(codes[:, None] == np.arange(int(codes.max()) + 1)[None, :], dtype=np.float64)


def _finish(
    y: Array,
    x: Array,
    columns: Mapping[Term, slice],
    factors: tuple[Column, ...],
    names: Sequence[str],
    theta: Array,
    stacks: Sequence[Stack],
    loglik: float,
) -> MixedFit:
    """Estimates and the Kenward–Roger correction at the components found. [1], [2] section 4."""
    at = likelihood(theta, stacks)
    assert at is not None
    covariance: Array = np.asarray(np.linalg.pinv(at.information), dtype=np.float64)
    middle = np.zeros_like(at.phi)
    terms = theta.size
    for i in range(terms):
        for j in range(terms):
            q = at.q_matrices[i, j] if i <= j else at.q_matrices[j, i].T
            middle += covariance[i, j] * (q - at.p_matrices[i] @ at.phi @ at.p_matrices[j])
    adjusted = at.phi + 2 * at.phi @ middle @ at.phi
    residuals, errors = _conditional(theta, stacks, at, y.size)
    return MixedFit(
        y=y,
        x=x,
        beta=at.beta,
        phi=at.phi,
        phi_adjusted=(adjusted + adjusted.T) / 2,
        components=dict(zip((*names, RESIDUAL), (float(value) for value in theta), strict=True)),
        reml_loglik=loglik,
        factors=factors,
        columns=columns,
        slopes=tuple(at.phi @ p_matrix @ at.phi for p_matrix in at.p_matrices),
        component_covariance=covariance,
        residuals=residuals,
        residual_errors=errors,
        stacks=tuple(stacks),
    )


def _conditional(theta: Array, stacks: Sequence[Stack], at: Likelihood, n: int) -> tuple[Array, Array]:
    """θ_e P y, which is y − Xβ − ΣZu with u predicted, and its standard errors θ_e √P_ii; (n,) each."""
    residuals, errors = np.zeros(n), np.zeros(n)
    for stack in stacks:
        w = np.linalg.inv(covariances(theta, stack))
        rest = stack.y - stack.x @ at.beta
        residuals[stack.rows] = theta[-1] * np.einsum("gnm,gm->gn", w, rest)
        wx = w @ stack.x
        own = np.diagonal(w, axis1=1, axis2=2) - np.einsum("gnp,pq,gnq->gn", wx, at.phi, wx)
        errors[stack.rows] = theta[-1] * np.sqrt(np.maximum(own, 0.0))
    return residuals, errors


def projected(fit: MixedFit, z: Array) -> Array:
    """P z, P = W − WXΦX′W at the estimated components; (n,)."""
    theta = np.array(list(fit.components.values()))
    wz, wxs, xwz = np.zeros(z.size), [], np.zeros(fit.x.shape[1])
    for stack in fit.stacks:
        w = np.linalg.inv(covariances(theta, stack))
        wxs.append(w @ stack.x)
        wz[stack.rows] = np.einsum("gnm,gm->gn", w, z[stack.rows])
        xwz += np.einsum("gnp,gn->p", wxs[-1], z[stack.rows])
    for stack, wx in zip(fit.stacks, wxs, strict=True):
        wz[stack.rows] -= wx @ (fit.phi @ xwz)
    return wz


def _bounds(fit: MixedFit, rows: Array) -> tuple[float, float]:
    """A1 and A2 of [1] eq. (before 8) for the hypothesis Lβ = 0."""
    parts = [np.linalg.solve(rows @ fit.phi @ rows.T, rows @ slope @ rows.T) for slope in fit.slopes]
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
    return MixedTest(num_df=q, den_df=float(den), f=f, p=float(scipy.stats.f.sf(f, q, den)), scale=float(scale))


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
    by_name = {factor.name: factor for factor in fit.factors}
    for term, columns in fit.columns.items():
        part = np.ones(1)
        for name in term:
            part = np.outer(part, by_name[name].average(levels.get(name))).ravel()
        row[columns] = part
    return row
