"""Reading daily weather: one line a day, from a station or a file; both speak the same text.

Columns: date, min_c, max_c, rain_mm, soil_c (the last two may be absent or empty). Dates as 2026-05-14. A header names
them in any order; min_f and max_f, rain_in and soil_f are read in those units. Unknown columns are left alone.
"""

from __future__ import annotations

import csv
import io
from datetime import date

from cultrix_core.errors import Refusal, require_between
from cultrix_core.season.heat_units import Day
from cultrix_core.units import parse_number, to_canonical

MOST_DAYS = 20_000
COLUMNS = ("date", "min_c", "max_c", "rain_mm", "soil_c")
_IN_F = {"min_c": "min_f", "max_c": "max_f", "soil_c": "soil_f"}


def read_weather(text: str) -> tuple[Day, ...]:
    """Daily weather from CSV text, earliest first.

    Raises
    ------
    Refusal : ``missing`` column or rows, ``not_a_number``, ``unknown_choice`` date, ``duplicate`` day, limits that no
        place on earth passes, ``too_large`` file.
    """
    rows = csv.DictReader(io.StringIO(text.lstrip("\ufeff")))
    names = [(name or "").strip().lower() for name in rows.fieldnames or []]
    rows.fieldnames = names
    for wanted in COLUMNS[:3]:
        if wanted not in names and _IN_F.get(wanted) not in names:
            raise Refusal(
                "missing",
                field="file",
                label=f"Column {wanted}",
                remedy=f"The first line must name: {', '.join(COLUMNS)}.",
            )
    result: dict[date, Day] = {}
    for line, row in enumerate(rows, start=2):
        if line > MOST_DAYS:
            raise Refusal("too_large", field="file", label="Days in the file", value="more", limit=MOST_DAYS)
        day = _day(row, line)
        if day.on in result:
            raise Refusal("duplicate", field="file", label="Day", value=day.on, remedy=f"Line {line}: keep one line a day.")
        result[day.on] = day
    if not result:
        raise Refusal("missing", field="file", label="A day", remedy="The file holds no line under its header.")
    return tuple(result[key] for key in sorted(result))


def _day(row: dict[str, str | None], line: int) -> Day:
    text = (row.get("date") or "").strip()
    try:
        on = date.fromisoformat(text[:10])
    except ValueError:
        raise Refusal(
            "unknown_choice", field="file", label=f"Line {line}: date", value=text[:20], limit="days such as 2026-05-14"
        ) from None
    low, high = _celsius(row, "min_c", line), _celsius(row, "max_c", line)
    if low is None or high is None:
        raise Refusal("missing", field="file", label=f"Line {line}: a temperature", remedy="Give min and max of the day.")
    require_between(low, -70, 60, "file", label=f"Line {line}: coldest", unit=" °C")
    require_between(high, low, 60, "file", label=f"Line {line}: warmest", unit=" °C", remedy="Were the two swapped?")
    rain = _number(row.get("rain_mm"), line)
    if rain is None and row.get("rain_in"):
        rain = (_number(row.get("rain_in"), line) or 0.0) * 25.4
    require_between(rain or 0.0, 0, 2000, "file", label=f"Line {line}: rain", unit=" mm")
    return Day(on=on, min_c=low, max_c=high, rain_mm=rain or 0.0, soil_c=_celsius(row, "soil_c", line))


def _celsius(row: dict[str, str | None], name: str, line: int) -> float | None:
    value = _number(row.get(name), line)
    if value is not None:
        return value
    value = _number(row.get(_IN_F[name]), line)
    return None if value is None else to_canonical(value, "temperature", "F")


def _number(text: str | None, line: int) -> float | None:
    if text is None or not text.strip():
        return None
    return parse_number(text, field="file", label=f"Line {line}")


def write_weather(days: tuple[Day, ...]) -> str:
    """The same text that ``read_weather`` reads."""
    handle = io.StringIO()
    out = csv.writer(handle, lineterminator="\n")
    out.writerow(COLUMNS)
    for day in days:
        soil = "" if day.soil_c is None else _tenth(day.soil_c)
        out.writerow([day.on.isoformat(), _tenth(day.min_c), _tenth(day.max_c), _tenth(day.rain_mm), soil])
    return handle.getvalue()


def _tenth(value: float) -> str:
    """One decimal, never “-0.0”."""
    return f"{round(value, 1) + 0.0:.1f}"
