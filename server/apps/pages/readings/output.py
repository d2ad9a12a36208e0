"""Readings of every kind as the API carries them."""

from __future__ import annotations

from collections import defaultdict
from uuid import UUID

from cultrix_core.unit_formatting import UnitFormatter
from ninja import Schema

from apps.analysis.responses import reading_summaries_of
from apps.base.formatting import QuestionOut
from apps.base.quantities import out
from apps.field.readings.models import Reading
from apps.field.readings.queries import readings_of
from apps.field.readings.schemas import ReadingOut
from apps.field.season.schemas import SummaryOut
from apps.records.kinds import kind_of
from apps.trial_state.view import TrialView


class StripReadingsOut(Schema):
    strip_id: UUID
    readings: list[ReadingOut]


class ReadingsOut(Schema):
    """Readings of all kinds by strip, oldest first, and treatments side by side in each kind's latest visit."""

    strips: list[StripReadingsOut]
    summaries: list[SummaryOut]


def readings_out(view: TrialView) -> ReadingsOut:
    """Standing readings of a trial."""
    by_strip: dict[UUID, list[Reading]] = defaultdict(list)
    for reading in readings_of(view.trial):
        by_strip[reading.strip_id].append(reading)
    return ReadingsOut(
        strips=[
            StripReadingsOut(
                strip_id=strip.id,
                readings=[reading_out(reading, view.show) for reading in by_strip[strip.id]],
            )
            for strip in view.strips
        ],
        summaries=reading_summaries_of(view),
    )


def reading_out(reading: Reading, show: UnitFormatter) -> ReadingOut:
    """A reading with what it raises."""
    kind = kind_of(reading)
    values = {entry.name: out(reading, entry.quantity, show) for entry in kind.entries}
    first, *others = kind.entries
    text = ", ".join([values[first.name].shown or "", *(f"at {values[other.name].shown}" for other in others)])
    questions = []
    for entry in kind.entries:
        value = getattr(reading, entry.quantity.value_column)
        if entry.usual and not entry.usual[0] <= value <= entry.usual[1]:
            said = f"{entry.quantity.label} {values[entry.name].shown} is unusual. Right unit?"
            questions.append(QuestionOut(code="odd_value", field=entry.name, text=said))
    return ReadingOut(
        id=reading.id,
        kind=kind.name,
        strip_id=reading.strip_id,
        version=reading.version,
        values=values,
        text=text,
        by_eye=reading.by_eye,
        note=reading.note,
        questions=questions,
        recorded_at=reading.recorded_at,
        clock_shift_s=reading.clock_shift_s,
        recorded_by=reading.recorded_by.get_full_name(),
    )
