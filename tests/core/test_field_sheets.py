"""Pass card, seed, planting grids, cost lines and rates in every unit."""

from __future__ import annotations

import pytest
from cultrix_core.design.pass_card import StripToDrive, pass_card, seed_needed
from cultrix_core.design.randomise import Cell, lay_out
from cultrix_core.economics.costs import Line, extra_cost_steps, price_per_thousand, treatment_cost
from cultrix_core.errors import Refusal
from cultrix_core.seeding.grids import grid_working, planting_grid
from cultrix_core.seeding.rates import RATE_UNITS, Lot, rate_in, rate_table, seeds_per_m2
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.units import ACRE_M2, FT_M, IN_M, LB_KG
from hypothesis import given
from hypothesis import strategies as st

SHOW = UnitFormatter(system="metric", bushel_kg=None, currency="€")
LOT = Lot(thousand_seed_weight_g=44.0, emergence_frac=0.8, seeds_in_bag=500_000)


def drive(blocks: int = 4) -> list[StripToDrive]:
    strips = lay_out("rcbd", [Cell(name=name) for name in "abc"], blocks=blocks, seed=3).strips
    return [
        StripToDrive(
            order=strip.order, column=strip.column, row=strip.row, treatment=strip.treatment, setting=f"set {strip.treatment}"
        )
        for strip in strips
    ]


def test_as_laid_takes_strips_in_order_up_and_back() -> None:
    card = pass_card(drive(), passes_a_strip=2, strip_width_m=6)
    assert [tillage_pass.strip for tillage_pass in card.passes] == [order for order in range(1, 13) for _ in (1, 2)]
    assert [tillage_pass.direction for tillage_pass in card.passes[:4]] == ["up", "back", "up", "back"]
    order = [strip_to_drive.setting for strip_to_drive in drive()]
    assert card.changes == sum(left != right for left, right in zip(order, order[1:], strict=False))
    assert card.across_m == 0


@given(st.integers(2, 9), st.integers(1, 3))
def test_fewest_changes_saves_settings_and_drives_the_same_strips(blocks: int, passes: int) -> None:
    laid = pass_card(drive(blocks), passes_a_strip=passes, strip_width_m=6)
    fewest = pass_card(drive(blocks), passes_a_strip=passes, strip_width_m=6, driving="fewest_changes")
    assert fewest.changes == 2, "three settings, two changes"
    assert fewest.across_m > laid.across_m
    treated = {(tillage_pass.strip, tillage_pass.treatment) for tillage_pass in laid.passes}
    assert treated == {(tillage_pass.strip, tillage_pass.treatment) for tillage_pass in fewest.passes}, (
        "driving never touches the draw"
    )
    assert len(fewest.passes) == len(laid.passes) == 3 * blocks * passes


def test_rows_of_plots_are_driven_in_one_pass() -> None:
    strips = [
        StripToDrive(order=order, column=column, row=row, treatment=t, setting=t)
        for order, (column, row, t) in enumerate([(1, 1, "a"), (1, 2, "b"), (2, 1, "b"), (2, 2, "a")], start=1)
    ]
    card = pass_card(strips, passes_a_strip=1, strip_width_m=3)
    assert [(tillage_pass.number, tillage_pass.strip) for tillage_pass in card.passes] == [(1, 1), (1, 2), (2, 4), (2, 3)], (
        "back means from the far end"
    )


def test_seed_by_area_rate_and_weight() -> None:
    """By definition: 1 ha at 300 seeds/m² of 44 g per thousand is 132 kg; with a tenth in reserve 145.2 kg."""
    (need,) = seed_needed({"a": 10_000}, {"a": 300}, thousand_seed_weights_g={"a": 44}, reserve_pct=10)
    assert need.kg == pytest.approx(145.2)
    assert need.seeds == pytest.approx(3.3e6)
    assert seed_needed({"a": 1.0}, {}, thousand_seed_weights_g={"a": 44}, reserve_pct=0) == ()
    with pytest.raises(Refusal, match="at most 100"):
        seed_needed({"a": 1.0}, {"a": 1.0}, thousand_seed_weights_g={"a": 44}, reserve_pct=300)


@pytest.mark.parametrize(("spacing", "lines", "free"), [(4, 11, 11), (5, 9, 8), (6, 7, 7), (7, 6, 5)])
def test_squares_in_a_bed_of_48_inches(spacing: int, lines: int, free: int) -> None:
    """By definition: lines at k·s short of 48 in from one corner, and with a spacing free on every side."""
    bed = {"width_m": 48 * IN_M, "length_m": 48 * IN_M, "spacing_m": spacing * IN_M}
    assert planting_grid(**bed, rule="from_corner").per_row == (lines,) * lines
    assert planting_grid(**bed, rule="free_edges").per_row == (free,) * free


def test_staggered_rows_hold_more() -> None:
    """By definition: rows s·√3/2 apart, density 2/√3 = 1.1547 of the square grid's, in the limit of a large bed."""
    bed = {"width_m": 200.0, "length_m": 200.0, "spacing_m": 0.1}
    square, staggered = planting_grid(**bed), planting_grid(**bed, staggered=True)
    assert staggered.row_distance_m == pytest.approx(0.1 * 3**0.5 / 2)
    assert staggered.positions / square.positions == pytest.approx(1.1547, abs=0.001)


def test_edge_rows_stay_out_of_the_count() -> None:
    grid = planting_grid(width_m=1.2, length_m=2.0, spacing_m=0.2, edge_rows=1)
    rows, each = len(grid.per_row), grid.per_row[0]
    assert grid.counted == (rows - 2) * (each - 2)
    working = grid_working(grid, SHOW, width_m=1.2, length_m=2.0, staggered=False)
    assert working.steps[-1].outcome == f"{grid.counted} plants"
    with pytest.raises(Refusal):
        planting_grid(width_m=0, length_m=1, spacing_m=0.1)


@given(st.sampled_from(RATE_UNITS), st.floats(0.5, 900))
def test_rates_convert_both_ways(unit: str, rate: float) -> None:
    value = rate_in(rate, unit, LOT)
    assert value is not None
    assert seeds_per_m2(value, unit, lot=LOT) == pytest.approx(rate, rel=1e-12)


def test_one_rate_in_every_unit() -> None:
    """By definition, from the acre, the foot and the pound."""
    assert rate_in(320, "/ac", LOT) == pytest.approx(320 * ACRE_M2)
    assert rate_in(320, "/ft2", LOT) == pytest.approx(320 * FT_M**2)
    assert rate_in(320, "kg/ha", LOT) == pytest.approx(140.8)
    assert rate_in(320, "lb/ac", LOT) == pytest.approx(140.8 / 1e4 * ACRE_M2 / LB_KG)
    assert rate_in(320, "plants/m2", LOT) == pytest.approx(256)
    assert rate_in(320, "bags/ha", LOT) == pytest.approx(6.4)
    assert len(rate_table(320, LOT)) == len(RATE_UNITS)
    assert len(rate_table(320, Lot())) == 6, "counts only, when nothing is known of the lot"


@pytest.mark.parametrize(
    ("unit", "code"),
    [("kg/ha", "needs_seed_weight"), ("plants/m2", "needs_emergence"), ("bags/ac", "needs_bag"), ("x", "unknown_unit")],
)
def test_a_rate_says_what_it_needs(unit: str, code: str) -> None:
    with pytest.raises(Refusal) as refused:
        seeds_per_m2(10, unit, lot=Lot())
    assert refused.value.code == code


def test_seed_cost_from_a_bag() -> None:
    """By definition: 150 000 seeds for 60 is 0.40 a thousand, and 10 for 25 000 seeds an acre."""
    thousand = price_per_thousand(bag_price=60, seeds_in_bag=150_000)
    assert thousand == pytest.approx(0.40)
    cost = treatment_cost(seeds_per_m2=25_000 / ACRE_M2, price_per_thousand_seeds=thousand)
    assert cost.per_ha / 10_000 * ACRE_M2 == pytest.approx(10)


def test_cost_lines_add_up_in_the_open() -> None:
    mine = treatment_cost(lines=[Line(label="bar", times=1, each_per_ha=46), Line(label="spray", times=2, each_per_ha=15.5)])
    control = treatment_cost(lines=[Line(label="plough", times=1, each_per_ha=78)], stated_per_ha=2)
    assert (mine.per_ha, control.per_ha) == (77, 80)
    steps = extra_cost_steps(mine, control, SHOW, name="B", control_name="A")
    assert steps[-1].outcome == "\u22123.00 €/ha"
    assert "spray 2 ×" in steps[0].numbers
    with pytest.raises(Refusal):
        treatment_cost(lines=[Line(label="x", times=-1, each_per_ha=3)])
