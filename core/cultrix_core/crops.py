"""Crop profiles: the defaults a crop brings to a trial. Every value is a default, never a limit.

Legal test weights (lb/bu) and base moistures are from memory of United States customary values and are
editable per farm. Believable yields and stands only raise questions; they are common practice, no source.
Planning CV: common practice, no source; replaced by the farm's own. Days from sowing to the earliest
harvest only decide when a reminder appears: common practice, no source. Forage is reckoned as dry matter (0 %).
"""

from __future__ import annotations

from dataclasses import dataclass

from cultrix_core.errors import Refusal
from cultrix_core.units import LB_KG


@dataclass(frozen=True, slots=True, kw_only=True)
class CropProfile:
    """Defaults of one crop. ``bushel_lb`` is None where the trade does not count bushels."""

    key: str
    name: str
    bushel_lb: float | None
    standard_moisture_pct: float | None
    usual_moisture_pct: tuple[float, float]
    believable_yield_kg_per_ha: float
    usual_stand_per_m2: tuple[float, float]
    planning_cv_pct: float
    days_to_harvest: int
    sparse_stand: bool = False

    @property
    def bushel_kg(self) -> float | None:
        """Weight of a bushel in kg."""
        return None if self.bushel_lb is None else self.bushel_lb * LB_KG


def _crop(
    key: str,
    name: str,
    bushel: float | None,
    moisture: float | None,
    usual: tuple[float, float],
    top: float,
    stand: tuple[float, float],
    cv: float = 8.0,
    *,
    days: int,
    sparse: bool = False,
) -> CropProfile:
    return CropProfile(
        key=key,
        name=name,
        bushel_lb=bushel,
        standard_moisture_pct=moisture,
        usual_moisture_pct=usual,
        believable_yield_kg_per_ha=top,
        usual_stand_per_m2=stand,
        planning_cv_pct=cv,
        days_to_harvest=days,
        sparse_stand=sparse,
    )


PROFILES: tuple[CropProfile, ...] = (
    _crop("winter_wheat", "Winter wheat", 60, 13.5, (8, 25), 13_000, (80, 500), days=240),
    _crop("maize", "Maize", 56, 15.5, (10, 35), 19_000, (3, 12), days=110, sparse=True),
    _crop("sorghum", "Grain sorghum", 56, 14.0, (8, 28), 13_000, (5, 40), 10.0, days=100, sparse=True),
    _crop("sunflower", "Sunflower", None, 10.0, (5, 22), 6_000, (2, 10), 10.0, days=100, sparse=True),
    _crop("field_pea", "Field pea", 60, 16.0, (8, 25), 7_500, (40, 140), days=85),
    _crop("soybean", "Soybean", 60, 13.0, (7, 22), 7_500, (10, 60), days=100),
    _crop("dry_bean", "Dry bean", 60, None, (10, 25), 5_000, (12, 40), days=85),
    _crop("barley", "Barley", 48, 13.5, (8, 25), 11_000, (80, 450), days=90),
    _crop("oats", "Oats", 32, 14.0, (8, 25), 10_000, (80, 450), days=95),
    _crop("oilseed_rape", "Oilseed rape", 50, 10.0, (5, 18), 6_500, (15, 120), days=270),
    _crop("lucerne", "Lucerne (alfalfa)", None, 0.0, (5, 85), 25_000, (40, 700), 12.0, days=75),
    _crop("garlic", "Garlic", None, None, (0, 90), 30_000, (8, 60), 12.0, days=250),
    _crop("other", "Other crop", None, None, (0, 60), 40_000, (0.5, 1_000), 12.0, days=80),
)
_BY_KEY = {profile.key: profile for profile in PROFILES}


def crop(key: str) -> CropProfile:
    """The profile named ``key``; refuses ``unknown_choice``."""
    if key not in _BY_KEY:
        raise Refusal("unknown_choice", field="crop", value=key, limit=", ".join(_BY_KEY))
    return _BY_KEY[key]
