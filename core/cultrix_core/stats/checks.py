"""Checks of a fitted model, in numbers and in words.

Shapiro–Wilk on residuals, the largest externally studentised residual with Bonferroni p [1], Brown–Forsythe on residuals by
treatment, Tukey's one degree of freedom for additivity [2], and a straight drift along the field, residual against the
strip's place. The last two add one column z to the model: q = (z′Py)² ÷ z′Pz, F = q (ν − 1) ÷ (ν − q) on 1 and ν − 1.

With random terms the residuals are those left after the predicted terms, P = V⁻¹ − V⁻¹XΦX′V⁻¹ at the estimated components
and ν = n − rank X, so the p values are approximate.

References: [1] Cook & Weisberg (1982) Residuals and Influence in Regression, ch. 2. [2] Tukey (1949) One degree of freedom
for non-additivity, Biometrics 5:232–242. Both from memory.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from cultrix_core.stats.linear_model import FixedFit
from cultrix_core.stats.mixed_model import MixedFit, projected

Array = NDArray[np.float64]
NOTICED = 0.05  # below this p a check speaks up: common practice, no source
LEAST_DF = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Checks:
    """Test statistics; None where the data cannot support the check. ``outlier_row`` counts rows from 1.

    ``residuals`` and ``fitted`` are those of the rows, in the unit of the response.
    """

    shapiro_w: float | None = None
    shapiro_p: float | None = None
    outlier_row: int | None = None
    outlier_rstudent: float | None = None
    outlier_p_bonferroni: float | None = None
    brown_forsythe_f: float | None = None
    brown_forsythe_p: float | None = None
    additivity_f: float | None = None
    additivity_p: float | None = None
    trend_f: float | None = None
    trend_p: float | None = None
    residuals: tuple[float, ...] = ()
    fitted: tuple[float, ...] = ()
    words: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class _Residuals:
    """What the checks read of a fit. ``project``: z → Pz scaled so that the residual is its own P times the error variance."""

    residuals: Array
    fitted: Array
    standard: Array
    df: int
    project: Callable[[Array], Array]
    weighted: Array


def check(fit: FixedFit, treatment: str, labels: Sequence[str] = (), positions: Sequence[float] = ()) -> Checks:
    """Run the checks on residuals of ``fit``, spread by the factor named ``treatment``.

    ``labels`` are what a reader calls the rows, "Row 1" and so on when there are none; ``positions`` their places across
    the field.
    """
    if not fit.mse or fit.df_error < LEAST_DF:
        return Checks(words=("Too few strips to check the model.",))
    mse = fit.mse
    room = np.clip(1 - fit.leverage, 0.0, 1.0)
    usable = room > 1e-9
    standard = np.zeros(fit.y.size)
    standard[usable] = fit.residuals[usable] / np.sqrt(mse * room[usable])

    def project(z: Array) -> Array:
        return np.asarray((z - fit.x @ (fit.cov_unscaled @ (fit.x.T @ z))) / mse)

    seen = _Residuals(fit.residuals, fit.fitted, standard, fit.df_error, project, fit.residuals / mse)
    blocked = len(fit.columns) > 1
    return _checks(seen, list(fit.factor(treatment).labels), labels, positions, additive=blocked)


def check_mixed(fit: MixedFit, factors: Sequence[str], positions: Sequence[float] = (), labels: Sequence[str] = ()) -> Checks:
    """Run the checks on what a mixed model leaves, spread by the combinations of ``factors``."""
    df = fit.y.size - fit.x.shape[1]
    if df < LEAST_DF or not fit.residuals.any():
        return Checks(words=("Too few strips to check the model.",))
    usable = fit.residual_errors > 1e-9 * float(fit.residual_errors.max())
    standard = np.zeros(fit.y.size)
    standard[usable] = fit.residuals[usable] / fit.residual_errors[usable]
    cells = list(map(" ".join, zip(*(fit.factor(name).labels for name in factors), strict=True)))
    weighted = projected(fit, fit.y)
    seen = _Residuals(fit.residuals, fit.fitted, standard, df, lambda z: projected(fit, z), weighted)
    additive = len(fit.components) == 1 and len(factors) == 1 and len(fit.columns) > 1
    return _checks(seen, cells, labels, positions, additive=additive)


def _checks(
    seen: _Residuals, groups: Sequence[str], labels: Sequence[str], positions: Sequence[float], *, additive: bool
) -> Checks:
    w, p_normal = scipy.stats.shapiro(seen.residuals)
    row, rstudent, p_outlier = _largest_outlier(seen)
    f, p_spread = _spread(seen.residuals, groups)
    f_add, p_add = _one_column(seen, seen.fitted**2) if additive else (None, None)
    f_trend, p_trend = _one_column(seen, np.asarray(positions, dtype=np.float64)) if len(positions) else (None, None)
    words = []
    if p_outlier < NOTICED:
        name = labels[row] if labels else f"Row {row + 1}"
        words.append(f"{name} stands far from what its block and treatment suggest: check its record.")
    if p_normal < NOTICED:
        words.append("The residuals are not shaped like a bell: look at the strips before trusting small p values.")
    if p_spread is not None and p_spread < NOTICED:
        words.append("Some treatments scatter more than others: intervals are too wide for one and too narrow for another.")
    if p_add is not None and p_add < NOTICED:
        words.append("Differences grow with the level of the block: look at the analysis of logarithms beside this one.")
    if p_trend is not None and p_trend < NOTICED:
        words.append("What is left drifts along the field: the blocks did not take the trend of the ground out.")
    return Checks(
        shapiro_w=float(w),
        shapiro_p=float(p_normal),
        outlier_row=row + 1,
        outlier_rstudent=rstudent,
        outlier_p_bonferroni=p_outlier,
        brown_forsythe_f=f,
        brown_forsythe_p=p_spread,
        additivity_f=f_add,
        additivity_p=p_add,
        trend_f=f_trend,
        trend_p=p_trend,
        residuals=tuple(float(residual) for residual in seen.residuals),
        fitted=tuple(float(item) for item in seen.fitted),
        words=tuple(words) or ("Nothing in the residuals speaks against the model.",),
    )


def _largest_outlier(seen: _Residuals) -> tuple[int, float, float]:
    """[1] t = r √((ν − 1) ÷ (ν − r²)) on ν − 1 df, r internally studentised."""
    room = seen.df - seen.standard**2
    external = np.where(room > 1e-9, seen.standard * np.sqrt((seen.df - 1) / np.maximum(room, 1e-9)), 0.0)
    row = int(np.argmax(np.abs(external)))
    p = float(min(1.0, external.size * 2 * scipy.stats.t.sf(abs(external[row]), seen.df - 1)))
    return row, float(external[row]), p


def _spread(residuals: Array, groups: Sequence[str]) -> tuple[float | None, float | None]:
    names = np.array(groups)
    parts = [residuals[names == name] for name in dict.fromkeys(groups)]
    parts = [part for part in parts if part.size >= 2]
    if len(parts) < 2:
        return None, None
    f, p = scipy.stats.levene(*parts, center="median")
    return (float(f), float(p)) if np.isfinite(f) else (None, None)


def _one_column(seen: _Residuals, z: Array) -> tuple[float | None, float | None]:
    """F of one column added to the model; None where the model already holds it."""
    z = z - z.mean()
    held = float(z @ seen.project(z))
    if held <= 1e-9 * float(z @ z) * float(np.abs(seen.project(np.eye(z.size)[0])).max()) or seen.df < 2:
        return None, None
    q = min(float(z @ seen.weighted) ** 2 / held, seen.df * (1 - 1e-12))
    f = q * (seen.df - 1) / (seen.df - q)
    return f, float(scipy.stats.f.sf(f, 1, seen.df - 1))
