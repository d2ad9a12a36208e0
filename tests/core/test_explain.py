"""Explanation by the stand: parts add up, the path finds what was put in, nothing is taken out."""

from __future__ import annotations

import numpy as np
import pytest
from cultrix_core.errors import Refusal
from cultrix_core.stats.compare import StripResponse
from cultrix_core.stats.explain import Explained, explain
from hypothesis import given, settings
from hypothesis import strategies as st


def field(seed: int, through: float, beside: float, blocks: int = 30) -> tuple[list[StripResponse], list[float]]:
    """The treatment adds 40 plants; each plant adds ``through``, and the treatment adds ``beside`` on its own."""
    draw = np.random.default_rng(seed)
    strips, stand = [], []
    for block in range(blocks):
        ground = draw.normal(0, 300)
        for level in ("usual", "thick"):
            plants = 250 + 40 * (level == "thick") + ground / 20 + draw.normal(0, 8)
            y = 5000 + ground + through * plants + beside * (level == "thick") + draw.normal(0, 30)
            strips.append(StripResponse(treatment=level, block=str(block), response=float(y)))
            stand.append(float(plants))
    return strips, stand


def test_the_path_finds_what_was_put_in() -> None:
    explained = explain(*field(1, through=10, beside=-150), control="usual")
    path = explained.paths[0]
    assert explained.slope == pytest.approx(10, abs=1.5)
    assert path.through == pytest.approx(400, abs=60)
    assert path.beside == pytest.approx(-150, abs=60)
    assert path.total == pytest.approx(path.through + path.beside)
    assert path.through_lower < 400 < path.through_upper


def test_blocks_good_for_both_do_not_pass_for_an_effect_of_the_stand() -> None:
    """Ground that carries more plants carries more yield; within blocks the plants do nothing here."""
    strips, stand = field(2, through=0, beside=0)
    plain = np.corrcoef(stand, [strip.response for strip in strips])[0, 1]
    explained = explain(strips, stand, control="usual")
    assert plain > 0.3
    assert explained.slope_p > 0.05
    assert explained.paths[0].through_lower < 0 < explained.paths[0].through_upper


@pytest.mark.slow
def test_the_interval_of_the_path_covers() -> None:
    held = 0
    for seed in range(200):
        path = explain(*field(seed, through=10, beside=0, blocks=6), control="usual").paths[0]
        held += path.through_lower < 400 < path.through_upper
    assert 0.84 < held / 200 < 0.97


def logs(found: Explained) -> list[float]:
    return [float(np.log(part.shares[0].ratio)) for part in found.parts]


@pytest.mark.slow
@given(st.integers(0, 500), st.floats(0.01, 100), st.floats(0.01, 100))
@settings(max_examples=20, deadline=None)
def test_parts_multiply_to_the_whole_in_any_unit(seed: int, of_yield: float, of_stand: float) -> None:
    strips, stand = field(seed, through=5, beside=100, blocks=4)
    moved = [
        StripResponse(treatment=strip.treatment, block=strip.block, response=strip.response * of_yield) for strip in strips
    ]
    explained = explain(strips, stand, control="usual")
    other = explain(moved, [plants * of_stand for plants in stand], control="usual")
    whole, plants, per = logs(explained)
    assert whole == pytest.approx(plants + per)
    assert logs(other) == pytest.approx(logs(explained), abs=1e-9)
    assert other.slope == pytest.approx(explained.slope * of_yield / of_stand, rel=1e-6)
    assert other.slope_p == pytest.approx(explained.slope_p, abs=1e-6)


@pytest.mark.parametrize(
    "change", [lambda strips, stand: (strips, stand[:-1]), lambda strips, stand: (strips, [0.0, *stand[1:]])]
)
def test_what_explains_nothing_is_refused(change) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(Refusal):
        explain(*change(*field(1, 1, 1, blocks=4)), control="usual")


def test_too_few_strips_are_refused() -> None:
    with pytest.raises(Refusal):
        explain(*field(1, 1, 1, blocks=1), control="usual")
    with pytest.raises(Refusal):
        explain(*field(1, 1, 1, blocks=2), control="usual")
