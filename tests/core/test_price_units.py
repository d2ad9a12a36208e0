"""A price typed in another unit than meant is asked about. Definitions: a bushel of soybeans is 60 lb, a tonne 2 204.62 lb."""

from __future__ import annotations

import pytest
from cultrix_core.crops import PROFILES, crop
from cultrix_core.economics.price_units import meant_unit
from cultrix_core.units import from_canonical, to_canonical


@pytest.mark.parametrize(
    ("value", "unit", "key", "meant"),
    [
        (10.40, "money/lb", "soybean", "money/bu"),  # 624 a bushel
        (10.40, "money/bu", "soybean", None),
        (10.40, "money/t", "soybean", "money/bu"),
        (220.0, "money/bu", "winter_wheat", "money/t"),  # 8 083 a tonne
        (220.0, "money/t", "winter_wheat", None),
        (32.0, "money/t", "dry_bean", "money/cwt"),  # dry beans are sold by the hundredweight
        (32.0, "money/cwt", "dry_bean", None),
        (0.30, "money/t", "dry_bean", "money/lb"),
    ],
)
def test_the_unit_that_was_meant(value: float, unit: str, key: str, meant: str | None) -> None:
    result = meant_unit(value, unit, crop(key), currency="$")
    assert (result.code if result else None) == meant


def test_the_units_of_the_reader_come_first() -> None:
    garlic = crop("garlic")
    metric, us = (meant_unit(5.0, "money/t", garlic, currency="€", system=system) for system in ("metric", "us"))
    assert metric is not None
    assert us is not None
    assert (metric.code, us.code) == ("money/kg", "money/lb")


def test_ten_forty_a_pound_is_six_hundred_and_twenty_four_a_bushel() -> None:
    bushel = crop("soybean").bushel_kg
    per_t = to_canonical(10.40, "price", "money/lb")
    assert from_canonical(per_t, "price", "money/bu", bushel_kg=bushel) == pytest.approx(624)


def test_nothing_is_asked_in_a_currency_whose_prices_are_not_known() -> None:
    assert meant_unit(10.40, "money/lb", crop("soybean"), currency="Ft") is None
    assert meant_unit(-1, "money/lb", crop("soybean"), currency="$") is None


@pytest.mark.parametrize("profile", PROFILES, ids=lambda profile: profile.key)
def test_the_usual_price_raises_no_question(profile) -> None:  # type: ignore[no-untyped-def]
    low, high = profile.usual_price_per_t
    assert low < high
    for price in (low, high):
        assert meant_unit(price, "money/t", profile, currency="€") is None
