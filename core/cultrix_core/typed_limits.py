"""A limit said in the unit that somebody typed: computation is in SI, but 900 bu/ac is refused in bushels.

The sentence of a refusal is made anew with its limit converted into the typed unit, and with the value as it was typed. Where
a unit runs the other way (seeds per pound against grams per thousand), the least becomes the most.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import isclose

from cultrix_core.errors import Refusal
from cultrix_core.units import find_unit, from_canonical

TURNED = {"too_small": "too_large", "too_large": "too_small"}
DIGITS = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class TypedValue:
    """What was typed, and what it was taken for.

    Parameters
    ----------
    text : the number as typed.
    dimension, unit : the dimension and the code of the unit typed.
    canonical : the value in the canonical unit of the dimension.
    bushel_kg : weight of a bushel of the crop in kg, where the unit is one of bushels.
    """

    text: str
    dimension: str
    unit: str
    canonical: float
    bushel_kg: float | None = None


def in_typed_unit(refusal: Refusal, typed: TypedValue) -> Refusal:
    """The same refusal with its limit in the unit typed.

    Unchanged where it is none of a limit, or judges another number than the one typed (a share of it, a sum).

    Examples
    --------
    >>> from cultrix_core.errors import require_between
    >>> typed = TypedValue(text="20", dimension="length", unit="in", canonical=0.508)
    >>> try:
    ...     require_between(0.508, 0.01, 0.25, "depth", unit=" m")
    ... except Refusal as refusal:
    ...     in_typed_unit(refusal, typed).message
    'Depth must be at most 9.843 in; got 20 in.'
    """
    if refusal.numbers is None or refusal.code not in (*TURNED, "not_positive"):
        return refusal
    value, limit = refusal.numbers
    if not isclose(value, typed.canonical, rel_tol=1e-9):
        return refusal
    unit = find_unit(typed.dimension, typed.unit)
    code = TURNED.get(refusal.code, refusal.code) if unit.reciprocal else refusal.code
    params = refusal.params | {"value": typed.text, "unit": f" {unit.label}" if unit.label else ""}
    if refusal.code != "not_positive":
        if unit.reciprocal and limit == 0:
            return refusal
        shown = from_canonical(limit, typed.dimension, typed.unit, bushel_kg=typed.bushel_kg)
        params["limit"] = f"{shown:.{DIGITS}g}" if abs(shown) < 10**DIGITS else f"{shown:.0f}"
    return Refusal(code, field=refusal.field, **params)
