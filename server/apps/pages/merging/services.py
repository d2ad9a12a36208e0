"""Putting one of two in the place of the other, everywhere, whole or not at all.

Records keep their versions going, so that a device that edits one meanwhile is told; a device that still names the one that is
gone is understood (``farms.merged``). Frozen protocols get an amendment, and the history of both stays.
"""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any, Literal, cast, get_args
from uuid import UUID

from cultrix_core.errors import Refusal
from django.apps import apps
from django.db import models, transaction

from apps.accounts.models import AccountLink, MembershipFarm, User, Workspace
from apps.accounts.queries import workspace_for
from apps.accounts.rights import require
from apps.accounts.services import save_as
from apps.audit.services import note
from apps.base.errors import Conflict, Forbidden, NotFound
from apps.base.quantities import Measured
from apps.farms.models import Field, Machine, Merged, SeedLot
from apps.records.models import FieldRecord
from apps.trials.editing import saved
from apps.trials.models import Trial
from apps.trials.treatments import reweigh_levels

What = Literal["farm", "field", "lot", "machine"]
WHATS: tuple[What, ...] = get_args(What)
MODELS: dict[str, type[models.Model]] = {"field": Field, "lot": SeedLot, "machine": Machine}
QUIET = ("id", "workspace", "version", "name", "tag", "boundary", "boundary_said", "areas")


@dataclass(frozen=True, slots=True, kw_only=True)
class Merging:
    """What a merge would do: ``moves`` says what goes over, ``differs`` what the two say otherwise."""

    kept: str
    gone: str
    moves: list[str]
    differs: list[str]


def look(user: User, workspace_id: UUID, what: What, *, gone: str, kept: str) -> Merging:
    """What a merge would move and where the two differ; nothing is changed."""
    workspace = _workspace(user, workspace_id)
    if what == "farm":
        fields = _fields_of_farm(workspace, gone, kept)
        return Merging(kept=kept, gone=gone, moves=[_counted(len(fields), "field")], differs=[])
    leaving, staying = _two(workspace, what, gone, kept)
    moves = [
        _counted(len(rows), str(model._meta.verbose_name))
        for model, _, rows in _pointing(leaving)
        if rows and model is not Merged
    ]
    return Merging(kept=str(_called(staying)), gone=str(_called(leaving)), moves=moves, differs=_differences(leaving, staying))


def merge(user: User, workspace_id: UUID, what: What, *, gone: str, kept: str, accept: bool) -> Merging:
    """Put ``kept`` in the place of ``gone``; the one that is kept holds where they differ.

    Parameters
    ----------
    gone, kept : ids, or names of farms.
    accept : whether the person has seen where they differ.

    Raises
    ------
    Conflict : they differ and that was not accepted, or two fields of one name would lie on one farm.
    Refusal : the same twice, or lots of two crops.
    """
    with transaction.atomic():
        told = look(user, workspace_id, what, gone=gone, kept=kept)
        workspace = _workspace(user, workspace_id)
        if told.differs and not accept:
            raise Conflict(
                "differs",
                f"They are not the same: {'; '.join(told.differs)}. What {told.kept} says would hold from now on.",
                {"differs": told.differs},
            )
        if what == "farm":
            _merge_farms(user, workspace, gone, kept)
        else:
            _merge_rows(user, *_two(workspace, what, gone, kept))
        note(
            user,
            "merge",
            f"merged the {what} {told.gone} into {told.kept}",
            workspace=workspace,
            before={told.gone: "there", "moved": ""},
            after={told.gone: f"now {told.kept}", "moved": ", ".join(told.moves) or "nothing"},
        )
    return told


def _workspace(user: User, workspace_id: UUID) -> Workspace:
    workspace = workspace_for(user, workspace_id)
    if require(user, workspace, "design").farms is not None:
        raise Forbidden("Your part reaches some farms only; what is entered twice is merged by somebody who sees all of them.")
    return workspace


def _fields_of_farm(workspace: Workspace, gone: str, kept: str) -> list[Field]:
    fields = list(workspace.fields.filter(farm=gone))
    if gone == kept or not gone or not fields or not workspace.fields.filter(farm=kept).exists():
        farms = ", ".join(sorted({*workspace.fields.values_list("farm", flat=True)} - {""}))
        raise Refusal("unknown_choice", field="gone", label="Two farms", value=f"{gone}, {kept}", limit=farms)
    twins = sorted({field.name for field in fields} & set(workspace.fields.filter(farm=kept).values_list("name", flat=True)))
    if twins:
        raise Conflict(
            "same_fields",
            f"Both farms have a field called {', '.join(twins)}. Merge those fields, or rename one of them, first.",
        )
    return fields


def _merge_farms(user: User, workspace: Workspace, gone: str, kept: str) -> None:
    reason = f"farm {gone} merged into {kept}"
    for field in _fields_of_farm(workspace, gone, kept):
        field.farm = kept
        field.version += 1
        save_as(field, user, reason)
        for trial in field.trials.all():
            saved(trial, user, reason, reason)
    for row in MembershipFarm.objects.filter(membership__workspace=workspace, farm=gone):
        if row.membership.farms.filter(farm=kept).exists():
            row.delete()
        else:
            row.farm = kept
            row.save(update_fields=["farm"])
    for link in AccountLink.objects.filter(workspace=workspace, used_at=None):
        if gone in link.farms:
            link.farms = sorted({kept, *link.farms} - {gone})
            link.save(update_fields=["farms"])


def _two(workspace: Workspace, what: What, gone: str, kept: str) -> tuple[Any, Any]:
    model = MODELS[what]
    if gone == kept:
        raise Refusal("unknown_choice", field="gone", label="The same", value="twice", limit="two of them")
    rows = {str(row.pk): row for row in model._default_manager.filter(workspace=workspace, pk__in=[_uuid(gone), _uuid(kept)])}
    if len(rows) != 2:
        raise NotFound
    leaving, staying = rows[gone], rows[kept]
    if isinstance(leaving, SeedLot) and isinstance(staying, SeedLot) and leaving.crop != staying.crop:
        raise Refusal("unknown_choice", field="gone", label="Lots", value="of two crops", limit="lots of one crop")
    if isinstance(leaving, Machine) and isinstance(staying, Machine) and leaving.kind != staying.kind:
        raise Refusal("unknown_choice", field="gone", label="Machines", value="of two kinds", limit="machines of one kind")
    return leaving, staying


def _uuid(text: str) -> UUID:
    try:
        return UUID(text)
    except ValueError as error:
        raise NotFound from error


def _differences(leaving: Any, staying: Any) -> list[str]:
    """What the two say otherwise, as it was typed; what only the kept one says is no contradiction."""
    model = type(leaving)
    measured = [item for item in vars(model).values() if isinstance(item, Measured)]
    parts = {column for item in measured for column in item.names}
    pairs = []
    for item in measured:
        was, now = (" ".join(getattr(row, name) for name in item.names[:2]).strip() for row in (leaving, staying))
        same = getattr(leaving, item.names[2]) == getattr(staying, item.names[2])
        pairs.append((item.names[0].removesuffix("_typed"), was, was if same else now))
    for field in model._meta.concrete_fields:
        if field.name not in QUIET and field.name not in parts:
            was, now = getattr(leaving, field.attname), getattr(staying, field.attname)
            pairs.append((field.name, "" if was in (None, "") else str(was), "" if now in (None, "") else str(now)))
    differing = [f"{name.replace('_', ' ')} {was}, not {now or 'said'}" for name, was, now in pairs if was and was != now]
    if isinstance(leaving, Field) and leaving.boundary not in (None, staying.boundary):
        differing.append("the boundary (layouts stay as they were drawn)")
    return differing


def _pointing(row: Any) -> list[tuple[type[models.Model], str, list[Any]]]:
    """Rows that point at one, by table and column; history keeps what it was."""
    return [
        (model, field.name, list(model._default_manager.filter(**{field.name: row.pk})))
        for model in apps.get_models()
        if not hasattr(model, "history_date")
        for field in model._meta.get_fields()
        if isinstance(field, models.ForeignKey) and field.related_model is type(row)
    ]


def _merge_rows(user: User, leaving: Any, staying: Any) -> None:
    reason = f"{_called(leaving)} merged into {_called(staying)}"
    trials: set[UUID] = set()
    for model, name, rows in _pointing(leaving):
        field = cast(Any, model._meta.get_field(name))
        if field.one_to_one and model._default_manager.filter(**{name: staying.pk}).exists():
            model._default_manager.filter(**{name: leaving.pk}).delete()  # the kept one has its own
            continue
        for row in rows:
            setattr(row, name, staying)
            if isinstance(row, FieldRecord):
                row.version += 1
            if isinstance(row, Trial):
                trials.add(row.pk)
            elif hasattr(model, "history"):
                save_as(row, user, reason)
            else:
                row.save()
                if getattr(row, "trial_id", None) is not None:
                    trials.add(row.trial_id)
    Merged.objects.filter(kept=leaving.pk).update(kept=staying.pk)
    Merged.objects.create(workspace=staying.workspace, gone=leaving.pk, kept=staying.pk)
    for trial in staying.workspace.trials.all():
        _retell(user, trial, leaving, staying, touched=trial.pk in trials, reason=reason)
    leaving._history_user, leaving._change_reason = user, reason[:100]
    leaving.delete()


def _retell(user: User, trial: Trial, leaving: Any, staying: Any, *, touched: bool, reason: str) -> None:
    """A trial that names the one that is gone, in its field, its seed or the machines of its layout, names the other."""
    text = json.dumps(trial.plan)
    if not touched and str(leaving.pk) not in text:
        return
    if isinstance(leaving, Field) and trial.field_id == leaving.pk:
        trial.field = staying
    trial.plan = json.loads(text.replace(str(leaving.pk), str(staying.pk)))
    if isinstance(leaving, SeedLot):
        reweigh_levels(trial)
    saved(trial, user, reason, reason)


def _counted(number: int, word: str) -> str:
    return f"{number} {word}{'' if number == 1 else 's'}"


def _called(row: Any) -> str:
    return row.name if isinstance(row, Machine) else str(row)
