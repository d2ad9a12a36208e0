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

import numpy as np
import pandas as pd
from numpy.typing import NDArray

from cultrix_core.errors import Refusal

Array = NDArray[np.float64]
Whole = NDArray[np.int64]
MOST_READINGS = 2_000_000
MOST_COLUMNS = 200
LEAST_READINGS = 10
ROLES: dict[str, str] = {
    "time": "Time",
    "x": "Easting or longitude",
    "y": "Northing or latitude",
    "speed": "Speed",
    "swath": "Swath width",
    "distance": "Distance since the reading before",
    "flow": "Grain flow",
    "moisture": "Moisture",
}
OPTIONAL = {"distance", "moisture"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Column:
    """Where a role stands in the file, and the factor to its canonical unit (s, m, m/s, kg/s, %)."""

    name: str
    factor: float = 1.0


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
    text: str, columns: Mapping[str, Column], *, to_plane: Callable[[Array, Array], tuple[Array, Array]] | None = None
) -> YieldLog:
    """Read a log from CSV text, comma or semicolon (then with decimal commas).

    Parameters
    ----------
    columns : column of each role; ``distance`` and ``moisture`` may be missing. ``time`` in seconds of any clock.
    to_plane : turns longitude and latitude into metres; None where the file is in metres.

    Raises
    ------
    Refusal : ``missing`` column or file, ``not_a_number`` for a file that is no table, ``too_large``, ``too_small``.
    """
    for role, label in ROLES.items():
        if role not in columns and role not in OPTIONAL:
            raise Refusal("missing", field=role, label=label, remedy="Say which column holds it.")
    table, line = _table(text, columns)
    values = {role: line[column.name] * column.factor for role, column in columns.items()}
    finite = np.asarray(np.isfinite(np.column_stack([values[role] for role in ROLES if role in values])).all(axis=1))
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
    kept = {role: one[finite] for role, one in values.items()}
    if to_plane is not None:
        _require_degrees(kept["x"], kept["y"])
        kept["x"], kept["y"] = to_plane(kept["x"], kept["y"])
    order = np.argsort(kept["time"], kind="stable")
    found = {role: one[order] for role, one in kept.items()}
    interval = np.diff(found["time"], prepend=found["time"][0])
    distance = found.get("distance")
    return YieldLog(
        row=np.arange(2, len(finite) + 2)[finite][order],
        time_s=found["time"],
        x_m=found["x"],
        y_m=found["y"],
        speed_m_s=found["speed"],
        swath_m=found["swath"],
        distance_m=found["speed"] * interval if distance is None else distance,
        flow_kg_s=found["flow"],
        moisture_pct=found.get("moisture", np.full(len(order), np.nan)),
        unreadable=unreadable,
    )


def _table(text: str, columns: Mapping[str, Column]) -> tuple[pd.DataFrame, dict[str, Array]]:
    first = text[:20_000].split("\n", 1)[0]
    if "\x00" in text[:20_000] or not first.strip():
        raise Refusal("not_a_number", field="file", label="The file", value="not text", example="a CSV with a header")
    semicolon = first.count(";") > first.count(",")
    names = next(csv.reader([first.strip()], delimiter=";" if semicolon else ","))
    if len(names) > MOST_COLUMNS:
        raise Refusal("too_large", field="file", label="Columns", value=len(names), limit=MOST_COLUMNS)
    wanted = [column.name for column in columns.values()]
    for role, column in columns.items():
        if names.count(column.name) != 1:
            raise Refusal(
                "unknown_choice", field=role, label="Column", value=column.name, limit=", ".join(names[:20]) or "a header"
            )
    if text.count("\n") > MOST_READINGS + 1:
        raise Refusal("too_large", field="file", label="Readings", value=text.count("\n"), limit=MOST_READINGS)
    table = pd.read_csv(
        io.StringIO(text),
        sep=";" if semicolon else ",",
        decimal="," if semicolon else ".",
        usecols=sorted(set(wanted)),
        skipinitialspace=True,
        on_bad_lines="skip",
        low_memory=False,
    )
    return table, {name: pd.to_numeric(table[name], errors="coerce").to_numpy(float) for name in set(wanted)}


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
