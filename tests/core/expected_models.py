"""Blocks of results that need a model of the core, or another table than the case itself."""

from __future__ import annotations

import csv
import json
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
from cultrix_core.cli import main
from cultrix_core.stats.compare import StripResponse, compare
from cultrix_core.stats.linear_model import Covariate, Factor, fit_fixed, term_tests
from cultrix_core.stats.mixed_model import cell_row, contrast, fit_mixed, term_test
from cultrix_core.stats.polynomials import of_fixed, of_mixed, polynomial_coefficients, polynomials
from cultrix_core.stats.second_looks import rank_test
from cultrix_core.stats.strata import strata_of

from tests.core.expected_runner import (
    Runner,
    conditional,
    load,
    near,
)
from tests.core.test_nested_designs import check


def fixed(run: Runner) -> Any:
    factors = [run.factor("block"), *(run.factor(name) for name in run.factors)]
    terms = [("block",), *((name,) for name in run.factors), *([tuple(run.factors)] if len(run.factors) > 1 else [])]
    return fit_fixed(run.values(), factors, terms)


def polynomial_tests(run: Runner, wanted: dict[str, Any]) -> int:
    fit, compared = fixed(run), 0
    tables = {run.factors[0]: wanted["rows"]} if "rows" in wanted else {name: wanted[name] for name in run.factors}
    for name, rows in tables.items():
        levels = fit.factor(name).levels
        got = {
            polynomial.degree: polynomial for polynomial in polynomials([float(level) for level in levels], of_fixed(fit, name))
        }
        for row in rows:
            polynomial_test = got[row["degree"]]
            assert polynomial_test.coefficients == pytest.approx(row["coef"], abs=1e-9)
            assert (polynomial_test.estimate, polynomial_test.se, polynomial_test.f) == (
                near(row["estimate"], 1e-8),
                near(row["se"], 1e-8),
                near(row["f"], 1e-8),
            )
            assert polynomial_test.p == pytest.approx(row["p"], abs=run.tolerance["p_abs"])
            compared += 1
    if crossed := wanted.get("spacing_linear_by_density_linear"):
        weights = [polynomial_coefficients([float(level) for level in fit.factor(name).levels])[0] for name in run.factors]
        cells = np.outer(*weights).ravel()
        rows_ = np.array(
            [
                cell_row(fit, {run.factors[0]: level, run.factors[1]: other})
                for level in fit.factor(run.factors[0]).levels
                for other in fit.factor(run.factors[1]).levels
            ]
        )
        row = cells @ rows_
        estimate = float(row @ fit.beta)
        f = estimate**2 / (fit.mse * row @ fit.cov_unscaled @ row)
        assert (estimate, f) == (near(crossed["estimate"], 1e-8), near(crossed["f"], 1e-8))
        compared += 1
    return compared


def split_fit(run: Runner) -> Any:
    names = {flag: run.arguments[run.arguments.index(flag) + 1] for flag in ("--main", "--sub", "--block")}
    main_, sub, block = names["--main"], names["--sub"], names["--block"]
    factors = [run.factor(name) for name in (main_, sub, block)]
    random = [(block,), (block, main_), *([(block, sub)] if "strip-plot" in run.arguments else [])]
    fixed_terms = [(main_,), (sub,), (main_, sub)]
    return fit_mixed(run.values(), factors, fixed_terms, random), fixed_terms, random, main_, sub


def polynomials_mixed(run: Runner, wanted: list[dict[str, Any]]) -> int:
    fit, _, _, _, sub = split_fit(run)
    levels = fit.factor(sub).levels
    got = polynomials([float(level) for level in levels], of_mixed(fit, sub, levels))
    for row, polynomial_test in zip(wanted, got, strict=True):
        assert (polynomial_test.estimate, polynomial_test.f) == (near(row["estimate"], 1e-7), near(row["f"], 1e-4))
        assert polynomial_test.p == pytest.approx(row["p"], abs=run.tolerance["p_abs"])
    return len(wanted)


def classical(run: Runner, wanted: dict[str, Any]) -> int:
    """Standard errors and Satterthwaite's df of the strata, closed formulas in the reference."""
    fit, fixed_terms, random, first, second = split_fit(run)
    strata = strata_of(fit, fixed_terms, random)
    a, b = fit.factor(first).levels, fit.factor(second).levels

    def se(one: dict[str, str], other: dict[str, str]) -> tuple[float, float]:
        result = strata.contrast(cell_row(fit, one) - cell_row(fit, other))
        assert result is not None
        return result.se, result.df

    main_ = se({first: a[0]}, {first: a[1]})
    sub = se({second: b[0]}, {second: b[1]})
    across = se({first: a[0], second: b[0]}, {first: a[1], second: b[0]})
    within = se({first: a[0], second: b[0]}, {first: a[0], second: b[1]})
    if "sed_A" in wanted:
        assert (main_[0], sub[0]) == (near(wanted["sed_A"], 1e-8), near(wanted["sed_B"], 1e-8))
        assert (across[0], within[0]) == (near(wanted["sed_A_at_same_B"], 1e-8), near(wanted["sed_B_at_same_A"], 1e-8))
        return 4
    assert main_ == (near(wanted["sed_main"], 1e-8), near(wanted["error_a_df"], 1e-8))
    assert sub == (near(wanted["sed_sub"], 1e-8), near(wanted["error_b_df"], 1e-8))
    assert within[0] == near(wanted["sed_sub_within_same_main"], 1e-8)
    assert across == (
        near(wanted["sed_main_at_same_or_different_sub"], 1e-8),
        near(wanted["satterthwaite_df_for_that"], 1e-8),
    )
    return 7


def strata_table(run: Runner, wanted: list[dict[str, Any]]) -> int:
    got, compared = run.run()["strata"], 0
    for stratum in wanted:
        names = set(stratum["stratum"].split(":"))
        own = [
            row
            for row in got
            if set(row["stratum"].split(":")) == names or (stratum["stratum"] == "Within" and row["stratum"] == "Residual")
        ]
        for row in stratum["rows"]:
            mine = next(item for item in own if set(item["source"].split(":")) == set(row["source"].split(":")))
            assert (mine["df"], mine["ss"]) == (row["df"], near(row["ss"], 1e-8))
            if row["f"] is not None:
                assert (mine["f"], mine["p"]) == (near(row["f"], 1e-8), pytest.approx(row["p"], abs=1e-8))
            compared += 1
    return compared


def strata_of_factorial(run: Runner, wanted: list[dict[str, Any]]) -> int:
    """The confounded 2 × 2 × 2: N:P:K lies between blocks, so it is tested against blocks."""
    factors = [run.factor(name) for name in ("N", "P", "K", "block")]
    terms = [("N",), ("P",), ("K",), ("N", "P"), ("N", "K"), ("P", "K"), ("N", "P", "K")]
    fit = fit_mixed([float(row["yield"]) for row in run.rows()], factors, terms, [("block",)])
    got = strata_of(fit, terms, [("block",)]).rows
    for stratum in wanted:
        place = "Residual" if stratum["stratum"] == "Within" else "block"
        for row in stratum["rows"]:
            stratum_row = next(mine for mine in got if mine.stratum == place and mine.source == row["source"])
            assert (stratum_row.df, stratum_row.ss) == (row["df"], near(row["ss"], 1e-8))
            if row["f"] is not None:
                assert stratum_row.f == near(row["f"], 1e-8)
    return sum(len(stratum["rows"]) for stratum in wanted)


def nested_table(run: Runner, wanted: list[dict[str, Any]]) -> int:
    """Sums of squares of nested strips as strata of a model without treatments."""
    if run.case == "o16":
        factors = [run.factor("block"), run.factor("shade")]
        fit = fit_mixed([float(row["yield"]) for row in run.rows()], factors, [("shade",)], [("block",), ("block", "shade")])
        got = strata_of(fit, [("shade",)], [("block",), ("block", "shade")]).rows
        mine = {(row.stratum, row.source): row.ss for row in got}
        places = [("block", "residual"), ("block:shade", "shade"), ("block:shade", "residual"), ("Residual", "residual")]
        ours = [mine[place] for place in places]
    else:
        factors = [run.factor("batch"), run.factor("cask")]
        fit = fit_mixed([float(row["strength"]) for row in run.rows()], factors, [], [("batch",), ("batch", "cask")])
        ours = [row.ss for row in strata_of(fit, [], [("batch",), ("batch", "cask")]).rows]
    assert sorted(ours) == pytest.approx(sorted(row["ss"] for row in wanted), rel=1e-8)
    return len(wanted)


def vines(run: Runner, wanted: list[dict[str, Any]]) -> int:
    """Shades inside blocks, vines inside shades: each stratum's sums of squares."""
    return nested_table(run, [row for stratum in wanted for row in stratum["rows"]])


def loglik(run: Runner, wanted: dict[str, Any]) -> int:
    """nlme on its own way to the same top."""
    fit = split_fit(run)[0]
    assert fit.reml_loglik == pytest.approx(wanted["reml_loglik"], abs=1e-5)
    ours = list(fit.components.values())
    assert ours == pytest.approx(wanted["variances_block_main_residual"], rel=1e-3, abs=1e-6 * max(ours))
    return 4


def covariate_last(run: Runner, wanted: list[dict[str, Any]]) -> int:
    got = {row["term"]: row for row in run.run()["anova"]}
    row = next(item for item in wanted if item["source"] == "x")
    assert got["initial"]["f"] == near(row["f"], 1e-8)
    return 1


def treatment_last(run: Runner, wanted: list[dict[str, Any]]) -> int:
    got = {row["term"]: row for row in run.run()["anova"]}
    row = next(item for item in wanted if item["source"] == "trt")
    assert (got["trt"]["f"], got["trt"]["p"]) == (near(row["f"], 1e-8), near(row["p"], 1e-7))
    return 2


def without_covariate(run: Runner, wanted: list[dict[str, Any]]) -> int:
    got = {row["term"]: row for row in run.run(drop=("--covariate",))["anova"]}
    for row in wanted:
        if row["source"] in got:
            assert got[row["source"]]["f"] == near(row["f"], 1e-8)
    return len(wanted)


def warned(words: str) -> Callable[[Runner, Any], int]:
    """What the command says of a covariate, in its warnings."""

    def compared(run: Runner, wanted: Any) -> int:
        text = next(item for item in run.run()["warnings"] if words in item)
        own = wanted if isinstance(wanted, dict) else next(row for row in wanted if row["source"] == "trt")
        f, p = own["f"], own["p"]
        assert f"F {f:.3f}" in text
        assert f"p {p:.4f}" in text
        return 2

    return compared


def slope(run: Runner, wanted: dict[str, Any]) -> int:
    factors = [run.factor("block"), run.factor("trt")]
    amounts = Covariate(name="initial", values=tuple(float(row["initial"]) for row in run.rows()))
    fit = fit_mixed(run.values(), [*factors, amounts], [("block",), ("trt",), ("initial",)], [])
    row = np.zeros(fit.x.shape[1])
    row[fit.columns["initial",]] = 1.0
    result = contrast(fit, row)
    assert (result.estimate, result.se) == (near(wanted["estimate"], 1e-8), near(wanted["se"], 1e-8))
    return 2


def ancova_factorial(run: Runner, wanted: list[dict[str, Any]]) -> int:
    """Fumigant by dose without the control; the last term is the same in sequence and in type III."""
    rows = [row for row in run.rows() if row["trt"] != "Con0"]
    factors = [Factor.of(name, [str(row[name]) for row in rows]) for name in ("block", "fumigant", "dose")]
    amounts = Covariate(name="initial", values=tuple(float(row["initial"]) for row in rows))
    terms = [("block",), ("initial",), ("fumigant",), ("dose",), ("fumigant", "dose")]
    fit = fit_fixed([float(row["final"]) for row in rows], [*factors, amounts], terms)
    last = term_tests(fit)[-1]
    row = next(item for item in wanted if item["source"] == "fumigant:factor(dose)")
    assert (last.num_df, last.f, fit.df_error) == (row["df"], near(row["f"], 1e-8), wanted[-1]["df"])
    assert fit.sse == near(wanted[-1]["ss"], 1e-8)
    return 4


def mixed_quadratic(run: Runner, wanted: dict[str, Any]) -> int:
    """A curve in a split-plot: amounts as columns of the mixed model."""
    raw = np.array([float(row["nitro"]) for row in run.rows()])
    factors = [Factor.of(name, [str(row[name]) for row in run.rows()]) for name in ("block", "variety")]
    amounts = [Covariate(name="x", values=tuple(raw)), Covariate(name="xx", values=tuple(raw**2))]
    fit = fit_mixed(
        [float(row["yield"]) for row in run.rows()], [*factors, *amounts], [("x",), ("xx",)], [("block",), ("block", "variety")]
    )
    for row in wanted["variance_components"]:
        assert fit.components[row["group"]] == near(row["variance"], run.tolerance["reml_variance_rel"])
    test = term_test(fit, ("xx",))
    theirs = next(row for row in wanted["f_tests_type1_kenward_roger"] if row["term"] == "I(x^2)")
    assert (test.f, test.den_df) == (near(theirs["f"], 1e-4), near(theirs["den_df"], 1e-4))
    return 5


def block_quadratic(run: Runner, wanted: dict[str, Any]) -> int:
    """The quadratic with blocks and varieties taken out."""
    raw = np.array([float(row["nitro"]) for row in run.rows()])
    factors = [Factor.of(name, [str(row[name]) for row in run.rows()]) for name in ("block", "variety")]
    amounts = [Covariate(name="x", values=tuple(raw)), Covariate(name="xx", values=tuple(raw**2))]
    fit = fit_fixed(
        [float(row["yield"]) for row in run.rows()], [*factors, *amounts], [("block",), ("variety",), ("x",), ("xx",)]
    )
    assert fit.mse == near(wanted["mse"], 1e-8)
    assert fit.df_error == wanted["df"]
    for key, name in (("b", "x"), ("c", "xx")):
        place = fit.columns[name,].start
        se = float(np.sqrt(fit.mse * fit.cov_unscaled[place, place]))
        assert (float(fit.beta[place]), se) == (near(wanted[key][0], 1e-7), near(wanted[key][1], 1e-7))
    return 6


def paired(run: Runner, wanted: dict[str, Any]) -> int:
    item = pair_differences(run, [])[0]
    assert abs(item["t"]) == near(abs(wanted["t"]), 1e-8)
    assert (item["df"], item["p"]) == (wanted["df"], near(wanted["p"], 1e-7))
    assert sorted([abs(item["lower"]), abs(item["upper"])]) == pytest.approx(sorted([abs(wanted["lo95"]), abs(wanted["hi95"])]))
    return 4


def pair_differences(run: Runner, more: list[str]) -> list[dict[str, Any]]:
    """Pairs as blocks of two, through the command line."""
    first, second = ("cross", "self") if run.case == "o15" else ("Y1", "Y2")
    path = run.folder / "pairs.csv"
    with path.open("w", newline="") as handle:
        out = csv.writer(handle)
        out.writerow(["block", "treatment", "y"])
        for place, row in enumerate(run.rows()):
            out.writerow([place, first, row[first]])
            out.writerow([place, second, row[second]])
    arguments = ["--design", "rcbd", "--treatment", "treatment", "--block", "block", "--response", "y", "--json"]
    assert main(["analyse", str(path), *arguments, "--alpha", "0.05", *more]) == 0
    result: list[dict[str, Any]] = json.loads(run.capsys.readouterr().out)["differences"]
    return result


def pair_number(key: str) -> Callable[[Runner, Any], int]:
    def compared(run: Runner, wanted: Any) -> int:
        assert abs(pair_differences(run, [])[0][key]) == near(abs(float(wanted)), 1e-8)
        return 1

    return compared


def tost(run: Runner, wanted: list[dict[str, Any]]) -> int:
    for row in wanted:
        item = pair_differences(run, ["--margin", str(row["margin"]), "--alpha", "0.10"])[0]
        assert item["tost_p"] == near(row["p_tost"], 1e-7)
        inside = -row["margin"] <= item["lower"] and item["upper"] <= row["margin"]
        assert inside == row["equivalent_at_05"]
        assert (item["call"] == "no_difference_that_matters") == (inside and item["lower"] <= 0 <= item["upper"])
    return 2 * len(wanted)


def wilcoxon(run: Runner, wanted: dict[str, Any]) -> int:
    first, second = ("cross", "self") if run.case == "o15" else ("Y1", "Y2")
    strips = [
        StripResponse(treatment=name, block=str(place), response=float(row[name]))
        for place, row in enumerate(run.rows())
        for name in (first, second)
    ]
    test = rank_test(strips)
    assert test is not None
    # exact where there are no ties, else the normal approximation, which SciPy makes without a continuity correction
    exact = wanted["p_base_r"] if wanted["base_r_used_exact"] else wanted["p_normal_uncorrected"]
    assert test.p == pytest.approx(exact, abs=1e-6)
    return 1


def uniformity(run: Runner, wanted: dict[str, Any]) -> int:
    """The strips of the wheat map under many layouts: F of every sham trial."""
    assert len(run.rows()) == 500
    strips = wanted["strip_means"]
    for layout, f, p in zip(wanted["layouts_rcbd"], wanted["f_strip_means"], wanted["p_strip_means"], strict=True):
        rows = [
            StripResponse(treatment=str(treatment), block=str(block), response=float(value))
            for treatment, block, value in zip(layout, wanted["block_of_strip"], strips, strict=True)
        ]
        test = next(item for item in compare(rows).anova if item.term == "treatment")
        assert (test.f, test.p) == (near(f, 1e-8), near(p, 1e-7))
    return 2 * len(wanted["layouts_rcbd"])


def beets(run: Runner, wanted: dict[str, Any]) -> int:
    """Both responses of the beets: tests, means, pairs, strata, classical errors, residuals, likelihood."""
    response = next(name for name in ("yield", "sugpct") if load("o23")["expected"][name] is wanted)
    run.response = response
    count = check(run.run("--adjust", "tukey"), wanted["lmer_kr"], run.tolerance)
    count += strata_table(run, wanted["aov_strata"]) + classical(run, wanted["classical_precision"])
    count += loglik(run, wanted["nlme_crosscheck"])
    if "lmer_kr_blocks_fixed" in wanted:
        count += check(run.run("--adjust", "tukey", "--blocks", "fixed"), wanted["lmer_kr_blocks_fixed"], run.tolerance)
    return count + conditional(run, wanted["diagnostics"])


def beets_additive(run: Runner, wanted: dict[str, Any]) -> int:
    factors = [run.factor(name) for name in ("block", "sow", "harvest")]
    values = [float(row["sugpct"]) for row in run.rows()]
    fit = fit_mixed(values, factors, [("block",), ("sow",), ("harvest",)], [("block", "harvest")])
    for name in ("harvest", "sow"):
        test, theirs = term_test(fit, (name,)), wanted[f"KRmodcomp_{name}"]
        assert (test.f, test.den_df, test.num_df) == (near(theirs["f"], 1e-4), near(theirs["ddf"], 1e-4), theirs["ndf"])
    assert fit.reml_loglik == pytest.approx(wanted["fit"]["reml_loglik"], abs=run.tolerance["reml_loglik_abs"])
    return 7


def gls(run: Runner, wanted: dict[str, Any]) -> int:
    factors = [run.factor("variety"), run.factor("block")]
    fit = fit_mixed(run.values(), factors, [("variety",)], [])
    assert fit.components["Residual"] == near(wanted["sigma2"], 1e-6)
    assert fit.reml_loglik == pytest.approx(wanted["reml_loglik"], abs=1e-5)
    return 2


def points(run: Runner, wanted: dict[str, Any]) -> int:
    factors = [Factor.of(name, [str(row[name]) for row in run.rows()]) for name in ("trt", "block", "strip")]
    fit = fit_mixed([float(row["yield"]) for row in run.rows()], factors, [("trt",)], [("block",), ("strip",)])
    for row in wanted["variance_components"]:
        assert fit.components[row["group"]] == near(row["variance"], run.tolerance["reml_variance_rel"])
    assert fit.reml_loglik == pytest.approx(wanted["reml_loglik"], abs=run.tolerance["reml_loglik_abs"])
    theirs = wanted["f_tests_type3_kenward_roger"][0]
    test = term_test(fit, ("trt",))
    assert (test.f, test.den_df) == (near(theirs["f"], 1e-4), near(theirs["den_df"], 1e-4))
    return 6


def once_each(run: Runner, wanted: list[dict[str, Any]]) -> int:
    """Varieties over site-years with one plot each, environments as blocks."""
    rows = [
        StripResponse(treatment=str(row["variety"]), block=str(row["env"]), response=float(row["yield"])) for row in run.rows()
    ]
    result = {test.term: test for test in compare(rows).anova}
    for row in wanted:
        if row["source"] == "variety":
            assert (result["treatment"].f, result["treatment"].num_df) == (near(row["f"], 1e-8), row["df"])
    return 2
