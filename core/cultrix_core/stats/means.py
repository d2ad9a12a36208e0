"""Mean of strips with its standard error and Student's interval; coefficients of variation of several trials pooled.

Model. Strips of one treatment are independent with one unknown variance: se = s/√n on n − 1 degrees of freedom, interval
mean ± t(1 − α/2; n − 1)·se [1]. One strip has a mean and nothing that says how sure it is.

Pooled: variances are averaged by their degrees of freedom, each relative to the mean of its own trial [2].

References: [1] Student (1908) Biometrika 6:1–25; [2] the pooled variance of a one-way analysis, definition (both
from memory).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from cultrix_core.errors import Refusal, require_finite
from cultrix_core.stats.multiplicity import t_critical


@dataclass(frozen=True, slots=True, kw_only=True)
class StripMean:
    """Mean of n strips in their own unit; ``se`` and ``df`` are None for one strip."""

    n: int
    mean: float
    se: float | None
    df: int | None

    def half_width(self, alpha: float) -> float | None:
        """Half the width of the interval at level 1 − alpha; None for one strip."""
        return None if self.se is None or self.df is None else t_critical(alpha, self.df) * self.se


def strip_mean(values: Sequence[float]) -> StripMean:
    """Mean of strips.

    Parameters
    ----------
    values : one number a strip, any unit.

    Returns
    -------
    StripMean

    Raises
    ------
    Refusal : ``missing`` without values, ``not_finite``.

    Examples
    --------
    >>> strip_mean([4.0, 6.0, 8.0])
    StripMean(n=3, mean=6.0, se=1.1547005383792517, df=2)
    """
    if not values:
        raise Refusal("missing", field="values", label="A strip", remedy="A mean needs at least one.")
    for value in values:
        require_finite(value, "values")
    n = len(values)
    if n == 1:
        return StripMean(n=1, mean=float(values[0]), se=None, df=None)
    return StripMean(n=n, mean=float(np.mean(values)), se=float(np.std(values, ddof=1)) / n**0.5, df=n - 1)


def pooled_cv(parts: Sequence[tuple[float, float]]) -> tuple[float, float] | None:
    """Coefficient of variation over several trials, with the degrees of freedom it stands on.

    Parameters
    ----------
    parts : coefficient of variation (any one unit, such as %) and error degrees of freedom of each trial.

    Returns
    -------
    the pooled coefficient in the same unit and the sum of the degrees of freedom; None without any.

    Examples
    --------
    >>> pooled_cv([(6.0, 4), (8.0, 12)])
    (7.54983443527075, 16)
    """
    freedom = sum(df for _, df in parts)
    if freedom <= 0:
        return None
    return float((sum(df * cv**2 for cv, df in parts) / freedom) ** 0.5), freedom
