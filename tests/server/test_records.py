"""Counts, loads and the season's log: the client's ids, repeats, edits, voids, refusals."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import uuid4

import pytest
from apps.field.harvest.models import HarvestLoad
from apps.field.stand.models import StandCount
from django.db import connection

from tests.server.conftest import Api, count_body, load_body, now, record_count, typed

Place = dict[str, Any]


def counts_path(trial: Place, count_id: str) -> str:
    return f"/trials/{trial['id']}/stand-counts/{count_id}"


def test_a_count_becomes_plants_per_area(lead: Api, trial: Place) -> None:
    """41 plants on 4 rows of 1 m at 12.5 cm: 82 /m² (definition), 25.6 % of 320 seeds."""
    answer = lead.ok("put", counts_path(trial, str(uuid4())), count_body(trial["strips"][0]))
    assert answer["plants_per_m2"] == pytest.approx(82)
    assert answer["stand"]["text"] == "82.0 /m²"
    assert answer["share_pct"] == pytest.approx(25.625)
    assert "1.000 m × 4 rows × 12.5 cm" in str(answer["working"])
    quadrat = {
        "strip_id": trial["strips"][0]["id"],
        "method": "quadrat",
        "plants": "52",
        "area": typed("0.25", "m2"),
        "recorded_at": now(),
    }
    answer = lead.ok("put", counts_path(trial, str(uuid4())), quadrat)
    assert answer["plants_per_m2"] == pytest.approx(208)


def test_us_units_of_a_count(lead: Api, trial: Place) -> None:
    """8 plants on a foot of 7.5-in row: 12.8 /ft² (× 12/width, definition)."""
    lead.ok("patch", "/session", {"unit_system": "us"})
    body = count_body(trial["strips"][0], "8", rows="1", length=typed("1", "ft"), row_spacing=typed("7.5", "in"))
    assert lead.ok("put", counts_path(trial, str(uuid4())), body)["stand"]["text"] == "12.80 /ft²"


def test_the_same_record_twice_is_one(lead: Api, trial: Place) -> None:
    count_id, body = record_count(lead, trial)
    response = lead.call("put", counts_path(trial, count_id), body)
    assert response.status_code == 200
    assert StandCount.objects.count() == 1
    assert StandCount.history.count() == 1  # type: ignore[attr-defined]


def test_another_content_needs_the_version(lead: Api, trial: Place) -> None:
    count_id, body = record_count(lead, trial)
    changed = body | {"plants": "43"}
    answer = lead.refused("put", counts_path(trial, count_id), changed, status=409)
    assert answer["code"] == "stale"
    assert answer["current"]["plants"] == 41
    assert lead.ok("put", counts_path(trial, count_id), changed | {"version": 1})["version"] == 2
    assert [row.plants for row in StandCount.history.order_by("history_id")] == [41, 43]  # type: ignore[attr-defined]


def test_a_void_keeps_the_record_and_its_reason(lead: Api, trial: Place) -> None:
    count_id, body = record_count(lead, trial)
    path = f"/records/stand-count/{count_id}/void"
    assert lead.refused("post", path, {"voided": True, "reason": "", "version": 1})["field"] == "reason"
    assert lead.ok("post", path, {"voided": True, "reason": "wrong strip", "version": 1})["version"] == 2
    assert lead.ok("get", f"/trials/{trial['id']}/stand")["strips"][0]["counts"] == []
    assert StandCount.objects.get(pk=count_id).void_reason == "wrong strip"
    assert (
        lead.refused("put", counts_path(trial, count_id), body | {"plants": "9", "version": 2}, status=409)["code"] == "voided"
    )
    assert lead.ok("post", path, {"voided": False, "version": 2})["voided"] is False
    assert len(lead.ok("get", f"/trials/{trial['id']}/stand")["strips"][0]["counts"]) == 1


@pytest.mark.parametrize(
    ("change", "code", "field"),
    [
        ({"plants": "4o"}, "not_a_count", "plants"),
        ({"plants": "12.5"}, "not_a_count", "plants"),
        ({"plants": ""}, "missing", "plants"),
        ({"length": typed("-1", "m")}, "not_positive", "length"),
        ({"length": typed("", "m")}, "missing", "length"),
        ({"rows": "0"}, "too_small", "rows"),
        ({"row_spacing": typed("12.5", "kg")}, "unknown_unit", "row_spacing"),
        ({"method": "glance"}, "malformed", "method"),
        ({"recorded_at": (datetime.now(UTC) + timedelta(days=30)).isoformat()}, "unknown_choice", "recorded_at"),
    ],
)
def test_counts_that_cannot_be(lead: Api, trial: Place, change: Place, code: str, field: str) -> None:
    answer = lead.refused("put", counts_path(trial, str(uuid4())), count_body(trial["strips"][0]) | change)
    assert (answer["code"], answer["field"]) == (code, field)
    assert not StandCount.objects.exists()


@pytest.mark.parametrize(("plants", "code"), [("900", "more_than_sown"), ("2", "odd_stand"), ("30", "few_of_the_seed")])
def test_odd_counts_are_questioned_and_kept(lead: Api, trial: Place, plants: str, code: str) -> None:
    answer = lead.ok("put", counts_path(trial, str(uuid4())), count_body(trial["strips"][0], plants))
    assert code in {question["code"] for question in answer["questions"]}
    assert StandCount.objects.count() == 1


def test_running_precision_on_the_stand_page(lead: Api, trial: Place) -> None:
    for plants in ("99", "106", "115"):
        record_count(lead, trial, 2, plants)
    stand = lead.ok("get", f"/trials/{trial['id']}/stand")
    precision = stand["strips"][2]["precision"]
    assert precision["n"] == 3
    assert precision["mean"]["text"] == "213.3 /m²"
    assert precision["half_width"]["text"] == "27.0 /m²"  # t 2.920 on 2 df, s 16.04: by hand in tests/core/test_precision.py
    assert (precision["needed"], precision["more"]) == (9, 6)
    assert stand["tapes"][0]["row_spacing"] == "12.5 cm"
    assert stand["density_unit"]["label"] == "/m²"
    (treatment,) = [item for item in stand["treatments"] if item["counts"]]
    assert treatment["working"]["outcome"] == treatment["stand"]["text"] == "213.3 /m²"
    assert treatment["working"]["steps"][-1]["outcome"] == "67 %"


def test_a_count_on_a_wrongly_sown_strip_counts_for_what_it_got(lead: Api, trial: Place) -> None:
    strip = trial["strips"][0]
    other = next(item for item in trial["treatments"] if item["id"] != strip["treatment_id"])
    lead.ok("patch", f"/strips/{strip['id']}", {"lost": False, "sown_treatment_id": other["id"], "reason": "gate"})
    record_count(lead, trial)
    stand = lead.ok("get", f"/trials/{trial['id']}/stand")
    assert {row["treatment_id"] for row in stand["treatments"] if row["counts"]} == {other["id"]}


def load_path(trial: Place) -> str:
    return f"/trials/{trial['id']}/harvest-loads/{uuid4()}"


def test_a_load_becomes_a_yield_at_standard_moisture(lead: Api, trial: Place) -> None:
    """7620 − 5620 kg from 5.4 × 300 m at 15.0 %: 12 346 kg/ha wet × 85 ÷ 86.5 (dry matter is kept, definition)."""
    body = load_body(trial["strips"][0], "") | {
        "gross": typed("7620", "kg"),
        "tare": typed("5620", "kg"),
        "moisture": typed("15", "%"),
    }
    answer = lead.ok("put", load_path(trial), body)
    assert answer["yield_"]["value"] == pytest.approx(2000 / 0.162 * 85 / 86.5 / 1000)
    numbers = " ".join(step["numbers"] for step in answer["working"]["steps"])
    assert "7620.0 kg − 5620.0 kg" in numbers


def test_a_load_in_us_units_is_the_same_load(lead: Api, trial: Place) -> None:
    metric = lead.ok("put", load_path(trial), load_body(trial["strips"][0], "1200"))
    us = load_body(trial["strips"][1]) | {
        "net": typed("2645.547149", "lb"),
        "swath_width": typed("17.716535", "ft"),
        "length": typed("984.25197", "ft"),
    }
    same = lead.ok("put", load_path(trial), us)
    assert same["yield_"]["value"] == pytest.approx(metric["yield_"]["value"], rel=1e-6)
    assert same["net"]["text"] == "2645.547149"


@pytest.mark.parametrize(
    ("change", "code", "field"),
    [
        ({"moisture": typed("130", "%")}, "too_large", "moisture"),
        ({"swath_width": typed("-5.4", "m")}, "not_positive", "swath_width"),
        ({"net": typed("heavy", "kg")}, "not_a_number", "net"),
        ({"net": typed("0", "kg")}, "not_positive", "net"),
        ({"net": typed("", "kg")}, "missing", "net"),
        ({"net": typed("", "kg"), "gross": typed("5", "t"), "tare": typed("7", "t")}, "tare_over_gross", "tare"),
        ({"gross": typed("9", "t"), "tare": typed("5", "t")}, "unknown_choice", "net"),
    ],
)
def test_loads_that_cannot_be(lead: Api, trial: Place, change: Place, code: str, field: str) -> None:
    answer = lead.refused("put", load_path(trial), load_body(trial["strips"][0]) | change)
    assert (answer["code"], answer["field"]) == (code, field)
    assert not HarvestLoad.objects.exists()


def test_a_sheet_is_all_or_nothing(lead: Api, trial: Place) -> None:
    rows = [load_body(strip, str(1200 + place), id=str(uuid4())) for place, strip in enumerate(trial["strips"])]
    rows[3]["moisture"] = typed("130", "%")
    rows[5]["net"] = typed("x", "kg")
    answer = lead.refused("post", f"/trials/{trial['id']}/harvest-sheet", {"rows": rows})
    assert answer["code"] == "rows"
    assert [(item["row"], item["field"]) for item in answer["problems"]] == [(4, "moisture"), (6, "net")]
    assert answer["problems"][0]["id"] == rows[3]["id"]
    assert not HarvestLoad.objects.exists()
    rows[3]["moisture"], rows[5]["net"] = typed("13", "%"), typed("1210", "kg")
    lead.ok("post", f"/trials/{trial['id']}/harvest-sheet", {"rows": rows})
    lead.ok("post", f"/trials/{trial['id']}/harvest-sheet", {"rows": rows})
    assert HarvestLoad.objects.count() == 9
    assert HarvestLoad.history.count() == 9  # type: ignore[attr-defined]


def test_several_loads_of_a_strip_are_weighed_together(lead: Api, trial: Place) -> None:
    """Two part loads of 150 m each: the strip's yield is all grain over all ground."""
    for net in ("560", "640"):
        lead.ok("put", load_path(trial), load_body(trial["strips"][0], net) | {"length": typed("150", "m")})
    strip = lead.ok("get", f"/trials/{trial['id']}/harvest")["strips"][0]
    assert strip["yield_"]["value"] == pytest.approx(1200 / 0.162 * 85.8 / 86.5 / 1000)
    assert strip["working"]["outcome"] == strip["yield_"]["text"]
    assert strip["working"]["steps"][0]["numbers"].endswith("÷ 0.162 ha")


def test_odd_loads_are_questioned_and_kept(lead: Api, trial: Place) -> None:
    answer = lead.ok("put", load_path(trial), load_body(trial["strips"][0], "4000"))
    assert answer["questions"]
    assert HarvestLoad.objects.count() == 1


def test_the_seasons_log(lead: Api, trial: Place) -> None:
    path = f"/trials/{trial['id']}/field-events"
    body = {
        "kind": "hail",
        "happened_on": "2026-06-01",
        "text": "pea size",
        "strip_ids": [trial["strips"][2]["id"]],
        "recorded_at": now(),
    }
    lead.ok("put", f"{path}/{uuid4()}", body)
    (event,) = lead.ok("get", path)
    assert (event["kind_label"], event["strip_ids"]) == ("Hail", [trial["strips"][2]["id"]])
    assert lead.refused("put", f"{path}/{uuid4()}", body | {"text": " "})["field"] == "text"
    far = (datetime.now(UTC) + timedelta(days=9)).date().isoformat()
    assert lead.refused("put", f"{path}/{uuid4()}", body | {"happened_on": far})["field"] == "happened_on"
    assert lead.refused("put", f"{path}/{uuid4()}", body | {"strip_ids": [str(uuid4())]}, status=404)["code"] == "not_here"


@pytest.mark.django_db(transaction=True)
def test_two_devices_at_once_make_one_record(lead: Api, trial: Place) -> None:
    """Eight threads send the same eight counts: eight records, no lock error, nothing twice."""
    bodies = [(str(uuid4()), count_body(trial["strips"][place], str(40 + place))) for place in range(8)]

    def send_all(_: int) -> list[int]:
        try:
            return [lead.call("put", counts_path(trial, count_id), body).status_code for count_id, body in bodies]
        finally:
            connection.close()

    with ThreadPoolExecutor(8) as pool:
        statuses = [status for result in pool.map(send_all, range(8)) for status in result]
    assert set(statuses) <= {200, 201}
    assert statuses.count(201) == 8
    assert StandCount.objects.count() == 8
