"""A visit is done by what was recorded on its day, and due again once that is voided; the same for what was sown."""

from __future__ import annotations

from collections.abc import Callable
from datetime import timedelta
from typing import Any
from uuid import uuid4

import pytest
from apps.trials.models import Trial
from django.utils import timezone

from tests.server.conftest import Api, count_body, planting_body, rating_body, tape_body

Place = dict[str, Any]
# kind of record, its address, what is sent of a strip, and the task it does
DONE: list[tuple[str, str, Callable[[Place], Place], str]] = [
    ("stand-count", "stand-counts", lambda strip: count_body(strip, "44"), "count"),
    ("tape-run", "tape-runs", tape_body, "tape"),
]


@pytest.fixture
def sown(lead: Api, trial: Place) -> Place:
    """Sown three weeks ago."""
    day = (timezone.localdate() - timedelta(days=21)).isoformat()
    fresh: Place = lead.ok("patch", f"/trials/{trial['id']}", {"version": trial["version"], "planted_on": day})
    return fresh


def states(api: Api, trial: Place, task: str) -> list[str]:
    visits = api.ok("get", f"/trials/{trial['id']}/schedule")["visits"]
    return [visit["state"] for visit in visits if visit["task"] == task]


@pytest.mark.parametrize(("kind", "address", "body", "task"), DONE, ids=[row[0] for row in DONE])
def test_voided_work_is_not_done(
    kind: str, address: str, body: Callable[[Place], Place], task: str, lead: Api, sown: Place
) -> None:
    if task == "tape":  # the catalogue asks for none in wheat
        Trial.objects.filter(pk=sown["id"]).update(crop="maize")
    before = states(lead, sown, task)
    assert before
    assert "done" not in before
    record = str(uuid4())
    lead.ok("put", f"/trials/{sown['id']}/{address}/{record}", body(sown["strips"][0]))
    assert "done" in states(lead, sown, task)
    lead.ok("post", f"/records/{kind}/{record}/void", {"voided": True, "reason": "another field", "version": 1})
    assert states(lead, sown, task) == before


def test_a_voided_rating_is_not_done(lead: Api, workspace: Any, sown: Place) -> None:
    trait = {"name": "Stay green", "way": "rating", "low": "0", "high": "9", "words": ["dry", "green"], "days": "20"}
    key = lead.ok("post", f"/workspaces/{workspace.id}/own-traits", trait)[0]["key"]
    assert states(lead, sown, "rate")[-1] != "done"
    record = str(uuid4())
    lead.ok("put", f"/trials/{sown['id']}/ratings/{record}", {**rating_body(sown["strips"][0]), "trait": key})
    assert "done" in states(lead, sown, "rate")
    lead.ok("post", f"/records/rating/{record}/void", {"voided": True, "reason": "another field", "version": 1})
    assert "done" not in states(lead, sown, "rate")


def test_a_voided_planting_record_sows_nothing(lead: Api, trial: Place) -> None:
    def note() -> str:
        stages = lead.ok("get", f"/trials/{trial['id']}")["stages"]
        return str(next(stage["note"] for stage in stages if stage["key"] == "planting"))

    before, record = note(), str(uuid4())
    lead.ok("put", f"/trials/{trial['id']}/planting-records/{record}", planting_body(trial["strips"][0]))
    assert note() != before
    lead.ok("post", f"/records/planting-record/{record}/void", {"voided": True, "reason": "another field", "version": 1})
    assert note() == before
    assert lead.ok("get", f"/trials/{trial['id']}/schedule")["visits"] == []
