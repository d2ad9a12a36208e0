from datetime import date
from typing import Literal
from uuid import UUID

from ninja import Schema

from apps.farms.api import FieldOut
from apps.quantities import TypedIn, TypedOut
from apps.shown import ShownOut, WorkingOut

FactorKind = Literal["row_spacing", "seeding_rate", "seeding_depth", "tillage", "free"]
StageState = Literal["done", "partly", "due", "ahead"]


class NewTrialIn(Schema):
    title: str
    crop: str
    season: int


class TrialPatchIn(Schema):
    """Only what is sent is changed. ``version`` is the version the person was looking at."""

    version: int
    title: str | None = None
    crop: str | None = None
    season: int | None = None
    series: str | None = None
    field_id: UUID | None = None
    question: str | None = None
    guess: str | None = None
    primary_response: Literal["yield", "net_return"] | None = None
    alpha: float | None = None
    price: TypedIn | None = None
    unit_cost: TypedIn | None = None
    practical_margin: TypedIn | None = None
    net_margin: TypedIn | None = None
    row_spacing: TypedIn | None = None
    seeding_rate: TypedIn | None = None
    thousand_seed_weight: TypedIn | None = None
    planted_on: date | None = None


class TreatmentIn(Schema):
    id: UUID | None = None
    level: TypedIn
    is_control: bool = False
    extra_cost: TypedIn = TypedIn()


class TreatmentsIn(Schema):
    version: int
    factor_kind: FactorKind
    factor_name: str = ""
    treatments: list[TreatmentIn]


class LayoutIn(Schema):
    version: int
    design: Literal["rcbd", "unreplicated"]
    blocks: int
    strip_width: TypedIn
    strip_length: TypedIn
    seed: int | None = None


class StripPatchIn(Schema):
    """What really happened to a strip; ``reason`` is needed when it departs from the plan."""

    lost: bool
    sown_treatment_id: UUID | None
    reason: str


class AlongRowOut(Schema):
    """What a treatment's rate means along the row."""

    rate: str
    mass: str | None
    per_row: str
    in_row: str
    working: WorkingOut


class TreatmentOut(Schema):
    id: UUID
    letter: str
    position: int
    name: str
    level: TypedOut
    is_control: bool
    extra_cost: TypedOut
    margin: ShownOut | None
    margin_working: WorkingOut | None
    along_row: AlongRowOut | None


class StripOut(Schema):
    id: UUID
    order: int
    block: int
    block_name: str
    treatment_id: UUID
    received_id: UUID
    lost: bool
    reason: str
    width: ShownOut | None
    length: ShownOut | None
    counts: int
    stand: ShownOut | None
    loads: int
    yield_: ShownOut | None
    net_return: ShownOut | None
    net_return_working: WorkingOut | None


class StageOut(Schema):
    key: str
    label: str
    state: StageState
    note: str


class BoundOut(Schema):
    """Whether something may still be changed, and if not, why."""

    open: bool
    reason: str


class TrialOut(Schema):
    id: UUID
    workspace_id: UUID
    version: int
    writable: bool
    title: str
    crop: str
    crop_name: str
    season: int
    series: str
    field: FieldOut | None
    question: str
    guess: str
    primary_response: Literal["yield", "net_return"]
    alpha: float
    price: TypedOut
    unit_cost: TypedOut
    practical_margin: TypedOut
    net_margin: TypedOut
    row_spacing: TypedOut
    seeding_rate: TypedOut
    thousand_seed_weight: TypedOut
    planted_on: date | None
    factor_kind: FactorKind | None
    factor_name: str
    treatments: list[TreatmentOut]
    design: Literal["rcbd", "unreplicated", ""]
    drawn: bool
    seed: int | None
    blocks: int
    strips: list[StripOut]
    stages: list[StageOut]
    treatments_bound: BoundOut
    layout_bound: BoundOut
    crop_bound: BoundOut
    notes: list[str]


class TrialRowOut(Schema):
    """A trial on the shelf."""

    id: UUID
    title: str
    crop_name: str
    season: int
    series: str
    field_name: str
    design: str
    treatments: list[str]
    strips: list[StripOut]
    treatment_letters: dict[str, str]
    stages: list[StageOut]
    next_stage: str
    next_note: str


class DueOut(Schema):
    """Something due, with the reason."""

    trial_id: UUID
    trial_title: str
    stage: str
    stage_label: str
    what: str
    why: str
    urgency: int


class UnitOut(Schema):
    """A unit; ``factor`` to the canonical unit, None where the crop decides (bushels)."""

    code: str
    label: str
    system: Literal["metric", "us", "both"]
    factor: float | None


class CropOut(Schema):
    key: str
    name: str
    bushel_lb: float | None
    standard_moisture_pct: float | None
    planning_cv_pct: float


class CatalogueOut(Schema):
    """Crops, units by dimension and kinds of factor, for the choices on screen."""

    crops: list[CropOut]
    units: dict[str, list[UnitOut]]
    usual_units: dict[str, dict[str, str]]
    factor_kinds: list[tuple[str, str]]
    event_kinds: list[tuple[str, str]]
