"""Yield from its components: handbook values, definitions, and what may never happen to an estimate."""

from __future__ import annotations

from collections.abc import Callable
from math import exp, inf, sqrt
from typing import Any

import numpy as np
import pint
import pytest
from cultrix_core.calculators import calculator
from cultrix_core.crops import PROFILES, crop
from cultrix_core.crops.grain import EAR_FACTORS
from cultrix_core.errors import Refusal
from cultrix_core.estimate.components import ears_bu_per_ac, kernels_per_bushel
from cultrix_core.estimate.crop_defaults import estimate_defaults
from cultrix_core.estimate.drawn import drawn_pieces, start_of
from cultrix_core.estimate.grain_weight import (
    GrainWeight,
    WeighedGrain,
    factor_to_thousand_weight_g,
    thousand_weight_g,
    thousand_weight_to_factor,
    weight_in_range,
    weight_of_past,
    weight_of_samples,
)
from cultrix_core.estimate.methods import METHODS, method_of
from cultrix_core.estimate.narrowing import ways_to_narrow
from cultrix_core.estimate.propagate import Variation, product_of_means, strip_estimate, variation_of
from cultrix_core.estimate.spots import Spot, spot_of
from cultrix_core.harvest.hectolitre_weight import kg_per_hl, lb_per_bu
from cultrix_core.unit_formatting import UnitFormatter
from hypothesis import given, settings
from hypothesis import strategies as st

US = UnitFormatter(system="us", bushel_kg=25.401172720000002, sparse=True)
METRIC = UnitFormatter(system="metric")
UREG = pint.UnitRegistry()
EARS = method_of("ears")
KNOWN = GrainWeight(mean_g=280, relative_sd=0.0, df=inf, low_g=280, high_g=280, known="weighed", words="")


def ears(*pairs: tuple[float, float], number: int = 30, area: float = 4.0) -> Spot:
    pieces = [{"kernel_rows": rows, "kernels_per_row": kernels} for rows, kernels in pairs]
    return spot_of(EARS, area_m2=area, number=number, pieces=pieces, place={})


def value(spots: list[Spot], weight: GrainWeight | None = KNOWN) -> float:
    return strip_estimate(spots, variation_of({"": spots}), weight).value


def test_the_handbooks_ear_method() -> None:
    """Ears in 1/1000 acre × rows × kernels × factor, worked by hand: 30 × 16 × 34 × 0.01116 = 182.13 (definition)."""
    assert ears_bu_per_ac(ears_in_thousandth=30, kernel_rows=16, kernels_per_row=34, factor=0.01116) == pytest.approx(
        182.1312, abs=1e-9
    )
    working = calculator("ears_acre").run({"ears": 30, "kernel_rows": [16], "kernels_per_row": [34], "factor": 0.01116}, US)
    assert working.outcome == "182.1 bu/ac"


@pytest.mark.parametrize(("factor", "kernels"), [(0.009, 111_111), (0.01116, 89_606), (0.013, 76_923), (1 / 90, 90_000)])
def test_factor_is_a_thousand_over_kernels_in_a_bushel(factor: float, kernels: int) -> None:
    """The factors of the trade and their kernels per 56-lb bushel; the handy 90 000 (common practice, no source)."""
    assert kernels_per_bushel(factor) == pytest.approx(kernels, abs=0.5)


def test_the_metric_ear_method_and_its_acre_form_are_one() -> None:
    """75 000 × 544 × 280 g ÷ 10⁶ = 11 424 kg/ha by hand; the acre form of the same field agrees through pint's units."""
    assert value([ears((16, 34), number=30, area=4.0)]) == pytest.approx(11_424)
    bushel_kg = UREG.Quantity(56, "pound").to("kg").magnitude
    per_acre = UREG.Quantity(75_000, "1/hectare").to("1/acre").magnitude
    bushels = ears_bu_per_ac(
        ears_in_thousandth=per_acre / 1000,
        kernel_rows=16,
        kernels_per_row=34,
        factor=thousand_weight_to_factor(280, bushel_kg=bushel_kg),
    )
    assert UREG.Quantity(bushels * 56, "pound/acre").to("kg/hectare").magnitude == pytest.approx(11_424, rel=1e-9)


def test_pods_in_a_ten_thousandth_acre() -> None:
    """3000 seeds/lb gives divisor 18; 420 pods × 2.4 ÷ 16.8 = 60.0 bu/ac, by hand; the metric path agrees through pint."""
    working = calculator("pods").run({"pods": 420, "seeds_per_pod": 2.4, "seeds_per_lb": 3000}, US)
    assert working.steps[0].outcome == "18"
    assert calculator("pods").run({"pods": 420, "seeds_per_pod": 2.4, "seeds_per_lb": 2800}, US).outcome == "60.0 bu/ac"
    area = UREG.Quantity(1e-4, "acre").to("m**2").magnitude
    spot = spot_of(
        method_of("pods"),
        area_m2=area,
        number=10,
        pieces=[{"pods": 42}] * 10,
        place={"pods_opened": 50, "seeds_in_pods": 120},
    )
    thousand = UREG.Quantity(1000 / 2800, "pound").to("gram").magnitude
    weight = weight_of_samples([WeighedGrain(seeds=1000, mass_g=thousand)], standard_moisture_pct=None)
    result = UREG.Quantity(value([spot], weight), "kg/hectare").to("pound/acre").magnitude / 60
    assert result == pytest.approx(60.0, rel=1e-9)


def test_heads_and_discs_by_hand() -> None:
    """400 heads/m² × 35 × 42 g ÷ 100 = 5880 kg/ha; π/4 (18² − 4²) × 6 on 55 000 heads/ha at 50 g = 3991 kg/ha."""
    heads = spot_of(method_of("heads"), area_m2=0.25, number=100, pieces=[{"groups": None, "seeds_each": 35.0}], place={})
    weight = weight_of_samples([WeighedGrain(seeds=1000, mass_g=42)], standard_moisture_pct=None)
    assert value([heads], weight) == pytest.approx(5880)
    disc = {"diameter": 0.18, "empty_centre": 0.04, "filled_per_cm2": 6.0}
    discs = spot_of(method_of("discs"), area_m2=4.0, number=22, pieces=[disc], place={})
    weight = weight_of_samples([WeighedGrain(seeds=1000, mass_g=50)], standard_moisture_pct=None)
    assert value([discs], weight) == pytest.approx(3991, abs=0.5)


def test_bulbs_are_survivors_times_weight_less_the_tare() -> None:
    """46 of 50 survive on 2 m²; three weighings of ten, 440 to 490 g net: 23 /m² × 45.17 g = 10 388 kg/ha (definition)."""
    pieces = [{"gross": gross, "number_in": 10.0} for gross in (0.560, 0.610, 0.545)]
    spot = spot_of(method_of("counted"), area_m2=2.0, number=46, pieces=pieces, place={"tare": 0.120})
    assert value([spot], None) == pytest.approx(23 * (0.440 + 0.490 + 0.425) / 30 * 10_000)
    assert spot.piece_df == 2  # ten pieces weighed together tell one mean
    alone = calculator("counted").run(
        {
            "number": 46,
            "planted": 50,
            "area": 2.0,
            "gross": [0.560, 0.610, 0.545],
            "number_in": [10, 10, 10],
            "tare": 0.120,
            "state": "cured",
            "cured_days": 14,
            "crop": "garlic",
        },
        METRIC,
    )
    assert alone.outcome.startswith("10.39 t/ha")
    assert alone.steps[-1].outcome == "92 %"


def test_forage_is_dry_matter_by_definition() -> None:
    """620 g net at 88 ÷ 400 dry on 0.25 m²: 545.6 g/m² = 5456 kg/ha."""
    place = {"gross": 0.640, "tare": 0.020, "dm_wet": 0.400, "dm_dry": 0.088}
    spot = spot_of(method_of("forage"), area_m2=0.25, number=None, pieces=[], place=place)
    assert value([spot], None) == pytest.approx(5456)
    known = spot_of(method_of("forage"), area_m2=0.25, number=None, pieces=[], place={"gross": 0.62, "dm_pct": 22.0})
    assert value([known], None) == pytest.approx(5456)


def test_test_weight_against_the_units_own_definitions() -> None:
    """A bushel of 2150.42 cubic inches, by pint: 60 lb/bu is 77.2 kg/hL."""
    volume = UREG.Quantity(2150.42, "inch**3").to("hectoliter").magnitude
    expected = UREG.Quantity(60, "pound").to("kg").magnitude / volume
    assert kg_per_hl(60) == pytest.approx(expected, rel=1e-12)
    assert lb_per_bu(kg_per_hl(57.3)) == pytest.approx(57.3)
    assert calculator("test_weight").run({"test_weight": 60.0}, METRIC).outcome == "77.2 kg/hL"


def test_products_of_each_ear_and_products_of_means() -> None:
    """Long ears with more rows: mean of 14×28 and 18×36 is 520, the means' product 16 × 32 = 512 (by hand)."""
    spot = ears((14, 28), (18, 36))
    assert spot.per_piece == 520
    assert product_of_means([spot]) / spot.number_per_m2 == 512
    estimate = strip_estimate([spot], variation_of({"": [spot]}), KNOWN)
    assert estimate.product_of_means / estimate.value == pytest.approx(512 / 520)


pair = st.tuples(st.integers(8, 22), st.integers(5, 60))
group = st.lists(pair, min_size=1, max_size=12)


@given(group, pair)
def test_one_more_ear_stays_within_the_range_of_ears(pairs: list[tuple[int, int]], more: tuple[int, int]) -> None:
    one_ear = [value([ears(item)]) for item in [*pairs, more]]
    result = value([ears(*pairs, more)])
    assert min(one_ear) * (1 - 1e-12) <= result <= max(one_ear) * (1 + 1e-12)


@given(st.lists(group, min_size=1, max_size=4), st.randoms(use_true_random=False), st.floats(0.1, 10), st.floats(20, 400))
@settings(max_examples=60)
def test_order_area_and_weight_change_only_what_they_should(places: Any, shuffle: Any, times: float, weight_g: float) -> None:
    spots = [ears(*pairs) for pairs in places]
    base = strip_estimate(spots, variation_of({"": spots}), KNOWN)
    mixed = [ears(*shuffle.sample(pairs, len(pairs))) for pairs in shuffle.sample(places, len(places))]
    again = strip_estimate(mixed, variation_of({"": mixed}), KNOWN)
    assert (again.value, again.lower, again.upper) == pytest.approx((base.value, base.lower, base.upper))
    larger = [ears(*pairs, area=4.0 * times) for pairs in places]
    scaled = strip_estimate(larger, variation_of({"": larger}), KNOWN)
    assert (scaled.value * times, scaled.relative_se) == pytest.approx((base.value, base.relative_se))
    other = weight_of_samples([WeighedGrain(seeds=1000, mass_g=weight_g)], standard_moisture_pct=None)
    heavier = strip_estimate(spots, variation_of({"": spots}), other)
    assert heavier.value / weight_g == pytest.approx(base.value / 280)
    assert base.lower <= base.value <= base.upper
    assert sum(part.share for part in base.parts) == pytest.approx(1.0)


def test_the_parts_add_up_as_the_delta_method_says() -> None:
    """CV² of a product of independent means is the sum of theirs, to first order [Casella & Berger 2002, from memory]:
    against a simulation of the product itself, 400 000 draws."""
    rng = np.random.default_rng(3)
    places, pieces, weight = 0.15, 0.2, 0.05
    n, m = 3, 5
    total = sqrt(places**2 / n + pieces**2 / (n * m) + weight**2)
    number = 1 + places / sqrt(n) * rng.standard_normal(400_000)
    per_piece = 1 + pieces / sqrt(n * m) * rng.standard_normal(400_000)
    grain = 1 + weight * rng.standard_normal(400_000)
    assert float(np.std(number * per_piece * grain)) == pytest.approx(total, rel=0.01)
    spot = Spot(number_per_m2=7.5, counted=10_000, pieces=(500.0,) * m, factors=((20.0, 25.0),) * m)
    variation = Variation(
        place_var=places**2 + pieces**2 / m,
        place_df=99,
        place_assumed=False,
        piece_var=pieces**2,
        piece_df=99,
        piece_assumed=False,
    )
    known = GrainWeight(mean_g=280, relative_sd=weight, df=inf, low_g=250, high_g=310, known="weighed", words="")
    estimate = strip_estimate([spot] * n, variation, known)
    assert estimate.relative_se == pytest.approx(total, rel=1e-3)  # the finite area takes 5 of 10 000 off
    shares = {part.key: part.share for part in estimate.parts}
    assert shares["weight"] == pytest.approx(weight**2 / total**2, rel=1e-2)
    assert shares["pieces"] == pytest.approx(pieces**2 / (n * m) / total**2, rel=1e-2)


def test_the_relative_error_is_the_numeric_delta_method() -> None:
    """The same through g′Σg with a gradient taken by central differences of number × piece × weight itself."""
    means, errors = np.array([7.5, 500.0, 280.0]), np.array([0.6, 22.0, 9.0])

    def made(parts: np.ndarray) -> float:
        return float(np.prod(parts)) / 100

    steps = np.diag(means * 1e-5)
    gradient = np.array([(made(means + step) - made(means - step)) / (2 * step.sum()) for step in steps])
    delta = sqrt(float(gradient @ np.diag(errors**2) @ gradient)) / made(means)
    relative = errors / means
    variation = Variation(
        place_var=float(relative[0] ** 2 + relative[1] ** 2),
        place_df=50,
        place_assumed=False,
        piece_var=float(relative[1] ** 2),
        piece_df=50,
        piece_assumed=False,
    )
    spot = Spot(number_per_m2=7.5, counted=10**9, pieces=(500.0,), factors=((500.0,),))
    known = GrainWeight(mean_g=280, relative_sd=float(relative[2]), df=inf, low_g=260, high_g=300, known="weighed", words="")
    assert strip_estimate([spot], variation, known).relative_se == pytest.approx(delta, rel=1e-6)


def sampled_field(
    rng: np.random.Generator, strips: int, places: int, pieces: int
) -> tuple[dict[str, list[Spot]], dict[str, float]]:
    """A trial sampled at random from strips of known yield: places differ, ears differ, numbers and ears go together."""
    spots: dict[str, list[Spot]] = {}
    truth: dict[str, float] = {}
    for strip in range(strips):
        mean = 500 * rng.normal(1, 0.08)
        truth[str(strip)] = 7.0 * mean
        spots[str(strip)] = []
        for _ in range(places):
            local = rng.normal(1, 0.1)
            counted = max(int(round(28 * local * rng.normal(1, 0.05))), pieces)
            products = mean * (1 - 0.3 * (local - 1)) * rng.normal(1, 0.2, pieces)
            spots[str(strip)].append(
                Spot(
                    number_per_m2=counted / 4,
                    counted=counted,
                    pieces=tuple(products),
                    factors=tuple((product,) for product in products),
                )
            )
    return spots, truth


def test_intervals_cover_the_truth_about_as_often_as_they_say() -> None:
    """1500 strips in 125 simulated trials of two places and five ears; 90 % stated, within the 99.9 % binomial limits."""
    rng = np.random.default_rng(20)
    hits = trials = 0
    ratios = []
    for _ in range(125):
        spots, truth = sampled_field(rng, strips=12, places=2, pieces=5)
        variation = variation_of(spots)
        guess = 280 * exp(rng.normal(0, 0.04))
        weight = GrainWeight(mean_g=guess, relative_sd=0.04, df=inf, low_g=250, high_g=310, known="weighed", words="")
        for key, own in spots.items():
            estimate = strip_estimate(own, variation, weight)
            true = truth[key] * 280 / 100
            ratios.append(estimate.value / true)
            hits += estimate.lower <= true <= estimate.upper
            trials += 1
    # strips of a trial share the grain weight, so that the limits are widened by what 125 trials vary
    assert hits / trials == pytest.approx(0.90, abs=0.03)
    assert float(np.mean(ratios)) == pytest.approx(1.0, abs=0.015)


def test_places_alike_to_the_last_ear_do_not_make_an_estimate_certain() -> None:
    twins = [ears((16, 34), (16, 34))] * 2
    estimate = strip_estimate(twins, variation_of({"": twins}), KNOWN)
    assert estimate.parts[0].assumed
    assert estimate.upper > 1.15 * estimate.value


def test_one_place_a_strip_says_that_it_assumes() -> None:
    spot = ears((16, 34), (14, 30), (18, 36))
    estimate = strip_estimate([spot], variation_of({"": [spot]}), KNOWN)
    assert {part.key: part.assumed for part in estimate.parts} == {"places": True, "pieces": False, "weight": False}
    assert estimate.upper / estimate.value > exp(1.6 * 0.15)  # never narrower than the usual variation from count to count


@given(st.integers(1, 400), st.integers(1, 40), st.floats(0, 0.9999))
def test_pieces_drawn_are_different_ones_of_those_there(counted: int, wanted: int, start: float) -> None:
    taken = drawn_pieces(counted=counted, wanted=wanted, start=start)
    assert len(set(taken)) == len(taken) == min(counted, wanted)
    assert all(1 <= item <= counted for item in taken)
    assert list(taken) == sorted(taken)


@pytest.mark.parametrize(("counted", "wanted"), [(30, 5), (7, 5), (11, 4), (23, 10)])
def test_every_piece_is_drawn_as_often_as_any_other(counted: int, wanted: int) -> None:
    """Inclusion probability m ÷ N of every unit, by going through every start (systematic sampling, Cochran 1977)."""
    starts = [item / 9240 for item in range(9240)]  # a common multiple, so that edges fall alike on all units
    tally = np.zeros(counted)
    for start in starts:
        for number in drawn_pieces(counted=counted, wanted=wanted, start=start):
            tally[number - 1] += 1
    assert tally / len(starts) == pytest.approx(np.full(counted, wanted / counted), abs=wanted / 9240)


def test_the_same_place_gives_the_same_pieces_for_ever() -> None:
    """Fixed values: a change here would move plants that people have already been sent to."""
    assert [start_of((9902, 1, 3), place) for place in (1, 2)] == [start_of((9902, 1, 3), place) for place in (1, 2)]
    assert start_of((9902, 1, 3), 1) != start_of((9902, 1, 3), 2) != start_of((9902, 1, 4), 2)
    assert all(0 <= start_of((1, 1, strip), place) < 1 for strip in range(40) for place in range(6))


def test_grain_weight_in_all_ways_of_speaking() -> None:
    """0.01116 in a 56-lb bushel is 283.5 g per 1000 (definition); 1600 seeds/lb is 283.5 g as well."""
    bushel = crop("maize").bushel_kg or 0
    assert factor_to_thousand_weight_g(0.01116, bushel_kg=bushel) == pytest.approx(283.48, abs=0.01)
    assert thousand_weight_to_factor(factor_to_thousand_weight_g(0.0097, bushel_kg=bushel), bushel_kg=bushel) == pytest.approx(
        0.0097
    )
    assert "1600 seeds/lb" in calculator("factor").run({"factor": 0.01116, "crop": "maize"}, US).steps[1].outcome
    assert estimate_defaults("maize").grain_g == pytest.approx(
        [bushel * 1000 * ear_factor for ear_factor in EAR_FACTORS], abs=0.06
    )


def test_a_range_holds_nine_fields_in_ten() -> None:
    weight = weight_in_range(stressed_g=230, usual_g=280, excellent_g=330)
    assert weight.mean_g * exp(-1.6449 * weight.relative_sd) == pytest.approx(235, abs=5)
    assert weight.relative_sd == pytest.approx(100 / (2 * 1.6449 * 280), rel=1e-4)


def test_a_weighed_sample_is_brought_to_standard_moisture() -> None:
    """22.4 g of 500 at 18 %: 44.8 g per 1000, × 82 ÷ 86.5 = 42.47 g at 13.5 % (dry matter kept, by hand)."""
    sample = WeighedGrain(seeds=500, mass_g=22.4, moisture_pct=18)
    assert thousand_weight_g(sample, standard_moisture_pct=13.5) == pytest.approx(42.469, abs=1e-3)
    assert thousand_weight_g(sample, standard_moisture_pct=None) == pytest.approx(44.8)


def test_samples_and_seasons_narrow_the_range() -> None:
    usual = weight_in_range(stressed_g=230, usual_g=280, excellent_g=330)
    grain_weight = weight_of_samples([WeighedGrain(seeds=500, mass_g=150)], standard_moisture_pct=None)
    assert grain_weight.mean_g == 300
    assert grain_weight.relative_sd == pytest.approx(0.04)
    three = weight_of_samples([WeighedGrain(seeds=500, mass_g=mass) for mass in (148, 150, 152)], standard_moisture_pct=None)
    assert (three.df, three.relative_sd) == (2, pytest.approx(4 / 300 / sqrt(3)))
    assert weight_of_past([], usual) is usual
    single = weight_of_past([260], usual)
    assert (single.mean_g, single.relative_sd) == (260, usual.relative_sd)
    several = weight_of_past([260, 270, 280], usual)
    assert several.relative_sd == pytest.approx(10 / 270 * sqrt(1 + 1 / 3))
    assert several.low_g < 270 < several.high_g


def test_more_work_is_told_by_what_it_really_does() -> None:
    """The half-width promised for one more place is the one that the place brings when it is like the others."""
    spots = [ears((16, 34), (14, 30)), ears((16, 36), (18, 33))]
    variation = variation_of({"a": spots, "b": spots})
    weight = weight_in_range(stressed_g=230, usual_g=280, excellent_g=330)
    ways = ways_to_narrow(EARS, spots, variation, weight, where="on strip 7")
    by_key = {way.key: way for way in ways}
    assert by_key["place"].half_frac == pytest.approx(strip_estimate([*spots, spots[0]], variation, weight).half_frac)
    assert by_key["pieces"].words == "5 more ears on strip 7"
    now = strip_estimate(spots, variation, weight).half_frac
    assert all(way.half_frac < now for way in ways)
    assert [way.gain_per_minute for way in ways] == sorted((way.gain_per_minute for way in ways), reverse=True)
    assert "weigh" in by_key
    sure = weight_of_samples([WeighedGrain(seeds=500, mass_g=140)] * 4, standard_moisture_pct=None)
    assert "weigh" not in {way.key for way in ways_to_narrow(EARS, spots, variation, sure)}
    every = [ears((16, 34), (14, 30), number=2)] * 2
    assert "pieces" not in {way.key for way in ways_to_narrow(EARS, every, variation_of({"": every}), KNOWN)}


def test_every_crop_has_a_method_and_a_usual_range() -> None:
    for profile in PROFILES:
        defaults = estimate_defaults(profile.key)
        methods = [method_of(key) for key in defaults.methods]
        assert methods
        if any(method.gives == "seeds" for method in methods):
            assert defaults.grain_g is not None
            assert defaults.grain_g[0] < defaults.grain_g[1] < defaults.grain_g[2]
    assert {key for profile in PROFILES for key in estimate_defaults(profile.key).methods} == {method.key for method in METHODS}


def test_about_ten_ears_a_strip_are_drawn() -> None:
    """About ten ears at two or three spots, blindly (common practice, no source)."""
    assert EARS.places in (2, 3)
    assert EARS.places * EARS.drawn == 10


def _spot(method: str, **more: Any) -> Callable[[], object]:
    usual: dict[str, Any] = {"area_m2": 4.0, "number": 30, "pieces": [], "place": {}}
    return lambda: spot_of(method_of(method), **(usual | more))


EAR = {"kernel_rows": 16.0, "kernels_per_row": 34.0}
BAD: list[tuple[str, str, Callable[[], object]]] = [
    ("unknown_choice", "method", lambda: method_of("guess")),
    ("missing", "pieces", _spot("ears")),
    ("missing", "number", _spot("ears", number=None, pieces=[EAR])),
    ("missing", "kernels_per_row", _spot("ears", pieces=[{"kernel_rows": 16.0}])),
    ("not_a_count", "kernel_rows", _spot("ears", pieces=[EAR | {"kernel_rows": 15.5}])),
    ("too_large", "kernel_rows", _spot("ears", pieces=[EAR | {"kernel_rows": 160.0}])),
    ("too_large", "pieces", _spot("ears", number=2, pieces=[EAR] * 3)),
    ("too_large", "pieces", _spot("ears", number=200, pieces=[EAR] * 61)),
    ("not_positive", "area", _spot("ears", area_m2=0.0, pieces=[EAR])),
    ("too_large", "area", _spot("ears", area_m2=4_000.0, pieces=[EAR])),
    ("not_finite", "area", _spot("ears", area_m2=float("nan"), pieces=[EAR])),
    ("missing", "pods_opened", _spot("pods", pieces=[{"pods": 30.0}])),
    (
        "too_large",
        "empty_centre",
        _spot("discs", pieces=[{"diameter": 0.12, "empty_centre": 0.2, "filled_per_cm2": 6.0}]),
    ),
    ("tare_over_gross", "tare", _spot("counted", pieces=[{"gross": 0.1}], place={"tare": 0.2})),
    ("too_large", "pieces", _spot("counted", number=9, pieces=[{"gross": 0.5, "number_in": 10.0}])),
    ("missing", "gross", _spot("forage")),
    ("missing", "dm_wet", _spot("forage", place={"gross": 0.5})),
    ("too_large", "dm_dry", _spot("forage", place={"gross": 0.5, "dm_wet": 0.1, "dm_dry": 0.2})),
    ("missing", "companion_dm_pct", _spot("forage", place={"gross": 0.5, "dm_pct": 20.0, "companion_gross": 0.2})),
    ("too_small", "usual", lambda: weight_in_range(stressed_g=300, usual_g=280, excellent_g=330)),
    ("too_small", "seeds", lambda: thousand_weight_g(WeighedGrain(seeds=0, mass_g=3), standard_moisture_pct=14)),
    ("not_positive", "mass", lambda: thousand_weight_g(WeighedGrain(seeds=9, mass_g=-3), standard_moisture_pct=14)),
    (
        "too_large",
        "moisture",
        lambda: thousand_weight_g(WeighedGrain(seeds=9, mass_g=3, moisture_pct=140), standard_moisture_pct=14),
    ),
    ("missing", "samples", lambda: weight_of_samples([], standard_moisture_pct=14)),
    ("missing", "samples", lambda: strip_estimate([], variation_of({}), KNOWN)),
    ("too_large", "start", lambda: drawn_pieces(counted=30, wanted=5, start=1.0)),
]


@pytest.mark.parametrize(
    ("code", "field", "call"), BAD, ids=[f"{code}-{field}-{place}" for place, (code, field, _) in enumerate(BAD)]
)
def test_what_cannot_be_is_refused_by_its_name(code: str, field: str, call: Callable[[], object]) -> None:
    with pytest.raises(Refusal) as refused:
        call()
    assert (refused.value.code, refused.value.field) == (code, field)


def test_nothing_left_on_a_place_is_a_result() -> None:
    """A place where no bulb survived counts as nothing, not as missing."""
    none = spot_of(method_of("counted"), area_m2=2.0, number=0, pieces=[], place={"tare": 0.1})
    some = spot_of(method_of("counted"), area_m2=2.0, number=40, pieces=[{"gross": 0.06}], place={})
    assert none.per_m2 == 0
    assert value([none, some], None) == pytest.approx(20 * 0.06 / 2 * 10_000)
