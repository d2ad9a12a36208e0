from datetime import date
from typing import Literal
from uuid import UUID

from ninja import Schema

from apps.base.formatting import QuestionOut, WorkingOut
from apps.base.quantities import TypedIn, TypedOut

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


class SeedLotIn(Schema):
    """A lot as its tag tells it. A bag holds ``bag_seeds`` or ``bag_weight``."""

    crop: str
    name: str
    tag: str = ""
    thousand_seed_weight: TypedIn = TypedIn()
    weight_of: Literal["bare", "coated"] = "bare"
    germination: TypedIn = TypedIn()
    tested_on: date | None = None
    hard_seed: TypedIn = TypedIn()
    purity: TypedIn = TypedIn()
    purity_of: Literal["seed", "bag"] = "seed"
    coating: TypedIn = TypedIn()
    treated: bool = False
    treatment: str = ""
    bag_price: TypedIn = TypedIn()
    bag_seeds: TypedIn = TypedIn()
    bag_weight: TypedIn = TypedIn()


class SeedLotPatchIn(Schema):
    """Only what is sent is changed. ``amendment``: the reason, when a frozen trial sows this lot."""

    version: int
    name: str | None = None
    tag: str | None = None
    thousand_seed_weight: TypedIn | None = None
    weight_of: Literal["bare", "coated"] | None = None
    germination: TypedIn | None = None
    tested_on: date | None = None
    hard_seed: TypedIn | None = None
    purity: TypedIn | None = None
    purity_of: Literal["seed", "bag"] | None = None
    coating: TypedIn | None = None
    treated: bool | None = None
    treatment: str | None = None
    bag_price: TypedIn | None = None
    bag_seeds: TypedIn | None = None
    bag_weight: TypedIn | None = None
    amendment: str = ""


class SeedLotOut(Schema):
    """A lot, what follows from its tag, and what is asked about it. ``price`` is of a thousand seeds."""

    id: UUID
    version: int
    crop: str
    crop_name: str
    name: str
    tag: str
    title: str
    thousand_seed_weight: TypedOut
    weight_of: Literal["bare", "coated"]
    germination: TypedOut
    tested_on: date | None
    hard_seed: TypedOut
    purity: TypedOut
    purity_of: Literal["seed", "bag"]
    coating: TypedOut
    treated: bool
    treatment: str
    bag_price: TypedOut
    bag_seeds: TypedOut
    bag_weight: TypedOut
    pure_live: str
    price: str
    working: WorkingOut
    questions: list[QuestionOut]
