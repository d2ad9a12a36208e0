"""Strips across a rectangular field: where each one lies, and whether they fit.

The field is a rectangle, ``field_width_m`` across the driving direction and ``field_length_m`` along it.
Strips lie side by side from one edge, full length less a headland at both ends.
"""

from __future__ import annotations

from dataclasses import dataclass

from cultrix_core.errors import Refusal, require_positive


@dataclass(frozen=True, slots=True, kw_only=True)
class StripFit:
    """How the strips lie: total width taken, width left over and harvestable length, in metres."""

    strips: int
    taken_m: float
    left_over_m: float
    length_m: float


def fit_strips(
    *, strips: int, strip_width_m: float, strip_length_m: float, field_width_m: float, field_length_m: float
) -> StripFit:
    """Check that the strips fit the rectangle.

    Raises
    ------
    Refusal : ``not_positive``; ``does_not_fit`` naming the number of strips or the length that would fit.
    """
    require_positive(strip_width_m, "strip_width", unit=" m")
    require_positive(strip_length_m, "strip_length", unit=" m")
    require_positive(field_width_m, "field_width", unit=" m")
    require_positive(field_length_m, "field_length", unit=" m")
    taken = strips * strip_width_m
    if taken > field_width_m * (1 + 1e-9):
        most = int(field_width_m / strip_width_m * (1 + 1e-12))
        raise Refusal(
            "does_not_fit",
            field="strip_width",
            label=f"{strips} strips, together",
            value=f"{taken:g}",
            limit=f"the field's width of {field_width_m:g} m",
            unit=" m",
            remedy=f"At this width {most} strips fit: take fewer blocks or narrower strips.",
        )
    if strip_length_m > field_length_m * (1 + 1e-9):
        raise Refusal(
            "does_not_fit",
            field="strip_length",
            label="Strip length",
            value=f"{strip_length_m:g}",
            limit=f"the field's length of {field_length_m:g} m",
            unit=" m",
            remedy="Shorten the strips; headlands are cut off at both ends.",
        )
    return StripFit(strips=strips, taken_m=taken, left_over_m=field_width_m - taken, length_m=strip_length_m)
