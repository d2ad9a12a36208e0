"""Taking in logs, saying what their columns mean, changing how they are cleaned, choosing the source of yields."""

from __future__ import annotations

import dataclasses
from pathlib import Path
from typing import Any
from uuid import UUID

from cultrix_core.crops import crop
from cultrix_core.errors import Refusal
from cultrix_core.harvest.cleaning import NAMES, Settings, check_settings
from cultrix_core.harvest.log_columns import DEGREES, Column, factor_of, guess, require_roles
from django.conf import settings
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction

from apps.accounts.models import User
from apps.accounts.rights import require
from apps.accounts.services import save_as
from apps.base.errors import Conflict, NotFound
from apps.base.quantities import fill
from apps.farms.merged import found
from apps.farms.models import Machine
from apps.field.logs import cleaning, files, models
from apps.field.logs.models import HarvestSource, MachineColumns, YieldLog
from apps.field.logs.queries import log_for
from apps.field.logs.schemas import ColumnIn, ColumnsIn, LogIn, SourceIn, StepsIn
from apps.intake.quota import admit, keep
from apps.intake.services import LAT, LON, name_of
from apps.intake.storing import half_written
from apps.jobs.models import Job
from apps.jobs.services import ask_for
from apps.records.keeping import when
from apps.trials.editing import require_open
from apps.trials.models import Trial
from apps.trials.queries import trial_for

STALE = "This log was changed elsewhere meanwhile. Look at it again."


def put_log(user: User, trial_id: UUID, log_id: UUID, body: LogIn, file: UploadedFile) -> tuple[YieldLog, bool]:
    """Store a raw log under the client's id; where its columns are known already, work on it begins.

    The same id with the same file again is the log as it is; with another file it is a conflict.
    """
    trial = _writable(user, trial_id)
    cleaning.rings_of(trial)
    machine = _machine(trial, body.machine_id)
    suffix = files.suffix_of(file)
    upload = admit(user, trial.workspace, "log", file.size or 0)
    with half_written(file, Path(settings.LOGS)) as half:
        existing = YieldLog.objects.filter(id=log_id).first()
        if existing is not None:
            if existing.trial_id != trial.id:
                raise NotFound
            if existing.digest != half.digest:
                raise Conflict("stale", "Another file came under this name before. Choose the file again.", {})
            return existing, False
        header = files.header(half.path, suffix)  # a file that cannot be read leaves nothing behind
        if half.keep_as(files.path_of(half.digest, suffix)):
            keep(upload, half.size)
    log = YieldLog(
        id=log_id,
        trial=trial,
        machine=machine,
        name=name_of(file, "log"),
        digest=half.digest,
        suffix=suffix,
        size=half.size,
        header=header,
        recorded_at=when(body.recorded_at),
        recorded_by=user,
        margin_typed="1",
        margin_unit="m",
        margin_m=1.0,
    )
    known = MachineColumns.objects.filter(machine=machine).first() if machine else None
    with transaction.atomic():
        if known is not None and _all_there(known.columns, header["names"]):
            log.columns = known.columns
            log.coordinates = known.coordinates
            save_as(log, user, "log taken in")
            _work(user, log)
        else:
            log.columns = {role: dataclasses.asdict(column) for role, column in _suggested(header["names"], suffix).items()}
            log.coordinates = "degrees" if log.columns.get("x", {}).get("unit", DEGREES) == DEGREES else "metres"
            save_as(log, user, "log taken in")
    return log, True


def _suggested(names: list[str], suffix: str) -> dict[str, Column]:
    suggested = guess(names)
    if suffix not in files.TEXT:
        suggested["x"], suggested["y"] = Column(name=LON, unit=DEGREES), Column(name=LAT, unit=DEGREES)
    return suggested


def _all_there(columns: dict[str, Any], names: list[str]) -> bool:
    return all(column["constant"] is not None or column["name"] in names for column in columns.values())


def set_columns(user: User, log_id: UUID, body: ColumnsIn) -> YieldLog:
    """Say what the columns mean, remember it for the machine, and begin the work."""
    with transaction.atomic():
        log = _changing(user, log_id, body.version)
        columns = {role: _column(role, item) for role, item in body.columns.items()}
        require_roles(columns)
        bushel = crop(log.trial.crop).bushel_kg
        for role, column in columns.items():
            if column.constant is None:
                factor_of(role, column.unit, bushel_kg=bushel)
                if column.name not in log.header["names"]:
                    raise Refusal(
                        "unknown_choice",
                        field=role,
                        label="Column",
                        value=column.name,
                        limit=", ".join(log.header["names"][:20]),
                    )
        if (columns["x"].unit == DEGREES) != (columns["y"].unit == DEGREES):
            raise Refusal(
                "unknown_unit", field="y", label="Northing or latitude", value=columns["y"].unit, limit=columns["x"].unit
            )
        log.machine = _machine(log.trial, body.machine_id)
        log.columns = {role: dataclasses.asdict(column) for role, column in columns.items()}
        log.coordinates = "degrees" if columns["x"].unit == DEGREES else "metres"
        _save(user, log, "columns said")
        if log.machine is not None:
            known = MachineColumns.objects.filter(machine=log.machine).first() or MachineColumns(machine=log.machine)
            known.columns, known.coordinates = log.columns, log.coordinates
            save_as(known, user, "columns remembered")
        _work(user, log)
    return log


def _column(role: str, column: ColumnIn) -> Column:
    if column.constant is not None and column.constant.text.strip():
        if role != "swath":
            raise Refusal("unknown_choice", field=role, label="Column", value="one value for all", limit="a column of the file")
        return Column(constant=models.constant_swath(column.constant))
    return Column(name=column.name, unit=column.unit)


def set_steps(user: User, log_id: UUID, body: StepsIn) -> YieldLog:
    """Change parameters, undo steps or take them back, and work through the raw log again."""
    with transaction.atomic():
        log = _changing(user, log_id, body.version)
        unknown = set(body.off) - set(NAMES)
        if unknown:
            raise Refusal("unknown_choice", field="off", label="Step", value=", ".join(sorted(unknown)), limit=", ".join(NAMES))
        values = {name: value for name, value in body.values.items() if value is not None}
        fields = {field.name for field in dataclasses.fields(Settings)} - {"off"}
        if set(values) - fields:
            raise Refusal(
                "unknown_choice",
                field="values",
                label="Parameter",
                value=", ".join(sorted(set(values) - fields)),
                limit=", ".join(sorted(fields)),
            )
        if "neighbours" in values:
            values["neighbours"] = int(values["neighbours"])
        check_settings(dataclasses.replace(Settings(), off=frozenset(body.off), **values))  # type: ignore[arg-type]
        again = cleaning.inputs_hash(log)
        log.steps = values | ({"off": sorted(set(body.off))} if body.off else {})
        fill(log, models.MARGIN, body.margin)
        if log.margin.value is None or not 0 <= log.margin.value <= 50:
            raise Refusal(
                "too_large",
                field="margin",
                label="Inner margin",
                value=log.margin.text or "nothing",
                limit="50",
                unit=" m",
                remedy="Type 0 to keep to the outline.",
            )
        log.calibrated = body.calibrated
        log.left_out = [str(uuid) for uuid in body.left_out]
        _save(user, log, "cleaning changed")
        if cleaning.inputs_hash(log) != again or log.result is None:
            _work(user, log)
    return log


def choose_source(user: User, trial_id: UUID, body: SourceIn) -> HarvestSource:
    """Say whether the verdict uses the scale's yields or a log's."""
    with transaction.atomic():
        trial = _writable(user, trial_id)
        source = HarvestSource.objects.filter(trial=trial).first() or HarvestSource(trial=trial, version=0)
        if body.version != source.version:
            raise Conflict(
                "stale", "The source was chosen anew elsewhere meanwhile. Look at it again.", {"version": source.version}
            )
        log = None
        if body.log_id is not None:
            log = log_for(user, body.log_id)
            if log.trial_id != trial.id:
                raise NotFound
            if log.result is None or log.result_hash != cleaning.inputs_hash(log):
                raise Refusal(
                    "not_done",
                    field="log_id",
                    label="The log",
                    value="it is not cleaned yet",
                    remedy="Wait until it is, or mend what stopped it.",
                )
        source.log, source.chosen_by = log, user
        source.version += 1
        save_as(source, user, "source of yields chosen")
    return source


def _writable(user: User, trial_id: UUID) -> Trial:
    trial = trial_for(user, trial_id)
    require(user, trial.workspace, "record")
    require_open(trial)
    return trial


def _machine(trial: Trial, machine_id: UUID | None) -> Machine | None:
    if machine_id is None:
        return None
    machine = found(Machine, trial.workspace, machine_id)
    if machine is None:
        raise NotFound
    return machine


def _changing(user: User, log_id: UUID, version: int) -> YieldLog:
    log = log_for(user, log_id)
    require(user, log.trial.workspace, "record")
    require_open(log.trial)
    if version != log.version:
        raise Conflict("stale", STALE, {"version": log.version})
    return log


def _save(user: User, log: YieldLog, reason: str) -> None:
    log.version += 1
    save_as(log, user, reason)


def _work(user: User, log: YieldLog) -> Job:
    return ask_for(
        user,
        cleaning.KIND,
        workspace=log.trial.workspace,
        trial_id=log.trial_id,
        subject=log.id,
        inputs_hash=cleaning.inputs_hash(log),
    )
