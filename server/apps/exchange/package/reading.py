"""A package read back: checked whole, then written as a new trial with ids of its own, or not at all."""

from __future__ import annotations

import csv
import hashlib
import io
import json
import re
from dataclasses import dataclass, field
from typing import Any, Literal
from uuid import UUID, uuid4

from cultrix_core.crops import crop
from cultrix_core.errors import Refusal
from django.conf import settings
from django.core.exceptions import ValidationError
from django.core.files.uploadedfile import UploadedFile
from django.db import IntegrityError, models, transaction
from django.db.models import Q

from apps.accounts.models import User, Workspace
from apps.accounts.queries import workspace_for
from apps.accounts.rights import require
from apps.accounts.services import save_as
from apps.accounts.workspaces import offer_own_crop
from apps.base.errors import Conflict, RowProblems
from apps.base.untrusted_text import first_bad_sign
from apps.exchange.package.tables import OWNED, TABLES, Table, fields_of, value_of
from apps.exchange.package.writing import FORMAT
from apps.field.logs.files import TEXT, VECTOR, path_of
from apps.field.logs.models import YieldLog
from apps.field.season.models import PlantMeasure, Rating
from apps.field.season.own_traits import offer_known
from apps.intake.quota import admit, keep
from apps.intake.services import archive_in
from apps.intake.storing import keep_bytes
from apps.pages.trial.output import trial_out
from apps.pages.verdict.output import verdict_out
from apps.pages.yield_logs.output import logs_out
from apps.trial_state.view import view
from apps.trials.life import put_in_bin
from apps.trials.models import Trial, TrialOrigin
from apps.trials.queries import trial_for

There = Literal["ask", "replace", "beside"]
MOST_FILES = 80
UNPACKED_TIMES = 4
MOST_ROWS = 200_000
# what packages of earlier versions lack: columns with the value that such a trial has, tables that are empty then
ADDED_SINCE: dict[str, Any] = {
    "clock_shift_s": None,
    "way": "first",
    "amounts_by": "pairs",
    "package": [],
    "opener": None,
    "response_margin_typed": "",
    "response_margin_unit": "",
    "response_margin_canonical": None,
}
ADDED_TABLES = {"joined_visits", "penetrometer_readings", "season_closings"}
RENAMED = {"struck": "voided", "struck_reason": "void_reason"}  # columns as packages of earlier versions name them
MOST_PROBLEMS = 50
WIDEST_CELL = 20_000_000  # the result of a cleaned log is one cell
REASON = "read back from a package"
HASH = re.compile("[0-9a-f]{64}")
LOG_NAME = re.compile(r"logs/([0-9a-f]{64})(\.(csv|txt|geojson|json|gpkg|zip))")


@dataclass(slots=True)
class _Reading:
    """What is known while a package is read: new keys by model and old key, and what was wrong."""

    user: User
    workspace: Workspace
    people: dict[str, User]
    keys: dict[tuple[type[models.Model], Any], Any] = field(default_factory=dict)
    texts: dict[str, str] = field(default_factory=dict)
    problems: list[dict[str, object]] = field(default_factory=list)

    def wrong(self, table: str, line: int, column: str, why: str) -> None:
        if len(self.problems) < MOST_PROBLEMS:
            self.problems.append(
                {"row": line, "field": f"{table}.csv, {column}", "message": f"{table}.csv, line {line}: {why}"}
            )

    def known(self, model: type[models.Model], old: Any, new: Any) -> None:
        self.keys[model, old] = new
        if isinstance(old, UUID):
            self.texts[str(old)] = str(new)


def read_package(user: User, workspace_id: UUID, file: UploadedFile, there: There = "ask") -> Trial:
    """A new trial from a package; problems are listed by table and line, and then nothing is taken in.

    Parameters
    ----------
    there : what is done where the trial is in the workspace already: asked about, replaced (it goes into the bin and can be
        restored), or kept beside the new one.

    Raises
    ------
    Refusal : a file that is no package of this kind, or too large. RowProblems : rows that cannot be taken.
    Conflict : the trial is here already, and nobody said what to do.
    """
    workspace = workspace_for(user, workspace_id)
    require(user, workspace, "design")
    upload = admit(user, workspace, "package", file.size or 0)
    files = _unpacked(file)
    _check_head(files, workspace)
    people = {membership.user.username: membership.user for membership in workspace.memberships.select_related("user")}
    reading = _Reading(user, workspace, people)
    tables = {name: _lines(files, reading, name, model, many) for name, model, many in _expected()}
    _stop_at(reading)
    known = _known(workspace, tables["trial"])
    digest = _digest(files)
    if known is not None and there == "ask":
        raise Conflict("already_here", _already_here(known, digest), {"trial": str(known.id), "title": known.title})
    try:
        with transaction.atomic():
            if known is not None and there == "replace":
                put_in_bin(user, known.id, "replaced by a data package")
            for name, model, same in OWNED:
                _owned(reading, name, model, same, tables[name])
                _stop_at(reading)
            for table in TABLES:
                _written(reading, table, tables[table.name])
                _stop_at(reading)
            keep(upload, _logs(files, reading))
            old, new = next((old, new) for (model, old), new in reading.keys.items() if model is Trial)
            TrialOrigin.objects.create(trial_id=new, of_trial=old, digest=digest)
            return _opened(user, new)
    except IntegrityError as error:
        raise _refused("its rows contradict one another") from error


def _known(workspace: Workspace, rows: list[tuple[int, dict[str, Any]]]) -> Trial | None:
    """The trial of the workspace that a package was saved from, or that was read back from the same one; not in the bin."""
    ids = [values["id"] for _, values in rows if "id" in values]
    trials = workspace.trials.filter(life__binned_at=None)
    return trials.filter(Q(id__in=ids) | Q(origin__of_trial__in=ids)).order_by("origin__read_at").last()


def _digest(files: dict[str, bytes]) -> str:
    """Of the tables and logs; the head says when the package was made, and differs each time."""
    content = hashlib.sha256()
    for name in sorted(files):
        if name.endswith(".csv") or name.startswith("logs/"):
            content.update(name.encode() + b"\0" + files[name] + b"\0")
    return content.hexdigest()


def _already_here(known: Trial, digest: str) -> str:
    origin = TrialOrigin.objects.filter(trial=known).first()
    same = " The package is the very one it was read from." if origin is not None and origin.digest == digest else ""
    return (
        f"“{known.title}” of {known.season} is here already, and both would stand in the ledger.{same} "
        "Replace it (it goes into the bin), keep the package beside it, or leave it."
    )


def _opened(user: User, trial_id: UUID) -> Trial:
    """The trial, once its pages open: one that does not would take the whole shelf with it."""
    trial = trial_for(user, trial_id)
    own = PlantMeasure.objects.filter(strip__trial=trial).values_list("trait", flat=True)
    offer_known(user, trial.workspace, {*own, *Rating.objects.filter(strip__trial=trial).values_list("trait", flat=True)})
    if crop(trial.crop).relative:
        offer_own_crop(trial.workspace, trial.crop)
    try:
        result = view(user, trial)
        trial_out(result, user)
        verdict_out(result)
        if trial.yield_logs.exists():
            logs_out(result)
    except (KeyError, TypeError, ValueError, AttributeError, LookupError, StopIteration, AssertionError) as error:
        raise _refused("its parts do not fit together") from error
    return trial


def _stop_at(reading: _Reading) -> None:
    """One table's problems at a time: what names a row that failed would only repeat them."""
    if reading.problems:
        raise RowProblems(reading.problems)


def _expected() -> list[tuple[str, type[models.Model], tuple[str, ...]]]:
    owned = [(name, model, ()) for name, model, _ in OWNED]
    return [*owned, *((table.name, table.model, table.many) for table in TABLES)]


def _refused(why: str) -> Refusal:
    return Refusal(
        "bad_geometry",
        field="file",
        label="The package",
        value=why,
        remedy="Save the trial again as a data package, and send that file as it is",
    )


def _unpacked(file: UploadedFile) -> dict[str, bytes]:
    """The files of the zip by name, bounded; nothing is written to disk by its name."""
    return archive_in(file, most_files=MOST_FILES, most_bytes=UNPACKED_TIMES * settings.PACKAGE_LIMIT_BYTES)


def _check_head(files: dict[str, bytes], workspace: Workspace) -> None:
    try:
        head = json.loads(files["datapackage.json"])
        form, currency = head["cultrix"]["format"], str(head["currency"])
    except (KeyError, ValueError, TypeError, RecursionError) as error:
        raise _refused("it has no datapackage.json of a trial") from error
    if form != FORMAT:
        raise _refused(f"it is of format {str(form)[:12]}, and format {FORMAT} is read here")
    if currency != workspace.currency:
        raise Refusal("other_currency", field="file", label="The package", value=currency[:12], limit=workspace.currency)


def _lines(
    files: dict[str, bytes], reading: _Reading, name: str, model: type[models.Model], many: tuple[str, ...]
) -> list[tuple[int, dict[str, Any]]]:
    """Rows of a table as values by column, each with its line."""
    if name in ADDED_TABLES and f"{name}.csv" not in files:
        return []
    csv.field_size_limit(WIDEST_CELL)
    try:
        rows = csv.DictReader(io.StringIO(files[f"{name}.csv"].decode(), newline=""), strict=True)
        wanted = {item.attname: item for item in fields_of(model)}
        head = [RENAMED.get(column, column) for column in rows.fieldnames or ()]
        rows.fieldnames = head
        expected, given = set(wanted) | set(many), set(head)
        if not given or len(given) < len(head) or given - expected or expected - given - set(ADDED_SINCE):
            raise _refused(f"{name}.csv has other columns than a trial's")
        lines = []
        for line, row in enumerate(rows, start=2):
            if line > MOST_ROWS:
                raise _refused(f"{name}.csv is too long")
            lines.append((line, _values(reading, name, line, row, wanted, many)))
    except (KeyError, UnicodeDecodeError, csv.Error) as error:
        raise _refused(f"{name}.csv is missing or cannot be read") from error
    return lines


def _values(
    reading: _Reading,
    name: str,
    line: int,
    row: dict[str, Any],
    wanted: dict[str, models.Field[Any, Any]],
    many: tuple[str, ...],
) -> dict[str, Any]:
    values: dict[str, Any] = {}
    for column in (*wanted, *many):
        if column in ADDED_SINCE and column not in row:
            values[column] = ADDED_SINCE[column]
            continue
        text = row.get(column)
        if not isinstance(text, str) or None in row:
            reading.wrong(name, line, column, "it has more or fewer cells than its head")
            return values
        bad = first_bad_sign(text)
        if bad is not None:
            reading.wrong(name, line, column, f"{column} holds a sign that is no text (U+{ord(bad):04X})")
            continue
        try:
            values[column] = value_of(wanted[column], text) if column in wanted else _ids(text)
        except (ValueError, TypeError, OverflowError, RecursionError) as error:
            reading.wrong(name, line, column, f"{column} “{text[:30]}” cannot be read: {error}")
    return values


def _ids(text: str) -> list[Any]:
    result = json.loads(text)
    if not isinstance(result, list) or not all(isinstance(item, (int, str)) for item in result):
        raise ValueError("it is no list of ids")
    return [item if isinstance(item, int) else UUID(item) for item in result]


def _owned(
    reading: _Reading, name: str, model: type[models.Model], same: tuple[str, ...], rows: list[tuple[int, dict[str, Any]]]
) -> None:
    """What the workspace owns: taken where it is there by its name, else added."""
    for line, values in rows:
        there = model._default_manager.filter(workspace=reading.workspace, **{key: values[key] for key in same}).first()
        if there is None:
            there = _filled(reading, name, line, model, values)
            if there is None:
                continue
            there.workspace = reading.workspace  # type: ignore[attr-defined]
            save_as(there, reading.user, REASON)
        reading.known(model, values["id"], there.pk)


def _written(reading: _Reading, table: Table, rows: list[tuple[int, dict[str, Any]]]) -> None:
    if table.model is Trial and len(rows) != 1:
        raise _refused("it does not hold exactly one trial")
    for line, values in rows:
        record = _filled(reading, table.name, line, table.model, values)
        if record is None:
            continue
        _saved(reading, record, values)
        reading.known(table.model, values["id"], record.pk)
        for name in table.many:
            target = table.model._meta.get_field(name).related_model
            keys = [reading.keys.get((target, value)) for value in values[name]]  # type: ignore[arg-type]
            if None in keys:
                reading.wrong(table.name, line, name, f"{name} names a row that is not in the package")
                continue
            getattr(record, name).set(keys)


def _filled(reading: _Reading, name: str, line: int, model: type[models.Model], values: dict[str, Any]) -> models.Model | None:
    """A record with its relations turned to new ids; None with a problem noted."""
    record: Any = model()
    if isinstance(model._meta.pk, models.UUIDField):
        record.pk = uuid4()
    for item in fields_of(model):
        if item.primary_key:
            continue
        value, related = values[item.attname], item.related_model
        if related is User:
            there = value or not item.null
            setattr(record, item.name, reading.people.get(value, reading.user) if there else None)
            continue
        if related is not None and value is not None:
            key = (related, value)
            if key not in reading.keys:
                reading.wrong(name, line, item.attname, f"{item.attname} names a row that is not in the package")
                return None
            value = reading.keys[key]
        elif isinstance(item, models.JSONField):
            value = _renamed(value, reading.texts)
        setattr(record, item.attname, value)
    if hasattr(record, "workspace_id"):
        record.workspace = reading.workspace
    if isinstance(record, YieldLog) and not _named_by_hash(record):
        reading.wrong(name, line, "digest", "a log is named by the hash of its file and nothing else")
        return None
    try:
        record.clean_fields(
            exclude=[column_field.name for column_field in model._meta.concrete_fields if _passed(column_field, record)]
        )
    except ValidationError as error:
        for column, messages in error.message_dict.items():
            reading.wrong(name, line, column, f"{column}: {' '.join(messages)}")
        return None
    return record


def _passed(item: models.Field[Any, Any], record: models.Model) -> bool:
    """Relations were checked already, and what may be stored empty need not be typed."""
    return item.related_model is not None or getattr(record, item.attname) in item.empty_values


def _named_by_hash(log: YieldLog) -> bool:
    """Whether hashes are hashes and the suffix is one that logs have: they become names of files."""
    hashes = [log.digest, *([log.result_hash] if log.result_hash else [])]
    return all(HASH.fullmatch(digest) for digest in hashes) and log.suffix in (*TEXT, *VECTOR)


def _saved(reading: _Reading, record: models.Model, values: dict[str, Any]) -> None:
    """Saved with history where it has one; times that saving would set are put back to what they were."""
    if hasattr(type(record), "history"):
        save_as(record, reading.user, REASON)
    else:
        record.save()
    times = {
        item.attname: values[item.attname]
        for item in fields_of(type(record))
        if getattr(item, "auto_now", False) or getattr(item, "auto_now_add", False)
    }
    if times:
        type(record)._default_manager.filter(pk=record.pk).update(**times)


def _renamed(value: Any, texts: dict[str, str]) -> Any:
    """Ids that stand inside a JSON value, turned to the new ones."""
    if isinstance(value, str):
        return texts.get(value, value)
    if isinstance(value, list):
        return [_renamed(item, texts) for item in value]
    if isinstance(value, dict):
        return {texts.get(key, key): _renamed(item, texts) for key, item in value.items()}
    return value


def _logs(files: dict[str, bytes], reading: _Reading) -> int:
    """Bytes kept: raw logs to where they lie, under their own hash; a file that is not what its name says is refused."""
    wanted = {
        yield_log.digest: yield_log.suffix
        for yield_log in YieldLog.objects.filter(pk__in=[new for (model, _), new in reading.keys.items() if model is YieldLog])
    }
    for digest, suffix in wanted.items():
        if f"logs/{digest}{suffix}" not in files and path_of(digest, suffix).exists() and not _own(digest, reading):
            raise _refused("a log of it is not in the package")  # its name must not open another workspace's file
    kept = 0
    for name, content in files.items():
        match = LOG_NAME.fullmatch(name)
        if match is None or wanted.get(match[1]) != match[2]:
            continue
        if hashlib.sha256(content).hexdigest() != match[1]:
            raise _refused(f"{name[:20]}… is not the log it is named after")
        kept += len(content) if keep_bytes(content, path_of(match[1], match[2])) else 0
    return kept


def _own(digest: str, reading: _Reading) -> bool:
    """Whether the workspace had this log before."""
    result = [new for (model, _), new in reading.keys.items() if model is YieldLog]
    return YieldLog.objects.filter(digest=digest, trial__workspace=reading.workspace).exclude(pk__in=result).exists()
