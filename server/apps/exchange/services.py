"""A finished trial from a file: looked at first, then taken in whole or not at all."""

from __future__ import annotations

from dataclasses import dataclass
from uuid import UUID, uuid4

from cultrix_core.crops import crop
from cultrix_core.design.randomise import MOST_BLOCKS, MOST_TREATMENTS, PlannedStrip
from cultrix_core.errors import Refusal
from cultrix_core.tables import MappedRow, Table, map_strips, read_table
from cultrix_core.units import find_unit
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from django.utils import timezone

from apps.accounts.models import User, Workspace
from apps.accounts.queries import workspace_for
from apps.accounts.rights import require
from apps.accounts.services import save_as
from apps.base.errors import RowProblems
from apps.base.quantities import TypedIn
from apps.field.harvest.schemas import HarvestLoadIn
from apps.field.harvest.services import put_harvest_load
from apps.intake.quota import admit
from apps.intake.services import text_in
from apps.trials.layout import lay_strips
from apps.trials.models import Factor, Level, Treatment, Trial
from apps.trials.services import add_trial


@dataclass(frozen=True, slots=True, kw_only=True)
class Mapping:
    """Which column is what, and the trial's own facts."""

    block: str
    treatment: str
    response: str
    unit: str
    title: str
    crop: str
    season: int
    control: str
    factor_name: str


def read_upload(user: User, workspace: Workspace, file: UploadedFile) -> Table:
    """The table in an uploaded file; refuses files over the limit and text that is not UTF-8."""
    admit(user, workspace, "table", file.size or 0)
    return read_table(text_in(file, remedy="A trial of a thousand strips is far smaller; is it the right file?"))


def import_trial(user: User, workspace_id: UUID, file: UploadedFile, mapping: Mapping) -> Trial:
    """A trial from a file. Problems are listed by row and nothing is taken in while one remains."""
    workspace = workspace_for(user, workspace_id)
    require(user, workspace, "design")
    table = read_upload(user, workspace, file)
    rows, problems = map_strips(table, block=mapping.block, treatment=mapping.treatment, response=mapping.response)
    if problems:
        raise RowProblems([{"row": problem.line, "field": problem.column, "message": problem.text} for problem in problems])
    profile = crop(mapping.crop)
    find_unit("mass_per_area", mapping.unit, field="unit")
    if find_unit("mass_per_area", mapping.unit).bushel and profile.bushel_kg is None:
        raise Refusal("needs_bushel", field="unit", label="Yield", value=mapping.unit)
    blocks, treatments = _check_design(rows, mapping)
    with transaction.atomic():
        trial = add_trial(user, workspace_id, title=mapping.title, crop_key=mapping.crop, season=mapping.season)
        _take_in(user, trial, rows, mapping, blocks, treatments)
    return trial


def _check_design(rows: tuple[MappedRow, ...], mapping: Mapping) -> tuple[list[str], list[str]]:
    blocks = list(dict.fromkeys(row.block for row in rows))
    treatments = list(dict.fromkeys(row.treatment for row in rows))
    if len(treatments) < 2:
        raise Refusal("too_few_treatments", field="treatment", value=len(treatments))
    if len(treatments) > MOST_TREATMENTS or len(blocks) > MOST_BLOCKS:
        raise Refusal(
            "too_large",
            field="treatment",
            label="Treatments and blocks",
            value=f"{len(treatments)} and {len(blocks)}",
            limit=f"{MOST_TREATMENTS} and {MOST_BLOCKS}",
            remedy="Is the right column chosen?",
        )
    if len(blocks) == 1 and len(rows) > len(treatments):
        raise Refusal("too_few_blocks", field="block", value=1)
    if mapping.control and mapping.control not in treatments:
        raise Refusal(
            "unknown_choice", field="control", label="Control", value=mapping.control, limit=", ".join(treatments[:12])
        )
    if all(row.response is None for row in rows):
        raise Refusal("no_response", field="response")
    return blocks, treatments


def _take_in(
    user: User, trial: Trial, rows: tuple[MappedRow, ...], mapping: Mapping, blocks: list[str], names: list[str]
) -> None:
    factor = Factor.objects.create(trial=trial, kind="free", name=mapping.factor_name.strip()[:60] or mapping.treatment[:60])
    treatments = {}
    for position, name in enumerate(names):
        treatment = Treatment(
            trial=trial,
            position=position,
            is_control=name == (mapping.control or names[0]),
        )
        save_as(treatment, user, "read from a file")
        treatment.levels.add(Level.objects.create(factor=factor, name=name, position=position))
        treatments[name] = treatment
    plan = [
        PlannedStrip(order=place, block=blocks.index(row.block) + 1, treatment=row.treatment)
        for place, row in enumerate(rows, start=1)
    ]
    strips = lay_strips(user, trial, plan, treatments, None, None, block_names=blocks)
    for strip, row in zip(strips, rows, strict=True):
        if row.response is None:
            strip.lost, strip.reason = True, f"no response in row {row.line} of the file"
            save_as(strip, user, strip.reason)
            continue
        put_harvest_load(
            user,
            trial.id,
            uuid4(),
            HarvestLoadIn(
                strip_id=strip.id,
                method="stated",
                stated_yield=TypedIn(text=row.response_text, unit=mapping.unit),
                recorded_at=timezone.now(),
            ),
        )
    trial.design, trial.drawn = ("rcbd" if len(blocks) > 1 else "unreplicated"), False
    trial.question = trial.question or "Read from a file."
    save_as(trial, user, "read from a file")
