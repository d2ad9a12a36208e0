"""Answers the core gives, as the API carries them: shown values and workings."""

from __future__ import annotations

from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.working import Working
from ninja import Schema


class ShownOut(Schema):
    """A value in the reader's units: number for drawing, text for reading."""

    value: float
    text: str


class StepOut(Schema):
    label: str
    formula: str
    numbers: str
    outcome: str
    source: str


class WorkingOut(Schema):
    title: str
    outcome: str
    steps: list[StepOut]
    assumption: str
    table: list[list[str]]


class QuestionOut(Schema):
    """Something asked about an entry; it blocks nothing."""

    code: str
    field: str
    text: str


def shown(
    value: float | None, kind: str, show: UnitFormatter, *, signed: bool = False, decimals: int | None = None
) -> ShownOut | None:
    """A canonical value for an answer, None stays None."""
    if value is None:
        return None
    result = show.show(value, kind, signed=signed, decimals=decimals)
    return ShownOut(value=result.value, text=result.text)


def shown_value(value: float, kind: str, show: UnitFormatter) -> ShownOut:
    """A canonical value that is there, for an answer."""
    result = shown(value, kind, show)
    assert result is not None
    return result


def working_out(working: Working) -> WorkingOut:
    """A working for an answer."""
    return WorkingOut(
        title=working.title,
        outcome=working.outcome,
        assumption=working.assumption,
        table=[list(row) for row in working.table],
        steps=[
            StepOut(label=step.label, formula=step.formula, numbers=step.numbers, outcome=step.outcome, source=step.source)
            for step in working.steps
        ],
    )
