"""Response curves against R's lm and nls on the reference cases, against SciPy's optimiser and by simulation."""

from __future__ import annotations

import csv
import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import statsmodels.api as sm
from cultrix_core.cli import main
from cultrix_core.errors import Refusal
from cultrix_core.stats.curves import SHAPES, best_x, fit_curves
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import optimize, stats

from tests.core.references import FOLDER

CASES = [
    ("o17_dose_response_oats", "nitro", "pooled"),
    ("o18_dose_response_turnip_density", "density", None),
    ("o29_dose_response_rice_nitrogen", "nitro", None),
]
of_r = ("linear", "quadratic", "linear_plateau", "quadratic_plateau")


def case(name: str) -> dict[str, Any]:
    raw: dict[str, Any] = json.loads((FOLDER / f"{name}.json").read_text())
    return raw


def write(folder: Path, raw: dict[str, Any]) -> Path:
    path = folder / "rates.csv"
    with path.open("w", newline="") as handle:
        out = csv.DictWriter(handle, fieldnames=[column["name"] for column in raw["columns"]])
        out.writeheader()
        out.writerows(raw["data"])
    return path


def answer(capsys: pytest.CaptureFixture[str], path: Path, *arguments: str) -> dict[str, Any]:
    assert main(["curve", str(path), *arguments, "--json"]) == 0
    result: dict[str, Any] = json.loads(capsys.readouterr().out)
    return result


@pytest.mark.parametrize(("name", "x", "part"), CASES)
def test_shapes_as_in_r(name: str, x: str, part: str | None, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    raw = case(name)
    expected = raw["expected"][part] if part else raw["expected"]
    tolerance = raw["suggested_tolerance"]
    got = {item["name"]: item for item in answer(capsys, write(tmp_path, raw), "--x", x, "--response", "yield")["models"]}
    for shape in of_r:
        theirs, mine = expected[shape], got[shape]
        if theirs.get("status") == "no_interior_join":
            assert (mine["status"], mine["parameters"], mine["aicc"]) == ("no_interior_join", [], None)
            continue
        assert mine["status"] == "fitted"
        for one, other in zip(mine["parameters"], theirs["params"], strict=True):
            assert one["name"] == other["name"]
            assert one["estimate"] == pytest.approx(other["estimate"], rel=tolerance["nls_rel"])
            assert one["se"] == pytest.approx(other["se"], rel=tolerance["nls_se_rel"])
        assert mine["sigma"] == pytest.approx(theirs["sigma"], rel=1e-7)
        assert mine["aicc"] == pytest.approx(theirs["aicc"], abs=1e-5)


def test_the_order_by_aicc_is_that_of_r() -> None:
    for name, x, part in CASES:
        raw = case(name)
        expected = raw["expected"][part] if part else raw["expected"]
        curve_fit = fit_curves([float(row[x]) for row in raw["data"]], [row["yield"] for row in raw["data"]])
        mine = sorted(
            (shape for shape in curve_fit.shapes if shape.aicc and shape.name in of_r),
            key=lambda shape: round(shape.aicc or 0, 6),
        )
        theirs = [item for item in expected["aicc_order"] if item in of_r]
        assert [shape.name for shape in mine] == theirs


@pytest.mark.parametrize("name", ["o17_dose_response_oats", "o18_dose_response_turnip_density"])
def test_where_each_shape_pays_best_is_that_of_r(name: str) -> None:
    x, part = next((x, part) for item, x, part in CASES if item == name)
    raw = case(name)
    expected = raw["expected"][part] if part else raw["expected"]
    amounts = [float(row[x]) for row in raw["data"]]
    result = {item.name: item for item in fit_curves(amounts, [row["yield"] for row in raw["data"]]).shapes}
    compared = 0
    for row in expected["economic_optimum"]:
        for shape, key in (
            ("quadratic", "x_opt_unconstrained"),
            ("quadratic_plateau", "x_opt_unconstrained"),
            ("linear_plateau", "x_opt"),
        ):
            if shape in row and result[shape].status == "fitted" and row[shape].get(key) is not None:
                got = best_x(result[shape], row["price_ratio"], min(amounts), max(amounts))
                assert got == pytest.approx(row[shape][key], rel=1e-5)
                compared += 1
    assert compared > 3


def test_a_response_that_still_rises_has_no_optimum() -> None:
    raw = case("o29_dose_response_rice_nitrogen")
    curve_fit = fit_curves([float(row["nitro"]) for row in raw["data"]], [row["yield"] for row in raw["data"]], ratio=5.0)
    assert (curve_fit.chosen, curve_fit.optimum.x, curve_fit.optimum.inside_range) == ("linear", None, False)
    assert "no optimum inside the range" in curve_fit.optimum.words
    assert curve_fit.profit_optimum is not None
    assert curve_fit.profit_optimum.x is None


def test_blocks_take_their_share() -> None:
    """Quadratic with fixed blocks and main plots, oats: b, c and their errors as in R's lm."""
    raw = case("o17_dose_response_oats")
    expected = raw["expected"]["block_adjusted_quadratic"]
    rows = raw["data"]
    curve_fit = fit_curves(
        [float(row["nitro"]) for row in rows], [row["yield"] for row in rows], [row["block"] for row in rows]
    )
    quadratic = {
        parameter.name: parameter
        for parameter in next(item for item in curve_fit.shapes if item.name == "quadratic").parameters
    }
    shape = next(item for item in curve_fit.shapes if item.name == "quadratic")
    if shape.df == expected["df"]:
        assert (quadratic["b"].estimate, quadratic["b"].se) == pytest.approx(tuple(expected["b"]), rel=1e-6)
        assert (quadratic["c"].estimate, quadratic["c"].se) == pytest.approx(tuple(expected["c"]), rel=1e-6)
    else:  # R's fit also holds varieties; with blocks alone the estimates are the same and the error is larger
        assert quadratic["b"].estimate == pytest.approx(expected["b"][0], rel=1e-6)
        assert (quadratic["b"].se or 0) > expected["b"][1]


RATES = np.repeat([40.0, 60.0, 80.0, 100.0, 120.0, 140.0], 4)
BLOCKS = ["a", "b", "c", "d"] * 6


def simulated(seed: int, noise: float = 150.0, top: float = 90.0) -> np.ndarray:
    """A plateau from 90 on, in kg/ha, with blocks."""
    rng = np.random.default_rng(seed)
    u = np.minimum(RATES, top)
    blocks = rng.normal(0, 300, 4)
    return 3000 + 80 * (u - u**2 / (2 * top)) + np.tile(blocks, 6) + rng.normal(0, noise, RATES.size)


def test_the_profile_interval_of_a_quadratic_is_fiellers() -> None:
    """Ratio of two estimates: the limits of −b ÷ 2c by Fieller's theorem, worked out here."""
    y = simulated(3)
    curve_fit = fit_curves(RATES, y, BLOCKS, alpha=0.10)
    shape = next(item for item in curve_fit.shapes if item.name == "quadratic")
    from cultrix_core.stats import curves

    data = curves._Data(RATES, y, curves._block_columns(BLOCKS), np.unique(RATES))
    best = best_x(shape, 0.0, 40, 140)
    assert best is not None
    lower, upper = curves._profile(shape, data, 0.0, best, 0.10)
    x = np.column_stack([np.ones(24), RATES, RATES**2, data.blocks])
    beta = np.linalg.lstsq(x, y, rcond=None)[0]
    cov = (shape.rss or 0) / (shape.df or 1) * np.linalg.inv(x.T @ x)
    b, c = beta[1], beta[2]
    t2 = stats.t.isf(0.05, shape.df) ** 2

    def inside(at: float) -> float:
        return (b + 2 * c * at) ** 2 - t2 * (cov[1, 1] + 4 * at * cov[1, 2] + 4 * at**2 * cov[2, 2])

    assert lower == pytest.approx(optimize.brentq(inside, 0.0, best), rel=1e-6)
    assert upper is None or upper == pytest.approx(optimize.brentq(inside, best, 400.0), rel=1e-6)


@pytest.mark.parametrize("ratio", [0.0, 2.0, 10.0])
@pytest.mark.parametrize("name", ["quadratic", "linear_plateau", "quadratic_plateau", "mitscherlich"])
def test_the_best_amount_is_that_of_scipys_optimiser(name: str, ratio: float) -> None:
    curve_fit = fit_curves(RATES, simulated(5), BLOCKS)
    shape = next(item for item in curve_fit.shapes if item.name == name)
    assert shape.status == "fitted"
    best = best_x(shape, ratio, 40, 140)
    if best is None or not 40 < best < 140:
        return
    top = optimize.minimize_scalar(
        lambda at: -(float(shape.at(at)[0]) - ratio * at), bounds=(40, 140), method="bounded", options={"xatol": 1e-9}
    )
    value = float(shape.at(best)[0]) - ratio * best
    assert value >= -top.fun - 1e-6
    assert best == pytest.approx(top.x, abs=0.05) or value == pytest.approx(-top.fun, rel=1e-9)


@pytest.mark.slow
def test_the_interval_of_the_join_holds_the_truth() -> None:
    """Plateau from 90 on: 200 trials, 90 % intervals of the quadratic plateau; the 99 % binomial limit of 0.9 is 0.845."""
    hits = total = 0
    from cultrix_core.stats import curves

    for seed in range(200):
        y = simulated(seed, noise=120)
        data = curves._Data(RATES, y, curves._block_columns(BLOCKS), np.unique(RATES))
        shape = curves._fit("quadratic_plateau", data)
        if shape.status != "fitted":
            continue
        best = best_x(shape, 0.0, 40, 140)
        assert best is not None
        lower, upper = curves._profile(shape, data, 0.0, best, 0.10)
        hits += (lower is None or lower <= 90) and (upper is None or upper >= 90)
        total += 1
    assert total > 190
    assert hits / total > 0.845


@pytest.mark.slow
@given(st.floats(0.01, 1000), st.floats(0.01, 1000), st.integers(0, 100))
@settings(max_examples=10, deadline=None)
def test_units_of_either_axis_change_only_what_they_should(in_x: float, in_y: float, seed: int) -> None:
    y = simulated(seed)
    curve_fit = fit_curves(RATES, y, BLOCKS)
    other = fit_curves(in_x * RATES, in_y * y, BLOCKS)
    assert other.chosen == curve_fit.chosen
    if curve_fit.optimum.x is not None:
        assert other.optimum.x == pytest.approx(in_x * curve_fit.optimum.x, rel=1e-4)
    for mine, theirs in zip(curve_fit.shapes, other.shapes, strict=True):
        if mine.sigma and theirs.sigma:
            assert theirs.sigma == pytest.approx(in_y * mine.sigma, rel=1e-5)


def test_price_and_cost_from_the_command(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = write(tmp_path, case("o17_dose_response_oats"))
    got = answer(capsys, path, "--x", "nitro", "--response", "yield", "--block", "block", "--price", "2", "--cost", "80")
    assert got["chosen"] in SHAPES
    assert got["profit_optimum"] is not None
    assert [item["name"] for item in got["models"]] == list(SHAPES)
    assert answer(capsys, path, "--x", "nitro", "--response", "yield")["profit_optimum"] is None


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (["--x", "nitro", "--response", "yield", "--price", "2"], "needs both"),
        (["--x", "colour", "--response", "yield"], "colour"),
        (["--x", "block", "--response", "yield"], "must be a number"),
        (["--x", "nitro", "--response", "yield", "--price", "0", "--cost", "1"], "more than 0"),
        (["--x", "nitro", "--response", "yield", "--alpha", "3"], "Significance"),
    ],
)
def test_bad_arguments_end_in_one_line(
    arguments: list[str], said: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path = write(tmp_path, case("o17_dose_response_oats"))
    assert main(["curve", str(path), *arguments, "--json"]) == 2
    assert said in capsys.readouterr().err


@pytest.mark.parametrize(
    ("x", "y", "code"),
    [
        ([], [], "no_response"),
        ([1.0, 2.0], [1.0], "lengths_differ"),
        ([1.0, 1.0, 2.0, 2.0], [1.0, 2.0, 3.0, 4.0], "too_few_treatments"),
        ([1.0, 2.0, float("nan")], [1.0, 2.0, 3.0], "not_finite"),
    ],
)
def test_what_cannot_be_fitted_is_refused(x: list[float], y: list[float], code: str) -> None:
    with pytest.raises(Refusal) as refused:
        fit_curves(x, y)
    assert refused.value.code == code


def test_equal_responses_and_wild_ones_are_answers() -> None:
    flat = fit_curves(RATES, np.full(24, 5000.0))
    assert flat.optimum.x is None or 40 < flat.optimum.x < 140
    wild = simulated(1)
    wild[3] = 1e9
    assert fit_curves(RATES, wild, BLOCKS).chosen in SHAPES


@pytest.mark.parametrize("bend", [0.0, 1.2])
def test_lack_of_fit_is_that_of_statsmodels(bend: float) -> None:
    """The F test of nested models (statsmodels compare_f_test): a straight line against a mean for every amount, in blocks."""
    rng = np.random.default_rng(8)
    x = np.array([1.0, 2.0, 3.0, 4.0, 5.0] * 5)
    blocks = [str(block) for block in range(5) for _ in range(5)]
    y = 5 + 0.4 * x + bend * (x == 2) - bend * (x == 4) + rng.normal(0, 0.3, 25) + 0.2 * np.repeat(np.arange(5), 5)
    fit = fit_curves(x.tolist(), y.tolist(), blocks)
    chosen = next(shape for shape in fit.shapes if shape.name == fit.chosen)
    assert chosen.name in ("linear", "quadratic")
    dummies = (np.array(blocks)[:, None] == np.unique(blocks)[1:]).astype(float)
    powers = [x, x**2] if chosen.name == "quadratic" else [x]
    small = sm.OLS(y, np.column_stack([np.ones(25), *powers, dummies])).fit()
    large = sm.OLS(y, np.column_stack([(x[:, None] == np.unique(x)).astype(float), dummies])).fit()
    wanted = large.compare_f_test(small)[1]
    assert fit.lack_of_fit_p == pytest.approx(wanted, rel=1e-9)
    assert any("lack of fit" in warning for warning in fit.warnings) == (wanted < 0.10)
    assert (wanted < 0.10) == (bend > 0)


def test_a_shape_that_meets_every_mean_cannot_lack_fit() -> None:
    fit = fit_curves([1, 2, 3, 1, 2, 3], [1.0, 5.0, 1.2, 1.1, 5.1, 1.0])
    assert fit.chosen == "quadratic"
    assert fit.lack_of_fit_p is None
