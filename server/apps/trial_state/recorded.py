"""What was recorded of each strip beside its treatment: what a difference may be due to instead.

Days stand as ISO days, so that they can be held against each other as numbers; what stands for several things of a strip is
put together in one text.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING
from uuid import UUID

from cultrix_core.unit_formatting import format_number

from apps.accounts.models import User
from apps.field.queries import loads_of
from apps.field.season.models import PlantMeasure, Rating
from apps.field.stand.models import StandCount
from apps.trials.models import Strip

if TYPE_CHECKING:
    from apps.trial_state.view import TrialView

DOING: dict[str, tuple[type[StandCount] | type[PlantMeasure] | type[Rating], str]] = {
    "stand": (StandCount, "counting"),
    "measure": (PlantMeasure, "measuring"),
    "rating": (Rating, "rating"),
}
INPUTS = ("spray", "missed", "nutrients", "irrigation", "cut")


@dataclass(frozen=True, slots=True, kw_only=True)
class Thing:
    """One recorded thing: what it is called in a sentence, and its value by strip where it is known."""

    key: str
    words: str
    values: Mapping[UUID, str]


def things_of(view: TrialView, of: str) -> tuple[Thing, ...]:
    """What was recorded of strips and may have been laid out with the treatments, as far as it may have changed a response.

    ``of``: where the response comes from; records of other kinds are not read.
    """
    things = [
        Thing(key="block", words="the block", values={strip.id: str(strip.block.number) for strip in view.strips}),
        Thing(key="place", words="the place in the field", values={strip.id: _place(strip) for strip in view.strips}),
        *_sown(view),
        Thing(key="passes", words="the passes over the ground", values=_passes(view)),
        Thing(key="inputs", words="the inputs of the season", values=_inputs(view)),
        Thing(key="plot_size", words="the size of the strip", values=_sizes(view)),
        *_last(view, of),
    ]
    return tuple(thing for thing in things if thing.values)


def _name(person: User) -> str:
    return person.get_full_name() or person.username


def _place(strip: Strip) -> str:
    """Across the driving direction, then along it: a number of its own for every strip, so that it stands as a line.

    As classes, columns would never part from a factor that fills whole columns, as in crossing strips.
    """
    return f"{strip.column or strip.order}.{strip.row:03d}"


def _sown(view: TrialView) -> list[Thing]:
    records = view.records
    sowings = {key: record.sowing for key, record in records.items() if record.sowing is not None}
    return [
        Thing(
            key="sowing_day",
            words="the day of sowing",
            values={key: record.sown_on.isoformat() for key, record in records.items() if record.sown_on is not None},
        ),
        Thing(
            key="machine",
            words="the machine that sowed",
            values={key: sowing.machine.name for key, sowing in sowings.items() if sowing.machine},
        ),
        Thing(
            key="lot",
            words="the seed lot",
            values={key: str(sowing.lot) for key, sowing in sowings.items() if sowing.lot},
        ),
        Thing(
            key="sowing_person",
            words="the person at sowing",
            values={key: _name(sowing.person) for key, sowing in sowings.items()},
        ),
    ]


def _passes(view: TrialView) -> dict[UUID, str]:
    """Passes by strip, in order; none where no pass was recorded at all."""
    by_strip: dict[UUID, list[str]] = {strip.id: [] for strip in view.strips}
    rows = view.trial.tillage_passes.filter(voided=False).prefetch_related("strips").select_related("machine")
    for row in rows:
        text = row.get_kind_display().lower() + (f" with {row.machine.name}" if row.machine else "")
        for strip_id in [strip.id for strip in row.strips.all()] or list(by_strip):
            by_strip[strip_id].append(text + (f" ×{row.times}" if row.times > 1 else ""))
    return {key: " and ".join(texts) or "none" for key, texts in by_strip.items()} if any(by_strip.values()) else {}


def _inputs(view: TrialView) -> dict[UUID, str]:
    by_strip: dict[UUID, list[str]] = {strip.id: [] for strip in view.strips}
    for event in view.events:
        if event.kind in INPUTS:
            for strip_id in [strip.id for strip in event.strips.all()] or list(by_strip):
                by_strip[strip_id].append(f"{event.get_kind_display().lower()} ({event.text[:40]})")
    return {key: " and ".join(texts) or "none" for key, texts in by_strip.items()} if any(by_strip.values()) else {}


def _sizes(view: TrialView) -> dict[UUID, str]:
    """Ground of each strip to two digits: what is harvested to a few per cent is no other size."""
    known = {strip.id: strip.area_m2 for strip in view.strips if strip.area_m2}
    return {key: f"{format_number(float(f'{area:.2g}'), 0)} m²" for key, area in known.items()}


def _last(view: TrialView, of: str) -> list[Thing]:
    """Who took the response from each strip, and when: the last record of it."""
    if of == "harvest":
        return _harvested(view)
    if of not in DOING:
        return []
    model, doing = DOING[of]
    days: dict[UUID, str] = {}
    by: dict[UUID, str] = {}
    rows = model._default_manager.filter(strip__trial=view.trial, voided=False).order_by("recorded_at")
    for row in rows.select_related("recorded_by"):
        days[row.strip_id], by[row.strip_id] = row.recorded_at.date().isoformat(), _name(row.recorded_by)
    return [
        Thing(key="count_day", words=f"the day of {doing}", values=days),
        Thing(key="count_person", words=f"the person {doing}", values=by),
    ]


def _harvested(view: TrialView) -> list[Thing]:
    days: dict[UUID, str] = {}
    people: dict[UUID, str] = {}
    ways: dict[UUID, str] = {}
    for load in loads_of(view.trial):
        days.setdefault(load.strip_id, load.recorded_at.date().isoformat())
        people.setdefault(load.strip_id, _name(load.recorded_by))
        ways.setdefault(load.strip_id, load.get_method_display().lower() + (" with tare" if load.tare.value else ""))
    return [
        Thing(key="harvest_day", words="the day of harvest", values=days),
        Thing(key="harvest_person", words="the person at the scale", values=people),
        Thing(key="weighing", words="the way of weighing", values=ways),
    ]
