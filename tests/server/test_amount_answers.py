"""A rate that a curve answers for: verdict, money, report, ledger and protocol say one thing; or pairs by choice."""

from __future__ import annotations

import html
import re
from typing import Any
from uuid import uuid4

import pytest
from apps.accounts.models import Workspace

from tests.server.conftest import Api, count_body, harvest_all, typed
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


def test_where_the_rate_turns_with_tillage_each_has_its_curve(lead: Api, split: Place) -> None:
    """An established interaction of the amount: one answer a level, and none over all."""
    drawn = draw(lead, split, design="rcbd", strip_width=typed("3", "m"))
    now = lead.ok("patch", f"/trials/{split['id']}", {"version": drawn["version"], "amounts_by": "curve"})
    harvest_all(lead, now, {"A": 1400, "B": 1600, "C": 1420, "D": 1650, "E": 1480, "F": 1300}, 4)
    result = verdict(lead, split)
    for level in ("Plough", "Strip till"):
        assert re.search(rf"eeding rate at {level} matters", result["headline"]), result["headline"]
    averaged = lead.ok("get", f"/trials/{split['id']}/response-curves")["averaged"]
    assert [curve["level"] for curve in averaged] == ["Plough", "Strip till"]
    assert all(curve["level_pct"] == pytest.approx(95) for curve in averaged), "two levels share ten percent"
    assert averaged[0]["best"] > averaged[1]["best"]


def test_plants_to_spare_follow_the_counts(lead: Api, workspace: Workspace) -> None:
    """Half of what is sown was counted: half of the seeds that may be missing are plants (definition)."""
    trial = ladder(lead, workspace, BENT, net_margin=typed("15", "money/ha"))
    for strip in trial["strips"]:
        letter = next(item["letter"] for item in trial["treatments"] if item["id"] == strip["treatment_id"])
        seeds = {"A": 5, "B": 6, "C": 7, "D": 8, "E": 9, "F": 10}[letter]
        body = count_body(
            strip, str(round(seeds / 2 * 4 * 0.75)), length=typed("4", "m"), rows="1", row_spacing=typed("75", "cm")
        )
        lead.ok("put", f"/trials/{trial['id']}/stand-counts/{uuid4()}", body)
    safety = lead.ok("get", f"/trials/{trial['id']}/money")["optimum"]["safety"]
    missing, plants = re.search(r"best rate, ([\d.]+) thousand/ha .*about ([\d.]+) thousand/ha of the", safety).groups()  # type: ignore[union-attr]
    assert float(plants) == pytest.approx(float(missing) / 2, rel=0.05)


def test_a_rate_that_is_not_shown_to_matter_gains_nothing(lead: Api, workspace: Workspace) -> None:
    """The best of many is always above the farm's own by luck: no call of a gain without a shown effect."""
    trial = ladder(lead, workspace, dict.fromkeys("ABCDEF", 1600), net_margin=typed("1000", "money/ha"))
    headline = verdict(lead, trial)["headline"]
    assert headline.startswith("It is not shown that seeding rate matters")
    [row] = [entry for entry in ledger_rows(lead, workspace) if entry["trial_id"] == trial["id"]]
    assert row["lower"]["value"] == 0
    assert row["call"] == "no_difference_that_matters"


def test_a_rate_far_from_the_best_is_called(lead: Api, workspace: Workspace) -> None:
    steep = {"A": 1000, "B": 1200, "C": 1380, "D": 1400, "E": 1700, "F": 1710}
    trial = ladder(lead, workspace, steep, net_margin=typed("15", "money/ha"))
    assert "Seeding rate matters" in verdict(lead, trial)["headline"]
    [row] = [entry for entry in ledger_rows(lead, workspace) if entry["trial_id"] == trial["id"]]
    assert row["call"] == "gain"
    assert row["lower"]["value"] > 0
    report = lead.call("get", f"/trials/{trial['id']}/report").content.decode()
    assert "rather than 80.0 thousand/ha where the field is alike" in report
