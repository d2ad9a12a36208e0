"""A combine's log as arrays: read once, checked once, never changed.

Readings are kept in the order of time with the row of the file they came from, so that everything dropped later can be
traced. Canonical units: s, m in a plane, m/s, kg/s as it flowed (wet), percent. Rows that hold no number where one is
needed are left out and counted.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.harvest.log_columns import CLOCK, ROLES, Column, factor_of, require_roles
from cultrix_core.units import HA_M2

Series = Any
Array = NDArray[np.float64]
Whole = NDArray[np.int64]
ToPlane = Callable[[Array, Array], tuple[Array, Array]]
MOST_READINGS = 2_000_000
MOST_COLUMNS = 200
LEAST_READINGS = 10


@dataclass(frozen=True, slots=True, kw_only=True)
class YieldLog:
    """Readings in time order. ``row``: line of the file; ``unreadable``: rows left out for want of a number."""

    row: Whole
    time_s: Array
    x_m: Array
    y_m: Array
    speed_m_s: Array
    swath_m: Array
    distance_m: Array
    flow_kg_s: Array
    moisture_pct: Array
    unreadable: int

    def __len__(self) -> int:
        return len(self.time_s)


def read_log(
    text: str,
    columns: Mapping[str, Column],
    *,
    to_plane: ToPlane | None = None,
    bushel_kg: float | None = None,
) -> YieldLog:
    """Read a log from CSV text, comma or semicolon (then with decimal commas).

    Parameters
    ----------
    columns : column of each role, see ``log_columns``.
    to_plane : turns longitude and latitude into metres; None where the file is in metres.

    Raises
    ------
    Refusal : ``missing`` column or file, ``not_a_number`` for a file that is no table, ``too_large``, ``too_small``.
    """
    require_roles(columns)
    return log_of(_table(text, columns), columns, to_plane=to_plane, bushel_kg=bushel_kg)


def log_of(
    table: Mapping[str, Series],
    columns: Mapping[str, Column],
    *,
    to_plane: ToPlane | None = None,
    bushel_kg: float | None = None,
) -> YieldLog:
    """The log in a table of columns by name, whatever file they came from; see ``read_log``."""
    require_roles(columns)
    rows = len(next(iter(table.values())))
    require_between(rows, 0, MOST_READINGS, "file", label="Readings")
    values = {role: _values(table, role, column, rows, bushel_kg) for role, column in columns.items()}
    finite = np.asarray(
        np.isfinite(np.column_stack([array for role, array in values.items() if role != "moisture"])).all(axis=1)
    )
    unreadable = int((~finite).sum())
    if finite.sum() < LEAST_READINGS:
        raise Refusal(
            "too_small",
            field="file",
            label="Readings with numbers in all columns",
            value=int(finite.sum()),
            limit=LEAST_READINGS,
            remedy="Are the right columns chosen?",
        )
    kept = {role: array[finite] for role, array in values.items()}
    if to_plane is not None:
        _require_degrees(kept["x"], kept["y"])
        kept["x"], kept["y"] = to_plane(kept["x"], kept["y"])
    order = np.argsort(kept["time"], kind="stable")
    result = {role: array[order] for role, array in kept.items()}
    speed, distance = _covered(result)
    flow = result["flow"] if "flow" in result else result["yield"] / HA_M2 * speed * result["swath"]
    return YieldLog(
        row=np.arange(2, len(finite) + 2)[finite][order],
        time_s=result["time"] - result["time"][0],
        x_m=result["x"],
        y_m=result["y"],
        speed_m_s=speed,
        swath_m=result["swath"],
        distance_m=distance,
        flow_kg_s=flow,
        moisture_pct=result.get("moisture", np.full(len(order), np.nan)),
        unreadable=unreadable,
    )


def _values(table: Mapping[str, Series], role: str, column: Column, rows: int, bushel_kg: float | None) -> Array:
    import pandas as pd  # noqa: PLC0415 - slow to import, needed for logs only

    if column.constant is not None:
        return np.full(rows, require_positive(column.constant, role, label=ROLES[role]))
    factor = factor_of(role, column.unit, bushel_kg=bushel_kg)
    if column.name not in table:
        raise Refusal("unknown_choice", field=role, label="Column", value=column.name, limit=", ".join(list(table)[:20]))
    if column.unit == CLOCK:
        moments = pd.to_datetime(pd.Series(table[column.name]), errors="coerce", utc=True, format="ISO8601")
        seconds = (moments - pd.Timestamp(0, tz="UTC")) / pd.Timedelta(seconds=1)
        return np.asarray(seconds.to_numpy(float))
    return np.asarray(pd.to_numeric(pd.Series(table[column.name]), errors="coerce").to_numpy(float) * factor)


def _covered(result: Mapping[str, Array]) -> tuple[Array, Array]:
    """Speed and distance of every reading, the one from the other where the file has one only."""
    interval = np.diff(result["time"], prepend=result["time"][0])
    if len(interval) > 1:
        interval[0] = float(np.median(interval[1:]))
    speed, distance = result.get("speed"), result.get("distance")
    if speed is None:
        assert distance is not None
        speed = np.divide(distance, interval, out=np.zeros_like(distance), where=interval > 0)
    if distance is None:
        # a pause of the log is no ground covered
        usual = float(np.median(interval[interval > 0])) if (interval > 0).any() else 1.0
        distance = speed * np.minimum(interval, 4 * usual)
    return speed, distance


def header_of(text: str) -> tuple[list[str], str]:
    """Names of the columns of a CSV text and what parts them.

    Raises
    ------
    Refusal : ``not_a_number`` for what is no text, ``too_large`` for too many columns.
    """
    first = text[:20_000].split("\n", 1)[0]
    if "\x00" in text[:20_000] or not first.strip():
        raise Refusal("not_a_number", field="file", label="The file", value="not text", example="a CSV with a header")
    semicolon = first.count(";") > first.count(",")
    names = next(csv.reader([first.strip().lstrip("\ufeff")], delimiter=";" if semicolon else ","), [])
    if len(names) > MOST_COLUMNS:
        raise Refusal("too_large", field="file", label="Columns", value=len(names), limit=MOST_COLUMNS)
    return [name.strip() for name in names], ";" if semicolon else ","


def _table(text: str, columns: Mapping[str, Column]) -> dict[str, Series]:
    import pandas as pd  # noqa: PLC0415 - slow to import, needed for logs only

    names, apart = header_of(text)
    wanted = {role: column for role, column in columns.items() if column.constant is None}
    for role, column in wanted.items():
        if names.count(column.name) != 1:
            raise Refusal(
                "unknown_choice", field=role, label="Column", value=column.name, limit=", ".join(names[:20]) or "a header"
            )
    if text.count("\n") > MOST_READINGS + 1:
        raise Refusal("too_large", field="file", label="Readings", value=text.count("\n"), limit=MOST_READINGS)
    own = [column.name for column in wanted.values()]
    table = pd.read_csv(
        io.StringIO(text),
        sep=apart,
        decimal="," if apart == ";" else ".",
        names=names,
        header=0,
        index_col=False,
        usecols=sorted(set(own)),
        skipinitialspace=True,
        on_bad_lines="skip",
        low_memory=False,
    )
    return {name: table[name] for name in table.columns}


def _require_degrees(longitude: Array, latitude: Array) -> None:
    if np.abs(latitude).max() > 90 and np.abs(longitude).max() <= 90:
        raise Refusal(
            "too_large",
            field="y",
            label="Latitude",
            value=f"{np.abs(latitude).max():g}",
            limit="90",
            unit="°",
            remedy="Longitude and latitude look swapped.",
        )
    if np.abs(latitude).max() > 90 or np.abs(longitude).max() > 180:
        raise Refusal(
            "too_large",
            field="x",
            label="Longitude",
            value=f"{np.abs(longitude).max():g}",
            limit="180",
            unit="°",
            remedy="The file looks projected, in metres; say so.",
        )
