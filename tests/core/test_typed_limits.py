"""Limits said in the unit typed: factors from the definitions of the units, and from Pint."""

from __future__ import annotations

import pint
import pytest
from cultrix_core.crops import crop
from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.typed_limits import TypedValue, in_typed_unit
from cultrix_core.units import parse_quantity
from hypothesis import given
from hypothesis import strategies as st

UREG: pint.UnitRegistry = pint.UnitRegistry()


def refused(text: str, dimension: str, unit: str, low: float, high: float, bushel_kg: float | None = None) -> Refusal:
    value = parse_quantity(text, dimension, unit, field="x", bushel_kg=bushel_kg)
    with pytest.raises(Refusal) as refusal:
        require_between(value, low, high, "x", label="Amount", unit=" SI")
    typed = TypedValue(text=text, dimension=dimension, unit=unit, canonical=value, bushel_kg=bushel_kg)
    return in_typed_unit(refusal.value, typed)


def test_a_limit_refused_in_bushels_speaks_bushels() -> None:
    """19 000 kg/ha of maize: 56 lb to the bushel, so 19 000 / 62.77 = 302.7 bu/ac (facts: 1 bu/ac is 62.77 kg/ha)."""
    worded = refused("900", "mass_per_area", "bu/ac", 50, 19_000, crop("maize").bushel_kg)
    assert worded.message == "Amount must be at most 302.7 bu/ac; got 900 bu/ac."
    assert float(str(worded.params["limit"])) == pytest.approx(19_000 / 62.77, abs=0.05)


def test_degrees_fahrenheit_keep_their_zero() -> None:
    worded = refused("140", "temperature", "F", -10, 45)
    assert worded.params["limit"] == "113"
    assert UREG.Quantity(45, "degC").to("degF").magnitude == pytest.approx(113)


def test_a_unit_that_runs_the_other_way_turns_the_limit() -> None:
    """At most 600 g a thousand is at least 756 seeds to the pound: 453 592 g of 1 000 seeds over 600."""
    worded = refused("500", "seed_mass", "seeds/lb", 1, 600)
    assert (worded.code, worded.params["limit"]) == ("too_small", "756")
    assert pytest.approx(756, abs=0.05) == 453_592.37 / 600


def test_other_refusals_stay_as_they_are() -> None:
    typed = TypedValue(text="3", dimension="length", unit="ft", canonical=0.9144)
    unknown = Refusal("unknown_choice", field="x", value="3", limit="a, b")
    assert in_typed_unit(unknown, typed) is unknown
    with pytest.raises(Refusal) as share:
        require_between(91.44, 1, 90, "x", unit=" %")
    assert in_typed_unit(share.value, typed) is share.value, "another number than the one typed was judged"


def test_a_value_that_is_not_positive_keeps_its_unit() -> None:
    typed = TypedValue(text="-3", dimension="length", unit="ft", canonical=-0.9144)
    with pytest.raises(Refusal) as refusal:
        require_positive(-0.9144, "x", label="Length")
    assert in_typed_unit(refusal.value, typed).message == "Length must be more than 0; got -3 ft. Check the sign and the unit."


@given(st.floats(min_value=0.1, max_value=900), st.sampled_from(["m", "cm", "ft", "in"]))
def test_the_limit_said_is_the_limit_held(high_m: float, unit: str) -> None:
    """A value on one side of the limit said lies on the same side of the limit held, to the digits shown."""
    worded = refused("1000000", "length", unit, 0, high_m)
    back = parse_quantity(str(worded.params["limit"]), "length", unit, field="x")
    assert back == pytest.approx(high_m, rel=1e-3)
