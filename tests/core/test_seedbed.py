"""Seedbed, depth, fertiliser with the seed, wheels and canopy: the trade's values and geometry by brute force."""

from __future__ import annotations

from statistics import stdev

import numpy as np
import pytest
from cultrix_core.crops.profile import SowingProfile
from cultrix_core.economics.wheel_tracks import Pass, better_centre, loss_per_ha, tracks_working, wheel_tracks
from cultrix_core.errors import Refusal
from cultrix_core.seeding.depth import MOISTURE_MARGIN_M, advise_depth, depths_dug, depths_working
from cultrix_core.seeding.fertiliser import DEFER, furrow_working, furrows
from cultrix_core.seeding.grids import planting_grid
from cultrix_core.seeding.rates import canopy_share, row_geometry
from cultrix_core.seeding.seedbed import Seedbed, judge
from cultrix_core.seeding.sowing_profiles import SEEDS_LEFT_ON_TOP_PER_M2, needed_profile
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.units import FT_M, IN_M
from hypothesis import given
from hypothesis import strategies as st

METRIC = UnitFormatter(system="metric", currency="€")
US = UnitFormatter(system="us")
LUCERNE = needed_profile("lucerne")
WHEAT = needed_profile("winter_wheat")
RAPE = needed_profile("oilseed_rape")
GOOD = Seedbed(boot_sink_m=0.2 * IN_M, soil_c=12, ph=6.9, residue_pct=20, moisture_line_m=0.1 * IN_M, weeds="none")


def states(bed: Seedbed, profile: SowingProfile = LUCERNE) -> dict[str, str]:
    return {finding.check: finding.state for finding in judge(bed, profile, METRIC).findings}


def test_small_seed_values_of_the_trade() -> None:
    """Window ¼–½ in, boot no more than ¼ in, pH 6.8, 4–5 seeds/ft² left on top, ¼ in below the moisture line; brassica
    oilseeds 1–1¼ in (all common practice, no source)."""
    assert tuple(round(x / IN_M, 9) for x in LUCERNE.window_m) == (0.25, 0.5)
    assert (LUCERNE.boot_sink_m or 0) / IN_M == pytest.approx(0.25)
    assert LUCERNE.least_ph == 6.8
    assert tuple(round(x * FT_M**2, 9) for x in SEEDS_LEFT_ON_TOP_PER_M2) == (4, 5)
    assert pytest.approx(0.25) == MOISTURE_MARGIN_M / IN_M
    assert tuple(round(x / IN_M, 9) for x in RAPE.window_m) == (1.0, 1.25)


def test_a_good_bed_is_ready() -> None:
    judged = judge(GOOD, LUCERNE, METRIC)
    assert judged.overall == "ready"
    assert {finding.state for finding in judged.findings} == {"good"}


@pytest.mark.parametrize(
    ("change", "check", "state", "overall"),
    [
        ({"boot_sink_m": 0.5 * IN_M}, "Firmness", "poor", "not_ready"),
        ({"boot_sink_m": 0.25 * IN_M}, "Firmness", "good", "ready"),
        ({"ph": 6.7}, "Soil pH", "watch", "with_care"),
        ({"ph": 6.8}, "Soil pH", "good", "ready"),
        ({"ph": 5.9}, "Soil pH", "poor", "not_ready"),
        ({"soil_c": 1.0}, "Soil temperature", "poor", "not_ready"),
        ({"soil_c": 4.0}, "Soil temperature", "watch", "with_care"),
        ({"moisture_line_m": 0.4 * IN_M}, "Moisture", "watch", "with_care"),
        ({"moisture_line_m": 2 * IN_M}, "Moisture", "poor", "not_ready"),
        ({"residue_pct": 80.0}, "Residue", "watch", "with_care"),
        ({"weeds": "many"}, "Weeds", "poor", "not_ready"),
        ({"weeds": None}, "Weeds", "unknown", "with_care"),
    ],
)
def test_one_thing_wrong(change: dict[str, object], check: str, state: str, overall: str) -> None:
    bed = Seedbed(**({name: getattr(GOOD, name) for name in Seedbed.__slots__} | change))  # type: ignore[attr-defined]
    assert states(bed)[check] == state
    assert judge(bed, LUCERNE, METRIC).overall == overall


def test_what_was_not_measured_is_never_taken_as_good() -> None:
    judged = judge(Seedbed(), LUCERNE, METRIC)
    assert judged.overall == "not_known"
    assert all(finding.state == "unknown" and finding.reason for finding in judged.findings)


def test_seeds_left_on_top_speak_only_of_small_seed() -> None:
    none_left = Seedbed(seeds_on_top_per_m2=0)
    assert states(none_left)["Seeds left on top"] == "watch"
    assert states(Seedbed(seeds_on_top_per_m2=4.5 / FT_M**2))["Seeds left on top"] == "good"
    assert "Seeds left on top" not in states(none_left, WHEAT)


@pytest.mark.parametrize(
    ("bed", "field"),
    [
        (Seedbed(ph=14), "ph"),
        (Seedbed(residue_pct=120), "residue"),
        (Seedbed(boot_sink_m=-0.01), "boot_sink"),
        (Seedbed(soil_c=120), "soil_temperature"),
        (Seedbed(moisture_line_m=2.5), "moisture_line"),
    ],
)
def test_beds_that_cannot_be(bed: Seedbed, field: str) -> None:
    with pytest.raises(Refusal) as refusal:
        judge(bed, LUCERNE, METRIC)
    assert refusal.value.field == field


def test_into_moisture_lies_a_quarter_inch_below_the_line() -> None:
    advice = advise_depth(WHEAT, METRIC, moisture_line_m=0.045)
    assert advice.into_moisture.depth_m == pytest.approx(0.045 + 0.25 * IN_M)
    assert advice.fixed.depth_m == pytest.approx((0.025 + 0.05) / 2), "the other school stays in the middle of the window"
    assert "waits for rain" in " ".join(advice.fixed.risks)


def test_just_below_the_line_is_neither_dry_nor_safe() -> None:
    """The middle of the window at 3.75 cm, the line at 3.5 cm: moist, but less than a quarter inch below it."""
    fixed = advise_depth(WHEAT, METRIC, moisture_line_m=0.035).fixed
    assert "in dry soil" not in fixed.verdict
    assert "left dry" in fixed.risks[0]
    assert "in dry soil" in advise_depth(WHEAT, METRIC, moisture_line_m=0.045).fixed.verdict


def test_moist_from_the_top_the_window_still_holds() -> None:
    assert advise_depth(WHEAT, METRIC, moisture_line_m=0.0).into_moisture.depth_m == pytest.approx(WHEAT.window_m[0])


def test_moisture_out_of_reach_is_said_and_not_clamped() -> None:
    advice = advise_depth(LUCERNE, METRIC, moisture_line_m=0.05)
    assert advice.into_moisture.depth_m is None
    assert "out of reach" in advice.into_moisture.verdict


def test_warm_soil_forgives_depth_and_cold_soil_does_not() -> None:
    line = 0.055
    assert advise_depth(WHEAT, METRIC, moisture_line_m=line, soil_c=14).into_moisture.depth_m is not None
    assert advise_depth(WHEAT, METRIC, moisture_line_m=line, soil_c=5).into_moisture.depth_m is None
    assert advise_depth(WHEAT, METRIC, moisture_line_m=line, soil_c=14, texture="clay").into_moisture.depth_m is None


def test_sand_takes_it_deeper() -> None:
    """Somewhat deeper in sand (common practice, no source)."""
    sand, loam = (advise_depth(LUCERNE, METRIC, moisture_line_m=None, texture=name) for name in ("sand", "loam"))  # type: ignore[arg-type]
    assert (sand.fixed.depth_m or 0) > (loam.fixed.depth_m or 0)


def test_brassica_oilseeds_say_what_dry_and_deep_did() -> None:
    """½ in into dry soil about 20 %, 1–1¼ in 70–75 %, 2 in two days later and thinner (common practice, no source)."""
    dry = advise_depth(RAPE, US, moisture_line_m=1.5 * IN_M, soil_c=15)
    assert "about 20 %" in " ".join(dry.fixed.risks)
    assert "70–75 %" in " ".join(dry.fixed.risks)
    assert "two days later" in " ".join(dry.into_moisture.risks)


def test_both_schools_stand_even_without_a_dug_line() -> None:
    advice = advise_depth(WHEAT, METRIC, moisture_line_m=None)
    assert advice.into_moisture.depth_m is None
    assert "Dig first" in advice.into_moisture.verdict
    assert advice.fixed.depth_m is not None


def test_depths_dug() -> None:
    depths = [0.038, 0.041, 0.035, 0.044, 0.052]
    dug = depths_dug(depths, window_m=(0.025, 0.05), target_m=0.04)
    assert dug.mean_m == pytest.approx(np.mean(depths))
    assert dug.sd_m == pytest.approx(stdev(depths))
    assert dug.inside_frac == pytest.approx(4 / 5)
    assert dug.off_m == pytest.approx(0.002)
    assert any(step.outcome == "80 %" for step in depths_working(dug, METRIC).steps)


@pytest.mark.parametrize("depths", [[], [-0.01], [0.9], [float("nan")]])
def test_depths_that_cannot_be(depths: list[float]) -> None:
    with pytest.raises(Refusal):
        depths_dug(depths)


def test_twice_the_width_lies_twice_as_thick() -> None:
    """The same rate in rows twice as wide is twice the concentration along the row and in the band (definition)."""
    narrow, wide = furrows(rate_kg_per_ha=80, row_spacings_m=(0.19, 0.38), spread_m=0.025, reference_spacing_m=0.19)
    assert wide.per_row_g_per_m == pytest.approx(2 * narrow.per_row_g_per_m)
    assert (narrow.relative, wide.relative) == (pytest.approx(1), pytest.approx(2))
    assert (narrow.warns, wide.warns) == (False, True)
    assert narrow.per_row_g_per_m == pytest.approx(80 * 0.19 / 10)
    working = furrow_working(wide, US, rate_kg_per_ha=80, spread_m=0.025, reference_spacing_m=0.19)
    assert working.assumption == DEFER, "safe limits are local guidance's"


@given(st.floats(5, 400), st.floats(0.05, 1.5), st.floats(0.01, 0.3))
def test_the_row_carries_what_the_area_gets(rate: float, spacing: float, spread: float) -> None:
    """Metres of row on a hectare × what lies on each = the rate."""
    furrow = furrows(rate_kg_per_ha=rate, row_spacings_m=(spacing,), spread_m=spread, reference_spacing_m=0.19)[0]
    assert 1e4 / spacing * furrow.per_row_g_per_m / 1000 == pytest.approx(rate, rel=1e-12)
    assert furrow.in_band_kg_per_ha * furrow.seedbed_use_frac == pytest.approx(rate, rel=1e-12)
    assert 0 < furrow.seedbed_use_frac <= 1


def rows_by_pacing(driven: Pass, spacing: float, centre: str) -> int:
    """Walk all rows of a wide field one by one and look whether a wheel stands on each."""
    hit = 0
    for number in range(-400, 400):
        place = number * spacing + (0 if centre == "on_row" else spacing / 2)
        under = any(
            abs(place - wheel) <= driven.tyre_m / 2 + driven.plant_half_m + 1e-9
            for wheel in (-driven.track_m / 2, driven.track_m / 2)
        )
        hit += under
    return hit


@given(
    st.floats(1.2, 3.2), st.floats(0.1, 0.9), st.floats(0.1, 1.0), st.floats(0, 0.05), st.sampled_from(["between", "on_row"])
)
def test_rows_run_over_against_pacing_them(track: float, tyre: float, spacing: float, half: float, centre: str) -> None:
    driven = Pass(track_m=track, tyre_m=tyre, width_m=24, plant_half_m=half)
    tracks = wheel_tracks(driven, row_spacing_m=spacing, centre=centre)  # type: ignore[arg-type]
    assert tracks.rows_hit == rows_by_pacing(driven, spacing, centre)
    assert tracks.rows_lost_frac == pytest.approx(tracks.rows_hit * spacing / 24)


def test_wide_rows_let_the_wheels_pass_and_narrow_ones_do_not() -> None:
    """Track 1.8 m, tyre 32 cm: 90-cm rows centred between are missed; 18-cm rows lose some on each side (geometry)."""
    driven = Pass(track_m=1.8, tyre_m=0.32, width_m=24, plant_half_m=0.02)
    assert better_centre(driven, row_spacing_m=0.90).rows_hit == 0
    narrow = better_centre(driven, row_spacing_m=0.18)
    assert narrow.rows_hit >= 2
    assert not narrow.clear
    assert wheel_tracks(driven, row_spacing_m=0.90, centre="on_row").rows_hit == 2, "on the wrong centre both wheels hit"


def test_what_the_wheels_cost() -> None:
    """4 of 64 rows = 6.25 %; a third made up leaves 4.17 % of 7 t at 190 a tonne = 55.4 a hectare (by hand)."""
    driven = Pass(track_m=1.8, tyre_m=0.5, width_m=24)
    tracks = wheel_tracks(driven, row_spacing_m=0.375, centre="between", made_up_pct=100 / 3)
    expected = tracks.rows_hit / 64 * (2 / 3)
    assert tracks.yield_lost_frac == pytest.approx(expected)
    loss = loss_per_ha(tracks, yield_kg_per_ha=7000, worth_per_t=190)
    assert loss == pytest.approx(expected * 7 * 190)
    assert METRIC.text(loss, "money_per_area") in tracks_working(tracks, driven, METRIC, loss=loss).steps[-1].outcome


@pytest.mark.parametrize(
    ("driven", "field"),
    [
        (Pass(track_m=-1.8, tyre_m=0.3, width_m=24), "track"),
        (Pass(track_m=1.8, tyre_m=3.0, width_m=24), "tyre"),
        (Pass(track_m=1.8, tyre_m=0.3, width_m=1.0), "pass_width"),
    ],
)
def test_passes_that_cannot_be(driven: Pass, field: str) -> None:
    with pytest.raises(Refusal) as refusal:
        wheel_tracks(driven, row_spacing_m=0.3, centre="between")
    assert refusal.value.field == field


def test_even_space_of_squares_and_rows() -> None:
    """A square grid has √(√3/2) = 0.931 of the farthest possible distance (definition: staggered gain 2/√3 in density)."""
    assert row_geometry(seeds_per_m2=4, row_spacing_m=0.5).equidistance == pytest.approx((3**0.5 / 2) ** 0.5)
    wide, narrow = (row_geometry(seeds_per_m2=8, row_spacing_m=width).equidistance for width in (0.75, 0.375))
    assert wide == pytest.approx(narrow / 2), "double rows at the same rate halve the distance to the neighbour"
    assert planting_grid(width_m=20, length_m=20, spacing_m=0.1, staggered=True, edge_rows=0).positions / planting_grid(
        width_m=20, length_m=20, spacing_m=0.1, staggered=False, edge_rows=0
    ).positions == pytest.approx(2 / 3**0.5, rel=0.01)


@given(st.floats(0.05, 2), st.floats(0.05, 2))
def test_canopy_share(span: float, spacing: float) -> None:
    share = canopy_share(leaf_span_m=span, row_spacing_m=spacing)
    assert 0 < share <= 1
    assert (share == 1) == (span >= spacing)


def test_ground_under_the_wheels_of_a_pass() -> None:
    """Two tyres of 0.32 m in 24 m: 0.64 ÷ 24 of the ground, whatever rows they hit; twice as much at half the width."""
    driven = Pass(track_m=1.8, tyre_m=0.32, width_m=24)
    assert wheel_tracks(driven, row_spacing_m=0.75, centre="between").ground_frac == pytest.approx(0.0266667, rel=1e-5)
    assert wheel_tracks(driven, row_spacing_m=0.30, centre="on_row").ground_frac == pytest.approx(0.0266667, rel=1e-5)
    half = Pass(track_m=1.8, tyre_m=0.32, width_m=12)
    assert wheel_tracks(half, row_spacing_m=0.75, centre="between").ground_frac == pytest.approx(0.0533333, rel=1e-5)


def test_whether_a_tyre_fits_between_two_rows() -> None:
    """Tyre and half a plant on either side, 0.32 + 2 × 0.02 = 0.36 m, need more than that between rows."""
    driven = Pass(track_m=1.8, tyre_m=0.32, width_m=24, plant_half_m=0.02)
    fits = {
        spacing: wheel_tracks(driven, row_spacing_m=spacing, centre="between").clear for spacing in (0.25, 0.359, 0.361, 0.75)
    }
    assert fits == {0.25: False, 0.359: False, 0.361: True, 0.75: True}
    with pytest.raises(Refusal, match="Working width of the pass"):
        wheel_tracks(Pass(track_m=1.8, tyre_m=0.32, width_m=2.0), row_spacing_m=0.5, centre="between")


def test_the_better_centre_by_hand() -> None:
    """Wheels 2.25 m apart stand 1.125 m from the middle: on a row of 0.375 and 1.125, between those of 0.75 and 1.5."""
    driven = Pass(track_m=2.25, tyre_m=0.32, width_m=24)
    better = better_centre(driven, row_spacing_m=0.75, made_up_pct=50)
    assert (better.centre, better.rows_hit, better.yield_lost_frac) == ("on_row", 0, 0)
    other = better_centre(Pass(track_m=1.5, tyre_m=0.32, width_m=24), row_spacing_m=0.75, made_up_pct=50)
    assert (other.centre, other.rows_hit) == ("between", 0), "0.75 m from the middle is on a row there"
    even = better_centre(Pass(track_m=1.65, tyre_m=0.5, width_m=24), row_spacing_m=0.30, made_up_pct=50)
    assert even.centre == "between", "0.575 to 1.075 m holds two rows of either"
    assert even.yield_lost_frac == pytest.approx(even.rows_lost_frac / 2)
