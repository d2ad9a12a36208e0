"""Names of levels and treatments in the reader's units."""

from __future__ import annotations

from collections.abc import Iterable

from cultrix_core.season.responses import response_of
from cultrix_core.seeding.rates import rate_dimension
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.units import find_unit

from apps.trials.models import Factor, Level, Treatment

# kind of factor: (dimension of its levels, kind of quantity for showing)
FACTOR_DIMENSION = {
    "row_spacing": ("length", "row_spacing"),
    "seeding_rate": ("areal_density", "density"),
    "seeding_depth": ("length", "depth"),
}

LEAST_AMOUNTS = 3  # of a factor that a curve can answer for


def ladder_amounts(factor: Factor, treatments: Iterable[Treatment]) -> list[float]:
    """Amounts that treatments have of a factor, from the lowest; empty unless all have one and a curve can answer."""
    amounts = [
        level.amount.value for treatment in treatments for level in treatment.levels.all() if level.factor_id == factor.pk
    ]
    known = sorted({amount for amount in amounts if amount is not None})
    return known if factor.kind in FACTOR_DIMENSION and None not in amounts and len(known) >= LEAST_AMOUNTS else []


def level_dimension(kind: str, unit: str) -> str:
    """Dimension of a typed level; a seeding rate may be counted, weighed, wanted in plants or in bags."""
    return rate_dimension(unit) if kind == "seeding_rate" else FACTOR_DIMENSION[kind][0]


def level_name(level: Level, show: UnitFormatter) -> str:
    """A level as its reader says it: as typed when the unit is theirs, else converted."""
    kind = level.factor.kind
    if level.amount.value is None or kind not in FACTOR_DIMENSION:
        return level.name
    unit = find_unit(level_dimension(kind, level.amount.unit), level.amount.unit)
    if unit.system in (find_unit(FACTOR_DIMENSION[kind][0], show.unit_code(FACTOR_DIMENSION[kind][1])).system, "both"):
        return f"{level.amount.text} {unit.label}"
    return show.text(level.amount.value, FACTOR_DIMENSION[kind][1])


def treatment_name(treatment: Treatment, show: UnitFormatter) -> str:
    """A treatment's name without its letter: its levels in the order of the factors."""
    return " · ".join(level_name(level, show) for level in treatment.levels.all())


def response_name(key: str) -> str:
    """What a trial is judged by, as a label."""
    return {"yield": "Yield", "net_return": "Net return"}.get(key) or response_of(key).name
