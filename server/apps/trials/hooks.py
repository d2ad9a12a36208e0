"""What trials announce, and what they ask of the floors above: these know the records, trials do not."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from uuid import UUID

from apps.accounts.models import User
from apps.base.hooks import Hook
from apps.trials.models import Strip, Trial


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordTally:
    """How many records hang on something; ``planting``: of sowing, depths, deviations; ``season``: of tapes to photos."""

    counts: int
    loads: int
    planting: int = 0
    season: int = 0

    def __add__(self, other: RecordTally) -> RecordTally:
        return RecordTally(
            counts=self.counts + other.counts,
            loads=self.loads + other.loads,
            planting=self.planting + other.planting,
            season=self.season + other.season,
        )

    def __bool__(self) -> bool:
        return bool(self.counts or self.loads or self.planting or self.season)

    @property
    def words(self) -> str:
        """Such as “12 stand counts and 3 loads”."""
        parts = [
            f"{number} {name}{'s' if number != 1 else ''}"
            for number, name in (
                (self.counts, "stand count"),
                (self.loads, "load"),
                (self.planting, "record of planting"),
                (self.season, "record of the season"),
            )
            if number
        ]
        words = " and ".join(parts)
        return words.replace("record of plantings", "records of planting").replace(
            "record of the seasons", "records of the season"
        )


records_on_strips: Hook[[Sequence[UUID]], RecordTally] = Hook("records on strips")
notes_on_strips: Hook[[Trial, Sequence[Strip]], bool] = Hook("notes that name strips")
standard_moisture_changed: Hook[[User, Trial], None] = Hook("standard moisture changed")


def tally(strips: Sequence[Strip]) -> RecordTally:
    """Records on these strips, void ones included: they are history that must not lose its strip."""
    ids = [strip.id for strip in strips]
    return sum(records_on_strips(ids), RecordTally(counts=0, loads=0))
