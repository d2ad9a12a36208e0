"""Visits and slips: which days belong together, and which counts look like a slip of the thumb.

A visit is a day, unless a person says that days belong together ("this count took three days"): the software joins none by
itself, so that counts of every day stay counts of every day. A count is far off when it is more than
``FAR_OFF`` times the middle of the others, or less than that share of it; a count ten times the others is most often a
digit too many (common practice, no source).
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import date, timedelta
from statistics import median

from cultrix_core.errors import Refusal
from cultrix_core.writing import written_day, written_days

FAR_OFF = 3.0
LEAST_OTHERS = 2
MOST_DAYS_JOINED = 31

Span = tuple[date, date]


def visits_of_days(days: Iterable[date], joined: Sequence[Span] = ()) -> tuple[tuple[date, ...], ...]:
    """Days put together into visits, earliest first.

    Parameters
    ----------
    days : days on which something was recorded, any order, repeats allowed.
    joined : first and last day of what a person joined; every recorded day between them is of one visit. Spans do not overlap.
    """
    visits: dict[date, list[date]] = {}
    for day in sorted(set(days)):
        opened = next((first for first, last in joined if first <= day <= last), day)
        visits.setdefault(opened, []).append(day)
    return tuple(tuple(visit) for _, visit in sorted(visits.items()))


def require_span(span: Span, others: Sequence[Span]) -> None:
    """Refuse days to join that run backwards, are one, are too many, or meet other joined days.

    Raises
    ------
    Refusal : ``too_small`` last day, ``too_large`` span, ``duplicate`` days.
    """
    first, last = span
    if last <= first:
        raise Refusal(
            "too_small",
            field="last_on",
            label="The last day",
            value=written_day(last),
            limit=written_day(first + timedelta(days=1)),
            remedy="One day is a visit by itself.",
        )
    if (last - first).days >= MOST_DAYS_JOINED:
        raise Refusal(
            "too_large", field="last_on", label="The days of a visit", value=(last - first).days + 1, limit=MOST_DAYS_JOINED
        )
    for begun, ended in others:
        if first <= ended and begun <= last:
            raise Refusal(
                "duplicate",
                field="first_on",
                label="A visit",
                value=written_days([begun, ended]),
                remedy="Change that one, or take it back first.",
            )


def far_off(value: float, others: Sequence[float]) -> bool:
    """Whether a value lies far from the others of its strip; False with fewer than two others or where all are 0."""
    if len(others) < LEAST_OTHERS:
        return False
    middle = median(others)
    return middle > 0 and (value > FAR_OFF * middle or value * FAR_OFF < middle)


def likely_meant(plants: int, others: Sequence[int]) -> int | None:
    """The number that was likely meant when a digit is too many or was hit twice: 310 beside 29, 33, 30 → 31."""
    if not far_off(plants, others) or plants < median(others):
        return None
    shorter = plants // 10
    return shorter if shorter and not far_off(shorter, others) else None
