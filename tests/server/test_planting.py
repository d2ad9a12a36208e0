"""Planting day: records, depths, deviations, seedbed, passes, calibrations, each kept once and never lost."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any
from uuid import uuid4

import pytest
from apps.accounts.models import Workspace
from apps.field.planting.models import Calibration, DepthCheck, Deviation, PlantingRecord

from tests.server.conftest import (
    Api,
    add_drill,
    add_lot,
    calibration_body,
    depth_body,
    harvest_all,
    now,
    planting_body,
    sow,
    typed,
)

Trial = dict[str, Any]


def planting(api: Api, trial: Trial) -> dict[str, Any]:
    return api.ok("get", f"/trials/{trial['id']}/planting")


def put(api: Api, trial: Trial, what: str, body: dict[str, Any], key: str | None = None) -> dict[str, Any]:
    return api.ok("put", f"/trials/{trial['id']}/{what}/{key or uuid4()}", body)


def stage(api: Api, trial: Trial, key: str = "planting") -> dict[str, Any]:
    return next(item for item in api.ok("get", f"/trials/{trial['id']}")["stages"] if item["key"] == key)


def test_the_first_strip_sown_says_when_the_trial_was(scout: Api, trial: Trial) -> None:
    put(scout, trial, "planting-records", planting_body(trial["strips"][0], speed=typed("9", "km/h"), soil="moist"))
    result = scout.ok("get", f"/trials/{trial['id']}")
    assert result["planted_on"] == date.today().isoformat()
    assert result["strips"][0]["sown"]
    assert (stage(scout, trial)["state"], stage(scout, trial)["note"]) == ("due", "1 of 9 strips recorded")
    record = planting(scout, trial)["strips"][0]["records"][0]
    assert (record["speed"]["shown"], record["soil_name"], record["setting"]) == ("9.0 km/h", "Moist", "42")


def test_a_record_sent_twice_is_one(scout: Api, trial: Trial) -> None:
    key, body = str(uuid4()), planting_body(trial["strips"][0])
    path = f"/trials/{trial['id']}/planting-records/{key}"
    assert scout.call("put", path, body).status_code == 201
    assert scout.call("put", path, body).status_code == 200
    assert PlantingRecord.objects.count() == 1
    stale = scout.refused("put", path, body | {"setting": "44"}, status=409)
    assert stale["code"] == "stale"
    assert scout.ok("put", path, body | {"setting": "44", "version": 1})["setting"] == "44"
    assert PlantingRecord.history.filter(id=key).count() == 2


def test_a_sheet_of_records_is_all_or_none(scout: Api, trial: Trial) -> None:
    rows = [planting_body(strip, id=str(uuid4())) for strip in trial["strips"]]
    rows[3] |= {"speed": typed("fast", "km/h")}
    rows[5] |= {"speed": typed("400", "km/h")}
    answer = scout.refused("post", f"/trials/{trial['id']}/planting-sheet", {"rows": rows})
    assert [(item["row"], item["field"]) for item in answer["problems"]] == [(4, "speed"), (6, "speed")]
    assert not PlantingRecord.objects.exists()
    for place in (3, 5):
        rows[place] |= {"speed": typed("8", "km/h")}
    result = scout.ok("post", f"/trials/{trial['id']}/planting-sheet", {"rows": rows})
    assert all(len(strip["records"]) == 1 for strip in result["strips"])
    assert stage(scout, trial)["state"] == "done"


def test_the_rate_sown_stands_beside_the_rate_wanted(lead: Api, workspace: Workspace, trial: Trial) -> None:
    """150 kg/ha of 44-g seed at 98 % purity is 334.1 /m², 4.4 % over 320 (by hand)."""
    sow(lead, trial, {"part": "crop", "lot_id": add_lot(lead, workspace)})
    record = put(lead, trial, "planting-records", planting_body(trial["strips"][0], rate=typed("150", "kg/ha")))
    assert record["rate"]["shown"] == "334.1 /m²"
    assert record["rate_off"] == "+4.4 %"


def test_depths_of_a_strip(adviser: Api, trial: Trial) -> None:
    """38, 41, 35, 44, 52 mm: mean 42.0, 4 of 5 inside 2.5–5 cm, 2 mm over the 4 cm wanted (by hand)."""
    fresh = adviser.ok("get", f"/trials/{trial['id']}")
    adviser.ok("patch", f"/trials/{trial['id']}", {"version": fresh["version"], "sowing_depth": typed("4", "cm")})
    for depth in ("38", "41", "35", "44", "52"):
        put(adviser, trial, "depth-checks", depth_body(trial["strips"][0], depth))
    result = planting(adviser, trial)
    dug = result["strips"][0]["dug"]
    assert (dug["n"], dug["mean"]["text"], dug["inside_pct"], dug["off"]) == (5, "4.2 cm", 80.0, "+0.2 cm")
    assert result["window_m"] == [0.025, 0.05]
    ribbon = adviser.ok("get", f"/trials/{trial['id']}")["strips"][0]
    assert (ribbon["depth"]["text"], ribbon["depths"]) == ("4.2 cm", 5)
    first = result["strips"][0]["depths"][0]
    adviser.ok("post", f"/records/depth-check/{first['id']}/void", {"voided": True, "reason": "stone", "version": 1})
    assert planting(adviser, trial)["strips"][0]["dug"]["n"] == 4
    assert DepthCheck.objects.count() == 5, "a voided depth is kept"


@pytest.mark.parametrize(
    ("depth", "unit", "code"),
    [
        ("-3", "mm", "too_small"),
        ("4000", "mm", "too_large"),
        ("deep", "mm", "not_a_number"),
        ("", "mm", "missing"),
        ("4", "kg", "unknown_unit"),
    ],
)
def test_depths_that_cannot_be(scout: Api, trial: Trial, depth: str, unit: str, code: str) -> None:
    answer = scout.refused("put", f"/trials/{trial['id']}/depth-checks/{uuid4()}", depth_body(trial["strips"][0], depth, unit))
    assert (answer["code"], answer["field"]) == (code, "depth")


def deviation(strip: dict[str, Any], kind: str = "wrong_setting", **more: Any) -> dict[str, Any]:
    return {"strip_id": strip["id"], "kind": kind, "recorded_at": now()} | more


def test_plan_and_deed_are_both_kept(lead: Api, trial: Trial) -> None:
    """A strip sown at the wrong setting is analysed as what it got, and once more as planned."""
    strip = trial["strips"][1]
    other = next(item for item in trial["treatments"] if item["id"] != strip["treatment_id"])
    key = str(uuid4())
    body = deviation(strip, sown_treatment_id=other["id"], note="left at the strip before")
    answer = put(lead, trial, "deviations", body, key)
    assert answer["words"] == f"Wrong setting, got {other['letter']}, left at the strip before"
    marked = lead.ok("get", f"/trials/{trial['id']}")["strips"][1]
    assert (marked["treatment_id"], marked["received_id"]) == (strip["treatment_id"], other["id"])
    assert marked["reason"] == "Wrong setting: left at the strip before"
    assert marked["deviations"] == ["Wrong setting"]
    harvest_all(lead, trial, {"A": 1300, "B": 1250, "C": 1200})
    verdict = lead.ok("get", f"/trials/{trial['id']}/verdict")
    assert "planned" in str(verdict).lower()
    lead.ok("post", f"/records/deviation/{key}/void", {"voided": True, "reason": "it was strip 3", "version": 1})
    back = lead.ok("get", f"/trials/{trial['id']}")["strips"][1]
    assert back["received_id"] == strip["treatment_id"], "voided, the strip goes back to the plan"
    assert Deviation.objects.get(id=key).voided


def test_a_mark_made_at_the_desk_outlives_a_voided_deviation(lead: Api, trial: Trial) -> None:
    strip = trial["strips"][1]
    others = [item for item in trial["treatments"] if item["id"] != strip["treatment_id"]]
    key = str(uuid4())
    put(lead, trial, "deviations", deviation(strip, sown_treatment_id=others[0]["id"]), key)
    desk = {"lost": False, "sown_treatment_id": others[1]["id"], "reason": "seen on the monitor's log"}
    lead.ok("patch", f"/strips/{strip['id']}", desk)
    lead.ok("post", f"/records/deviation/{key}/void", {"voided": True, "reason": "mistaken", "version": 1})
    assert lead.ok("get", f"/trials/{trial['id']}")["strips"][1]["received_id"] == others[1]["id"]


def test_a_skip_marks_the_strip_and_changes_no_treatment(scout: Api, trial: Trial) -> None:
    strip = trial["strips"][0]
    body = deviation(strip, "skip", rows=2, start=typed("40", "m"), end=typed("55", "m"))
    assert put(scout, trial, "deviations", body)["words"] == "Skip, 2 rows, from 40.0 m to 55.0 m"
    result = scout.ok("get", f"/trials/{trial['id']}")["strips"][0]
    assert (result["deviations"], result["received_id"]) == (["Skip"], strip["treatment_id"])


@pytest.mark.parametrize(
    ("more", "field"),
    [
        ({"start": typed("40", "m"), "end": typed("20", "m")}, "end"),
        ({"start": typed("-4", "m")}, "start"),
        ({"end": typed("4000", "m")}, "end"),
        ({"rows": 0}, "rows"),
        ({"kind": "other"}, "note"),
        ({"sown_treatment_id": str(uuid4())}, "sown_treatment_id"),
    ],
)
def test_deviations_that_cannot_be(scout: Api, trial: Trial, more: dict[str, Any], field: str) -> None:
    body = deviation(trial["strips"][0], "skip") | more
    answer = scout.refused("put", f"/trials/{trial['id']}/deviations/{uuid4()}", body)
    assert answer["field"] == field
    assert not Deviation.objects.exists()


def test_strips_with_records_of_planting_are_not_drawn_anew(lead: Api, trial: Trial) -> None:
    put(lead, trial, "depth-checks", depth_body(trial["strips"][0]))
    fresh = lead.ok("get", f"/trials/{trial['id']}")
    assert not fresh["layout_bound"]["open"]
    body = {
        "version": fresh["version"],
        "design": "rcbd",
        "blocks": 2,
        "strip_width": typed("6", "m"),
        "strip_length": typed("300", "m"),
    }
    answer = lead.refused("post", f"/trials/{trial['id']}/layout", body, status=409)
    assert "record of planting" in answer["message"]


def test_a_tillage_pass_holds_its_strips(lead: Api, trial: Trial) -> None:
    strips = [strip["id"] for strip in trial["strips"][:3]]
    lead.ok("patch", f"/trials/{trial['id']}", {"version": trial["version"], "planted_on": "2026-04-20"})
    body = {
        "done_on": "2026-05-14",
        "kind": "hoe",
        "times": 2,
        "depth": typed("4", "cm"),
        "strip_ids": strips,
        "recorded_at": now(),
    }
    answer = put(lead, trial, "tillage-passes", body)
    assert (answer["kind_name"], answer["when"], answer["strip_ids"]) == (
        "Hoeing between rows",
        "24 days after planting",
        strips,
    )
    fresh = lead.ok("get", f"/trials/{trial['id']}")
    layout = {
        "version": fresh["version"],
        "design": "rcbd",
        "blocks": 2,
        "strip_width": typed("6", "m"),
        "strip_length": typed("300", "m"),
    }
    lead.refused("post", f"/trials/{trial['id']}/layout", layout, status=409)
    tomorrow = (date.today() + timedelta(days=3)).isoformat()
    assert (
        lead.refused("put", f"/trials/{trial['id']}/tillage-passes/{uuid4()}", body | {"done_on": tomorrow})["field"]
        == "done_on"
    )


def bed(**more: Any) -> dict[str, Any]:
    return {"checked_on": date.today().isoformat(), "recorded_at": now()} | more


def test_a_seedbed_is_judged_for_the_crop(scout: Api, trial: Trial) -> None:
    answer = put(
        scout,
        trial,
        "seedbed-checks",
        bed(soil_temperature=typed("50", "F"), ph=typed("5.1"), moisture_line=typed("3.5", "cm"), weeds="none", texture="loam"),
    )
    states = {item["check"]: item["state"] for item in answer["findings"]}
    assert states["Soil temperature"] == "good"  # 50 °F is 10 °C
    assert states["Soil pH"] == "poor"
    assert states["Residue"] == "unknown"
    assert answer["overall"] == "not_ready"
    assert [item["title"] for item in answer["schools"]] == ["Into moisture", "Fixed depth"]
    assert answer["schools"][0]["depth"] == "4.1 cm"  # 3.5 cm and a quarter inch
    assert answer["soil_temperature"]["text"] == "50", "as typed"
    result = planting(scout, trial)
    assert len(result["seedbed"]) == 1
    assert not result["small_seeded"], "seeds left on top are asked of small seeds only"


@pytest.mark.parametrize(
    ("more", "field"),
    [
        ({}, "boot_sink"),
        ({"ph": typed("17")}, "ph"),
        ({"residue": typed("140", "%")}, "residue"),
        ({"moisture_line": typed("-2", "cm")}, "moisture_line"),
        ({"checked_on": (date.today() + timedelta(days=9)).isoformat(), "weeds": "few"}, "checked_on"),
    ],
)
def test_beds_that_cannot_be(scout: Api, trial: Trial, more: dict[str, Any], field: str) -> None:
    answer = scout.refused("put", f"/trials/{trial['id']}/seedbed-checks/{uuid4()}", bed(**more))
    assert answer["field"] == field


def calibrate(api: Api, workspace: Workspace, body: dict[str, Any]) -> dict[str, Any]:
    return api.ok("put", f"/workspaces/{workspace.id}/calibrations/{uuid4()}", body)


def test_catches_against_the_target(lead: Api, workspace: Workspace) -> None:
    """262, 258, 266 g on 18.75 m²: mean 139.7 kg/ha, 0.2 % under 140 (by hand)."""
    answer = calibrate(lead, workspace, calibration_body(add_lot(lead, workspace), add_drill(lead, workspace)))
    assert (answer["mean"], answer["off"], answer["standing"]) == ("139.7 kg/ha", "−0.2 %", "within_sure")
    assert [item["mass"]["text"] for item in answer["catches"]] == ["262", "258", "266"]


def test_far_off_it_names_the_setting(lead: Api, workspace: Workspace) -> None:
    """315 g is 168 kg/ha: 42 × 140 ÷ 168 = 35 (by hand)."""
    answer = calibrate(lead, workspace, calibration_body(add_lot(lead, workspace), add_drill(lead, workspace), "315"))
    assert (answer["standing"], answer["corrected"]) == ("outside", "35.00")


def test_turns_of_the_wheel_and_bags(lead: Api, workspace: Workspace) -> None:
    """25 turns of 2 m without slip are 50 m; 25 kg on 0.18 ha are 138.9 kg/ha (by hand)."""
    lot, drill = add_lot(lead, workspace), add_drill(lead, workspace)
    turns = calibration_body(lot, drill, method="turns", circumference=typed("2", "m"))
    turns["catches"] = [{"setting": "", "mass": typed("262", "g"), "way": typed("25")}]
    assert calibrate(lead, workspace, turns)["mean"] == "139.7 kg/ha"
    bag = calibration_body(lot, drill, method="bag")
    bag["catches"] = [{"setting": "", "mass": typed("25", "kg"), "way": typed("0.18", "ha")}]
    assert calibrate(lead, workspace, bag)["mean"] == "138.9 kg/ha"


@pytest.mark.parametrize(
    ("change", "code", "field"),
    [
        ({"catches": [{"setting": "42", "mass": typed("0", "g"), "way": typed("50", "m")}]}, "zero_catch", "mass"),
        ({"catches": [{"setting": "42", "mass": typed("260", "g"), "way": typed("-50", "m")}]}, "too_small", "way"),
        ({"catches": [{"setting": "half", "mass": typed("260", "g"), "way": typed("50", "m")}]}, "not_a_number", "setting"),
        ({"catches": []}, "missing", "catches"),
        ({"tolerance": typed("30", "%")}, "too_large", "tolerance"),
        ({"target": typed("", "kg/ha")}, "missing", "target"),
        ({"openers": None}, "missing", "openers"),
    ],
)
def test_calibrations_that_cannot_be(lead: Api, workspace: Workspace, change: dict[str, Any], code: str, field: str) -> None:
    body = calibration_body(add_lot(lead, workspace), add_drill(lead, workspace)) | change
    answer = lead.refused("put", f"/workspaces/{workspace.id}/calibrations/{uuid4()}", body)
    assert (answer["code"], answer["field"]) == (code, field)
    assert not Calibration.objects.exists()


def test_another_lot_asks_for_its_own_calibration(lead: Api, workspace: Workspace, trial: Trial) -> None:
    name, other = add_lot(lead, workspace), add_lot(lead, workspace, tag="T-200")
    drill = add_drill(lead, workspace)
    path = f"/trials/{trial['id']}/calibrations"
    sow(lead, trial, {"part": "crop", "lot_id": name})
    assert "T-118 has not been calibrated with Drill 3 m" in lead.ok("get", path)["missing"][0]
    calibrate(lead, workspace, calibration_body(name, drill))
    assert lead.ok("get", path)["missing"] == []
    sow(lead, trial, {"part": "crop", "lot_id": other})
    assert "T-200 has not been calibrated" in lead.ok("get", path)["missing"][0]
    assert planting(lead, trial)["uncalibrated"] == lead.ok("get", path)["missing"]


def test_a_strangers_strip_machine_and_lot(lead: Api, outsider: Api, workspace: Workspace, trial: Trial) -> None:
    elsewhere = Workspace.objects.exclude(id=workspace.id).get()
    theirs, their_drill = add_lot(outsider, elsewhere), add_drill(outsider, elsewhere)
    path = f"/trials/{trial['id']}/planting-records/{uuid4()}"
    assert lead.refused("put", path, planting_body(trial["strips"][0], lot_id=theirs))["field"] == "lot"
    assert lead.refused("put", path, planting_body(trial["strips"][0], machine_id=their_drill))["field"] == "machine"
    outsider.refused("put", path, planting_body(trial["strips"][0]), status=404)
    kept = calibrate(lead, workspace, calibration_body(add_lot(lead, workspace), add_drill(lead, workspace)))
    void = {"voided": True, "reason": "mine", "version": 1}
    outsider.refused("post", f"/records/calibration/{kept['id']}/void", void, status=404)
    body = calibration_body(theirs, their_drill)
    outsider.refused("put", f"/workspaces/{elsewhere.id}/calibrations/{kept['id']}", body, status=404)
    assert not PlantingRecord.objects.exists()


def test_a_reader_in_us_units_reads_the_same_day(lead: Api, trial: Trial) -> None:
    """50 °F typed, 6 mph typed: read as °C and km/h by one, as typed by the other; depths in inches (definition)."""
    strip = trial["strips"][0]
    put(lead, trial, "planting-records", planting_body(strip, speed=typed("6", "mph")))
    put(lead, trial, "depth-checks", depth_body(strip, "1.5", "in"))
    put(lead, trial, "seedbed-checks", bed(soil_temperature=typed("50", "F")))
    metric = planting(lead, trial)
    assert metric["strips"][0]["records"][0]["speed"]["shown"] == "9.7 km/h"
    assert metric["strips"][0]["dug"]["mean"]["text"] == "3.8 cm"
    assert metric["seedbed"][0]["soil_temperature"]["shown"] == "10.0 °C"
    lead.ok("patch", "/session", {"unit_system": "us"})
    customary = planting(lead, trial)
    assert customary["strips"][0]["records"][0]["speed"] == {"text": "6", "unit": "mph", "shown": "6.0 mph"}
    assert customary["strips"][0]["dug"]["mean"]["text"] == "1.50 in"
    assert customary["seedbed"][0]["soil_temperature"]["shown"] == "50 °F"
    assert customary["depth_unit"]["code"] == "in"
    assert customary["window"] == "0.98 to 1.97 in"


def test_the_last_deviation_that_stands_decides(lead: Api, trial: Trial) -> None:
    strip = trial["strips"][1]
    others = [item["id"] for item in trial["treatments"] if item["id"] != strip["treatment_id"]]
    keys = [str(uuid4()), str(uuid4())]
    for key, other in zip(keys, others, strict=True):
        put(lead, trial, "deviations", deviation(strip, sown_treatment_id=other, note=key[:4]), key)

    def received() -> str:
        return str(lead.ok("get", f"/trials/{trial['id']}")["strips"][1]["received_id"])

    assert received() == others[1]
    lead.ok("post", f"/records/deviation/{keys[1]}/void", {"voided": True, "reason": "mistaken", "version": 1})
    assert received() == others[0], "the one before still stands"
    lead.ok("post", f"/records/deviation/{keys[1]}/void", {"voided": False, "reason": "", "version": 2})
    assert received() == others[1], "the void taken back, it decides again"


def test_a_strip_said_to_have_got_what_was_planned_is_as_planned(lead: Api, trial: Trial) -> None:
    strip = trial["strips"][1]
    put(lead, trial, "deviations", deviation(strip, "double", sown_treatment_id=strip["treatment_id"]))
    result = lead.ok("get", f"/trials/{trial['id']}")["strips"][1]
    assert (result["received_id"], result["deviations"]) == (strip["treatment_id"], ["Sown twice"])


def test_a_record_of_another_trial_is_not_overwritten(lead: Api, workspace: Workspace, trial: Trial) -> None:
    key = str(uuid4())
    put(lead, trial, "depth-checks", depth_body(trial["strips"][0]), key)
    other = lead.ok("post", f"/workspaces/{workspace.id}/trials", {"title": "Other", "crop": "maize", "season": 2026})
    lead.refused("put", f"/trials/{other['id']}/depth-checks/{key}", depth_body(trial["strips"][0], "50"), status=404)
    assert DepthCheck.objects.get(id=key).depth_typed == "38"


def test_depths_by_treatment_are_means_of_strips(lead: Api, trial: Trial) -> None:
    """Strip means 30 and 50 mm make 40, however many were dug on each (by hand)."""
    mine = [strip for strip in trial["strips"] if strip["treatment_id"] == trial["treatments"][0]["id"]][:2]
    for strip, depths in zip(mine, (("30", "30", "30", "30"), ("50",)), strict=True):
        for depth in depths:
            put(lead, trial, "depth-checks", depth_body(strip, depth))
    row = planting(lead, trial)["treatments"][0]
    assert (row["n"], row["strips"], row["mean"]["text"], row["inside_pct"]) == (5, 2, "4.0 cm", 100.0)


def test_two_settings_name_a_third_from_their_line(lead: Api, workspace: Workspace) -> None:
    """30 → 187.5 g (100 kg/ha), 50 → 337.5 g (180): 140 lies at 40 (by hand)."""
    body = calibration_body(add_lot(lead, workspace), add_drill(lead, workspace), "187.5", "337.5")
    for row, setting in zip(body["catches"], ("30", "50"), strict=True):
        row["setting"] = setting
    answer = calibrate(lead, workspace, body)
    assert (answer["corrected"], answer["standing"]) == ("40.00", "outside")


def test_a_calibration_is_mended_with_its_version_and_kept(lead: Api, workspace: Workspace) -> None:
    key, body = str(uuid4()), calibration_body(add_lot(lead, workspace), add_drill(lead, workspace), "315")
    path = f"/workspaces/{workspace.id}/calibrations/{key}"
    lead.ok("put", path, body)
    body["catches"].append({"setting": "35", "mass": typed("262", "g"), "way": typed("50", "m")})
    assert lead.refused("put", path, body, status=409)["code"] == "stale"
    assert lead.ok("put", path, body | {"version": 1})["standing"] == "within"
    assert Calibration.history.filter(id=key).count() == 2
    lead.ok("post", f"/records/calibration/{key}/void", {"voided": True, "reason": "wrong lot", "version": 2})
    assert lead.ok("get", f"/workspaces/{workspace.id}/calibrations") == []
    assert Calibration.objects.count() == 1, "voided, not gone"


def test_a_lot_of_another_crop_is_not_in_the_drill(lead: Api, workspace: Workspace, trial: Trial) -> None:
    maize = add_lot(lead, workspace, crop="maize", thousand_seed_weight=typed("290", "g/1000"))
    path = f"/trials/{trial['id']}/planting-records/{uuid4()}"
    assert lead.refused("put", path, planting_body(trial["strips"][0], lot_id=maize))["code"] == "other_crop"


@pytest.mark.parametrize(
    ("what", "body", "field"),
    [
        ("planting-records", {"sown_at": "2099-01-01T08:00:00Z"}, "recorded_at"),
        ("planting-records", {"rate": typed("many", "/m2")}, "rate"),
        ("planting-records", {"rate": typed("140", "bags/ha")}, "bag_seeds"),
        ("planting-records", {"speed": typed("0", "km/h")}, "speed"),
    ],
)
def test_records_that_cannot_be(scout: Api, trial: Trial, what: str, body: dict[str, Any], field: str) -> None:
    answer = scout.refused("put", f"/trials/{trial['id']}/{what}/{uuid4()}", planting_body(trial["strips"][0]) | body)
    assert answer["field"] == field
    assert not PlantingRecord.objects.exists()


def test_a_planting_under_way_comes_before_what_is_planned(lead: Api, workspace: Workspace, trial: Trial) -> None:
    """Next year's trial waits behind this year's until its first strip is in the ground."""
    next_year = date.today().year + 1
    lead.ok("patch", f"/trials/{trial['id']}", {"version": trial["version"], "season": next_year})

    def urgency() -> int:
        dues = lead.ok("get", f"/workspaces/{workspace.id}/today")["dues"]
        return int(next(due["urgency"] for due in dues if due["stage"] == "planting"))

    waiting = urgency()
    put(lead, trial, "planting-records", planting_body(trial["strips"][0]))
    assert urgency() < waiting


def test_an_opener_that_sows_too_shallow_is_named(lead: Api, trial: dict[str, Any]) -> None:
    """Six rows on four strips, row 5 a centimetre and a half shallower: named, with its chance of being luck."""
    for strip in trial["strips"][:4]:
        for opener in range(1, 7):
            depth = 38 + 2 * (strip["order"] % 2) + (opener * strip["order"]) % 3 - (15 if opener == 5 else 0)
            body = depth_body(strip, str(depth)) | {"opener": opener}
            lead.ok("put", f"/trials/{trial['id']}/depth-checks/{uuid4()}", body)
    [look] = lead.ok("get", f"/trials/{trial['id']}/openers")
    assert [row["opener"] for row in look["openers"] if row["apart"]] == [5]
    assert look["words"].startswith("Off: row 5 by")
    assert "below the others (chance of being luck" in look["words"]
    refused = depth_body(trial["strips"][0]) | {"opener": 0}
    assert lead.refused("put", f"/trials/{trial['id']}/depth-checks/{uuid4()}", refused)["field"] == "opener"
