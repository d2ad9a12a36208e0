"""Second looks, polynomials and covariates against SciPy, statsmodels, NumPy and definitions."""

from __future__ import annotations

import numpy as np
import pytest
from cultrix_core.errors import Refusal
from cultrix_core.stats.compare import StripResponse, compare
from cultrix_core.stats.covariates import covariate_looks, covariate_words
from cultrix_core.stats.linear_model import Covariate, Factor, fit_fixed, term_tests
from cultrix_core.stats.mixed_model import cell_row, contrast, fit_mixed
from cultrix_core.stats.multiplicity import range_inside, tukey_critical, tukey_p
from cultrix_core.stats.polynomials import of_fixed, polynomial_coefficients, polynomials
from cultrix_core.stats.second_looks import emergence_logit, rank_test, transformed
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats


def strips(seed: int, treatments: int = 3, blocks: int = 5, effect: float = 0.0) -> list[StripResponse]:
    draw = np.random.default_rng(seed)
    return [
        StripResponse(
            treatment=str(treatment),
            block=str(block),
            response=float(10 + effect * treatment + block + draw.normal()),
            position=float(block * treatments + treatment),
        )
        for block in range(blocks)
        for treatment in range(treatments)
    ]


def test_logarithms_give_geometric_means_and_ratios() -> None:
    rows = strips(1)
    result = transformed(rows, "log", control="0")
    for mean in result.means:
        own = [row.response for row in rows if row.treatment == mean.level]
        assert mean.mean == pytest.approx(stats.gmean(own))
    ratio = result.ratios[0]
    assert ratio.ratio == pytest.approx(result.means[1].mean / result.means[0].mean)
    assert ratio.lower is not None
    assert ratio.upper is not None
    assert ratio.lower < ratio.ratio < ratio.upper


def test_ratios_do_not_know_the_unit() -> None:
    rows = strips(2)
    lighter = [StripResponse(treatment=row.treatment, block=row.block, response=row.response * 14.87) for row in rows]
    item, other = transformed(rows, "log", control="0"), transformed(lighter, "log", control="0")
    assert [row.lower for row in item.ratios] == pytest.approx([row.lower for row in other.ratios])


@pytest.mark.parametrize(("scale", "value"), [("log", 0.0), ("sqrt", -1.0), ("arcsine", 101.0)])
def test_what_a_scale_cannot_take_is_refused(scale: str, value: float) -> None:
    rows = strips(3)
    rows[0] = StripResponse(treatment="0", block="0", response=value)
    with pytest.raises(Refusal):
        transformed(rows, scale)  # type: ignore[arg-type]


def test_arcsine_goes_there_and_back() -> None:
    rows = [StripResponse(treatment=str(t), block=str(b), response=60.0 + 5 * t + b) for t in range(2) for b in range(4)]
    result = transformed(rows, "arcsine")
    assert result.means[0].mean == pytest.approx(np.mean([60, 61, 62, 63]), abs=0.05)
    assert result.means[1].upper is not None
    assert result.means[1].upper <= 100


def test_the_rank_test_is_scipys() -> None:
    rows = strips(4, treatments=4, blocks=6)
    columns = [[row.response for row in rows if row.treatment == str(level)] for level in range(4)]
    test = rank_test(rows)
    assert test is not None
    assert test.name == "Friedman"
    assert (test.statistic, test.p) == tuple(map(pytest.approx, stats.friedmanchisquare(*columns)))
    loose = rank_test(rows, blocked=False)
    assert loose is not None
    assert loose.p == pytest.approx(stats.kruskal(*columns).pvalue)


def test_pairs_are_ranked_by_their_differences() -> None:
    rows = strips(5, treatments=2, blocks=8, effect=2.0)
    test = rank_test(rows)
    assert test is not None
    assert test.name.startswith("Wilcoxon")
    assert test.p < 0.05
    assert "whatever the shape" in test.words


def test_ranks_need_whole_blocks() -> None:
    rows = strips(6)[:-2]
    assert rank_test(rows) is not None, "four whole blocks are left"
    assert rank_test(rows[:7]) is None
    assert rank_test([*rows, rows[0]]) is None, "a treatment twice in a block"
    equal = [StripResponse(treatment=row.treatment, block=row.block, response=1.0) for row in rows]
    assert rank_test(equal) is None


def test_emergence_by_logit_is_that_of_statsmodels() -> None:
    import statsmodels.api as sm

    draw = np.random.default_rng(7)
    treatment = ["a", "b", "c"] * 5
    block = [str(place // 3) for place in range(15)]
    sown = [100.0] * 15
    share = np.array([{"a": 0.7, "b": 0.8, "c": 0.55}[name] for name in treatment]) + draw.normal(0, 0.05, 15)
    emerged = [float(draw.binomial(100, min(max(item, 0.02), 0.98))) for item in share]
    logit_look = emergence_logit(emerged, sown, treatment, block)
    first = np.column_stack(
        [
            np.ones(15),
            *(np.array([item == name for item in treatment], float) for name in ("b", "c")),
            *(np.array([item == str(name) for item in block], float) for name in range(1, 5)),
        ]
    )
    model = sm.GLM(np.column_stack([emerged, 100 - np.array(emerged)]), first, family=sm.families.Binomial())
    pearson = float(model.fit().resid_pearson @ model.fit().resid_pearson) / 8
    # its own scale="X2" takes shares for single seeds and comes out a hundredth of this: docs/adr/0011
    theirs = model.fit(scale=pearson)
    test = theirs.f_test(np.eye(7)[1:3])
    assert logit_look.dispersion == pytest.approx(pearson, rel=1e-7)
    by_hand = sum(
        (up - 100 * mu) ** 2 / (100 * mu * (1 - mu)) for up, mu in zip(emerged, model.fit().fittedvalues, strict=True)
    )
    assert logit_look.dispersion == pytest.approx(by_hand / 8, rel=1e-7)
    assert logit_look.f == pytest.approx(float(np.squeeze(test.fvalue)), rel=1e-6)
    assert (logit_look.num_df, logit_look.den_df) == (2, 8)
    logits = np.log(np.array(logit_look.shares) / (1 - np.array(logit_look.shares)))
    assert logits[1] - logits[0] == pytest.approx(theirs.params[1], rel=1e-7)


@pytest.mark.parametrize(
    ("emerged", "sown", "treatment", "block"),
    [
        ([10, 120], [100, 100], ["a", "b"], ["1", "1"]),
        ([10, 20], [100, 100], ["a", "a"], ["1", "1"]),
        ([10, 20], [100, 100], ["a", "b"], ["1", "1"]),
    ],
)
def test_emergence_that_cannot_be_is_refused(
    emerged: list[float], sown: list[float], treatment: list[str], block: list[str]
) -> None:
    with pytest.raises(Refusal):
        emergence_logit(emerged, sown, treatment, block)


def test_all_emerged_everywhere_is_an_answer() -> None:
    logit_look = emergence_logit([100.0] * 8, [100.0] * 8, ["a", "b"] * 4, ["1", "1", "2", "2", "3", "3", "4", "4"])
    assert all(np.isfinite([*logit_look.shares, logit_look.f, logit_look.p]))
    assert min(logit_look.shares) > 0.99


def test_coefficients_of_even_spacing_are_the_tables() -> None:
    """Fisher & Yates' integers for four levels: −3 −1 1 3; 1 −1 −1 1; −1 3 −3 1 (from memory)."""
    rows = polynomial_coefficients([0, 30, 60, 90])
    for row, table in zip(rows, ([-3, -1, 1, 3], [1, -1, -1, 1], [-1, 3, -3, 1]), strict=True):
        assert row == pytest.approx(np.array(table) / np.linalg.norm(table))


@given(st.lists(st.integers(1, 500), min_size=3, max_size=6, unique=True))
@settings(max_examples=40, deadline=None)
def test_coefficients_are_orthonormal_and_of_their_degree(amounts: list[int]) -> None:
    rows = polynomial_coefficients(amounts)
    assert rows @ rows.T == pytest.approx(np.eye(len(amounts) - 1), abs=1e-8)
    for degree, row in enumerate(rows, start=1):
        for power in range(degree):
            assert row @ (np.array(amounts, float) / 500) ** power == pytest.approx(0, abs=1e-8)


def test_all_degrees_together_are_the_treatment_sum_of_squares() -> None:
    rows = strips(8, treatments=4)
    factors = [Factor.of("block", [row.block for row in rows]), Factor.of("treatment", [row.treatment for row in rows])]
    fit = fit_fixed([row.response for row in rows], factors, [("block",), ("treatment",)])
    got = polynomials([0, 1, 2, 3], of_fixed(fit, "treatment"))
    assert fit.mse is not None
    whole = next(test for test in term_tests(fit) if test.term == "treatment")
    assert sum(polynomial_test.f for polynomial_test in got) * fit.mse == pytest.approx(whole.ss)


@pytest.mark.parametrize("amounts", [[1.0], [1.0, 1.0, 2.0], [1.0, float("nan"), 2.0]])
def test_amounts_that_make_no_polynomial_are_refused(amounts: list[float]) -> None:
    with pytest.raises(Refusal):
        polynomial_coefficients(amounts)


def test_a_ladder_brings_its_polynomials() -> None:
    comparison = compare(strips(9, effect=2.0), amounts={"0": 100, "1": 200, "2": 300})
    assert [polynomial.name for polynomial in comparison.polynomials] == ["linear", "quadratic"]
    assert comparison.polynomials[0].p < 0.01
    assert compare(strips(9), amounts={"0": 100, "1": 100, "2": 300}).polynomials == ()


def test_a_covariate_gives_means_at_its_average() -> None:
    """Adjusted mean = mean − slope × (its own average of the covariate − the whole average), in complete blocks."""
    rows = strips(10)
    amounts = list(np.random.default_rng(3).normal(50, 8, len(rows)))
    y = [strip_response.response + 0.3 * amount for strip_response, amount in zip(rows, amounts, strict=True)]
    factors = [Factor.of("block", [row.block for row in rows]), Factor.of("treatment", [row.treatment for row in rows])]
    fit = fit_mixed(y, [*factors, Covariate(name="x", values=tuple(amounts))], [("block",), ("treatment",), ("x",)], [])
    slope = float(fit.beta[fit.columns["x",]][0])
    for level in ("0", "1", "2"):
        own = [place for place, strip_response in enumerate(rows) if strip_response.treatment == level]
        raw, away = np.mean([y[place] for place in own]), np.mean([amounts[place] for place in own]) - np.mean(amounts)
        assert contrast(fit, cell_row(fit, {"treatment": level})).estimate == pytest.approx(raw - slope * away)


def test_a_covariate_that_treatments_moved_is_told() -> None:
    rows = strips(11)
    columns = {"block": [row.block for row in rows], "treatment": [row.treatment for row in rows]}
    draw = np.random.default_rng(1)
    moved = [5.0 * int(row.treatment) + draw.normal(0, 0.5) for row in rows]
    words = covariate_words(
        covariate_looks([row.response for row in rows], columns, ["treatment"], ["block"], ("stand", moved)), "stand"
    )
    assert "only if it was measured before" in words[0]
    assert "take away what they did" in words[1]
    with pytest.raises(Refusal):
        covariate_looks([row.response for row in rows], columns, ["treatment"], ["block"], ("stand", [1.0] * len(rows)))


@pytest.mark.parametrize("groups", [3, 5, 10])
@pytest.mark.parametrize("df", [2, 5, 8.3, 30])
def test_the_studentised_range_is_scipys(groups: int, df: float) -> None:
    for t in (0.2, 1.0, 2.5, 5.0):
        assert tukey_p(t, groups, df) == pytest.approx(stats.studentized_range.sf(t * 2**0.5, groups, df), abs=1e-9)
    limit = tukey_critical(0.10, groups, df)
    assert range_inside(limit * 2**0.5, groups, df) == pytest.approx(0.90, abs=1e-9)
    assert stats.studentized_range.cdf(limit * 2**0.5, groups, df) == pytest.approx(0.90, abs=1e-7)


def test_tukey_of_two_is_students_t() -> None:
    assert tukey_p(1.7, 2, 9) == pytest.approx(2 * stats.t.sf(1.7, 9))


def test_an_alternating_order_with_a_drift() -> None:
    """A-B-A-B on a straight drift: blocks lean by half a step's rise, the analysis with a drift does not."""
    rise = 0.5
    rows = [
        StripResponse(treatment="AB"[place % 2], block=str(place // 2), response=10 + rise * place, position=float(place))
        for place in range(12)
    ]
    noise = np.random.default_rng(5).normal(0, 0.01, 12)
    rows = [
        StripResponse(
            treatment=strip_response.treatment,
            block=strip_response.block,
            response=strip_response.response + float(extra),
            position=strip_response.position,
        )
        for strip_response, extra in zip(rows, noise, strict=True)
    ]
    blocks = compare(rows, control="A").to_control[0]
    trend = compare(rows, design="trend", control="A").to_control[0]
    assert blocks.estimate == pytest.approx(rise, abs=0.02)
    assert trend.estimate == pytest.approx(0, abs=0.02)
    assert "drift" in compare(rows, design="trend", control="A").method
