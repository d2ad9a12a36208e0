"""Machines against numpy-financial and the facts of the trade; the worked examples of the bench by hand."""

from __future__ import annotations

import numpy_financial as npf
import pytest
from cultrix_core.calculators import calculator, read
from cultrix_core.economics.machines import (
    Machine,
    area_per_hour_m2,
    area_to_pay_m2,
    earlier_days,
    recovery_factor,
    yearly_cost,
)
from cultrix_core.errors import Refusal
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.units import ACRE_M2, HA_M2
from cultrix_core.working import Working
from hypothesis import given
from hypothesis import strategies as st

METRIC = UnitFormatter(system="metric", bushel_kg=27.2155422, currency="€")


def bought(**other: float) -> Machine:
    given_ = {"price": 90_000, "salvage": 30_000, "years": 10, "interest_pct": 7} | other
    return Machine(**given_)  # type: ignore[arg-type]


def test_recovery_factor_is_that_of_the_tables() -> None:
    """7 % over 10 years: 0.142378 (any table of engineering economics)."""
    assert recovery_factor(0.07, 10) == pytest.approx(0.142378, abs=5e-7)
    assert recovery_factor(0.0, 8) == pytest.approx(1 / 8)


@given(st.floats(0.001, 0.5), st.integers(1, 40), st.floats(1000, 1e6), st.floats(0, 1))
def test_ownership_is_the_payment_of_numpy_financial(interest: float, years: int, price: float, kept: float) -> None:
    """A loan of the price that leaves the value at the end owing is paid off by the yearly ownership."""
    cost = yearly_cost(bought(price=price, salvage=kept * price, years=years, interest_pct=100 * interest))
    wanted = -npf.pmt(interest, years, price, -kept * price)
    assert cost.ownership == pytest.approx(float(wanted), rel=1e-9)


def test_a_machine_of_known_cost_and_the_acres_that_pay_it() -> None:
    """90 000, worth 30 000 after 10 years at 7 %: 10 642.65 a year; at 36 an acre 295.6 acres pay it (definition)."""
    yearly = yearly_cost(bought()).total
    assert yearly == pytest.approx(10_642.65, abs=0.01)
    area = area_to_pay_m2(yearly, 36 / ACRE_M2 * HA_M2)
    assert area is not None
    assert area / ACRE_M2 == pytest.approx(295.6, abs=0.05)


def test_shared_repaired_and_insured() -> None:
    whole, half = (yearly_cost(bought(repairs_pct=3, insurance_pct=1, share_pct=share)) for share in (100, 50))
    assert whole.repairs == pytest.approx(2700)
    assert whole.insurance == pytest.approx(900)
    assert half.total == pytest.approx(whole.total / 2)


def test_no_gain_pays_for_nothing() -> None:
    assert area_to_pay_m2(1000, 0) is None
    assert area_to_pay_m2(1000, -3) is None


def test_working_rate() -> None:
    """6 m at 8 km/h and 65 %: 3.12 ha an hour (definition: width in m × km/h ÷ 10 × efficiency)."""
    assert area_per_hour_m2(width_m=6, speed_km_h=8, efficiency_pct=65) / HA_M2 == pytest.approx(3.12)


def test_days_earlier_as_counted_hectare_by_hectare() -> None:
    """The mean day of sowing of 400 hectares, one by one, at 20 and at 40 a day."""
    value, two = (sum((number + 0.5) / rate for number in range(400)) / 400 for rate in (20, 40))
    result = earlier_days(area_m2=400 * HA_M2, first_m2_per_day=20 * HA_M2, second_m2_per_day=20 * HA_M2)
    assert result == pytest.approx(value - two, rel=1e-9)


def example(key: str, **changed: tuple[str, str]) -> Working:
    entry = calculator(key)
    typed = {item.name: item.metric for item in entry.inputs} | changed
    return entry.run(read(entry, typed, bushel_kg=27.2155422) | {"crop": "winter_wheat"}, METRIC)


def test_the_strip_till_bar_by_hand() -> None:
    """0.12 t × (210 − 12) = 23.76; + 58 − 31 = 50.76 a hectare; 46 000 × 0.1423775 + 18 000 × 7 % = 7 809.37."""
    told = example("machine_strip_till")
    outcomes = {step.label: step.outcome for step in told.steps}
    assert outcomes["Net gain per area"] == "+50.76 €/ha"
    assert outcomes["Ownership a year"].replace("\u202f", "") == "7809.37 €"
    assert outcomes["Area to pay"] == "204.3 ha"
    assert "loses" in told.outcome, "180 ha are fewer than it needs"


def test_the_second_planter_by_hand() -> None:
    """28.08 ha a day; 420 ÷ 56.16 − 420 ÷ 112.32 = 3.7 days; × 0.045 t × 198 − 5 = 28.32 a hectare."""
    outcomes = {step.label: step.outcome for step in example("machine_second_planter").steps}
    assert outcomes["Area a day of one planter"] == "28.1 ha"
    assert outcomes["Days earlier, on average"] == "3.7 days"
    assert outcomes["Net gain per area"] == "+28.32 €/ha"


def test_narrow_rows_that_do_not_pay_say_so() -> None:
    told = example("machine_narrow", wheels=("40", "money/ha"))
    assert told.outcome.startswith("it never pays")


def test_what_a_pass_costs() -> None:
    assert example("pass_cost").outcome == "29.00 €/ha"


@pytest.mark.parametrize(
    ("other", "code", "field"),
    [
        ({"price": 0}, "not_positive", "price"),
        ({"salvage": 95_000}, "too_large", "salvage"),
        ({"salvage": -1}, "too_small", "salvage"),
        ({"years": 0}, "too_small", "years"),
        ({"interest_pct": -1}, "too_small", "interest"),
        ({"repairs_pct": 101}, "too_large", "repairs"),
        ({"share_pct": 0}, "too_small", "share"),
    ],
)
def test_refusals(other: dict[str, float], code: str, field: str) -> None:
    with pytest.raises(Refusal) as refused:
        yearly_cost(bought(**other))
    assert (refused.value.code, refused.value.field) == (code, field)
