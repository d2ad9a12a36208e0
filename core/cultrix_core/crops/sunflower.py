"""Sunflower."""

from __future__ import annotations

from cultrix_core.crops.profile import (
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
from cultrix_core.crops.stages import PAIR
from cultrix_core.crops.visits import emergence_counts, flowering, lodging, tape, yield_sample

CROP = CropProfile(
    key="sunflower",
    name="Sunflower",
    units=TradeUnits(
        us_yield="lb/ac",
        us_price="money/cwt",
        canada_yield="lb/ac",
        canada_price="money/lb",
        us_stand="/ac",
        canada_stand="/ac",
        metric_stand="k/ha",
    ),
    bushel_lb=None,
    standard_moisture_pct=10.0,
    usual_moisture_pct=(5, 22),
    believable_yield_kg_per_ha=6_000,
    usual_price_per_t=(250, 900),
    usual_stand_per_m2=(2, 10),
    planning_cv_pct=10.0,
    days_to_harvest=100,
    heat=HeatProfile(base_c=7, upper_c=None, way="mean_first"),
    visits=(*emergence_counts(90, 12, 170, 24), tape(190, 27), flowering(850, 72), yield_sample(1300, 100), lodging(1500, 115)),
    stages=PAIR,
    sowing=SowingProfile(
        usual_seed_weight_g=(35, 95),
        window_m=(0.035, 0.055),
        deepest_m=0.075,
        sand_deeper_m=0.01,
        least_soil_c=8,
        least_ph=5.8,
    ),
    stand_curve=practised_curve(0.82, 0.06, 0.8),
    stand_lines=Absent(reason="No line that the trade agrees on; the farm sets its own."),
    estimate=EstimateDefaults(
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
    sources=sourced(standard_moisture_pct=MEMORY),
)
