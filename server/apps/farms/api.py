"""Fields."""

from uuid import UUID

from cultrix_core.showing import Shower
from django.http import HttpRequest
from ninja import Router, Schema, Status

from apps.accounts.selectors import actor, shower_for, workspace_for
from apps.farms import services
from apps.farms.models import LENGTH, WIDTH, Field
from apps.quantities import TypedIn, TypedOut, out

router = Router(tags=["farms"])


class FieldIn(Schema):
    name: str
    farm: str = ""
    width: TypedIn
    length: TypedIn


class FieldOut(Schema):
    id: UUID
    name: str
    farm: str
    width: TypedOut
    length: TypedOut


def field_out(field: Field, show: Shower) -> FieldOut:
    """A field for an answer."""
    return FieldOut(
        id=field.id, name=field.name, farm=field.farm, width=out(field, WIDTH, show), length=out(field, LENGTH, show)
    )


@router.get("/workspaces/{workspace_id}/fields", response=list[FieldOut], operation_id="fields")
def fields(request: HttpRequest, workspace_id: UUID):
    workspace = workspace_for(actor(request), workspace_id)
    show = shower_for(actor(request), workspace)
    return [field_out(field, show) for field in workspace.fields.order_by("farm", "name")]


@router.post("/workspaces/{workspace_id}/fields", response={201: FieldOut}, operation_id="add_field")
def add_field(request: HttpRequest, workspace_id: UUID, body: FieldIn):
    field = services.add_field(
        actor(request), workspace_id, name=body.name, farm=body.farm, width=body.width, length=body.length
    )
    return Status(201, field_out(field, shower_for(actor(request), field.workspace)))
