"""What every operation refuses before it looks, and faults as answers: never a page of HTML, never a bare 500."""

from __future__ import annotations

import io
import json
import re
from collections.abc import Callable, Iterator
from typing import Any

import openpyxl
import pytest
from apps.base import disk_space
from apps.trials.models import Trial
from django.db import OperationalError
from django.test import Client

from tests.server.conftest import Api, count_body, now, typed
from tests.server.operation_rows import ROWS
from tests.server.test_permissions import (  # noqa: F401 - fixtures: the world built once
    backups_aside,
    lead,
    logs_aside,
    nothing_to_fill,
    photos_aside,
    place,
    trial,
    workspace,
    world,
)

Place = dict[str, Any]
HOSTILE: list[Any] = [
    "a\x0bb",
    "\ud800",
    "\x00",
    "0001-01-01T00:00:00Z",
    "9999-12-31",
    "99999-01-01",
    10**400,
    -1,
    2**63,
    1e308,
    -(2**31) - 1,
    "=1+1",
    "",
    None,
    [],
    {},
    True,
    "x" * 70_000,
    "１２",
    "1e999",
    "-",
    [[[]]],
    {"text": None},
    {"text": "\ud800", "unit": "m"},
]


def leaves(body: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """Where a body can be changed: every value and every list or object itself."""
    if path:
        yield path
    if isinstance(body, dict):
        for key, value in body.items():
            yield from leaves(value, (*path, key))
    elif isinstance(body, list):
        for key, value in enumerate(body[:1]):
            yield from leaves(value, (*path, key))


def changed(body: Any, path: tuple[Any, ...], value: Any) -> Any:
    copy = json.loads(json.dumps(body))
    at = copy
    for key in path[:-1]:
        at = at[key]
    at[path[-1]] = value
    return copy


@pytest.mark.parametrize("name", sorted(name for name, row in ROWS.items() if not isinstance(row[2], str)))
def test_no_operation_breaks_over_what_it_is_sent(
    name: str,
    lead: Api,
    trial: Place,
    place: Callable[[str], str],  # noqa: F811
) -> None:
    """Each part of each body in turn replaced by something hostile; each number of each query too."""
    method, path, body, _ = ROWS[name]
    at = place(path)
    result = body(trial) if callable(body) else body
    turn = sum(map(ord, name))  # so that every hostile value meets some part of every kind of body
    for leaf in leaves(result) if result is not None else ():
        for step in (0, 7, 15):
            value = HOSTILE[(turn + step) % len(HOSTILE)]
            answer = lead.call(method, at, changed(result, leaf, value))
            assert answer.status_code < 500, (leaf, value, answer.content)
            if answer.status_code >= 400:
                assert answer.json()["message"]
        turn += 1
    for value in ("-1", "1" * 400, "9" * 20, "\x0b", "%ED%A0%80", "nan", "1e999"):
        query = (
            re.sub(r"=[^&]*", f"={value}", at) if "?" in at else f"{at}?seed={value}&strip={value}&visit={value}&swing={value}"
        )
        if method == "get":
            answer = lead.client.get(f"/api{query}")
            assert answer.status_code < 500, (query, answer.content)


def test_signs_that_are_no_text_are_refused_with_the_field(lead: Api, trial: Place) -> None:
    path = f"/trials/{trial['id']}"
    for sign in ("\x0b", "\x00", "\x1b", "\ufffe"):
        answer = lead.refused("patch", path, {"version": trial["version"], "title": f"Row{sign}width"})
        assert (answer["code"], answer["field"]) == ("no_text", "title")
    raw = f'{{"version": {trial["version"]}, "title": "half a pair \\ud800"}}'
    answer = lead.client.patch(f"/api{path}", raw, content_type="application/json")
    assert (answer.status_code, answer.json()["code"]) == (422, "no_text")
    assert lead.ok("patch", path, {"version": trial["version"], "title": "Tab\tand 😀"})["title"].endswith("😀")


def test_a_name_of_half_a_pair_signs_nobody_in(nobody: Api) -> None:
    raw = '{"username": "\\udfff", "password": "x"}'
    answer = nobody.client.post("/api/session", raw, content_type="application/json")
    assert (answer.status_code, answer.json()["code"]) == (422, "no_text")


def test_numbers_and_days_that_no_trial_has(lead: Api, trial: Place) -> None:
    plan = {
        "version": trial["version"],
        "design": "rcbd",
        "seed": 7,
        "strip_width": typed("6", "m"),
        "strip_length": typed("300", "m"),
    }
    assert lead.refused("post", f"/trials/{trial['id']}/layout", {**plan, "blocks": 10**400})["code"] == "not_finite"
    count = f"/trials/{trial['id']}/stand-counts/11111111-1111-4111-8111-111111111111"
    answer = lead.refused("put", count, count_body(trial["strips"][0], recorded_at="0001-01-01T00:00:00Z"))
    assert (answer["code"], answer["field"]) == ("no_day", "recorded_at")
    for seed in ("-1", "9" * 30):
        for instrument in ("scale?strip=1", "meter?moisture_pct=14", "combine?lag_s=9"):
            assert lead.client.get(f"/api/trials/{trial['id']}/stand-ins/{instrument}&seed={seed}").status_code == 422


def test_a_title_stored_with_a_control_sign_no_longer_breaks_the_workbook(lead: Api, trial: Place) -> None:
    """From before such signs were refused."""
    Trial.objects.filter(pk=trial["id"]).update(title="Row\x0bwidth")
    answer = lead.client.get(f"/api/trials/{trial['id']}/data-file?format=xlsx")
    assert answer.status_code == 200
    book = openpyxl.load_workbook(io.BytesIO(answer.content))
    assert book["About"]["B1"].value == "Rowwidth"


def test_a_fault_is_answered_with_a_number_that_is_in_the_log(
    lead: Api, trial: Place, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    import logging

    monkeypatch.setattr("apps.pages.stand.output.stand_out", lambda *_: 1 / 0)
    logger = logging.getLogger("cultrix.faults")
    logger.addHandler(caplog.handler)
    try:
        answer = lead.client.get(f"/api/trials/{trial['id']}/stand")
    finally:
        logger.removeHandler(caplog.handler)
    assert answer.status_code == 500
    assert answer.headers["Content-Type"].startswith("application/json")
    reference = answer.json()["reference"]
    assert reference in answer.json()["message"]
    assert f"fault {reference}" in caplog.text
    assert "ZeroDivisionError" in caplog.text


def test_a_fault_outside_the_api_is_json_too(monkeypatch: pytest.MonkeyPatch, db: None) -> None:  # noqa: ARG001
    monkeypatch.setattr("apps.report.shared.opened", lambda *_: 1 / 0)
    answer = Client(HTTP_HOST="localhost", raise_request_exception=False).get("/shared/anything")
    assert answer.status_code == 500
    assert answer.json()["code"] == "fault"


@pytest.mark.parametrize("path", ["/api/nothing", "/static/nothing", "/api/trials/x/y/z"])
def test_an_address_that_is_none_is_json(path: str, nobody: Api) -> None:
    answer = nobody.client.get(path)
    assert answer.status_code == 404
    assert b"<html" not in answer.content.lower()


def test_a_full_disk_is_said_in_a_sentence_and_reading_goes_on(
    lead: Api, trial: Place, monkeypatch: pytest.MonkeyPatch
) -> None:
    before = lead.ok("get", f"/trials/{trial['id']}/stand")["strips"]
    monkeypatch.setattr(disk_space, "free_bytes", lambda: 1_000_000)
    path = f"/trials/{trial['id']}/stand-counts/11111111-1111-4111-8111-111111111111"
    answer = lead.call("put", path, count_body(trial["strips"][0]))
    assert (answer.status_code, answer.json()["code"]) == (507, "no_room")
    assert "nearly full" in answer.json()["message"]
    assert lead.ok("get", f"/trials/{trial['id']}/stand")["strips"] == before
    assert lead.call("delete", "/session").status_code == 204, "one can leave, and so come in again"


def test_one_can_sign_in_with_a_full_disk(lead: Api, nobody: Api, monkeypatch: pytest.MonkeyPatch) -> None:  # noqa: ARG001
    from tests.server.conftest import PASSWORD

    monkeypatch.setattr(disk_space, "free_bytes", lambda: 1_000_000)
    assert nobody.call("post", "/session", {"username": "mirren", "password": PASSWORD}).status_code == 200


@pytest.mark.parametrize(("words", "status"), [("database or disk is full", 507), ("database is locked", 503)])
def test_what_the_database_says_is_said_plainly(
    lead: Api, trial: Place, monkeypatch: pytest.MonkeyPatch, words: str, status: int
) -> None:
    def broken(*_: object) -> None:
        raise OperationalError(words)

    monkeypatch.setattr("apps.field.events.services.put_field_event", broken)
    body = {"kind": "note", "text": "x", "happened_on": now()[:10], "strip_ids": [], "recorded_at": now()}
    answer = lead.call("put", f"/trials/{trial['id']}/field-events/11111111-1111-4111-8111-111111111111", body)
    assert answer.status_code == status
    assert answer.json()["message"].endswith(".")
