"""What a strip is expected to give by its treatment and block: by hand, by invariance, and the case that asked for it."""

from __future__ import annotations

import numpy as np
import pytest
from cultrix_core.harvest.expected import Placed, expected_by_place
from hypothesis import given
from hypothesis import strategies as st


def rows(table: dict[str, list[float]]) -> list[Placed]:
    return [
        Placed(treatment=name, block=str(block), value=value)
        for name, values in table.items()
        for block, value in enumerate(values, start=1)
    ]


def test_a_treatment_that_works_makes_no_strip_odd() -> None:
    """Garlic at two depths, one giving twice the other: every strip is expected within a few per cent of what it gave."""
    strips = rows({"shallow": [5.0, 5.5, 4.8, 5.2, 5.1, 5.6], "deep": [10.4, 11.0, 9.9, 10.6, 10.0, 11.4]})
    for place, strip in enumerate(strips):
        others = strips[:place] + strips[place + 1 :]
        expected = expected_by_place(others, treatment=strip.treatment, block=strip.block)
        assert expected is not None
        assert 0.85 < strip.value / expected < 1.15


def test_a_swapped_digit_is_still_odd() -> None:
    strips = rows({"shallow": [5.0, 5.5, 4.8], "deep": [10.4, 1.1, 9.9]})
    others = [strip for strip in strips if strip.value != 1.1]
    expected = expected_by_place(others, treatment="deep", block="2")
    assert expected == pytest.approx(11.2, rel=0.05)


@given(
    st.lists(st.floats(-1, 1), min_size=3, max_size=3),
    st.lists(st.floats(-1, 1), min_size=4, max_size=4),
    st.integers(0, 2),
    st.integers(0, 3),
)
def test_what_multiplies_is_found_exactly(treatment: list[float], block: list[float], t: int, b: int) -> None:
    """Where values are products of treatment and block, the strip left out is their product; a unit changes nothing."""
    values = {(i, j): float(np.exp(treatment[i] + block[j])) for i in range(3) for j in range(4)}
    others = [Placed(treatment=str(i), block=str(j), value=value) for (i, j), value in values.items() if (i, j) != (t, b)]
    expected = expected_by_place(others, treatment=str(t), block=str(b))
    assert expected == pytest.approx(values[t, b], rel=1e-9)
    scaled = [Placed(treatment=row.treatment, block=row.block, value=1000 * row.value) for row in others]
    assert expected_by_place(scaled, treatment=str(t), block=str(b)) == pytest.approx(1000 * values[t, b], rel=1e-9)


def test_alone_in_its_treatment_nothing_is_expected() -> None:
    assert expected_by_place(rows({"A": [5.0]}), treatment="B", block="1") is None
    assert expected_by_place([Placed(treatment="A", block="1", value=0.0)], treatment="A", block="2") is None
