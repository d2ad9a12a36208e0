"""Where the levels of a factor are compared: over the other factors, or inside their levels.

Rule. Main effects come first: each factor is judged over the others at alpha. All interactions are one family, by Holm's
procedure [1] over their terms:

    none          adjusted p at or above alpha
    suspected     below alpha: told beside the main effects, which stand
    established   below ``ESTABLISHED``

Where an established interaction crosses, the levels of the factor are compared inside each combination of those it interacts
with, all places together one family (Bonferroni over places). Where the effect keeps its direction the main effect stands,
and its sizes by level are told. An effect crosses where Gail and Simon's test [2] says so at alpha for a pair of levels:
with Q+ and Q− the sums of (d/s)² over the places where the pair's difference d is above and below nought,

    p = Σ_h C(K − 1, h) ½^(K−1) P(h F(h, ν) > min(Q+, Q−)),  h = 1 … K − 1,

F instead of χ² for the error is estimated; Bonferroni over pairs. Looking at interactions first is a second chance of a false
call, at most ``ESTABLISHED`` beyond alpha where nothing differs; what it comes to is simulated (``docs/trust.md``).

References: [1] Holm (1979) Scand. J. Stat. 6:65–70; [2] Gail & Simon (1985) Biometrics 41:361–372 (both from memory).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations, product
from math import comb
from typing import Literal

import scipy

from cultrix_core.stats.decision_rule import Call, make_call
from cultrix_core.stats.families import CellDifference, family
from cultrix_core.stats.multiplicity import Adjust
from cultrix_core.stats.nested_designs import NestedAnalysis

Status = Literal["none", "suspected", "established"]
ESTABLISHED = 0.01


@dataclass(frozen=True, slots=True, kw_only=True)
class Interaction:
    """Whether the effect of one factor depends on others; ``p_holm`` over all interactions of the trial."""

    factors: tuple[str, ...]
    f: float
    num_df: int
    den_df: float
    p: float
    p_holm: float
    status: Status

    @property
    def matters(self) -> bool:
        """Whether it is told at all."""
        return self.status != "none"

    @property
    def established(self) -> bool:
        """Whether comparisons may be made inside its levels."""
        return self.status == "established"


@dataclass(frozen=True, slots=True, kw_only=True)
class Family:
    """The comparisons of one factor at one place; ``against`` None: all pairs.

    ``level``: joint level of all places of the factor; ``own_level``: that of this place, by which its intervals are made.
    """

    factor: str
    within: Mapping[str, str]
    against: str | None
    adjust: Adjust
    level: float
    own_level: float
    differences: tuple[CellDifference, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class FactorFamilies:
    """What gets calls of one factor, and what is only told: its sizes by the levels it may or does depend on."""

    factor: str
    called: tuple[Family, ...]
    sizes: tuple[Family, ...]
    crosses: bool


def holm(p: Sequence[float]) -> list[float]:
    """Adjusted p by Holm's step-down procedure, in the order given."""
    order = sorted(range(len(p)), key=lambda place: p[place])
    adjusted, most = [0.0] * len(p), 0.0
    for rank, place in enumerate(order):
        most = max(most, min(1.0, (len(p) - rank) * p[place]))
        adjusted[place] = most
    return adjusted


def judge_interactions(analysis: NestedAnalysis) -> tuple[Interaction, ...]:
    """Every interaction that the model holds, smallest first, with its place in their one family."""
    tests = dict(analysis.anova)
    terms = [
        term
        for size in range(2, len(analysis.factors) + 1)
        for term in combinations(analysis.factors, size)
        if ":".join(term) in tests
    ]
    adjusted = holm([tests[":".join(term)].p for term in terms])
    return tuple(
        Interaction(
            factors=term,
            f=test.f,
            num_df=test.num_df,
            den_df=test.den_df,
            p=test.p,
            p_holm=p_holm,
            status="established" if p_holm < ESTABLISHED else "suspected" if p_holm < analysis.alpha else "none",
        )
        for term, p_holm in zip(terms, adjusted, strict=True)
        for test in [tests[":".join(term)]]
    )


def crossing_p(differences: Sequence[CellDifference]) -> float:
    """p of Gail and Simon's test that a difference has one direction at all places; 1 with one place."""
    places = len(differences)
    above = sum((row.estimate / row.se) ** 2 for row in differences if row.estimate > 0)
    below = sum((row.estimate / row.se) ** 2 for row in differences if row.estimate < 0)
    least, df = min(above, below), min((row.df for row in differences), default=1.0)
    return float(
        sum(comb(places - 1, h) * 0.5 ** (places - 1) * scipy.stats.f.sf(least / h, h, df) for h in range(1, places))
        if least > 0
        else 1.0
    )


def _places(analysis: NestedAnalysis, inside: Sequence[str]) -> list[dict[str, str]]:
    return [dict(zip(inside, cell, strict=True)) for cell in product(*(analysis.fit.factor(name).levels for name in inside))]


def _at(
    analysis: NestedAnalysis, name: str, places: Sequence[Mapping[str, str]], level: float, own: float, control: str | None
) -> tuple[Family, ...]:
    adjust: Adjust = "tukey" if control is None else "dunnett"
    return tuple(
        Family(
            factor=name,
            within=within,
            against=control,
            adjust=adjust,
            level=level,
            own_level=own,
            differences=tuple(family(analysis.fit, name, within, own, adjust, control, analysis.judge)),
        )
        for within in places
    )


def _crosses(sizes: Sequence[Family], alpha: float) -> bool:
    """Whether a pair of levels changes direction from place to place."""
    if len(sizes) < 2:
        return False
    pairs = list(zip(*(item.differences for item in sizes), strict=True))
    return any(crossing_p(pair) * len(pairs) < alpha for pair in pairs)


def families_of(
    analysis: NestedAnalysis, name: str, interactions: Sequence[Interaction], control: str | None
) -> FactorFamilies:
    """The comparisons of one factor, where the rule says that they are made.

    Parameters
    ----------
    control : level that the others are compared with (Dunnett); None: all pairs (Tukey).
    """

    def inside(status: Sequence[Status]) -> list[str]:
        own = [item for item in interactions if name in item.factors and item.status in status]
        return [other for other in analysis.factors if other != name and any(other in item.factors for item in own)]

    known = inside(["established"])
    sizes = _at(analysis, name, _places(analysis, known), analysis.alpha, analysis.alpha, control) if known else ()
    if known and _crosses(sizes, analysis.alpha):
        places = _places(analysis, known)
        called = _at(analysis, name, places, analysis.alpha, analysis.alpha / len(places), control)
        return FactorFamilies(factor=name, called=called, sizes=(), crosses=True)
    maybe = inside(["suspected", "established"])
    if maybe:
        sizes = _at(analysis, name, _places(analysis, maybe), analysis.alpha, analysis.alpha, control)
    called = _at(analysis, name, [{}], analysis.alpha, analysis.alpha, control)
    return FactorFamilies(factor=name, called=called, sizes=sizes, crosses=False)


def simple_reach(analysis: NestedAnalysis, name: str) -> tuple[float, float]:
    """Lowest and highest end of the intervals of a factor's simple effects, at each level of each other factor.

    Both inside ± margin is what a main effect needs to be called no difference: an average of two opposite effects is none.
    """
    ends = [
        end
        for other in analysis.factors
        if other != name
        for level in analysis.fit.factor(other).levels
        for row in family(analysis.fit, name, {other: level}, analysis.alpha, "none", None, analysis.judge)
        for end in (row.lower, row.upper)
    ]
    return min(ends, default=0.0), max(ends, default=0.0)


def call_of_factor(difference: CellDifference, margin: float | None, reach: tuple[float, float]) -> Call:
    """The call of a comparison of one factor; over other factors equality asks for every simple effect (``simple_reach``)."""
    call = make_call(difference.lower, difference.upper, margin)
    if call.name != "no_difference_that_matters" or difference.within or margin is None:
        return call
    equal = -margin <= reach[0] and reach[1] <= margin
    return call if equal else make_call(difference.lower, difference.upper, None)
