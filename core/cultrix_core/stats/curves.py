"""Response of yield to an amount: five shapes, the choice among them, where it is highest and where it pays best.

Shapes, u = min(x, x0), with block effects added where blocks are given:

    linear              y = a + b x
    quadratic           y = a + b x + c x²
    linear_plateau      y = a + b u
    quadratic_plateau   y = a + b (u − u² ÷ (2 x0)): slope b at nought, none at x0
    mitscherlich        y = a + b (1 − exp(−c x))

The first two are linear; in the others one parameter makes the shape and the rest are linear, so that its sum of squares is
minimised over that one parameter alone, from a grid over the range, then closely [1]. A join at the edge of the range is no
join: the data do not show one. Standard errors are the linearised ones. The shapes are ranked by AICc, sigma counted [2].

The best x is that of the chosen shape: where the slope is nought, or where it equals cost ÷ price. Its interval is by
profile: all x for which the best fit with its optimum there is not worse than the F limit allows [3]; an end that is not
found within the range is open (None). An optimum outside the range is flagged and never given as one.

References
----------
[1] Golub & Pereyra (1973) SIAM J. Numer. Anal. 10:413–432, separable least squares. [2] Hurvich & Tsai (1989) Biometrika
76:297–307. [3] Bates & Watts (1988) Nonlinear Regression Analysis, ch. 6. [4] Draper & Smith (1998) Applied
Regression Analysis, ch. 2: lack of fit against pure error. All from memory.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from math import exp, isfinite, log, pi, sqrt

import numpy as np
import scipy
from numpy.typing import NDArray

from cultrix_core.errors import Refusal, require_between, require_finite
from cultrix_core.stats.linear_model import Factor

Array = NDArray[np.float64]
SHAPES = ("linear", "quadratic", "linear_plateau", "quadratic_plateau", "mitscherlich")
GRID = 400
ALIKE = 1e-6  # AICc so near are the same fit
EDGE = 1e-4  # of the range: a join so near its end is none
LEAST_LEVELS = 3
NAMES = {"linear": "ab", "quadratic": "abc", "linear_plateau": "ab", "quadratic_plateau": "ab", "mitscherlich": "ab"}
EXTRA = {"linear_plateau": "x0", "quadratic_plateau": "x0", "mitscherlich": "c"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Parameter:
    """One parameter with its linearised standard error."""

    name: str
    estimate: float
    se: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Shape:
    """A fitted shape. ``status``: fitted, no_interior_join or too_few_levels; the rest is None without a fit."""

    name: str
    status: str
    parameters: tuple[Parameter, ...]
    rss: float | None
    df: int | None
    sigma: float | None
    aicc: float | None
    covariance: tuple[tuple[float, ...], ...] = ()

    def band(self, x: Array | float, alpha: float) -> tuple[Array, Array]:
        """Pointwise interval of the fitted response, blocks averaged: linearised, Student's t on the residual df."""
        points = np.atleast_1d(np.asarray(x, dtype=np.float64))
        middle = self.at(points)
        if not self.covariance or self.df is None:
            return np.full(points.shape, np.nan), np.full(points.shape, np.nan)
        value = {parameter.name: parameter.estimate for parameter in self.parameters}
        beta = np.array([value[name] for name in NAMES[self.name]])
        slope = _jacobian(self.name, points, beta, value.get(EXTRA.get(self.name, "")))
        spread = np.sqrt(np.maximum(np.einsum("ij,jk,ik->i", slope, np.array(self.covariance), slope), 0.0))
        reach = float(scipy.stats.t.isf(alpha / 2, self.df)) * spread
        return middle - reach, middle + reach

    def at(self, x: Array | float) -> Array:
        """Fitted response, blocks averaged; NaN without a fit."""
        value = {parameter.name: parameter.estimate for parameter in self.parameters}
        points = np.atleast_1d(np.asarray(x, dtype=np.float64))
        if not value:
            return np.full(points.shape, np.nan)
        columns = _columns(self.name, points, value.get(EXTRA.get(self.name, "")))
        return np.asarray(columns @ np.array([value[name] for name in NAMES[self.name]]))


@dataclass(frozen=True, slots=True, kw_only=True)
class Optimum:
    """Best x with its profile interval; ``x`` is None where it does not lie inside the range that was tried."""

    x: float | None
    lower: float | None
    upper: float | None
    inside_range: bool
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class CurveFit:
    """All shapes, the chosen one by AICc, and the best x for yield and for money (None without price and cost)."""

    shapes: tuple[Shape, ...]
    chosen: str
    optimum: Optimum
    profit_optimum: Optimum | None
    warnings: tuple[str, ...]
    range: tuple[float, float] = (0.0, 0.0)
    alpha: float = 0.10
    lack_of_fit_p: float | None = None


def fit_curves(
    x: Sequence[float],
    y: Sequence[float],
    blocks: Sequence[str] | None = None,
    *,
    ratio: float | None = None,
    alpha: float = 0.10,
) -> CurveFit:
    """Fit every shape and choose one.

    Parameters
    ----------
    x, y : amounts and responses of n strips, in any units; ``blocks`` : label of the block of each.
    ratio : cost of one unit of x ÷ price of one unit of y; None leaves the profit optimum out.

    Raises
    ------
    Refusal : ``no_response``, ``lengths_differ``, ``not_finite``, ``too_few_treatments`` with fewer than three amounts.
    """
    require_between(alpha, 0.001, 0.5, "alpha", label="Significance level")
    amounts, responses = np.asarray(x, dtype=np.float64), np.asarray(y, dtype=np.float64)
    if not responses.size:
        raise Refusal("no_response", field="response")
    if amounts.size != responses.size or (blocks is not None and len(blocks) != responses.size):
        raise Refusal("lengths_differ", field="x", limit=responses.size, value=amounts.size)
    for value in (*amounts, *responses):
        require_finite(float(value), "response")
    levels = np.unique(amounts)
    if levels.size < LEAST_LEVELS:
        raise Refusal("too_few_treatments", field="x", label="Amounts", value=levels.size)
    if ratio is not None:
        require_between(ratio, 0, 1e12, "ratio", label="Cost over price")
    data = _Data(amounts, responses, _block_columns(blocks), levels)
    shapes = tuple(_fit(name, data) for name in SHAPES)
    ranked = sorted((shape for shape in shapes if shape.aicc is not None), key=lambda shape: shape.aicc or 0.0)
    level = [shape for shape in ranked if (shape.aicc or 0.0) - (ranked[0].aicc or 0.0) < ALIKE]
    ranked = [*sorted(level, key=lambda shape: SHAPES.index(shape.name)), *ranked[len(level) :]]
    if not ranked:
        raise Refusal("too_few_strips", field="response", value="A shape")
    best = ranked[0]
    ties = [shape.name for shape in ranked[1:] if shape in level]
    warnings = [f"{best.name} and {', '.join(ties)} fit alike; the simpler one named first is taken."] if ties else []
    away = _lack_of_fit(best, data)
    if away is not None and away < alpha:
        warnings.append(
            f"The means lie further from this curve than the strips scatter (lack of fit, p {away:.3f}): "
            "judge by the differences between the amounts, not by the curve."
        )
    return CurveFit(
        shapes=shapes,
        chosen=best.name,
        optimum=_optimum(best, data, 0.0, alpha),
        profit_optimum=None if ratio is None else _optimum(best, data, ratio, alpha),
        warnings=tuple(warnings),
        range=(data.low, data.high),
        alpha=alpha,
        lack_of_fit_p=away,
    )


def _lack_of_fit(best: Shape, data: _Data) -> float | None:
    """p of the F test of a shape against a mean of its own for every amount [4]; None where no freedom is left to test it."""
    assert best.rss is not None
    assert best.df is not None
    classes = (data.x[:, None] == data.levels).astype(np.float64)
    whole = np.hstack([classes, data.blocks]) if data.blocks.size else classes
    df = data.y.size - int(np.linalg.matrix_rank(whole))
    between = best.df - df
    if df < 1 or between < 1:
        return None
    beta = np.linalg.lstsq(whole, data.y, rcond=None)[0]
    rss = float(((data.y - whole @ beta) ** 2).sum())
    if rss <= 0:
        return None
    return float(scipy.stats.f.sf((best.rss - rss) / between / (rss / df), between, df))


@dataclass(frozen=True, slots=True)
class _Data:
    x: Array
    y: Array
    blocks: Array
    levels: Array

    @property
    def low(self) -> float:
        return float(self.levels[0])

    @property
    def high(self) -> float:
        return float(self.levels[-1])


def _block_columns(blocks: Sequence[str] | None) -> Array:
    if blocks is None or len(set(blocks)) < 2:
        return np.zeros((0 if blocks is None else len(blocks), 0))
    factor = Factor.of("block", list(blocks))
    return np.asarray(factor.coding()[factor.codes()])


def _columns(name: str, x: Array, shape: float | None) -> Array:
    """Linear columns of a shape at its one nonlinear parameter; (n, 2 or 3)."""
    array = np.ones_like(x)
    if name == "linear":
        return np.column_stack([array, x])
    if name == "quadratic":
        return np.column_stack([array, x, x**2])
    assert shape is not None
    if name == "mitscherlich":
        return np.column_stack([array, -np.expm1(-shape * x)])
    u = np.minimum(x, shape)
    return np.column_stack([array, u if name == "linear_plateau" else u - u**2 / (2 * shape)])


def _least(columns: Array, data: _Data, y: Array | None = None) -> tuple[Array, float]:
    whole = np.hstack([columns, data.blocks]) if data.blocks.size else columns
    target = data.y if y is None else y
    beta = np.linalg.lstsq(whole, target, rcond=None)[0]
    return np.asarray(beta[: columns.shape[1]]), float(((target - whole @ beta) ** 2).sum())


def _grid(name: str, data: _Data) -> Array:
    span = data.high - data.low
    if name == "mitscherlich":
        return np.geomspace(0.05 / span, 60.0 / span, GRID)
    return np.linspace(max(data.low, 0.0 if data.low >= 0 else data.low) + EDGE * span, data.high, GRID)


def _fit(name: str, data: _Data) -> Shape:
    if name not in EXTRA:
        return _finished(name, data, None)
    grid = _grid(name, data)
    value = _least_shape(lambda shape: _least(_columns(name, data.x, shape), data)[1], grid)
    span = data.high - data.low
    joined = name != "mitscherlich"
    beyond = int((data.levels > value).sum())
    below = int((data.levels <= value).sum())
    if joined and (value > data.high - 10 * EDGE * span or not beyond or below < 2):
        return _none(name, "no_interior_join")
    if not joined and (value <= grid[0] * 1.02 or value >= grid[-1] * 0.98):
        return _none(name, "no_interior_join")
    return _finished(name, data, value)


def _none(name: str, status: str) -> Shape:
    return Shape(name=name, status=status, parameters=(), rss=None, df=None, sigma=None, aicc=None)


def _least_shape(rss: Callable[[float], float], grid: Array) -> float:
    values = np.array([rss(float(item)) for item in grid])
    place = int(np.argmin(values))
    around = (float(grid[max(place - 1, 0)]), float(grid[min(place + 1, len(grid) - 1)]))
    closer = scipy.optimize.minimize_scalar(
        rss, bounds=around, method="bounded", options={"xatol": 1e-12 * max(abs(around[1]), 1.0)}
    )
    return float(closer.x) if closer.fun <= values[place] else float(grid[place])


def _finished(name: str, data: _Data, shape: float | None) -> Shape:
    beta, rss = _least(_columns(name, data.x, shape), data)
    count = data.y.size
    number = beta.size + data.blocks.shape[1] + (shape is not None)
    df = count - number
    k = number + 1  # sigma is a parameter too
    if df < 1 or count - k - 1 < 1 or data.levels.size < beta.size + (shape is not None):
        return _none(name, "too_few_levels")
    loglik = -count / 2 * (log(2 * pi * max(rss, 1e-300) / count) + 1)
    jacobian = _jacobian(name, data.x, beta, shape)
    whole = np.hstack([jacobian, data.blocks]) if data.blocks.size else jacobian
    covariance = rss / df * np.linalg.pinv(whole.T @ whole)
    names = [*NAMES[name], *([EXTRA[name]] if shape is not None else [])]
    values = [*beta, *([shape] if shape is not None else [])]
    return Shape(
        name=name,
        status="fitted",
        parameters=tuple(
            Parameter(name=item, estimate=float(value), se=sqrt(max(float(covariance[at, at]), 0.0)))
            for at, (item, value) in enumerate(zip(names, values, strict=True))
        ),
        rss=rss,
        df=df,
        sigma=sqrt(rss / df),
        aicc=2 * k - 2 * loglik + 2 * k * (k + 1) / (count - k - 1),
        covariance=tuple(tuple(float(item) for item in row[: len(names)]) for row in covariance[: len(names)]),
    )


def _jacobian(name: str, x: Array, beta: Array, shape: float | None) -> Array:
    columns = _columns(name, x, shape)
    if shape is None:
        return columns
    b = float(beta[1])
    if name == "mitscherlich":
        bend = b * x * np.exp(-shape * x)
    elif name == "linear_plateau":
        bend = np.where(x > shape, b, 0.0)
    else:
        bend = np.where(x > shape, b / 2, b * np.minimum(x, shape) ** 2 / (2 * shape**2))
    return np.column_stack([columns, bend])


def best_x(shape: Shape, ratio: float, low: float, high: float) -> float | None:
    """Where a fitted shape pays best at a ratio of cost to price, inside the range or not; None where nowhere."""
    value = {parameter.name: parameter.estimate for parameter in shape.parameters}
    if shape.name == "linear":
        return high if value["b"] > ratio else low
    if shape.name == "quadratic":
        return (ratio - value["b"]) / (2 * value["c"]) if value["c"] < 0 else None
    if shape.name == "linear_plateau":
        return value["x0"] if value["b"] > ratio else low
    if shape.name == "quadratic_plateau":
        return value["x0"] * (1 - ratio / value["b"]) if value["b"] > ratio else low
    slope = value["b"] * value["c"]
    return None if ratio <= 0 else log(slope / ratio) / value["c"] if slope > ratio else low


def _optimum(shape: Shape, data: _Data, ratio: float, alpha: float) -> Optimum:
    value = best_x(shape, ratio, data.low, data.high)
    inside = value is not None and data.low < value < data.high
    if not inside or value is None:
        end = "highest" if value is None or value >= data.high else "lowest"
        words = f"The response has no optimum inside the range tried; the {end} amount is as far as these data go."
        return Optimum(x=None, lower=None, upper=None, inside_range=False, words=words)
    lower, upper = _profile(shape, data, ratio, value, alpha)
    ends = "" if lower is not None and upper is not None else " An end that lies outside the range tried is open."
    words = f"Interval by profile of the sum of squares, {100 * (1 - alpha):g} %.{ends}"
    return Optimum(x=value, lower=lower, upper=upper, inside_range=True, words=words)


def _profile(shape: Shape, data: _Data, ratio: float, value: float, alpha: float) -> tuple[float | None, float | None]:
    """All optima that the data allow: RSS with the optimum held at x against the F limit. [3]"""
    assert shape.rss is not None
    assert shape.df is not None
    limit = shape.rss * (1 + float(scipy.stats.f.isf(alpha, 1, shape.df)) / shape.df)
    held = _held(shape.name, data, ratio)

    def over(x: float) -> float:
        return held(x) - limit

    ends: list[float | None] = []
    for edge in (data.low, data.high):
        steps = np.linspace(value, edge, 200)[1:]
        crossed = next((place for place, item in enumerate(steps) if over(float(item)) > 0), None)
        if crossed is None:
            ends.append(None)
            continue
        near = float(steps[crossed - 1]) if crossed else value
        ends.append(float(scipy.optimize.brentq(over, near, float(steps[crossed]), xtol=1e-10 * max(abs(value), 1.0))))
    return ends[0], ends[1]


def _held(name: str, data: _Data, ratio: float) -> Callable[[float], float]:
    """Least RSS of a shape whose optimum is held at x."""
    x, array = data.x, np.ones_like(data.x)
    if name == "quadratic":  # b = ratio − 2 c x*
        return lambda at: _least(np.column_stack([array, x**2 - 2 * at * x]), data, data.y - ratio * x)[1]
    if name == "linear_plateau":
        return lambda at: _least(_columns(name, x, max(at, 1e-12)), data)[1]
    if name == "quadratic_plateau" and ratio == 0:
        return lambda at: _least(_columns(name, x, max(at, 1e-12)), data)[1]
    grid = _grid(name, data)

    def with_free_shape(at: float) -> float:
        def rss(shape: float) -> float:
            b = _slope(name, at, shape, ratio)
            if b is None or not isfinite(b):
                return float("inf")
            fixed = _columns(name, x, shape)[:, 1] * b
            return _least(array[:, None], data, data.y - fixed)[1]

        allowed = grid[grid > at] if name == "quadratic_plateau" else grid
        return rss(_least_shape(rss, allowed)) if allowed.size > 2 else float("inf")

    return with_free_shape


def _slope(name: str, at: float, shape: float, ratio: float) -> float | None:
    """b of a shape whose optimum at this ratio lies at x."""
    if name == "quadratic_plateau":
        return ratio / (1 - at / shape) if shape > at else None
    return ratio * exp(min(shape * at, 700.0)) / shape
