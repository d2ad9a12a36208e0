"""How quantities are shown: which unit in which system, with how many decimals.

One table (``KINDS``) decides for every kind of quantity; screens, workings and reports all ask
``UnitFormatter``. Values stay canonical; showing is the last step and is never stored.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from cultrix_core.units import System, find_unit, from_canonical

NARROW = "\u202f"
PRICED = ("money_per_area", "price", "money_per_volume", "money_per_time")

# kind: (dimension, metric unit, metric decimals, US unit, US decimals)
KINDS: dict[str, tuple[str, str, int, str, int]] = {
    "row_spacing": ("length", "cm", 1, "in", 2),
    "depth": ("length", "cm", 1, "in", 2),
    "in_row_spacing": ("length", "cm", 2, "in", 3),
    "plant_height": ("length", "cm", 0, "in", 1),
    "stem": ("length", "mm", 1, "in", 3),
    "strip_length": ("length", "m", 1, "ft", 1),
    "strip_width": ("length", "m", 2, "ft", 2),
    "tape_length": ("length", "m", 3, "ft", 3),
    "sample_area": ("area", "m2", 3, "ft2", 3),
    "plant_space": ("area", "cm2", 1, "in2", 1),
    "money": ("money", "money", 2, "money", 2),
    "area": ("area", "ha", 3, "ac", 3),
    "mass": ("mass", "kg", 1, "lb", 1),
    "density_dense": ("areal_density", "/m2", 1, "/ft2", 2),
    "density_sparse": ("areal_density", "k/ha", 1, "k/ac", 2),
    "linear_density": ("linear_density", "/m", 2, "/ft", 2),
    "seed_rate_mass": ("mass_per_area", "kg/ha", 1, "lb/ac", 1),
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
    "price_by_weight": ("price", "money/t", 2, "money/cwt", 2),
    "seed_mass": ("seed_mass", "g/1000", 1, "seeds/lb", 0),
    "catch": ("mass", "g", 0, "oz", 2),
    "mass_per_row": ("mass_per_row", "g/m", 2, "lb/kft", 2),
    "speed": ("speed", "km/h", 1, "mph", 1),
    "temperature": ("temperature", "C", 1, "F", 0),
    "count": ("count", "", 0, "", 0),
    "count_per_plant": ("count", "", 1, "", 1),
    "ph": ("count", "", 1, "", 1),
    "percent": ("percent", "%", 1, "%", 1),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Shown:
    """A canonical value with its number and text in the reader's units."""

    canonical: float
    value: float
    unit: str
    text: str


@dataclass(frozen=True, slots=True, kw_only=True)
class UnitFormatter:
    """Shows canonical values in one unit system for one crop.

    ``bushel_kg`` is the crop's legal bushel weight, or None where the crop has none (yields and prices
    are then shown by weight). ``currency`` is written before money.
    """

    system: System
    bushel_kg: float | None = None
    currency: str = ""
    sparse: bool = False

    def kind_of(self, kind: str) -> str:
        """Resolve the kinds that depend on the crop: ``yield``, ``price`` and ``density``."""
        if kind == "density":
            return "density_sparse" if self.sparse else "density_dense"
        if kind in ("yield", "price") and self.bushel_kg is None:
            return f"{kind}_by_weight"
        return kind

    def unit_code(self, kind: str) -> str:
        """Code of the unit used for ``kind`` in this system."""
        row = KINDS[self.kind_of(kind)]
        return row[1] if self.system == "metric" else row[3]

    def unit(self, kind: str) -> str:
        """Label of the unit used for ``kind``, money with its currency."""
        dimension = KINDS[self.kind_of(kind)][0]
        label = find_unit(dimension, self.unit_code(kind)).label
        if dimension == "money":
            return self.currency
        return f"{self.currency}{label}" if dimension in PRICED else label

    def decimals(self, kind: str) -> int:
        """Decimals usual for ``kind`` in this system."""
        row = KINDS[self.kind_of(kind)]
        return row[2] if self.system == "metric" else row[4]

    def show(self, canonical: float, kind: str, *, decimals: int | None = None, signed: bool = False) -> Shown:
        """Value, unit and text of a canonical value."""
        dimension = KINDS[self.kind_of(kind)][0]
        places = decimals if decimals is not None else self.decimals(kind)
        value = from_canonical(canonical, dimension, self.unit_code(kind), bushel_kg=self.bushel_kg)
        unit = self.unit(kind)
        number = format_number(value, places, signed=signed)
        gap = "" if unit in ("%", "") else " "
        return Shown(canonical=canonical, value=value, unit=unit, text=f"{number}{gap}{unit}")

    def text(self, canonical: float, kind: str, *, decimals: int | None = None, signed: bool = False) -> str:
        """Text of a canonical value with its unit."""
        return self.show(canonical, kind, decimals=decimals, signed=signed).text

    def number(self, canonical: float, kind: str, *, decimals: int | None = None) -> str:
        """Text of a canonical value without its unit."""
        return format_number(self.show(canonical, kind).value, self.decimals(kind) if decimals is None else decimals)


def format_number(value: float, decimals: int, *, signed: bool = False) -> str:
    """Fixed decimals, a true minus sign, narrow spaces between thousands from 10 000 on, never “-0”."""
    if not math.isfinite(value):
        return "–"
    rounded = round(value, decimals)
    body = f"{abs(rounded):,.{decimals}f}"
    body = body.replace(",", NARROW if abs(rounded) >= 10_000 else "")
    if rounded == 0:
        return body
    return ("\u2212" if rounded < 0 else "+" if signed else "") + body


def chance_text(chance: float) -> str:
    """A chance in whole percent; never 0 or 100, for neither is ever certain."""
    whole = round(100 * chance)
    return "under 1 %" if whole < 1 else "over 99 %" if whole > 99 else f"{whole} %"
