"""The same strips over years: totals, and whether differences changed, against definitions, statsmodels and simulation."""

from __future__ import annotations

import numpy as np
import pytest
from cultrix_core.errors import Refusal
from cultrix_core.stats.compare import StripResponse, compare
from cultrix_core.stats.repeated import Repeated, repeated

Rows = tuple[list[float], list[str], list[str], list[str], list[str]]


def years(seed: int, blocks: int = 5, count: int = 3, effect: float = 0.4, turn: float = 0.0, strip_sd: float = 0.5) -> Rows:
    draw = np.random.default_rng(seed)
    y, treatment, block, strip, year = [], [], [], [], []
    for number in range(blocks):
        ground = draw.normal(0, 1)
        seasons = draw.normal(0, 0.5, count)
        for name in ("usual", "new"):
            own = draw.normal(0, strip_sd)
            for season in range(count):
                change = turn * (season - 1) if name == "new" else 0.0
                y.append(
                    float(6 + ground + seasons[season] + own + (effect if name == "new" else 0) + change + draw.normal(0, 0.2))
                )
                treatment.append(name)
                block.append(str(number))
                strip.append(f"{number}/{name}")
                year.append(str(2024 + season))
    return y, treatment, block, strip, year


def run(rows: Rows, **more: object) -> Repeated:
    return repeated(*rows, control="usual", **more)  # type: ignore[arg-type]


def test_the_total_is_one_trial_of_sums() -> None:
    rows = years(1)
    cell_difference = run(rows).total.differences[0]
    sums: dict[str, float] = {}
    for value, name in zip(rows[0], rows[3], strict=True):
        sums[name] = sums.get(name, 0.0) + value
    plain = compare(
        [StripResponse(treatment=name.split("/")[1], block=name.split("/")[0], response=value) for name, value in sums.items()],
        control="usual",
    ).to_control[0]
    assert cell_difference.estimate == pytest.approx(plain.estimate)
    assert (cell_difference.se, cell_difference.df) == (pytest.approx(plain.se), pytest.approx(plain.df))


@pytest.mark.slow
def test_years_of_one_strip_do_not_pass_for_replicates() -> None:
    """Strips differ for good: three years as replicates would call falsely in most trials, totals keep their level."""
    naive = false = 0
    for seed in range(150):
        rows = years(seed, effect=0.0)
        cell_difference = run(rows).total.differences[0]
        false += cell_difference.lower > 0 or cell_difference.upper < 0
        wrong = compare(
            [
                StripResponse(treatment=level, block=f"{place}/{when}", response=value)
                for value, level, place, when in zip(rows[0], rows[1], rows[2], rows[4], strict=True)
            ],
            control="usual",
        ).to_control[0]
        naive += (wrong.lower or 0) > 0 or (wrong.upper or 0) < 0
    assert false / 150 <= 0.10 + 2.33 * (0.09 / 150) ** 0.5
    assert naive / 150 > 0.25


def test_differences_that_turn_are_found_and_those_that_hold_are_not() -> None:
    turned, held = run(years(3, turn=0.6)).changed, run(years(3)).changed
    assert turned is not None
    assert held is not None
    assert turned.p < 0.01 < held.p


def test_the_test_of_change_is_that_of_differences_from_year_to_year() -> None:
    """Two years, pairs in blocks: the interaction is a paired t test on how each block's difference changed."""
    y, treatment, block, strip, year = years(4, count=2)
    mixed_test = run((y, treatment, block, strip, year)).changed
    by = {(place, level, when): value for value, level, place, when in zip(y, treatment, block, year, strict=True)}
    moved = np.array(
        [
            (by[place, "new", "2025"] - by[place, "usual", "2025"]) - (by[place, "new", "2024"] - by[place, "usual", "2024"])
            for place in dict.fromkeys(block)
        ]
    )
    t = moved.mean() / (moved.std(ddof=1) / len(moved) ** 0.5)
    assert mixed_test is not None
    assert mixed_test.f == pytest.approx(t**2, rel=1e-4)
    assert mixed_test.den_df == pytest.approx(len(moved) - 1, rel=1e-3)


def test_a_strip_without_a_year_has_no_total_and_is_named() -> None:
    y, treatment, block, strip, year = (own[:-1] for own in years(5))
    result = run((y, treatment, block, strip, year))
    assert result.without_total == ("4/new",)
    assert result.total.n == 9
    assert [site_year.n for site_year in result.alone] == [10, 10, 9]


def test_what_is_no_repetition_is_refused() -> None:
    rows = years(6, count=1)
    with pytest.raises(Refusal):
        run(rows)
    y, treatment, block, strip, year = years(6, count=2)
    with pytest.raises(Refusal):
        run(([*y, 1.0], [*treatment, "new"], [*block, "0"], [*strip, "0/new"], [*year, "2024"]))
