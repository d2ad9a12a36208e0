"""``make trust``: thousands of sham trials through the code of the verdict, written to docs/trust.md with their seeds."""

from __future__ import annotations

import sys
import time
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from os import cpu_count
from pathlib import Path

from cultrix_core.design.null_simulation import MARGIN_IN_SE, ShamPlan, ShamTally, limit_above, sham_trials
from cultrix_core.simulate.variation import FieldVariation

PAGE = Path(__file__).parents[1] / "docs" / "trust.md"
GROUNDS: dict[str, FieldVariation | None] = {
    "wheat map": None,
    "simulated": FieldVariation(cv_pct=5, trend_pct=10, patch_share=0.5, patch_range_m=25),
}
WORDS = {
    "rcbd": "Complete blocks",
    "pairs": "Pairs",
    "systematic": "Alternating, A-B-A-B",
    "crd": "Completely randomised",
    "latin": "Latin square",
    "augmented": "Blocks with an extra control",
    "factorial": "Factorial in blocks",
    "split_plot": "Split-plot",
    "split_split": "Split-split-plot",
    "strip_plot": "Crossed strips",
    "site_years": "Site-years",
}
PLANS = [
    ShamPlan(design="rcbd", levels=(4,), blocks=5),
    ShamPlan(design="pairs", levels=(2,), blocks=6),
    ShamPlan(design="crd", levels=(4,), blocks=5),
    ShamPlan(design="latin", levels=(5,), blocks=5),
    ShamPlan(design="augmented", levels=(3,), blocks=4),
    ShamPlan(design="factorial", levels=(2, 3), blocks=4),
    ShamPlan(design="split_plot", levels=(2, 3), blocks=4),
    ShamPlan(design="split_split", levels=(2, 2, 2), blocks=3),
    ShamPlan(design="strip_plot", levels=(2, 3), blocks=4),
    ShamPlan(design="site_years", levels=(3,), blocks=4, sites=6, site_spread_pct=2),
    ShamPlan(design="site_years", levels=(3,), blocks=4, sites=3, site_spread_pct=0),
    ShamPlan(design="systematic", levels=(2,), blocks=6),
    ShamPlan(design="systematic", levels=(4,), blocks=4),
]


@dataclass(frozen=True)
class Job:
    """One row of the page."""

    plan: ShamPlan
    ground: str
    trials: int
    seed: int
    alpha: float
    agree: bool = True


def run(job: Job) -> tuple[Job, ShamTally]:
    """One job, in a process of its own."""
    return job, sham_trials(job.plan, GROUNDS[job.ground], trials=job.trials, seed=job.seed, alpha=job.alpha, agree=job.agree)


def jobs(trials: int) -> list[Job]:
    """Every design on both grounds; alternating orders also without the second analysis; blocks once more at 5 %."""
    result = [
        Job(plan, ground, trials, 20_000 + 10_000 * place, 0.10) for place, plan in enumerate(PLANS) for ground in GROUNDS
    ]
    result += [
        Job(job.plan, job.ground, trials, job.seed, 0.10, agree=False) for job in result if job.plan.design == "systematic"
    ]
    return [*result, *(Job(PLANS[0], ground, trials, 500_000, 0.05) for ground in GROUNDS)]


def share(count: int, of: int) -> str:
    """A count as a percentage with one decimal."""
    return f"{100 * count / of:.1f} %" if of else "–"


def line(job: Job, tally: ShamTally, factor: str) -> str:
    """One factor of one job as a row of the table."""
    plan = job.plan
    false = tally.false_calls[factor]
    limit = limit_above(job.alpha, tally.trials)
    sizes = " × ".join(map(str, plan.levels)) + f", {plan.blocks} blocks" + (f", {plan.sites} sites" if plan.sites > 1 else "")
    name = WORDS[plan.design] + ("" if job.agree else ", blocks alone")
    kept = "kept" if false / tally.trials <= limit else "**exceeded**"
    equal_limit = limit_above(job.alpha / 2, tally.trials)
    equal_kept = "kept" if tally.false_equals[factor] / tally.trials <= equal_limit else "**exceeded**"
    return (
        f"| {name} | {sizes} | {'' if factor == 'treatment' else factor} | {job.ground} | {job.seed} | {tally.trials} "
        f"| {share(false, tally.trials)} | {100 * limit:.1f} % {kept} "
        f"| {share(tally.false_equals[factor], tally.trials)} | {100 * equal_limit:.1f} % {equal_kept} "
        f"| {share(tally.held[factor], tally.intervals[factor])} of {100 * (1 - job.alpha):.0f} % |"
    )


INTRODUCTION = f"""# Trust, measured

Sham trials: treatments that do nothing are laid over ground that varies, by the drawing of layouts that the application uses,
and judged by the code of its verdict (`make trust` writes this page; `core/cultrix_core/design/sham.py`). Grounds: windows of
the wheat uniformity map of Mercer & Hall (1911), laid anywhere and turned any way, and simulated fields (10 % trend, patches
of 25 m, strips scattering by 5 % inside blocks). Counted by factor and trial:

- **false calls**: a gain or a loss, anywhere in the factor's comparisons, where nothing differs. The level is 10 % (5 % in
  the last rows); the limit is what a true rate of that level stays under in 99 of 100 such counts.
- **false equals**: “no difference that matters” where the truth differs by exactly what matters ({MARGIN_IN_SE:g} standard
  errors here). The level is half of it.
- **intervals**: unadjusted ones that hold the truth.

Alternating orders are not drawn, so no level holds for them: trial and trend, the same everywhere, lean on the treatments.
They are shown twice: judged in blocks alone, and as the application judges them, where an analysis with a straight drift in
the place of blocks must make the same call. Their false calls then vanish or not by how straight the field's drift is.

| design | size | factor | ground | seed | trials | false calls | limit | false equals | limit | intervals |
|---|---|---|---|---|---|---|---|---|---|---|
"""


def main(trials: int) -> None:
    """Run all jobs and write the page."""
    started = time.monotonic()
    wanted = jobs(trials)
    with ProcessPoolExecutor(max_workers=cpu_count()) as pool:
        result = list(pool.map(run, wanted))
    rows = [line(job, tally, factor) for job, tally in result for factor in job.plan.factors]
    took = (time.monotonic() - started) / 60
    PAGE.write_text(INTRODUCTION + "\n".join(rows) + f"\n\n{sum(job.trials for job in wanted)} trials in {took:.0f} min.\n")
    print(f"{PAGE}: {len(rows)} rows")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 2000)
