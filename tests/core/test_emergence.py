"""Emergence curves, survival, dug plants and stages, by hand and against outside libraries."""

from __future__ import annotations

import numpy as np
import pytest
from cultrix_core.errors import Refusal
from cultrix_core.stand.crowns import Dug, crowns_of, crowns_working, shoots_per_m2
from cultrix_core.stand.emergence import CountedStand, emergence_of, emergence_working, survival_of
from cultrix_core.stand.growth_stage import stage_rule, stand_stage
from cultrix_core.unit_formatting import UnitFormatter
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats
from statsmodels.stats.proportion import proportion_confint

METRIC = UnitFormatter(system="metric")


def visits(*pairs: tuple[int, float]) -> list[CountedStand]:
    return [CountedStand(day=day, plants_per_m2=stand) for day, stand in pairs]


def test_half_time_by_straight_lines_worked_by_hand() -> None:
    """Half of 80 is 40, passed between day 8 (20) and day 12 (60): 8 + 4 × 20/40 = 10 (Coolbear et al. 1984, from memory).

    A quarter (20) on day 8, three quarters (60) on day 12: 4 days. Mean emergence time: (20·8 + 40·12 + 20·20) ÷ 80 = 13.
    """
    emergence = emergence_of(visits((8, 20), (12, 60), (20, 80)), seeds_per_m2=100)
    assert emergence.half_days == pytest.approx(10)
    assert emergence.even_days == pytest.approx(4)
    assert emergence.mean_days == pytest.approx(13)
    assert emergence.final_of_seed_frac == pytest.approx(0.8)
    assert not emergence.half_before


def test_later_thinning_is_not_emergence() -> None:
    emergence = emergence_of(visits((8, 20), (12, 60), (20, 80), (160, 52)))
    assert emergence.final_per_m2 == 80
    assert [counted_stand.day for counted_stand in emergence.curve] == [8, 12, 20]
    assert len(emergence.visits) == 4
    working = emergence_working(emergence, METRIC, name="220 seeds", seeds_per_m2=None)
    assert working.table[-1][-1] == "after the top"


def test_a_chance_dip_is_levelled_by_least_squares() -> None:
    """Pool adjacent violators: 60 and 50 become 55 each (Ayer et al. 1955, from memory)."""
    emergence = emergence_of(visits((8, 20), (12, 60), (14, 50), (20, 80)))
    assert [counted_stand.plants_per_m2 for counted_stand in emergence.curve] == [20, 55, 55, 80]


def test_half_up_at_the_first_visit_has_no_half_time() -> None:
    result = emergence_of(visits((12, 60), (20, 80)))
    assert result.half_before
    assert result.half_days is None
    assert result.even_days is None
    emergence = emergence_of(visits((12, 60)))
    assert emergence.half_days is None
    assert emergence.mean_days is None
    assert not emergence.half_before


@given(
    days=st.lists(st.integers(1, 60), min_size=3, max_size=7, unique=True),
    stands=st.lists(st.floats(1, 400), min_size=7, max_size=7),
    factor=st.floats(0.01, 50),
)
def test_times_do_not_depend_on_the_unit_of_the_stand(days: list[int], stands: list[float], factor: float) -> None:
    pairs = list(zip(sorted(days), stands, strict=False))
    emergence = emergence_of(visits(*pairs))
    two = emergence_of(visits(*[(day, factor * stand) for day, stand in pairs]))
    curve = [fit.plants_per_m2 for fit in emergence.curve]
    assert curve == sorted(curve)
    assert emergence.half_before == two.half_before
    if emergence.half_days is not None:
        assert two.half_days == pytest.approx(emergence.half_days)
        assert 0 <= emergence.half_days <= emergence.curve[-1].day


def test_survival_has_students_interval_over_strips() -> None:
    pairs = [(80.0, 72.0), (76.0, 70.0), (90.0, 78.0), (84.0, 79.0)]
    shares = [later / before for before, later in pairs]
    survival = survival_of(pairs)
    low, high = stats.t.interval(0.90, 3, loc=np.mean(shares), scale=stats.sem(shares))
    assert (survival.frac, survival.lower, survival.upper) == pytest.approx((np.mean(shares), low, high))
    assert survival_of(pairs[:1]).lower is None


def test_refusals_of_emergence() -> None:
    for call, code in (
        (lambda: emergence_of([]), "missing"),
        (lambda: emergence_of(visits((-1, 10))), "too_small"),
        (lambda: emergence_of(visits((5, 10), (5, 12))), "duplicate"),
        (lambda: emergence_of(visits((5, float("nan")))), "not_finite"),
        (lambda: survival_of([]), "missing"),
        (lambda: survival_of([(0.0, 3.0)]), "not_positive"),
    ):
        with pytest.raises(Refusal) as refusal:
            call()
        assert refusal.value.code == code


def dug(firm: int, doubtful: int, dead: int, shoots: list[int] | None = None) -> list[Dug]:
    plants = [*["firm"] * firm, *["doubtful"] * doubtful, *["dead"] * dead]
    counts = [*(shoots or []), *[None] * len(plants)]
    return [Dug(health=health, shoots=count) for health, count in zip(plants, counts, strict=False)]  # type: ignore[arg-type]


@pytest.mark.parametrize(("firm", "doubtful", "dead"), [(11, 3, 2), (5, 0, 0), (0, 0, 6), (30, 5, 25)])
def test_share_alive_is_wilsons_interval_of_statsmodels(firm: int, doubtful: int, dead: int) -> None:
    crowns = crowns_of(dug(firm, doubtful, dead))
    low, high = proportion_confint(firm + doubtful, firm + doubtful + dead, alpha=0.10, method="wilson")
    assert (crowns.alive_lower, crowns.alive_upper) == pytest.approx((low, high), abs=1e-12)


def test_shoots_per_area_count_living_plants_only() -> None:
    crowns = crowns_of(dug(3, 1, 1, shoots=[6, 8, 10, 4, 99]))
    assert crowns.shoots_mean == 7  # the dead one's shoots are not counted
    assert shoots_per_m2(crowns, 50.0) == pytest.approx(50 * 0.8 * 7)
    assert shoots_per_m2(crowns_of(dug(3, 0, 1)), 50.0) is None
    assert "280" in crowns_working(crowns, METRIC, plants_per_m2=50.0).steps[-1].outcome


def test_refusals_of_dug_plants() -> None:
    for plants, code in (([], "missing"), ([Dug(health="firm", shoots=200)], "too_large")):
        with pytest.raises(Refusal) as refusal:
            crowns_of(plants)
        assert refusal.value.code == code


def test_collars_count_in_maize_and_seed_leaves_do_not_in_legumes() -> None:
    """Leaf collars in maize; in legumes only fully opened compound leaves: common practice, no source."""
    maize, pea = stage_rule("maize"), stage_rule("field_pea")
    assert maize is not None
    assert pea is not None
    assert "collar" in maize.what
    assert "compound" in pea.what
    assert "seed leaves" in pea.counts_not
    assert any("single leaf" in words for words in pea.counts_not)
    assert any("whorl" in words for words in maize.counts_not)


def test_a_stand_is_at_the_stage_half_its_plants_have_reached() -> None:
    """At least half: common practice, no source."""
    rule = stage_rule("maize")
    assert rule is not None
    assert stand_stage([5, 5, 6, 4], rule).stage == "V5"
    assert stand_stage([5, 5, 4, 4], rule).stage == "V5"
    assert stand_stage([6, 5, 4, 4, 4], rule).stage == "V4"
    assert stand_stage([0, 0, 0], rule).stage == "up, no leaf counts yet"
    for leaves, code in (([], "missing"), ([4.5], "not_a_count"), ([31], "too_large"), ([-1], "too_small")):
        with pytest.raises(Refusal) as refusal:
            stand_stage(leaves, rule)
        assert refusal.value.code == code
    assert stage_rule("other") is None


def test_survival_interval_by_the_table_of_t() -> None:
    """By hand: shares 0.80 and 0.90, mean 0.85, standard error 0.05; t of 1 and 2 degrees of freedom 6.314, 2.920 (table)."""
    two = survival_of([(100, 80), (50, 45)])
    assert (two.lower, two.upper) == (
        pytest.approx(0.85 - 6.314 * 0.05, abs=1e-4),
        pytest.approx(0.85 + 6.314 * 0.05, abs=1e-4),
    )
    three = survival_of([(100, 80), (50, 45), (200, 170)])
    assert three.upper == pytest.approx(0.85 + 2.920 * 0.05 / 3**0.5, abs=1e-4)
