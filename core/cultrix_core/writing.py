"""How a place writes numbers and days: apart from units, for the same metre is written in many ways.

The way holds for a context (a request, a report), as a time zone does; without one, numbers and days are written as in Europe.
Decimals are always after a point, for all words here are English; a decimal comma that somebody types is understood everywhere.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from datetime import date

from cultrix_core.errors import Refusal

NARROW = "\u202f"


@dataclass(frozen=True, slots=True, kw_only=True)
class Writing:
    """``thousands``: what stands between thousands, and whether a comma typed there is one (“1,250”), or is asked about."""

    key: str
    name: str
    thousands: str
    comma_is_thousands: bool
    month_first: bool


WRITINGS = (
    Writing(key="day_first", name="12 500.5 and 30 Nov 2026", thousands=NARROW, comma_is_thousands=False, month_first=False),
    Writing(key="month_first", name="12,500.5 and Nov 30, 2026", thousands=",", comma_is_thousands=True, month_first=True),
    Writing(key="comma_day_first", name="12,500.5 and 30 Nov 2026", thousands=",", comma_is_thousands=True, month_first=False),
)
BY_KEY = {writing.key: writing for writing in WRITINGS}
_current: ContextVar[Writing] = ContextVar("writing", default=WRITINGS[0])


def find_writing(key: str) -> Writing:
    """The way of writing named ``key``; refuses ``unknown_choice``."""
    if key not in BY_KEY:
        raise Refusal("unknown_choice", field="writing", label="Numbers and days", value=key, limit=", ".join(BY_KEY))
    return BY_KEY[key]


def write_as(key: str) -> None:
    """From here on, numbers and days of this context are written so."""
    _current.set(find_writing(key))


@contextmanager
def written_as(key: str) -> Iterator[None]:
    """Numbers and days inside are written so."""
    token = _current.set(find_writing(key))
    try:
        yield
    finally:
        _current.reset(token)


def thousands_sign() -> str:
    """What stands between thousands."""
    return _current.get().thousands


def comma_is_thousands() -> bool:
    """Whether “1,250” is read as a thousand two hundred and fifty; where not, it is asked about."""
    return _current.get().comma_is_thousands


def written_day(day: date, *, year: bool = True) -> str:
    """A day as people read it.

    Examples
    --------
    >>> written_day(date(2026, 5, 3))
    '3 May 2026'
    >>> with written_as("month_first"):
    ...     written_day(date(2026, 5, 3)), written_day(date(2026, 5, 3), year=False)
    ('May 3, 2026', 'May 3')
    """
    end = f"{day.year:04d}" if year else ""
    if _current.get().month_first:
        return f"{day:%b} {day.day}" + (f", {end}" if end else "")
    return f"{day.day} {day:%b}" + (f" {end}" if end else "")


def written_numbers(numbers: Iterable[int]) -> str:
    """Whole numbers with runs drawn together.

    Examples
    --------
    >>> written_numbers([1, 2, 3, 5, 8, 7])
    '1–3, 5, 7–8'
    """
    runs: list[list[int]] = []
    for number in sorted(set(numbers)):
        if runs and number == runs[-1][-1] + 1:
            runs[-1].append(number)
        else:
            runs.append([number])
    return ", ".join(str(run[0]) if len(run) == 1 else f"{run[0]}–{run[-1]}" for run in runs)


def written_strips(orders: Iterable[int]) -> str:
    """Strips by their numbers.

    Examples
    --------
    >>> written_strips([4]), written_strips([1, 2, 3, 6])
    ('strip 4', 'strips 1–3, 6')
    """
    numbers = sorted(set(orders))
    return f"strip{'' if len(numbers) == 1 else 's'} {written_numbers(numbers)}"


def written_days(days: Iterable[date], *, year: bool = True) -> str:
    """One day, or the first and the last of several.

    Examples
    --------
    >>> written_days([date(2026, 6, 9), date(2026, 5, 2)])
    '2 May to 9 Jun 2026'
    """
    every = sorted(set(days))
    if len(every) == 1:
        return written_day(every[0], year=year)
    return f"{written_day(every[0], year=year and every[0].year != every[-1].year)} to {written_day(every[-1], year=year)}"
