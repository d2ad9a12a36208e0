"""Odd ground beside the verdict: AR(1) and a smooth trend, against R (o45; nlme, mgcv and the case's own REML)."""

from __future__ import annotations

import json
from typing import Any

import numpy as np
import pytest
from cultrix_core.errors import Refusal
from cultrix_core.stats.field_trend import TrendDifference, neighbours, smooth_trend

from tests.core.references import FOLDER

CASE: dict[str, Any] = json.loads((FOLDER / "curves" / "o45_field_trend_line.json").read_text())
WANTED = CASE["expected"]
NEAR = CASE["suggested_tolerance"]
YIELD = [row["yield"] for row in CASE["data"]]
TREATMENT = [row["trt"] for row in CASE["data"]]
PLACE = [row["pos"] for row in CASE["data"]]
BLOCK = [row["block"] for row in CASE["data"]]
LEVELS = ["A", "B", "C", "D"]


def agree(differences: tuple[TrendDifference, ...], wanted: list[dict[str, Any]]) -> None:
    assert len(differences) == len(wanted) == 6
    for row, right in zip(differences, wanted, strict=True):
        assert (row.left, row.right) == (right["level1"], right["level2"])
        assert row.estimate == pytest.approx(right["estimate"], abs=NEAR["estimate_of_se"] * right["se"])
        assert row.se == pytest.approx(right["se"], rel=NEAR["se_rel"])
        assert row.df == pytest.approx(right["df"], rel=NEAR["df_rel"])
        assert (row.lower, row.upper) == pytest.approx((right["lo90"], right["hi90"]), abs=1e-3)


@pytest.mark.parametrize(("name", "block"), [("ar1_blocks", BLOCK), ("ar1_no_blocks", None)])
def test_neighbours_as_in_r(name: str, block: list[str] | None) -> None:
    look, wanted = neighbours(YIELD, TREATMENT, PLACE, block=block, levels=LEVELS), WANTED[name]
    assert look.phi == pytest.approx(wanted["phi"], abs=NEAR["phi_abs"])
    assert look.variance == pytest.approx(wanted["sigma2"], rel=NEAR["variance_rel"])
    assert look.reml_loglik == pytest.approx(wanted["reml_loglik"], abs=NEAR["reml_loglik_abs"])
    agree(look.differences, wanted["pairs"])


def test_a_smooth_trend_as_in_r() -> None:
    look, wanted = smooth_trend(YIELD, TREATMENT, PLACE, levels=LEVELS), WANTED["spline_trend"]
    assert look.error_variance == pytest.approx(wanted["error_variance"], rel=NEAR["variance_rel"])
    assert look.trend_variance == pytest.approx(wanted["spline_variance"], rel=NEAR["variance_rel"])
    assert look.reml_loglik == pytest.approx(wanted["reml_loglik_mixed"], abs=NEAR["reml_loglik_abs"])
    agree(look.differences, wanted["pairs_kenward_roger"])


def test_a_trend_that_is_there_is_found_and_taken_out() -> None:
    """A half wave of ten standard errors over forty strips: the trend is taken out, and the difference stands."""
    draw = np.random.default_rng(4)
    place = np.arange(40.0)
    wave = 5 * np.sin(place / 40 * np.pi)
    letters = ["A" if number % 4 in (0, 3) else "B" for number in range(40)]
    values = 20 + wave + np.where(np.array(letters) == "B", 1.0, 0.0) + draw.normal(0, 0.5, 40)
    look = smooth_trend(list(values), letters, list(place))
    row = look.differences[0]
    assert row.lower <= -1.0 <= row.upper
    assert row.upper - row.lower < 1.0
    assert np.corrcoef(look.trend, wave)[0, 1] > 0.98


def test_place_may_be_in_any_unit_and_gaps_count() -> None:
    whole = smooth_trend(YIELD, TREATMENT, PLACE, levels=LEVELS)
    metres = smooth_trend(YIELD, TREATMENT, [6.0 * place + 40 for place in PLACE], levels=LEVELS)
    assert [row.estimate for row in metres.differences] == pytest.approx([row.estimate for row in whole.differences], abs=1e-6)
    near = neighbours(YIELD, TREATMENT, PLACE, levels=LEVELS)
    apart = neighbours(YIELD, TREATMENT, [2 * place for place in PLACE], levels=LEVELS)
    assert apart.phi**2 == pytest.approx(near.phi, abs=1e-5), "two places apart instead of one: the root of it"


def test_refused() -> None:
    for rows, code in (([], "no_response"), ([1.0, 2.0], "too_few_strips"), ([1.0, float("nan")] * 9, "not_finite")):
        with pytest.raises(Refusal) as refused:
            neighbours(rows, ["A", "B"] * (len(rows) // 2), list(range(len(rows))))
        assert refused.value.code == code
    with pytest.raises(Refusal) as refused:
        smooth_trend(YIELD, TREATMENT, PLACE[:-1])
    assert refused.value.code == "lengths_differ"
