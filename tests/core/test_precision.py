"""Repeated counts: interval, number still needed, and what the device ships."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from cultrix_core.stand.device import device_table
from cultrix_core.stand.precision import MOST_COUNTS, running_precision
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

DEVICE = Path(__file__).resolve().parents[2] / "web" / "src" / "features" / "fieldbook" / "device.json"
counts = st.lists(st.floats(1, 500), min_size=2, max_size=20)


@pytest.mark.slow
@given(counts)
def test_the_interval_is_scipys(values: list[float]) -> None:
    precision = running_precision(values)
    assert precision.half_width is not None
    if np.std(values) > 1e-9:
        low, high = stats.t.interval(0.90, len(values) - 1, loc=np.mean(values), scale=stats.sem(values))
        assert precision.mean - precision.half_width == pytest.approx(low, rel=1e-9)
        assert precision.mean + precision.half_width == pytest.approx(high, rel=1e-9)


@pytest.mark.slow
@given(counts)
def test_the_number_needed_is_the_least_that_does(values: list[float]) -> None:
    precision = running_precision(values)
    assert precision.needed is not None
    assert precision.sd is not None
    variation = precision.sd / precision.mean

    def share(n: int) -> float:
        return float(stats.t.isf(0.05, n - 1) * variation / np.sqrt(n))

    if precision.needed <= MOST_COUNTS:
        assert share(precision.needed) <= 0.05 * (1 + 1e-9)
    if precision.needed > 2:
        assert share(min(precision.needed, MOST_COUNTS + 1) - 1) > 0.05 * (1 - 1e-9)
    assert precision.more == max(precision.needed - len(values), 0)


def test_a_worked_case_by_hand() -> None:
    """198, 212, 230: mean 213.33, s 16.04, t 2.920 on 2 df, half-width 27.05 = 12.7 %; 9 places for ±5 %."""
    precision = running_precision([198, 212, 230])
    assert precision.mean == pytest.approx(213.333, abs=1e-3)
    assert precision.sd == pytest.approx(16.042, abs=1e-3)
    assert precision.half_width == pytest.approx(27.045, abs=2e-3)
    assert (precision.needed, precision.more) == (9, 6)


def test_one_count_and_none_standing() -> None:
    assert running_precision([12.0]).half_width is None
    empty = running_precision([0.0, 0.0, 0.0])
    assert (empty.mean, empty.half_width, empty.needed) == (0, 0, None)


def test_the_device_ships_the_cores_numbers() -> None:
    """The committed table of the field book is the core's own; `make types` writes it anew."""
    assert json.loads(DEVICE.read_text()) == json.loads(json.dumps(device_table()))
