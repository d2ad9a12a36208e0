"""Everything that was tried, in the order of what it returned.

Ranked are comparisons with an interval, by their estimate of the net gain; what was only looked at (one strip a treatment)
stands apart and has no rank, and so does what is not harvested yet. The best of many looks better than it is: among k
comparisons without any true gain the best estimate is still above nought, by about the expected largest of k normal
deviates times their standard error [1]. That is said as a number beside the ranking.

References: [1] Blom (1958) approximation of normal order statistics: Φ⁻¹((k − 0.375) ÷ (k + 0.25)) (from memory; checked by
simulation).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import scipy

from cultrix_core.errors import Refusal

Standing = Literal["judged", "look", "open"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Tried:
    """One comparison: ``key``, net gain in money per hectare and its standard error; None where there is none."""

    key: str
    standing: Standing
    net_per_ha: float | None
    se: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Ranking:
    """Keys with their rank in order, looks, what is open, and how much luck alone would show at the top (None below two)."""

    ranked: tuple[tuple[str, int], ...]
    looks: tuple[str, ...]
    open: tuple[str, ...]
    luck_per_ha: float | None


def ranking(rows: Sequence[Tried]) -> Ranking:
    """Rank what can be ranked; equal estimates share a rank.

    Raises
    ------
    Refusal : ``duplicate`` key.
    """
    keys = [row.key for row in rows]
    if len(set(keys)) < len(keys):
        twice = next(key for key in keys if keys.count(key) > 1)
        raise Refusal("duplicate", field="key", label="Comparison", value=twice, remedy="Each stands once.")
    judged = sorted(
        ((row.key, row.net_per_ha, row.se) for row in rows if row.standing == "judged" and row.net_per_ha is not None),
        key=lambda row: -row[1],
    )
    ranked: list[tuple[str, int]] = []
    for place, (key, net, _) in enumerate(judged):
        same = place > 0 and net == judged[place - 1][1]
        ranked.append((key, ranked[-1][1] if same else place + 1))
    errors = [se for _, _, se in judged if se is not None]
    return Ranking(
        ranked=tuple(ranked),
        looks=tuple(row.key for row in rows if row.standing == "look"),
        open=tuple(row.key for row in rows if row.standing == "open" or (row.standing == "judged" and row.net_per_ha is None)),
        luck_per_ha=luck(len(errors)) * sum(errors) / len(errors) if len(errors) > 1 else None,
    )


def luck(k: int) -> float:
    """Expected largest of k independent standard normal deviates, by Blom's approximation."""
    return float(scipy.stats.norm.ppf((k - 0.375) / (k + 0.25)))
