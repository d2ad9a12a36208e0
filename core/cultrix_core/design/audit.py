"""What cannot be told apart: every pair of treatments held against everything else that was recorded of their strips.

For one recorded thing the difference of two treatments is asked for twice by least squares: in a model of treatments alone, and
in one of treatments and that thing. Its variance, in units of the error, is larger in the second:

    inflation = c′(X₂′X₂)⁻c ÷ c′(X₁′X₁)⁻c        (a variance inflation factor [1])

    identical   the second model cannot estimate the difference at all: whatever it is may be due to the other thing
    nearly      inflation of ``NEARLY`` or more
    balanced    less

Other treatments count: where a third one links the two over both machines, their difference can be estimated. Labels stand as
classes. Numbers and days stand as classes too where most of them come more than once (sowing days, plot sizes); where nearly
every strip has its own (place in the field, curing time) they stand as a straight line. Labels that nearly every strip has of
its own (numbers of strips) say nothing and are passed over, as is what does not vary.

Reference: [1] Belsley, Kuh & Welsch (1980) Regression Diagnostics, ch. 3; Searle (1971) Linear Models, ch. 5 for estimability
(both from memory).
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from itertools import combinations
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from cultrix_core.errors import Refusal
from cultrix_core.unit_formatting import format_number

Array = NDArray[np.float64]
Kind = Literal["identical", "nearly", "balanced"]
NEARLY = 5.0
MOST_ROWS = 5_000
MOST_TREATMENTS = 60
ROUNDING = 1e-8
SHOWN = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """One pair of treatments against one recorded thing. ``inflation``: None where they cannot be told apart."""

    treatments: tuple[str, str]
    against: str
    kind: Kind
    inflation: float | None
    sentence: str


def audit(
    treatments: Sequence[str], against: Mapping[str, Sequence[str]], *, told: Callable[[str], str] = str
) -> tuple[Finding, ...]:
    """Every pair of treatments against every recorded thing, those that cannot be told apart first.

    Parameters
    ----------
    treatments : label by strip, n long.
    against : by the name of the thing what was recorded for each strip, n long; empty where nothing was.
    told : writes a recorded value in sentences, such as a day.

    Returns
    -------
    tuple[Finding, ...] : of things that vary and that both treatments of a pair have on record.

    Raises
    ------
    Refusal : ``too_few_treatments``, ``lengths_differ``, ``too_large`` tables.
    """
    names = list(dict.fromkeys(treatments))
    if len(names) < 2:
        raise Refusal("too_few_treatments", field="treatment", value=len(names))
    for what, size, most in (("rows", len(treatments), MOST_ROWS), ("treatments", len(names), MOST_TREATMENTS)):
        if size > most:
            raise Refusal("too_large", field=what, label=f"The number of {what}", value=size, limit=most)
    findings = []
    for thing, values in against.items():
        if len(values) != len(treatments):
            raise Refusal("lengths_differ", field=thing, label=thing, value=len(values), limit=len(treatments))
        known = [(treatment, value.strip()) for treatment, value in zip(treatments, values, strict=True) if value.strip()]
        columns = _columns([value for _, value in known])
        if columns is not None:
            findings += _of_thing(thing, known, columns, told)
    order: dict[Kind, int] = {"identical": 0, "nearly": 1, "balanced": 2}
    return tuple(sorted(findings, key=lambda finding: (order[finding.kind], -(finding.inflation or 0.0))))


def _columns(values: Sequence[str]) -> Array | None:
    """What stands in the model for a thing; None where it says nothing."""
    labels = list(dict.fromkeys(values))
    if len(labels) < 2:
        return None
    if 2 * len(labels) <= len(values):
        return np.array([[float(value == label) for label in labels] for value in values])
    numbers = [_number(value) for value in values]
    if any(number is None for number in numbers):
        return None
    line = np.array(numbers, dtype=np.float64)
    return np.asarray(((line - line.mean()) / line.std())[:, None])


def _number(text: str) -> float | None:
    """A number, or a day or moment as ISO has it; None for other labels."""
    try:
        return float(text)
    except ValueError:
        pass
    try:
        return float(date.fromisoformat(text[:10]).toordinal())
    except ValueError:
        return None


def _of_thing(thing: str, known: Sequence[tuple[str, str]], columns: Array, told: Callable[[str], str]) -> list[Finding]:
    names = list(dict.fromkeys(treatment for treatment, _ in known))
    classes = np.array([[float(treatment == name) for name in names] for treatment, _ in known])
    both = np.hstack([classes, columns, np.ones((len(known), 1))])
    inverse = np.linalg.pinv(both.T @ both, hermitian=True)
    reach = inverse @ (both.T @ both)
    findings = []
    for left, right in combinations(range(len(names)), 2):
        contrast = np.zeros(both.shape[1])
        contrast[left], contrast[right] = 1.0, -1.0
        estimable = float(np.max(np.abs(contrast @ reach - contrast))) < ROUNDING
        alone = 1 / classes[:, left].sum() + 1 / classes[:, right].sum()
        inflation = float(contrast @ inverse @ contrast) / float(alone) if estimable else None
        kind: Kind = "identical" if inflation is None else "nearly" if inflation >= NEARLY else "balanced"
        pair = (names[left], names[right])
        findings.append(
            Finding(
                treatments=pair,
                against=thing,
                kind=kind,
                inflation=inflation,
                sentence=_sentence(pair, thing, kind, inflation, [(name, told(value)) for name, value in known]),
            )
        )
    return findings


def _sentence(pair: tuple[str, str], thing: str, kind: Kind, inflation: float | None, known: Sequence[tuple[str, str]]) -> str:
    if kind == "identical":
        with_, other = (_held(name, known) for name in pair)
        return (
            f"{pair[0]} and {pair[1]} cannot be told apart from {thing}: {pair[0]} had {with_}, {pair[1]} had {other}. "
            "Whatever their difference is may be due to either."
        )
    times = format_number(inflation or 1.0, 1)
    if kind == "nearly":
        return (
            f"{pair[0]} against {pair[1]} is nearly tied to {thing}: taking it into account makes the variance of their "
            f"difference {times} times as large."
        )
    return f"{thing[:1].upper()}{thing[1:]} is spread over {pair[0]} and {pair[1]} (variance {times} times as large)."


def _held(name: str, known: Sequence[tuple[str, str]]) -> str:
    """What one treatment had of a thing."""
    values = list(dict.fromkeys(value for treatment, value in known if treatment == name))
    more = f" and {len(values) - SHOWN} more" if len(values) > SHOWN else ""
    return ", ".join(values[:SHOWN]) + more
