"""Numbers as they are read, tables as they are brought in, and the working of every calculator."""

from __future__ import annotations

import pytest
from cultrix_core.calculators import CALCULATORS, Calculator, calculator, read
from cultrix_core.errors import Refusal
from cultrix_core.tables import map_strips, read_table
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.writing import NARROW

METRIC = UnitFormatter(system="metric", bushel_kg=25.4, currency="€")
US = UnitFormatter(system="us", bushel_kg=25.4, currency="$")


@pytest.mark.parametrize(
    ("value", "decimals", "signed", "wanted"),
    [
        (1234.5, 1, False, "1234.5"),
        (12345.6, 0, False, f"12{NARROW}346"),
        (-0.004, 2, False, "0.00"),
        (-3.25, 2, False, "−3.25"),
        (3.25, 2, True, "+3.25"),
        (0.0, 1, True, "0.0"),
        (float("nan"), 1, False, "–"),
    ],
)
def test_numbers(value: float, decimals: int, signed: bool, wanted: str) -> None:
    assert format_number(value, decimals, signed=signed) == wanted


def test_units_follow_the_reader_and_the_crop() -> None:
    assert METRIC.text(7000, "yield") == "7.00 t/ha"
    assert US.text(7000, "yield").endswith(" bu/ac")
    assert UnitFormatter(system="us").text(7000, "yield").endswith(" lb/ac"), "no bushel, so by weight"
    assert METRIC.text(220, "price") == "220.00 €/t"
    assert US.text(220, "price").endswith("$/bu")
    assert UnitFormatter(system="metric", sparse=True).text(7.5, "density") == "75.0 thousand/ha"


TEXT = "block;rate;yield\nI;100;5,2\nI;150;5,6\nII;100;NA\nII;150;6,1\n"


def test_a_table_with_semicolons_and_decimal_commas() -> None:
    rows, problems = map_strips(read_table(TEXT), block="block", treatment="rate", response="yield")
    assert not problems
    assert [(row.line, row.block, row.treatment, row.response) for row in rows] == [
        (2, "I", "100", 5.2),
        (3, "I", "150", 5.6),
        (4, "II", "100", None),
        (5, "II", "150", 6.1),
    ]


def test_problems_are_named_by_row_and_column() -> None:
    text = "block,rate,yield\nI,100,5.2\n,150,5.6\nII,100,five\nII,150,-3\n"
    _, problems = map_strips(read_table(text), block="block", treatment="rate", response="yield")
    assert [(problem.line, problem.column) for problem in problems] == [(3, "block"), (4, "yield"), (5, "yield")]
    assert "five" in problems[1].text
    assert "negative" in problems[2].text


def test_a_missing_column_is_said_with_what_there_is() -> None:
    _, problems = map_strips(read_table("a,b,c\n1,2,3\n"), block="a", treatment="b", response="grain")
    assert problems[0].text == "The column for the response, “grain”, is not in the file. It has: a, b, c."


def test_one_column_cannot_be_two_things() -> None:
    _, problems = map_strips(read_table("a,b\n1,2\n"), block="a", treatment="a", response="b")
    assert "three different columns" in problems[0].text


@pytest.mark.parametrize(
    ("text", "code"),
    [
        ("", "missing"),
        ("a,b,c\n", "missing"),
        ("a,a,c\n1,2,3\n", "duplicate"),
        ("\x00\x01", "not_a_number"),
        ("a,b\n" + "1,2\n" * 5_001, "too_large"),
        (",".join(f"c{n}" for n in range(101)) + "\n1\n", "too_large"),
    ],
    ids=["empty", "header only", "column twice", "binary", "too many rows", "too many columns"],
)
def test_tables_that_are_none(text: str, code: str) -> None:
    with pytest.raises(Refusal) as refusal:
        read_table(text)
    assert refusal.value.code == code


def _example(entry: Calculator, show: UnitFormatter) -> dict[str, object]:
    crop = "lucerne" if entry.key == "seedbed" else "winter_wheat"
    typed = {item.name: item.metric if show.system == "metric" else item.us for item in entry.inputs}
    return read(entry, typed, bushel_kg=show.bushel_kg) | {"crop": crop}


@pytest.mark.parametrize("show", [METRIC, US], ids=["metric", "us"])
@pytest.mark.parametrize("entry", CALCULATORS, ids=lambda item: item.key)
def test_every_calculator_shows_its_working(entry: Calculator, show: UnitFormatter) -> None:
    working = entry.run(_example(entry, show), show)
    assert working.steps
    assert working.assumption
    assert all(step.label and step.numbers and step.outcome for step in working.steps)
    assert all(step.formula or step.source for step in working.steps)
    numbers = {step.outcome.split(" ")[0] for step in working.steps}
    assert any(number in working.outcome for number in numbers), "one of the steps is the answer"
    if entry.key not in ("ears_acre", "pods"):
        assert not any("nan" in step.outcome or "–" in step.outcome for step in working.steps)


def test_the_answer_of_a_calculator_is_the_figure_of_the_trade() -> None:
    """Ears through the bench: 30 × 16 × 34 × 0.01116 = 182.1 bu/ac (definition)."""
    working = calculator("ears_acre").run({"ears": 30, "kernel_rows": [16], "kernels_per_row": [34], "factor": 0.01116}, US)
    assert working.outcome.startswith("182.1 bu/ac")


def test_an_unknown_calculator_and_half_a_row() -> None:
    with pytest.raises(Refusal):
        calculator("horoscope")
    with pytest.raises(Refusal) as refusal:
        calculator("stand").run({"plants": 10, "length": 1, "rows": 1.5, "row_spacing": 0.5}, METRIC)
    assert refusal.value.code == "not_a_count"
