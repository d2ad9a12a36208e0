"""Finished trials from files."""

from typing import Literal
from uuid import UUID

from django.http import FileResponse, HttpRequest, HttpResponse
from django.utils.text import slugify
from ninja import File, Form, Query, Router, Schema, Status
from ninja.files import UploadedFile

from apps.accounts.queries import actor, workspace_for
from apps.exchange import leaving, services, strips
from apps.exchange.farm_archive import archive_of
from apps.exchange.package.reading import There, read_package
from apps.exchange.package.writing import package_of
from apps.exchange.workbook import csv_of, workbook_of
from apps.pages.trial.output import trial_out
from apps.report.layout_sheet import layout_pdf
from apps.trial_state.view import view
from apps.trials.queries import trial_for
from apps.trials.schemas import TrialOut

router = Router(tags=["exchange"])
PREVIEW_ROWS = 8


class PreviewOut(Schema):
    """What the file holds, before anything is taken in."""

    columns: list[str]
    rows: list[list[str]]
    row_count: int
    values: dict[str, list[str]]


class MappingIn(Schema):
    block: str
    treatment: str
    response: str
    unit: str
    title: str
    crop: str
    season: int
    control: str = ""
    factor_name: str = ""


@router.post("/workspaces/{workspace_id}/import-preview", response=PreviewOut, operation_id="preview_import")
def preview_import(request: HttpRequest, workspace_id: UUID, file: File[UploadedFile]):
    user = actor(request)
    table = services.read_upload(user, workspace_for(user, workspace_id), file)
    values = {name: list(dict.fromkeys(row[place] for row in table.rows))[:40] for place, name in enumerate(table.columns)}
    return PreviewOut(
        columns=list(table.columns),
        rows=[list(row) for row in table.rows[:PREVIEW_ROWS]],
        row_count=len(table.rows),
        values=values,
    )


@router.post("/workspaces/{workspace_id}/import", response={201: TrialOut}, operation_id="import_trial")
def import_trial(request: HttpRequest, workspace_id: UUID, mapping: Form[MappingIn], file: File[UploadedFile]):
    user = actor(request)
    trial = services.import_trial(user, workspace_id, file, services.Mapping(**mapping.dict()))
    return Status(201, trial_out(view(user, trial_for(user, trial.id)), user))


class LayoutFileIn(Schema):
    version: int
    amendment: str = ""


@router.get("/trials/{trial_id}/strips-file", operation_id="export_strips", response={200: bytes})
def export_strips(
    request: HttpRequest,
    trial_id: UUID,
    format: Literal["geojson", "gpkg", "zip", "kml", "csv", "pdf"],  # noqa: A002 - the word people use
    driving: Literal["as_laid", "fewest_changes"] = "as_laid",
    reserve_pct: float = 10.0,
):
    user = actor(request)
    result = view(user, trial_for(user, trial_id))
    if format == "pdf":
        content, kind = layout_pdf(result, driving=driving, reserve_pct=reserve_pct), "application/pdf"
    else:
        content, kind = strips.file_of(result, format)
    name = f"{slugify(result.trial.title)[:60] or 'trial'}-strips.{format}"
    return HttpResponse(content, content_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'})


DATA_FILES = {
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    "csv": "text/csv; charset=utf-8",
    "zip": "application/zip",
}


@router.get("/trials/{trial_id}/data-file", operation_id="export_data", response={200: bytes})
def export_data(
    request: HttpRequest,
    trial_id: UUID,
    format: Literal["xlsx", "csv", "zip"],  # noqa: A002 - the word people use
):
    user = actor(request)
    result = view(user, trial_for(user, trial_id))
    makers = {"xlsx": lambda: workbook_of(user, result), "csv": lambda: csv_of(result), "zip": lambda: package_of(result)}
    content = makers[format]()
    name = f"{slugify(result.trial.title)[:60] or 'trial'}{'-package' if format == 'zip' else ''}.{format}"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return HttpResponse(content, content_type=DATA_FILES[format], headers=headers)


@router.post("/workspaces/{workspace_id}/packages", response={201: TrialOut}, operation_id="import_package")
def import_package(request: HttpRequest, workspace_id: UUID, file: File[UploadedFile], there: There = "ask"):
    user = actor(request)
    trial = read_package(user, workspace_id, file, there)
    return Status(201, trial_out(view(user, trial_for(user, trial.id)), user))


@router.post("/trials/{trial_id}/layout-file", response=TrialOut, operation_id="import_layout")
def import_layout(request: HttpRequest, trial_id: UUID, body: Form[LayoutFileIn], file: File[UploadedFile]):
    user = actor(request)
    trial = strips.import_layout(user, trial_id, body.version, file, body.amendment)
    return trial_out(view(user, trial_for(user, trial.id)), user)


class FarmAsked(Schema):
    farm: str


class EraseFarmIn(Schema):
    """``typed``: the farm's name once more, by whoever erases it."""

    farm: str
    typed: str
    reason: str


class ErasingOut(Schema):
    """What is erased with a farm; ``people``: those who reach nothing else."""

    farm: str
    trials: int
    fields: int
    people: list[str]


def _erasing_out(told: leaving.Erasing) -> ErasingOut:
    return ErasingOut(farm=told.farm, trials=told.trials, fields=told.fields, people=list(told.people))


@router.get("/workspaces/{workspace_id}/farm-archive", operation_id="farm_archive", response={200: None})
def farm_archive(request: HttpRequest, workspace_id: UUID, asked: Query[FarmAsked]):
    user = actor(request)
    file = archive_of(user, workspace_for(user, workspace_id), asked.farm)
    name = f"{slugify(asked.farm)[:60] or 'farm'}.zip"
    return FileResponse(file, as_attachment=True, filename=name, content_type="application/zip")


@router.get("/workspaces/{workspace_id}/farm-erasing", response=ErasingOut, operation_id="look_at_erasing")
def look_at_erasing(request: HttpRequest, workspace_id: UUID, asked: Query[FarmAsked]):
    return _erasing_out(leaving.look(actor(request), workspace_id, asked.farm))


@router.post("/workspaces/{workspace_id}/farm-erasing", response=ErasingOut, operation_id="erase_farm")
def erase_farm(request: HttpRequest, workspace_id: UUID, body: EraseFarmIn):
    told = leaving.erase(actor(request), workspace_id, body.farm, typed=body.typed, reason=body.reason)
    return _erasing_out(told)
