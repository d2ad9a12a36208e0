"""Calibration, seed meters and counted seed, against a wheel rolled by hand in a loop and against SciPy."""

from __future__ import annotations

from itertools import product
from math import ceil

import pytest
from cultrix_core.errors import Refusal
from cultrix_core.seeding.calibration import (
    Catch,
    bag_rate,
    calibrate,
    calibration_working,
    catch_rate,
    envelope,
    length_of_turns,
)
from cultrix_core.seeding.seed_meter import Meter, meter_working, nearest, rate_table, seeds_per_m2_of
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.units import ACRE_M2, FT_M, HA_M2, IN_M, LB_KG
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats as scipy_stats

METRIC = UnitFormatter(system="metric")
US = UnitFormatter(system="us")


def caught(*rates: float, setting: float | None = 42.0) -> list[Catch]:
    return [Catch(delivered_kg_per_ha=rate, setting=setting) for rate in rates]


def test_a_catch_by_hand() -> None:
    """262 g under 3 openers at 12.5 cm over 50 m: 0.262 kg on 18.75 m² = 139.7 kg/ha (by hand)."""
    assert round(catch_rate(mass_kg=0.262, openers=3, row_spacing_m=0.125, length_m=50), 1) == 139.7


@given(st.floats(1, 300), st.integers(1, 40), st.floats(0.1, 1.2), st.floats(5, 400))
def test_the_seed_of_an_area_is_caught_back(rate: float, openers: int, spacing: float, length: float) -> None:
    """Lay the rate over openers × spacing × length and weigh it: the same rate comes out."""
    mass = rate * openers * spacing * length / HA_M2
    assert catch_rate(mass_kg=mass, openers=openers, row_spacing_m=spacing, length_m=length) == pytest.approx(rate, rel=1e-12)
    assert bag_rate(mass_kg=mass, area_m2=openers * spacing * length) == pytest.approx(rate, rel=1e-12)


def test_a_slipping_wheel_covers_more_ground() -> None:
    """25 turns of 2.05 m with 3 % slip: 51.25 ÷ 0.97 = 52.835 m (definition)."""
    assert round(length_of_turns(turns=25, circumference_m=2.05, slip_pct=3), 3) == 52.835


def test_several_catches_give_the_interval_of_scipy() -> None:
    rates = (138.2, 141.9, 140.4, 137.1)
    done = calibrate(caught(*rates), target_kg_per_ha=140)
    mean, sem = sum(rates) / 4, scipy_stats.sem(rates)
    low, high = scipy_stats.t.interval(0.90, 3, loc=mean, scale=sem)
    assert done.mean_kg_per_ha == pytest.approx(mean)
    assert (done.lower_kg_per_ha, done.upper_kg_per_ha) == pytest.approx((low, high), rel=1e-9)
    assert done.standing == "within_sure"


@pytest.mark.parametrize(
    ("rates", "tolerance", "standing"),
    [
        ((147.0,), 5.0, "within"),  # 5 % over exactly; one catch is never sure
        ((147.2,), 5.0, "outside"),
        ((152.0,), 10.0, "within"),
        ((140.0, 140.2, 139.9), 5.0, "within_sure"),
        ((128.0, 152.0, 140.0), 5.0, "within"),  # the mean is right, the catches scatter
        ((160.0, 161.0), 5.0, "outside"),
    ],
)
def test_within_five_to_ten_percent(rates: tuple[float, ...], tolerance: float, standing: str) -> None:
    """Accept within 5–10 % of the target (common practice, no source)."""
    assert calibrate(caught(*rates), target_kg_per_ha=140, tolerance_pct=tolerance).standing == standing


@pytest.mark.parametrize("tolerance", [0.0, 15.0])
def test_a_tolerance_out_of_the_trade_is_refused(tolerance: float) -> None:
    with pytest.raises(Refusal) as refusal:
        calibrate(caught(140), target_kg_per_ha=140, tolerance_pct=tolerance)
    assert refusal.value.field == "tolerance"


def test_the_corrected_setting_of_a_proportional_scale() -> None:
    """42 let through 168 where 140 is wanted: 42 × 140 ÷ 168 = 35 (by hand)."""
    done = calibrate(caught(168.0), target_kg_per_ha=140)
    assert done.corrected_setting == pytest.approx(35)
    assert not done.by_line
    assert "35.00" in " ".join(step.outcome for step in calibration_working(done, METRIC).steps)


def test_the_corrected_setting_from_two_settings_is_read_off_their_line() -> None:
    """30 → 100 and 50 → 180 kg/ha: 140 lies at 40 (by hand), where proportion from 50 would say 38.9."""
    done = calibrate([*caught(100.0, setting=30), *caught(180.0, setting=50)], target_kg_per_ha=140)
    assert done.corrected_setting == pytest.approx(40)
    assert done.by_line


def test_a_scale_that_runs_backwards_gives_no_setting() -> None:
    done = calibrate([*caught(180.0, setting=30), *caught(100.0, setting=50)], target_kg_per_ha=140)
    assert done.corrected_setting is None
    assert "mixed up" in calibration_working(done, METRIC).assumption


@given(st.floats(5, 300), st.floats(5, 300), st.floats(1, 100))
def test_a_corrected_setting_meets_the_target(delivered: float, target: float, setting: float) -> None:
    """On a proportional scale, the setting it names lets through the target."""
    done = calibrate(caught(delivered, setting=setting), target_kg_per_ha=target)
    assert done.corrected_setting is not None
    assert delivered / setting * done.corrected_setting == pytest.approx(target, rel=1e-9)


def test_lots_that_flow_half_as_much_again() -> None:
    """One setting delivered 14 to 21 lb/ac for lots of one species (common practice, no source): both cannot be right."""
    per_ha = LB_KG * HA_M2 / ACRE_M2
    for target in (14, 21):
        standings = {lot: calibrate(caught(lot * per_ha), target_kg_per_ha=target * per_ha).standing for lot in (14, 21)}
        assert sorted(standings.values()) == ["outside", "within"]


@pytest.mark.parametrize(
    ("arguments", "code", "field"),
    [
        ({"mass_kg": 0.0}, "zero_catch", "mass"),
        ({"mass_kg": -0.2}, "not_positive", "mass"),
        ({"length_m": -50.0}, "not_positive", "length"),
        ({"row_spacing_m": 0.0}, "not_positive", "row_spacing"),
        ({"openers": 0}, "too_small", "openers"),
        ({"mass_kg": float("nan")}, "not_finite", "mass"),
    ],
)
def test_catches_that_cannot_be(arguments: dict[str, float], code: str, field: str) -> None:
    with pytest.raises(Refusal) as refusal:
        catch_rate(**({"mass_kg": 0.26, "openers": 3, "row_spacing_m": 0.125, "length_m": 50.0} | arguments))  # type: ignore[arg-type]
    assert (refusal.value.code, refusal.value.field) == (code, field)


METER = Meter(circumference_m=2.1, row_spacing_m=0.75, fixed_ratio=0.5, slip_pct=3)
DISCS, DRIVING, DRIVEN = (24, 30), (17, 19, 22), (18, 23, 28)


def rolled(holes: int, driving: int, driven: int, metres: float = 20_000.0) -> float:
    """Roll the wheel hole by hole over a long way and count the seeds that fall; seeds per m²."""
    turns_of_wheel = metres * (1 - METER.slip_pct / 100) / METER.circumference_m
    turns_of_disc = turns_of_wheel * METER.fixed_ratio * driving / driven
    seeds = 0
    angle = 0.0
    step = turns_of_disc / 1000
    for _ in range(1000):
        before = int(angle * holes)
        angle += step
        seeds += int(angle * holes) - before
    return seeds / metres / METER.row_spacing_m


@pytest.mark.parametrize(("holes", "driving", "driven"), list(product(DISCS, DRIVING, DRIVEN)))
def test_the_gear_table_against_a_wheel_rolled_in_a_loop(holes: int, driving: int, driven: int) -> None:
    table = rate_table(METER, discs=DISCS, driving=DRIVING, driven=DRIVEN)
    combination = next(row for row in table if (row.holes, row.driving, row.driven) == (holes, driving, driven))
    assert combination.seeds_per_m2 == pytest.approx(rolled(holes, driving, driven), rel=2e-4)
    assert combination.in_row_spacing_m * combination.seeds_per_m2 * METER.row_spacing_m == pytest.approx(1, rel=1e-12)


@given(st.floats(2.0, 20.0))
def test_the_nearest_combination_is_the_nearest(target: float) -> None:
    """Against trying every one and sorting."""
    table = rate_table(METER, discs=DISCS, driving=DRIVING, driven=DRIVEN, target_per_m2=target)
    rates = [seeds_per_m2_of(METER, holes=h, driving=a, driven=b) for h, a, b in product(DISCS, DRIVING, DRIVEN)]
    assert len(table) == len(rates) == 18
    assert abs(nearest(table, target).seeds_per_m2 - target) == pytest.approx(
        min(abs(rate - target) for rate in rates), abs=1e-12
    )
    assert [combination.seeds_per_m2 for combination in table] == sorted(combination.seeds_per_m2 for combination in table)


def test_a_meter_in_the_trade_units() -> None:
    """30 holes, equal teeth, no reduction, 7.5 ft wheel, 30-in rows: 4 seeds a foot = 69 696 seeds/ac (definition)."""
    meter = Meter(circumference_m=7.5 * FT_M, row_spacing_m=30 * IN_M)
    assert seeds_per_m2_of(meter, holes=30, driving=20, driven=20) * ACRE_M2 == pytest.approx(69_696)


@pytest.mark.parametrize("show", [METRIC, US], ids=["metric", "us"])
def test_the_meter_shows_table_and_nearest(show: UnitFormatter) -> None:
    table = rate_table(METER, discs=DISCS, driving=DRIVING, driven=DRIVEN)
    working = meter_working(METER, table, (8.0, 5.0), show)
    assert len(working.table) == 19
    assert working.table[0][0] == "Holes"
    best = nearest(table, 8.0)
    assert working.outcome.startswith(f"{best.holes} holes, {best.driving} on {best.driven} teeth")
    assert working.table[1][:3] == (str(best.holes), str(best.driving), str(best.driven)), "the nearest stands first"
    other = nearest(table, 5.0)
    assert working.steps[-1].numbers == f"{other.holes} holes, {other.driving} on {other.driven} teeth"


@pytest.mark.parametrize(
    ("change", "code", "field"),
    [
        ({"discs": ()}, "missing", "discs"),
        ({"discs": (0,)}, "too_small", "holes"),
        ({"driven": (0,)}, "too_small", "driven"),
        ({"discs": tuple(range(1, 250))}, "too_large", "discs"),
    ],
)
def test_meters_that_cannot_be(change: dict[str, tuple[int, ...]], code: str, field: str) -> None:
    with pytest.raises(Refusal) as refusal:
        rate_table(METER, **({"discs": DISCS, "driving": DRIVING, "driven": DRIVEN} | change))  # type: ignore[arg-type]
    assert (refusal.value.code, refusal.value.field) == (code, field)


def test_envelopes_hold_whole_seeds() -> None:
    """320 seeds/m² on 6 rows × 0.2 m × 4 m = 1536 seeds, 256 a row, 67.6 g at 44 g a thousand (by hand)."""
    result = envelope(seeds_per_m2=320, area_m2=4.8, weight_g=44, rows=6)
    assert (result.seeds, result.row_seeds) == (1536, 256)
    assert round(result.weight_g, 1) == 67.6


@given(st.floats(0.5, 900), st.floats(0.2, 40), st.integers(1, 20))
def test_envelopes_are_never_short_and_barely_over(rate: float, area: float, rows: int) -> None:
    result = envelope(seeds_per_m2=rate, area_m2=area, weight_g=44, rows=rows)
    assert result.row_seeds is not None
    assert result.seeds == result.row_seeds * rows
    assert result.seeds >= rate * area - 1e-6
    assert result.row_seeds <= ceil(rate * area / rows)
