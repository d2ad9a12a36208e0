"""The working: every computed number with the arithmetic that led to it.

A calculator returns a ``Working`` beside its result. Each step holds a label, the formula in words, the
same with the reader's numbers, the outcome and the source, so that screen, report and test see one
arithmetic.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """One line of arithmetic."""

    label: str
    formula: str
    numbers: str
    outcome: str
    source: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Working:
    """A titled chain of steps and the assumption that moves the outcome most.

    ``table``: rows of text, the first one the heading, where an answer is a choice among many.
    """

    title: str
    outcome: str
    steps: tuple[Step, ...]
    assumption: str = ""
    table: tuple[tuple[str, ...], ...] = ()
