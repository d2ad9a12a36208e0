"""The life of a trial: copied, archived, binned, restored, purged; its season closed and opened again."""

from __future__ import annotations

from datetime import timedelta
from typing import Any
from uuid import uuid4

import pytest
from apps.accounts.models import Workspace
from apps.backup.removing import paths_to
from apps.field.stand.models import StandCount
from apps.trials.life import purge_overdue
from apps.trials.models import Trial, TrialLife
from django.utils import timezone

from tests.server.conftest import (
    Api,
    add_drill,
    add_lot,
    calibration_body,
    count_body,
    load_body,
    package_bytes,
    record_count,
    send_package,
)

Place = dict[str, Any]


@pytest.fixture
def recorded(lead: Api, trial: Place) -> Place:
    """The trial with a count and a load on each strip."""
    for strip in trial["strips"]:
        lead.ok("put", f"/trials/{trial['id']}/stand-counts/{uuid4()}", count_body(strip, "44"))
        lead.ok("put", f"/trials/{trial['id']}/harvest-loads/{uuid4()}", load_body(strip))
    return trial


def titles(api: Api, workspace: Workspace, query: str = "") -> list[str]:
    return [row["title"] for row in api.ok("get", f"/workspaces/{workspace.id}/trials{query}")["rows"]]


def test_a_copy_asks_the_same_and_has_no_records(lead: Api, recorded: Place) -> None:
    body = {"title": "Width on the other field", "season": 2027}
    copy = lead.ok("post", f"/trials/{recorded['id']}/copy", body)
    assert (copy["title"], copy["season"], copy["series"], copy["field"]) == ("Width on the other field", 2027, "", None)
    for name in ("question", "crop", "price", "unit_cost", "alpha", "primary_response"):
        assert copy[name] == recorded[name], name
    assert [[level["text"] for level in item["levels"]] for item in copy["treatments"]] == [
        [level["text"] for level in item["levels"]] for item in recorded["treatments"]
    ]
    assert (copy["strips"], copy["protocol"], copy["planted_on"], copy["seed"]) == ([], None, None, None)
    asked = copy["layout"]["asked"]
    assert (asked["design"], asked["blocks"]) == ("rcbd", 3), "the form of the layout starts from what was asked for before"
    assert "seed" not in asked, "it is drawn anew"


def test_the_archive_is_out_of_sight_and_still_counts(lead: Api, workspace: Workspace, recorded: Place) -> None:
    path = f"/trials/{recorded['id']}"
    ledger = lead.ok("get", f"/workspaces/{workspace.id}/ledger")
    assert lead.ok("post", f"{path}/archive", {"archived": True})["archived"] is True
    assert titles(lead, workspace) == []
    assert titles(lead, workspace, "?archived=true") == [recorded["title"]]
    assert recorded["id"] not in str(lead.ok("get", f"/workspaces/{workspace.id}/today"))
    assert lead.ok("get", f"/workspaces/{workspace.id}/ledger") == ledger, "what was found out stays found out"
    lead.ok("post", f"{path}/archive", {"archived": False})
    assert titles(lead, workspace) == [recorded["title"]]


def test_the_bin_takes_a_trial_out_of_everything_and_gives_it_back(lead: Api, workspace: Workspace, recorded: Place) -> None:
    home, path = f"/workspaces/{workspace.id}", f"/trials/{recorded['id']}"
    before = {page: lead.ok("get", f"{path}{page}") for page in ("/stand", "/harvest", "/verdict")}
    assert lead.refused("post", f"{path}/bin", {"reason": " "})["field"] == "reason"
    assert lead.call("post", f"{path}/bin", {"reason": "entered twice"}).status_code == 204
    for page in ("trials", "today", "ledger", "portfolio"):
        assert recorded["id"] not in str(lead.ok("get", f"{home}/{page}")), page
    refused = lead.refused("get", f"{path}/verdict", status=409)
    assert refused["code"] == "in_bin"
    count = f"{path}/stand-counts/{uuid4()}"
    assert lead.refused("put", count, count_body(recorded["strips"][0]), status=409)["code"] == "in_bin"
    (binned,) = lead.ok("get", f"{home}/bin")["trials"]
    assert (binned["title"], binned["reason"], binned["by"]) == (recorded["title"], "entered twice", "Mirren")
    assert "9 stand counts and 9 loads" in binned["records"]
    lead.ok("post", f"{home}/bin/{recorded['id']}/restore")
    assert lead.ok("get", f"{home}/bin")["trials"] == []
    assert {page: lead.ok("get", f"{path}{page}") for page in before} == before


def test_a_purge_takes_everything_of_one_trial_and_nothing_else(lead: Api, workspace: Workspace, recorded: Place) -> None:
    lot, drill = add_lot(lead, workspace), add_drill(lead, workspace)
    calibration = f"/workspaces/{workspace.id}/calibrations/{uuid4()}"
    lead.ok("put", calibration, calibration_body(lot, drill) | {"trial_id": recorded["id"]})
    copy = lead.ok("post", f"/trials/{recorded['id']}/copy", {"title": "Kept", "season": 2027})
    kept = lead.ok("get", f"/trials/{copy['id']}")
    lead.call("post", f"/trials/{recorded['id']}/bin", {"reason": "entered twice"})
    gone = f"/workspaces/{workspace.id}/bin/{recorded['id']}"
    assert lead.call("delete", gone).status_code == 204
    for model, paths in paths_to(Trial).items():
        for path in paths:
            assert not model._default_manager.filter(**{path: recorded["id"]}).exists(), (model, path)
    assert not Trial.history.filter(id=recorded["id"]).exists()
    assert lead.ok("get", f"/trials/{copy['id']}") == kept
    assert len(lead.ok("get", f"/workspaces/{workspace.id}/calibrations")) == 1, "it belongs to the drill and the lot"
    assert lead.call("post", f"{gone}/restore").status_code == 404


def test_what_lies_in_the_bin_for_its_days_is_purged(lead: Api, recorded: Place) -> None:
    lead.call("post", f"/trials/{recorded['id']}/bin", {"reason": "entered twice"})
    TrialLife.objects.update(binned_at=timezone.now() - timedelta(days=90 - 1))
    assert purge_overdue() == 0
    TrialLife.objects.update(binned_at=timezone.now() - timedelta(days=90, hours=1))
    assert purge_overdue() == 1
    assert not Trial.objects.filter(id=recorded["id"]).exists()
    assert not StandCount.objects.exists()


def test_only_what_lies_in_the_bin_is_purged_and_by_an_owner(
    lead: Api, adviser: Api, workspace: Workspace, recorded: Place
) -> None:
    gone = f"/workspaces/{workspace.id}/bin/{recorded['id']}"
    assert lead.call("delete", gone).status_code == 404
    adviser.call("post", f"/trials/{recorded['id']}/bin", {"reason": "entered twice"})
    assert adviser.call("delete", gone).status_code == 403
    adviser.ok("post", f"{gone}/restore")


def test_a_closed_season_is_opened_before_it_is_corrected(lead: Api, adviser: Api, scout: Api, recorded: Place) -> None:
    path = f"/trials/{recorded['id']}"
    own, body = record_count(scout, recorded)
    closed = adviser.ok("post", f"{path}/close-season", {"note": "Loads looked through."})
    assert [(item["by"], item["note"], item["opened_at"]) for item in closed["closings"]] == [
        ("Anselm", "Loads looked through.", None)
    ]
    strip = recorded["strips"][0]
    for method, where, what in (
        ("put", f"{path}/stand-counts/{uuid4()}", count_body(strip)),
        ("put", f"{path}/stand-counts/{own}", {**body, "plants": "71", "version": 1}),
        ("put", f"{path}/harvest-loads/{uuid4()}", load_body(strip)),
        ("post", f"/records/stand-count/{own}/void", {"voided": True, "reason": "wrong", "version": 1}),
        ("patch", path, {"version": closed["version"], "guess": "It pays."}),
        ("patch", f"/strips/{strip['id']}", {"lost": True, "sown_treatment_id": None, "reason": "hail"}),
        ("post", f"{path}/bin", {"reason": "entered twice"}),
    ):
        refused = lead.refused(method, where, what, status=409)
        assert refused["code"] == "season_closed", (method, where)
        assert "Anselm" in refused["message"]
    assert scout.call("post", f"{path}/open-season", {"reason": "mine was wrong"}).status_code == 403
    assert adviser.refused("post", f"{path}/open-season", {"reason": ""})["field"] == "reason"
    opened = adviser.ok("post", f"{path}/open-season", {"reason": "A count was of strip 2."})
    assert (opened["closings"][0]["opened_by"], opened["closings"][0]["reason"]) == ("Anselm", "A count was of strip 2.")
    scout.ok("put", f"{path}/stand-counts/{own}", {**body, "plants": "71", "version": 1})
    again = adviser.ok("post", f"{path}/close-season", {"note": ""})
    assert len(again["closings"]) == 2, "how often it was closed and opened stands there for good"


def test_a_closed_season_goes_out_and_comes_back_with_its_package(lead: Api, workspace: Workspace, recorded: Place) -> None:
    path = f"/trials/{recorded['id']}"
    lead.ok("post", f"{path}/close-season", {"note": "Looked through."})
    lead.ok("post", f"{path}/open-season", {"reason": "A count was of strip 2."})
    before = lead.ok("post", f"{path}/close-season", {"note": "Again."})["closings"]
    back = send_package(lead, workspace.id, package_bytes(lead, recorded)).json()
    assert back["closings"] == before
