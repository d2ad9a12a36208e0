from typing import Literal
from uuid import UUID

from ninja import Schema

from apps.base.formatting import ShownOut, WorkingOut

CallName = Literal["gain", "loss", "no_difference_that_matters", "cannot_tell_yet"]


class RawOut(Schema):
    strip_id: UUID
    order: int
    block: int
    value: ShownOut


class MeanOut(Schema):
    treatment_id: UUID
    letter: str
    name: str
    is_control: bool
    n: int
    mean: ShownOut
    se: ShownOut | None
    lower: ShownOut | None
    upper: ShownOut | None
    letters: str | None
    raw: list[RawOut]
    working: WorkingOut


class DifferenceOut(Schema):
    """Two treatments, or two levels of a factor at one place. ``break_even``: the signed gain in yield that pays the cost.
    ``chances``: each with its event, in words."""

    key: str
    treatment_id: UUID | None
    factor: str
    within: str
    letter: str
    name: str
    against: str
    estimate: ShownOut
    se: ShownOut | None
    lower: ShownOut | None
    upper: ShownOut | None
    p: str | None
    p_adjusted: str | None
    margin: ShownOut | None
    break_even: ShownOut | None
    call: CallName | None
    call_words: str
    sentence: str
    chance: str | None
    chances: str
    settle: str
    working: WorkingOut


class AnovaRowOut(Schema):
    """One line; ``den_df`` is given where lines have errors of their own."""

    source: str
    df: int
    den_df: str
    ss: str
    ms: str
    f: str | None
    p: str | None
    working: WorkingOut | None


class FactorMeanOut(Schema):
    label: str
    n: int
    mean: ShownOut
    se: ShownOut
    lower: ShownOut
    upper: ShownOut
    letters: str | None
    working: WorkingOut


class FactorTableOut(Schema):
    """Means of some factors, the others averaged."""

    title: str
    rows: list[FactorMeanOut]
    note: str


class InteractionPointOut(Schema):
    label: str
    mean: ShownOut
    lower: ShownOut
    upper: ShownOut


class InteractionLineOut(Schema):
    label: str
    points: list[InteractionPointOut]


class InteractionOut(Schema):
    """Whether one factor's effect depends on another, and the means that show it."""

    title: str
    words: str
    p: str
    matters: bool
    across: str
    by: str
    lines: list[InteractionLineOut]


class StratumOut(Schema):
    stratum: str
    source: str
    df: int
    ss: str
    ms: str
    f: str | None
    p: str | None


class NamedOut(Schema):
    """A name with a number as text."""

    name: str
    text: str


class PolynomialOut(Schema):
    factor: str
    rows: list[NamedOut]
    words: str


class ResidualOut(Schema):
    order: int
    block: int
    position: float
    fitted: float
    residual: float


class AnalysisOut(Schema):
    """One response compared, from the sentence down to the method. ``caption``: what the intervals of differences hold."""

    response: str
    unit: str
    sentence: str
    factored: bool
    formula: str
    tables: list[FactorTableOut]
    interactions: list[InteractionOut]
    strata: list[StratumOut]
    components: list[NamedOut]
    precision: list[NamedOut]
    polynomials: list[PolynomialOut]
    residuals: list[ResidualOut]
    second_looks: list[str]
    means: list[MeanOut]
    differences: list[DifferenceOut]
    anova: list[AnovaRowOut]
    anova_unit: str
    method: str
    letters_note: str
    checks: list[str]
    warnings: list[str]
    cv_pct: str | None
    sed: ShownOut | None
    lsd: ShownOut | None
    level_pct: float
    caption: str


class AlternateOut(Schema):
    label: str
    lines: list[str]


class LeftOutOut(Schema):
    strip: int
    why: str


class ConfoundedOut(Schema):
    """A pair of treatments that something recorded goes with; ``declared``: it belongs to the treatment, as said before."""

    against: str
    kind: Literal["identical", "nearly"]
    inflation: float | None
    declared: bool
    sentence: str
    remedy: str


class VerdictOut(Schema):
    state: Literal["none", "description", "judged"]
    headline: str
    money: str
    primary: str
    primary_name: str
    judged: AnalysisOut | None
    problem: str
    yield_: AnalysisOut | None
    net_return: AnalysisOut | None
    alternates: list[AlternateOut]
    left_out: list[LeftOutOut]
    deviations: list[LeftOutOut]
    amendments: list[str]
    remarks: list[str]
    fingerprint: str
    source: str
    confounded: list[ConfoundedOut]


class BandPointOut(Schema):
    """The fitted curve at one amount, numbers in the reader's units."""

    x: float
    y: float
    lower: float
    upper: float


class FreedStripOut(Schema):
    strip: int
    x: float
    y: float
    group: str


class ShapeOut(Schema):
    name: str
    formula: str
    status: str
    aicc: str
    parameters: str
    chosen: bool


class ResponseCurveOut(Schema):
    """The shapes fitted one by one over all strips, or at one level of the other factor (``level``)."""

    level: str
    chosen: str
    shapes: list[ShapeOut]
    warnings: list[str]


class AveragedOut(Schema):
    """The averaged curve, that answers; ends of the shown and of the estimated range in the reader's units."""

    level: str
    band: list[BandPointOut]
    best: float
    shown: list[float] | None
    estimated: list[float] | None
    weights: list[NamedOut]
    level_pct: float


class ResponseCurvesOut(Schema):
    """Response of yield to an amount; ``problem`` says why there is none. ``answer``: what the averaged curve says."""

    problem: str
    factor: str
    x_unit: str
    y_unit: str
    level_pct: float
    money: str
    points: list[FreedStripOut]
    curves: list[ResponseCurveOut]
    differ: str
    answer: list[str]
    averaged: list[AveragedOut]


class SeriesDifferenceOut(Schema):
    name: str
    estimate: ShownOut
    lower: ShownOut | None
    upper: ShownOut | None
    call: CallName | None
    call_words: str


class SeriesRowOut(Schema):
    """One site-year, the whole, or the whole without one."""

    label: str
    trial_id: UUID | None
    n: int
    differences: list[SeriesDifferenceOut]
    problem: str


class SeriesOut(Schema):
    """Trials of one series taken together; ``problem`` says why they are not."""

    response: Literal["yield", "net_return"]
    name: str
    problem: str
    sentence: str
    against: str
    unit: str
    level_pct: float
    alone: list[SeriesRowOut]
    combined: list[SeriesDifferenceOut]
    without: list[SeriesRowOut]
    held: str
    method: str
    components: list[NamedOut]
    remarks: list[str]


class ShareOut(Schema):
    """One treatment against the control as a ratio in percent."""

    treatment: str
    ratio: float
    lower: float | None
    upper: float | None
    text: str


class PartOfYieldOut(Schema):
    name: str
    shares: list[ShareOut]


class PathOut(Schema):
    treatment: str
    total: ShownOut
    through: ShownOut
    through_lower: ShownOut
    through_upper: ShownOut
    beside: ShownOut
    sentence: str


class ExplainedByOut(Schema):
    """Yield as the product of two factors, and what runs through the first."""

    title: str
    against: str
    slope: str
    n: int
    parts: list[PartOfYieldOut]
    paths: list[PathOut]


class ExplanationOut(Schema):
    """What explains the yields; ``problem`` says why there is nothing to explain with."""

    problem: str
    by: list[ExplainedByOut]
    caution: str
