"""A scale under a wagon and a moisture meter, as they speak: lines of text, read by the parsers that real ones go through.

Scale: one line every ``interval_s``: ``t=12.5 weight=1234.5 unit=kg motion=0``. While grain runs in the weight climbs and
``motion`` is 1; then it settles with a swing that dies away, wanders by its drift, and stands to its division. Meter: one
line a measurement, ``moisture=14.2 unit=pct``, each with a repeat error of its own.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import exp

import numpy as np

from cultrix_core.errors import require_between, require_positive

SETTLE_S = 1.5
SWING = 0.004  # of the load, as it stops
PERIOD_S = 0.9


@dataclass(frozen=True, slots=True, kw_only=True)
class Scale:
    """``division_kg``: what it stands to; ``drift_kg_per_min``: how it wanders; ``noise_kg``: of a reading at rest."""

    division_kg: float = 5.0
    drift_kg_per_min: float = 0.5
    noise_kg: float = 1.0
    interval_s: float = 0.5


def weigh(load_kg: float, scale: Scale, *, seed: int, filling_s: float = 20.0, standing_s: float = 12.0) -> str:
    """What the scale says while a load runs in and stands."""
    require_positive(load_kg, "load", label="Load", unit=" kg")
    require_positive(scale.division_kg, "division")
    require_between(filling_s + standing_s, 1, 3_600, "seconds")
    rng = np.random.default_rng(seed)
    lines = []
    for number in range(int((filling_s + standing_s) / scale.interval_s) + 1):
        time = number * scale.interval_s
        after = time - filling_s
        swing = SWING * load_kg * exp(-max(after, 0.0) / SETTLE_S) * np.cos(2 * np.pi * after / PERIOD_S) if after > 0 else 0.0
        true = load_kg * min(time / filling_s, 1.0) if filling_s else load_kg
        read = true + swing + scale.drift_kg_per_min * time / 60 + scale.noise_kg * rng.standard_normal()
        shown = round(read / scale.division_kg) * scale.division_kg
        moving = after <= 0 or abs(swing) > scale.division_kg
        lines.append(f"t={time:.1f} weight={shown:.1f} unit=kg motion={int(moving)}")
    return "\n".join(lines) + "\n"


def measure_moisture(true_pct: float, *, seed: int, repeats: int = 3, repeat_sd: float = 0.25, bias: float = 0.0) -> str:
    """What a moisture meter says of one sample measured several times."""
    require_between(true_pct, 1, 60, "moisture", label="Moisture", unit=" %")
    require_between(repeats, 1, 50, "repeats", label="Repeats")
    rng = np.random.default_rng(seed)
    values = true_pct + bias + repeat_sd * rng.standard_normal(repeats)
    return "".join(f"moisture={value:.1f} unit=pct\n" for value in values)
