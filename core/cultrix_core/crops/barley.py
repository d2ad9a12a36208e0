"""Spring barley."""

from __future__ import annotations

from cultrix_core.crops.grain import CEREAL_HEADS
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
from cultrix_core.crops.stages import TILLER
from cultrix_core.crops.visits import emergence_counts, lodging, yield_sample

CROP = CropProfile(
    key="barley",
    name="Barley",
    units=TradeUnits(us_yield="bu/ac", us_price="money/bu", canada_yield="bu/ac", canada_price="money/bu"),
    bushel_lb=48,
    standard_moisture_pct=13.5,
    usual_moisture_pct=(8, 25),
    believable_yield_kg_per_ha=11_000,
    usual_price_per_t=(100, 400),
    usual_stand_per_m2=(80, 450),
    planning_cv_pct=8.0,
    usual_effect_pct={**USUAL_EFFECT_PCT, "seeding_rate": 3.0},
    days_to_harvest=90,
    heat=HeatProfile(base_c=0, upper_c=None, way="mean_first"),
    visits=(*emergence_counts(110, 12, 190, 22), yield_sample(1200, 75), lodging(1400, 85)),
    stages=TILLER,
    sowing=SowingProfile(
        usual_seed_weight_g=(32, 65),
        window_m=(0.025, 0.05),
        deepest_m=0.075,
        sand_deeper_m=0.01,
        least_soil_c=4,
        least_ph=5.8,
    ),
    stand_curve=practised_curve(0.84, 0.06, 0.9),
    stand_lines=Absent(reason="No line that the trade agrees on; the farm sets its own."),
    estimate=EstimateDefaults(
        methods=("heads", "forage", "residue"),
        grain_g=(35, 45, 54),
        usual={"heads": CEREAL_HEADS},
    ),
    sources=sourced(bushel_lb=CUSTOMARY, standard_moisture_pct=MEMORY),
)
