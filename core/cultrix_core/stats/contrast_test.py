"""Does an amount matter at all: a multiple-contrast test over candidate shapes, on adjusted means and their covariance.

For a shape with values f at the amounts that were tried, the contrast with the most power is, S the covariance of the means m,

    c ∝ S⁻¹ (f − f′S⁻¹1 ÷ 1′S⁻¹1), scaled to length 1, with the sign of the shape                                   [1], [2]

and t = c′m ÷ √(c′Sc). The largest |t| is judged two-sided against the joint distribution of all contrasts, a multivariate t
whose correlation follows from the c and S; its degrees of freedom are those of the error, the least of the contrasts where
they differ. The probability is an integral over directions u on a sphere of the rank r of that correlation, at Sobol points,
the radius being done exactly: P(max|Lu| R > t) with R² ÷ r distributed as F(r, ν). [3]

References: [1] Bretz, Pinheiro & Branson (2005) Biometrics 61:738–748; [2] Pinheiro, Bornkamp, Glimm & Bretz (2014) Stat. Med.
33:1646–1661, the generalised form; [3] Genz & Bretz (2009) Computation of Multivariate Normal and t Probabilities (all from
memory).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np
import scipy
from numpy.typing import NDArray

from cultrix_core.errors import Refusal, require_finite, require_positive

Array = NDArray[np.float64]
GuessName = Literal["linear", "quadratic", "linear-plateau", "quadratic-plateau", "exponential-approach", "emax"]
POINTS = 2**15
POINTS_SEED = 20251
FLAT = 1e-10


@dataclass(frozen=True, slots=True, kw_only=True)
class Guess:
    """A candidate shape. ``guess``: amount of the highest response (quadratic) or of the join (plateaus), rate per unit of the
    amount (exponential approach), amount of half the response (emax); None for a straight line."""

    name: GuessName
    guess: float | None

    def at(self, x: Array) -> Array:
        """The shape at amounts, in any unit of the response."""
        if self.name == "linear":
            return np.asarray(x, dtype=np.float64)
        value = require_positive(self.guess if self.guess is not None else float("nan"), "guess", label=f"Guess of {self.name}")
        if self.name == "quadratic":
            return np.asarray(x - x**2 / (2 * value))
        if self.name == "exponential-approach":
            return np.asarray(-np.expm1(-value * x))
        if self.name == "emax":
            return np.asarray(x / (value + x))
        u = np.minimum(x, value)
        return np.asarray(u if self.name == "linear-plateau" else u - u**2 / (2 * value))


@dataclass(frozen=True, slots=True, kw_only=True)
class ShapeContrast:
    """One shape: its contrast (k,), estimate, standard error, t, and p two-sided, alone and over all shapes."""

    guess: Guess
    coefficients: tuple[float, ...]
    estimate: float
    se: float
    t: float
    p: float
    p_adjusted: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ContrastTest:
    """All shapes; ``t`` and ``p`` of the one furthest from nought."""

    shapes: tuple[ShapeContrast, ...]
    correlation: tuple[tuple[float, ...], ...]
    df: float
    t: float
    p: float


def usual_guesses(low: float, high: float) -> tuple[Guess, ...]:
    """Shapes where nobody has frozen any: a line, a peak at three quarters of the range, joins at a half and at three quarters,
    and an approach that has gone 95 % of its way at the upper end (common practice, no source)."""
    span = high - low
    return (
        Guess(name="linear", guess=None),
        Guess(name="quadratic", guess=low + 0.75 * span),
        Guess(name="linear-plateau", guess=low + 0.5 * span),
        Guess(name="quadratic-plateau", guess=low + 0.75 * span),
        Guess(name="exponential-approach", guess=3.0 / span),
    )


def guess_of(name: str, value: float | None) -> Guess:
    """A guess as a file has it; refuses ``unknown_choice``, ``not_positive`` and ``missing``."""
    for known in get_args(GuessName):
        if name.strip().lower().replace("_", "-") == known:
            if known != "linear":
                if value is None:
                    raise Refusal("missing", field="guess", label=f"The guess of {known}", remedy="Give it as a number.")
                require_positive(value, "guess", label=f"Guess of {known}")
            return Guess(name=known, guess=None if known == "linear" else value)
    raise Refusal("unknown_choice", field="name", label="Shape", value=name, limit=", ".join(get_args(GuessName)))


def contrast_test(
    amounts: Sequence[float], means: Sequence[float], covariance: Array, df: float, guesses: Sequence[Guess]
) -> ContrastTest:
    """Test whether the response changes with the amount.

    Parameters
    ----------
    amounts, means : k amounts that were tried and the adjusted mean response at each.
    covariance : of the means, (k, k), in squared units of the response.
    df : degrees of freedom of the error that the covariance was estimated with.
    guesses : candidate shapes, fixed before the data were seen.

    Raises
    ------
    Refusal : ``too_few_treatments`` with fewer than two amounts, ``missing`` without a shape, and those of ``Guess.at``.
    """
    x, m = np.asarray(amounts, dtype=np.float64), np.asarray(means, dtype=np.float64)
    for value in (*x, *m):
        require_finite(float(value), "response")
    if x.size < 2:
        raise Refusal("too_few_treatments", field="x", label="Amounts", value=x.size)
    if not guesses:
        raise Refusal("missing", field="shapes", label="A shape", remedy="Give at least one.")
    rows = np.array([optimal_contrast(guess.at(x), covariance) for guess in guesses])
    spread = rows @ covariance @ rows.T
    errors = np.sqrt(np.diag(spread))
    t = (rows @ m) / errors
    correlation = spread / np.outer(errors, errors)
    adjusted = tail_of_largest(np.abs(t), correlation, df)
    most = int(np.argmax(np.abs(t)))
    return ContrastTest(
        shapes=tuple(
            ShapeContrast(
                guess=guess,
                coefficients=tuple(float(value) for value in row),
                estimate=float(row @ m),
                se=float(error),
                t=float(value),
                p=float(2 * scipy.stats.t.sf(abs(value), df)),
                p_adjusted=float(p),
            )
            for guess, row, error, value, p in zip(guesses, rows, errors, t, adjusted, strict=True)
        ),
        correlation=tuple(tuple(float(value) for value in row) for row in correlation),
        df=df,
        t=float(t[most]),
        p=float(adjusted[most]),
    )


def optimal_contrast(shape: Array, covariance: Array) -> Array:
    """The contrast with the most power for a shape, of length 1; (k,). Refuses a shape that is flat over the amounts."""
    inverse = np.linalg.inv(covariance)
    ones = np.ones(shape.size)
    average = float(shape @ inverse @ ones) / float(ones @ inverse @ ones)
    raw = inverse @ (shape - average)
    length = float(np.linalg.norm(raw))
    if np.ptp(shape) <= FLAT * max(float(np.abs(shape).max()), 1e-300):
        raise Refusal("too_few_treatments", field="guess", label="Amounts below the guess", value=1)
    return np.asarray(raw / length)


def tail_of_largest(limits: Array, correlation: Array, df: float) -> Array:
    """P(max|T_i| > limit) for a multivariate t with this correlation, at each limit; two-sided."""
    values, vectors = np.linalg.eigh(correlation)
    kept = values > 1e-9 * values.max()
    root = vectors[:, kept] * np.sqrt(values[kept])
    rank = int(kept.sum())
    if rank == 1:
        return np.asarray(2 * scipy.stats.t.sf(limits, df))
    uniform = scipy.stats.qmc.Sobol(rank, seed=POINTS_SEED).random(POINTS)
    normal = scipy.special.ndtri(np.clip(uniform, 1e-12, 1 - 1e-12))
    unit = normal / np.linalg.norm(normal, axis=1, keepdims=True)
    farthest = np.abs(unit @ root.T).max(axis=1)
    return np.array([float(scipy.stats.f.sf((limit / farthest) ** 2 / rank, rank, df).mean()) for limit in limits])
