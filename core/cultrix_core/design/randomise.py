"""Complete blocks in random order from a stored seed.

Each block holds every treatment once; the order in each block is a Fisher–Yates shuffle [1] driven by the
raw 64-bit stream of PCG64, whose stream NumPy promises not to change, with rejection instead of modulo
so that every order is equally likely. The same seed gives the same layout for ever.

References: [1] Durstenfeld (1964) Algorithm 235, CACM 7:420 (from memory).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from numpy.random import PCG64

from cultrix_core.errors import Refusal, require_between

MOST_BLOCKS = 40
MOST_TREATMENTS = 40


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedStrip:
    """A strip in field order: order and block count from 1."""

    order: int
    block: int
    treatment: str


class _RawDraw:
    """Whole numbers below a bound from the raw stream of PCG64."""

    def __init__(self, seed: int) -> None:
        self._bits = PCG64(seed)

    def below(self, bound: int) -> int:
        limit = (1 << 64) - (1 << 64) % bound
        while True:
            raw = int(self._bits.random_raw())
            if raw < limit:
                return raw % bound

    def shuffled(self, items: Sequence[str]) -> list[str]:
        shuffled = list(items)
        for last in range(len(shuffled) - 1, 0, -1):
            other = self.below(last + 1)
            shuffled[last], shuffled[other] = shuffled[other], shuffled[last]
        return shuffled


def complete_blocks(treatments: Sequence[str], *, blocks: int, seed: int) -> tuple[PlannedStrip, ...]:
    """Randomised complete blocks, side by side along the field.

    Parameters
    ----------
    treatments : distinct names, at least 2.
    blocks : at least 2; one block is an unreplicated look and needs ``unreplicated``.
    seed : 0 ≤ seed < 2⁶³, stored with the trial.

    Raises
    ------
    Refusal : ``too_few_blocks``, ``too_few_treatments``, ``too_large``, ``duplicate``.
    """
    if blocks < 2:
        raise Refusal("too_few_blocks", field="blocks", value=blocks)
    require_between(blocks, 2, MOST_BLOCKS, "blocks")
    _check_treatments(treatments)
    draw = _RawDraw(_checked_seed(seed))
    strips: list[PlannedStrip] = []
    for block in range(1, blocks + 1):
        for treatment in draw.shuffled(treatments):
            strips.append(PlannedStrip(order=len(strips) + 1, block=block, treatment=treatment))
    return tuple(strips)


def unreplicated(treatments: Sequence[str], *, seed: int) -> tuple[PlannedStrip, ...]:
    """One strip a treatment, in random order: a look, never a comparison with a probability."""
    _check_treatments(treatments)
    order = _RawDraw(_checked_seed(seed)).shuffled(treatments)
    return tuple(PlannedStrip(order=place + 1, block=1, treatment=name) for place, name in enumerate(order))


def _check_treatments(treatments: Sequence[str]) -> None:
    if len(treatments) < 2:
        raise Refusal("too_few_treatments", field="treatments", value=len(treatments))
    require_between(len(treatments), 2, MOST_TREATMENTS, "treatments")
    for name in treatments:
        if list(treatments).count(name) > 1:
            raise Refusal(
                "duplicate", field="treatments", label="Treatment", value=name, remedy="Give each treatment its own level."
            )


def _checked_seed(seed: int) -> int:
    require_between(seed, 0, 2**63 - 1, "seed", label="Seed of the draw")
    return seed
