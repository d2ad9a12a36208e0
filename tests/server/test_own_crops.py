"""A farm's own crop: everything of its nearest relative, and said so."""

from __future__ import annotations

from typing import Any

import pytest
from apps.accounts.models import Workspace

from tests.server.conftest import Api


def offered(api: Api, workspace: Workspace) -> dict[str, str]:
    answer = api.ok("post", f"/workspaces/{workspace.id}/crops", {"name": "Faba bean", "relative": "field_pea"})
    return {item["key"]: item["relative"] for item in answer["crops"]}


def test_it_can_be_chosen_and_is_marked_everywhere(adviser: Api, workspace: Workspace) -> None:
    key = "field_pea:Faba bean"
    assert offered(adviser, workspace)[key] == "Field pea"
    assert offered(adviser, workspace)[key] == "Field pea", "twice is once"
    body = {"title": "Faba rows", "crop": key, "season": 2026}
    trial = adviser.ok("post", f"/workspaces/{workspace.id}/trials", body)
    assert trial["crop_name"] == "Faba bean (as field pea)"
    assert any("nothing of them was checked for faba bean" in note for note in trial["notes"])
    page = adviser.call("get", f"/trials/{trial['id']}/report").content.decode()
    assert "Faba bean (as field pea)" in page


def test_it_works_as_its_relative_does(lead: Api, workspace: Workspace) -> None:
    offered(lead, workspace)
    answers: list[Any] = []
    for crop in ("field_pea", "field_pea:Faba bean"):
        trial = lead.ok("post", f"/workspaces/{workspace.id}/trials", {"title": "x", "crop": crop, "season": 2026})
        trial = lead.ok("patch", f"/trials/{trial['id']}", {"version": 1, "planted_on": "2026-04-02"})
        pages = [lead.ok("get", f"/trials/{trial['id']}/{name}") for name in ("planting", "scouting", "estimates")]
        answers.append((trial["units"], pages[0]["window"], pages[1]["rule"], pages[2]["methods"]))
    assert answers[0] == answers[1]


@pytest.mark.parametrize(
    ("body", "field"),
    [
        ({"name": "", "relative": "maize"}, "name"),
        ({"name": "a:b", "relative": "maize"}, "name"),
        ({"name": "Maize", "relative": "sorghum"}, "name"),
        ({"name": "x" * 41, "relative": "maize"}, "name"),
        ({"name": "Sainfoin", "relative": "triffid"}, "relative"),
        ({"name": "Sainfoin", "relative": "field_pea:Faba bean"}, "relative"),
    ],
)
def test_what_cannot_be_is_refused(lead: Api, workspace: Workspace, body: dict[str, str], field: str) -> None:
    assert lead.refused("post", f"/workspaces/{workspace.id}/crops", body)["field"] == field
    workspace.refresh_from_db()
    assert workspace.own_crops == []


def test_a_crop_nobody_added_is_refused_where_it_cannot_be(lead: Api, workspace: Workspace) -> None:
    for key in ("triffid:Faba bean", "field_pea:", "field_pea: Faba", "field_pea:Faba:bean"):
        body = {"title": "x", "crop": key, "season": 2026}
        assert lead.refused("post", f"/workspaces/{workspace.id}/trials", body)["field"] == "crop"
