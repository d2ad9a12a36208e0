"""Budgets, partial budgets, passes and marginal rates of return, against definitions, hand arithmetic and properties."""

from __future__ import annotations

import pytest
from cultrix_core.economics.break_even import break_even
from cultrix_core.economics.budgets import budget, budget_working, partial_budget, partial_working
from cultrix_core.economics.costs import Line, TreatmentCost, pass_cost, spread_over, treatment_cost
from cultrix_core.economics.marginal import Option, marginal_analysis, rate
from cultrix_core.errors import Refusal
from cultrix_core.unit_formatting import UnitFormatter
from hypothesis import assume, given
from hypothesis import strategies as st

METRIC = UnitFormatter(system="metric", bushel_kg=27.2155422, currency="€")
money = st.floats(0, 800)
yields = st.floats(500, 15_000)


def cost(per_ha: float, per_t: float = 0.0, seed: float | None = None) -> TreatmentCost:
    lines = (Line(label="passes", times=1, each_per_ha=per_ha), Line(label="drying", times=1, each_per_ha=0, each_per_t=per_t))
    return TreatmentCost(lines=lines, seed_per_ha=seed, stated_per_ha=0.0)


def test_a_budget_by_hand() -> None:
    """8 t/ha at 200 a tonne: 1600; drying and hauling 12 + 3 a tonne: 120; two passes of 30 and seed of 90: 150; left 1330."""
    own = treatment_cost(
        lines=[Line(label="hoe", times=2, each_per_ha=30), Line(label="dryer", times=1, each_per_ha=0, each_per_t=3)],
        seeds_per_m2=9,
        price_per_thousand_seeds=1.0,
    )
    result = budget(8000, own, price_per_t=200, unit_cost_per_t=12)
    assert (result.income_per_ha, result.by_yield_per_ha, result.by_area_per_ha) == (1600, 120, 150)
    assert result.net_per_ha == 1330
    told = budget_working(result, METRIC, title="B", area_costs="hoe, seed")
    assert "1330.00" in told.outcome
    assert [step.outcome for step in told.steps][-1] == told.outcome


def test_the_seed_really_sown_takes_the_place_of_the_planned() -> None:
    own = cost(40, seed=90)
    planned, sown = (budget(8000, own, price_per_t=200, seed_per_ha=seed) for seed in (None, 99.0))
    assert planned.net_per_ha - sown.net_per_ha == pytest.approx(9)


def test_a_partial_budget_breaks_even_where_the_difference_that_matters_lies() -> None:
    """Extra cost 18 against a price of 9.00 less 0.30 a bushel breaks even at 2.069 bushels an acre (definition)."""
    control = budget(150.0 * 1000, cost(0), price_per_t=9.00, unit_cost_per_t=0.30)
    treated = budget(153.0 * 1000, cost(18), price_per_t=9.00, unit_cost_per_t=0.30)
    result = partial_budget(treated, control)
    assert result.break_even_gain_kg_per_ha / 1000 == pytest.approx(2.069, abs=5e-4)
    assert result.net_gain_per_ha == pytest.approx(3 * 8.70 - 18)
    assert result.return_on_cost == pytest.approx((3 * 8.70 - 18) / (18 + 3 * 0.30))


@given(yields, yields, money, money, st.floats(0, 20), st.floats(0, 20), st.floats(120, 600))
def test_break_evens_break_even(
    own: float, base: float, own_cost: float, base_cost: float, own_t: float, base_t: float, price: float
) -> None:
    """At the yield, the price and the cost that are called break-even, both sides return the same (definition)."""
    control = budget(base, cost(base_cost, base_t), price_per_t=price, unit_cost_per_t=10)
    treated = budget(own, cost(own_cost, own_t), price_per_t=price, unit_cost_per_t=10)
    result = partial_budget(treated, control)
    needed = base + result.break_even_gain_kg_per_ha
    if needed >= 0:
        even = budget(needed, cost(own_cost, own_t), price_per_t=price, unit_cost_per_t=10)
        assert even.net_per_ha == pytest.approx(control.net_per_ha, abs=1e-6)
    dearer = budget(own, cost(base_cost + result.break_even_cost_per_ha, own_t), price_per_t=price, unit_cost_per_t=10)
    assert dearer.net_per_ha == pytest.approx(control.net_per_ha, abs=1e-6)
    even_price = result.break_even_price_per_t
    assume(abs(own - base) > 1)
    if even_price is not None and even_price > 10 + max(own_t, base_t):
        at = [
            budget(y, cost(k, t), price_per_t=even_price, unit_cost_per_t=10).net_per_ha
            for y, k, t in ((own, own_cost, own_t), (base, base_cost, base_t))
        ]
        assert at[0] == pytest.approx(at[1], rel=1e-6, abs=1e-4)
        assert result.pays_above == (own > base)


def test_a_plain_partial_budget_agrees_with_the_margin() -> None:
    """Without own costs per unit the break-even gain is the margin the design was judged against (definition)."""
    control = budget(7000, cost(0), price_per_t=210, unit_cost_per_t=12)
    treated = budget(7100, cost(45), price_per_t=210, unit_cost_per_t=12)
    wanted = break_even(extra_cost_per_ha=45, price_per_t=210, unit_cost_per_t=12).gain_kg_per_ha
    assert partial_budget(treated, control).break_even_gain_kg_per_ha == pytest.approx(wanted)


def test_a_cost_of_rounding_has_no_return() -> None:
    """0.1 + 0.2 against 0.3 is no extra cost: the quotient would have fifteen digits."""
    result = partial_budget(budget(7100, cost(0.1 + 0.2), price_per_t=210), budget(7000, cost(0.3), price_per_t=210))
    assert result.extra_cost_per_ha > 0
    assert result.return_on_cost is None


def test_saving_has_no_return_on_extra_money() -> None:
    control = budget(7000, cost(60), price_per_t=210)
    treated = budget(6900, cost(0), price_per_t=210)
    result = partial_budget(treated, control)
    assert result.return_on_cost is None
    assert result.net_gain_per_ha == pytest.approx(60 - 21)
    assert "Return" not in " ".join(step.label for step in partial_working(result, METRIC, treatment="B", control="A").steps)


def test_a_pass_and_what_is_spread() -> None:
    """9 L at 1.20 and 0.35 h at 22 + 30: 10.80 + 18.20 = 29.00; 480 for a trial of 6 ha: 80 a hectare (definition)."""
    assert pass_cost(fuel_l_per_ha=9, fuel_price_per_l=1.2, hours_per_ha=0.35, wage_per_h=22, hire_per_h=30) == pytest.approx(
        29
    )
    assert spread_over(480, 60_000) == pytest.approx(80)


@pytest.mark.parametrize(
    ("call", "code", "field"),
    [
        (lambda: budget(-1, cost(0), price_per_t=200), "too_small", "yield"),
        (lambda: budget(8000, cost(0), price_per_t=0), "not_positive", "price"),
        (lambda: budget(8000, cost(0), price_per_t=200, unit_cost_per_t=-1), "too_small", "unit_cost"),
        (lambda: budget(8000, cost(0, 190), price_per_t=200, unit_cost_per_t=12), "price_not_above_cost", "unit_cost"),
        (lambda: pass_cost(fuel_l_per_ha=-1), "too_small", "fuel"),
        (lambda: spread_over(100, 0), "not_positive", "spread"),
        (lambda: spread_over(-1, 100), "too_small", "each"),
        (
            lambda: partial_budget(budget(1, cost(0), price_per_t=2), budget(1, cost(0), price_per_t=3)),
            "not_for_design",
            "price",
        ),
        (
            lambda: marginal_analysis([Option(name="a", cost_per_ha=0, net_per_ha=0)], minimum_rate=1),
            "too_few_treatments",
            "treatments",
        ),
        (lambda: marginal_analysis(FERTILISER, minimum_rate=-0.1), "too_small", "minimum_rate"),
        (lambda: marginal_analysis([FERTILISER[0], FERTILISER[0]], minimum_rate=1), "duplicate", "treatments"),
    ],
)
def test_refusals(call: object, code: str, field: str) -> None:
    with pytest.raises(Refusal) as refused:
        call()  # type: ignore[operator]
    assert (refused.value.code, refused.value.field) == (code, field)


FERTILISER = [
    Option(name="none", cost_per_ha=0, net_per_ha=400),
    Option(name="half", cost_per_ha=50, net_per_ha=525),
    Option(name="broadcast", cost_per_ha=70, net_per_ha=520),
    Option(name="full", cost_per_ha=100, net_per_ha=570),
    Option(name="double", cost_per_ha=200, net_per_ha=600),
]


def test_marginal_rates_by_hand() -> None:
    """Steps of (125 ÷ 50) 250 %, (45 ÷ 50) 90 % and (30 ÷ 100) 30 %; broadcasting costs more than half and returns less.

    The method is that of CIMMYT 1988 (from memory); its printed tables could not be consulted, the numbers are ours, by hand.
    """
    analysis = marginal_analysis(FERTILISER, minimum_rate=1.0)
    assert [row.option.name for row in analysis.rows] == ["none", "half", "broadcast", "full", "double"]
    assert [row.marginal_rate for row in analysis.rows] == [None, 2.5, None, pytest.approx(0.9), pytest.approx(0.3)]
    assert [row.dominated_by for row in analysis.rows] == ["", "", "half", "", ""]
    assert analysis.recommended == "half"
    assert marginal_analysis(FERTILISER, minimum_rate=0.5).recommended == "full"
    assert marginal_analysis(FERTILISER, minimum_rate=0.1).recommended == "double"


def test_a_small_step_first_does_not_hide_a_good_one() -> None:
    """After a step that was not taken, the next is reckoned from the last one that was: (150 − 0) ÷ 100 = 150 %."""
    rows = [
        Option(name="a", cost_per_ha=0, net_per_ha=0),
        Option(name="b", cost_per_ha=60, net_per_ha=30),
        Option(name="c", cost_per_ha=100, net_per_ha=150),
    ]
    analysis = marginal_analysis(rows, minimum_rate=1.0)
    assert [row.accepted for row in analysis.rows] == [True, False, True]
    assert analysis.recommended == "c"


options = st.lists(st.tuples(st.integers(0, 40), st.integers(0, 400)), min_size=2, max_size=8, unique=True)


@given(options, st.floats(0, 5), st.randoms())
def test_no_undominated_option_is_beaten(pairs: list[tuple[int, int]], minimum: float, random: object) -> None:
    """What stays is on the frontier, whatever the order of entry; each step accepted earns the minimum (definition)."""
    rows = [Option(name=str(place), cost_per_ha=cost, net_per_ha=net) for place, (cost, net) in enumerate(pairs)]
    analysis = marginal_analysis(rows, minimum_rate=minimum)
    kept = [row.option for row in analysis.rows if not row.dominated_by]
    for option in kept:
        assert not any(other.cost_per_ha <= option.cost_per_ha and other.net_per_ha > option.net_per_ha for other in rows)
    for row in analysis.rows:
        if row.dominated_by:
            beater = next(item for item in rows if item.name == row.dominated_by)
            assert beater.cost_per_ha <= row.option.cost_per_ha
            assert beater.net_per_ha >= row.option.net_per_ha
    taken = [row.option for row in analysis.rows if row.accepted]
    assert taken[-1].name == analysis.recommended
    for cheaper, dearer in zip(taken[:-1], taken[1:], strict=True):
        assert rate(cheaper, dearer) >= minimum - 1e-6
    shuffled = list(rows)
    random.shuffle(shuffled)  # type: ignore[attr-defined]
    again = marginal_analysis(shuffled, minimum_rate=minimum)
    assert {row.option.name for row in again.rows if row.accepted} == {item.name for item in taken}
