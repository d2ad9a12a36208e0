"""How quantities are shown: which unit in which system, with how many decimals.

One table (``KINDS``) decides for every kind of quantity; screens, workings and reports all ask
``UnitFormatter``. Values stay canonical; showing is the last step and is never stored.
"""

from __future__ import annotations

import hashlib
import math
import re
from collections.abc import Mapping
from dataclasses import dataclass, field

from cultrix_core.units import System, find_unit, from_canonical, to_canonical
from cultrix_core.writing import thousands_sign

_QUANTITY = re.compile(r"\{(\w+) ([\d.]+)(?: to ([\d.]+))?\}")
PRICED = ("money_per_area", "price", "money_per_volume", "money_per_time")

# kind: (dimension, metric unit, metric decimals, US unit, US decimals)
KINDS: dict[str, tuple[str, str, int, str, int]] = {
    "row_spacing": ("length", "cm", 1, "in", 2),
    "depth": ("length", "cm", 1, "in", 2),
    "depth_dug": ("length", "mm", 0, "in", 2),
    "in_row_spacing": ("length", "cm", 2, "in", 3),
    "plant_height": ("length", "cm", 0, "in", 1),
    "stem": ("length", "mm", 1, "in", 3),
    "rain": ("length", "mm", 1, "in", 2),
    "strip_length": ("length", "m", 1, "ft", 1),
    "strip_width": ("length", "m", 2, "ft", 2),
    "tape_length": ("length", "m", 3, "ft", 3),
    "row_length": ("length", "m", 3, "ft", 3),
    "hoop": ("length", "cm", 1, "in", 2),
    "sample_area": ("area", "m2", 3, "ft2", 3),
    "plant_space": ("area", "cm2", 1, "in2", 1),
    "money": ("money", "money", 2, "money", 2),
    "area": ("area", "ha", 3, "ac", 3),
    "mass": ("mass", "kg", 1, "lb", 1),
    "density": ("areal_density", "/m2", 1, "/ft2", 2),
    "density_dense": ("areal_density", "/m2", 1, "/ft2", 2),
    "plants": ("plant_density", "plants/m2", 1, "plants/ft2", 2),
    "linear_density": ("linear_density", "/m", 2, "/ft", 2),
    "seed_rate_mass": ("mass_per_area", "kg/ha", 1, "lb/ac", 1),
    "nutrient_rate": ("mass_per_area", "kg/ha", 1, "lb/ac", 1),
    "yield": ("mass_per_area", "t/ha", 2, "bu/ac", 1),
    "yield_by_weight": ("mass_per_area", "t/ha", 2, "lb/ac", 0),
    "money_per_area": ("money_per_area", "money/ha", 2, "money/ac", 2),
    "test_weight": ("test_weight", "kg/hL", 1, "lb/bu", 1),
    "net_return": ("money_per_area", "money/ha", 0, "money/ac", 0),
    "farm_area": ("area", "ha", 1, "ac", 1),
    "fuel": ("volume_per_area", "L/ha", 1, "gal/ac", 2),
    "fuel_price": ("money_per_volume", "money/L", 2, "money/gal", 2),
    "hours": ("time_per_area", "h/ha", 2, "h/ac", 2),
    "wage": ("money_per_time", "money/h", 2, "money/h", 2),
    "price": ("price", "money/t", 2, "money/bu", 2),
    "seed_mass": ("seed_mass", "g/1000", 1, "seeds/lb", 0),
    "catch": ("mass", "g", 0, "oz", 2),
    "mass_per_row": ("mass_per_row", "g/m", 2, "lb/kft", 2),
    "speed": ("speed", "km/h", 1, "mph", 1),
    "temperature": ("temperature", "C", 1, "F", 0),
    "heat": ("heat", "C.d", 0, "F.d", 0),
    "count": ("count", "", 0, "", 0),
    "count_per_plant": ("count", "", 1, "", 1),
    "ph": ("count", "", 1, "", 1),
    "percent": ("percent", "%", 1, "%", 1),
    "days": ("duration", "d", 1, "d", 1),
    "rating": ("count", "", 1, "", 1),
    "soil_resistance": ("pressure", "MPa", 2, "psi", 0),
    "soil_depth": ("length", "cm", 0, "in", 1),
}
# Decimals where a kind is shown in a unit that is neither of the two above; below 0 they round to tens and hundreds.
DECIMALS: dict[tuple[str, str], int] = {
    ("density", "/ac"): -2,
    ("density", "/ha"): -2,
    ("density", "k/ha"): 1,
    ("density", "k/ac"): 2,
    ("plants", "plants/ac"): -2,
    ("plants", "kplants/ha"): 1,
    ("yield", "lb/ac"): 0,
    ("yield", "kg/ha"): 0,
    ("yield", "cwt/ac"): 1,
    ("yield", "ton/ac"): 2,
    ("yield_by_weight", "kg/ha"): 0,
    ("price", "money/lb"): 3,
    ("price", "money/kg"): 3,
    ("fuel", "L/ac"): 1,
}
# Where the trade counts no bushels, the units of weight that stand in for them in the two systems.
BY_WEIGHT: dict[str, tuple[str, str]] = {"yield": ("t/ha", "lb/ac"), "price": ("money/t", "money/cwt")}
OWN = "own|"  # a farm's own kind says its decimals and its unit: "own|1|°Bx"
# Lengths that a person in feet reads as feet and inches; in a working they stay numbers that can be multiplied.
FEET_AND_INCHES = frozenset({"row_length"})


@dataclass(frozen=True, slots=True, kw_only=True)
class FormattedQuantity:
    """A canonical value with its number and text in the reader's units."""

    canonical: float
    value: float
    unit: str
    text: str


@dataclass(frozen=True, slots=True, kw_only=True)
class UnitFormatter:
    """Shows canonical values as one reader has them, for one crop.

    ``system`` decides whatever ``units`` does not: code of a unit by kind of quantity, as a region has it and its people have
    changed it. ``bushel_kg``: the crop's legal bushel weight, or None where the crop has none (yields and prices are then
    shown by weight). ``currency`` is written before money. ``sparse``: stands per hectare or acre where ``units`` is silent.
    """

    system: System
    bushel_kg: float | None = None
    currency: str = ""
    sparse: bool = False
    units: Mapping[str, str] = field(default_factory=dict)

    @property
    def key(self) -> str:
        """A short text that differs where anything shown would differ."""
        parts = (self.system, self.bushel_kg, self.currency, self.sparse, sorted(self.units.items()), thousands_sign())
        return hashlib.sha256(repr(parts).encode()).hexdigest()[:16]

    @property
    def _column(self) -> int:
        return 0 if self.system == "metric" else 1

    def unit_code(self, kind: str) -> str:
        """Code of the unit in which this reader has ``kind``; a farm's own kind has the unit it was given and no other."""
        if kind.startswith(OWN):
            return ""
        dimension, metric, _, us, _ = KINDS[kind]
        code = self.units.get(kind)
        if code is None:
            code = metric if self.system == "metric" else us
            if kind == "density" and self.sparse:
                code = ("k/ha", "k/ac")[self._column]
        if kind in BY_WEIGHT and self.bushel_kg is None and find_unit(dimension, code).bushel:
            return BY_WEIGHT[kind][self._column]
        return code

    def unit(self, kind: str) -> str:
        """Label of the unit used for ``kind``, money with its currency."""
        if kind.startswith(OWN):
            return kind.split("|", 2)[2]
        dimension = KINDS[kind][0]
        label = find_unit(dimension, self.unit_code(kind)).label
        if dimension == "money":
            return self.currency
        return f"{self.currency}{label}" if dimension in PRICED else label

    def decimals(self, kind: str) -> int:
        """Decimals usual for ``kind`` in this reader's unit."""
        if kind.startswith(OWN):
            return int(kind.split("|", 2)[1])
        _, metric, metric_decimals, us, us_decimals = KINDS[kind]
        code = self.unit_code(kind)
        if (kind, code) in DECIMALS:
            return DECIMALS[kind, code]
        if code == metric:
            return metric_decimals
        if code == us:
            return us_decimals
        return self._as_fine_as(kind, code)

    def _as_fine_as(self, kind: str, code: str) -> int:
        """Decimals that keep about the resolution that the metric unit has."""
        dimension, metric, decimals, *_ = KINDS[kind]
        step = from_canonical(to_canonical(10.0**-decimals, dimension, metric), dimension, code, bushel_kg=self.bushel_kg)
        zero = from_canonical(to_canonical(0.0, dimension, metric), dimension, code, bushel_kg=self.bushel_kg)
        return max(0, -round(math.log10(abs(step - zero))))

    def convert(self, canonical: float, kind: str) -> float:
        """The number that this reader has for a canonical value."""
        if kind.startswith(OWN):
            return canonical
        return from_canonical(canonical, KINDS[kind][0], self.unit_code(kind), bushel_kg=self.bushel_kg)

    def show(self, canonical: float, kind: str, *, decimals: int | None = None, signed: bool = False) -> FormattedQuantity:
        """Value, unit and text of a canonical value."""
        places = decimals if decimals is not None else self.decimals(kind)
        value, unit = self.convert(canonical, kind), self.unit(kind)
        if kind in FEET_AND_INCHES and self.unit_code(kind) == "ft" and value >= 3:
            return FormattedQuantity(canonical=canonical, value=value, unit=unit, text=feet_and_inches(value))
        number = format_number(value, places, signed=signed)
        gap = "" if unit in ("%", "") else " "
        return FormattedQuantity(canonical=canonical, value=value, unit=unit, text=f"{number}{gap}{unit}")

    def text(self, canonical: float, kind: str, *, decimals: int | None = None, signed: bool = False) -> str:
        """Text of a canonical value with its unit."""
        return self.show(canonical, kind, decimals=decimals, signed=signed).text

    def words(self, text: str) -> str:
        """A sentence with its quantities in this reader's units: ``{plant_height 0.04}``, ``{plant_height 0.08 to 0.10}``.

        Examples
        --------
        >>> UnitFormatter(system="us").words("leaves of {plant_height 0.04} or more")
        'leaves of 1.6 in or more'
        """

        def written(match: re.Match[str]) -> str:
            kind, low, high = match.group(1), float(match.group(2)), match.group(3)
            return self.text(low, kind) if high is None else f"{self.number(low, kind)} to {self.text(float(high), kind)}"

        return _QUANTITY.sub(written, text)

    def number(self, canonical: float, kind: str, *, decimals: int | None = None) -> str:
        """Text of a canonical value without its unit."""
        return format_number(self.show(canonical, kind).value, self.decimals(kind) if decimals is None else decimals)


def feet_and_inches(feet: float) -> str:
    """A length in feet as a tape is read, to a tenth of an inch: 17.424 is “17 ft 5.1 in”."""
    tenths = round(feet * 120)
    inches = f"{tenths % 120 / 10:.1f}".removesuffix(".0")
    return f"{tenths // 120} ft {inches} in"


def format_number(value: float, decimals: int, *, signed: bool = False) -> str:
    """Fixed decimals, a true minus sign, thousands apart from 10 000 on as the place writes them, never “-0”.

    Decimals below 0 round to tens, hundreds, thousands.
    """
    if not math.isfinite(value):
        return "–"
    rounded = round(value, decimals)
    body = f"{abs(rounded):,.{max(decimals, 0)}f}"
    body = body.replace(",", thousands_sign() if abs(rounded) >= 10_000 else "")
    if rounded == 0:
        return body
    return ("\u2212" if rounded < 0 else "+" if signed else "") + body


def chance_text(chance: float) -> str:
    """A chance in whole percent; never 0 or 100, for neither is ever certain."""
    whole = round(100 * chance)
    return "under 1 %" if whole < 1 else "over 99 %" if whole > 99 else f"{whole} %"
