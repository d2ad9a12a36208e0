"""Every block of results that a reference case carries, in one table: checked here, checked elsewhere, or out of scope.

Cases whose analysis the command line makes are run through it, block by block; the tolerances are the cases' own.
"""

from __future__ import annotations

import csv
import importlib
import json
from collections.abc import Callable
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from cultrix_core.cli import main
from cultrix_core.stats.compare import StripResponse, compare
from cultrix_core.stats.environments import combine
from cultrix_core.stats.linear_model import Covariate, Factor, fit_fixed, term_tests
from cultrix_core.stats.mixed_model import cell_row, contrast, fit_mixed, term_test
from cultrix_core.stats.polynomials import of_fixed, of_mixed, polynomial_coefficients, polynomials
from cultrix_core.stats.second_looks import rank_test
from cultrix_core.stats.strata import strata_of

from tests.core.references import FOLDER
from tests.core.test_nested_designs import check

CASES = {path.name[:3]: path.stem for path in sorted(FOLDER.glob("o*.json"))}

OATS = ("yield", ["--design", "split-plot", "--main", "variety", "--sub", "nitro", "--block", "block"], ["variety", "nitro"])

# case: (response, arguments of the command line, columns of factors)
COMMANDS: dict[str, tuple[str, list[str], list[str]]] = {
    "o01": ("yield", ["--design", "rcbd", "--treatment", "rate", "--block", "block"], ["rate"]),
    "o02": ("yield", ["--design", "rcbd", "--treatment", "rate", "--block", "block"], ["rate"]),
    "o03": ("inf", ["--design", "crd", "--treatment", "trt"], ["trt"]),
    "o04": (
        "yield",
        ["--design", "rcbd", "--treatment", "spacing", "--treatment", "density", "--block", "block"], ["spacing", "density"],
    ),
    "o06": ("yield", ["--design", "latin", "--treatment", "trt", "--row", "row", "--column", "col"], ["trt"]),
    "o07": OATS,
    "o08": OATS,
    "o09": ("yield", ["--design", "split-plot", "--main", "nitro", "--sub", "gen", "--block", "rep"], ["nitro", "gen"]),
    "o10": ("yield", ["--design", "strip-plot", "--main", "gen", "--sub", "nitro", "--block", "rep"], ["gen", "nitro"]),
    "o21": (
        "final", ["--design", "rcbd", "--treatment", "trt", "--block", "block", "--covariate", "initial"], ["trt"],
    ),
    "o23": ("yield", ["--design", "split-plot", "--main", "harvest", "--sub", "sow", "--block", "block"], ["harvest", "sow"]),
    "o24": ("yield", ["--design", "rcbd", "--treatment", "variety", "--block", "block"], ["variety"]),
    "o26": ("yield", ["--design", "rcbd", "--treatment", "variety", "--block", "block"], ["variety"]),
    "o28": ("weight", ["--design", "crd", "--treatment", "group"], ["group"]),
    "o30": ("yield", ["--design", "latin", "--treatment", "trt", "--row", "row", "--column", "col"], ["trt"]),
    "o32": (
        "angle",
        ["--design", "split-plot", "--main", "recipe", "--sub", "temperature", "--block", "replicate"],
        ["recipe", "temperature"],
    ),
    "o34": (
        "yield",
        ["--design", "rcbd", "--treatment", "spacing", "--treatment", "density", "--block", "block"], ["spacing", "density"],
    ),
}  # fmt: skip

# block (or case/block): why it is not ours
OUT: dict[str, str] = {
    "r_squared": "says little of a designed trial: not told",
    "raw_means": "plain means of the rows; the strips themselves are shown",
    "grand_mean": "plain mean of the rows",
    "balanced": "a property of the data",
    "total_ss": "a property of the data",
    "quade": "a third test by ranks beside Friedman's: not told",
    "welch_anova": "unequal variances are pointed out by Brown–Forsythe; Welch's test is not offered",
    "relative_efficiency_vs_crd": "what blocking gained is not told",
    "kr_vs_aov": "compares two blocks that are each checked themselves",
    "unbounded_compound_symmetry_gls": "negative variances: out of the model",
    "type2": "tests are of type III throughout",
    "main_effects": "half-differences of a 2 × 2 × 2: the differences are checked by the mixed model",
    "reduced_model_n_k": "factors come with their interactions; an additive model is not offered",
    "aic_order": "a ranking that the curves' own tests check",
    "gls_spherical_nugget": "spatial models",
    "gls_rational_quadratic_nugget": "spatial models",
    "points_random_strip_ar1": "autoregressive models: strips are the unit, not readings",
    "anova_variances": "variances by equating mean squares: REML only",
    "regression_on_environment_mean": "stability slopes are not told",
    "welch_unpaired_for_contrast": "the wrong analysis of pairs, kept there for contrast",
    "noninferiority_a_not_worse": "one-sided claims are not offered",
    "sign_test": "a weaker rank test than the one told",
    "sign_flip_permutation_two_sided_p": "a permutation test: not told",
    "shapiro_wilk_diff": "normality is looked at on residuals, half-differences mirrored",
    "correlation": "a property of the data",
    "sd_diff": "a property of the data",
    "mean_a": "plain mean",
    "mean_b": "plain mean",
    "lag1_correlation_along_columns": "autocorrelation of a map",
    "lag1_correlation_across_columns": "autocorrelation of a map",
    "row_column_anova": "a map without treatments",
    "o34/sed": "empty there: with lost strips no two are the same",
    "o20/mean": "a property of the data",
    "o20/variance": "a property of the data",
    "o20/cv_pct": "a property of the data",
    "o05/anova_sequential_blocks_fixed": "blocks fixed leave N:P:K without an estimate: refused by the engine",
    "o05/mse": "the residual of the same refused model",
}

# block (or case/block): the test that checks it
ELSEWHERE: dict[str, str] = {
    "lmer_kr": "test_mixed_model::test_variance_components_and_likelihood",
    "lmer_kr_blocks_fixed": "test_mixed_model::test_variance_components_and_likelihood",
    "lmer": "test_mixed_model::test_variance_components_and_likelihood",
    "env_random": "test_mixed_model::test_variance_components_and_likelihood",
    "crossed_full": "test_mixed_model::test_variance_components_and_likelihood",
    "site_nested_year": "test_mixed_model::test_variance_components_and_likelihood",
    "dose_response_pooled": "test_curves::test_shapes_as_in_r",
    "pooled": "test_curves::test_shapes_as_in_r",
    "mean_only": "test_curves::test_shapes_as_in_r",
    "linear": "test_curves::test_shapes_as_in_r",
    "quadratic": "test_curves::test_shapes_as_in_r",
    "linear_plateau": "test_curves::test_shapes_as_in_r",
    "quadratic_plateau": "test_curves::test_shapes_as_in_r",
    "economic_optimum": "test_curves::test_shapes_as_in_r",
    "agronomic_optimum_quadratic": "test_curves::test_shapes_as_in_r",
    "aicc_order": "test_curves::test_shapes_as_in_r",
    "nested_tests": "test_nested_designs::test_samples_inside_strips",
    "plot_mean_anova": "test_nested_designs::test_samples_inside_strips",
    "plot_mean_emmeans": "test_nested_designs::test_samples_inside_strips",
    "wrong_pseudoreplicated": "test_nested_designs::test_samples_inside_strips",
    "rcbd_grid": "test_margin::test_power_of_pairs_and_of_f_as_in_r",
    "min_blocks": "test_margin::test_blocks_for_a_difference_as_in_r",
    "min_detectable_difference": "test_margin::test_least_detectable_differences_as_in_r",
    "power_t_test": "test_margin::test_power_of_pairs_and_of_f_as_in_r",
    "power_anova_test": "test_margin::test_power_of_pairs_and_of_f_as_in_r",
    "n_for_power": "test_margin::test_blocks_for_a_difference_as_in_r",
    "strip_mean_anova": "test_yield_log",
    "strip_mean_emmeans": "test_yield_log",
    "strip_mean_pairs": "test_yield_log",
    "four_treatments_in_every_block": "test_nested_designs::test_several_environments",
    "all_12_treatments_unbalanced": "test_nested_designs::test_several_environments",
    "o11/aov_strata": "test_nested_designs::test_balanced_data_show_the_classical_strata",
    "o12/aov_strata": "test_nested_designs::test_balanced_data_show_the_classical_strata",
}


@lru_cache(maxsize=64)
def load(case: str) -> dict[str, Any]:
    raw: dict[str, Any] = json.loads((FOLDER / f"{CASES[case]}.json").read_text())
    return raw


class Runner:
    """One case through the command line; answers are kept by their arguments."""

    def __init__(self, case: str, folder: Path, capsys: pytest.CaptureFixture[str]) -> None:
        self.case, self.raw, self.folder, self.capsys = case, load(case), folder, capsys
        self.tolerance: dict[str, float] = self.raw["suggested_tolerance"]
        self.response, self.arguments, self.factors = COMMANDS.get(case, ("", [], []))

    def rows(self) -> list[dict[str, Any]]:
        rows: list[dict[str, Any]] = self.raw["data"]
        return rows

    def run(self, *more: str, response: str = "", drop: tuple[str, ...] = ()) -> dict[str, Any]:
        path = self.folder / "trial.csv"
        with path.open("w", newline="") as handle:
            out = csv.DictWriter(handle, fieldnames=list(self.rows()[0]))
            out.writeheader()
            out.writerows(self.rows())
        arguments = list(self.arguments)
        for name in drop:
            place = arguments.index(name)
            del arguments[place : place + 2]
        given = ["--alpha", "0.05"] if "--alpha" not in more else []
        code = main(["analyse", str(path), "--response", response or self.response, *arguments, *given, "--json", *more])
        caught = self.capsys.readouterr()
        assert code == 0, caught.err
        found: dict[str, Any] = json.loads(caught.out)
        return found

    def factor(self, name: str) -> Factor:
        levels = next(column.get("levels") for column in self.raw["columns"] if column["name"] == name)
        return Factor.of(
            name, [str(row[name]) for row in self.rows()], None if levels is None else [str(one) for one in levels]
        )

    def values(self) -> list[float]:
        return [float(row[self.response]) for row in self.rows()]


def near(wanted: float, rel: float, smallest: float = 1e-9) -> object:
    return pytest.approx(wanted, rel=rel, abs=smallest)


def residual(got: dict[str, Any]) -> float:
    return float(next(one["variance"] for one in got["variance_components"] if one["group"] == "Residual"))


def anova(run: Runner, wanted: list[dict[str, Any]]) -> int:
    """Sequential tables equal type III in balanced data, and for their last term always."""
    got = {row["term"]: row for row in run.run(*(["--blocks", "fixed"] if run.case == "o24" else []))["anova"]}
    last = [row["source"] for row in wanted if row["f"] is not None][-1]
    last = {"treatment": run.factors[0]}.get(last, last)
    compared = 0
    for row in wanted:
        name = {"treatment": run.factors[0], "col": "col"}.get(row["source"], row["source"])
        if name not in got or (run.case in ("o02", "o30", "o34") and name != last):
            continue
        assert got[name]["num_df"] == row["df"]
        assert got[name]["f"] == near(row["f"], 1e-7)
        assert got[name]["p"] == pytest.approx(row["p"], abs=run.tolerance.get("p_abs", 1e-5))
        compared += 1
    assert compared
    return compared


def type3(run: Runner, wanted: list[dict[str, Any]]) -> int:
    got = {row["term"]: row for row in run.run()["anova"]}
    names = {"x": "initial", **{name: name for name in got}}
    compared = 0
    for row in wanted:
        name = names.get(row["term"], "")
        if name in got:
            assert (got[name]["num_df"], got[name]["f"]) == (row["df"], near(row["f"], 1e-7))
            compared += 1
    assert compared >= 2
    return compared


def means(run: Runner, wanted: list[dict[str, Any]]) -> int:
    got = run.run()["means"]
    tables = wanted if "specs" in wanted[0] else [{"specs": run.factors, "rows": wanted}]
    for table in tables:
        for row in table["rows"]:
            levels = {name: str(row[name] if name in row else row["level"]) for name in table["specs"]}
            one = next(mean for mean in got if mean["levels"] == levels)
            for mine, theirs in (("mean", "emmean"), ("se", "se"), ("df", "df"), ("lower", "lo95"), ("upper", "hi95")):
                assert one[mine] == near(row[theirs], 1e-7), (levels, mine)
    return sum(len(table["rows"]) for table in tables)


def pairs(run: Runner, wanted: list[dict[str, Any]]) -> int:
    tables = wanted if "compare" in wanted[0] else [{"compare": run.factors, "rows": wanted}]
    compared = 0
    for adjust, name in (("none", "p"), ("tukey", "p_tukey"), ("holm", "p_holm")):
        got = run.run("--adjust", adjust)["differences"]
        for table in tables:
            if len(table["compare"]) != 1:
                continue  # all pairs of combinations are no family of ours
            inside = table.get("within") or []
            for row in table["rows"]:
                within = {key: str(row[key]) for key in ([inside] if isinstance(inside, str) else inside)}
                ends = {str(row["level1"]), str(row["level2"])}
                one = next(
                    one for one in got
                    if one["factors"] == table["compare"] and one["within"] == within
                    and {*one["left"].values(), *one["right"].values()} == ends
                )  # fmt: skip
                sign = 1 if str(row["level1"]) in one["left"].values() else -1
                assert sign * one["estimate"] == pytest.approx(row["estimate"], rel=1e-7, abs=1e-7 * row["se"])
                assert one["se"] == near(row["se"], 1e-7)
                assert one["df"] == near(row["df"], 1e-7)
                assert one["p_adjusted"] == pytest.approx(row[name], abs=run.tolerance["p_abs"])
                compared += 1
    return compared


def share(one: str, other: str) -> bool:
    return bool(set(one) & set(other))


def letters(adjust: str, alpha: str) -> Callable[[Runner, Any], int]:
    def compared(run: Runner, wanted: Any) -> int:
        got = run.run("--adjust", adjust, "--alpha", alpha)["means"]
        tables = wanted if isinstance(wanted, dict) else {run.factors[0]: wanted}
        count = 0
        for name, rows in tables.items():
            mine = {one["levels"][name]: one["letters"] for one in got if one["factors"] == [name]}
            named = [(str(row.get(name, row.get("level"))), row["letters"]) for row in rows]
            for place, (one, letter) in enumerate(named):
                for other, letter_other in named[place + 1 :]:
                    assert share(mine[one], mine[other]) == share(letter, letter_other), (one, other)
                    count += 1
        return count

    return compared


def number(path: Callable[[dict[str, Any], Runner], float], rel: float = 1e-8) -> Callable[[Runner, Any], int]:
    def compared(run: Runner, wanted: Any) -> int:
        assert path(run.run(), run) == near(float(wanted), rel)
        return 1

    return compared


def lsd(alpha: str) -> Callable[[Runner, Any], int]:
    def compared(run: Runner, wanted: Any) -> int:
        assert run.run("--alpha", alpha)["lsd"][0]["value"] == near(float(wanted), 1e-8)
        return 1

    return compared


def precision(run: Runner, wanted: dict[str, Any]) -> int:
    got = run.run()
    assert got["sed"][0]["value"] == near(wanted["sed"], 1e-8)
    assert got["means"][0]["se"] == near(wanted["sem"], 1e-8)
    for key, alpha in (("lsd_01", "0.01"), ("lsd_05", "0.05"), ("lsd_10", "0.10")):
        lsd(alpha)(run, wanted[key])
    for key, alpha in (("tukey_hsd_05", "0.05"), ("tukey_hsd_10", "0.10")):
        one = run.run("--adjust", "tukey", "--alpha", alpha)["differences"][0]
        assert (one["upper"] - one["lower"]) / 2 == near(wanted[key], run.tolerance["tukey_p_abs"])
    return 7


def seds(run: Runner, wanted: dict[str, Any]) -> int:
    got = {one["comparison"]: one["value"] for one in run.run()["sed"]}
    names = {
        "spacing": "two spacing means",
        "density": "two density means",
        "cell": "two spacing means at one level of density",
    }
    told = [key for key in wanted if wanted[key] is not None]
    for key in told:
        assert got[names[key]] == near(wanted[key], 1e-8)
    return len(told)


def dunnett(run: Runner, wanted: dict[str, Any]) -> int:
    exact = "exact" in wanted
    rows = wanted["exact"]["rows"] if exact else wanted["mvt"]
    got = {
        one["left"][run.factors[0]]: one
        for one in run.run("--adjust", "dunnett", "--control", str(wanted["control"]))["differences"]
    }
    for row in rows:
        one = got[row["contrast"].split(" - ")[0].strip("()")]
        assert one["estimate"] == pytest.approx(row["estimate"], rel=1e-8, abs=1e-8)
        # multcomp integrates by randomised quasi-Monte Carlo, with an error of up to 1e-3 in p
        assert one["p_adjusted"] == pytest.approx(row.get("p_dunnett", row.get("p")), abs=1e-5 if exact else 1e-3)
    return len(rows)


def shapiro(run: Runner, wanted: dict[str, Any]) -> int:
    got = run.run()["checks"]["shapiro"]
    own = wanted.get("shapiro", wanted)
    assert got["w"] == near(own["w"], 1e-7)
    assert got["p"] == pytest.approx(own["p"], abs=1e-6)
    return 2


def conditional(run: Runner, wanted: dict[str, Any]) -> int:
    got = run.run()["checks"]["shapiro"]
    own = wanted["shapiro_conditional_residuals"]
    assert got["w"] == near(own["w"], 1e-5)
    assert got["p"] == pytest.approx(own["p"], abs=1e-4)
    return 2


def diagnostics(run: Runner, wanted: dict[str, Any]) -> int:
    if "shapiro" in wanted:
        return shapiro(run, wanted)
    if "shapiro_conditional_residuals" in wanted:
        return conditional(run, wanted)
    got = run.run()["checks"]
    assert got["shapiro"]["w"] == near(wanted["shapiro_wilk_residuals"]["w"], 1e-6)
    assert got["brown_forsythe"]["f"] == near(wanted["brown_forsythe_on_model_residuals"]["f"], 1e-7)
    largest = wanted["largest_outlier"]
    assert (got["outlier"]["row"], got["outlier"]["rstudent"]) == (largest["row_1based"], near(largest["rstudent"], 1e-8))
    if tukey := wanted.get("tukey_nonadditivity_1df"):
        assert (got["additivity"]["f"], got["additivity"]["p"]) == (near(tukey["f"], 1e-7), near(tukey["p"], 1e-7))
    return 4


def friedman(run: Runner, wanted: dict[str, Any]) -> int:
    strips = [
        StripResponse(treatment=str(row[run.factors[0]]), block=str(row.get("block", "")), response=float(row[run.response]))
        for row in run.rows()
    ]
    found = rank_test(strips, blocked="block" in run.rows()[0])
    assert found is not None
    assert (found.statistic, found.df, found.p) == (near(wanted["chisq"], 1e-8), wanted["df"], near(wanted["p"], 1e-8))
    return 3


def random_blocks(run: Runner, wanted: dict[str, Any]) -> int:
    got = run.run("--blocks", "random", "--adjust", "tukey")
    for row in wanted["variance_components"]:
        mine = next(one for one in got["variance_components"] if one["group"] == row["group"])
        assert mine["variance"] == near(row["variance"], run.tolerance["reml_variance_rel"])
    return check(got, wanted, run.tolerance)


def fixed(run: Runner) -> Any:
    made = [run.factor("block"), *(run.factor(name) for name in run.factors)]
    terms = [("block",), *((name,) for name in run.factors), *([tuple(run.factors)] if len(run.factors) > 1 else [])]
    return fit_fixed(run.values(), made, terms)


def polynomial_tests(run: Runner, wanted: dict[str, Any]) -> int:
    fit, compared = fixed(run), 0
    tables = {run.factors[0]: wanted["rows"]} if "rows" in wanted else {name: wanted[name] for name in run.factors}
    for name, rows in tables.items():
        levels = fit.factor(name).levels
        got = {one.degree: one for one in polynomials([float(level) for level in levels], of_fixed(fit, name))}
        for row in rows:
            one = got[row["degree"]]
            assert one.coefficients == pytest.approx(row["coef"], abs=1e-9)
            assert (one.estimate, one.se, one.f) == (near(row["estimate"], 1e-8), near(row["se"], 1e-8), near(row["f"], 1e-8))
            assert one.p == pytest.approx(row["p"], abs=run.tolerance["p_abs"])
            compared += 1
    if crossed := wanted.get("spacing_linear_by_density_linear"):
        weights = [polynomial_coefficients([float(level) for level in fit.factor(name).levels])[0] for name in run.factors]
        cells = np.outer(*weights).ravel()
        rows_ = np.array(
            [
                cell_row(fit, {run.factors[0]: one, run.factors[1]: other})
                for one in fit.factor(run.factors[0]).levels
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
    made = [run.factor(name) for name in (main_, sub, block)]
    random = [(block,), (block, main_), *([(block, sub)] if "strip-plot" in run.arguments else [])]
    fixed_terms = [(main_,), (sub,), (main_, sub)]
    return fit_mixed(run.values(), made, fixed_terms, random), fixed_terms, random, main_, sub


def polynomials_mixed(run: Runner, wanted: list[dict[str, Any]]) -> int:
    fit, _, _, _, sub = split_fit(run)
    levels = fit.factor(sub).levels
    got = polynomials([float(level) for level in levels], of_mixed(fit, sub, levels))
    for row, one in zip(wanted, got, strict=True):
        assert (one.estimate, one.f) == (near(row["estimate"], 1e-7), near(row["f"], 1e-4))
        assert one.p == pytest.approx(row["p"], abs=run.tolerance["p_abs"])
    return len(wanted)


def classical(run: Runner, wanted: dict[str, Any]) -> int:
    """Standard errors and Satterthwaite's df of the strata, closed formulas in the reference."""
    fit, fixed_terms, random, first, second = split_fit(run)
    strata = strata_of(fit, fixed_terms, random)
    a, b = fit.factor(first).levels, fit.factor(second).levels

    def se(one: dict[str, str], other: dict[str, str]) -> tuple[float, float]:
        found = strata.contrast(cell_row(fit, one) - cell_row(fit, other))
        assert found is not None
        return found.se, found.df

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
        near(wanted["sed_main_at_same_or_different_sub"], 1e-8), near(wanted["satterthwaite_df_for_that"], 1e-8),
    )  # fmt: skip
    return 7


def strata_table(run: Runner, wanted: list[dict[str, Any]]) -> int:
    got, compared = run.run()["strata"], 0
    for stratum in wanted:
        names = set(stratum["stratum"].split(":"))
        own = [
            row for row in got
            if set(row["stratum"].split(":")) == names or (stratum["stratum"] == "Within" and row["stratum"] == "Residual")
        ]  # fmt: skip
        for row in stratum["rows"]:
            mine = next(one for one in own if set(one["source"].split(":")) == set(row["source"].split(":")))
            assert (mine["df"], mine["ss"]) == (row["df"], near(row["ss"], 1e-8))
            if row["f"] is not None:
                assert (mine["f"], mine["p"]) == (near(row["f"], 1e-8), pytest.approx(row["p"], abs=1e-8))
            compared += 1
    return compared


def strata_of_factorial(run: Runner, wanted: list[dict[str, Any]]) -> int:
    """The confounded 2 × 2 × 2: N:P:K lies between blocks, so it is tested against blocks."""
    made = [run.factor(name) for name in ("N", "P", "K", "block")]
    terms = [("N",), ("P",), ("K",), ("N", "P"), ("N", "K"), ("P", "K"), ("N", "P", "K")]
    fit = fit_mixed([float(row["yield"]) for row in run.rows()], made, terms, [("block",)])
    got = strata_of(fit, terms, [("block",)]).rows
    for stratum in wanted:
        place = "Residual" if stratum["stratum"] == "Within" else "block"
        for row in stratum["rows"]:
            one = next(mine for mine in got if mine.stratum == place and mine.source == row["source"])
            assert (one.df, one.ss) == (row["df"], near(row["ss"], 1e-8))
            if row["f"] is not None:
                assert one.f == near(row["f"], 1e-8)
    return sum(len(stratum["rows"]) for stratum in wanted)


def nested_table(run: Runner, wanted: list[dict[str, Any]]) -> int:
    """Sums of squares of nested strips as strata of a model without treatments."""
    if run.case == "o16":
        made = [run.factor("block"), run.factor("shade")]
        fit = fit_mixed([float(row["yield"]) for row in run.rows()], made, [("shade",)], [("block",), ("block", "shade")])
        got = strata_of(fit, [("shade",)], [("block",), ("block", "shade")]).rows
        mine = {(row.stratum, row.source): row.ss for row in got}
        places = [("block", "residual"), ("block:shade", "shade"), ("block:shade", "residual"), ("Residual", "residual")]
        ours = [mine[place] for place in places]
    else:
        made = [run.factor("batch"), run.factor("cask")]
        fit = fit_mixed([float(row["strength"]) for row in run.rows()], made, [], [("batch",), ("batch", "cask")])
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
    row = next(one for one in wanted if one["source"] == "x")
    assert got["initial"]["f"] == near(row["f"], 1e-8)
    return 1


def treatment_last(run: Runner, wanted: list[dict[str, Any]]) -> int:
    got = {row["term"]: row for row in run.run()["anova"]}
    row = next(one for one in wanted if one["source"] == "trt")
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
        said = next(one for one in run.run()["warnings"] if words in one)
        own = wanted if isinstance(wanted, dict) else next(row for row in wanted if row["source"] == "trt")
        f, p = own["f"], own["p"]
        assert f"F {f:.3f}" in said
        assert f"p {p:.4f}" in said
        return 2

    return compared


def slope(run: Runner, wanted: dict[str, Any]) -> int:
    made = [run.factor("block"), run.factor("trt")]
    amounts = Covariate(name="initial", values=tuple(float(row["initial"]) for row in run.rows()))
    fit = fit_mixed(run.values(), [*made, amounts], [("block",), ("trt",), ("initial",)], [])
    row = np.zeros(fit.x.shape[1])
    row[fit.columns["initial",]] = 1.0
    found = contrast(fit, row)
    assert (found.estimate, found.se) == (near(wanted["estimate"], 1e-8), near(wanted["se"], 1e-8))
    return 2


def ancova_factorial(run: Runner, wanted: list[dict[str, Any]]) -> int:
    """Fumigant by dose without the control; the last term is the same in sequence and in type III."""
    rows = [row for row in run.rows() if row["trt"] != "Con0"]
    made = [Factor.of(name, [str(row[name]) for row in rows]) for name in ("block", "fumigant", "dose")]
    amounts = Covariate(name="initial", values=tuple(float(row["initial"]) for row in rows))
    terms = [("block",), ("initial",), ("fumigant",), ("dose",), ("fumigant", "dose")]
    fit = fit_fixed([float(row["final"]) for row in rows], [*made, amounts], terms)
    last = term_tests(fit)[-1]
    row = next(one for one in wanted if one["source"] == "fumigant:factor(dose)")
    assert (last.num_df, last.f, fit.df_error) == (row["df"], near(row["f"], 1e-8), wanted[-1]["df"])
    assert fit.sse == near(wanted[-1]["ss"], 1e-8)
    return 4


def mixed_quadratic(run: Runner, wanted: dict[str, Any]) -> int:
    """A curve in a split-plot: amounts as columns of the mixed model."""
    raw = np.array([float(row["nitro"]) for row in run.rows()])
    made = [Factor.of(name, [str(row[name]) for row in run.rows()]) for name in ("block", "variety")]
    amounts = [Covariate(name="x", values=tuple(raw)), Covariate(name="xx", values=tuple(raw**2))]
    fit = fit_mixed(
        [float(row["yield"]) for row in run.rows()], [*made, *amounts], [("x",), ("xx",)], [("block",), ("block", "variety")]
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
    made = [Factor.of(name, [str(row[name]) for row in run.rows()]) for name in ("block", "variety")]
    amounts = [Covariate(name="x", values=tuple(raw)), Covariate(name="xx", values=tuple(raw**2))]
    fit = fit_fixed([float(row["yield"]) for row in run.rows()], [*made, *amounts], [("block",), ("variety",), ("x",), ("xx",)])
    assert fit.mse == near(wanted["mse"], 1e-8)
    assert fit.df_error == wanted["df"]
    for key, name in (("b", "x"), ("c", "xx")):
        place = fit.columns[name,].start
        se = float(np.sqrt(fit.mse * fit.cov_unscaled[place, place]))
        assert (float(fit.beta[place]), se) == (near(wanted[key][0], 1e-7), near(wanted[key][1], 1e-7))
    return 6


def paired(run: Runner, wanted: dict[str, Any]) -> int:
    one = pair_differences(run, [])[0]
    assert abs(one["t"]) == near(abs(wanted["t"]), 1e-8)
    assert (one["df"], one["p"]) == (wanted["df"], near(wanted["p"], 1e-7))
    assert sorted([abs(one["lower"]), abs(one["upper"])]) == pytest.approx(sorted([abs(wanted["lo95"]), abs(wanted["hi95"])]))
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
    found: list[dict[str, Any]] = json.loads(run.capsys.readouterr().out)["differences"]
    return found


def pair_number(key: str) -> Callable[[Runner, Any], int]:
    def compared(run: Runner, wanted: Any) -> int:
        assert abs(pair_differences(run, [])[0][key]) == near(abs(float(wanted)), 1e-8)
        return 1

    return compared


def tost(run: Runner, wanted: list[dict[str, Any]]) -> int:
    for row in wanted:
        one = pair_differences(run, ["--margin", str(row["margin"]), "--alpha", "0.10"])[0]
        assert one["tost_p"] == near(row["p_tost"], 1e-7)
        assert (one["call"] == "no_difference_that_matters") == row["equivalent_at_05"]
    return 2 * len(wanted)


def wilcoxon(run: Runner, wanted: dict[str, Any]) -> int:
    first, second = ("cross", "self") if run.case == "o15" else ("Y1", "Y2")
    strips = [
        StripResponse(treatment=name, block=str(place), response=float(row[name]))
        for place, row in enumerate(run.rows())
        for name in (first, second)
    ]
    found = rank_test(strips)
    assert found is not None
    # exact where there are no ties, else the normal approximation, which SciPy makes without a continuity correction
    exact = wanted["p_base_r"] if wanted["base_r_used_exact"] else wanted["p_normal_uncorrected"]
    assert found.p == pytest.approx(exact, abs=1e-6)
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
        test = next(one for one in compare(rows).anova if one.term == "treatment")
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
    made = [run.factor(name) for name in ("block", "sow", "harvest")]
    values = [float(row["sugpct"]) for row in run.rows()]
    fit = fit_mixed(values, made, [("block",), ("sow",), ("harvest",)], [("block", "harvest")])
    for name in ("harvest", "sow"):
        test, theirs = term_test(fit, (name,)), wanted[f"KRmodcomp_{name}"]
        assert (test.f, test.den_df, test.num_df) == (near(theirs["f"], 1e-4), near(theirs["ddf"], 1e-4), theirs["ndf"])
    assert fit.reml_loglik == pytest.approx(wanted["fit"]["reml_loglik"], abs=run.tolerance["reml_loglik_abs"])
    return 7


def gls(run: Runner, wanted: dict[str, Any]) -> int:
    made = [run.factor("variety"), run.factor("block")]
    fit = fit_mixed(run.values(), made, [("variety",)], [])
    assert fit.components["Residual"] == near(wanted["sigma2"], 1e-6)
    assert fit.reml_loglik == pytest.approx(wanted["reml_loglik"], abs=1e-5)
    return 2


def points(run: Runner, wanted: dict[str, Any]) -> int:
    made = [Factor.of(name, [str(row[name]) for row in run.rows()]) for name in ("trt", "block", "strip")]
    fit = fit_mixed([float(row["yield"]) for row in run.rows()], made, [("trt",)], [("block",), ("strip",)])
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
    found = {test.term: test for test in compare(rows).anova}
    for row in wanted:
        if row["source"] == "variety":
            assert (found["treatment"].f, found["treatment"].num_df) == (near(row["f"], 1e-8), row["df"])
    return 2


HERE: dict[str, Callable[[Runner, Any], int]] = {
    "anova": anova, "rcbd_anova": anova, "emmeans": means, "adjusted_means": means, "pairs": pairs, "precision": precision,
    "type3": type3, "type3_sum_contrasts": type3,
    "n_obs": number(lambda got, _: got["n"]), "mse": number(lambda got, _: residual(got)),
    "df_error": number(lambda got, _: got["differences"][0]["df"]),
    "root_mse": number(lambda got, _: residual(got) ** 0.5), "cv_pct": number(lambda got, _: got["cv_percent"]),
    "sem": number(lambda got, _: got["means"][0]["se"]), "lsd_05": lsd("0.05"), "lsd_10": lsd("0.10"),
    "cld_lsd_05": letters("none", "0.05"), "cld_lsd_10": letters("none", "0.10"), "cld_tukey_05": letters("tukey", "0.05"),
    "dunnett": dunnett, "diagnostics": diagnostics, "shapiro": shapiro, "friedman": friedman, "kruskal": friedman,
    "random_blocks": random_blocks, "random_rows_cols": random_blocks, "polynomials": polynomial_tests,
    "polynomials_nitro": polynomials_mixed, "classical_precision": classical, "aov_strata": strata_table,
    "nlme_crosscheck": loglik, "anova_covariate_last": covariate_last, "anova_treatment_last": treatment_last,
    "anova_without_covariate": without_covariate, "slope": slope, "slopes_homogeneous_test": warned("Equal slopes"),
    "covariate_affected_by_treatment": warned("initial by treatment"), "factorial_without_control": ancova_factorial,
    "covariate_mean": lambda run, wanted: int(float(np.mean([row["initial"] for row in run.rows()])) == near(wanted, 1e-9)),
    "mixed_quadratic": mixed_quadratic, "block_adjusted_quadratic": block_quadratic, "paired_t": paired, "tost": tost,
    "mean_diff": pair_number("estimate"), "se_diff": pair_number("se"), "wilcoxon_signed_rank": wilcoxon,
    "strips_are_columns": uniformity, "o23/yield": beets, "o23/sugpct": beets, "sugpct_additive_blocks_fixed": beets_additive,
    "gls_no_correlation": gls, "points_random_strip_no_autocorrelation": points, "nested_anova": nested_table,
    "rcbd_like_anova": once_each, "o05/aov_strata": strata_of_factorial, "o16/aov_strata": vines,
    "o04/sed": seds, "sed": number(lambda got, _: got["sed"][0]["value"]),
    "o15/n": lambda run, wanted: int(len(run.rows()) == wanted), "o31/n": lambda run, wanted: int(len(run.rows()) == wanted),
    "o18/n": lambda run, wanted: int(len(run.rows()) == wanted), "o29/n": lambda run, wanted: int(len(run.rows()) == wanted),
    "o20/n": lambda run, wanted: int(len(run.rows()) == wanted),
}  # fmt: skip

BLOCKS = [(case, key) for case in CASES for key in load(case)["expected"] if not key.endswith("note")]


def place_of(case: str, key: str) -> str:
    named = f"{case}/{key}"
    for where, table in (("out", OUT), ("elsewhere", ELSEWHERE), ("here", HERE)):
        if named in table:
            return where
    return next((where for where, table in (("out", OUT), ("elsewhere", ELSEWHERE), ("here", HERE)) if key in table), "")


def test_every_block_has_its_place() -> None:
    missing = [f"{case}/{key}" for case, key in BLOCKS if not place_of(case, key)]
    assert missing == []
    assert len(CASES) == 34 - len({"o13", "o19"} - set(CASES))


@pytest.mark.parametrize(("case", "key"), [one for one in BLOCKS if place_of(*one) == "here"], ids=lambda one: str(one))
def test_a_block(case: str, key: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    run = Runner(case, tmp_path, capsys)
    work = HERE.get(f"{case}/{key}", HERE.get(key))
    assert work is not None
    assert work(run, load(case)["expected"][key]) > 0


@pytest.mark.parametrize("where", sorted(set(ELSEWHERE.values())))
def test_what_is_checked_elsewhere_is_there(where: str) -> None:
    module, _, name = where.partition("::")
    found = importlib.import_module(f"tests.core.{module}")
    assert not name or any(own == name or own.startswith(name) for own in dir(found)), where


def test_site_years_as_in_r() -> None:
    """Four treatments at eight sites: the interaction with blocks fixed in sites, and every site alone."""
    expected = load("o13")["expected"]["four_treatments_in_every_block"]
    chosen = {str(row["trt"]) for table in expected["lmer_kr"]["emmeans"] for row in table["rows"]}
    rows = [row for row in load("o13")["data"] if str(row["trt"]) in chosen]
    found = combine(
        [float(row["harvwt"]) for row in rows], [str(row["trt"]) for row in rows], [str(row["site"]) for row in rows],
        [str(row["block"]) for row in rows], alpha=0.05,
    )  # fmt: skip
    assert found.interaction_p == pytest.approx(expected["trt_by_env_fixed_F"]["p"], rel=1e-7)
    own = {one["env"]: one for one in expected["per_environment"]}
    for site in found.alone:
        assert site.n == own[site.name]["n"]
    assert len(found.without) == len(own)
