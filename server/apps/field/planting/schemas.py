from datetime import date, datetime
from typing import Literal
from uuid import UUID

from ninja import Schema

from apps.base.formatting import ShownOut, WorkingOut
from apps.base.quantities import TypedIn, TypedOut

SowingWay = Literal["first", "pass", "again"]
Soil = Literal["", "dry", "moist", "wet", "crusted", "cloddy"]
DeviationKind = Literal["skip", "plugged_row", "double", "wrong_setting", "wrong_strip", "other"]
Weeds = Literal["", "none", "few", "many"]
Texture = Literal["sand", "loam", "clay"]
PassKind = Literal["plough", "harrow", "strip_till", "roll", "hoe", "weed_harrow", "ridge", "other"]
CatchMethod = Literal["length", "turns", "bag"]
DepthStanding = Literal["within_sure", "within", "outside"]


class PlantingRecordIn(Schema):
    """How a strip was sown, as typed. ``version`` only when editing."""

    strip_id: UUID
    sown_at: datetime
    way: SowingWay = "first"
    machine_id: UUID | None = None
    lot_id: UUID | None = None
    setting: str = ""
    rate: TypedIn = TypedIn()
    speed: TypedIn = TypedIn()
    soil: Soil = ""
    weather: str = ""
    note: str = ""
    recorded_at: datetime
    version: int | None = None


class PlantingRowIn(PlantingRecordIn):
    id: UUID


class PlantingSheetIn(Schema):
    """Records of several strips at once: all are taken or none."""

    rows: list[PlantingRowIn]


class DepthCheckIn(Schema):
    strip_id: UUID
    depth: TypedIn
    opener: int | None = None
    recorded_at: datetime
    version: int | None = None


class DeviationIn(Schema):
    """What went otherwise. ``sown_treatment_id`` where the strip got another treatment; start and end from the stake."""

    strip_id: UUID
    kind: DeviationKind
    rows: int | None = None
    start: TypedIn = TypedIn()
    end: TypedIn = TypedIn()
    sown_treatment_id: UUID | None = None
    note: str = ""
    recorded_at: datetime
    version: int | None = None


class SeedbedCheckIn(Schema):
    strip_id: UUID | None = None
    checked_on: date
    boot_sink: TypedIn = TypedIn()
    soil_temperature: TypedIn = TypedIn()
    ph: TypedIn = TypedIn()
    residue: TypedIn = TypedIn()
    moisture_line: TypedIn = TypedIn()
    seeds_on_top: TypedIn = TypedIn()
    weeds: Weeds = ""
    texture: Texture = "loam"
    note: str = ""
    recorded_at: datetime
    version: int | None = None


class TillagePassIn(Schema):
    """A pass over the ground; no strips named means all."""

    done_on: date
    kind: PassKind
    machine_id: UUID | None = None
    times: int = 1
    depth: TypedIn = TypedIn()
    strip_ids: list[UUID] = []
    note: str = ""
    recorded_at: datetime
    version: int | None = None


class CatchIn(Schema):
    """One catch: what was weighed, and the length, turns or area it stands for."""

    setting: str = ""
    mass: TypedIn
    way: TypedIn


class CalibrationIn(Schema):
    trial_id: UUID | None = None
    lot_id: UUID
    machine_id: UUID
    done_on: date
    method: CatchMethod
    target: TypedIn
    tolerance: TypedIn = TypedIn(text="5", unit="%")
    openers: int | None = None
    row_spacing: TypedIn = TypedIn()
    circumference: TypedIn = TypedIn()
    slip: TypedIn = TypedIn()
    catches: list[CatchIn]
    note: str = ""
    recorded_at: datetime
    version: int | None = None


class PlantingRecordOut(Schema):
    id: UUID
    strip_id: UUID
    version: int
    sown_at: datetime
    way: SowingWay
    machine_id: UUID | None
    machine: str
    lot_id: UUID | None
    lot: str
    setting: str
    rate: TypedOut
    rate_off: str
    speed: TypedOut
    soil: Soil
    soil_name: str
    weather: str
    note: str
    recorded_by: str


class DepthCheckOut(Schema):
    id: UUID
    strip_id: UUID
    version: int
    depth: TypedOut
    depth_m: float
    opener: int | None
    recorded_by: str


class OpenerOut(Schema):
    """One row of the machine, numbered from the left as seen from behind; ``apart``: luck is unlikely."""

    opener: int
    strips: int
    mean: str
    value: float
    off: str
    luck: str
    apart: bool


class OpenersOut(Schema):
    """One thing by row of the machine: depth, stand or gaps."""

    what: str
    name: str
    openers: list[OpenerOut]
    words: str
    problem: str


class DepthsOut(Schema):
    """Depths of one strip together; ``inside_pct`` of the crop's window, ``off`` against the depth wanted."""

    n: int
    mean: ShownOut
    half_width: ShownOut | None
    inside_pct: float | None
    off: str
    working: WorkingOut


class DeviationOut(Schema):
    id: UUID
    strip_id: UUID
    version: int
    kind: DeviationKind
    kind_name: str
    rows: int | None
    start: TypedOut
    end: TypedOut
    sown_treatment_id: UUID | None
    note: str
    words: str
    recorded_by: str


class FindingOut(Schema):
    check: str
    state: Literal["good", "watch", "poor", "unknown"]
    reason: str
    source: str


class SchoolOut(Schema):
    title: str
    depth: str | None
    verdict: str
    risks: list[str]
    working: WorkingOut


class SeedbedCheckOut(Schema):
    id: UUID
    version: int
    strip_id: UUID | None
    checked_on: date
    boot_sink: TypedOut
    soil_temperature: TypedOut
    ph: TypedOut
    residue: TypedOut
    moisture_line: TypedOut
    seeds_on_top: TypedOut
    weeds: Weeds
    texture: Texture
    note: str
    overall: Literal["ready", "with_care", "not_ready", "not_known"]
    overall_words: str
    findings: list[FindingOut]
    schools: list[SchoolOut]
    recorded_by: str


class TillagePassOut(Schema):
    id: UUID
    version: int
    done_on: date
    kind: PassKind
    kind_name: str
    machine: str
    times: int
    depth: TypedOut
    strip_ids: list[UUID]
    when: str
    note: str
    recorded_by: str


class CatchOut(Schema):
    setting: str
    mass: TypedIn
    way: TypedIn
    rate: str


class CalibrationOut(Schema):
    """Catches of a lot through a machine, how they stand, and the setting that would meet the rate."""

    id: UUID
    version: int
    lot_id: UUID
    lot: str
    machine_id: UUID
    machine: str
    done_on: date
    method: CatchMethod
    target: TypedOut
    tolerance: TypedOut
    catches: list[CatchOut]
    standing: DepthStanding
    words: str
    mean: str
    off: str
    corrected: str
    advice: str
    note: str
    working: WorkingOut
    recorded_by: str


class StripPlantingOut(Schema):
    strip_id: UUID
    target_depth: ShownOut | None
    planned_rate: str | None
    planned_mass: str | None
    records: list[PlantingRecordOut]
    depths: list[DepthCheckOut]
    dug: DepthsOut | None
    deviations: list[DeviationOut]


class DepthUnitOut(Schema):
    """The unit depths are typed in on a keypad: ``factor`` to metres."""

    code: str
    label: str
    factor: float


class TreatmentDepthOut(Schema):
    """Depths by treatment: mean of its strips' means."""

    treatment_id: UUID
    strips: int
    n: int
    mean: ShownOut | None
    target: ShownOut | None
    inside_pct: float | None


class PlantingOut(Schema):
    """The Planting stage. ``window_m`` are the crop's depths, shallow and deep, where known."""

    strips: list[StripPlantingOut]
    treatments: list[TreatmentDepthOut]
    seedbed: list[SeedbedCheckOut]
    schools: list[SchoolOut]
    tillage: list[TillagePassOut]
    window: str
    window_m: list[float]
    small_seeded: bool
    depth_unit: DepthUnitOut
    uncalibrated: list[str]
    kinds: dict[str, list[list[str]]]


class CalibrationsOut(Schema):
    """Calibrations of the lots this trial sows, and which pairs of lot and machine are still to do."""

    calibrations: list[CalibrationOut]
    missing: list[str]
