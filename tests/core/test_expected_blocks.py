"""Every block of results that a reference case carries, in one table: checked here, checked elsewhere, or out of scope.

Cases whose analysis the command line makes are run through it, block by block; the tolerances are the cases' own.
"""

from __future__ import annotations

import importlib
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from cultrix_core.stats.compare import StripResponse, compare
from cultrix_core.stats.environments import combine

from tests.core.expected_models import (
    ancova_factorial,
    beets,
    beets_additive,
    block_quadratic,
    classical,
    covariate_last,
    gls,
    loglik,
    mixed_quadratic,
    nested_table,
    once_each,
    pair_number,
    paired,
    points,
    polynomial_tests,
    polynomials_mixed,
    slope,
    strata_of_factorial,
    strata_table,
    tost,
    treatment_last,
    uniformity,
    vines,
    warned,
    wilcoxon,
    without_covariate,
)
from tests.core.expected_runner import (
    CASES,
    Runner,
    anova,
    diagnostics,
    dunnett,
    friedman,
    letters,
    load,
    lsd,
    means,
    near,
    number,
    pairs,
    precision,
    random_blocks,
    residual,
    seds,
    shapiro,
    type3,
)

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


HERE: dict[str, Callable[[Runner, Any], int]] = {
    "anova": anova,
    "rcbd_anova": anova,
    "emmeans": means,
    "adjusted_means": means,
    "pairs": pairs,
    "precision": precision,
    "type3": type3,
    "type3_sum_contrasts": type3,
    "n_obs": number(lambda got, _: got["n"]),
    "mse": number(lambda got, _: residual(got)),
    "df_error": number(lambda got, _: got["differences"][0]["df"]),
    "root_mse": number(lambda got, _: residual(got) ** 0.5),
    "cv_pct": number(lambda got, _: got["cv_percent"]),
    "sem": number(lambda got, _: got["means"][0]["se"]),
    "lsd_05": lsd("0.05"),
    "lsd_10": lsd("0.10"),
    "cld_lsd_05": letters("none", "0.05"),
    "cld_lsd_10": letters("none", "0.10"),
    "cld_tukey_05": letters("tukey", "0.05"),
    "dunnett": dunnett,
    "diagnostics": diagnostics,
    "shapiro": shapiro,
    "friedman": friedman,
    "kruskal": friedman,
    "random_blocks": random_blocks,
    "random_rows_cols": random_blocks,
    "polynomials": polynomial_tests,
    "polynomials_nitro": polynomials_mixed,
    "classical_precision": classical,
    "aov_strata": strata_table,
    "nlme_crosscheck": loglik,
    "anova_covariate_last": covariate_last,
    "anova_treatment_last": treatment_last,
    "anova_without_covariate": without_covariate,
    "slope": slope,
    "slopes_homogeneous_test": warned("Equal slopes"),
    "covariate_affected_by_treatment": warned("initial by treatment"),
    "factorial_without_control": ancova_factorial,
    "covariate_mean": lambda run, wanted: int(float(np.mean([row["initial"] for row in run.rows()])) == near(wanted, 1e-9)),
    "mixed_quadratic": mixed_quadratic,
    "block_adjusted_quadratic": block_quadratic,
    "paired_t": paired,
    "tost": tost,
    "mean_diff": pair_number("estimate"),
    "se_diff": pair_number("se"),
    "wilcoxon_signed_rank": wilcoxon,
    "strips_are_columns": uniformity,
    "o23/yield": beets,
    "o23/sugpct": beets,
    "sugpct_additive_blocks_fixed": beets_additive,
    "gls_no_correlation": gls,
    "points_random_strip_no_autocorrelation": points,
    "nested_anova": nested_table,
    "rcbd_like_anova": once_each,
    "o05/aov_strata": strata_of_factorial,
    "o16/aov_strata": vines,
    "o04/sed": seds,
    "sed": number(lambda got, _: got["sed"][0]["value"]),
    "o15/n": lambda run, wanted: int(len(run.rows()) == wanted),
    "o31/n": lambda run, wanted: int(len(run.rows()) == wanted),
    "o18/n": lambda run, wanted: int(len(run.rows()) == wanted),
    "o29/n": lambda run, wanted: int(len(run.rows()) == wanted),
    "o20/n": lambda run, wanted: int(len(run.rows()) == wanted),
}

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


@pytest.mark.slow
@pytest.mark.parametrize(("case", "key"), [block for block in BLOCKS if place_of(*block) == "here"], ids=lambda item: str(item))
def test_a_block(case: str, key: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    run = Runner(case, tmp_path, capsys)
    work = HERE.get(f"{case}/{key}", HERE.get(key))
    assert work is not None
    assert work(run, load(case)["expected"][key]) > 0


@pytest.mark.parametrize("where", sorted(set(ELSEWHERE.values())))
def test_what_is_checked_elsewhere_is_there(where: str) -> None:
    module, _, name = where.partition("::")
    module_type = importlib.import_module(f"tests.core.{module}")
    assert not name or any(own == name or own.startswith(name) for own in dir(module_type)), where


def test_site_years_as_in_r() -> None:
    """Four treatments at eight sites: the interaction with blocks fixed in sites, and every site alone."""
    expected = load("o13")["expected"]["four_treatments_in_every_block"]
    chosen = {str(row["trt"]) for table in expected["lmer_kr"]["emmeans"] for row in table["rows"]}
    rows = [row for row in load("o13")["data"] if str(row["trt"]) in chosen]
    series = combine(
        [float(row["harvwt"]) for row in rows],
        [str(row["trt"]) for row in rows],
        [str(row["site"]) for row in rows],
        [str(row["block"]) for row in rows],
        alpha=0.05,
    )
    assert series.interaction_p == pytest.approx(expected["trt_by_env_fixed_F"]["p"], rel=1e-7)
    own = {item["env"]: item for item in expected["per_environment"]}
    for site in series.alone:
        assert site.n == own[site.name]["n"]
        here = [row for row in rows if str(row["site"]) == site.name]
        strips = [
            StripResponse(treatment=str(row["trt"]), block=str(row["block"]), response=float(row["harvwt"])) for row in here
        ]
        alone = compare(strips)
        wanted = {row["source"]: row for row in own[site.name]["anova"]}
        test = next(term_test for term_test in alone.anova if term_test.term == "treatment")
        assert (test.f, test.num_df) == (near(wanted["trt"]["f"], 1e-8), wanted["trt"]["df"])
        assert alone.mse == near(own[site.name]["mse"], 1e-8)
    assert len(series.without) == len(own)
