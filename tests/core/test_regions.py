"""Region profiles: units as the trade of each place has them, and what people change of them."""

from __future__ import annotations

from datetime import date

import pytest
from cultrix_core.crops import PROFILES, crop
from cultrix_core.errors import Refusal
from cultrix_core.regions import CANADA, EUROPE, QUANTITIES, REGIONS, SYSTEM_REGION, UNITED_STATES, region_profile
from cultrix_core.unit_formatting import DECIMALS, KINDS, UnitFormatter, feet_and_inches, format_number
from cultrix_core.units import FT_M, IN_M, find_unit, parse_number, parse_quantity
from cultrix_core.writing import WRITINGS, written_as, written_day
from hypothesis import given
from hypothesis import strategies as st


# Common practice of the trade in each place, no source.
@pytest.mark.parametrize(
    ("region", "key", "amount", "price", "stand"),
    [
        (UNITED_STATES, "maize", "bu/ac", "money/bu", "/ac"),
        (UNITED_STATES, "soybean", "bu/ac", "money/bu", "/ac"),
        (UNITED_STATES, "dry_bean", "cwt/ac", "money/cwt", "/ac"),
        (UNITED_STATES, "sunflower", "lb/ac", "money/cwt", "/ac"),
        (UNITED_STATES, "lucerne", "ton/ac", "money/ton", "/ft2"),
        (CANADA, "oilseed_rape", "bu/ac", "money/bu", "/ft2"),
        (CANADA, "dry_bean", "lb/ac", "money/lb", "/ac"),
        (EUROPE, "winter_wheat", "t/ha", "money/t", "/m2"),
        (EUROPE, "maize", "t/ha", "money/t", "k/ha"),
    ],
)
def test_yield_price_and_stand_follow_the_crop(region, key, amount, price, stand) -> None:  # type: ignore[no-untyped-def]
    units = region.units_for(crop(key))
    assert (units["yield"], units["price"], units["density"]) == (amount, price, stand)


def test_units_of_each_place_by_quantity() -> None:
    us, canada, europe = (profile.units_for(None) for profile in (UNITED_STATES, CANADA, EUROPE))
    assert (us["temperature"], canada["temperature"], europe["temperature"]) == ("F", "C", "C")
    assert (us["nutrient_rate"], canada["nutrient_rate"], europe["nutrient_rate"]) == ("lb/ac", "kg/ha", "kg/ha")
    assert (us["seed_rate_mass"], canada["seed_rate_mass"], europe["seed_rate_mass"]) == ("lb/ac", "lb/ac", "kg/ha")
    assert (us["row_spacing"], canada["row_spacing"], europe["row_spacing"]) == ("in", "in", "cm")
    assert (us["seed_mass"], canada["seed_mass"], us["money_per_area"]) == ("seeds/lb", "g/1000", "money/ac")
    assert [profile.paper for profile in (UNITED_STATES, CANADA, EUROPE)] == ["Letter", "Letter", "A4"]


@pytest.mark.parametrize("region", REGIONS, ids=lambda item: item.key)
def test_every_kind_has_a_unit_of_its_dimension_for_every_crop(region) -> None:  # type: ignore[no-untyped-def]
    own = set(region.own_units())
    for profile in (None, *PROFILES):
        units = region.units_for(profile)
        assert set(units) == set(KINDS)
        for kind, code in units.items():
            find_unit(KINDS[kind][0], code)
            assert code in own, (kind, code)
    assert set(region.crops()) == {item.key for item in PROFILES}
    assert tuple(region.crops()[: len(region.crops_first)]) == region.crops_first


def test_a_person_who_chose_a_system_reads_a_region_of_it() -> None:
    """The formatter of plain metric reads as Europe does, so that nothing printed before has changed."""
    for system, region in SYSTEM_REGION.items():
        assert region.system == system
    for profile in PROFILES:
        plain = UnitFormatter(system="metric", bushel_kg=profile.bushel_kg, sparse=profile.sparse_stand)
        region = EUROPE.formatter(profile, currency="€")
        for kind in KINDS.keys() - {"plants"}:
            assert (plain.unit_code(kind), plain.decimals(kind)) == (region.unit_code(kind), region.decimals(kind)), kind


def test_what_people_change_holds_for_every_crop() -> None:
    here = region_profile("us", {"units": {"yield": "lb/ac", "temperature": "C"}, "alpha": 0.2, "writing": "day_first"})
    assert here.units_for(crop("maize"))["yield"] == "lb/ac"
    assert here.units_for(crop("maize"))["price"] == "money/bu"
    assert here.units_for(None)["temperature"] == "C"
    assert "F" not in here.own_units()
    assert "C" in here.own_units()
    assert (here.alpha, here.writing, here.paper) == (0.2, "day_first", "Letter")
    assert region_profile("us").alpha == UNITED_STATES.alpha, "the profile itself stays"


@pytest.mark.parametrize(
    ("key", "changes", "code", "field"),
    [
        ("mars", {}, "unknown_choice", "region"),
        ("us", {"units": {"speed": "furlongs"}}, "unknown_unit", "units"),
        ("us", {"units": {"warp": "mph"}}, "unknown_choice", "units"),
        ("us", {"units": {"yield": "bu/ac"}}, "unit_by_crop", "units"),
        ("us", {"paper": "A3"}, "unknown_choice", "paper"),
        ("us", {"writing": "roman"}, "unknown_choice", "writing"),
        ("us", {"alpha": 0.9}, "too_large", "alpha"),
        ("us", {"crops_first": ["maize", "maize"]}, "unknown_choice", "crops_first"),
        ("us", {"crops_first": ["triffid"]}, "unknown_choice", "crops_first"),
        ("us", {"moon": 1}, "unknown_choice", "region"),
    ],
)
def test_what_cannot_be_is_refused(key, changes, code, field) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(Refusal) as refused:
        region_profile(key, changes)
    assert (refused.value.code, refused.value.field) == (code, field)
    assert refused.value.message


def test_quantities_people_choose_are_kinds_that_are_shown() -> None:
    assert set(QUANTITIES) <= set(KINDS)
    for kind, code in DECIMALS:
        find_unit(KINDS[kind][0], code)


def test_decimals_of_a_chosen_unit_keep_the_resolution() -> None:
    def shown(kind: str, code: str, value: float) -> str:
        return UnitFormatter(system="metric", bushel_kg=25.4, units={kind: code}).text(value, kind)

    assert shown("yield", "kg/ha", 8123.4) == "8123 kg/ha"
    assert shown("row_spacing", "mm", 0.125) == "125 mm"
    assert shown("strip_length", "cm", 300.0) == "30\u202f000 cm"
    assert shown("fuel", "L/ac", 12.0) == "4.9 L/ac"
    assert shown("density", "/ac", 7.93) == "32\u202f100 /ac", "a stand is not known to the plant"


def test_row_lengths_are_read_as_on_a_tape() -> None:
    """1/1000 of an acre at 30-inch rows is 17 ft 5 in: handbook tables have it so; 43.56 ft² ÷ 2.5 ft = 17.424 ft."""
    us = UNITED_STATES.formatter(None, currency="$")
    assert us.text(17.424 * FT_M, "row_length") == "17 ft 5.1 in"
    assert us.text(17.424 * FT_M, "tape_length") == "17.424 ft", "in a working it can be multiplied"
    assert feet_and_inches(3.9999) == "4 ft 0 in"
    assert EUROPE.formatter(None, currency="€").text(5.3, "row_length") == "5.300 m"


@pytest.mark.parametrize("text", ["17 ft 5 in", "17' 5\"", "17'5", "17 feet 5 inches", "17 ft 5", "17\u2032 5\u2033"])
def test_feet_and_inches_are_read(text: str) -> None:
    assert parse_quantity(text, "length", "ft", field="length") == pytest.approx(17 * FT_M + 5 * IN_M, rel=1e-12)


def test_feet_and_inches_belong_to_feet() -> None:
    with pytest.raises(Refusal):
        parse_quantity("17 ft 5 in", "length", "m", field="length")


@given(st.integers(0, 60), st.integers(0, 119))
def test_a_length_in_feet_and_inches_survives(feet: int, tenths: int) -> None:
    text = feet_and_inches(feet + tenths / 120)
    assert parse_quantity(text, "length", "ft", field="length") == pytest.approx(feet * FT_M + tenths / 10 * IN_M, abs=1e-9)


def test_a_comma_is_read_as_the_place_writes_it() -> None:
    with pytest.raises(Refusal, match="1,250"):
        parse_number("1,250", field="x")
    with written_as("month_first"):
        assert parse_number("1,250", field="x") == 1250
        assert parse_number("12,5", field="x") == 12.5
        assert format_number(1_234_567.0, 0) == "1,234,567"
        assert format_number(9876.0, 0) == "9876"
    assert format_number(1_234_567.0, 0) == "1\u202f234\u202f567"


def test_days_are_written_as_the_place_does() -> None:
    day = date(2026, 11, 3)
    result = []
    for writing in WRITINGS:
        with written_as(writing.key):
            result.append(written_day(day))
    assert result == ["3 Nov 2026", "Nov 3, 2026", "3 Nov 2026"]
