from datetime import date, datetime
from typing import Any, Literal
from uuid import UUID

from cultrix_core.estimate.methods import METHODS
from ninja import Schema

from apps.base.formatting import QuestionOut, ShownOut, WorkingOut
from apps.base.quantities import TypedIn, TypedOut
from apps.field.stand.schemas import PlaceOut, SamplingPlanOut

MethodKey: Any = Literal[tuple(method.key for method in METHODS)]  # the catalogue's, so that the contract lists them


class YieldSampleIn(Schema):
    """A place as typed: the area, what was counted on it, each piece by field key. ``version`` only when editing."""

    strip_id: UUID
    method: MethodKey
    plan_id: UUID | None = None
    place: int | None = None
    length: TypedIn = TypedIn()
    rows: str = ""
    row_spacing: TypedIn = TypedIn()
    area: TypedIn = TypedIn()
    number: str = ""
    pieces: list[dict[str, str]] = []
    values: dict[str, str] = {}
    units: dict[str, str] = {}
    by_eye: bool = False
    recorded_at: datetime
    version: int | None = None


class GrainSampleIn(Schema):
    """Seeds counted and weighed. ``strip_id`` None: of the whole trial."""

    strip_id: UUID | None = None
    seeds: str
    mass: TypedIn
    moisture: TypedIn = TypedIn()
    recorded_at: datetime
    version: int | None = None


class EstimateSettingIn(Schema):
    """A workspace's own way of estimating a crop; what is empty goes back to the crop's default."""

    method: MethodKey | Literal[""] = ""
    places: int | None = None
    pieces: int | None = None
    stressed: TypedIn = TypedIn()
    usual: TypedIn = TypedIn()
    excellent: TypedIn = TypedIn()
    source: str = ""


class EntryOut(Schema):
    """One entry. ``units``: in which it may be typed, the reader's first; ``choices``: pairs of key and words."""

    key: str
    label: str
    units: list[list[str]]
    choices: list[list[str]]
    optional: bool
    whole: bool


class MethodOut(Schema):
    key: MethodKey
    name: str
    piece: str
    pieces: str
    counted: str
    piece_fields: list[EntryOut]
    place_fields: list[EntryOut]
    framed: bool
    formula: str
    caution: str
    calculator: str


class YieldSampleOut(Schema):
    id: UUID
    strip_id: UUID
    version: int
    method: MethodKey
    plan_id: UUID | None
    place: int | None
    area: ShownOut
    number: int | None
    pieces: list[dict[str, str]]
    values: dict[str, str]
    units: dict[str, str]
    by_eye: bool
    words: str
    problem: str
    questions: list[QuestionOut]
    recorded_at: datetime
    recorded_by: str


class GrainSampleOut(Schema):
    id: UUID
    strip_id: UUID | None
    version: int
    seeds: int
    mass: TypedOut
    moisture: TypedOut
    weight: ShownOut
    questions: list[QuestionOut]
    recorded_at: datetime
    recorded_by: str


class GrainWeightOut(Schema):
    mean: ShownOut
    low: ShownOut
    high: ShownOut
    known: Literal["range", "past", "weighed"]
    words: str
    factor: str


class EstimateSettingOut(Schema):
    """The defaults in use; ``own``: which of them the workspace set itself."""

    method: MethodKey
    places: int
    pieces: int
    stressed: TypedOut
    usual: TypedOut
    excellent: TypedOut
    source: str
    own: bool


class DrawnPlaceOut(PlaceOut):
    """A place with the random start of its pieces, in [0, 1)."""

    start: float


class UncertaintyOut(Schema):
    """A part of the uncertainty. ``pct``: its standard error in percent of the estimate; ``share_pct`` of the variance."""

    key: Literal["places", "pieces", "weight"]
    name: str
    pct: float
    share_pct: float
    assumed: bool


class StripEstimateOut(Schema):
    """Estimate with its interval, and what the ends of the range of grain weight and the product of means would say."""

    value: ShownOut
    lower: ShownOut
    upper: ShownOut
    half_pct: float
    places: int
    pieces: int
    by_eye: int
    stressed: ShownOut | None
    excellent: ShownOut | None
    means_pct: float
    parts: list[UncertaintyOut]
    working: WorkingOut


class StripSamplesOut(Schema):
    strip_id: UUID
    row_spacing: TypedOut
    places: list[DrawnPlaceOut]
    samples: list[YieldSampleOut]
    estimate: StripEstimateOut | None


class TreatmentEstimateOut(Schema):
    """A treatment over its strips; differences to the control rest on strips, samples being subsamples."""

    treatment_id: UUID
    strips: int
    mean: ShownOut | None
    lower: ShownOut | None
    upper: ShownOut | None
    difference: ShownOut | None
    difference_lower: ShownOut | None
    difference_upper: ShownOut | None


class WayOut(Schema):
    words: str
    minutes: float
    half_pct: float


class EyeOut(Schema):
    """What choosing by eye did, in percent over the drawn samples; None limits with one strip."""

    strips: int
    over_pct: float
    lower_pct: float | None
    upper_pct: float | None
    words: str


class LandOut(Schema):
    treatment_id: UUID
    main: float
    companion: float
    total: float
    lower: float
    upper: float
    words: str


class ResidueOut(Schema):
    treatment_id: UUID
    before: ShownOut | None
    after: ShownOut | None
    used_pct: float | None
    words: str


class EstimatesOut(Schema):
    """Everything of the Estimate stage. ``answer``: the estimate of the trial in a sentence."""

    methods: list[MethodOut]
    method: MethodKey
    setting: EstimateSettingOut
    plan: SamplingPlanOut | None
    pieces: int
    sample: TypedOut
    strips: list[StripSamplesOut]
    grain: GrainWeightOut | None
    grain_samples: list[GrainSampleOut]
    answer: str
    words: list[str]
    left_out: list[str]
    treatments: list[TreatmentEstimateOut]
    honest_df: int | None
    pooled_df: int | None
    narrow: list[WayOut]
    narrow_strip: int | None
    eye: EyeOut | None
    land: list[LandOut]
    residue: list[ResidueOut]
    by_eye: int
    looked_on: date | None


class PairOut(Schema):
    """A strip with estimate and harvest; ``middle`` and ``difference_pct`` place it on the plot."""

    trial_id: UUID
    trial_title: str
    strip: int
    here: bool
    estimate: ShownOut
    harvest: ShownOut
    middle: float
    difference_pct: float
    by_eye: bool
    person: str


class LearnedOut(Schema):
    """Bias and limits of agreement of a group of strips, in percent, and what to multiply the next estimate by."""

    group: str
    pairs: int
    trials: int
    bias_pct: float
    lower_pct: float
    upper_pct: float
    limit_low_pct: float
    limit_high_pct: float
    correction: float
    words: str


class LearningOut(Schema):
    """Estimate against harvest over the workspace's trials of this crop and method."""

    unit: str
    pairs: list[PairOut]
    groups: list[LearnedOut]
    problem: str


class PickingOut(Schema):
    """A simulated crop of known yield: what drawn and picked samples say of it, in percent of the truth."""

    drawn: list[float]
    picked: list[float]
    drawn_mean: float
    picked_mean: float
    piece_cv_pct: float
    own_cv: bool
    words: str
