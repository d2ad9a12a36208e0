"""The ledger as the API carries it."""

from typing import Literal
from uuid import UUID

from ninja import Schema

from apps.analysis.verdict.schemas import CallName
from apps.base.formatting import ShownOut


class LedgerEntryOut(Schema):
    """One comparison of one trial. ``rank`` only where it was judged in money; a look and what is open have none."""

    key: str
    trial_id: UUID
    title: str
    crop: str
    crop_name: str
    season: int
    field: str
    factors: list[str]
    design: str
    name: str
    standing: Literal["judged", "look", "open"]
    rank: int | None
    net: ShownOut | None
    lower: ShownOut | None
    upper: ShownOut | None
    chance: str
    call: CallName | None
    call_words: str
    yield_: str
    yield_call: str
    said: str
    series: str


class CombinedOut(Schema):
    """A comparison over the site-years of a series."""

    series: str
    trial_id: UUID
    crop: str
    name: str
    years: int
    net: ShownOut | None
    lower: ShownOut | None
    upper: ShownOut | None
    call: CallName | None
    call_words: str
    held: str
    problem: str


class LessonOut(Schema):
    """What the farm has learned, and where the next design takes it up."""

    crop: str
    about: str
    words: str
    used: str


class LedgerOut(Schema):
    """A page of the comparisons that fit; ``total``, ``span`` (of all gains and intervals) and ``luck`` are of all of them.

    ``choices``: what each filter offers. ``recalculating``: trials whose rows are of before their last entry.
    """

    unit: str
    entries: list[LedgerEntryOut]
    total: int
    span: list[float]
    choices: dict[str, list[str]]
    luck: str
    recalculating: int


class PortfolioOut(Schema):
    """What the trials say together."""

    combined: list[CombinedOut]
    lessons: list[LessonOut]
