"""Soybean."""

from __future__ import annotations

from cultrix_core.crops.profile import (
    CUSTOMARY,
    MEMORY,
    USUAL_EFFECT_PCT,
    CropProfile,
    EstimateDefaults,
    HeatProfile,
    SowingProfile,
    StandLine,
    TradeUnits,
    practised_curve,
    sourced,
)
from cultrix_core.crops.stages import COMPOUND
from cultrix_core.crops.visits import canopy, emergence_counts, yield_sample
from cultrix_core.units import ACRE_M2

CROP = CropProfile(
    key="soybean",
    name="Soybean",
    units=TradeUnits(
        us_yield="bu/ac",
        us_price="money/bu",
        canada_yield="bu/ac",
        canada_price="money/bu",
        us_stand="/ac",
        canada_stand="/ac",
    ),
    bushel_lb=60,
    standard_moisture_pct=13.0,
    usual_moisture_pct=(7, 22),
    believable_yield_kg_per_ha=7_500,
    usual_price_per_t=(250, 800),
    usual_stand_per_m2=(10, 60),
    planning_cv_pct=8.0,
    usual_effect_pct={**USUAL_EFFECT_PCT, "row_spacing": 5.0, "seeding_rate": 3.0},
    days_to_harvest=100,
    heat=HeatProfile(base_c=10, upper_c=30, way="limits_first"),
    visits=(*emergence_counts(70, 9, 130, 18), canopy(500, 45), yield_sample(1150, 90)),
    stages=COMPOUND,
    sowing=SowingProfile(
        usual_seed_weight_g=(110, 260),
        window_m=(0.025, 0.04),
        deepest_m=0.05,
        sand_deeper_m=0.01,
        least_soil_c=10,
        least_ph=5.8,
    ),
    stand_curve=practised_curve(0.88, 0.05, 0.5),
    stand_lines=(StandLine(key="thin", label="Keep or replant line, middle of spring", per_m2=90_000 / ACRE_M2),),
    estimate=EstimateDefaults(
        methods=("pods", "pulses", "residue"),
        grain_g=(130, 165, 195),
        usual={
            "pods": {"pods": (8, 120), "number_per_m2": (8, 70), "seeds_per_pod": (2.2, 2.8)},
            "pulses": {"pods": (8, 120), "seeds_per_pod": (2.2, 2.8), "number_per_m2": (8, 70)},
        },
    ),
    sources=sourced(bushel_lb=CUSTOMARY, standard_moisture_pct=MEMORY),
)
