"""Maize grown for grain."""

from __future__ import annotations

from cultrix_core.crops.grain import EAR_FACTOR_WEIGHTS_G
from cultrix_core.crops.profile import (
    CUSTOMARY,
    MEMORY,
    USUAL_EFFECT_PCT,
    Absent,
    CropProfile,
    EstimateDefaults,
    HeatProfile,
    SowingProfile,
    TradeUnits,
    practised_curve,
    sourced,
)
from cultrix_core.crops.stages import COLLAR
from cultrix_core.crops.visits import canopy, emergence_counts, lodging, tape, yield_sample

CROP = CropProfile(
    key="maize",
    name="Maize",
    units=TradeUnits(
        us_yield="bu/ac",
        us_price="money/bu",
        canada_yield="bu/ac",
        canada_price="money/bu",
        us_stand="/ac",
        canada_stand="/ac",
        metric_stand="k/ha",
    ),
    bushel_lb=56,
    standard_moisture_pct=15.5,
    usual_moisture_pct=(10, 35),
    believable_yield_kg_per_ha=19_000,
    usual_price_per_t=(100, 400),
    usual_stand_per_m2=(3, 12),
    planning_cv_pct=8.0,
    usual_effect_pct={**USUAL_EFFECT_PCT, "row_spacing": 3.0, "seeding_rate": 5.0},
    days_to_harvest=110,
    heat=HeatProfile(base_c=10, upper_c=30, way="limits_first"),
    visits=(*emergence_counts(70, 10, 130, 21), tape(150, 24), canopy(380, 45), yield_sample(1100, 108), lodging(1350, 130)),
    stages=COLLAR,
    sowing=SowingProfile(
        usual_seed_weight_g=(180, 420),
        window_m=(0.04, 0.06),
        deepest_m=0.08,
        sand_deeper_m=0.01,
        least_soil_c=10,
        least_ph=5.8,
    ),
    stand_curve=practised_curve(0.76, 0.05, 1.0),
    stand_lines=Absent(reason="No line that the trade agrees on; the farm sets its own."),
    estimate=EstimateDefaults(
        methods=("ears", "forage", "residue"),
        grain_g=EAR_FACTOR_WEIGHTS_G,
        usual={"ears": {"kernel_rows": (10, 22), "kernels_per_row": (10, 50), "number_per_m2": (2.5, 12)}},
    ),
    sources=sourced(bushel_lb=CUSTOMARY, standard_moisture_pct=MEMORY),
)
