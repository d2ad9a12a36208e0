"""Every design: what must hold of each layout, and that the draw is fair."""

from __future__ import annotations

from collections import Counter
from itertools import pairwise, product

import pytest
from cultrix_core.design.factors import every_combination, structure
from cultrix_core.design.randomise import (
    Cell,
    Constraints,
    Design,
    Layout,
    PlannedStrip,
    in_tiers,
    lay_out,
    neighbour_counts,
)
from cultrix_core.errors import Refusal
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

seeds = st.integers(0, 2**53 - 1)
LINES: tuple[Design, ...] = ("rcbd", "systematic", "augmented", "crd")


def plain(count: int) -> list[Cell]:
    return [Cell(name=f"t{number}") for number in range(count)]


def crossed(mains: int, subs: int, subsubs: int = 0) -> list[Cell]:
    if not subsubs:
        return [Cell(name=f"{a}.{b}", main=str(a), sub=str(b)) for a, b in product(range(mains), range(subs))]
    return [
        Cell(name=f"{a}.{b}.{c}", main=str(a), sub=str(b), subsub=str(c))
        for a, b, c in product(range(mains), range(subs), range(subsubs))
    ]


def by_block(layout: Layout) -> dict[int, list[PlannedStrip]]:
    result: dict[int, list[PlannedStrip]] = {}
    for strip in layout.strips:
        result.setdefault(strip.block, []).append(strip)
    return result


@given(st.sampled_from(LINES), st.integers(2, 7), st.integers(2, 8), seeds)
def test_each_treatment_as_often_as_the_design_says(design: Design, treatments: int, blocks: int, seed: int) -> None:
    layout = lay_out(design, plain(treatments), blocks=blocks, seed=seed, control="t0")
    wanted = {f"t{number}": 1 for number in range(treatments)}
    if design == "augmented":
        wanted["t0"] = 2
    if design == "crd":
        wanted = dict.fromkeys(wanted, blocks)
    for members in by_block(layout).values():
        assert Counter(strip.treatment for strip in members) == wanted
    assert [strip.order for strip in layout.strips] == list(range(1, len(layout.strips) + 1))
    places = {(strip.column, strip.row) for strip in layout.strips}
    assert len(places) == len(layout.strips), "no two strips share a place"


@given(st.integers(3, 8), seeds)
def test_latin_squares(size: int, seed: int) -> None:
    layout = lay_out("latin", plain(size), blocks=9, seed=seed)
    for line in ("row", "column"):
        for number in range(1, size + 1):
            members = [strip.treatment for strip in layout.strips if getattr(strip, line) == number]
            assert sorted(members) == [f"t{item}" for item in range(size)]


@given(st.integers(2, 4), st.integers(2, 4), st.integers(2, 5), seeds)
def test_split_plots_keep_main_strips_together(mains: int, subs: int, blocks: int, seed: int) -> None:
    layout = lay_out("split_plot", crossed(mains, subs), blocks=blocks, seed=seed)
    for members in by_block(layout).values():
        assert len({strip.treatment for strip in members}) == mains * subs
        for main in {strip.main for strip in members}:
            inside = [strip for strip in members if strip.main == main]
            assert len({strip.treatment.split(".")[0] for strip in inside}) == 1, "one level in a main strip"
            columns = sorted(strip.column for strip in inside)
            assert columns == list(range(columns[0], columns[0] + subs)), "side by side"
    assert len({strip.main for strip in layout.strips}) == mains * blocks


@given(st.integers(2, 3), seeds)
def test_split_split_plots_nest_twice(levels: int, seed: int) -> None:
    layout = lay_out("split_split", crossed(levels, levels, 2), blocks=2, seed=seed)
    for left, right in zip(layout.strips[::2], layout.strips[1::2], strict=True):
        assert left.treatment[:3] == right.treatment[:3], "the innermost pair shares main and sub level"
        assert left.main == right.main


@given(st.integers(2, 4), st.integers(2, 4), st.integers(2, 4), seeds)
def test_crossed_strips(mains: int, subs: int, blocks: int, seed: int) -> None:
    layout = lay_out("strip_plot", crossed(mains, subs), blocks=blocks, seed=seed)
    for members in by_block(layout).values():
        for strip in members:
            main, sub = strip.treatment.split(".")
            assert all(other.treatment.split(".")[0] == main for other in members if other.column == strip.column)
            assert all(other.treatment.split(".")[1] == sub for other in members if other.row == strip.row)


@given(st.sampled_from([*LINES, "latin", "unreplicated"]), st.integers(3, 6), seeds)
def test_the_same_seed_draws_the_same_layout(design: Design, treatments: int, seed: int) -> None:
    again = [lay_out(design, plain(treatments), blocks=3, seed=seed, control="t1") for _ in range(2)]
    assert again[0] == again[1]


@given(st.integers(2, 5), st.integers(2, 7), seeds, st.booleans())
@settings(max_examples=40)
def test_constraints_hold(treatments: int, blocks: int, seed: int, balanced: bool) -> None:
    wanted = Constraints(no_equal_neighbours=True, balance_neighbours=balanced, first="t1")
    layout = lay_out("rcbd", plain(treatments), blocks=blocks, seed=seed, constraints=wanted)
    order = [strip.treatment for strip in layout.strips]
    assert order[0] == "t1"
    assert all(left != right for left, right in pairwise(order))
    assert any("first strip was fixed" in text for text in layout.record)


def test_all_allowed_orders_are_equally_likely() -> None:
    """Three treatments, two blocks, no equal neighbours: 6 × 4 orders; chi-square over 4 800 draws."""
    wanted = Constraints(no_equal_neighbours=True)
    table = Counter(
        "".join(strip.treatment[1] for strip in lay_out("rcbd", plain(3), blocks=2, seed=seed, constraints=wanted).strips)
        for seed in range(4800)
    )
    assert len(table) == 24
    assert stats.chisquare(list(table.values())).pvalue > 0.001


@pytest.mark.slow
@pytest.mark.parametrize("constraints", [Constraints(), Constraints(no_equal_neighbours=True, balance_neighbours=True)])
def test_every_treatment_is_equally_likely_at_every_place(constraints: Constraints) -> None:
    draws = 900 if constraints.any else 3000
    places = [Counter[str]() for _ in range(6)]
    for seed in range(draws):
        for place, strip in enumerate(lay_out("rcbd", plain(3), blocks=2, seed=seed, constraints=constraints).strips):
            places[place][strip.treatment] += 1
    for counted in places:
        assert stats.chisquare(list(counted.values())).pvalue > 0.0005


def test_balancing_evens_the_neighbours() -> None:
    def spread(constraints: Constraints, seed: int) -> int:
        strips = lay_out("rcbd", plain(4), blocks=6, seed=seed, constraints=constraints).strips
        counts = neighbour_counts(strips)
        each = [counts[left, right] for left, right in product("0123", "0123") if left < right]
        each = [counts[f"t{left}", f"t{right}"] for left in range(4) for right in range(left + 1, 4)]
        return max(each) - min(each)

    drawn = [spread(Constraints(), seed) for seed in range(20)]
    evened = [spread(Constraints(balance_neighbours=True), seed) for seed in range(20)]
    assert max(evened) <= 2
    assert sum(evened) < sum(drawn) / 2


@given(st.integers(2, 4), st.integers(2, 8), st.integers(1, 4), seeds)
def test_tiers_keep_blocks_whole(treatments: int, blocks: int, tiers: int, seed: int) -> None:
    tiers = min(tiers, blocks)
    placed = in_tiers(lay_out("rcbd", plain(treatments), blocks=blocks, seed=seed).strips, tiers)
    assert len({(strip.column, strip.row) for strip in placed}) == len(placed)
    for block in range(1, blocks + 1):
        members = [strip for strip in placed if strip.block == block]
        assert len({strip.row for strip in members}) == 1
        columns = sorted(strip.column for strip in members)
        assert columns == list(range(columns[0], columns[0] + treatments))
    assert max(strip.row for strip in placed) <= tiers


NEIGHBOURS = Constraints(no_equal_neighbours=True)
REFUSED = [
    ("three in pairs", lambda: lay_out("pairs", plain(3), blocks=4, seed=1), "not_for_design", "design"),
    ("a square of two", lambda: lay_out("latin", plain(2), blocks=2, seed=1), "not_for_design", "design"),
    ("no control to repeat", lambda: lay_out("augmented", plain(3), blocks=3, seed=1), "missing", "control"),
    ("half a factorial split", lambda: lay_out("split_plot", crossed(2, 3)[:5], blocks=3, seed=1), "not_for_design", "design"),
    ("one level to split", lambda: lay_out("split_plot", crossed(1, 3), blocks=3, seed=1), "not_for_design", "design"),
    (
        "a bound order bound again",
        lambda: lay_out("systematic", plain(3), blocks=3, seed=1, constraints=Constraints(first="t0")),
        "not_for_design",
        "constraints",
    ),
    (
        "a first strip nobody knows",
        lambda: lay_out("rcbd", plain(3), blocks=3, seed=1, constraints=Constraints(first="x")),
        "unknown_choice",
        "first",
    ),
    ("one block", lambda: lay_out("split_plot", crossed(2, 2), blocks=1, seed=1), "too_few_blocks", "blocks"),
    ("far too many strips", lambda: lay_out("rcbd", plain(30), blocks=30, seed=1), "too_large", "blocks"),
    (
        "what no order can keep",
        lambda: lay_out("crd", plain(2), blocks=20, seed=1, constraints=NEIGHBOURS),
        "cannot_satisfy",
        "constraints",
    ),
    ("more tiers than blocks", lambda: in_tiers(lay_out("rcbd", plain(2), blocks=2, seed=1).strips, 3), "too_large", "tiers"),
    ("too many combinations", lambda: every_combination([list("abcdefgh"), list("abcdefgh")]), "too_large", "levels"),
    ("a factor without levels", lambda: every_combination([["a"], []]), "missing", "levels"),
]


@pytest.mark.slow
@pytest.mark.parametrize(("what", "run", "code", "field"), REFUSED, ids=[row[0] for row in REFUSED])
def test_refused(what: str, run, code: str, field: str) -> None:  # type: ignore[no-untyped-def]  # noqa: ARG001
    with pytest.raises(Refusal) as refused:
        run()
    assert (refused.value.code, refused.value.field) == (code, field)


def test_factorials_and_confusions() -> None:
    full = every_combination([["12.5", "25"], ["200", "300", "400"]])
    assert len(full) == 6
    assert full[1] == ("12.5", "300"), "the last factor changes fastest"
    assert structure(full).complete
    assert structure(full).together == ()
    # a wider row sown at a higher rate: the classic confusion
    assert structure([("12.5", "300"), ("25", "400")]).together == ((0, 1),)
    assert structure([("12.5", "300"), ("25", "400"), ("25", "300")]).together == ()
    assert structure([("a", "1", "x"), ("b", "2", "x"), ("c", "2", "y")]).together == ((0, 1), (0, 2))
