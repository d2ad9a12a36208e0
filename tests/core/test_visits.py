"""Days and visits: a day is a visit of its own, unless a person joined days."""

from __future__ import annotations

from datetime import date, timedelta

import pytest
from cultrix_core.errors import Refusal
from cultrix_core.stand.visits import MOST_DAYS_JOINED, require_span, visits_of_days
from hypothesis import given
from hypothesis import strategies as st

DAY = date(2026, 5, 1)


def on(*days: int) -> list[date]:
    return [DAY + timedelta(days=day) for day in days]


def test_days_are_joined_by_nobody_but_a_person() -> None:
    days = on(0, 1, 2, 12, 1)
    assert visits_of_days(days) == ((DAY,), *((day,) for day in on(1, 2, 12)))
    assert visits_of_days(days, [(DAY, DAY + timedelta(days=3))]) == (tuple(on(0, 1, 2)), tuple(on(12)))


@given(
    st.lists(st.integers(0, 40), max_size=40),
    st.lists(st.integers(0, 10), min_size=2, max_size=8),
)
def test_every_day_is_of_one_visit_and_visits_follow_each_other(days: list[int], gaps: list[int]) -> None:
    """Whatever is joined: no day is lost or twice in, and only days of one span stand together."""
    edges = [sum(gaps[: place + 1]) + place for place in range(len(gaps))]
    spans = [(DAY + timedelta(days=a), DAY + timedelta(days=b)) for a, b in zip(edges[::2], edges[1::2], strict=False)]
    visits = visits_of_days(on(*days), spans)
    assert [day for visit in visits for day in visit] == sorted(set(on(*days)))
    for visit in visits:
        assert len(visit) == 1 or any(first <= visit[0] and visit[-1] <= last for first, last in spans)
        for first, last in spans:
            inside = [first <= day <= last for day in visit]
            assert all(inside) or not any(inside)


@pytest.mark.parametrize(
    ("first", "last", "code"),
    [(3, 3, "too_small"), (5, 3, "too_small"), (0, MOST_DAYS_JOINED, "too_large"), (8, 12, "duplicate"), (12, 20, "duplicate")],
)
def test_days_that_cannot_be_joined(first: int, last: int, code: str) -> None:
    with pytest.raises(Refusal) as refusal:
        require_span((DAY + timedelta(days=first), DAY + timedelta(days=last)), [tuple(on(10, 14))])  # type: ignore[list-item]
    assert refusal.value.code == code


def test_days_beside_joined_ones_may_be_joined() -> None:
    require_span((DAY, DAY + timedelta(days=9)), [tuple(on(10, 14))])  # type: ignore[list-item]
