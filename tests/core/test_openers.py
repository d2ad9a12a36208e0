"""Openers: by hand, beside statsmodels, and how often luck is taken for a fault."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest
import statsmodels.formula.api as smf
from cultrix_core.errors import Refusal
from cultrix_core.stand.openers import OpenerValue, look_at_openers


def table(rng: np.random.Generator, openers: int, strips: int, off: dict[int, float] | None = None) -> list[OpenerValue]:
    ground = rng.normal(0, 4, strips)
    return [
        OpenerValue(strip=str(s), opener=o, value=38 + ground[s] + (off or {}).get(o, 0.0) + rng.normal(0, 3))
        for s in range(strips)
        for o in range(1, openers + 1)
    ]


def test_as_statsmodels_has_it_with_missing_cells() -> None:
    """The opener that is off first, by the same two-way least squares in a formula: its difference, error and df."""
    rows = [row for place, row in enumerate(table(np.random.default_rng(2), 6, 5, {4: 9.0})) if place not in (3, 17)]
    look = look_at_openers(rows)
    frame = pd.DataFrame([{"y": row.value, "s": row.strip, "o": str(row.opener)} for row in rows])
    fit = smf.ols("y ~ C(s) + C(o)", frame).fit()
    names = [name for name in fit.params.index if name.startswith("C(o)")]
    contrast = np.zeros(len(fit.params))
    for name in names:
        contrast[list(fit.params.index).index(name)] = 1.0 if name == "C(o)[T.4]" else -1 / 5
    test = fit.t_test(contrast)
    opener = next(item for item in look.openers if item.opener == 4)
    assert opener.off == pytest.approx(float(test.effect[0]))
    assert opener.se == pytest.approx(float(test.sd[0, 0]))
    assert look.df == int(fit.df_resid)


def test_an_opener_far_off_is_named_and_ground_that_differs_is_not() -> None:
    look = look_at_openers(table(np.random.default_rng(5), 8, 6, {3: -15.0}))
    assert [item.opener for item in look.off] == [3]
    assert look.off[0].off < -9


def test_luck_is_taken_for_a_fault_no_more_often_than_said() -> None:
    """400 machines without a fault, twelve openers each: some opener is named in at most about one of ten."""
    rng = np.random.default_rng(11)
    named = sum(bool(look_at_openers(table(rng, 12, 4), alpha=0.10).off) for _ in range(400))
    assert named / 400 < 0.10 + 2 * (0.1 * 0.9 / 400) ** 0.5


@pytest.mark.parametrize(
    ("rows", "code"),
    [
        ([(1, 1), (1, 2), (2, 1), (2, 2)], "too_small"),
        ([(1, 1), (1, 2), (1, 3)], "too_small"),
        ([(1, 1), (1, 2), (2, 3), (2, 99)], "too_large"),
    ],
)
def test_what_cannot_be_looked_at(rows: list[tuple[int, int]], code: str) -> None:
    values = [OpenerValue(strip=str(strip), opener=opener, value=30.0 + opener) for strip, opener in rows]
    with pytest.raises(Refusal) as refusal:
        look_at_openers(values)
    assert refusal.value.code == code


def test_values_without_scatter_have_no_chance() -> None:
    values = [OpenerValue(strip=str(s), opener=o, value=38.0 + o) for s in range(3) for o in range(1, 5)]
    with pytest.raises(Refusal) as refusal:
        look_at_openers(values)
    assert refusal.value.code == "not_estimable"
