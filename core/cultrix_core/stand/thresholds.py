"""Stands that decide: wanted, thin and dense stands by crop and age of stand, each with its source.

Values are defaults that a workspace may replace with its own. Stands are plants (or shoots) per m². Unless a line says
otherwise: common practice, no source.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from cultrix_core.errors import Refusal, require_positive
from cultrix_core.units import ACRE_M2, FT_M

FT2 = FT_M**2
PRACTICE = "common practice, no source"
MEMORY = "from memory, to be replaced by your own"


@dataclass(frozen=True, slots=True, kw_only=True)
class Threshold:
    """One line of a crop: what it says and from where; ``own`` where the workspace has set it."""

    crop: str
    key: str
    label: str
    per_m2: float
    source: str = PRACTICE
    own: bool = False


def _line(crop: str, key: str, label: str, per_m2: float, source: str = PRACTICE) -> Threshold:
    return Threshold(crop=crop, key=key, label=label, per_m2=per_m2, source=source)


DEFAULTS: tuple[Threshold, ...] = (
    _line("oilseed_rape", "wanted_low", "Wanted, from", 5 / FT2),
    _line("oilseed_rape", "wanted_high", "Wanted, to", 7 / FT2),
    _line("oilseed_rape", "thin", "Thin: about 20 % of the yield is lost", 3 / FT2),
    _line("oilseed_rape", "dense", "Too dense", 11 / FT2),
    _line("soybean", "thin", "Keep or replant line, middle of spring", 90_000 / ACRE_M2),
    _line("dry_bean", "wanted_low", "Wanted, large-seeded types", 70_000 / ACRE_M2),
    _line("dry_bean", "wanted_high", "Wanted, small-seeded types", 90_000 / ACRE_M2),
    _line("dry_bean", "wanted_narrow", "Wanted in narrow rows, more than", 115_000 / ACRE_M2),
    _line("lucerne", "seedlings", "Good stand of seedlings, about", 40 / FT2),
    _line("lucerne", "year_end_low", "Left at the end of the seeding year, from", 30 / FT2),
    _line("lucerne", "year_end_high", "Left at the end of the seeding year, to", 35 / FT2),
    _line("lucerne", "young_thin", "One year old: thin under", 7.5 / FT2),
    _line("lucerne", "old_thin", "Old stand: thin under", 2.5 / FT2),
    _line("lucerne", "shoots_full", "Shoots: stand does not limit yield over", 55 / FT2, MEMORY),
    _line("lucerne", "shoots_thin", "Shoots: think of replacing under", 40 / FT2, MEMORY),
)


def thresholds_of(
    crop: str, own: Mapping[str, float] | None = None, sources: Mapping[str, str] | None = None
) -> dict[str, Threshold]:
    """Thresholds of a crop by key; ``own`` values (per m²) replace defaults, with their sources.

    Raises
    ------
    Refusal : ``unknown_choice`` for a key the crop does not have, ``not_positive`` value.
    """
    found = {one.key: one for one in DEFAULTS if one.crop == crop}
    for key, value in (own or {}).items():
        if key not in found:
            raise Refusal("unknown_choice", field="key", label="Threshold", value=key, limit=", ".join(found) or "none")
        require_positive(value, "value", label=found[key].label)
        found[key] = replace(found[key], per_m2=value, own=True, source=(sources or {}).get(key, "") or "your own value")
    return found
