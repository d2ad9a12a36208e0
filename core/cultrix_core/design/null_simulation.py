"""Sham trials: treatments that do nothing, laid over ground that varies, judged by the very code of the verdict.

For every trial the order is drawn anew, the strips take the values of a field – a window of the wheat uniformity map, or
simulated trend, patches and noise – and the layout's own model makes its calls. Counted are, by factor and trial,

    false calls    a gain or a loss where nothing differs, anywhere in the factor's comparisons
    false equals   “no difference that matters” where one level truly differs by exactly what matters
    coverage       intervals, unadjusted, that hold the true difference

The difference that matters is set to ``MARGIN_IN_SE`` standard errors of the comparison, so that equals can be called at all.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import product
from typing import Literal, cast

import numpy as np
import scipy
from numpy.typing import NDArray

from cultrix_core.design.randomise import Cell, PlannedStrip, lay_out
from cultrix_core.errors import require_between
from cultrix_core.simulate.variation import FieldVariation, simulated, window
from cultrix_core.stats.compare import Design, Difference, StripResponse, compare
from cultrix_core.stats.decision_rule import agreed, make_call
from cultrix_core.stats.environments import analyse_environments
from cultrix_core.stats.factor_comparison import FactorStrip, Layout, compare_factors
from cultrix_core.stats.families import CellDifference

Array = NDArray[np.float64]
MARGIN_IN_SE = 3.0
MEAN = 100.0
ShamDesign = Literal[
    "rcbd",
    "pairs",
    "systematic",
    "crd",
    "latin",
    "augmented",
    "factorial",
    "split_plot",
    "split_split",
    "strip_plot",
    "site_years",
]
SINGLE: dict[str, Design] = {"crd": "crd", "latin": "latin"}
FACTORED = ("factorial", "split_plot", "split_split", "strip_plot")


@dataclass(frozen=True, slots=True, kw_only=True)
class ShamPlan:
    """A design: its factors' numbers of levels (one: treatments), and replicates. ``sites``: site-years."""

    design: ShamDesign
    levels: tuple[int, ...]
    blocks: int
    sites: int = 1
    site_spread_pct: float = 0.0

    @property
    def factors(self) -> tuple[str, ...]:
        """Names of the factors."""
        return ("treatment",) if len(self.levels) == 1 else ("a", "b", "c")[: len(self.levels)]


@dataclass(frozen=True, slots=True, kw_only=True)
class ShamTally:
    """Counts by factor over ``trials``; ``intervals`` and ``held`` count unadjusted intervals."""

    trials: int
    false_calls: dict[str, int]
    false_equals: dict[str, int]
    equals: dict[str, int]
    intervals: dict[str, int]
    held: dict[str, int]


@dataclass(slots=True)
class _Counts:
    false_calls: int = 0
    false_equals: int = 0
    equals: int = 0
    intervals: int = 0
    held: int = 0


Differs = Difference | CellDifference
Judge = Callable[[Array], dict[str, list[tuple[Differs, Differs | None]]]]


def sham_trials(
    plan: ShamPlan, ground: FieldVariation | None, *, trials: int, seed: int, alpha: float = 0.10, agree: bool = True
) -> ShamTally:
    """Make and judge sham trials; ``ground`` None takes the uniformity map.

    Parameters
    ----------
    agree : whether an alternating layout needs both of its analyses to agree, as the verdict does.

    Raises
    ------
    Refusal : ``out_of_range`` trials, and those of ``lay_out``.
    """
    require_between(trials, 1, 100_000, "trials", label="Sham trials")
    counts = {name: _Counts() for name in plan.factors}
    for number in range(trials):
        own = seed + number
        layouts = [_drawn(plan, own * 131 + site) for site in range(plan.sites)]
        values = [MEAN + _values(layout, ground, own * 977 + site) for site, layout in enumerate(layouts)]
        extra = np.random.default_rng(own).normal(0, plan.site_spread_pct, (plan.sites, plan.levels[0]))
        _count(plan, layouts, values, extra, counts, alpha, agree)
    return ShamTally(
        trials=trials,
        false_calls={name: item.false_calls for name, item in counts.items()},
        false_equals={name: item.false_equals for name, item in counts.items()},
        equals={name: item.equals for name, item in counts.items()},
        intervals={name: item.intervals for name, item in counts.items()},
        held={name: item.held for name, item in counts.items()},
    )


def limit_above(level: float, trials: int, confidence: float = 0.99) -> float:
    """Largest share that a true rate of ``level`` gives by chance alone, one-sided binomial limit."""
    return float(scipy.stats.binom.ppf(confidence, trials, level)) / trials


def _cells(plan: ShamPlan) -> list[Cell]:
    if len(plan.levels) == 1:
        return [Cell(name=str(level)) for level in range(plan.levels[0])]
    return [
        Cell(
            name=" ".join(map(str, cell)),
            main=str(cell[0]),
            sub=str(cell[1]),
            subsub=str(cell[2]) if len(cell) > 2 else "",
        )
        for cell in product(*(range(own) for own in plan.levels))
    ]


def _drawn(plan: ShamPlan, seed: int) -> tuple[PlannedStrip, ...]:
    names = {"factorial": "rcbd", "site_years": "rcbd"}
    design = cast(Layout, names.get(plan.design, plan.design))
    return lay_out(design, _cells(plan), blocks=plan.blocks, seed=seed % 2**62, control="0").strips


def _values(layout: Sequence[PlannedStrip], ground: FieldVariation | None, seed: int) -> Array:
    if ground is None:
        return window(layout, seed=seed)
    return np.asarray(simulated(layout, ground, fields=1, seed=seed)[0])


def _count(
    plan: ShamPlan,
    layouts: Sequence[Sequence[PlannedStrip]],
    values: Sequence[Array],
    extra: Array,
    counts: dict[str, _Counts],
    alpha: float,
    agree: bool,
) -> None:
    """One trial judged as it is, and once more with one level truly better by what matters."""
    judge = _judge(plan, layouts, extra, alpha)
    if judge is None:
        return
    result = judge(np.concatenate(values))
    for name, rows in result.items():
        mine = counts[name]
        calls = []
        for item, other in rows:
            assert item.se is not None
            assert item.df is not None
            margin = MARGIN_IN_SE * item.se
            calls.append(_call(item, other if agree else None, margin))
            reach = float(scipy.stats.t.isf(alpha / 2, item.df)) * item.se
            if not getattr(item, "within", None):  # inside levels they are chosen by a test, and not comparable
                mine.intervals += 1
                mine.held += abs(item.estimate) <= reach
            # the same interval moved: a true difference of exactly what matters
            moved = make_call((item.lower or 0.0) + margin, (item.upper or 0.0) + margin, margin)
            second = None
            if other is not None and agree:
                second = make_call((other.lower or 0.0) + margin, (other.upper or 0.0) + margin, margin)
            calls_equal = "no_difference_that_matters"
            name_moved = agreed(moved, second).name if second is not None else moved.name
            mine.false_equals += item is rows[0][0] and name_moved == calls_equal
        mine.false_calls += any(call in ("gain", "loss") for call in calls)
        mine.equals += any(call == "no_difference_that_matters" for call in calls)


def _call(item: Differs, other: Differs | None, margin: float) -> str:
    """The call without the margin decides gain and loss; the margin only adds “no difference that matters”."""
    assert item.lower is not None
    assert item.upper is not None
    call = make_call(item.lower, item.upper, margin)
    if other is not None and other.lower is not None and other.upper is not None:
        call = agreed(call, make_call(other.lower, other.upper, margin))
    if call.name == "no_difference_that_matters" and call.excludes_zero:
        return "gain" if item.lower > 0 else "loss"
    return call.name


def _judge(plan: ShamPlan, layouts: Sequence[Sequence[PlannedStrip]], extra: Array, alpha: float) -> Judge | None:
    if plan.design == "site_years":
        return lambda y: _site_years(layouts, y, extra, alpha)
    layout = layouts[0]
    if plan.design in FACTORED:
        return lambda y: _by_factors(plan, layout, y, alpha)
    return lambda y: _by_treatments(plan, layout, y, alpha)


def _by_treatments(
    plan: ShamPlan, layout: Sequence[PlannedStrip], y: Array, alpha: float
) -> dict[str, list[tuple[Differs, Differs | None]]]:
    rows = [
        StripResponse(
            treatment=strip.treatment,
            block=str(strip.column if plan.design == "latin" else strip.block),
            row=str(strip.row),
            response=float(value),
            position=float(strip.order),
        )
        for strip, value in zip(layout, y, strict=True)
    ]
    differences = compare(rows, design=SINGLE.get(plan.design, "rcbd"), alpha=alpha, control="0").to_control
    if plan.design != "systematic":
        return {"treatment": [(difference, None) for difference in differences]}
    others = {difference.left: difference for difference in compare(rows, design="trend", alpha=alpha, control="0").to_control}
    return {"treatment": [(difference, others[difference.left]) for difference in differences]}


def _by_factors(
    plan: ShamPlan, layout: Sequence[PlannedStrip], y: Array, alpha: float
) -> dict[str, list[tuple[Differs, Differs | None]]]:
    names = plan.factors
    strips = []
    for strip, value in zip(layout, y, strict=True):
        levels = dict(zip(names, strip.treatment.split(), strict=True))
        strips.append(
            FactorStrip(
                response=float(value), levels=levels, planned=levels, block=str(strip.block), position=float(strip.order)
            )
        )
    kind = cast(Layout, "rcbd" if plan.design == "factorial" else plan.design)
    factor_comparison = compare_factors(
        strips, layout=kind, factors=list(names), alpha=alpha, control=dict.fromkeys(names, "0")
    )
    told: dict[str, list[tuple[Differs, Differs | None]]] = {}
    for family in factor_comparison.families:
        told.setdefault(family.factor, []).extend((difference, None) for difference in family.differences)
    return told


def _site_years(
    layouts: Sequence[Sequence[PlannedStrip]], y: Array, extra: Array, alpha: float
) -> dict[str, list[tuple[Differs, Differs | None]]]:
    rows = [(site, strip) for site, layout in enumerate(layouts) for strip in layout]
    moved = [float(value + extra[site, int(strip.treatment)]) for (site, strip), value in zip(rows, y, strict=True)]
    columns = {
        "treatment": [strip.treatment for _, strip in rows],
        "site": [str(site) for site, _ in rows],
        "block": [str(strip.block) for _, strip in rows],
    }
    nested_analysis = analyse_environments(
        moved,
        columns,
        treatment="treatment",
        environment="site",
        block="block",
        alpha=alpha,
        adjust="dunnett",
        control={"treatment": "0"},
    )
    return {"treatment": [(difference, None) for difference in nested_analysis.differences]}
