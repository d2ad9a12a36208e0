"""Chances of a comparison: what the strips say, weighed against what such trials usually show."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from cultrix_core.economics.break_even import BreakEven
from cultrix_core.stats.compare import Difference
from cultrix_core.stats.effect_prior import Belief, believe, usual_effect
from cultrix_core.stats.families import CellDifference
from cultrix_core.unit_formatting import chance_text, format_number

from apps.analysis.verdict.comparisons import compared_strips, yield_of
from apps.trial_state.view import TrialView
from apps.trials.models import Factor, Treatment


@dataclass(frozen=True, slots=True, kw_only=True)
class Prior:
    """Spread of true differences in yield: ``share`` of the yield ``base_kg_per_ha``, by the factors that differ."""

    share: float
    base_kg_per_ha: float
    factors: tuple[Factor, ...]

    @property
    def sd_kg_per_ha(self) -> float:
        """Standard deviation of the prior."""
        return self.share * self.base_kg_per_ha


def prior_between(view: TrialView, left: Sequence[Treatment], right: Sequence[Treatment], base: float) -> Prior:
    """The prior of two sides, by the factors in which they differ; ``base`` in kg/ha where no yield was expected."""
    factors = tuple(factor for factor in view.factors if _levels(left, factor) != _levels(right, factor))
    share = usual_effect(view.profile.usual_effect_pct, [factor.kind for factor in factors])
    return Prior(share=share, base_kg_per_ha=view.trial.expected_yield.value or base, factors=factors)


def _levels(side: Sequence[Treatment], factor: Factor) -> set[int]:
    return {level.pk for treatment in side for level in treatment.levels.all() if level.factor_id == factor.pk}


def mean_yield(view: TrialView) -> float:
    """Mean yield of the strips that are compared, kg/ha."""
    yields = [value for strip in compared_strips(view) if (value := yield_of(view, strip)) is not None]
    return sum(yields) / len(yields) if yields else 0.0


def belief_of(item: Difference | CellDifference, response: str, prior: Prior, money: BreakEven | None) -> Belief | None:
    """The posterior of a difference in yield or net return; None where it has no error or costs are not known."""
    if not item.se or item.df is None or prior.sd_kg_per_ha <= 0:
        return None
    if response == "yield":
        return believe(item.estimate, item.se, item.df, scale=prior.sd_kg_per_ha)
    if money is None or money.worth_per_t <= 0:
        return None
    scale = prior.sd_kg_per_ha * money.worth_per_t / 1000
    return believe(item.estimate, item.se, item.df, scale=scale, center=-money.extra_cost_per_ha)


def prior_words(view: TrialView, prior: Prior) -> str:
    """The prior in a sentence."""
    what = " with ".join(factor.title.lower() for factor in prior.factors) or "treatments"
    spread = format_number(100 * prior.share, 1)
    return (
        f"True differences from {what} in {view.profile.name.lower()} are mostly within "
        f"±{view.show.text(2 * prior.sd_kg_per_ha, 'yield')} (standard deviation {spread} % of the yield; "
        "common practice, no source)."
    )


def event_words(response: str, left: str, right: str, chance: float | None) -> str:
    """A chance with its event."""
    verb = "yields" if response == "yield" else "returns"
    return "" if chance is None else f"chance that {left} {verb} more than {right}: {chance_text(chance)}"
