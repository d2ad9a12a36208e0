"""Critical values and adjusted p against printed tables, SciPy and statsmodels."""

from __future__ import annotations

import numpy as np
import pytest
from cultrix_core.stats import multiplicity as m
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats


@pytest.mark.parametrize(("df", "wanted"), [(1, 6.314), (4, 2.132), (9, 1.833), (15, 1.753), (30, 1.697), (120, 1.658)])
def test_t_at_ten_percent(df: int, wanted: float) -> None:
    """Student's t, two-sided 10 %: any statistics textbook's table (from memory)."""
    assert round(m.t_critical(0.10, df), 3) == wanted


@pytest.mark.parametrize(
    ("groups", "df", "q"),
    [(3, 10, 3.877), (4, 12, 4.199), (6, 15, 4.595), (5, 20, 4.232), (10, 30, 4.824)],
)
def test_studentised_range_at_five_percent(groups: int, df: int, q: float) -> None:
    """Upper 5 % points of the studentised range: Pearson & Hartley, Biometrika Tables, table 29 (from memory)."""
    assert m.tukey_critical(0.05, groups, df) * np.sqrt(2) == pytest.approx(q, abs=0.002)


@pytest.mark.parametrize(
    ("comparisons", "df", "wanted"),
    [(1, 10, 2.228), (2, 10, 2.568), (3, 12, 2.684), (4, 20, 2.651), (5, 15, 2.816), (3, 60, 2.410)],
)
def test_dunnett_at_five_percent(comparisons: int, df: int, wanted: float) -> None:
    """Dunnett (1964), Biometrics 20:482–491, two-sided 5 % points (from memory); 4×20 and 5×15 also in o26 and o01."""
    assert m.dunnett_critical(0.05, m.balanced_correlation(comparisons), df) == pytest.approx(wanted, abs=0.003)


def test_dunnett_against_scipy() -> None:
    """The same data by ``scipy.stats.dunnett``, whose own integration is random to about 1e-4."""
    draw = np.random.default_rng(5)
    control, *others = [draw.normal(mean, 1, 8) for mean in (10, 10.4, 11.5, 9.8)]
    theirs = stats.dunnett(*others, control=control, random_state=1)
    groups = [control, *others]
    df = sum(len(group) - 1 for group in groups)
    mse = sum(((group - group.mean()) ** 2).sum() for group in groups) / df
    for place, group in enumerate(others):
        t = (group.mean() - control.mean()) / np.sqrt(mse * 2 / 8)
        assert m.dunnett_p(t, m.balanced_correlation(3), df) == pytest.approx(theirs.pvalue[place], abs=5e-4)


def test_tukey_against_scipy() -> None:
    draw = np.random.default_rng(6)
    groups = [draw.normal(mean, 1, 6) for mean in (5, 5.5, 6.8)]
    theirs = stats.tukey_hsd(*groups)
    df = 15
    mse = sum(((group - group.mean()) ** 2).sum() for group in groups) / df
    for i, j in ((0, 1), (0, 2), (1, 2)):
        t = (groups[i].mean() - groups[j].mean()) / np.sqrt(mse / 3)
        assert m.tukey_p(t, 3, df) == pytest.approx(theirs.pvalue[i, j], abs=1e-7)


def test_unequal_correlation_by_simulation() -> None:
    """Product-form integration against 400 000 draws of the very statistics."""
    sizes = np.array([8, 4, 4, 6])  # control first
    loading = np.sqrt(sizes[1:] / (sizes[1:] + sizes[0]))
    correlation = np.outer(loading, loading)
    np.fill_diagonal(correlation, 1.0)
    draw = np.random.default_rng(11)
    z = draw.multivariate_normal(np.zeros(3), correlation, 400_000)
    scale = np.sqrt(draw.chisquare(18, 400_000) / 18)
    seen = np.mean(np.abs(z / scale[:, None]).max(axis=1) <= 2.4)
    assert m.dunnett_inside(2.4, correlation, 18) == pytest.approx(seen, abs=0.003)


@pytest.mark.slow
@settings(max_examples=25)
@given(st.lists(st.floats(0, 1), min_size=1, max_size=12))
def test_holm_against_statsmodels(p_values: list[float]) -> None:
    from statsmodels.stats.multitest import multipletests

    wanted = multipletests(p_values, method="holm")[1]
    assert np.allclose(m.holm(np.array(p_values)), wanted, atol=1e-12)


@settings(max_examples=25)
@given(st.integers(2, 8), st.integers(3, 60), st.floats(0.01, 0.3))
def test_order_of_the_limits(comparisons: int, df: int, alpha: float) -> None:
    """One comparison asks least, Dunnett more, Bonferroni most; a critical value gives back its level."""
    correlation = m.balanced_correlation(comparisons)
    dunnett = m.dunnett_critical(alpha, correlation, df)
    assert m.t_critical(alpha, df) < dunnett < m.t_critical(alpha / comparisons, df) * 1.0001
    assert m.dunnett_p(dunnett, correlation, df) == pytest.approx(alpha, abs=1e-7)


def test_intervals_beside_holm_are_bonferronis() -> None:
    """Dunn's table of t for 3 comparisons at 10 degrees of freedom and 5 %: 2.87 (Dunn 1961, JASA 56:52–64, from memory)."""
    assert m.family_critical("holm", 0.05, 10, 3, 3) == pytest.approx(2.87, abs=0.005)
    assert m.family_critical("none", 0.05, 10, 3, 3) == pytest.approx(2.228, abs=0.0005)  # Student's table
    t, df = np.array([2.5, 1.0, 3.0]), np.full(3, 10.0)
    limits, adjusted = m.family_limits(t, df, m.balanced_correlation(3), 0.05, "holm", 3)
    assert limits == pytest.approx([2.87] * 3, abs=0.005)
    plain = 2 * stats.t.sf(t, df)
    assert adjusted == pytest.approx([2 * plain[0], plain[1], 3 * plain[2]])
