from datetime import date, datetime
from typing import Literal
from uuid import UUID

from ninja import Schema

from apps.quantities import TypedIn, TypedOut
from apps.shown import QuestionOut, ShownOut, WorkingOut

CountMethod = Literal["rows", "quadrat"]
LoadMethod = Literal["weighed", "stated"]
RecordKind = Literal[
    "stand-count",
    "harvest-load",
    "field-event",
    "planting-record",
    "depth-check",
    "deviation",
    "seedbed-check",
    "tillage-pass",
    "calibration",
]
EventKind = Literal["rain", "frost", "hail", "spray", "nutrients", "weeds", "pests", "disease", "lodging", "machine", "note"]


class StandCountIn(Schema):
    """A count as it was typed. ``version`` only when editing."""

    strip_id: UUID
    method: CountMethod
    plants: str
    length: TypedIn = TypedIn()
    rows: str = ""
    row_spacing: TypedIn = TypedIn()
    area: TypedIn = TypedIn()
    by_eye: bool = False
    recorded_at: datetime
    version: int | None = None


class HarvestLoadIn(Schema):
    """A load as it was typed. ``version`` only when editing."""

    strip_id: UUID
    method: LoadMethod
    gross: TypedIn = TypedIn()
    tare: TypedIn = TypedIn()
    net: TypedIn = TypedIn()
    moisture: TypedIn = TypedIn()
    swath_width: TypedIn = TypedIn()
    length: TypedIn = TypedIn()
    stated_yield: TypedIn = TypedIn()
    recorded_at: datetime
    version: int | None = None


class SheetRowIn(HarvestLoadIn):
    id: UUID


class HarvestSheetIn(Schema):
    """Several loads at once: all are taken or none."""

    rows: list[SheetRowIn]


class FieldEventIn(Schema):
    kind: EventKind
    happened_on: date
    text: str
    strip_ids: list[UUID] = []
    recorded_at: datetime
    version: int | None = None


class StrikeIn(Schema):
    """Strike a record with a reason, or take it back with ``struck`` false."""

    struck: bool
    reason: str = ""
    version: int


class StruckOut(Schema):
    id: UUID
    version: int
    struck: bool


class StandCountOut(Schema):
    id: UUID
    strip_id: UUID
    version: int
    method: CountMethod
    plants: int
    rows: int | None
    length: TypedOut
    row_spacing: TypedOut
    area: TypedOut
    by_eye: bool
    plants_per_m2: float
    stand: ShownOut
    share_pct: float | None
    working: WorkingOut
    questions: list[QuestionOut]
    recorded_at: datetime
    recorded_by: str


class PrecisionOut(Schema):
    n: int
    mean: ShownOut
    half_width: ShownOut | None
    share_pct: float | None
    needed: int | None
    more: int | None
    working: WorkingOut


class StripStandOut(Schema):
    strip_id: UUID
    seeds_per_m2: float | None
    share_pct: float | None
    row_spacing: TypedOut
    counts: list[StandCountOut]
    precision: PrecisionOut | None


class TapeOut(Schema):
    """Length of row that holds the share of an area unit at one row spacing."""

    row_spacing: str
    rows: int
    share: str
    exact: str
    tape: str
    tape_m: float
    working: WorkingOut


class TreatmentStandOut(Schema):
    treatment_id: UUID
    name: str
    stand: ShownOut | None
    share_pct: float | None
    counts: int
    working: WorkingOut | None


class DensityUnitOut(Schema):
    """How the reader sees plants per area: shown = per m² ÷ factor."""

    label: str
    factor: float
    decimals: int


class StandOut(Schema):
    level_pct: float
    wanted_pct: float
    density_unit: DensityUnitOut
    tapes: list[TapeOut]
    strips: list[StripStandOut]
    treatments: list[TreatmentStandOut]


class HarvestLoadOut(Schema):
    id: UUID
    strip_id: UUID
    version: int
    method: LoadMethod
    gross: TypedOut
    tare: TypedOut
    net: TypedOut
    moisture: TypedOut
    swath_width: TypedOut
    length: TypedOut
    stated_yield: TypedOut
    yield_: ShownOut
    working: WorkingOut | None
    questions: list[QuestionOut]
    recorded_at: datetime
    recorded_by: str


class StripHarvestOut(Schema):
    strip_id: UUID
    loads: list[HarvestLoadOut]
    yield_: ShownOut | None
    working: WorkingOut | None


class HarvestOut(Schema):
    standard_moisture_pct: float | None
    strips: list[StripHarvestOut]


class FieldEventOut(Schema):
    id: UUID
    version: int
    kind: str
    kind_label: str
    happened_on: date
    text: str
    strip_ids: list[UUID]
    recorded_by: str
