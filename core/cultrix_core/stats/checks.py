"""Checks of a fitted model, in numbers and in words.

Shapiro–Wilk on residuals, the largest externally studentised residual with Bonferroni p [1], and
Brown–Forsythe on residuals by treatment.

References: [1] Cook & Weisberg (1982) Residuals and Influence in Regression, ch. 2 (from memory).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import stats

from cultrix_core.stats.linear_model import FixedFit


@dataclass(frozen=True, slots=True, kw_only=True)
class Checks:
    """Test statistics; None where the data cannot support the check. ``outlier_row`` counts rows from 1."""

    shapiro_w: float | None
    shapiro_p: float | None
    outlier_row: int | None
    outlier_rstudent: float | None
    outlier_p_bonferroni: float | None
    brown_forsythe_f: float | None
    brown_forsythe_p: float | None
    words: tuple[str, ...]


def check(fit: FixedFit, treatment: str, labels: Sequence[str] = ()) -> Checks:
    """Run the checks on residuals of ``fit``, spread by the factor named ``treatment``.

    ``labels`` are what a reader calls the rows, "Row 1" and so on when there are none.
    """
    if not fit.mse or fit.df_error < 3:
        return Checks(
            shapiro_w=None,
            shapiro_p=None,
            outlier_row=None,
            outlier_rstudent=None,
            outlier_p_bonferroni=None,
            brown_forsythe_f=None,
            brown_forsythe_p=None,
            words=("Too few strips to check the model.",),
        )
    residuals = fit.residuals
    w, p_normal = stats.shapiro(residuals)
    row, rstudent, p_outlier = _largest_outlier(fit)
    f, p_spread = _spread(fit, treatment)
    words = []
    if p_outlier is not None and p_outlier < 0.05:
        name = labels[row] if labels else f"Row {row + 1}"
        words.append(f"{name} stands far from what its block and treatment suggest: check its record.")
    if p_normal < 0.05:
        words.append("The residuals are not shaped like a bell: look at the strips before trusting small p values.")
    if p_spread is not None and p_spread < 0.05:
        words.append("Some treatments scatter more than others: intervals are too wide for one and too narrow for another.")
    return Checks(
        shapiro_w=float(w),
        shapiro_p=float(p_normal),
        outlier_row=row + 1,
        outlier_rstudent=rstudent,
        outlier_p_bonferroni=p_outlier,
        brown_forsythe_f=f,
        brown_forsythe_p=p_spread,
        words=tuple(words) or ("Nothing in the residuals speaks against the model.",),
    )


def _largest_outlier(fit: FixedFit) -> tuple[int, float, float | None]:
    """[1] r_i* = e_i / √(s²_(i)(1 − h_i)) on ν − 1 df."""
    room = np.clip(1 - fit.leverage, 0.0, 1.0)
    usable = room > 1e-9
    without = np.full(fit.y.size, np.nan)
    without[usable] = (fit.sse - fit.residuals[usable] ** 2 / room[usable]) / (fit.df_error - 1)
    rstudent = np.zeros(fit.y.size)
    fine = usable & (without > 0)
    rstudent[fine] = fit.residuals[fine] / np.sqrt(without[fine] * room[fine])
    row = int(np.argmax(np.abs(rstudent)))
    p = float(min(1.0, fit.y.size * 2 * stats.t.sf(abs(rstudent[row]), fit.df_error - 1)))
    return row, float(rstudent[row]), p


def _spread(fit: FixedFit, treatment: str) -> tuple[float | None, float | None]:
    codes = fit.factor(treatment).codes()
    groups = [fit.residuals[codes == code] for code in range(len(fit.factor(treatment).levels))]
    groups = [group for group in groups if group.size >= 2]
    if len(groups) < 2:
        return None, None
    f, p = stats.levene(*groups, center="median")
    return (float(f), float(p)) if np.isfinite(f) else (None, None)
