"""Units against the Pint library and the definitions of the trade."""

from __future__ import annotations

import pint
import pytest
from cultrix_core.crops import PROFILES, crop
from cultrix_core.errors import Refusal
from cultrix_core.units import CANONICAL, UNITS, Unit, from_canonical, parse_count, parse_number, parse_quantity, to_canonical
from hypothesis import given
from hypothesis import strategies as st

UREG = pint.UnitRegistry()
UREG.define("international_acre = 43560 * foot ** 2")
PINT_NAMES = {
    "m": "meter",
    "cm": "centimeter",
    "mm": "millimeter",
    "ft": "foot",
    "in": "inch",
    "m2": "meter**2",
    "ha": "hectare",
    "ft2": "foot**2",
    "ac": "international_acre",
    "kg": "kilogram",
    "g": "gram",
    "t": "metric_ton",
    "lb": "pound",
    "/m2": "1/meter**2",
    "/ha": "1/hectare",
    "k/ha": "1000/hectare",
    "/ft2": "1/foot**2",
    "/ac": "1/international_acre",
    "k/ac": "1000/international_acre",
    "/m": "1/meter",
    "/ft": "1/foot",
    "kg/ha": "kilogram/hectare",
    "t/ha": "metric_ton/hectare",
    "cwt/ac": "US_hundredweight/international_acre",
    "ton/ac": "short_ton/international_acre",
    "lb/ac": "pound/international_acre",
    "cm2": "centimeter**2",
    "in2": "inch**2",
    "plants/m2": "1/meter**2",
    "kplants/ha": "1000/hectare",
    "plants/ft2": "1/foot**2",
    "plants/ac": "1/international_acre",
    "bags/ha": "1/hectare",
    "bags/ac": "1/international_acre",
    "oz": "ounce",
    "g/m": "gram/meter",
    "lb/kft": "pound/(1000*foot)",
    "km/h": "kilometer/hour",
    "mph": "mile/hour",
    "kg/hL": "kilogram/hectoliter",
    "lb/bu": "pound/(2150.42*inch**3)",
    "L/ha": "liter/hectare",
    "L/ac": "liter/international_acre",
    "C.d": "delta_degC*day",
    "F.d": "delta_degF*day",
    "gal/ac": "gallon/international_acre",
    "h/ha": "hour/hectare",
    "h/ac": "hour/international_acre",
    "kPa": "kilopascal",
    "MPa": "megapascal",
    "psi": "pound_force_per_square_inch",
    "money/L": "1/liter",
    "money/gal": "1/gallon",
}


def plain(unit: Unit) -> bool:
    return unit.code in PINT_NAMES


@pytest.mark.parametrize("unit", [unit for unit in UNITS if plain(unit)], ids=lambda item: item.code)
def test_factors_are_those_of_pint(unit: Unit) -> None:
    wanted = UREG.parse_expression(f"1 * {PINT_NAMES[unit.code]}").to(PINT_NAMES[CANONICAL[unit.dimension]]).magnitude
    assert to_canonical(1.0, unit.dimension, unit.code) == pytest.approx(wanted, rel=1e-12)


def test_every_unit_is_checked_somewhere() -> None:
    money_and_counts = {
        "money/ha",
        "money/ac",
        "money/t",
        "money/kg",
        "money/lb",
        "money/cwt",
        "money/ton",
        "money/bu",
        "money",
        "money/h",
        "",
    }
    others = {"bu/ac", "g/1000", "seeds/lb", "%", "C", "F", "d", "ear_factor"} | money_and_counts
    assert {unit.code for unit in UNITS} == set(PINT_NAMES) | others


@pytest.mark.parametrize(
    ("amount", "dimension", "code", "wanted"),
    [
        (1, "area", "ac", 4046.8564224),  # 43 560 ft², international foot (definition)
        (1, "mass", "lb", 0.45359237),  # definition
        (1, "length", "in", 0.0254),  # definition
        (1, "areal_density", "/ft2", 10.763910416709722),  # definition
    ],
)
def test_definitions(amount: float, dimension: str, code: str, wanted: float) -> None:
    assert to_canonical(amount, dimension, code) == pytest.approx(wanted, rel=1e-12)


@pytest.mark.parametrize("fahrenheit", [-40.0, 32.0, 41.0, 50.0, 212.0])
def test_degrees_are_those_of_pint(fahrenheit: float) -> None:
    wanted = UREG.Quantity(fahrenheit, "degF").to("degC").magnitude
    assert to_canonical(fahrenheit, "temperature", "F") == pytest.approx(wanted, abs=1e-9)
    assert from_canonical(wanted, "temperature", "F") == pytest.approx(fahrenheit, abs=1e-9)


@pytest.mark.parametrize(("key", "wanted"), [("maize", 62.77), ("soybean", 67.25), ("winter_wheat", 67.25)])
def test_bushels_by_crop(key: str, wanted: float) -> None:
    """1 bu/ac of a 56-lb crop is 62.77 kg/ha, of a 60-lb crop 67.25 kg/ha (definition)."""
    assert round(to_canonical(1, "mass_per_area", "bu/ac", bushel_kg=crop(key).bushel_kg), 2) == wanted


def test_price_by_bushel_and_ton_agree() -> None:
    """A price is the same money for the same grain: 5.60 a 56-lb bushel is 0.10 a lb, 220.46 a tonne."""
    maize = crop("maize").bushel_kg
    assert to_canonical(5.60, "price", "money/bu", bushel_kg=maize) == pytest.approx(
        to_canonical(0.10, "price", "money/lb"), rel=1e-12
    )
    assert to_canonical(0.10, "price", "money/lb") == pytest.approx(220.46226, rel=1e-6)
    assert to_canonical(200.0, "price", "money/ton") == pytest.approx(to_canonical(0.10, "price", "money/lb"), rel=1e-12)
    assert to_canonical(10.0, "price", "money/cwt") == pytest.approx(to_canonical(0.10, "price", "money/lb"), rel=1e-12)
    assert to_canonical(0.2, "price", "money/kg") == pytest.approx(200)


def test_money_per_area() -> None:
    assert to_canonical(1, "money_per_area", "money/ac") == pytest.approx(2.4710538, rel=1e-7)


def test_seed_weight_both_ways() -> None:
    """3000 seeds a pound weigh 151.2 g per 1000 (definition: 453 592.37 mg ÷ 3000)."""
    assert to_canonical(3000, "seed_mass", "seeds/lb") == pytest.approx(151.19746, rel=1e-6)
    assert from_canonical(to_canonical(2800, "seed_mass", "seeds/lb"), "seed_mass", "seeds/lb") == pytest.approx(2800)


@given(st.sampled_from(UNITS), st.floats(min_value=1e-6, max_value=1e9))
def test_there_and_back(unit: Unit, value: float) -> None:
    bushel = 27.2155 if unit.bushel else None
    canonical = to_canonical(value, unit.dimension, unit.code, bushel_kg=bushel)
    assert from_canonical(canonical, unit.dimension, unit.code, bushel_kg=bushel) == pytest.approx(value, rel=1e-9)


@pytest.mark.parametrize(
    ("text", "wanted"),
    [("12.5", 12.5), ("12,5", 12.5), ("0,250", 0.25), (" 1 250 ", 1250.0), ("−3", -3.0), ("+.5", 0.5), ("7.", 7.0)],
)
def test_numbers_as_people_type_them(text: str, wanted: float) -> None:
    assert parse_number(text, field="x") == wanted


@pytest.mark.parametrize(
    ("text", "code"),
    [
        ("", "missing"),
        ("  ", "missing"),
        ("twelve", "not_a_number"),
        ("1.2.3", "not_a_number"),
        ("1e5", "not_a_number"),
        ("nan", "not_a_number"),
        ("inf", "not_a_number"),
        ("1,250", "ambiguous_number"),
        ("12;5", "not_a_number"),
        ("9" * 30, "not_a_number"),
    ],
)
def test_numbers_that_are_none(text: str, code: str) -> None:
    with pytest.raises(Refusal) as refusal:
        parse_number(text, field="price", label="Price")
    assert refusal.value.code == code
    assert refusal.value.field == "price"
    assert refusal.value.message.startswith("Price")


@pytest.mark.parametrize("text", ["4o", "3.5", "-2", "1e3", "", "12 plants"])
def test_counts_that_are_none(text: str) -> None:
    with pytest.raises(Refusal) as refusal:
        parse_count(text, field="plants")
    assert refusal.value.code in ("not_a_count", "missing")


def test_quantities() -> None:
    assert parse_quantity("30", "length", "in", field="x") == pytest.approx(0.762)
    with pytest.raises(Refusal, match="cannot be given in"):
        parse_quantity("30", "length", "kg", field="x")
    with pytest.raises(Refusal, match="weight of a bushel"):
        parse_quantity("30", "mass_per_area", "bu/ac", field="x")


@pytest.mark.parametrize(
    ("key", "bushel", "moisture"),
    [  # United States customary test weights and base moistures, from memory
        ("maize", 56, 15.5),
        ("soybean", 60, 13.0),
        ("winter_wheat", 60, 13.5),
        ("sorghum", 56, 14.0),
        ("barley", 48, None),
        ("oats", 32, None),
        ("oilseed_rape", 50, 10.0),
        ("field_pea", 60, 16.0),
        ("sunflower", None, 10.0),
    ],
)
def test_crop_defaults(key: str, bushel: float | None, moisture: float | None) -> None:
    assert crop(key).bushel_lb == bushel
    if moisture is not None:
        assert crop(key).standard_moisture_pct == moisture


def test_unknown_crop() -> None:
    with pytest.raises(Refusal) as refusal:
        crop("dragonfruit")
    assert refusal.value.code == "unknown_choice"
    assert len({profile.key for profile in PROFILES}) == len(PROFILES)


@pytest.mark.parametrize(
    ("key", "cv"),
    [("winter_wheat", 8), ("maize", 8), ("sunflower", 10), ("sorghum", 10)],  # common practice, no source
)
def test_planning_spread(key: str, cv: float) -> None:
    assert crop(key).planning_cv_pct == cv


def test_the_factor_of_the_ear_method() -> None:
    """90 000 kernels in a bushel of 56 lb is a factor of 1000 ÷ 90 000, and 282 g per 1000 (common practice, no source)."""
    bushel = crop("maize").bushel_kg
    assert bushel == pytest.approx(56 * 0.45359237)
    weight = to_canonical(1000 / 90_000, "grain_mass", "ear_factor", bushel_kg=bushel)
    assert weight == pytest.approx(282.2, abs=0.1)
    assert from_canonical(weight, "grain_mass", "ear_factor", bushel_kg=bushel) == pytest.approx(1000 / 90_000)
    assert to_canonical(1607.2, "grain_mass", "seeds/lb") == pytest.approx(weight, rel=1e-3)
    assert to_canonical(3.5, "duration", "d") == 3.5
