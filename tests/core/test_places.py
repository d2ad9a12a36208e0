"""Sampling places: inside the strip for ever, random, and walked without going back."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pytest
from cultrix_core.errors import Refusal
from cultrix_core.stand.places import (
    GRID_M,
    LEAST_DF,
    USUAL_CV,
    CountGround,
    draw_places,
    first_rows,
    paces,
    past_variation,
    walking_order,
)
from cultrix_core.stand.precision import MOST_COUNTS, counts_wanted, running_precision
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

GROUND = CountGround(length_m=320, width_m=6, sample_m=2, row_spacing_m=0.15, rows=4, wheel_rows=(12, 13, 28, 29))


@given(
    length=st.floats(30, 900),
    width=st.floats(1.5, 24),
    spacing=st.one_of(st.none(), st.floats(0.1, 0.9)),
    rows=st.integers(1, 4),
    sample=st.floats(0.2, 14),
    end=st.floats(0, 8),
    wheels=st.sets(st.integers(1, 60), max_size=6),
    planned=st.integers(1, 12),
    extra=st.integers(0, 8),
    seed=st.integers(0, 2**40),
)
def test_no_place_lies_outside_in_headland_edge_or_wheel_rows(
    length: float,
    width: float,
    spacing: float | None,
    rows: int,
    sample: float,
    end: float,
    wheels: set[int],
    planned: int,
    extra: int,
    seed: int,
) -> None:
    ground = CountGround(
        length_m=length,
        width_m=width,
        sample_m=sample,
        row_spacing_m=spacing,
        rows=rows,
        end_m=end,
        wheel_rows=tuple(sorted(wheels)),
    )
    try:
        places = draw_places(ground, planned=planned, extra=extra, seed=(seed, 1, 4))
    except Refusal as refusal:
        if refusal.code != "does_not_fit":
            raise
        return
    assert [place.number for place in places] == list(range(1, planned + extra + 1))
    for place in places:
        assert end - 1e-9 <= place.along_m
        assert place.along_m + sample <= length - end + 1e-3
        if spacing is None:
            assert 0 <= place.across_m <= width
        else:
            assert place.row is not None
            taken = set(range(place.row, place.row + rows))
            assert taken.isdisjoint(wheels)
            assert min(taken) > 1  # the edge row stays out on both sides
            assert (max(taken) + 1) * spacing <= width + 1e-6
            assert 0 < place.across_m < width


def test_the_same_seed_gives_the_same_places_and_another_strip_others() -> None:
    places = draw_places(GROUND, planned=6, extra=4, seed=(5150, 1, 3))
    assert places == draw_places(GROUND, planned=6, extra=4, seed=(5150, 1, 3))
    assert places != draw_places(GROUND, planned=6, extra=4, seed=(5150, 1, 4))
    assert places != draw_places(GROUND, planned=6, extra=4, seed=(5150, 2, 3))


def test_asking_for_more_extras_moves_none_of_those_there() -> None:
    few = draw_places(GROUND, planned=6, extra=2, seed=(9, 1, 1))
    many = draw_places(GROUND, planned=6, extra=9, seed=(9, 1, 1))
    assert many[: len(few)] == few


def test_each_section_of_the_strip_has_one_place() -> None:
    for seed in range(40):
        places = draw_places(GROUND, planned=5, extra=0, seed=(seed,))
        section = (320 - 2 * 5 - 2) / 5
        for number, place in enumerate(places):
            assert 5 + number * section - GRID_M <= place.along_m <= 5 + (number + 1) * section + GRID_M


def test_rows_and_distances_are_drawn_evenly() -> None:
    """Chi-square against equal chances over many draws; a place by habit would fail at once."""
    ground = CountGround(length_m=110, width_m=3, sample_m=5, row_spacing_m=0.5, edge_rows=1)
    rows = Counter()
    along: list[float] = []
    for seed in range(1500):
        (place,) = draw_places(ground, planned=1, extra=0, seed=(seed, 3))
        rows[place.row] += 1
        along.append(place.along_m)
    assert set(rows) == set(first_rows(ground)) == {2, 3, 4, 5}
    assert stats.chisquare(list(rows.values())).pvalue > 1e-3
    assert stats.kstest(along, stats.uniform(5, 95).cdf).pvalue > 1e-3


def test_the_mean_over_drawn_places_is_that_of_the_strip() -> None:
    """A stand that thins along the strip: drawn places are right on average, the first ten metres are not."""

    def stand(along: float) -> float:
        return 60 - 0.08 * along

    ground = CountGround(length_m=300, width_m=6, sample_m=1, row_spacing_m=0.25)
    means = [
        np.mean([stand(place.along_m + 0.5) for place in draw_places(ground, planned=5, extra=0, seed=(seed,))])
        for seed in range(400)
    ]
    true = stand(150)
    assert np.mean(means) == pytest.approx(true, abs=4 * np.std(means) / 20)
    assert stand(10) - true > 10


def test_places_in_sections_vary_less_than_the_interval_says() -> None:
    """Stratified places on a drifting stand: the claimed standard error is on the safe side (Cochran, from memory)."""
    ground = CountGround(length_m=300, width_m=6, sample_m=1, row_spacing_m=0.25)
    means, claimed = [], []
    for seed in range(300):
        values = [60 - 0.08 * place.along_m for place in draw_places(ground, planned=6, extra=0, seed=(seed,))]
        means.append(np.mean(values))
        claimed.append(np.std(values, ddof=1) / 6**0.5)
    assert np.std(means) < 0.5 * np.mean(claimed)


def test_a_strip_without_a_free_row_or_length_is_refused() -> None:
    with pytest.raises(Refusal) as rows:
        draw_places(CountGround(length_m=90, width_m=1.5, sample_m=1, row_spacing_m=0.75), planned=2, extra=0, seed=(1,))
    assert (rows.value.code, rows.value.field) == ("does_not_fit", "rows")
    with pytest.raises(Refusal) as length:
        draw_places(CountGround(length_m=12, width_m=6, sample_m=3, row_spacing_m=0.5), planned=2, extra=0, seed=(1,))
    assert (length.value.code, length.value.field) == ("does_not_fit", "sample")
    assert "shorter length" in length.value.message
    with pytest.raises(Refusal) as many:
        draw_places(GROUND, planned=61, extra=0, seed=(1,))
    assert many.value.field == "planned"


def test_walking_goes_up_one_strip_and_down_the_next() -> None:
    places = {strip: draw_places(GROUND, planned=4, extra=2, seed=(1, 1, strip)) for strip in (1, 2, 3)}
    walk = walking_order(places, dict.fromkeys(places, 320.0))
    assert len(walk.order) == 12  # extras are not walked to beforehand
    by_number = {(strip, place.number): place.along_m for strip, of in places.items() for place in of}
    along = [by_number[step] for step in walk.order]
    assert along[:4] == sorted(along[:4])
    assert along[4:8] == sorted(along[4:8], reverse=True)
    assert along[8:] == sorted(along[8:])
    assert walk.walked_m == 960
    assert walk.from_stake_m > 1.5 * walk.walked_m


def test_paces() -> None:
    assert paces(75) == 100
    assert paces(31, pace_m=0.8) == 39
    with pytest.raises(Refusal):
        paces(10, pace_m=0)


def test_past_variation_pools_strips_by_their_degrees_of_freedom() -> None:
    strips = [[20.0, 22.0, 18.0, 24.0, 19.0], [40.0, 46.0, 44.0, 38.0, 42.0, 45.0]]
    cvs = [stats.variation(counts, ddof=1) for counts in strips]
    variation = past_variation(strips)
    assert variation.own
    assert variation.df == 9
    assert variation.cv == pytest.approx(((4 * cvs[0] ** 2 + 5 * cvs[1] ** 2) / 9) ** 0.5)
    few = past_variation([[20.0, 22.0], [7.0]])
    assert (few.own, few.cv) == (False, USUAL_CV)
    assert few.df == 1 < LEAST_DF


@pytest.mark.parametrize(("cv", "share"), [(0.15, 0.05), (0.10, 0.05), (0.22, 0.10), (0.05, 0.05)])
def test_counts_wanted_is_the_least_n_whose_interval_is_narrow_enough(cv: float, share: float) -> None:
    """Against SciPy's t: n is enough and n − 1 is not."""
    n = counts_wanted(cv, wanted_share=share)

    def half(number: int) -> float:
        return float(stats.t.ppf(0.95, number - 1)) * cv / number**0.5

    assert half(n) <= share
    assert n == 2 or half(n - 1) > share


def test_running_precision_is_scipys_interval() -> None:
    counts = [31.0, 28.0, 35.0, 30.0, 33.0, 27.0]
    now = running_precision(counts)
    low, high = stats.t.interval(0.90, len(counts) - 1, loc=np.mean(counts), scale=stats.sem(counts))
    assert now.half_width is not None
    assert (now.mean - now.half_width, now.mean + now.half_width) == pytest.approx((low, high))
    assert counts_wanted(9.0) == MOST_COUNTS + 1
