"""Logs read from text: columns and units, clocks and pauses, broken and hostile files."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from cultrix_core.errors import Refusal
from cultrix_core.harvest.log_columns import UNITS, Column, factor_of, guess
from cultrix_core.harvest.yield_log import YieldLog, header_of, read_log
from cultrix_core.simulate.yield_monitor import HEADER

from tests.core.test_yield_log import COLUMNS

ROWS = "\n".join(f"{t},0,{2 * t},1.8,6,1.8,5,14" for t in range(20))


def test_a_log_is_read_in_order_of_time_with_its_rows() -> None:
    text = f"{HEADER}\n{ROWS}\n3.5,0,7,abc,6,1.8,5,14\n-1,0,-2,1.8,6,1.8,5,14\n"
    log = read_log(text, COLUMNS)
    assert len(log) == 21
    assert log.unreadable == 1
    assert (log.time_s[0], log.row[0], log.time_s[-1]) == (0, 23, 20)  # seconds since the first reading
    assert log.row[1] == 2


def test_units_and_decimal_commas() -> None:
    rows = "\n".join(f"{t};0;{2 * t};6,48;6000;5,0" for t in range(20))
    columns = {
        "time": Column(name="t", unit="s"),
        "x": Column(name="x", unit="m"),
        "y": Column(name="y", unit="m"),
        "speed": Column(name="km_h", unit="km/h"),
        "swath": Column(name="mm", unit="mm"),
        "flow": Column(name="f", unit="kg/s"),
    }
    log = read_log(f"t;x;y;km_h;mm;f\n{rows}\n", columns)
    assert log.speed_m_s[0] == pytest.approx(1.8)
    assert log.swath_m[0] == 6.0
    assert log.distance_m[5] == pytest.approx(1.8)  # from speed where the file has none
    assert np.isnan(log.moisture_pct).all()


def as_file(**changes: Any) -> YieldLog:
    """The rows above read with some roles mapped otherwise; None takes a role away."""
    columns = {role: column for role, column in (COLUMNS | changes).items() if column is not None}
    return read_log(f"{HEADER}\n{ROWS}\n", columns)


def test_yield_instead_of_flow_speed_from_distance_and_a_header_of_one_width() -> None:
    """5 t/ha on 6 m at 1.8 m/s flows at 5000 ÷ 10 000 × 6 × 1.8 = 5.4 kg/s (by hand)."""
    grown = as_file(flow=None, **{"yield": Column(name="flow_kg_s", unit="t/ha")})
    assert grown.flow_kg_s[3] == pytest.approx(5.4)
    moved = as_file(speed=None, swath=Column(constant=9.0))
    assert moved.speed_m_s[3] == pytest.approx(1.8)
    assert set(moved.swath_m) == {9.0}


def test_date_and_time_as_text() -> None:
    rows = "\n".join(f"2026-08-01T10:00:{t:02d}Z,0,{2 * t},1.8,6,1.8,5,14" for t in range(20))
    log = read_log(f"{HEADER}\n{rows}\n", COLUMNS | {"time": Column(name="time_s", unit="clock")})
    assert (log.time_s[0], log.time_s[-1], log.unreadable) == (0, 19, 0)


def test_a_pause_of_the_log_is_no_ground_covered() -> None:
    rows = "\n".join(f"{t + (600 if t > 9 else 0)},0,{2 * t},1.8,6,5,14" for t in range(20))
    columns = {role: column for role, column in COLUMNS.items() if role != "distance"}
    log = read_log(f"{HEADER.replace(',distance_m', '')}\n{rows}\n", columns)
    assert log.distance_m.max() <= 4 * 1.8


@pytest.mark.parametrize(
    ("changes", "field_"),
    [
        ({"x": None}, "x"),
        ({"time": None}, "time"),
        ({"swath": None}, "swath"),
        ({"flow": None}, "flow"),
        ({"speed": None, "distance": None}, "speed"),
        ({"speed": Column(constant=2.0)}, "speed"),
        ({"swath": Column(constant=-2.0)}, "swath"),
        ({"speed": Column(name="speed_m_s", unit="kg")}, "speed"),
        ({"flow": None, "yield": Column(name="flow_kg_s", unit="bu/ac")}, "yield"),
        ({"colour": Column(name="x_m")}, "role"),
    ],
)
def test_a_mapping_that_leaves_something_open_is_refused(changes: dict[str, Any], field_: str) -> None:
    with pytest.raises(Refusal) as refused:
        as_file(**changes)
    assert refused.value.field == field_


@pytest.mark.parametrize(
    ("names", "role", "expected"),
    [
        (HEADER.split(","), "speed", Column(name="speed_m_s", unit="m/s")),
        (HEADER.split(","), "flow", Column(name="flow_kg_s", unit="kg/s")),
        (HEADER.split(","), "x", Column(name="x_m", unit="m")),
        (["Longitude", "Latitude", "Speed (km/h)"], "x", Column(name="Longitude", unit="deg")),
        (["Longitude", "Latitude", "Speed (km/h)"], "speed", Column(name="Speed (km/h)", unit="km/h")),
        (["SwathWidth_ft", "DateTime"], "swath", Column(name="SwathWidth_ft", unit="ft")),
        (["SwathWidth_ft", "DateTime"], "time", Column(name="DateTime", unit="clock")),
        (["crop_yield_t_ha"], "yield", Column(name="crop_yield_t_ha", unit="t/ha")),
        (["moisture_pct"], "moisture", Column(name="moisture_pct", unit="%")),
        (["colour", "operator"], "speed", None),
    ],
)
def test_names_of_columns_suggest_their_role(names: list[str], role: str, expected: Column | None) -> None:
    assert guess(names).get(role) == expected


PINT = {
    "time": "second",
    "speed": "meter/second",
    "swath": "meter",
    "distance": "meter",
    "flow": "kilogram/second",
    "yield": "kilogram/hectare",
}


@pytest.mark.parametrize(
    ("role", "unit"),
    [(role, unit) for role in PINT for unit in UNITS[role] if unit not in ("clock", "bu/ac")],
)
def test_factors_are_those_of_pint(role: str, unit: str) -> None:
    import pint

    acre = "(4046.8564224 * meter ** 2)"  # the international acre; Pint's own is the survey acre
    written = {
        "t/h": "tonne/hour",
        "lb/s": "pound/second",
        "t/ha": "tonne/hectare",
        "lb/ac": f"pound/{acre}",
        "min": "minute",
        "kg/h": "kilogram/hour",
        "km/h": "kilometer/hour",
        "mph": "mile/hour",
        "in": "inch",
        "kg/ha": "kilogram/hectare",
    }
    registry = pint.UnitRegistry()
    assert factor_of(role, unit) == pytest.approx(registry(written.get(unit, unit)).to(PINT[role]).magnitude, rel=1e-6)


def test_a_header_tells_what_parts_the_columns() -> None:
    assert header_of("\ufeffa;b, c;d\n1;2;3") == (["a", "b, c", "d"], ";")
    assert header_of("a, b\n1,2")[0] == ["a", "b"]


def lonlat(longitude: float, latitude: float) -> dict[str, Any]:
    body = "\n".join(f"{t},{longitude},{latitude},1.8,6,1.8,5,14" for t in range(20))
    return {"text": f"{HEADER}\n{body}", "to_plane": lambda x, y: (x, y)}


BAD: list[tuple[str, str, dict[str, Any]]] = [
    ("not_a_number", "file", {"text": ""}),
    ("not_a_number", "file", {"text": "PK\x03\x04\x00\x00binary"}),
    ("unknown_choice", "time", {"text": "a,b,c\n1,2,3\n"}),
    ("unknown_choice", "time", {"text": f"{HEADER},time_s\n{ROWS}"}),
    ("too_small", "file", {"text": HEADER + "\n" + "1,0,0,1,6,1,5,14\n" * 9}),
    ("too_small", "file", {"text": HEADER + "\n" + "nan,0,0,1,6,1,5,14\n" * 50}),
    ("too_small", "file", {"text": HEADER + "\n" + "x,y,z,a,b,c,d,e\n" * 50}),
    ("too_large", "file", {"text": ",".join(f"c{n}" for n in range(201)) + "\n1\n"}),
    ("too_large", "y", lonlat(46.5, -128.4)),
    ("too_large", "x", lonlat(512_000.0, 5_150_000.0)),
]


@pytest.mark.parametrize(("code", "field_", "call"), BAD, ids=[f"{code} {number}" for number, (code, _, _) in enumerate(BAD)])
def test_broken_and_hostile_files_end_in_a_clear_message(code: str, field_: str, call: dict[str, Any]) -> None:
    with pytest.raises(Refusal) as refused:
        read_log(call["text"], COLUMNS, to_plane=call.get("to_plane"))
    assert (refused.value.code, refused.value.field) == (code, field_)


def test_swapped_coordinates_are_named() -> None:
    with pytest.raises(Refusal, match="look swapped"):
        read_log(**lonlat(46.5, -128.4), columns=COLUMNS)


def test_too_many_readings_are_refused_before_they_are_read(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("cultrix_core.harvest.yield_log.MOST_READINGS", 10)
    with pytest.raises(Refusal) as refused:
        read_log(f"{HEADER}\n{ROWS}", COLUMNS)
    assert refused.value.code == "too_large"
