"""Power and least detectable differences against R, textbook strata and simulation; the rehearsal against both."""

from __future__ import annotations

import json

import numpy as np
import pytest
from cultrix_core.design.designs import Design
from cultrix_core.design.detectable_difference import (
    DesignSize,
    Variation,
    cheapest_changes,
    critical_value,
    detect,
    error_df,
    least_detectable,
    power,
    power_f,
    strata,
)
from cultrix_core.design.power_simulation import Rehearsed, Tally, merged, rehearse
from cultrix_core.design.randomise import Cell, Constraints, lay_out
from cultrix_core.errors import Refusal
from cultrix_core.simulate.variation import FieldVariation, mapped, simulated, uniformity_map
from cultrix_core.stats.multiplicity import t_critical
from hypothesis import given
from hypothesis import strategies as st

from tests.core.references import FOLDER

# R 4.2.2, stats::pt and pf with noncentrality, uniroot for the differences
GRID = json.loads((FOLDER / "o19_power_grid.json").read_text())["expected"]
MAP = json.loads((FOLDER / "o20_uniformity_wheat.json").read_text())


def rcbd(treatments: int, blocks: int) -> DesignSize:
    return DesignSize(design="rcbd", treatments=treatments, blocks=blocks)


def test_power_of_pairs_and_of_f_as_in_r() -> None:
    assert len(GRID["rcbd_grid"]) == 480
    for row in GRID["rcbd_grid"]:
        (stratum,) = strata(rcbd(row["treatments"], row["blocks"]), Variation(cv_pct=row["cv_pct"]))
        value = power(row["diff_pct"] / stratum.sed_pct, stratum.df, t_critical(row["alpha"], stratum.df))
        assert value == pytest.approx(row["power_pairwise_t_rcbd_error_df"], abs=1e-8)
        overall = power_f(
            treatments=row["treatments"],
            blocks=row["blocks"],
            cv_pct=row["cv_pct"],
            difference_pct=row["diff_pct"],
            alpha=row["alpha"],
        )
        assert overall == pytest.approx(row["power_f_two_extremes"], abs=1e-8)


def test_least_detectable_differences_as_in_r() -> None:
    for row in GRID["min_detectable_difference"]:
        (stratum,) = strata(rcbd(row["treatments"], row["blocks"]), Variation(cv_pct=row["cv_pct"]))
        value = least_detectable(stratum.sed_pct, stratum.df, t_critical(row["alpha"], stratum.df))
        assert value == pytest.approx(row["min_detectable_diff_pct_power_80"], rel=1e-7)


def test_blocks_for_a_difference_as_in_r() -> None:
    for row in GRID["min_blocks"]:
        blocks = row["min_blocks_power_80"]
        if blocks is None or blocks < 3 or blocks > 39:
            continue

        def chance(number: int, row: dict[str, float] = row) -> float:
            (stratum,) = strata(rcbd(int(row["treatments"]), number), Variation(cv_pct=row["cv_pct"]))
            return power(row["diff_pct"] / stratum.sed_pct, stratum.df, t_critical(row["alpha"], stratum.df))

        assert chance(blocks) >= 0.8 > chance(blocks - 1)
        assert chance(blocks) == pytest.approx(row["power_at_that"], abs=1e-8)


def test_strata_of_a_split_plot() -> None:
    """Standard errors and df as in the table of Cochran & Cox (1957) ch. 7, from memory; a = 3, b = 4, r = 6."""
    size = DesignSize(design="split_plot", treatments=12, blocks=6, main=3, sub=4)
    result = {stratum.key: stratum for stratum in strata(size, Variation(cv_pct=13.0, cv_main_pct=23.0))}
    assert result["main"].sed_pct == pytest.approx(23 * np.sqrt(2 / 24))
    assert result["main"].df == 10
    assert result["sub"].sed_pct == pytest.approx(13 * np.sqrt(2 / 18))
    assert result["sub"].df == 45
    assert result["sub_within"].sed_pct == pytest.approx(13 * np.sqrt(2 / 6))
    assert result["interaction"].sed_pct == pytest.approx(2 * 13 / np.sqrt(6))


def test_df_of_every_design_against_the_rank_of_its_model() -> None:
    """Error df = strips − rank of the fixed model, from the drawn layout itself."""
    cells = [Cell(name=f"t{number}") for number in range(4)]
    for design in ("rcbd", "crd", "latin", "augmented", "systematic"):
        layout = lay_out(design, cells, blocks=4, seed=2, control="t0").strips  # type: ignore[arg-type]
        terms = [[strip.treatment for strip in layout]]
        if design == "latin":
            terms += [[strip.row for strip in layout], [strip.column for strip in layout]]  # type: ignore[list-item]
        elif design != "crd":
            terms.append([strip.block for strip in layout])  # type: ignore[list-item]
        columns = [np.array([value == level for value in term], float) for term in terms for level in set(term)]
        rank = int(np.linalg.matrix_rank(np.column_stack(columns)))
        assert error_df(DesignSize(design=design, treatments=4, blocks=4)) == len(layout) - rank  # type: ignore[arg-type]


def test_a_second_control_helps_as_its_variance_says() -> None:
    single = strata(rcbd(4, 5), Variation(cv_pct=8))[0]
    double = strata(DesignSize(design="augmented", treatments=4, blocks=5), Variation(cv_pct=8))[0]
    assert double.sed_pct**2 == pytest.approx(single.sed_pct**2 * 0.75)
    # correlation 1/3 between differences with a control twice as often: n/(n + n0), Dunnett 1955
    draw = np.random.default_rng(1).normal(size=(200_000, 4)) / np.sqrt([2, 1, 1, 1])
    differences = draw[:, 1:] - draw[:, :1]
    assert np.corrcoef(differences.T)[0, 1] == pytest.approx(double.correlation, abs=0.01)


@given(st.floats(0.01, 6), st.integers(1, 60))
def test_power_grows_with_the_difference(shift: float, df: int) -> None:
    critical = t_critical(0.10, df)
    assert 0.0999 <= power(shift, df, critical) <= power(shift + 0.5, df, critical) + 1e-9 <= 1 + 1e-8


def test_power_by_simulation() -> None:
    """The margin's own comparison, Dunnett's limit and all, on 4 000 simulated trials in blocks."""
    stratum = strata(rcbd(4, 4), Variation(cv_pct=6))[0]
    critical = critical_value(stratum, 0.10)
    draw = np.random.default_rng(8)
    y = draw.normal(0, 6, (4000, 4, 4))
    y[:, :, 1] += 9
    fitted = y - y.mean(axis=2, keepdims=True) - y.mean(axis=1, keepdims=True) + y.mean(axis=(1, 2), keepdims=True)
    mse = (fitted**2).sum(axis=(1, 2)) / 9
    t = (y[:, :, 1] - y[:, :, 0]).mean(axis=1) / np.sqrt(mse / 2)
    expected = power(9 / stratum.sed_pct, stratum.df, critical)
    assert (np.abs(t) > critical).mean() == pytest.approx(expected, abs=0.025)


def test_longer_strips_after_smith() -> None:
    """Variance ∝ length^−b: four times the length at b = 0.5 halves the variance (from memory of Smith 1938)."""
    short = Variation(cv_pct=8, length_m=100, reference_length_m=100)
    long = Variation(cv_pct=8, length_m=400, reference_length_m=100)
    assert long.strip_sd**2 == pytest.approx(short.strip_sd**2 / 2)
    assert Variation(cv_pct=8, length_m=400, reference_length_m=100, smith_b=0).strip_sd == 8


def test_the_cheapest_changes_do_what_they_say() -> None:
    size, variation = rcbd(3, 4), Variation(cv_pct=6, length_m=200, reference_length_m=200)
    result = cheapest_changes(size, variation, alpha=0.1, margin_pct=9, strip_area_m2=1200, longest_m=400)
    assert len(result) == 2
    assert {change.kind for change in result} <= {"blocks", "length", "fewer", "years"}
    assert all(change.power >= 0.8 for change in result)
    assert result[0].extra_m2 <= result[1].extra_m2
    blocks = next(change for change in result if change.kind == "blocks")
    number = round(blocks.amount)
    for tried, enough in ((number, True), (number - 1, False)):
        (stratum,) = strata(rcbd(3, tried), variation)
        assert (power(9 / stratum.sed_pct, stratum.df, critical_value(stratum, 0.1)) >= 0.8) is enough


def test_no_margin_without_replication() -> None:
    with pytest.raises(Refusal) as refused:
        strata(DesignSize(design="unreplicated", treatments=3, blocks=1), Variation(cv_pct=8))
    assert refused.value.code == "not_for_design"
    with pytest.raises(Refusal, match="more than 0"):
        strata(rcbd(3, 3), Variation(cv_pct=0))


def test_the_map_is_the_published_one() -> None:
    """Mercer & Hall (1911) as carried by spData (CC0): mean, variance and neighbour correlation computed in R."""
    expected = MAP["expected"]
    field = uniformity_map()
    assert field.size == expected["n"]
    raw = np.array([[row["yield"] for row in MAP["data"] if row["row"] == number] for number in range(1, 21)])
    assert raw.mean() == pytest.approx(expected["mean"])
    assert field == pytest.approx(100 * (raw / raw.mean() - 1))
    assert field.std(ddof=1) == pytest.approx(expected["cv_pct"])


def test_strips_on_the_map_have_the_means_r_found() -> None:
    """R's strip means of columns 1 to 24 are those of a layout laid unturned from the first column."""
    means = np.array(MAP["expected"]["strips_are_columns"]["strip_means"])
    strips = lay_out("rcbd", [Cell(name=name) for name in "abcd"], blocks=6, seed=1).strips
    ours = mapped(strips, fields=60, seed=4)
    wanted = 100 * (means / MAP["expected"]["mean"] - 1)
    assert any(np.allclose(row, wanted) for row in ours), "one of sixty places is R's own"


@pytest.mark.slow
def test_false_alarms_on_the_real_map() -> None:
    """Dummy treatments on the map: at level 0.10 about one call in ten is false under randomisation (R found the same)."""
    plan = rehearsed("rcbd", 2, 10, margin=500.0)
    tally = total(plan, None, batches=6)
    # with a huge margin every interval lies inside it: what does not exclude 0 is no difference
    gain, loss, none, unclear = tally.calls["as planned"][0]
    assert (none, unclear) == (tally.fields - gain - loss, 0)
    small = total(rehearsed("rcbd", 2, 10, margin=1e-6), None, batches=6)
    (gain, loss, none, _), *_ = small.calls["as planned"]
    assert none == 0
    assert (gain + loss) / small.fields == pytest.approx(0.10, abs=0.03)


def rehearsed(design: Design, treatments: int, blocks: int, margin: float, **more: object) -> Rehearsed:
    cells = tuple(Cell(name=f"t{number}") for number in range(treatments))
    size = DesignSize(design=design, treatments=treatments, blocks=blocks)
    return Rehearsed(
        size=size,
        cells=cells,
        control="t0",
        alpha=0.10,
        margin_pct=margin,
        constraints=Constraints(),
        **more,  # type: ignore[arg-type]
    )


def total(plan: Rehearsed, ground: FieldVariation | None, batches: int = 4) -> Tally:
    tally = None
    for batch in range(batches):
        tally = merged(tally, rehearse(plan, ground, fields=250, seed=9_000 + 250 * batch))
    assert tally is not None
    return tally


@pytest.mark.parametrize(("design", "blocks"), [("rcbd", 5), ("crd", 5), ("latin", 4), ("augmented", 4)])
def test_the_rehearsal_finds_what_the_margin_promises(design: Design, blocks: int) -> None:
    """On ground of pure noise the share of right calls is the power the margin computes."""
    plan = rehearsed(design, 4, blocks, margin=9.0)
    tally = total(plan, FieldVariation(cv_pct=6, trend_pct=0, patch_share=0))
    (stratum,) = strata(plan.size, Variation(cv_pct=6))
    detection = detect(stratum, alpha=0.10, margin_pct=9.0)
    calls = tally.calls["as planned"]
    assert calls[1][0] / tally.fields == pytest.approx(detection.power_at_margin, abs=0.05)
    assert calls[0][2] / tally.fields == pytest.approx(detection.chance_no_difference, abs=0.05)
    assert sum(calls[0][:2]) / tally.fields < 0.10, "Dunnett's limit keeps one comparison below the family's level"
    assert tally.error_squares["as planned"] == pytest.approx(tally.claimed_squares["as planned"], rel=0.12)


@pytest.mark.parametrize("part", ["main", "sub"])
def test_the_rehearsal_of_a_split_plot(part: str) -> None:
    cells = tuple(Cell(name=f"{a}{b}", main=a, sub=b) for a in "xy" for b in "123")
    size = DesignSize(design="split_plot", treatments=6, blocks=5, main=2, sub=3)
    plan = Rehearsed(size=size, cells=cells, control="x1", alpha=0.10, margin_pct=6.0, constraints=Constraints(), part=part)
    tally = total(plan, FieldVariation(cv_pct=6, trend_pct=0, patch_share=0))
    stratum = next(row for row in strata(size, Variation(cv_pct=6, cv_main_pct=6)) if row.key == part)
    detection = detect(stratum, alpha=0.10, margin_pct=6.0)
    assert tally.calls["as planned"][1][0] / tally.fields == pytest.approx(detection.power_at_margin, abs=0.05)


def test_a_drift_leans_on_the_alternating_order_only() -> None:
    plan = rehearsed("rcbd", 2, 6, margin=5.0)
    tally = total(plan, FieldVariation(cv_pct=3, trend_pct=24, patch_share=0))
    lean = {order: value / tally.fields for order, value in tally.error_sum.items()}
    # two strips side by side of twelve over a trend of 24 %: one place is 2 %
    assert lean["systematic"] == pytest.approx(2.0, abs=0.25)
    assert lean["as planned"] == pytest.approx(0.0, abs=0.35)


@pytest.mark.slow
@given(st.floats(2, 15), st.floats(0, 1), st.integers(2, 5), st.integers(3, 8))
def test_simulated_ground_varies_as_asked(cv: float, share: float, treatments: int, blocks: int) -> None:
    strips = lay_out("rcbd", [Cell(name=str(number)) for number in range(treatments)], blocks=blocks, seed=1).strips
    ground = FieldVariation(cv_pct=cv, trend_pct=0, patch_share=share)
    values = simulated(strips, ground, fields=900, seed=3)
    number = np.array([strip.block for strip in strips])
    within = np.mean([values[:, number == block].var(axis=1, ddof=1) for block in range(1, blocks + 1)])
    assert np.sqrt(within) == pytest.approx(cv, rel=0.08)


def test_a_rehearsal_is_the_same_again_and_adds_up() -> None:
    plan = rehearsed("rcbd", 3, 4, margin=6.0)
    ground = FieldVariation(cv_pct=6)
    once, again = (rehearse(plan, ground, fields=40, seed=5) for _ in range(2))
    assert once == again
    both = merged(once, again)
    assert both.fields == 80
    assert sum(both.calls["as planned"][0]) == 80
    with pytest.raises(Refusal, match="at most 250"):
        rehearse(plan, ground, fields=5000, seed=1)
    with pytest.raises(Refusal):
        rehearse(rehearsed("rcbd", 3, 4, margin=0.0), ground, fields=10, seed=1)


@pytest.mark.slow
@given(st.integers(2, 6), st.integers(2, 10), st.floats(2, 20), st.sampled_from([0.05, 0.1, 0.2]))
def test_what_is_detected_is_found_four_times_in_five(treatments: int, blocks: int, cv: float, alpha: float) -> None:
    """Solving back: the power at the least detectable difference is the wanted 0.80; less blocks detect less."""
    if (treatments - 1) * (blocks - 1) < 2:
        return
    (stratum,) = strata(rcbd(treatments, blocks), Variation(cv_pct=cv))
    detection = detect(stratum, alpha=alpha, margin_pct=None)
    assert power(detection.least_detectable_pct / stratum.sed_pct, stratum.df, detection.critical) == pytest.approx(
        0.8, abs=1e-6
    )
    (more,) = strata(rcbd(treatments, blocks + 1), Variation(cv_pct=cv))
    assert detect(more, alpha=alpha, margin_pct=None).least_detectable_pct < detection.least_detectable_pct


@given(st.floats(2, 20), st.floats(1.01, 3))
def test_detection_is_in_proportion_to_the_variation(cv: float, times: float) -> None:
    for size in (
        rcbd(3, 4),
        DesignSize(design="split_plot", treatments=6, blocks=4, main=2, sub=3),
        DesignSize(design="strip_plot", treatments=6, blocks=4, main=2, sub=3),
        DesignSize(design="rcbd", treatments=6, blocks=4, factors=(2, 3)),
    ):
        calm, wild = strata(size, Variation(cv_pct=cv)), strata(size, Variation(cv_pct=cv * times))
        for stratum, other in zip(calm, wild, strict=True):
            assert other.sed_pct == pytest.approx(stratum.sed_pct * times)
            assert (other.df, other.comparisons, other.adjust) == (stratum.df, stratum.comparisons, stratum.adjust)


def test_the_strata_of_a_factorial_by_simulation() -> None:
    """Standard errors of main effects and of a difference of differences, 2 × 3 in 5 blocks, 20 000 trials."""
    stratums = strata(DesignSize(design="rcbd", treatments=6, blocks=5, factors=(2, 3)), Variation(cv_pct=7))
    draw = np.random.default_rng(11).normal(0, 7, (20_000, 5, 2, 3))
    first = draw[:, :, 0].mean(axis=(1, 2)) - draw[:, :, 1].mean(axis=(1, 2))
    second = draw[..., 0].mean(axis=(1, 2)) - draw[..., 1].mean(axis=(1, 2))
    cell = draw.mean(axis=1)
    double = (cell[:, 0, 0] - cell[:, 1, 0]) - (cell[:, 0, 1] - cell[:, 1, 1])
    simple = cell[:, 0, 0] - cell[:, 1, 1]
    wanted = [first.std(), second.std(), simple.std(), double.std()]
    assert [stratum.key for stratum in stratums] == ["main", "main", "treatments", "interaction"]
    assert [stratum.sed_pct for stratum in stratums] == pytest.approx(wanted, rel=0.03)
    assert {stratum.df for stratum in stratums} == {20}


def test_the_strata_of_crossed_strips_by_simulation() -> None:
    """Errors of strips, bands and crossings apart: 3 × 2 crossed in 4 blocks; error mean squares on a strip basis."""
    rows, bands, cross = 5.0, 4.0, 3.0
    draw = np.random.default_rng(12)
    y = (
        draw.normal(0, rows, (20_000, 4, 3, 1))
        + draw.normal(0, bands, (20_000, 4, 1, 2))
        + draw.normal(0, cross, (20_000, 4, 3, 2))
    )
    main = y[:, :, 0].mean(axis=(1, 2)) - y[:, :, 1].mean(axis=(1, 2))
    cell = y.mean(axis=1)
    double = (cell[:, 0, 0] - cell[:, 1, 0]) - (cell[:, 0, 1] - cell[:, 1, 1])
    # expected mean square of the strips' error: σ² + 2·σ_rows² with two bands
    size = DesignSize(design="strip_plot", treatments=6, blocks=4, main=3, sub=2)
    result = {
        stratum.key: stratum
        for stratum in strata(size, Variation(cv_pct=cross, cv_main_pct=float(np.sqrt(cross**2 + 2 * rows**2))))
    }
    assert result["main"].sed_pct == pytest.approx(main.std(), rel=0.03)
    assert result["interaction"].sed_pct == pytest.approx(double.std(), rel=0.03)
    assert [result[key].df for key in ("main", "sub", "interaction")] == [6, 3, 6]


def test_power_where_the_series_gives_out() -> None:
    """One degree of freedom and a far shift: SciPy's noncentral t is not a number there, the integral is."""
    far = power(40.0, 1, 6.31)
    assert 0.99 < far <= 1
    near = power(2.0, 6, 1.9432)
    assert near == pytest.approx(_integrated(2.0, 6, 1.9432), abs=1e-6)


def _integrated(shift: float, df: float, critical: float) -> float:
    from cultrix_core.design.detectable_difference import _power_integrated

    return _power_integrated(shift, df, critical)
