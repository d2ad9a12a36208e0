"""The ground a load was cut from: one rule for yields, pieces per area and calibration."""

from __future__ import annotations

from apps.field.harvest.models import HarvestLoad


def area_of(load: HarvestLoad) -> float | None:
    """Swath × length × passes of a weighed load in m²; None for a stated yield or where a size is not known."""
    if load.method != "weighed" or not load.swath_width_m or not load.length_m:
        return None
    return load.swath_width_m * load.length_m * (load.passes or 1)
