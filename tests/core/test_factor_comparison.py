"""Trials of several factors: the model from the layout, families, the promise about false calls, hostile data."""

from __future__ import annotations

import itertools
import json
import math
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
from cultrix_core.errors import Refusal
from cultrix_core.stats.compare import StripResponse, compare
from cultrix_core.stats.factor_comparison import FactorComparison, FactorStrip, Layout, compare_factors
from cultrix_core.stats.families import CellDifference
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.references import FOLDER

LEVELS = {"tillage": ("plough", "strip"), "rate": ("70", "80", "90")}
LAYOUTS: list[Layout] = ["rcbd", "split_plot", "strip_plot", "crd"]


def strips(
    seed: int, blocks: int = 4, effect: Callable[[str, str], float] = lambda _a, _b: 0.0, main_sd: float = 0.3
) -> list[FactorStrip]:
    draw = np.random.default_rng(seed)
    result = []
    for block in range(blocks):
        level = draw.normal(0, 1)
        mains = {name: draw.normal(0, main_sd) for name in LEVELS["tillage"]}
        for tillage, rate in itertools.product(*LEVELS.values()):
            value = 10 + level + mains[tillage] + effect(tillage, rate) + draw.normal(0, 0.4)
            levels = {"tillage": tillage, "rate": rate}
            result.append(
                FactorStrip(
                    response=float(value),
                    levels=levels,
                    planned=levels,
                    block=str(block),
                    position=float(len(result)),
                    label=f"Strip {len(result) + 1}",
                )
            )
    return result


def run(rows: list[FactorStrip], layout: Layout = "split_plot", **more: Any) -> FactorComparison:
    options = {"control": {"tillage": "plough", "rate": "80"}, "factors": ["tillage", "rate"]} | more
    return compare_factors(rows, layout=layout, **options)


def of_case(name: str, response: str, main: str, sub: str, block: str) -> list[FactorStrip]:
    raw = json.loads((FOLDER / f"{name}.json").read_text())
    result = []
    for row in raw["data"]:
        levels = {main: str(row[main]), sub: str(row[sub])}
        result.append(FactorStrip(response=float(row[response]), levels=levels, planned=levels, block=str(row[block])))
    return result


def test_the_oats_are_tested_as_in_r() -> None:
    """Yates' split-plot (by way of MASS): F, df and components of the reference."""
    raw = json.loads((FOLDER / "o07_splitplot_oats.json").read_text())["expected"]["lmer_kr"]
    factor_comparison = run(
        of_case("o07_splitplot_oats", "yield", "variety", "nitro", "block"), factors=["variety", "nitro"], control=None
    )
    tests = {line.term: line for line in factor_comparison.anova}
    for row in raw["f_tests_type3_kenward_roger"]:
        assert tests[row["term"]].f == pytest.approx(row["f"], rel=1e-4)
        assert tests[row["term"]].den_df == pytest.approx(row["den_df"], rel=1e-4)
    assert dict(factor_comparison.components)["block:variety"] == pytest.approx(
        next(row["variance"] for row in raw["variance_components"] if row["group"] == "block:variety"), rel=1e-4
    )
    assert {family.factor for family in factor_comparison.families} == {"variety", "nitro"}
    assert all(not family.within for family in factor_comparison.families), "no interaction there: p 0.93"
    assert "error of their own" in factor_comparison.method


def test_a_variance_at_zero_leaves_the_call_to_the_strata() -> None:
    """Rice of o09: with the component at zero REML tests nitrogen with F 20.0, the strata with F 42.9 on 5 and 10 df."""
    raw = json.loads((FOLDER / "o09_splitplot_boundary_rice.json").read_text())["expected"]["classical_precision"]
    factor_comparison = run(
        of_case("o09_splitplot_boundary_rice", "yield", "nitro", "gen", "rep"), factors=["nitro", "gen"], control=None
    )
    assert any("classical strata" in warning for warning in factor_comparison.warnings)
    inner = [
        difference for family in factor_comparison.sizes for difference in family.differences if difference.factor == "gen"
    ]
    assert {round(cell_difference.se, 6) for cell_difference in inner} == {round(raw["sed_sub_within_same_main"], 6)}
    assert [cell_difference.df for cell_difference in inner] == pytest.approx([raw["error_b_df"]] * len(inner))


def test_main_effects_first_and_places_only_where_the_effect_turns() -> None:
    flat = run(strips(1))
    assert [(family.factor, dict(family.within)) for family in flat.families] == [("tillage", {}), ("rate", {})]
    assert flat.sizes == ()
    turned = run(
        strips(1, blocks=6, effect=lambda a, b: 0.0 if a == "plough" else {"70": 2.0, "80": 0.0, "90": -2.0}[b]), "rcbd"
    )
    assert turned.interactions[0].established
    tillage = [family for family in turned.families if family.factor == "tillage"]
    assert [tuple(family.within.values()) for family in tillage] == [("70",), ("80",), ("90",)]
    assert {(family.level, family.own_level) for family in tillage} == {(0.10, 0.10 / 3)}
    first, _, last = (family.differences[0] for family in tillage)
    assert first.lower > 0 > last.upper


def test_an_effect_that_keeps_its_direction_is_told_as_one_with_its_sizes() -> None:
    """Established, and never turned (Gail & Simon): the main effect is called, what it is at each rate is only told."""
    effect = {"70": 1.5, "80": 3.0, "90": 4.5}
    result = run(strips(1, blocks=6, effect=lambda a, b: 0.0 if a == "plough" else effect[b]))
    assert result.interactions[0].established
    assert [(family.factor, dict(family.within)) for family in result.families if family.factor == "tillage"] == [
        ("tillage", {})
    ]
    sizes = [family.differences[0].estimate for family in result.sizes if family.factor == "tillage"]
    assert sizes == sorted(sizes)
    assert sizes[-1] - sizes[0] == pytest.approx(3.0, abs=1.0)


def test_a_suspected_interaction_leaves_the_main_effect_its_call() -> None:
    """Between one and ten per cent: said beside the main effect, which keeps its level."""
    result = next(
        comparison
        for comparison in (run(strips(seed)) for seed in range(300))
        if comparison.interactions[0].status == "suspected"
    )
    assert 0.01 <= result.interactions[0].p_holm < 0.10
    assert {(family.level, family.own_level) for family in result.families} == {(0.10, 0.10)}
    assert not any(family.within for family in result.families)
    assert {family.factor for family in result.sizes} == {"tillage", "rate"}


@pytest.mark.slow
def test_the_promise_about_false_calls_holds_where_a_test_chooses() -> None:
    """2 × 3 in blocks, nothing differs: a false call of a factor in at most one trial of ten, by simulation of 600."""
    false = 0
    for seed in range(600):
        factor_comparison = run(strips(seed, main_sd=0.0), "rcbd")
        false += any(
            difference.lower > 0 or difference.upper < 0
            for difference in factor_comparison.differences
            if difference.factor == "tillage"
        )
    assert false / 600 < 0.10 + 2.33 * math.sqrt(0.09 / 600)
    assert false / 600 > 0.04, "and it is not bought by never calling"


def test_one_factor_in_plain_blocks_is_the_same_by_both_ways() -> None:
    """Averaging rates over two identical columns of tillage: differences of the factorial are those of ordinary blocks."""
    rows = strips(3, main_sd=0.0)
    factor_comparison = run(rows, "rcbd")
    plain = compare(
        [StripResponse(treatment="|".join(row.levels.values()), block=row.block, response=row.response) for row in rows]
    )
    cells = {"|".join(mean.levels.values()): mean for mean in factor_comparison.cells}
    for mean in plain.means:
        assert cells[mean.level].mean == pytest.approx(mean.mean)
        assert cells[mean.level].se == pytest.approx(mean.se)
    assert factor_comparison.error_df == plain.residual_df
    assert factor_comparison.cv_percent == pytest.approx(plain.cv_percent)


def test_a_strip_sown_otherwise_stays_in_its_main_strip() -> None:
    """The level received counts, the main strip is the one laid out: as many main strips as there were."""
    rows = strips(5)
    wrong = rows[0]
    rows[0] = FactorStrip(
        response=wrong.response,
        levels={**wrong.levels, "tillage": "strip"},
        planned=wrong.levels,
        block=wrong.block,
        position=wrong.position,
        label=wrong.label,
    )
    factor_comparison = run(rows)
    cells = {tuple(mean.levels.values()): mean.n for mean in factor_comparison.cells}
    assert (cells["plough", "70"], cells["strip", "70"]) == (3, 5)
    assert dict(factor_comparison.components).keys() == {"block", "block:laid out tillage", "Residual"}
    assert factor_comparison.strata == ()


def test_checks_come_with_residuals_of_every_strip() -> None:
    rows = strips(6)
    rows[7] = FactorStrip(
        response=rows[7].response + 9,
        levels=rows[7].levels,
        planned=rows[7].planned,
        block=rows[7].block,
        label=rows[7].label,
        position=rows[7].position,
    )
    checks = run(rows).checks
    assert checks is not None
    assert checks.outlier_row == 8
    assert checks.outlier_p_bonferroni is not None
    assert checks.outlier_p_bonferroni < 0.01
    assert "Strip 8 stands far" in checks.words[0]
    assert len(checks.residuals) == len(rows) == len(checks.fitted)


def test_a_drift_that_blocks_leave_is_told() -> None:
    rows = [
        FactorStrip(
            response=factor_strip.response + 0.4 * (place % 6),
            levels=factor_strip.levels,
            planned=factor_strip.planned,
            block=factor_strip.block,
            label=factor_strip.label,
            position=float(place),
        )
        for place, factor_strip in enumerate(sorted(strips(2), key=lambda strip: (strip.block, hash(strip.label) % 7)))
    ]
    checks = run(rows, "crd").checks
    assert checks is not None
    assert checks.trend_f is not None
    assert checks.trend_f > 0


def key(one: CellDifference) -> tuple[str, str, str, tuple[tuple[str, str], ...]]:
    return one.factor, one.left, one.right, tuple(one.within.items())


@pytest.mark.slow
@given(st.integers(0, 200), st.randoms(use_true_random=False), st.sampled_from(LAYOUTS))
@settings(max_examples=25, deadline=None)
def test_the_order_of_strips_changes_nothing(seed: int, shuffle: Any, layout: Layout) -> None:
    rows = strips(seed)
    levels = {name: list(own) for name, own in LEVELS.items()}
    factor_comparison = run(rows, layout, levels=levels)
    shuffle.shuffle(rows)
    other = run(rows, layout, levels=levels)
    assert [key(row) for row in factor_comparison.differences] == [key(row) for row in other.differences]
    for left, right in zip(factor_comparison.differences, other.differences, strict=True):
        assert (left.estimate, left.lower) == (pytest.approx(right.estimate, abs=1e-6), pytest.approx(right.lower, abs=1e-5))


@pytest.mark.slow
@given(st.integers(0, 200), st.floats(0.01, 1000), st.floats(-50, 50), st.sampled_from(LAYOUTS))
@settings(max_examples=25, deadline=None)
def test_units_and_a_shift_change_only_what_they_should(seed: int, factor: float, shift: float, layout: Layout) -> None:
    rows = strips(seed)
    moved = [
        FactorStrip(
            response=factor * row.response + shift,
            levels=row.levels,
            planned=row.planned,
            block=row.block,
            label=row.label,
            position=row.position,
        )
        for row in rows
    ]
    factor_comparison, other = run(rows, layout), run(moved, layout)
    assert [key(row) for row in factor_comparison.differences] == [key(row) for row in other.differences]
    for left, right in zip(factor_comparison.differences, other.differences, strict=True):
        assert right.estimate == pytest.approx(factor * left.estimate, rel=1e-5, abs=1e-6 * factor)
        assert right.upper == pytest.approx(factor * left.upper, rel=1e-4, abs=1e-5 * factor)
        assert right.p == pytest.approx(left.p, abs=1e-5)


@pytest.mark.slow
@given(st.integers(0, 200), st.sampled_from(LAYOUTS))
@settings(max_examples=15, deadline=None)
def test_names_are_names(seed: int, layout: Layout) -> None:
    """Other words for levels: the same numbers."""
    rows = strips(seed)
    words = {"plough": "zeta", "strip": "alpha", "70": "c", "80": "b", "90": "a"}

    def renamed(levels: Any) -> dict[str, str]:
        return {name: words[level] for name, level in levels.items()}

    other = [
        FactorStrip(
            response=row.response,
            levels=renamed(row.levels),
            planned=renamed(row.planned),
            block=f"x{row.block}",
            label=row.label,
            position=row.position,
        )
        for row in rows
    ]
    left, right = run(rows, layout), run(other, layout, control={"tillage": "zeta", "rate": "b"})
    assert [row.estimate for row in right.differences] == pytest.approx([row.estimate for row in left.differences])
    assert [line.f for line in right.anova] == pytest.approx([line.f for line in left.anova])


@pytest.mark.parametrize("layout", LAYOUTS)
def test_all_strips_equal_is_refused_with_the_reason(layout: Layout) -> None:
    rows = [FactorStrip(response=7.0, levels=strip.levels, planned=strip.planned, block=strip.block) for strip in strips(1)]
    with pytest.raises(Refusal) as refused:
        run(rows, layout)
    assert refused.value.code == "no_variation"


@pytest.mark.parametrize("layout", LAYOUTS)
def test_one_wild_value_is_an_answer(layout: Layout) -> None:
    rows = strips(2)
    rows[3] = FactorStrip(response=1e9, levels=rows[3].levels, planned=rows[3].planned, block=rows[3].block)
    factor_comparison = run(rows, layout)
    for difference in factor_comparison.differences:
        assert all(
            math.isfinite(value)
            for value in (difference.estimate, difference.se, difference.df, difference.lower, difference.upper, difference.p)
        )


@pytest.mark.parametrize("layout", LAYOUTS)
def test_two_levels_alike_are_alike(layout: Layout) -> None:
    """The strips of 90 thousand are copies of those of 80: their difference is nought, its interval is not empty."""
    rows = strips(4)
    twin = {(row.block, row.levels["tillage"]): row.response for row in rows if row.levels["rate"] == "80"}
    rows = [
        FactorStrip(
            response=twin[row.block, row.levels["tillage"]] if row.levels["rate"] == "90" else row.response,
            levels=row.levels,
            planned=row.planned,
            block=row.block,
        )
        for row in rows
    ]
    factor_comparison = run(rows, layout)
    cell_difference = next(row for row in factor_comparison.differences if row.factor == "rate" and row.left == "90")
    assert cell_difference.estimate == pytest.approx(0, abs=1e-9)
    assert cell_difference.lower < 0 < cell_difference.upper


def test_a_combination_in_one_block_only_is_an_answer() -> None:
    rows = [strip for strip in strips(1) if tuple(strip.levels.values()) != ("strip", "90") or strip.block == "0"]
    factor_comparison = run(rows)
    cell = next(mean for mean in factor_comparison.cells if tuple(mean.levels.values()) == ("strip", "90"))
    others = [mean.se for mean in factor_comparison.cells if mean is not cell]
    assert cell.n == 1
    assert cell.se > max(others)


@pytest.mark.parametrize(
    ("change", "code"),
    [
        (lambda _: [], "no_response"),
        (lambda rows: [row for row in rows if row.levels["tillage"] == "plough"], "too_few_treatments"),
        (lambda rows: [row for row in rows if row.block == "0"], "missing"),
    ],
)
def test_what_is_no_trial_is_refused(change: Any, code: str) -> None:
    with pytest.raises(Refusal) as refused:
        run(change(strips(1)))
    assert refused.value.code == code


@pytest.mark.parametrize("layout", LAYOUTS)
def test_strips_that_agree_exactly_measure_nothing(layout: Layout) -> None:
    """Blocks differ, nothing else does: an error variance of nought would make every difference certain."""
    rows = [
        FactorStrip(
            response=8.0 + (0 if layout == "crd" else int(strip.block)) + (0.5 if strip.levels["rate"] == "90" else 0.0),
            levels=strip.levels,
            planned=strip.planned,
            block=strip.block,
        )
        for strip in strips(1)
    ]
    with pytest.raises(Refusal) as refused:
        run(rows, layout)
    assert refused.value.code == "no_variation"


def test_missing_combinations_make_it_additive() -> None:
    """Main effects against ordinary least squares written out with dummy columns; the combination is named."""
    rows = [strip for strip in strips(3) if tuple(strip.levels.values()) != ("strip", "90")]
    found = run(rows, "rcbd", names={"strip": "Strip till", "90": "90 thousand"})
    columns = [[1.0] * len(rows)]
    columns += [[float(row.block == str(block)) for row in rows] for block in range(1, 4)]
    columns += [[float(row.levels["tillage"] == "strip") for row in rows]]
    columns += [[float(row.levels["rate"] == rate) for row in rows] for rate in ("70", "90")]
    x, y = np.array(columns).T, np.array([row.response for row in rows])
    beta, rest, *_ = np.linalg.lstsq(x, y, rcond=None)
    error = np.sqrt(np.diag(np.linalg.inv(x.T @ x)) * rest[0] / (len(y) - x.shape[1]))
    by_end = {(item.factor, item.left): item for item in found.differences}
    for place, key in ((4, ("tillage", "strip")), (5, ("rate", "70")), (6, ("rate", "90"))):
        assert by_end[key].estimate == pytest.approx(beta[place], abs=1e-9)
        assert by_end[key].se == pytest.approx(error[place], abs=1e-9)
        assert by_end[key].df == pytest.approx(len(y) - x.shape[1])
    assert found.interactions == ()
    assert any("No strip of Strip till with 90 thousand" in words for words in found.warnings)
    gone = next(cell for cell in found.cells if tuple(cell.levels.values()) == ("strip", "90"))
    assert gone.n == 0
    assert gone.mean == pytest.approx(beta[0] + beta[1:4].sum() / 4 + beta[4] + beta[6], abs=1e-9)


def test_a_split_plot_without_a_combination_keeps_its_errors() -> None:
    rows = [strip for strip in strips(5) if tuple(strip.levels.values()) != ("strip", "90")]
    found = run(rows)
    assert dict(found.components).keys() == {"block", "block:tillage", "Residual"}
    assert {family.factor for family in found.families} == {"tillage", "rate"}
    assert not any(family.within for family in found.families)


def test_main_effects_that_cannot_be_told_apart_are_refused() -> None:
    kept = {("plough", "70"), ("plough", "80"), ("strip", "90")}
    with pytest.raises(Refusal) as refused:
        run([row for row in strips(2) if tuple(row.levels.values()) in kept], "rcbd")
    assert refused.value.code == "empty_cells"


def test_a_control_outside_the_factorial_is_held_against_its_mean() -> None:
    """Balanced blocks: difference of plain means; SE² = MSE of all treatments × (1 ÷ 24 + 1 ÷ 4), df 3 × 6 (by hand)."""
    rows, draw = strips(7), np.random.default_rng(70)
    outside = [
        FactorStrip(response=float(9.5 + draw.normal(0, 0.4)), levels={}, planned={}, block=str(block)) for block in range(4)
    ]
    found = run(rows, "rcbd", control=None, apart=outside)
    alone = run(rows, "rcbd", control=None)
    assert found.families[:-1] == alone.families, "the factors are judged by the factorial"
    own = found.families[-1].differences[0]
    whole = compare(
        [
            StripResponse(treatment="/".join(row.levels.values()) or "none", block=row.block, response=row.response)
            for row in (*rows, *outside)
        ],
        design="rcbd",
        control="none",
    )
    mean = np.mean([row.response for row in rows]) - np.mean([row.response for row in outside])
    assert own.estimate == pytest.approx(mean, abs=1e-9)
    assert own.se == pytest.approx(math.sqrt((whole.mse or 0) * (1 / 24 + 1 / 4)), rel=1e-9)
    assert own.df == pytest.approx(18)
