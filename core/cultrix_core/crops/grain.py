"""What is usually found in samples of cereals and pulses, and the grain weights behind the ear method's factors."""

from __future__ import annotations

from cultrix_core.crops.profile import Range
from cultrix_core.units import LB_KG

CEREAL_HEADS: dict[str, Range] = {
    "groups": (6.0, 26.0),
    "seeds_each": (0.8, 4.5),
    "number_per_m2": (120.0, 900.0),
    "seeds": (8.0, 80.0),
}
# The ear method's factor (stressed, usual, excellent) in a bushel of 56 lb, and the same as grams per thousand kernels.
EAR_FACTORS = (0.009, 0.011, 0.013)
_STRESSED, _USUAL, _EXCELLENT = (round(56 * LB_KG * 1000 * factor, 1) for factor in EAR_FACTORS)
EAR_FACTOR_WEIGHTS_G = (_STRESSED, _USUAL, _EXCELLENT)
PULSE_PODS: dict[str, Range] = {"pods": (2.0, 40.0), "seeds_per_pod": (1.5, 9.0), "number_per_m2": (8.0, 160.0)}
