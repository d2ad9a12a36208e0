"""Seed lots: what is in the bag, the chain to the stand, prices, mixtures, and what a tag is asked."""

from __future__ import annotations

from datetime import date

import pytest
from cultrix_core.errors import Refusal
from cultrix_core.seeding.lot_workings import (
    HANDY_SEEDS_PER_LB,
    RECENT_TEST_DAYS,
    lot_working,
    questions_on_lot,
    rate_for_stand_working,
    seed_cost_per_ha,
    stand_working,
)
from cultrix_core.seeding.lots import (
    USUAL_COATING_PCT,
    Chain,
    SeedLot,
    as_spoken,
    bag_for_pls,
    bag_kg_per_ha,
    lot_values,
    plants_from,
    seeds_for,
)
from cultrix_core.seeding.mixtures import Part, mixture, mixture_working
from cultrix_core.seeding.rates import rate_in, seeds_per_m2
from cultrix_core.seeding.sowing_profiles import sowing_profile
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.units import ACRE_M2, FT_M, LB_KG, from_canonical, to_canonical
from hypothesis import given
from hypothesis import strategies as st

METRIC = UnitFormatter(system="metric", currency="€")
US = UnitFormatter(system="us", currency="$")
WHEAT = SeedLot(thousand_seed_weight_g=44, germination_pct=92, purity_pct=98)


def test_pounds_of_bag_for_pure_live_seed() -> None:
    """Definition: 12 lb at 66 % pure and 90 % germination takes 20.20 lb of bag."""
    values = lot_values(SeedLot(thousand_seed_weight_g=2.1, germination_pct=90, purity_pct=66, purity_of="bag"))
    assert round(bag_for_pls(12, values), 2) == 20.20


def test_acres_of_a_clay_coated_bag() -> None:
    """50-lb bag, 32 % clay coat, 12 lb/ac of pure seed: 2.83 ac, “about three acres a bag” (common practice, arithmetic)."""
    assert USUAL_COATING_PCT["clay"] == 32
    assert 8 <= USUAL_COATING_PCT["polymer"] <= 10  # common practice, no source
    values = lot_values(SeedLot(thousand_seed_weight_g=2.1, coating_pct=USUAL_COATING_PCT["clay"]))
    assert round(50 * values.pure_frac / 12, 2) == 2.83


@pytest.mark.parametrize(("per_lb", "per_ft2"), [(200_000, 4.6), (220_000, 5.1), (HANDY_SEEDS_PER_LB, 6.0)])
def test_seeds_on_a_square_foot_for_each_pound(per_lb: float, per_ft2: float) -> None:
    """Rule of thumb 6 is 261 360 seeds/lb (common practice, no source); lucerne at 200 000–220 000 gives 4.6–5.1."""
    assert pytest.approx(261_360, abs=1e-6) == HANDY_SEEDS_PER_LB
    weight = to_canonical(per_lb, "seed_mass", "seeds/lb")
    seeds = seeds_per_m2(1, "lb/ac", thousand_seed_weight_g=weight) * FT_M**2
    assert round(seeds, 1) == per_ft2
    working = lot_working(SeedLot(thousand_seed_weight_g=weight), US)
    shown = next(step for step in working.steps if step.label.startswith("Seeds on a square foot"))
    assert shown.outcome == f"{per_ft2:.1f} (handy rule 6)", "both stand side by side"


def test_twelve_pounds_by_the_handy_rule() -> None:
    """12 lb → 72 seeds/ft² (common practice, no source)."""
    weight = to_canonical(HANDY_SEEDS_PER_LB, "seed_mass", "seeds/lb")
    assert seeds_per_m2(12, "lb/ac", thousand_seed_weight_g=weight) * FT_M**2 == pytest.approx(72)


def test_price_of_a_thousand() -> None:
    """Definition: 150 000 seeds for 60 → 0.40 a thousand, 10 for 25 000 seeds/ac."""
    values = lot_values(SeedLot(thousand_seed_weight_g=300, bag_price=60, bag_seeds=150_000))
    assert values.price_per_thousand == pytest.approx(0.40)
    per_ha = seed_cost_per_ha(25_000 / ACRE_M2, values.price_per_thousand or 0)
    assert from_canonical(per_ha, "money_per_area", "money/ac") == pytest.approx(10)


def test_coated_weight_and_bag_purity_say_the_same_as_bare_and_seed_purity() -> None:
    """One bag spoken of both ways holds the same seed (by definition): 32 % coat, 98 % pure of the seed inside."""
    bare = lot_values(SeedLot(thousand_seed_weight_g=2.04, purity_pct=98, coating_pct=32))
    coated = lot_values(
        SeedLot(thousand_seed_weight_g=3.0, weight_of="coated", purity_pct=66.64, purity_of="bag", coating_pct=32)
    )
    assert coated.bare_weight_g == pytest.approx(bare.bare_weight_g)
    assert coated.pure_frac == pytest.approx(bare.pure_frac)
    assert coated.seeds_per_kg == pytest.approx(bare.seeds_per_kg)


@given(
    st.floats(0.5, 400),
    st.floats(1, 100),
    st.floats(20, 100),
    st.floats(0, 60),
    st.floats(5, 2000),
)
def test_the_bag_holds_what_it_weighs(weight: float, germination: float, purity: float, coating: float, kg: float) -> None:
    """Mass balance: seeds in the bag × bare weight = pure share × weight of the bag; live ones are the germinating share."""
    values = lot_values(
        SeedLot(thousand_seed_weight_g=weight, germination_pct=germination, purity_pct=purity, coating_pct=coating, bag_kg=kg)
    )
    assert values.seeds_in_bag is not None
    assert values.seeds_in_bag * values.bare_weight_g / 1e6 == pytest.approx(kg * values.pure_frac, rel=1e-9)
    assert values.pls_frac == pytest.approx(values.pure_frac * germination / 100, rel=1e-12)


chains = st.builds(
    Chain,
    emergence_pct=st.floats(5, 100),
    emergence_of=st.sampled_from(["live", "sown"]),
    survival_pct=st.floats(20, 100),
)


@given(st.floats(0.5, 900), chains)
def test_rate_to_stand_and_back(plants: float, chain: Chain) -> None:
    values = lot_values(WHEAT)
    assert plants_from(seeds_for(plants, values, chain), values, chain) == pytest.approx(plants, rel=1e-12)


@given(st.floats(0.5, 900), chains, st.sampled_from(["plants/ft2", "plants/ac", "kplants/ha", "lb/ac", "kg/ha", "bags/ac"]))
def test_rates_there_and_back_in_every_unit(rate: float, chain: Chain, unit: str) -> None:
    """Metric and US, by count, weight, plants and bags: nothing is lost on the way."""
    spoken = as_spoken(lot_values(SeedLot(thousand_seed_weight_g=44, germination_pct=92, purity_pct=98, bag_kg=25)), chain)
    value = rate_in(rate, unit, spoken)
    assert value is not None
    assert seeds_per_m2(value, unit, lot=spoken) == pytest.approx(rate, rel=1e-12)


def test_germination_divides_only_when_emergence_is_of_live_seed() -> None:
    """240 plants, 80 % emergence, 95 % survive, 92 % germination (by hand): ÷ 0.92 only in the first case."""
    values = lot_values(WHEAT)
    live = seeds_for(240, values, Chain(emergence_pct=80, emergence_of="live", survival_pct=95))
    sown = seeds_for(240, values, Chain(emergence_pct=80, emergence_of="sown", survival_pct=95))
    assert live == pytest.approx(240 / 0.95 / 0.80 / 0.92)
    assert sown == pytest.approx(240 / 0.95 / 0.80)
    with pytest.raises(Refusal) as refusal:
        seeds_for(240, lot_values(SeedLot(thousand_seed_weight_g=44)), Chain(emergence_pct=80, emergence_of="live"))
    assert refusal.value.code == "needs_germination"


def test_impurities_and_coats_go_through_the_drill_too() -> None:
    """320 seeds/m² of 44 g are 140.8 kg/ha of seed; ÷ 0.98 pure = 143.67 through the drill (by hand)."""
    assert round(bag_kg_per_ha(320, lot_values(WHEAT)), 2) == 143.67


@pytest.mark.parametrize("show", [METRIC, US], ids=["metric", "us"])
def test_every_divisor_is_shown(show: UnitFormatter) -> None:
    values = lot_values(WHEAT)
    working = rate_for_stand_working(240, values, Chain(emergence_pct=80, emergence_of="live", survival_pct=95), show)
    shown = " ".join(step.numbers for step in working.steps)
    for divisor in ("÷ 95.0 %", "÷ 80.0 %", "÷ 92.0 %", "÷ 98.0 %"):
        assert divisor in shown
    other = rate_for_stand_working(240, values, Chain(emergence_pct=80, emergence_of="sown"), show)
    assert "÷ 92.0 %" not in " ".join(step.numbers for step in other.steps)
    assert any("not divided by germination" in step.formula for step in other.steps)
    back = stand_working(320, values, Chain(emergence_pct=80, emergence_of="live", survival_pct=95), show)
    assert back.outcome == show.text(320 * 0.92 * 0.80 * 0.95, "density")


@pytest.mark.parametrize(
    ("tag", "code", "field"),
    [
        ({"germination_pct": 130.0}, "too_large", "germination"),
        ({"germination_pct": 0.0}, "too_small", "germination"),
        ({"purity_pct": 101.0}, "too_large", "purity"),
        ({"coating_pct": 95.0}, "too_large", "coating"),
        ({"thousand_seed_weight_g": 0.0}, "not_positive", "thousand_seed_weight"),
        ({"thousand_seed_weight_g": float("inf")}, "not_finite", "thousand_seed_weight"),
        ({"germination_pct": 92.0, "hard_seed_pct": 12.0}, "more_than_whole", "hard_seed"),
        ({"purity_pct": 98.0, "purity_of": "bag", "coating_pct": 32.0}, "more_than_whole", "purity"),
        ({"bag_seeds": -1.0}, "not_positive", "bag_seeds"),
        ({"bag_price": -5.0}, "too_small", "bag_price"),
    ],
)
def test_tags_that_cannot_be(tag: dict[str, object], code: str, field: str) -> None:
    with pytest.raises(Refusal) as refusal:
        lot_values(SeedLot(**({"thousand_seed_weight_g": 44.0} | tag)))  # type: ignore[arg-type]
    assert (refusal.value.code, refusal.value.field) == (code, field)


SOWN = date(2026, 10, 2)


def asked(
    lot: SeedLot, crop: str = "winter_wheat", tested: date | None = date(2026, 8, 1), treated: bool = False
) -> dict[str, str]:
    lot_questions = questions_on_lot(lot, crop=crop, tested_on=tested, sown_on=SOWN, treated=treated, treatment="", show=METRIC)
    return {lot_question.code: lot_question.text for lot_question in lot_questions}


def test_a_good_tag_is_asked_nothing() -> None:
    assert asked(WHEAT) == {}


def test_an_old_or_missing_test_is_asked_for() -> None:
    assert "no_test" in asked(SeedLot(thousand_seed_weight_g=44))
    assert "no_test_date" in asked(WHEAT, tested=None)
    assert "old_test" in asked(WHEAT, tested=date.fromordinal(SOWN.toordinal() - RECENT_TEST_DAYS - 1))
    assert "old_test" not in asked(WHEAT, tested=date.fromordinal(SOWN.toordinal() - RECENT_TEST_DAYS))


def test_treated_seed_carries_its_caution() -> None:
    assert "gloves" in asked(WHEAT, treated=True)["treated"]


@pytest.mark.parametrize(
    ("grams", "word"),
    [
        (to_canonical(44, "seed_mass", "seeds/lb"), "mixed up"),  # 44 typed as seeds per pound
        (10_300.0, "mixed up"),  # 10 300 seeds/lb typed as grams
        (4.4, "Ten times off"),
        (1.0, "Right unit"),
    ],
)
def test_a_seed_weight_in_the_wrong_unit_is_questioned(grams: float, word: str) -> None:
    assert word in asked(SeedLot(thousand_seed_weight_g=grams, germination_pct=92))["odd_weight"]


def test_lucerne_seed_weights_of_the_trade_are_believed() -> None:
    """200 000 to 220 000 seeds a pound (common practice, no source)."""
    profile = sowing_profile("lucerne")
    assert profile is not None
    for per_lb in (200_000, 220_000):
        assert "odd_weight" not in asked(
            SeedLot(thousand_seed_weight_g=LB_KG * 1e6 / per_lb, germination_pct=85, hard_seed_pct=8), crop="lucerne"
        )
    assert "hard_seed" in asked(SeedLot(thousand_seed_weight_g=44, germination_pct=80, hard_seed_pct=8))


PEA_AND_OAT = (Part(name="pea", share_pct=70, weight_g=220), Part(name="oat", share_pct=30, weight_g=38))


def test_a_mixture_by_weight() -> None:
    """120 kg/ha, 70 : 30 by weight (by hand): 84 and 36 kg/ha; 84 ÷ 220 × 100 = 38.2 and 94.7 seeds/m²."""
    pea, oat = mixture(PEA_AND_OAT, total=120, total_by="weight", shares_by="weight")
    assert (round(pea.kg_per_ha, 6), round(oat.kg_per_ha, 6)) == (84, 36)
    assert (round(pea.seeds_per_m2, 1), round(oat.seeds_per_m2, 1)) == (38.2, 94.7)
    assert "38.2" in mixture_working((pea, oat), METRIC).steps[0].outcome


@given(
    st.lists(st.tuples(st.floats(1, 50), st.floats(0.5, 400)), min_size=1, max_size=5),
    st.floats(1, 600),
    st.sampled_from(["weight", "seeds"]),
    st.sampled_from(["weight", "seeds"]),
)
def test_a_mixture_adds_up(rows: list[tuple[float, float]], total: float, total_by: str, shares_by: str) -> None:
    whole = sum(share for share, _ in rows)
    parts = [
        Part(name=str(n), share_pct=min(100 * share / whole, 100.0), weight_g=weight) for n, (share, weight) in enumerate(rows)
    ]
    rates = mixture(parts, total=total, total_by=total_by, shares_by=shares_by)  # type: ignore[arg-type]
    result = sum(rate.kg_per_ha if total_by == "weight" else rate.seeds_per_m2 for rate in rates)
    assert result == pytest.approx(total, rel=1e-9)
    for part, part_rate in zip(parts, rates, strict=True):
        share = part_rate.weight_share if shares_by == "weight" else part_rate.seeds_share
        assert share == pytest.approx(part.share_pct / 100, rel=1e-9)
        assert part_rate.kg_per_ha == pytest.approx(part_rate.seeds_per_m2 * part.weight_g / 100, rel=1e-9)


def test_shares_that_leave_something_over() -> None:
    with pytest.raises(Refusal) as refusal:
        mixture(
            (Part(name="a", share_pct=70, weight_g=2), Part(name="b", share_pct=27, weight_g=2)),
            total=5,
            total_by="weight",
            shares_by="seeds",
        )
    assert refusal.value.code == "not_whole"
    assert "97 %" in refusal.value.message
