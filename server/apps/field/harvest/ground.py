"""The ground a load was cut from: one rule for yields, pieces per area and calibration."""

from __future__ import annotations

from apps.field.harvest.models import HarvestLoad


def area_of(load: HarvestLoad) -> float | None:
    """Swath × length × passes of a weighed load in m²; None for a stated yield or where a size is not known."""
    if load.method != "weighed" or not load.swath_width.value or not load.length.value:
        return None
    return load.swath_width.value * load.length.value * (load.passes or 1)
