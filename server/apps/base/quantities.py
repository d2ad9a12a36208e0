"""Measured quantities as the database keeps them: typed text, unit, and the value computed from the two.

A quantity called ``swath_width`` with value column ``swath_width_m`` has the columns
``swath_width_typed``, ``swath_width_unit`` and ``swath_width_m``. What was typed is never rewritten.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from cultrix_core.errors import Refusal
from cultrix_core.typed_limits import TypedValue
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.units import parse_quantity
from django.db import models
from ninja import Schema

from apps.base.typed_values import remember


class TypedIn(Schema):
    """A quantity as a person typed it. Empty text clears it."""

    text: str = ""
    unit: str = ""


class TypedOut(Schema):
    """What was typed, and the same in the reader's units."""

    text: str
    unit: str
    shown: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Quantity:
    """Describes one quantity of a model."""

    name: str
    suffix: str
    dimension: str
    kind: str
    label: str

    @property
    def value_column(self) -> str:
        return f"{self.name}_{self.suffix}"


def typed_column() -> models.CharField[Any, Any]:
    """The text as it was typed."""
    return models.CharField(max_length=24, blank=True, default="")


def unit_column() -> models.CharField[Any, Any]:
    """The unit it was typed in."""
    return models.CharField(max_length=12, blank=True, default="")


def value_column() -> models.FloatField[Any, Any]:
    """The value in the unit its name carries."""
    return models.FloatField(null=True, blank=True)


def parse(quantity: Quantity, typed: TypedIn | None, *, bushel_kg: float | None = None) -> float | None:
    """Canonical value of what was typed, None when empty."""
    if typed is None or not typed.text.strip():
        return None
    if len(typed.text.strip()) > 24:
        raise Refusal("not_a_number", field=quantity.name, label=quantity.label, value=typed.text.strip()[:30] + "…")
    value = parse_quantity(
        typed.text, quantity.dimension, typed.unit, field=quantity.name, label=quantity.label, bushel_kg=bushel_kg
    )
    remember(
        quantity.name,
        TypedValue(
            text=typed.text.strip(), dimension=quantity.dimension, unit=typed.unit, canonical=value, bushel_kg=bushel_kg
        ),
    )
    return value


def fill(
    record: models.Model,
    quantity: Quantity,
    typed: TypedIn | None,
    *,
    bushel_kg: float | None = None,
    value: float | None = None,
) -> None:
    """Set the three columns. ``value`` overrides the conversion for units that need more than a factor."""
    computed = value if value is not None else parse(quantity, typed, bushel_kg=bushel_kg)
    empty = computed is None or typed is None
    setattr(record, f"{quantity.name}_typed", "" if empty or typed is None else typed.text.strip())
    setattr(record, f"{quantity.name}_unit", "" if empty or typed is None else typed.unit)
    setattr(record, quantity.value_column, computed)


def out(record: models.Model, quantity: Quantity, show: UnitFormatter) -> TypedOut:
    """The quantity for an answer."""
    value = getattr(record, quantity.value_column)
    return TypedOut(
        text=getattr(record, f"{quantity.name}_typed"),
        unit=getattr(record, f"{quantity.name}_unit"),
        shown=None if value is None else show.text(value, quantity.kind),
    )


def typed(record: models.Model, quantity: Quantity) -> TypedIn:
    """The quantity as it was typed."""
    return TypedIn(text=getattr(record, f"{quantity.name}_typed"), unit=getattr(record, f"{quantity.name}_unit"))


def required(record: Any, quantity: Quantity) -> float:
    value: float | None = getattr(record, quantity.value_column)
    if value is None:
        raise Refusal(
            "missing", field=quantity.name, label=quantity.label, remedy="It is needed to reckon the area or the weight."
        )
    return value
