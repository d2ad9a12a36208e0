from datetime import date, datetime
from typing import Any, Literal
from uuid import UUID

from cultrix_core.design.designs import Design
from ninja import Schema

from apps.accounts.rights import Deed
from apps.base.formatting import ShownOut, WorkingOut
from apps.base.quantities import TypedIn, TypedOut
from apps.farms.schemas import FieldOut

FactorKind = Literal["row_spacing", "seeding_rate", "seeding_depth", "tillage", "sowing_date", "free"]
PackagePart = Literal["machine", "passes", "inputs", "lot", "plot_size", "harvest_day"]
CostBasis = Literal["area", "yield", "trial", "machine_year"]
StageState = Literal["done", "partly", "due", "ahead"]


class ClosingOut(Schema):
    at: datetime
    by: str
    note: str
    opened_at: datetime | None
    opened_by: str
    reason: str


class NewTrialIn(Schema):
    title: str
    crop: str
    season: int
    field_id: UUID | None = None


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
    primary_response: str | None = None
    response_margin: TypedIn | None = None
    amounts_by: Literal["curve", "pairs"] | None = None
    package: list[PackagePart] | None = None
    alpha: float | None = None
    price: TypedIn | None = None
    unit_cost: TypedIn | None = None
    practical_margin: TypedIn | None = None
    net_margin: TypedIn | None = None
    row_spacing: TypedIn | None = None
    seeding_rate: TypedIn | None = None
    thousand_seed_weight: TypedIn | None = None
    expected_yield: TypedIn | None = None
    standard_moisture: TypedIn | None = None
    bag_price: TypedIn | None = None
    bag_seeds: TypedIn | None = None
    emergence: TypedIn | None = None
    emergence_of: Literal["sown", "live"] | None = None
    survival: TypedIn | None = None
    sowing_depth: TypedIn | None = None
    planted_on: date | None = None
    price_source: str | None = None
    amendment: str = ""


class FactorIn(Schema):
    kind: FactorKind
    name: str = ""
    hard_to_change: bool = False


class TreatmentIn(Schema):
    """A treatment; ``levels`` has one entry for each factor, in their order."""

    id: UUID | None = None
    levels: list[TypedIn]
    is_control: bool = False
    extra_cost: TypedIn = TypedIn()


class CostIn(Schema):
    """A cost line of a level: ``factor`` is the place of its factor, ``level`` as typed in the treatments.

    ``spread``: area a sum of a trial or a machine's year is spread over. ``made_of``: fuel, fuel_price, hours, wage and hire
    of a pass, in the place of ``each``.
    """

    factor: int
    level: TypedIn
    kind: Literal["product", "passes", "machinery", "other"]
    label: str = ""
    times: str = "1"
    each: TypedIn = TypedIn()
    basis: CostBasis = "area"
    spread: TypedIn = TypedIn()
    made_of: dict[str, TypedIn] = {}


class TreatmentsIn(Schema):
    version: int
    factors: list[FactorIn]
    treatments: list[TreatmentIn]
    costs: list[CostIn] = []
    amendment: str = ""


class LayoutIn(Schema):
    """How to draw and place a layout.

    ``main`` and ``sub`` are places of factors, for split and crossed designs; the others share the innermost
    strips. ``heading``: degrees from north; empty takes the field's own, else its longest side. An empty
    ``strip_width`` takes the narrowest whole passes of the machines; an empty ``strip_length`` all there is.
    """

    version: int
    design: Design
    blocks: int
    strip_width: TypedIn = TypedIn()
    strip_length: TypedIn = TypedIn()
    seed: int | None = None
    main: int | None = None
    sub: int | None = None
    machines: list[UUID] = []
    heading: str = ""
    headland: TypedIn = TypedIn()
    side: TypedIn = TypedIn()
    alley: TypedIn = TypedIn()
    swath: TypedIn = TypedIn()
    guards: int = 0
    tiers: int = 1
    no_equal_neighbours: bool = False
    balance_neighbours: bool = False
    first: UUID | None = None
    amendment: str = ""


class WidthsIn(Schema):
    machines: list[UUID]


class WidthOut(Schema):
    """A strip width of whole passes, with the harvested swath inside it."""

    width: TypedIn
    words: str


class WidthsOut(Schema):
    options: list[WidthOut]
    explanation: str


class StripPatchIn(Schema):
    """What really happened to a strip; ``reason`` is needed when it departs from the plan."""

    lost: bool
    sown_treatment_id: UUID | None
    reason: str


class SownIn(Schema):
    """A part of what goes through the drill. ``level_id`` empty: on every strip. A companion has its own rate."""

    part: Literal["crop", "mixture", "companion"]
    lot_id: UUID
    level_id: int | None = None
    share: TypedIn = TypedIn()
    share_by: Literal["weight", "seeds"] = "weight"
    rate: TypedIn = TypedIn()
    place: Literal["in_row", "between", "broadcast"] = "in_row"


class SowingIn(Schema):
    """All parts at once."""

    version: int
    parts: list[SownIn]
    amendment: str = ""


class CovariateValueIn(Schema):
    strip_id: UUID
    text: str


class CovariateIn(Schema):
    """An amount measured on strips before treatments began; an empty name takes it away."""

    version: int
    name: str
    unit: str = ""
    measured_on: date | None = None
    values: list[CovariateValueIn] = []
    amendment: str = ""


class CovariateValueOut(Schema):
    strip_id: UUID
    order: int
    text: str


class CovariateOut(Schema):
    """The covariate with every strip of the trial; ``words`` say what it may do."""

    name: str
    unit: str
    measured_on: date | None
    values: list[CovariateValueOut]
    words: str


class KeptIn(Schema):
    """Typed inputs of a calculator, to be kept with the trial."""

    version: int
    calculator: Literal["fertiliser", "wheels", "meter", "envelope", "keep_or_replant"]
    values: dict[str, TypedIn]


class WheelCostsIn(Schema):
    version: int
    amendment: str = ""


class AlongRowOut(Schema):
    """What a treatment's rate means along the row."""

    rate: str
    mass: str | None
    per_row: str
    in_row: str
    space: str
    shape: str
    rates: list[list[str]]
    working: WorkingOut


class CostOut(Schema):
    """A cost line as typed; ``factor`` and ``level`` are places."""

    factor: int
    level: int
    kind: Literal["product", "passes", "machinery", "other"]
    label: str
    times: str
    each: TypedOut
    basis: CostBasis
    spread: TypedOut
    made_of: dict[str, TypedIn]


class FactorOut(Schema):
    """``ladder``: whether it is an amount with levels enough for a curve."""

    kind: FactorKind
    name: str
    title: str
    hard_to_change: bool
    levels: list[TypedOut]
    level_names: list[str]
    level_ids: list[int]
    ladder: bool


class TreatmentOut(Schema):
    id: UUID
    letter: str
    position: int
    name: str
    levels: list[TypedOut]
    is_control: bool
    extra_cost: TypedOut
    costs_more: ShownOut | None
    margin: ShownOut | None
    margin_working: WorkingOut | None
    along_row: AlongRowOut | None


class StripOut(Schema):
    """A strip. ``place``: left, near, right and far edge in metres, the driving direction up; None when not placed."""

    id: UUID
    order: int
    block: int
    block_name: str
    treatment_id: UUID
    received_id: UUID
    main: int
    column: int
    row: int
    place: list[float] | None
    lost: bool
    reason: str
    area: ShownOut | None
    width: ShownOut | None
    length: ShownOut | None
    sown: bool
    sown_on: date | None
    depths: int
    depth: ShownOut | None
    deviations: list[str]
    events: list[str]
    counts: int
    stand: ShownOut | None
    samples: int
    estimate: ShownOut | None
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


class DrawOut(Schema):
    at: datetime
    by: str
    said: str


class LayoutOut(Schema):
    """How the layout was asked for, drawn and placed. ``suggests`` offers a split-plot, with the reason."""

    asked: dict[str, Any]
    record: list[str]
    remarks: list[str]
    gradient: str
    gradient_wrong: bool
    heading: str
    placed: bool
    georeferenced: bool
    draws: list[DrawOut]
    suggests: str


class AmendmentOut(Schema):
    at: datetime
    by: str
    reason: str
    changes: list[list[str]]


class ProtocolOut(Schema):
    """What was frozen, when, its fingerprint, and what was amended since."""

    frozen_at: datetime
    by: str
    fingerprint: str
    content: list[list[str]]
    amendments: list[AmendmentOut]


class ResponseChoiceOut(Schema):
    """Something a trial may be judged by; ``dimension`` of its margin, empty for yield and net return."""

    key: str
    name: str
    dimension: str


class BelongingOut(Schema):
    """Something that belongs to the treatments, and what it would take to tell the two apart."""

    part: str
    words: str
    separate: str


class TrialOut(Schema):
    id: UUID
    workspace_id: UUID
    units: dict[str, str]
    """Code of the unit in which this person has each kind of quantity, for this crop."""
    version: int
    may: list[Deed]
    """What this person may do with it."""
    archived: bool
    closings: list[ClosingOut]
    """How often its season was reviewed and closed; it is closed when the last of them was not opened again."""
    title: str
    crop: str
    crop_name: str
    season: int
    responsible: str
    series: str
    field: FieldOut | None
    question: str
    guess: str
    primary_response: str
    response_name: str
    response_margin: TypedOut
    responses: list[ResponseChoiceOut]
    amounts_by: Literal["curve", "pairs"]
    package: list[PackagePart]
    belongings: list[BelongingOut]
    alpha: float
    price: TypedOut
    unit_cost: TypedOut
    practical_margin: TypedOut
    net_margin: TypedOut
    row_spacing: TypedOut
    seeding_rate: TypedOut
    thousand_seed_weight: TypedOut
    expected_yield: TypedOut
    standard_moisture: TypedOut
    bag_price: TypedOut
    bag_seeds: TypedOut
    emergence: TypedOut
    emergence_of: Literal["sown", "live"]
    survival: TypedOut
    sowing_depth: TypedOut
    planted_on: date | None
    price_source: str
    factors: list[FactorOut]
    treatments: list[TreatmentOut]
    costs: list[CostOut]
    design: Design | Literal[""]
    design_name: str
    layout: LayoutOut
    protocol: ProtocolOut | None
    drawn: bool
    seed: int | None
    blocks: int
    strips: list[StripOut]
    stages: list[StageOut]
    treatments_bound: BoundOut
    layout_bound: BoundOut
    crop_bound: BoundOut
    notes: list[str]


class RibbonOut(Schema):
    """Strips as a list draws them, in columns with one entry a strip in field order.

    ``planned``, ``received``: which of the trial's treatments. ``flags``: 1 lost, 2 sown otherwise than asked, 4 events.
    ``places``: edges in thousandths of the ground, empty where strips are not placed. ``values``: of the layer asked for.
    """

    blocks: list[int]
    planned: list[int]
    received: list[int]
    flags: list[int]
    main: list[int]
    columns: list[int]
    rows: list[int]
    places: list[list[int]]
    values: list[float | None]


class TrialRowOut(Schema):
    """A trial in a list. ``recalculating``: it has been written to, and what is told here is being made anew."""

    id: UUID
    title: str
    crop_name: str
    season: int
    series: str
    field_name: str
    design: str
    treatments: list[str]
    letters: list[str]
    ribbon: RibbonOut
    next_stage: str
    next_note: str
    verdict_note: str
    finished: bool
    recalculating: bool


class TrialPageOut(Schema):
    """Trials of a workspace, a page of those that fit; ``total`` counts all that do."""

    rows: list[TrialRowOut]
    total: int


class GivenOut(Schema):
    """Who was given something that is due."""

    task_id: UUID
    to: str
    mine: bool
    note: str


class DueOut(Schema):
    """Something due, with the reason. ``task``: the field-book task that does it, empty for a stage; ``on``: its day.

    ``ref`` names it for whoever gives it to a person; ``given``: to whom, and whether that is the reader.
    """

    trial_id: UUID
    ref: str
    trial_title: str
    stage: str
    stage_label: str
    what: str
    why: str
    urgency: int
    task: str
    trait: str
    on: date | None
    state: Literal["overdue", "due", "wait", "coming"]
    cautions: list[str]
    given: GivenOut | None = None


class TodayOut(Schema):
    """What is due, most urgent first; ``total`` counts all of it."""

    dues: list[DueOut]
    total: int


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


class DesignOut(Schema):
    """A design, and what its form asks. ``parts``: sizes of strips inside strips, the largest first."""

    key: Design
    name: str
    rule: str
    parts: list[str]
    crossed: bool
    drawn: bool
    replicated: bool
    blocked: bool
    blocks_asked: bool
    takes_conditions: bool


class CatalogueOut(Schema):
    """Crops, units by dimension and kinds of factor, for the choices on screen."""

    crops: list[CropOut]
    units: dict[str, list[UnitOut]]
    factor_kinds: list[tuple[str, str]]
    hard_kinds: list[str]
    designs: list[DesignOut]
    machine_kinds: list[tuple[str, str]]
    cost_kinds: list[tuple[str, str]]
    cost_bases: list[tuple[str, str]]
    event_kinds: list[tuple[str, str]]


class HandOverIn(Schema):
    """``to``: the name that the successor signs in with."""

    to: str


class HandedOverOut(Schema):
    trials: int
