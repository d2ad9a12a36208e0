"""What each crop asks of its seed and its bed: ranges that raise questions, windows that advise.

Small-seed values: depth ¼–½ in, somewhat deeper in sand; a boot sinks no more than ¼ in; soil pH 6.8 for lucerne;
4–5 seeds a square foot left visible on top; brassica oilseeds at 1–1¼ in. All common practice, no source. Windows
of the other crops, least soil temperatures, seed weights and how deep a crop still pushes through: common practice,
no source. Every value is a default that advises; none refuses.
"""

from __future__ import annotations

from dataclasses import dataclass

from cultrix_core.errors import Refusal
from cultrix_core.units import FT_M, IN_M

Range = tuple[float, float]

SMALL_SEED_WINDOW_M: Range = (0.25 * IN_M, 0.5 * IN_M)
SMALL_SEED_BOOT_M = 0.25 * IN_M
SEEDS_LEFT_ON_TOP_PER_M2: Range = (4 / FT_M**2, 5 / FT_M**2)
BRASSICA_WINDOW_M: Range = (1.0 * IN_M, 1.25 * IN_M)


@dataclass(frozen=True, slots=True, kw_only=True)
class SowingProfile:
    """Defaults for sowing one crop.

    ``window_m``: usual depths; ``deepest_m``: what the crop still pushes through in warm soil; ``sand_deeper_m``:
    how much deeper sand allows. ``boot_sink_m`` is set for small seeds only, whose bed must be firm.
    """

    usual_seed_weight_g: Range
    window_m: Range
    deepest_m: float
    sand_deeper_m: float
    least_soil_c: float
    least_ph: float
    boot_sink_m: float | None = None
    hard_seed_counts: bool = False

    @property
    def small_seeded(self) -> bool:
        """Whether the rules for small seeds hold: firm bed, very shallow, a few seeds left on top."""
        return self.boot_sink_m is not None


def _profile(
    weight: Range, window_cm: Range, deepest_cm: float, least_soil_c: float, *, least_ph: float = 5.8, sand_cm: float = 1.0
) -> SowingProfile:
    return SowingProfile(
        usual_seed_weight_g=weight,
        window_m=(window_cm[0] / 100, window_cm[1] / 100),
        deepest_m=deepest_cm / 100,
        sand_deeper_m=sand_cm / 100,
        least_soil_c=least_soil_c,
        least_ph=least_ph,
    )


_PROFILES: dict[str, SowingProfile] = {
    "winter_wheat": _profile((28, 60), (2.5, 5.0), 7.5, 4),
    "barley": _profile((32, 65), (2.5, 5.0), 7.5, 4),
    "oats": _profile((25, 50), (2.5, 5.0), 7.5, 4),
    "maize": _profile((180, 420), (4.0, 6.0), 8.0, 10),
    "sorghum": _profile((18, 42), (2.5, 4.0), 5.0, 15),
    "sunflower": _profile((35, 95), (3.5, 5.5), 7.5, 8),
    "field_pea": _profile((120, 350), (4.0, 6.5), 8.0, 4),
    "soybean": _profile((110, 260), (2.5, 4.0), 5.0, 10),
    "oilseed_rape": SowingProfile(
        usual_seed_weight_g=(3.0, 7.5),
        window_m=BRASSICA_WINDOW_M,
        deepest_m=2 * IN_M,
        sand_deeper_m=0.25 * IN_M,
        least_soil_c=5,
        least_ph=5.8,
    ),
    "lucerne": SowingProfile(
        usual_seed_weight_g=(1.7, 2.8),
        window_m=SMALL_SEED_WINDOW_M,
        deepest_m=0.75 * IN_M,
        sand_deeper_m=0.25 * IN_M,
        least_soil_c=5,
        least_ph=6.8,
        boot_sink_m=SMALL_SEED_BOOT_M,
        hard_seed_counts=True,
    ),
}


def sowing_profile(crop: str) -> SowingProfile | None:
    """The sowing profile of a crop; None where we have none and nothing is judged."""
    return _PROFILES.get(crop)


def needed_profile(crop: str) -> SowingProfile:
    """The sowing profile of a crop; refuses ``unknown_choice`` where there is none."""
    profile = sowing_profile(crop)
    if profile is None:
        raise Refusal("unknown_choice", field="crop", label="Crop", value=crop, limit=", ".join(_PROFILES))
    return profile
