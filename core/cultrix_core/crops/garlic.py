"""Garlic from cloves, planted in autumn.

Cloves of 2½ to 8 g with their tip up and 2½ to 5 cm of soil above them (1 to 2 in); roots grow before winter, leaves mostly
after it. Leaves are counted along the fan, the bladeless sprout leaf left out. Bulbs are cured for about two weeks before
they are weighed, so there is no standard moisture. All common practice, no source.
"""

from __future__ import annotations

from cultrix_core.crops.profile import (
    Absent,
    CropProfile,
    EstimateDefaults,
    HeatProfile,
    SowingProfile,
    TradeUnits,
    sourced,
)
from cultrix_core.crops.stages import FAN
from cultrix_core.crops.visits import AFTER_WINTER, emergence_counts, yield_sample

CROP = CropProfile(
    key="garlic",
    name="Garlic",
    units=TradeUnits(
        us_yield="lb/ac",
        us_price="money/lb",
        canada_yield="lb/ac",
        canada_price="money/lb",
        us_stand="/ac",
        canada_stand="/ac",
    ),
    bushel_lb=None,
    standard_moisture_pct=None,
    usual_moisture_pct=(0, 90),
    believable_yield_kg_per_ha=30_000,
    usual_price_per_t=(800, 12_000),
    usual_stand_per_m2=(8, 60),
    planning_cv_pct=12.0,
    days_to_harvest=250,
    heat=HeatProfile(base_c=0, upper_c=None, way="mean_first"),
    visits=(
        *emergence_counts(150, 25, 260, 45),
        AFTER_WINTER,
        yield_sample(None, 245, why="Bulbs dug at a few places show what is coming; cure them before they are weighed."),
    ),
    stages=FAN,
    sowing=SowingProfile(
        usual_seed_weight_g=(2500, 8000),
        window_m=(0.025, 0.05),
        deepest_m=0.075,
        sand_deeper_m=0.01,
        least_soil_c=4,
        least_ph=6.0,
    ),
    stand_curve=Absent(reason="Cloves are planted once a year, in autumn; there is no second sowing to weigh against."),
    stand_lines=Absent(reason="No line that the trade agrees on; the farm sets its own."),
    estimate=EstimateDefaults(
        methods=("counted",),
        grain_g=None,
        usual={"counted": {"number_per_m2": (8, 60)}},
    ),
    sources=sourced(),
)
