"""Drawing layouts."""

from __future__ import annotations

from collections import Counter

from cultrix_core.design.randomise import complete_blocks, unreplicated
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

names = st.lists(st.text("ABCDEFGHIJ", min_size=1, max_size=3), min_size=2, max_size=8, unique=True)


@given(names, st.integers(2, 12), st.integers(0, 2**53 - 1))
def test_every_block_holds_every_treatment_once(treatments: list[str], blocks: int, seed: int) -> None:
    plan = complete_blocks(treatments, blocks=blocks, seed=seed)
    assert [strip.order for strip in plan] == list(range(1, len(treatments) * blocks + 1))
    for block in range(1, blocks + 1):
        assert sorted(strip.treatment for strip in plan if strip.block == block) == sorted(treatments)
    assert [strip.block for strip in plan] == sorted(strip.block for strip in plan), "a block's strips lie side by side"


@given(names, st.integers(0, 2**53 - 1))
def test_the_same_seed_gives_the_same_draw(treatments: list[str], seed: int) -> None:
    assert complete_blocks(treatments, blocks=4, seed=seed) == complete_blocks(treatments, blocks=4, seed=seed)
    assert unreplicated(treatments, seed=seed) == unreplicated(treatments, seed=seed)


def test_a_draw_stays_for_ever() -> None:
    """The stored seed 4113 must give this order in every later version, or old layouts cannot be shown again."""
    plan = complete_blocks(["A", "B", "C"], blocks=3, seed=4113)
    assert "".join(strip.treatment for strip in plan) == "ABCBCAABC"


def test_every_order_is_equally_likely() -> None:
    """Chi-square over the 24 orders of 4 treatments, 4800 blocks from successive seeds."""
    seen: Counter[str] = Counter()
    for seed in range(1200):
        plan = complete_blocks(list("ABCD"), blocks=4, seed=seed)
        for block in range(4):
            seen["".join(strip.treatment for strip in plan[4 * block : 4 * block + 4])] += 1
    assert len(seen) == 24
    assert stats.chisquare(list(seen.values())).pvalue > 0.001


def test_blocks_are_drawn_independently() -> None:
    """The order of one block says nothing of the next: 6 × 6 table of 1500 pairs of blocks."""
    table: Counter[tuple[str, str]] = Counter()
    for seed in range(1500):
        plan = complete_blocks(list("ABC"), blocks=2, seed=seed)
        first, second = ("".join(strip.treatment for strip in plan[at : at + 3]) for at in (0, 3))
        table[first, second] += 1
    orders = sorted({first for first, _ in table})
    chi2 = stats.chi2_contingency([[table[order, other] for other in orders] for order in orders])
    assert chi2.pvalue > 0.001
