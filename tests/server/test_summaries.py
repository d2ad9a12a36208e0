"""Summaries of trials: lists read them, a write makes them old, the worker makes them anew.

That no write lets an old one stand is shown for every operation in ``test_permissions.py``.
"""

from __future__ import annotations

import json
from datetime import timedelta
from typing import Any
from uuid import uuid4

import pytest
from apps.accounts.models import User, Workspace
from apps.trial_state import listing
from apps.trial_state.changes import is_followed, way_to_trial
from apps.trial_state.models import TrialSummary
from apps.trials.models import Trial
from django.apps import apps
from django.core.management import call_command
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from tests.server.conftest import Api, count_body

Place = dict[str, Any]
MOST_QUERIES = 10


def make_all() -> int:
    return listing.make_old_ones_anew(most=1_000)


def asked(lead: Api, path: str) -> int:
    with CaptureQueriesContext(connection) as queries:
        lead.ok("get", path)
    return len(queries)


@pytest.mark.parametrize("page", ["trials", "today", "ledger"])
def test_a_list_asks_as_much_of_one_trial_as_of_many(lead: Api, workspace: Workspace, trial: Place, page: str) -> None:
    path = f"/workspaces/{workspace.id}/{page}"
    assert make_all() == 1
    lead.ok("get", path)  # what a first request sets up for all later ones
    item = asked(lead, path)
    for _ in range(5):
        trial = lead.ok("post", f"/trials/{trial['id']}/next-year")
    assert make_all() >= 5
    assert asked(lead, path) == item <= MOST_QUERIES


def test_a_list_says_the_same_from_summaries_and_from_trials(lead: Api, workspace: Workspace, trial: Place) -> None:
    for plants in ("40", "45"):
        lead.ok("put", f"/trials/{trial['id']}/stand-counts/{uuid4()}", count_body(trial["strips"][0], plants))
    for page in ("trials", "today", "ledger"):
        live = lead.ok("get", f"/workspaces/{workspace.id}/{page}")
        make_all()
        assert lead.ok("get", f"/workspaces/{workspace.id}/{page}") == live
    (row,) = lead.ok("get", f"/workspaces/{workspace.id}/trials?layer=stand")["rows"]
    assert row["ribbon"]["values"][0] is not None
    assert row["ribbon"]["values"][1] is None
    assert not row["recalculating"]


def test_a_reader_of_other_units_reads_their_own(lead: Api, scout: Api, workspace: Workspace, trial: Place) -> None:
    User.objects.filter(username="corin").update(unit_system="us")
    lead.ok("put", f"/trials/{trial['id']}/stand-counts/{uuid4()}", count_body(trial["strips"][0]))
    make_all()
    path = f"/workspaces/{workspace.id}/trials?layer=stand"
    metric, us = (api.ok("get", path)["rows"][0]["ribbon"]["values"][0] for api in (lead, scout))
    assert us == pytest.approx(metric * 0.3048**2, abs=0.06), "plants on a square foot"
    assert len(TrialSummary.objects.get().rows) == 2


def test_a_look_makes_nothing(lead: Api, workspace: Workspace, trial: Place) -> None:
    assert lead.ok("get", f"/workspaces/{workspace.id}/trials")["rows"][0]["id"] == trial["id"]
    before = list(TrialSummary.objects.values())
    lead.ok("get", f"/workspaces/{workspace.id}/trials")
    assert list(TrialSummary.objects.values()) == before


def test_what_does_not_stand_says_so_where_there_is_much_of_it(
    lead: Api, workspace: Workspace, trial: Place, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A list never reads more than a few trials itself, and never passes an old row off as a new one."""
    lead.ok("post", f"/trials/{trial['id']}/next-year")
    make_all()
    monkeypatch.setattr(listing, "LIVE_MOST", 0)
    lead.ok("put", f"/trials/{trial['id']}/stand-counts/{uuid4()}", count_body(trial["strips"][0]))
    rows = {row["id"]: row for row in lead.ok("get", f"/workspaces/{workspace.id}/trials?layer=stand")["rows"]}
    old = rows.pop(trial["id"])
    assert old["recalculating"]
    assert old["ribbon"]["values"] == [], "as it was made"
    assert [row["recalculating"] for row in rows.values()] == [False]
    TrialSummary.objects.all().delete()
    rows = lead.ok("get", f"/workspaces/{workspace.id}/trials")["rows"]
    assert len(rows) == 2
    assert all(row["recalculating"] and not row["ribbon"]["blocks"] for row in rows)


def test_a_write_while_it_is_made_keeps_it_old(
    lead: Api, workspace: Workspace, trial: Place, monkeypatch: pytest.MonkeyPatch
) -> None:
    make_all()
    Trial.objects.get(id=trial["id"]).save()
    reads = listing.fixed_part

    def interrupted(view: Any) -> Any:
        Trial.objects.get(id=trial["id"]).save()
        return reads(view)

    monkeypatch.setattr(listing, "fixed_part", interrupted)
    make_all()
    summary = TrialSummary.objects.get()
    assert summary.made_of < summary.revision
    monkeypatch.undo()
    assert make_all() == 1
    assert make_all() == 0
    assert lead.ok("get", f"/workspaces/{workspace.id}/trials")["rows"][0]["recalculating"] is False


def test_other_code_makes_all_of_them_old(trial: Place, monkeypatch: pytest.MonkeyPatch) -> None:  # noqa: ARG001 - it is listed
    make_all()
    monkeypatch.setattr(listing, "code_fingerprint", lambda: "another")
    assert make_all() == 1
    assert make_all() == 0


def test_one_command_makes_them_all(trial: Place, capsys: pytest.CaptureFixture[str]) -> None:  # noqa: ARG001 - it is listed
    make_all()
    call_command("remake_summaries")
    assert "1 summaries made." in capsys.readouterr().out


def test_what_is_followed_follows_from_the_keys() -> None:
    """Every model of a trial, its history and what is made from it apart; a new one is followed without being named."""
    followed = {model.__name__ for model in apps.get_models() if is_followed(model)}
    assert {"Trial", "Strip", "Level", "CostLine", "StandCount", "PenetrometerReading", "YieldLog", "SeedLot"} <= followed
    assert {"Workspace", "Field", "Protocol", "Covariate", "Sowing", "HarvestSource", "EstimateSetting"} <= followed
    assert not {"Verdict", "Job", "ReportShare", "User", "HistoricalTrial", "TrialSummary"} & followed
    assert way_to_trial(apps.get_model("trials", "CostLine")) == ("level", "factor", "trial")


def test_a_trial_that_cannot_be_read_holds_up_nobody(
    lead: Api, workspace: Workspace, trial: Place, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Its fault goes into the log; the others are made, and it is tried again after its next write."""
    other = lead.ok("post", f"/trials/{trial['id']}/next-year")
    reads = listing.fixed_part

    def torn(view: Any) -> Any:
        if str(view.trial.id) == trial["id"]:
            raise ZeroDivisionError
        return reads(view)

    monkeypatch.setattr(listing, "fixed_part", torn)
    assert make_all() == 2
    assert make_all() == 0
    assert TrialSummary.objects.get(trial_id=trial["id"]).rows == {}
    assert TrialSummary.objects.get(trial_id=other["id"]).rows
    monkeypatch.undo()
    assert len(lead.ok("get", f"/workspaces/{workspace.id}/trials")["rows"]) == 2, "read from the trial itself"
    Trial.objects.get(id=trial["id"]).save()
    assert make_all() == 1
    assert TrialSummary.objects.get(trial_id=trial["id"]).rows


def seasons(api: Api, workspace: Workspace, query: str) -> list[int]:
    return [row["season"] for row in api.ok("get", f"/workspaces/{workspace.id}/trials?{query}")["rows"]]


@pytest.mark.parametrize("made", [True, False], ids=["from summaries", "from trials"])
def test_a_list_is_searched_put_in_order_and_paged(lead: Api, workspace: Workspace, trial: Place, made: bool) -> None:
    """The same answer whether summaries stand or the trials are read, and whatever page of it is asked for."""
    year = trial["season"]
    for crop_key, title in (("maize", "Äcker am Fluss"), ("field_pea", "depth of peas")):
        lead.ok("post", f"/workspaces/{workspace.id}/trials", {"title": title, "crop": crop_key, "season": year + len(title)})
    wide, river, peas = year, year + len("Äcker am Fluss"), year + len("depth of peas")
    if made:
        make_all()
    assert seasons(lead, workspace, "") == [river, peas, wide]
    assert seasons(lead, workspace, "order=title") == [peas, wide, river], "Ä stands behind Z as the database has it"
    assert seasons(lead, workspace, "order=crop") == [peas, river, wide], "field pea, maize, winter wheat"
    assert seasons(lead, workspace, "find=PEA") == [peas]
    assert seasons(lead, workspace, "find=äcker fluss") == [river]
    assert seasons(lead, workspace, f"find=wheat {wide}") == [wide]
    assert seasons(lead, workspace, "find=wheat maize") == []
    assert seasons(lead, workspace, "drawn=true") == [wide]
    assert seasons(lead, workspace, "drawn=false") == [river, peas]
    assert seasons(lead, workspace, "finished=true") == []
    assert seasons(lead, workspace, "offset=1&limit=1") == [peas]
    assert lead.ok("get", f"/workspaces/{workspace.id}/trials?limit=1&find=pea")["total"] == 1
    assert lead.ok("get", f"/workspaces/{workspace.id}/trials?offset=2&limit=1")["total"] == 3
    assert lead.call("get", f"/workspaces/{workspace.id}/trials?limit=100000").status_code == 422


def test_tomorrow_something_else_is_due(lead: Api, workspace: Workspace, trial: Place, monkeypatch: pytest.MonkeyPatch) -> None:
    """What is due stands for a day; on the next one it is made anew, and no look goes by without it."""
    Trial.objects.filter(id=trial["id"]).update(planted_on=timezone.localdate() - timedelta(days=2))
    make_all()
    path = f"/workspaces/{workspace.id}/today"
    before = lead.ok("get", path)
    later = timezone.localdate() + timedelta(days=40)
    monkeypatch.setattr(timezone, "localdate", lambda: later)
    after = lead.ok("get", path)
    assert after != before
    assert make_all() == 1
    assert lead.ok("get", path) == after


def test_a_reentry_interval_runs_out_within_the_day(lead: Api, workspace: Workspace, trial: Place) -> None:
    """Cautions are told as of now, though what is due is told as of this morning."""
    body = {
        "kind": "spray",
        "text": "fungicide",
        "happened_on": timezone.localdate().isoformat(),
        "reentry_hours": 48,
        "strip_ids": [],
        "recorded_at": timezone.now().isoformat(),
    }
    response = lead.call("put", f"/trials/{trial['id']}/field-events/{uuid4()}", body)
    assert response.status_code < 300, response.content
    make_all()
    assert any(
        "nobody in before" in text
        for due in lead.ok("get", f"/workspaces/{workspace.id}/today")["dues"]
        for text in due["cautions"]
    )
    summary = TrialSummary.objects.get()
    summary.progress["sprays"][0][1] = (timezone.now() - timedelta(minutes=1)).isoformat()
    TrialSummary.objects.update(progress=summary.progress)
    assert not any(due["cautions"] for due in lead.ok("get", f"/workspaces/{workspace.id}/today")["dues"])


def test_a_trial_in_a_list_is_small(lead: Api, workspace: Workspace, trial: Place) -> None:
    """A count beside the tests: with its ribbon and a layer over it, 1 kB a trial (this one has nine strips)."""
    lead.ok("put", f"/trials/{trial['id']}/stand-counts/{uuid4()}", count_body(trial["strips"][0]))
    make_all()
    row = lead.ok("get", f"/workspaces/{workspace.id}/trials?layer=stand")["rows"][0]
    assert len(row["ribbon"]["blocks"]) == 9
    assert len(json.dumps(row, separators=(",", ":"))) <= 1_000
