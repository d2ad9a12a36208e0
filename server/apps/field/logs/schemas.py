from datetime import datetime
from typing import Literal
from uuid import UUID

from ninja import Schema

from apps.base.formatting import ShownOut, WorkingOut
from apps.base.quantities import TypedIn, TypedOut

LogState = Literal["columns", "waiting", "running", "done", "failed", "cancelled"]


class JobOut(Schema):
    id: UUID
    state: LogState
    said: str


class LogIn(Schema):
    """What comes with a file."""

    machine_id: UUID | None = None
    recorded_at: datetime


class ColumnIn(Schema):
    """A column and its unit, or one width for all readings."""

    name: str = ""
    unit: str = ""
    constant: TypedIn | None = None


class ColumnsIn(Schema):
    version: int
    machine_id: UUID | None = None
    columns: dict[str, ColumnIn]


class StepsIn(Schema):
    """Changed parameters by name (others keep their usual value), steps undone, margin, calibration."""

    version: int
    values: dict[str, float | None] = {}
    off: list[str] = []
    margin: TypedIn
    calibrated: bool = True
    left_out: list[UUID] = []


class SourceIn(Schema):
    """``log_id`` None: yields of the scale."""

    version: int
    log_id: UUID | None = None


class ColumnOut(Schema):
    role: str
    label: str
    optional: bool
    units: list[str]
    name: str
    unit: str
    constant: str


class ParameterOut(Schema):
    name: str
    label: str
    unit: str
    value: float | None
    usual: float | None


class LogStepOut(Schema):
    """A step with what it dropped; ``index`` names it in the picture."""

    key: str
    index: int
    name: str
    on: bool
    words: str
    dropped: int
    left: int
    parameters: list[ParameterOut]


class LogStripOut(Schema):
    strip_id: UUID
    order: int
    letter: str
    readings: int
    effective: float | None
    raw: ShownOut | None
    yield_: ShownOut | None
    se: ShownOut | None
    scale: ShownOut | None
    difference: ShownOut | None
    difference_pct: float | None
    working: WorkingOut | None


class LogLoadOut(Schema):
    """A load beside the log: how far the log is off after calibration."""

    load_id: UUID
    strip: int
    scale: str
    logged: str
    residual_pct: float | None
    used: bool
    far: bool


class LogCalibrationOut(Schema):
    factor: str
    words: str
    loads: list[LogLoadOut]


class LogAgreementOut(Schema):
    """Scale less log per strip, in the reader's unit."""

    unit: str
    bias: float
    lower: float
    upper: float
    words: str
    points: list[list[float]]


class YieldLogOut(Schema):
    id: UUID
    version: int
    name: str
    size_kb: int
    digest: str
    machine_id: UUID | None
    machine: str
    recorded_at: datetime
    recorded_by: str
    state: LogState
    job_id: UUID | None
    progress_pct: float
    said: str
    field: str
    header: list[str]
    rows: list[list[str]]
    columns: list[ColumnOut]
    readings: int
    unreadable: int
    passes: int
    on_strips: int
    delay_s: float | None
    delay_found: bool
    steps: list[LogStepOut]
    off: list[str]
    values: dict[str, float]
    margin: TypedOut
    calibrated: bool
    calibration: LogCalibrationOut | None
    agreement: LogAgreementOut | None
    strips: list[LogStripOut]
    chosen: bool
    remarks: list[str]


class SourceOut(Schema):
    version: int
    log_id: UUID | None
    words: str


class YieldLogsOut(Schema):
    """Logs of a trial, and what the verdict rests on."""

    source: SourceOut
    placed: bool
    needs: str
    logs: list[YieldLogOut]


class OutlineOut(Schema):
    order: int
    letter: str
    ring: list[list[float]]


class LogPictureOut(Schema):
    """Readings thinned for drawing, in m along and across the strips; ``dropped``: index of the step, 0 where it stands."""

    outlines: list[OutlineOut]
    along: list[float]
    across: list[float]
    dropped: list[int]
    tone: list[float]
    drawn: int
    of: int


class LinesIn(Schema):
    """What an instrument said, line by line."""

    instrument: Literal["scale", "meter"]
    lines: str


class InstrumentOut(Schema):
    """A reading that may be recorded, as text and unit."""

    text: str
    unit: str
    words: str


class StandInOut(Schema):
    """What a simulated instrument says, in the text its parser reads."""

    lines: str
    truth: str
