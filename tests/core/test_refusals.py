"""Refusals: a code, a field, and a sentence that names rule, value and remedy."""

from __future__ import annotations

import pytest
from cultrix_core.design.randomise import complete_blocks, unreplicated
from cultrix_core.errors import WORDING, Refusal
from cultrix_core.stand.precision import running_precision
from cultrix_core.stand.row_lengths import count_in_quadrat, count_on_rows, thousandth_length
from cultrix_core.stats.compare import StripResponse, compare
from cultrix_core.stats.decision_rule import make_call


def strips(*rows: tuple[str, str, float]) -> list[StripResponse]:
    return [StripResponse(treatment=treatment, block=block, response=value) for treatment, block, value in rows]


TABLE = [
    ("one block", lambda: complete_blocks(["a", "b"], blocks=1, seed=1), "too_few_blocks", "blocks"),
    ("no block", lambda: complete_blocks(["a", "b"], blocks=0, seed=1), "too_few_blocks", "blocks"),
    ("far too many blocks", lambda: complete_blocks(["a", "b"], blocks=500, seed=1), "too_large", "blocks"),
    ("one treatment", lambda: complete_blocks(["a"], blocks=4, seed=1), "too_few_treatments", "treatments"),
    ("the same twice", lambda: complete_blocks(["a", "a"], blocks=4, seed=1), "duplicate", "treatments"),
    ("a look at one", lambda: unreplicated(["a"], seed=1), "too_few_treatments", "treatments"),
    ("a negative seed", lambda: complete_blocks(["a", "b"], blocks=4, seed=-1), "too_small", "seed"),
    ("row spacing 0", lambda: thousandth_length(0, system="us"), "not_positive", "row_spacing"),
    ("no row", lambda: thousandth_length(0.5, system="us", rows=0), "too_small", "rows"),
    ("negative length", lambda: count_on_rows(4, length_m=-1, rows=1, row_spacing_m=0.5), "not_positive", "length"),
    ("no frame", lambda: count_in_quadrat(4, area_m2=0), "not_positive", "area"),
    ("no count", lambda: running_precision([]), "missing", "counts"),
    ("a count that is none", lambda: running_precision([3, float("nan")]), "not_finite", "counts"),
    ("no strip", lambda: compare([], levels=["a", "b"]), "no_response", "response"),
    ("one level", lambda: compare(strips(("a", "1", 4), ("a", "2", 5))), "too_few_treatments", "treatment"),
    ("unknown control", lambda: compare(strips(("a", "1", 4), ("b", "1", 5)), control="z"), "unknown_choice", "control"),
    ("a response that is none", lambda: compare(strips(("a", "1", 4), ("b", "1", float("inf")))), "not_finite", "response"),
    (
        "blocks that share nothing",
        lambda: compare(strips(("a", "1", 4), ("a", "1", 6), ("b", "2", 5), ("b", "2", 7))),
        "not_estimable",
        "treatment",
    ),
    ("a level of 0", lambda: compare(strips(("a", "1", 4), ("b", "1", 5)), alpha=0), "too_small", "alpha"),
    ("a negative margin", lambda: make_call(-1, 1, -3), "too_small", "margin"),
    ("an interval that is none", lambda: make_call(float("nan"), 1, 3), "not_finite", "lower"),
]


@pytest.mark.parametrize(("run", "code", "field"), [row[1:] for row in TABLE], ids=[row[0] for row in TABLE])
def test_refused(run, code: str, field: str) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(Refusal) as refusal:
        run()
    assert refusal.value.code == code
    assert refusal.value.field == field


@pytest.mark.parametrize("code", sorted(WORDING))
def test_every_wording_is_a_sentence_without_holes(code: str) -> None:
    message = Refusal(code, field="seed_rate", value="7", limit="9", unit=" kg", remedy="Do this.").message
    assert "{" not in message
    assert message[-1] in ".?"


def test_one_block_is_told_what_to_do() -> None:
    with pytest.raises(Refusal) as refusal:
        complete_blocks(["a", "b"], blocks=1, seed=1)
    assert str(refusal.value) == (
        "Blocks must be at least 2 to estimate the strip-to-strip variation; got 1. "
        "Add a block, or keep this as an unreplicated look."
    )
