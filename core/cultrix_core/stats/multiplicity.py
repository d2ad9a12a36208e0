"""Critical values and adjusted p for families of comparisons: none, Tukey, Dunnett, Holm.

Tukey uses the studentised range, integrated as Dunnett is. Dunnett with a product correlation (balanced blocks: 0.5 throughout)
is integrated in two dimensions [1]; any other correlation (lost strips) takes the largest of the normal variables from
quasi-random points with a fixed seed, accurate to about four digits, and integrates over the scale. Holm adjusts p; the
intervals that go with it are Bonferroni's, since Holm's step-down has none of its own.

References
----------
[1] Dunnett (1955) A multiple comparison procedure for comparing several treatments with a control,
    JASA 50:1096–1121; [2] Genz & Bretz (2009) Computation of Multivariate Normal and t Probabilities;
[3] Holm (1979) Scand. J. Stat. 6:65–70; [4] Tukey (1953), Kramer (1956) Biometrics 12:307–310
(all from memory).
"""

from __future__ import annotations

from collections import Counter
from functools import cache, lru_cache
from typing import Literal

import numpy as np
import scipy
from numpy.typing import NDArray

Adjust = Literal["none", "tukey", "dunnett", "holm"]
Array = NDArray[np.float64]
QMC_SEED = 20250
SOBOL_POWER = 17
_NODES_Z = np.linspace(-8.5, 8.5, 171)
_NODES_U, _WEIGHTS_U = np.polynomial.legendre.leggauss(80)


@cache
def _normal_at_nodes() -> tuple[Array, Array]:
    """Weights of the nodes for a normal deviate, and its distribution there; made when first needed."""
    return scipy.stats.norm.pdf(_NODES_Z) * (_NODES_Z[1] - _NODES_Z[0]), scipy.special.ndtr(_NODES_Z)


def t_critical(alpha: float, df: float) -> float:
    """Two-sided t quantile: P(|T| > t) = alpha."""
    return float(scipy.stats.t.isf(alpha / 2, df))


def tukey_critical(alpha: float, groups: int, df: float) -> float:
    """q/√2, to be multiplied with the standard error of a difference. [4]"""
    return _tukey_critical(round(alpha, 12), groups, float(df))


@lru_cache(maxsize=512)
def _tukey_critical(alpha: float, groups: int, df: float) -> float:
    low = t_critical(alpha, df)
    high = t_critical(alpha / (groups * (groups - 1) / 2), df) * 1.0001  # Bonferroni is never smaller
    if groups == 2:
        return low
    return float(scipy.optimize.brentq(lambda t: range_inside(t * np.sqrt(2), groups, df) - (1 - alpha), low, high, xtol=1e-10))


def tukey_p(t: float, groups: int, df: float) -> float:
    """P(studentised range ≥ |t|√2)."""
    if groups == 2:
        return float(2 * scipy.stats.t.sf(abs(t), df))
    return float(np.clip(1 - range_inside(abs(t) * np.sqrt(2), groups, df), 0.0, 1.0))


def range_inside(limit: float, groups: int, df: float) -> float:
    """P(studentised range ≤ limit) = ∫∫ k φ(z) [Φ(z) − Φ(z − limit s)]^(k−1) dz dF(s), as [1]'s integral is done."""
    scale, density = _scale_nodes(df)
    weights, below = _normal_at_nodes()
    reach = limit * scale[:, None]
    inside = (below[None, :] - scipy.special.ndtr(_NODES_Z[None, :] - reach)) ** (groups - 1)
    return float(np.minimum(1.0, groups * density @ inside @ weights))


@lru_cache(maxsize=512)
def _scale_nodes(df: float) -> tuple[Array, Array]:
    """Nodes and weights for the error estimate's scale s = √(χ²_ν ÷ ν)."""
    low, high = np.sqrt(scipy.stats.chi2.ppf([1e-13, 1 - 1e-13], df) / df)
    scale = (high - low) / 2 * _NODES_U + (high + low) / 2
    return scale, 2 * df * scale * scipy.stats.chi2.pdf(df * scale**2, df) * _WEIGHTS_U * (high - low) / 2


def product_loadings(correlation: Array) -> Array | None:
    """Loadings b with r_ij = b_i b_j off the diagonal, or None when the matrix has no such form."""
    size = correlation.shape[0]
    if size == 1:
        return np.zeros(1)
    off = correlation[~np.eye(size, dtype=bool)]
    if np.any(off <= 0):
        return None
    if size == 2:
        return np.full(2, float(np.sqrt(off[0])))
    logs = np.log(np.where(np.eye(size, dtype=bool), 1.0, correlation))
    sums = logs.sum(axis=1)
    loadings: Array = np.exp((sums - sums.sum() / (2 * (size - 1))) / (size - 2))
    rebuilt = np.outer(loadings, loadings)[~np.eye(size, dtype=bool)]
    if np.max(np.abs(rebuilt - off)) > 1e-9 or np.any(loadings >= 1):
        return None
    return loadings


def dunnett_inside(limit: float, correlation: Array, df: float) -> float:
    """P(max|T_i| ≤ limit) for correlated t variables sharing one error estimate."""
    loadings = product_loadings(correlation)
    if loadings is None:
        largest = _largest_of(tuple(np.round(correlation, 12).ravel()))
        scale, density = _scale_nodes(float(df))
        below = np.searchsorted(largest, limit * scale, side="right") / largest.size
        return min(1.0, float(density @ below))
    return _inside_product(limit, tuple(loadings), df)


@lru_cache(maxsize=64)
def _largest_of(flat: tuple[float, ...]) -> Array:
    """Sorted max|Z_i| of normal variables with a correlation, at Sobol points with a fixed seed. [2]"""
    size = round(len(flat) ** 0.5)
    correlation = np.array(flat).reshape(size, size)
    values, vectors = np.linalg.eigh(correlation)
    root = vectors * np.sqrt(np.maximum(values, 0.0))
    uniform = scipy.stats.qmc.Sobol(size, seed=QMC_SEED).random_base2(SOBOL_POWER)
    normal = scipy.special.ndtri(np.clip(uniform, 1e-12, 1 - 1e-12)) @ root.T
    return np.sort(np.abs(normal).max(axis=1))


def _inside_product(limit: float, loadings: tuple[float, ...], df: float) -> float:
    """[1] eq. for equal or product correlation: ∫∫ Π[Φ(a) − Φ(b)] φ(z) dz dF(s)."""
    scale, density = _scale_nodes(df)
    inside = np.ones((scale.size, _NODES_Z.size))
    for loading, times in Counter(loadings).items():
        spread = np.sqrt(1 - loading**2)
        shift = loading * _NODES_Z[None, :]
        reach = limit * scale[:, None]
        inside *= (scipy.special.ndtr((shift + reach) / spread) - scipy.special.ndtr((shift - reach) / spread)) ** times
    return float(np.minimum(1.0, density @ inside @ _normal_at_nodes()[0]))


def dunnett_p(t: float, correlation: Array, df: float) -> float:
    """Two-sided adjusted p of one comparison with the control."""
    return max(0.0, 1.0 - dunnett_inside(abs(t), correlation, df))


def dunnett_critical(alpha: float, correlation: Array, df: float) -> float:
    """c with P(max|T_i| ≤ c) = 1 − alpha."""
    if correlation.shape[0] == 1:
        return t_critical(alpha, df)
    return _dunnett_critical(round(alpha, 12), tuple(np.round(correlation, 12).ravel()), float(df))


@lru_cache(maxsize=512)
def _dunnett_critical(alpha: float, flat: tuple[float, ...], df: float) -> float:
    size = int(np.sqrt(len(flat)))
    correlation = np.array(flat).reshape(size, size)
    low = t_critical(alpha, df)
    high = t_critical(alpha / size, df) * 1.0001  # Bonferroni is never smaller
    return float(scipy.optimize.brentq(lambda c: dunnett_inside(c, correlation, df) - (1 - alpha), low, high, xtol=1e-10))


def balanced_correlation(comparisons: int) -> Array:
    """Correlation of differences to one control with equal replication: 0.5."""
    return np.full((comparisons, comparisons), 0.5) + 0.5 * np.eye(comparisons)


def holm(p_values: Array) -> Array:
    """Holm's step-down adjusted p, in the order given. [3]"""
    order = np.argsort(p_values, kind="stable")
    steps = (len(p_values) - np.arange(len(p_values))) * p_values[order]
    adjusted = np.empty_like(p_values)
    adjusted[order] = np.minimum(1.0, np.maximum.accumulate(steps))
    return adjusted


def family_limits(t: Array, df: Array, correlation: Array, alpha: float, adjust: Adjust, groups: int) -> tuple[Array, Array]:
    """Critical values and adjusted p of a family, each comparison at its own degrees of freedom.

    Parameters
    ----------
    t, df : one of each comparison; ``correlation`` : of the comparisons, used by ``dunnett`` alone.
    groups : number of means compared, used by ``tukey`` alone.
    """
    p = np.asarray(2 * scipy.stats.t.sf(np.abs(t), df), dtype=np.float64)
    if adjust == "tukey":
        adjusted = np.array([tukey_p(float(item), groups, float(own)) for item, own in zip(t, df, strict=True)])
    elif adjust == "dunnett":
        adjusted = np.array([dunnett_p(float(item), correlation, float(own)) for item, own in zip(t, df, strict=True)])
    else:
        adjusted = holm(p) if adjust == "holm" else p
    limits = {float(own): family_critical(adjust, alpha, float(own), groups, len(t), correlation) for own in df}
    return np.array([limits[float(own)] for own in df]), adjusted


def family_critical(
    adjust: Adjust, alpha: float, df: float, groups: int, comparisons: int, correlation: Array | None = None
) -> float:
    """Critical value of a family: Student's, Tukey's of ``groups`` means, Dunnett's (balanced by default), Bonferroni's."""
    if adjust == "tukey":
        return tukey_critical(alpha, groups, df)
    if adjust == "dunnett":
        return dunnett_critical(alpha, balanced_correlation(comparisons) if correlation is None else correlation, df)
    return t_critical(alpha / comparisons if adjust == "holm" else alpha, df)
