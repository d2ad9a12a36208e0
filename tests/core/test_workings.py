"""Workings: the arithmetic shown gives the number shown, with the reader's own values and units."""

from __future__ import annotations

import re

import pytest
from cultrix_core.economics.break_even import break_even, break_even_working
from cultrix_core.economics.budgets import budget, budget_working
from cultrix_core.economics.costs import Line, cost_words, treatment_cost
from cultrix_core.errors import Refusal
from cultrix_core.harvest.loads import LoadShare, loads_working, strip_yield, yield_of_loads, yield_working
from cultrix_core.seeding.rates import row_geometry, row_geometry_working
from cultrix_core.stand.precision import precision_working, running_precision
from cultrix_core.stand.row_lengths import count_on_rows, count_working, tape_working, thousandth_length
from cultrix_core.stand.summary import treatment_stand, treatment_stand_working
from cultrix_core.stats.compare import StripResponse, compare
from cultrix_core.stats.decision_rule import make_call
from cultrix_core.stats.workings import anova_working, difference_working, mean_working
from cultrix_core.unit_formatting import UnitFormatter, chance_text
from cultrix_core.working import Working

METRIC = UnitFormatter(system="metric", bushel_kg=27.2155422, currency="€")
US = UnitFormatter(system="us", bushel_kg=27.2155422, currency="$")
both = pytest.mark.parametrize("show", [METRIC, US], ids=["metric", "us"])


def numbers(text: str) -> list[float]:
    """Numbers of a line of working, true minus signs and narrow spaces read as what they mean."""
    plain = text.replace("\u202f", "").replace("−", "-")
    return [float(item) for item in re.findall(r"(?<![\w.])-?\d+(?:\.\d+)?", plain)]


def step(working: Working, label: str) -> tuple[list[float], float]:
    item = next(one for one in working.steps if one.label == label)
    return numbers(item.numbers), numbers(item.outcome)[0]


@both
def test_break_even_as_shown(show: UnitFormatter) -> None:
    result = break_even(extra_cost_per_ha=44.48, price_per_t=205, unit_cost_per_t=11)
    working = break_even_working(result, show)
    price, left = step(working, "Worth of one more unit")
    assert price[0] - abs(price[1]) == pytest.approx(left, abs=0.011)
    cost, gain = step(working, "Gain that pays")
    assert cost[0] / cost[1] == pytest.approx(gain, abs=0.051 if show is US else 0.0051)


@both
def test_a_load_as_shown(show: UnitFormatter) -> None:
    result = strip_yield(net_kg=2155, swath_width_m=5.4, length_m=320, moisture_pct=15.2, standard_moisture_pct=13.5)
    working = yield_working(result, show, gross_kg=7775, tare_kg=5620, swath_width_m=5.4, length_m=320)
    text = " ".join(f"{item.numbers} {item.outcome}" for item in working.steps)
    for value in ((7775, "mass"), (5620, "mass"), (5.4, "strip_width"), (320, "strip_length")):
        assert show.text(*value) in text, "the user's own values stand in the working"
    assert show.text(result.yield_kg_per_ha, "yield") in working.outcome
    assert "15.2" in text
    assert "13.5" in text


@both
def test_a_count_as_shown(show: UnitFormatter) -> None:
    count = count_on_rows(43, length_m=5.334, rows=2, row_spacing_m=0.19)
    working = count_working(count, "how it was counted", show, seeds_per_m2=30)
    assert show.text(count.plants_per_m2, "density") in working.outcome
    assert "how it was counted" in str(working)
    assert any("%" in item.outcome for item in working.steps), "percent of the seed is worked too"


@both
def test_a_tape_as_shown(show: UnitFormatter) -> None:
    tape = thousandth_length(0.762, system=show.system)
    working = tape_working(tape, 0.762, show)
    exact, outcome = step(working, "Exact length")
    assert exact[0] / exact[1] == pytest.approx(outcome, abs=0.002)
    assert tape.tape_text in working.outcome


def test_precision_as_shown() -> None:
    precision = running_precision([198, 212, 230])
    working = precision_working(precision, METRIC)
    values, half = step(working, "Half of the 90 % interval")
    t, spread, n = values
    assert t * spread / n**0.5 == pytest.approx(half, abs=0.06)
    assert t == pytest.approx(2.920, abs=1e-3)
    assert working.outcome == "213.3 /m² ± 27.0 /m²"
    seeded = precision_working(precision, METRIC, seeds_per_m2=320)
    assert (seeded.steps[-1].numbers, seeded.steps[-1].outcome) == ("213.3 /m² ÷ 320.0 /m²", "67 %")
    alone = precision_working(running_precision([198]), METRIC)
    assert alone.outcome == "198.0 /m²"


@both
def test_along_the_row_as_shown(show: UnitFormatter) -> None:
    geometry = row_geometry(seeds_per_m2=8, row_spacing_m=0.75)
    working = row_geometry_working(geometry, show)
    assert show.text(geometry.seeds_per_m_row, "linear_density") in str(working)
    assert show.text(geometry.in_row_spacing_m, "in_row_spacing") in str(working)


@both
def test_net_return_as_shown(show: UnitFormatter) -> None:
    cost = treatment_cost(lines=[Line(label="hoe", times=2, each_per_ha=11)])
    result = budget(7000, cost, price_per_t=205, unit_cost_per_t=11)
    working = budget_working(result, show, title="12.5 cm", area_costs=cost_words(cost, show))
    assert result.net_per_ha == pytest.approx(7 * 194 - 22)
    assert show.text(result.net_per_ha, "money_per_area") in working.outcome
    shown, net = step(working, "Net return")
    assert shown[0] - abs(shown[1]) - abs(shown[2]) == pytest.approx(net, abs=0.021)


def example(seed: float = 0.0) -> list[StripResponse]:
    yields = {"A": (7400, 7520, 7610, 7480), "B": (7000, 7190, 7230, 7060 + seed)}
    return [
        StripResponse(treatment=name, block=str(place), response=float(value))
        for name, values in yields.items()
        for place, value in enumerate(values)
    ]


@both
def test_a_difference_as_shown(show: UnitFormatter) -> None:
    result = compare(example(), control="B")
    (difference,) = result.to_control
    assert difference.lower is not None
    assert difference.upper is not None
    call = make_call(difference.lower, difference.upper, 110)
    working = difference_working(result, difference, show, "yield", left="A", right="B", call=call, probability=0.999)
    labels = [part.label for part in working.steps]
    assert labels == [
        "Difference",
        "Strip-to-strip variation",
        "Standard error of the difference",
        "90 % interval",
        "Chance that the true difference is above 0",
        "Call",
    ]
    left, right = step(working, "Difference")[0]
    assert left - abs(right) == pytest.approx(step(working, "Difference")[1], abs=0.011 if show is METRIC else 0.11)
    spread, factor = step(working, "Standard error of the difference")[0]
    assert spread * factor == pytest.approx(
        step(working, "Standard error of the difference")[1], abs=0.011 if show is METRIC else 0.11
    )
    assert factor == pytest.approx((2 / 4) ** 0.5, abs=1e-4), "√(2 ÷ blocks) when no strip is missing"
    assert working.steps[-1].outcome == "gain"
    assert working.steps[-2].outcome == "over 99 %"


def test_without_replication_there_is_one_step() -> None:
    rows = [StripResponse(treatment="A", response=7400.0), StripResponse(treatment="B", response=7000.0)]
    result = compare(rows, control="B")
    working = difference_working(
        result, result.to_control[0], METRIC, "yield", left="A", right="B", call=None, probability=None
    )
    assert [item.label for item in working.steps] == ["Difference"]
    assert "nothing to judge" in working.assumption


@pytest.mark.parametrize(
    ("chance", "words"),
    [(0.0, "under 1 %"), (0.004, "under 1 %"), (0.5, "50 %"), (0.994, "99 %"), (0.996, "over 99 %"), (1.0, "over 99 %")],
)
def test_chances_are_never_certain(chance: float, words: str) -> None:
    assert chance_text(chance) == words


@both
def test_loads_together_as_shown(show: UnitFormatter) -> None:
    """All grain over all ground: 300 m at 7000 and 100 m at 6000 kg/ha are 6750 (by hand)."""
    loads = [LoadShare(yield_kg_per_ha=7000, area_m2=1620), LoadShare(yield_kg_per_ha=6000, area_m2=540)]
    assert yield_of_loads(loads) == pytest.approx(6750)
    working = loads_working(loads, show)
    assert working.outcome == show.text(6750, "yield")
    first, area, second, rest, total = numbers(working.steps[0].numbers)
    assert area + rest == pytest.approx(total, abs=0.0015)
    assert (first * area + second * rest) / total == pytest.approx(numbers(working.outcome)[0], rel=0.01)


def test_stated_yields_weigh_alike() -> None:
    loads = [LoadShare(yield_kg_per_ha=7000, area_m2=None), LoadShare(yield_kg_per_ha=6000, area_m2=540)]
    assert yield_of_loads(loads) == 6500
    assert loads_working(loads, METRIC).steps[0].numbers == "(7.00 t/ha + 6.00 t/ha) ÷ 2"
    with pytest.raises(Refusal):
        yield_of_loads([])


def test_the_strip_is_the_unit_of_a_treatments_stand() -> None:
    """A strip counted ten times speaks no louder than one counted twice: the mean is of strips."""
    stand = treatment_stand([210.0, 190.0, 230.0], seeds_per_m2=300)
    assert stand.plants_per_m2 == 210
    assert stand.share_pct == pytest.approx(70)
    working = treatment_stand_working(stand, [210.0, 190.0, 230.0], METRIC, name="A")
    assert working.steps[0].numbers == "(210.0 + 190.0 + 230.0) ÷ 3"
    assert working.steps[1].outcome == "70 %"
    assert treatment_stand([210.0], seeds_per_m2=None).share_pct is None
    with pytest.raises(Refusal):
        treatment_stand([], seeds_per_m2=300)


@both
def test_a_mean_as_shown(show: UnitFormatter) -> None:
    result = compare(example())
    mean = result.means[0]
    working = mean_working(result, mean, show, "yield", name="A")
    spread, factor = step(working, "Standard error")[0]
    assert factor == pytest.approx(0.5, abs=1e-4), "√(1 ÷ 4 blocks) when no strip is missing"
    assert spread * factor == pytest.approx(step(working, "Standard error")[1], abs=0.006 if show is METRIC else 0.06)
    middle, t, se = step(working, "90 % interval")[0]
    low, high = numbers(working.steps[-1].outcome)
    assert t == pytest.approx(2.353, abs=1e-3)  # t table, 3 df, two-sided 10 %
    assert middle - t * se == pytest.approx(low, abs=0.04 if show is METRIC else 0.4)
    assert middle + t * se == pytest.approx(high, abs=0.04 if show is METRIC else 0.4)


@both
def test_a_line_of_the_analysis_as_shown(show: UnitFormatter) -> None:
    result = compare(example())
    test = next(term_test for term_test in result.anova if term_test.term == "treatment")
    working = anova_working(result, test, show, "yield")
    ss, df = step(working, "Mean square")[0]
    assert ss / df == pytest.approx(step(working, "Mean square")[1], rel=1e-3)
    square, residual = step(working, "F")[0]
    assert square / residual == pytest.approx(test.f or 0, rel=1e-3), "F is the same in any unit"
    assert numbers(working.steps[-1].outcome)[0] == pytest.approx(test.p or 0, abs=1e-4)
