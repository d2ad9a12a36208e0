"""What a crop brings to an estimate: methods, the range of grain weight, what is usually found. Defaults, never limits.

All values here are common practice, no source; a workspace sets its own. Thousand-seed weights are at standard moisture.
The maize range is the ear method's factor 0.009 – 0.011 – 0.013 in a bushel of 56 lb.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from cultrix_core.crops import crop
from cultrix_core.estimate.grain_weight import factor_to_thousand_weight_g
from cultrix_core.units import LB_KG

FACTORS = (0.009, 0.011, 0.013)
_MAIZE = tuple(round(factor_to_thousand_weight_g(factor, bushel_kg=56 * LB_KG), 1) for factor in FACTORS)
_CEREAL = ("heads", "forage", "residue")


@dataclass(frozen=True, slots=True, kw_only=True)
class EstimateDefaults:
    """``grain_g``: stressed, usual, excellent thousand-seed weight; None where nothing is counted in seeds.

    ``usual``: by method and entry, what is usually found, in canonical units; ``number_per_m2`` is what is counted.
    """

    methods: tuple[str, ...]
    grain_g: tuple[float, float, float] | None
    usual: Mapping[str, Mapping[str, tuple[float, float]]]


_CEREAL_HEADS = {"groups": (6.0, 26.0), "seeds_each": (0.8, 4.5), "number_per_m2": (120.0, 900.0), "seeds": (8.0, 80.0)}
_PULSE = {"pods": (2.0, 40.0), "seeds_per_pod": (1.5, 9.0), "number_per_m2": (8.0, 160.0)}

DEFAULTS: dict[str, EstimateDefaults] = {
    "winter_wheat": EstimateDefaults(methods=_CEREAL, grain_g=(32, 41, 50), usual={"heads": _CEREAL_HEADS}),
    "barley": EstimateDefaults(methods=_CEREAL, grain_g=(35, 45, 54), usual={"heads": _CEREAL_HEADS}),
    "oats": EstimateDefaults(
        methods=_CEREAL,
        grain_g=(27, 34, 41),
        usual={"heads": {"groups": (8, 80), "seeds_each": (0.8, 3), "number_per_m2": (120, 700), "seeds": (10, 120)}},
    ),
    "maize": EstimateDefaults(
        methods=("ears", "forage", "residue"),
        grain_g=(_MAIZE[0], _MAIZE[1], _MAIZE[2]),
        usual={"ears": {"kernel_rows": (10, 22), "kernels_per_row": (10, 50), "number_per_m2": (2.5, 12)}},
    ),
    "sorghum": EstimateDefaults(
        methods=("heads", "forage", "residue"),
        grain_g=(20, 27, 34),
        usual={"heads": {"groups": (25, 90), "seeds_each": (8, 60), "number_per_m2": (4, 40), "seeds": (400, 4000)}},
    ),
    "sunflower": EstimateDefaults(
        methods=("discs", "residue"),
        grain_g=(38, 52, 66),
        usual={
            "discs": {
                "diameter": (0.08, 0.32),
                "empty_centre": (0.0, 0.10),
                "filled_per_cm2": (2, 11),
                "number_per_m2": (2, 9),
            }
        },
    ),
    "field_pea": EstimateDefaults(methods=("pulses", "forage", "residue"), grain_g=(180, 230, 280), usual={"pulses": _PULSE}),
    "soybean": EstimateDefaults(
        methods=("pods", "pulses", "residue"),
        grain_g=(130, 165, 195),
        usual={
            "pods": {"pods": (8, 120), "number_per_m2": (8, 70), "seeds_per_pod": (2.2, 2.8)},
            "pulses": {"pods": (8, 120), "seeds_per_pod": (2.2, 2.8), "number_per_m2": (8, 70)},
        },
    ),
    "dry_bean": EstimateDefaults(
        methods=("pulses", "pods"),
        grain_g=(180, 300, 420),
        usual={"pulses": _PULSE, "pods": {"pods": (3, 60), "number_per_m2": (8, 60), "seeds_per_pod": (2, 7)}},
    ),
    "oilseed_rape": EstimateDefaults(
        methods=("pulses",),
        grain_g=(3.5, 4.6, 5.8),
        usual={"pulses": {"pods": (30, 500), "seeds_per_pod": (8, 30), "number_per_m2": (8, 90)}},
    ),
    "lucerne": EstimateDefaults(methods=("forage", "residue"), grain_g=None, usual={}),
    "garlic": EstimateDefaults(methods=("counted",), grain_g=None, usual={"counted": {"number_per_m2": (8, 60)}}),
}
_OTHER = EstimateDefaults(
    methods=("counted", "forage", "heads", "pulses", "pods", "ears", "discs", "residue"), grain_g=(30, 60, 90), usual={}
)


def estimate_defaults(key: str) -> EstimateDefaults:
    """Defaults of a crop; refuses one not known."""
    return DEFAULTS.get(crop(key).key, _OTHER)
