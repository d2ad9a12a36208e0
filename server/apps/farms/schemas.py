from typing import Literal
from uuid import UUID

from ninja import Schema

from apps.quantities import TypedIn, TypedOut

MachineKind = Literal["planter", "tillage", "sprayer", "harvester"]
AreaKind = Literal["obstacle", "no_go"]


class AreaIn(Schema):
    """An area inside a field; corners as for the field itself."""

    kind: AreaKind
    name: str = ""
    corners: str


class FieldIn(Schema):
    """A new field. ``corners``: latitude and longitude a line, or metres; ``shape_later``: a file will bring it."""

    name: str
    farm: str = ""
    width: TypedIn = TypedIn()
    length: TypedIn = TypedIn()
    corners: str = ""
    corners_in: Literal["degrees", "m"] = "degrees"
    shape_later: bool = False


class FieldPatchIn(Schema):
    """Only what is sent is changed. Directions are degrees clockwise from north, empty for none."""

    version: int
    width: TypedIn | None = None
    length: TypedIn | None = None
    corners: str | None = None
    corners_in: Literal["degrees", "m"] = "degrees"
    heading: str | None = None
    gradient: str | None = None
    areas: list[AreaIn] | None = None


class AreaOut(Schema):
    kind: AreaKind
    name: str
    corners: str


class FieldOut(Schema):
    id: UUID
    version: int
    name: str
    farm: str
    width: TypedOut
    length: TypedOut
    boundary: list[list[float]]
    boundary_in_m: bool
    boundary_said: str
    size: str
    areas: list[AreaOut]
    heading: str
    gradient: str


class MachineIn(Schema):
    name: str
    kind: MachineKind
    width: TypedIn


class MachineOut(Schema):
    id: UUID
    name: str
    kind: MachineKind
    kind_name: str
    width: TypedOut
