"""Keep, thicken, replant, rotate: the trade's lines, the curve, and its interval."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, timedelta

import numpy as np
import pytest
from cultrix_core.crops.profile import StandCurve
from cultrix_core.errors import Refusal
from cultrix_core.stand.decision import Case, decide, decision_working, stand_curve, yield_share
from cultrix_core.stand.forage import BRIDGES, judge_forage, sow_by_date, window_words
from cultrix_core.stand.thresholds import thresholds_of
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.units import ACRE_M2, FT_M, from_canonical
from hypothesis import given
from hypothesis import strategies as st

METRIC = UnitFormatter(system="metric")
US = UnitFormatter(system="us")
FT2 = FT_M**2


def rape() -> StandCurve:
    curve = stand_curve("oilseed_rape")
    assert curve is not None
    return curve


def per_ft2(crop: str, key: str) -> float:
    return thresholds_of(crop)[key].per_m2 * FT2


def test_lines_of_brassica_oilseeds() -> None:
    """5–7 plants/ft² wanted, 3 lose about 20 %, 11 is too dense: common practice, no source."""
    assert [per_ft2("oilseed_rape", key) for key in ("wanted_low", "wanted_high", "thin", "dense")] == pytest.approx(
        [5, 7, 3, 11]
    )
    assert 1 - yield_share(3 / 6, rape()) == pytest.approx(0.20)


def test_lines_of_soybean_and_dry_bean() -> None:
    """About 90 000 plants/ac in middle spring; beans 70 000, 90 000, narrow rows above 115 000: common practice, no source."""
    soy = thresholds_of("soybean")["thin"].per_m2
    assert from_canonical(soy, "areal_density", "/ac") == pytest.approx(90_000)
    bean = thresholds_of("dry_bean")
    assert [threshold.per_m2 * ACRE_M2 for threshold in bean.values()] == pytest.approx([70_000, 90_000, 115_000])


def test_lines_of_a_forage_legume() -> None:
    """Seedlings about 40/ft², 30–35 at the end of the seeding year; under 7.5 young and 2.5 old: common practice, no source.

    Five plants in a 17-inch square and fifteen of a one-year stand are the same lines. Shoots 55 and 40: from memory.
    """
    assert [per_ft2("lucerne", key) for key in ("seedlings", "year_end_low", "year_end_high")] == pytest.approx([40, 30, 35])
    square_ft2 = (17 / 12) ** 2
    assert per_ft2("lucerne", "old_thin") * square_ft2 == pytest.approx(5, abs=0.05)
    assert per_ft2("lucerne", "young_thin") * square_ft2 == pytest.approx(15, abs=0.1)
    assert [per_ft2("lucerne", key) for key in ("shoots_full", "shoots_thin")] == pytest.approx([55, 40])
    assert "memory" in thresholds_of("lucerne")["shoots_full"].source


def test_a_workspace_replaces_a_line_and_names_its_source() -> None:
    lines = thresholds_of("lucerne", {"old_thin": 30.0}, {"old_thin": "county trial 2024"})
    assert (lines["old_thin"].per_m2, lines["old_thin"].own, lines["old_thin"].source) == (30.0, True, "county trial 2024")
    assert not lines["young_thin"].own
    for own, code in (({"nonsense": 3.0}, "unknown_choice"), ({"old_thin": 0.0}, "not_positive")):
        with pytest.raises(Refusal) as refusal:
            thresholds_of("lucerne", own)
        assert refusal.value.code == code


@given(share=st.floats(0, 3), more=st.floats(0, 1), anchor=st.floats(0.2, 0.8), lift=st.floats(0.05, 0.9))
def test_the_curve_rises_passes_its_anchor_and_never_tops_a_full_stand(
    share: float, more: float, anchor: float, lift: float
) -> None:
    curve = replace(rape(), stand_frac=anchor, yield_frac=anchor + lift * (1 - anchor) * 0.99)
    assert yield_share(anchor, curve) == pytest.approx(curve.yield_frac)
    assert yield_share(0, curve) == 0
    assert yield_share(1, curve) == 1
    assert yield_share(share, curve) <= yield_share(share + more, curve) + 1e-12 <= 1 + 1e-9
    assert yield_share(share, curve) >= min(share, 1) - 1e-12  # neighbours make up for something


CASE = Case(
    stand_per_m2=3 / FT2,
    stand_half_per_m2=0.2 / FT2,
    wanted_per_m2=6 / FT2,
    full_yield_kg_per_ha=3500,
    worth_per_t=400,
    days_late=20,
    seed_per_ha=60,
    passes_per_ha=50,
)


def test_keep_against_replant_by_hand() -> None:
    """Half a stand makes 80 %; twenty days late at 1 % a day makes 80 % too: keeping saves seed and passes, 110."""
    decision = decide(CASE, rape())
    assert decision.keep_yield_kg_per_ha == pytest.approx(2800)
    assert decision.replant_yield_kg_per_ha == pytest.approx(2800)
    assert decision.keep_less_replant == pytest.approx(110)
    assert decision.lower < 110 < decision.upper


def test_money_is_equal_at_the_stand_that_is_named() -> None:
    for days in (5.0, 12.0, 20.0):
        case = replace(CASE, days_late=days)
        equal = decide(case, rape()).equal_stand_per_m2
        assert equal is not None
        assert decide(replace(case, stand_per_m2=equal), rape()).keep_less_replant == pytest.approx(0, abs=1e-9)
    hopeless = replace(CASE, days_late=80, seed_per_ha=900)
    assert decide(hopeless, rape()).equal_stand_per_m2 is None
    assert decide(hopeless, rape()).answer == "keep"


def test_a_bare_field_is_replanted_and_a_full_one_kept() -> None:
    assert decide(replace(CASE, stand_per_m2=0.3 / FT2, days_late=8), rape()).answer == "replant"
    full = decide(replace(CASE, stand_per_m2=8 / FT2), rape())
    assert (full.answer, full.keep_frac) == ("keep", 1.0)


def test_the_interval_agrees_with_simulation_of_its_parts() -> None:
    """Each part normal with its ± as a 90 % half-width: quadrature and simulation within a sixth of each other."""
    case = replace(CASE, stand_half_per_m2=0.3 / FT2)
    curve = replace(rape(), yield_half=0.04, penalty_half=0.3)
    decision = decide(case, curve)
    draw = np.random.default_rng(5)
    z = 1.6449
    money = []
    for _ in range(4000):
        bent = replace(
            curve,
            yield_frac=float(np.clip(curve.yield_frac + curve.yield_half / z * draw.normal(), 0.52, 0.98)),
            penalty_pct_a_day=max(curve.penalty_pct_a_day + curve.penalty_half / z * draw.normal(), 0.0),
        )
        stand = max(case.stand_per_m2 + case.stand_half_per_m2 / z * draw.normal(), 0.0)
        money.append(decide(replace(case, stand_per_m2=stand), bent).keep_less_replant)
    low, high = np.quantile(money, [0.05, 0.95])
    assert (decision.upper - decision.lower) / (high - low) == pytest.approx(1, abs=1 / 6)
    assert decision.keep_less_replant == pytest.approx(np.median(money), abs=0.1 * (high - low))


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"stand_per_m2": -1.0}, "stand"),
        ({"wanted_per_m2": 0.0}, "wanted"),
        ({"full_yield_kg_per_ha": 0.0}, "full_yield"),
        ({"worth_per_t": -3.0}, "worth"),
        ({"days_late": 120.0}, "days_late"),
        ({"seed_per_ha": -1.0}, "seed"),
    ],
)
def test_refusals(change: dict[str, float], field: str) -> None:
    with pytest.raises(Refusal) as refusal:
        decide(replace(CASE, **change), rape())
    assert refusal.value.field == field


def test_an_anchor_that_no_crop_can_have_is_refused() -> None:
    for anchor in (0.5, 0.3, 1.0):
        with pytest.raises(Refusal) as refusal:
            decide(CASE, replace(rape(), yield_frac=anchor))
        assert refusal.value.field == "half_stand_yield"
    with pytest.raises(Refusal) as late:
        decide(replace(CASE, days_late=60), replace(rape(), penalty_pct_a_day=2))
    assert late.value.field == "penalty"


def test_the_working_adds_up_and_names_what_moves_it() -> None:
    working = decision_working(CASE, rape(), decide(CASE, rape()), METRIC)
    assert "110.00" in working.outcome
    assert "stand–yield curve" in working.assumption or "date penalty" in working.assumption
    assert any("quadrature" in step.source for step in working.steps)
    assert all(step.source for step in working.steps)


def forage(plants_ft2: float, shoots_ft2: float | None, age: float, **more: bool):
    return judge_forage(
        plants_per_m2=plants_ft2 / FT2,
        shoots_per_m2=None if shoots_ft2 is None else shoots_ft2 / FT2,
        age_years=age,
        lines=thresholds_of("lucerne"),
        show=US,
        **more,
    )


def test_young_and_thin_is_thickened_old_and_thin_is_rotated() -> None:
    """Under 7.5/ft² at one year: interseed; under 2.5/ft² when old: rotate. Common practice, no source."""
    assert forage(7.4, None, 1).action == "thicken"
    assert forage(7.6, None, 1).action == "keep"
    assert forage(2.4, None, 5).action == "rotate"
    assert forage(2.6, None, 5).action == "keep"
    assert forage(2.4, None, 5).agree is None


def test_where_the_two_schools_differ_both_are_said() -> None:
    strong = forage(2.2, 58, 5)
    assert strong.agree is False
    assert strong.action == "keep"
    assert "plan its end" in strong.words
    weak = forage(4.0, 30, 5)
    assert weak.agree is False
    assert weak.action == "look"
    assert [school.name for school in weak.schools] == ["By plants", "By shoots"]
    between = forage(4.0, 47, 5)
    assert between.agree is True
    assert "some loss" in between.schools[1].words
    hungry = forage(2.0, 20, 5, short_of_feed=True)
    assert "next cut first" in hungry.words


def test_forage_refuses_what_cannot_be() -> None:
    with pytest.raises(Refusal) as crop:
        judge_forage(plants_per_m2=20, shoots_per_m2=None, age_years=1, lines={}, show=US)
    assert crop.value.code == "missing"
    with pytest.raises(Refusal) as age:
        forage(5, None, 80)
    assert age.value.field == "age"


def test_what_may_be_sown_depends_on_the_date_and_the_hemisphere() -> None:
    """Windows are common practice, no source; half a year apart between hemispheres by definition."""
    names = [bridge.name for bridge in sow_by_date(date(2026, 6, 10))]
    assert len(names) == 1
    assert names[0].startswith("Sorghum")
    assert "prussic acid" in sow_by_date(date(2026, 6, 10))[0].caution
    assert not sow_by_date(date(2026, 12, 20))
    assert sow_by_date(date(2026, 12, 10), southern=True) == sow_by_date(date(2026, 6, 10))
    every = [sow_by_date(date(2026, 1, 1) + timedelta(days=day)) for day in range(365)]
    assert max(len(bridges) for bridges in every) <= 3


def test_windows_in_words_move_by_half_a_year() -> None:
    assert window_words(BRIDGES[0]) == "1 Mar to 30 Apr"
    assert window_words(BRIDGES[0], southern=True) == "1 Sep to 30 Oct"
    assert window_words(BRIDGES[-1], southern=True) == "1 Mar to 20 Apr"
