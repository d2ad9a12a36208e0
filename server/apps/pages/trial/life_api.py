"""Copies, archive, bin and closing of trials."""

from datetime import datetime, timedelta
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema, Status

from apps.accounts.queries import actor, workspace_for
from apps.pages.trial.output import trial_out
from apps.trial_state.view import view
from apps.trials import life
from apps.trials.hooks import tally
from apps.trials.models import Trial
from apps.trials.next_year import copy_trial
from apps.trials.queries import trial_for
from apps.trials.schemas import TrialOut

router = Router(tags=["life of trials"])


class CopyIn(Schema):
    title: str
    season: int
    field_id: UUID | None = None


class ArchiveIn(Schema):
    archived: bool


class ReasonIn(Schema):
    reason: str


class NoteIn(Schema):
    note: str = ""


class BinnedOut(Schema):
    id: UUID
    title: str
    crop: str
    season: int
    field: str
    records: str
    """What hangs on it, in words."""
    reason: str
    by: str
    binned_at: datetime
    purged_on: datetime


class BinOut(Schema):
    days: int
    trials: list[BinnedOut]


def _answer(request: HttpRequest, trial_id: UUID) -> TrialOut:
    user = actor(request)
    return trial_out(view(user, trial_for(user, trial_id)), user)


@router.post("/trials/{trial_id}/copy", response={201: TrialOut}, operation_id="copy_trial")
def copy(request: HttpRequest, trial_id: UUID, body: CopyIn):
    new = copy_trial(actor(request), trial_id, title=body.title, season=body.season, field_id=body.field_id)
    return Status(201, _answer(request, new.id))


@router.post("/trials/{trial_id}/archive", response=TrialOut, operation_id="archive_trial")
def archive(request: HttpRequest, trial_id: UUID, body: ArchiveIn):
    life.archive(actor(request), trial_id, archived=body.archived)
    return _answer(request, trial_id)


@router.post("/trials/{trial_id}/bin", response={204: None}, operation_id="bin_trial")
def put_in_bin(request: HttpRequest, trial_id: UUID, body: ReasonIn):
    life.put_in_bin(actor(request), trial_id, body.reason)
    return Status(204, None)


@router.post("/trials/{trial_id}/close-season", response=TrialOut, operation_id="close_season")
def close_season(request: HttpRequest, trial_id: UUID, body: NoteIn):
    life.close_season(actor(request), trial_id, body.note)
    return _answer(request, trial_id)


@router.post("/trials/{trial_id}/open-season", response=TrialOut, operation_id="open_season")
def open_season(request: HttpRequest, trial_id: UUID, body: ReasonIn):
    life.open_season(actor(request), trial_id, body.reason)
    return _answer(request, trial_id)


@router.get("/workspaces/{workspace_id}/bin", response=BinOut, operation_id="bin")
def bin_of(request: HttpRequest, workspace_id: UUID):
    trials = [_binned_out(trial) for trial in life.bin_of(actor(request), workspace_id)]
    return BinOut(days=workspace_for(actor(request), workspace_id).bin_days, trials=trials)


def _binned_out(trial: Trial) -> BinnedOut:
    binned_at = trial.life.binned_at
    assert binned_at is not None, "it lies in the bin"
    return BinnedOut(
        id=trial.id,
        title=trial.title,
        crop=trial.crop,
        season=trial.season,
        field=str(trial.field) if trial.field else "",
        records=tally(list(trial.strips.all())).words,
        reason=trial.life.reason,
        by=trial.life.by.get_full_name() or trial.life.by.username,
        binned_at=binned_at,
        purged_on=binned_at + timedelta(days=trial.workspace.bin_days),
    )


@router.post("/workspaces/{workspace_id}/bin/{binned_id}/restore", response=TrialOut, operation_id="restore_trial")
def restore(request: HttpRequest, workspace_id: UUID, binned_id: UUID):
    return _answer(request, life.restore(actor(request), workspace_id, binned_id).id)


@router.delete("/workspaces/{workspace_id}/bin/{binned_id}", response={204: None}, operation_id="purge_trial")
def purge(request: HttpRequest, workspace_id: UUID, binned_id: UUID):
    workspace_for(actor(request), workspace_id)
    life.purge(actor(request), workspace_id, binned_id)
    return Status(204, None)
