"""Every operation of the API: what its address needs, asked for as a person asks, and what may not have changed."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from typing import Any
from urllib.parse import quote
from uuid import uuid4

from apps.accounts.models import AccountLink, Membership, User, Workspace
from apps.analysis.economics.models import MoneyPlan, PriceItem, PriceList, Scenario
from apps.backup import rotation
from apps.farms.models import Field, Machine, Merged, PooledRemainder, SeedLot
from apps.field.attachments.models import Attachment
from apps.field.events.models import FieldEvent
from apps.field.harvest.models import HarvestLoad
from apps.field.logs.models import HarvestSource, MachineColumns, YieldLog
from apps.field.planting.models import (
    Calibration,
    DepthCheck,
    Deviation,
    PlantingRecord,
    SeedbedCheck,
    TillagePass,
)
from apps.field.samples.models import EstimateSetting, GrainSample, YieldSample
from apps.field.season.models import DugPlant, Photo, PlantMeasure, Rating, StandLine, TapeRun
from apps.field.stand.models import SamplingPlan, StandCount
from apps.field.tasks.models import VisitTask
from apps.field.weather.models import Station, WeatherDay
from apps.jobs.models import Job
from apps.report.models import ReportShare
from apps.trials.models import CostLine, Covariate, LayoutDraw, Protocol, SeasonClosing, Sowing, Strip, Treatment, Trial
from config.api import api
from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone

from tests.server.conftest import (
    OUTLINE,
    STRIP,
    Api,
    add_attachment,
    add_drill,
    add_lot,
    add_photo,
    add_prices,
    add_yield_log,
    geojson,
    package_bytes,
    record_count,
    send_log,
    send_package,
    typed,
    wheels_body,
)
from tests.server.operation_rows import Place, farm_of

# What somebody reads of the installation itself, or of who is in touch, which other people's work rightly changes.
OF_THE_INSTALLATION = {"health", "people", "tasks", "backups", "download_backup", "account_links", "practice"}
# Operations without anything of a workspace in them, with the reason.
OPEN = {
    "session": "says who is signed in, to anybody",
    "sign_in": "is how one gets in",
    "sign_out": "ends one's own session",
    "set_preferences": "changes one's own account only",
    "catalogue": "crops and units, the same for all",
    "clock": "tells the time, to anybody",
    "sessions": "lists one's own devices",
    "end_session": "ends a session of one's own",
    "end_other_sessions": "ends one's own other sessions",
    "begin_installation": "makes the first person, for whoever knows the code",
    "look_at_link": "says what a link is for, to whoever has it",
    "accept_link": "lets in whoever has a link",
    "join_by_link": "brings oneself into the workspace of a link",
    "change_password": "changes one's own password",
    "second_factor": "says whether one's own second factor is on",
    "begin_second_factor": "sets up one's own second factor",
    "confirm_second_factor": "turns one's own second factor on",
    "renew_recovery_codes": "makes one's own recovery codes anew",
    "turn_second_factor_off": "turns one's own second factor off",
    "regions": "regions to choose from, the same for all",
    "time_zones": "names of time zones, the same for all",
    "add_workspace": "makes a workspace of one's own",
}


@cache
def operations() -> dict[str, tuple[str, str]]:
    result = {}
    for path, methods in api.get_openapi_schema()["paths"].items():
        for method, operation in methods.items():
            result[operation["operationId"]] = (method, path)
    return result


def binned(lead: Api, trial: Place) -> str:
    """A trial of the same field in the bin."""
    other = lead.ok(
        "post", f"/trials/{trial['id']}/copy", {"title": "Binned", "season": 2026, "field_id": trial["field"]["id"]}
    )
    lead.call("post", f"/trials/{other['id']}/bin", {"reason": "entered twice"})
    return str(other["id"])


def places_of(lead: Api, workspace: Workspace, trial: Place) -> Callable[[str], str]:
    """Make what the rows name, and say how a path of theirs reads with it."""
    count_id, _ = record_count(lead, trial)
    words = {
        "workspace": str(workspace.id),
        "trial": trial["id"],
        "strip": trial["strips"][1]["id"],
        "count": count_id,
        "new": str(uuid4()),
        "field": trial["field"]["id"],
    }
    machine = lead.ok(
        "post", f"/workspaces/{workspace.id}/machines", {"name": "Bar", "kind": "tillage", "width": typed("3", "m")}
    )
    trial["machines"] = [machine["id"]]
    twin = {"name": "Bar, again", "kind": "tillage", "width": typed("3", "m")}
    trial["spare"] = lead.ok("post", f"/workspaces/{workspace.id}/machines", twin)["id"]
    words["bar"], words["spare"] = machine["id"], trial["spare"]
    trial["drill"], trial["lot"] = add_drill(lead, workspace), add_lot(lead, workspace)
    words["lot"] = trial["lot"]
    trial["prices"] = add_prices(lead, workspace)
    words["other"] = "nell"
    words["link"] = str(
        AccountLink.objects.create(
            kind="invite",
            workspace=workspace,
            role="field_hand",
            name="Wren",
            token_hash="0" * 64,
            expires_at=timezone.now(),
        ).id
    )
    spare = User.objects.create_user("nell", first_name="Nell")
    Membership.objects.create(user=spare, workspace=workspace, role="field_hand")
    words["share"] = lead.ok("post", f"/trials/{trial['id']}/shares", {"days": 3})["id"]
    keep_wheels(lead, trial)
    trial["lead"] = lead

    def at(path: str) -> str:
        """A path with its words; logs and photographs are made for the rows that need them, for they take their time."""
        if "{backup}" in path:
            words["backup"] = "by-hand-2026-05-01T040000Z.zip"
            rotation.folder().mkdir(exist_ok=True)
            (rotation.folder() / words["backup"]).write_bytes(b"a backup")
        if "{binned}" in path:
            words["binned"] = binned(lead, trial)
        if "open-season" in path:
            SeasonClosing.objects.create(trial_id=trial["id"], by=User.objects.get(username="mirren"))
        if "{new}" in path:
            words["new"] = str(uuid4())
        if "{practice}" in path:
            Workspace.objects.filter(id=workspace.id).update(practice=True)
            words["practice"] = words["workspace"]
        if "{farm}" in path:
            words["farm"] = quote(farm_of(trial))
        if "{attachment}" in path:
            words.setdefault("attachment", str(uuid4()))
            add_attachment(lead, f"/trials/{trial['id']}", words["attachment"])
        if "{photo}" in path:
            words.setdefault("photo", add_photo(lead, trial).json()["id"])
        if "log" not in trial and any(part in path for part in ("{log}", "{job}", "harvest-source")):
            trial["log"] = add_yield_log(lead, trial)
            words["log"], words["job"] = trial["log"]["id"], str(Job.objects.get().id)
        return path.format(**words)

    return at


def keep_wheels(lead: Api, trial: Place) -> None:
    """So that there is something to put into the costs."""
    body = {"version": trial["version"], "expected_yield": typed("7", "t/ha")}
    fresh = lead.ok("patch", f"/trials/{trial['id']}", body)
    fresh = lead.ok("put", f"/trials/{trial['id']}/kept-inputs", wheels_body(fresh["version"]))
    trial["version"] = fresh["version"]


def send(who: Api, row: tuple[str, str, Any, bool], path: str, trial: Place) -> Any:
    method, _, body, _ = row
    if body == "file":
        file = SimpleUploadedFile("t.csv", b"block,rate,yield\n1,a,4\n1,b,5\n2,a,4\n2,b,6\n", content_type="text/csv")
        form = {
            "file": file,
            "block": "block",
            "treatment": "rate",
            "response": "yield",
            "unit": "t/ha",
            "title": "t",
            "crop": "maize",
            "season": "2026",
        }
        return who.client.post(f"/api{path}", form)
    if body == "log":
        return send_log(who, trial, b"t,x,y,v\n1,2,3,4\n", log_id=path.rsplit("/", 1)[1])
    if body == "package":
        return send_package(who, path.split("/")[2], package_bytes(trial["lead"], trial))
    if body == "attachment":
        home, _, key = path.rpartition("/attachments/")
        return add_attachment(who, home, key)
    if body == "photo":
        return add_photo(who, trial, photo_id=path.rsplit("/", 1)[1])
    if body == "weather":
        file = SimpleUploadedFile("w.csv", b"date,min_c,max_c\n2026-05-01,3,14\n", content_type="text/csv")
        return who.client.post(f"/api{path}", {"file": file})
    if body in ("boundary", "layout"):
        rings = {"boundary": OUTLINE} if body == "boundary" else {item["letter"]: STRIP for item in trial["treatments"]}
        file = SimpleUploadedFile(f"{body}.geojson", geojson(rings), content_type="application/geo+json")
        return who.client.post(f"/api{path}", {"file": file, "version": 1 if body == "boundary" else trial["version"]})
    return who.call(method, path, body(trial) if callable(body) else body)


def tallies() -> list[int]:
    """Everything a write could have changed: rows and versions."""
    models = (
        User,
        Membership,
        AccountLink,
        Workspace,
        Field,
        Machine,
        SeedLot,
        Protocol,
        LayoutDraw,
        Trial,
        Treatment,
        Strip,
        Sowing,
        CostLine,
        StandCount,
        HarvestLoad,
        FieldEvent,
        PlantingRecord,
        DepthCheck,
        Deviation,
        SeedbedCheck,
        TillagePass,
        Calibration,
        YieldSample,
        GrainSample,
        EstimateSetting,
        YieldLog,
        MachineColumns,
        HarvestSource,
        Job,
        Covariate,
        SamplingPlan,
        TapeRun,
        DugPlant,
        PlantMeasure,
        Rating,
        Photo,
        StandLine,
        Attachment,
        VisitTask,
        Merged,
        PooledRemainder,
        Station,
        WeatherDay,
        PriceList,
        PriceItem,
        MoneyPlan,
        Scenario,
        ReportShare,
    )
    histories = (
        Field.history,
        Trial.history,
        Strip.history,
        StandCount.history,
        HarvestLoad.history,
        Treatment.history,
        SeedLot.history,
        YieldLog.history,
        HarvestSource.history,
        Attachment.history,
        VisitTask.history,
    )
    return [model._default_manager.count() for model in models] + [history.count() for history in histories]
