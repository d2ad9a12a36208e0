"""A workspace lies in a region: its units, level, paper, and how numbers and days are written and read."""

from __future__ import annotations

from typing import Any
from uuid import uuid4

import pytest
from apps.accounts.models import Workspace
from apps.field.stand.models import StandCount
from apps.trials.models import Trial

from tests.server.conftest import Api, count_body


def moved(lead: Api, workspace: Workspace, **body: Any) -> Any:
    return lead.ok("patch", f"/workspaces/{workspace.id}", body)


def new_trial(lead: Api, workspace: Workspace, crop: str = "soybean") -> Any:
    return lead.ok("post", f"/workspaces/{workspace.id}/trials", {"title": "Rows", "crop": crop, "season": 2026})


def priced(lead: Api, trial: Any, text: str, unit: str) -> Any:
    body = {"version": trial["version"], "price": {"text": text, "unit": unit}}
    return lead.call("patch", f"/trials/{trial['id']}", body)


def test_a_region_brings_its_units_to_everybody_who_left_them_to_it(lead: Api, scout: Api, workspace: Workspace) -> None:
    scout.ok("patch", "/session", {"unit_system": "metric"})
    trial = new_trial(lead, workspace)
    assert trial["units"]["yield"] == "t/ha"
    moved(lead, workspace, region="us")
    assert (
        lead.ok("get", f"/trials/{trial['id']}")["units"] | {"yield": "bu/ac", "density": "/ac"}
        == lead.ok("get", f"/trials/{trial['id']}")["units"]
    )
    assert scout.ok("get", f"/trials/{trial['id']}")["units"]["yield"] == "t/ha", "who chose a system keeps it"


def test_what_is_changed_of_a_region_holds_and_goes_with_it(lead: Api, workspace: Workspace) -> None:
    trial = new_trial(lead, workspace, "maize")
    moved(lead, workspace, region="us")
    here = moved(lead, workspace, region_changes={"units": {"yield": "lb/ac"}, "paper": "A4", "alpha": 0.2})
    assert (here["changed_units"], here["paper"], here["alpha"]) == ({"yield": "lb/ac"}, "A4", 0.2)
    assert lead.ok("get", f"/trials/{trial['id']}")["units"]["yield"] == "lb/ac"
    assert new_trial(lead, workspace)["alpha"] == 0.2
    here = moved(lead, workspace, region_changes={"units": {"yield": ""}, "paper": ""})
    assert (here["changed_units"], here["paper"], here["alpha"]) == ({}, "Letter", 0.2), "only what was given back goes"
    here = moved(lead, workspace, region="canada")
    assert (here["alpha"], here["crops"][0]["key"]) == (0.05, "oilseed_rape")
    assert Trial.objects.get(id=trial["id"]).alpha == 0.10, "a trial keeps the level it was begun with"


@pytest.mark.parametrize(
    ("body", "field"),
    [
        ({"region": "mars"}, "region"),
        ({"region_changes": {"units": {"yield": "bu/ac"}}}, "units"),
        ({"region_changes": {"units": {"speed": "knots"}}}, "units"),
        ({"region_changes": {"alpha": 3}}, "alpha"),
        ({"region_changes": {"crops_first": ["triffid"]}}, "crops_first"),
    ],
)
def test_what_cannot_be_is_refused_and_changes_nothing(lead: Api, workspace: Workspace, body: Any, field: str) -> None:
    assert lead.refused("patch", f"/workspaces/{workspace.id}", body)["field"] == field
    workspace.refresh_from_db()
    assert (workspace.region, workspace.region_changes) == ("europe", {})


def test_only_a_lead_says_where_a_workspace_lies(scout: Api, workspace: Workspace) -> None:
    assert scout.call("patch", f"/workspaces/{workspace.id}", {"region": "us"}).status_code == 403


def test_numbers_are_read_as_the_place_writes_them_request_by_request(lead: Api, workspace: Workspace) -> None:
    trial = new_trial(lead, workspace, "maize")
    assert priced(lead, trial, "1,250", "money/t").json()["code"] == "ambiguous_number"
    moved(lead, workspace, region="us")
    answer = priced(lead, trial, "1,250", "money/t").json()
    assert Trial.objects.get(id=trial["id"]).price_per_t == 1250
    assert answer["price"]["text"] == "1,250", "what was typed stays as it was typed"
    moved(lead, workspace, region="europe")
    assert priced(lead, answer, "1,251", "money/t").json()["code"] == "ambiguous_number", "the place before leaves no trace"


def test_a_limit_speaks_the_unit_that_was_typed(lead: Api, workspace: Workspace) -> None:
    moved(lead, workspace, region="us")
    trial = new_trial(lead, workspace, "maize")
    body = {"version": trial["version"], "expected_yield": {"text": "9000", "unit": "bu/ac"}}
    assert "bu/ac" in lead.refused("patch", f"/trials/{trial['id']}", body)["message"]


def test_the_regions_are_told_before_anybody_is_there(db: None) -> None:  # noqa: ARG001
    result = Api().ok("get", "/regions")
    assert [item["key"] for item in result["regions"]] == ["europe", "us", "canada"]
    kinds = {item["kind"]: [code for code, _ in item["units"]] for item in result["quantities"]}
    assert {"cm", "in"} <= set(kinds["row_spacing"])
    assert "bu/ac" not in kinds["yield"], "a bushel weighs differently by crop"


def test_the_report_is_cut_for_the_paper(lead: Api, workspace: Workspace) -> None:
    trial = new_trial(lead, workspace)
    for region, paper in (("europe", "A4"), ("us", "Letter")):
        moved(lead, workspace, region=region)
        page = lead.call("get", f"/trials/{trial['id']}/report")
        assert f"size: {paper};" in page.content.decode()
        assert "style-src 'sha256-" in page["Content-Security-Policy"]


def test_a_row_length_is_typed_and_told_in_feet_and_inches(lead: Api, workspace: Workspace, trial: dict[str, Any]) -> None:
    moved(lead, workspace, region="us")
    body = count_body(trial["strips"][0]) | {"length": {"text": "17 ft 5 in", "unit": "ft"}}
    kept = lead.ok("put", f"/trials/{trial['id']}/stand-counts/{uuid4()}", body)
    assert StandCount.objects.get(id=kept["id"]).length_m == pytest.approx(17 * 0.3048 + 5 * 0.0254)
    assert kept["length"] == {"text": "17 ft 5 in", "unit": "ft", "shown": "17 ft 5 in"}
