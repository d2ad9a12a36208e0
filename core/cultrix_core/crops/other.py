"""A crop that the catalogue does not have: nothing is judged that differs from crop to crop."""

from __future__ import annotations

from cultrix_core.crops.profile import (
    Absent,
    CropProfile,
    EstimateDefaults,
    HeatProfile,
    TradeUnits,
    sourced,
)
from cultrix_core.crops.visits import emergence_counts

CROP = CropProfile(
    key="other",
    name="Other crop",
    units=TradeUnits(us_yield="lb/ac", us_price="money/cwt", canada_yield="lb/ac", canada_price="money/lb"),
    bushel_lb=None,
    standard_moisture_pct=None,
    usual_moisture_pct=(0, 60),
    believable_yield_kg_per_ha=40_000,
    usual_price_per_t=(10, 20_000),
    usual_stand_per_m2=(0.5, 1000),
    planning_cv_pct=12.0,
    days_to_harvest=80,
    heat=HeatProfile(base_c=5, upper_c=None, way="mean_first"),
    visits=emergence_counts(100, 12, 190, 24),
    stages=Absent(reason="What counts as a leaf differs from crop to crop."),
    sowing=Absent(reason="Depth, soil and seed weight differ from crop to crop; nothing is judged."),
    stand_curve=Absent(reason="How yield follows the stand differs from crop to crop."),
    stand_lines=Absent(reason="No line that the trade agrees on; the farm sets its own."),
    estimate=EstimateDefaults(
        methods=("counted", "forage", "heads", "pulses", "pods", "ears", "discs", "residue"),
        grain_g=(30, 60, 90),
        usual={},
    ),
    sources=sourced(),
)
