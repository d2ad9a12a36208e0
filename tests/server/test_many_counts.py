"""A trial of ten thousand counts: pages say the same as of few, in as many queries, and the stand page stays small."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from statistics import fmean
from typing import Any
from uuid import uuid4

import pytest
from apps.field.stand.models import StandCount
from apps.pages.stand.output import MOST_ALONG
from apps.trials.models import Trial
from django.db import connection
from django.test.utils import CaptureQueriesContext

from tests.server.conftest import Api, count_body

Place = dict[str, Any]
PAGES = ("", "/verdict", "/money", "/stand", "/harvest", "/estimates", "/planting", "/scouting", "/field-events")
MANY = 10_000
MOST_BYTES = 150_000


def many_counts(trial_id: str, number: int) -> dict[str, list[float]]:
    """So many counts of one day on the strips in turn, as a machine would write them; plants per m² by strip."""
    strips = list(Trial.objects.get(pk=trial_id).strips.all())
    sample = StandCount.objects.filter(strip__trial_id=trial_id).first()
    assert sample is not None
    first = datetime(2026, 5, 2, 5, tzinfo=UTC)
    rows: list[StandCount] = []
    values: dict[str, list[float]] = {}
    for place in range(number):
        strip, per_m2 = strips[place % len(strips)], 20 + place % 7 + place % 11 / 3
        row = StandCount(**_fields(sample))
        row.pk, row.strip, row.recorded_at = uuid4(), strip, first + timedelta(seconds=5 * place)
        row.plants_per_m2 = per_m2
        rows.append(row)
        values.setdefault(str(strip.pk), []).append(per_m2)
    StandCount.objects.bulk_create(rows, batch_size=400)
    return values


def _fields(sample: StandCount) -> dict[str, Any]:
    return {field.attname: getattr(sample, field.attname) for field in StandCount._meta.concrete_fields}


def asked(api: Api, path: str) -> int:
    api.ok("get", path)  # what a first request keeps for the next ones
    with CaptureQueriesContext(connection) as queries:
        api.ok("get", path)
    return len(queries)


@pytest.fixture
def few(lead: Api, trial: Place) -> Place:
    """The trial with a count on each strip."""
    for strip in trial["strips"]:
        lead.ok("put", f"/trials/{trial['id']}/stand-counts/{uuid4()}", count_body(strip, "24"))
    return trial


def test_pages_ask_as_much_of_ten_thousand_counts(lead: Api, few: Place) -> None:
    paths = [f"/trials/{few['id']}{page}" for page in PAGES]
    before = {path: asked(lead, path) for path in paths}
    values = many_counts(few["id"], MANY)
    after = {path: asked(lead, path) for path in paths}
    assert all(after[path] <= before[path] for path in paths), (before, after)

    stand = lead.ok("get", f"/trials/{few['id']}/stand?visit=1")
    answer = lead.client.get(f"/api/trials/{few['id']}/stand?visit=1")
    assert len(answer.content) <= MOST_BYTES
    assert stand["counts_along"] is False
    for row in stand["strips"]:
        assert row["counts"] == []
        assert row["number"] == row["precision"]["n"] == len(values[row["strip_id"]])
        assert row["precision"]["mean"]["value"] == pytest.approx(fmean(values[row["strip_id"]]), rel=1e-9)


def test_the_counts_of_one_strip_are_asked_for(lead: Api, few: Place) -> None:
    values = many_counts(few["id"], MOST_ALONG + 1)
    strip = few["strips"][2]["id"]
    counts = lead.ok("get", f"/trials/{few['id']}/stand-counts?strip={strip}&visit=1")
    assert [count["plants_per_m2"] for count in counts] == values[strip]
    assert all(count["working"] for count in counts)
    assert lead.ok("get", f"/trials/{few['id']}/stand-counts?strip={strip}&visit=9") == []
    assert lead.ok("get", f"/trials/{few['id']}/stand-counts?strip={uuid4()}&visit=1") == []


def test_few_counts_come_along(lead: Api, few: Place) -> None:
    stand = lead.ok("get", f"/trials/{few['id']}/stand")
    assert stand["counts_along"] is True
    for row in stand["strips"]:
        asked_for = lead.ok("get", f"/trials/{few['id']}/stand-counts?strip={row['strip_id']}")
        assert row["number"] == len(row["counts"]) == 1
        assert [count | {"working": None} for count in asked_for] == row["counts"]
        assert all(count["working"] for count in asked_for)
