"""Calculators that stand on their own: described inputs in, a working out.

Screen and test run the very same arithmetic: each ``Calculator`` names its inputs with their dimension, callers parse
typed text to canonical values and get a ``Working`` back.
"""

from __future__ import annotations

from cultrix_core.calculators import estimate, general, handbook, machines, planting, seed, stand
from cultrix_core.calculators.inputs import Calculator, Input, read
from cultrix_core.errors import Refusal

__all__ = ["CALCULATORS", "GROUPS", "Calculator", "Input", "calculator", "read"]

GROUPS: tuple[tuple[str, tuple[Calculator, ...]], ...] = (
    ("Seed", seed.CALCULATORS),
    ("Drill and bed", planting.CALCULATORS),
    ("Stand and season", stand.CALCULATORS),
    ("Yield before harvest", (*estimate.CALCULATORS, *handbook.CALCULATORS)),
    ("Rows, money, loads", general.CALCULATORS),
    ("Passes and machines", machines.CALCULATORS),
)
CALCULATORS: tuple[Calculator, ...] = tuple(entry for _, entries in GROUPS for entry in entries)
_BY_KEY = {calculator.key: calculator for calculator in CALCULATORS}


def calculator(key: str) -> Calculator:
    """The calculator named ``key``; refuses ``unknown_choice``."""
    if key not in _BY_KEY:
        raise Refusal("unknown_choice", field="calculator", value=key, limit=", ".join(_BY_KEY))
    return _BY_KEY[key]
