"""Which column of a combine's file means what, and in which unit.

A role is what a reading needs; a unit is a factor to the canonical one (s, m, m/s, kg/s, kg/ha, %). Names of columns are
guessed at by the words they are made of; the guess is for a person to look at, never the last word.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from cultrix_core.errors import Refusal
from cultrix_core.units import ACRE_M2, FT_M, HA_M2, IN_M, LB_KG

CLOCK = "clock"  # date and time as text
DEGREES = "deg"
BUSHEL_ACRE = "bu/ac"
ROLES: dict[str, str] = {
    "time": "Time",
    "x": "Easting or longitude",
    "y": "Northing or latitude",
    "speed": "Speed",
    "swath": "Swath width",
    "distance": "Distance since the reading before",
    "flow": "Grain flow",
    "yield": "Yield as cut",
    "moisture": "Moisture",
}
MILE_M = 5280 * FT_M
UNITS: dict[str, dict[str, float]] = {
    "time": {"s": 1.0, "ms": 1e-3, "min": 60.0, CLOCK: 1.0},
    "x": {DEGREES: 1.0, "m": 1.0},
    "y": {DEGREES: 1.0, "m": 1.0},
    "speed": {"m/s": 1.0, "km/h": 1 / 3.6, "mph": MILE_M / 3600},
    "swath": {"m": 1.0, "cm": 0.01, "mm": 0.001, "ft": FT_M, "in": IN_M},
    "distance": {"m": 1.0, "cm": 0.01, "ft": FT_M, "in": IN_M},
    "flow": {"kg/s": 1.0, "t/h": 1 / 3.6, "kg/h": 1 / 3600, "lb/s": LB_KG},
    "yield": {"kg/ha": 1.0, "t/ha": 1000.0, "lb/ac": LB_KG * HA_M2 / ACRE_M2, BUSHEL_ACRE: 0.0},
    "moisture": {"%": 1.0},
}
WORDS: dict[str, str] = {
    "time": r"time|datetime|timestamp|date|seconds|clock",
    "x": r"x|lon|long|longitude|easting|east",
    "y": r"y|lat|latitude|northing|north",
    "speed": r"speed|velocity",
    "swath": r"swath|swathwidth|width|header",
    "distance": r"distance|dist|travelled|travel",
    "flow": r"flow|massflow|flowrate",
    "yield": r"yield|yld",
    "moisture": r"moisture|moist|humidity",
}
UNIT_WORDS: dict[str, str] = {
    "m/s": r"m[_/ ]?s|mps",
    "km/h": r"km[_/ ]?h|kmh|kph",
    "mph": r"mph",
    "kg/s": r"kg[_/ ]?s",
    "t/h": r"t[_/ ]?h|tph",
    "kg/h": r"kg[_/ ]?h",
    "lb/s": r"lbs?[_/ ]?s",
    "kg/ha": r"kg[_/ ]?ha",
    "t/ha": r"t[_/ ]?ha",
    "lb/ac": r"lbs?[_/ ]?ac",
    BUSHEL_ACRE: r"bu[_/ ]?ac",
    "ms": r"ms",
    "min": r"min",
    "s": r"s|sec|seconds",
    "cm": r"cm",
    "mm": r"mm",
    "ft": r"ft|feet",
    "in": r"in|inch|inches",
    "m": r"m|metres?|meters?",
    "%": r"pct|percent|%",
    DEGREES: r"deg|degrees",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Column:
    """Where a role stands in the file and in which unit; ``constant`` (canonical) instead of a column."""

    name: str = ""
    unit: str = ""
    constant: float | None = None


def factor_of(role: str, unit: str, *, bushel_kg: float | None = None) -> float:
    """Factor from a unit to the canonical one of a role.

    Raises
    ------
    Refusal : ``unknown_choice`` of a role, ``unknown_unit``, ``needs_bushel``.
    """
    if role not in UNITS:
        raise Refusal("unknown_choice", field="role", label="Role", value=role, limit=", ".join(UNITS))
    if unit not in UNITS[role]:
        raise Refusal("unknown_unit", field=role, label=ROLES[role], value=unit, limit=", ".join(UNITS[role]))
    if unit == BUSHEL_ACRE:
        if not bushel_kg:
            raise Refusal("needs_bushel", field=role, label=ROLES[role], value=unit)
        return bushel_kg * HA_M2 / ACRE_M2
    return UNITS[role][unit]


def guess(names: Sequence[str]) -> dict[str, Column]:
    """What the names of the columns suggest. Where flow and yield are both there, flow is taken.

    Example: ``speed_km_h`` is the speed in km/h, ``Latitude`` the northing in degrees.
    """
    result: dict[str, Column] = {}
    for role, words in WORDS.items():
        for name in names:
            bare = re.sub(r"[^a-z0-9%/]+", "_", re.sub(r"(?<=[a-z])(?=[A-Z])", "_", name.strip()).lower()).strip("_")
            head = re.match(rf"(?:[a-z]+_)*?(?:{words})(?=_|$)", bare)
            if head is None:
                continue
            result[role] = Column(name=name, unit=_unit_in(role, bare[head.end() :].strip("_"), bare))
            break
    if "flow" in result:
        result.pop("yield", None)
    return result


def _unit_in(role: str, rest: str, bare: str) -> str:
    usual = next(iter(UNITS[role]))
    if role in ("x", "y"):
        return DEGREES if re.search(r"lon|lat", bare) else "m" if rest == "m" or re.search(r"east|north", bare) else usual
    if role == "time" and (re.search(r"date|stamp|clock", bare)):
        return CLOCK
    return next(
        (unit for unit in UNITS[role] if unit in UNIT_WORDS and re.search(rf"(?:^|_)(?:{UNIT_WORDS[unit]})$", rest)), usual
    )


def require_roles(columns: Mapping[str, Column]) -> None:
    """Refuse a mapping that leaves a reading without place, time, flow or ground covered."""
    for role in columns:
        if role not in ROLES:
            raise Refusal("unknown_choice", field="role", label="Role", value=role, limit=", ".join(ROLES))
    wanted: tuple[tuple[tuple[str, ...], str], ...] = (
        (("x",), "Say which column holds it."),
        (("y",), "Say which column holds it."),
        (("time",), "Say which column holds it."),
        (("swath",), "Say which column holds it, or type the width of the header."),
        (("flow", "yield"), "Choose the column of the grain flow, or of the yield."),
        (("speed", "distance"), "Choose the column of the speed, or of the distance."),
    )
    for roles, remedy in wanted:
        if not any(role in columns for role in roles):
            raise Refusal(
                "missing", field=roles[0], label=" or ".join(ROLES[role].lower() for role in roles).capitalize(), remedy=remedy
            )
    for role, column in columns.items():
        if column.constant is not None and role != "swath":
            raise Refusal(
                "unknown_choice", field=role, label=ROLES[role], value="one value for all", limit="a column of the file"
            )
