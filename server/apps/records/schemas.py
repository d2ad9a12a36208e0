from datetime import date, datetime
from typing import Literal
from uuid import UUID

from ninja import Schema

from apps.quantities import TypedIn, TypedOut
from apps.shown import QuestionOut, ShownOut, WorkingOut

CountMethod = Literal["rows", "quadrat", "hoop"]
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
    "sampling-plan",
    "tape-run",
    "dug-plant",
    "plant-measure",
    "rating",
    "photo",
    "yield-sample",
    "grain-sample",
    "yield-log",
]
EventKind = Literal[
    "rain",
    "frost",
    "hail",
    "spray",
    "missed",
    "leak",
    "irrigation",
    "cut",
    "nutrients",
    "weeds",
    "pests",
    "disease",
    "lodging",
    "machine",
    "note",
]


class StandCountIn(Schema):
    """A count as it was typed. ``version`` only when editing."""

    strip_id: UUID
    method: CountMethod
    plants: str
    length: TypedIn = TypedIn()
    rows: str = ""
    row_spacing: TypedIn = TypedIn()
    area: TypedIn = TypedIn()
    diameter: TypedIn = TypedIn()
    gaps: int | None = None
    doubles: int | None = None
    plan_id: UUID | None = None
    place: int | None = None
    by_eye: bool = False
    recorded_at: datetime
    version: int | None = None


class SamplingPlanIn(Schema):
    """A plan of places; ``planned`` empty: as many as past variation asks for. ``version`` only when editing.

    ``purpose`` yield: ``method`` says how, and ``pieces`` are drawn at each place.
    """

    name: str
    purpose: Literal["stand", "yield"] = "stand"
    method: str = ""
    pieces: int | None = None
    planned: int | None = None
    reserve: int = 6
    wanted: TypedIn = TypedIn(text="5", unit="%")
    sample: TypedIn
    framed: bool = False
    rows: str = "1"
    end: TypedIn = TypedIn(text="5", unit="m")
    edge_rows: int = 1
    wheel_rows: str = ""
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
    passes: TypedIn = TypedIn()
    pieces: TypedIn = TypedIn()
    test_weight: TypedIn = TypedIn()
    shrink: TypedIn = TypedIn()
    more_strip_ids: list[UUID] = []
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
    reentry_hours: int | None = None
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
    diameter: TypedOut
    gaps: int | None
    doubles: int | None
    plan_id: UUID | None
    place: int | None
    by_eye: bool
    plants_per_m2: float
    stand: ShownOut
    share_pct: float | None
    working: WorkingOut
    questions: list[QuestionOut]
    recorded_at: datetime
    clock_shift_s: int | None
    recorded_by: str


class PrecisionOut(Schema):
    n: int
    mean: ShownOut
    half_width: ShownOut | None
    share_pct: float | None
    needed: int | None
    more: int | None
    working: WorkingOut


class PlaceOut(Schema):
    """A place drawn: where it is, in words; ``extra`` is for when more counts are wanted than planned."""

    number: int
    row: int | None
    along_m: float
    across_m: float
    extra: bool
    words: str


class StepToOut(Schema):
    """One step of the walk."""

    strip_id: UUID
    place: int


class SamplingPlanOut(Schema):
    id: UUID
    version: int
    number: int
    name: str
    planned: int
    reserve: int
    framed: bool
    rows: int
    edge_rows: int
    wheel_rows: str
    wanted: TypedOut
    sample: TypedOut
    end: TypedOut
    walk: list[StepToOut]
    walked: str
    from_stakes: str
    problems: list[str]
    recorded_by: str


class VariationOut(Schema):
    """Variation from count to count, the farm's own or the usual one, and the counts it asks for."""

    cv_pct: float
    own: bool
    counts: int
    words: str


class SamplingOut(Schema):
    """Plans of a trial, the latest last, and what past variation suggests."""

    plans: list[SamplingPlanOut]
    suggestion: VariationOut


class VisitOut(Schema):
    """Counts of neighbouring days: one visit."""

    number: int
    first: date
    last: date
    days_from_sowing: int | None
    strips: int
    counts: int
    by_eye: int


class StripStandOut(Schema):
    strip_id: UUID
    seeds_per_m2: float | None
    share_pct: float | None
    live_share_pct: float | None
    places: list[PlaceOut]
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
    live_share_pct: float | None
    strips: int
    counts: int
    working: WorkingOut | None


class DensityUnitOut(Schema):
    """How the reader sees a quantity that the device reckons: shown = canonical ÷ factor."""

    label: str
    factor: float
    decimals: int


class StandOut(Schema):
    level_pct: float
    wanted_pct: float
    density_unit: DensityUnitOut
    tapes: list[TapeOut]
    visits: list[VisitOut]
    visit: int | None
    plan: SamplingPlanOut | None
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
    passes: TypedOut
    pieces: TypedOut
    test_weight: TypedOut
    shrink: TypedOut
    stated_yield: TypedOut
    yield_: ShownOut | None
    per_area: str
    working: WorkingOut | None
    questions: list[QuestionOut]
    recorded_at: datetime
    clock_shift_s: int | None
    recorded_by: str


class StripHarvestOut(Schema):
    strip_id: UUID
    loads: list[HarvestLoadOut]
    yield_: ShownOut | None
    expected: ShownOut | None
    expected_words: str
    swath_width: TypedOut
    length: TypedOut
    working: WorkingOut | None


class HarvestOut(Schema):
    standard_moisture_pct: float | None
    swap: str
    yield_unit: DensityUnitOut
    strips: list[StripHarvestOut]


class FieldEventOut(Schema):
    id: UUID
    version: int
    kind: str
    kind_label: str
    happened_on: date
    text: str
    reentry_hours: int | None
    reentry_until: datetime | None
    strip_ids: list[UUID]
    recorded_by: str
