"""Counts put together into visits: a count over several days is one, counts of every day stay counts of every day."""

from __future__ import annotations

from datetime import date, timedelta

from cultrix_core.stand.visits import visits_of_counts
from hypothesis import given
from hypothesis import strategies as st

DAY = date(2026, 5, 1)


def on(*days: int) -> list[date]:
    return [DAY + timedelta(days=day) for day in days]


def test_a_trial_counted_over_two_days_is_one_visit() -> None:
    counts = [(DAY, "1"), (DAY, "1"), (DAY, "2"), (DAY + timedelta(days=1), "3"), (DAY + timedelta(days=12), "1")]
    assert visits_of_counts(counts) == (tuple(on(0, 1)), tuple(on(12)))


def test_counts_of_every_day_are_never_chained() -> None:
    """Ten days on the same two strips: ten visits."""
    counts = [(day, strip) for day in on(*range(10)) for strip in ("1", "2")]
    assert visits_of_counts(counts) == tuple((day,) for day in on(*range(10)))


@given(st.lists(st.tuples(st.integers(0, 40), st.integers(0, 5)), max_size=40))
def test_no_count_is_lost_and_no_strip_twice_on_two_days_of_a_visit(pairs: list[tuple[int, int]]) -> None:
    counts = [(DAY + timedelta(days=day), strip) for day, strip in pairs]
    visits = visits_of_counts(counts)
    assert sorted(day for visit in visits for day in visit) == sorted({day for day, _ in counts})
    for visit in visits:
        for strip in range(6):
            assert len({day for day, own in counts if own == strip and day in visit}) <= 1
