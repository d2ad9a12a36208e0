"""What must hold of every comparison, whatever the numbers."""

from __future__ import annotations

import numpy as np
import pytest
from cultrix_core.stats.compare import Comparison, StripResponse, compare
from hypothesis import given, settings
from hypothesis import strategies as st

TREATMENTS = ("A", "B", "C")


def trial(seed: int, blocks: int = 4, lost: int = 0) -> list[StripResponse]:
    draw = np.random.default_rng(seed)
    rows = [
        StripResponse(treatment=treatment, block=str(block), response=float(7000 + 300 * draw.normal() + 200 * block))
        for block in range(blocks)
        for treatment in TREATMENTS
    ]
    for _ in range(lost):
        rows.pop(int(draw.integers(len(rows))))
    return rows


def by_pair(result: Comparison) -> dict[tuple[str, str], tuple[float, float]]:
    return {(pair.left, pair.right): (pair.estimate, pair.p_adjusted or 0.0) for pair in result.pairs}


@settings(max_examples=30)
@given(st.integers(0, 10_000), st.integers(0, 3), st.floats(0.01, 100), st.floats(-5000, 5000))
def test_units_do_not_matter(seed: int, lost: int, scale: float, shift: float) -> None:
    rows = trial(seed, lost=lost)
    turned = [StripResponse(treatment=row.treatment, block=row.block, response=row.response * scale + shift) for row in rows]
    item, other = by_pair(compare(rows)), by_pair(compare(turned))
    for pair, (estimate, p) in item.items():
        assert other[pair][0] == pytest.approx(estimate * scale, rel=1e-6, abs=1e-6 * scale)
        assert other[pair][1] == pytest.approx(p, abs=1e-6)


@settings(max_examples=30)
@given(st.integers(0, 10_000), st.integers(0, 3), st.randoms())
def test_the_order_of_rows_and_the_names_of_blocks_do_not_matter(seed: int, lost: int, shuffler) -> None:  # type: ignore[no-untyped-def]
    rows = trial(seed, lost=lost)
    shuffled = [StripResponse(treatment=row.treatment, block=f"x{row.block}", response=row.response) for row in rows]
    shuffler.shuffle(shuffled)
    item = by_pair(compare(rows, levels=TREATMENTS))
    other = by_pair(compare(shuffled, levels=TREATMENTS))
    for pair in item:
        assert other[pair] == pytest.approx(item[pair], rel=1e-7, abs=1e-7)


@settings(max_examples=20)
@given(st.integers(0, 10_000), st.floats(-800, 800))
def test_a_poor_block_costs_no_treatment_anything(seed: int, loss: float) -> None:
    """What the ground does to a whole block falls out of every comparison."""
    rows = trial(seed)
    poorer = [
        StripResponse(treatment=row.treatment, block=row.block, response=row.response + (loss if row.block == "2" else 0))
        for row in rows
    ]
    for pair, (estimate, p) in by_pair(compare(rows)).items():
        assert by_pair(compare(poorer))[pair] == pytest.approx((estimate, p), rel=1e-7, abs=1e-7)


@pytest.mark.slow
def test_false_alarms_at_the_chosen_level() -> None:
    """600 trials without any true difference: a 10 % family level gives a false gain or loss in about 10 %."""
    alarms = 0
    for seed in range(600):
        result = compare(trial(seed), control="A", alpha=0.10)
        alarms += any((difference.lower or 0) > 0 or (difference.upper or 0) < 0 for difference in result.to_control)
    assert 0.07 <= alarms / 600 <= 0.13  # ± 2.5 standard errors of a share of 600


@pytest.mark.slow
def test_coverage_of_the_interval_with_lost_strips() -> None:
    """True difference 250 with 3 strips of 12 lost: a 90 % interval for one comparison holds it in about 90 %."""
    held = tried = 0
    for seed in range(500):
        rows = [
            StripResponse(
                treatment=row.treatment, block=row.block, response=row.response + (250 if row.treatment == "B" else 0)
            )
            for row in trial(seed, lost=3)
        ]
        if {row.treatment for row in rows} < set(TREATMENTS):
            continue
        pair = next(
            difference
            for difference in compare(rows, levels=TREATMENTS, pairs_adjust="none").pairs
            if (difference.left, difference.right) == ("A", "B")
        )
        assert pair.lower is not None
        assert pair.upper is not None
        tried += 1
        held += pair.lower <= -250 <= pair.upper
    assert tried > 450
    assert 0.865 <= held / tried <= 0.935


def test_unreplicated_says_nothing_of_chance() -> None:
    result = compare([StripResponse(treatment="A", response=5.0), StripResponse(treatment="B", response=6.0)], control="A")
    assert not result.replicated
    assert result.mse is None
    assert result.checks is None
    difference = result.to_control[0]
    assert difference.estimate == pytest.approx(1.0)
    assert (difference.se, difference.p, difference.lower, difference.upper, difference.p_adjusted) == (None,) * 5
    assert all(mean.letters is None and mean.lower is None for mean in result.means)
    assert any("no probability" in warning for warning in result.warnings)


def test_a_far_strip_is_named_as_its_reader_calls_it() -> None:
    rows = [
        StripResponse(
            treatment=row.treatment,
            block=row.block,
            label=f"Strip {place + 1}",
            response=row.response + (9000 if place == 4 else 0),
        )
        for place, row in enumerate(trial(3))
    ]
    checks = compare(rows).checks
    assert checks is not None
    assert checks.words[0].startswith("Strip 5 stands far")


def test_strips_that_agree_exactly_are_doubted() -> None:
    rows = [StripResponse(treatment=t, block=b, response=v) for t, v in (("A", 5.0), ("B", 6.0)) for b in "123"]
    result = compare(rows)
    assert any("agree exactly" in warning for warning in result.warnings)
