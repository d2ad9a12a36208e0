"""Region profiles: the units, numbers, days, paper, significance level and crops of a place, as the trade there has them.

A profile holds one unit for each kind of quantity that differs from its system's usual one (``unit_formatting.KINDS``); yield,
price and stand follow the crop (``crops.TradeUnits``). People change single parts of it; what they changed is kept apart from
the profile, so that both stay readable. All values are common practice, no source.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from cultrix_core.crops import PROFILES, CropProfile
from cultrix_core.errors import Refusal, require_between
from cultrix_core.unit_formatting import KINDS, UnitFormatter
from cultrix_core.units import UNITS, System, find_unit
from cultrix_core.writing import find_writing

Trade = Literal["us", "canada", "metric"]
PAPERS = ("A4", "Letter")
CROP_KINDS = ("yield", "price", "density", "plants")
_STANDS = {"/ac": "plants/ac", "/ft2": "plants/ft2", "/m2": "plants/m2", "k/ha": "kplants/ha"}
_SMALL_GRAINS = ("winter_wheat", "barley", "oats")

# Kinds of quantity whose unit people choose, as they know them; the rest goes with the region.
QUANTITIES = {
    "yield": "Yield",
    "price": "Price of the crop",
    "money_per_area": "Costs per area",
    "net_return": "Net return",
    "density": "Seeds and plants per area",
    "seed_rate_mass": "Seeding rate by weight",
    "nutrient_rate": "Fertiliser",
    "seed_mass": "Seed weight",
    "row_spacing": "Row spacing",
    "depth": "Sowing depth",
    "depth_dug": "Depth of a seed dug up",
    "in_row_spacing": "Seeds along the row",
    "row_length": "Length of row counted",
    "sample_area": "Area of a frame",
    "plant_height": "Height of plants",
    "strip_width": "Width of strips and machines",
    "strip_length": "Length of strips",
    "farm_area": "Area of fields",
    "mass": "Weight of loads",
    "catch": "Weight of a catch or sample",
    "test_weight": "Test weight",
    "speed": "Speed",
    "temperature": "Temperature",
    "heat": "Heat units",
    "rain": "Rain",
    "fuel": "Fuel per area",
    "fuel_price": "Price of fuel",
}


SAME_AS = {"grain_mass": "seed_mass"}  # dimensions whose units are chosen with another


@dataclass(frozen=True, slots=True, kw_only=True)
class RegionProfile:
    """One region. ``crops_first``: crops offered before all others, in their order; ``units``: code by kind of quantity.

    ``changed``: kinds whose unit was chosen by people of the workspace and so holds for every crop.
    """

    key: str
    name: str
    system: System
    trade: Trade
    currency: str
    alpha: float
    paper: str
    writing: str
    crops_first: tuple[str, ...]
    units: Mapping[str, str] = field(default_factory=dict)
    changed: frozenset[str] = frozenset()

    def units_for(self, profile: CropProfile | None) -> dict[str, str]:
        """Code of the unit of every kind of quantity, for one crop or for none."""
        units = {kind: row[1] if self.system == "metric" else row[3] for kind, row in KINDS.items()} | dict(self.units)
        if profile is None:
            return units
        for kind, code in zip(CROP_KINDS, self._of_crop(profile), strict=True):
            if kind not in self.changed:
                units[kind] = code
        return units

    def _of_crop(self, profile: CropProfile) -> tuple[str, str, str, str]:
        of, trade = profile.units, self.trade
        stand = {"us": of.us_stand, "canada": of.canada_stand, "metric": of.metric_stand}[trade]
        amount = {"us": of.us_yield, "canada": of.canada_yield, "metric": of.metric_yield}[trade]
        price = {"us": of.us_price, "canada": of.canada_price, "metric": of.metric_price}[trade]
        return amount, price, stand, _STANDS[stand]

    def own_units(self) -> list[str]:
        """Codes of all units that belong here: those chosen, and the system's where no kind of their dimension was chosen."""
        chosen = self.units_for(None)
        codes = set(chosen.values()) | {code for profile in PROFILES for code in self._of_crop(profile)}
        touched = {KINDS[kind][0] for kind in self.units}
        codes |= {
            unit.code
            for unit in UNITS
            if unit.system in (self.system, "both") and SAME_AS.get(unit.dimension, unit.dimension) not in touched
        }
        return sorted(codes)

    def crops(self) -> list[str]:
        """Keys of all crops, those of the region first, then by name."""
        rest = sorted(
            (profile for profile in PROFILES if profile.key not in self.crops_first), key=lambda profile: profile.name
        )
        return [*self.crops_first, *(profile.key for profile in rest)]

    def formatter(self, profile: CropProfile | None, *, currency: str) -> UnitFormatter:
        """What shows values here, for one crop or for none."""
        return UnitFormatter(
            system=self.system,
            currency=currency,
            bushel_kg=profile.bushel_kg if profile else None,
            sparse=profile.sparse_stand if profile else False,
            units=self.units_for(profile),
        )


EUROPE = RegionProfile(
    key="europe",
    name="Europe and other metric countries",
    system="metric",
    trade="metric",
    currency="€",
    alpha=0.10,
    paper="A4",
    writing="day_first",
    crops_first=("winter_wheat", "barley", "oilseed_rape", "maize", "sunflower"),
)
UNITED_STATES = RegionProfile(
    key="us",
    name="United States, row crops",
    system="us",
    trade="us",
    currency="$",
    alpha=0.10,
    paper="Letter",
    writing="month_first",
    crops_first=("maize", "soybean", "sorghum", "winter_wheat", "sunflower", "dry_bean"),
    units={"density": "/ac", "plants": "plants/ac"},
)
CANADA = RegionProfile(
    key="canada",
    name="Canada",
    system="us",
    trade="canada",
    currency="CA$",
    alpha=0.05,
    paper="Letter",
    writing="comma_day_first",
    crops_first=("oilseed_rape", *_SMALL_GRAINS, "field_pea", "soybean", "maize"),
    units={
        "nutrient_rate": "kg/ha",
        "temperature": "C",
        "heat": "C.d",
        "rain": "mm",
        "test_weight": "kg/hL",
        "seed_mass": "g/1000",
        "catch": "g",
        "fuel": "L/ac",
        "fuel_price": "money/L",
    },
)
REGIONS = (EUROPE, UNITED_STATES, CANADA)
BY_KEY = {region.key: region for region in REGIONS}
SYSTEM_REGION: dict[System, RegionProfile] = {"metric": EUROPE, "us": UNITED_STATES}


def find_region(key: str) -> RegionProfile:
    """The profile named ``key``; refuses ``unknown_choice``."""
    if key not in BY_KEY:
        raise Refusal("unknown_choice", field="region", label="Region", value=key, limit=", ".join(BY_KEY))
    return BY_KEY[key]


def region_profile(key: str, changes: Mapping[str, Any] | None = None) -> RegionProfile:
    """A profile with what people changed of it.

    Parameters
    ----------
    key : of ``REGIONS``.
    changes : any of ``units`` (code by kind of quantity), ``alpha``, ``paper``, ``writing``, ``crops_first`` (keys in order).

    Raises
    ------
    Refusal : ``unknown_choice``, ``unknown_unit``, ``too_small``/``too_large`` for ``alpha``.

    Examples
    --------
    >>> here = region_profile("canada", {"units": {"temperature": "F"}, "paper": "A4"})
    >>> here.units_for(None)["temperature"], here.paper
    ('F', 'A4')
    """
    base, wanted = find_region(key), dict(changes or {})
    chosen: Mapping[str, str] = wanted.pop("units", None) or {}
    for kind, code in chosen.items():
        if kind not in KINDS:
            raise Refusal("unknown_choice", field="units", label="Quantity", value=kind[:40], limit=", ".join(KINDS))
        if kind in CROP_KINDS and find_unit(KINDS[kind][0], code, field="units").bushel:
            raise Refusal("unit_by_crop", field="units", value=code)
        find_unit(KINDS[kind][0], code, field="units")
    paper = wanted.pop("paper", None) or base.paper
    if paper not in PAPERS:
        raise Refusal("unknown_choice", field="paper", label="Paper", value=paper, limit=", ".join(PAPERS))
    crops_first = tuple(wanted.pop("crops_first", None) or base.crops_first)
    known = {profile.key for profile in PROFILES}
    for item in crops_first:
        if item not in known or crops_first.count(item) > 1:
            raise Refusal("unknown_choice", field="crops_first", label="Crop", value=item, limit=", ".join(sorted(known)))
    alpha = wanted.pop("alpha", None)
    writing = find_writing(wanted.pop("writing", None) or base.writing).key
    if wanted:
        raise Refusal(
            "unknown_choice", field="region", value=next(iter(wanted)), limit="units, alpha, paper, writing, crops_first"
        )
    return RegionProfile(
        key=base.key,
        name=base.name,
        system=base.system,
        trade=base.trade,
        currency=base.currency,
        alpha=base.alpha if alpha is None else require_between(float(alpha), 0.001, 0.5, "alpha", label="Significance level"),
        paper=paper,
        writing=writing,
        crops_first=crops_first,
        units={**base.units, **chosen},
        changed=frozenset(chosen),
    )
