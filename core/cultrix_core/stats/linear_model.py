"""Fixed-effects linear models for designs in blocks, balanced or not.

Model. y = Xβ + e, e ~ N(0, σ²I), X built from factors in sum-to-zero coding, interactions as products of
the coded columns. Fitted by QR; a term is tested with all others in the model (type III, sum-to-zero).
Missing strips need no treatment of their own: the rows that exist are fitted, and marginal means average
the fitted cells with equal weights [2].

Assumptions. Independent errors of equal variance; blocks fixed.

Notation. n rows, p columns, ν = n − p error degrees of freedom.

References
----------
[1] Seber & Lee (2003) Linear Regression Analysis, 2nd ed., ch. 3–4 (from memory).
[2] Searle, Speed & Milliken (1980) Population marginal means in the linear model, Am. Stat. 34:216–221
    (from memory).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from cultrix_core.errors import Refusal, require_finite

Array = NDArray[np.float64]
Term = tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Factor:
    """Labels of every row and the levels in order of first appearance (or as given)."""

    name: str
    labels: tuple[str, ...]
    levels: tuple[str, ...]

    @classmethod
    def of(cls, name: str, labels: Sequence[str], levels: Sequence[str] | None = None) -> Factor:
        """Build a factor; levels without rows are left out."""
        present = set(labels)
        order = tuple(level for level in (levels or dict.fromkeys(labels)) if level in present)
        return cls(name=name, labels=tuple(labels), levels=order)

    def coding(self) -> Array:
        """Sum-to-zero coding, one row per level, shape (levels, levels − 1)."""
        size = len(self.levels)
        return np.vstack([np.eye(size - 1), -np.ones((1, size - 1))])

    def treatment_coding(self) -> Array:
        """Coding against the first level, one row per level, shape (levels, levels − 1)."""
        return np.eye(len(self.levels))[:, 1:]

    def codes(self) -> NDArray[np.intp]:
        """Index of the level of every row."""
        place = {level: index for index, level in enumerate(self.levels)}
        return np.array([place[label] for label in self.labels], dtype=np.intp)

    @property
    def size(self) -> int:
        """Number of rows."""
        return len(self.labels)

    @property
    def width(self) -> int:
        """Number of columns of the coding."""
        return len(self.levels) - 1

    def coded(self, *, against_first: bool = False) -> Array:
        """Columns of every row, (n, levels − 1)."""
        return (self.treatment_coding() if against_first else self.coding())[self.codes()]

    def average(self, level: str | None = None) -> Array:
        """Coding of a level, or of all levels with equal weight; (levels − 1,)."""
        return np.zeros(self.width) if level is None else np.asarray(self.coding()[self.levels.index(level)])


@dataclass(frozen=True, slots=True, kw_only=True)
class Covariate:
    """An amount measured on every row, centred so that means are at its average."""

    name: str
    values: tuple[float, ...]

    @property
    def size(self) -> int:
        """Number of rows."""
        return len(self.values)

    @property
    def width(self) -> int:
        """One column."""
        return 1

    def coded(self, *, against_first: bool = False) -> Array:  # noqa: ARG002
        """Distance from the average, (n, 1), whatever the coding of factors."""
        values = np.array(self.values, dtype=np.float64)
        return np.asarray((values - values.mean())[:, None])

    def average(self, level: str | None = None) -> Array:  # noqa: ARG002
        """The average, which is nought; (1,)."""
        return np.zeros(1)


Column = Factor | Covariate


@dataclass(frozen=True, slots=True, kw_only=True)
class TermTest:
    """Type III test of one term."""

    term: str
    num_df: int
    den_df: float
    ss: float
    f: float | None
    p: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class FixedFit:
    """A fitted model. ``cov_unscaled`` is (X'X)⁻; multiply by ``mse`` for the covariance of β."""

    y: Array
    x: Array
    beta: Array
    cov_unscaled: Array
    fitted: Array
    leverage: Array
    sse: float
    df_error: int
    factors: tuple[Column, ...]
    columns: Mapping[Term, slice]
    row_space: Array

    @property
    def mse(self) -> float | None:
        """Residual mean square, None without error degrees of freedom."""
        return self.sse / self.df_error if self.df_error > 0 else None

    @property
    def residuals(self) -> Array:
        """y − ŷ, shape (n,)."""
        return self.y - self.fitted

    def factor(self, name: str) -> Factor:
        """The factor called ``name``."""
        return factor_called(self.factors, name)

    def mean_rows(self, name: str) -> Array:
        """Rows L with Lβ = marginal means of a main effect, other factors averaged equally; (levels, p)."""
        coding = self.factor(name).coding()
        rows = np.zeros((coding.shape[0], self.x.shape[1]))
        rows[:, 0] = 1.0
        rows[:, self.columns[(name,)]] = coding
        return rows

    def estimable(self, rows: Array) -> NDArray[np.bool_]:
        """Which rows lie in the row space of X, so that Lβ does not depend on the chosen solution."""
        left_over = rows - rows @ self.row_space @ self.row_space.T
        scale = np.maximum(np.linalg.norm(rows, axis=1), 1.0)
        return np.asarray(np.linalg.norm(left_over, axis=1) < 1e-8 * scale)


def factor_called(columns: Sequence[Column], name: str) -> Factor:
    """The factor of that name."""
    return next(column for column in columns if isinstance(column, Factor) and column.name == name)


def checked_response(response: Sequence[float], factors: Sequence[Column]) -> Array:
    """Responses as an array; refuses ``no_response``, ``not_finite`` and factors of another length."""
    y = np.asarray(response, dtype=np.float64)
    if y.size == 0:
        raise Refusal("no_response", field="response")
    for value in y:
        require_finite(float(value), "response")
    for factor in factors:
        if factor.size != y.size:
            raise Refusal("lengths_differ", field=factor.name, limit=y.size, value=factor.size)
        for value in factor.values if isinstance(factor, Covariate) else ():
            require_finite(value, factor.name)
    return y


def fit_fixed(response: Sequence[float], factors: Sequence[Column], terms: Sequence[Term]) -> FixedFit:
    """Fit y on the given terms.

    Parameters
    ----------
    response : n finite values, any unit.
    factors : factors and covariates named in ``terms``, each of n rows.
    terms : main effects ``("block",)``, covariates and interactions ``("a", "b")``, in order.

    Raises
    ------
    Refusal : ``no_response`` for no rows, ``lengths_differ``, ``not_finite``.
    """
    y = checked_response(response, factors)
    x, columns = design_matrix(y.size, factors, terms)
    beta, cov, row_space, rank = _least_squares(x, y)
    fitted = x @ beta
    centre = float(np.abs(y).max())
    sse = float(np.sum((y - fitted) ** 2))
    if sse <= (centre * 1e-12) ** 2 * y.size:  # rounding of an exact fit is not variation
        sse = 0.0
    return FixedFit(
        y=y,
        x=x,
        beta=beta,
        cov_unscaled=cov,
        fitted=fitted,
        leverage=np.einsum("ij,jk,ik->i", x, cov, x),
        sse=sse,
        df_error=y.size - rank,
        factors=tuple(factors),
        columns=columns,
        row_space=row_space,
    )


def design_matrix(
    n: int, factors: Sequence[Column], terms: Sequence[Term], *, against_first: bool = False
) -> tuple[Array, dict[Term, slice]]:
    """X with a constant first and the columns of every term, (n, p): sum-to-zero coding, or each level against the first."""
    by_name = {factor.name: factor for factor in factors}
    blocks: list[Array] = [np.ones((n, 1))]
    columns: dict[Term, slice] = {}
    at = 1
    for term in terms:
        part = np.ones((n, 1))
        for name in term:
            coded = by_name[name].coded(against_first=against_first)
            part = np.einsum("ij,ik->ijk", part, coded).reshape(n, -1)
        columns[term] = slice(at, at + part.shape[1])
        at += part.shape[1]
        blocks.append(part)
    return np.hstack(blocks), columns


def _least_squares(x: Array, y: Array) -> tuple[Array, Array, Array, int]:
    """Minimum-norm solution, (X'X)⁺, an orthonormal basis of the row space, and the rank. [1] ch. 3"""
    u, singular, vt = np.linalg.svd(x, full_matrices=False)
    rank = int(np.sum(singular > singular[0] * max(x.shape) * np.finfo(float).eps * 8))
    u, singular, vt = u[:, :rank], singular[:rank], vt[:rank]
    beta = vt.T @ ((u.T @ y) / singular)
    return beta, (vt.T / singular**2) @ vt, vt.T, rank


def term_tests(fit: FixedFit) -> tuple[TermTest, ...]:
    """Type III F test of every term in the order of the model. [1] ch. 4: F = β'L'(LCL')⁻¹Lβ / (q·s²)."""
    tests = []
    for term, columns in fit.columns.items():
        rows = np.zeros((columns.stop - columns.start, fit.x.shape[1]))
        rows[:, columns] = np.eye(rows.shape[0])
        rows = rows[fit.estimable(rows)]
        df = rows.shape[0]
        middle = rows @ fit.cov_unscaled @ rows.T
        effect = rows @ fit.beta
        ss = float(effect @ np.linalg.solve(middle, effect)) if df else 0.0
        f = p = None
        if fit.mse and df:
            f = ss / df / fit.mse
            p = float(scipy.stats.f.sf(f, df, fit.df_error))
        tests.append(TermTest(term=":".join(term), num_df=df, den_df=fit.df_error, ss=ss, f=f, p=p))
    return tuple(tests)
