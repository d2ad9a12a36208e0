"""What was entered twice becomes one: everything that pointed at the one that goes points at the other, and is told so."""

from __future__ import annotations

from typing import Any
from uuid import uuid4

import pytest
from apps.accounts.models import Membership, MembershipFarm, User, Workspace
from apps.farms.models import Field, Machine, SeedLot
from apps.field.planting.models import PlantingRecord
from apps.trials.models import Sowing

from tests.server.conftest import Api, add_drill, add_lot, lot_body, now, planting_body, typed

Place = dict[str, Any]


@pytest.fixture
def home(workspace: Workspace) -> str:
    return f"/workspaces/{workspace.id}"


def merging(what: str, gone: str, kept: str, *, accept: bool = False) -> Place:
    return {"what": what, "gone": gone, "kept": kept, "accept": accept}


def machine(lead: Api, home: str, name: str, width: str = "6", kind: str = "planter") -> str:
    key: str = lead.ok("post", f"{home}/machines", {"name": name, "kind": kind, "width": typed(width, "m")})["id"]
    return key


def test_machines_with_their_records_and_those_still_on_a_device(
    lead: Api, scout: Api, workspace: Workspace, home: str, trial: Place
) -> None:
    gone, kept = machine(lead, home, "Drill, six metres"), add_drill(lead, workspace)
    width = Machine.objects.get(pk=kept).width
    Machine.objects.filter(pk=gone).update(width_m=width.value, width_typed=width.text, width_unit=width.unit)
    record = str(uuid4())
    body = {**planting_body(trial["strips"][0]), "machine_id": gone}
    scout.ok("put", f"/trials/{trial['id']}/planting-records/{record}", body)
    told = lead.ok("get", f"{home}/merge?what=machine&gone={gone}&kept={kept}")
    assert (told["moves"], told["differs"]) == (["1 planting record"], [])
    lead.ok("post", f"{home}/merge", merging("machine", gone, kept))
    assert str(PlantingRecord.objects.get(pk=record).machine_id) == kept
    assert not Machine.objects.filter(pk=gone).exists()
    later = str(uuid4())
    scout.ok("put", f"/trials/{trial['id']}/planting-records/{later}", {**body, "strip_id": trial["strips"][1]["id"]})
    assert str(PlantingRecord.objects.get(pk=later).machine_id) == kept, "a device that still names the one that is gone"
    stale = scout.refused(
        "put",
        f"/trials/{trial['id']}/planting-records/{record}",
        {**body, "version": 1, "rate": typed("300", "/m2")},
        status=409,
    )
    assert stale["code"] == "stale"
    (entry,) = lead.ok("get", f"{home}/history?kind=merge")["entries"]
    assert entry["action"].startswith("merged the machine Drill, six metres into ")


def test_where_they_differ_somebody_must_have_seen_it(lead: Api, home: str) -> None:
    gone, kept = machine(lead, home, "A", "6"), machine(lead, home, "B", "4.5")
    refused = lead.refused("post", f"{home}/merge", merging("machine", gone, kept), status=409)
    assert refused["current"]["differs"] == ["width 6 m, not 4.5 m"]
    lead.ok("post", f"{home}/merge", merging("machine", gone, kept, accept=True))
    assert [str(row.pk) for row in Machine.objects.all()] == [kept]


def test_two_kinds_two_crops_and_the_same_twice_are_refused(lead: Api, workspace: Workspace, home: str) -> None:
    drill, bar = machine(lead, home, "A"), machine(lead, home, "B", kind="tillage")
    lead.refused("post", f"{home}/merge", merging("machine", drill, bar))
    lead.refused("post", f"{home}/merge", merging("machine", drill, drill))
    wheat = add_lot(lead, workspace)
    other = lead.ok("post", f"{home}/seed-lots", {**lot_body(), "crop": "maize"})["id"]
    lead.refused("post", f"{home}/merge", merging("lot", wheat, other))
    lead.refused("post", f"{home}/merge", merging("lot", wheat, str(uuid4())), status=404)
    assert (Machine.objects.count(), SeedLot.objects.count()) == (2, 2)


def test_lots_with_what_is_sown_and_a_frozen_protocol_is_amended(
    lead: Api, workspace: Workspace, home: str, trial: Place
) -> None:
    gone = add_lot(lead, workspace)
    kept = lead.ok("post", f"{home}/seed-lots", {**lot_body(), "name": "Vale Amber (again)"})["id"]
    part = {
        "part": "crop",
        "lot_id": gone,
        "level_id": None,
        "share": typed(""),
        "share_by": "weight",
        "rate": typed(""),
        "place": "in_row",
    }
    version = lead.ok("put", f"/trials/{trial['id']}/sowing", {"version": trial["version"], "parts": [part]})["version"]
    lead.ok("patch", f"/trials/{trial['id']}", {"version": version, "question": "Does it pay?"})
    frozen = lead.call("post", f"/trials/{trial['id']}/protocol")
    assert frozen.status_code in (200, 201), frozen.content
    lead.ok("post", f"{home}/merge", merging("lot", gone, kept, accept=True))
    after = lead.ok("get", f"/trials/{trial['id']}")
    assert str(Sowing.objects.get(trial=trial["id"]).lot_id) == kept
    amendments = after["protocol"]["amendments"]
    assert "Vale Amber (again)" in str(amendments[-1]["changes"])
    assert "merged into" in amendments[-1]["reason"]


def test_fields_with_their_trials(lead: Api, home: str, trial: Place) -> None:
    kept = lead.ok(
        "post", f"{home}/fields", {"name": "Hill, again", "farm": "", "width": typed("1", "m"), "length": typed("1", "m")}
    )
    lead.ok("post", f"{home}/merge", merging("field", trial["field"]["id"], kept["id"], accept=True))
    after = lead.ok("get", f"/trials/{trial['id']}")
    assert after["field"]["id"] == kept["id"]
    assert [strip["id"] for strip in after["strips"]] == [strip["id"] for strip in trial["strips"]]
    assert Field.objects.count() == 1


def field(lead: Api, home: str, farm: str, name: str) -> str:
    body = {"name": name, "farm": farm, "width": typed("100", "m"), "length": typed("300", "m")}
    key: str = lead.ok("post", f"{home}/fields", body)["id"]
    return key


def test_farms_with_fields_and_those_who_reach_them(lead: Api, viewer: Api, home: str) -> None:
    for farm, name in (("Quill", "North"), ("Quill", "South"), ("Quillbrook", "Bank")):
        field(lead, home, farm, name)
    member = Membership.objects.get(user=User.objects.get(username="vesna"))
    member.role, member.all_farms = "grower", False
    member.save()
    MembershipFarm.objects.create(membership=member, farm="Quill")
    assert len(viewer.ok("get", f"{home}/fields")) == 2
    told = lead.ok("post", f"{home}/merge", merging("farm", "Quill", "Quillbrook"))
    assert told["moves"] == ["2 fields"]
    assert {row["farm"] for row in lead.ok("get", f"{home}/fields")} == {"Quillbrook"}
    assert len(viewer.ok("get", f"{home}/fields")) == 3
    lead.refused("post", f"{home}/merge", merging("farm", "Quill", "Quillbrook"))


def test_farms_with_fields_of_one_name_wait_for_those(lead: Api, home: str) -> None:
    first, second = field(lead, home, "Quill", "Bank"), field(lead, home, "Quillbrook", "Bank")
    assert "Bank" in lead.refused("post", f"{home}/merge", merging("farm", "Quill", "Quillbrook"), status=409)["message"]
    lead.ok("post", f"{home}/merge", merging("field", first, second, accept=True))
    lead.refused("post", f"{home}/merge", merging("farm", "Quill", "Quillbrook"))


def test_merged_twice_over_is_still_found(lead: Api, home: str, trial: Place) -> None:
    first, second, third = (machine(lead, home, name) for name in ("A", "B", "C"))
    lead.ok("post", f"{home}/merge", merging("machine", first, second))
    lead.ok("post", f"{home}/merge", merging("machine", second, third))
    record = str(uuid4())
    body = {**planting_body(trial["strips"][0]), "machine_id": first, "recorded_at": now()}
    lead.ok("put", f"/trials/{trial['id']}/planting-records/{record}", body)
    assert str(PlantingRecord.objects.get(pk=record).machine_id) == third


def test_a_part_that_reaches_some_farms_merges_nothing(lead: Api, adviser: Api, workspace: Workspace, home: str) -> None:
    del workspace
    gone, kept = machine(lead, home, "A"), machine(lead, home, "B")
    field(lead, home, "Quill", "Bank")
    member = Membership.objects.get(user=User.objects.get(username="anselm"))
    member.all_farms = False
    member.save()
    MembershipFarm.objects.create(membership=member, farm="Quill")
    adviser.refused("post", f"{home}/merge", merging("machine", gone, kept), status=403)
