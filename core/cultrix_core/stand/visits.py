"""Visits and slips: which counts belong together in time, and which look like a slip of the thumb.

A trial is counted in a day or a few: counts with no more than ``VISIT_GAP_DAYS`` between one day and the next are one visit, as
long as no strip is counted on two of its days. A strip that is counted again begins the next visit, so that counts of every day
stay counts of every day (common practice, no source). A count is far off when it is more than
``FAR_OFF`` times the middle of the others, or less than that share of it; a count ten times the others is most often a
digit too many.
"""

from __future__ import annotations

from collections.abc import Hashable, Iterable, Sequence
from datetime import date
from statistics import median

VISIT_GAP_DAYS = 3
FAR_OFF = 3.0
LEAST_OTHERS = 2


def visits_of_counts(
    counts: Iterable[tuple[date, Hashable]], *, gap_days: int = VISIT_GAP_DAYS
) -> tuple[tuple[date, ...], ...]:
    """Days put together into visits, earliest first.

    Parameters
    ----------
    counts : day and strip of each count. Within a visit days follow each other by at most ``gap_days`` and none brings a strip
        that an earlier day of it had.
    """
    strips: dict[date, set[Hashable]] = {}
    for day, strip in counts:
        strips.setdefault(day, set()).add(strip)
    visits: list[list[date]] = []
    counted: set[Hashable] = set()
    for day in sorted(strips):
        if visits and (day - visits[-1][-1]).days <= gap_days and not counted & strips[day]:
            visits[-1].append(day)
            counted |= strips[day]
        else:
            visits.append([day])
            counted = set(strips[day])
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
