"""Calculators of stand and season as a person types into them: outcomes by hand, bad input by field."""

from __future__ import annotations

import pytest
from cultrix_core.calculators import calculator, read
from cultrix_core.errors import Refusal
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.working import Working

METRIC, US = UnitFormatter(system="metric", currency="€"), UnitFormatter(system="us", currency="$", bushel_kg=25.4)
Typed = dict[str, tuple[str, str]]


def run(key: str, typed: Typed, show: UnitFormatter = METRIC, crop: str = "maize", bushel: float | None = None) -> Working:
    entry = calculator(key)
    return entry.run(read(entry, typed, bushel_kg=bushel) | {"crop": crop}, show)


def outcome(working: Working, label: str) -> str:
    return next(step.outcome for step in working.steps if step.label == label)


def test_side_dressed_nitrogen_to_sulphur() -> None:
    """About 6 : 1, 180 with 30: common practice, no source. 30 kg of sulphur are 125 kg of a product with 24 %."""
    working = run("sulphur", {"rate": ("180", "kg/ha"), "ratio": ("6", ""), "content": ("24", "%")})
    assert working.outcome == "30.0 kg/ha of sulphur"
    assert outcome(working, "Product") == "125.0 kg/ha"
    in_pounds = run("sulphur", {"rate": ("180", "lb/ac"), "ratio": ("6", ""), "content": ("24", "%")}, US)
    assert in_pounds.outcome == "30.0 lb/ac of sulphur"


def test_counts_wanted() -> None:
    """CV 15 % within ±5 % at 90 %: 27 counts, t(26) = 1.7056 × 15 ÷ √27 = 4.92 (table of t from memory)."""
    assert run("counts_wanted", {"cv": ("15", "%"), "within": ("5", "%")}).outcome == "27 counts"
    assert run("counts_wanted", {"cv": ("200", "%"), "within": ("1", "%")}).outcome == "more than 200"


def test_a_tape_in_inches_is_the_same_tape() -> None:
    metric = run("tape_run", {"positions": ("0 10 14 24 40 65 95", "cm"), "reference": ("10", "cm")})
    inches = run("tape_run", {"positions": ("0 10 14 24 40 65 95", "in"), "reference": ("10", "in")}, US)
    assert metric.outcome == inches.outcome


def keep(**more: tuple[str, str]) -> Typed:
    typed: Typed = {
        "stand": ("4", "plants/m2"),
        "wanted": ("8", "plants/m2"),
        "full_yield": ("10", "t/ha"),
        "worth": ("100", "money/t"),
        "days_late": ("20", ""),
        "seed": ("100", "money/ha"),
        "passes": ("50", "money/ha"),
    }
    return typed | more


def test_keep_or_replant_by_hand() -> None:
    """Half the plants make 76 %, replanting 20 days late at 1 % a day 80 %: −4 % of 1000 and 150 saved leave +110."""
    working = run("keep_or_replant", keep())
    assert "+110.00 €/ha" in working.outcome
    own = run("keep_or_replant", keep(penalty=("0.5", "%"), half_stand_yield=("90", "%")))
    assert "+150.00 €/ha" in own.outcome  # 90 % against 90 %
    assert any("your own values" in step.source for step in own.steps)


def test_keep_or_replant_in_bushels_is_the_same_money() -> None:
    """10 t/ha at 100 a tonne, spoken per acre: the difference is 110 ÷ 2.4711 a acre."""
    us: Typed = {
        "stand": ("16187.4", "plants/ac"),
        "wanted": ("32374.9", "plants/ac"),
        "full_yield": ("159.32", "bu/ac"),
        "worth": ("2.54012", "money/bu"),
        "seed": ("40.4686", "money/ac"),
        "passes": ("20.2343", "money/ac"),
    }
    working = run("keep_or_replant", keep(**us), US, bushel=25.4012)
    assert "+44.5" in working.outcome


def test_crowns_from_tallies() -> None:
    typed: Typed = {
        "firm": ("6", ""),
        "doubtful": ("2", ""),
        "dead": ("2", ""),
        "shoots": ("5 7 9", ""),
        "plants": ("50", "plants/m2"),
    }
    working = run("crowns", typed)
    assert working.outcome == "80 % alive"
    assert outcome(working, "Shoots per area") == "280.0 /m²"
    with pytest.raises(Refusal) as refusal:
        run("crowns", typed | {"shoots": ("5 7 9 4 5 6 7 8 9", "")})
    assert refusal.value.field == "shoots"


def test_stage_and_heat_units_follow_the_crop() -> None:
    assert run("stage", {"leaves": ("5 5 6 4", "")}).outcome.startswith("V5")
    warm = run("heat_units", {"min": ("6", "C"), "max": ("24", "C"), "base": ("", ""), "upper": ("", "")})
    assert (outcome(warm, "Way 1"), outcome(warm, "Way 2")) == ("5.0 °C days", "7.0 °C days")
    own = run("heat_units", {"min": ("6", "C"), "max": ("24", "C"), "base": ("5", "C"), "upper": ("", "")})
    assert outcome(own, "Way 1") == "10.0 °C days"


@pytest.mark.parametrize(
    ("key", "typed", "field"),
    [
        ("counts_wanted", {"cv": ("0", "%"), "within": ("5", "%")}, "cv"),
        ("counts_wanted", {"cv": ("15", "%"), "within": ("", "%")}, "within"),
        ("tape_run", {"positions": ("0 10 8", "cm"), "reference": ("10", "cm")}, "positions"),
        ("tape_run", {"positions": ("0 10 20", "cm"), "reference": ("0", "cm")}, "reference"),
        ("keep_or_replant", keep(days_late=("200", "")), "days_late"),
        ("keep_or_replant", keep(half_stand_yield=("40", "%")), "half_stand_yield"),
        ("keep_or_replant", keep(worth=("0", "money/t")), "worth"),
        ("heat_units", {"min": ("24", "C"), "max": ("6", "C")}, "max"),
        ("sulphur", {"rate": ("-4", "kg/ha"), "ratio": ("6", ""), "content": ("24", "%")}, "rate"),
        ("stage", {"leaves": ("4.5", "")}, "leaves"),
        ("crowns", {"firm": ("2.5", ""), "doubtful": ("0", ""), "dead": ("0", "")}, "firm"),
    ],
)
def test_bad_input_is_refused_by_its_field(key: str, typed: Typed, field: str) -> None:
    with pytest.raises(Refusal) as refusal:
        run(key, typed)
    assert refusal.value.field == field
    assert refusal.value.message
