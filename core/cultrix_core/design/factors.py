"""Factors, their levels, and what a list of treatments lets one tell apart.

A treatment is one level of every factor. The list may be the full factorial or chosen by hand; a chosen
list can change two things at once, and then no analysis separates them. Two factors change together when
knowing the level of one tells the level of the other and both take more than one level.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations, product
from math import prod

from cultrix_core.errors import Refusal

MOST_COMBINATIONS = 40
# Another machine, another pass or a rebuilt planter between two levels (common practice, no source).
HARD_TO_CHANGE = frozenset({"row_spacing", "tillage"})


@dataclass(frozen=True, slots=True, kw_only=True)
class Structure:
    """What a list of treatments is.

    ``complete``: every combination of the levels is there once. ``together``: pairs of factors (by place)
    that change together, so that their effects cannot be told apart.
    """

    levels: tuple[int, ...]
    complete: bool
    together: tuple[tuple[int, int], ...]


def every_combination(levels: Sequence[Sequence[str]]) -> tuple[tuple[str, ...], ...]:
    """The full factorial, the last factor changing fastest.

    Raises
    ------
    Refusal : ``missing`` without levels, ``too_large`` above ``MOST_COMBINATIONS``.
    """
    if not levels or any(not row for row in levels):
        raise Refusal("missing", field="levels", label="A level of every factor", remedy="Give each factor at least one.")
    size = prod(len(row) for row in levels)
    if size > MOST_COMBINATIONS:
        raise Refusal(
            "too_large",
            field="levels",
            label="The number of combinations",
            value=size,
            limit=MOST_COMBINATIONS,
            remedy="Leave out levels, or choose the combinations that matter.",
        )
    return tuple(product(*levels))


def structure(treatments: Sequence[Sequence[str]]) -> Structure:
    """What the treatments, one level name for each factor, let one tell apart."""
    if not treatments:
        return Structure(levels=(), complete=False, together=())
    factors = list(zip(*treatments, strict=True))
    counts = tuple(len(set(column)) for column in factors)
    rows = {tuple(row) for row in treatments}
    complete = len(rows) == len(treatments) == prod(counts)
    together = tuple(
        (item, other)
        for item, other in combinations(range(len(factors)), 2)
        if counts[item] > 1 and counts[other] > 1 and _one_tells_other(factors[item], factors[other])
    )
    return Structure(levels=counts, complete=complete, together=together)


def _one_tells_other(names: Sequence[str], other: Sequence[str]) -> bool:
    pairs = len(set(zip(names, other, strict=True)))
    return pairs in (len(set(names)), len(set(other)))
