"""Sessions and devices: seen and ended, throttled without locking anybody out, and writes that are somebody's or nobody's."""

from __future__ import annotations

import threading
from datetime import datetime, timedelta
from io import StringIO
from typing import Any
from uuid import uuid4

import pytest
from apps.accounts import credentials, services, throttle
from apps.accounts.models import Device, Membership, SignInFailure, User, Workspace
from apps.field.stand.models import StandCount
from config import guard
from config.api import api
from config.deeds import DEEDS
from django.core.management import call_command
from django.test import Client, override_settings
from django.utils import timezone

from tests.server.conftest import PASSWORD, Api, count_body, now, record_count

Place = dict[str, Any]
ANDROID = "Mozilla/5.0 (Linux; Android 15) AppleWebKit/537.36 Chrome/131.0 Mobile Safari/537.36"


@pytest.fixture
def person(lead: Api) -> User:  # noqa: ARG001
    return User.objects.get(username="mirren")


def sign_in(client: Client, password: str = PASSWORD, name: str = "mirren", **extra: Any) -> Any:
    body = {"username": name, "password": password, **extra.pop("body", {})}
    return client.post("/api/session", body, content_type="application/json", **extra)


def fresh(**extra: Any) -> Client:
    return Client(HTTP_HOST="localhost", **extra)


def signed_in(client: Client) -> bool:
    return client.get("/api/session").json()["person"] is not None


# --- devices ----------------------------------------------------------------------------------------------------------


def test_devices_are_listed_and_signed_out_one_by_one_or_all(person: User) -> None:  # noqa: ARG001
    here, phone, tablet = (Api(), Api(), Api())
    for item in (here, phone, tablet):
        assert sign_in(item.client, HTTP_USER_AGENT=ANDROID).status_code == 200
    listed = here.ok("get", "/sessions")
    assert [one["name"] for one in listed] == ["Chrome on Android"] * 3
    assert sum(one["here"] for one in listed) == 1
    gone = phone.ok("get", "/sessions")
    its = next(one["id"] for one in gone if one["here"])
    assert here.call("delete", f"/sessions/{its}").status_code == 204
    assert not signed_in(phone.client)
    assert signed_in(tablet.client)
    assert here.call("delete", "/sessions").status_code == 204
    assert not signed_in(tablet.client)
    assert signed_in(here.client)


def test_nobody_signs_out_somebody_elses_device(lead: Api, scout: Api) -> None:
    lead.ok("get", "/sessions")
    its = Device.objects.get(user__username="mirren")
    assert scout.call("delete", f"/sessions/{its.id}").status_code == 404
    scout.call("delete", "/sessions")
    assert signed_in(lead.client)


def left_alone(**ago: float) -> None:
    Device.objects.update(last_contact=timezone.now() - timedelta(**ago))


def test_a_device_left_alone_is_signed_out_a_shared_one_soon(person: User) -> None:  # noqa: ARG001
    own, shared = Api(), Api()
    sign_in(own.client)
    sign_in(shared.client, body={"shared": True})
    left_alone(minutes=31)
    assert shared.call("get", "/workspaces/x/people").status_code in (401, 422)
    assert not signed_in(shared.client)
    assert signed_in(own.client)
    left_alone(days=15)
    assert not signed_in(own.client)


def test_a_session_ends_however_often_it_is_used(person: User) -> None:  # noqa: ARG001
    own = Api()
    sign_in(own.client)
    Device.objects.update(signed_in_at=timezone.now() - timedelta(days=61), last_contact=timezone.now())
    assert not signed_in(own.client)


def test_a_deactivated_person_is_out_at_once(lead: Api, trial: Place) -> None:
    User.objects.filter(username="mirren").update(is_active=False)
    assert lead.call("get", f"/trials/{trial['id']}").status_code == 401
    assert lead.call("put", f"/trials/{trial['id']}/stand-counts/{uuid4()}", count_body(trial["strips"][0])).status_code == 401


# --- throttling -------------------------------------------------------------------------------------------------------


def test_wrong_tries_make_the_stranger_wait_and_not_the_owner(person: User) -> None:  # noqa: ARG001
    """All behind a proxy that is not trusted: the same address for everybody."""
    owner, stranger = fresh(), fresh()
    assert sign_in(owner).status_code == 200, "this device knows its owner from here on"
    for _ in range(8):
        sign_in(stranger, "wrong")
    answer = sign_in(stranger, PASSWORD)
    assert answer.status_code == 429
    assert 0 < int(answer.headers["Retry-After"]) <= 60
    assert "Wait" in answer.json()["message"]
    owner.post("/api/session", {}, content_type="application/json")
    assert sign_in(owner).status_code == 200


def test_another_name_from_the_same_proxy_does_not_wait(person: User, scout: Api) -> None:  # noqa: ARG001
    stranger, corin = fresh(), fresh()
    for _ in range(8):
        sign_in(stranger, "wrong")
    assert sign_in(corin, name="corin").status_code == 200


@override_settings(BEHIND_PROXY=True)
def test_behind_a_trusted_proxy_each_address_waits_alone(person: User) -> None:  # noqa: ARG001
    bad, good = fresh(HTTP_X_FORWARDED_FOR="203.0.113.9"), fresh(HTTP_X_FORWARDED_FOR="198.51.100.7, 203.0.113.20")
    for _ in range(12):
        sign_in(bad, "wrong")
    assert sign_in(bad).status_code == 429
    assert sign_in(good).status_code == 200, "the last address is the one the proxy itself has seen"


def test_a_header_is_not_believed_unless_a_proxy_is_said_to_be_there(person: User) -> None:  # noqa: ARG001
    for number in range(8):
        sign_in(fresh(HTTP_X_FORWARDED_FOR=f"203.0.113.{number}"), "wrong")
    assert sign_in(fresh(HTTP_X_FORWARDED_FOR="203.0.113.77")).status_code == 429


def test_waiting_ends_and_is_forgiven(person: User) -> None:  # noqa: ARG001
    stranger = fresh()
    for _ in range(8):
        sign_in(stranger, "wrong")
    SignInFailure.objects.update(last_at=timezone.now() - timedelta(seconds=61))
    assert sign_in(stranger).status_code == 200
    assert not SignInFailure.objects.filter(key__startswith="from:").exists()


def test_waiting_grows_and_has_an_end() -> None:
    at = timezone.now()
    waits = [throttle._left(SignInFailure(key="x", failures=failures, last_at=at), 5, 60) for failures in range(40)]
    assert waits[:5] == [0.0] * 5
    assert waits[6] == pytest.approx(2, abs=0.5)
    assert all(later >= earlier - 0.1 for earlier, later in zip(waits, waits[1:], strict=False))
    assert max(waits) <= 60


def test_hashes_at_once_are_bounded(person: User, monkeypatch: pytest.MonkeyPatch) -> None:  # noqa: ARG001
    """Sixteen at the door: never more than two passwords are being hashed, and nobody is turned away for it."""
    inside, most = 0, 0
    lock, gate = threading.Lock(), threading.Event()

    def hashing(*_: object, **__: object) -> None:
        nonlocal inside, most
        with lock:
            inside, most = inside + 1, max(most, inside + 1)
        gate.wait(0.05)
        with lock:
            inside -= 1

    monkeypatch.setattr(credentials, "authenticate", hashing)
    monkeypatch.setattr(credentials, "begin_try", lambda *_: 0)
    people = [
        threading.Thread(target=services.sign_in, args=(None,), kwargs={"username": "x", "password": "y"}) for _ in range(16)
    ]
    for thread in people:
        thread.start()
    for item in people:
        item.join()
    assert most == credentials.HASHES_AT_ONCE


# --- whose a write is -------------------------------------------------------------------------------------------------


def put(api: Api, trial: Place, **headers: str) -> Any:
    path = f"/api/trials/{trial['id']}/stand-counts/{uuid4()}"
    return api.client.put(path, count_body(trial["strips"][0]), content_type="application/json", **headers)


def test_a_write_is_its_makers_or_not_taken(lead: Api, scout: Api, trial: Place) -> None:  # noqa: ARG001
    answer = put(lead, trial, HTTP_X_PERSON="corin")
    assert (answer.status_code, answer.json()["code"]) == (409, "other_person")
    assert "corin" in answer.json()["message"]
    assert not StandCount.objects.exists()


def test_a_write_is_its_workspaces_or_not_taken(lead: Api, trial: Place) -> None:
    answer = put(lead, trial, HTTP_X_PERSON="mirren", HTTP_X_WORKSPACE=str(uuid4()))
    assert (answer.status_code, answer.json()["code"]) == (409, "other_workspace")
    assert not StandCount.objects.exists()


def test_a_page_of_an_older_version_loads_itself_anew(lead: Api, trial: Place) -> None:
    """It sends no names; its outbox holds records on this answer and refuses none."""
    plain = Client(HTTP_HOST="localhost")
    plain.cookies = lead.client.cookies
    answer = plain.put(
        f"/api/trials/{trial['id']}/stand-counts/{uuid4()}", count_body(trial["strips"][0]), content_type="application/json"
    )
    assert (answer.status_code, answer.json()["code"]) == (403, "csrf")
    assert not StandCount.objects.exists()


def test_names_with_letters_of_any_kind(workspace: Workspace, trial: Place) -> None:
    user = User.objects.create_user("ünal", password=PASSWORD)
    Membership.objects.create(user=user, workspace=workspace, role="field_hand")
    api = Api()
    sign_in(api.client, name="ünal")
    assert put(api, trial).status_code == 201


# --- the device's clock -----------------------------------------------------------------------------------------------


@pytest.mark.parametrize("days", [-3, 400])
def test_a_wrong_clock_is_corrected_with_a_mark(lead: Api, trial: Place, days: int) -> None:
    """The device is ``days`` ahead of the server; it has found that out and says so."""
    device = timezone.now() + timedelta(days=days)
    body = count_body(trial["strips"][0], recorded_at=device.isoformat())
    path = f"/api/trials/{trial['id']}/stand-counts/{uuid4()}"
    off = str(-days * 86_400)
    assert lead.client.put(path, body, content_type="application/json", HTTP_X_CLOCK_OFFSET=off).status_code == 201
    count = StandCount.objects.get()
    assert abs(count.recorded_at - timezone.now()) < timedelta(minutes=1)
    assert count.clock_shift_s == -days * 86_400
    again = lead.client.put(path, body, content_type="application/json", HTTP_X_CLOCK_OFFSET=str(int(off) + 2))
    assert again.status_code == 200, "the same record, however the clocks were compared"
    assert "off by" in StandCount.history.first().history_change_reason


@pytest.mark.parametrize("said", ["60", "", "x", "1e400", "-99999999999", "nan"])
def test_a_clock_that_is_right_or_makes_no_sense_changes_nothing(lead: Api, trial: Place, said: str) -> None:
    at = datetime.fromisoformat(now())
    body = count_body(trial["strips"][0], recorded_at=at.isoformat())
    path = f"/api/trials/{trial['id']}/stand-counts/{uuid4()}"
    assert lead.client.put(path, body, content_type="application/json", HTTP_X_CLOCK_OFFSET=said).status_code == 201
    assert StandCount.objects.get().recorded_at == at
    assert StandCount.objects.get().clock_shift_s is None


# --- headers and settings ---------------------------------------------------------------------------------------------


def test_private_answers_stay_in_no_cache(lead: Api, trial: Place) -> None:
    record_count(lead, trial)
    for path in (f"/trials/{trial['id']}", f"/trials/{trial['id']}/report?format=pdf", "/session"):
        answer = lead.client.get(f"/api{path}")
        assert answer.status_code == 200
        assert answer.headers["Cache-Control"] == "no-store"
        assert "geolocation=(self)" in answer.headers["Permissions-Policy"]


def test_deployed_behind_https_the_check_is_clean() -> None:
    """``manage.py check --deploy`` as it would run with CULTRIX_HTTPS=1."""
    import os
    import subprocess
    import sys
    from pathlib import Path

    root = Path(__file__).resolve().parents[2]
    environment = os.environ | {
        "CULTRIX_HTTPS": "1",
        "CULTRIX_HOSTS": "trials.farm.lan",
        "DJANGO_SETTINGS_MODULE": "config.settings",
    }
    environment.pop("DJANGO_ALLOW_ASYNC_UNSAFE", None)  # of the tests with a browser
    command = [sys.executable, str(root / "server" / "manage.py"), "check", "--deploy", "--fail-level", "WARNING"]
    done = subprocess.run(command, env=environment, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    assert "no issues" in done.stdout


def test_the_guard_knows_the_operations_it_names() -> None:
    named = set(DEEDS) | guard.PERSONAL | set(guard.UPLOADS)
    operations = {item["operationId"] for path in api.get_openapi_schema()["paths"].values() for item in path.values()}
    assert named <= operations


def test_every_upload_has_a_limit() -> None:
    schema = api.get_openapi_schema()
    uploads = {
        item["operationId"]
        for path in schema["paths"].values()
        for item in path.values()
        if "multipart/form-data" in item.get("requestBody", {}).get("content", {})
    }
    assert uploads == set(guard.UPLOADS)


def test_what_comes_is_small_enough_before_it_is_read(lead: Api, trial: Place) -> None:
    answer = lead.call("patch", f"/trials/{trial['id']}", {"version": 1, "title": "x" * 1_100_000})
    assert (answer.status_code, answer.json()["code"]) == (413, "too_large")


def test_health_is_the_leads_and_says_what_it_found(lead: Api, scout: Api, trial: Place, workspace: Workspace) -> None:
    record_count(lead, trial)
    result = lead.ok("get", f"/workspaces/{workspace.id}/health")
    words = {item["name"]: item for item in result["checks"]}
    assert set(words) == {"database", "space", "worker", "queue", "files", "backups", "permissions", "reader", "history"}
    assert words["database"]["well"]
    assert "GB are free" in words["space"]["words"]
    assert any(item["person"] == "Mirren" for item in result["devices"])
    assert scout.call("get", f"/workspaces/{workspace.id}/health").status_code == 403


def test_health_finds_what_is_missing_and_what_is_left_over(lead: Api, placed: Place) -> None:
    from apps.field.logs.files import path_of
    from apps.field.logs.models import YieldLog
    from apps.health.report import checks

    from tests.server.conftest import send_log

    send_log(lead, placed, b"t,x,y,v\n1,2,3,4\n")
    log = YieldLog.objects.get()
    path = path_of(log.digest, log.suffix)
    stray = path.with_name("stray.csv")
    stray.write_text("nobody's")
    try:
        files = next(check for check in checks() if check.name == "files")
        assert files.well
        assert "stray.csv" in files.words
        path.rename(path.with_suffix(".part"))
        files = next(check for check in checks() if check.name == "files")
        assert not files.well
        assert path.name in files.words
    finally:
        stray.unlink()
        path.with_suffix(".part").unlink()


def test_health_on_the_command_line(lead: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    import json

    from apps.health import report

    lead.ok("get", "/sessions")
    out = StringIO()
    monkeypatch.setattr(report, "seconds_since", lambda _: 3.0)
    monkeypatch.setattr(report, "open_paths", list)
    call_command("health", "--json", stdout=out)
    result = json.loads(out.getvalue())
    assert result["well"]
    assert result["devices"][0]["person"] == "mirren"
    monkeypatch.setattr(report, "seconds_since", lambda _: None)
    with pytest.raises(SystemExit):
        call_command("health", stdout=StringIO())


def test_files_are_the_owners_only(tmp_path: Any, settings: Any) -> None:
    from apps.health.report import close_paths, open_paths

    settings.VAR = tmp_path
    (tmp_path / "logs").mkdir(mode=0o755)
    (tmp_path / "logs" / "a.csv").write_text("x")
    (tmp_path / "logs" / "a.csv").chmod(0o644)
    tmp_path.chmod(0o755)
    assert len(open_paths()) == 3
    assert close_paths() == 3
    assert open_paths() == []
