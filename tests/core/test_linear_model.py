"""The least-squares core against NumPy's own and against what linear algebra says must hold."""

from __future__ import annotations

import numpy as np
import pytest
from cultrix_core.errors import Refusal
from cultrix_core.stats.linear_model import Factor, fit_fixed, term_tests
from hypothesis import given, settings
from hypothesis import strategies as st


def data(seed: int, lost: int) -> tuple[list[float], Factor, Factor]:
    draw = np.random.default_rng(seed)
    rows = [(block, treatment) for block in "123" for treatment in "abcd"]
    for _ in range(lost):
        rows.pop(int(draw.integers(len(rows))))
    y = [float(value) for value in 50 + 5 * draw.normal(size=len(rows))]
    return (
        y,
        Factor.of("block", [block for block, _ in rows], "123"),
        Factor.of("treatment", [name for _, name in rows], "abcd"),
    )


def dummies(factor: Factor) -> np.ndarray:
    return np.array([[label == level for level in factor.levels] for label in factor.labels], dtype=float)


@settings(max_examples=40)
@given(st.integers(0, 10_000), st.integers(0, 3))
def test_fitted_values_are_the_projection(seed: int, lost: int) -> None:
    y, block, treatment = data(seed, lost)
    fit = fit_fixed(y, [block, treatment], [("block",), ("treatment",)])
    design = np.hstack([np.ones((len(y), 1)), dummies(block), dummies(treatment)])
    beta, *_ = np.linalg.lstsq(design, np.array(y), rcond=None)
    assert np.allclose(fit.fitted, design @ beta, atol=1e-9)
    assert fit.sse == pytest.approx(float(((np.array(y) - design @ beta) ** 2).sum()), rel=1e-9)
    assert fit.df_error == len(y) - np.linalg.matrix_rank(design)
    assert fit.leverage.sum() == pytest.approx(np.linalg.matrix_rank(design))
    assert np.allclose(fit.residuals @ design, 0, atol=1e-8), "residuals are orthogonal to all the model knows"


@settings(max_examples=40)
@given(st.integers(0, 10_000), st.integers(0, 3))
def test_type_three_sums_by_leaving_the_term_out(seed: int, lost: int) -> None:
    """SS of a term is what the residual grows by without it (no interaction, so II and III agree)."""
    y, block, treatment = data(seed, lost)
    fit = fit_fixed(y, [block, treatment], [("block",), ("treatment",)])
    for term, other in (("treatment", block), ("block", treatment)):
        without = fit_fixed(y, [other], [(other.name,)])
        test = next(term_test for term_test in term_tests(fit) if term_test.term == term)
        assert test.ss == pytest.approx(without.sse - fit.sse, rel=1e-7, abs=1e-7)
        assert test.num_df == without.df_error - fit.df_error


def test_what_no_block_links_cannot_be_estimated() -> None:
    block = Factor.of("block", ["1", "1", "2", "2"], "12")
    treatment = Factor.of("treatment", ["a", "b", "c", "d"], "abcd")
    fit = fit_fixed([1.0, 2.0, 3.0, 4.0], [block, treatment], [("block",), ("treatment",)])
    rows = fit.mean_rows("treatment")
    assert fit.estimable((rows[1] - rows[0])[None])[0], "a and b share block 1"
    assert not fit.estimable((rows[2] - rows[0])[None])[0], "a and c share none"


def test_levels_keep_their_order_and_refuse_strangers() -> None:
    factor = Factor.of("rate", ["200", "100", "200"], None)
    assert factor.levels == ("200", "100"), "in order of first appearance"
    assert list(factor.codes()) == [0, 1, 0]
    with pytest.raises(Refusal):
        fit_fixed([1.0, 2.0], [factor], [("rate",)])
