"""The same strips measured again and again: what they went through, in one number each.

The area under the curve of a strip is that of the straight lines between its visits (trapezoids), as for disease over a season
[1]. Divided by the days it spans it is the mean level over that time, in the unit of what was measured, and comparable between
trials of different length. Dates of one strip are no replicates: treatments are compared in the one number of each strip.
Whether differences change from date to date is asked of all values at once, with strips random
(``stats.repeated.changes_over``).

Reference: [1] Shaner & Finney (1977) Phytopathology 67:1051–1056; Madden, Hughes & van den Bosch (2007) The Study of Plant
Disease Epidemics, ch. 4 (both from memory).
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from cultrix_core.errors import Refusal, require_finite

LEAST_VISITS = 2


def area_under(days: Sequence[float], values: Sequence[float]) -> float:
    """Area under straight lines between visits, unit × days.

    Parameters
    ----------
    days : k days from any start, any order. values : k values, one a day.

    Raises
    ------
    Refusal : ``missing`` with fewer than two visits, ``duplicate`` day, ``lengths_differ``, ``not_finite``.

    Examples
    --------
    >>> area_under([0, 10, 20], [0, 10, 40])
    300.0
    """
    if len(days) != len(values):
        raise Refusal("lengths_differ", field="values", label="Values", value=len(values), limit=len(days))
    if len(days) < LEAST_VISITS:
        raise Refusal("missing", field="days", label="A second visit", remedy="A course needs two visits or more.")
    for value in (*days, *values):
        require_finite(float(value), "values")
    order = np.argsort(days)
    x, y = np.asarray(days, dtype=float)[order], np.asarray(values, dtype=float)[order]
    if np.any(np.diff(x) == 0):
        raise Refusal("duplicate", field="days", value="the same day", remedy="Put the values of a day together.")
    return float(np.trapezoid(y, x))


def mean_level(days: Sequence[float], values: Sequence[float]) -> float:
    """Area under the curve over the days it spans: the mean level, in the unit of the values; refuses as ``area_under``."""
    return area_under(days, values) / (max(days) - min(days))
