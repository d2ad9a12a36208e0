"""The classical analysis of variance in error strata, for balanced designs.

Every size of strip makes a stratum: the part of the data that varies between strips of that size inside the next larger
one. In a balanced design each fixed term lies wholly in one stratum and is tested against that stratum's residual [1]. A
contrast a′y may lie in several; with a = Σ_s S_s a over strata, Var(a′y) = Σ_s ξ_s |S_s a|², ξ_s estimated by the residual
mean square of the stratum, degrees of freedom by Satterthwaite [2]. No component is estimated, so none can be cut off at
zero: where REML holds a component at zero, these are the tests that keep their level.

References: [1] Nelder (1965) Proc. R. Soc. A 283:147–162, general balance. [2] Satterthwaite (1946) Biometrics Bull.
2:110–114. Both from memory.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

import numpy as np
import scipy
from numpy.typing import NDArray

from cultrix_core.stats.linear_model import Term, design_matrix
from cultrix_core.stats.mixed_model import RESIDUAL, Contrast, MixedFit, incidence

Array = NDArray[np.float64]
SMALL = 1e-9


@dataclass(frozen=True, slots=True, kw_only=True)
class StratumRow:
    """One line of the classical table; ``source`` residual ends a stratum."""

    stratum: str
    source: str
    df: int
    ss: float
    ms: float
    f: float | None
    p: float | None


@dataclass(frozen=True, slots=True)
class Strata:
    """The table, and what variances of contrasts are put together from. Empty ``rows``: not balanced."""

    rows: tuple[StratumRow, ...]
    y: Array
    weights: Array
    bases: tuple[Array, ...]
    mean_squares: tuple[float | None, ...]
    dfs: tuple[int, ...]

    def contrast(self, row: Array) -> Contrast | None:
        """Lβ with its standard error from the strata it lies in; None where one of them has no residual."""
        a = self.weights @ row
        parts = []
        for basis, ms, df in zip(self.bases, self.mean_squares, self.dfs, strict=True):
            share = float(np.sum((basis.T @ a) ** 2))
            if share <= SMALL * float(a @ a):
                continue
            if ms is None:
                return None
            parts.append((share * ms, df))
        variance = sum(part for part, _ in parts)
        if variance <= 0:
            return None
        pooled = variance**2 / sum(part**2 / own for part, own in parts)
        return Contrast(estimate=float(a @ self.y), se=sqrt(variance), df=pooled)


def _basis(parts: Array) -> Array:
    """Orthonormal basis of the column space."""
    left, size, _ = np.linalg.svd(parts, full_matrices=False)
    return np.asarray(left[:, size > SMALL * max(float(size[0]) if size.size else 0.0, 1e-300)])


def _layers(fit: MixedFit, errors: Sequence[Term]) -> list[tuple[str, Array]]:
    """An orthonormal basis of every stratum, largest strips first."""
    n = fit.y.size
    before = np.ones((n, 1)) / sqrt(n)
    layers = []
    for name, side in [*((":".join(term), incidence(fit.factors, term)) for term in errors), (RESIDUAL, np.eye(n))]:
        rest = side - before @ (before.T @ side)
        array = _basis(rest) if np.abs(rest).max() > SMALL else np.zeros((n, 0))
        layers.append((name, array))
        before = np.hstack([before, array])
    return layers


def strata_of(fit: MixedFit, fixed: Sequence[Term], errors: Sequence[Term]) -> Strata:
    """The strata of a fitted model; without rows where a fixed term is not wholly inside one stratum."""
    x, columns = design_matrix(fit.y.size, fit.factors, fixed)
    rows: list[StratumRow] = []
    mean_squares: list[float | None] = []
    dfs, bases = [], []
    placed = 0
    for name, array in _layers(fit, errors):
        left, lines = array.T @ fit.y, []
        seen = np.zeros((array.shape[1], 0))
        for term in fixed:
            part = array.T @ x[:, columns[term]]
            part = part - seen @ (seen.T @ part)
            if not part.size or np.abs(part).max() < SMALL:
                continue
            basis = _basis(part)
            lines.append((":".join(term), basis.shape[1], float(((basis.T @ left) ** 2).sum())))
            seen = np.hstack([seen, basis])
            placed += basis.shape[1]
        df = array.shape[1] - seen.shape[1]
        residual = float((left**2).sum()) - sum(ss for _, _, ss in lines)
        ms = residual / df if df > 0 else None
        for source, number, ss in lines:
            f = ss / number / ms if ms else None
            p = float(scipy.stats.f.sf(f, number, df)) if f is not None else None
            rows.append(StratumRow(stratum=name, source=source, df=number, ss=ss, ms=ss / number, f=f, p=p))
        if ms is not None:
            rows.append(StratumRow(stratum=name, source="residual", df=df, ss=residual, ms=ms, f=None, p=None))
        bases.append(array)
        mean_squares.append(ms)
        dfs.append(df)
    wanted = sum(columns[term].stop - columns[term].start for term in fixed)
    weights = np.asarray(fit.x @ np.linalg.pinv(fit.x.T @ fit.x))
    return Strata(tuple(rows) if placed == wanted else (), fit.y, weights, tuple(bases), tuple(mean_squares), tuple(dfs))
