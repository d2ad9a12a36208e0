"""What a strip would be expected to give, by its own treatment and its block: what an odd value is held against.

Treatments are tried because they may differ, so a value is never odd for standing far from other treatments. On logarithms,

    log y = treatment + block,

fitted by least squares to all other strips; what it says of this strip is the expectation. Without another strip of the
treatment nothing is expected. Blocks that hold no other strip count as the middle of the rest.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True, slots=True, kw_only=True)
class Placed:
    """One strip with a value: its treatment and block."""

    treatment: str
    block: str
    value: float


def expected_by_place(others: Sequence[Placed], *, treatment: str, block: str) -> float | None:
    """Value expected of a strip from the other strips; None without another strip of its treatment.

    Parameters
    ----------
    others : the other strips with their values; those that are not above 0 say nothing.
    treatment, block : of the strip asked about.

    Examples
    --------
    >>> rows = [Placed(treatment=t, block=b, value=v) for t, b, v in (("A", "1", 8.0), ("B", "1", 4.0), ("A", "2", 10.0))]
    >>> round(expected_by_place(rows, treatment="B", block="2"), 6)
    5.0
    """
    known = [row for row in others if row.value > 0]
    if not any(row.treatment == treatment for row in known):
        return None
    treatments = list(dict.fromkeys(row.treatment for row in known))
    blocks = list(dict.fromkeys(row.block for row in known))
    x = np.array(
        [[float(row.treatment == name) for name in treatments] + [float(row.block == name) for name in blocks] for row in known]
    )
    y = np.log([row.value for row in known])
    effects = np.linalg.pinv(x) @ y
    of_treatment = effects[treatments.index(treatment)]
    of_blocks = effects[len(treatments) :]
    of_block = of_blocks[blocks.index(block)] if block in blocks else of_blocks.mean()
    return float(np.exp(of_treatment + of_block))
