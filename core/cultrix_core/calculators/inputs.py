"""How a calculator of the bench describes its inputs.

Callers parse typed text by an input's ``dimension``: a dimension of ``units``, "number", "choice" or "text"; with
``several`` the text holds more than one value. Missing optional inputs arrive as None. The crop's key arrives as
``values["crop"]`` where ``needs_crop``.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from cultrix_core.errors import Refusal
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.units import parse_number, parse_quantity
from cultrix_core.working import Working

Values = Mapping[str, Any]

MOST_VALUES = 60
MOST_LETTERS = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class Input:
    """One input with an example, text and unit, for either system; ``choices`` are pairs of key and words."""

    name: str
    label: str
    dimension: str
    metric: tuple[str, str]
    us: tuple[str, str]
    choices: tuple[tuple[str, str], ...] = ()
    several: bool = False
    optional: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Calculator:
    """A calculator of the bench."""

    key: str
    title: str
    purpose: str
    inputs: tuple[Input, ...]
    run: Callable[[Values, UnitFormatter], Working]
    needs_crop: bool = False


def number(name: str, label: str, example: str, *, several: bool = False, optional: bool = False) -> Input:
    """A plain number."""
    return Input(
        name=name, label=label, dimension="number", metric=(example, ""), us=(example, ""), several=several, optional=optional
    )


def of(
    name: str,
    label: str,
    dimension: str,
    metric: tuple[str, str],
    us: tuple[str, str],
    *,
    several: bool = False,
    optional: bool = False,
) -> Input:
    """A quantity with its unit."""
    return Input(name=name, label=label, dimension=dimension, metric=metric, us=us, several=several, optional=optional)


def percent(name: str, label: str, example: str, *, optional: bool = False) -> Input:
    """A share in percent."""
    return Input(name=name, label=label, dimension="percent", metric=(example, "%"), us=(example, "%"), optional=optional)


def choice(name: str, label: str, *choices: tuple[str, str]) -> Input:
    """One of some words; the first is the example."""
    first = (choices[0][0], "")
    return Input(name=name, label=label, dimension="choice", metric=first, us=first, choices=choices)


def words(name: str, label: str, example: str) -> Input:
    """A name in words, which may stay empty."""
    return Input(name=name, label=label, dimension="text", metric=(example, ""), us=(example, ""), optional=True)


def whole(values: Values, name: str) -> int:
    """A value that must be a whole number; refuses ``not_a_count``."""
    return whole_number(values[name], name)


def whole_number(value: float, name: str) -> int:
    """A number that must be whole; refuses ``not_a_count``."""
    if value != int(value):
        raise Refusal("not_a_count", field=name, value=f"{value:g}")
    return int(value)


def read(entry: Calculator, typed: Mapping[str, tuple[str, str]], *, bushel_kg: float | None = None) -> dict[str, Any]:
    """Typed texts and units as the values a calculator runs on.

    Raises
    ------
    Refusal : ``missing``, ``unknown_choice``, ``too_large`` number of values, those of parsing a number or quantity.
    """
    return {item.name: _value(item, *typed.get(item.name, ("", "")), bushel_kg) for item in entry.inputs}


def _value(item: Input, text: str, unit: str, bushel_kg: float | None) -> Any:
    text = text.strip()
    if not text:
        if item.optional:
            return None
        raise Refusal("missing", field=item.name, label=item.label, remedy="Type a value.")
    if item.dimension == "choice":
        if text not in dict(item.choices):
            known = ", ".join(key for key, _ in item.choices)
            raise Refusal("unknown_choice", field=item.name, label=item.label, value=text, limit=known)
        return text
    if item.dimension == "text":
        return text[:MOST_LETTERS]
    if not item.several:
        return _number(item, text, unit, bushel_kg)
    parts = text.replace(";", " ").replace(", ", " ").split()
    if len(parts) > MOST_VALUES:
        raise Refusal("too_large", field=item.name, label=f"{item.label}: values", value=len(parts), limit=MOST_VALUES)
    return [_number(item, part, unit, bushel_kg) for part in parts]


def _number(item: Input, text: str, unit: str, bushel_kg: float | None) -> float:
    if item.dimension == "number":
        return parse_number(text, field=item.name, label=item.label)
    return parse_quantity(text, item.dimension, unit, field=item.name, label=item.label, bushel_kg=bushel_kg)
