"""What cannot be told apart: the call is withheld on screen, in report, ledger, money and package, with its sentence."""

from __future__ import annotations

from datetime import UTC, date, datetime
from typing import Any
from uuid import uuid4

import pytest
from apps.accounts.models import Workspace
from apps.trials.models import Trial

from tests.server.conftest import Api, add_drill, harvest_all, load_body, member, now, planting_body, typed

Place = dict[str, Any]
MAY, JUNE = date(2026, 5, 2), date(2026, 6, 9)


def at(day: date) -> str:
    return datetime(day.year, day.month, day.day, 9, tzinfo=UTC).isoformat()


def tillage_trial(api: Api, workspace: Workspace, blocks: int = 4) -> Place:
    """Cultivated and uncultivated strips side by side in four drawn blocks."""
    result = api.ok(
        "post", f"/workspaces/{workspace.id}/trials", {"title": "Cultivation", "crop": "winter_wheat", "season": 2026}
    )
    path = f"/trials/{result['id']}"
    result = api.ok(
        "patch",
        path,
        {
            "version": result["version"],
            "question": "Does cultivation pay?",
            "price": typed("200", "money/t"),
            "expected_yield": typed("7", "t/ha"),
        },
    )
    result = api.ok(
        "put",
        f"{path}/treatments",
        {
            "version": result["version"],
            "factors": [{"kind": "tillage"}],
            "treatments": [
                {"levels": [{"text": "cultivated", "unit": ""}], "is_control": False, "extra_cost": typed("60", "money/ha")},
                {"levels": [{"text": "not cultivated", "unit": ""}], "is_control": True, "extra_cost": typed("", "money/ha")},
            ],
        },
    )
    return api.ok(
        "post",
        f"{path}/layout",
        {
            "version": result["version"],
            "design": "rcbd",
            "blocks": blocks,
            "seed": 5,
            "strip_width": typed("6", "m"),
            "strip_length": typed("300", "m"),
        },
    )


def letters(trial: Place) -> dict[str, str]:
    return {treatment["id"]: treatment["letter"] for treatment in trial["treatments"]}


def sow(api: Api, trial: Place, days: dict[str, date], machines: dict[str, str], *, turned: int | None = None) -> None:
    """Sow every strip on the day and with the machine of its treatment; ``turned``: a strip that got the other day."""
    of = letters(trial)
    for strip in trial["strips"]:
        letter = of[strip["treatment_id"]]
        day = days[letter] if strip["order"] != turned else next(value for key, value in days.items() if key != letter)
        body = planting_body(strip, sown_at=at(day), recorded_at=at(day), machine_id=machines[letter])
        api.ok("put", f"/trials/{trial['id']}/planting-records/{uuid4()}", body)


@pytest.fixture
def cultivated(lead: Api, workspace: Workspace) -> Place:
    """The case: cultivated on 2 May with one drill, not cultivated on 9 June with another, 2 t/ha apart."""
    trial = tillage_trial(lead, workspace)
    drills = {"A": add_drill(lead, workspace, "Drill 3 m"), "B": add_drill(lead, workspace, "Old drill")}
    sow(lead, trial, {"A": MAY, "B": JUNE}, drills)
    harvest_all(lead, trial, {"A": 900, "B": 1270})
    return trial


def test_the_call_is_withheld_with_the_two_things_it_cannot_be_told_between(lead: Api, cultivated: Place) -> None:
    verdict = lead.ok("get", f"/trials/{cultivated['id']}/verdict")
    row = verdict["yield_"]["differences"][0]
    assert (row["call"], row["call_words"], row["chance"]) == (None, "no call: cannot be told apart", None)
    assert verdict["headline"].startswith("No call. A (cultivated) and B (not cultivated) cannot be told apart from")
    assert "the day of sowing: A (cultivated) had 2 May 2026, B (not cultivated) had 9 Jun 2026" in verdict["headline"]
    assert "the machine that sowed" in verdict["headline"]
    assert "same reason" in verdict["money"]
    assert "No call is made" in row["sentence"]
    tied = {item["against"]: item for item in verdict["confounded"]}
    assert tied["the day of sowing"]["kind"] == "identical"
    assert "on the same day" in tied["the day of sowing"]["remedy"]
    assert row["estimate"]["text"].startswith("−") or row["estimate"]["text"].startswith("-")


def test_report_ledger_money_and_package_withhold_it_too(lead: Api, workspace: Workspace, cultivated: Place) -> None:
    report = lead.client.get(f"/api/trials/{cultivated['id']}/report").content.decode()
    assert "cannot be told apart from the day of sowing" in report
    assert "told apart: each treatment in every block" in report
    entry = lead.ok("get", f"/workspaces/{workspace.id}/ledger")["entries"][0]
    assert (entry["standing"], entry["rank"], entry["call"]) == ("open", None, None)
    assert "cannot be told apart" in entry["said"]
    money = lead.ok("get", f"/trials/{cultivated['id']}/money")["comparisons"][0]
    assert money["call_words"] == "no call: cannot be told apart"
    assert (money["grid"], "cannot be told apart" in money["words"]) == ([], True)


@pytest.mark.parametrize(("blocks", "nearly"), [(4, False), (10, True)])
def test_one_strip_that_breaks_the_tie_leaves_a_call_and_where_it_is_nearly_tied_a_remark(
    lead: Api, workspace: Workspace, blocks: int, nearly: bool
) -> None:
    """All strips but one on their treatment's day. By hand: r² = (n − 1) ÷ (n + 1) for n strips each, so the variance is
    (n + 1) ÷ 2 times as large: 2.5 with four blocks, 5.5 with ten.
    """
    trial = tillage_trial(lead, workspace, blocks)
    drill = add_drill(lead, workspace)
    sow(lead, trial, {"A": MAY, "B": JUNE}, {"A": drill, "B": drill}, turned=3)
    harvest_all(lead, trial, {"A": 900, "B": 1270})
    verdict = lead.ok("get", f"/trials/{trial['id']}/verdict")
    assert verdict["yield_"]["differences"][0]["call"] == "loss"
    tied = [item for item in verdict["confounded"] if item["against"] == "the day of sowing"]
    assert [item["kind"] for item in tied] == (["nearly"] if nearly else [])
    assert any("nearly tied to the day of sowing" in remark for remark in verdict["remarks"]) == nearly
    if nearly:
        assert tied[0]["inflation"] == pytest.approx((blocks + 1) / 2)


def test_a_declared_machine_is_part_of_the_treatment_and_the_day_never_is(lead: Api, workspace: Workspace) -> None:
    trial = tillage_trial(lead, workspace)
    version = lead.ok("get", f"/trials/{trial['id']}")["version"]
    lead.ok("patch", f"/trials/{trial['id']}", {"version": version, "package": ["machine"]})
    drills = {"A": add_drill(lead, workspace, "Drill 3 m"), "B": add_drill(lead, workspace, "Old drill")}
    sow(lead, trial, {"A": MAY, "B": MAY}, drills)
    harvest_all(lead, trial, {"A": 900, "B": 1270})
    verdict = lead.ok("get", f"/trials/{trial['id']}/verdict")
    assert verdict["yield_"]["differences"][0]["call"] == "loss"
    assert any("another machine at sowing" in remark and "package" in remark for remark in verdict["remarks"])
    refused = lead.refused("patch", f"/trials/{trial['id']}", {"version": version + 1, "package": ["sowing_day"]})
    assert "harvest_day" in refused["message"]


def test_the_package_is_frozen_with_the_protocol(lead: Api, workspace: Workspace) -> None:
    trial = tillage_trial(lead, workspace)
    path = f"/trials/{trial['id']}"
    version = lead.ok("get", path)["version"]
    saved = lead.ok("patch", path, {"version": version, "package": ["inputs", "machine"]})
    assert saved["package"] == ["machine", "inputs"]
    frozen = lead.ok("post", f"{path}/protocol")
    content = dict(frozen["protocol"]["content"])
    assert content["belongs to the treatment"] == "another machine at sowing; other inputs in the season"
    refused = lead.refused("patch", path, {"version": frozen["version"], "package": []}, status=409)
    assert "belongs to the treatment" in refused["message"]


def test_a_trial_of_sowing_dates_names_the_day_as_its_treatment(lead: Api, workspace: Workspace) -> None:
    """From question to verdict: dates as levels, each strip on its own day, a call, and a remark of what it is of."""
    fresh = lead.ok(
        "post", f"/workspaces/{workspace.id}/trials", {"title": "Sowing date", "crop": "winter_wheat", "season": 2026}
    )
    path = f"/trials/{fresh['id']}"
    fresh = lead.ok(
        "patch", path, {"version": fresh["version"], "question": "Early or late?", "expected_yield": typed("7", "t/ha")}
    )
    fresh = lead.ok(
        "put",
        f"{path}/treatments",
        {
            "version": fresh["version"],
            "factors": [{"kind": "sowing_date"}],
            "treatments": [
                {"levels": [{"text": name, "unit": ""}], "is_control": control, "extra_cost": typed("", "money/ha")}
                for name, control in (("early May", True), ("June", False))
            ],
        },
    )
    assert fresh["factors"][0]["title"] == "Sowing date"
    fresh = lead.ok(
        "post",
        f"{path}/layout",
        {
            "version": fresh["version"],
            "design": "rcbd",
            "blocks": 4,
            "seed": 5,
            "strip_width": typed("6", "m"),
            "strip_length": typed("300", "m"),
        },
    )
    drill = add_drill(lead, workspace)
    sow(lead, fresh, {"A": MAY, "B": JUNE}, {"A": drill, "B": drill})
    harvest_all(lead, fresh, {"A": 1270, "B": 900})
    verdict = lead.ok("get", f"{path}/verdict")
    assert verdict["yield_"]["differences"][0]["call"] == "loss"
    assert any("day of sowing is the treatment" in remark for remark in verdict["remarks"])
    assert lead.ok("get", path)["belongings"][0]["words"] == "another day of sowing"


def test_weighing_each_treatment_by_another_person_withholds_the_call(lead: Api, workspace: Workspace) -> None:
    trial = tillage_trial(lead, workspace)
    other = member("berit", workspace, "field_hand")
    of = letters(trial)
    for strip in trial["strips"]:
        api, net = (lead, "900") if of[strip["treatment_id"]] == "A" else (other, "1270")
        body = load_body(strip, str(int(net) + 3 * strip["order"]), recorded_at=now())
        api.ok("put", f"/trials/{trial['id']}/harvest-loads/{uuid4()}", body)
    verdict = lead.ok("get", f"/trials/{trial['id']}/verdict")
    assert verdict["yield_"]["differences"][0]["call"] is None
    assert "the person at the scale" in verdict["headline"]
    assert Trial.objects.count() == 1


def test_a_series_leaves_out_the_year_that_cannot_be_told_apart(lead: Api, workspace: Workspace) -> None:
    """Three years of the same question, one of them sown on two days: two are combined, the third is named."""
    drill = add_drill(lead, workspace)
    trials = []
    for season, later in ((2024, MAY), (2025, MAY), (2026, JUNE)):
        trial = tillage_trial(lead, workspace)
        version = lead.ok("get", f"/trials/{trial['id']}")["version"]
        lead.ok("patch", f"/trials/{trial['id']}", {"version": version, "season": season, "series": "Cultivation"})
        sow(lead, trial, {"A": MAY, "B": later}, {"A": drill, "B": drill})
        harvest_all(lead, trial, {"A": 1000 + season % 7 * 10, "B": 1100})
        trials.append(trial)
    series = lead.ok("get", f"/trials/{trials[0]['id']}/series")
    assert len(series["alone"]) == 2
    assert "2026" in series["remarks"][0]
    assert "Left out" in series["remarks"][0]


def test_a_curve_is_withheld_as_soon_as_its_rates_are_tied_to_the_day(lead: Api, workspace: Workspace) -> None:
    """The curve is remembered by its yields; a record of sowing that comes later must not wait for that memory to end."""
    trial = lead.ok("post", f"/workspaces/{workspace.id}/trials", {"title": "Rates", "crop": "winter_wheat", "season": 2026})
    path = f"/trials/{trial['id']}"
    trial = lead.ok(
        "patch", path, {"version": trial["version"], "question": "Which rate?", "expected_yield": typed("7", "t/ha")}
    )
    rows = [{"levels": [typed(rate, "/m2")], "is_control": rate == "300"} for rate in ("220", "300", "380")]
    body = {"version": trial["version"], "factors": [{"kind": "seeding_rate"}], "treatments": rows}
    trial = lead.ok("put", f"{path}/treatments", body)
    size = {"strip_width": typed("6", "m"), "strip_length": typed("300", "m"), "seed": 5}
    trial = lead.ok("post", f"{path}/layout", {"version": trial["version"], "design": "rcbd", "blocks": 4} | size)
    harvest_all(lead, trial, {"A": 1000, "B": 1100, "C": 1090})
    assert "cannot be told apart" not in lead.ok("get", f"{path}/verdict")["headline"]
    drill = add_drill(lead, workspace)
    sow(lead, trial, {"A": MAY, "B": JUNE, "C": JUNE}, dict.fromkeys("ABC", drill))
    assert "cannot be told apart from the day of sowing" in lead.ok("get", f"{path}/verdict")["headline"]
