"""Mean of strips against SciPy's standard error and Student's interval."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest
import statsmodels.formula.api as smf
from cultrix_core.errors import Refusal
from cultrix_core.stats.means import pooled_cv, strip_mean
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

YIELDS = st.lists(st.floats(min_value=0.1, max_value=20), min_size=2, max_size=12)


@given(YIELDS, st.sampled_from([0.01, 0.05, 0.10, 0.20]))
def test_se_and_interval_are_those_of_scipy(values: list[float], alpha: float) -> None:
    mean = strip_mean(values)
    assert mean.se == pytest.approx(stats.sem(values), abs=1e-12)
    if mean.se and mean.se > 1e-9:
        low, high = stats.t.interval(1 - alpha, len(values) - 1, loc=mean.mean, scale=mean.se)
        assert mean.half_width(alpha) == pytest.approx((high - low) / 2, rel=1e-9)


def test_one_strip_says_nothing_of_how_sure_it_is() -> None:
    mean = strip_mean([7.4])
    assert (mean.mean, mean.se, mean.df, mean.half_width(0.10)) == (7.4, None, None, None)


@pytest.mark.parametrize(("values", "code"), [([], "missing"), ([3.0, float("nan")], "not_finite")])
def test_refusals(values: list[float], code: str) -> None:
    with pytest.raises(Refusal) as refusal:
        strip_mean(values)
    assert refusal.value.code == code


def test_pooled_variation_is_that_of_a_one_way_analysis() -> None:
    """Groups of one mean: pooling by degrees of freedom is the residual mean square of a one-way ANOVA (statsmodels)."""
    groups = {"a": [9.0, 10.0, 11.0], "b": [8.0, 9.5, 10.5, 12.0], "c": [9.9, 10.1]}
    rows = pd.DataFrame([(name, value) for name, values in groups.items() for value in values], columns=["g", "y"])
    fitted = smf.ols("y ~ C(g)", rows).fit()
    parts = [(100 * float(np.std(values, ddof=1)) / 10, len(values) - 1) for values in groups.values()]
    cv, df = pooled_cv(parts) or (0.0, 0.0)
    assert df == fitted.df_resid
    assert cv == pytest.approx(100 * fitted.mse_resid**0.5 / 10)
    assert pooled_cv([]) is None
