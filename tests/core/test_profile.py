"""Courses over time: areas by hand, and invariances."""

from __future__ import annotations

import numpy as np
import pytest
from cultrix_core.errors import Refusal
from cultrix_core.season.profile import area_under, mean_level
from hypothesis import given
from hypothesis import strategies as st
from scipy import integrate


def test_area_by_hand() -> None:
    """Severity 1, 5, 20, 40 % on days 0, 7, 14, 28: 7 × 3 + 7 × 12.5 + 14 × 30 = 528.5 %-days (trapezoids by hand)."""
    days, severity = [0, 7, 14, 28], [1.0, 5.0, 20.0, 40.0]
    assert area_under(days, severity) == pytest.approx(528.5)
    assert mean_level(days, severity) == pytest.approx(528.5 / 28)


@given(st.lists(st.tuples(st.integers(0, 300), st.floats(0, 100)), min_size=2, max_size=12, unique_by=lambda row: row[0]))
def test_as_scipy_has_it_and_in_any_order(rows: list[tuple[int, float]]) -> None:
    """Beside scipy's trapezoid rule; the order of visits says nothing; a level added is added to the mean level."""
    days, values = [row[0] for row in rows], [row[1] for row in rows]
    order = np.argsort(days)
    wanted = integrate.trapezoid(np.array(values)[order], np.array(days)[order])
    assert area_under(days, values) == pytest.approx(float(wanted), abs=1e-9)
    assert mean_level(days, [value + 5 for value in values]) == pytest.approx(mean_level(days, values) + 5)
    assert min(values) - 1e-9 <= mean_level(days, values) <= max(values) + 1e-9


@pytest.mark.parametrize(
    ("days", "values", "code"),
    [
        ([3], [1.0], "missing"),
        ([3, 3], [1.0, 2.0], "duplicate"),
        ([3, 4], [1.0], "lengths_differ"),
        ([1, 2], [1.0, float("nan")], "not_finite"),
    ],
)
def test_courses_that_cannot_be(days: list[int], values: list[float], code: str) -> None:
    with pytest.raises(Refusal) as refusal:
        area_under(days, values)
    assert refusal.value.code == code
