"""The restricted likelihood of a linear mixed model, its score and information, and the climb to its top.

Model. y = Xβ + Σ Z_k u_k + e, V = Σ θ_k Z_k Z_k′ + θ_e I. Rows that share no level of any random term are independent, so V
is block-diagonal over groups of rows; every sum below runs over groups, and cost grows with their number, not its square or
cube. Groups alike in shape are stacked.

Components are not negative. The restricted likelihood is climbed by Fisher scoring with the components that are held at
zero left out of the step; a component stays at zero as long as its score points below it.

Notation. W = V⁻¹, Φ = (X′WX)⁻¹, P = W − WXΦX′W, G_k = Z_k Z_k′, G_e = I, P_k = −X′W G_k W X, Q_kl = X′W G_k W G_l W X.
    score_k = −½ [tr(P G_k) − y′P G_k P y],  tr(P G_k) = tr(W G_k) + tr(Φ P_k)
    information_kl = ½ tr(P G_k P G_l) = ½ [tr(W G_k W G_l) − 2 tr(Φ Q_kl) + tr(Φ P_k Φ P_l)]

Reference: Searle, Casella & McCulloch (1992) Variance Components, ch. 6 (from memory).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import log, pi

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Rows = NDArray[np.intp]
MOST_STEPS = 200
CLOSE = 1e-10  # change of the restricted log-likelihood, relative to its size, that ends the climb


@dataclass(frozen=True, slots=True)
class Stack:
    """g groups alike in shape: ``rows`` (g, n) places in the data, ``y`` (g, n), ``x`` (g, n, p), each Z_k (g, n, m_k)."""

    rows: Rows
    y: Array
    x: Array
    zs: tuple[Array, ...]


@dataclass(frozen=True, slots=True)
class Likelihood:
    """The restricted likelihood at θ with all that Fisher scoring and the Kenward–Roger correction use."""

    loglik: float
    score: Array
    information: Array
    beta: Array
    phi: Array
    p_matrices: tuple[Array, ...]
    q_matrices: dict[tuple[int, int], Array]


def stacks_of(y: Array, x: Array, codes: Sequence[Rows]) -> tuple[Stack, ...]:
    """Rows sorted into independent groups; ``codes``: level of each random term by row."""
    result: dict[tuple[int, ...], list[tuple[Rows, list[Array]]]] = {}
    for rows in _groups(y.size, codes):
        zs = []
        for code in codes:
            levels = np.unique(code[rows])
            zs.append((code[rows][:, None] == levels[None, :]).astype(np.float64))
        result.setdefault((rows.size, *(z.shape[1] for z in zs)), []).append((rows, zs))
    made = []
    for group in result.values():
        rows = np.array([array for array, _ in group])
        zs_by_term = tuple(np.array([zs[k] for _, zs in group]) for k in range(len(codes)))
        made.append(Stack(rows, y[rows], x[rows], zs_by_term))
    return tuple(made)


def _groups(n: int, codes: Sequence[Rows]) -> list[Rows]:
    """Connected components of rows that share a level; without random terms every row is its own."""
    group = np.arange(n)
    while True:
        before = group.copy()
        for code in codes:
            least = np.full(int(code.max()) + 1, n)
            np.minimum.at(least, code, group)
            group = least[code]
        if np.array_equal(group, before):
            return [np.flatnonzero(group == item) for item in np.unique(group)]


def covariances(theta: Array, stack: Stack) -> Array:
    """V of every group, (g, n, n)."""
    size = stack.y.shape[1]
    v: Array = np.broadcast_to(np.eye(size) * theta[-1], (stack.y.shape[0], size, size)).copy()
    for value, z in zip(theta[:-1], stack.zs, strict=True):
        v += value * (z @ z.swapaxes(1, 2))
    return v


def likelihood(theta: Array, stacks: Sequence[Stack]) -> Likelihood | None:
    """Everything at θ; None where V is not positive definite."""
    p = stacks[0].x.shape[2]
    terms = theta.size
    count = sum(stack.y.size for stack in stacks)
    xwx, xwy = np.zeros((p, p)), np.zeros(p)
    log_v = 0.0
    inverses: list[Array] = []
    for stack in stacks:
        v = covariances(theta, stack)
        try:
            diagonal = np.diagonal(np.linalg.cholesky(v), axis1=1, axis2=2)
        except np.linalg.LinAlgError:
            return None
        log_v += 2 * float(np.log(diagonal).sum())
        w: Array = np.asarray(np.linalg.inv(v), dtype=np.float64)
        inverses.append(w)
        wx = w @ stack.x
        xwx += np.einsum("gnp,gnq->pq", stack.x, wx)
        xwy += np.einsum("gnp,gn->p", wx, stack.y)
    sign, logdet = np.linalg.slogdet(xwx)
    if sign <= 0:
        return None
    phi: Array = np.asarray(np.linalg.inv(xwx), dtype=np.float64)
    beta = phi @ xwy
    sums = _sums(stacks, inverses, beta)
    information = np.empty((terms, terms))
    corrected = [phi @ p_matrix for p_matrix in sums.p_matrices]
    for (i, j), q in sums.q_matrices.items():
        both = sums.products[i, j] - 2 * float((phi * q.T).sum()) + float((corrected[i] * corrected[j].T).sum())
        information[i, j] = information[j, i] = 0.5 * both
    score = np.array([-0.5 * (sums.traces[k] + float(np.trace(corrected[k])) - sums.squares[k]) for k in range(terms)])
    return Likelihood(
        loglik=-0.5 * (log_v + float(logdet) + sums.left + (count - p) * log(2 * pi)),
        score=score,
        information=information,
        beta=beta,
        phi=phi,
        p_matrices=tuple(sums.p_matrices),
        q_matrices=sums.q_matrices,
    )


@dataclass(slots=True)
class _Sums:
    """Over all groups: tr(W G_k), y′P G_k P y, tr(W G_k W G_l), P_k, Q_kl and the weighted residual sum of squares."""

    traces: Array
    squares: Array
    products: Array
    p_matrices: list[Array]
    q_matrices: dict[tuple[int, int], Array]
    left: float = 0.0


def _sums(stacks: Sequence[Stack], inverses: Sequence[Array], beta: Array) -> _Sums:
    terms, p = len(stacks[0].zs) + 1, beta.size
    sums = _Sums(
        np.zeros(terms),
        np.zeros(terms),
        np.zeros((terms, terms)),
        [np.zeros((p, p)) for _ in range(terms)],
        {(i, j): np.zeros((p, p)) for i in range(terms) for j in range(i, terms)},
    )
    for stack, w in zip(stacks, inverses, strict=True):
        rest = stack.y - stack.x @ beta
        wr = np.einsum("gnm,gm->gn", w, rest)
        sums.left += float((rest * wr).sum())
        zw = [*(z.swapaxes(1, 2) @ w for z in stack.zs), w]
        zx = [array @ stack.x for array in zw]
        for i in range(terms):
            z = stack.zs[i] if i < terms - 1 else None
            sums.squares[i] += float(((wr if z is None else np.einsum("gnm,gn->gm", z, wr)) ** 2).sum())
            sums.traces[i] += float(np.einsum("gnn->", w) if z is None else np.einsum("gmn,gnm->", zw[i], z))
            sums.p_matrices[i] -= np.einsum("gmp,gmq->pq", zx[i], zx[i])
            for j in range(i, terms):
                cross = zw[i] @ stack.zs[j] if j < terms - 1 else zw[i]
                sums.products[i, j] += float((cross**2).sum())
                sums.q_matrices[i, j] += np.einsum("gmp,gmq->pq", zx[i], cross @ zx[j])
    return sums


def climb(stacks: Sequence[Stack], variance: float) -> tuple[Array, Likelihood]:
    """Components at the top of the restricted likelihood, θ_e last; ``variance`` of y to start from."""
    terms = len(stacks[0].zs) + 1
    theta = np.full(terms, variance / terms + 1e-6)
    here = likelihood(theta, stacks)
    assert here is not None
    for _ in range(MOST_STEPS):
        free = (theta > 0) | (here.score > 0)
        free[-1] = True
        step = np.zeros_like(theta)
        step[free] = np.linalg.lstsq(here.information[np.ix_(free, free)], here.score[free], rcond=None)[0]
        tried, gained = _uphill(theta, step, here, stacks)
        if gained is None:
            break
        moved, rose = float(np.abs(tried - theta).max()), gained.loglik - here.loglik
        theta, here = tried, gained
        if rose <= CLOSE * abs(here.loglik) and moved <= 1e-9 * float(theta.max()):
            break
    theta[:-1][theta[:-1] < 1e-10 * theta[-1]] = 0.0  # what has crept to nothing is nothing
    return theta, likelihood(theta, stacks) or here


def _uphill(theta: Array, step: Array, here: Likelihood, stacks: Sequence[Stack]) -> tuple[Array, Likelihood | None]:
    """The longest of halved steps that does not lower the likelihood; None where there is none."""
    tried = theta
    for share in 0.5 ** np.arange(40):
        tried = np.maximum(theta + share * step, 0.0)
        tried[-1] = max(tried[-1], 1e-12)
        gained = likelihood(tried, stacks)
        if gained is not None and gained.loglik >= here.loglik - 1e-13 * abs(here.loglik):
            return tried, gained
    return tried, None
