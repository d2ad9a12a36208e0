"""What is believed of a true difference before and after the strips have spoken: the ground of every chance that is shown.

Prior. A true difference in yield between two treatments is normal around nought. Its standard deviation is a share of the
expected yield, by crop and by what is varied (``usual_effect_pct`` of the crop: common practice, no source): most row
spacings, rates, depths and tillages that people put into trials differ by a few percent. Where treatments differ in several
factors their variances add up. A flat prior would hold a gain of 40 % for as likely as one of 4 %, and its chances would be
too sure [1].

Posterior. The likelihood of the difference d is Student's t around the estimate with its standard error and degrees of freedom:
a normal whose variance is scaled by ν ÷ χ²_ν, unknown to us. Given the scale, prior and likelihood are both normal, so the
posterior is a mixture of normals over the scale, integrated numerically [2]. In money costs are known and taken off after the
yield was shrunken: the prior of a net return lies around minus the extra cost.

References: [1] Gelman & Carlin (2014) Perspect. Psychol. Sci. 9:641–651; [2] Gelman et al. (2013) Bayesian Data Analysis,
3rd ed., section 2.5 for normal with normal, section 3.2 for the scale (all from memory).
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import scipy
from numpy.typing import NDArray

from cultrix_core.errors import require_finite, require_positive

Array = NDArray[np.float64]
NODES = 160
TAIL = 1e-10


@dataclass(frozen=True, slots=True, kw_only=True)
class Belief:
    """The posterior of a difference as normals with weights that sum to 1: arrays (m,)."""

    weights: Array
    means: Array
    spreads: Array

    @property
    def mean(self) -> float:
        """The difference to be expected, shrunken towards the prior."""
        return float(self.weights @ self.means)

    @property
    def sd(self) -> float:
        """Standard deviation of the posterior."""
        about = self.weights @ (self.spreads**2 + (self.means - self.mean) ** 2)
        return float(np.sqrt(about))

    def above(self, threshold: float = 0.0) -> float:
        """Chance that the true difference is larger than ``threshold``."""
        return float(self.weights @ scipy.special.ndtr((self.means - threshold) / self.spreads))


def usual_effect(usual_pct: Mapping[str, float], kinds: Iterable[str]) -> float:
    """Standard deviation of true differences as a share of the yield, for treatments that differ in these kinds of factor.

    Parameters
    ----------
    usual_pct : ``usual_effect_pct`` of the crop.
    kinds : ``row_spacing``, ``seeding_rate``, ``seeding_depth``, ``tillage``, ``sowing_date`` or ``free``; none is taken as
        ``free``.
    """
    rows = [usual_pct[kind] for kind in kinds] or [usual_pct["free"]]
    return float(np.sqrt(sum((row / 100) ** 2 for row in rows)))


def believe(estimate: float, se: float, df: float, *, scale: float, center: float = 0.0) -> Belief:
    """Posterior of a true difference.

    Parameters
    ----------
    estimate, se, df : the estimate with its standard error and degrees of freedom, unit of the response.
    scale, center : standard deviation and mean of the prior, same unit.

    Raises
    ------
    Refusal : ``not_positive`` or ``not_finite``.
    """
    for value, name in ((estimate, "estimate"), (center, "center")):
        require_finite(value, name)
    for value, name in ((se, "se"), (df, "df"), (scale, "scale")):
        require_positive(value, name)
    chi2, density = _scales(float(df))
    variance = se**2 * df / chi2
    total = variance + scale**2
    likely = density * np.exp(-((estimate - center) ** 2) / (2 * total)) / np.sqrt(total)
    share = scale**2 / total
    return Belief(
        weights=np.asarray(likely / likely.sum()),
        means=np.asarray(center + share * (estimate - center)),
        spreads=np.asarray(np.sqrt(share * variance)),
    )


@lru_cache(maxsize=64)
def _scales(df: float) -> tuple[Array, Array]:
    """Nodes of χ² with the mass that each stands for."""
    nodes, weights = np.polynomial.legendre.leggauss(NODES)
    low, high = (float(scipy.stats.chi2.ppf(tail, df)) for tail in (TAIL, 1 - TAIL))
    chi2 = (high - low) / 2 * nodes + (high + low) / 2
    return chi2, np.asarray(weights * (high - low) / 2 * scipy.stats.chi2.pdf(chi2, df))
