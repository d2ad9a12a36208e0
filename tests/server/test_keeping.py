"""What lies behind the API: history, the secret key, the page for every place, the serving script."""

from __future__ import annotations

import os
import socket
import stat
import subprocess
import sys
from pathlib import Path
from typing import Any
from uuid import uuid4

import pytest
from apps.accounts.models import User, Workspace
from apps.field.harvest.models import HarvestLoad
from apps.field.stand.models import StandCount
from apps.trials.models import Strip, Trial
from django.conf import settings
from django.db import connection

from tests.server.conftest import Api, count_body, harvest_all, load_body, record_count, typed

ROOT = Path(__file__).resolve().parents[2]
Place = dict[str, Any]


def test_every_change_says_who_and_why(lead: Api, adviser: Api, trial: Place) -> None:
    adviser.ok("patch", f"/trials/{trial['id']}", {"version": trial["version"], "guess": "no"})
    strip = trial["strips"][2]
    lead.ok("patch", f"/strips/{strip['id']}", {"lost": True, "sown_treatment_id": None, "reason": "flooded"})
    lead.ok("patch", f"/strips/{strip['id']}", {"lost": False, "sown_treatment_id": None, "reason": ""})
    trial_rows = list(Trial.history.filter(id=trial["id"]).order_by("history_id"))  # type: ignore[attr-defined]
    assert trial_rows[-1].history_user == User.objects.get(username="anselm")
    assert trial_rows[-1].history_change_reason == "changed guess"
    assert "seed 7" in " ".join(row.history_change_reason or "" for row in trial_rows)
    strip_rows = list(Strip.history.filter(id=strip["id"]).order_by("history_id"))  # type: ignore[attr-defined]
    assert [(row.lost, row.reason) for row in strip_rows] == [(False, ""), (True, "flooded"), (False, "")]


def test_a_sheet_keeps_history_row_by_row(lead: Api, trial: Place) -> None:
    harvest_all(lead, trial, {"A": 1200, "B": 1180, "C": 1150})
    load = HarvestLoad.objects.first()
    assert load is not None
    body = load_body({"id": str(load.strip_id)}, "1300", id=str(load.id), version=1)
    lead.ok("post", f"/trials/{trial['id']}/harvest-sheet", {"rows": [body]})
    assert [row.net_typed for row in load.history.order_by("history_id")][-1] == "1300"  # type: ignore[attr-defined]
    assert load.history.count() == 2  # type: ignore[attr-defined]


def test_a_sheet_lists_its_conflicts(lead: Api, trial: Place) -> None:
    harvest_all(lead, trial, {"A": 1200, "B": 1180, "C": 1150})
    loads = list(HarvestLoad.objects.order_by("strip__order")[:2])
    rows = [load_body({"id": str(load.strip_id)}, "1400", id=str(load.id), version=9) for load in loads]
    answer = lead.refused("post", f"/trials/{trial['id']}/harvest-sheet", {"rows": rows})
    assert [item["row"] for item in answer["problems"]] == [1, 2]
    assert all("changed elsewhere" in item["message"] for item in answer["problems"])
    assert not HarvestLoad.objects.filter(net_typed="1400").exists()


def test_value_columns_follow_what_was_typed(lead: Api, trial: Place) -> None:
    """Three columns a quantity: typed, unit, and the value reckoned from the two."""
    count_id = str(uuid4())
    body = count_body(trial["strips"][0], length=typed("3", "ft"), row_spacing=typed("7,5", "in"))
    lead.ok("put", f"/trials/{trial['id']}/stand-counts/{count_id}", body)
    count = StandCount.objects.get(pk=count_id)
    assert (count.length_typed, count.length_unit) == ("3", "ft")
    assert count.length_m == pytest.approx(0.9144)
    assert (count.row_spacing_typed, count.row_spacing_unit) == ("7,5", "in")
    assert count.row_spacing_m == pytest.approx(0.1905)


def test_the_database_guards_itself(trial: Place) -> None:
    from django.db import IntegrityError, transaction

    strip = Strip.objects.get(pk=trial["strips"][0]["id"])
    with pytest.raises(IntegrityError), transaction.atomic():
        Strip.objects.create(trial=strip.trial, block=strip.block, order=strip.order, treatment=strip.treatment)
    with connection.cursor() as cursor:
        assert cursor.execute("PRAGMA foreign_keys").fetchone()[0] == 1
        assert cursor.execute("PRAGMA journal_mode").fetchone()[0] == "wal"


def test_the_secret_key_is_this_machines_own() -> None:
    path = settings.VAR / "secret.key"
    assert stat.S_IMODE(path.stat().st_mode) == 0o600
    assert len(settings.SECRET_KEY) > 60
    assert settings.SECRET_KEY not in (ROOT / "server" / "config" / "settings.py").read_text()
    assert settings.DEBUG is False


@pytest.mark.parametrize("path", ["/", "/trials", "/trials/0b9a3c5e-4f7d-4a51-9c36-1d2f8a7b6c55/verdict", "/setup/look"])
def test_every_place_is_the_one_page(path: str, nobody: Api) -> None:
    response = nobody.client.get(path)
    assert response.status_code == 200
    assert b'<div id="root">' in b"".join(response.streaming_content)  # type: ignore[arg-type]
    assert "no-cache" in response.headers["Cache-Control"]


def test_an_unknown_operation_is_no_page(nobody: Api) -> None:
    assert nobody.client.get("/api/nothing").status_code == 404


def test_the_page_fetches_nothing_from_elsewhere() -> None:
    """Fonts, styles and scripts ship with the build."""
    built = ROOT / "web" / "dist"
    assert "http" not in (built / "index.html").read_text().replace("http://www.w3.org", "")
    styles = "".join(path.read_text() for path in (built / "assets").glob("*.css"))
    assert "url(http" not in styles
    assert "@font-face" in styles


def test_the_serving_script_listens_on_this_machine_only(tmp_path: Path) -> None:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    server = subprocess.Popen(
        [sys.executable, ROOT / "server" / "serve.py", "--port", str(port)],
        env=os.environ | {"CULTRIX_VAR": str(tmp_path), "DJANGO_SETTINGS_MODULE": "config.settings"},
        stdout=subprocess.PIPE,
        text=True,
    )
    try:
        assert server.stdout is not None
        text = next(line for line in server.stdout if "Cultrix is at" in line)
        assert f"http://localhost:{port}/" in text
        listening = subprocess.run(["cat", "/proc/net/tcp", "/proc/net/tcp6"], capture_output=True, text=True).stdout
        local = [line.split()[1] for line in listening.splitlines() if f":{port:04X} " in line and " 0A " in line]
        assert local == [f"0100007F:{port:04X}"], "127.0.0.1 and nothing else"
    finally:
        server.terminate()
        server.wait(10)


def test_today_puts_this_year_before_the_next(lead: Api, workspace: Workspace, trial: Place) -> None:
    from django.utils import timezone

    year = timezone.localdate().year
    lead.ok("patch", f"/trials/{trial['id']}", {"version": trial["version"], "season": year})
    later = lead.ok("post", f"/workspaces/{workspace.id}/trials", {"title": "Later", "crop": "maize", "season": year + 1})
    dues = lead.ok("get", f"/workspaces/{workspace.id}/today")["dues"]
    titles = [due["trial_title"] for due in dues]
    assert titles[0] == "Row width"
    assert "Later" in titles
    assert [due["urgency"] for due in dues] == sorted(due["urgency"] for due in dues)
    assert later["season"] == year + 1


def test_tapes_name_the_thousandth_and_the_handy_share(lead: Api, trial: Place) -> None:
    record_count(lead, trial)
    tapes = [item for item in lead.ok("get", f"/trials/{trial['id']}/stand")["tapes"] if item["row_spacing"] == "12.5 cm"]
    assert [(tape["share"], tape["rows"], tape["exact"]) for tape in tapes] == [
        ("1/10 000 ha", 4, "2.000 m"),
        ("1/1 000 ha", 1, "80.000 m"),
    ]
    lead.ok("patch", "/session", {"unit_system": "us"})
    shares = {item["share"] for item in lead.ok("get", f"/trials/{trial['id']}/stand")["tapes"]}
    assert shares == {"1/10 000 ac", "1/1 000 ac"}
