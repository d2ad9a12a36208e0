"""The ledger: every comparison ranked by its money, looks and losers as what they are, series combined, lessons."""

from __future__ import annotations

from typing import Any

import pytest
from apps.accounts.models import Workspace
from django.db import connection
from django.test.utils import CaptureQueriesContext

from tests.server.conftest import Api, harvest_all, typed

Place = dict[str, Any]


def ledger(api: Api, workspace: Workspace) -> Place:
    found: Place = api.ok("get", f"/workspaces/{workspace.id}/ledger")
    return found


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
    found: Place = made
    return found


def test_nothing_tried_yet(lead: Api, workspace: Workspace) -> None:
    assert ledger(lead, workspace)["entries"] == []


def test_ranked_by_money_with_losers_and_looks_apart(lead: Api, workspace: Workspace) -> None:
    good = pair(lead, workspace, 2024, {"A": 1100, "B": 1200}, series="")
    bad = pair(lead, workspace, 2025, {"A": 1200, "B": 1100}, series="")
    look = pair(lead, workspace, 2023, {"A": 1000, "B": 1400}, series="", blocks=1, design="unreplicated")
    found = ledger(lead, workspace)["entries"]
    assert [(one["trial_id"], one["rank"], one["standing"]) for one in found] == [
        (good["id"], 1, "judged"),
        (bad["id"], 2, "judged"),
        (look["id"], None, "look"),
    ]
    assert [one["call"] for one in found] == ["gain", "loss", None]
    assert found[2]["lower"] is None
    assert found[2]["call_words"] == "a look, not a result"
    assert found[2]["net"]["value"] > found[0]["net"]["value"], "a look may look best and is not ranked for it"
    assert found[0]["factors"] == ["Row spacing"]


def test_entries_are_the_verdicts_own(lead: Api, workspace: Workspace) -> None:
    trial = pair(lead, workspace, 2024, {"A": 1100, "B": 1180})
    row = ledger(lead, workspace)["entries"][0]
    wanted = lead.ok("get", f"/trials/{trial['id']}/verdict")
    one = wanted["net_return"]["differences"][0]
    assert (row["net"], row["lower"], row["upper"]) == (one["estimate"], one["lower"], one["upper"])
    assert (row["call"], row["chance"]) == (one["call"], one["chance_above_zero"])
    assert row["yield_"] == wanted["yield_"]["differences"][0]["estimate"]["text"]


def test_what_is_open_and_what_has_no_price(lead: Api, workspace: Workspace, trial: Place) -> None:
    unpriced = pair(lead, workspace, 2025, {"A": 1100, "B": 1180}, price="", series="")
    found = {one["trial_id"]: one for one in ledger(lead, workspace)["entries"]}
    assert found[trial["id"]]["standing"] == "open"
    assert found[trial["id"]]["name"] == "not harvested yet"
    assert found[unpriced["id"]]["rank"] is None
    assert "no price is set" in found[unpriced["id"]]["said"]
    assert found[unpriced["id"]]["yield_call"] == "gain"


def test_a_series_is_combined_in_money(lead: Api, workspace: Workspace) -> None:
    """Two years of equal precision with fixed years: the mean of both years' gains (definition of a balanced series)."""
    years = [pair(lead, workspace, season, {"A": 1100, "B": 1100 + more}) for season, more in ((2024, 60), (2025, 40))]
    row = ledger(lead, workspace)["combined"][0]
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
    found = lead.ok("get", f"/trials/{last['id']}/series?response=net_return")
    assert found["problem"] == ""
    assert len(found["alone"]) == 2
    assert any("Rows 2025 2025" in one and "not in the money" in one for one in found["remarks"])
    assert len(lead.ok("get", f"/trials/{last['id']}/series")["alone"]) == 3


def test_one_priced_year_is_no_series_in_money(lead: Api, workspace: Workspace) -> None:
    pair(lead, workspace, 2024, {"A": 1100, "B": 1150})
    last = pair(lead, workspace, 2025, {"A": 1100, "B": 1150}, price="")
    found = lead.ok("get", f"/trials/{last['id']}/series?response=net_return")
    assert "Only one trial" in found["problem"]
    assert "not in the money" in found["problem"]
    assert ledger(lead, workspace)["combined"][0]["problem"] == found["problem"]


def test_damage_is_said(lead: Api, workspace: Workspace) -> None:
    trial = pair(lead, workspace, 2024, {"A": 1100, "B": 1180})
    body = {"lost": True, "sown_treatment_id": None, "reason": "hail"}
    lead.ok("patch", f"/strips/{trial['strips'][0]['id']}", body)
    assert "1 strip lost." in ledger(lead, workspace)["entries"][0]["said"]


def test_what_the_farm_learned_is_what_the_next_layout_takes(lead: Api, workspace: Workspace, trial: Place) -> None:
    """The CV in the lessons is the one the honest margin of a new trial of the crop is drawn with."""
    for season in (2023, 2024, 2025):
        pair(lead, workspace, season, {"A": 1100, "B": 1180}, blocks=5)
    lesson = next(one for one in ledger(lead, workspace)["lessons"] if one["about"] == "Variation between strips")
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


def test_the_ledger_asks_the_database_in_proportion_to_its_trials(lead: Api, workspace: Workspace) -> None:
    """A count beside the tests: what one more trial costs does not grow with the number of trials."""
    asked = []
    for season in (2021, 2022, 2023, 2024):
        pair(lead, workspace, season, {"A": 1100, "B": 1180}, series="")
        ledger(lead, workspace)  # the verdict is computed and stored
        with CaptureQueriesContext(connection) as queries:
            ledger(lead, workspace)
        asked.append(len(queries))
    steps = [later - before for before, later in zip(asked[:-1], asked[1:], strict=True)]
    assert max(steps) - min(steps) <= 2
    assert max(steps) <= 40
