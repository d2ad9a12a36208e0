from datetime import date
from typing import Literal
from uuid import UUID

from ninja import Schema

from apps.base.formatting import ShownOut


class StationIn(Schema):
    """Where weather comes from. ``version`` 0 for the first one."""

    kind: Literal["simulated", "file"]
    name: str = ""
    seed: int = 1
    southern: bool = False
    version: int = 0


class DayOut(Schema):
    on: date
    min: ShownOut
    max: ShownOut
    rain: str
    soil: ShownOut | None


class StationOut(Schema):
    """The station with its last fortnight, newest last; ``kind`` None when there is none yet."""

    kind: Literal["simulated", "file"] | None
    name: str
    seed: int
    southern: bool
    version: int
    days: int
    first: date | None
    last: date | None
    recent: list[DayOut]
    wet: str


class VisitDueOut(Schema):
    """One visit of a trial with its day and state; ``where``: the strips it is due on, empty where it is due on all."""

    key: str
    ref: str
    task: str
    trait: str
    what: str
    why: str
    on: date
    state: Literal["overdue", "due", "wait", "coming", "done", "missed"]
    reason: str
    where: str


class ScheduleOut(Schema):
    """Visits of one trial; ``heat_words`` says how heat units are reckoned and how many there are."""

    trial_id: UUID
    visits: list[VisitDueOut]
    heat_words: str
    cautions: list[str]
