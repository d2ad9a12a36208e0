"""The worker's part: read a log, clean it, put its readings on strips, and store what came out, all of it or nothing."""

from __future__ import annotations

import dataclasses
import hashlib
import json
import os
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from cultrix_core.crops import crop
from cultrix_core.errors import Refusal
from cultrix_core.harvest.cleaning import Cleaned, Settings, clean
from cultrix_core.harvest.log_columns import DEGREES, Column
from cultrix_core.harvest.strip_points import inside, strip_of_points
from cultrix_core.harvest.yield_log import ToPlane, YieldLog, log_of, read_log
from django.db import transaction

from apps.accounts.services import save_as
from apps.field.logs import files, models
from apps.geography import frames
from apps.jobs.models import Job
from apps.jobs.services import Cancelled, ReportProgress, does, still_ours
from apps.trials.models import Strip, Trial

KIND = "yield-log"
READ, CLEANED = 0.25, 0.9  # shares of the work done by then
ALL_STEPS_OFF = Settings(off=frozenset(("delay", "ends", "speed", "swath", "limits", "overlap", "outliers")))


def inputs_hash(log: models.YieldLog) -> str:
    """Fingerprint of everything the result rests on."""
    strips = [[str(strip.id), strip.swath or strip.ring] for strip in log.trial.strips.all()]
    inputs = [log.digest, log.suffix, log.coordinates, log.columns, log.steps, log.margin.value, strips]
    return hashlib.sha256(json.dumps(inputs, sort_keys=True).encode()).hexdigest()


@does(KIND)
def read_and_clean(job: Job, report_progress: ReportProgress) -> None:
    """Work through a log by the settings it has when the work begins."""
    row = models.YieldLog.objects.select_related("trial").get(id=job.subject)
    before = inputs_hash(row)
    rings = rings_of(row.trial)
    report_progress(0.02, "Reading the file")
    log = opened(row)
    _require_on_strips(row, log, rings)
    report_progress(READ, "Cleaning")
    cleaned = clean(log, settings_of(row), lambda done, name: report_progress(READ + (CLEANED - READ) * done, name))
    report_progress(CLEANED, "Putting readings on strips")
    result, strip_of = put_on_strips(log, cleaned, rings, margin_m=row.margin.value or 0.0)
    _store_points(before, log, cleaned, strip_of)
    with transaction.atomic():
        now = models.YieldLog.objects.select_for_update().select_related("trial").get(id=row.id)
        if inputs_hash(now) != before or not still_ours(job):
            raise Cancelled
        now.result, now.result_hash = result, before
        save_as(now, job.asked_by, "read and cleaned")


def _require_on_strips(row: models.YieldLog, log: YieldLog, rings: dict[str, list[tuple[float, float]]]) -> None:
    """Refuse a log that lies elsewhere, before it is cleaned; says so where it would lie here with its axes exchanged."""
    if _on_any(log, rings):
        return
    turned = models.YieldLog(trial=row.trial, digest=row.digest, suffix=row.suffix, coordinates=row.coordinates)
    turned.columns = row.columns | {"x": row.columns["y"], "y": row.columns["x"]}
    try:
        swapped = _on_any(opened(turned), rings)
    except Refusal:
        swapped = False
    why = "its longitude and latitude look swapped" if swapped else "not one of its readings lies on a strip of this trial"
    remedy = "Exchange the two columns." if swapped else "Is it the right field, and the right coordinate system?"
    raise Refusal("bad_geometry", field="x" if swapped else "coordinates", label="The log", value=why, remedy=remedy)


def _on_any(log: YieldLog, rings: dict[str, list[tuple[float, float]]]) -> bool:
    return any(bool(inside(log, ring, margin_m=0.0).any()) for ring in rings.values())


def opened(row: models.YieldLog) -> YieldLog:
    """The raw file as readings in metres of the layout."""
    columns = {role: Column(**item) for role, item in row.columns.items()}
    to_plane = _to_plane(row, columns)
    bushel = crop(row.trial.crop).bushel_kg
    if row.suffix in files.TEXT:
        return read_log(files.text_of(row.digest, row.suffix), columns, to_plane=to_plane, bushel_kg=bushel)
    return log_of(files.table_of(row.digest, row.suffix), columns, to_plane=to_plane, bushel_kg=bushel)


def _to_plane(row: models.YieldLog, columns: dict[str, Column]) -> ToPlane | None:
    if columns["x"].unit != DEGREES:
        return None
    frame = row.trial.plan.get("frame") or ""
    if not frame:
        raise Refusal(
            "not_done",
            field="coordinates",
            label="The place of the strips on the earth",
            value="the field has no boundary in degrees",
            remedy="Add its boundary in Setup and place the layout on it, or give the log in metres of the layout.",
        )
    transform: Callable[[Any, Any], Any] = frames.transformer_to(frame).transform

    def plane(longitude: Any, latitude: Any) -> tuple[Any, Any]:
        x, y = transform(longitude, latitude)
        return np.asarray(x), np.asarray(y)

    return plane


def settings_of(row: models.YieldLog) -> Settings:
    """The cleaning a log asks for."""
    changed = dict(row.steps)
    off = frozenset(changed.pop("off", []))
    return dataclasses.replace(Settings(), off=off, **changed)


def rings_of(trial: Trial) -> dict[str, list[tuple[float, float]]]:
    """Outline of every strip in m by its id; refuses a layout that is not placed."""
    strips: list[Strip] = list(trial.strips.all())
    if not strips:
        raise Refusal(
            "not_done", field="strips", label="The layout", value="no strip is drawn", remedy="Draw the strips first."
        )
    if any(not strip.ring for strip in strips):
        raise Refusal(
            "not_done",
            field="strips",
            label="The place of the strips",
            value="the layout is a list without a map",
            remedy="Give the field its size or boundary and place the strips on it.",
        )
    return {str(strip.id): [(float(x), float(y)) for x, y in strip.ring or []] for strip in strips}


def put_on_strips(
    log: YieldLog, cleaned: Cleaned, rings: dict[str, list[tuple[float, float]]], *, margin_m: float
) -> tuple[dict[str, Any], Any]:
    """Result of a log as it is stored, and the number of the strip of every reading (0: none)."""
    raw = clean(log, ALL_STEPS_OFF)
    strip_of = np.zeros(len(log), dtype=np.int16)
    strips: dict[str, Any] = {}
    for number, (key, ring) in enumerate(rings.items(), start=1):
        within = inside(log, ring, margin_m=margin_m)
        strip_of[within] = number
        strip_points = strip_of_points(log, cleaned, within, standard_moisture_pct=None)
        before = strip_of_points(log, raw, inside(log, ring, margin_m=0.0), standard_moisture_pct=None)
        strips[key] = {
            "readings": strip_points.readings,
            "area_m2": strip_points.area_m2,
            "wet_kg_per_ha": strip_points.yield_kg_per_ha,
            "se_kg_per_ha": strip_points.se_kg_per_ha,
            "effective": strip_points.effective,
            "moisture_pct": strip_points.moisture_pct,
            "raw_kg_per_ha": before.yield_kg_per_ha,
        }
    result = {
        "readings": len(log),
        "unreadable": log.unreadable,
        "passes": int(cleaned.pass_number.max()) + 1,
        "delay_s": cleaned.delay_s,
        "delay_found": cleaned.delay_found,
        "on_strips": int(((strip_of > 0) & cleaned.keep).sum()),
        "steps": [dataclasses.asdict(step) for step in cleaned.steps],
        "strips": strips,
    }
    return result, strip_of


def _store_points(key: str, log: YieldLog, cleaned: Cleaned, strip_of: Any) -> None:
    """Points as columns in a file; written under another name first."""
    path = files.points_path(key)
    path.parent.mkdir(parents=True, exist_ok=True)
    half = path.with_suffix(f".{os.getpid()}.part.npz")
    np.savez_compressed(
        half,
        row=log.row.astype(np.int32),
        x_m=log.x_m.astype(np.float32),
        y_m=log.y_m.astype(np.float32),
        yield_kg_per_ha=cleaned.yield_kg_per_ha.astype(np.float32),
        dropped_by=cleaned.dropped_by.astype(np.int8),
        strip=strip_of,
    )
    Path(half).replace(path)
