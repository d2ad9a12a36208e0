"""Lucerne (alfalfa), grown for forage.

Depth ¼ to ½ in, somewhat deeper in sand; a boot sinks no more than ¼ in; pH 6.8. Seedlings good at about 40 per square
foot, thinning to 30 to 35 by the end of the seeding year whatever the rate. Yields are of dry matter. Common practice, no
source; shoots from memory.
"""

from __future__ import annotations

from cultrix_core.crops.profile import (
    MEMORY,
    Absent,
    CropProfile,
    EstimateDefaults,
    HeatProfile,
    SowingProfile,
    StandLine,
    TradeUnits,
    sourced,
)
from cultrix_core.crops.stages import COMPOUND
from cultrix_core.crops.visits import AFTER_WINTER, CROWNS, emergence_counts
from cultrix_core.units import FT_M, IN_M

FT2 = FT_M**2
CROP = CropProfile(
    key="lucerne",
    name="Lucerne (alfalfa)",
    units=TradeUnits(us_yield="ton/ac", us_price="money/ton", canada_yield="ton/ac", canada_price="money/ton"),
    bushel_lb=None,
    standard_moisture_pct=0.0,
    usual_moisture_pct=(5, 85),
    believable_yield_kg_per_ha=25_000,
    usual_price_per_t=(80, 500),
    usual_stand_per_m2=(40, 700),
    planning_cv_pct=12.0,
    days_to_harvest=75,
    heat=HeatProfile(base_c=5, upper_c=None, way="mean_first"),
    visits=(*emergence_counts(90, 11, 190, 25), CROWNS, AFTER_WINTER),
    stages=COMPOUND,
    sowing=SowingProfile(
        usual_seed_weight_g=(1.7, 2.8),
        window_m=(0.25 * IN_M, 0.5 * IN_M),
        deepest_m=0.75 * IN_M,
        sand_deeper_m=0.25 * IN_M,
        least_soil_c=5,
        least_ph=6.8,
        boot_sink_m=0.25 * IN_M,
        hard_seed_counts=True,
    ),
    stand_curve=Absent(reason="A perennial is kept or replaced by plants and shoots, see the stand lines."),
    stand_lines=(
        StandLine(key="seedlings", label="Good stand of seedlings, about", per_m2=40 / FT2),
        StandLine(key="year_end_low", label="Left at the end of the seeding year, from", per_m2=30 / FT2),
        StandLine(key="year_end_high", label="Left at the end of the seeding year, to", per_m2=35 / FT2),
        StandLine(key="young_thin", label="One year old: thin under", per_m2=7.5 / FT2),
        StandLine(key="old_thin", label="Old stand: thin under", per_m2=2.5 / FT2),
        StandLine(key="shoots_full", label="Shoots: stand does not limit yield over", per_m2=55 / FT2, source=MEMORY),
        StandLine(key="shoots_thin", label="Shoots: think of replacing under", per_m2=40 / FT2, source=MEMORY),
    ),
    estimate=EstimateDefaults(
        methods=("forage", "residue"),
        grain_g=None,
        usual={},
    ),
    sources=sourced(),
    perennial=True,
)
