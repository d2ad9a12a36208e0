"""Which of several treatments to recommend: dominance and the marginal rate of return.

Method [1]. Treatments are put in the order of the costs that vary. One that costs more (or as much) and returns no more than
a cheaper one is dominated: nobody would choose it. Between the others, the marginal rate of return of a step is

    (net return of the dearer − of the cheaper) ÷ (cost of the dearer − of the cheaper).

A farm asks a minimum rate of its money. From the cheapest on, a step is taken while its rate, reckoned from the treatment
last accepted, is not below it; the last one accepted is recommended.

The rates are of means: they say nothing about whether a difference is real, so the intervals stand beside them.

References: [1] CIMMYT (1988) From Agronomic Data to Farmer Recommendations: An Economics Training Manual, chs. 4–5 (method,
from memory).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from cultrix_core.economics.break_even import MOST_MONEY
from cultrix_core.errors import Refusal, require_between

TOLERANCE = 1e-9


@dataclass(frozen=True, slots=True, kw_only=True)
class Option:
    """A treatment with its costs that vary and its net return, money per hectare."""

    name: str
    cost_per_ha: float
    net_per_ha: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Ranked:
    """An option in the order of costs.

    ``marginal_rate``: of the step from the undominated option before it, a share of the extra money; None for the first and for
    dominated ones. ``accepted``: the step was taken at the minimum rate. ``dominated_by``: the cheaper one returning as much.
    """

    option: Option
    dominated_by: str
    marginal_rate: float | None
    accepted: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class MarginalAnalysis:
    """Options by rising cost, and the one to recommend at the minimum rate."""

    rows: tuple[Ranked, ...]
    recommended: str
    minimum_rate: float


def marginal_analysis(options: Sequence[Option], *, minimum_rate: float) -> MarginalAnalysis:
    """Dominance and marginal rates of return of at least two options.

    Parameters
    ----------
    options : any order, names differ. minimum_rate : least acceptable return on extra money, a share (1.0 is 100 %).

    Raises
    ------
    Refusal : ``too_few_treatments``, ``duplicate`` name, ``too_small`` or ``too_large`` rate or cost.
    """
    if len(options) < 2:
        raise Refusal("too_few_treatments", field="treatments", value=len(options))
    require_between(minimum_rate, 0, 100, "minimum_rate", label="Minimum rate of return")
    names = [option.name for option in options]
    for name in names:
        if names.count(name) > 1:
            raise Refusal("duplicate", field="treatments", label="Treatment", value=name, remedy="Name each once.")
    for option in options:
        require_between(option.cost_per_ha, -MOST_MONEY, MOST_MONEY, "cost", label="Cost")
        require_between(option.net_per_ha, -MOST_MONEY, MOST_MONEY, "net_return", label="Net return")
    ordered = sorted(options, key=lambda option: (option.cost_per_ha, -option.net_per_ha))
    rows: list[Ranked] = []
    best: Option | None = None
    accepted: Option | None = None
    for item in ordered:
        if best is None or accepted is None:
            best = accepted = item
            rows.append(Ranked(option=item, dominated_by="", marginal_rate=None, accepted=True))
            continue
        if item.net_per_ha <= best.net_per_ha + TOLERANCE or item.cost_per_ha - best.cost_per_ha < TOLERANCE:
            rows.append(Ranked(option=item, dominated_by=best.name, marginal_rate=None, accepted=False))
            continue
        taken = rate(accepted, item) >= minimum_rate - TOLERANCE
        rows.append(Ranked(option=item, dominated_by="", marginal_rate=rate(best, item), accepted=taken))
        best, accepted = item, item if taken else accepted
    assert accepted is not None
    return MarginalAnalysis(rows=tuple(rows), recommended=accepted.name, minimum_rate=minimum_rate)


def rate(cheaper: Option, dearer: Option) -> float:
    """Marginal rate of return of a step, a share of the extra money."""
    return (dearer.net_per_ha - cheaper.net_per_ha) / (dearer.cost_per_ha - cheaper.cost_per_ha)
