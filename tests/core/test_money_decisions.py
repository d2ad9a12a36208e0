"""Around the optimum, sensitivity, risk and ranking: against SciPy, by simulation, and by analysing the strips again."""

from __future__ import annotations

import numpy as np
import pytest
from cultrix_core.economics.optimum import around, best_amount
from cultrix_core.economics.ranking import Tried, luck, ranking
from cultrix_core.economics.risk import StripReturn, risk
from cultrix_core.economics.sensitivity import Driver, NetComparison, at, grid, tornado
from cultrix_core.errors import Refusal
from cultrix_core.stats.amounts import answer_amounts, fit_amounts
from cultrix_core.stats.averaged_curve import AveragedCurve
from cultrix_core.stats.compare import StripResponse, compare
from cultrix_core.stats.decision_rule import make_call
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import optimize

RATES = [200.0, 260.0, 320.0, 380.0, 440.0]


class Parabola:
    """a + b x + c x² in t/ha over seeds a square metre, tried over the rates."""

    range = (RATES[0], RATES[-1])

    def __init__(self, a: float, b: float, c: float) -> None:
        self.terms = (a, b, c)

    def at(self, x: float) -> float:
        a, b, c = self.terms
        return a + b * x + c * x**2


def averaged(seed: int) -> AveragedCurve:
    """The averaged curve of strips in four blocks of a parabola."""
    rng = np.random.default_rng(seed)
    x = np.array(RATES * 4)
    y = 2.0 + 0.03 * x - 4.2e-5 * x**2 + rng.normal(0, 0.25, x.size)
    return answer_amounts(fit_amounts(x.tolist(), y.tolist(), [str(block) for block in range(4) for _ in RATES])).curve


@pytest.mark.slow
@settings(max_examples=40)
@given(st.floats(0.02, 0.05), st.floats(-7e-5, -4e-5), st.floats(0, 0.02))
def test_the_best_amount_of_a_parabola_is_where_the_last_unit_earns_its_cost(b: float, c: float, ratio: float) -> None:
    """x* = (k/p − b) ÷ 2c inside the range tried (definition), else the end that earns more."""
    low, high = Parabola.range
    wanted = min(max((ratio - b) / (2 * c), low), high)
    assert best_amount(Parabola(2.0, b, c), ratio) == pytest.approx(wanted, rel=1e-4)


@pytest.mark.parametrize("seed", range(6))
@pytest.mark.parametrize("ratio", [0.0, 0.002, 0.006, 0.02])
def test_the_best_amount_is_that_of_scipys_brute_search(seed: int, ratio: float) -> None:
    """Whatever shapes are in it, profit on the averaged curve is nowhere higher in the range (scipy.optimize.brute)."""
    fit = averaged(seed)
    value = best_amount(fit, ratio)
    profit = lambda x: fit.at(x) - ratio * x  # noqa: E731 - a formula
    brute = optimize.brute(lambda x: -profit(float(x[0])), (fit.range,), Ns=4001, finish=None)
    assert profit(value) >= profit(float(brute)) - 1e-9


def test_flatness_and_safety_of_a_parabola_by_hand() -> None:
    """y = 2 + 0.04 x − 6e-5 x², worth 200, seed 1.0 a unit: best (0.005 − 0.04) ÷ −1.2e-4 = 291.7. Profit falls by
    200 × 6e-5 × d² = 0.012 d²: 12 of money reach √1000 = 31.6 either way. Yield lost: 0.012 d² + 1.0 d = 12 at d = 10.6.
    """
    fit = Parabola(2.0, 0.04, -6e-5)
    result = around(fit, worth=200, cost=1.0, within=12, loss=12)
    assert result.x == pytest.approx(291.67, abs=0.05)
    assert result.flat_lower == pytest.approx(291.67 - 31.62, abs=0.1)
    assert result.flat_upper == pytest.approx(291.67 + 31.62, abs=0.1)
    assert result.safe_loss == pytest.approx((-1 + np.sqrt(1 + 4 * 0.012 * 12)) / (2 * 0.012), abs=0.05)
    assert not result.at_edge


def test_open_ends_are_said() -> None:
    fit = Parabola(2.0, 0.04, -6e-5)
    result = around(fit, worth=200, cost=1.0, within=5000, loss=5000)
    assert result.flat_lower is None
    assert result.flat_upper is None
    assert result.safe_loss is None
    rising = Parabola(2.0, 0.02, 0.0)
    assert around(rising, worth=200, cost=0.1, within=5, loss=5).at_edge


def test_the_flat_range_holds_what_a_grower_would_lose() -> None:
    """By simulation: a rate drawn inside the flat range of the true curve costs less than the money named, one outside more."""
    fit = Parabola(2.0, 0.04, -6e-5)
    result = around(fit, worth=200, cost=1.0, within=8, loss=8)
    assert result.flat_lower is not None
    assert result.flat_upper is not None
    rng = np.random.default_rng(5)
    draws = rng.uniform(*fit.range, 4000)
    profit = 200 * (2 + 0.04 * draws - 6e-5 * draws**2) - draws
    best = 200 * (2 + 0.04 * result.x - 6e-5 * result.x**2) - result.x
    inside = (draws > result.flat_lower) & (draws < result.flat_upper)
    assert (best - profit[inside] <= 8.01).all()
    assert (best - profit[~inside] >= 7.99).all()


@pytest.mark.parametrize(
    ("other", "field"), [({"worth": 0}, "price"), ({"within": 0}, "within"), ({"loss": -1}, "loss"), ({"cost": -1}, "cost")]
)
def test_around_refuses(other: dict[str, float], field: str) -> None:
    fit = Parabola(2.0, 0.04, -6e-5)
    with pytest.raises(Refusal) as refused:
        around(fit, **({"worth": 200.0, "cost": 1.0, "within": 12.0, "loss": 12.0} | other))
    assert refused.value.field == field


COSTS = {"a": 0.0, "b": 42.0, "c": 15.0}


def strips(price: float, factor: float, seed: int = 3) -> list[StripResponse]:
    """Net return of twelve strips in four blocks at a price, 10 a tonne for drying, and costs times a factor."""
    rng = np.random.default_rng(seed)
    rows = []
    for block in range(4):
        for name, effect in (("a", 0.0), ("b", 0.35), ("c", 0.1)):
            tonnes = 7 + 0.2 * block + effect + rng.normal(0, 0.15)
            net = tonnes * (price - 10) - factor * COSTS[name]
            rows.append(StripResponse(treatment=name, block=str(block), row="1", response=net, label="", position=0.0))
    return rows


def base_of(name: str, price: float = 200.0) -> NetComparison:
    net = compare(strips(price, 1.0), design="rcbd", alpha=0.1, control="a", levels=list("abc"))
    tonnes = compare(strips(11.0, 0.0), design="rcbd", alpha=0.1, control="a", levels=list("abc"))
    row = next(difference for difference in net.to_control if difference.left == name)
    yields = next(difference for difference in tonnes.to_control if difference.left == name)
    assert row.lower is not None
    assert row.upper is not None
    return NetComparison(
        estimate=row.estimate,
        lower=row.lower,
        upper=row.upper,
        yield_t_per_ha=yields.estimate,
        extra_cost_per_ha=COSTS[name],
        price_per_t=price,
        worth_per_t=price - 10,
    )


@pytest.mark.parametrize("name", ["b", "c"])
@pytest.mark.parametrize(("price", "factor"), [(200, 1.0), (120, 1.0), (260, 0.5), (90, 2.0), (310, 3.0)])
def test_a_cell_is_what_analysing_the_strips_again_gives(name: str, price: float, factor: float) -> None:
    """The whole comparison made anew at another price and other costs: estimate, interval and call (definition)."""
    again = compare(strips(price, factor), design="rcbd", alpha=0.1, control="a", levels=list("abc"))
    row = next(difference for difference in again.to_control if difference.left == name)
    assert row.lower is not None
    assert row.upper is not None
    cell = at(base_of(name), price_per_t=price, cost_factor=factor, margin=20)
    assert (cell.estimate, cell.lower, cell.upper) == pytest.approx((row.estimate, row.lower, row.upper), rel=1e-9)
    assert cell.call == make_call(row.lower, row.upper, 20)


def test_a_price_below_its_costs_gets_no_call() -> None:
    assert at(base_of("b"), price_per_t=8, cost_factor=1, margin=None).call is None
    with pytest.raises(Refusal) as refused:
        at(base_of("b"), price_per_t=0, cost_factor=1, margin=None)
    assert refused.value.code == "not_positive"


def test_an_alternating_layout_needs_both_analyses() -> None:
    base = base_of("b")
    net_comparison = NetComparison(
        estimate=30,
        lower=20,
        upper=40,
        yield_t_per_ha=base.yield_t_per_ha,
        extra_cost_per_ha=10,
        price_per_t=200,
        worth_per_t=190,
        second=(5, -10, 20),
    )
    call = at(net_comparison, price_per_t=200, cost_factor=1, margin=None).call
    assert call is not None
    assert call.name == "cannot_tell_yet"


def test_the_grid_is_monotone() -> None:
    cells = grid(base_of("b"), [120, 160, 200, 240], [0.5, 1.0, 1.5], margin=None)
    for row in cells:
        assert [cell.estimate for cell in row] == sorted(cell.estimate for cell in row)
    for column in range(4):
        assert [row[column].estimate for row in cells] == sorted((row[column].estimate for row in cells), reverse=True)


def test_the_tornado_puts_what_matters_first() -> None:
    bars = tornado(
        [
            Driver(name="fuel", low=-1, high=1, outcome=lambda x: 20 + x),
            Driver(name="price", low=150, high=250, outcome=lambda p: 0.35 * p - 60),
        ]
    )
    assert [bar.name for bar in bars] == ["price", "fuel"]
    assert bars[0].turns
    assert not bars[1].turns
    assert bars[0].swing == pytest.approx(35)


def test_risk_by_hand() -> None:
    rows = [
        StripReturn(treatment=t, block=b, year=y, net_per_ha=n)
        for y, b, t, n in (
            ("2025", "1", "a", 100),
            ("2025", "1", "b", 130),
            ("2025", "2", "a", 90),
            ("2025", "2", "b", 80),
            ("2026", "1", "a", 100),
            ("2026", "1", "b", 140),
            ("2026", "1", "b", 120),
            ("2026", "2", "a", 70),
        )
    ]
    result = risk(rows, treatment="b", control="a")
    assert [gain.gain_per_ha for gain in result.gains] == [30, -10, 30]
    assert result.losing == 1
    assert result.by_year == (("2025", 10.0), ("2026", 30.0))
    assert (result.worst, result.median, result.best) == (-10, 30, 30)
    with pytest.raises(Refusal):
        risk(rows, treatment="c", control="a")


def tried(key: str, net: float | None, se: float | None = 10.0, standing: str = "judged") -> Tried:
    return Tried(key=key, standing=standing, net_per_ha=net, se=se)  # type: ignore[arg-type]


def test_looks_and_open_ones_have_no_rank() -> None:
    result = ranking(
        [
            tried("x", 5),
            tried("look", 900, None, "look"),
            tried("loser", -40),
            tried("best", 60),
            tried("x2", 5),
            tried("next", None, None, "open"),
        ]
    )
    assert result.ranked == (("best", 1), ("x", 2), ("x2", 2), ("loser", 4))
    assert result.looks == ("look",)
    assert result.open == ("next",)
    assert result.luck_per_ha == pytest.approx(luck(4) * 10)


@pytest.mark.parametrize("k", [2, 5, 12, 30])
def test_luck_at_the_top_by_simulation(k: int) -> None:
    """The mean of the largest of k standard normal deviates, 200 000 draws."""
    rng = np.random.default_rng(k)
    assert luck(k) == pytest.approx(rng.standard_normal((200_000, k)).max(axis=1).mean(), abs=0.03)


def test_ranking_refuses_a_key_twice_and_needs_two_for_luck() -> None:
    with pytest.raises(Refusal) as refused:
        ranking([tried("x", 1), tried("x", 2)])
    assert refused.value.code == "duplicate"
    assert ranking([tried("x", 1)]).luck_per_ha is None
