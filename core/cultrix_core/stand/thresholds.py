"""Stands that decide: wanted, thin and dense stands by crop and age of stand, each with its source.

Values are defaults that a workspace may replace with its own. Stands are plants (or shoots) per m². Unless a line says
otherwise: common practice, no source.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from cultrix_core.crops import crop as profile_of
from cultrix_core.crops.profile import PRACTICE, Absent
from cultrix_core.errors import Refusal, require_positive


@dataclass(frozen=True, slots=True, kw_only=True)
class Threshold:
    """One line of a crop: what it says and from where; ``own`` where the workspace has set it."""

    crop: str
    key: str
    label: str
    per_m2: float
    source: str = PRACTICE
    own: bool = False


def thresholds_of(
    crop: str, own: Mapping[str, float] | None = None, sources: Mapping[str, str] | None = None
) -> dict[str, Threshold]:
    """Thresholds of a crop by key; ``own`` values (per m²) replace defaults, with their sources.

    Raises
    ------
    Refusal : ``unknown_choice`` for a key the crop does not have, ``not_positive`` value.
    """
    lines = profile_of(crop).stand_lines
    thresholds = {
        stand_line.key: Threshold(
            crop=crop, key=stand_line.key, label=stand_line.label, per_m2=stand_line.per_m2, source=stand_line.source
        )
        for stand_line in (() if isinstance(lines, Absent) else lines)
    }
    for key, value in (own or {}).items():
        if key not in thresholds:
            raise Refusal("unknown_choice", field="key", label="Threshold", value=key, limit=", ".join(thresholds) or "none")
        require_positive(value, "value", label=thresholds[key].label)
        thresholds[key] = replace(
            thresholds[key], per_m2=value, own=True, source=(sources or {}).get(key, "") or "your own value"
        )
    return thresholds
