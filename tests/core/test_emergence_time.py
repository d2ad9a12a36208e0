"""Time to emergence from counts days apart: against R on a reference case, closed forms, and what people type wrong."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from cultrix_core.cli import main
from cultrix_core.errors import Refusal
from cultrix_core.stand.emergence_time import StripCounts, Way, fit_common_shape, fit_time, intervals_of
from cultrix_core.stats.compare import StripResponse, compare

CASE = json.loads((Path(__file__).parents[1] / "reference" / "curves" / "o46_emergence_three_depths.json").read_text())
EXPECTED = CASE["expected"]
WAYS: dict[str, Way] = {
    "all_sown_right_censored": "all-sown",
    "emerged_only": "emerged",
    "three_parameter": "three-parameter",
}


def strips_of(rows: list[dict[str, Any]]) -> list[StripCounts]:
    by: dict[str, list[dict[str, Any]]] = {}
    for row in rows:
        by.setdefault(row["strip"], []).append(row)
    return [
        StripCounts(
            strip=name,
            treatment=own[0]["trt"],
            block=own[0]["block"],
            days=tuple(row["day"] for row in own),
            emerged=tuple(row["emerged"] for row in own),
            sown=own[0]["sown"],
        )
        for name, own in by.items()
    ]


STRIPS = strips_of(CASE["data"])


@pytest.mark.parametrize("key", WAYS)
def test_every_treatment_as_in_r(key: str) -> None:
    """survreg and nlminb of the reference case, within its suggested tolerance."""
    for row in EXPECTED[key]["rows"]:
        fit = fit_time([strip for strip in STRIPS if strip.treatment == row["trt"]], WAYS[key])
        assert fit.t50 == pytest.approx(row["t50"], rel=1e-5)
        assert fit.se_t50 == pytest.approx(row["se_t50"], rel=1e-3)
        assert fit.shape == pytest.approx(row["shape"], rel=1e-4)
        assert fit.se_shape == pytest.approx(row["se_shape"], rel=1e-3)
        assert fit.loglik == pytest.approx(row["loglik"], abs=1e-5)
        if "final_fraction" in row:
            assert fit.final == pytest.approx(row["final_fraction"], rel=1e-5)
            assert fit.se_final == pytest.approx(row["se_final_fraction"], rel=1e-3)


def test_the_intervals_are_those_of_the_case() -> None:
    own = [row for row in EXPECTED["intervals"] if row["strip"] == "P1" and row["n"] > 0]
    found = intervals_of([strip for strip in STRIPS if strip.strip == "P1"])
    assert list(found.lower) == [row["lo"] for row in own]
    assert list(found.upper) == [np.inf if row["hi"] is None else row["hi"] for row in own]
    assert list(found.counts) == [row["n"] for row in own]


def test_a_common_shape_with_errors_by_strip_as_in_r() -> None:
    wanted = EXPECTED["common_shape_clustered"]
    found = fit_common_shape(STRIPS, ["25mm", "40mm", "65mm"])
    assert found.shape == pytest.approx(wanted["shape"], rel=1e-4)
    assert found.loglik == pytest.approx(wanted["loglik"], abs=1e-5)
    for place, row in enumerate(wanted["t50"]):
        assert found.t50[place] == pytest.approx(row["t50"], rel=1e-5)
        assert found.se[place] == pytest.approx(row["se_naive"], rel=1e-3)
        assert found.se_clustered[place] == pytest.approx(row["se_clustered"], rel=1e-3)
    for (name, estimate, se, robust), row in zip(found.log_ratios, wanted["log_ratio_to_first"], strict=True):
        assert name == row["trt"]
        assert estimate == pytest.approx(row["estimate"], rel=1e-5)
        assert se == pytest.approx(row["se_naive"], rel=1e-3)
        assert robust == pytest.approx(row["se_clustered"], rel=1e-3)


def test_the_strip_is_the_unit() -> None:
    """log t50 of every strip, then blocks and treatments, as in R."""
    wanted = EXPECTED["strip_as_unit"]
    logs = {strip.strip: float(np.log(fit_time([strip], "emerged").t50)) for strip in STRIPS}
    for row in wanted["strips"]:
        assert logs[row["strip"]] == pytest.approx(row["log_t50"], rel=1e-5)
    rows = [StripResponse(treatment=strip.treatment, block=strip.block, response=logs[strip.strip]) for strip in STRIPS]
    result = compare(rows, design="rcbd", levels=["25mm", "40mm", "65mm"])
    for pair, row in zip(result.pairs, wanted["pairs"], strict=True):
        assert pair.estimate == pytest.approx(row["estimate"], rel=1e-4)
        assert pair.se == pytest.approx(row["se"], rel=1e-4)
        assert pair.p_adjusted == pytest.approx(row["p_tukey"], rel=1e-3)


def strip(days: tuple[float, ...], emerged: tuple[float, ...], sown: float = 100, name: str = "P1") -> StripCounts:
    return StripCounts(strip=name, treatment="A", block="1", days=days, emerged=emerged, sown=sown)


def test_two_counts_are_solved_by_hand() -> None:
    """Of those up by the last count the likelihood of two intervals is fitted exactly: F(8) = 40 ÷ 100, F(12) = 90 ÷ 100."""
    fit = fit_time([strip((8, 12), (40, 90))], "all-sown")
    odds = np.log([0.4 / 0.6, 0.9 / 0.1])
    shape = (odds[1] - odds[0]) / np.log(12 / 8)
    assert fit.shape == pytest.approx(shape, rel=1e-5)
    assert fit.t50 == pytest.approx(8 * np.exp(-odds[0] / shape), rel=1e-6)
    assert fit.day_of(0.9) == pytest.approx(12, rel=1e-5)


def test_seeds_that_never_come_are_no_late_ones() -> None:
    """Known truth: half never comes. The share is found, and the time is that of those that come."""
    days = np.array([5.0, 6, 7, 8, 9, 10, 12, 15, 20])
    share = 0.5 / (1 + (days / 8.0) ** -9.0)
    sown = 200_000
    counts = strip(tuple(days), tuple(float(v) for v in np.round(sown * share)), sown)
    fit = fit_time([counts])
    assert (fit.t50, fit.shape, fit.final) == pytest.approx((8.0, 9.0, 0.5), rel=1e-3)
    assert fit_time([counts], "all-sown").t50 > 12


@pytest.mark.parametrize(
    ("counts", "code"),
    [
        (strip((5,), (40,)), "missing"),
        (strip((5, 8), (40, 35)), "not_rising"),
        (strip((5, 8), (40, 130)), "too_large"),
        (strip((5, 5), (40, 40)), "duplicate"),
        (strip((0, 5), (0, 40)), "not_positive"),
        (strip((5, 8), (0, 0)), "not_estimable"),
        (strip((5, 8), (0, 60)), "not_estimable"),
        (strip((5, float("nan")), (40, 50)), "not_finite"),
    ],
)
def test_what_people_type_wrong(counts: StripCounts, code: str) -> None:
    with pytest.raises(Refusal) as refused:
        fit_time([counts])
    assert refused.value.code == code


COLUMNS = ("--strip", "strip", "--treatment", "trt", "--day", "day", "--emerged", "emerged", "--sown", "sown")


def written(tmp_path: Path, rows: list[dict[str, Any]]) -> str:
    names = ["block", "strip", "trt", "day", "sown", "emerged"]
    path = tmp_path / "counts.csv"
    path.write_text("\n".join([",".join(names), *(",".join(str(row[name]) for name in names) for row in rows)]))
    return str(path)


def test_the_command_answers_by_strips(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["emergence", written(tmp_path, CASE["data"]), *COLUMNS, "--block", "block", "--json"]) == 0
    answer = json.loads(capsys.readouterr().out)
    means = {row["treatment"]: row for row in answer["comparison"]["log_t50"]["means"]}
    for row in EXPECTED["strip_as_unit"]["t50"]:
        assert means[row["trt"]]["t50"] == pytest.approx(row["t50"], rel=1e-4)
        assert means[row["trt"]]["t50_lower"] == pytest.approx(row["lo90"], rel=1e-4)
        assert means[row["trt"]]["t50_upper"] == pytest.approx(row["hi90"], rel=1e-4)
    assert len(answer["strips"]) == 12
    assert any("by strips" in words for words in answer["warnings"])


def test_daily_counts_are_read_day_by_day(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    """B comes a day later and ends ahead, 240 against 165: its final stand is the last count, not a mean over days."""
    rows = []
    for block in range(4):
        for trt, final, late in (("A", 165, 0), ("B", 240, 1)):
            for day in range(6, 16):
                up = round((final + block) / (1 + ((day - late) / 9.0) ** -9))
                rows.append({"block": block, "strip": f"{trt}{block}", "trt": trt, "day": day, "sown": 320, "emerged": up})
    assert main(["emergence", written(tmp_path, rows), *COLUMNS, "--block", "block", "--json"]) == 0
    answer = json.loads(capsys.readouterr().out)
    final = {row["treatment"]: row["mean"] for row in answer["comparison"]["emerged_fraction"]["means"]}
    assert final["B"] > final["A"] * 1.3
    [pair] = answer["comparison"]["log_t50"]["differences"]
    assert (pair["left"], pair["right"]) == ("A", "B")
    assert pair["upper"] < 0, "A is earlier"


@pytest.mark.parametrize(
    ("change", "part"),
    [
        (lambda rows: rows[0].update(sown=999), "seeds sown of strip"),
        (lambda rows: rows[1].update(trt="40mm"), "treatment of strip"),
        (lambda rows: rows[1].update(emerged="many"), "Line 3"),
    ],
)
def test_the_command_refuses_in_one_line(change: Any, part: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    rows = [dict(row) for row in CASE["data"]]
    change(rows)
    assert main(["emergence", written(tmp_path, rows), *COLUMNS, "--json"]) == 2
    text = capsys.readouterr().err
    assert part in text
    assert text.count("\n") == 1
