from datetime import datetime
from typing import Literal
from uuid import UUID

from ninja import Schema

from apps.base.formatting import QuestionOut, ShownOut, WorkingOut
from apps.base.quantities import TypedIn, TypedOut
from apps.field.stand.schemas import DensityUnitOut

LoadMethod = Literal["weighed", "stated"]


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
