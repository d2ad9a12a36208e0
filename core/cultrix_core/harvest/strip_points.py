"""Strip yields from a cleaned log: readings wholly inside a strip, weighed by the ground they cover.

A reading is inside when its middle lies within the strip by at least a margin. Strip yield = grain ÷ ground over its
readings. Readings along a strip resemble each other, so the standard error counts them as n (1 − r) ÷ (1 + r), r being the
correlation of neighbouring readings [1]; and even so it is the error of the strip's own mean, not of the treatment: strips
are the replicates, readings never are.

Reference: [1] Bayley & Hammersley (1946) J. R. Stat. Soc. Suppl. 8:184–197, effective number of autocorrelated
observations, first-order form (from memory).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

import numpy as np
import shapely
from numpy.typing import NDArray

from cultrix_core.errors import Refusal, require_between
from cultrix_core.harvest.cleaning import Cleaned
from cultrix_core.harvest.loads import to_standard_moisture
from cultrix_core.harvest.yield_log import Array, YieldLog

Points = Sequence[tuple[float, float]]
LEAST_READINGS = 5


@dataclass(frozen=True, slots=True, kw_only=True)
class StripPoints:
    """Readings of one strip. ``yield_kg_per_ha`` at standard moisture where moisture is known; None with too few."""

    readings: int
    area_m2: float
    yield_kg_per_ha: float | None
    se_kg_per_ha: float | None
    effective: float | None
    moisture_pct: float | None


def inside(log: YieldLog, ring: Points, *, margin_m: float) -> NDArray[np.bool_]:
    """Readings inside a ring (corners in m) by at least a margin on every side.

    Raises
    ------
    Refusal : ``bad_geometry`` for an outline that crosses itself, limits of the margin.
    """
    require_between(margin_m, 0, 1e3, "margin", label="Inner margin", unit=" m")
    shape = shapely.Polygon(ring)
    if not shape.is_valid or shape.area <= 0:
        raise Refusal(
            "bad_geometry", field="strip", label="The strip", value="its outline crosses itself", remedy="Draw it anew."
        )
    inner = shape.buffer(-max(margin_m, 1e-9), join_style="mitre")
    array = np.zeros(len(log), dtype=bool)
    if inner.is_empty:
        return array
    left, low, right, high = inner.bounds
    near = np.flatnonzero((log.x_m >= left) & (log.x_m <= right) & (log.y_m >= low) & (log.y_m <= high))
    if len(near):
        shapely.prepare(inner)
        array[near] = shapely.contains_xy(inner, log.x_m[near], log.y_m[near])
    return array


def strip_of_points(
    log: YieldLog, cleaned: Cleaned, within: NDArray[np.bool_], *, standard_moisture_pct: float | None
) -> StripPoints:
    """Yield of a strip from the readings inside it that still stand."""
    chosen = np.flatnonzero(within & cleaned.keep & (cleaned.area_m2 > 0))
    area = float(cleaned.area_m2[chosen].sum())
    if len(chosen) < LEAST_READINGS:
        return StripPoints(
            readings=len(chosen), area_m2=area, yield_kg_per_ha=None, se_kg_per_ha=None, effective=None, moisture_pct=None
        )
    yields, weights = cleaned.yield_kg_per_ha[chosen], cleaned.area_m2[chosen]
    moisture = cleaned.moisture_pct[chosen]
    known = np.isfinite(moisture)
    wet = float(np.average(moisture[known], weights=weights[known])) if known.any() else None
    factor = 1.0
    if wet is not None and standard_moisture_pct is not None:
        factor = to_standard_moisture(1.0, moisture_pct=wet, standard_pct=standard_moisture_pct)
    effective = effective_number(yields[np.argsort(log.time_s[chosen])])
    return StripPoints(
        readings=len(chosen),
        area_m2=area,
        yield_kg_per_ha=factor * float(np.average(yields, weights=weights)),
        se_kg_per_ha=factor * float(np.std(yields, ddof=1)) / sqrt(effective),
        effective=effective,
        moisture_pct=wet,
    )


def effective_number(values: Array) -> float:
    """How many independent values a row of neighbouring ones is worth; at least 2, at most as many as there are."""
    n = len(values)
    centred = values - values.mean()
    below = float((centred**2).sum())
    if n < 3 or below == 0:
        return float(n)
    r = min(max(float((centred[1:] * centred[:-1]).sum()) / below, 0.0), 0.99)
    return float(min(max(n * (1 - r) / (1 + r), 2.0), n))
