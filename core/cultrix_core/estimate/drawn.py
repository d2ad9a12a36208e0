"""Which pieces to take at a place: the 7th plant from the stake, not the one that catches the eye.

The units on the area are counted first, then the pieces are taken by systematic sampling with a random start [1]:
piece j of m among N is number floor((u + j) × N ÷ m) + 1, j = 0 … m − 1, with u drawn once for the place from the
trial's seed. Every unit is taken with chance m ÷ N, none twice, and they lie apart from each other. The same place gives
the same pieces for ever; the field book needs only u, so it works without a signal.

Reference: [1] Cochran (1977), Sampling Techniques, chapter 8 (from memory).
"""

from __future__ import annotations

from collections.abc import Sequence
from math import floor

import numpy as np

from cultrix_core.errors import require_between


def start_of(seed: Sequence[int], place: int) -> float:
    """The random start of a place, in [0, 1); ``seed``: whole numbers that name plan and strip."""
    return round(float(np.random.default_rng([*seed, 2, place]).random()) * 9_999) / 10_000


def drawn_pieces(*, counted: int, wanted: int, start: float) -> tuple[int, ...]:
    """Numbers of the pieces to take, counting from the peg; all of them when no more are there than wanted.

    Raises
    ------
    Refusal : ``too_small``, ``too_large`` for numbers that cannot be.
    """
    require_between(counted, 0, 100_000, "counted", label="Counted on the area")
    require_between(wanted, 1, 1_000, "wanted", label="Pieces wanted")
    require_between(start, 0, 1 - 1e-9, "start", label="Random start")
    if counted <= wanted:
        return tuple(range(1, counted + 1))
    return tuple(floor((start + item) * counted / wanted) + 1 for item in range(wanted))
