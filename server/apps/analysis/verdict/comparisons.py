"""The strips of a trial compared by the core: which model, from the layout and the factors."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from math import prod
from uuid import UUID

import numpy as np
from cultrix_core.errors import Refusal
from cultrix_core.stats.compare import Comparison, StripResponse, compare
from cultrix_core.stats.factor_comparison import APART, FactorComparison, FactorStrip, compare_factors
from cultrix_core.stats.families import CellMean

from apps.trial_state.view import TrialView
from apps.trials.layout import parts_of
from apps.trials.models import Factor, Level, Strip, Treatment
from apps.trials.naming import level_name, treatment_name

COMBINED = "the mean of the combinations"
NOT_CROSSED = (
    "This {design} was laid out for treatments that are not every combination of their levels, so its main strips and the "
    "strips inside them cannot be told apart as factors. An analysis as plain blocks would claim more certainty than there "
    "is, so no call is made."
)
Compared = Comparison | FactorComparison
Measured = Mapping[UUID, float]
Treated = Callable[[Strip], Treatment | None]
Response = Callable[[TrialView, Strip], float | None]


def received(strip: Strip) -> Treatment | None:
    """The treatment a strip really got."""
    return strip.received


def yield_of(view: TrialView, strip: Strip) -> float | None:
    """Yield of a strip by the chosen source, kg/ha."""
    return view.records[strip.id].yield_kg_per_ha


def net_of(view: TrialView, strip: Strip) -> float | None:
    """Net return of a strip per ha."""
    budget = view.budget_of(strip)
    return None if budget is None else budget.net_per_ha


def compared_strips(view: TrialView) -> list[Strip]:
    """The strips a comparison of yields rests on, in its order of rows."""
    return [strip for strip in view.strips if not strip.lost and strip.received and yield_of(view, strip) is not None]


def crossed_factors(view: TrialView) -> list[Factor]:
    """Factors in the order the layout nests them; empty unless there are several and treatments tell them apart.

    In a split layout every combination must be a treatment; in others some may be missing, as long as there are more
    treatments than main effects, or all may stand with a control outside them (``control_apart``).
    """
    factors = list(view.factors)
    if len(factors) < 2 or not view.design.replicated:
        return []
    if not view.design.split:
        return factors if _tells_apart(factors, factorial_treatments(view)) else []
    if not _complete(factors, view.treatments):
        return []
    plan = view.trial.plan
    main, sub = parts_of(factors, view.trial.design, plan.get("main"), plan.get("sub"))
    first = [main, *([sub] if sub is not None else [])]
    return [factors[place] for place in (*first, *(item for item in range(len(factors)) if item not in first))]


def control_apart(view: TrialView) -> Treatment | None:
    """The control, where the other treatments are every combination of their levels and it is none of them."""
    factors = list(view.factors)
    if len(factors) < 2 or view.control is None or view.design.split or _complete(factors, view.treatments):
        return None
    rest = [treatment for treatment in view.treatments if treatment.id != view.control.id]
    return view.control if _complete(factors, rest) else None


def factorial_treatments(view: TrialView) -> list[Treatment]:
    """The treatments that are combinations of levels: all but a control outside them."""
    apart = control_apart(view)
    return [treatment for treatment in view.treatments if apart is None or treatment.id != apart.id]


def _level_sets(factors: Sequence[Factor], treatments: Sequence[Treatment]) -> list[list[int]]:
    """Levels that occur, by factor."""
    return [
        list(dict.fromkeys(level.pk for item in treatments for level in item.levels.all() if level.factor_id == factor.pk))
        for factor in factors
    ]


def _complete(factors: Sequence[Factor], treatments: Sequence[Treatment]) -> bool:
    levels = _level_sets(factors, treatments)
    return all(len(own) > 1 for own in levels) and prod(len(own) for own in levels) == len(treatments)


def _tells_apart(factors: Sequence[Factor], treatments: Sequence[Treatment]) -> bool:
    """Whether treatments are all combinations, or tell the main effects apart and leave something over."""
    levels = _level_sets(factors, treatments)
    if any(len(own) < 2 for own in levels):
        return False
    parameters = 1 + sum(len(own) - 1 for own in levels)
    held = [{level.pk for level in treatment.levels.all()} for treatment in treatments]
    main = np.array([[1.0, *(float(level in own) for rows in levels for level in rows[1:])] for own in held])
    return len(treatments) > parameters and int(np.linalg.matrix_rank(main)) == parameters or _complete(factors, treatments)


def factor_keys(factors: list[Factor]) -> list[str]:
    """What factors are called in formulas: their titles, told apart where two are the same."""
    titles = [factor.title for factor in factors]
    return [title if titles.count(title) == 1 else f"{title} {place + 1}" for place, title in enumerate(titles)]


def level_names(view: TrialView) -> dict[str, str]:
    """Names of all levels by id, in the reader's units."""
    levels: dict[str, Level] = {str(level.pk): level for treatment in view.treatments for level in treatment.levels.all()}
    names = {key: level_name(level, view.show) for key, level in levels.items()}
    apart = control_apart(view)
    return names | ({"": COMBINED, APART: treatment_name(apart, view.show)} if apart is not None else {})


def levels_of(treatment: Treatment, factors: list[Factor]) -> dict[str, str]:
    """Level id by factor key."""
    by_factor = {level.factor_id: str(level.pk) for level in treatment.levels.all()}
    return {key: by_factor[factor.pk] for key, factor in zip(factor_keys(factors), factors, strict=True)}


def treatment_means(view: TrialView, result: Compared) -> dict[UUID, float]:
    """Means of the model by treatment id."""
    if isinstance(result, Comparison):
        return {UUID(mean.level): mean.mean for mean in result.means}
    return {treatment.id: cell.mean for treatment, cell in treated_cells(view, result)}


def treated_cells(view: TrialView, result: FactorComparison) -> list[tuple[Treatment, CellMean]]:
    """The means of combinations that are treatments of the trial."""
    factors = crossed_factors(view)
    by_levels = {tuple(sorted(levels_of(item, factors).items())): item for item in factorial_treatments(view)}
    cells = [(by_levels.get(tuple(sorted(cell.levels.items()))), cell) for cell in result.cells]
    return [(treatment, cell) for treatment, cell in cells if treatment is not None]


def compare_strips(
    view: TrialView, treated: Treated, response: Response, *, trend: bool = False, measured: Measured | None = None
) -> Compared:
    """The comparison that the layout asks for; ``trend`` takes a drift along the field in the place of blocks.

    ``measured``: the covariate by strip id; strips without it are left out.

    Raises
    ------
    Refusal : those of the core; ``not_for_design`` for a split layout of treatments that are not crossed.
    """
    rows = [
        (strip, treatment, value)
        for strip in view.strips
        if not strip.lost
        and (measured is None or strip.id in measured)
        and (treatment := treated(strip)) is not None
        and (value := response(view, strip)) is not None
    ]
    factors = crossed_factors(view)
    split = view.design.split
    if split and not rows:
        raise Refusal("no_response", field="response")
    if split and not factors:
        raise SplitRefused(NOT_CROSSED.format(design=view.trial.get_design_display().lower()))
    if factors and rows and _replicated(rows):
        try:
            return _by_factors(view, rows, factors, trend=trend, measured=measured)
        except Refusal as refusal:
            if split or refusal.code != "empty_cells":
                raise
    return _by_treatments(view, rows, trend=trend, measured=measured)


class SplitRefused(Exception):
    """A split layout that no model fits, told to the reader."""


def _replicated(rows: list[tuple[Strip, Treatment, float]]) -> bool:
    return len(rows) > len({treatment.id for _, treatment, _ in rows})


def _by_treatments(
    view: TrialView, rows: list[tuple[Strip, Treatment, float]], *, trend: bool, measured: Measured | None
) -> Comparison:
    strips = [
        StripResponse(
            treatment=str(treatment.id),
            block=str(strip.block.number),
            row=str(strip.row),
            response=value,
            label=f"Strip {strip.order}",
            position=float(strip.order),
            covariate=measured[strip.id] if measured is not None else None,
        )
        for strip, treatment, value in rows
    ]
    present = {row.treatment for row in strips}
    control = str(view.control.id) if view.control and str(view.control.id) in present else None
    return compare(
        strips,
        design="trend" if trend else view.design.family,
        alpha=view.trial.alpha,
        control=control,
        levels=[str(treatment.id) for treatment in view.treatments],
        amounts=_ladder(view),
    )


def _ladder(view: TrialView) -> dict[str, float]:
    """Amount by treatment where one factor is varied and its levels are amounts."""
    if len(view.factors) != 1:
        return {}
    levels = {str(treatment.id): next(iter(treatment.levels.all()), None) for treatment in view.treatments}
    return {key: level.amount.value for key, level in levels.items() if level is not None and level.amount.value is not None}


def _by_factors(
    view: TrialView,
    rows: list[tuple[Strip, Treatment, float]],
    factors: list[Factor],
    *,
    trend: bool,
    measured: Measured | None,
) -> FactorComparison:
    keys, outside = factor_keys(factors), control_apart(view)
    strips = [
        FactorStrip(
            response=value,
            levels=levels_of(treatment, factors),
            planned=levels_of(strip.treatment, factors),
            block=str(strip.block.number),
            row=str(strip.row),
            position=float(strip.order),
            label=f"Strip {strip.order}",
            covariate=measured[strip.id] if measured is not None else None,
        )
        for strip, treatment, value in rows
    ]
    apart = [row for row, (_, treatment, _) in zip(strips, rows, strict=True) if outside and treatment.id == outside.id]
    return compare_factors(
        [row for row in strips if row not in apart],
        apart=apart,
        layout=view.trial.design or "rcbd",  # type: ignore[arg-type]
        factors=keys,
        alpha=view.trial.alpha,
        control=levels_of(view.control, factors) if view.control and outside is None else None,
        levels={key: [str(level.pk) for level in factor.levels.all()] for key, factor in zip(keys, factors, strict=True)},
        amounts={
            key: {str(level.pk): level.amount.value for level in factor.levels.all() if level.amount.value is not None}
            for key, factor in zip(keys, factors, strict=True)
        },
        names=level_names(view),
        drift=trend,
    )
