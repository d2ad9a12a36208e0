"""Money: budgets from the records, what moves them, prices with their source, and what cannot be reckoned."""

from __future__ import annotations

from typing import Any
from uuid import uuid4

import pytest
from apps.accounts.models import Workspace
from apps.analysis.economics.models import PriceList
from apps.trials.models import CostLine, Trial
from cultrix_core.economics.machines import Machine, yearly_cost

from tests.server.conftest import Api, add_prices, harvest_all, planting_body, prices_body, two_factors, typed
from tests.server.test_verdict_designs import BENT, ladder

Place = dict[str, Any]
GAIN = {"A": 1260, "B": 1140, "C": 1130}


def money(api: Api, trial: Place) -> Place:
    result: Place = api.ok("get", f"/trials/{trial['id']}/money")
    return result


def priced(api: Api, trial: Place, **facts: Any) -> Place:
    fresh = api.ok("get", f"/trials/{trial['id']}")
    result: Place = api.ok("patch", f"/trials/{trial['id']}", {"version": fresh["version"], **facts})
    return result


def costs(api: Api, trial: Place, rows: list[Place]) -> Place:
    """Cost lines put to the level of the first treatment of a trial, 12.5 cm."""
    fresh = api.ok("get", f"/trials/{trial['id']}")
    body = {
        "version": fresh["version"],
        "factors": [{"kind": "row_spacing"}],
        "treatments": [
            {"id": item["id"], "levels": [{"text": item["levels"][0]["text"], "unit": "cm"}], "is_control": item["is_control"]}
            for item in fresh["treatments"]
        ],
        "costs": [
            {"factor": 0, "level": typed("12.5", "cm"), "kind": "passes", "label": "x", "times": "1"} | row for row in rows
        ],
    }
    result: Place = api.ok("put", f"/trials/{trial['id']}/treatments", body)
    return result


def test_budgets_add_up_and_are_the_verdicts(lead: Api, trial: Place) -> None:
    """Income less costs is the net return; differences of nets are the verdict's estimates (definition)."""
    harvest_all(lead, trial, GAIN)
    result, verdict = money(lead, trial), lead.ok("get", f"/trials/{trial['id']}/verdict")
    for row in (*result["treatments"], *result["strips"]):
        left = row["income"]["value"] - row["by_yield"]["value"] - row["by_area"]["value"]
        assert row["net"]["value"] == pytest.approx(left, abs=1e-6)
        assert row["income"]["value"] == pytest.approx(200 * row["yield_"]["value"])
        assert row["by_yield"]["value"] == pytest.approx(10 * row["yield_"]["value"])
    means = {item["letter"]: item["mean"]["value"] for item in verdict["net_return"]["means"]}
    assert {item["letter"]: item["net"]["value"] for item in result["treatments"]} == pytest.approx(means)
    for row in result["partial"]:
        wanted = next(item for item in verdict["net_return"]["differences"] if item["letter"] == row["letter"])
        assert row["net_gain"]["value"] == pytest.approx(wanted["estimate"]["value"])
    assert {item["letter"]: item["by_area"]["value"] for item in result["treatments"]} == pytest.approx(
        {"A": 20, "B": 10, "C": 0}
    )
    assert result["said"] == verdict["money"]


def test_the_middle_of_the_grid_is_the_verdict(lead: Api, trial: Place) -> None:
    harvest_all(lead, trial, GAIN)
    result, verdict = money(lead, trial), lead.ok("get", f"/trials/{trial['id']}/verdict")
    for item, wanted in zip(result["comparisons"], verdict["net_return"]["differences"], strict=True):
        here = [cell for row in item["grid"] for cell in row if cell["here"]]
        assert len(here) == 1
        for end in ("estimate", "lower", "upper"):
            assert here[0][end]["value"] == pytest.approx(wanted[end]["value"])
        assert here[0]["call"] == wanted["call"]
        assert item["tornado"][0]["name"] in ("price", "difference in yield")
        assert len(item["risk"]["gains"]) == 3


def test_another_price_is_what_the_trial_says_at_that_price(lead: Api, trial: Place) -> None:
    """What is tried on, and a scenario, give what the verdict gives once the price is really that (definition)."""
    harvest_all(lead, trial, GAIN)
    lead.ok(
        "put",
        f"/trials/{trial['id']}/money",
        {
            "version": 0,
            "scenarios": [
                {
                    "name": "Poor",
                    "price": typed("140", "money/t"),
                    "unit_cost": typed("15", "money/t"),
                    "source": "last autumn",
                },
            ],
        },
    )
    scenario = money(lead, trial)["scenarios"][0]
    tried = lead.ok("get", f"/trials/{trial['id']}/what-if?price=140&unit=money/t")
    priced(lead, trial, price=typed("140", "money/t"))
    real = lead.ok("get", f"/trials/{trial['id']}/verdict")["net_return"]["differences"]
    for line, wanted in zip(tried["lines"], real, strict=True):
        assert line["estimate"]["value"] == pytest.approx(wanted["estimate"]["value"])
        assert (line["lower"]["value"], line["call"]) == (pytest.approx(wanted["lower"]["value"]), wanted["call"])
    priced(lead, trial, unit_cost=typed("15", "money/t"))
    real = lead.ok("get", f"/trials/{trial['id']}/verdict")["net_return"]["differences"]
    for line, wanted in zip(scenario["lines"], real, strict=True):
        assert line["upper"]["value"] == pytest.approx(wanted["upper"]["value"])
    assert "last autumn" in scenario["said"]


def test_seed_is_paid_by_the_rate_that_was_sown(lead: Api, trial: Place) -> None:
    """A thousand seeds cost 0.10; 32 a square metre more than planned are 320 thousand a hectare: 32 (definition)."""
    priced(lead, trial, bag_price=typed("50", "money"), bag_seeds=typed("500000"))
    harvest_all(lead, trial, GAIN)
    before = {item["order"]: item for item in money(lead, trial)["strips"]}
    strip = trial["strips"][2]
    body = planting_body(strip) | {"rate": typed("352", "/m2")}
    lead.ok("put", f"/trials/{trial['id']}/planting-records/{uuid4()}", body)
    after = {item["order"]: item for item in money(lead, trial)["strips"]}
    dearer = (352 - 320) * 10_000 / 1000 * 50 / 500
    assert after[strip["order"]]["net"]["value"] == pytest.approx(before[strip["order"]]["net"]["value"] - dearer)
    assert after[strip["order"]]["seed_sown"]
    others = [order for order in after if order != strip["order"]]
    assert [after[other]["net"]["value"] for other in others] == pytest.approx(
        [before[other]["net"]["value"] for other in others]
    )
    assert "1 of 9 strips" in " ".join(money(lead, trial)["remarks"])


def test_cost_lines_of_every_basis(lead: Api, trial: Place) -> None:
    """A pass of 9 L and 0.35 h is 29.00; 480 over 6 ha is 80; a machine's year of 10 642.65 over 120 ha is 88.69 a hectare."""
    yearly = yearly_cost(Machine(price=90_000, salvage=30_000, years=10, interest_pct=7)).total
    made_of = {
        "fuel": typed("9", "L/ha"),
        "fuel_price": typed("1.2", "money/L"),
        "hours": typed("0.35", "h/ha"),
        "wage": typed("22", "money/h"),
        "hire": typed("30", "money/h"),
    }
    fresh = costs(
        lead,
        trial,
        [
            {"label": "pass", "times": "2", "made_of": made_of},
            {"label": "soil test", "basis": "trial", "each": typed("480", "money"), "spread": typed("6", "ha")},
            {"label": "bar", "basis": "machine_year", "each": typed(f"{yearly:.2f}", "money"), "spread": typed("120", "ha")},
            {"label": "drying", "kind": "other", "basis": "yield", "each": typed("4", "money/t")},
        ],
    )
    assert [line["basis"] for line in fresh["costs"]] == ["area", "trial", "machine_year", "yield"]
    assert fresh["costs"][0]["made_of"]["fuel"] == typed("9", "L/ha")
    harvest_all(lead, trial, GAIN)
    first = money(lead, trial)["treatments"][0]
    assert first["by_area"]["value"] == pytest.approx(2 * 29.0 + 80 + 88.69, abs=0.02)
    assert first["by_yield"]["value"] == pytest.approx(14 * first["yield_"]["value"])
    assert {part["label"] for part in first["parts"]} == {"pass", "soil test", "bar"}


def test_a_cost_by_yield_needs_an_expected_yield_for_its_margin(lead: Api, trial: Place) -> None:
    row = {"label": "drying", "basis": "yield", "each": typed("4", "money/t")}
    fresh = costs(lead, trial, [row])
    assert fresh["treatments"][0]["margin"] is None
    harvest_all(lead, trial, GAIN)
    assert any("no yield is expected" in item for item in money(lead, trial)["remarks"])
    fresh = priced(lead, trial, expected_yield=typed("8", "t/ha"))
    # 4 × 8 = 32 more, worth 200 − 10 − 4 = 186 a tonne: 0.172 t/ha (definition)
    assert fresh["treatments"][0]["margin"]["value"] == pytest.approx(32 / 186, rel=1e-6)


@pytest.mark.parametrize(
    ("row", "code"),
    [
        ({"basis": "trial", "each": typed("480", "money")}, "missing"),
        ({"basis": "trial", "each": typed("-480", "money"), "spread": typed("6", "ha")}, "too_small"),
        ({"basis": "trial", "each": typed("480", "money"), "spread": typed("0", "ha")}, "not_positive"),
        ({"basis": "yield", "each": typed("4", "money/ha")}, "unknown_unit"),
        ({"basis": "yield", "made_of": {"fuel": typed("9", "L/ha")}}, "not_for_design"),
        ({"made_of": {"fuel": typed("-9", "L/ha")}}, "too_small"),
        ({"made_of": {"oil": typed("9", "L/ha")}}, "unknown_choice"),
        ({"each": typed("", "money/ha")}, "missing"),
        ({"each": typed("9 €", "money/ha")}, "not_a_number"),
    ],
)
def test_cost_lines_that_cannot_be(lead: Api, trial: Place, row: Place, code: str) -> None:
    fresh = lead.ok("get", f"/trials/{trial['id']}")
    body = {
        "version": fresh["version"],
        "factors": [{"kind": "row_spacing"}],
        "treatments": [
            {"id": item["id"], "levels": [{"text": item["levels"][0]["text"], "unit": "cm"}]} for item in fresh["treatments"]
        ],
        "costs": [{"factor": 0, "level": typed("12.5", "cm"), "kind": "passes", "label": "x"} | row],
    }
    assert lead.refused("put", f"/trials/{trial['id']}/treatments", body)["code"] == code
    assert not CostLine.objects.exists()


def test_without_a_price_it_says_what_to_do(lead: Api, trial: Place) -> None:
    harvest_all(lead, trial, GAIN)
    priced(lead, trial, price=typed("", ""), unit_cost=typed("", ""))
    assert "No price is set" in money(lead, trial)["problem"]
    assert lead.refused("get", f"/trials/{trial['id']}/what-if?price=140&unit=money/t")["code"] == "missing"


@pytest.mark.parametrize(
    ("query", "code", "field"),
    [
        ("price=0&unit=money/t", "not_positive", "price"),
        ("price=-5&unit=money/t", "not_positive", "price"),
        ("price=abc&unit=money/t", "not_a_number", "price"),
        ("price=200&unit=bu", "unknown_unit", "price"),
        ("costs=-1", "too_small", "costs"),
    ],
)
def test_what_cannot_be_tried_on(lead: Api, trial: Place, query: str, code: str, field: str) -> None:
    harvest_all(lead, trial, GAIN)
    answer = lead.refused("get", f"/trials/{trial['id']}/what-if?{query}")
    assert (answer["code"], answer["field"]) == (code, field)


@pytest.mark.parametrize(
    ("facts", "code", "field"),
    [
        ({"price": typed("0", "money/t")}, "not_positive", "price"),
        ({"unit_cost": typed("-1", "money/t")}, "too_small", "unit_cost"),
        ({"unit_cost": typed("205", "money/t")}, "price_not_above_cost", "unit_cost"),
    ],
)
def test_prices_that_cannot_be(lead: Api, trial: Place, facts: Place, code: str, field: str) -> None:
    answer = lead.refused("patch", f"/trials/{trial['id']}", {"version": trial["version"], **facts})
    assert (answer["code"], answer["field"]) == (code, field)
    assert Trial.objects.get().price_per_t == 200


def test_highest_yield_is_not_highest_return(lead: Api, trial: Place) -> None:
    """A yields most but costs 20 + 400 a hectare: said on the verdict, and its step is not worth it."""
    costs(lead, trial, [{"each": typed("400", "money/ha")}])
    harvest_all(lead, trial, {"A": 1240, "B": 1225, "C": 1130})
    result = money(lead, trial)
    assert "The highest yield is not the highest return: A (12.5 cm) yielded most, B (18 cm) returned most." in result["said"]
    rows = {row["letter"]: row for row in result["marginal"]["rows"]}
    assert rows["A"]["said"].startswith("dominated")
    assert rows["B"]["recommended"]


def test_raised_yield_and_lost_money(lead: Api, trial: Place) -> None:
    costs(lead, trial, [{"each": typed("400", "money/ha")}])
    harvest_all(lead, trial, {"A": 1260, "B": 1130, "C": 1130}, spread=4)
    assert "A (12.5 cm) raised yield and still lost money." in money(lead, trial)["said"]


def test_a_factorial_moves_by_its_factors(lead: Api, split: Place) -> None:
    drawn = lead.ok(
        "post",
        f"/trials/{split['id']}/layout",
        {
            "version": split["version"],
            "design": "split_plot",
            "blocks": 4,
            "seed": 3,
            "main": 0,
            "strip_width": typed("6", "m"),
            "strip_length": typed("200", "m"),
        },
    )
    letters = {one["letter"]: 900 + 20 * place for place, one in enumerate(drawn["treatments"])}
    harvest_all(lead, drawn, letters)
    result, verdict = money(lead, drawn), lead.ok("get", f"/trials/{drawn['id']}/verdict")
    wanted = verdict["net_return"]["differences"]
    assert [one["estimate"]["value"] for one in result["comparisons"]] == pytest.approx(
        [one["estimate"]["value"] for one in wanted]
    )
    assert [one["key"] for one in result["comparisons"]] == [one["key"] for one in wanted]
    for item in result["comparisons"]:
        here = next(cell for row in item["grid"] for cell in row if cell["here"])
        assert here["estimate"]["value"] == pytest.approx(item["estimate"]["value"])


def test_a_look_has_a_budget_and_no_grid(lead: Api, trial: Place) -> None:
    fresh = lead.ok(
        "post",
        f"/trials/{trial['id']}/layout",
        {
            "version": trial["version"],
            "design": "unreplicated",
            "blocks": 1,
            "seed": 7,
            "strip_width": typed("6", "m"),
            "strip_length": typed("300", "m"),
        },
    )
    harvest_all(lead, fresh, GAIN)
    result = money(lead, fresh)
    assert not result["replicated"]
    assert result["treatments"]
    assert all(item["grid"] == [] for item in result["comparisons"])


def test_the_best_rate_with_what_surrounds_it(lead: Api, workspace: Workspace) -> None:
    """A thousand seeds cost 2.00 and are worth planting up to a point: dearer seed takes the best rate down (definition)."""
    trial = ladder(lead, workspace, BENT, net_margin=typed("15", "money/ha"), emergence=typed("80", "%"))
    result = money(lead, trial)["optimum"]
    assert result["problem"] == ""
    assert result["factor"] == "Seeding rate"
    assert "90 % interval" in result["best"]
    assert "within 15.00 €/ha" in result["flat"]
    assert "plants at 80 % emergence" in result["safety"]
    numbers = [[float(cell.strip("≤≥ ")) for cell in row] for row in result["grid"]]
    for row in numbers:
        assert row == sorted(row), "a better price carries a higher rate"
    for column in range(5):
        assert [row[column] for row in numbers] == sorted((row[column] for row in numbers), reverse=True)
    best = float(result["best"].split(" at ")[1].split(" ")[0])
    assert numbers[2][2] == pytest.approx(best, abs=0.06)
    assert "Best seeding rate" in lead.ok("get", f"/trials/{trial['id']}/what-if?costs=150")["best_amount"]


def test_us_readers_see_the_same_money(lead: Api, trial: Place) -> None:
    harvest_all(lead, trial, GAIN)
    metric = money(lead, trial)
    lead.ok("patch", "/session", {"unit_system": "us"})
    us = money(lead, trial)
    assert us["unit"] == "€/ac"
    acre = 0.40468564224
    for item, other in zip(metric["treatments"], us["treatments"], strict=True):
        assert other["net"]["value"] == pytest.approx(item["net"]["value"] * acre, rel=1e-6)
    assert [one["call_words"] for one in us["comparisons"]] == [one["call_words"] for one in metric["comparisons"]]


def test_a_list_of_prices_is_kept_with_day_and_source(lead: Api, workspace: Workspace) -> None:
    result = add_prices(lead, workspace)
    assert [item["price"]["shown"] for item in result["items"]] == ["214.00 €/t", "1.10 €/L"]
    path = f"/workspaces/{workspace.id}/price-lists/{result['id']}"
    again = lead.ok("put", path, prices_body(version=1, retired=True))
    assert again["retired"]
    assert again["version"] == 2
    stale = lead.refused("put", path, prices_body(version=1), status=409)
    assert stale["code"] == "stale"
    assert PriceList.history.filter(id=result["id"]).count() == 2


@pytest.mark.parametrize(
    ("more", "code"),
    [
        ({"currency": "$"}, "other_currency"),
        ({"currency": ""}, "other_currency"),
        ({"name": " "}, "missing"),
        ({"source": ""}, "missing"),
        ({"items": []}, "missing"),
        ({"items": [{"kind": "crop", "crop": "winter_wheat", "price": typed("0", "money/t")}]}, "not_positive"),
        ({"items": [{"kind": "crop", "crop": "winter_wheat", "price": typed("-4", "money/t")}]}, "not_positive"),
        ({"items": [{"kind": "crop", "crop": "winter_wheat", "price": typed("", "money/t")}]}, "missing"),
        ({"items": [{"kind": "fuel", "name": "", "price": typed("1", "money/L")}]}, "missing"),
        ({"items": [{"kind": "fuel", "name": "x", "price": typed("1", "money/t")}]}, "unknown_unit"),
        ({"items": [{"kind": "crop", "crop": "moss", "price": typed("1", "money/t")}]}, "unknown_choice"),
    ],
)
def test_prices_that_are_none(lead: Api, workspace: Workspace, more: Place, code: str) -> None:
    answer = lead.refused("put", f"/workspaces/{workspace.id}/price-lists/{uuid4()}", prices_body(**more))
    assert answer["code"] == code
    assert not PriceList.objects.exists()


def test_a_trial_takes_its_price_from_a_list(lead: Api, workspace: Workspace, trial: Place) -> None:
    wheat, diesel = add_prices(lead, workspace)["items"]
    path = f"/trials/{trial['id']}/price"
    fresh = lead.ok("post", path, {"version": trial["version"], "item_id": wheat["id"]})
    assert fresh["price"]["shown"] == "214.00 €/t"
    assert fresh["price_source"] == "Board, 12 Aug 2026 (at the gate)"
    assert lead.refused("post", path, {"version": fresh["version"], "item_id": diesel["id"]})["code"] == "unknown_choice"
    lead.refused("post", path, {"version": fresh["version"], "item_id": 987654}, status=404)


def test_a_frozen_price_changes_with_a_reason_only(lead: Api, workspace: Workspace, trial: Place) -> None:
    wheat = add_prices(lead, workspace)["items"][0]
    lead.ok("post", f"/trials/{trial['id']}/protocol")
    fresh = lead.ok("get", f"/trials/{trial['id']}")
    body = {"version": fresh["version"], "item_id": wheat["id"]}
    assert lead.refused("post", f"/trials/{trial['id']}/price", body, status=409)["code"] == "frozen"
    fresh = lead.ok("post", f"/trials/{trial['id']}/price", body | {"amendment": "the board changed"})
    assert fresh["protocol"]["amendments"][0]["reason"] == "the board changed"


@pytest.mark.parametrize(
    ("body", "code", "field"),
    [
        ({"swing": typed("-5", "%")}, "too_small", "swing"),
        ({"swing": typed("0", "%")}, "not_positive", "swing"),
        ({"minimum_rate": typed("-5", "%")}, "too_small", "minimum_rate"),
        ({"within": typed("0", "money/ha")}, "not_positive", "within"),
        ({"scenarios": [{"name": ""}]}, "missing", "scenarios"),
        ({"scenarios": [{"name": "a"}, {"name": "A"}]}, "duplicate", "scenarios"),
        ({"scenarios": [{"name": "a", "price": typed("0", "money/t")}]}, "not_positive", "price"),
        ({"scenarios": [{"name": "a", "price": typed("9", "money/t")}]}, "price_not_above_cost", "unit_cost"),
        ({"scenarios": [{"name": "a", "costs": typed("-9", "%")}]}, "too_small", "costs"),
        ({"scenarios": [{"name": str(item)} for item in range(9)]}, "too_large", "scenarios"),
    ],
)
def test_plans_that_cannot_be(lead: Api, trial: Place, body: Place, code: str, field: str) -> None:
    answer = lead.refused("put", f"/trials/{trial['id']}/money", {"version": 0, **body})
    assert (answer["code"], answer["field"]) == (code, field)
    assert Trial.objects.get().scenarios.count() == 0


def test_a_plan_is_not_overwritten_unseen(lead: Api, adviser: Api, trial: Place) -> None:
    harvest_all(lead, trial, GAIN)
    lead.ok("put", f"/trials/{trial['id']}/money", {"version": 0, "minimum_rate": typed("80", "%")})
    assert adviser.refused("put", f"/trials/{trial['id']}/money", {"version": 0}, status=409)["code"] == "stale"
    assert "at least 80 %" in money(lead, trial)["marginal"]["words"]


def test_treatments_of_two_factors_carry_costs_of_both(lead: Api, split: Place) -> None:
    body = two_factors(split["version"])
    body["costs"] = [
        {
            "factor": 0,
            "level": body["treatments"][0]["levels"][0],
            "kind": "passes",
            "label": "Plough",
            "each": typed("70", "money/ha"),
        }
    ]
    fresh = lead.ok("put", f"/trials/{split['id']}/treatments", body)
    assert fresh["costs"][0]["each"]["shown"] == "70.00 €/ha"
