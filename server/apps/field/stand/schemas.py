from datetime import date, datetime
from typing import Literal
from uuid import UUID

from ninja import Schema

from apps.base.formatting import QuestionOut, ShownOut, WorkingOut
from apps.base.quantities import TypedIn, TypedOut
from apps.field.visits.schemas import JoinedVisitOut

CountMethod = Literal["rows", "quadrat", "hoop"]


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
    opener: int | None = None
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
    opener: int | None
    plants_per_m2: float
    stand: ShownOut
    share_pct: float | None
    working: WorkingOut | None
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
    """Counts of a day, or of the days that a person joined; ages are those of the strips counted, youngest and oldest."""

    number: int
    first: date
    last: date
    days_from_sowing: int | None
    days_from_sowing_most: int | None
    joined: JoinedVisitOut | None
    strips: int
    counts: int
    by_eye: int


class StripStandOut(Schema):
    """The stand of one strip; ``counts``: its single counts, where they come along with the page (``counts_along``)."""

    strip_id: UUID
    seeds_per_m2: float | None
    share_pct: float | None
    live_share_pct: float | None
    places: list[PlaceOut]
    row_spacing: TypedOut
    number: int
    counts: list[StandCountOut]
    counted_places: list[int]
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
    left_out: list[str]
    plan: SamplingPlanOut | None
    counts_along: bool
    strips: list[StripStandOut]
    treatments: list[TreatmentStandOut]
