"""Dry matter, residue and mixtures of two crops.

Dry matter: dried ÷ wet weight of a sub-sample. Residue used: before less after, both as dry matter per area.
Land-equivalent ratio [1]: yield of each crop in the mixture over its yield alone, added up; above 1 the mixture makes
more of the land than the two crops side by side. Its standard error follows from those of the four yields by the delta
method, taken as independent:  Var(a/b) = (a/b)² (CV²(a) + CV²(b)).

Reference: [1] Willey (1979) Field Crop Abstracts 32:1–10 (from memory).
"""

from __future__ import annotations

from dataclasses import dataclass
from math import hypot, inf, sqrt

from cultrix_core.errors import Refusal, require_between, require_positive


@dataclass(frozen=True, slots=True, kw_only=True)
class Yielded:
    """A mean yield in any unit per area, with its standard error in the same unit and degrees of freedom."""

    mean: float
    se: float = 0.0
    df: float = inf


@dataclass(frozen=True, slots=True, kw_only=True)
class LandEquivalent:
    """Partial ratios of the main and the companion crop, their sum, and its standard error."""

    main: float
    companion: float
    se: float

    @property
    def total(self) -> float:
        """The land-equivalent ratio."""
        return self.main + self.companion


def dry_matter_frac(*, wet_kg: float, dry_kg: float) -> float:
    """Dry matter as a fraction, from one sub-sample; refuses a sample that gained weight in drying."""
    require_positive(wet_kg, "dm_wet", label="Sub-sample before drying")
    require_positive(dry_kg, "dm_dry", label="Sub-sample dried")
    if dry_kg > wet_kg:
        raise Refusal(
            "too_large",
            field="dm_dry",
            label="Dried weight",
            value=f"{1000 * dry_kg:g}",
            limit=f"{1000 * wet_kg:g}",
            unit=" g",
            remedy="It weighed less before drying. Were the two swapped, or the bag left on?",
        )
    return dry_kg / wet_kg


def land_equivalent_ratio(
    *, mixed_main: Yielded, alone_main: Yielded, mixed_companion: Yielded, alone_companion: Yielded
) -> LandEquivalent:
    """Land-equivalent ratio with its standard error.

    Raises
    ------
    Refusal : ``not_positive`` for a yield alone that is 0 or less, ``too_small`` for a negative yield in the mixture.
    """
    parts = []
    for name, label, mixed, alone in (
        ("alone_main", "The main crop alone", mixed_main, alone_main),
        ("alone_companion", "The companion alone", mixed_companion, alone_companion),
    ):
        require_positive(alone.mean, name, label=label)
        require_between(mixed.mean, 0, 1e9, name.replace("alone", "mixed"), label=f"{label}, in the mixture")
        ratio = mixed.mean / alone.mean
        parts.append((ratio, hypot(mixed.se / alone.mean, ratio * alone.se / alone.mean)))
    return LandEquivalent(main=parts[0][0], companion=parts[1][0], se=sqrt(sum(error**2 for _, error in parts)))


def residue_used_frac(*, before: float, after: float) -> float:
    """Share of the residue gone between two cuts, in fractions; negative where more was found after than before."""
    require_positive(before, "before", label="Residue before grazing")
    require_between(after, 0, 1e9, "after", label="Residue after grazing")
    return 1 - after / before
