"""Which tables a package of a trial has, and how a field of a model stands in a column.

One table a model, one column a field, ids as they are; what belongs to the workspace (fields of ground, seed lots, machines)
comes along as far as the trial names it. Text that a spreadsheet would take for a formula gets an apostrophe before it, and
loses it when the package is read: ``harmless`` and ``plain`` are each other's inverse.
"""

from __future__ import annotations

import json
import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime
from typing import Any, cast
from uuid import UUID

from django.db import models

from apps.accounts.models import User, Workspace
from apps.analysis.economics.models import MoneyPlan, Scenario
from apps.exchange.csv_files import harmless, plain
from apps.farms.models import Field, Machine, SeedLot
from apps.field.logs.models import HarvestSource
from apps.records.kinds import KINDS
from apps.trials.models import (
    Amendment,
    Block,
    CostLine,
    Covariate,
    Factor,
    LayoutDraw,
    Level,
    Protocol,
    SeasonClosing,
    Sowing,
    Strip,
    Treatment,
    Trial,
)

UNITS = {
    "_kg_per_ha": "kg/ha",
    "_per_ha": "money/ha",
    "_per_t": "money/t",
    "_per_m2": "1/m2",
    "_per_h": "money/h",
    "_m2": "m2",
    "_m": "m",
    "_pct": "%",
    "_kg": "kg",
    "_g": "g",
    "_km_h": "km/h",
    "_kg_hl": "kg/hL",
    "_c": "degC",
    "_money": "money",
    "_kpa": "kPa",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Table:
    """A table: its name, its model, and the way from a row to its trial. ``many``: relations to several rows."""

    name: str
    model: type[models.Model]
    of: str
    many: tuple[str, ...] = ()

    def rows(self, trial: Trial) -> list[models.Model]:
        """The trial's rows, in the order of their ids."""
        if self.model is Trial:
            return [trial]
        return list(self.model._default_manager.filter(**{self.of: trial}).order_by("pk"))


# What the workspace owns and a trial may name: table, model, and what makes two of them the same.
OWNED: tuple[tuple[str, type[models.Model], tuple[str, ...]], ...] = (
    ("fields", Field, ("farm", "name")),
    ("seed_lots", SeedLot, ("crop", "name", "tag")),
    ("machines", Machine, ("name",)),
)
TABLES: tuple[Table, ...] = (
    Table(name="trial", model=Trial, of="pk"),
    Table(name="factors", model=Factor, of="trial"),
    Table(name="levels", model=Level, of="factor__trial"),
    Table(name="cost_lines", model=CostLine, of="level__factor__trial"),
    Table(name="treatments", model=Treatment, of="trial", many=("levels",)),
    Table(name="sowings", model=Sowing, of="trial"),
    Table(name="blocks", model=Block, of="trial"),
    Table(name="strips", model=Strip, of="trial"),
    Table(name="covariate", model=Covariate, of="trial"),
    Table(name="layout_draws", model=LayoutDraw, of="trial"),
    Table(name="protocol", model=Protocol, of="trial"),
    Table(name="amendments", model=Amendment, of="trial"),
    Table(name="season_closings", model=SeasonClosing, of="trial"),
    Table(name="money_plan", model=MoneyPlan, of="trial"),
    Table(name="scenarios", model=Scenario, of="trial"),
    *(Table(name=kind.table, model=kind.model, of=kind.to_trial, many=kind.many) for kind in KINDS.values() if kind.packaged),
    Table(name="harvest_source", model=HarvestSource, of="trial"),
)
NAMES = {model: name for name, model, _ in OWNED} | {table.model: table.name for table in TABLES}


def fields_of(model: type[models.Model]) -> list[models.Field[Any, Any]]:
    """The fields that stand in a package: all but the workspace."""
    return [column_field for column_field in model._meta.concrete_fields if column_field.related_model is not Workspace]


def cell(record: models.Model, field: models.Field[Any, Any]) -> str:
    """A field of a record as text."""
    value = getattr(record, field.attname)
    if value is None:
        return ""
    if field.related_model is User:
        return harmless(cast(User, getattr(record, field.name)).username)
    if isinstance(field, models.JSONField):
        return harmless(json.dumps(value, ensure_ascii=False, sort_keys=True))
    if isinstance(field, models.BooleanField):
        return "true" if value else "false"
    if isinstance(value, datetime):
        return value.astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%S.%fZ")
    if isinstance(value, float):
        return repr(value)
    return harmless(str(value)) if isinstance(value, str) else str(value)


def many_cell(record: models.Model, name: str) -> str:
    """The ids of several related rows as a list."""
    keys = getattr(record, name).values_list("pk", flat=True)
    return json.dumps(sorted(keys if all(isinstance(key, int) for key in keys) else map(str, keys)))


def schema_of(model: type[models.Model], many: Sequence[str], rows: Sequence[models.Model]) -> dict[str, Any]:
    """The Table Schema of a table."""
    keys = []
    described = []
    for field in fields_of(model):
        entry: dict[str, Any] = {"name": field.attname, "type": _type(field, rows)}
        if entry["type"] == "datetime":
            entry["format"] = "%Y-%m-%dT%H:%M:%S.%fZ"
        if field.primary_key or not (field.null or field.blank or _texty(field)):
            entry["constraints"] = {"required": True}
        unit = next((unit for end, unit in UNITS.items() if field.attname.endswith(end)), None)
        if unit and isinstance(field, models.FloatField):
            entry["unit"] = unit
        if field.help_text:
            entry["description"] = str(field.help_text)
        related = field.related_model
        if isinstance(related, type) and related in NAMES and related is not model:
            keys.append({"fields": field.attname, "reference": {"resource": NAMES[related], "fields": "id"}})
        described.append(entry)
    described += [{"name": name, "type": "array", "description": "ids of the rows it goes with"} for name in many]
    return {"fields": described, "primaryKey": "id", "foreignKeys": keys, "missingValues": [""]}


def _texty(field: models.Field[Any, Any]) -> bool:
    return isinstance(field, (models.CharField, models.TextField)) and not field.choices


def _type(field: models.Field[Any, Any], rows: Sequence[models.Model]) -> str:
    if field.related_model is User:
        return "string"
    kind = field.target_field if isinstance(field, models.ForeignKey) else field
    if isinstance(kind, models.JSONField):
        values = [value for row in rows if (value := getattr(row, field.attname)) is not None]
        return "object" if values and all(isinstance(value, dict) for value in values) else "any"
    for form, name in (
        (models.BooleanField, "boolean"),
        (models.IntegerField, "integer"),
        (models.AutoField, "integer"),
        (models.FloatField, "number"),
        (models.DateTimeField, "datetime"),
        (models.DateField, "date"),
    ):
        if isinstance(kind, form):
            return name
    return "string"


def value_of(field: models.Field[Any, Any], text: str) -> Any:
    """What a column of a package holds, as the model takes it; relations stay ids of the package.

    Raises
    ------
    ValueError : text that is no such value.
    """
    kind = field.target_field if isinstance(field, models.ForeignKey) else field
    if text == "" and (field.null or not isinstance(kind, (models.CharField, models.TextField))):
        if field.null:
            return None
        raise ValueError("it is empty")
    if field.related_model is User:
        return plain(text)
    if isinstance(kind, models.JSONField):
        return _finite(json.loads(plain(text)))
    if isinstance(kind, models.UUIDField):
        return UUID(text)
    if isinstance(kind, models.BooleanField):
        if text not in ("true", "false"):
            raise ValueError(f"“{text[:20]}” is neither true nor false")
        return text == "true"
    if isinstance(kind, (models.IntegerField, models.AutoField)):
        return int(text)
    if isinstance(kind, models.FloatField):
        return _finite(float(text))
    if isinstance(kind, models.DateTimeField):
        return datetime.strptime(text, "%Y-%m-%dT%H:%M:%S.%fZ").replace(tzinfo=UTC)
    if isinstance(kind, models.DateField):
        return date.fromisoformat(text)
    return plain(text)


def _finite(value: Any) -> Any:
    """The value, when every number in it is an ordinary one."""
    if isinstance(value, float) and not math.isfinite(value):
        raise ValueError("it holds a number that is not finite")
    if isinstance(value, dict):
        return {key: _finite(item) for key, item in value.items()}
    return [_finite(item) for item in value] if isinstance(value, list) else value
