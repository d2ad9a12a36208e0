"""The answer of a trial of several factors: one sentence a factor, then the best combination.

A sentence tells what ``factor_rule`` compares and what ``decision_rule`` calls, and nothing else. Screen, report, ledger and
command line take their sentences from here.

The best combination is taken from means with shrunken interactions, not from the means of cells, whose highest is partly luck:
each effect of an interaction is multiplied with max(0, 1 − 1 ÷ F), the part of its mean square that is not error (empirical
Bayes by moments [1]); main effects stay as they are.

Reference: [1] Efron & Morris (1973) J. Am. Stat. Assoc. 68:117–130, the positive part (from memory).
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations, product
from typing import Literal

import numpy as np

from cultrix_core.stats.decision_rule import Call
from cultrix_core.stats.factor_rule import Family, Interaction
from cultrix_core.stats.families import CellDifference, CellMean

Kind = Literal["main", "inside", "sizes", "suspected", "best"]
Judged = tuple[CellDifference, Call | None]


@dataclass(frozen=True, slots=True, kw_only=True)
class Speech:
    """How a reader says things: sizes, signed sizes, levels, factors, and what is compared ("yield")."""

    size: Callable[[float], str]
    signed: Callable[[float], str]
    level: Callable[[str], str]
    factor: Callable[[str], str]
    noun: str
    per_cent: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Answer:
    """One sentence about one factor at one place; of the best combination ``factor`` is empty."""

    factor: str
    kind: Kind
    within: Mapping[str, str]
    sentence: str


@dataclass(frozen=True, slots=True, kw_only=True)
class BestCombination:
    """The combination with the highest shrunken mean, and how far the means of cells were shrunken."""

    levels: Mapping[str, str]
    mean: float
    shrinkage: Mapping[tuple[str, ...], float]


def factor_answers(
    families: Sequence[Family],
    sizes: Sequence[Family],
    interactions: Sequence[Interaction],
    speech: Speech,
    call_of: Callable[[CellDifference], Call | None],
) -> tuple[Answer, ...]:
    """One answer for each family of calls, and one for each interaction that is told beside it.

    Parameters
    ----------
    families, sizes : what gets calls, and what is only told, of all factors in order.
    call_of : the call of a difference; None where nothing can be called.
    """
    answers = []
    for item in families:
        rows = [(difference, call_of(difference)) for difference in item.differences]
        answers.append(
            Answer(
                factor=item.factor,
                kind="inside" if item.within else "main",
                within=dict(item.within),
                sentence=_start(item, speech) + family_words(rows, item.against, speech),
            )
        )
        own = [size for size in sizes if size.factor == item.factor]
        if item.within or not own:
            continue
        told = [interaction for interaction in interactions if item.factor in interaction.factors and interaction.matters]
        known = [interaction for interaction in told if interaction.established]
        answers.append(
            Answer(
                factor=item.factor,
                kind="sizes" if known else "suspected",
                within={},
                sentence=_sizes(item.factor, known or told, own, speech, shown=bool(known)),
            )
        )
    return tuple(answers)


def _start(item: Family, speech: Speech) -> str:
    at = " with ".join(speech.level(level) for level in item.within.values())
    return f"{_capital(speech.factor(item.factor))}{f' at {at}' if at else ''}: "


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]


def family_words(rows: Sequence[Judged], against: str | None, speech: Speech) -> str:
    """The calls of one family in a sentence: what is settled with its size, what is open by number."""
    if len(rows) == 1:
        return f"{single_words(*rows[0], speech, against)}."
    parts = [single_words(difference, call, speech, against) for difference, call in rows if _settled(call)]
    alike = [difference for difference, call in rows if call is not None and call.name == "no_difference_that_matters"]
    unclear = [difference for difference, call in rows if call is None or call.name == "cannot_tell_yet"]
    if alike:
        parts.append(f"no difference that matters between {_pairs(alike, against, speech)}")
    if unclear:
        parts.append(f"not clear yet for {_pairs(unclear, against, speech)}")
    return f"{'; '.join(parts)}."


def _settled(call: Call | None) -> bool:
    return call is not None and call.name in ("gain", "loss")


def _pairs(rows: Sequence[CellDifference], against: str | None, speech: Speech) -> str:
    if against is not None:
        return f"{_list([speech.level(row.left) for row in rows])} against {speech.level(against)}"
    if len(rows) > 3:
        return f"{len(rows)} of the pairs"
    return _list([f"{speech.level(row.left)} and {speech.level(row.right)}" for row in rows])


def _list(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


def single_words(difference: CellDifference, call: Call | None, speech: Speech, against: str | None) -> str:
    """One comparison without its full stop; the better one stands first where nothing is the control."""
    left, right, lower, upper = difference.left, difference.right, difference.lower, difference.upper
    turned = call is not None and call.name == "loss" and against is None
    if turned:
        left, right, lower, upper = right, left, -upper, -lower
    left, right = speech.level(left), speech.level(right)
    interval = f"{speech.per_cent} interval {speech.signed(lower)} to {speech.signed(upper)}"
    if call is None or call.name == "cannot_tell_yet":
        return f"not clear yet whether {left} and {right} differ in {speech.noun} ({interval})"
    if call.name == "no_difference_that_matters":
        return f"{left} and {right} make no difference that matters in {speech.noun} ({interval})"
    small = ", a small difference" if call.small else ""
    size = speech.size(abs(difference.estimate))
    if call.name == "gain" or turned:
        return f"{left} gains {size} {speech.noun} over {right} ({interval}){small}"
    return f"{left} loses {size} {speech.noun} against {right} ({interval}){small}"


def _sizes(factor: str, told: Sequence[Interaction], sizes: Sequence[Family], speech: Speech, *, shown: bool) -> str:
    others = list(dict.fromkeys(speech.factor(name) for item in told for name in item.factors if name != factor))
    p = min(item.p_holm for item in told)
    p_text = "< 0.0001" if p < 0.0001 else f"{p:.3g}"
    first = sizes[0].differences
    place = max(range(len(first)), key=lambda index: max(abs(size.differences[index].estimate) for size in sizes))
    left, right = speech.level(first[place].left), speech.level(first[place].right)
    by = "; ".join(
        f"{speech.signed(size.differences[place].estimate)} at {' with '.join(speech.level(at) for at in size.within.values())}"
        for size in sizes
    )
    how = (
        f"how large it is depends on {_list(others)}, in one direction"
        if shown
        else f"that it depends on {_list(others)} is suspected, not shown"
    )
    return f"{_capital(speech.factor(factor))}: {how} (p {p_text} over all interactions): {left} against {right} {by}."


def best_combination(
    cells: Sequence[CellMean], factors: Sequence[str], f: Mapping[tuple[str, ...], float]
) -> BestCombination | None:
    """The combination with the highest mean after interactions are shrunken.

    Parameters
    ----------
    cells : means of all combinations.
    f : F ratio of each interaction by its factors.

    Returns
    -------
    BestCombination | None : None where a combination is missing.
    """
    levels = [list(dict.fromkeys(cell.levels[name] for cell in cells)) for name in factors]
    by = {tuple(cell.levels[name] for name in factors): cell.mean for cell in cells}
    if len(by) < int(np.prod([len(own) for own in levels])):
        return None
    means = np.array([by[cell] for cell in product(*levels)]).reshape([len(own) for own in levels])
    effects = _effects(means)
    shrinkage = {}
    told = np.zeros_like(means)
    for axes, effect in effects.items():
        share = 1.0
        if len(axes) > 1:
            term = tuple(factors[axis] for axis in axes)
            share = max(0.0, 1.0 - 1.0 / f[term]) if f.get(term, 0.0) > 0 else 0.0
            shrinkage[term] = share
        told = told + share * effect
    place = np.unravel_index(int(np.argmax(told)), told.shape)
    best = {name: own[int(at)] for name, own, at in zip(factors, levels, place, strict=True)}
    return BestCombination(levels=best, mean=float(told[place]), shrinkage=shrinkage)


def _effects(means: np.ndarray) -> dict[tuple[int, ...], np.ndarray]:
    """Means of cells as a sum of effects with equal weights: constant, main effects, interactions; each over all cells."""
    axes = range(means.ndim)
    effects: dict[tuple[int, ...], np.ndarray] = {}
    for size in range(means.ndim + 1):
        for term in combinations(axes, size):
            others = tuple(axis for axis in axes if axis not in term)
            average = means.mean(axis=others, keepdims=True) if others else means
            inner = sum((effects[part] for part in effects if set(part) < set(term)), np.zeros_like(means))
            effects[term] = average - inner.mean(axis=others, keepdims=True) if others else average - inner
            effects[term] = np.broadcast_to(effects[term], means.shape).copy()
    return effects


def best_answer(best: BestCombination | None, speech: Speech) -> Answer | None:
    """The best combination in a sentence."""
    if best is None:
        return None
    levels = " with ".join(speech.level(level) for level in best.levels.values())
    return Answer(
        factor="",
        kind="best",
        within=dict(best.levels),
        sentence=f"Best combination by the model: {levels}, {speech.size(best.mean)} {speech.noun} expected.",
    )
