"""The history of a trial and of one record."""

from datetime import datetime
from typing import Any
from uuid import UUID

from django.http import HttpRequest
from ninja import Field, Query, Router, Schema

from apps.accounts.models import Workspace
from apps.accounts.queries import actor, workspace_for
from apps.accounts.rights import require
from apps.base.errors import Forbidden, NotFound
from apps.pages.history.changes import Entry, entries_of, kinds_of, record_entries, rows_of
from apps.records.kinds import KINDS, home_of
from apps.trials.models import Trial
from apps.trials.queries import trial_for

router = Router(tags=["history"])


class HistoryChangeOut(Schema):
    name: str
    before: str
    after: str


class HistoryEntryOut(Schema):
    at: datetime
    by: str
    kind: str
    what: str
    strip: int | None
    action: str
    changes: list[HistoryChangeOut]
    reason: str


class HistoryKindOut(Schema):
    kind: str
    name: str


class HistoryOut(Schema):
    """What was done to a trial and its records, the latest first; ``total`` of what fits."""

    entries: list[HistoryEntryOut]
    total: int
    kinds: list[HistoryKindOut]


class HistoryAsked(Schema):
    kind: str = Field("", max_length=40)
    by: str = Field("", max_length=150)
    offset: int = Field(0, ge=0, le=1_000_000)
    limit: int = Field(50, ge=1, le=200)


@router.get("/trials/{trial_id}/history", response=HistoryOut, operation_id="trial_history")
def trial_history(request: HttpRequest, trial_id: UUID, asked: Query[HistoryAsked]):
    trial = trial_for(actor(request), trial_id)
    return _history_out(trial, asked)


@router.get("/workspaces/{workspace_id}/history", response=HistoryOut, operation_id="workspace_history")
def workspace_history(request: HttpRequest, workspace_id: UUID, asked: Query[HistoryAsked]):
    """Who signed in, was let in or took data out, and what was changed beside trials; for those who let people in."""
    workspace = workspace_for(actor(request), workspace_id)
    if require(actor(request), workspace, "people").farms is not None:
        raise Forbidden("Your part reaches some farms only; the history of the workspace tells of all of them.")
    return _history_out(workspace, asked)


def _history_out(root: Trial | Workspace, asked: HistoryAsked) -> HistoryOut:
    kinds = kinds_of(type(root))
    rows = rows_of(root, kind=asked.kind if asked.kind in kinds else "", by=asked.by)
    return HistoryOut(
        entries=[_entry_out(entry) for entry in entries_of(root, list(rows[asked.offset : asked.offset + asked.limit]))],
        total=rows.count(),
        kinds=sorted((HistoryKindOut(kind=kind, name=name) for kind, name in kinds.items()), key=lambda kind: kind.name),
    )


@router.get("/records/{kind}/{record_id}/history", response=list[HistoryEntryOut], operation_id="record_history")
def record_history(request: HttpRequest, kind: str, record_id: UUID):
    if kind not in KINDS:
        raise NotFound
    record: Any = KINDS[kind].model._default_manager.filter(pk=record_id).first()
    if record is None:
        raise NotFound
    home = home_of(record)
    trial = trial_for(actor(request), home.pk) if isinstance(home, Trial) else None
    return [_entry_out(entry) for entry in record_entries(KINDS[kind].model, record_id, trial)]


def _entry_out(entry: Entry) -> HistoryEntryOut:
    return HistoryEntryOut(
        at=entry.at,
        by=entry.by,
        kind=entry.kind,
        what=entry.what,
        strip=entry.strip,
        action=entry.action,
        changes=[HistoryChangeOut(name=change.name, before=change.before, after=change.after) for change in entry.changes],
        reason=entry.reason,
    )
