"""Workings of seed and planting: the arithmetic shown gives the number shown, in either system."""

from __future__ import annotations

import re

import pytest
from cultrix_core.calculators import CALCULATORS, Calculator, calculator, read
from cultrix_core.economics.wheel_tracks import Pass, tracks_working, wheel_tracks
from cultrix_core.errors import Refusal
from cultrix_core.seeding.calibration import Catch, calibrate, calibration_working, envelope, envelope_working
from cultrix_core.seeding.depth import advise_depth, depths_dug, depths_working
from cultrix_core.seeding.fertiliser import furrow_working, furrows
from cultrix_core.seeding.lot_workings import lot_working, rate_for_stand_working, stand_working
from cultrix_core.seeding.lots import Chain, SeedLot, blend, lot_values
from cultrix_core.seeding.mixtures import Part, mixture
from cultrix_core.seeding.rates import row_geometry, row_geometry_working
from cultrix_core.seeding.seed_meter import Meter, meter_working, rate_table
from cultrix_core.seeding.sowing_profiles import needed_profile
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.working import Working
from hypothesis import given
from hypothesis import strategies as st

METRIC = UnitFormatter(system="metric", currency="€")
US = UnitFormatter(system="us", currency="$")
both = pytest.mark.parametrize("show", [METRIC, US], ids=["metric", "us"])
TAG = SeedLot(
    thousand_seed_weight_g=3.0,
    weight_of="coated",
    germination_pct=85,
    hard_seed_pct=6,
    purity_pct=98,
    coating_pct=32,
    bag_price=235,
    bag_kg=22.7,
)


def numbers(text: str) -> list[float]:
    """Numbers of a line of working, true minus signs and narrow spaces read as what they mean."""
    plain = text.replace("\u202f", "").replace("−", "-").replace("43 560", "43560")
    return [float(item) for item in re.findall(r"(?<![\w.])-?\d+(?:\.\d+)?", plain)]


def step(working: Working, label: str) -> tuple[list[float], float]:
    item = next(one for one in working.steps if one.label == label)
    return numbers(item.numbers), numbers(item.outcome)[0]


@both
def test_the_bag_as_shown(show: UnitFormatter) -> None:
    working = lot_working(TAG, show)
    (whole, coat, pure), share = step(working, "Pure seed")
    assert (whole - coat) / 100 * pure == pytest.approx(share, abs=0.06)
    (germinating, hard), live = step(working, "Live seed")
    assert germinating + hard == live == 91
    (pure, live), pls = step(working, "Pure live seed")
    assert pure * live / 100 == pytest.approx(pls, abs=0.1)
    weights, bare = step(working, "Weight of the bare seed")
    factor = (1 - weights[-1] / 100) if show is METRIC else 1 / (1 - weights[-1] / 100)
    assert weights[0] * factor == pytest.approx(bare, rel=0.003), "seeds per pound grow as a seed loses its coat"
    if show is METRIC:
        (bare_g, pure), through = step(working, "Bag weight of a thousand pure seeds")
        assert bare_g / pure * 100 == pytest.approx(through, abs=0.01)
    else:
        (bare_a_pound, pure), a_pound = step(working, "Pure seeds in a pound of bag seed")
        assert bare_a_pound * pure / 100 == pytest.approx(a_pound, rel=0.001)
    (price, seeds, thousand), each = step(working, "Price of a thousand seeds")
    assert price / seeds * thousand == pytest.approx(each, abs=0.001)


@both
def test_seeds_in_a_bag_as_shown(show: UnitFormatter) -> None:
    counted, seeds = step(lot_working(TAG, show), "Seeds in a bag")
    if show is METRIC:
        bag_kg, per_thousand_g, thousand = counted
        assert 1000 * bag_kg / per_thousand_g * thousand == pytest.approx(seeds, rel=0.003)
    else:
        bag_lb, a_pound = counted
        assert bag_lb * a_pound == pytest.approx(seeds, rel=0.003)


@both
@pytest.mark.parametrize("of", ["live", "sown"])
def test_the_chain_as_shown_both_ways(show: UnitFormatter, of: str) -> None:
    """Each line divides or multiplies what the line before left; both ways end where the other began."""
    values = lot_values(SeedLot(thousand_seed_weight_g=44, germination_pct=92, purity_pct=98))
    chain = Chain(emergence_pct=80, emergence_of=of, survival_pct=95)  # type: ignore[arg-type]
    there = rate_for_stand_working(240, values, chain, show)
    divided = [one for one in there.steps if "÷" in one.numbers and one.label not in ("Weight through the drill", "Bags")]
    assert len(divided) == (3 if of == "live" else 2)
    left = None
    for item in divided:
        (before, share), after = numbers(item.numbers)[:2], numbers(item.outcome)[0]
        assert left is None or before == left, "a line takes up what the line before left"
        assert before / share * 100 == pytest.approx(after, rel=0.003)
        left = after
    assert left is not None
    back = stand_working(240 / (0.95 * 0.8 * (0.92 if of == "live" else 1)), values, chain, show)
    assert back.outcome == show.text(240, "density")


@both
def test_catches_as_shown(show: UnitFormatter) -> None:
    done = calibrate(
        [Catch(delivered_kg_per_ha=rate, setting=42) for rate in (160, 166, 171)], target_kg_per_ha=140, tolerance_pct=10
    )
    working = calibration_working(done, show)
    (mean, target, _), off = step(working, "Against the target")
    assert 100 * (mean / target - 1) == pytest.approx(off, abs=0.1)
    (mean, t, spread, root), low = step(working, "90 % interval")
    assert mean - t * spread / root**0.5 == pytest.approx(low, abs=0.3)
    (setting, target, mean), corrected = step(working, "Setting that would meet it")
    assert setting * target / mean == pytest.approx(corrected, abs=0.05)


@both
def test_an_envelope_as_shown(show: UnitFormatter) -> None:
    result = envelope(seeds_per_m2=320, area_m2=4.8, weight_g=44, rows=6)
    working = envelope_working(result, show, seeds_per_m2=320, area_m2=4.8)
    (rate, area), seeds = step(working, "Seeds")
    assert rate * area == pytest.approx(seeds, rel=0.002)
    (seeds, weight, thousand), grams = step(working, "Weight to check the counting by")
    assert seeds * weight / thousand == pytest.approx(grams, abs=0.01)


@both
def test_the_meter_as_shown(show: UnitFormatter) -> None:
    meter = Meter(circumference_m=2.1, row_spacing_m=0.75, fixed_ratio=0.5, slip_pct=3)
    table = rate_table(meter, discs=(24, 30), driving=(17, 19, 22), driven=(18, 23, 28))
    working = meter_working(meter, table, (8.0,), show)
    (wheel, whole, slip), ground = step(working, "Ground for a turn of the wheel")
    assert wheel / (whole - slip) * 100 == pytest.approx(ground, abs=0.002)
    (holes, each, driving, driven, ratio), seeds = step(working, "Seeds for a turn of the wheel")
    assert holes * each * driving / driven * ratio == pytest.approx(seeds, abs=0.006)
    (ground, seeds), apart = step(working, "Seed to seed")
    inner = 100 if show is METRIC else 12  # m to cm, ft to in
    assert ground / seeds * inner == pytest.approx(apart, rel=0.002)


@both
def test_depths_as_shown(show: UnitFormatter) -> None:
    dug = depths_dug([0.038, 0.041, 0.035, 0.044, 0.052], window_m=(0.025, 0.05), target_m=0.04)
    working = depths_working(dug, show)
    (t, spread, n), half = step(working, "Half of the 90 % interval")
    assert t * spread / n**0.5 == pytest.approx(half, abs=0.012)
    (inside, n, *_), share = step(working, "Inside the window")
    assert 100 * inside / n == share
    (mean, target), off = step(working, "Against the target")
    assert mean - target == pytest.approx(off, abs=0.011 if show is US else 0.11)


@both
def test_schools_of_depth_as_shown(show: UnitFormatter) -> None:
    advice = advise_depth(needed_profile("winter_wheat"), show, moisture_line_m=0.045)
    (line, margin), need = step(advice.into_moisture.working, "Below the moisture line")
    assert line + margin == pytest.approx(need, abs=0.11)
    (low, high, two), middle = step(advice.fixed.working, "Middle of the window")
    assert (low + high) / two == pytest.approx(middle, abs=0.06)
    assert advice.into_moisture.working.outcome in advice.into_moisture.verdict


@both
def test_fertiliser_and_wheels_as_shown(show: UnitFormatter) -> None:
    wide = furrows(rate_kg_per_ha=80, row_spacings_m=(0.38,), spread_m=0.025, reference_spacing_m=0.19)[0]
    working = furrow_working(wide, show, rate_kg_per_ha=80, spread_m=0.025, reference_spacing_m=0.19)
    (rate, spacing), along = step(working, "Along the row")
    # kg/ha × cm ÷ 1000 is g/m; lb/ac × in ÷ (12 × 43.56) is lb per 1000 ft (definition)
    assert rate * spacing / (1000 if show is METRIC else 12 * 43.56) == pytest.approx(along, abs=0.006)
    (rate, use), band = step(working, "In the band")
    assert rate / use * 100 == pytest.approx(band, rel=0.01)
    driven = Pass(track_m=1.8, tyre_m=0.5, width_m=24)
    tracks = wheel_tracks(driven, row_spacing_m=0.375, centre="between", made_up_pct=25)
    working = tracks_working(tracks, driven, show, made_up_pct=25)
    (hit, in_width), lost = step(working, "Rows lost")
    assert 100 * hit / in_width == pytest.approx(lost, abs=0.06)
    (lost, whole, made_up), of_yield = step(working, "Yield lost")
    assert lost * (whole - made_up) / 100 == pytest.approx(of_yield, abs=0.06)


@both
def test_evenness_of_space_as_shown(show: UnitFormatter) -> None:
    working = row_geometry_working(row_geometry(seeds_per_m2=320, row_spacing_m=0.15), show)
    (near, even), share = step(working, "Evenness of the space")
    assert near / even == pytest.approx(share, abs=0.006)


@given(st.lists(st.tuples(st.floats(5, 60), st.floats(1, 99), st.floats(50, 100)), min_size=1, max_size=4))
def test_a_blend_lies_among_its_parts(rows: list[tuple[float, float, float]]) -> None:
    """Weight and live seed of a blend are means over seeds: never outside the parts, and the parts' own when all are equal."""
    lots = [
        lot_values(SeedLot(thousand_seed_weight_g=weight, germination_pct=live, purity_pct=pure)) for weight, live, pure in rows
    ]
    values = blend([(lot, 1 / len(lots)) for lot in lots])
    weights = [lot.bag_weight_g for lot in lots]
    assert min(weights) - 1e-9 <= values.bag_weight_g <= max(weights) + 1e-9
    assert values.live_frac is not None
    assert values.pls_frac is not None
    lives = [lot.live_frac or 0.0 for lot in lots]
    assert min(lives) - 1e-9 <= values.live_frac <= max(lives) + 1e-9
    assert values.pls_frac <= values.pure_frac + 1e-12


def test_a_blend_weighs_what_its_mixture_weighs() -> None:
    """The mass of a mixture by its own arithmetic is seeds × weight of the blend."""
    parts = (Part(name="pea", share_pct=70, weight_g=220), Part(name="oat", share_pct=30, weight_g=38))
    rates = mixture(parts, total=100, total_by="seeds", shares_by="weight")
    lots = [lot_values(SeedLot(thousand_seed_weight_g=part.weight_g, germination_pct=90)) for part in parts]
    values = blend([(lot, rate.seeds_share) for lot, rate in zip(lots, rates, strict=True)])
    assert 100 * values.bag_weight_g / 100 == pytest.approx(sum(rate.kg_per_ha for rate in rates))


def test_an_unknown_price_or_test_stays_unknown_in_a_blend() -> None:
    known = lot_values(SeedLot(thousand_seed_weight_g=44, germination_pct=92, bag_price=24, bag_kg=25))
    bare = lot_values(SeedLot(thousand_seed_weight_g=30))
    values = blend([(known, 0.5), (bare, 0.5)])
    assert (values.live_frac, values.pls_frac, values.price_per_thousand, values.seeds_in_bag) == (None, None, None, None)


def typed(entry: Calculator, **changed: tuple[str, str]) -> dict[str, tuple[str, str]]:
    return {item.name: item.metric for item in entry.inputs} | changed


@pytest.mark.parametrize(
    ("key", "changed", "code", "field"),
    [
        ("rate_for_stand", {"germination": ("130", "%")}, "too_large", "germination"),
        ("rate_for_stand", {"emergence_of": ("dead", "")}, "unknown_choice", "emergence_of"),
        ("catch_length", {"mass": ("262 0 266", "g")}, "zero_catch", "mass"),
        ("catch_length", {"length": ("-50", "m")}, "not_positive", "length"),
        ("catch_length", {"openers": ("2.5", "")}, "not_a_count", "openers"),
        ("catch_turns", {"slip": ("60", "%")}, "too_large", "slip"),
        ("bag_test", {"area": ("", "ha")}, "missing", "area"),
        ("meter", {"discs": ("24 thirty", "")}, "not_a_number", "discs"),
        ("meter", {"rate": ("0", "k/ha")}, "not_positive", "target"),
        ("mixture", {"share_3": ("10", "%")}, "missing", "weight_3"),
        ("mixture", {"share_2": ("20", "%")}, "not_whole", "share"),
        ("mixture", {"total_weight": ("", "kg/ha")}, "missing", "total_weight"),
        ("seedbed", {"ph": ("17", "")}, "too_large", "ph"),
        ("depths_dug", {"depths": ("38 -4", "mm")}, "too_small", "depth"),
        ("wheels", {"pass_width": ("1", "m")}, "too_small", "pass_width"),
        ("fertiliser", {"row_spacing": ("12.5 0", "cm")}, "not_positive", "row_spacing"),
    ],
)
def test_the_bench_refuses_by_field(key: str, changed: dict[str, tuple[str, str]], code: str, field: str) -> None:
    entry = calculator(key)
    with pytest.raises(Refusal) as refusal:
        entry.run(read(entry, typed(entry, **changed)) | {"crop": "winter_wheat"}, METRIC)
    assert (refusal.value.code, refusal.value.field) == (code, field)


def test_the_bench_takes_only_so_many_values() -> None:
    entry = calculator("depths_dug")
    with pytest.raises(Refusal) as refusal:
        read(entry, typed(entry, depths=(" ".join(["38"] * 61), "mm")))
    assert refusal.value.code == "too_large"


def test_a_crop_without_a_profile_is_not_judged() -> None:
    entry = calculator("seedbed")
    with pytest.raises(Refusal) as refusal:
        entry.run(read(entry, typed(entry)) | {"crop": "other"}, METRIC)
    assert refusal.value.field == "crop"


@pytest.mark.parametrize("entry", [item for item in CALCULATORS if item.needs_crop], ids=lambda item: item.key)
def test_calculators_that_need_a_crop_run_for_each(entry: Calculator) -> None:
    """The same inputs for a cereal and for a small seed: the crop is really used, or its units are."""
    values = read(entry, typed(entry), bushel_kg=27.2)
    grain = {"keep_or_replant", "ears", "pods_area", "heads", "discs", "pulses", "grain_weight", "factor"}
    crops = ("winter_wheat", "oilseed_rape" if entry.key in grain else "lucerne")
    names = {entry.run(values | {"crop": crop}, METRIC).outcome for crop in crops}
    differ = {"seedbed", "depth", "stage", "heat_units", *grain} - {"heads", "discs"}  # these two come with a weight typed
    assert len(names) == (2 if entry.key in differ else 1)
