from datetime import date, datetime
from typing import Literal
from uuid import UUID

from ninja import Schema

from apps.base.formatting import QuestionOut, ShownOut, WorkingOut
from apps.base.quantities import TypedIn, TypedOut

Health = Literal["firm", "doubtful", "dead"]
Says = Literal["better", "worse", "none"]


class TapeRunIn(Schema):
    """Positions as typed, in one unit, or marks: ``p`` plant, ``g`` gap, ``d`` double. ``looked_at``: spacings seen empty."""

    strip_id: UUID
    reference: TypedIn
    positions: list[str] = []
    positions_unit: str = "cm"
    looked_at: list[int] = []
    marks: str = ""
    by_eye: bool = False
    recorded_at: datetime
    version: int | None = None


class DugPlantIn(Schema):
    strip_id: UUID
    health: Health
    shoots: int | None = None
    by_eye: bool = False
    recorded_at: datetime
    version: int | None = None


class PlantMeasureIn(Schema):
    """A measured value: of a plant or place, a count in a frame, or a count on so many plants, as the trait says."""

    strip_id: UUID
    trait: str
    subject: str = ""
    value: TypedIn
    sample_plants: int | None = None
    area: TypedIn = TypedIn()
    by_eye: bool = False
    recorded_at: datetime
    version: int | None = None


class RatingIn(Schema):
    strip_id: UUID
    trait: str
    score: int
    blind: bool = False
    note: str = ""
    recorded_at: datetime
    version: int | None = None


class PhotoIn(Schema):
    """What goes with an uploaded photograph."""

    strip_id: UUID
    caption: str = ""
    recorded_at: datetime


class StandLineIn(Schema):
    """A workspace's own threshold; an empty value goes back to the default."""

    value: TypedIn
    source: str = ""


class HistogramOut(Schema):
    """A class of spacings in spacings wanted; ``top`` None is open."""

    low: float
    top: float | None
    number: int


class SpacingsOut(Schema):
    """Indices of a tape run in percent; positions tapped rather than measured have no CV."""

    plants: int
    mean: ShownOut | None
    cv_pct: float | None
    doubles_pct: float
    skips_pct: float
    precision_pct: float | None
    missed_pct: float | None
    per_row: ShownOut
    histogram: list[HistogramOut]
    working: WorkingOut | None


class TapeRunOut(Schema):
    id: UUID
    strip_id: UUID
    version: int
    reference: TypedOut
    positions: list[str]
    positions_unit: str
    looked_at: list[int]
    marks: str
    by_eye: bool
    spacings: SpacingsOut
    questions: list[QuestionOut]
    recorded_at: datetime
    clock_shift_s: int | None
    recorded_by: str


class DugPlantOut(Schema):
    id: UUID
    strip_id: UUID
    version: int
    health: Health
    shoots: int | None
    by_eye: bool
    recorded_at: datetime
    clock_shift_s: int | None
    recorded_by: str


class PlantMeasureOut(Schema):
    id: UUID
    strip_id: UUID
    version: int
    trait: str
    subject: str
    value: TypedOut
    sample_plants: int | None
    area: TypedOut
    by_eye: bool
    shown: ShownOut
    questions: list[QuestionOut]
    recorded_at: datetime
    clock_shift_s: int | None
    recorded_by: str


class RatingOut(Schema):
    id: UUID
    strip_id: UUID
    version: int
    trait: str
    score: int
    blind: bool
    note: str
    recorded_at: datetime
    clock_shift_s: int | None
    recorded_by: str


class PhotoOut(Schema):
    id: UUID
    strip_id: UUID
    version: int
    caption: str
    width: int
    height: int
    recorded_at: datetime
    clock_shift_s: int | None
    recorded_by: str


class StripScoutingOut(Schema):
    strip_id: UUID
    row_spacing: TypedOut
    spacing_wanted: ShownOut | None
    tapes: list[TapeRunOut]
    dug: list[DugPlantOut]
    measures: list[PlantMeasureOut]
    ratings: list[RatingOut]
    photos: list[PhotoOut]


class MeasuredOut(Schema):
    """A measured trait; ``units`` in which it may be typed, the reader's first."""

    key: str
    name: str
    by: Literal["plant", "strip", "area", "plants"]
    subject: str
    hint: str
    unit: str
    units: list[list[str]]
    signed: bool
    """Whether it may lie below 0."""


class RatedOut(Schema):
    """A judged trait on its scale; with ``choices`` the score is the number of the one chosen, from 1."""

    key: str
    name: str
    low: str
    high: str
    lowest: int
    highest: int
    choices: list[str]


class StageRuleOut(Schema):
    drawing: str
    what: str
    counts: list[str]
    counts_not: list[str]


class TreatmentValueOut(Schema):
    """A treatment's mean over strips, and its difference to the control with the interval; None where none can be given."""

    treatment_id: UUID
    strips: int
    mean: ShownOut | None
    difference: ShownOut | None
    lower: ShownOut | None
    upper: ShownOut | None


class ProfileValueOut(Schema):
    treatment_id: UUID
    mean: ShownOut | None
    lower: ShownOut | None
    upper: ShownOut | None


class ProfilePointOut(Schema):
    """Means over strips at one visit, with their intervals."""

    day: date
    values: list[ProfileValueOut]


class ProfileOut(Schema):
    """The course of a trait, and the mean level of each strip compared; ``changed``: whether differences change over dates."""

    points: list[ProfilePointOut]
    level: list[TreatmentValueOut]
    changed: str
    words: str
    left_out: list[str]


class SummaryOut(Schema):
    """One measured or judged trait on one visit, by treatment. ``judged``: a rating, never mixed with what is measured."""

    trait: str
    name: str
    subject: str
    judged: bool
    blind: int
    first: date
    last: date
    values: int
    by_eye: int
    treatments: list[TreatmentValueOut]
    words: str
    left_out: list[str]
    profile: ProfileOut | None


class BothOut(Schema):
    treatment_id: UUID
    eye: Says
    count: Says
    agree: bool
    words: str
    eye_text: str
    count_text: str


class AgreementOut(Schema):
    """A rating against a measurement of the same strips."""

    rating: str
    measured: str
    rated_on: date
    measured_on: date
    both: list[BothOut]
    words: str
    blind: bool


class ChosenOut(Schema):
    """On how many strips of a treatment each word was chosen, in the order of the words."""

    treatment_id: UUID
    strips: list[int]


class ChoiceSummaryOut(Schema):
    """Words chosen at the latest visit, by treatment: counted, for words have no mean."""

    trait: str
    name: str
    choices: list[str]
    on: date
    treatments: list[ChosenOut]


class ScoutingOut(Schema):
    """Everything between planting and harvest but the counts: as the field book and the Season stage need it."""

    measured: list[MeasuredOut]
    rated: list[RatedOut]
    rule: StageRuleOut | None
    strips: list[StripScoutingOut]
    summaries: list[SummaryOut]
    agreements: list[AgreementOut]
    choices: list[ChoiceSummaryOut]


class CurvePointOut(Schema):
    day: int
    counted: ShownOut
    fitted: ShownOut | None
    lower: ShownOut | None
    upper: ShownOut | None


class PhotoCoverOut(Schema):
    """Ground covered by the crop on a photograph taken straight down; ``found``: the threshold is the picture's own."""

    cover_pct: float
    threshold: float
    found: bool
    words: str


class StripPointOut(Schema):
    day: int
    counted: ShownOut


class StripEmergenceOut(Schema):
    """A strip on its own clock; days are None where its counts do not tell them."""

    strip_id: UUID
    order: int
    sown_on: date | None
    points: list[StripPointOut]
    half_days: float | None
    half_se_days: float | None
    ninety_days: float | None
    spread_days: float | None
    final: ShownOut


class EmergenceOut(Schema):
    treatment_id: UUID
    points: list[CurvePointOut]
    final: ShownOut
    final_pct: float | None
    half_before: bool
    strips: list[StripEmergenceOut]
    working: WorkingOut


class EmergenceValueOut(Schema):
    """A treatment over its strips, as text with its interval, and its difference to the control."""

    treatment_id: UUID
    strips: int
    mean: str
    lower: str
    upper: str
    difference: str
    difference_lower: str
    difference_upper: str


class EmergenceMeasureOut(Schema):
    """One measure of emergence compared over strips; ``p`` of the test between all treatments."""

    key: str
    name: str
    treatments: list[EmergenceValueOut]
    p: str | None
    level_pct: float
    words: str


class SurvivalOut(Schema):
    """Share of plants left between two visits, by treatment."""

    treatment_id: UUID
    from_day: int
    to_day: int
    strips: int
    pct: float
    lower_pct: float | None
    upper_pct: float | None


class CrownsOut(Schema):
    treatment_id: UUID
    dug: int
    alive_pct: float
    lower_pct: float
    upper_pct: float
    shoots: ShownOut | None
    working: WorkingOut
    few: bool


class SpacingTreatmentOut(Schema):
    treatment_id: UUID
    runs: int
    cv_pct: float | None
    doubles_pct: float
    skips_pct: float
    precision_pct: float | None


class StageOfStandOut(Schema):
    treatment_id: UUID
    words: str
    on: date


class StandVerdictOut(Schema):
    """Stands compared over strips, counts inside strips as subsamples."""

    visit: int
    strips: int
    counts: int
    honest_df: int | None
    pooled_df: int | None
    within_cv_pct: float | None
    between_cv_pct: float | None
    words: list[str]
    treatments: list[TreatmentValueOut]
    problem: str


class ThresholdOut(Schema):
    key: str
    label: str
    value: TypedOut
    per_m2: float
    source: str
    own: bool


class DecisionPartOut(Schema):
    name: str
    half: str


class DecisionOut(Schema):
    """Keep or replant of one treatment's stand, or the reason why it cannot be reckoned."""

    treatment_id: UUID
    stand: ShownOut
    half: ShownOut | None
    line: str
    answer: Literal["keep", "replant", "close"] | None
    words: str
    keep_yield: str
    replant_yield: str
    money: ShownOut | None
    lower: ShownOut | None
    upper: ShownOut | None
    equal_stand: ShownOut | None
    working: WorkingOut | None


class SchoolSaysOut(Schema):
    name: str
    words: str
    source: str


class ForageOut(Schema):
    treatment_id: UUID
    stand: ShownOut
    shoots: ShownOut | None
    action: Literal["keep", "thicken", "rotate", "look"]
    agree: bool | None
    words: str
    schools: list[SchoolSaysOut]


class BridgeOut(Schema):
    """Something to sow into or after a thin stand; ``open``: its window is now."""

    name: str
    window: str
    open: bool
    why: str
    caution: str


class StandAnalysisOut(Schema):
    """What the counts of all visits say: emergence, survival, spacing, crowns, stage, verdict, and what to do."""

    emergence: list[EmergenceOut]
    emergence_measures: list[EmergenceMeasureOut]
    left_out: list[str]
    survival: list[SurvivalOut]
    spacing: list[SpacingTreatmentOut]
    crowns: list[CrownsOut]
    stages: list[StageOfStandOut]
    rule: StageRuleOut | None
    verdict: StandVerdictOut | None
    thresholds: list[ThresholdOut]
    decisions: list[DecisionOut]
    decision_problem: QuestionOut | None
    kept: dict[str, TypedIn]
    forage: list[ForageOut]
    age_years: float | None
    bridges: list[BridgeOut]
    cautions: list[str]
