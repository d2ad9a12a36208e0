"""Comparisons of treatments against results computed in R (see tests/reference/README.md)."""

from __future__ import annotations

import math

import pytest
from cultrix_core.stats.compare import Comparison

from tests.core.references import CASES, O01, O02, O06, Case

CLOSED = 1e-8  # the cases' own "closed_form_rel"
P_ABS = 1e-5  # the cases' own "p_abs" and "tukey_p_abs"

each_case = pytest.mark.parametrize("reference", CASES, ids=lambda item: item.name)


def rel(wanted: float) -> object:
    return pytest.approx(wanted, rel=CLOSED, abs=1e-9)


@each_case
def test_analysis_of_variance(reference: Case) -> None:
    result = reference.run()
    table = {row["source"]: row for row in reference.expected["anova"]}
    tests = {test.term: test for test in result.anova}
    for name in set(table) & {"block", "treatment"}:
        assert tests[name].num_df == table[name]["df"]
        if name == "treatment" or reference is not O02:  # blocks before treatments, when unbalanced, are sequential there
            assert tests[name].ss == rel(table[name]["ss"])
            assert tests[name].f == rel(table[name]["f"])
            assert tests[name].p == pytest.approx(table[name]["p"], abs=P_ABS)
    assert result.residual_df == table["residual"]["df"]
    assert result.residual_ss == rel(table["residual"]["ss"])
    assert result.mse == rel(table["residual"]["ms"])


def test_the_books_printed_table_of_seeding_rates() -> None:
    """Gomez & Gomez (1984), rice seeding rates: F 2.17 with 5 and 15 df, CV 6.7 % (printed values from memory)."""
    result = O01.run()
    treatment = next(test for test in result.anova if test.term == "treatment")
    assert f"{treatment.f:.2f}" == "2.17"
    assert (treatment.num_df, treatment.den_df) == (5, 15)
    assert result.cv_percent == pytest.approx(6.7, abs=0.05)


@each_case
def test_marginal_means(reference: Case) -> None:
    result = reference.run(alpha=0.05)
    wanted = {str(row["level"]): row for row in reference.expected["emmeans"]}
    assert {mean.level for mean in result.means} == set(wanted)
    for mean in result.means:
        row = wanted[mean.level]
        assert mean.mean == rel(row["emmean"])
        assert mean.se == rel(row["se"])
        assert mean.lower == rel(row["lo95"])
        assert mean.upper == rel(row["hi95"])
        assert mean.df == row["df"]


@each_case
@pytest.mark.parametrize(
    ("adjust", "p_name", "lower", "upper"),
    [("none", "p", "lo95", "hi95"), ("tukey", "p_tukey", "lo95_tukey", "hi95_tukey"), ("holm", "p_holm", None, None)],
)
def test_all_pairs(reference: Case, adjust: str, p_name: str, lower: str | None, upper: str | None) -> None:
    result = reference.run(alpha=0.05, pairs_adjust=adjust)
    got = {(pair.left, pair.right): pair for pair in result.pairs}
    rows = reference.expected["pairs"]
    assert len(got) == len(rows)
    for row in rows:
        difference = got[(str(row["level1"]), str(row["level2"]))]
        assert difference.estimate == pytest.approx(row["estimate"], rel=CLOSED, abs=1e-8)
        assert difference.se == rel(row["se"])
        assert difference.t == pytest.approx(row["t"], rel=1e-7, abs=1e-9)
        assert difference.p == pytest.approx(row["p"], abs=P_ABS)
        assert difference.p_adjusted == pytest.approx(row[p_name], abs=P_ABS)
        if lower and upper:
            # R's qtukey stops at a relative accuracy of about 1e-4 of its own; the wanted limits carry it
            within = 1e-8 if adjust == "none" else 2e-5
            assert difference.lower == pytest.approx(row[lower], rel=within, abs=within * row["se"])
            assert difference.upper == pytest.approx(row[upper], rel=within, abs=within * row["se"])


def sharing(letters: dict[str, str]) -> set[frozenset[str]]:
    """Pairs that share a letter; the letters' own names are a convention."""
    return {
        frozenset((letter, other))
        for letter in letters
        for other in letters
        if letter != other and set(letters[letter]) & set(letters[other])
    }


@each_case
@pytest.mark.parametrize(
    ("key", "adjust", "alpha"), [("cld_tukey_05", "tukey", 0.05), ("cld_lsd_05", "none", 0.05), ("cld_lsd_10", "none", 0.10)]
)
def test_letters(reference: Case, key: str, adjust: str, alpha: float) -> None:
    result = reference.run(alpha=alpha, pairs_adjust=adjust)
    got = {mean.level: mean.letters or "" for mean in result.means}
    wanted = {str(row["level"]): row["letters"] for row in reference.expected[key]}
    assert sharing(got) == sharing(wanted)
    best = max(result.means, key=lambda mean: mean.mean)
    assert "a" in (best.letters or "")


@each_case
def test_differences_to_the_control(reference: Case) -> None:
    table = reference.expected["dunnett"]
    rows = table.get("exact", {}).get("rows") or table["mvt"]
    exact = "exact" in table
    result = reference.run(alpha=0.05, control=str(table["control"]))
    got = {difference.left: difference for difference in result.to_control}
    assert len(got) == len(rows)
    for row in rows:
        item = got[row["contrast"].split(" - ")[0].strip("()")]
        assert item.estimate == pytest.approx(row["estimate"], rel=CLOSED, abs=1e-8)
        # multcomp integrates by randomised quasi-Monte Carlo: its p carries an error of up to 1e-3
        assert item.p_adjusted == pytest.approx(row.get("p_dunnett", row.get("p")), abs=P_ABS if exact else 1e-3)
        within = (1e-6 if exact else 2e-3) * row["se"]
        assert item.lower == pytest.approx(row["lo95"], abs=max(within, 1e-6 * abs(row["lo95"])))
        assert item.upper == pytest.approx(row["hi95"], abs=max(within, 1e-6 * abs(row["hi95"])))


@each_case
def test_precision(reference: Case) -> None:
    result = reference.run(alpha=0.10)
    assert result.cv_percent == rel(reference.expected["cv_pct"])
    if precision := reference.expected.get("precision"):
        assert result.sed == rel(precision["sed"])
        assert result.lsd == rel(precision["lsd_10"])


@each_case
def test_diagnostics(reference: Case) -> None:
    checks = reference.run().checks
    wanted = reference.expected["diagnostics"]
    assert checks is not None
    assert checks.shapiro_w == pytest.approx(wanted["shapiro_wilk_residuals"]["w"], rel=1e-6)
    assert checks.shapiro_p == pytest.approx(wanted["shapiro_wilk_residuals"]["p"], abs=1e-4)
    assert checks.brown_forsythe_f == pytest.approx(wanted["brown_forsythe_on_model_residuals"]["f"], rel=1e-7)
    largest = wanted["largest_outlier"]
    assert checks.outlier_row == largest["row_1based"]
    assert checks.outlier_rstudent == rel(largest["rstudent"])
    assert checks.outlier_p_bonferroni == pytest.approx(min(1.0, largest["p_bonferroni"]), abs=1e-7)


def test_a_lost_strip_leaves_its_block_in_the_model() -> None:
    """Deleting the three broken blocks' rows instead would leave 1 block; the model keeps all four and 12 df."""
    full, lost = O01.run(), O02.run()
    assert (full.residual_df, lost.residual_df) == (15, 12)
    assert lost.n == 21
    means = {mean.level: mean for mean in lost.means}
    raw = {str(row["level"]): row["mean"] for row in O02.expected["raw_means"]}
    assert not math.isclose(means["25"].mean, raw["25"]), "a mean of strips in better blocks must be adjusted for them"
    assert math.isclose(means["50"].mean, raw["50"]), "a complete treatment keeps its plain mean"


def test_against_statsmodels() -> None:
    """The same model by an independent library: statsmodels OLS with type III sums."""
    import pandas as pd
    import statsmodels.formula.api as smf
    from statsmodels.stats.anova import anova_lm

    table = pd.DataFrame(O02.rows).assign(rate=lambda item: item["rate"].astype(str))
    other = anova_lm(smf.ols("Q('yield') ~ C(block, Sum) + C(rate, Sum)", table).fit(), typ=3)
    result: Comparison = O02.run()
    tests = {test.term: test for test in result.anova}
    assert tests["treatment"].f == pytest.approx(other.loc["C(rate, Sum)", "F"], rel=1e-9)
    assert tests["block"].f == pytest.approx(other.loc["C(block, Sum)", "F"], rel=1e-9)


def test_a_latin_square_as_in_r() -> None:
    """Five treatments, rows and columns taken out: anova table, means, every pair and Tukey's p, as computed in R."""
    result = O06.run(alpha=0.05, pairs_adjust="tukey")
    wanted = {row["source"]: row for row in O06.expected["anova"]}
    names = {"row": "row", "block": "col", "treatment": "trt"}
    for test in result.anova:
        assert test.ss == pytest.approx(wanted[names[test.term]]["ss"], rel=1e-8)
        assert test.p == pytest.approx(wanted[names[test.term]]["p"], rel=1e-8)
    assert (result.mse, result.residual_df) == (pytest.approx(O06.expected["mse"]), O06.expected["df_error"])
    means = {row["trt"]: row for row in O06.expected["emmeans"]}
    for mean in result.means:
        assert mean.mean == pytest.approx(means[mean.level]["emmean"])
        assert mean.lower == pytest.approx(means[mean.level]["lo95"], rel=1e-8)
    pairs = {(row["level1"], row["level2"]): row for row in O06.expected["pairs"]}
    for pair in result.pairs:
        row = pairs[pair.left, pair.right]
        assert pair.p == pytest.approx(row["p"], rel=1e-7)
        assert pair.p_adjusted == pytest.approx(row["p_tukey"], abs=1e-6)
    assert "row + column" in result.method
