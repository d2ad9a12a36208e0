"""Does the stand explain the yield? The way from treatment through stand to yield, as explanation, never as adjustment.

What a treatment changed cannot adjust for it: taking the stand out of a comparison of seeding rates takes the treatment out.
But it can explain. Two looks, on strips that have both values:

    parts      y = stand × yield of a plant, so ln y = ln stand + ln (y ÷ stand): the difference of the logs of two treatments
               is the sum of the differences of its parts, each with the layout's own interval. Other parts likewise: seeds
               per area × weight of a seed.
    path       stand on treatment (a), yield on stand beside treatment (b, within treatments and blocks), yield on treatment
               (c). What runs through the stand is a × b, what does not is c − a × b; the interval of a × b by the distribution
               of the product of two estimates, drawn from their t distributions [1].

A plain correlation of strips mixes both with the ground: blocks good for plants are good for yield. Here it is within blocks.
An association within treatments is not proof that the stand is the cause.

Reference: [1] MacKinnon, Lockwood & Williams (2004) Confidence limits for the indirect effect, Multivar. Behav. Res. 39:99–128
(from memory).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from math import exp, log

import numpy as np
import scipy

from cultrix_core.errors import Refusal, require_positive
from cultrix_core.stats.compare import Comparison, Design, Difference, StripResponse, compare
from cultrix_core.stats.linear_model import Column, Covariate, Factor, Term
from cultrix_core.stats.mixed_model import contrast, fit_mixed

DRAWS = 200_000
SEED = 20_261


@dataclass(frozen=True, slots=True, kw_only=True)
class Share:
    """A ratio of two treatments with its interval: 1.05 is 5 % more."""

    left: str
    right: str
    ratio: float
    lower: float | None
    upper: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class PartOfYield:
    """One factor of the yield: ratios of every treatment to the control."""

    name: str
    shares: tuple[Share, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Path:
    """One treatment against the control: total difference of yield, and what of it runs through the stand."""

    left: str
    right: str
    total: float
    through: float
    through_lower: float
    through_upper: float
    beside: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Explained:
    """``slope``: yield per unit of stand within blocks and treatments, with its standard error, df and p."""

    parts: tuple[PartOfYield, ...]
    paths: tuple[Path, ...]
    slope: float
    slope_se: float
    slope_df: float
    slope_p: float
    n: int


def explain(
    strips: Sequence[StripResponse],
    stand: Sequence[float],
    *,
    control: str,
    names: tuple[str, str] = ("stand", "yield of a plant"),
    design: Design = "rcbd",
    alpha: float = 0.10,
    levels: Sequence[str] | None = None,
) -> Explained:
    """Explain yield by the stand of each strip.

    Parameters
    ----------
    strips : one row a strip, response the yield, above 0.
    stand : plants per area of the same strips, above 0 (or another factor of the yield).
    names : of the stand and of what is left of the yield beside it.

    Raises
    ------
    Refusal : ``lengths_differ``, ``not_positive``; ``too_few_strips``; those of ``compare``.
    """
    if len(stand) != len(strips):
        raise Refusal("lengths_differ", field="stand", limit=len(strips), value=len(stand))
    for strip, plants in zip(strips, stand, strict=True):
        require_positive(plants, "stand")
        require_positive(strip.response, "response")

    def of(values: Sequence[float]) -> Comparison:
        moved = [replace(strip, response=value) for strip, value in zip(strips, values, strict=True)]
        return compare(moved, design=design, alpha=alpha, control=control, levels=levels, control_adjust="none")

    per = [strip.response / plants for strip, plants in zip(strips, stand, strict=True)]
    columns: Mapping[str, Sequence[float]] = {"yield": [strip.response for strip in strips], names[0]: stand, names[1]: per}
    parts = tuple(
        PartOfYield(
            name=name, shares=tuple(_share(difference) for difference in of([log(value) for value in values]).to_control)
        )
        for name, values in columns.items()
    )
    slope, se, df = _slope(strips, stand, design)
    return Explained(
        parts=parts,
        paths=_paths(of([strip.response for strip in strips]), of(stand), slope, se, df, alpha),
        slope=slope,
        slope_se=se,
        slope_df=df,
        slope_p=float(2 * scipy.stats.t.sf(abs(slope / se), df)) if se else 0.0,
        n=len(strips),
    )


def _share(difference: Difference) -> Share:
    return Share(
        left=difference.left,
        right=difference.right,
        ratio=exp(difference.estimate),
        lower=None if difference.lower is None else exp(difference.lower),
        upper=None if difference.upper is None else exp(difference.upper),
    )


def _slope(strips: Sequence[StripResponse], stand: Sequence[float], design: Design) -> tuple[float, float, float]:
    """b: yield per unit of stand with blocks and treatments taken out."""
    made: list[Column] = [Factor.of("treatment", [strip.treatment for strip in strips])]
    terms: list[Term] = [("treatment",)]
    blocking = {"crd": (), "trend": (), "latin": ("block", "row")}.get(design, ("block",))
    for name in blocking:
        own = Factor.of(name, [getattr(strip, name) for strip in strips])
        if len(own.levels) > 1:
            made.append(own)
            terms.append((name,))
    made.append(Covariate(name="stand", values=tuple(stand)))
    fit = fit_mixed([strip.response for strip in strips], made, [*terms, ("stand",)], [])
    row = np.zeros(fit.x.shape[1])
    row[fit.columns["stand",]] = 1.0
    result = contrast(fit, row)
    return result.estimate, result.se, result.df


def _paths(yields: Comparison, stands: Comparison, slope: float, se: float, df: float, alpha: float) -> tuple[Path, ...]:
    """a × b with its interval by draws of both, the same for every treatment."""
    draw = np.random.default_rng(SEED)
    slopes = slope + se * draw.standard_t(df, DRAWS)
    paths = []
    for total, moved in zip(yields.to_control, stands.to_control, strict=True):
        through = moved.estimate * slope
        if moved.se is None or moved.df is None:
            continue
        product = (moved.estimate + moved.se * draw.standard_t(moved.df, DRAWS)) * slopes
        lower, upper = np.quantile(product, [alpha / 2, 1 - alpha / 2])
        paths.append(
            Path(
                left=total.left,
                right=total.right,
                total=total.estimate,
                through=through,
                through_lower=float(lower),
                through_upper=float(upper),
                beside=total.estimate - through,
            )
        )
    return tuple(paths)
