"""The answer of a trial of amounts: does it matter, which amount, how flat; against R (o43, o44) and by simulation."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from cultrix_core.cli import main
from cultrix_core.errors import Refusal
from cultrix_core.stats.averaged_curve import AveragedCurve, aicc_weights, fit_averaged
from cultrix_core.stats.contrast_test import Guess, contrast_test, guess_of, optimal_contrast, tail_of_largest, usual_guesses
from cultrix_core.stats.curves import fit_curves
from numpy.typing import NDArray

from tests.core.references import FOLDER

Array = NDArray[np.float64]
O43: dict[str, Any] = json.loads((FOLDER / "curves" / "o43_model_averaged_optimum.json").read_text())
O44: dict[str, Any] = json.loads((FOLDER / "curves" / "o44_dose_shapes_contrasts.json").read_text())
WANTED = O44["expected"]
SHAPES = [
    Guess(name="linear", guess=None),
    Guess(name="emax", guess=25.0),
    Guess(name="quadratic", guess=85.0),
    Guess(name="linear-plateau", guess=60.0),
    Guess(name="quadratic-plateau", guess=90.0),
]


def test_contrasts_and_their_joint_p_as_in_r() -> None:
    result = contrast_test(
        WANTED["doses"], WANTED["adjusted_means"], np.array(WANTED["vcov_adjusted_means"]), WANTED["df"], SHAPES
    )
    near = O44["suggested_tolerance"]
    finer = WANTED["quasi_monte_carlo"]["p_adjusted_two_sided"]
    for shape, right, p in zip(result.shapes, WANTED["contrasts"], finer, strict=True):
        assert shape.coefficients == pytest.approx(right["coef"], abs=near["contrast_abs"])
        assert shape.t == pytest.approx(right["t"], rel=near["t_rel"])
        assert shape.p == pytest.approx(right["p_unadjusted_two_sided"], rel=1e-6)
        assert shape.p_adjusted == pytest.approx(right["p_adjusted_two_sided"], abs=near["p_abs"])
        assert shape.p_adjusted == pytest.approx(p, abs=2e-5)
    assert np.array(result.correlation) == pytest.approx(np.array(WANTED["correlation"]), abs=1e-9)
    assert (result.t, result.p) == (result.shapes[3].t, result.shapes[3].p_adjusted)


def test_the_largest_of_one_and_of_independent_ones() -> None:
    """Closed forms: one shape is a plain t; with the error known k independent ones are 1 − (1 − p)^k."""
    from scipy import stats

    assert tail_of_largest(np.array([2.0]), np.eye(1), 9) == pytest.approx(2 * stats.t.sf(2.0, 9))
    alone = 2 * stats.norm.sf(2.0)
    assert tail_of_largest(np.array([2.0]), np.eye(3), 1e7)[0] == pytest.approx(1 - (1 - alone) ** 3, abs=2e-4)


def test_the_contrast_has_the_most_power_there_is() -> None:
    """No other contrast has a larger shift in standard errors where the shape is the truth (Cauchy–Schwarz)."""
    draw = np.random.default_rng(5)
    root = draw.normal(size=(5, 5))
    covariance = root @ root.T + np.eye(5)
    shape = np.array([0.0, 0.4, 0.8, 1.0, 0.9])

    def shift(row: Array) -> float:
        return float(row @ shape / np.sqrt(row @ covariance @ row))

    best = shift(optimal_contrast(shape, covariance))
    for _ in range(200):
        row = draw.normal(size=5)
        assert shift(row - row.mean()) <= best + 1e-9


@pytest.mark.parametrize("where", ["without_blocks", "blocks_fixed"])
def test_weights_by_akaike_as_in_r(where: str) -> None:
    """The textbook's weights, of shapes fitted to strips; the verdict averages by the criterion on adjusted means."""
    rows, wanted = O43["data"], O43["expected"][where]
    blocks = [row["block"] for row in rows] if where == "blocks_fixed" else None
    fit = fit_curves([row["x"] for row in rows], [row["yield"] for row in rows], blocks)
    weights = aicc_weights({shape.name: shape.aicc for shape in fit.shapes})
    names = {"exponential_approach": "mitscherlich"}
    for row in wanted["weights"]:
        assert weights[names.get(row["name"], row["name"])] == pytest.approx(
            row["weight"], abs=O43["suggested_tolerance"]["weight_abs"]
        )


X = np.array([0.0, 30.0, 60.0, 90.0, 120.0, 150.0])
FINE = np.linspace(0, 150, 1501)
PRICE, COST, WITHIN = 200.0, 1.5, 20.0
TRUTHS: dict[str, Callable[[Array], Array]] = {
    "flat": lambda x: 9 + 0 * x,
    "linear": lambda x: 8 + 0.012 * x,
    "quadratic": lambda x: 7 + 0.045 * x - 0.0002 * x**2,
    "linear-plateau": lambda x: 7 + 0.03 * np.minimum(x, 80),
    "quadratic-plateau": lambda x: 7 + 0.05 * np.minimum(x, 110) - 0.05 * np.minimum(x, 110) ** 2 / 220,
    "exponential-approach": lambda x: 10 - 3 * np.exp(-0.025 * x),
}


def one(truth: Callable[[Array], Array], seed: int, sd: float = 0.4, blocks: int = 5, **more: Any) -> AveragedCurve:
    draw = np.random.default_rng(seed)
    df = (blocks - 1) * (X.size - 1)
    means = truth(X) + draw.normal(0, sd / np.sqrt(blocks), X.size)
    variance = sd**2 * draw.chisquare(df) / df / blocks
    return fit_averaged(list(X), list(means), np.eye(X.size) * variance, df, price=PRICE, cost=COST, within=WITHIN, **more)


@pytest.mark.slow
@pytest.mark.parametrize("name", TRUTHS)
def test_what_the_interval_of_the_best_amount_covers(name: str) -> None:
    """A smoke of the trust page's row: 60 trials a truth; 90 % intervals hold at least 87 %, less two standard errors here."""
    truth, trials = TRUTHS[name], 60
    net = PRICE * truth(FINE) - COST * FINE
    best = FINE[net.argmax()]
    covered = wrong = 0
    for seed in range(trials):
        curve = one(truth, seed, draws=299)
        assert curve.profit is not None
        covered += curve.profit.lower - 0.75 <= best <= curve.profit.upper + 0.75
        if curve.shown is not None:
            inside = (curve.shown.lower <= FINE) & (curve.shown.upper >= FINE)
            wrong += bool((net.max() - net[inside]).max() > WITHIN)
    assert covered / trials >= 0.87 - 2 * np.sqrt(0.87 * 0.13 / trials)
    assert wrong / trials <= 0.15 + 2 * np.sqrt(0.15 * 0.85 / trials)


def test_an_exact_curve_is_found_exactly() -> None:
    """Means without error on a parabola with its top at 80: dy/dx = cost ÷ price at 80 − 1.5 ÷ 200 ÷ (2 × 0.0002)."""
    y = 8 - 0.0002 * (X - 80) ** 2
    curve = fit_averaged(list(X), list(y), np.eye(6) * 1e-6, 20, price=PRICE, cost=COST, within=WITHIN)
    assert curve.best.x == pytest.approx(80, abs=0.5)
    assert curve.profit is not None
    assert curve.profit.x == pytest.approx(80 - 1.5 / 200 / 0.0004, abs=0.5)
    assert max(curve.weights, key=lambda name: curve.weights[name]) == "quadratic"
    reach = np.sqrt(WITHIN / (PRICE * 0.0002))
    assert curve.estimated is not None
    assert (curve.estimated.lower, curve.estimated.upper) == pytest.approx((61.25 - reach, 61.25 + reach), abs=1.5)
    assert curve.shown is not None
    assert curve.shown.lower >= curve.estimated.lower - 1e-9
    assert curve.shown.upper <= curve.estimated.upper + 1e-9


def test_units_of_either_axis_change_only_what_they_should() -> None:
    curve = one(TRUTHS["quadratic"], 3)
    draw = np.random.default_rng(3)
    means = TRUTHS["quadratic"](X) + draw.normal(0, 0.4 / np.sqrt(5), 6)
    variance = 0.4**2 * draw.chisquare(20) / 20 / 5
    other = fit_averaged(
        list(2.5 * X), list(1000 * means), np.eye(6) * variance * 1e6, 20, price=PRICE / 1000, cost=COST / 2.5, within=WITHIN
    )
    assert other.weights == pytest.approx(curve.weights, abs=1e-9)
    assert other.best.x == pytest.approx(2.5 * curve.best.x)
    assert curve.profit is not None
    assert other.profit is not None
    assert (other.profit.lower, other.profit.upper) == pytest.approx((2.5 * curve.profit.lower, 2.5 * curve.profit.upper))


def test_less_put_up_with_is_less_shown() -> None:
    wide = one(TRUTHS["quadratic"], 5, sd=0.1)
    assert wide.shown is not None
    assert wide.estimated is not None
    assert wide.estimated.lower <= wide.shown.lower <= wide.shown.upper <= wide.estimated.upper
    assert max(wide.loss_limit) > WITHIN


@pytest.mark.parametrize(
    ("name", "guess", "code"),
    [("cubic", 3.0, "unknown_choice"), ("quadratic", None, "missing"), ("emax", -1.0, "not_positive")],
)
def test_guesses_are_refused(name: str, guess: float | None, code: str) -> None:
    with pytest.raises(Refusal) as refused:
        guess_of(name, guess)
    assert refused.value.code == code


def test_usual_guesses_lie_inside_the_range() -> None:
    for guess in usual_guesses(100.0, 300.0):
        values = guess.at(np.linspace(100, 300, 5))
        assert np.ptp(values) > 0


@pytest.fixture
def doses(tmp_path: Path) -> Path:
    lines = [f"{row['block']},{row['dose']},{row['yield']}" for row in O44["data"]]
    path = tmp_path / "doses.csv"
    path.write_text("\n".join(["block,dose,yield", *lines]))
    return path


def run(capsys: pytest.CaptureFixture[str], *arguments: str) -> dict[str, Any]:
    assert main(["curve", *arguments, "--json"]) == 0
    result: dict[str, Any] = json.loads(capsys.readouterr().out)
    return result


def test_the_command_tells_curve_and_test(doses: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    shapes = tmp_path / "shapes.json"
    shapes.write_text(json.dumps([{"name": shape.name, "guess": shape.guess} for shape in SHAPES]))
    common = (str(doses), "--x", "dose", "--response", "yield", "--block", "block")
    answer = run(capsys, *common, "--price", "10", "--cost", "0.3", "--within", "10", "--shapes", str(shapes))
    test, averaged = answer["contrast_test"], answer["averaged"]
    assert [(shape["name"], shape["guess"]) for shape in test["shapes"]] == [(shape.name, shape.guess) for shape in SHAPES]
    assert test["t"] == pytest.approx(WANTED["max_t"], rel=1e-7)
    assert test["p"] == pytest.approx(WANTED["quasi_monte_carlo"]["p_adjusted_two_sided"][3], abs=2e-5)
    assert sum(averaged["weights"].values()) == pytest.approx(1.0)
    assert list(averaged["weights"])[0] == "flat"
    assert averaged["profit_optimum"]["lower"] <= averaged["profit_optimum"]["x"] <= averaged["profit_optimum"]["upper"]
    assert averaged["profit_optimum"]["x"] < averaged["optimum"]["x"]
    assert averaged["within"] == 10
    plain = run(capsys, *common)
    assert (plain["averaged"]["profit_optimum"], plain["averaged"]["shown_range"]) == (None, None)
    assert len(plain["contrast_test"]["shapes"]) == 5


def test_the_command_tells_a_curve_at_each_level(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    draw = np.random.default_rng(1)
    path = tmp_path / "by.csv"
    rows = [
        f"{block},{width},{rate},{50 + (8 if width == 'wide' else 0) + 0.2 * rate - 0.001 * rate**2 + draw.normal(0, 0.5):.6e}"
        for block in range(4)
        for width in ("wide", "narrow")
        for rate in (40, 80, 120, 160)
    ]
    path.write_text("\n".join(["block,width,rate,yield", *rows]))
    answer = run(capsys, str(path), "--x", "rate", "--response", "yield", "--block", "block", "--by", "width")
    assert [part["level"] for part in answer["by"]] == ["wide", "narrow"]
    assert answer["differ"]["num_df"] == 3
    assert all(abs(part["averaged"]["optimum"]["x"] - 100) < 15 for part in answer["by"])


@pytest.mark.parametrize(
    "more",
    [
        ["--shapes", "nowhere.json"],
        ["--by", "yield"],
        ["--by", "dose"],
        ["--within", "-3"],
        ["--price", "3"],
        ["--block", "dose"],
    ],
)
def test_the_command_refuses_in_one_line(more: list[str], doses: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["curve", str(doses), "--x", "dose", "--response", "yield", *more]) == 2
    out = capsys.readouterr()
    assert out.out == ""
    assert out.err.startswith("cultrix: ")
    assert out.err.count("\n") == 1


def test_strips_without_error_still_have_their_shapes(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    """Nothing measures the variation, so no curve is averaged; that is said, and the shapes are told as they were."""
    path = tmp_path / "exact.csv"
    rows = [f"{block},{x},{5 + 0.1 * x - 0.0005 * x * x + block}" for block in (1, 2, 3) for x in (0, 40, 80, 120, 160)]
    path.write_text("\n".join(["b,x,y", *rows]))
    answer = run(capsys, str(path), "--x", "x", "--response", "y", "--block", "b")
    assert (answer["averaged"], answer["contrast_test"]) == (None, None)
    assert answer["optimum"]["x"] == pytest.approx(100)
    assert any(warning.startswith("No averaged curve: ") for warning in answer["warnings"])


def test_a_covariance_that_is_none_is_refused() -> None:
    with pytest.raises(Refusal) as refused:
        fit_averaged([1, 2, 3], [1, 2, 3], np.zeros((3, 3)), 6)
    assert refused.value.code == "not_estimable"
