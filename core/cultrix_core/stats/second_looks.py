"""Second looks at a comparison: on another scale, by ranks, and for emergence as a share of known seeds.

A second look never makes the call. Transformations: logarithm and square root; arcsine-root for percentages only. Means are
turned back, so they are medians rather than averages (log: geometric means), and differences of logs become ratios.
Ranks: Friedman in complete blocks [1], Wilcoxon's signed ranks for pairs [2], Kruskal–Wallis without blocks, by SciPy.
Emergence of n seeds: a logit with blocks and treatments, variance φ times binomial, φ by Pearson's X² ÷ df [3].

References: [1] Friedman (1937) JASA 32:675–701. [2] Wilcoxon (1945) Biometrics Bull. 1:80–83. [3] McCullagh & Nelder (1989)
Generalized Linear Models, 2nd ed., ch. 4. All from memory.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import scipy
from numpy.typing import NDArray

from cultrix_core.errors import Refusal, require_between
from cultrix_core.stats.compare import Comparison, Design, StripResponse, compare
from cultrix_core.stats.linear_model import Factor, Term, design_matrix

Array = NDArray[np.float64]
Scale = Literal["log", "sqrt", "arcsine"]
MOST_STEPS = 100
SCALE_NAMES: dict[Scale, str] = {"log": "logarithm", "sqrt": "square root", "arcsine": "arcsine of the square root"}


@dataclass(frozen=True, slots=True, kw_only=True)
class BackMean:
    """A mean turned back to the response's own unit with its interval."""

    level: str
    mean: float
    lower: float | None
    upper: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class BackRatio:
    """Left over right on the log scale, turned back: a ratio of medians with its interval."""

    left: str
    right: str
    ratio: float
    lower: float | None
    upper: float | None
    p_adjusted: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Transformed:
    """A comparison made on another scale."""

    scale: Scale
    comparison: Comparison
    means: tuple[BackMean, ...]
    ratios: tuple[BackRatio, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class RankTest:
    """A test by ranks of whether treatments differ at all."""

    name: str
    statistic: float
    df: int | None
    p: float
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LogitLook:
    """Emergence by logit: share per treatment with interval, test of treatments, dispersion φ."""

    levels: tuple[str, ...]
    shares: tuple[float, ...]
    lower: tuple[float, ...]
    upper: tuple[float, ...]
    f: float
    num_df: int
    den_df: int
    p: float
    dispersion: float


def transformed(
    strips: Sequence[StripResponse],
    scale: Scale,
    *,
    design: Design = "rcbd",
    alpha: float = 0.10,
    control: str | None = None,
    levels: Sequence[str] | None = None,
) -> Transformed:
    """Compare on another scale.

    Raises
    ------
    Refusal : ``not_positive`` for a logarithm of nought or less, ``out_of_range`` for the square root of a negative value or
        an arcsine outside 0–100 %, and those of ``compare``.
    """
    forth, back = _scale(scale)
    for strip in strips:
        if scale == "log" and strip.response <= 0:
            raise Refusal("not_positive", field="response", label="A response, for its logarithm,", value=strip.response)
        require_between(strip.response, 0, 100 if scale == "arcsine" else 1e300, "response", label="Response")
    moved = [
        StripResponse(
            treatment=strip_response.treatment,
            block=strip_response.block,
            row=strip_response.row,
            label=strip_response.label,
            position=strip_response.position,
            response=forth(strip_response.response),
        )
        for strip_response in strips
    ]
    comparison = compare(moved, design=design, alpha=alpha, control=control, levels=levels)
    means = tuple(
        BackMean(
            level=mean.level,
            mean=back(mean.mean),
            lower=None if mean.lower is None else back(mean.lower),
            upper=None if mean.upper is None else back(mean.upper),
        )
        for mean in comparison.means
    )
    ratios: list[BackRatio] = []
    if scale == "log":
        ratios = [
            BackRatio(
                left=difference.left,
                right=difference.right,
                ratio=float(np.exp(difference.estimate)),
                lower=None if difference.lower is None else float(np.exp(difference.lower)),
                upper=None if difference.upper is None else float(np.exp(difference.upper)),
                p_adjusted=difference.p_adjusted,
            )
            for difference in (comparison.to_control or comparison.pairs)
        ]
    return Transformed(scale=scale, comparison=comparison, means=means, ratios=tuple(ratios))


def _scale(scale: Scale) -> tuple[Callable[[float], float], Callable[[float], float]]:
    if scale == "log":
        return lambda y: float(np.log(y)), lambda z: float(np.exp(z))
    if scale == "sqrt":
        return lambda y: float(np.sqrt(y)), lambda z: float(max(z, 0.0) ** 2)
    return (
        lambda y: float(np.arcsin(np.sqrt(y / 100))),
        lambda z: float(100 * np.sin(min(max(z, 0.0), np.pi / 2)) ** 2),
    )


def rank_test(strips: Sequence[StripResponse], *, blocked: bool = True) -> RankTest | None:
    """The test by ranks that suits the layout; None where blocks are not complete or too few.

    Two treatments in complete blocks: Wilcoxon's signed ranks; more: Friedman; without blocks: Kruskal–Wallis.
    """
    treatments = list(dict.fromkeys(strip.treatment for strip in strips))
    if not blocked:
        groups = [[strip.response for strip in strips if strip.treatment == level] for level in treatments]
        if len(groups) < 2 or len({value for group in groups for value in group}) < 2:
            return None
        h, p_ranks = scipy.stats.kruskal(*groups)
        return _told("Kruskal–Wallis", float(h), len(groups) - 1, float(p_ranks))
    cells = {(strip.block, strip.treatment): strip.response for strip in strips}
    blocks = list(dict.fromkeys(strip.block for strip in strips))
    whole = [block for block in blocks if all((block, level) in cells for level in treatments)]
    if len(whole) < 3 or len(cells) < len(strips) or len(treatments) < 2:
        return None
    columns = [np.array([cells[block, level] for block in whole]) for level in treatments]
    if len(treatments) == 2:
        if not (columns[0] - columns[1]).any():
            return None
        signed = scipy.stats.wilcoxon(columns[0], columns[1])
        v, p = float(signed.statistic), float(signed.pvalue)
        return _told("Wilcoxon, signed ranks", v, None, p)
    if all(len(set(row)) == 1 for row in zip(*columns, strict=True)):
        return None
    chi, p_blocks = scipy.stats.friedmanchisquare(*columns)
    return _told("Friedman", float(chi), len(treatments) - 1, float(p_blocks))


def _told(name: str, statistic: float, df: int | None, p: float) -> RankTest:
    return RankTest(name=name, statistic=statistic, df=df, p=p, words=_rank_words(p))


def _rank_words(p: float) -> str:
    return f"By ranks alone p is {p:.3f}: " + (
        "treatments differ whatever the shape of the scatter." if p < 0.10 else "ranks alone do not tell treatments apart."
    )


def emergence_logit(
    emerged: Sequence[float], sown: Sequence[float], treatment: Sequence[str], block: Sequence[str], *, alpha: float = 0.10
) -> LogitLook:
    """Quasi-binomial logit with blocks and treatments fixed; shares are at the average block on the logit scale.

    Raises
    ------
    Refusal : ``out_of_range`` when more emerged than was sown, ``too_few_treatments``, ``too_few_strips`` without error df.
    """
    for up, down in zip(emerged, sown, strict=True):
        require_between(down, 1, 1e9, "sown", label="Seeds sown")
        require_between(up, 0, down, "emerged", label="Plants emerged")
    treated = Factor.of("treatment", treatment)
    if len(treated.levels) < 2:
        raise Refusal("too_few_treatments", field="treatment", value=len(treated.levels))
    blocks = Factor.of("block", block)
    terms: list[Term] = [("block",), ("treatment",)] if len(blocks.levels) > 1 else [("treatment",)]
    x, columns = design_matrix(len(emerged), [treated, blocks], terms)
    if len(emerged) - x.shape[1] < 1:
        raise Refusal("too_few_strips", field="emerged", value="Treatments")
    beta, unscaled, dispersion = _binomial(np.asarray(emerged, dtype=np.float64), np.asarray(sown, dtype=np.float64), x)
    df = len(emerged) - x.shape[1]
    covariance = dispersion * unscaled
    own = columns["treatment",]
    rows = np.zeros((len(treated.levels), x.shape[1]))
    rows[:, 0] = 1.0
    rows[:, own] = treated.coding()
    logits = rows @ beta
    reach = float(scipy.stats.t.isf(alpha / 2, df)) * np.sqrt(np.einsum("ij,jk,ik->i", rows, covariance, rows))
    number = own.stop - own.start
    f = float(beta[own] @ np.linalg.solve(covariance[own, own], beta[own])) / number

    def share(z: Array) -> tuple[float, ...]:
        return tuple(float(item) for item in 1 / (1 + np.exp(-z)))

    return LogitLook(
        levels=treated.levels,
        shares=share(logits),
        lower=share(logits - reach),
        upper=share(logits + reach),
        f=f,
        num_df=number,
        den_df=df,
        p=float(scipy.stats.f.sf(f, number, df)),
        dispersion=dispersion,
    )


def _binomial(emerged: Array, sown: Array, x: Array) -> tuple[Array, Array, float]:
    """Logit by reweighted least squares: β, (X′WX)⁻¹ and Pearson's X² ÷ df. [3] ch. 4"""
    beta: Array = np.zeros(x.shape[1])
    share = (emerged + 0.5) / (sown + 1)
    logit = np.log(share / (1 - share))
    for _ in range(MOST_STEPS):
        share = 1 / (1 + np.exp(-logit))
        weight = sown * np.maximum(share * (1 - share), 1e-12)
        worked = logit + (emerged - sown * share) / weight
        before = beta
        beta = np.asarray(np.linalg.lstsq(x * np.sqrt(weight)[:, None], worked * np.sqrt(weight), rcond=None)[0])
        logit = np.clip(x @ beta, -30, 30)
        if float(np.abs(beta - before).max()) < 1e-12 * max(1.0, float(np.abs(beta).max())):
            break
    share = 1 / (1 + np.exp(-logit))
    weight = sown * np.maximum(share * (1 - share), 1e-12)
    pearson = float(((emerged - sown * share) ** 2 / weight).sum()) / (emerged.size - x.shape[1])
    return beta, np.asarray(np.linalg.pinv(x.T @ (x * weight[:, None]))), pearson
