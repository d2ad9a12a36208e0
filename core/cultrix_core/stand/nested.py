"""Counts inside strips: where the variation sits, and why counts are not replicates.

Model. y = block + treatment + strip + count; strips are the units that were treated, counts inside a strip are
subsamples. Treatments are therefore compared over strip means, whose error is the strip-to-strip variation left after
blocks; more counts only sharpen each strip's mean. For equal numbers of counts this is the nested analysis of variance
[1] to the last digit. Variation between counts of a strip: pooled within strips. Between strips: error mean square of
strip means − within ÷ harmonic mean number of counts, 0 when negative.

Reference: [1] Steel & Torrie (1980), Principles and Procedures of Statistics, sampling within units (from memory).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from cultrix_core.errors import Refusal
from cultrix_core.stats.compare import Comparison, Design, StripResponse, compare


@dataclass(frozen=True, slots=True, kw_only=True)
class StripCounts:
    """The counts of one strip, in any unit of density."""

    treatment: str
    block: str
    counts: tuple[float, ...]
    row: str = ""
    label: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class NestedStand:
    """Stand compared over strips. Variances in the counts' unit squared; None where nothing measures them.

    ``comparison``: treatments over strip means. ``pooled_df``: the degrees of freedom that taking every count for a
    replicate would have claimed, ``comparison.residual_df`` being the honest ones.
    """

    comparison: Comparison
    strips: int
    counts: int
    within_variance: float | None
    between_variance: float | None
    pooled_df: int
    warnings: tuple[str, ...]


def nested_stand(
    strips: Sequence[StripCounts], *, design: Design = "rcbd", alpha: float = 0.10, control: str | None = None
) -> NestedStand:
    """Compare stands with counts inside strips.

    Raises
    ------
    Refusal : ``no_response`` without counted strips, and those of ``compare``.
    """
    counted = [strip for strip in strips if strip.counts]
    if not counted:
        raise Refusal("no_response", field="counts")
    rows = [
        StripResponse(
            treatment=strip.treatment,
            response=float(np.mean(strip.counts)),
            block=strip.block,
            row=strip.row,
            label=strip.label,
        )
        for strip in counted
    ]
    comparison = compare(rows, design=design, alpha=alpha, control=control)
    total = sum(len(strip.counts) for strip in counted)
    within_df = total - len(counted)
    within = None
    if within_df:
        within = sum(float(np.var(strip.counts) * len(strip.counts)) for strip in counted) / within_df
    between = None
    if comparison.mse is not None and within is not None:
        harmonic = len(counted) / sum(1 / len(strip.counts) for strip in counted)
        between = max(comparison.mse - within / harmonic, 0.0)
    numbers = {len(strip.counts) for strip in counted}
    warnings = list(comparison.warnings)
    if len(numbers) > 1 and comparison.replicated:
        warnings.append(
            "Strips were counted at different numbers of places; each strip's mean weighs alike, "
            "so the interval is near enough rather than exact."
        )
    return NestedStand(
        comparison=comparison,
        strips=len(counted),
        counts=total,
        within_variance=within,
        between_variance=between,
        pooled_df=comparison.residual_df + within_df,
        warnings=tuple(warnings),
    )
