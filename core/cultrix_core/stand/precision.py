"""Running precision of repeated counts: mean, interval, and how many more are needed.

Model. Counts at places drawn at random are independent with unknown variance; the interval is Student's
[1]. The number wanted is the least n with t(n − 1)·s/√n ≤ share × mean, s taken as it stands now [2].

References: [1] Student (1908) Biometrika 6:1–25; [2] Stein (1945) Ann. Math. Stat. 16:243–258, the
two-stage idea (both from memory).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from cultrix_core.errors import Refusal, require_between, require_finite
from cultrix_core.stand.row_lengths import share_step
from cultrix_core.stats.multiplicity import t_critical
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.working import Step, Working

LEVEL_ALPHA = 0.10
WANTED_SHARE = 0.05
MOST_COUNTS = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class RunningPrecision:
    """n counts: mean, standard deviation, half-width of the interval, share of the mean, number wanted.

    ``needed`` counts all that are wanted in total and ``more`` those still to do; both are None with
    fewer than two counts or a mean of 0, and ``needed`` is ``MOST_COUNTS`` + 1 when more than that.
    """

    n: int
    mean: float
    sd: float | None
    half_width: float | None
    half_width_share: float | None
    needed: int | None
    more: int | None
    alpha: float
    wanted_share: float


def running_precision(
    values: Sequence[float], *, alpha: float = LEVEL_ALPHA, wanted_share: float = WANTED_SHARE
) -> RunningPrecision:
    """Mean, interval and number still needed from counts per area (any unit).

    Raises
    ------
    Refusal : ``missing`` without values, ``not_finite``, limits of alpha and wanted_share.
    """
    if not values:
        raise Refusal("missing", field="counts", remedy="Enter a first count.")
    for value in values:
        require_finite(value, "counts")
    require_between(alpha, 0.001, 0.5, "alpha")
    require_between(wanted_share, 0.005, 0.5, "wanted_share")
    n, mean = len(values), float(np.mean(values))
    sd = half = share = needed = None
    if n >= 2:
        sd = float(np.std(values, ddof=1))
        half = t_critical(alpha, n - 1) * sd / n**0.5
        if mean > 0:
            share, needed = half / mean, counts_wanted(sd / mean, alpha=alpha, wanted_share=wanted_share)
    return RunningPrecision(
        n=n,
        mean=mean,
        sd=sd,
        half_width=half,
        half_width_share=share,
        needed=needed,
        more=None if needed is None else max(needed - n, 0),
        alpha=alpha,
        wanted_share=wanted_share,
    )


def counts_wanted(variation: float, *, alpha: float = LEVEL_ALPHA, wanted_share: float = WANTED_SHARE) -> int:
    """Least n ≥ 2 with t(n − 1)·CV/√n ≤ share; ``MOST_COUNTS`` + 1 when more. ``variation`` is a fraction. [2]"""
    for n in range(2, MOST_COUNTS + 1):
        if t_critical(alpha, n - 1) * variation / n**0.5 <= wanted_share * (1 + 1e-12):
            return n
    return MOST_COUNTS + 1


def precision_working(precision: RunningPrecision, show: UnitFormatter, *, seeds_per_m2: float | None = None) -> Working:
    """The working of ``running_precision``, with the percent of seed where the rate is known."""
    mean = show.text(precision.mean, "density")
    of_seed = [] if seeds_per_m2 is None else [share_step(precision.mean, seeds_per_m2, show)]
    if precision.sd is None or precision.half_width is None:
        return Working(
            title="Stand so far",
            outcome=mean,
            assumption="One count says nothing about its precision.",
            steps=(Step(label="Mean", formula="the only count", numbers=mean, outcome=mean), *of_seed),
        )
    sd, half = show.text(precision.sd, "density"), show.text(precision.half_width, "density")
    t = t_critical(precision.alpha, precision.n - 1)
    steps = [
        Step(label="Mean", formula="sum ÷ n", numbers=f"n = {precision.n}", outcome=mean),
        Step(label="Spread", formula="standard deviation, n − 1", numbers=f"n = {precision.n}", outcome=sd),
        Step(
            label=f"Half of the {100 * (1 - precision.alpha):g} % interval",
            formula="t × spread ÷ √n",
            numbers=f"{t:.3f} × {sd} ÷ √{precision.n}",
            outcome=half,
            source="Student 1908, from memory",
        ),
    ]
    if precision.needed is not None:
        wanted = f"±{100 * precision.wanted_share:g} %"
        steps.append(
            Step(
                label=f"Counts wanted for {wanted}",
                formula="least n with t × spread ÷ √n ≤ share × mean",
                numbers=f"spread is {format_number(100 * precision.sd / precision.mean, 1)} % of the mean",
                outcome=_needed_text(precision.needed),
                source="Stein 1945, from memory",
            )
        )
    return Working(
        title="Stand so far",
        outcome=f"{mean} ± {half}",
        steps=(*steps, *of_seed),
        assumption="The spread seen so far stays as it is; a few early counts can misjudge it.",
    )


def _needed_text(needed: int) -> str:
    return f"more than {MOST_COUNTS}" if needed > MOST_COUNTS else str(needed)
