"""A trial written as a Data Package: tables with schemas, the verdict's numbers, raw logs where they are small enough."""

from __future__ import annotations

import hashlib
import io
import json
import re
import zipfile
from collections.abc import Sequence
from typing import Any
from uuid import UUID

from cultrix_core.stats.compare import Mean
from cultrix_core.stats.factor_comparison import FactorComparison
from cultrix_core.stats.families import CellMean
from django.conf import settings
from django.db import models
from django.utils.text import slugify

from apps.analysis.verdict.comparisons import treated_cells
from apps.analysis.verdict.decisions import decisions_for
from apps.analysis.verdict.queries import computed
from apps.exchange.csv_files import guarded_text, harmless
from apps.exchange.package.tables import OWNED, TABLES, cell, fields_of, many_cell, schema_of
from apps.field.logs.files import path_of
from apps.trial_state.view import TrialView
from apps.trials.models import Treatment, Trial

FORMAT = 1
ID = re.compile(r"[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}")
STAMP = (2020, 1, 1, 0, 0, 0)  # a fixed time, so that the same trial gives the same bytes
README = """A trial as a Frictionless Data Package: datapackage.json describes every table with types, units and relations.
Columns ending in _typed and _unit hold what was typed, the column after them the value in the unit of its name.
Text beginning with an apostrophe was given it so that no spreadsheet runs it as a formula; it is no part of the text.
Photographs and histories are not in the package. verdict_means and verdict_differences are computed, not read back.
"""


def package_of(view: TrialView) -> bytes:
    """The package as a zip."""
    files: dict[str, bytes] = {"README.txt": README.encode()}
    resources = []
    tables = [(table.name, table.model, table.many, table.rows(view.trial)) for table in TABLES]
    for name, model, _ in OWNED:
        resources.append(_resource(files, name, model, (), _named(model, [row for table in tables for row in table[3]])))
    for name, model, many, rows in tables:
        resources.append(_resource(files, name, model, many, rows))
    resources += [_computed(files, *item) for item in _verdict(view)]
    left = _logs(files, view)
    package = {
        "profile": "data-package",
        "name": slugify(view.trial.title)[:60] or "trial",
        "title": view.trial.title,
        "description": README,
        "currency": view.trial.workspace.currency,
        "cultrix": {"format": FORMAT, "raw_logs_left_out": left, "data": computed(view).fingerprint},
        "resources": resources,
    }
    files = {"datapackage.json": json.dumps(package, indent=1, ensure_ascii=False).encode(), **files}
    return _zip(files)


def _zip(files: dict[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in files.items():
            entry = zipfile.ZipInfo(name, STAMP)
            entry.compress_type = zipfile.ZIP_DEFLATED
            archive.writestr(entry, content)
    return out.getvalue()


def _named(model: type[models.Model], rows: Sequence[models.Model]) -> list[models.Model]:
    """What these rows name of the workspace's own, by relation or by an id inside a plan."""
    keys = {getattr(row, field.attname) for row in rows for field in row._meta.concrete_fields if field.related_model is model}
    plans = [row.plan for row in rows if isinstance(row, Trial)]
    keys |= {UUID(item) for item in ID.findall(json.dumps(plans))}
    return list(model._default_manager.filter(pk__in=keys - {None}).order_by("pk"))


def _resource(
    files: dict[str, bytes], name: str, model: type[models.Model], many: Sequence[str], rows: Sequence[models.Model]
) -> dict[str, Any]:
    fields = fields_of(model)
    head = [field.attname for field in fields] + list(many)
    lines = [[cell(row, field) for field in fields] + [many_cell(row, item) for item in many] for row in rows]
    return _described(files, name, head, lines, schema_of(model, many, rows))


def _described(
    files: dict[str, bytes], name: str, head: Sequence[str], lines: Sequence[Sequence[str]], schema: dict[str, Any]
) -> dict[str, Any]:
    content = guarded_text(head, lines).encode()
    files[f"{name}.csv"] = content
    return {
        "name": name.replace("_", "-"),
        "path": f"{name}.csv",
        "profile": "tabular-data-resource",
        "format": "csv",
        "mediatype": "text/csv",
        "encoding": "utf-8",
        "bytes": len(content),
        "hash": f"sha256:{hashlib.sha256(content).hexdigest()}",
        "schema": _dashed(schema),
    }


def _dashed(schema: dict[str, Any]) -> dict[str, Any]:
    """References by the names that resources may have."""
    keys = [
        {**key, "reference": {**key["reference"], "resource": key["reference"]["resource"].replace("_", "-")}}
        for key in schema.get("foreignKeys", [])
    ]
    return {**schema, "foreignKeys": keys} if keys else {key: item for key, item in schema.items() if key != "foreignKeys"}


def _verdict(view: TrialView) -> list[tuple[str, list[str], list[list[str]]]]:
    """Means and differences of the verdict in kg/ha and money/ha, as far as there is one."""
    found = computed(view)
    means, differences = [], []
    by_id = {treatment.id: treatment for treatment in view.treatments}
    for response, result, trend in (("yield", found.yield_, found.trend), ("net_return", found.net, found.net_trend)):
        if result is None:
            continue
        rows: Sequence[tuple[Treatment, Mean | CellMean]] = (
            treated_cells(view, result)
            if isinstance(result, FactorComparison)
            else [(by_id[UUID(mean.level)], mean) for mean in result.means]
        )
        for treatment, row in rows:
            own = (row.mean, row.se, row.lower, row.upper)
            means.append([response, str(treatment.id), treatment.letter, *(_text(number) for number in own)])
        for decision in decisions_for(view, result, response, trend):
            item = decision.difference
            numbers = (
                item.estimate,
                item.se,
                item.df,
                item.lower,
                item.upper,
                item.p,
                item.p_adjusted,
                decision.margin,
                decision.chance,
            )
            call = decision.call.name if decision.call else "withheld" if decision.withheld else ""
            names = [harmless(text) for text in (decision.factor, decision.left, decision.right, decision.within)]
            differences.append([response, *names, *(_text(number) for number in numbers), call])
    return [
        ("verdict_means", ["response", "treatment_id", "letter", "mean", "se", "lower", "upper"], means),
        (
            "verdict_differences",
            [
                "response",
                "factor",
                "left",
                "right",
                "within",
                "estimate",
                "se",
                "df",
                "lower",
                "upper",
                "p",
                "p_adjusted",
                "margin",
                "chance_above_zero",
                "call",
            ],
            differences,
        ),
    ]


def _text(value: float | None) -> str:
    return "" if value is None else repr(float(value))


def _computed(files: dict[str, bytes], name: str, head: list[str], lines: list[list[str]]) -> dict[str, Any]:
    words = {"response", "treatment_id", "letter", "factor", "left", "right", "within", "call"}
    schema = {
        "fields": [{"name": item, "type": "string" if item in words else "number"} for item in head],
        "missingValues": [""],
    }
    return _described(files, name, head, lines, schema)


def _logs(files: dict[str, bytes], view: TrialView) -> list[str]:
    """Raw logs into the package while they fit; names of those that do not."""
    room, left = settings.PACKAGE_LOG_BYTES, []
    for log in view.trial.yield_logs.order_by("pk"):
        path = path_of(log.digest, log.suffix)
        name = f"logs/{log.digest}{log.suffix}"
        if name in files:
            continue
        if not path.exists() or path.stat().st_size > room:
            left.append(log.name)
            continue
        room -= path.stat().st_size
        files[name] = path.read_bytes()
    return left
