"""Oilseed rape and other brassica oilseeds.

Depth 1 to 1¼ in; wanted 5 to 7 plants per square foot, 3 loses about a fifth of the yield, 11 is too dense. Common
practice, no source.
"""

from __future__ import annotations

from cultrix_core.crops.profile import (
    CUSTOMARY,
    MEMORY,
    CropProfile,
    EstimateDefaults,
    HeatProfile,
    SowingProfile,
    StandLine,
    TradeUnits,
    practised_curve,
    sourced,
)
from cultrix_core.crops.stages import ROSETTE
from cultrix_core.crops.visits import AFTER_WINTER, emergence_counts, yield_sample
from cultrix_core.units import FT_M, IN_M

FT2 = FT_M**2
WINDOW_M = (1.0 * IN_M, 1.25 * IN_M)
CROP = CropProfile(
    key="oilseed_rape",
    name="Oilseed rape",
    units=TradeUnits(us_yield="bu/ac", us_price="money/bu", canada_yield="bu/ac", canada_price="money/bu"),
    bushel_lb=50,
    standard_moisture_pct=10.0,
    usual_moisture_pct=(5, 18),
    believable_yield_kg_per_ha=6_500,
    usual_price_per_t=(300, 900),
    usual_stand_per_m2=(15, 120),
    planning_cv_pct=8.0,
    days_to_harvest=270,
    heat=HeatProfile(base_c=0, upper_c=None, way="mean_first"),
    visits=(*emergence_counts(100, 10, 190, 22), AFTER_WINTER, yield_sample(None, 250)),
    stages=ROSETTE,
    sowing=SowingProfile(
        usual_seed_weight_g=(3.0, 7.5),
        window_m=WINDOW_M,
        deepest_m=2 * IN_M,
        sand_deeper_m=0.25 * IN_M,
        least_soil_c=5,
        least_ph=5.8,
    ),
    stand_curve=practised_curve(0.80, 0.06, 1.0),
    stand_lines=(
        StandLine(key="wanted_low", label="Wanted, from", per_m2=5 / FT2),
        StandLine(key="wanted_high", label="Wanted, to", per_m2=7 / FT2),
        StandLine(key="thin", label="Thin: about 20 % of the yield is lost", per_m2=3 / FT2),
        StandLine(key="dense", label="Too dense", per_m2=11 / FT2),
    ),
    estimate=EstimateDefaults(
        methods=("pulses",),
        grain_g=(3.5, 4.6, 5.8),
        usual={"pulses": {"pods": (30, 500), "seeds_per_pod": (8, 30), "number_per_m2": (8, 90)}},
    ),
    sources=sourced(bushel_lb=CUSTOMARY, standard_moisture_pct=MEMORY),
)
