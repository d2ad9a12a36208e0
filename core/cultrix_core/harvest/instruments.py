"""What a scale or a moisture meter says, line by line, as a weight or a moisture that may be recorded.

Lines are pairs ``name=value`` apart by spaces, in any order: ``t`` (s), ``weight`` with ``unit`` kg or lb, ``motion`` 0 or 1;
``moisture`` with ``unit`` pct. A weight counts once the scale has stood still for ``STILL_S`` within one division: the
median of that stretch is taken. Lines that say something else are counted, not guessed at.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import isfinite, sqrt
from statistics import mean, median, stdev

from cultrix_core.errors import Refusal
from cultrix_core.units import LB_KG

STILL_S = 3.0
MOST_LINES = 20_000
TO_KG = {"kg": 1.0, "lb": LB_KG, "t": 1000.0}


@dataclass(frozen=True, slots=True, kw_only=True)
class Weighed:
    """A weight at rest in kg, seconds it stood, spread in kg over them, and lines that could not be read."""

    weight_kg: float
    still_s: float
    spread_kg: float
    unreadable: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Moisture:
    """Mean of repeats in percent with its standard error, None with one, and lines that could not be read."""

    moisture_pct: float
    se_pct: float | None
    repeats: int
    unreadable: int


def _pairs(line: str) -> dict[str, str]:
    return dict(part.split("=", 1) for part in line.split() if part.count("=") == 1)


def _lines(text: str) -> list[str]:
    lines = [line for line in text.splitlines() if line.strip()]
    if not lines:
        raise Refusal("missing", field="lines", label="The reading", remedy="Nothing came from the instrument.")
    if len(lines) > MOST_LINES:
        raise Refusal("too_large", field="lines", label="Lines", value=len(lines), limit=MOST_LINES)
    return lines


def read_scale(text: str) -> Weighed:
    """The last weight that stood still.

    Raises
    ------
    Refusal : ``missing`` when nothing came or the scale never stood still, ``unknown_unit``, ``too_large``.
    """
    rows, unreadable = [], 0
    for line in _lines(text):
        pairs = _pairs(line)
        try:
            unit = pairs["unit"]
            row = (float(pairs["t"]), float(pairs["weight"]), pairs["motion"] == "0")
        except (KeyError, ValueError):
            unreadable += 1
            continue
        if unit not in TO_KG:
            raise Refusal("unknown_unit", field="unit", label="Weight", value=unit, limit=", ".join(TO_KG))
        if not (isfinite(row[0]) and isfinite(row[1])):
            unreadable += 1
            continue
        rows.append((row[0], row[1] * TO_KG[unit], row[2]))
    still: list[tuple[float, float]] = []
    best: list[tuple[float, float]] = []
    for time, weight, at_rest in rows:
        still = [*still, (time, weight)] if at_rest else []
        if still and still[-1][0] - still[0][0] >= STILL_S:
            best = still
    if not best:
        raise Refusal(
            "missing",
            field="lines",
            label="A weight at rest",
            remedy=f"Wait until the scale has stood {STILL_S:g} s without motion.",
        )
    tail = [weight for time, weight in best if time >= best[-1][0] - STILL_S]
    return Weighed(
        weight_kg=median(tail),
        still_s=best[-1][0] - best[0][0],
        spread_kg=max(tail) - min(tail),
        unreadable=unreadable,
    )


def read_moisture(text: str) -> Moisture:
    """Mean of the repeats of one sample.

    Raises
    ------
    Refusal : ``missing`` without a readable line, ``too_large``.
    """
    values, unreadable = [], 0
    for line in _lines(text):
        pairs = _pairs(line)
        try:
            value = float(pairs["moisture"])
        except (KeyError, ValueError):
            unreadable += 1
            continue
        if pairs.get("unit") != "pct" or not 0 <= value <= 100:
            unreadable += 1
            continue
        values.append(value)
    if not values:
        raise Refusal("missing", field="lines", label="A moisture", remedy="No line said one in percent.")
    return Moisture(
        moisture_pct=mean(values),
        se_pct=stdev(values) / sqrt(len(values)) if len(values) > 1 else None,
        repeats=len(values),
        unreadable=unreadable,
    )
