"""Writing fields and machines."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from cultrix_core.design.geometry import polygon_of
from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.units import parse_number
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction

from apps.accounts.models import User, Workspace
from apps.accounts.queries import workspace_for
from apps.accounts.rights import require, require_farm, within_reach
from apps.accounts.services import save_as
from apps.base.errors import Conflict, NotFound
from apps.base.geometry_checks import check_degrees
from apps.base.quantities import fill
from apps.farms.models import LENGTH, MACHINE_WIDTH, WIDTH, Field, Machine
from apps.farms.schemas import AreaIn, FieldIn, FieldPatchIn, MachineIn
from apps.geography import frames
from apps.intake.quota import admit
from apps.intake.services import outline_in

MOST_AREAS = 40


def add_field(user: User, workspace_id: UUID, body: FieldIn) -> Field:
    """A new field: a name, and a rectangle or corners; the boundary may also come later, from a file."""
    workspace = workspace_for(user, workspace_id)
    require_farm(require(user, workspace, "design"), body.farm.strip()[:80])
    if not body.name.strip():
        raise Refusal("missing", field="name", label="The field's name", remedy="Give it the name the farm uses.")
    field = Field(workspace=workspace, name=body.name.strip()[:80], farm=body.farm.strip()[:80])
    if body.corners.strip():
        _put_corners(field, body.corners, body.corners_in)
    for quantity, typed in ((WIDTH, body.width), (LENGTH, body.length)):
        fill(field, quantity, typed)
        value = getattr(field, quantity.value_column)
        if value is None and field.boundary is None and not body.shape_later:
            raise Refusal("missing", field=quantity.name, label=quantity.label, remedy="Pace it, or read it off a map.")
        if value is not None:
            require_positive(value, quantity.name, label=quantity.label, unit=" m")
    with transaction.atomic():
        _refuse_twin(Field, workspace, "Field", str(field), name=field.name, farm=field.farm)
        save_as(field, user, "added")
    return field


def _refuse_twin(model: type[Field] | type[Machine], workspace: Workspace, label: str, value: str, **same: str) -> None:
    if model._default_manager.filter(workspace=workspace, **same).exists():
        raise Refusal(
            "duplicate", field="name", label=label, value=value, remedy="Choose another name, or use the one there is."
        )


def fields_of(user: User, workspace: Workspace) -> list[Field]:
    """Fields of a workspace on the farms within reach."""
    return list(workspace.fields.filter(within_reach(user, farm="farm")).order_by("farm", "name"))


def field_for(user: User, field_id: UUID) -> Field:
    """A field of one of the person's workspaces, else ``NotFound``."""
    field = Field.objects.filter(within_reach(user, farm="farm"), id=field_id).select_related("workspace").first()
    if field is None:
        raise NotFound
    return field


def _writable(user: User, field_id: UUID, version: int) -> Field:
    field = field_for(user, field_id)
    require(user, field.workspace, "design")
    if version != field.version:
        raise Conflict(
            "stale", "This field was changed elsewhere meanwhile; look at what is there now.", {"version": field.version}
        )
    return field


def _saved(field: Field, user: User, reason: str) -> Field:
    field.version += 1
    save_as(field, user, reason)
    return field


def edit_field(user: User, field_id: UUID, body: FieldPatchIn) -> Field:
    """Change size, corners, directions or areas of a field; layouts drawn on it stay as they were drawn."""
    with transaction.atomic():
        field = _writable(user, field_id, body.version)
        sent = body.model_fields_set
        for quantity in (WIDTH, LENGTH):
            if quantity.name in sent:
                fill(field, quantity, getattr(body, quantity.name))
                value = getattr(field, quantity.value_column)
                if value is not None:
                    require_positive(value, quantity.name, label=quantity.label, unit=" m")
        if "corners" in sent and body.corners is not None:
            if body.corners.strip():
                _put_corners(field, body.corners, body.corners_in)
            else:
                field.boundary, field.boundary_in_m, field.boundary_said, field.areas = None, False, "", []
        for name, label in (("heading_deg", "Driving direction"), ("gradient_deg", "Direction of the gradient")):
            if name.removesuffix("_deg") in sent:
                setattr(field, name, _degrees(getattr(body, name.removesuffix("_deg")), name.removesuffix("_deg"), label))
        if "areas" in sent and body.areas is not None:
            _put_areas(field, body.areas)
        return _saved(field, user, f"changed {', '.join(sorted(sent - {'version'}))}")


def _degrees(text: str | None, name: str, label: str) -> float | None:
    if not (text or "").strip():
        return None
    return require_between(parse_number(text or "", field=name, label=label), 0, 360, name, label=label, unit="°") % 360


def _corners(text: str, field: str) -> list[tuple[float, float]]:
    """Pairs of numbers, one a line or between semicolons, as typed."""
    rows = [row.strip() for row in text.replace(";", "\n").splitlines() if row.strip()]
    corners = []
    for number, row in enumerate(rows, start=1):
        parts = [part for part in row.replace("\t", " ").replace(", ", " ").replace(",", " ").split(" ") if part]
        if len(parts) != 2:
            raise Refusal(
                "bad_geometry",
                field=field,
                label=f"Corner {number}, “{row[:30]}”,",
                value="it is not two numbers",
                remedy="Write one corner a line, such as 47.123 8.456.",
            )
        corners.append(
            (
                parse_number(parts[0], field=field, label=f"Corner {number}"),
                parse_number(parts[1], field=field, label=f"Corner {number}"),
            )
        )
    return corners


def _put_corners(field: Field, text: str, kind: str) -> None:
    """Corners typed as latitude and longitude, or as metres east and north."""
    pairs = _corners(text, "corners")
    if kind == "m":
        polygon_of(tuple(pairs), field="corners")
        points = pairs
    else:
        points = [(lon, lat) for lat, lon in pairs]
        ring = [*points, points[0]] if points else []
        if len(points) >= 3:
            shape = frames.polygon_from({"type": "Polygon", "coordinates": [ring]})
            check_degrees(shape, field="corners", label="The outline")
            polygon_of(frames.to_metres(points, frames.frame_of(shape)), field="corners")
        else:
            raise Refusal(
                "bad_geometry", field="corners", label="The corners", value="fewer than three", remedy="Give at least three."
            )
    field.boundary = {"type": "Polygon", "coordinates": [[list(point) for point in [*points, points[0]]]]}
    field.boundary_in_m, field.boundary_said, field.areas = kind == "m", f"{len(points)} corners typed in.", []


def _put_areas(field: Field, areas: list[AreaIn]) -> None:
    if len(areas) > MOST_AREAS:
        raise Refusal("too_large", field="areas", label="Areas", value=len(areas), limit=MOST_AREAS)
    kept: list[dict[str, Any]] = []
    for area in areas:
        pairs = _corners(area.corners, "areas")
        in_m = field.boundary_in_m or field.boundary is None
        points = pairs if in_m else [(lon, lat) for lat, lon in pairs]
        if len(points) < 3:
            raise Refusal(
                "bad_geometry",
                field="areas",
                label=area.name or "The area",
                value="fewer than three corners",
                remedy="Give at least three.",
            )
        ring = tuple(points) if in_m else frames.to_metres(points, frames.frame_of(frames.polygon_from(field.boundary or {})))
        polygon_of(ring, label=area.name or "The area", field="areas")
        kept.append(
            {
                "kind": area.kind,
                "name": area.name.strip()[:60],
                "corners": [list(point) for point in points],
                "typed": area.corners[:4000],
            }
        )
    field.areas = kept


def put_boundary(user: User, field_id: UUID, version: int, file: UploadedFile) -> Field:
    """Take the boundary of a field from a file; mended where it must be, refused with the reason where it cannot."""
    field = _writable(user, field_id, version)
    admit(user, field.workspace, "boundary", file.size or 0)
    outline = outline_in(file)
    polygon_of(frames.to_metres(list(outline.polygon.exterior.coords)[:-1], frames.frame_of(outline.polygon)))
    with transaction.atomic():
        field = _writable(user, field_id, version)
        field.boundary, field.boundary_in_m = frames.polygon_json(outline.polygon), False
        field.boundary_said, field.areas = " ".join(outline.said), []
        return _saved(field, user, "boundary from a file")


def add_machine(user: User, workspace_id: UUID, body: MachineIn) -> Machine:
    """A new machine with its working width."""
    workspace = workspace_for(user, workspace_id)
    require(user, workspace, "design")
    if not body.name.strip():
        raise Refusal("missing", field="name", label="The machine's name", remedy="Such as “6 m drill”.")
    machine = Machine(workspace=workspace, name=body.name.strip()[:80], kind=body.kind)
    fill(machine, MACHINE_WIDTH, body.width)
    if machine.width.value is None:
        raise Refusal("missing", field="width", label="Working width", remedy="Measure it in the ground, not on the frame.")
    require_between(machine.width.value, 0.05, 80, "width", label="Working width", unit=" m")
    with transaction.atomic():
        _refuse_twin(Machine, workspace, "Machine", machine.name, name=machine.name)
        save_as(machine, user, "added")
    return machine
