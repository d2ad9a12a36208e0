from typing import Literal
from uuid import UUID

from cultrix_core.design.designs import Design
from ninja import Schema

from apps.base.formatting import ShownOut, WorkingOut
from apps.base.quantities import TypedIn


class MarginIn(Schema):
    """What if; everything left out is as the trial has it."""

    design: Design | None = None
    blocks: int | None = None
    treatments: int | None = None
    main: int | None = None
    sub: int | None = None
    alpha: float | None = None
    length: TypedIn | None = None
    width: TypedIn | None = None
    margin: TypedIn | None = None
    expected_yield: TypedIn | None = None
    cv: str = ""
    cv_main: str = ""
    smith_b: str = ""


class DetectionOut(Schema):
    """One comparison: what can be detected, and what must be found for it to pay. Percent of the expected yield."""

    key: str
    label: str
    least_pct: float
    least: ShownOut | None
    margin_pct: float | None
    margin: ShownOut | None
    chance: str | None
    chance_value: float | None
    chance_twice: str | None
    chance_equal: str | None
    equal_value: float | None
    df: int
    working: WorkingOut


class ChangeOut(Schema):
    words: str
    chance: str
    land: str


class CurveOut(Schema):
    blocks: int
    least_pct: float


class MarginOut(Schema):
    """The honest margin. ``can_answer`` is None while the margin or the yield is not known."""

    sentence: str
    can_answer: bool | None
    blocks: int
    cv: str
    cv_source: str
    expected: str
    yield_source: str
    rows: list[DetectionOut]
    changes: list[ChangeOut]
    changes_note: str
    curve: list[CurveOut]
    settings: list[str]


class AmountPlanOut(Schema):
    """How well a curve would answer; empty where none is to."""

    sentence: str


class TallyIn(Schema):
    """Counts so far, as the server gave them."""

    fields: int
    calls: dict[str, list[list[int]]]
    error_sum: dict[str, float]
    error_squares: dict[str, float]
    claimed_squares: dict[str, float]


class RehearsalIn(Schema):
    """A batch of a rehearsal: ``start`` fields are done already, counted in ``tally``."""

    what_if: MarginIn = MarginIn()
    ground: Literal["simulated", "map"] = "simulated"
    trend_pct: float = 10.0
    patch_share: float = 0.5
    fields: int = 100
    start: int = 0
    part: str = ""
    tally: TallyIn | None = None


class RehearsedOut(Schema):
    order: str
    truth: str
    right: str
    wrong: str
    cannot_tell: str


class RehearsalOut(Schema):
    fields: int
    tally: TallyIn
    rows: list[RehearsedOut]
    words: list[str]


class PassOut(Schema):
    number: int
    strip: int
    pass_in_strip: int
    direction: Literal["up", "back"]
    letter: str
    setting: str
    change: bool


class SeedOut(Schema):
    letter: str
    name: str
    area: str
    seeds: str
    weight: str | None
    bags: str | None


class StakeOut(Schema):
    """A flag: distance from the first stake along the base line and up the field, and its position where known."""

    strip: int
    side: Literal["left", "right"]
    across: str
    up: str
    position: str


class PassCardOut(Schema):
    driving: Literal["as_laid", "fewest_changes"]
    machine: str
    passes_a_strip: int
    passes: list[PassOut]
    changes: int
    changes_as_laid: int
    changes_fewest: int
    across: str
    across_as_laid: str
    across_fewest: str
    seed: list[SeedOut]
    seed_total: str
    stakes: list[StakeOut]
    cautions: list[str]


class MapOut(Schema):
    """The field turned so that the driving direction points up, in metres; ``north_deg``: where north lies, from up."""

    boundary: list[list[float]]
    obstacles: list[list[list[float]]]
    no_go: list[list[list[float]]]
    guards: list[list[list[float]]]
    strips: list["MapStripOut"]
    north_deg: float | None
    gradient_deg: float | None
    scale_m: float
    scale: str


class MapStripOut(Schema):
    strip_id: UUID
    order: int
    ring: list[list[float]]
    swath: list[list[float]]
