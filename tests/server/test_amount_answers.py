"""A rate that a curve answers for: verdict, money, report, ledger and protocol say one thing; or pairs by choice."""

from __future__ import annotations

import html
import re
from typing import Any

import pytest
from apps.accounts.models import Workspace

from tests.server.conftest import Api, harvest_all, typed
from tests.server.test_verdict_designs import BENT, Place, draw, ladder, verdict


def ledger_rows(api: Api, workspace: Workspace) -> list[dict[str, Any]]:
    return api.ok("get", f"/workspaces/{workspace.id}/ledger")["entries"]


def test_a_curve_is_the_one_family_of_a_rate(lead: Api, workspace: Workspace) -> None:
    trial = ladder(lead, workspace, BENT)
    assert trial["amounts_by"] == "curve"
    result = verdict(lead, trial)
    answer = lead.ok("get", f"/trials/{trial['id']}/response-curves")["answer"]
    assert result["headline"] == " ".join(answer)
    assert result["money"].startswith("In money your 80.0 thousand/ha is estimated to return ")
    assert result["yield_"]["differences"] == [], "no pairwise calls beside it"
    assert all(mean["letters"] is None for mean in result["yield_"]["means"])
    assert result["yield_"]["letters_note"] == ""


def test_screen_report_and_ledger_agree_on_the_rate(lead: Api, workspace: Workspace) -> None:
    trial = ladder(lead, workspace, BENT)
    result = verdict(lead, trial)
    report = lead.call("get", f"/trials/{trial['id']}/report").content.decode()
    told = " ".join(html.unescape(re.sub(r"<[^>]+>", " ", report)).split())
    assert result["headline"] in told
    [row] = [entry for entry in ledger_rows(lead, workspace) if entry["trial_id"] == trial["id"]]
    best = re.search(r"best return is at ([\d.]+ thousand/ha)", result["headline"])
    assert best is not None
    assert row["name"] == f"Seeding rate: {best[1]} (best) against 80.0 thousand/ha"
    loss = re.search(r"estimated to return ([\d.]+) €/ha less than the best, at most ([\d.]+) €/ha", result["money"])
    assert loss is not None
    assert row["net"]["text"] == f"+{loss[1]} €/ha"
    assert row["upper"]["text"] == f"+{loss[2]} €/ha"
    assert row["standing"] == "judged"
    optimum = lead.ok("get", f"/trials/{trial['id']}/money")["optimum"]["best"]
    assert best[1] in optimum


def test_a_person_may_choose_pairs(lead: Api, workspace: Workspace) -> None:
    trial = ladder(lead, workspace, BENT, amounts_by="pairs")
    result = verdict(lead, trial)
    assert result["headline"].startswith("Against D (80 thousand/ha): ")
    assert len(result["yield_"]["differences"]) == 5
    changed = lead.ok("patch", f"/trials/{trial['id']}", {"version": trial["version"], "amounts_by": "curve"})
    assert changed["amounts_by"] == "curve"
    assert verdict(lead, trial)["yield_"]["differences"] == []


def test_costs_that_are_not_in_proportion_lie_on_lines_between_levels(lead: Api, workspace: Workspace) -> None:
    """A charge on everything above 80 thousand pulls the best return down to what is not charged (definition)."""
    trial = ladder(lead, workspace, BENT)
    free = lead.ok("get", f"/trials/{trial['id']}/response-curves")
    rows = [
        {
            "id": item["id"],
            "levels": [{"text": item["levels"][0]["text"], "unit": item["levels"][0]["unit"]}],
            "is_control": item["is_control"],
            "extra_cost": typed("400" if float(item["levels"][0]["text"]) > 80 else "", "money/ha"),
        }
        for item in trial["treatments"]
    ]
    now = lead.ok("get", f"/trials/{trial['id']}")
    body = {"version": now["version"], "factors": [{"kind": "seeding_rate"}], "treatments": rows}
    lead.ok("put", f"/trials/{trial['id']}/treatments", body)
    charged = lead.ok("get", f"/trials/{trial['id']}/response-curves")
    assert "on a line between them" in charged["money"]
    assert charged["averaged"][0]["best"] <= 80
    assert charged["averaged"][0]["best"] <= free["averaged"][0]["best"] + 1e-6
    assert "best return" in charged["answer"][1]


def test_a_rate_by_tillage_has_a_sentence_a_factor(lead: Api, split: Place) -> None:
    drawn = draw(lead, split)
    now = lead.ok("patch", f"/trials/{split['id']}", {"version": drawn["version"], "amounts_by": "curve"})
    nets = {"A": 1500, "B": 1620, "C": 1640, "D": 1520, "E": 1640, "F": 1660}
    harvest_all(lead, now, nets, 9)
    result = verdict(lead, split)
    assert result["headline"].startswith("Seeding rate matters")
    assert re.search(r"Tillage: .*(Strip till|Plough)", result["headline"])
    assert {row["factor"] for row in result["yield_"]["differences"]} == {"Tillage"}
    entries = [entry["name"] for entry in ledger_rows(lead, Workspace.objects.get())]
    assert any(name.startswith("Seeding rate: ") for name in entries)
    assert any("Strip till" in name for name in entries)


def test_the_choice_is_frozen(lead: Api, workspace: Workspace) -> None:
    trial = ladder(lead, workspace, BENT, question="Which rate?", expected_yield=typed("10", "t/ha"))
    frozen = lead.ok("post", f"/trials/{trial['id']}/protocol")
    content = dict(frozen["protocol"]["content"])
    assert content["amounts answered by"] == "a curve"
    assert content["practical margin"] == "0.2 t/ha", "2 % of the expected yield is written down where none is stated"
    change = {"version": frozen["version"], "amounts_by": "pairs"}
    refused = lead.call("patch", f"/trials/{trial['id']}", change)
    assert refused.status_code == 409
    assert "amounts answered by" in refused.json()["message"]


@pytest.mark.parametrize("price", ["", "200"])
def test_without_a_price_yield_is_what_is_lost(lead: Api, workspace: Workspace, price: str) -> None:
    trial = ladder(lead, workspace, BENT, price=typed(price, "money/t" if price else ""), practical_margin=typed("0.1", "t/ha"))
    headline = verdict(lead, trial)["headline"]
    assert ("highest yield" in headline) == (not price)
    assert ("within 0.10 t/ha of the best" in headline) == (not price)


def test_the_layout_says_how_well_a_curve_would_answer(lead: Api, workspace: Workspace) -> None:
    trial = ladder(lead, workspace, BENT, expected_yield=typed("10", "t/ha"))
    path = f"/trials/{trial['id']}/amount-plan"
    told = lead.ok("post", path, {})["sentence"]
    assert told.startswith("A curve answers for the seeding rate. Where the best lies inside 50.0 to 100.0 thousand/ha")
    calm = lead.ok("post", path, {"cv": "0.5"})["sentence"]
    width = [float(re.search(r"about ([\d.]+) thousand/ha wide", text)[1]) for text in (told, calm)]  # type: ignore[index]
    assert width[1] < width[0]
    now = lead.ok("get", f"/trials/{trial['id']}")
    lead.ok("patch", f"/trials/{trial['id']}", {"version": now["version"], "amounts_by": "pairs"})
    assert lead.ok("post", path, {})["sentence"] == ""
