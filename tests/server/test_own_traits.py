"""Variables of a workspace's own, from Setup through plan, field book, comparison and verdict to the package and back."""

from __future__ import annotations

from datetime import timedelta
from typing import Any
from uuid import uuid4

import pytest
from apps.accounts.models import Workspace
from django.utils import timezone

from tests.server.conftest import Api, now, package_bytes, send_package, typed

Place = dict[str, Any]
SUGAR = {"name": "Sugar", "way": "number", "unit": "°Bx", "low": "0", "high": "40", "decimals": "1", "better": "more"}
RUST = {"name": "Rust", "way": "choice", "words": ["none", "patches", "everywhere"]}
GREEN = {"name": "Stay green", "way": "rating", "low": "0", "high": "5", "words": ["dry", "all green"]}
VALUES = {"A": 14.0, "B": 16.5, "C": 15.2}


@pytest.fixture
def keys(lead: Api, workspace: Workspace) -> dict[str, str]:
    """The three offered; their keys by name."""
    path = f"/workspaces/{workspace.id}/own-traits"
    for body in (SUGAR, RUST, GREEN):
        answer = lead.ok("post", path, body)
    return {item["name"]: item["key"] for item in answer}


def measure(api: Api, trial: Place, strip: Place, key: str, text: str) -> Any:
    body = {"strip_id": strip["id"], "trait": key, "value": typed(text), "recorded_at": now()}
    return api.call("put", f"/trials/{trial['id']}/plant-measures/{uuid4()}", body)


def rate(api: Api, trial: Place, strip: Place, key: str, score: int) -> Any:
    body = {"strip_id": strip["id"], "trait": key, "score": score, "recorded_at": now()}
    return api.call("put", f"/trials/{trial['id']}/ratings/{uuid4()}", body)


def letter(trial: Place, strip: Place) -> str:
    return next(item["letter"] for item in trial["treatments"] if item["id"] == strip["treatment_id"])


def test_they_stand_in_the_field_book_with_unit_scale_and_words(scout: Api, trial: Place, keys: dict[str, str]) -> None:
    scouting = scout.ok("get", f"/trials/{trial['id']}/scouting")
    sugar = next(item for item in scouting["measured"] if item["key"] == keys["Sugar"])
    assert (sugar["name"], sugar["units"], sugar["signed"]) == ("Sugar", [["", "°Bx"]], False)
    green, rust = (next(item for item in scouting["rated"] if item["key"] == keys[name]) for name in ("Stay green", "Rust"))
    assert (green["lowest"], green["highest"], green["choices"]) == (0, 5, [])
    assert rust["choices"] == ["none", "patches", "everywhere"]


def test_limits_scale_and_words_are_kept_to(scout: Api, trial: Place, keys: dict[str, str]) -> None:
    strip = trial["strips"][0]
    assert measure(scout, trial, strip, keys["Sugar"], "41").json()["field"] == "value"
    assert measure(scout, trial, strip, keys["Sugar"], "sweet").status_code == 422
    assert measure(scout, trial, strip, keys["Sugar"], "17.5").status_code == 201
    assert rate(scout, trial, strip, keys["Stay green"], 0).status_code == 201
    assert rate(scout, trial, strip, keys["Stay green"], 6).status_code == 422
    assert [rate(scout, trial, strip, keys["Rust"], score).status_code for score in (0, 1, 3, 4)] == [422, 201, 201, 422]
    assert measure(scout, trial, strip, keys["Rust"], "1").status_code == 422


def test_numbers_are_compared_and_words_are_counted(lead: Api, trial: Place, keys: dict[str, str]) -> None:
    for place, strip in enumerate(trial["strips"]):
        measure(lead, trial, strip, keys["Sugar"], f"{VALUES[letter(trial, strip)] + 0.1 * (place % 2)}")
        rate(lead, trial, strip, keys["Rust"], 1 if letter(trial, strip) == "A" else 3)
    scouting = lead.ok("get", f"/trials/{trial['id']}/scouting")
    (sugar,) = (item for item in scouting["summaries"] if item["name"] == "Sugar")
    means = {row["treatment_id"]: row["mean"]["text"] for row in sugar["treatments"]}
    assert all(text.endswith("°Bx") for text in means.values())
    assert any(row["difference"] for row in sugar["treatments"])
    assert "Rust" not in {item["name"] for item in scouting["summaries"]}, "words have no mean"
    (rust,) = scouting["choices"]
    first = next(item["id"] for item in trial["treatments"] if item["letter"] == "A")
    counted = {row["treatment_id"]: row["strips"] for row in rust["treatments"]}
    blocks = len(trial["strips"]) // len(trial["treatments"])
    assert counted[first] == [blocks, 0, 0]
    assert [sum(column) for column in zip(*counted.values(), strict=True)] == [blocks, 0, 2 * blocks]


def test_a_trial_is_judged_by_one(lead: Api, trial: Place, keys: dict[str, str]) -> None:
    key = f"measure:{keys['Sugar']}"
    assert key in {choice["key"] for choice in trial_of(lead, trial)["responses"]}
    body = {"version": trial["version"], "primary_response": key, "response_margin": typed("0.5")}
    judged = lead.ok("patch", f"/trials/{trial['id']}", body)
    assert judged["response_name"] == "Sugar"
    for place, strip in enumerate(trial["strips"]):
        measure(lead, trial, strip, keys["Sugar"], f"{VALUES[letter(trial, strip)] + 0.1 * (place % 2)}")
    verdict = lead.ok("get", f"/trials/{trial['id']}/verdict")
    assert verdict["primary_name"] == "Sugar"
    assert "°Bx" in str(verdict)


def trial_of(api: Api, trial: Place) -> Place:
    found: Place = api.ok("get", f"/trials/{trial['id']}")
    return found


def test_one_that_is_planned_is_due(lead: Api, scout: Api, workspace: Workspace, trial: Place) -> None:
    lead.ok("post", f"/workspaces/{workspace.id}/own-traits", {**SUGAR, "days": "60"})
    day = (timezone.localdate() - timedelta(days=61)).isoformat()
    lead.ok("patch", f"/trials/{trial['id']}", {"version": trial["version"], "planted_on": day})
    visit = next(item for item in lead.ok("get", f"/trials/{trial['id']}/schedule")["visits"] if item["what"] == "Sugar")
    assert (visit["state"], visit["task"]) == ("due", "measure")
    assert "Sugar" in {due["what"] for due in lead.ok("get", f"/workspaces/{workspace.id}/today")["dues"]}
    for strip in trial["strips"]:
        measure(scout, trial, strip, visit["trait"], "15")
    visit = next(item for item in lead.ok("get", f"/trials/{trial['id']}/schedule")["visits"] if item["what"] == "Sugar")
    assert visit["state"] == "done"


def test_one_of_another_crop_is_not_offered(lead: Api, workspace: Workspace, trial: Place) -> None:
    lead.ok("post", f"/workspaces/{workspace.id}/own-traits", {**SUGAR, "crop": "maize"})
    assert trial["crop"] != "maize"
    names = {item["name"] for item in lead.ok("get", f"/trials/{trial['id']}/scouting")["measured"]}
    assert "Sugar" not in names


def test_withdrawn_it_is_offered_no_more_and_compared_as_before(
    lead: Api, workspace: Workspace, trial: Place, keys: dict[str, str]
) -> None:
    for strip in trial["strips"]:
        measure(lead, trial, strip, keys["Sugar"], "15")
    left = lead.ok("post", f"/workspaces/{workspace.id}/own-traits/withdraw", {"key": keys["Sugar"]})
    assert [item["name"] for item in left] == ["Rust", "Stay green"]
    scouting = lead.ok("get", f"/trials/{trial['id']}/scouting")
    assert "Sugar" not in {item["name"] for item in scouting["measured"]}
    assert "Sugar" in {item["name"] for item in scouting["summaries"]}


def test_a_package_takes_them_along(lead: Api, outsider: Api, workspace: Workspace, trial: Place, keys: dict[str, str]) -> None:
    del workspace
    for strip in trial["strips"]:
        measure(lead, trial, strip, keys["Sugar"], "15")
        rate(lead, trial, strip, keys["Rust"], 2)
    elsewhere = Workspace.objects.get(name="Elsewhere")
    elsewhere.currency = "€"
    elsewhere.save()
    answer = send_package(outsider, str(elsewhere.id), package_bytes(lead, trial))
    assert answer.status_code == 201, answer.content
    scouting = outsider.ok("get", f"/trials/{answer.json()['id']}/scouting")
    assert "Sugar" in {item["name"] for item in scouting["summaries"]}
    assert [item["name"] for item in scouting["choices"]] == ["Rust"]
    there = {item["name"]: item["words"] for item in outsider.ok("get", f"/workspaces/{elsewhere.id}/own-traits")}
    assert there == {"Rust": "one of none, patches, everywhere", "Sugar": "0 to 40 °Bx"}


@pytest.mark.parametrize(
    ("body", "field"),
    [
        ({**SUGAR, "name": " "}, "name"),
        ({**SUGAR, "low": ""}, "low"),
        ({**SUGAR, "high": "lots"}, "high"),
        ({**SUGAR, "decimals": "1.5"}, "decimals"),
        ({**SUGAR, "days": "soon"}, "days"),
        ({**SUGAR, "crop": "moss"}, "crop"),
        ({**RUST, "words": ["none"]}, "words"),
        ({**GREEN, "high": "99"}, "high"),
    ],
)
def test_what_cannot_be_is_refused_by_its_field(lead: Api, workspace: Workspace, body: Place, field: str) -> None:
    refused = lead.refused("post", f"/workspaces/{workspace.id}/own-traits", body)
    assert refused["field"] == field
    assert lead.ok("get", f"/workspaces/{workspace.id}/own-traits") == []
