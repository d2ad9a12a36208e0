"""Sampling plans, visits, methods and slips of stand counts, through the API."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import uuid4

import pytest
from apps.field.stand.models import SamplingPlan, StandCount
from apps.trials.models import Trial
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.server.conftest import Api, count_body, load_body, now, plan_body, typed

Place = dict[str, Any]


def put_plan(api: Api, trial: Place, plan_id: str = "", **more: Any) -> Any:
    return api.ok("put", f"/trials/{trial['id']}/sampling-plans/{plan_id or uuid4()}", plan_body(**more))


def put_count(api: Api, trial: Place, strip: int, plants: str, *, count_id: str = "", **more: Any) -> Any:
    body = count_body(trial["strips"][strip], plants, **more)
    return api.ok("put", f"/trials/{trial['id']}/stand-counts/{count_id or uuid4()}", body)


def days_ago(days: int) -> str:
    return (datetime.now(UTC) - timedelta(days=days)).isoformat()


def test_places_come_with_the_stand_and_stay_the_same(lead: Api, trial: Place) -> None:
    plan = put_plan(lead, trial)
    first = lead.ok("get", f"/trials/{trial['id']}/stand")
    again = lead.ok("get", f"/trials/{trial['id']}/stand")
    assert first["plan"]["id"] == plan["id"]
    assert [strip["places"] for strip in first["strips"]] == [strip["places"] for strip in again["strips"]]
    for strip in first["strips"]:
        assert [place["number"] for place in strip["places"]] == list(range(1, 11))
        assert sum(1 for place in strip["places"] if place["extra"]) == 6
        for place in strip["places"]:
            assert 5 <= place["along_m"] <= 300 - 5 - 1
            assert f"row {place['row']}" in place["words"]
            assert "paces" in place["words"]
    walk = first["plan"]["walk"]
    assert len(walk) == 9 * 4
    assert {step["strip_id"] for step in walk} == {strip["id"] for strip in trial["strips"]}


def test_rows_left_out_are_never_drawn(lead: Api, trial: Place) -> None:
    plan = put_plan(lead, trial, wheel_rows="10, 11 20-21", edge_rows=2, rows="2")
    assert plan["wheel_rows"] == "10 11 20 21"
    for strip in lead.ok("get", f"/trials/{trial['id']}/stand")["strips"]:
        for place in strip["places"]:
            assert place["row"] > 2
            assert {place["row"], place["row"] + 1}.isdisjoint({10, 11, 20, 21})


def test_a_frame_is_laid_by_metres(lead: Api, trial: Place) -> None:
    put_plan(lead, trial, framed=True, sample=typed("0.5", "m"))
    for strip in lead.ok("get", f"/trials/{trial['id']}/stand")["strips"]:
        for place in strip["places"]:
            assert place["row"] is None
            assert 0 <= place["across_m"] <= 6
            assert "from the left edge" in place["words"]


def test_as_many_counts_as_past_variation_asks_for(lead: Api, trial: Place) -> None:
    suggestion = lead.ok("get", f"/trials/{trial['id']}/sampling-plans")["suggestion"]
    assert suggestion["own"] is False
    assert "usual value" in suggestion["words"]
    plan = put_plan(lead, trial, planned=None)
    assert plan["planned"] == suggestion["counts"] == 27
    for strip, plants in enumerate((("40", "42", "41", "43"), ("39", "41", "40", "38"), ("44", "42", "43", "45"))):
        for number in plants:
            put_count(lead, trial, strip, number)
    learned = lead.ok("get", f"/trials/{trial['id']}/sampling-plans?within_pct=10")["suggestion"]
    assert learned["own"] is True
    assert learned["cv_pct"] == pytest.approx(3.1, abs=0.3)
    assert learned["counts"] < 5


def test_counted_places_are_not_drawn_anew(lead: Api, trial: Place) -> None:
    plan_id = str(uuid4())
    put_plan(lead, trial, plan_id)
    renamed = put_plan(lead, trial, plan_id, name="Early count", version=1)
    assert renamed["name"] == "Early count"
    put_count(lead, trial, 0, "41", plan_id=plan_id, place=2)
    body = plan_body(planned=6, version=2)
    answer = lead.refused("put", f"/trials/{trial['id']}/sampling-plans/{plan_id}", body, status=409)
    assert answer["code"] == "would_orphan"
    assert put_plan(lead, trial, name="Second").get("number") == 2
    assert lead.ok("get", f"/trials/{trial['id']}/stand")["plan"]["name"] == "Second"


@pytest.mark.parametrize(
    ("more", "field"),
    [
        ({"planned": 0}, "planned"),
        ({"planned": 90}, "planned"),
        ({"sample": typed("", "m")}, "sample"),
        ({"sample": typed("400", "m")}, "sample"),
        ({"rows": "three"}, "rows"),
        ({"rows": "40"}, "rows"),
        ({"wheel_rows": "4-1"}, "wheel_rows"),
        ({"wheel_rows": "left"}, "wheel_rows"),
        ({"wanted": typed("0", "%")}, "wanted"),
        ({"edge_rows": -1}, "edge_rows"),
        ({"end": typed("-2", "m")}, "end"),
    ],
)
def test_plans_that_cannot_be_are_refused_by_field(lead: Api, trial: Place, more: dict[str, Any], field: str) -> None:
    answer = lead.refused("put", f"/trials/{trial['id']}/sampling-plans/{uuid4()}", plan_body(**more))
    assert answer["field"] == field, answer
    assert not SamplingPlan.objects.exists()


def test_a_layout_with_a_plan_in_use_is_kept(lead: Api, trial: Place) -> None:
    plan = put_plan(lead, trial)
    put_count(lead, trial, 0, "41", plan_id=plan["id"], place=1)
    fresh = lead.ok("get", f"/trials/{trial['id']}")
    body = {
        "version": fresh["version"],
        "design": "rcbd",
        "blocks": 2,
        "strip_width": typed("6", "m"),
        "strip_length": typed("300", "m"),
    }
    assert lead.refused("post", f"/trials/{trial['id']}/layout", body, status=409)["code"] == "would_orphan"


def test_hoop_frame_and_rows_stand_beside_each_other(lead: Api, trial: Place) -> None:
    """A hoop of 56.42 cm holds 0.25 m² (π ÷ 4 × d²), so 13 plants in it are 52/m², as in a frame of a quarter."""
    rows = put_count(lead, trial, 0, "26", rows="4", length=typed("1", "m"))
    hoop = put_count(lead, trial, 0, "13", method="hoop", diameter=typed("56.419", "cm"))
    frame = put_count(lead, trial, 0, "13", method="quadrat", area=typed("0.25", "m2"))
    assert [item["plants_per_m2"] for item in (rows, hoop, frame)] == pytest.approx([52, 52, 52], abs=0.01)
    assert "π ÷ 4" in hoop["working"]["steps"][0]["numbers"]
    strip = lead.ok("get", f"/trials/{trial['id']}/stand")["strips"][0]
    assert strip["precision"]["n"] == 3


def test_gaps_and_doubles_are_counted_through(lead: Api, trial: Place) -> None:
    count = put_count(lead, trial, 0, "41", gaps=2, doubles=3)
    assert (count["gaps"], count["doubles"], count["plants"]) == (2, 3, 41)
    assert count["plants_per_m2"] == pytest.approx(82)
    body = count_body(trial["strips"][0], "5", doubles=3)
    assert lead.refused("put", f"/trials/{trial['id']}/stand-counts/{uuid4()}", body)["field"] == "doubles"


def test_percent_of_seed_and_of_live_seed(lead: Api, trial: Place, workspace: Any) -> None:
    from tests.server.conftest import add_lot

    lot = add_lot(lead, workspace, germination=typed("80", "%"), hard_seed=typed("", "%"))
    fresh = lead.ok("get", f"/trials/{trial['id']}")
    lead.ok("put", f"/trials/{trial['id']}/sowing", {"version": fresh["version"], "parts": [{"part": "crop", "lot_id": lot}]})
    put_count(lead, trial, 0, "96")  # 192/m² of 320 sown is 60 %, of 256 live seeds 75 %
    stand = lead.ok("get", f"/trials/{trial['id']}/stand")
    assert stand["strips"][0]["share_pct"] == pytest.approx(60)
    assert stand["strips"][0]["live_share_pct"] == pytest.approx(75)


def test_visits_are_told_apart_by_their_days(lead: Api, trial: Place) -> None:
    """Every day is a visit of its own."""
    for strip, day, plants in ((0, 30, "20"), (1, 29, "22"), (0, 28, "24"), (0, 10, "60"), (0, 1, "80")):
        put_count(lead, trial, strip, plants, recorded_at=days_ago(day))
    stand = lead.ok("get", f"/trials/{trial['id']}/stand")
    assert [visit["counts"] for visit in stand["visits"]] == [1, 1, 1, 1, 1]
    assert stand["visit"] == 5
    assert [count["plants"] for count in stand["strips"][0]["counts"]] == [80]
    first = lead.ok("get", f"/trials/{trial['id']}/stand?visit=1")
    assert [[count["plants"] for count in strip["counts"]] for strip in first["strips"][:2]] == [[20], []]
    assert lead.ok("get", f"/trials/{trial['id']}")["strips"][0]["stand"]["value"] == pytest.approx(160)


def questions(count: Any) -> dict[str, str]:
    return {item["code"]: item["text"] for item in count["questions"]}


def test_310_for_31_is_asked_about_and_kept(lead: Api, trial: Place) -> None:
    for plants in ("29", "33", "30"):
        assert "far_off" not in questions(put_count(lead, trial, 0, plants))
    slip = put_count(lead, trial, 0, "310")
    assert "Was it 31?" in questions(slip)["far_off"]
    assert StandCount.objects.filter(plants=310).exists()


def test_the_same_place_twice_is_asked_about(lead: Api, trial: Place) -> None:
    plan = put_plan(lead, trial)
    put_count(lead, trial, 0, "40", plan_id=plan["id"], place=3)
    again = put_count(lead, trial, 0, "43", plan_id=plan["id"], place=3)
    assert "Place 3" in questions(again)["place_twice"]
    by_eye = put_count(lead, trial, 0, "43", plan_id=plan["id"], place=3, by_eye=True)
    assert (by_eye["place"], by_eye["by_eye"]) == (None, True)


def test_a_count_after_harvest_is_asked_about(lead: Api, trial: Place) -> None:
    lead.ok("put", f"/trials/{trial['id']}/harvest-loads/{uuid4()}", load_body(trial["strips"][0], recorded_at=days_ago(5)))
    late = put_count(lead, trial, 0, "41")
    assert "after this strip was harvested" in questions(late)["after_harvest"]
    before = put_count(lead, trial, 0, "41", recorded_at=days_ago(60))
    assert "after_harvest" not in questions(before)


def test_a_day_to_come_is_refused_with_its_field(lead: Api, trial: Place) -> None:
    body = count_body(trial["strips"][0], recorded_at=(datetime.now(UTC) + timedelta(days=3)).isoformat())
    answer = lead.refused("put", f"/trials/{trial['id']}/stand-counts/{uuid4()}", body)
    assert answer["field"] == "recorded_at"
    assert "clock" in answer["message"]


def test_a_plan_of_another_trial_is_refused(lead: Api, trial: Place) -> None:
    body = count_body(trial["strips"][0], plan_id=str(uuid4()), place=1)
    assert lead.refused("put", f"/trials/{trial['id']}/stand-counts/{uuid4()}", body)["field"] == "plan_id"
    plan = put_plan(lead, trial)
    body = count_body(trial["strips"][0], plan_id=plan["id"], place=99)
    assert lead.refused("put", f"/trials/{trial['id']}/stand-counts/{uuid4()}", body)["field"] == "place"


def test_switching_units_never_changes_a_stored_count(lead: Api, trial: Place) -> None:
    count = put_count(lead, trial, 0, "41", method="hoop", diameter=typed("22.2", "in"))
    stored = StandCount.objects.values().get(pk=count["id"])
    for system in ("us", "metric", "us"):
        lead.ok("patch", "/session", {"unit_system": system})
        stand = lead.ok("get", f"/trials/{trial['id']}/stand")
        assert stand["strips"][0]["counts"][0]["diameter"]["text"] == "22.2"
        lead.ok("get", f"/trials/{trial['id']}/stand-analysis")
    assert StandCount.objects.values().get(pk=count["id"]) == stored


@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(data=st.data())
def test_drops_duplicates_and_any_order_across_records_give_the_same_records(lead: Api, trial: Place, data: Any) -> None:
    """Each record's operations stay in order; across records they are shuffled, repeated and partly lost on the way back."""
    StandCount.objects.all().delete()
    ids = [str(uuid4()) for _ in range(3)]
    bodies = {name: count_body(trial["strips"][0], str(30 + place), recorded_at=now()) for place, name in enumerate(ids)}
    queues = {name: ["put", "put", "void"] if place == 0 else ["put"] for place, name in enumerate(ids)}
    while any(queues.values()):
        item = data.draw(st.sampled_from([key for key, queue in queues.items() if queue]))
        step = queues[item].pop(0)
        for _ in range(data.draw(st.integers(1, 3))):  # an answer lost on the way makes the device send again
            if step == "put":
                lead.ok("put", f"/trials/{trial['id']}/stand-counts/{item}", bodies[item])
            else:
                body = {"voided": True, "reason": "taken back", "version": 1}
                assert lead.call("post", f"/records/stand-count/{item}/void", body).status_code == 200
    result = {str(count.pk): (count.plants, count.voided, count.version) for count in StandCount.objects.all()}
    assert result == {ids[0]: (30, True, 2), ids[1]: (31, False, 1), ids[2]: (32, False, 1)}


def test_a_trial_from_a_file_without_strip_lengths_says_what_is_missing(lead: Api, trial: Place) -> None:
    Trial.objects.get(pk=trial["id"]).strips.update(length_m=None)
    answer = lead.refused("put", f"/trials/{trial['id']}/sampling-plans/{uuid4()}", plan_body())
    assert answer["code"] == "missing"
    assert "layout" in answer["message"]


def test_daily_counts_are_read_day_by_day(lead: Api, trial: dict[str, Any]) -> None:
    """B comes up later and is ahead on the last day, 240 against 160 plants/m²: that day is the stand, not the mean of all."""
    final = {"A": 160, "B": 240, "C": 200}
    letters = {item["id"]: item["letter"] for item in trial["treatments"]}
    for day in range(8):
        for strip in trial["strips"]:
            letter = letters[strip["treatment_id"]]
            share = min(1.0, max(0.0, (day - (2 if letter == "B" else 0)) / 5))
            body = count_body(strip, str(round(final[letter] * share / 2)), recorded_at=f"2026-04-{10 + day:02d}T08:00:00Z")
            lead.ok("put", f"/trials/{trial['id']}/stand-counts/{uuid4()}", body)  # 4 rows of 1 m at 12.5 cm are half a m²
    stand = lead.ok("get", f"/trials/{trial['id']}/stand")
    assert len(stand["visits"]) == 8, "a day each"
    names = {item["id"]: item["letter"] for item in trial["treatments"]}
    means = {names[item["treatment_id"]]: item["stand"]["value"] for item in stand["treatments"]}
    assert means == pytest.approx(final, abs=2)
    records = lead.ok("get", f"/trials/{trial['id']}")["strips"]
    assert {round(strip["stand"]["value"]) for strip in records if letters[strip["treatment_id"]] == "B"} == {240}
