"""People of two workspaces, and a small trial to work on."""

from __future__ import annotations

import io
import json
from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import UTC, date, datetime
from typing import Any
from urllib.parse import quote
from uuid import UUID, uuid4

import numpy as np
import pytest
from apps.accounts.models import Membership, User, Workspace
from apps.base.errors import NotFound
from apps.jobs.services import at_once
from config.guard import workspace_named
from django.core.files.uploadedfile import SimpleUploadedFile
from django.http import Http404
from django.test import Client, RequestFactory
from django.urls import resolve
from PIL import Image

from tests.server.remembered import remembered

PASSWORD = "between-two-terraces"
HOME, ELSEWHERE = UUID(int=0xA11), UUID(int=0xB22)  # always the same, so that what is built in them can be put back
SESSION = "sessionid"


class DeviceClient(Client):
    """A device as the interface is one: every write names the person and the workspace that it is made for."""

    def request(self, **request: Any) -> Any:
        if request.get("REQUEST_METHOD") not in ("GET", "HEAD") and "HTTP_X_PERSON" not in request:
            user = User.objects.filter(pk=self.session.get("_auth_user_id")).first() if SESSION in self.cookies else None
            if user is not None:
                request["HTTP_X_PERSON"] = quote(user.username)
                home = home_of(request["PATH_INFO"])
                if home is not None:
                    request.setdefault("HTTP_X_WORKSPACE", str(home))
        return super().request(**request)


def home_of(path: str) -> Any:
    """The workspace that an address belongs to, as a page that shows it knows it."""
    try:
        request = RequestFactory().get(path)
        request.resolver_match = resolve(path)
        return workspace_named(request)
    except (NotFound, Http404):
        return None


@dataclass
class Api:
    """The API as one person calls it."""

    client: Client = field(default_factory=lambda: DeviceClient(HTTP_HOST="localhost"))

    def call(self, method: str, path: str, body: Any = None, **extra: Any) -> Any:
        content = {} if body is None else {"data": json.dumps(body), "content_type": "application/json"}
        return getattr(self.client, method)(f"/api{path}", **content, **extra)

    def ok(self, method: str, path: str, body: Any = None) -> Any:
        response = self.call(method, path, body)
        assert response.status_code in (200, 201), response.content
        return response.json()

    def refused(self, method: str, path: str, body: Any = None, *, status: int = 422) -> dict[str, Any]:
        response = self.call(method, path, body)
        assert response.status_code == status, (response.status_code, response.content)
        answer: dict[str, Any] = response.json()
        assert set(answer) >= {"code", "message", "field"}
        assert answer["message"].strip()
        return answer


def member(name: str, workspace: Workspace, role: str) -> Api:
    user = User.objects.create_user(name, password=PASSWORD, first_name=name.capitalize())
    Membership.objects.create(user=user, workspace=workspace, role=role)
    api = Api()
    api.client.force_login(user, backend="django.contrib.auth.backends.ModelBackend")
    return api


@pytest.fixture
def workspace(db: None) -> Workspace:  # noqa: ARG001
    return Workspace.objects.create(id=HOME, name="Lower Terraces", currency="€")


@pytest.fixture
def lead(workspace: Workspace) -> Api:
    return member("mirren", workspace, "owner")


@pytest.fixture
def adviser(workspace: Workspace) -> Api:
    return member("anselm", workspace, "adviser")


@pytest.fixture
def scout(workspace: Workspace) -> Api:
    return member("corin", workspace, "field_hand")


@pytest.fixture
def viewer(workspace: Workspace) -> Api:
    return member("vesna", workspace, "reader")


@pytest.fixture
def outsider(db: None) -> Api:  # noqa: ARG001
    return member("stranger", Workspace.objects.create(id=ELSEWHERE, name="Elsewhere", currency="$"), "owner")


@pytest.fixture
def nobody(db: None) -> Api:  # noqa: ARG001
    return Api()


def now() -> str:
    return datetime.now(UTC).isoformat()


def typed(text: str, unit: str = "") -> dict[str, str]:
    return {"text": text, "unit": unit}


@pytest.fixture
def trial(lead: Api, workspace: Workspace) -> dict[str, Any]:
    return remembered("trial", lambda: trial_of(lead, workspace))


def trial_of(lead: Api, workspace: Workspace) -> dict[str, Any]:
    """Three row widths of wheat in three blocks on a field known by its size, nothing recorded."""
    field = lead.ok(
        "post",
        f"/workspaces/{workspace.id}/fields",
        {"name": "Home Ground", "width": typed("120", "m"), "length": typed("340", "m")},
    )
    result = lead.ok(
        "post", f"/workspaces/{workspace.id}/trials", {"title": "Row width", "crop": "winter_wheat", "season": 2026}
    )
    path = f"/trials/{result['id']}"
    result = lead.ok(
        "patch",
        path,
        {
            "version": result["version"],
            "question": "Do narrow rows pay?",
            "field_id": field["id"],
            "price": typed("200", "money/t"),
            "unit_cost": typed("10", "money/t"),
            "seeding_rate": typed("320", "/m2"),
            "net_margin": typed("20", "money/ha"),
            "amounts_by": "pairs",
        },
    )
    rows = [("12.5", False, "20"), ("18", False, "10"), ("25", True, "")]
    result = lead.ok(
        "put",
        f"{path}/treatments",
        {
            "version": result["version"],
            "factors": [{"kind": "row_spacing"}],
            "treatments": [
                {"levels": [typed(level, "cm")], "is_control": control, "extra_cost": typed(cost, "money/ha")}
                for level, control, cost in rows
            ],
        },
    )
    return lead.ok(
        "post",
        f"{path}/layout",
        {
            "version": result["version"],
            "design": "rcbd",
            "blocks": 3,
            "seed": 7,
            "strip_width": typed("6", "m"),
            "strip_length": typed("300", "m"),
        },
    )


OUTLINE = [(-28.4, 46.5), (-28.3975, 46.5), (-28.3973, 46.5035), (-28.4002, 46.5036)]
STRIP = [(-28.3999, 46.5003), (-28.3998, 46.5003), (-28.3998, 46.503), (-28.3999, 46.503)]


def geojson(rings: dict[str, list[tuple[float, float]]], **more: Any) -> bytes:
    """Outlines by treatment letter as a GeoJSON file, numbered from 1."""
    features = [
        {
            "type": "Feature",
            "properties": {"strip": number, "treat": letter, "block": 1} | more,
            "geometry": {"type": "Polygon", "coordinates": [[*ring, ring[0]]]},
        }
        for number, (letter, ring) in enumerate(rings.items(), start=1)
    ]
    return json.dumps({"type": "FeatureCollection", "features": features}).encode()


def count_body(strip: dict[str, Any], plants: str = "41", **more: Any) -> dict[str, Any]:
    return {
        "strip_id": strip["id"],
        "method": "rows",
        "plants": plants,
        "rows": "4",
        "length": typed("1", "m"),
        "row_spacing": typed("12.5", "cm"),
        "recorded_at": now(),
    } | more


@pytest.fixture
def placed(lead: Api, workspace: Workspace) -> dict[str, Any]:
    """Two row widths in four blocks, placed on a field that lies on the earth; expected to make 7 t/ha."""
    return remembered("placed", lambda: _placed(lead, workspace))


def _placed(lead: Api, workspace: Workspace) -> dict[str, Any]:
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


def load_body(strip: dict[str, Any], net: str = "1200", **more: Any) -> dict[str, Any]:
    return {
        "strip_id": strip["id"],
        "method": "weighed",
        "net": typed(net, "kg"),
        "moisture": typed("14.2", "%"),
        "swath_width": typed("5.4", "m"),
        "length": typed("300", "m"),
        "recorded_at": now(),
    } | more


def driven(api: Api, trial: dict[str, Any], **asked: Any) -> bytes:
    """The log of the simulated combine, grain nine seconds late."""
    response = api.client.get(f"/api/trials/{trial['id']}/stand-ins/combine", {"seed": 3, "lag_s": 9, **asked})
    assert response.status_code == 200, response.content
    return bytes(response.content)


def send_log(api: Api, trial: dict[str, Any], content: bytes, name: str = "log.csv", log_id: str = "", **form: Any) -> Any:
    """Send a log as the page does; the answer as it comes."""
    return api.client.post(
        f"/api/trials/{trial['id']}/yield-logs/{log_id or uuid4()}",
        {"file": SimpleUploadedFile(name, content), "recorded_at": now(), **form},
    )


def columns_of(log: dict[str, Any], **changes: Any) -> dict[str, Any]:
    """Columns as they were guessed, some changed; None leaves one out."""
    result = {item["role"]: {"name": item["name"], "unit": item["unit"]} for item in log["columns"] if item["name"]} | changes
    return {role: item for role, item in result.items() if item is not None}


def steps_body(log: dict[str, Any], **changes: Any) -> dict[str, Any]:
    """The cleaning as it stands, some of it changed."""
    return {
        "version": log["version"],
        "values": log["values"],
        "off": log["off"],
        "calibrated": log["calibrated"],
        "margin": {"text": log["margin"]["text"], "unit": log["margin"]["unit"]},
        "left_out": [],
    } | changes


def add_yield_log(api: Api, trial: dict[str, Any], **asked: Any) -> dict[str, Any]:
    """A log of the simulated combine, taken in, mapped as guessed and cleaned."""
    answer = send_log(api, trial, driven(api, trial, **asked))
    assert answer.status_code == 201, answer.content
    log = answer.json()
    body = {"version": log["version"], "columns": columns_of(log)}
    result: dict[str, Any] = api.ok("put", f"/yield-logs/{log['id']}/columns", body)
    assert result["state"] == "done", result["said"]
    return result


def prices_body(**more: Any) -> dict[str, Any]:
    """A price list of wheat and diesel."""
    return {
        "version": 0,
        "name": "Board",
        "dated": "2026-08-12",
        "source": "at the gate",
        "currency": "€",
        "items": [
            {"kind": "crop", "crop": "winter_wheat", "price": typed("214", "money/t")},
            {"kind": "fuel", "name": "Diesel", "price": typed("1.10", "money/L")},
        ],
    } | more


def add_prices(api: Api, workspace: Any, **more: Any) -> dict[str, Any]:
    result: dict[str, Any] = api.ok("put", f"/workspaces/{workspace.id}/price-lists/{uuid4()}", prices_body(**more))
    return result


def send_package(api: Api, workspace_id: Any, content: bytes, there: str = "beside") -> Any:
    """A data package sent to be read back, beside the trial where that is there; the answer as it comes."""
    file = SimpleUploadedFile("trial.zip", content, content_type="application/zip")
    return api.client.post(f"/api/workspaces/{workspace_id}/packages?there={there}", {"file": file})


def package_bytes(api: Api, trial: dict[str, Any]) -> bytes:
    response = api.client.get(f"/api/trials/{trial['id']}/data-file?format=zip")
    assert response.status_code == 200, response.content
    return bytes(response.content)


def record_count(api: Api, trial: dict[str, Any], place: int = 0, plants: str = "41") -> tuple[str, dict[str, Any]]:
    count_id = str(uuid4())
    body = count_body(trial["strips"][place], plants)
    api.ok("put", f"/trials/{trial['id']}/stand-counts/{count_id}", body)
    return count_id, body


def harvest_all(api: Api, trial: dict[str, Any], nets: dict[str, int], spread: int = 12) -> None:
    """Every strip that stands: net weight by letter, a gradient along the field, scatter from a fixed seed."""
    scatter = np.random.default_rng(5).normal(0, spread, len(trial["strips"]))
    letters = {item["id"]: item["letter"] for item in trial["treatments"]}
    rows = []
    for place, strip in enumerate(trial["strips"]):
        if strip["lost"]:
            continue
        net = round(nets[letters[strip["received_id"]]] + 4 * place + scatter[place])
        rows.append(load_body(strip, str(net), id=str(uuid4())))
    api.ok("post", f"/trials/{trial['id']}/harvest-sheet", {"rows": rows})


def planting_body(strip: dict[str, Any], **more: Any) -> dict[str, Any]:
    return {"strip_id": strip["id"], "sown_at": now(), "setting": "42", "recorded_at": now()} | more


def depth_body(strip: dict[str, Any], depth: str = "38", unit: str = "mm") -> dict[str, Any]:
    return {"strip_id": strip["id"], "depth": typed(depth, unit), "recorded_at": now()}


def lot_body(**more: Any) -> dict[str, Any]:
    return {
        "crop": "winter_wheat",
        "name": "Terrace Gold",
        "tag": "T-118",
        "thousand_seed_weight": typed("44", "g/1000"),
        "germination": typed("92", "%"),
        "tested_on": date.today().isoformat(),
        "purity": typed("98", "%"),
        "bag_price": typed("24", "money"),
        "bag_weight": typed("25", "kg"),
    } | more


def add_lot(api: Api, workspace: Workspace, **more: Any) -> str:
    return str(api.ok("post", f"/workspaces/{workspace.id}/seed-lots", lot_body(**more))["id"])


def add_drill(api: Api, workspace: Workspace, name: str = "Drill 3 m") -> str:
    body = {"name": name, "kind": "planter", "width": typed("3", "m")}
    return str(api.ok("post", f"/workspaces/{workspace.id}/machines", body)["id"])


def sow(api: Api, trial: dict[str, Any], *parts: dict[str, Any]) -> dict[str, Any]:
    """The trial with these parts sown."""
    fresh = api.ok("get", f"/trials/{trial['id']}")
    return api.ok("put", f"/trials/{trial['id']}/sowing", {"version": fresh["version"], "parts": list(parts)})


def calibration_body(lot: str, machine: str, *masses: str, **more: Any) -> dict[str, Any]:
    return {
        "lot_id": lot,
        "machine_id": machine,
        "done_on": date.today().isoformat(),
        "method": "length",
        "target": typed("140", "kg/ha"),
        "openers": 3,
        "row_spacing": typed("12.5", "cm"),
        "catches": [
            {"setting": "42", "mass": typed(mass, "g"), "way": typed("50", "m")} for mass in masses or ("262", "258", "266")
        ],
        "recorded_at": now(),
    } | more


def wheels_body(version: int) -> dict[str, Any]:
    values = {
        "track": typed("1.8", "m"),
        "tyre": typed("32", "cm"),
        "pass_width": typed("24", "m"),
        "plant_half": typed("2", "cm"),
        "centre": typed("between"),
        "made_up": typed("20", "%"),
    }
    return {"version": version, "calculator": "wheels", "values": values}


@pytest.fixture(autouse=True)
def logs_aside(settings: Any, tmp_path: Any) -> Iterator[None]:
    """Raw logs go into a folder of the test; long work is done where it is asked for."""
    settings.LOGS = tmp_path / "logs"
    with at_once():
        yield


@pytest.fixture(autouse=True)
def photos_aside(settings: Any, tmp_path: Any) -> None:
    """Photographs of tests lie in a folder of their own."""
    settings.PHOTOS = tmp_path / "photos"
    settings.ATTACHMENTS = tmp_path / "attachments"


@pytest.fixture(autouse=True)
def backups_aside(settings: Any, tmp_path: Any) -> None:
    """Backups of tests lie in a folder of their own."""
    settings.BACKUPS = tmp_path / "backups"


def picture(width: int = 640, height: int = 480, *, exif: bytes = b"", kind: str = "JPEG", colour: str = "#446622") -> bytes:
    """A picture file."""
    handle = io.BytesIO()
    extra = {"exif": exif} if exif else {}
    Image.new("RGB", (width, height), colour).save(handle, kind, **extra)
    return handle.getvalue()


def add_attachment(api: Api, home: str, key: str = "", *, content: bytes = b"%PDF-1.4 a sheet", **more: str) -> Any:
    """Post a file of a trial or a lot by its address; the raw response."""
    file = SimpleUploadedFile(more.pop("name", "sheet.pdf"), content, content_type="text/html")
    return api.client.post(f"/api{home}/attachments/{key or uuid4()}", {"file": file, "kind": "laboratory", **more})


def add_photo(api: Api, trial: dict[str, Any], *, strip: int = 0, photo_id: str = "", content: bytes = b"") -> Any:
    """Post a photograph of a strip; the raw response."""
    file = SimpleUploadedFile("strip.jpg", content or picture(), content_type="image/jpeg")
    form = {"file": file, "strip_id": trial["strips"][strip]["id"], "caption": "low end", "recorded_at": now()}
    return api.client.post(f"/api/trials/{trial['id']}/photos/{photo_id or uuid4()}", form)


def plan_body(**more: Any) -> dict[str, Any]:
    return {"name": "First count", "planned": 4, "sample": typed("1", "m"), "rows": "4", "recorded_at": now()} | more


def tape_body(strip: dict[str, Any], **more: Any) -> dict[str, Any]:
    return {
        "strip_id": strip["id"],
        "reference": typed("10", "cm"),
        "positions_unit": "cm",
        "positions": ["0", "10", "14", "24", "40", "65", "95", "100", "115", "127", "136"],
        "recorded_at": now(),
    } | more


def measure_body(strip: dict[str, Any], **more: Any) -> dict[str, Any]:
    return {"strip_id": strip["id"], "trait": "height", "value": typed("42", "cm"), "recorded_at": now()} | more


def rating_body(strip: dict[str, Any], **more: Any) -> dict[str, Any]:
    return {"strip_id": strip["id"], "trait": "vigour", "score": 7, "recorded_at": now()} | more


def dug_body(strip: dict[str, Any], **more: Any) -> dict[str, Any]:
    return {"strip_id": strip["id"], "health": "firm", "shoots": 7, "recorded_at": now()} | more


def heads_body(strip: dict[str, Any], **more: Any) -> dict[str, Any]:
    """Heads of one place of half a metre of row at 12.5 cm: 27 heads, five of them measured."""
    return {
        "strip_id": strip["id"],
        "method": "heads",
        "length": typed("0.5", "m"),
        "rows": "1",
        "row_spacing": typed("12.5", "cm"),
        "number": "27",
        "pieces": [{"groups": "16", "seeds_each": each} for each in ("2.1", "2.3", "1.9", "2.2", "2.0")],
        "recorded_at": now(),
    } | more


def grain_body(**more: Any) -> dict[str, Any]:
    return {"seeds": "500", "mass": typed("22.4", "g"), "moisture": typed("18", "%"), "recorded_at": now()} | more


def yield_plan_body(**more: Any) -> dict[str, Any]:
    return (
        plan_body(
            name="Yield samples",
            purpose="yield",
            method="heads",
            planned=2,
            pieces=5,
            reserve=2,
            rows="1",
            sample=typed("0.5", "m"),
        )
        | more
    )


TILLAGE = ("Plough", "Strip till")
RATES = ("70", "80", "90")
CORNERS = "\n".join(f"{lat}, {lon}" for lon, lat in OUTLINE)


def field_with_boundary(api: Api, workspace: Workspace, name: str = "Far Step") -> dict[str, Any]:
    return api.ok("post", f"/workspaces/{workspace.id}/fields", {"name": name, "corners": CORNERS})


def two_factors(version: int, control: int = 1) -> dict[str, Any]:
    rows = [(tillage, rate) for tillage in TILLAGE for rate in RATES]
    return {
        "version": version,
        "factors": [{"kind": "tillage", "hard_to_change": True}, {"kind": "seeding_rate"}],
        "treatments": [
            {"levels": [typed(tillage), typed(rate, "k/ha")], "is_control": place == control}
            for place, (tillage, rate) in enumerate(rows)
        ],
        "costs": [
            {"factor": 0, "level": typed("Plough"), "kind": "passes", "label": "plough", "each": typed("80", "money/ha")},
            {"factor": 0, "level": typed("Strip till"), "kind": "passes", "times": "2", "each": typed("20", "money/ha")},
        ],
    }


@pytest.fixture
def split(lead: Api, workspace: Workspace) -> dict[str, Any]:
    """Tillage by seeding rate of maize on a field with a boundary; nothing drawn."""
    return remembered("split", lambda: _split(lead, workspace))


def _split(lead: Api, workspace: Workspace) -> dict[str, Any]:
    field = field_with_boundary(lead, workspace)
    result = lead.ok(
        "post", f"/workspaces/{workspace.id}/trials", {"title": "Tillage and rate", "crop": "maize", "season": 2027}
    )
    result = lead.ok(
        "patch",
        f"/trials/{result['id']}",
        {
            "version": result["version"],
            "question": "Does strip tillage hold?",
            "field_id": field["id"],
            "price": typed("200", "money/t"),
            "unit_cost": typed("20", "money/t"),
            "expected_yield": typed("10", "t/ha"),
            "row_spacing": typed("75", "cm"),
            "bag_price": typed("100", "money"),
            "bag_seeds": typed("50000"),
            "thousand_seed_weight": typed("300", "g/1000"),
            "amounts_by": "pairs",
        },
    )
    return lead.ok("put", f"/trials/{result['id']}/treatments", two_factors(result["version"]))
