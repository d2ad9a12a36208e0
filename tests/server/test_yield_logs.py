"""Yield logs through the API: taken in, mapped, cleaned off the request, undone, calibrated, chosen for the verdict."""

from __future__ import annotations

from typing import Any
from uuid import uuid4

import numpy as np
import pytest
from apps.accounts.models import Workspace
from apps.field.harvest.models import HarvestLoad
from apps.field.logs import cleaning
from apps.field.logs.models import MachineColumns, YieldLog
from apps.jobs import services as jobs
from apps.jobs.models import Job
from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone

from tests.server.conftest import (
    Api,
    add_yield_log,
    columns_of,
    driven,
    load_body,
    now,
    send_log,
    steps_body,
    typed,
)

Answer = dict[str, Any]


def weigh(api: Api, trial: Answer, truth: dict[str, float], moisture: str = "14") -> None:
    """A load of every strip that says exactly what the combine was told."""
    for strip in trial["strips"]:
        net = truth[strip["id"]] * (100 - 13.5) / (100 - float(moisture)) * 12 * 250 / 1e4
        body = load_body(
            strip, f"{net:.3f}", moisture=typed(moisture, "%"), swath_width=typed("12", "m"), length=typed("250", "m")
        )
        api.ok("put", f"/trials/{trial['id']}/harvest-loads/{uuid4()}", body)


def yields(log: Answer) -> np.ndarray:
    return np.array([1000 * item["yield_"]["value"] for item in log["strips"]])


@pytest.fixture
def truth(lead: Api, placed: Answer) -> dict[str, float]:
    """Yields by strip in kg/ha, B 0.5 t/ha above A, weighed on the scale."""
    rng = np.random.default_rng(8)
    result = {
        strip["id"]: float(
            7000 + 90 * rng.standard_normal() + (500 if strip["received_id"] == placed["treatments"][1]["id"] else 0)
        )
        for strip in placed["strips"]
    }
    weigh(lead, placed, result)
    return result


def test_a_log_is_read_cleaned_and_brought_to_the_scale(lead: Api, placed: Answer, truth: dict[str, float]) -> None:
    """Through the API from file to strips: within 1 % of the truth on every strip, the gain of the monitor found."""
    log = add_yield_log(lead, placed, gain=1.08)
    expected = np.array([truth[item["strip_id"]] for item in log["strips"]])
    assert np.abs(yields(log) / expected - 1).max() < 0.01
    # the ends of the strips, left out, are not average ground: the same on every strip, so the factor carries it
    assert float(log["calibration"]["factor"]) == pytest.approx(1 / 1.08, rel=0.01)
    assert log["delay_s"] == pytest.approx(9, abs=1.2)
    assert log["delay_found"]
    raw = np.array([1000 * item["raw"]["value"] for item in log["strips"]])
    assert np.abs(raw / expected - 1).max() > 0.03, "several per cent off before"
    assert [item["name"] for item in log["steps"]][:2] == ["Flow delay", "Pass starts and ends"]
    left = [item["left"] for item in log["steps"]]
    assert left == sorted(left, reverse=True)
    assert log["readings"] - left[-1] == sum(item["dropped"] for item in log["steps"])


def test_a_step_is_undone_and_its_readings_are_back(lead: Api, placed: Answer, truth: dict[str, float]) -> None:
    assert truth
    log = add_yield_log(lead, placed)
    before = {item["key"]: item["dropped"] for item in log["steps"]}
    undone = lead.ok("put", f"/yield-logs/{log['id']}/steps", steps_body(log, off=["ends"]))
    assert before["ends"] > 0
    ends = next(item for item in undone["steps"] if item["key"] == "ends")
    assert (ends["on"], ends["dropped"]) == (False, 0)
    assert undone["on_strips"] > log["on_strips"]
    again = lead.ok("put", f"/yield-logs/{log['id']}/steps", steps_body(undone, off=[]))
    assert {item["key"]: item["dropped"] for item in again["steps"]} == before
    assert yields(again) == pytest.approx(yields(log))
    changed = lead.ok("put", f"/yield-logs/{log['id']}/steps", steps_body(again, values={"start_s": 30.0}))
    assert next(item for item in changed["steps"] if item["key"] == "ends")["dropped"] > before["ends"]


def test_the_raw_file_is_kept_as_it_came(lead: Api, placed: Answer) -> None:
    content = driven(lead, placed)
    log = send_log(lead, placed, content).json()
    lead.ok("put", f"/yield-logs/{log['id']}/columns", {"version": 1, "columns": columns_of(log)})
    got = lead.client.get(f"/api/yield-logs/{log['id']}/raw")
    assert b"".join(got.streaming_content) == content
    assert got["Content-Disposition"].startswith("attachment")


def test_the_picture_shows_what_a_step_dropped(lead: Api, placed: Answer) -> None:
    log = add_yield_log(lead, placed)
    picture = lead.ok("get", f"/yield-logs/{log['id']}/picture")
    assert picture["of"] == log["readings"]
    assert len(picture["outlines"]) == 8
    for step in log["steps"]:
        assert picture["dropped"].count(step["index"]) == step["dropped"], step["name"]
    # along and across: strips lie 12 m apart across the page and 250 m along it
    ring = np.array(picture["outlines"][0]["ring"])
    assert np.ptp(ring[:, 0]) == pytest.approx(250, abs=15)
    assert np.ptp(ring[:, 1]) == pytest.approx(12, abs=1)


def test_the_verdict_follows_the_source(lead: Api, placed: Answer, truth: dict[str, float]) -> None:
    assert truth
    log = add_yield_log(lead, placed, noise_pct=0)
    scale = lead.ok("get", f"/trials/{placed['id']}/verdict")
    assert scale["source"] == "Yields are those of the loads."
    assert any(item["label"] == "by the log log.csv instead of the scale" for item in scale["alternates"])
    chosen = lead.ok("put", f"/trials/{placed['id']}/harvest-source", {"version": 0, "log_id": log["id"]})
    assert chosen["source"]["log_id"] == log["id"]
    by_log = lead.ok("get", f"/trials/{placed['id']}/verdict")
    assert "brought to the scale on 8 loads" in by_log["source"]
    assert by_log["fingerprint"] != scale["fingerprint"]
    assert any(item["label"] == "by the scale instead of the log" for item in by_log["alternates"])
    means = [[mean["mean"]["value"] for mean in item["yield_"]["means"]] for item in (scale, by_log)]
    assert means[0] != means[1]
    assert means[1] == pytest.approx(means[0], rel=0.01)
    # the first steps undone change what the verdict rests on
    log = lead.ok("get", f"/yield-logs/{log['id']}")
    lead.ok("put", f"/yield-logs/{log['id']}/steps", steps_body(log, off=["delay", "ends"], calibrated=False))
    rough = lead.ok("get", f"/trials/{placed['id']}/verdict")
    assert rough["fingerprint"] != by_log["fingerprint"]
    assert "not brought to the scale" in rough["source"]
    lead.ok("put", f"/trials/{placed['id']}/harvest-source", {"version": 1, "log_id": None})
    assert lead.ok("get", f"/trials/{placed['id']}/verdict")["fingerprint"] != rough["fingerprint"]
    assert lead.refused("put", f"/trials/{placed['id']}/harvest-source", {"version": 1, "log_id": None}, status=409)


def test_yields_of_a_log_alone_make_a_verdict(lead: Api, placed: Answer) -> None:
    """No scale at all: the monitor's own numbers, said to be uncalibrated."""
    log = add_yield_log(lead, placed)
    assert lead.ok("get", f"/trials/{placed['id']}/verdict")["state"] == "none"
    lead.ok("put", f"/trials/{placed['id']}/harvest-source", {"version": 0, "log_id": log["id"]})
    verdict = lead.ok("get", f"/trials/{placed['id']}/verdict")
    assert verdict["state"] == "judged"
    assert "no load to calibrate on" in verdict["source"]
    trial = lead.ok("get", f"/trials/{placed['id']}")
    stage = next(item for item in trial["stages"] if item["key"] == "harvest")
    assert stage["state"] == "done"


def test_scale_beside_log(lead: Api, placed: Answer, truth: dict[str, float]) -> None:
    assert truth
    log = add_yield_log(lead, placed, gain=1.1)
    plain = lead.ok("put", f"/yield-logs/{log['id']}/steps", steps_body(log, calibrated=False))
    agreement = plain["agreement"]
    middle = np.array(agreement["points"])
    assert agreement["bias"] == pytest.approx(middle[:, 1].mean())
    sd = middle[:, 1].std(ddof=1)
    # Bland & Altman (1986): mean ± 1.96 standard deviations of the differences
    assert (agreement["lower"], agreement["upper"]) == pytest.approx(
        (middle[:, 1].mean() - 1.96 * sd, middle[:, 1].mean() + 1.96 * sd)
    )
    assert agreement["bias"] < -0.5, "the monitor reads a tenth high"
    assert log["agreement"]["bias"] == pytest.approx(0, abs=0.02)


def test_a_load_far_off_is_asked_about_and_can_be_left_out(lead: Api, placed: Answer, truth: dict[str, float]) -> None:
    assert truth
    log = add_yield_log(lead, placed)
    load = HarvestLoad.objects.order_by("strip__order").first()
    assert load is not None
    load.yield_kg_per_ha = (load.yield_kg_per_ha or 0) * 1.4
    load.save()
    log = lead.ok("get", f"/yield-logs/{log['id']}")
    assert any("Far from the others on the scale: strip 1" in item for item in log["remarks"])
    far = next(item for item in log["calibration"]["loads"] if item["far"])
    assert far["strip"] == 1
    better = lead.ok("put", f"/yield-logs/{log['id']}/steps", steps_body(log, left_out=[far["load_id"]]))
    assert "over 7 loads" in better["calibration"]["words"]
    assert float(better["calibration"]["factor"]) < float(log["calibration"]["factor"])
    assert not any("Far from" in item for item in better["remarks"])


def test_columns_are_remembered_for_the_machine(lead: Api, placed: Answer, workspace: Workspace) -> None:
    """Mapped once; the next file of the machine goes straight to the worker."""
    machine = lead.ok(
        "post", f"/workspaces/{workspace.id}/machines", {"name": "Header", "kind": "harvester", "width": typed("12", "m")}
    )
    first = send_log(lead, placed, driven(lead, placed), machine_id=machine["id"]).json()
    assert first["state"] == "columns"
    body = {"version": 1, "machine_id": machine["id"], "columns": columns_of(first)}
    lead.ok("put", f"/yield-logs/{first['id']}/columns", body)
    assert MachineColumns.objects.get().machine.name == "Header"
    second = send_log(lead, placed, driven(lead, placed, seed=5), name="second.csv", machine_id=machine["id"]).json()
    assert second["state"] == "done"
    other = b"time_s,lon,lat,v,w,f\n" + b"1,2,3,4,5,6\n" * 20
    assert send_log(lead, placed, other, name="other.csv", machine_id=machine["id"]).json()["state"] == "columns"


@pytest.mark.parametrize(
    ("changes", "field"),
    [
        ({"x": None}, "x"),
        ({"flow": {"name": "colour", "unit": "kg/s"}}, "flow"),
        ({"flow": {"name": "flow_kg_s", "unit": "stone"}}, "flow"),
        ({"y": {"name": "latitude", "unit": "m"}}, "y"),
        ({"swath": {"constant": typed("-3", "m")}}, "swath"),
        ({"swath": {"constant": typed("?", "m")}}, "swath"),
        ({"speed": {"constant": typed("3", "m")}}, "speed"),
    ],
)
def test_columns_that_cannot_be_are_refused_with_their_name(lead: Api, placed: Answer, changes: Answer, field: str) -> None:
    log = send_log(lead, placed, driven(lead, placed)).json()
    answer = lead.refused("put", f"/yield-logs/{log['id']}/columns", {"version": 1, "columns": columns_of(log, **changes)})
    assert answer["field"] == field
    assert YieldLog.objects.get().version == 1


@pytest.mark.parametrize(
    ("changes", "field"),
    [
        ({"values": {"delay_s": 99.0}}, "delay_s"),
        ({"values": {"slow": -1.0}}, "slow"),
        ({"values": {"colour": 1.0}}, "values"),
        ({"off": ["everything"]}, "off"),
        ({"margin": typed("", "m")}, "margin"),
        ({"margin": typed("80", "m")}, "margin"),
    ],
)
def test_cleaning_that_cannot_be_is_refused_and_the_log_stays(lead: Api, placed: Answer, changes: Answer, field: str) -> None:
    log = add_yield_log(lead, placed)
    assert lead.refused("put", f"/yield-logs/{log['id']}/steps", steps_body(log, **changes))["field"] == field
    assert lead.ok("get", f"/yield-logs/{log['id']}")["version"] == log["version"]
    stale = steps_body(log, off=["ends"]) | {"version": 1}
    assert lead.refused("put", f"/yield-logs/{log['id']}/steps", stale, status=409)["code"] == "stale"


def test_the_same_file_under_the_same_id_is_one_log(lead: Api, placed: Answer) -> None:
    content, log_id = driven(lead, placed), str(uuid4())
    assert send_log(lead, placed, content, log_id=log_id).status_code == 201
    assert send_log(lead, placed, content, log_id=log_id).status_code == 200
    assert send_log(lead, placed, driven(lead, placed, seed=9), log_id=log_id).status_code == 409
    assert YieldLog.objects.count() == 1


def test_a_voided_log_is_no_source(lead: Api, placed: Answer) -> None:
    log = add_yield_log(lead, placed)
    lead.ok("put", f"/trials/{placed['id']}/harvest-source", {"version": 0, "log_id": log["id"]})
    body = {"voided": True, "reason": "other field", "version": log["version"]}
    lead.ok("post", f"/records/yield-log/{log['id']}/void", body)
    answer = lead.ok("get", f"/trials/{placed['id']}/yield-logs")
    assert (answer["logs"], answer["source"]["log_id"]) == ([], None)
    assert lead.ok("get", f"/trials/{placed['id']}/verdict")["state"] == "none"
    lead.ok("post", f"/records/yield-log/{log['id']}/void", body | {"voided": False, "version": log["version"] + 1})
    assert lead.ok("get", f"/trials/{placed['id']}/yield-logs")["source"]["log_id"] == log["id"]


def test_a_layout_without_a_map_cannot_take_a_log(lead: Api, workspace: Workspace) -> None:
    csv = b"block,rate,yield\n1,a,4\n1,b,5\n2,a,4\n2,b,6\n"
    answer = lead.client.post(
        f"/api/workspaces/{workspace.id}/import",
        {
            "file": SimpleUploadedFile("t.csv", csv),
            "block": "block",
            "treatment": "rate",
            "response": "yield",
            "unit": "t/ha",
            "title": "t",
            "crop": "maize",
            "season": "2026",
        },
    )
    trial = answer.json()
    logs = lead.ok("get", f"/trials/{trial['id']}/yield-logs")
    assert not logs["placed"]
    assert "list without a map" in logs["needs"]
    assert send_log(lead, trial, b"a,b,c,d\n").status_code == 422


# --- work off the request ---------------------------------------------------------------------------------------------


def test_work_that_is_asked_to_stop_leaves_nothing(lead: Api, placed: Answer, monkeypatch: pytest.MonkeyPatch) -> None:
    """The cancel arrives while it reads: the row says cancelled, no result is stored."""
    monkeypatch.setattr(jobs, "TELL_EVERY_S", 0)
    log = send_log(lead, placed, driven(lead, placed)).json()
    really = cleaning.opened

    def opened(row: YieldLog) -> Any:
        lead.ok("post", f"/jobs/{Job.objects.get().id}/cancel")
        return really(row)

    monkeypatch.setattr(cleaning, "opened", opened)
    done = lead.ok("put", f"/yield-logs/{log['id']}/columns", {"version": 1, "columns": columns_of(log)})
    assert done["state"] == "cancelled"
    assert YieldLog.objects.get().result is None


def test_a_waiting_job_is_taken_out_at_once(lead: Api, placed: Answer) -> None:
    log = add_yield_log(lead, placed)
    job = Job.objects.get()
    Job.objects.filter(id=job.id).update(state="waiting", ended_at=None)
    assert lead.ok("post", f"/jobs/{job.id}/cancel")["state"] == "cancelled"
    assert jobs.take(job, "somebody:1") is None
    assert jobs.claim("somebody:1") is None
    job.refresh_from_db()
    assert job.state == "cancelled"
    assert lead.ok("get", f"/yield-logs/{log['id']}")["state"] == "done", "what was worked out before stays"


def test_work_whose_worker_died_is_taken_again_and_given_up_with_the_reason(lead: Api, placed: Answer) -> None:
    log = send_log(lead, placed, driven(lead, placed)).json()
    lead.ok("put", f"/yield-logs/{log['id']}/columns", {"version": 1, "columns": columns_of(log)})
    YieldLog.objects.update(result=None, result_hash="")
    Job.objects.update(state="running", worker="elsewhere:1", lease_until=timezone.now() - jobs.LEASE, tries=1, ended_at=None)
    assert lead.ok("get", f"/yield-logs/{log['id']}")["state"] == "waiting"
    taken = jobs.claim("here:2")
    assert taken is not None
    assert (taken.tries, taken.worker) == (2, "here:2")
    assert jobs.claim("here:3") is None, "nobody takes what somebody has"
    Job.objects.update(lease_until=timezone.now() - jobs.LEASE, tries=jobs.MOST_TRIES)
    assert jobs.claim("here:3") is None
    assert Job.objects.get().state == "failed"
    assert Job.objects.get().said == jobs.LOST.format(tries=jobs.MOST_TRIES)
    again = lead.ok("get", f"/yield-logs/{log['id']}")
    done = lead.ok("put", f"/yield-logs/{log['id']}/columns", {"version": again["version"], "columns": columns_of(again)})
    assert done["state"] == "done"


def test_a_worker_that_lost_its_lease_stores_nothing(lead: Api, placed: Answer, monkeypatch: pytest.MonkeyPatch) -> None:
    """It was thought dead, another has taken the work, and then it wakes."""
    log = send_log(lead, placed, driven(lead, placed)).json()
    really = cleaning.opened

    def opened(row: YieldLog) -> Any:
        Job.objects.update(worker="another:1")
        return really(row)

    monkeypatch.setattr(cleaning, "opened", opened)
    lead.ok("put", f"/yield-logs/{log['id']}/columns", {"version": 1, "columns": columns_of(log)})
    assert YieldLog.objects.get().result is None
    assert Job.objects.get().state == "running", "how it ends is for the one who has it now to say"


def test_a_fault_of_the_programs_own_is_said_and_nothing_is_kept(
    lead: Api, placed: Answer, monkeypatch: pytest.MonkeyPatch
) -> None:
    def broken(*_: object, **__: object) -> None:
        raise ZeroDivisionError

    monkeypatch.setattr("apps.field.logs.cleaning.clean", broken)
    log = send_log(lead, placed, driven(lead, placed)).json()
    done = lead.ok("put", f"/yield-logs/{log['id']}/columns", {"version": 1, "columns": columns_of(log)})
    assert done["state"] == "failed"
    assert "An error occurred" in done["said"]
    assert YieldLog.objects.get().result is None


# --- instruments ------------------------------------------------------------------------------------------------------


def test_the_simulated_scale_goes_the_way_of_a_real_one(lead: Api, placed: Answer) -> None:
    spoken = lead.ok("get", f"/trials/{placed['id']}/stand-ins/scale?strip=2&seed=7")
    read = lead.ok("post", f"/trials/{placed['id']}/instrument-lines", {"instrument": "scale", "lines": spoken["lines"]})
    assert float(read["text"]) == pytest.approx(float(spoken["truth"].split()[0]), abs=6)
    assert read["unit"] == "kg"
    answer = lead.refused(
        "post", f"/trials/{placed['id']}/instrument-lines", {"instrument": "scale", "lines": "t=1 weight=3 unit=kg motion=1"}
    )
    assert "at rest" in answer["message"]


def test_the_simulated_meter_repeats_with_an_error(lead: Api, placed: Answer) -> None:
    spoken = lead.ok("get", f"/trials/{placed['id']}/stand-ins/meter?moisture_pct=18&seed=7")
    read = lead.ok("post", f"/trials/{placed['id']}/instrument-lines", {"instrument": "meter", "lines": spoken["lines"]})
    assert float(read["text"]) == pytest.approx(18, abs=0.6)
    assert "mean of 3 ±" in read["words"]


@pytest.mark.parametrize("query", ["lag_s=400", "noise_pct=-3", "gain=9", "moisture_pct=0"])
def test_a_combine_that_cannot_be_is_refused(lead: Api, placed: Answer, query: str) -> None:
    assert lead.refused("get", f"/trials/{placed['id']}/stand-ins/combine?{query}")["code"] in ("too_large", "too_small")


def test_recorded_at_is_kept(lead: Api, placed: Answer) -> None:
    moment = now()
    log = send_log(lead, placed, driven(lead, placed), recorded_at=moment).json()
    assert log["recorded_at"][:16] == moment[:16]
