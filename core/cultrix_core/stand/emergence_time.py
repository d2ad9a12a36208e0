"""When plants come up, where counts are days apart: interval-censored estimation of the time to emergence.

A seed that was not up at one count and was at the next came up between the two; one that is not up at the last count comes
later or never. Times follow a log-logistic distribution,

    F(t) = f ÷ (1 + (t ÷ t50)^−shape),

t50 the day at which half of those that come are up, f the share that comes at all. Three ways:

    all-sown          f = 1: what is not up comes later; t50 is half of the seed sown
    emerged           only the seeds that came up, between their counts; t50 is half of those
    three-parameter   f is estimated; t50 is half of the final stand

Likelihood: Σ n log(F(upper) − F(lower)), maximised by Newton's method from a grid; standard errors from its curvature, for
log t50, log shape and logit f, turned back by the delta method [1]. Seeds of one strip are not independent, so these are too
small wherever strips differ: treatments are compared by the strips, log t50 of each in the design's own model [2]; a robust
sandwich with score sums by strip stands beside for a common shape [3].

References: [1] Ritz, Pipper & Streibig (2013) Eur. J. Agron. 45:1–6; Lawless (2003) Statistical Models and Methods for Lifetime
Data, 2nd ed., ch. 2; [2] Onofri, Gresta & Tei (2010) Weed Res. 50:187–198; [3] White (1982) Econometrica 50:1–25 (all from
memory).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial
from typing import Literal

import numpy as np
import scipy
from numpy.typing import NDArray

from cultrix_core.errors import Refusal, require_between, require_finite

Array = NDArray[np.float64]
Way = Literal["all-sown", "emerged", "three-parameter"]
LEAST_COUNTS = 2
STEP = 1e-4


@dataclass(frozen=True, slots=True, kw_only=True)
class StripCounts:
    """Cumulative counts of one strip: ``emerged`` plants by each of ``days`` from sowing, of ``sown`` seeds; (k,) each."""

    strip: str
    treatment: str
    block: str
    days: tuple[float, ...]
    emerged: tuple[float, ...]
    sown: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Intervals:
    """``counts`` seeds that came up after ``lower`` and by ``upper`` (days, infinity where they had not); (m,) each."""

    lower: Array
    upper: Array
    counts: Array


@dataclass(frozen=True, slots=True, kw_only=True)
class TimeFit:
    """A fitted distribution. ``covariance`` of (log t50, log shape[, logit final]); ``final`` 1 unless estimated."""

    way: Way
    t50: float
    shape: float
    final: float
    covariance: Array
    loglik: float

    @property
    def se_t50(self) -> float:
        """Standard error of t50, seeds taken as independent."""
        return float(self.t50 * np.sqrt(self.covariance[0, 0]))

    @property
    def se_shape(self) -> float:
        """Standard error of the shape."""
        return float(self.shape * np.sqrt(self.covariance[1, 1]))

    @property
    def se_final(self) -> float | None:
        """Standard error of the final share; None where it is not estimated."""
        if self.way != "three-parameter":
            return None
        return float(self.final * (1 - self.final) * np.sqrt(self.covariance[2, 2]))

    def day_of(self, share: float) -> float:
        """Day at which this share of those that come is up."""
        return float(self.t50 * (share / (1 - share)) ** (1 / self.shape))


def intervals_of(strips: Sequence[StripCounts]) -> Intervals:
    """The counts of strips as intervals, one row a strip and interval, empty ones left out.

    Raises
    ------
    Refusal : ``missing`` with fewer than two counts, ``not_rising`` counts, ``too_large`` above what was sown, ``duplicate``
        days, ``not_positive`` days.
    """
    lower, upper, counts = [], [], []
    for strip in strips:
        order = np.argsort(strip.days)
        days, emerged = np.asarray(strip.days)[order], np.asarray(strip.emerged)[order]
        _require_counts(strip, days, emerged)
        ends = np.concatenate([[0.0], days, [np.inf]])
        lower.append(ends[:-1])
        upper.append(ends[1:])
        counts.append(np.diff(np.concatenate([[0.0], emerged, [strip.sown]])))
    joined = [np.concatenate(part) for part in (lower, upper, counts)]
    there = joined[2] > 0
    return Intervals(lower=joined[0][there], upper=joined[1][there], counts=joined[2][there])


def _require_counts(strip: StripCounts, days: Array, emerged: Array) -> None:
    name = f"Strip {strip.strip}"
    for value in (*days, *emerged, strip.sown):
        require_finite(float(value), "emerged")
    if days.size < LEAST_COUNTS:
        raise Refusal(
            "missing", field="day", label=f"A second count of strip {strip.strip}", remedy="Times need two counts or more."
        )
    if days[0] <= 0:
        raise Refusal("not_positive", field="day", label=f"{name}: days from sowing", value=float(days[0]))
    if np.any(np.diff(days) == 0):
        raise Refusal(
            "duplicate", field="day", value=f"a day of strip {strip.strip}", remedy="Put the counts of a day together."
        )
    if np.any(np.diff(emerged) < 0) or emerged[0] < 0:
        place = int(np.argmax(np.diff(np.concatenate([[0.0], emerged])) < 0))
        raise Refusal(
            "not_rising",
            field="emerged",
            label=f"{name}, day {days[place]:g}",
            value=f"{emerged[place]:g} emerged",
            remedy="Counts are cumulative: plants that were up stay counted.",
        )
    require_between(float(emerged[-1]), 0, strip.sown, "emerged", label=f"{name}: emerged of {strip.sown:g} sown")


def fit_time(strips: Sequence[StripCounts], way: Way = "three-parameter") -> TimeFit:
    """Fit one distribution to strips pooled.

    Raises
    ------
    Refusal : those of ``intervals_of``; ``not_estimable`` where all that emerged came between the same two counts.
    """
    intervals = intervals_of(strips)
    up = np.isfinite(intervals.upper)
    if way == "emerged":
        intervals = Intervals(lower=intervals.lower[up], upper=intervals.upper[up], counts=intervals.counts[up])
        up = np.ones(intervals.counts.size, dtype=bool)
    if len({(low, high) for low, high in zip(intervals.lower[up], intervals.upper[up], strict=True)}) < LEAST_COUNTS:
        raise Refusal("not_estimable", field="emerged", value="the time to emergence")
    if way == "three-parameter" and bool(up.all()):
        way = "emerged"  # all came up: the share that comes is one
    minus = _loglik_of(intervals, way)
    best = min((_climb(minus, start) for start in _starts(intervals, way)), key=minus)
    information = _curvature(minus, best)
    try:
        covariance = np.linalg.inv(information)
    except np.linalg.LinAlgError as error:
        raise Refusal("not_estimable", field="emerged", value="the time to emergence") from error
    return TimeFit(
        way=way,
        t50=float(np.exp(best[0])),
        shape=float(np.exp(best[1])),
        final=float(scipy.special.expit(best[2])) if way == "three-parameter" else 1.0,
        covariance=np.asarray(covariance),
        loglik=-float(minus(best)),
    )


def _share(t: Array, log_t50: float, shape: float) -> Array:
    """F(t) of a log-logistic with final share 1."""
    with np.errstate(divide="ignore"):
        return np.asarray(scipy.special.expit(shape * (np.log(t) - log_t50)))


def _loglik_of(intervals: Intervals, way: Way) -> Callable[[Array], float]:
    """Minus log-likelihood of (log t50, log shape[, logit final])."""
    open_ = ~np.isfinite(intervals.upper)

    def minus(at: Array) -> float:
        shape = float(np.exp(min(at[1], 50.0)))
        low, high = (_share(ends, float(at[0]), shape) for ends in (intervals.lower, intervals.upper))
        final = float(scipy.special.expit(at[2])) if way == "three-parameter" else 1.0
        chance = final * (high - low)
        chance[open_] += 1 - final
        return -float(intervals.counts @ np.log(np.maximum(chance, 1e-300)))

    return minus


def _starts(intervals: Intervals, way: Way) -> list[Array]:
    up = np.isfinite(intervals.upper)
    middle = (intervals.lower[up] + intervals.upper[up]) / 2
    log_t50 = float(np.log(np.average(middle, weights=intervals.counts[up])))
    share = float(intervals.counts[up].sum() / intervals.counts.sum())
    more = [float(scipy.special.logit(min(share, 0.999)))] if way == "three-parameter" else []
    return [np.array([log_t50, np.log(shape), *more]) for shape in (3.0, 10.0)]


def _climb(minus: Callable[[Array], float], start: Array) -> Array:
    """BFGS, then Newton steps on central differences until the slope is gone."""
    at = np.asarray(scipy.optimize.minimize(minus, start, method="BFGS", options={"gtol": 1e-6}).x)
    for _ in range(6):
        slope = _slope(minus, at)
        try:
            step = np.linalg.solve(_curvature(minus, at), slope)
        except np.linalg.LinAlgError:
            break
        if minus(at - step) > minus(at) + 1e-9:
            break
        at = at - step
        if np.max(np.abs(step)) < 1e-10:
            break
    return at


def _slope(of: Callable[[Array], float], at: Array) -> Array:
    steps = np.eye(at.size) * STEP
    return np.array([(8 * (of(at + h) - of(at - h)) - (of(at + 2 * h) - of(at - 2 * h))) / (12 * STEP) for h in steps])


def _curvature(of: Callable[[Array], float], at: Array) -> Array:
    """Second derivatives by central differences; (p, p)."""
    steps, size = np.eye(at.size) * 10 * STEP, at.size
    result = np.empty((size, size))
    for i in range(size):
        for j in range(i, size):
            corners = of(at + steps[i] + steps[j]) - of(at + steps[i] - steps[j])
            corners += of(at - steps[i] - steps[j]) - of(at - steps[i] + steps[j])
            result[i, j] = result[j, i] = corners / (4 * (10 * STEP) ** 2)
    return result


def _turned(of: Callable[[Array, int, Intervals], float], place: int, own: Intervals, at: Array) -> float:
    return of(at, place, own)


@dataclass(frozen=True, slots=True, kw_only=True)
class CommonShape:
    """Treatments with one shape, seeds that emerged: log t50 by treatment, plain and by strips' score sums.

    ``log_ratios`` : (treatment, estimate, se, clustered se) of log t50 against the first treatment.
    """

    treatments: tuple[str, ...]
    t50: tuple[float, ...]
    se: tuple[float, ...]
    se_clustered: tuple[float, ...]
    shape: float
    loglik: float
    log_ratios: tuple[tuple[str, float, float, float], ...]


def fit_common_shape(strips: Sequence[StripCounts], treatments: Sequence[str]) -> CommonShape:
    """One shape for all treatments, seeds that emerged; standard errors plain and robust to strips that differ. [3]

    Raises
    ------
    Refusal : as ``fit_time``.
    """
    places = {name: place for place, name in enumerate(treatments)}
    by_strip: list[tuple[int, Intervals]] = []
    for strip in strips:
        whole = intervals_of([strip])
        up = np.isfinite(whole.upper)
        own = Intervals(lower=whole.lower[up], upper=whole.upper[up], counts=whole.counts[up])
        by_strip.append((places[strip.treatment], own))

    def of_strip(at: Array, place: int, own: Intervals) -> float:
        # location: log t50 of the first treatment plus the ratio of the strip's own; last the log of the scale 1 ÷ shape
        where = float(at[0] + (at[place] if place else 0.0))
        return _loglik_of(own, "emerged")(np.array([where, -at[-1]]))

    def minus(at: Array) -> float:
        return sum(of_strip(at, place, own) for place, own in by_strip)

    alone = [fit_time([strip for strip in strips if strip.treatment == name], "emerged") for name in treatments]
    logs = np.log([fit.t50 for fit in alone])
    start = np.array([logs[0], *(logs[1:] - logs[0]), -np.mean(np.log([fit.shape for fit in alone]))])
    best = _climb(minus, start)
    plain = np.linalg.inv(_curvature(minus, best))
    scores = np.array([_slope(partial(_turned, of_strip, place, own), best) for place, own in by_strip])
    robust = plain @ (scores.T @ scores) @ plain
    rows = np.zeros((len(treatments), best.size))
    rows[:, 0] = 1.0
    for place in range(1, len(treatments)):
        rows[place, place] = 1.0
    t50 = np.exp(rows @ best)
    errors = [t50 * np.sqrt(np.einsum("ij,jk,ik->i", rows, covariance, rows)) for covariance in (plain, robust)]
    return CommonShape(
        treatments=tuple(treatments),
        t50=tuple(float(value) for value in t50),
        se=tuple(float(value) for value in errors[0]),
        se_clustered=tuple(float(value) for value in errors[1]),
        shape=float(np.exp(-best[-1])),
        loglik=-minus(best),
        log_ratios=tuple(
            (name, float(best[place]), float(np.sqrt(plain[place, place])), float(np.sqrt(robust[place, place])))
            for place, name in enumerate(treatments)
            if place
        ),
    )
