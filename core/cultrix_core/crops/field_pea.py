"""Field pea, harvested dry."""

from __future__ import annotations

from cultrix_core.crops.grain import PULSE_PODS
from cultrix_core.crops.profile import (
    CUSTOMARY,
    MEMORY,
    Absent,
    CropProfile,
    EstimateDefaults,
    HeatProfile,
    SowingProfile,
    TradeUnits,
    practised_curve,
    sourced,
)
from cultrix_core.crops.stages import COMPOUND
from cultrix_core.crops.visits import emergence_counts, flowering, lodging, yield_sample

CROP = CropProfile(
    key="field_pea",
    name="Field pea",
    units=TradeUnits(us_yield="bu/ac", us_price="money/bu", canada_yield="bu/ac", canada_price="money/bu"),
    bushel_lb=60,
    standard_moisture_pct=16.0,
    usual_moisture_pct=(8, 25),
    believable_yield_kg_per_ha=7_500,
    usual_price_per_t=(150, 700),
    usual_stand_per_m2=(40, 140),
    planning_cv_pct=8.0,
    days_to_harvest=85,
    heat=HeatProfile(base_c=3, upper_c=None, way="mean_first"),
    visits=(*emergence_counts(100, 12, 180, 22), flowering(600, 55), yield_sample(900, 70), lodging(1100, 80)),
    stages=COMPOUND,
    sowing=SowingProfile(
        usual_seed_weight_g=(120, 350),
        window_m=(0.04, 0.065),
        deepest_m=0.08,
        sand_deeper_m=0.01,
        least_soil_c=4,
        least_ph=5.8,
    ),
    stand_curve=practised_curve(0.80, 0.06, 1.0),
    stand_lines=Absent(reason="No line that the trade agrees on; the farm sets its own."),
    estimate=EstimateDefaults(
        methods=("pulses", "forage", "residue"),
        grain_g=(180, 230, 280),
        usual={"pulses": PULSE_PODS},
    ),
    sources=sourced(bushel_lb=CUSTOMARY, standard_moisture_pct=MEMORY),
)
