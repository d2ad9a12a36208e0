"""Yield of a strip from its loads, and what an odd load is held against."""

from __future__ import annotations

from typing import Any

import pytest
from cultrix_core.crops import PROFILES, crop
from cultrix_core.errors import Refusal
from cultrix_core.harvest.beside import Beside, questions_beside
from cultrix_core.harvest.hectolitre_weight import kg_per_hl, lb_per_bu
from cultrix_core.harvest.loads import (
    LoadShare,
    loads_working,
    net_mass,
    strip_yield,
    to_standard_moisture,
    yield_of_loads,
    yield_working,
)
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.units import to_canonical
from hypothesis import given
from hypothesis import strategies as st

METRIC = UnitFormatter(system="metric", currency="€", bushel_kg=crop("winter_wheat").bushel_kg, sparse=False)


def load(**changes: Any) -> Any:
    """1180 kg of wheat at 14.2 % from 5.4 m × 300 m."""
    given_ = {"net_kg": 1180.0, "swath_width_m": 5.4, "length_m": 300.0, "moisture_pct": 14.2, "standard_moisture_pct": 13.5}
    return strip_yield(**(given_ | changes))


def test_standard_moisture_by_the_definition() -> None:
    """H1: 100 at 18.2 % to 15.5 % is 96.805 (by hand: 100 × 81.8 ÷ 84.5)."""
    assert to_standard_moisture(100, moisture_pct=18.2, standard_pct=15.5) == pytest.approx(96.805, abs=5e-4)


@given(st.floats(1, 1e5), st.floats(0, 60), st.floats(0, 30))
def test_dry_matter_is_kept(mass: float, moisture: float, standard: float) -> None:
    final = to_standard_moisture(mass, moisture_pct=moisture, standard_pct=standard)
    assert final * (100 - standard) == pytest.approx(mass * (100 - moisture), rel=1e-12)
    assert to_standard_moisture(final, moisture_pct=standard, standard_pct=moisture) == pytest.approx(mass, rel=1e-9)


def test_legal_test_weights_and_base_moistures() -> None:
    """H2 and H3, United States customary, from memory: lb/bu and percent."""
    known = {
        "maize": (56, 15.5),
        "soybean": (60, 13.0),
        "winter_wheat": (60, 13.5),
        "sorghum": (56, 14.0),
        "barley": (48, None),
        "oats": (32, None),
        "oilseed_rape": (50, 10.0),
        "field_pea": (60, 16.0),
        "sunflower": (None, 10.0),
    }
    for key, (bushel, moisture) in known.items():
        profile = crop(key)
        assert profile.bushel_lb == bushel, key
        if moisture is not None:
            assert profile.standard_moisture_pct == moisture, key


def test_test_weight_converts_both_ways() -> None:
    """60 lb in 2150.42 cubic inches: 77.2 kg/hL (by hand, 27.2155 kg ÷ 0.352391 hL)."""
    assert kg_per_hl(60) == pytest.approx(77.23, abs=0.01)
    assert lb_per_bu(kg_per_hl(56)) == pytest.approx(56)
    assert to_canonical(60, "test_weight", "lb/bu") == pytest.approx(kg_per_hl(60))


def test_passes_make_the_area() -> None:
    """Two passes of 5.4 m are one swath of 10.8 m."""
    twice, wide = load(passes=2, net_kg=2360.0), load(swath_width_m=10.8, net_kg=2360.0)
    assert twice.yield_kg_per_ha == pytest.approx(wide.yield_kg_per_ha)
    assert twice.area_m2 == pytest.approx(3240)
    words = yield_working(twice, METRIC, gross_kg=None, tare_kg=None, swath_width_m=5.4, length_m=300, passes=2)
    assert any(step.numbers.endswith("× 2") for step in words.steps)


def test_shrink_is_taken_off_last_and_said() -> None:
    """7.283951 t/ha as cut, 7.225 at standard, less 1.4 % (by hand)."""
    result = load(shrink_pct=1.4)
    assert result.yield_kg_per_ha == pytest.approx(1180 / 1620 * 1e4 * 85.8 / 86.5 * 0.986)
    words = yield_working(result, METRIC, gross_kg=None, tare_kg=None, swath_width_m=5.4, length_m=300)
    assert words.steps[-1].label == "Less handling shrink"
    assert words.steps[-1].outcome == words.outcome


def test_forage_is_reckoned_as_dry_matter() -> None:
    """950 kg at 68 % from 0.1 ha: 3.04 t/ha of dry matter (by hand)."""
    profile = crop("lucerne")
    result = load(
        net_kg=950.0, swath_width_m=5.0, length_m=200.0, moisture_pct=68.0, standard_moisture_pct=profile.standard_moisture_pct
    )
    assert result.yield_kg_per_ha == pytest.approx(3040)
    words = yield_working(result, METRIC, gross_kg=None, tare_kg=None, swath_width_m=5, length_m=200)
    assert words.steps[-1].label == "Dry matter"


@pytest.mark.parametrize(
    ("changes", "field"),
    [
        ({"net_kg": 0.0}, "net"),
        ({"swath_width_m": -1.0}, "swath_width"),
        ({"length_m": 0.0}, "length"),
        ({"moisture_pct": 120.0}, "moisture"),
        ({"moisture_pct": None}, "moisture"),
        ({"passes": 0}, "passes"),
        ({"passes": 51}, "passes"),
        ({"shrink_pct": -1.0}, "shrink"),
        ({"shrink_pct": 30.0}, "shrink"),
    ],
)
def test_loads_that_cannot_be_are_refused(changes: dict[str, Any], field: str) -> None:
    with pytest.raises(Refusal) as refused:
        load(**changes)
    assert refused.value.field == field


def test_a_tare_over_the_gross_is_refused() -> None:
    with pytest.raises(Refusal, match="swapped"):
        net_mass(gross_kg=5620, tare_kg=7365)


def test_loads_of_a_strip_weigh_by_their_area() -> None:
    """7 t/ha on two thirds of the strip, 8.5 on the rest: 7.5 (by hand)."""
    shares = [LoadShare(yield_kg_per_ha=7000, area_m2=2000), LoadShare(yield_kg_per_ha=8500, area_m2=1000)]
    assert yield_of_loads(shares) == pytest.approx(7500)
    assert loads_working(shares, METRIC).outcome == METRIC.text(7500, "yield")
    stated = [LoadShare(yield_kg_per_ha=7000, area_m2=None), LoadShare(yield_kg_per_ha=8500, area_m2=None)]
    assert yield_of_loads(stated) == pytest.approx(7750)


CASES: list[tuple[dict[str, Any], list[str]]] = [
    ({}, []),
    ({"estimate": (6000.0, 6800.0, 7600.0)}, []),
    ({"estimate": (9000.0, 9800.0, 10_600.0)}, ["off_estimate"]),
    ({"estimate": (7200.0, 7600.0, 8000.0)}, []),  # outside the interval, yet less than a fifth off
    ({"expected": 7100.0}, []),
    ({"expected": 10_000.0}, ["off_expected"]),
    ({"expected": None}, []),  # alone in its treatment
    ({"same_weights": [3]}, ["same_weights"]),
    ({"test_weight_kg_hl": 77.0, "legal_lb_bu": 60.0}, []),
    ({"test_weight_kg_hl": 60.0, "legal_lb_bu": 60.0}, ["odd_test_weight"]),  # lb/bu typed as kg/hL
    ({"test_weight_kg_hl": 60.0, "legal_lb_bu": None}, []),
    ({"piece_kg": 0.060, "other_piece_kg": 0.055}, []),
    ({"piece_kg": 0.6, "other_piece_kg": 0.055}, ["odd_pieces"]),
]


@pytest.mark.parametrize(("around", "codes"), CASES)
def test_what_an_odd_load_is_held_against(around: dict[str, Any], codes: list[str]) -> None:
    asked = questions_beside(7000, Beside(**around), METRIC)
    assert [question.code for question in asked] == codes
    assert all(question.text.rstrip().endswith(("?", ".")) for question in asked)


@pytest.mark.parametrize("profile", PROFILES, ids=lambda profile: profile.key)
def test_a_plain_load_of_every_crop_raises_nothing(profile: Any) -> None:
    usual = profile.believable_yield_kg_per_ha / 2
    around = Beside(
        estimate=(0.8 * usual, usual, 1.2 * usual),
        expected=1.05 * usual,
        test_weight_kg_hl=kg_per_hl(profile.bushel_lb) if profile.bushel_lb else None,
        legal_lb_bu=profile.bushel_lb,
    )
    assert questions_beside(usual, around, METRIC) == ()
