"""Times of emergence by strip: against closed forms, by hand, and the strips of reference case o46."""

from __future__ import annotations

import numpy as np
import pytest
from cultrix_core.stand.emergence_by_strip import StripVisits, emergence_by_strip
from cultrix_core.stand.emergence_time import fit_time

from tests.core.test_emergence_time import STRIPS


def strip(days: list[int], stands: list[float], name: str = "1", area: float = 2.0) -> StripVisits:
    return StripVisits(strip=name, days=tuple(days), plants_per_m2=tuple(stands), area_m2=(area,) * len(days))


def log_logistic(days: np.ndarray, t50: float, shape: float) -> np.ndarray:
    return np.asarray(1 / (1 + (days / t50) ** -shape))


@pytest.mark.parametrize(("t50", "shape"), [(8.0, 6.0), (14.0, 9.0), (11.5, 4.0)])
def test_the_times_of_a_known_distribution_come_back(t50: float, shape: float) -> None:
    """Counts every day far beyond the last plant, of a log-logistic time: half, 90 % and spread by its own formula."""
    days = np.arange(1, 120)
    stands = 300 * log_logistic(days, t50, shape)
    times = emergence_by_strip([strip(list(days), list(stands), area=100.0)]).strips[0]
    assert times.half_days == pytest.approx(t50, rel=2e-3)
    assert times.ninety_days == pytest.approx(t50 * 9 ** (1 / shape), rel=5e-3)
    assert times.spread_days == pytest.approx(t50 * (9 ** (1 / shape) - 9 ** (-1 / shape)), rel=1e-2)


def test_few_counts_tell_half_by_a_straight_line_on_every_strip_alike() -> None:
    """60 at day 8 and 180 at day 14: half of 180 lies 1.5 days after day 8. One strip with few counts decides for all."""
    few = strip([8, 14], [60, 180])
    many = strip([6, 8, 10, 12, 14], [10, 60, 120, 170, 180], "2")
    both = emergence_by_strip([few, many])
    assert both.by == "line"
    assert both.strips[0].half_days == pytest.approx(9.5)
    assert both.strips[1].half_days == pytest.approx(9.0)
    assert {times.ninety_days for times in both.strips} == {None}
    assert emergence_by_strip([many]).by == "intervals"


def test_a_later_sowing_shifts_nothing_but_the_clock() -> None:
    """The same curve on days from the strip's own sowing gives the same times, whenever that was."""
    days, stands = [5, 7, 9, 11, 15], [4.0, 60.0, 150.0, 200.0, 210.0]
    one, other = emergence_by_strip([strip(days, stands), strip(days, stands, "2")]).strips
    assert one.half_days == other.half_days


def test_a_strip_where_nothing_came_up_has_no_time() -> None:
    result = emergence_by_strip([strip([5, 8, 12], [0, 0, 0]), strip([5, 7, 9, 11], [4, 60, 150, 200], "2")])
    assert result.by == "intervals"
    assert result.strips[0].half_days is None
    assert result.strips[1].half_days is not None


def test_strips_of_the_reference_case_have_the_times_of_the_command() -> None:
    """Case o46, whose fits are held against R in ``test_emergence_time``: plants by area are the same counts."""
    case = {name.strip: name for name in STRIPS}
    rows = [
        StripVisits(
            strip=name,
            days=tuple(round(day) for day in counts.days),
            plants_per_m2=tuple(emerged / 2.5 for emerged in counts.emerged),
            area_m2=(2.5,) * len(counts.days),
        )
        for name, counts in case.items()
    ]
    result = emergence_by_strip(rows)
    assert result.by == "intervals"
    for times in result.strips:
        own = fit_time([case[times.strip]], "emerged")
        assert times.half_days == pytest.approx(own.t50, rel=1e-6)
        assert times.ninety_days == pytest.approx(own.day_of(0.9), rel=1e-5)
