"""The catalogue of crops: every crop whole, every part with its source, dry bean and garlic as their files say."""

from __future__ import annotations

import dataclasses
from datetime import date, timedelta
from pathlib import Path

import pytest
from cultrix_core.crops import ORDER, PROFILES, Absent, CropProfile, crop
from cultrix_core.crops.profile import SOURCED, Visit
from cultrix_core.errors import Refusal
from cultrix_core.season.heat_units import Day, heat_profile, heat_sum
from cultrix_core.season.schedule import schedule, visits_of
from cultrix_core.season.traits import MEASURED
from cultrix_core.seeding.sowing_profiles import sowing_profile
from cultrix_core.stand.growth_stage import stage_rule, stand_stage
from cultrix_core.stand.thresholds import thresholds_of
from cultrix_core.units import ACRE_M2, IN_M, find_unit

CATALOGUE = Path(__file__).resolve().parents[2] / "core" / "cultrix_core" / "crops"
NOT_CROPS = {"__init__", "profile", "visits", "stages", "grain"}
DRAWN = {"collar", "compound", "tiller", "pair", "rosette", "fan"}  # pictures of the field book
each_crop = pytest.mark.parametrize("profile", PROFILES, ids=lambda profile: profile.key)


def test_every_file_of_the_catalogue_is_listed() -> None:
    assert {path.stem for path in CATALOGUE.glob("*.py")} - NOT_CROPS == set(ORDER)
    assert [profile.key for profile in PROFILES] == list(ORDER)


@each_crop
def test_no_part_is_missing(profile: CropProfile) -> None:
    """A part is a value or says why there is none; an empty one is a hole."""
    for part in ("stages", "sowing", "stand_curve", "stand_lines"):
        value = getattr(profile, part)
        assert value, part
        if isinstance(value, Absent):
            assert len(value.reason) > 20, part
    assert {visit.key for visit in profile.visits} >= {"first_count", "full_count"}
    assert profile.estimate.methods
    assert profile.name


@each_crop
def test_every_part_says_where_it_is_from(profile: CropProfile) -> None:
    assert set(profile.sources) == set(SOURCED)
    assert all(source.strip() for source in profile.sources.values())
    if not isinstance(profile.stand_lines, Absent):
        assert all(line.source for line in profile.stand_lines)


@each_crop
def test_values_fit_together(profile: CropProfile) -> None:
    low, high = profile.usual_stand_per_m2
    assert 0 < low < high
    assert profile.usual_moisture_pct[0] < profile.usual_moisture_pct[1]
    counts = [visit for visit in profile.visits if visit.key in ("first_count", "full_count")]
    assert counts[0].heat < counts[1].heat  # type: ignore[operator]
    assert counts[0].days < counts[1].days
    assert all(visit.trait in {trait.key for trait in MEASURED} for visit in profile.visits if visit.trait)
    assert len({visit.key for visit in profile.visits}) == len(profile.visits)
    if not isinstance(profile.sowing, Absent):
        shallow, deep = profile.sowing.window_m
        assert 0 < shallow < deep < profile.sowing.deepest_m
        assert profile.heat.base_c <= profile.sowing.least_soil_c
    if not isinstance(profile.stages, Absent):
        assert profile.stages.drawing in DRAWN
    if not isinstance(profile.stand_lines, Absent):
        assert len({line.key for line in profile.stand_lines}) == len(profile.stand_lines)


@each_crop
def test_trade_units_are_units(profile: CropProfile) -> None:
    for code in (profile.units.us_yield, profile.units.canada_yield, profile.units.metric_yield):
        unit = find_unit("mass_per_area", code)
        assert not unit.bushel or profile.bushel_lb, f"{profile.key} has no bushel to be yielded in"
    for code in (profile.units.us_price, profile.units.canada_price, profile.units.metric_price):
        unit = find_unit("price", code)
        assert not unit.bushel or profile.bushel_lb, f"{profile.key} has no bushel to be priced by"


def test_a_part_left_out_is_found() -> None:
    """The check of completeness can fail: a crop whose stages were forgotten is caught by the type or by the test."""
    whole = {field.name: getattr(crop("maize"), field.name) for field in dataclasses.fields(CropProfile)}
    del whole["stages"]
    with pytest.raises(TypeError, match="stages"):
        CropProfile(**whole)


def test_a_crop_not_in_the_catalogue_is_refused_everywhere() -> None:
    for asked in (crop, heat_profile, visits_of, stage_rule, sowing_profile, thresholds_of):
        with pytest.raises(Refusal) as refusal:
            asked("tulip")
        assert refusal.value.code == "unknown_choice"


def _spring(start: date, days: int, low: float, high: float) -> list[Day]:
    return [Day(on=start + timedelta(days=number), min_c=low, max_c=high) for number in range(days)]


def _due(key: str, visit: str, start: date, weather: list[Day]) -> int:
    dues = schedule(key, planted_on=start, today=weather[-1].on, weather=weather, done={})
    return next((due.on - start).days for due in dues if due.visit.key == visit)


def test_dry_bean_is_counted_by_the_heat_of_a_warm_season_pulse() -> None:
    """At 8 to 23 °C a day gives (10 + 23) ÷ 2 − 10 = 6.5 units by way 2, so 70 are there on day 11 and 130 on day 20.

    With a base of 5 °C, which belongs to no warm-season pulse, the first count would have come on day 7.
    Arithmetic; the base is common practice, no source.
    """
    start = date(2026, 5, 10)
    weather = _spring(start, 60, 8, 23)
    assert heat_sum(weather, heat_profile("dry_bean"), after=start, until=start + timedelta(days=11)) == pytest.approx(71.5)
    assert _due("dry_bean", "first_count", start, weather) == 11
    assert _due("dry_bean", "full_count", start, weather) == 20
    for visit in ("first_count", "full_count"):
        assert _due("dry_bean", visit, start, weather) == _due("soybean", visit, start, weather)


def test_dry_bean_stages_lines_and_sowing() -> None:
    """Wanted stands of the trade (common practice, no source): 70 000, 90 000 and above 115 000 plants to the acre."""
    rule = stage_rule("dry_bean")
    assert rule is not None
    assert stand_stage([2, 3, 3, 4], rule).stage == "V3"
    assert "first single leaf" in rule.counts_not[1]
    lines = thresholds_of("dry_bean")
    assert {key: round(line.per_m2 * ACRE_M2) for key, line in lines.items()} == {
        "wanted_low": 70_000,
        "wanted_high": 90_000,
        "wanted_narrow": 115_000,
    }
    sowing = sowing_profile("dry_bean")
    assert sowing is not None
    assert sowing.window_m[0] < 2 * IN_M < sowing.window_m[1]
    assert sowing.least_soil_c == 15  # warmer than a pea, which is sown at 4 °C
    assert not sowing.small_seeded


def test_garlic_is_staged_and_visited_before_and_after_winter() -> None:
    """Autumn planting: heat from 0 °C on as for other plants that grow through winter. Common practice, no source."""
    rule = stage_rule("garlic")
    assert rule is not None
    assert stand_stage([5, 6, 6], rule).stage == "L6"
    assert "sprout leaf" in rule.counts_not[0]
    sowing = sowing_profile("garlic")
    assert sowing is not None
    assert sowing.window_m[0] < 1.5 * IN_M < sowing.window_m[1]  # soil above the clove
    keys = [visit.key for visit in visits_of("garlic")]
    assert keys.index("full_count") < keys.index("spring_count") < keys.index("estimate")
    assert isinstance(crop("garlic").stand_curve, Absent)
    assert crop("garlic").standard_moisture_pct is None  # bulbs are cured and weighed, not brought to a moisture


def test_visits_carry_their_reason() -> None:
    assert all(isinstance(visit, Visit) and visit.why.endswith(".") for profile in PROFILES for visit in profile.visits)
