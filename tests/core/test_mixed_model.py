"""The mixed-model engine against lme4, pbkrtest and emmeans on every reference case that fits one, and its own invariants."""

from __future__ import annotations

import itertools
import json
import re
from functools import lru_cache
from typing import Any

import numpy as np
import pytest
from cultrix_core.errors import Refusal
from cultrix_core.stats.linear_model import Factor, Term, fit_fixed, term_tests
from cultrix_core.stats.mixed_model import (
    RESIDUAL,
    MixedFit,
    cell_row,
    contrast,
    fit_mixed,
    incidence,
    rows_test,
    term_codes,
    term_test,
)
from cultrix_core.stats.reml import likelihood, stacks_of
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.references import FOLDER

# (file, block of results); the model is read from the formula that R was given
FITS = [
    ("o01_rcbd_seedrate", "random_blocks"),
    ("o05_factorial_confounded_npk", "lmer_kr"),
    ("o07_splitplot_oats", "lmer_kr"),
    ("o07_splitplot_oats", "lmer_kr_blocks_fixed"),
    ("o08_splitplot_oats_missing", "lmer_kr"),
    ("o08_splitplot_oats_missing", "lmer_kr_blocks_fixed"),
    ("o09_splitplot_boundary_rice", "lmer_kr"),
    ("o09_splitplot_boundary_rice", "lmer_kr_blocks_fixed"),
    ("o10_stripplot_rice", "lmer_kr"),
    ("o11_splitsplit_wheat", "lmer_kr"),
    ("o12_stripsplit_simulated", "lmer_kr"),
    ("o14_met_barley_noreps", "env_random"),
    ("o14_met_barley_noreps", "crossed_full"),
    ("o14_met_barley_noreps", "site_nested_year"),
    ("o16_subsampling_kiwishade", "lmer_kr"),
    ("o25_nested_pastes", "lmer"),
    ("o27_stripplot_rice_missing", "lmer_kr"),
    ("o32_splitplot_cake", "lmer_kr"),
    ("o32_splitplot_cake", "lmer_kr_blocks_fixed"),
    ("o33_subsampling_unequal_simulated", "lmer_kr"),
]
every_fit = pytest.mark.parametrize(("file", "key"), FITS, ids=[f"{file[:3]} {key}" for file, key in FITS])


def terms_of(formula: str) -> tuple[str, list[Term], list[Term]]:
    """Response, fixed and random terms of a formula; ``a * b * c`` means all their interactions."""
    left, right = (side.strip() for side in formula.split("~"))
    random = [tuple(result.split(":")) for result in re.findall(r"\(1 \| ([\w:]+)\)", right)]
    fixed: list[Term] = []
    for part in re.sub(r"\(1 \| [\w:]+\)", "", right).split("+"):
        names = [name.strip() for name in part.split("*") if name.strip() not in ("", "1")]
        for size in range(1, len(names) + 1):
            fixed += list(itertools.combinations(names, size))
    return left, fixed, random


@lru_cache
def fitted(file: str, key: str) -> tuple[MixedFit, dict[str, Any], dict[str, float]]:
    raw = json.loads((FOLDER / f"{file}.json").read_text())
    expected = raw["expected"][key]
    response, fixed, random = terms_of(" ".join(expected["formula"].split()))
    rows = [row for row in raw["data"] if row[response] is not None]
    levels = {column["name"]: [str(level) for level in column.get("levels") or []] for column in raw["columns"]}
    names = dict.fromkeys(name for term in [*fixed, *random] for name in term)
    factors = [Factor.of(name, [str(row[name]) for row in rows], levels[name] or None) for name in names]
    return fit_mixed([row[response] for row in rows], factors, fixed, random), expected, raw["suggested_tolerance"]


@every_fit
def test_variance_components_and_likelihood(file: str, key: str) -> None:
    fit, expected, tolerance = fitted(file, key)
    total = sum(row["variance"] for row in expected["variance_components"])
    for row in expected["variance_components"]:
        got = next(value for name, value in fit.components.items() if set(name.split(":")) == set(row["group"].split(":")))
        assert got == pytest.approx(row["variance"], rel=tolerance["reml_variance_rel"], abs=1e-7 * total), row["group"]
    assert fit.singular == expected["singular_fit"]
    assert fit.reml_loglik == pytest.approx(expected["reml_loglik"], abs=tolerance["reml_loglik_abs"])


@every_fit
def test_kenward_roger_tests_of_every_term(file: str, key: str) -> None:
    fit, expected, tolerance = fitted(file, key)
    rows = expected.get("f_tests_type3_kenward_roger", [])
    assert rows or file.startswith("o25")
    for row in rows:
        got = term_test(fit, tuple(row["term"].split(":")))
        assert got.num_df == row["num_df"]
        assert got.den_df == pytest.approx(row["den_df"], rel=tolerance["kr_df_rel"]), row["term"]
        assert got.f == pytest.approx(row["f"], rel=tolerance["kr_f_rel"]), row["term"]
        assert got.p == pytest.approx(row["p"], abs=tolerance["p_abs"])


@every_fit
def test_means_with_their_errors_and_degrees_of_freedom(file: str, key: str) -> None:
    fit, expected, tolerance = fitted(file, key)
    for table in expected.get("emmeans", []):
        for row in table["rows"]:
            got = contrast(fit, cell_row(fit, {name: str(row[name]) for name in table["specs"]}))
            assert got.estimate == pytest.approx(row["emmean"], rel=tolerance["emmean_rel"])
            assert got.se == pytest.approx(row["se"], rel=tolerance["se_rel"])
            assert got.df == pytest.approx(row["df"], rel=tolerance["kr_df_rel"])


@every_fit
def test_differences_with_their_errors_and_degrees_of_freedom(file: str, key: str) -> None:
    fit, expected, tolerance = fitted(file, key)
    for table in expected.get("pairs", []):
        if len(table["compare"]) != 1:
            continue
        name = table["compare"][0]
        for row in table["rows"]:
            inside = {
                other: str(row[other])
                for other in ([table["within"]] if isinstance(table["within"], str) else table["within"] or [])
            }
            left, right = (cell_row(fit, inside | {name: str(row[side])}) for side in ("level1", "level2"))
            got = contrast(fit, left - right)
            scale = abs(row["se"])
            assert got.estimate == pytest.approx(
                row["estimate"], abs=tolerance["emmean_rel"] * max(scale, abs(row["estimate"]))
            )
            assert got.se == pytest.approx(row["se"], rel=tolerance["se_rel"])
            assert got.df == pytest.approx(row["df"], rel=tolerance["kr_df_rel"])


def test_balanced_data_give_the_classical_strata() -> None:
    """Split-plot oats: F and df of the strata of aov, not of an approximation."""
    fit, _, _ = fitted("o07_splitplot_oats", "lmer_kr")
    raw = json.loads((FOLDER / "o07_splitplot_oats.json").read_text())
    for stratum in raw["expected"]["aov_strata"]:
        for row in stratum["rows"]:
            if row["f"] is None:
                continue
            got = term_test(fit, tuple(row["source"].split(":")))
            assert got.f == pytest.approx(row["f"], rel=1e-8), "exact, while lme4 stops a little short of the top"
            residual = next(item["df"] for item in stratum["rows"] if item["source"] == "residual")
            assert got.den_df == pytest.approx(residual, rel=1e-8)


def split(seed: int, blocks: int = 4, lost: int = 0) -> tuple[list[float], list[Factor]]:
    """A split-plot of 2 main and 3 sub treatments in kg/ha, some strips lost."""
    rng = np.random.default_rng(seed)
    rows = [(b, m, s) for b in range(blocks) for m in range(2) for s in range(3)]
    block, main = rng.normal(0, 300, blocks), rng.normal(0, 200, (blocks, 2))
    y = [7000 + 150 * m + 90 * s + block[b] + main[b, m] + rng.normal(0, 150) for b, m, s in rows]
    keep = sorted(rng.permutation(len(rows))[lost:])
    labels = [[f"{'bms'[place]}{row[place]}" for row in rows] for place in range(3)]
    factors = [Factor.of(name, [own[at] for at in keep]) for name, own in zip(("block", "main", "sub"), labels, strict=True)]
    return [y[at] for at in keep], factors


FIXED: list[Term] = [("main",), ("sub",), ("main", "sub")]
RANDOM: list[Term] = [("block",), ("block", "main")]


def numbers(fit: MixedFit) -> list[float]:
    return [value for term in FIXED for test in [term_test(fit, term)] for value in (test.f, test.den_df)]


@given(st.integers(0, 10_000), st.integers(0, 4), st.floats(0.001, 1000), st.floats(-1e4, 1e4))
@settings(max_examples=25, deadline=None)
def test_units_and_a_shift_change_only_what_they_should(seed: int, lost: int, factor: float, shift: float) -> None:
    y, factors = split(seed, lost=lost)
    mixed_fit = fit_mixed(y, factors, FIXED, RANDOM)
    other = fit_mixed([factor * value + shift for value in y], factors, FIXED, RANDOM)
    assert numbers(other) == pytest.approx(numbers(mixed_fit), rel=1e-5)
    scale = max(mixed_fit.components.values())
    for name, value in mixed_fit.components.items():
        assert other.components[name] == pytest.approx(factor**2 * value, rel=1e-4, abs=1e-6 * factor**2 * scale)


@given(st.integers(0, 10_000), st.randoms(use_true_random=False))
@settings(max_examples=25, deadline=None)
def test_order_and_names_of_strips_change_nothing(seed: int, shuffle: Any) -> None:
    y, factors = split(seed, lost=2)
    order = list(range(len(y)))
    shuffle.shuffle(order)
    turned = [Factor.of(factor.name, [f"x{factor.labels[at]}" for at in order]) for factor in factors]
    mixed_fit = fit_mixed(y, factors, FIXED, RANDOM)
    other = fit_mixed([y[at] for at in order], turned, FIXED, RANDOM)
    assert numbers(other) == pytest.approx(numbers(mixed_fit), rel=1e-5)
    assert other.reml_loglik == pytest.approx(mixed_fit.reml_loglik, abs=1e-5)


def test_without_random_terms_it_is_the_linear_model() -> None:
    y, factors = split(3, lost=3)
    fixed: list[Term] = [("block",), *FIXED]
    mixed, plain = fit_mixed(y, factors, fixed, []), fit_fixed(y, factors, fixed)
    assert mixed.components[RESIDUAL] == pytest.approx(plain.mse, rel=1e-8)
    for row in term_tests(plain):
        got = term_test(mixed, tuple(row.term.split(":")))
        assert (got.f, got.den_df) == (pytest.approx(row.f, rel=1e-7), pytest.approx(row.den_df, rel=1e-7))


def test_likelihood_and_components_are_those_of_statsmodels() -> None:
    """One random term: MixedLM of statsmodels climbs the same hill."""
    import pandas as pd
    import statsmodels.formula.api as smf

    y, factors = split(11, lost=2)
    frame = pd.DataFrame({"y": y} | {factor.name: factor.labels for factor in factors})
    theirs = smf.mixedlm("y ~ C(main) * C(sub)", frame, groups="block").fit(reml=True, gtol=1e-12)
    ours = fit_mixed(y, factors, FIXED, [("block",)])
    assert ours.reml_loglik >= theirs.llf - 1e-8
    assert ours.reml_loglik == pytest.approx(theirs.llf, abs=1e-5)
    assert ours.components["block"] == pytest.approx(float(theirs.cov_re.iloc[0, 0]), rel=1e-3)
    assert ours.components[RESIDUAL] == pytest.approx(theirs.scale, rel=1e-3)


def dense_loglik(theta: np.ndarray, y: np.ndarray, x: np.ndarray, zs: list[np.ndarray]) -> float:
    """The restricted log-likelihood straight from its definition, all rows at once."""
    v = theta[-1] * np.eye(y.size) + sum(value * z @ z.T for value, z in zip(theta[:-1], zs, strict=True))
    w = np.linalg.inv(v)
    beta = np.linalg.solve(x.T @ w @ x, x.T @ w @ y)
    rest = y - x @ beta
    logs = np.linalg.slogdet(v)[1] + np.linalg.slogdet(x.T @ w @ x)[1]
    return float(-0.5 * (logs + rest @ w @ rest + (y.size - x.shape[1]) * np.log(2 * np.pi)))


def test_the_top_is_the_top() -> None:
    """No components near those found, zero or not, make the data likelier; groups of rows add up to the whole."""
    rng = np.random.default_rng(5)
    for seed in range(6):
        y, factors = split(seed, lost=seed % 3)
        fit = fit_mixed(y, factors, FIXED, RANDOM)
        zs = [incidence(factors, term) for term in RANDOM]
        stacks = stacks_of(np.asarray(y), fit.x, [term_codes(factors, term) for term in RANDOM])
        theta = np.array(list(fit.components.values()))
        best = dense_loglik(theta, np.asarray(y), fit.x, zs)
        assert sum(stack.y.size for stack in stacks) == len(y)
        for _ in range(60):
            tried = np.maximum(theta + rng.normal(0, 0.2, theta.size) * theta.max() * rng.random(), 0)
            tried[-1] = max(tried[-1], 1e-3 * theta[-1])
            other = dense_loglik(tried, np.asarray(y), fit.x, zs)
            grouped = likelihood(tried, stacks)
            assert grouped is not None
            assert grouped.loglik == pytest.approx(other, abs=1e-7)
            assert other <= best + 1e-7


def test_score_is_the_slope_of_the_likelihood() -> None:
    """The score against differences of the dense likelihood; the information is its mean curvature, here its sign."""
    y, factors = split(3, lost=2)
    fit = fit_mixed(y, factors, FIXED, RANDOM)
    zs = [incidence(factors, term) for term in RANDOM]
    stacks = stacks_of(np.asarray(y), fit.x, [term_codes(factors, term) for term in RANDOM])
    theta = np.array([0.7, 0.4, 1.3]) * float(np.var(y))
    at = likelihood(theta, stacks)
    assert at is not None
    for place in range(3):
        step = np.zeros(3)
        step[place] = 1e-4 * theta[place]
        rise = dense_loglik(theta + step, np.asarray(y), fit.x, zs) - dense_loglik(theta - step, np.asarray(y), fit.x, zs)
        assert at.score[place] == pytest.approx(rise / (2 * step[place]), rel=1e-5)
    assert np.all(np.linalg.eigvalsh(at.information) > 0)


def test_residuals_are_what_the_predicted_terms_leave() -> None:
    """y − Xβ − ΣZu with u_k = θ_k Z_k′ W (y − Xβ), the best linear prediction."""
    y, factors = split(4, lost=1)
    fit = fit_mixed(y, factors, FIXED, RANDOM)
    zs = [incidence(factors, term) for term in RANDOM]
    theta = np.array(list(fit.components.values()))
    v = theta[-1] * np.eye(len(y)) + sum(value * z @ z.T for value, z in zip(theta[:-1], zs, strict=True))
    rest = np.asarray(y) - fit.x @ fit.beta
    predicted = sum(value * z @ z.T @ np.linalg.solve(v, rest) for value, z in zip(theta[:-1], zs, strict=True))
    assert fit.residuals == pytest.approx(rest - predicted)
    assert fit.fitted + fit.residuals == pytest.approx(np.asarray(y))


def test_joint_rows_of_a_term_are_its_test() -> None:
    y, factors = split(2)
    fit = fit_mixed(y, factors, FIXED, RANDOM)
    first, second, third = (cell_row(fit, {"sub": level}) for level in fit.factor("sub").levels)
    joint = rows_test(fit, np.vstack([first - second, second - third]))
    alone = term_test(fit, ("sub",))
    assert (joint.f, joint.den_df) == (pytest.approx(alone.f), pytest.approx(alone.den_df))


@pytest.mark.parametrize(
    ("change", "code"),
    [
        (lambda _, f: ([], f), "no_response"),
        (lambda y, f: (y[:-1], f), "lengths_differ"),
        (lambda y, f: ([*y[:-1], float("nan")], f), "not_finite"),
        (lambda y, f: ([7000.0] * len(y), f), "no_variation"),
        (lambda y, f: (y[:5], [Factor.of(item.name, item.labels[:5]) for item in f]), "empty_cells"),
    ],
)
def test_what_cannot_be_fitted_is_refused(change: Any, code: str) -> None:
    y, factors = change(*split(1))
    with pytest.raises(Refusal) as refused:
        fit_mixed(y, factors, FIXED, RANDOM)
    assert refused.value.code == code


def test_a_random_term_that_is_the_residual_is_refused() -> None:
    y, factors = split(1)
    with pytest.raises(Refusal, match="a level for every row"):
        fit_mixed(y, factors, FIXED, [("block", "main", "sub")])


def test_one_wild_value_is_an_answer_not_a_crash() -> None:
    y, factors = split(1)
    fit = fit_mixed([*y[:-1], 1e9], factors, FIXED, RANDOM)
    assert all(np.isfinite(numbers(fit)))
