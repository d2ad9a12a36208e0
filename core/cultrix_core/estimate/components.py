"""Yield from its components, in the trade's own forms.

Ears (acre form): bu/ac = ears in 1/1000 ac × kernel rows × kernels per row × factor, the factor being
1000 ÷ kernels per bushel (stressed 0.009 – usual about 0.011 – excellent 0.013: common practice, no
source). Pods: bu/ac = pods in 1/10 000 ac × seeds per pod ÷ (seeds per lb × 60 / 10 000). Sunflower:
seeds per head = π/4 (D² − d²) × filled seeds per cm². The metric forms are in ``methods`` and ``propagate``.
"""

from __future__ import annotations

import math

from cultrix_core.errors import Refusal, require_between, require_positive

POUNDS_PER_BUSHEL_OF_PODS_CROP = 60


def ears_bu_per_ac(*, ears_in_thousandth: float, kernel_rows: float, kernels_per_row: float, factor: float) -> float:
    """Maize by ears in 1/1000 acre; bu/ac. ``factor`` between 0.005 and 0.02."""
    require_positive(ears_in_thousandth, "ears_in_thousandth")
    require_positive(kernel_rows, "kernel_rows")
    require_positive(kernels_per_row, "kernels_per_row")
    require_between(factor, 0.005, 0.02, "factor", label="Weight factor")
    return ears_in_thousandth * kernel_rows * kernels_per_row * factor


def kernels_per_bushel(factor: float) -> float:
    """1000 ÷ factor, and the same back."""
    return 1000 / require_positive(factor, "factor")


def pods_bu_per_ac(*, pods_in_ten_thousandth: float, seeds_per_pod: float, seeds_per_lb: float) -> float:
    """Soybean by pods in 1/10 000 acre; bu/ac of a 60-lb bushel."""
    require_positive(pods_in_ten_thousandth, "pods")
    require_between(seeds_per_pod, 0.1, 10, "seeds_per_pod")
    require_positive(seeds_per_lb, "seeds_per_lb")
    return pods_in_ten_thousandth * seeds_per_pod / (seeds_per_lb * POUNDS_PER_BUSHEL_OF_PODS_CROP / 10_000)


def disc_seeds(*, diameter_cm: float, empty_centre_cm: float, filled_per_cm2: float) -> float:
    """Filled seeds on a sunflower disc with an empty centre; refuses a centre as wide as the disc."""
    require_positive(diameter_cm, "diameter", unit=" cm")
    require_between(empty_centre_cm, 0, 1e3, "empty_centre", unit=" cm")
    require_positive(filled_per_cm2, "filled_per_cm2")
    if empty_centre_cm >= diameter_cm:
        raise Refusal(
            "too_large",
            field="empty_centre",
            value=f"{empty_centre_cm:g}",
            limit=f"{diameter_cm:g}",
            unit=" cm",
            remedy="The empty centre must be smaller than the disc.",
        )
    return math.pi / 4 * (diameter_cm**2 - empty_centre_cm**2) * filled_per_cm2
