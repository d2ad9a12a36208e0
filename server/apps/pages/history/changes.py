"""What each row of history changed against the row before it, in words of the people who read it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from functools import cache
from typing import Any

from cultrix_core.writing import written_day
from django.apps import apps
from django.db import models
from django.db.models import CharField, Q, QuerySet, Value
from django.db.models.functions import Cast

from apps.accounts.models import User, Workspace
from apps.audit.models import AuditEvent
from apps.backup.removing import paths_to
from apps.base.quantities import Measured
from apps.records.kinds import KINDS
from apps.trials.models import Strip, Treatment, Trial

# Columns that say nothing to a reader: counters, keys, what is told otherwise.
QUIET = {"id", "version", "received_at", "clock_shift_s", "recorded_by", "plan", "kept", "result", "digest", "suffix", "trial"}
QUIET |= {"created_at", "created_by", "workspace", "token_hash", "opened", "strip", "by", "closed_at"}
TYPED_FLOATS = {"alpha"}  # other plain numbers are worked out from what was typed, and follow it
LONGEST = 80
OF_TRIALS = ("plan", "prices", "export")  # kinds of events that a trial can have
WAYS = ("trial", "strip__trial")  # from a row to its trial; others, as by a plan, need not be there
Row = Any  # a row of one of the tables of history, which are made at run time


@dataclass(frozen=True, slots=True, kw_only=True)
class Change:
    """A value before and after, as text."""

    name: str
    before: str
    after: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Entry:
    """Something that was done: ``what`` it was done to, on which strip, and what it changed."""

    at: datetime
    by: str
    kind: str
    what: str
    strip: int | None
    action: str
    changes: tuple[Change, ...]
    reason: str


@cache
def tables(root: type[Trial] | type[Workspace] = Trial) -> dict[str, tuple[Any, str]]:
    """Tables of history that hang on a trial by name, each with the way to it; the trial's own and its events among them.

    Of a workspace: those of no trial, and all events. Tables of history are made at run time, so the type checker knows nothing
    of their columns.
    """
    if root is Workspace:
        of_trials = tables()
        found: dict[str, tuple[Any, str]] = {"AuditEvent": (AuditEvent, "workspace")}
        for model in apps.get_models():
            tracked = getattr(model, "instance_type", None)
            names = {field.name for field in model._meta.fields}
            if tracked is not None and "workspace" in names and tracked.__name__ not in of_trials:
                found[tracked.__name__] = (model, "workspace")
        return found
    found = {"Trial": (Trial.history.model, "id"), "AuditEvent": (AuditEvent, "trial")}
    for model, paths in paths_to(Trial).items():
        tracked = getattr(model, "instance_type", None)
        if tracked is not None and "_" not in tracked.__name__:
            found[tracked.__name__] = (model, next(path for path in WAYS if path in paths))
    return found


def kinds_of(root: type[Trial] | type[Workspace]) -> dict[str, str]:
    """The kinds that a history is asked for by, with what each is called; events by their own kinds."""
    rows = {name: kind_name(name, root) for name in tables(root) if name != "AuditEvent"}
    events = AuditEvent.KINDS if root is Workspace else [kind for kind in AuditEvent.KINDS if kind[0] in OF_TRIALS]
    return rows | dict(events)


def kind_name(name: str, root: type[Trial] | type[Workspace] = Trial) -> str:
    """What a kind of row is called."""
    model = tables(root)[name][0].instance_type
    known = {kind.model: kind.words for kind in KINDS.values()}
    words = known.get(model) or str(model._meta.verbose_name)
    return words[0].upper() + words[1:]


def rows_of(root: Trial | Workspace, *, kind: str = "", by: str = "") -> QuerySet[Any, Any]:
    """Rows of history of a trial or a workspace as (moment, table, number), the latest first."""
    events = dict(AuditEvent.KINDS)
    parts = []
    for name, (model, path) in tables(type(root)).items():
        if kind and name != ("AuditEvent" if kind in events else kind):
            continue
        wanted = Q(**{path: root.pk})
        if name == "AuditEvent" and isinstance(root, Workspace):  # sign-ins are of a person, told where that person belongs
            wanted |= Q(workspace=None, history_user__in=root.memberships.values("user"))
        rows = model._default_manager.filter(wanted)
        if kind in events:
            rows = rows.filter(kind=kind)
        if by:
            rows = rows.filter(history_user__username=by)
        parts.append(
            rows.order_by()
            .annotate(history_of=Value(name, output_field=CharField()), history_key=Cast("history_id", CharField()))
            .values_list("history_date", "history_of", "history_key")
        )
    return parts[0].union(*parts[1:], all=True).order_by("-history_date", "-history_key")


def entries_of(root: Trial | Workspace, found: Sequence[tuple[datetime, str, str]]) -> list[Entry]:
    """What these rows of history say, in their order."""
    wanted: dict[str, set[str]] = {}
    for _, name, number in found:
        wanted.setdefault(name, set()).add(number)
    strips, letters = _places(root if isinstance(root, Trial) else None)
    told: dict[tuple[str, str], Entry] = {}
    for name, numbers in wanted.items():
        model = tables(type(root))[name][0]
        if model is AuditEvent:
            events = AuditEvent.objects.filter(history_id__in=numbers).select_related("history_user", "trial")
            told |= {(name, str(event.history_id)): _event(event, named=isinstance(root, Workspace)) for event in events}
            continue
        rows = list(model._default_manager.filter(history_id__in=numbers).select_related("history_user"))
        earlier = _earlier(model, rows)
        for row in rows:
            told[name, str(row.history_id)] = _entry(name, row, earlier.get(row.history_id), strips, letters)
    return [told[name, number] for _, name, number in found]


def _places(trial: Trial | None) -> tuple[dict[Any, Strip], dict[Any, str]]:
    """Strips, and letters of treatments, by their keys."""
    if trial is None:
        return {}, {}
    return (
        {strip.pk: strip for strip in trial.strips.all()},
        {treatment.pk: treatment.letter for treatment in trial.treatments.all()},
    )


def _event(row: AuditEvent, *, named: bool) -> Entry:
    """An event; ``named``: it says of which trial, where it is of one."""
    return Entry(
        at=row.history_date,
        by=_person(row.history_user),
        kind=row.kind,
        what=row.get_kind_display(),
        strip=None,
        action=f"{row.what} of {row.trial.title}" if named and row.trial else row.what,
        changes=tuple(Change(name=name, before=was, after=now) for name, was, now in row.changes),
        reason=row.history_change_reason,
    )


def _earlier(model: Any, rows: Sequence[Row]) -> dict[Any, Row]:
    """The row before each of these, of the same object."""
    ids = {row.id for row in rows}
    before: dict[Any, Row] = {}
    last: dict[Any, Row] = {}
    for row in model._default_manager.filter(id__in=ids).order_by("history_date", "history_id"):
        if row.id in last:
            before[row.history_id] = last[row.id]
        last[row.id] = row
    return before


def _entry(name: str, row: Row, earlier: Row | None, strips: Mapping[Any, Strip], letters: Mapping[Any, str]) -> Entry:
    strip = strips.get(getattr(row, "strip_id", None) or (row.id if name == "Strip" else None))
    names = {Strip: {key: f"strip {item.order}" for key, item in strips.items()}, Treatment: letters}
    changes = tuple(_changes(row, earlier, names))
    voided = getattr(row, "voided", None)
    action = {"+": "added", "-": "removed"}.get(row.history_type, "changed")
    if earlier is not None and voided is not None and voided != earlier.voided:
        action = "voided" if voided else "restored"
    return Entry(
        at=row.history_date,
        by=_person(row.history_user),
        kind=name,
        what=kind_name(name, Trial if name in tables() else Workspace) + _called(row),
        strip=strip.order if strip else None,
        action=action,
        changes=() if action == "removed" else changes,
        reason=row.history_change_reason or "",
    )


def _called(row: Row) -> str:
    """The name of a row of the workspace, where it has one: a field, a machine, a lot."""
    own = getattr(row, "name", "")
    return f" {own}" if own and hasattr(row, "workspace_id") else ""


def _person(user: User | None) -> str:
    return "" if user is None else user.get_full_name() or user.username


def _changes(row: Row, earlier: Row | None, names: Mapping[type[models.Model], Mapping[Any, str]]) -> list[Change]:
    tracked: type[models.Model] = row.instance_type
    measured = [item for item in vars(tracked).values() if isinstance(item, Measured)]
    parts = {column for item in measured for column in item.names}
    result = []
    for item in measured:
        label = item.names[0].removesuffix("_typed")
        now, was = (_measured(of, item) if of is not None else "" for of in (row, earlier))
        result.append((label, was, now))
    for field in tracked._meta.concrete_fields:
        if field.name in QUIET or field.name in parts:
            continue
        if isinstance(field, models.FloatField) and field.name not in TYPED_FLOATS:
            continue
        now, was = (_text(of, field, names) if of is not None else "" for of in (row, earlier))
        result.append((field.name, was, now))
    return [
        Change(name=label.replace("_", " "), before=was, after=now)
        for label, was, now in result
        if was != now and not (label in ("voided", "void_reason") and earlier is None)
    ]


def _measured(row: Row, item: Measured) -> str:
    text, unit = (getattr(row, name) for name in item.names[:2])
    return f"{text} {unit}".strip()


def _text(row: Row, field: models.Field[Any, Any], names: Mapping[type[models.Model], Mapping[Any, str]]) -> str:
    value = getattr(row, field.attname, None)
    if value is None or value in ("", [], {}):
        return ""
    if isinstance(field, models.ForeignKey):
        known = names.get(field.related_model)
        return known.get(value, "") if known is not None else _named(field.related_model, value)
    if field.choices:
        return str(dict(field.flatchoices).get(value, value))
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, datetime):
        return f"{written_day(value)} {value:%H:%M}"
    if isinstance(value, date):
        return written_day(value)
    text = str(value)
    return text if len(text) <= LONGEST else f"{text[:LONGEST]} …"


def _named(model: type[models.Model], key: object) -> str:
    row = model._default_manager.filter(pk=key).first()
    return "" if row is None else str(row) if model is not User else _person(row)  # type: ignore[arg-type]


def record_entries(model: type[models.Model], key: object, trial: Trial | None) -> list[Entry]:
    """Everything that was done to one record, the latest first."""
    rows = apps.get_model(model._meta.app_label, f"Historical{model.__name__}")._default_manager.filter(id=key)
    ordered = list(rows.select_related("history_user").order_by("history_date", "history_id"))
    strips, letters = _places(trial)
    pairs = zip(ordered, [None, *ordered[:-1]], strict=True)
    return [_entry(model.__name__, row, earlier, strips, letters) for row, earlier in pairs][::-1]
