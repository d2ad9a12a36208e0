"""Everything of a farm as a zip of open formats, for whoever leaves or only wants to have it.

Fields as GeoJSON; each trial as its Data Package with history, photographs, files and raw logs beside it; the lots sown.
"""

from __future__ import annotations

import json
import tempfile
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import IO, Any

from cultrix_core.errors import Refusal
from django.conf import settings
from django.utils.text import slugify

from apps.accounts.models import User, Workspace
from apps.accounts.rights import reach_in, require, require_farm
from apps.base.disk_space import require_space
from apps.exchange.csv_files import csv_text
from apps.exchange.package.writing import package_of
from apps.farms.models import Field, SeedLot
from apps.field.attachments.models import Attachment
from apps.field.attachments.services import OF_MONEY
from apps.field.attachments.services import path_of as attachment_path
from apps.field.logs.files import path_of as log_path
from apps.field.season.models import Photo
from apps.field.season.photos import path_of as photo_path
from apps.pages.history.changes import entries_of, rows_of
from apps.trial_state.view import view
from apps.trials.models import Trial
from apps.trials.queries import readable

README = """All that is kept of the farm {farm} in {workspace}.

fields.geojson   fields; boundaries in longitude and latitude (WGS 84), or in metres where they were typed so
seed-lots.csv    lots that were sown, as their tags say
trials/          one folder a trial: package.zip (a Frictionless Data Package: tables as CSV, described by datapackage.json),
                 history.csv (who changed what, when and why), photos, files and yield-monitor logs as they came
Trials in the bin are not in it; restore them first.
"""
HISTORY_MOST = 20_000


def fields_of_farm(user: User, workspace: Workspace, farm: str) -> list[Field]:
    """Fields of a farm within reach; refuses a farm that has none."""
    require_farm(reach_in(user, workspace), farm)
    fields = list(workspace.fields.filter(farm=farm).order_by("name")) if farm else []
    if not fields:
        known = ", ".join(sorted({*workspace.fields.values_list("farm", flat=True)} - {""}))
        raise Refusal("unknown_choice", field="farm", label="Farm", value=farm, limit=known)
    return fields


def archive_of(user: User, workspace: Workspace, farm: str) -> IO[bytes]:
    """The archive as a file on the disk that is gone when it is closed.

    Raises
    ------
    Forbidden : not one's to take out, or not one's farm. Refusal : no such farm. NoRoom : the disk is nearly full.
    """
    require(user, workspace, "export")
    fields = fields_of_farm(user, workspace, farm)
    require_space()
    trials = list(readable(user).filter(field__in=fields).order_by("-season", "title"))
    Path(settings.VAR).mkdir(parents=True, exist_ok=True)
    out = tempfile.TemporaryFile(dir=settings.VAR)  # noqa: SIM115 - handed to the answer, which closes it
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("README.txt", README.format(farm=farm, workspace=workspace.name))
        archive.writestr("fields.geojson", json.dumps(_geojson(fields), ensure_ascii=False))
        archive.writestr("seed-lots.csv", _lots(trials, money=reach_in(user, workspace).may("money")))
        for number, trial in enumerate(trials, start=1):
            folder = f"trials/{number:03d}-{slugify(trial.title)[:50] or 'trial'}-{trial.season}"
            _write_trial(archive, folder, user, trial)
    out.seek(0)
    return out


def _geojson(fields: list[Field]) -> dict[str, Any]:
    return {
        "type": "FeatureCollection",
        "features": [
            {
                "type": "Feature",
                "geometry": field.boundary,
                "properties": {
                    "id": str(field.id),
                    "farm": field.farm,
                    "name": field.name,
                    "in_metres": field.boundary_in_m,
                    "width": f"{field.width.text} {field.width.unit}".strip(),
                    "length": f"{field.length.text} {field.length.unit}".strip(),
                },
            }
            for field in fields
        ],
    }


def _lots(trials: list[Trial], *, money: bool) -> str:
    lots = SeedLot.objects.filter(sowings__trial__in=trials).distinct().order_by("crop", "name", "tag")
    names = ["thousand_seed_weight", "germination", "hard_seed", "purity", "coating", *(["bag_price"] if money else [])]
    head = ["crop", "variety", "tag", "tested_on", "treatment", *names]
    rows = [
        [
            lot.crop,
            lot.name,
            lot.tag,
            lot.tested_on.isoformat() if lot.tested_on else "",
            lot.treatment,
            *(f"{getattr(lot, name).text} {getattr(lot, name).unit}".strip() for name in names),
        ]
        for lot in lots
    ]
    return csv_text(head, rows)


def _write_trial(archive: zipfile.ZipFile, folder: str, user: User, trial: Trial) -> None:
    archive.writestr(f"{folder}/package.zip", package_of(view(user, trial)))
    archive.writestr(f"{folder}/history.csv", _history(trial))
    for name, path in _files(trial, money=reach_in(user, trial.workspace).may("money")):
        if path.exists():
            archive.write(path, f"{folder}/{name}")


def _history(trial: Trial) -> str:
    entries = entries_of(trial, list(rows_of(trial)[:HISTORY_MOST]))
    return csv_text(
        ["at", "by", "kind", "strip", "action", "changes", "reason"],
        [
            [
                entry.at.isoformat(),
                entry.by,
                entry.what,
                entry.strip,
                entry.action,
                "; ".join(f"{change.name}: {change.before} → {change.after}" for change in entry.changes),
                entry.reason,
            ]
            for entry in entries
        ],
    )


def _files(trial: Trial, *, money: bool) -> Iterator[tuple[str, Path]]:
    for photo in Photo.objects.filter(strip__trial=trial).select_related("strip"):
        yield f"photos/strip-{photo.strip.order}-{photo.recorded_at:%Y-%m-%d}-{str(photo.id)[:8]}.jpg", photo_path(photo.digest)
    for item in Attachment.objects.filter(trial=trial):
        if money or item.kind != OF_MONEY:
            yield f"files/{str(item.id)[:8]}-{item.name.replace('/', '_')}", attachment_path(item.digest)
    for log in trial.yield_logs.all():
        yield f"logs/{str(log.id)[:8]}{log.suffix}", log_path(log.digest, log.suffix)
