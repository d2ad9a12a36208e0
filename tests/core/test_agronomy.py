"""Row lengths, counts, rates, components, loads and money against the trade's own figures."""

from __future__ import annotations

import pytest
from cultrix_core.crops import crop
from cultrix_core.economics.break_even import break_even
from cultrix_core.economics.budgets import budget
from cultrix_core.economics.costs import treatment_cost
from cultrix_core.errors import Refusal
from cultrix_core.estimate import components
from cultrix_core.harvest.loads import net_mass, questions_on_load, strip_yield, to_standard_moisture
from cultrix_core.seeding.rates import kg_per_ha, row_geometry, seeds_per_m2
from cultrix_core.stand.row_lengths import (
    count_in_quadrat,
    count_on_rows,
    count_working,
    share_of_seed_pct,
    thousandth_length,
)
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.units import ACRE_M2, FT_M, IN_M
from hypothesis import given
from hypothesis import strategies as st

METRIC = UnitFormatter(system="metric")


@pytest.mark.parametrize(
    ("inches", "rows", "share", "exact_ft", "tape"),
    [
        (30, 1, 1e-3, 17.424, "17 ft 5 in"),
        (20, 1, 1e-3, 26.136, "26 ft 2 in"),
        (15, 1, 1e-3, 34.848, "34 ft 10 in"),
        (15, 2, 1e-3, 17.424, "17 ft 5 in"),  # two rows
        (40, 1, 1e-3, 13.068, "13 ft 1 in"),
        (30, 1, 1e-4, 20.909 / 12, "21 in"),
        (15, 2, 1e-4, 20.909 / 12, "21 in"),  # two rows
        (7.5, 4, 1e-4, 20.909 / 12, "21 in"),  # four rows
    ],
)
def test_row_length_of_a_thousandth_acre(inches: float, rows: int, share: float, exact_ft: float, tape: str) -> None:
    """Exact by definition; tape values are common practice, no source, and lie within 0.6 %."""
    length = thousandth_length(inches * IN_M, system="us", rows=rows, share=share)
    assert length.exact_m / FT_M == pytest.approx(exact_ft, abs=0.00005 if share == 1e-3 else 0.00005 / 1.2)
    assert length.tape_text == tape
    assert abs(length.bias_frac) < 0.006
    assert length.tape_m / length.exact_m - 1 == pytest.approx(length.bias_frac, abs=1e-12)


def test_the_handy_17_and_a_half_feet_is_known_to_be_long() -> None:
    """Some use 17.5 ft at 30 in: bias +0.4 % (common practice, no source)."""
    exact = thousandth_length(30 * IN_M, system="us").exact_m / FT_M
    assert round(100 * (17.5 / exact - 1), 1) == 0.4


def test_row_length_of_a_thousandth_hectare() -> None:
    """10 m² of 0.75-m rows (definition)."""
    length = thousandth_length(0.75, system="metric")
    assert round(length.exact_m, 3) == 13.333
    assert length.tape_text == "13.33 m"
    assert length.share_text == "1/1 000 ha"


def test_seventeen_inch_square() -> None:
    """17 × 17 in is 2.007 ft², "two square feet" (definition)."""
    count = count_in_quadrat(20, area_m2=(17 * IN_M) ** 2)
    assert round(count.area_m2 / FT_M**2, 3) == 2.007
    assert count.plants_per_m2 == pytest.approx(20 / (2.0069444 * FT_M**2), rel=1e-6)


@given(st.integers(0, 500), st.floats(0.05, 1.5), st.integers(1, 12))
def test_a_thousandth_acre_counts_in_thousands_per_acre(plants: int, spacing: float, rows: int) -> None:
    """Counting the exact 1/1000 acre gives thousands an acre at any row width."""
    length = thousandth_length(spacing, system="us", rows=rows).exact_m
    count = count_on_rows(plants, length_m=length, rows=rows, row_spacing_m=spacing)
    assert count.plants_per_m2 * ACRE_M2 == pytest.approx(1000 * plants, rel=1e-9)


@pytest.mark.parametrize("width", [6, 7.5, 12, 15, 20, 30, 36])
def test_plants_per_foot_of_row(width: float) -> None:
    """× 12/width gives plants per ft²; equal only at 12 in (definition)."""
    count = count_on_rows(8, length_m=FT_M, rows=1, row_spacing_m=width * IN_M)
    per_ft2 = count.plants_per_m2 * FT_M**2
    assert per_ft2 == pytest.approx(8 * 12 / width, rel=1e-12)
    assert (abs(per_ft2 - 8) < 1e-9) == (width == 12)


def test_share_of_the_seed() -> None:
    assert share_of_seed_pct(240, 320) == 75
    with pytest.raises(Refusal):
        share_of_seed_pct(240, 0)


@pytest.mark.parametrize(
    ("width_in", "per_acre", "spacing_in"),
    [(30, 32_000, 6.534), (60, 32_000, 3.267), (15, 140_000, 2.987)],
)
def test_in_row_spacing(width_in: float, per_acre: float, spacing_in: float) -> None:
    """Definition: 6 272 640 ÷ (row width × seeds per acre)."""
    geometry = row_geometry(seeds_per_m2=per_acre / ACRE_M2, row_spacing_m=width_in * IN_M)
    assert round(geometry.in_row_spacing_m / IN_M, 3) == spacing_in
    assert geometry.in_row_spacing_m / IN_M == pytest.approx(6_272_640 / (width_in * per_acre), rel=1e-12)


@pytest.mark.parametrize(("seeds", "pounds"), [(20, 0.89), (40, 1.78), (80, 3.57), (160, 7.14)])
def test_pounds_an_acre(seeds: float, pounds: float) -> None:
    """Definition, at a thousand-seed weight of 5 g."""
    kg = kg_per_ha(seeds, thousand_seed_weight_g=5)
    assert round(kg / 0.45359237 * ACRE_M2 / 1e4, 2) == pounds
    assert seeds_per_m2(pounds, "lb/ac", thousand_seed_weight_g=5) == pytest.approx(seeds, rel=0.006)


def test_a_weight_needs_the_seed_weight() -> None:
    with pytest.raises(Refusal) as refusal:
        seeds_per_m2(150, "kg/ha")
    assert refusal.value.code == "needs_seed_weight"


@given(st.floats(1, 900), st.floats(0.5, 400))
def test_rate_there_and_back(seeds: float, weight: float) -> None:
    by_weight = kg_per_ha(seeds, thousand_seed_weight_g=weight)
    assert seeds_per_m2(by_weight, "kg/ha", thousand_seed_weight_g=weight) == pytest.approx(seeds, rel=1e-12)


def test_ears_in_a_thousandth_acre() -> None:
    """Definition; the handy 90 000 kernels a bushel is common practice, no source."""
    result = components.ears_bu_per_ac(ears_in_thousandth=30, kernel_rows=16, kernels_per_row=34, factor=0.01116)
    assert round(result, 2) == 182.13
    for factor, kernels in ((0.009, 111_111), (0.01116, 89_606), (0.013, 76_923)):
        assert round(components.kernels_per_bushel(factor)) == kernels
    assert round(1000 / 90_000, 5) == 0.01111


def test_pods_in_a_ten_thousandth_acre() -> None:
    """At 3000 seeds/lb the divisor is 18; 420 pods × 2.4 at 2800 give 60.0 (common practice and arithmetic)."""
    assert components.pods_bu_per_ac(pods_in_ten_thousandth=18, seeds_per_pod=1, seeds_per_lb=3000) == pytest.approx(1)
    assert components.pods_bu_per_ac(pods_in_ten_thousandth=420, seeds_per_pod=2.4, seeds_per_lb=2800) == pytest.approx(60)


def test_an_empty_centre_wider_than_the_disc_is_refused() -> None:
    with pytest.raises(Refusal):
        components.disc_seeds(diameter_cm=4, empty_centre_cm=18, filled_per_cm2=6)


def test_standard_moisture() -> None:
    """Definition: 100 at 18.2 % to 15.5 % is 96.805."""
    assert round(to_standard_moisture(100, moisture_pct=18.2, standard_pct=15.5), 3) == 96.805


@given(st.floats(10, 9e4), st.floats(3, 60), st.floats(3, 60))
def test_dry_matter_is_kept(mass: float, moisture: float, standard: float) -> None:
    turned = to_standard_moisture(mass, moisture_pct=moisture, standard_pct=standard)
    assert turned * (100 - standard) == pytest.approx(mass * (100 - moisture), rel=1e-12)


def test_a_load_becomes_a_yield() -> None:
    """2155 kg from 5.4 m × 320 m at 15 %: 12.471 t/ha wet, × 85/86.5 at 13.5 % (by hand)."""
    result = strip_yield(net_kg=2155, swath_width_m=5.4, length_m=320, moisture_pct=15, standard_moisture_pct=13.5)
    assert result.area_m2 == pytest.approx(1728)
    assert result.yield_kg_per_ha == pytest.approx(2155 / 0.1728 * 85 / 86.5, rel=1e-12)


def test_without_a_standard_the_yield_stays_as_weighed() -> None:
    result = strip_yield(net_kg=100, swath_width_m=5, length_m=200, moisture_pct=None, standard_moisture_pct=None)
    assert result.yield_kg_per_ha == result.wet_kg_per_ha == pytest.approx(1000)


def test_a_standard_asks_for_the_moisture() -> None:
    with pytest.raises(Refusal) as refusal:
        strip_yield(net_kg=100, swath_width_m=5, length_m=200, moisture_pct=None, standard_moisture_pct=13.5)
    assert (refusal.value.code, refusal.value.field) == ("missing", "moisture")


@pytest.mark.parametrize(
    ("arguments", "code", "field"),
    [
        ({"moisture_pct": 130.0}, "too_large", "moisture"),
        ({"moisture_pct": -1.0}, "too_small", "moisture"),
        ({"swath_width_m": -5.0}, "not_positive", "swath_width"),
        ({"length_m": 0.0}, "not_positive", "length"),
        ({"net_kg": float("nan")}, "not_finite", "net"),
    ],
)
def test_loads_that_cannot_be(arguments: dict[str, float], code: str, field: str) -> None:
    usual = {"net_kg": 100.0, "swath_width_m": 5.0, "length_m": 200.0, "moisture_pct": 14.0, "standard_moisture_pct": 13.5}
    with pytest.raises(Refusal) as refusal:
        strip_yield(**(usual | arguments))
    assert (refusal.value.code, refusal.value.field) == (code, field)


def test_tare_over_gross() -> None:
    assert net_mass(gross_kg=7600, tare_kg=5600) == 2000
    with pytest.raises(Refusal, match="swapped"):
        net_mass(gross_kg=5600, tare_kg=7600)


def _questions(**arguments: object) -> set[str]:
    usual: dict[str, object] = {
        "profile": crop("winter_wheat"),
        "yield_kg_per_ha": 7000.0,
        "moisture_pct": 14.0,
        "swath_width_m": 5.4,
        "strip_width_m": 6.0,
        "tare_given": True,
        "expected_kg_per_ha": 7050.0,
        "show": METRIC,
    }
    return {question.code for question in questions_on_load(**(usual | arguments))}  # type: ignore[arg-type]


def test_believable_loads_raise_no_question() -> None:
    assert _questions() == set()


@pytest.mark.parametrize(
    "odd",
    [
        {"yield_kg_per_ha": 19_000.0},
        {"moisture_pct": 45.0},
        {"swath_width_m": 9.0},
        {"tare_given": False},
        {"yield_kg_per_ha": 2_000.0},
    ],
    ids=lambda item: next(iter(item)),
)
def test_odd_loads_are_questioned(odd: dict[str, object]) -> None:
    assert _questions(**odd)


def test_break_even() -> None:
    """Definition: 18 / (9.00 − 0.30) = 2.069, in whatever unit price and cost share."""
    result = break_even(extra_cost_per_ha=18, price_per_t=9.00, unit_cost_per_t=0.30)
    assert result.gain_kg_per_ha is not None
    assert round(result.gain_kg_per_ha / 1000, 3) == 2.069


def test_break_even_in_bushels() -> None:
    """In the trade's own units: 18 an acre, 9.00 and 0.30 a bushel of 56 lb gives 2.069 bu/ac."""
    bushel = crop("maize").bushel_kg or 0
    result = break_even(
        extra_cost_per_ha=18 * 1e4 / ACRE_M2, price_per_t=9.00 * 1000 / bushel, unit_cost_per_t=0.30 * 1000 / bushel
    )
    assert result.gain_kg_per_ha is not None
    assert round(result.gain_kg_per_ha / bushel * ACRE_M2 / 1e4, 3) == 2.069


def test_break_even_of_a_saving_and_of_nothing() -> None:
    saved = break_even(extra_cost_per_ha=-18, price_per_t=9, unit_cost_per_t=0.3)
    assert saved.gain_kg_per_ha == pytest.approx(2069, abs=0.5), "what may be lost before the saving is gone"
    assert break_even(extra_cost_per_ha=0, price_per_t=9).gain_kg_per_ha is None
    with pytest.raises(Refusal) as refusal:
        break_even(extra_cost_per_ha=18, price_per_t=0.2, unit_cost_per_t=0.3)
    assert refusal.value.code == "price_not_above_cost"


@given(st.floats(1, 500), st.floats(50, 400), st.floats(0, 40), st.floats(1000, 12_000))
def test_a_gain_at_break_even_leaves_the_money_where_it_was(extra: float, price: float, cost: float, base: float) -> None:
    money = break_even(extra_cost_per_ha=extra, price_per_t=price, unit_cost_per_t=cost)
    more, none = (treatment_cost(stated_per_ha=value) for value in (extra, 0.0))
    prices = {"price_per_t": price, "unit_cost_per_t": cost}
    gained = budget(base + (money.gain_kg_per_ha or 0), more, **prices).net_per_ha
    assert gained == pytest.approx(budget(base, none, **prices).net_per_ha, rel=1e-9, abs=1e-6)


def test_plants_per_foot_of_row_equal_plants_per_square_foot_at_twelve_inches_only() -> None:
    """× 12 ÷ row width in inches, by definition: the same at 12 in, two fifths of it at 30 in."""
    us = UnitFormatter(system="us")
    for width_in, same in ((12, True), (30, False)):
        count = count_on_rows(50, length_m=10 * FT_M, rows=1, row_spacing_m=width_in * IN_M)
        working = count_working(count, "10 ft of row", us, row_m=10 * FT_M)
        along = next(step.outcome for step in working.steps if step.label == "Along the row")
        assert along == "5.00 /ft of row"
        assert count.plants_per_m2 * FT_M**2 == pytest.approx(5 * 12 / width_in)
        assert (working.outcome.split(" ")[0] == "5.00") is same
