"""Logs of the demo: the simulated combine drives a trial's strips, and its file is read like a real one."""

from __future__ import annotations

from datetime import date
from uuid import UUID

from cultrix_core.harvest.log_columns import guess
from django.core.files.uploadedfile import SimpleUploadedFile

from apps.accounts.models import User
from apps.demo.writing import at, record_id
from apps.field.logs.schemas import ColumnIn, ColumnsIn, LogIn
from apps.field.logs.services import put_log, set_columns
from apps.jobs.services import at_once
from apps.pages.yield_logs.stand_ins import Asked, combine_log
from apps.trial_state.view import view
from apps.trials.models import Trial
from apps.trials.queries import trial_for


def wheat_log(lead: User, trial: Trial, combine: UUID, on: date) -> None:
    """The log of the combine on the wheat: grain eleven seconds late, a monitor that reads six per cent high."""
    asked = Asked(lag_s=11, noise=0.04, gain=1.06, moisture_pct=13.9, seed=26, swath_m=5.4)
    text = combine_log(view(lead, trial_for(lead, trial.id)), asked)
    file = SimpleUploadedFile("long-terrace-2026.csv", text.encode())
    with at_once():
        log, _ = put_log(lead, trial.id, record_id(trial, "log", 1), LogIn(machine_id=combine, recorded_at=at(on, 900)), file)
        columns = {role: ColumnIn(name=column.name, unit=column.unit) for role, column in guess(log.header["names"]).items()}
        set_columns(lead, log.id, ColumnsIn(version=log.version, machine_id=combine, columns=columns))
