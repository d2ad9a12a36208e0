"""How a gain in money fell out from block to block and from year to year.

In each block (of each year) the gain is the mean net return of the treatment's strips less that of the control's. The list of
them is what a grower would have met, had he tried it there once. Blocks of one field share a season: five of them are not
five years, so a share of years is only given over years.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from cultrix_core.errors import Refusal, require_finite


@dataclass(frozen=True, slots=True, kw_only=True)
class StripReturn:
    """Net return of a strip, money per hectare, in its block and year."""

    treatment: str
    block: str
    year: str
    net_per_ha: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Gain:
    """The gain in one block of one year."""

    year: str
    block: str
    gain_per_ha: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Risk:
    """Gains in the order of years and blocks; ``by_year``: mean gain of each year; the rest over the blocks."""

    gains: tuple[Gain, ...]
    by_year: tuple[tuple[str, float], ...]
    losing: int
    worst: float
    lower_quartile: float
    median: float
    upper_quartile: float
    best: float


def risk(rows: Sequence[StripReturn], *, treatment: str, control: str) -> Risk:
    """Gains of a treatment over the control wherever both stood.

    Raises
    ------
    Refusal : ``no_response`` where no block has both, ``not_finite``.
    """
    for row in rows:
        require_finite(row.net_per_ha, "net_return", label="Net return")
    gains = []
    for year, block in dict.fromkeys((row.year, row.block) for row in rows):
        here = [row for row in rows if (row.year, row.block) == (year, block)]
        own = [row.net_per_ha for row in here if row.treatment == treatment]
        base = [row.net_per_ha for row in here if row.treatment == control]
        if own and base:
            gains.append(Gain(year=year, block=block, gain_per_ha=float(np.mean(own) - np.mean(base))))
    if not gains:
        raise Refusal("no_response", field="net_return")
    values = np.array([gain.gain_per_ha for gain in gains])
    years = dict.fromkeys(gain.year for gain in gains)
    return Risk(
        gains=tuple(gains),
        by_year=tuple((year, float(np.mean([gain.gain_per_ha for gain in gains if gain.year == year]))) for year in years),
        losing=int((values < 0).sum()),
        worst=float(values.min()),
        lower_quartile=float(np.quantile(values, 0.25)),
        median=float(np.median(values)),
        upper_quartile=float(np.quantile(values, 0.75)),
        best=float(values.max()),
    )
