"""Yield logs through the API: taken in, mapped, cleaned off the request, undone, calibrated, chosen for the verdict."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from uuid import uuid4

import numpy as np
import pytest
from apps.accounts.models import Workspace
from apps.jobs.models import Job
from apps.jobs.services import LOST, at_once, bury
from apps.records.models import HarvestLoad
from apps.yieldlogs import files
from apps.yieldlogs.models import MachineColumns, YieldLog
from django.core.files.uploadedfile import SimpleUploadedFile

from tests.server.conftest import OUTLINE, Api, geojson, load_body, now, typed

Answer = dict[str, Any]


@pytest.fixture(autouse=True)
def _at_once(settings: Any, tmp_path: Path) -> Iterator[None]:
    settings.LOGS = tmp_path / "logs"
    with at_once():
        yield


@pytest.fixture
def placed(lead: Api, workspace: Workspace) -> Answer:
    """Two row widths in four blocks, placed on a field that lies on the earth; expected to make 7 t/ha."""
    corners = "\n".join(f"{lat} {lon}" for lon, lat in OUTLINE)
    field = lead.ok("post", f"/workspaces/{workspace.id}/fields", {"name": "Hill", "farm": "Knapp", "corners": corners})
    trial = lead.ok("post", f"/workspaces/{workspace.id}/trials", {"title": "Widths", "crop": "winter_wheat", "season": 2026})
    path = f"/trials/{trial['id']}"
    facts = {"field_id": field["id"], "expected_yield": typed("7", "t/ha"), "price": typed("200", "money/t")}
    trial = lead.ok("patch", path, {"version": trial["version"], **facts})
    rows = [{"levels": [typed(text, "cm")], "is_control": text == "25"} for text in ("25", "12.5")]
    trial = lead.ok(
        "put", f"{path}/treatments", {"version": trial["version"], "factors": [{"kind": "row_spacing"}], "treatments": rows}
    )
    plan = {"design": "rcbd", "blocks": 4, "seed": 5, "strip_width": typed("12", "m"), "strip_length": typed("250", "m")}
    return lead.ok("post", f"{path}/layout", {"version": trial["version"], **plan})


def driven(api: Api, trial: Answer, **asked: Any) -> bytes:
    """The log of the simulated combine."""
    response = api.client.get(f"/api/trials/{trial['id']}/stand-ins/combine", {"seed": 3, "lag_s": 9, **asked})
    assert response.status_code == 200, response.content
    return b"".join(response.streaming_content) if response.streaming else response.content


def send(api: Api, trial: Answer, content: bytes, name: str = "log.csv", log_id: str | None = None, **form: Any) -> Any:
    return api.client.post(
        f"/api/trials/{trial['id']}/yield-logs/{log_id or uuid4()}",
        {"file": SimpleUploadedFile(name, content), "recorded_at": now(), **form},
    )


def test_first(lead: Api, placed: Answer) -> None:
    response = send(lead, placed, driven(lead, placed))
    assert response.status_code == 201, response.content
    log = response.json()
    print(json.dumps({k: v for k, v in log.items() if k not in ("rows",)})[:3000])
    columns = {one["role"]: {"name": one["name"], "unit": one["unit"]} for one in log["columns"] if one["name"]}
    log = lead.ok("put", f"/yield-logs/{log['id']}/columns", {"version": log["version"], "columns": columns})
    print(json.dumps({k: v for k, v in log.items() if k not in ("rows", "columns")})[:6000])
    assert 0
