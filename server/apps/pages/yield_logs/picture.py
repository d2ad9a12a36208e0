"""A log thinned for drawing: strips lie across the page, every dropped reading is as likely to be drawn as the others."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from apps.base.errors import NotFound
from apps.field.logs import cleaning, files
from apps.field.logs.models import YieldLog
from apps.field.logs.schemas import LogPictureOut, OutlineOut
from apps.trial_state.view import TrialView

MOST_DRAWN = 6_000
TONES = (0.02, 0.98)  # quantiles of the yields left that span the tones


def picture_of(view: TrialView, log: YieldLog) -> LogPictureOut:
    """Readings of the last finished work, in m along and across the strips."""
    path = files.points_path(log.result_hash) if log.result_hash else None
    if path is None or not path.exists():
        raise NotFound
    with np.load(path) as points:
        places = np.column_stack([points["x_m"], points["y_m"]]).astype(float)
        dropped, yields = points["dropped_by"].astype(int), points["yield_kg_per_ha"].astype(float)
    rings = cleaning.rings_of(view.trial)
    along = _along(next(iter(rings.values())))
    turn = np.array([along, [-along[1], along[0]]])
    chosen = _thinned(dropped)
    turned = places[chosen] @ turn.T
    return LogPictureOut(
        outlines=[
            OutlineOut(
                order=strip.order,
                letter=strip.received.letter,
                ring=[[round(float(value), 1) for value in corner] for corner in np.asarray(rings[str(strip.id)]) @ turn.T],
            )
            for strip in view.strips
        ],
        along=[round(float(value), 1) for value in turned[:, 0]],
        across=[round(float(value), 1) for value in turned[:, 1]],
        dropped=[int(item) for item in dropped[chosen]],
        tone=_tones(yields, dropped == 0)[chosen].round(2).tolist(),
        drawn=len(chosen),
        of=len(dropped),
    )


def _along(ring: list[tuple[float, float]]) -> NDArray[np.float64]:
    sides = [np.subtract(ring[place], ring[place - 1]) for place in range(len(ring))]
    longest = max(sides, key=lambda side: float(np.hypot(*side)))
    array: NDArray[np.float64] = longest / np.hypot(*longest)
    return array if array[0] >= 0 else -array


def _thinned(dropped: NDArray[Any]) -> NDArray[np.int64]:
    """Every so many readings that stand, and every so many that are dropped, a fair half of the points each."""
    parts = []
    for array in (np.flatnonzero(dropped == 0), np.flatnonzero(dropped > 0)):
        parts.append(array[:: max(int(np.ceil(len(array) / (MOST_DRAWN / 2))), 1)])
    return np.concatenate(parts).astype(np.int64)


def _tones(yields: NDArray[np.float64], stands: NDArray[np.bool_]) -> NDArray[np.float64]:
    """0 for the lowest yields, 1 for the highest that stand."""
    left = yields[stands & np.isfinite(yields)]
    if not len(left):
        return np.zeros(len(yields))
    low, high = np.quantile(left, TONES)
    return np.clip(np.nan_to_num((yields - low) / max(high - low, 1e-9)), 0, 1)
