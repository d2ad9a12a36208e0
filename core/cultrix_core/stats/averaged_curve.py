"""Which amount: a response curve averaged over shapes, fitted to adjusted means with their covariance.

Shapes, u = min(x, x0):

    flat                    y = a
    linear                  y = a + b x
    quadratic               y = a + b x + c x²
    linear-plateau          y = a + b u
    quadratic-plateau       y = a + b (u − u² ÷ (2 x0))
    exponential-approach    y = a + b (1 − exp(−k x))

The last three from four amounts on. Each is fitted by generalised least squares to the means m with covariance S; with q
parameters and D = (m − f)′S⁻¹(m − f) its weight is exp(−(D + 2q) ÷ 2), over the sum of all: the generalised criterion of [1].
Block effects are in S and no parameters here. A join or a rate at the edge of its search is no join; the shape then has no
weight of its own, for a straight line stands in its place.

The answer is the best point of the averaged curve inside the range that was tried, ends included: highest, or where yield ×
price − amount × cost is highest. Its interval and the amounts shown to lose no more than a stated sum come from a parametric
bootstrap [2] of the averaged curve: means are drawn about the curve with S, divided by the root of χ²(ν) ÷ ν as the error is
estimated, and everything is fitted anew, the weights too. Interval of the best: percentiles. Loss against the best, for all
amounts at once: the curve's loss + c × its standard error, c the quantile of the largest standardised shortfall over all
amounts, in the spirit of [3]. What either covers is simulated over six truths (``docs/trust.md``).

References: [1] Pinheiro, Bornkamp, Glimm & Bretz (2014) Stat. Med. 33:1646–1661; Buckland, Burnham & Augustin (1997) Biometrics
53:603–618; [2] Efron & Tibshirani (1993) An Introduction to the Bootstrap, ch. 6; [3] Hsu (1984) Ann. Stat. 12:1136–1144 (all
from memory).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from cultrix_core.errors import Refusal, require_between, require_finite

Array = NDArray[np.float64]
SHAPES = ("flat", "linear", "quadratic", "linear-plateau", "quadratic-plateau", "exponential-approach")
PARAMETERS = {"flat": 1, "linear": 2, "quadratic": 3, "linear-plateau": 3, "quadratic-plateau": 3, "exponential-approach": 3}
BENT = ("linear-plateau", "quadratic-plateau", "exponential-approach")
LEAST_LEVELS = 3
LEVELS_OF_BENT = 4
FINE = 121  # values of the one nonlinear parameter that are tried, and points of the range that the curve is drawn at
POINTS = 201
DRAWS = 999
SEEN = 0.02  # a shape with less weight is out of the question
DOUBT = 0.5  # power of the weights inside the bootstrap, chosen so that intervals hold over all truths simulated
DRAWS_SEED = 20252


@dataclass(frozen=True, slots=True, kw_only=True)
class Best:
    """The best amount inside the range, with its interval. ``at_end``: the whole interval lies at an end of the range."""

    x: float
    lower: float
    upper: float
    at_end: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Stretch:
    """Amounts from ``lower`` to ``upper``."""

    lower: float
    upper: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Loss:
    """What an amount loses against the best, with its standard error; ``most``: for all amounts at once.

    The best is the highest of many, so a loss is never below nought and its size alone shows nothing.
    """

    size: float
    se: float
    most: float


@dataclass(frozen=True, slots=True, kw_only=True)
class AveragedCurve:
    """The curve that answers.

    ``weights`` : share of each shape. ``x``, ``y`` : the averaged curve at ``POINTS`` amounts over the range, ``lower`` and
    ``upper`` its band, each amount for itself. ``best`` : highest response; ``profit`` : highest return, None without prices.
    ``estimated`` and ``shown`` : amounts that lose at most ``within`` of the best, as the curve has it and as it is shown for
    all amounts at once; ``shown`` None: none is shown. ``loss`` : what each amount loses against the best, in money where there
    are prices, with its standard error ``loss_se``; ``loss_limit`` : the most that it loses, for all of them at once.
    """

    weights: Mapping[str, float]
    x: tuple[float, ...]
    y: tuple[float, ...]
    lower: tuple[float, ...]
    upper: tuple[float, ...]
    alpha: float
    best: Best
    profit: Best | None
    within: float | None
    estimated: Stretch | None
    shown: Stretch | None
    loss: tuple[float, ...]
    loss_se: tuple[float, ...]
    loss_limit: tuple[float, ...]

    @property
    def range(self) -> tuple[float, float]:
        """Lowest and highest amount tried."""
        return self.x[0], self.x[-1]

    def at(self, x: float) -> float:
        """The averaged response at an amount inside the range."""
        return float(np.interp(x, self.x, self.y))

    def loss_at(self, x: float) -> Loss:
        """What an amount inside the range loses against the best."""
        size, se, most = (float(np.interp(x, self.x, values)) for values in (self.loss, self.loss_se, self.loss_limit))
        return Loss(size=size, se=se, most=most)


@dataclass(frozen=True, slots=True)
class _Basis:
    """One shape at the values of its nonlinear parameter: orthonormal columns for whitened means, and the curve they give.

    ``project`` (g, q, k), ``curve`` (g, POINTS, q): response at the points from the coefficients of the projection.
    """

    name: str
    project: Array
    curve: Array
    inner: NDArray[np.bool_]


def fit_averaged(
    amounts: Sequence[float],
    means: Sequence[float],
    covariance: Array,
    df: float,
    *,
    alpha: float = 0.10,
    price: float | None = None,
    cost: float | Sequence[float] | None = None,
    within: float | None = None,
    draws: int = DRAWS,
) -> AveragedCurve:
    """Fit and average all shapes.

    Parameters
    ----------
    amounts, means : k different amounts and the adjusted mean response at each; ``covariance`` : of the means, (k, k).
    df : degrees of freedom of the error behind the covariance.
    price, cost : of one unit of the response and of the amount; None: no profit. A sequence is what each of ``amounts`` costs
        as a whole, on straight lines in between.
    within : the loss against the best that would be put up with, in money where there are prices, else in the response.

    Raises
    ------
    Refusal : ``too_few_treatments`` with fewer than three amounts, ``not_finite``, ``not_estimable`` without a covariance.
    """
    require_between(alpha, 0.001, 0.5, "alpha", label="Significance level")
    x, m = np.asarray(amounts, dtype=np.float64), np.asarray(means, dtype=np.float64)
    for value in (*x, *m):
        require_finite(float(value), "response")
    if x.size < LEAST_LEVELS:
        raise Refusal("too_few_treatments", field="x", label="Amounts", value=x.size)
    order = np.argsort(x)
    x, m, s = x[order], m[order], np.asarray(covariance, dtype=np.float64)[np.ix_(order, order)]
    grid = np.linspace(x[0], x[-1], POINTS)
    try:
        root = np.asarray(np.linalg.cholesky(s), dtype=np.float64)
    except np.linalg.LinAlgError as error:
        raise Refusal("not_estimable", field="x", value="the amounts") from error
    bases = _bases(tuple(x.tolist()), root.tobytes())
    whitened = np.asarray(np.linalg.solve(root, m), dtype=np.float64)
    curves, weights = _fitted(bases, whitened[None, :])
    middle, share = np.einsum("s,sp->p", weights[0], curves[:, 0]), weights[0]
    truth, again, picked = _bootstrap(bases, curves[:, 0], share, (x, grid, root), df, draws)
    worth, spent = (price, _spent(cost, order, x, grid)) if price is not None and cost is not None else (1.0, 0.0 * grid)
    net, net_again, net_truth = (worth * part - spent for part in (middle, again, truth))
    loss = net.max() - net
    loss_again, loss_truth = (part.max(axis=1, keepdims=True) - part for part in (net_again, net_truth))
    se = np.maximum((loss_again - loss_truth).std(axis=0), 1e-9 * (np.ptp(net) or 1.0))
    short = np.max((loss_truth - loss_again) / se, axis=1)
    limit = np.maximum(loss + float(np.quantile(short, 1 - alpha)) * se, 0.0)
    return AveragedCurve(
        weights={basis.name: float(value) for basis, value in zip(bases, share, strict=True)},
        x=tuple(float(value) for value in grid),
        y=tuple(float(value) for value in middle),
        lower=tuple(float(value) for value in middle - np.quantile(again - truth, 1 - alpha / 2, axis=0)),
        upper=tuple(float(value) for value in middle - np.quantile(again - truth, alpha / 2, axis=0)),
        alpha=alpha,
        best=_best(grid, middle, picked, alpha),
        profit=None if price is None or cost is None else _best(grid, net, worth * picked - spent, alpha),
        within=within,
        estimated=None if within is None else _stretch(grid, loss <= within),
        shown=None if within is None else _stretch(grid, limit <= within),
        loss=tuple(float(value) for value in loss),
        loss_se=tuple(float(value) for value in se),
        loss_limit=tuple(float(value) for value in limit),
    )


def _spent(cost: float | Sequence[float], order: NDArray[np.intp], x: Array, grid: Array) -> Array:
    """What is spent at every point of the range."""
    if isinstance(cost, float | int):
        return cost * grid
    if len(cost) != x.size:
        raise Refusal("lengths_differ", field="cost", value=len(cost), limit=x.size)
    return np.asarray(np.interp(grid, x, np.asarray(cost, dtype=np.float64)[order]))


def _bootstrap(
    bases: Sequence[_Basis], curves: Array, share: Array, ground: tuple[Array, Array, Array], df: float, draws: int
) -> tuple[Array, Array, Array]:
    """For every draw: the curve taken as the truth, the averaged curve of means drawn about it, and one shape of its fit.

    ``ground``: the amounts, the points of the range, and the root of the covariance of the means. Each (draws, POINTS).
    """
    x, grid, root = ground
    rng = np.random.default_rng(DRAWS_SEED)
    truth: NDArray[np.intp] = rng.choice(len(bases), size=draws, p=_doubted(share[None, :])[0])
    at_levels = np.array([np.interp(x, grid, curve) for curve in curves])
    scale = np.sqrt(rng.chisquare(df, draws) / df)
    centre = np.linalg.solve(root, at_levels.T).T[truth]
    own, weights = _fitted(bases, centre + rng.standard_normal((draws, x.size)) / scale[:, None])
    picked = own[_pick(rng, _doubted(weights)), np.arange(draws)]
    return curves[truth], np.einsum("bs,sbp->bp", weights, own), picked


def _best(grid: Array, worth: Array, again: Array, alpha: float) -> Best:
    places = _peaks(grid, again)
    lower, upper = np.quantile(places, [alpha / 2, 1 - alpha / 2])
    step = grid[1] - grid[0]
    at_end = bool(upper <= grid[0] + step or lower >= grid[-1] - step)
    return Best(x=float(_peaks(grid, worth[None, :])[0]), lower=float(lower), upper=float(upper), at_end=at_end)


def _peaks(grid: Array, rows: Array) -> Array:
    """Where each row is highest: the point, moved to the top of the parabola through it and its neighbours."""
    place = rows.argmax(axis=1)
    inner = np.clip(place, 1, grid.size - 2)
    each = np.arange(rows.shape[0])
    left, middle, right = rows[each, inner - 1], rows[each, inner], rows[each, inner + 1]
    bend = left - 2 * middle + right
    shift = np.where(bend < 0, (left - right) / np.where(bend < 0, 2 * bend, 1.0), 0.0)
    moved = grid[inner] + np.clip(shift, -1.0, 1.0) * (grid[1] - grid[0])
    return np.asarray(np.where(place == inner, moved, grid[place]))


def _stretch(grid: Array, there: NDArray[np.bool_]) -> Stretch | None:
    """From the lowest to the highest amount that is in; None where none is."""
    inside = grid[there]
    return Stretch(lower=float(inside[0]), upper=float(inside[-1])) if inside.size else None


def _columns(name: str, x: Array, value: float) -> Array:
    """Columns of a shape at its nonlinear parameter; (n, 1 to 3)."""
    ones = np.ones_like(x)
    if name == "flat":
        return ones[:, None]
    if name == "linear":
        return np.column_stack([ones, x])
    if name == "quadratic":
        return np.column_stack([ones, x, x**2])
    if name == "exponential-approach":
        return np.column_stack([ones, -np.expm1(-value * x)])
    u = np.minimum(x, value)
    return np.column_stack([ones, u if name == "linear-plateau" else u - u**2 / (2 * value)])


@lru_cache(maxsize=8)
def _bases(amounts: tuple[float, ...], covariance_root: bytes) -> list[_Basis]:
    """All shapes that so many amounts allow; amounts count from the lowest in parts of the range, to keep columns apart.

    Remembered, as a plan is simulated many times; ``covariance_root``: the bytes of a matrix (k, k).
    """
    x = np.array(amounts)
    grid, root = np.linspace(x[0], x[-1], POINTS), np.frombuffer(covariance_root).reshape(x.size, x.size)
    low, span = x[0], x[-1] - x[0]
    levels, points = (x - low) / span, (grid - low) / span
    bases = []
    for name in SHAPES:
        if name in BENT and x.size < LEVELS_OF_BENT:
            continue
        if name == "quadratic" and x.size < LEAST_LEVELS:
            continue
        values = _values(name, levels)
        project, curve = [], []
        for value in values:
            q, r = np.linalg.qr(np.linalg.solve(root, _columns(name, levels, float(value))))
            project.append(q.T)
            curve.append(np.linalg.solve(r.T, _columns(name, points, float(value)).T).T)
        inner = np.ones(values.size, dtype=bool)
        if name in BENT:
            inner[[0, -1]] = False
        bases.append(_Basis(name, np.array(project), np.array(curve), inner))
    return bases


def _values(name: str, levels: Array) -> Array:
    """Values of the nonlinear parameter: joins between the second amount and the last, rates from nearly straight to steep."""
    if name not in BENT:
        return np.zeros(1)
    if name == "exponential-approach":
        return np.geomspace(0.3, 60.0, FINE)
    return np.linspace(float(levels[1]) if name == "linear-plateau" else 0.3, 1.0, FINE)


def _doubted(weights: Array) -> Array:
    """Weights as intervals take them: a few strips tell shapes apart less well than the criterion says."""
    part = np.where(weights < SEEN, 0.0, weights) ** DOUBT
    return np.asarray(part / part.sum(axis=1, keepdims=True))


def _pick(rng: np.random.Generator, weights: Array) -> NDArray[np.intp]:
    """One shape a draw, by its weights; (b,)."""
    passed = np.cumsum(weights, axis=1)[:, :-1] < rng.random((weights.shape[0], 1))
    return np.asarray(passed.sum(axis=1), dtype=np.intp)


def _fitted(bases: Sequence[_Basis], whitened: Array) -> tuple[Array, Array]:
    """Curves of every shape (shapes, b, POINTS) and their weights (b, shapes) for b sets of whitened means."""
    total = (whitened**2).sum(axis=1)
    curves, scores = [], []
    for basis in bases:
        coefficients = np.einsum("gqk,bk->gbq", basis.project, whitened)
        rest = total[None, :] - (coefficients**2).sum(axis=2)
        chosen = rest.argmin(axis=0)
        each = np.arange(whitened.shape[0])
        curves.append(np.einsum("bpq,bq->bp", basis.curve[chosen], coefficients[chosen, each]))
        score = rest[chosen, each] + 2 * PARAMETERS[basis.name]
        scores.append(np.where(basis.inner[chosen], score, np.inf))
    stacked = np.array(scores)
    weights = np.exp(-(stacked - stacked.min(axis=0)) / 2)
    return np.array(curves), np.asarray((weights / weights.sum(axis=0)).T)


def aicc_weights(aicc: Mapping[str, float | None]) -> dict[str, float]:
    """Weights of shapes that were fitted to strips, by Akaike's criterion with its small-sample term; those without are out.

    The verdict averages by the generalised criterion on adjusted means; this is the textbook's, for those who ask for it.
    """
    known = {name: value for name, value in aicc.items() if value is not None}
    if not known:
        return {}
    least = min(known.values())
    raw = {name: float(np.exp(-(value - least) / 2)) for name, value in known.items()}
    return {name: value / sum(raw.values()) for name, value in raw.items()}
