"""Units of the trade: parsing what was typed, converting to one canonical unit, showing in either system.

Model. Every quantity belongs to a dimension with one canonical unit (``CANONICAL``). A unit is a factor
to it, or the factor of its reciprocal (seeds per pound ↔ grams per thousand), or starts at another zero
(degrees Fahrenheit). Bushels are volumes that the trade treats as weights; their factor comes from the
crop's legal bushel weight.

Definitions (exact): 1 lb = 0.45359237 kg; 1 in = 0.0254 m; 1 ac = 43 560 ft² = 4046.8564224 m²
(international foot). Source: international yard and pound agreement of 1959.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

from cultrix_core.errors import Refusal
from cultrix_core.writing import comma_is_thousands

System = Literal["metric", "us"]

LB_KG = 0.45359237
IN_M = 0.0254
FT_M = 12 * IN_M
BUSHEL_HL = 2150.42 * IN_M**3 * 10  # cubic inches of a United States bushel: definition
ACRE_FT2 = 43_560
ACRE_M2 = ACRE_FT2 * FT_M**2
HA_M2 = 10_000.0
PSI_KPA = LB_KG * 9.80665 / IN_M**2 / 1000  # pound-force at standard gravity on a square inch: definition
GALLON_L = 231 * IN_M**3 * 1000  # cubic inches of a United States gallon: definition

CANONICAL: dict[str, str] = {
    "length": "m",
    "area": "m2",
    "mass": "kg",
    "areal_density": "/m2",
    "plant_density": "/m2",
    "bag_density": "bags/ha",
    "linear_density": "/m",
    "mass_per_area": "kg/ha",
    "money_per_area": "/ha",
    "price": "/t",
    "seed_mass": "g/1000",
    "mass_per_row": "g/m",
    "speed": "km/h",
    "temperature": "C",
    "heat": "C.d",
    "percent": "%",
    "money": "money",
    "count": "",
    "test_weight": "kg/hL",
    "volume_per_area": "L/ha",
    "money_per_volume": "money/L",
    "time_per_area": "h/ha",
    "money_per_time": "money/h",
    "pressure": "kPa",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Unit:
    """One unit: ``canonical = (value − zero) × factor``, or ``factor ÷ value`` when ``reciprocal``."""

    code: str
    label: str
    dimension: str
    factor: float
    system: Literal["metric", "us", "both"]
    reciprocal: bool = False
    bushel: bool = False
    zero: float = 0.0


def _unit(
    code: str,
    label: str,
    dimension: str,
    factor: float,
    system: Literal["metric", "us", "both"],
    *,
    reciprocal: bool = False,
    bushel: bool = False,
    zero: float = 0.0,
) -> Unit:
    return Unit(
        code=code,
        label=label,
        dimension=dimension,
        factor=factor,
        system=system,
        reciprocal=reciprocal,
        bushel=bushel,
        zero=zero,
    )


_LB_AC = LB_KG * HA_M2 / ACRE_M2

UNITS: tuple[Unit, ...] = (
    _unit("m", "m", "length", 1.0, "metric"),
    _unit("cm", "cm", "length", 0.01, "metric"),
    _unit("mm", "mm", "length", 0.001, "metric"),
    _unit("ft", "ft", "length", FT_M, "us"),
    _unit("in", "in", "length", IN_M, "us"),
    _unit("m2", "m²", "area", 1.0, "metric"),
    _unit("cm2", "cm²", "area", 1e-4, "metric"),
    _unit("in2", "in²", "area", IN_M**2, "us"),
    _unit("ha", "ha", "area", HA_M2, "metric"),
    _unit("ft2", "ft²", "area", FT_M**2, "us"),
    _unit("ac", "ac", "area", ACRE_M2, "us"),
    _unit("kg", "kg", "mass", 1.0, "metric"),
    _unit("g", "g", "mass", 0.001, "metric"),
    _unit("t", "t", "mass", 1000.0, "metric"),
    _unit("lb", "lb", "mass", LB_KG, "us"),
    _unit("oz", "oz", "mass", LB_KG / 16, "us"),
    _unit("/m2", "/m²", "areal_density", 1.0, "metric"),
    _unit("/ha", "/ha", "areal_density", 1 / HA_M2, "metric"),
    _unit("k/ha", "thousand/ha", "areal_density", 1000 / HA_M2, "metric"),
    _unit("/ft2", "/ft²", "areal_density", 1 / FT_M**2, "us"),
    _unit("/ac", "/ac", "areal_density", 1 / ACRE_M2, "us"),
    _unit("k/ac", "thousand/ac", "areal_density", 1000 / ACRE_M2, "us"),
    _unit("plants/m2", "plants/m²", "plant_density", 1.0, "metric"),
    _unit("kplants/ha", "thousand plants/ha", "plant_density", 1000 / HA_M2, "metric"),
    _unit("plants/ft2", "plants/ft²", "plant_density", 1 / FT_M**2, "us"),
    _unit("plants/ac", "plants/ac", "plant_density", 1 / ACRE_M2, "us"),
    _unit("bags/ha", "bags/ha", "bag_density", 1.0, "metric"),
    _unit("bags/ac", "bags/ac", "bag_density", HA_M2 / ACRE_M2, "us"),
    _unit("/m", "/m of row", "linear_density", 1.0, "metric"),
    _unit("/ft", "/ft of row", "linear_density", 1 / FT_M, "us"),
    _unit("kg/ha", "kg/ha", "mass_per_area", 1.0, "metric"),
    _unit("t/ha", "t/ha", "mass_per_area", 1000.0, "metric"),
    _unit("lb/ac", "lb/ac", "mass_per_area", _LB_AC, "us"),
    _unit("cwt/ac", "cwt/ac", "mass_per_area", 100 * _LB_AC, "us"),
    _unit("ton/ac", "tons/ac", "mass_per_area", 2000 * _LB_AC, "us"),
    _unit("bu/ac", "bu/ac", "mass_per_area", HA_M2 / ACRE_M2, "us", bushel=True),
    _unit("money/ha", "/ha", "money_per_area", 1.0, "metric"),
    _unit("money/ac", "/ac", "money_per_area", HA_M2 / ACRE_M2, "us"),
    _unit("money/t", "/t", "price", 1.0, "metric"),
    _unit("money/kg", "/kg", "price", 1000.0, "metric"),
    _unit("money/lb", "/lb", "price", 1000.0 / LB_KG, "us"),
    _unit("money/cwt", "/cwt", "price", 10.0 / LB_KG, "us"),
    _unit("money/ton", "/ton", "price", 0.5 / LB_KG, "us"),
    _unit("money/bu", "/bu", "price", 1000.0, "us", reciprocal=False, bushel=True),
    _unit("g/1000", "g per 1000", "seed_mass", 1.0, "metric"),
    _unit("seeds/lb", "seeds/lb", "seed_mass", 1000.0 * LB_KG * 1000.0, "us", reciprocal=True),
    # grain weight may be said as the factor of the ear method too, 1000 ÷ kernels per bushel: common practice, no source
    _unit("g/1000", "g per 1000", "grain_mass", 1.0, "metric"),
    _unit("seeds/lb", "seeds/lb", "grain_mass", 1000.0 * LB_KG * 1000.0, "us", reciprocal=True),
    _unit("ear_factor", "ear factor", "grain_mass", 1000.0, "us", bushel=True),
    _unit("g/m", "g/m of row", "mass_per_row", 1.0, "metric"),
    _unit("lb/kft", "lb/1000 ft of row", "mass_per_row", 1000 * LB_KG / (1000 * FT_M), "us"),
    _unit("km/h", "km/h", "speed", 1.0, "metric"),
    _unit("mph", "mph", "speed", 5280 * FT_M / 1000, "us"),
    _unit("C", "°C", "temperature", 1.0, "metric"),
    _unit("F", "°F", "temperature", 5 / 9, "us", zero=32.0),
    _unit("C.d", "°C days", "heat", 1.0, "metric"),
    _unit("F.d", "°F days", "heat", 5 / 9, "us"),
    _unit("%", "%", "percent", 1.0, "both"),
    _unit("d", "days", "duration", 1.0, "both"),
    _unit("money", "", "money", 1.0, "both"),
    _unit("", "", "count", 1.0, "both"),
    _unit("kg/hL", "kg/hL", "test_weight", 1.0, "metric"),
    _unit("lb/bu", "lb/bu", "test_weight", LB_KG / BUSHEL_HL, "us"),
    _unit("L/ha", "L/ha", "volume_per_area", 1.0, "metric"),
    _unit("L/ac", "L/ac", "volume_per_area", HA_M2 / ACRE_M2, "us"),
    _unit("gal/ac", "gal/ac", "volume_per_area", GALLON_L * HA_M2 / ACRE_M2, "us"),
    _unit("money/L", "/L", "money_per_volume", 1.0, "metric"),
    _unit("money/gal", "/gal", "money_per_volume", 1 / GALLON_L, "us"),
    _unit("h/ha", "h/ha", "time_per_area", 1.0, "metric"),
    _unit("h/ac", "h/ac", "time_per_area", HA_M2 / ACRE_M2, "us"),
    _unit("money/h", "/h", "money_per_time", 1.0, "both"),
    _unit("kPa", "kPa", "pressure", 1.0, "metric"),
    _unit("MPa", "MPa", "pressure", 1000.0, "metric"),
    _unit("psi", "psi", "pressure", PSI_KPA, "us"),
)
LABELS = {unit.code: unit.label for unit in UNITS}
_BY_KEY = {(unit.dimension, unit.code): unit for unit in UNITS}


def units_of(dimension: str) -> tuple[Unit, ...]:
    """All units of a dimension, metric first."""
    return tuple(unit for unit in UNITS if unit.dimension == dimension)


def find_unit(dimension: str, code: str, *, field: str = "unit") -> Unit:
    """The unit named ``code`` in ``dimension``; refuses ``unknown_unit``."""
    unit = _BY_KEY.get((dimension, code))
    if unit is None:
        limit = ", ".join(other.code for other in units_of(dimension))
        raise Refusal("unknown_unit", field=field, value=code, limit=limit)
    return unit


def _factor(unit: Unit, bushel_kg: float | None, field: str) -> float:
    if not unit.bushel:
        return unit.factor
    if bushel_kg is None:
        raise Refusal("needs_bushel", field=field, value=unit.label)
    return unit.factor / bushel_kg if unit.dimension == "price" else unit.factor * bushel_kg


def to_canonical(value: float, dimension: str, code: str, *, bushel_kg: float | None = None, field: str = "value") -> float:
    """Convert ``value`` in unit ``code`` to the canonical unit of ``dimension``."""
    unit = find_unit(dimension, code, field=field)
    factor = _factor(unit, bushel_kg, field)
    if unit.reciprocal:
        if value == 0:
            raise Refusal("not_positive", field=field, value=0)
        return factor / value
    return (value - unit.zero) * factor


def from_canonical(value: float, dimension: str, code: str, *, bushel_kg: float | None = None) -> float:
    """Convert a canonical ``value`` of ``dimension`` into unit ``code``."""
    unit = find_unit(dimension, code)
    factor = _factor(unit, bushel_kg, "value")
    return factor / value if unit.reciprocal else value / factor + unit.zero


_PLAIN = re.compile(r"^[+-]?(\d+(\.\d*)?|\.\d+)$")
_DECIMAL_COMMA = re.compile(r"^[+-]?\d*,\d+$")
_FEET_AND_INCHES = re.compile(
    r"^(\d+)\s*(?:ft|feet|['\u2032])\s*(\d+(?:\.\d*)?)\s*(?:in|inches|[\"\u2033]|'')?$", re.IGNORECASE
)
_THOUSANDS = re.compile(r"^[+-]?[1-9]\d{0,2}(,\d{3})+(\.\d*)?$")


def parse_number(text: str, *, field: str, label: str | None = None) -> float:
    """Read a number as people type it.

    Spaces between digits are ignored; a comma is read as a decimal comma unless it could be a thousands
    separator ("1,250"): that is read as the place writes its numbers, or refused as ambiguous rather than guessed.

    Raises
    ------
    Refusal : ``missing``, ``not_a_number``, ``ambiguous_number``.
    """
    names = {"label": label} if label else {}
    cleaned = re.sub(r"[\s\u00a0\u202f]", "", text).replace("\u2212", "-")
    if not cleaned:
        raise Refusal("missing", field=field, remedy="Type a value.", **names)
    if _THOUSANDS.match(cleaned):
        if not comma_is_thousands():
            raise Refusal("ambiguous_number", field=field, value=text.strip(), **names)
        cleaned = cleaned.replace(",", "")
    if _DECIMAL_COMMA.match(cleaned):
        cleaned = cleaned.replace(",", ".")
    if not _PLAIN.match(cleaned) or len(cleaned) > 24:
        raise Refusal("not_a_number", field=field, value=text.strip()[:40], **names)
    return float(cleaned)


def parse_count(text: str, *, field: str, label: str | None = None) -> int:
    """Read a whole number ≥ 0 of things counted; refuses letters, fractions and negatives."""
    names = {"label": label} if label else {}
    cleaned = text.strip()
    if not cleaned:
        raise Refusal("missing", field=field, remedy="Type the count.", **names)
    if not re.fullmatch(r"\d{1,9}", cleaned):
        raise Refusal("not_a_count", field=field, value=cleaned[:40], **names)
    return int(cleaned)


def parse_quantity(
    text: str, dimension: str, code: str, *, field: str, label: str | None = None, bushel_kg: float | None = None
) -> float:
    """Parse typed ``text`` in unit ``code`` and return the canonical value of ``dimension``.

    A length in feet may be typed as feet and inches: “17 ft 5 in”, “17' 5"”.

    Examples
    --------
    >>> round(parse_quantity("17 ft 5 in", "length", "ft", field="length"), 4)
    5.3086
    """
    both = _FEET_AND_INCHES.match(text.strip()) if (dimension, code) == ("length", "ft") else None
    if both:
        return int(both[1]) * FT_M + float(both[2]) * IN_M
    return to_canonical(parse_number(text, field=field, label=label), dimension, code, bushel_kg=bushel_kg, field=field)
