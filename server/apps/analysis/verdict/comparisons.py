"""The strips of a trial compared by the core: which model, from the layout and the factors."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from math import prod
from uuid import UUID

from cultrix_core.errors import Refusal
from cultrix_core.stats.compare import Comparison, StripResponse, compare
from cultrix_core.stats.factor_comparison import FactorComparison, FactorStrip, compare_factors

from apps.trial_state.view import TrialView
from apps.trials.layout import parts_of
from apps.trials.models import Factor, Level, Strip, Treatment
from apps.trials.naming import level_name

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
    """Factors in the order the layout nests them; empty unless there are several and every combination is a treatment."""
    factors = list(view.factors)
    levels: list[set[int]] = [set() for _ in factors]
    for treatment in view.treatments:
        for place, level in enumerate(sorted(treatment.levels.all(), key=lambda item: item.factor.position)):
            levels[place].add(level.pk)
    if len(factors) < 2 or any(len(own) < 2 for own in levels):
        return []
    if prod(len(own) for own in levels) != len(view.treatments) or not view.design.replicated:
        return []
    if not view.design.split:
        return factors
    plan = view.trial.plan
    main, sub = parts_of(factors, view.trial.design, plan.get("main"), plan.get("sub"))
    first = [main, *([sub] if sub is not None else [])]
    return [factors[place] for place in (*first, *(item for item in range(len(factors)) if item not in first))]


def factor_keys(factors: list[Factor]) -> list[str]:
    """What factors are called in formulas: their titles, told apart where two are the same."""
    titles = [factor.title for factor in factors]
    return [title if titles.count(title) == 1 else f"{title} {place + 1}" for place, title in enumerate(titles)]


def level_names(view: TrialView) -> dict[str, str]:
    """Names of all levels by id, in the reader's units."""
    levels: dict[str, Level] = {str(level.pk): level for treatment in view.treatments for level in treatment.levels.all()}
    return {key: level_name(level, view.show) for key, level in levels.items()}


def levels_of(treatment: Treatment, factors: list[Factor]) -> dict[str, str]:
    """Level id by factor key."""
    by_factor = {level.factor_id: str(level.pk) for level in treatment.levels.all()}
    return {key: by_factor[factor.pk] for key, factor in zip(factor_keys(factors), factors, strict=True)}


def treatment_means(view: TrialView, result: Compared) -> dict[UUID, float]:
    """Means of the model by treatment id."""
    if isinstance(result, Comparison):
        return {UUID(mean.level): mean.mean for mean in result.means}
    factors = crossed_factors(view)
    by_levels = {tuple(sorted(levels_of(treatment, factors).items())): treatment.id for treatment in view.treatments}
    return {by_levels[tuple(sorted(cell.levels.items()))]: cell.mean for cell in result.cells}


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
            if split or refusal.code != "missing":
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
    keys = factor_keys(factors)
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
    return compare_factors(
        strips,
        layout=view.trial.design or "rcbd",  # type: ignore[arg-type]
        factors=keys,
        alpha=view.trial.alpha,
        control=levels_of(view.control, factors) if view.control else None,
        levels={key: [str(level.pk) for level in factor.levels.all()] for key, factor in zip(keys, factors, strict=True)},
        amounts={
            key: {str(level.pk): level.amount.value for level in factor.levels.all() if level.amount.value is not None}
            for key, factor in zip(keys, factors, strict=True)
        },
        names=level_names(view),
        drift=trend,
    )
