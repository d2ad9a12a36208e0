"""What a crop brings to an estimate: methods, the range of grain weight, what is usually found. Defaults, never limits.

The values stand with each crop in ``cultrix_core.crops``; a workspace sets its own. Thousand-seed weights are at standard
moisture.
"""

from __future__ import annotations

from cultrix_core.crops import crop
from cultrix_core.crops.profile import EstimateDefaults


def estimate_defaults(key: str) -> EstimateDefaults:
    """Defaults of a crop; refuses one not known."""
    return crop(key).estimate
