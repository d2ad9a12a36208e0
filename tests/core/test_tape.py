"""Spacing along the row against the published definitions, worked by hand."""

from __future__ import annotations

from itertools import accumulate

import numpy as np
import pytest
from cultrix_core.errors import Refusal
from cultrix_core.stand.tape import long_gaps, spacings_of, tape_run_working, tapped
from cultrix_core.unit_formatting import UnitFormatter
from hypothesis import given
from hypothesis import strategies as st

CM = 0.01
# Wanted 10 cm. At most 5 cm: 4 and 5 (doubles). Over 15 cm: 16, 25, 30 (skips). Singles: 10, 10, 15, 12, 9.
GAPS_CM = (10, 4, 10, 16, 25, 30, 5, 15, 12, 9)
POSITIONS = [CM * at for at in accumulate((0, *GAPS_CM))]


def test_indices_of_a_case_worked_by_hand_from_the_definitions() -> None:
    """Kachman & Smith (1995) and ISO 7256-1:1984, from memory; the case and its arithmetic are ours.

    Ten spacings: doubles 2/10, skips 3/10, singles 5/10. Singles' mean 11.2, squares 1.44 + 1.44 + 14.44 + 0.64 + 4.84
    = 22.8, ÷ 4 = 5.7, root 2.3875; precision 23.875 %. Places missed: 16 cm one, 25 cm one (up to 2.5 spacings), 30 cm
    two: 4 of 8 long enough spacings + 4 = 12 intended.
    """
    run = spacings_of(POSITIONS, reference_m=0.10)
    assert (run.plants, run.doubles, run.skips, run.singles) == (11, 2, 3, 5)
    assert (run.doubles_frac, run.skips_frac, run.singles_frac) == (0.2, 0.3, 0.5)
    assert run.precision_frac == pytest.approx(0.238747, abs=1e-6)
    assert (run.missed, run.intended) == (4, 12)
    assert run.missed_frac == pytest.approx(1 / 3)
    assert run.doubles_of_intended_frac == pytest.approx(1 / 6)
    assert run.mean_m == pytest.approx(0.136)
    assert run.cv_frac == pytest.approx(np.std(GAPS_CM, ddof=1) / 13.6)
    assert run.plants_per_m == pytest.approx(10 / 1.36)


def test_edges_belong_where_the_definition_puts_them() -> None:
    """Exactly half a spacing is a double, exactly one and a half is a single, 2.5 leaves out one place and not two."""
    run = spacings_of([0, 0.05, 0.20, 0.45], reference_m=0.10)
    assert (run.doubles, run.singles, run.skips, run.missed) == (1, 1, 1, 1)


def test_the_histogram_holds_every_spacing_and_agrees_with_the_indices() -> None:
    run = spacings_of(POSITIONS, reference_m=0.10)
    assert sum(number for _, _, number in run.histogram) == len(GAPS_CM)
    assert sum(number for _, top, number in run.histogram if top <= 0.5) == run.doubles
    assert sum(number for low, _, number in run.histogram if low >= 1.5) == run.skips
    far = spacings_of([0, 0.1, 0.2, 9.0], reference_m=0.10)
    assert far.histogram[-1][1] == float("inf")
    assert far.histogram[-1][2] == 1


@given(
    gaps=st.lists(st.integers(0, 60), min_size=3, max_size=60).filter(lambda gaps: sum(gaps) > 0),
    reference=st.integers(4, 30),
    factor=st.sampled_from([0.3048, 2.54, 10.0]),
)
def test_shares_add_up_and_do_not_depend_on_the_unit(gaps: list[int], reference: int, factor: float) -> None:
    run = spacings_of([float(at) for at in accumulate((0, *gaps))], reference_m=reference)
    assert run.doubles_frac + run.singles_frac + run.skips_frac == pytest.approx(1)
    other = spacings_of([factor * at for at in accumulate((0, *gaps))], reference_m=factor * reference)
    assert (other.doubles, other.singles, other.skips, other.missed) == (run.doubles, run.singles, run.skips, run.missed)
    assert other.histogram == run.histogram
    if run.precision_frac is not None:
        assert other.precision_frac == pytest.approx(run.precision_frac)


def test_a_perfect_row_is_perfect() -> None:
    run = spacings_of([0.17 * place for place in range(30)], reference_m=0.17)
    assert (run.doubles_frac, run.skips_frac, run.missed) == (0, 0, 0)
    assert run.precision_frac == pytest.approx(0, abs=1e-9)
    assert run.cv_frac == pytest.approx(0, abs=1e-9)


def test_long_gaps_nobody_marked_are_named() -> None:
    run = spacings_of(POSITIONS, reference_m=0.10)
    assert long_gaps(run) == (6,)
    assert long_gaps(run, looked_at=(6,)) == ()


def test_tapped_runs_count_plants_gaps_and_doubles() -> None:
    run = tapped("ppgpdppgpp", reference_m=0.20)
    assert (run.places, run.plants) == (10, 9)
    assert (run.doubles_frac, run.skips_frac) == (0.1, 0.2)
    assert run.plants_per_m == pytest.approx(4.5)


@pytest.mark.parametrize(
    ("positions", "reference", "code", "field"),
    [
        ([0, 0.1], 0.1, "too_small", "positions"),
        ([0, 0.2, 0.1], 0.1, "too_small", "positions"),
        ([0, 0.1, float("nan")], 0.1, "not_finite", "positions"),
        ([0, 0.1, 0.2], 0, "not_positive", "reference"),
        ([1, 1, 1], 0.1, "not_positive", "positions"),
        ([0.1 * place for place in range(501)], 0.1, "too_large", "positions"),
    ],
)
def test_refusals(positions: list[float], reference: float, code: str, field: str) -> None:
    with pytest.raises(Refusal) as refusal:
        spacings_of(positions, reference_m=reference)
    assert (refusal.value.code, refusal.value.field) == (code, field)


def test_refusals_of_tapped_runs() -> None:
    for marks, code in (("", "missing"), ("ppx", "unknown_choice"), ("p" * 501, "too_large")):
        with pytest.raises(Refusal) as refusal:
            tapped(marks, reference_m=0.2)
        assert (refusal.value.code, refusal.value.field) == (code, "marks")


def test_the_working_says_the_same_in_inches() -> None:
    run = spacings_of(POSITIONS, reference_m=0.10)
    metric, us = (tape_run_working(run, UnitFormatter(system=system)) for system in ("metric", "us"))
    assert metric.outcome == us.outcome
    assert "doubles 20.0 %" in metric.outcome
    assert next(step.outcome for step in us.steps if step.label == "Mean spacing") == "5.354 in"
