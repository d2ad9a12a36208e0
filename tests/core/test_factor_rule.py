"""The rule of several factors: interactions as one family, effects that turn, the best combination, the sentences."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from cultrix_core.stats.decision_rule import make_call
from cultrix_core.stats.factor_answers import Answer, Speech, best_combination, factor_answers
from cultrix_core.stats.factor_rule import (
    ESTABLISHED,
    FactorFamilies,
    call_of_factor,
    crossing_p,
    families_of,
    holm,
    judge_interactions,
    simple_reach,
)
from cultrix_core.stats.families import CellDifference, CellMean
from cultrix_core.stats.nested_designs import NestedAnalysis, analyse_nested
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats
from statsmodels.stats.multitest import multipletests

NAMES = ("starter", "machine", "width", "rate")
Effect = Callable[[Sequence[int]], float]


def factorial(seed: int, factors: int, blocks: int = 4, effect: Effect = lambda _: 0.0, sd: float = 1.0) -> NestedAnalysis:
    """Two levels of each factor in complete blocks."""
    draw = np.random.default_rng(seed)
    names = NAMES[:factors]
    columns: dict[str, list[str]] = {name: [] for name in (*names, "block")}
    response = []
    for block in range(blocks):
        ground = draw.normal(0, 1)
        for cell in itertools.product((0, 1), repeat=factors):
            for name, level in zip(names, cell, strict=True):
                columns[name].append("new" if level else "old")
            columns["block"].append(str(block))
            response.append(float(20 + ground + effect(cell) + draw.normal(0, sd)))
    return analyse_nested(
        response, columns, design="factorial", factors=names, block="block", levels=dict.fromkeys(names, ("old", "new"))
    )


def judged(analysis: NestedAnalysis) -> dict[str, FactorFamilies]:
    interactions = judge_interactions(analysis)
    return {name: families_of(analysis, name, interactions, "old") for name in analysis.factors}


def row(estimate: float, se: float = 1.0, df: float = 20.0) -> CellDifference:
    return CellDifference(
        factor="width",
        left="new",
        right="old",
        within={},
        estimate=estimate,
        se=se,
        df=df,
        t=estimate / se,
        p=0.5,
        p_adjusted=0.5,
        lower=estimate - 1.7 * se,
        upper=estimate + 1.7 * se,
        critical=1.7,
    )


@given(st.lists(st.floats(0, 1), min_size=1, max_size=12))
def test_holm_is_that_of_statsmodels(p: list[float]) -> None:
    assert holm(p) == pytest.approx(list(multipletests(p, method="holm")[1]))


def test_an_effect_that_turns_by_hand() -> None:
    """Gail & Simon (1985, from memory): with two places half the tail of one squared t; with one place nothing can turn."""
    assert crossing_p([row(3.0), row(-2.0)]) == pytest.approx(0.5 * stats.f.sf(4.0, 1, 20))
    assert crossing_p([row(3.0), row(2.0)]) == 1.0
    assert crossing_p([row(-3.0)]) == 1.0
    three = crossing_p([row(3.0), row(-2.0), row(1.0)])
    assert three == pytest.approx(2 * 0.25 * stats.f.sf(4.0, 1, 20) + 0.25 * stats.f.sf(2.0, 2, 20))


def test_the_published_constants_of_a_turning_effect() -> None:
    """Their table for p = 0.05: 2.71 with 2 places, 4.23 with 3, 5.43 with 4 (from memory), with the error known."""
    for places, constant in ((2, 2.71), (3, 4.23), (4, 5.43)):
        rows = [row(constant**0.5, df=1e9), *[row(-9.0, df=1e9)] * (places - 1)]
        assert crossing_p(rows) == pytest.approx(0.05, abs=4e-4)


@given(st.integers(0, 10_000))
def test_where_all_effects_are_alike_in_size_an_effect_turns_by_chance_in_its_level(seed: int) -> None:
    """Symmetry: turning every difference round changes nothing."""
    draw = np.random.default_rng(seed)
    rows = [row(float(value)) for value in draw.normal(0, 2, 3)]
    assert crossing_p(rows) == pytest.approx(crossing_p([replace(item, estimate=-item.estimate) for item in rows]))


def test_cells_are_told_as_they_are_where_the_interaction_is_all_there_is() -> None:
    """With F without bound nothing is shrunken; with F of one the additive model is left. Means of a worked 2 × 3 table."""
    table = np.array([[10.0, 12.0, 11.0], [13.0, 14.0, 18.0]])
    cells = [
        CellMean(levels={"a": str(i), "b": str(j)}, n=4, mean=table[i, j], se=1, df=9, lower=0, upper=0, letters=None)
        for i, j in itertools.product(range(2), range(3))
    ]
    whole = best_combination(cells, ("a", "b"), {("a", "b"): 1e12})
    assert whole is not None
    assert (dict(whole.levels), whole.mean) == ({"a": "1", "b": "2"}, pytest.approx(18.0))
    flat = best_combination(cells, ("a", "b"), {("a", "b"): 1.0})
    assert flat is not None
    assert flat.mean == pytest.approx(13.0 + 2.0 + 1.5), "grand mean 13, row 15, column 14.5"
    half = best_combination(cells, ("a", "b"), {("a", "b"): 2.0})
    assert half is not None
    assert half.mean == pytest.approx((18.0 + 16.5) / 2)
    assert best_combination(cells[:-1], ("a", "b"), {}) is None


def test_no_difference_needs_every_simple_effect() -> None:
    """An average of two opposite effects is no equality: + 2 at one level and − 2 at the other average to nought."""
    crossed = factorial(1, 2, blocks=12, effect=lambda cell: 2.0 * cell[0] * (1 if cell[1] else -1), sd=0.3)
    plain = factorial(1, 2, blocks=12, sd=0.3)
    low, high = simple_reach(crossed, "starter")
    assert low < -1.5
    assert high > 1.5
    near = replace(row(0.05, 0.1), within={})
    assert call_of_factor(near, 1.0, (low, high)).name == "cannot_tell_yet"
    assert call_of_factor(near, 1.0, simple_reach(plain, "starter")).name == "no_difference_that_matters"
    assert call_of_factor(replace(near, within={"rate": "new"}), 1.0, (low, high)).name == "no_difference_that_matters"
    assert call_of_factor(row(3.0, 0.1), 1.0, (low, high)).name == "gain"


SPEECH = Speech(
    size=lambda value: f"{value:.1f} t",
    signed=lambda value: f"{value:+.1f}",
    level=lambda level: f"«{level}»",
    factor=lambda name: name.replace("_", " "),
    noun="yield",
    per_cent="90 %",
)


def told(analysis: NestedAnalysis, margin: float | None = None, control: str | None = "old") -> list[Answer]:
    interactions = judge_interactions(analysis)
    families = [families_of(analysis, name, interactions, control) for name in analysis.factors]
    return list(
        factor_answers(
            [item for own in families for item in own.called],
            [item for own in families for item in own.sizes],
            interactions,
            SPEECH,
            lambda difference: make_call(difference.lower, difference.upper, margin),
        )
    )


def test_one_sentence_a_factor_however_many_there_are() -> None:
    answers = told(factorial(2, 4, effect=lambda cell: 3.0 * cell[0] - 3.0 * cell[2], sd=0.5), margin=0.5)
    assert [answer.factor for answer in answers if answer.kind == "main"] == list(NAMES)
    assert "«new» gains " in answers[0].sentence
    assert "gains" not in answers[1].sentence
    assert "«new» loses" in next(answer.sentence for answer in answers if answer.factor == "width")


def test_without_a_control_the_better_one_stands_first() -> None:
    answers = told(factorial(2, 2, effect=lambda cell: -3.0 * cell[0], sd=0.5), control=None)
    assert answers[0].sentence.startswith("Starter: «old» gains ")
    assert "interval +" in answers[0].sentence


def test_a_width_that_gains_keeps_its_sentence_beside_a_suspicion() -> None:
    """A suspected interaction is one sentence beside the main effect, whose gain is called."""
    analysis = next(
        item
        for item in (factorial(seed, 2, effect=lambda cell: 2.5 * cell[0] + 1.1 * cell[0] * cell[1]) for seed in range(60))
        if judge_interactions(item)[0].status == "suspected"
    )
    main, suspicion = told(analysis)[:2]
    assert (main.kind, suspicion.kind) == ("main", "suspected")
    assert "gains" in main.sentence
    assert "is suspected, not shown" in suspicion.sentence
    assert f"p {judge_interactions(analysis)[0].p_holm:.3g}" in suspicion.sentence


def limit(share: float, trials: int) -> float:
    """Above the share by 2.33 standard errors of so many trials: one in a hundred by chance."""
    return float(share + 2.33 * np.sqrt(share * (1 - share) / trials))


@cache
def nulls(trials: int) -> list[dict[str, FactorFamilies]]:
    return [judged(factorial(seed, 3)) for seed in range(trials)]


@pytest.mark.slow
def test_a_null_factorial_keeps_the_level_of_each_factor() -> None:
    """2 × 2 × 2 in 4 blocks, nothing differs: a factor is called in at most 10 % and the looking at interactions, 1 %."""
    trials = 150
    for name in NAMES[:3]:
        false = sum(
            any(item.lower > 0 or item.upper < 0 for own in trial[name].called for item in own.differences)
            for trial in nulls(trials)
        )
        assert false / trials <= limit(0.10 + ESTABLISHED, trials), name
    torn = sum(any(own.crosses for own in trial.values()) for trial in nulls(trials))
    assert torn / trials <= limit(ESTABLISHED, trials)


@pytest.mark.slow
def test_an_additive_truth_reaches_the_headline_and_a_crossing_is_told() -> None:
    """2⁴ in 4 blocks: four additive factors are the answer; a crossing of six standard errors is found."""
    trials, se = 40, np.sqrt(4 / 64)  # of the difference of two means of 32 strips, error 1
    additive = [judged(factorial(seed, 4, effect=lambda cell: 0.8 * sum(cell))) for seed in range(trials)]
    whole = sum(all(not own.crosses for own in trial.values()) for trial in additive)
    assert whole / trials >= 0.95 - 2.33 * np.sqrt(0.95 * 0.05 / trials)
    contrast = 6 * se  # of the interaction: half the difference of two simple effects is one such contrast
    crossed = [
        judged(factorial(seed, 4, effect=lambda cell: contrast * (cell[0] - 0.5) * (1 if cell[1] else -1)))
        for seed in range(trials)
    ]
    found = sum(trial["starter"].crosses for trial in crossed)
    assert found / trials >= 0.90 - 2.33 * np.sqrt(0.90 * 0.10 / trials)
