"""The clock of each strip: sowings on several days, daily counts, days joined by hand, and what a view leaves out."""

from __future__ import annotations

import importlib
from datetime import UTC, date, datetime, timedelta
from typing import Any
from uuid import uuid4

import pytest
from apps.accounts.models import User
from apps.field.planting.models import PlantingRecord
from apps.field.visits.models import JoinedVisit
from apps.trials.models import Trial
from django.apps import apps as installed
from django.utils import timezone

from tests.server.conftest import Api, count_body, measure_body, planting_body, typed

Place = dict[str, Any]
MAY = date(2026, 5, 2)


def at(day: date, hour: int = 9) -> str:
    return datetime(day.year, day.month, day.day, hour, tzinfo=UTC).isoformat()


def put(api: Api, trial: Place, kind: str, body: Place, record_id: str = "") -> Any:
    return api.ok("put", f"/trials/{trial['id']}/{kind}/{record_id or uuid4()}", body)


def counted(api: Api, trial: Place, strip: Place, day: date, per_m2: float) -> None:
    """A count on half a square metre."""
    put(api, trial, "stand-counts", count_body(strip, str(round(per_m2 * 0.5)), recorded_at=at(day)))


def sown(api: Api, trial: Place, strip: Place, day: date, **more: Any) -> Any:
    return put(api, trial, "planting-records", planting_body(strip, sown_at=at(day), recorded_at=at(day), **more))


def letters(trial: Place) -> dict[str, str]:
    return {treatment["id"]: treatment["letter"] for treatment in trial["treatments"]}


def emergence_at(days: int, t50: float, shape: float, final: float) -> float:
    """Stand of a log-logistic time to emergence, the textbook form the core names."""
    return final / (1 + (days / t50) ** -shape) if days > 0 else 0.0


def daily_counts(api: Api, trial: Place, *, final: dict[str, float]) -> None:
    """Every strip counted on ten days after its own sowing; A and C sown on 2 May, B on 12 May."""
    of = letters(trial)
    for strip in trial["strips"]:
        letter = of[strip["treatment_id"]]
        day = MAY + timedelta(days=10 if letter == "B" else 0)
        sown(api, trial, strip, day)
        wobble = 1 + 0.01 * (strip["order"] % 3)
        for age in range(5, 15):
            stand = emergence_at(age, 8.0 * wobble, 7.0, final[letter])
            counted(api, trial, strip, day + timedelta(days=age), stand)


def test_daily_counts_are_compared_on_the_last_day_and_on_each_strips_own_clock(lead: Api, trial: Place) -> None:
    """B ahead at the end is told ahead; all three come up at the same age, though B was sown ten days later."""
    daily_counts(lead, trial, final={"A": 165, "B": 240, "C": 165})
    of = letters(trial)
    analysis = lead.ok("get", f"/trials/{trial['id']}/stand-analysis")
    curves = {of[row["treatment_id"]]: row for row in analysis["emergence"]}
    assert [point["day"] for point in curves["B"]["points"]] == list(range(5, 15))
    assert curves["B"]["final"]["value"] == pytest.approx(240, abs=8)
    assert curves["A"]["final"]["value"] == pytest.approx(165, abs=8)
    strip = curves["B"]["strips"][0]
    assert strip["sown_on"] == "2026-05-12"
    assert strip["half_days"] == pytest.approx(8.0, rel=0.05)
    measures = {measure["key"]: measure for measure in analysis["emergence_measures"]}
    assert list(measures) == ["half", "ninety", "spread", "final"]
    against = {of[value["treatment_id"]]: value for value in measures["half"]["treatments"]}
    assert abs(float(against["B"]["difference"].rstrip(" %").replace("−", "-"))) <= 3
    more = {of[value["treatment_id"]]: value for value in measures["final"]["treatments"]}
    assert more["B"]["difference"].startswith("+7")
    assert more["B"]["difference_lower"].startswith("+")
    assert float(measures["final"]["p"].lstrip("<").strip()) < 0.001


def test_every_day_is_a_visit_until_somebody_joins_days(lead: Api, trial: Place) -> None:
    """Half the field on Monday, half on Tuesday: what the table leaves out is said; joined, it is one count of nine strips."""
    for strip in trial["strips"]:
        counted(lead, trial, strip, MAY + timedelta(days=strip["order"] > 4), 200)
    path = f"/trials/{trial['id']}/stand"
    stand = lead.ok("get", path)
    assert [(visit["counts"], visit["joined"]) for visit in stand["visits"]] == [(4, None), (5, None)]
    assert stand["left_out"] == [
        "Strips 1–4: counted on 2 May, another visit, so not in this table. Join the days if it was one visit."
    ]
    body = {"task": "count", "first_on": "2026-05-02", "last_on": "2026-05-03", "recorded_at": at(MAY)}
    record = str(uuid4())
    put(lead, trial, "joined-visits", body, record)
    stand = lead.ok("get", path)
    assert [(visit["counts"], visit["first"], visit["last"]) for visit in stand["visits"]] == [(9, "2026-05-02", "2026-05-03")]
    assert (stand["left_out"], stand["visits"][0]["joined"]["id"]) == ([], record)
    assert sum(1 for strip in lead.ok("get", f"/trials/{trial['id']}")["strips"] if strip["stand"]) == 9
    lead.ok("post", f"/records/joined-visit/{record}/void", {"voided": True, "reason": "two counts", "version": 1})
    assert len(lead.ok("get", path)["visits"]) == 2


@pytest.mark.parametrize(
    ("more", "field"),
    [({"last_on": "2026-05-02"}, "last_on"), ({"last_on": "2026-06-20"}, "last_on"), ({"last_on": "2099-05-03"}, "last_on")],
)
def test_days_that_cannot_be_joined(lead: Api, trial: Place, more: Place, field: str) -> None:
    body = {"task": "count", "first_on": "2026-05-02", "last_on": "2026-05-03", "recorded_at": at(MAY)} | more
    assert lead.refused("put", f"/trials/{trial['id']}/joined-visits/{uuid4()}", body)["field"] == field
    assert not JoinedVisit.objects.exists()


def test_days_of_one_task_do_not_join_those_of_another(lead: Api, trial: Place) -> None:
    for strip in trial["strips"]:
        day = MAY + timedelta(days=strip["order"] > 4)
        counted(lead, trial, strip, day, 200)
        put(lead, trial, "plant-measures", measure_body(strip, value=typed("40", "cm"), recorded_at=at(day)))
    body = {"task": "measure", "first_on": "2026-05-02", "last_on": "2026-05-03", "recorded_at": at(MAY)}
    put(lead, trial, "joined-visits", body)
    assert len(lead.ok("get", f"/trials/{trial['id']}/stand")["visits"]) == 2
    summary = lead.ok("get", f"/trials/{trial['id']}/scouting")["summaries"][0]
    assert (summary["values"], summary["left_out"]) == (9, [])
    assert lead.refused("put", f"/trials/{trial['id']}/joined-visits/{uuid4()}", body)["code"] == "duplicate"
    assert JoinedVisit.objects.count() == 1


def test_a_strip_sown_again_is_as_old_as_that_sowing(lead: Api, trial: Place) -> None:
    """Another pass of one sowing leaves the clock and adds its seed; sowing again sets the clock anew."""
    first, second = trial["strips"][:2]
    sown(lead, trial, first, MAY, rate=typed("320", "/m2"))
    sown(lead, trial, first, MAY + timedelta(days=2), way="pass", rate=typed("40", "/m2"))
    sown(lead, trial, second, MAY, rate=typed("320", "/m2"))
    sown(lead, trial, second, MAY + timedelta(days=20), way="again", rate=typed("350", "/m2"))
    strips = {strip["id"]: strip for strip in lead.ok("get", f"/trials/{trial['id']}")["strips"]}
    assert strips[first["id"]]["sown_on"] == "2026-05-02"
    assert strips[second["id"]]["sown_on"] == "2026-05-22"
    counted(lead, trial, first, MAY + timedelta(days=30), 200)
    counted(lead, trial, second, MAY + timedelta(days=30), 200)
    visit = lead.ok("get", f"/trials/{trial['id']}/stand")["visits"][0]
    assert (visit["days_from_sowing"], visit["days_from_sowing_most"]) == (10, 30)


def test_the_trials_day_is_that_of_its_first_strip_whichever_record_came_first(lead: Api, trial: Place) -> None:
    later, earlier = trial["strips"][:2]
    record = sown(lead, trial, later, MAY + timedelta(days=8))
    assert Trial.objects.get(pk=trial["id"]).planted_on == MAY + timedelta(days=8)
    sown(lead, trial, earlier, MAY)
    assert Trial.objects.get(pk=trial["id"]).planted_on == MAY
    lead.ok("post", f"/records/planting-record/{record['id']}/void", {"voided": True, "reason": "another strip", "version": 1})
    assert Trial.objects.get(pk=trial["id"]).planted_on == MAY
    Trial.objects.filter(pk=trial["id"]).update(planted_on=None)


def test_a_typed_day_stays_and_counts_for_strips_without_a_record(lead: Api, trial: Place) -> None:
    lead.ok("patch", f"/trials/{trial['id']}", {"version": trial["version"], "planted_on": "2026-05-01"})
    sown(lead, trial, trial["strips"][0], MAY + timedelta(days=8))
    assert Trial.objects.get(pk=trial["id"]).planted_on == date(2026, 5, 1)
    days = [strip["sown_on"] for strip in lead.ok("get", f"/trials/{trial['id']}")["strips"]]
    assert days == ["2026-05-10"] + ["2026-05-01"] * 8


def test_counts_before_the_sowing_that_is_recorded_are_listed(lead: Api, trial: Place) -> None:
    strip = trial["strips"][2]
    sown(lead, trial, strip, MAY + timedelta(days=10))
    counted(lead, trial, strip, MAY + timedelta(days=4), 100)
    counted(lead, trial, strip, MAY + timedelta(days=20), 200)
    told = lead.ok("get", f"/trials/{trial['id']}/stand-analysis")
    assert "counted on 6 May, before the sowing" in told["left_out"][0]
    assert [point["day"] for point in told["emergence"][0]["strips"][0]["points"]] == [10]
    assert any("before the sowing" in text for text in lead.ok("get", f"/trials/{trial['id']}/stand")["left_out"])


def test_visits_are_due_by_the_strips_own_sowing(lead: Api, trial: Place) -> None:
    """Sown 30 days apart: each group has a first count of its own; counting one group leaves the other due."""
    today = timezone.localdate()
    early, late = trial["strips"][:5], trial["strips"][5:]
    for strip in early:
        sown(lead, trial, strip, today - timedelta(days=30))
    for strip in late:
        sown(lead, trial, strip, today)
    path = f"/trials/{trial['id']}/schedule"
    counts = [visit for visit in lead.ok("get", path)["visits"] if visit["task"] == "count"]
    first = {visit["where"]: visit for visit in counts if visit["key"] == counts[0]["key"]}
    assert list(first) == ["strips 1–5", "strips 6–9"]
    gap = date.fromisoformat(first["strips 6–9"]["on"]) - date.fromisoformat(first["strips 1–5"]["on"])
    assert gap == timedelta(days=30)
    for strip in early:
        counted(lead, trial, strip, today, 200)
    states = {visit["where"]: visit["state"] for visit in lead.ok("get", path)["visits"] if visit["key"] == counts[0]["key"]}
    assert states["strips 1–5"] == "done"
    assert states["strips 6–9"] != "done"
    assert "strips 6–9" in lead.ok("get", path)["heat_words"] or "days decide" in lead.ok("get", path)["heat_words"]


def test_the_age_of_a_stand_is_that_of_the_day_it_was_counted(lead: Api, trial: Place) -> None:
    """Counted a year after sowing: a year old, whenever the page is read."""
    sowing = date(2023, 4, 1)
    for strip in trial["strips"]:
        sown(lead, trial, strip, sowing)
        counted(lead, trial, strip, date(2024, 4, 1), 200)
    age = lead.ok("get", f"/trials/{trial['id']}/stand-analysis")["age_years"]
    assert age == pytest.approx(366 / 365.25, abs=1e-6)


def test_what_was_chained_before_is_written_down_as_joined(lead: Api, trial: Place) -> None:
    """The migration: neighbouring days without a strip twice were one visit; counts of every day were not."""
    migration = importlib.import_module("apps.field.migrations.0009_visits_as_they_were")
    for strip in trial["strips"]:
        counted(lead, trial, strip, MAY + timedelta(days=strip["order"] > 4), 200)
    for day in (20, 21, 22):
        counted(lead, trial, trial["strips"][0], MAY + timedelta(days=day), 200)
    migration.write_down(installed, None)
    joined = JoinedVisit.objects.get()
    assert (joined.task, joined.first_on, joined.last_on) == ("count", MAY, MAY + timedelta(days=1))
    assert joined.history.exists()
    assert [visit["counts"] for visit in lead.ok("get", f"/trials/{trial['id']}/stand")["visits"]] == [9, 1, 1, 1]
    assert PlantingRecord.objects.count() == 0
    assert User.objects.filter(pk=joined.recorded_by_id).exists()


def test_repeated_heights_have_a_course_and_a_mean_level_of_each_strip(lead: Api, trial: Place) -> None:
    """Heights on three dates: the mean level by trapezoids of each strip, compared over strips; dates are no replicates."""
    of = letters(trial)
    days = (0, 10, 30)
    base = {"A": (10, 30, 60), "B": (8, 26, 50), "C": (10, 30, 60)}
    expected: dict[str, list[float]] = {}
    for strip in trial["strips"]:
        letter, more = of[strip["treatment_id"]], strip["order"] % 4
        values = [height + more + (strip["order"] * 3 + place) % 5 / 2 for place, height in enumerate(base[letter])]
        for day, value in zip(days, values, strict=True):
            body = measure_body(strip, value=typed(str(value), "cm"), recorded_at=at(MAY + timedelta(days=day)))
            put(lead, trial, "plant-measures", body)
        area = 10 * (values[0] + values[1]) / 2 + 20 * (values[1] + values[2]) / 2
        expected.setdefault(letter, []).append(area / 30)
    profile = lead.ok("get", f"/trials/{trial['id']}/scouting")["summaries"][0]["profile"]
    assert [point["day"] for point in profile["points"]] == ["2026-05-02", "2026-05-12", "2026-06-01"]
    first = {of[value["treatment_id"]]: value for value in profile["points"][0]["values"]}
    assert first["A"]["lower"]["value"] < first["A"]["mean"]["value"] < first["A"]["upper"]["value"]
    for row in profile["level"]:
        own = expected[of[row["treatment_id"]]]
        assert (row["strips"], row["mean"]["value"]) == (3, pytest.approx(sum(own) / 3, abs=0.6))
    assert "change from date to date (p" in profile["changed"]
    put(
        lead,
        trial,
        "plant-measures",
        measure_body(trial["strips"][0], value=typed("70", "cm"), recorded_at=at(MAY + timedelta(days=40))),
    )
    later = lead.ok("get", f"/trials/{trial['id']}/scouting")["summaries"][0]
    assert later["profile"]["left_out"] == ["11 Jun: 1 of 9 strips, so not in the mean level."]
    assert [row["mean"] for row in later["profile"]["level"]] == [row["mean"] for row in profile["level"]]
    assert later["left_out"][0].startswith("Strips 2–9: measured on 1 Jun")
