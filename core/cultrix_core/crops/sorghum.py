"""Grain sorghum."""

from __future__ import annotations

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
from cultrix_core.crops.stages import COLLAR
from cultrix_core.crops.visits import canopy, emergence_counts, flowering, tape, yield_sample

CROP = CropProfile(
    key="sorghum",
    name="Grain sorghum",
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
    standard_moisture_pct=14.0,
    usual_moisture_pct=(8, 28),
    believable_yield_kg_per_ha=13_000,
    usual_price_per_t=(100, 400),
    usual_stand_per_m2=(5, 40),
    planning_cv_pct=10.0,
    days_to_harvest=100,
    heat=HeatProfile(base_c=10, upper_c=38, way="limits_first"),
    visits=(*emergence_counts(75, 9, 140, 19), tape(160, 22), canopy(420, 42), flowering(850, 72), yield_sample(1200, 95)),
    stages=COLLAR,
    sowing=SowingProfile(
        usual_seed_weight_g=(18, 42),
        window_m=(0.025, 0.04),
        deepest_m=0.05,
        sand_deeper_m=0.01,
        least_soil_c=15,
        least_ph=5.8,
    ),
    stand_curve=practised_curve(0.84, 0.06, 0.7),
    stand_lines=Absent(reason="No line that the trade agrees on; the farm sets its own."),
    estimate=EstimateDefaults(
        methods=("heads", "forage", "residue"),
        grain_g=(20, 27, 34),
        usual={"heads": {"groups": (25, 90), "seeds_each": (8, 60), "number_per_m2": (4, 40), "seeds": (400, 4000)}},
    ),
    sources=sourced(bushel_lb=CUSTOMARY, standard_moisture_pct=MEMORY),
)
