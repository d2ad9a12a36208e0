"""The station, weather files, visits due, re-entry and the calendar, through the API."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta
from typing import Any
from uuid import uuid4

import pytest
from apps.field.weather.models import WeatherDay
from apps.trials.models import Trial
from cultrix_core.season.weather import read_weather
from django.core.files.uploadedfile import SimpleUploadedFile
from icalendar import Calendar

from tests.server.conftest import Api, count_body, load_body

Place = dict[str, Any]


def station(api: Api, workspace: Any, **more: Any) -> Any:
    return api.ok("put", f"/workspaces/{workspace.id}/station", {"kind": "simulated", "seed": 5, "version": 0} | more)


def upload(api: Api, workspace: Any, text: str | bytes) -> Any:
    content = text if isinstance(text, bytes) else text.encode()
    return api.client.post(
        f"/api/workspaces/{workspace.id}/weather-file", {"file": SimpleUploadedFile("w.csv", content, content_type="text/csv")}
    )


def plant(trial: Place, days: int) -> None:
    Trial.objects.filter(pk=trial["id"]).update(planted_on=date.today() - timedelta(days=days))


def steady(days: int, heat: float, rain: dict[int, float] | None = None) -> str:
    """So many days up to today with the same heat units over 0 °C; rain by days ago."""
    lines = ["date,min_c,max_c,rain_mm"]
    for ago in range(days, -1, -1):
        on = date.today() - timedelta(days=ago)
        lines.append(f"{on},{heat},{heat},{(rain or {}).get(ago, 0)}")
    return "\n".join(lines)


def test_the_simulated_station_speaks_the_text_that_files_speak(lead: Api, workspace: Any) -> None:
    result = station(lead, workspace, name="Weir")
    assert (result["kind"], result["name"], result["last"]) == ("simulated", "Weir", date.today().isoformat())
    assert len(result["recent"]) == 14
    text = lead.client.get(f"/api/workspaces/{workspace.id}/weather.csv").content.decode()
    assert len(read_weather(text)) == result["days"]
    answer = upload(lead, workspace, text)
    assert answer.status_code == 200
    read = answer.json()
    assert (read["kind"], read["days"]) == ("file", result["days"])
    assert lead.client.get(f"/api/workspaces/{workspace.id}/weather.csv").content.decode() == text


def test_a_station_changed_elsewhere_is_a_conflict(lead: Api, workspace: Any) -> None:
    station(lead, workspace)
    body = {"kind": "file", "version": 0}
    assert lead.refused("put", f"/workspaces/{workspace.id}/station", body, status=409)["code"] == "stale"


def test_without_a_station_nothing_is_invented(lead: Api, workspace: Any, trial: Place) -> None:
    result = lead.ok("get", f"/workspaces/{workspace.id}/station")
    assert (result["kind"], result["days"], result["recent"]) == (None, 0, [])
    plant(trial, 16)
    visits = lead.ok("get", f"/trials/{trial['id']}/schedule")
    assert "no weather known" in visits["heat_words"]
    assert "no weather known" in visits["visits"][0]["reason"]


@pytest.mark.parametrize(
    "content", [b"\xff\xfe\x00bin", b"hello", b"date,min_c,max_c\n2026-13-01,1,2\n", b"date,min_c,max_c\n2026-01-01,9,2\n"]
)
def test_broken_files_leave_nothing_behind(lead: Api, workspace: Any, content: bytes) -> None:
    good = "date,min_c,max_c\n2026-01-01,1,2\n"
    assert upload(lead, workspace, good).status_code == 200
    answer = upload(lead, workspace, content)
    assert answer.status_code == 422
    assert answer.json()["field"] == "file"
    assert WeatherDay.objects.count() == 1


def test_files_over_the_limit_are_refused(lead: Api, workspace: Any, settings: Any) -> None:
    settings.UPLOAD_LIMIT_BYTES = 20
    answer = upload(lead, workspace, "date,min_c,max_c\n2026-01-01,1,2\n")
    assert answer.json()["code"] == "too_large"


def test_a_day_read_again_is_replaced(lead: Api, workspace: Any) -> None:
    upload(lead, workspace, "date,min_c,max_c\n2026-01-01,1,2\n2026-01-02,1,2\n")
    upload(lead, workspace, "date,min_c,max_c\n2026-01-02,4,8\n")
    assert [(day.min_c, day.max_c) for day in WeatherDay.objects.all()] == [(1, 2), (4, 8)]


def dues(api: Api, workspace: Any, trial: Place) -> list[dict[str, Any]]:
    return [due for due in api.ok("get", f"/workspaces/{workspace.id}/today")["dues"] if due["trial_id"] == trial["id"]]


def test_today_lists_visits_by_heat_units_overdue_first(lead: Api, workspace: Any, trial: Place) -> None:
    """Wheat at 10 heat units a day, 25 days after sowing: first count due on day 11, full count on day 20."""
    plant(trial, 25)
    upload(lead, workspace, steady(40, 10))
    result = [due for due in dues(lead, workspace, trial) if due["task"]]
    assert [(due["what"].split(":")[0], due["state"]) for due in result] == [
        ("First count", "overdue"),
        ("Full count", "overdue"),
    ]
    assert result[0]["on"] == (date.today() - timedelta(days=14)).isoformat()
    assert "110 °C days since sowing" in result[0]["why"]
    everything = lead.ok("get", f"/workspaces/{workspace.id}/today")["dues"]
    assert everything[0]["state"] == "overdue"
    assert not [due for due in everything if due["stage"] == "stand" and not due["task"]], "said once, not twice"


def test_a_count_settles_the_visit(lead: Api, workspace: Any, trial: Place) -> None:
    plant(trial, 25)
    upload(lead, workspace, steady(40, 10))
    at = (datetime.now(UTC) - timedelta(days=13)).isoformat()
    lead.ok("put", f"/trials/{trial['id']}/stand-counts/{uuid4()}", count_body(trial["strips"][0], recorded_at=at))
    states = {item["key"]: item["state"] for item in lead.ok("get", f"/trials/{trial['id']}/schedule")["visits"]}
    assert (states["first_count"], states["full_count"]) == ("done", "overdue")


def test_wet_ground_moves_a_visit_to_tomorrow(lead: Api, workspace: Any, trial: Place) -> None:
    plant(trial, 25)
    upload(lead, workspace, steady(40, 10, rain={0: 9, 1: 8}))
    result = [due for due in dues(lead, workspace, trial) if due["task"]]
    assert {due["state"] for due in result} == {"wait"}
    assert "17 mm since yesterday, too wet to enter" in result[0]["why"]
    assert result[0]["on"] == (date.today() + timedelta(days=1)).isoformat()


def test_nothing_is_due_once_strips_are_harvested(lead: Api, workspace: Any, trial: Place) -> None:
    plant(trial, 25)
    upload(lead, workspace, steady(40, 10))
    lead.ok("put", f"/trials/{trial['id']}/harvest-loads/{uuid4()}", load_body(trial["strips"][0]))
    assert lead.ok("get", f"/trials/{trial['id']}/schedule")["visits"] == []


def spray(api: Api, trial: Place, *, days_ago: int, hours: int | None, kind: str = "spray") -> Any:
    on = date.today() - timedelta(days=days_ago)
    body = {
        "kind": kind,
        "happened_on": on.isoformat(),
        "text": "Fungicide",
        "reentry_hours": hours,
        "recorded_at": datetime.now(UTC).isoformat(),
    }
    return api.ok("put", f"/trials/{trial['id']}/field-events/{uuid4()}", body)


def test_a_logged_spray_brings_the_labels_reentry_caution(lead: Api, workspace: Any, trial: Place) -> None:
    plant(trial, 25)
    event = spray(lead, trial, days_ago=0, hours=48)
    until = datetime.fromisoformat(event["reentry_until"])
    assert until.date() == date.today() + timedelta(days=3)
    result = dues(lead, workspace, trial)[0]["cautions"]
    assert len(result) == 1
    assert "nobody in before" in result[0]
    assert "label is the law" in result[0]
    assert lead.ok("get", f"/trials/{trial['id']}/schedule")["cautions"] == result


def test_an_interval_that_has_run_out_and_other_events_say_nothing(lead: Api, workspace: Any, trial: Place) -> None:
    plant(trial, 25)
    spray(lead, trial, days_ago=9, hours=24)
    spray(lead, trial, days_ago=0, hours=None)
    assert spray(lead, trial, days_ago=0, hours=24, kind="rain")["reentry_hours"] is None
    assert dues(lead, workspace, trial)[0]["cautions"] == []


def test_the_calendar_is_read_by_another_library(lead: Api, workspace: Any, trial: Place) -> None:
    plant(trial, 8)
    upload(lead, workspace, steady(40, 10))
    answer = lead.client.get(f"/api/workspaces/{workspace.id}/visits.ics")
    assert answer["Content-Type"].startswith("text/calendar")
    events = list(Calendar.from_ical(answer.content).walk("VEVENT"))
    visits = {item["key"]: item for item in lead.ok("get", f"/trials/{trial['id']}/schedule")["visits"]}
    result = {str(event["uid"]): event for event in events}
    first = result[f"{trial['id']}-first_count@cultrix"]
    assert first.decoded("dtstart").isoformat() == visits["first_count"]["on"]
    assert "Row width" in str(first["summary"])
    assert len(result) == len(events) == len(visits)
