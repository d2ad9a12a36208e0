"""The ledger: every comparison ranked by its money, looks and losers as what they are, series combined, lessons."""

from __future__ import annotations

from typing import Any

import pytest
from apps.accounts.models import Workspace
from apps.trial_state.listing import make_old_ones_anew
from django.db import connection
from django.test.utils import CaptureQueriesContext

from tests.server.conftest import Api, harvest_all, typed

Place = dict[str, Any]


def ledger(api: Api, workspace: Workspace) -> Place:
    result: Place = api.ok("get", f"/workspaces/{workspace.id}/ledger")
    return result


def portfolio(api: Api, workspace: Workspace) -> Place:
    result: Place = api.ok("get", f"/workspaces/{workspace.id}/portfolio")
    return result


def pair(
    api: Api,
    workspace: Workspace,
    season: int,
    nets: dict[str, int],
    *,
    blocks: int = 4,
    price: str = "200",
    series: str = "Rows",
    design: str = "rcbd",
    spread: int = 8,
) -> Place:
    """Two row widths of wheat, 12.5 against 25 cm, harvested."""
    made = api.ok(
        "post", f"/workspaces/{workspace.id}/trials", {"title": f"Rows {season}", "crop": "winter_wheat", "season": season}
    )
    path = f"/trials/{made['id']}"
    facts = {"series": series, "net_margin": typed("15", "money/ha")}
    if price:
        facts |= {"price": typed(price, "money/t"), "unit_cost": typed("10", "money/t")}
    made = api.ok("patch", path, {"version": made["version"], **facts})
    rows = [
        {"levels": [typed("25", "cm")], "is_control": True},
        {"levels": [typed("12.5", "cm")], "extra_cost": typed("20", "money/ha")},
    ]
    made = api.ok(
        "put", f"{path}/treatments", {"version": made["version"], "factors": [{"kind": "row_spacing"}], "treatments": rows}
    )
    made = api.ok(
        "post",
        f"{path}/layout",
        {
            "version": made["version"],
            "design": design,
            "blocks": blocks,
            "seed": season,
            "strip_width": typed("6", "m"),
            "strip_length": typed("300", "m"),
        },
    )
    harvest_all(api, made, nets, spread=spread)
    result: Place = made
    return result


def test_nothing_tried_yet(lead: Api, workspace: Workspace) -> None:
    assert ledger(lead, workspace)["entries"] == []


def test_ranked_by_money_with_losers_and_looks_apart(lead: Api, workspace: Workspace) -> None:
    good = pair(lead, workspace, 2024, {"A": 1100, "B": 1200}, series="")
    bad = pair(lead, workspace, 2025, {"A": 1200, "B": 1100}, series="")
    look = pair(lead, workspace, 2023, {"A": 1000, "B": 1400}, series="", blocks=1, design="unreplicated")
    result = ledger(lead, workspace)["entries"]
    assert [(item["trial_id"], item["rank"], item["standing"]) for item in result] == [
        (good["id"], 1, "judged"),
        (bad["id"], 2, "judged"),
        (look["id"], None, "look"),
    ]
    assert [item["call"] for item in result] == ["gain", "loss", None]
    assert result[2]["lower"] is None
    assert result[2]["call_words"] == "a look, not a result"
    assert result[2]["net"]["value"] > result[0]["net"]["value"], "a look may look best and is not ranked for it"
    assert result[0]["factors"] == ["Row spacing"]


def test_entries_are_the_verdicts_own(lead: Api, workspace: Workspace) -> None:
    trial = pair(lead, workspace, 2024, {"A": 1100, "B": 1180})
    row = ledger(lead, workspace)["entries"][0]
    wanted = lead.ok("get", f"/trials/{trial['id']}/verdict")
    item = wanted["net_return"]["differences"][0]
    assert (row["net"], row["lower"], row["upper"]) == (item["estimate"], item["lower"], item["upper"])
    assert (row["call"], row["chance"]) == (item["call"], item["chance"])
    assert row["yield_"] == wanted["yield_"]["differences"][0]["estimate"]["text"]


def test_what_is_open_and_what_has_no_price(lead: Api, workspace: Workspace, trial: Place) -> None:
    unpriced = pair(lead, workspace, 2025, {"A": 1100, "B": 1180}, price="", series="")
    result = {item["trial_id"]: item for item in ledger(lead, workspace)["entries"]}
    assert result[trial["id"]]["standing"] == "open"
    assert result[trial["id"]]["name"] == "not harvested yet"
    assert result[unpriced["id"]]["rank"] is None
    assert "no price is set" in result[unpriced["id"]]["said"]
    assert result[unpriced["id"]]["yield_call"] == "gain"


def test_a_series_is_combined_in_money(lead: Api, workspace: Workspace) -> None:
    """Two years of equal precision with fixed years: the mean of both years' gains (definition of a balanced series)."""
    years = [pair(lead, workspace, season, {"A": 1100, "B": 1100 + more}) for season, more in ((2024, 60), (2025, 40))]
    row = portfolio(lead, workspace)["combined"][0]
    assert (row["series"], row["years"], row["problem"]) == ("Rows", 2, "")
    singles = [
        lead.ok("get", f"/trials/{year['id']}/verdict")["net_return"]["differences"][0]["estimate"]["value"] for year in years
    ]
    assert row["net"]["value"] == pytest.approx(sum(singles) / 2)
    assert row["name"] == "12.5 cm against 25 cm"
    direct = lead.ok("get", f"/trials/{years[0]['id']}/series?response=net_return")
    assert direct["combined"][0]["estimate"] == row["net"]
    assert direct["unit"] == "€/ha"


def test_a_year_without_a_price_is_named_and_left_out_of_the_money(lead: Api, workspace: Workspace) -> None:
    for season, price in ((2023, "200"), (2024, "210"), (2025, "")):
        last = pair(lead, workspace, season, {"A": 1100, "B": 1150}, price=price)
    result = lead.ok("get", f"/trials/{last['id']}/series?response=net_return")
    assert result["problem"] == ""
    assert len(result["alone"]) == 2
    assert any("Rows 2025 2025" in item and "not in the money" in item for item in result["remarks"])
    assert len(lead.ok("get", f"/trials/{last['id']}/series")["alone"]) == 3


def test_one_priced_year_is_no_series_in_money(lead: Api, workspace: Workspace) -> None:
    pair(lead, workspace, 2024, {"A": 1100, "B": 1150})
    last = pair(lead, workspace, 2025, {"A": 1100, "B": 1150}, price="")
    result = lead.ok("get", f"/trials/{last['id']}/series?response=net_return")
    assert "Only one trial" in result["problem"]
    assert "not in the money" in result["problem"]
    assert portfolio(lead, workspace)["combined"][0]["problem"] == result["problem"]


def test_damage_is_said(lead: Api, workspace: Workspace) -> None:
    trial = pair(lead, workspace, 2024, {"A": 1100, "B": 1180})
    body = {"lost": True, "sown_treatment_id": None, "reason": "hail"}
    lead.ok("patch", f"/strips/{trial['strips'][0]['id']}", body)
    assert "1 strip lost." in ledger(lead, workspace)["entries"][0]["said"]


def test_what_the_farm_learned_is_what_the_next_layout_takes(lead: Api, workspace: Workspace, trial: Place) -> None:
    """The CV in the lessons is the one the honest margin of a new trial of the crop is drawn with."""
    for season in (2023, 2024, 2025):
        pair(lead, workspace, season, {"A": 1100, "B": 1180}, blocks=5)
    lesson = next(item for item in portfolio(lead, workspace)["lessons"] if item["about"] == "Variation between strips")
    assert "over 3 trials" in lesson["words"]
    margin = lead.ok("post", f"/trials/{trial['id']}/margin", {"expected_yield": typed("7", "t/ha")})
    cv = lesson["words"].split("CV ")[1].split(" %")[0]
    assert f"{cv} %" in str(margin)


def test_luck_is_said_once_there_is_something_to_choose_from(lead: Api, workspace: Workspace) -> None:
    pair(lead, workspace, 2024, {"A": 1100, "B": 1180})
    assert ledger(lead, workspace)["luck"] == ""
    pair(lead, workspace, 2025, {"A": 1100, "B": 1150})
    assert "the best of 2 comparisons" in ledger(lead, workspace)["luck"]


def test_another_workspace_has_a_ledger_of_its_own(lead: Api, outsider: Api, workspace: Workspace) -> None:
    pair(lead, workspace, 2024, {"A": 1100, "B": 1180})
    other = outsider.client.get("/api/session").json()["person"]["workspaces"][0]["id"]
    assert outsider.ok("get", f"/workspaces/{other}/ledger")["entries"] == []


def test_the_ledger_asks_as_much_of_one_trial_as_of_many(lead: Api, workspace: Workspace) -> None:
    """A count beside the tests: rows come from summaries, however many trials there are."""
    asked = []
    for season in (2021, 2022, 2023):
        pair(lead, workspace, season, {"A": 1100, "B": 1180}, series="")
        make_old_ones_anew(most=10)
        with CaptureQueriesContext(connection) as queries:
            told = ledger(lead, workspace)
        asked.append(len(queries))
        assert told["total"] == len(asked)
    assert asked[0] == asked[1] == asked[2] <= 10


def test_it_says_the_same_from_summaries_and_from_trials(lead: Api, workspace: Workspace, trial: Place) -> None:
    del trial  # one that is open
    pair(lead, workspace, 2024, {"A": 1100, "B": 1180})
    pair(lead, workspace, 2025, {"A": 1200, "B": 1100})
    live = ledger(lead, workspace)
    assert make_old_ones_anew(most=10) == 3
    assert ledger(lead, workspace) == live
    assert live["recalculating"] == 0


def test_a_page_a_filter_and_an_order_of_it(lead: Api, workspace: Workspace) -> None:
    """Ranks, the scale and what luck shows are of all comparisons, whichever are on the page."""
    for season, more in ((2023, 40), (2024, 100), (2025, -50)):
        pair(lead, workspace, season, {"A": 1100, "B": 1100 + more}, series="")
    make_old_ones_anew(most=10)
    path = f"/workspaces/{workspace.id}/ledger"
    whole = lead.ok("get", path)
    assert [item["season"] for item in whole["entries"]] == [2024, 2023, 2025]
    second = lead.ok("get", f"{path}?offset=1&limit=1")
    assert second["entries"] == whole["entries"][1:2]
    assert (second["total"], second["span"], second["luck"]) == (3, whole["span"], whole["luck"])
    assert whole["span"][0] <= whole["entries"][2]["lower"]["value"]
    assert [item["season"] for item in lead.ok("get", f"{path}?order=season")["entries"]] == [2025, 2024, 2023]
    only = lead.ok("get", f"{path}?year=2025")
    assert [(item["season"], item["rank"]) for item in only["entries"]] == [(2025, 3)]
    assert only["choices"] == {
        "crop": ["Winter wheat"],
        "factor": ["Row spacing"],
        "field": [],
        "year": ["2023", "2024", "2025"],
    }
    assert lead.ok("get", f"{path}?factor=Tillage")["total"] == 0
    assert lead.call("get", f"{path}?order=colour").status_code == 422
