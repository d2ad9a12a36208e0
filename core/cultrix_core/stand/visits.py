"""Visits and slips: which counts belong together in time, and which look like a slip of the thumb.

Counts with no more than ``VISIT_GAP_DAYS`` between one day and the next are one visit: a trial is counted in a day or
two, and the next visit comes weeks later (common practice, no source). A count is far off when it is more than
``FAR_OFF`` times the middle of the others, or less than that share of it; a count ten times the others is most often a
digit too many.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import date
from statistics import median

VISIT_GAP_DAYS = 3
FAR_OFF = 3.0
LEAST_OTHERS = 2


def visits_of_days(days: Iterable[date], *, gap_days: int = VISIT_GAP_DAYS) -> tuple[tuple[date, ...], ...]:
    """Days put together into visits, earliest first; within one, days follow each other by at most ``gap_days``."""
    visits: list[list[date]] = []
    for day in sorted(set(days)):
        if visits and (day - visits[-1][-1]).days <= gap_days:
            visits[-1].append(day)
        else:
            visits.append([day])
    return tuple(tuple(visit) for visit in visits)


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
