"""Measured quantities as the database keeps them: typed text, unit, and the value computed from the two.

A quantity called ``swath_width`` with value column ``swath_width_m`` has the columns
``swath_width_typed``, ``swath_width_unit`` and ``swath_width_m``. What was typed is never rewritten.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, overload

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


@dataclass(frozen=True, slots=True)
class MeasuredValue:
    """A measured value as it stands in a row: the text as typed, its unit, and the value in the unit of the column's name."""

    text: str
    unit: str
    value: float | None


class Measured:
    """The columns of one measured value: ``length = Measured(STRIP_LENGTH)``.

    Gives the model the columns ``length_typed``, ``length_unit`` and ``length_m``, by which rows are made and asked for, and
    the attribute ``length``, which reads and sets the three together: ``strip.length.value``. ``fill`` sets them from what was
    typed.

    Parameters
    ----------
    quantity : what is measured; or only the end of the value column's name, where the row itself says what it is of.
    """

    def __init__(self, quantity: Quantity | str) -> None:
        self.quantity = quantity if isinstance(quantity, Quantity) else None
        self.suffix = quantity.suffix if isinstance(quantity, Quantity) else quantity
        self.columns: tuple[models.Field[Any, Any], ...] = (
            models.CharField(max_length=24, blank=True, default=""),
            models.CharField(max_length=12, blank=True, default=""),
            models.FloatField(null=True, blank=True),
        )

    def contribute_to_class(self, model: type[models.Model], name: str, private_only: bool = False) -> None:  # noqa: ARG002
        """Django calls this for whatever stands in the body of a model."""
        if self.quantity is not None and self.quantity.name != name:
            raise ValueError(f"{model.__name__}.{name} cannot hold what is called {self.quantity.name}")
        self.names = (f"{name}_typed", f"{name}_unit", f"{name}_{self.suffix}")
        for column_name, column in zip(self.names, self.columns, strict=True):
            column.contribute_to_class(model, column_name)
        setattr(model, name, self)

    @overload
    def __get__(self, row: None, model: type[models.Model]) -> Measured: ...

    @overload
    def __get__(self, row: models.Model, model: type[models.Model]) -> MeasuredValue: ...

    def __get__(self, row: models.Model | None, model: type[models.Model]) -> Measured | MeasuredValue:
        return self if row is None else MeasuredValue(*(getattr(row, name) for name in self.names))

    def __set__(self, row: models.Model, measured: MeasuredValue) -> None:
        for name, part in zip(self.names, (measured.text, measured.unit, measured.value), strict=True):
            setattr(row, name, part)


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
