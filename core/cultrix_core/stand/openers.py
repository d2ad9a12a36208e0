"""Which opener is off: depth, stand or gaps by row of the machine, over strips.

What is dug, counted or missing is recorded with the row of the machine, numbered from the left as seen from behind. Strips
differ, so each opener is held against the others inside the same strips:

    value = strip + opener + error,

by least squares on the means of each opener in each strip. The difference of an opener from the mean of all the others has its
error from what is left over; with many openers one stands apart by luck, so p values are those of all openers together (Holm
1979 [1]). p is the chance that some opener stands so far off where none differs: the chance of being luck. One that stands
apart is set aside, and the rest are held against each other without it: it would pull their mean, and make sound ones look off.

Reference: [1] Holm (1979) Scand. J. Stat. 6:65–70.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import scipy

from cultrix_core.errors import Refusal, require_finite
from cultrix_core.stats.multiplicity import holm

LEAST_OPENERS = 3
LEAST_STRIPS = 2
MOST_OPENERS = 72
ROUNDING = 1e-12


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenerValue:
    """One recorded value: its strip and the row of the machine, from 1."""

    strip: str
    opener: int
    value: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Opener:
    """One opener: its mean over strips, its difference from the others with standard error, and the chance of being luck."""

    opener: int
    strips: int
    mean: float
    off: float
    se: float
    p_luck: float


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenersLook:
    """All openers, and those of which luck is unlikely at ``alpha``."""

    alpha: float
    df: int
    openers: tuple[Opener, ...]

    @property
    def off(self) -> tuple[Opener, ...]:
        """Openers that stand apart, the surest first."""
        return tuple(sorted((item for item in self.openers if item.p_luck < self.alpha), key=lambda item: item.p_luck))


def look_at_openers(values: Sequence[OpenerValue], *, alpha: float = 0.10) -> OpenersLook:
    """Hold every opener against the others.

    Raises
    ------
    Refusal : ``too_small`` number of openers or strips, ``too_large`` opener, ``not_finite``, ``not_estimable`` where nothing
        is left over to judge by.
    """
    for item in values:
        require_finite(item.value, "value")
        if not 1 <= item.opener <= MOST_OPENERS:
            raise Refusal("too_large", field="opener", label="Row of the machine", value=item.opener, limit=MOST_OPENERS)
    cells: dict[tuple[str, int], list[float]] = {}
    for item in values:
        cells.setdefault((item.strip, item.opener), []).append(item.value)
    strips = sorted({strip for strip, _ in cells})
    openers = sorted({opener for _, opener in cells})
    for number, least, what in ((len(openers), LEAST_OPENERS, "rows"), (len(strips), LEAST_STRIPS, "strips")):
        if number < least:
            raise Refusal("too_small", field=what, label=f"The number of {what} looked at", value=number, limit=least)
    aside: list[Opener] = []
    rest, df = _against_each_other(cells, strips, openers)
    while len(rest) > LEAST_OPENERS:
        first = min(rest, key=lambda item: item.p_luck)
        if first.p_luck >= alpha:
            break
        aside.append(first)
        left = [opener for opener in openers if opener not in {item.opener for item in aside}]
        try:
            rest, _ = _against_each_other(cells, strips, left)
        except Refusal:  # the others do not scatter at all
            rest = [item for item in rest if item.opener != first.opener]
            break
    return OpenersLook(alpha=alpha, df=df, openers=tuple(sorted([*aside, *rest], key=lambda item: item.opener)))


def _against_each_other(
    cells: Mapping[tuple[str, int], Sequence[float]], strips: Sequence[str], openers: Sequence[int]
) -> tuple[list[Opener], int]:
    """Every opener of these against the mean of the others, and the degrees of freedom of the error."""
    rows = [row for row in cells if row[1] in openers]
    y = np.array([np.mean(cells[row]) for row in rows])
    x = np.array(
        [[float(strip == name) for name in strips] + [float(opener == number) for number in openers] for strip, opener in rows]
    )
    inverse = np.linalg.pinv(x.T @ x, hermitian=True)
    beta = inverse @ x.T @ y
    df = len(rows) - int(np.linalg.matrix_rank(x))
    residual = float(np.sum((y - x @ beta) ** 2))
    if df < 1 or residual <= ROUNDING * max(float(np.sum(y**2)), 1.0):
        raise Refusal("not_estimable", field="value", value="the scatter between rows of the machine")
    found = []
    for place, number in enumerate(openers):
        contrast = np.zeros(x.shape[1])
        contrast[len(strips) :] = -1.0 / (len(openers) - 1)
        contrast[len(strips) + place] = 1.0
        off = float(contrast @ beta)
        se = float(np.sqrt(contrast @ inverse @ contrast * residual / df))
        found.append((number, off, se, float(2 * scipy.stats.t.sf(abs(off / se), df))))
    lucks = holm(np.array([p for *_, p in found]))
    told = [
        Opener(
            opener=number,
            strips=sum(1 for _, opener in rows if opener == number),
            mean=float(np.mean([y[at] for at, (_, opener) in enumerate(rows) if opener == number])),
            off=off,
            se=se,
            p_luck=float(luck),
        )
        for (number, off, se, _), luck in zip(found, lucks, strict=True)
    ]
    return told, df
