"""What each crop asks of its seed and its bed: ranges that raise questions, windows that advise.

Small-seed values: depth ¼–½ in, somewhat deeper in sand; a boot sinks no more than ¼ in; soil pH 6.8 for lucerne;
4–5 seeds a square foot left visible on top; brassica oilseeds at 1–1¼ in. All common practice, no source. Windows
of the other crops, least soil temperatures, seed weights and how deep a crop still pushes through: common practice,
no source. Every value is a default that advises; none refuses.
"""

from __future__ import annotations

from cultrix_core.crops import PROFILES
from cultrix_core.crops import crop as profile_of
from cultrix_core.crops.profile import Absent, SowingProfile
from cultrix_core.errors import Refusal
from cultrix_core.units import FT_M

Range = tuple[float, float]

SEEDS_LEFT_ON_TOP_PER_M2: Range = (4 / FT_M**2, 5 / FT_M**2)


def sowing_profile(crop: str) -> SowingProfile | None:
    """The sowing profile of a crop; None where it has none and nothing is judged."""
    sowing = profile_of(crop).sowing
    return None if isinstance(sowing, Absent) else sowing


def needed_profile(crop: str) -> SowingProfile:
    """The sowing profile of a crop; refuses ``unknown_choice`` where there is none."""
    profile = sowing_profile(crop)
    if profile is None:
        raise Refusal(
            "unknown_choice",
            field="crop",
            label="Crop",
            value=crop,
            limit=", ".join(item.key for item in PROFILES if not isinstance(item.sowing, Absent)),
        )
    return profile
