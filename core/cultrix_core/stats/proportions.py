"""Proportions of known numbers, compared on the logit scale: the strip is the unit, whatever was counted on it.

The empirical logit of a strip with x of n is log((x + ½) ÷ (n − x + ½)) [1]; strips are compared in it as in any response, so
that what varies between strips, not the number counted, decides. A difference of logits is the logarithm of an odds ratio.

Reference: [1] Cox & Snell (1989) Analysis of Binary Data, 2nd ed., §2.1.6 (from memory).
"""

from __future__ import annotations

from math import log

from cultrix_core.errors import require_between, require_finite, require_positive


def empirical_logit(count: float, of: float) -> float:
    """Empirical logit of ``count`` among ``of``.

    Raises
    ------
    Refusal : ``not_positive`` number, ``too_large`` or ``too_small`` count, ``not_finite``.

    Examples
    --------
    >>> empirical_logit(50, 100)
    0.0
    """
    for value in (count, of):
        require_finite(value, "count")
    require_positive(of, "of", label="The number looked at")
    require_between(count, 0, of, "count", label="The count")
    return log((count + 0.5) / (of - count + 0.5))
