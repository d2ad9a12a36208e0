"""What cannot be told apart: worked cases, variance inflation against statsmodels, and no false alarm on drawn designs."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from cultrix_core.cli import main
from cultrix_core.design.audit import Finding, audit
from cultrix_core.design.randomise import complete_blocks
from cultrix_core.errors import Refusal
from statsmodels.stats.outliers_influence import variance_inflation_factor

from tests.core.references import FOLDER


def only(findings: tuple[Finding, ...]) -> Finding:
    [finding] = findings
    return finding


def test_frost_and_cultivation_cannot_be_told_apart() -> None:
    """Cultivated strips on 2 May with one machine, uncultivated ones on 9 June with another: two findings, two sentences."""
    tillage = ["cultivated", "direct"] * 4
    day = ["2026-05-02", "2026-06-09"] * 4
    machine = ["Drill 3 m", "Drill 6 m"] * 4
    blocks = [str(place // 2) for place in range(8)]
    found = {finding.against: finding for finding in audit(tillage, {"sowing day": day, "machine": machine, "block": blocks})}
    assert found["sowing day"].kind == found["machine"].kind == "identical"
    assert found["sowing day"].inflation is None
    assert found["block"].kind == "balanced"
    assert found["block"].inflation == pytest.approx(1.0)
    assert "cultivated had 2026-05-02, direct had 2026-06-09" in found["sowing day"].sentence


def test_inflation_of_a_line_is_that_of_statsmodels() -> None:
    draw = np.random.default_rng(4)
    treatment = [0] * 12 + [1] * 12
    place = np.array(treatment) * 3.0 + draw.normal(0, 1, 24)
    finding = only(audit(["A" if item == 0 else "B" for item in treatment], {"curing time": [f"{v:.6f}" for v in place]}))
    design = np.column_stack([np.ones(24), treatment, np.round(place, 6)])
    assert finding.inflation == pytest.approx(variance_inflation_factor(design, 1), rel=1e-9)


def test_inflation_of_classes_by_hand() -> None:
    """3 of 4 strips of A by one person and 1 of 4 of B: R² of the treatment on persons is ¼, so 1 ÷ (1 − ¼) = 1.333."""
    finding = only(audit(list("AAAABBBB"), {"operator": ["x", "x", "x", "y", "x", "y", "y", "y"]}))
    assert finding.inflation == pytest.approx(4 / 3)
    assert finding.kind == "balanced"


def test_nearly_from_five_on() -> None:
    """n strips each, all but one alike: R² = (1 − 2/n)², so 1 ÷ (1 − R²) is 2.9 for ten strips and 5.3 for twenty (by hand)."""
    for size, kind in ((10, "balanced"), (20, "nearly")):
        persons = ["x"] * (size - 1) + ["y"] + ["y"] * (size - 1) + ["x"]
        finding = only(audit(["A"] * size + ["B"] * size, {"operator": persons}))
        assert finding.inflation == pytest.approx(1 / (1 - (1 - 2 / size) ** 2))
        assert finding.kind == kind


def test_a_third_treatment_links_two() -> None:
    """A by one machine, B by the other, C by both: A − B is (A − C) by the first less (B − C) by the second."""
    treatments = ["A"] * 4 + ["B"] * 4 + ["C"] * 4
    machines = ["m1"] * 4 + ["m2"] * 4 + ["m1", "m1", "m2", "m2"]
    found = {finding.treatments: finding for finding in audit(treatments, {"machine": machines})}
    assert all(finding.kind != "identical" for finding in found.values())
    assert found["A", "B"].inflation == pytest.approx((1 / 4 + 1 / 4 + 1 / 2 + 1 / 2) / (1 / 2))


def test_what_says_nothing_is_passed_over() -> None:
    strips = [f"strip {place}" for place in range(8)]
    same = ["Long Terrace"] * 8
    blank = ["Tobin", "", "", "", "", "", "", ""]
    assert audit(["A", "B"] * 4, {"strip": strips, "field": same, "person": blank}) == ()


@pytest.mark.parametrize("treatments", [2, 3, 6])
def test_no_false_alarm_on_drawn_blocks(treatments: int) -> None:
    """Blocks, places and a person a block, over 60 draws: nothing is inseparable and nothing nearly so."""
    for seed in range(60):
        names = list("ABCDEF"[:treatments])
        plan = complete_blocks(names, blocks=5, seed=seed)
        labels = [strip.cell for strip in plan] if hasattr(plan[0], "cell") else [strip.treatment for strip in plan]
        blocks = [str(strip.block) for strip in plan]
        places = [str(place) for place in range(len(plan))]
        persons = ["x" if int(block) % 2 else "y" for block in blocks]
        found = audit(labels, {"block": blocks, "place": places, "person": persons})
        assert {finding.kind for finding in found} == {"balanced"}


def test_simulated_kinds_are_found() -> None:
    """Of two treatments by 12 strips on two days: all of one on one day is found always, a coin's toss never called so."""
    draw = np.random.default_rng(12)
    wrong = 0
    for _ in range(300):
        treatments = ["A"] * 12 + ["B"] * 12
        tossed = [str(value) for value in draw.integers(0, 2, 24)]
        wrong += any(finding.kind != "balanced" for finding in audit(treatments, {"day": tossed}))
        tied = ["1"] * 12 + ["2"] * 12
        assert only(audit(treatments, {"day": tied})).kind == "identical"
    assert wrong <= 3, "a toss reaches an inflation of 5 in fewer than one in a hundred"


@pytest.mark.parametrize("name", ["o07_splitplot_oats", "o27_stripplot_rice_missing"])
def test_no_reference_case_is_called_inseparable(name: str) -> None:
    raw = json.loads((FOLDER / f"{name}.json").read_text())
    columns = {key: [str(row[key]) for row in raw["data"]] for key in raw["data"][0]}
    factors = [key for key in columns if key in ("variety", "nitro", "gen", "planting", "fert", "nitrogen")]
    blocks = next(key for key in columns if key in ("block", "rep"))
    for factor in factors:
        assert {finding.kind for finding in audit(columns[factor], {"block": columns[blocks]})} <= {"balanced"}


def run(tmp_path: Path, capsys: pytest.CaptureFixture[str], *arguments: str) -> tuple[int, Any]:
    path = tmp_path / "strips.csv"
    rows = ["t,day,machine,block", *(f"{'AB'[place % 2]},{2 + place % 2},m{place % 2},{place // 2}" for place in range(8))]
    path.write_text("\n".join(rows))
    code = main(["audit", str(path), *arguments, "--json"])
    text = capsys.readouterr()
    return code, json.loads(text.out) if code == 0 else text.err


def test_the_command(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    code, answer = run(tmp_path, capsys, "--treatment", "t", "--against", "day", "machine", "--against", "block")
    assert code == 0
    kinds = {finding["against"]: finding["kind"] for finding in answer["findings"]}
    assert kinds == {"day": "identical", "machine": "identical", "block": "balanced"}
    assert answer["findings"][0]["treatments"] == ["A", "B"]


@pytest.mark.parametrize(
    "arguments", [("--treatment", "t", "--against", "weather"), ("--treatment", "t", "--against", "day", "day")]
)
def test_the_command_refuses_in_one_line(
    arguments: tuple[str, ...], tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    code, text = run(tmp_path, capsys, *arguments)
    assert code == 2
    assert text.count("\n") == 1


def test_tables_that_are_none() -> None:
    for treatments, against, code in (
        (["A", "A"], {"day": ["1", "2"]}, "too_few_treatments"),
        (["A", "B"], {"day": ["1"]}, "lengths_differ"),
        ([f"T{place}" for place in range(70)], {}, "too_large"),
    ):
        with pytest.raises(Refusal) as refused:
            audit(treatments, against)
        assert refused.value.code == code
