"""Fields and machines."""

from datetime import date
from typing import Any, cast
from uuid import UUID

from cultrix_core.crops import crop
from cultrix_core.design.geometry import polygon_of
from cultrix_core.seeding.lot_workings import lot_working, questions_on_lot
from cultrix_core.unit_formatting import UnitFormatter, format_number
from django.http import HttpRequest
from django.utils import timezone
from ninja import File, Form, Router, Schema, Status
from ninja.files import UploadedFile

from apps.accounts.queries import actor, formatter_for, workspace_for
from apps.accounts.rights import reach_in
from apps.base.formatting import QuestionOut, working_out
from apps.base.quantities import MeasuredValue, out
from apps.farms import seed_lots, services
from apps.farms.models import LENGTH, MACHINE_WIDTH, TAG, WIDTH, Field, Machine, SeedLot
from apps.farms.schemas import (
    AreaOut,
    FieldIn,
    FieldOut,
    FieldPatchIn,
    MachineIn,
    MachineOut,
    SeedLotIn,
    SeedLotOut,
)
from apps.geography import frames

router = Router(tags=["farms"])


class VersionIn(Schema):
    version: int


def field_out(field: Field, show: UnitFormatter) -> FieldOut:
    """A field for an answer; the boundary in metres from its middle, for drawing."""
    ring, size = _outline(field, show)
    return FieldOut(
        id=field.id,
        version=field.version,
        name=field.name,
        farm=field.farm,
        width=out(field, WIDTH, show),
        length=out(field, LENGTH, show),
        boundary=ring,
        boundary_in_m=field.boundary_in_m,
        boundary_said=field.boundary_said,
        size=size,
        areas=[AreaOut(kind=area["kind"], name=area["name"], corners=area["typed"]) for area in field.areas],
        heading="" if field.heading_deg is None else f"{field.heading_deg:g}",
        gradient="" if field.gradient_deg is None else f"{field.gradient_deg:g}",
    )


def _outline(field: Field, show: UnitFormatter) -> tuple[list[list[float]], str]:
    if field.boundary is None:
        area = (field.width.value or 0) * (field.length.value or 0)
        return [], show.text(area, "area", decimals=2) if area else ""
    outer = field.boundary["coordinates"][0][:-1]
    shape = frames.polygon_from(field.boundary)
    ring = tuple((x, y) for x, y in outer) if field.boundary_in_m else frames.to_metres(outer, frames.frame_of(shape))
    area = polygon_of(ring).area * (shape.area / type(shape)(shape.exterior).area)
    return [[round(x, 2), round(y, 2)] for x, y in ring], show.text(area, "area", decimals=2)


@router.get("/workspaces/{workspace_id}/fields", response=list[FieldOut], operation_id="fields")
def fields(request: HttpRequest, workspace_id: UUID):
    workspace = workspace_for(actor(request), workspace_id)
    show = formatter_for(actor(request), workspace)
    return [field_out(field, show) for field in services.fields_of(actor(request), workspace)]


@router.post("/workspaces/{workspace_id}/fields", response={201: FieldOut}, operation_id="add_field")
def add_field(request: HttpRequest, workspace_id: UUID, body: FieldIn):
    field = services.add_field(actor(request), workspace_id, body)
    return Status(201, field_out(field, formatter_for(actor(request), field.workspace)))


@router.patch("/fields/{field_id}", response=FieldOut, operation_id="edit_field")
def edit_field(request: HttpRequest, field_id: UUID, body: FieldPatchIn):
    field = services.edit_field(actor(request), field_id, body)
    return field_out(field, formatter_for(actor(request), field.workspace))


@router.post("/fields/{field_id}/boundary-file", response=FieldOut, operation_id="put_boundary")
def put_boundary(request: HttpRequest, field_id: UUID, body: Form[VersionIn], file: File[UploadedFile]):
    field = services.put_boundary(actor(request), field_id, body.version, file)
    return field_out(field, formatter_for(actor(request), field.workspace))


def _machine_out(machine: Machine, show: UnitFormatter) -> MachineOut:
    return MachineOut(
        id=machine.id,
        name=machine.name,
        kind=cast(Any, machine.kind),
        kind_name=machine.get_kind_display(),
        width=out(machine, MACHINE_WIDTH, show),
    )


@router.get("/workspaces/{workspace_id}/machines", response=list[MachineOut], operation_id="machines")
def machines(request: HttpRequest, workspace_id: UUID):
    workspace = workspace_for(actor(request), workspace_id)
    show = formatter_for(actor(request), workspace)
    return [_machine_out(machine, show) for machine in workspace.machines.order_by("kind", "name")]


@router.post("/workspaces/{workspace_id}/machines", response={201: MachineOut}, operation_id="add_machine")
def add_machine(request: HttpRequest, workspace_id: UUID, body: MachineIn):
    machine = services.add_machine(actor(request), workspace_id, body)
    return Status(201, _machine_out(machine, formatter_for(actor(request), machine.workspace)))


def seed_lot_out(lot: SeedLot, show: UnitFormatter, *, sown_on: date | None = None) -> SeedLotOut:
    """A lot with its working and the questions it raises for a day of sowing, today where none is known."""
    tag, values, profile = seed_lots.tag_of(lot), seed_lots.values_of(lot), crop(lot.crop)
    questions = questions_on_lot(
        tag,
        crop=lot.crop,
        tested_on=lot.tested_on,
        sown_on=sown_on or timezone.localdate(),
        treated=lot.treated,
        treatment=lot.treatment,
        show=show,
    )
    return SeedLotOut(
        id=lot.id,
        version=lot.version,
        crop=lot.crop,
        crop_name=profile.title,
        name=lot.name,
        tag=lot.tag,
        title=str(lot),
        weight_of=cast(Any, lot.weight_of),
        purity_of=cast(Any, lot.purity_of),
        tested_on=lot.tested_on,
        treated=lot.treated,
        treatment=lot.treatment,
        **{quantity.name: out(lot, quantity, show) for quantity in TAG},
        pure_live="" if values.pls_frac is None else f"{format_number(100 * values.pls_frac, 1)} %",
        price="" if values.price_per_thousand is None else show.text(values.price_per_thousand, "money", decimals=3),
        working=working_out(lot_working(tag, show)),
        questions=[QuestionOut(code=question.code, field=question.field, text=question.text) for question in questions],
    )


@router.get("/workspaces/{workspace_id}/seed-lots", response=list[SeedLotOut], operation_id="seed_lots")
def lots(request: HttpRequest, workspace_id: UUID):
    workspace = workspace_for(actor(request), workspace_id)
    show = formatter_for(actor(request), workspace)
    lots_here = list(workspace.seed_lots.order_by("crop", "name", "tag"))
    if not reach_in(actor(request), workspace).may("money"):
        for lot in lots_here:
            lot.bag_price = MeasuredValue("", "", None)
    return [seed_lot_out(lot, show) for lot in lots_here]


@router.post("/workspaces/{workspace_id}/seed-lots", response={201: SeedLotOut}, operation_id="add_seed_lot")
def add_lot(request: HttpRequest, workspace_id: UUID, body: SeedLotIn):
    lot = seed_lots.add_lot(actor(request), workspace_id, body)
    return Status(201, seed_lot_out(lot, formatter_for(actor(request), lot.workspace)))
