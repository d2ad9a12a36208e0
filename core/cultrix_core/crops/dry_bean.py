"""Dry bean of all types.

A warm-season pulse: heat units as for soybean, base 10 °C and upper limit 30 °C. Seed leaves come above the ground, so
a crust costs more than depth does; counts come by heat as in soybean.
Wanted stands: 70 000 to the acre for large-seeded types, 90 000 for small-seeded ones, above 115 000 in narrow rows. All
common practice, no source; sold at a moisture that the buyer names, so none is standard.
"""

from __future__ import annotations

from cultrix_core.crops.grain import PULSE_PODS
from cultrix_core.crops.profile import (
    CUSTOMARY,
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
    key="dry_bean",
    name="Dry bean",
    units=TradeUnits(
        us_yield="cwt/ac",
        us_price="money/cwt",
        canada_yield="lb/ac",
        canada_price="money/lb",
        us_stand="/ac",
        canada_stand="/ac",
    ),
    bushel_lb=60,
    standard_moisture_pct=None,
    usual_moisture_pct=(10, 25),
    believable_yield_kg_per_ha=5_000,
    usual_price_per_t=(400, 2_500),
    usual_stand_per_m2=(12, 40),
    planning_cv_pct=8.0,
    days_to_harvest=85,
    heat=HeatProfile(base_c=10, upper_c=30, way="limits_first"),
    visits=(*emergence_counts(70, 9, 130, 18), canopy(480, 42), yield_sample(950, 72)),
    stages=COMPOUND,
    sowing=SowingProfile(
        usual_seed_weight_g=(180, 600),
        window_m=(0.04, 0.06),
        deepest_m=0.075,
        sand_deeper_m=0.01,
        least_soil_c=15,
        least_ph=6.0,
    ),
    stand_curve=practised_curve(0.80, 0.06, 0.7),
    stand_lines=(
        StandLine(key="wanted_low", label="Wanted, large-seeded types", per_m2=70_000 / ACRE_M2),
        StandLine(key="wanted_high", label="Wanted, small-seeded types", per_m2=90_000 / ACRE_M2),
        StandLine(key="wanted_narrow", label="Wanted in narrow rows, more than", per_m2=115_000 / ACRE_M2),
    ),
    estimate=EstimateDefaults(
        methods=("pulses", "pods"),
        grain_g=(180, 300, 420),
        usual={
            "pulses": PULSE_PODS,
            "pods": {"pods": (3, 60), "number_per_m2": (8, 60), "seeds_per_pod": (2, 7)},
        },
    ),
    sources=sourced(bushel_lb=CUSTOMARY),
)
