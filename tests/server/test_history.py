"""History in sight: who changed what, when, from what to what, and why, of a trial and of one record."""

from __future__ import annotations

from typing import Any
from uuid import uuid4

import pytest
from apps.pages.history.changes import tables
from django.apps import apps
from django.db import connection
from django.test.utils import CaptureQueriesContext

from tests.server.conftest import Api, count_body, load_body, record_count, typed

Place = dict[str, Any]
MOST_QUERIES = 45


@pytest.fixture
def told(lead: Api, adviser: Api, scout: Api, trial: Place) -> str:
    """A season of changes; the address of the trial."""
    path = f"/trials/{trial['id']}"
    first, second = trial["strips"][:2]
    count, body = record_count(scout, trial)
    adviser.ok("put", f"{path}/stand-counts/{count}", {**body, "plants": "71", "version": 1})
    void = {"voided": True, "reason": "two strips mixed up", "version": 2}
    adviser.ok("post", f"/records/stand-count/{count}/void", void)
    load = str(uuid4())
    lead.ok("put", f"{path}/harvest-loads/{load}", load_body(first))
    lead.ok("put", f"{path}/harvest-loads/{load}", load_body(first, "1250", version=1))
    lead.ok("patch", path, {"version": trial["version"], "guess": "It pays.", "price": typed("210", "money/t")})
    lead.ok("patch", f"/strips/{second['id']}", {"lost": True, "sown_treatment_id": None, "reason": "hail"})
    return path


def entry(answer: Place, kind: str, action: str) -> Place:
    found: Place = next(item for item in answer["entries"] if (item["kind"], item["action"]) == (kind, action))
    return found


def changes(item: Place) -> dict[str, tuple[str, str]]:
    return {change["name"]: (change["before"], change["after"]) for change in item["changes"]}


def test_a_trial_tells_what_was_changed_and_why(lead: Api, told: str) -> None:
    answer = lead.ok("get", f"{told}/history?limit=200")
    moments = [item["at"] for item in answer["entries"]]
    assert moments == sorted(moments, reverse=True)
    assert answer["total"] == len(answer["entries"])
    corrected = entry(answer, "StandCount", "changed")
    assert (corrected["by"], corrected["strip"], corrected["what"]) == ("Anselm", 1, "Stand count")
    assert changes(corrected)["plants"][1] == "71"
    voided = entry(answer, "StandCount", "voided")
    assert (voided["reason"], voided["by"]) == ("two strips mixed up", "Anselm")
    assert entry(answer, "StandCount", "added")["by"] == "Corin"
    assert changes(entry(answer, "HarvestLoad", "changed"))["net"] == ("1200 kg", "1250 kg")
    asked = changes(next(item for item in answer["entries"] if item["kind"] == "Trial"))
    assert asked["guess"] == ("", "It pays.")
    assert asked["price"] == ("200 money/t", "210 money/t")
    lost = entry(answer, "Strip", "changed")
    assert (lost["strip"], changes(lost)["lost"], changes(lost)["reason"]) == (2, ("no", "yes"), ("", "hail"))


def test_it_is_sought_by_kind_and_person_and_read_in_pages(lead: Api, told: str) -> None:
    whole = lead.ok("get", f"{told}/history?limit=200")
    counts = lead.ok("get", f"{told}/history?kind=StandCount")
    assert [item["action"] for item in counts["entries"]] == ["voided", "changed", "added"]
    by = lead.ok("get", f"{told}/history?by=anselm")
    assert {item["by"] for item in by["entries"]} == {"Anselm"}
    pages = [item for offset in (0, 4, 8) for item in lead.ok("get", f"{told}/history?limit=4&offset={offset}")["entries"]]
    assert pages == whole["entries"][:12]


def test_a_record_tells_its_own(scout: Api, lead: Api, trial: Place) -> None:
    count, body = record_count(scout, trial)
    scout.ok("put", f"/trials/{trial['id']}/stand-counts/{count}", {**body, "plants": "71", "version": 1})
    other, _ = record_count(lead, trial)
    entries = scout.ok("get", f"/records/stand-count/{count}/history")
    assert [(item["action"], item["by"]) for item in entries] == [("changed", "Corin"), ("added", "Corin")]
    assert len(scout.ok("get", f"/records/stand-count/{other}/history")) == 1


def test_another_trial_is_not_told_of(lead: Api, told: str) -> None:
    other = lead.ok("post", f"{told}/copy", {"title": "Other", "season": 2027})
    answer = lead.ok("get", f"/trials/{other['id']}/history?limit=200")
    assert {item["kind"] for item in answer["entries"]} <= {"Trial", "Treatment", "plan"}
    assert lead.ok("get", f"{told}/history?limit=200")["total"] == lead.ok("get", f"{told}/history")["total"]


def test_its_queries_do_not_grow_with_it(lead: Api, trial: Place, told: str) -> None:
    for strip in trial["strips"] * 6:
        lead.ok("put", f"{told}/stand-counts/{uuid4()}", count_body(strip, "44"))
    with CaptureQueriesContext(connection) as queries:
        assert lead.ok("get", f"{told}/history?limit=50")["total"] > 50
    assert len(queries) <= MOST_QUERIES


def test_every_kind_of_record_is_told() -> None:
    kept = {model.__name__ for model in apps.get_models() if hasattr(model, "history") and not hasattr(model, "history_id")}
    of_the_workspace = {"Field", "Machine", "SeedLot", "Station", "StandLine", "EstimateSetting", "MachineColumns", "PriceList"}
    assert kept - set(tables()) <= of_the_workspace | {"Calibration"}
