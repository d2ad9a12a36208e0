"""The verdict: from records through the core to sentences."""

from __future__ import annotations

from typing import Any
from uuid import uuid4

import pytest
from apps.analysis.verdict.models import Verdict
from cultrix_core.stats.compare import StripResponse, compare

from tests.server.conftest import Api, harvest_all, load_body, typed

Place = dict[str, Any]
GAIN = {"A": 1260, "B": 1140, "C": 1130}


def verdict(api: Api, trial: Place) -> Place:
    return api.ok("get", f"/trials/{trial['id']}/verdict")


def mark(api: Api, trial: Place, place: int, **body: Any) -> None:
    api.ok("patch", f"/strips/{trial['strips'][place]['id']}", {"lost": False, "sown_treatment_id": None, "reason": "x"} | body)


def yields_of(api: Api, trial: Place) -> dict[str, float]:
    fresh = api.ok("get", f"/trials/{trial['id']}")
    return {strip["id"]: strip["yield_"]["value"] for strip in fresh["strips"] if strip["yield_"] and not strip["lost"]}


def test_before_the_harvest_there_is_none(lead: Api, trial: Place) -> None:
    result = verdict(lead, trial)
    assert result["state"] == "none"
    assert result["yield_"] is None
    assert result["problem"]


def test_a_gain_in_words_and_money(lead: Api, trial: Place) -> None:
    harvest_all(lead, trial, GAIN)
    result = verdict(lead, trial)
    assert result["state"] == "judged"
    assert result["headline"].startswith("Against C (25 cm): A (12.5 cm) gains yield")
    assert "In money A (12.5 cm) returned" in result["money"]
    first = result["yield_"]["differences"][0]
    assert first["call"] == "gain"
    assert first["lower"]["value"] > 0
    assert "chance" not in first["call_words"]


def test_numbers_are_the_cores(lead: Api, trial: Place) -> None:
    """The screen's means, intervals, p and F are those of the core on the same strips, in t/ha."""
    harvest_all(lead, trial, GAIN)
    mark(lead, trial, 4, lost=True, reason="flooded")
    result = verdict(lead, trial)["yield_"]
    yields = yields_of(lead, trial)
    rows = [
        StripResponse(treatment=strip["treatment_id"], block=str(strip["block"]), response=yields[strip["id"]])
        for strip in trial["strips"]
        if strip["id"] in yields
    ]
    control = next(item["id"] for item in trial["treatments"] if item["is_control"])
    wanted = compare(rows, control=control, alpha=0.10, levels=[item["id"] for item in trial["treatments"]])
    assert len(rows) == 8
    for got, mean in zip(result["means"], wanted.means, strict=True):
        assert got["mean"]["value"] == pytest.approx(mean.mean)
        assert got["lower"]["value"] == pytest.approx(mean.lower)
        assert got["letters"] == mean.letters
    for row, difference in zip(result["differences"], wanted.to_control, strict=True):
        assert row["estimate"]["value"] == pytest.approx(difference.estimate)
        assert row["upper"]["value"] == pytest.approx(difference.upper)
        assert row["p_adjusted"] == f"{difference.p_adjusted:.4f}"
    test = next(term for term in wanted.anova if term.term == "treatment")
    shown = next(row for row in result["anova"] if row["source"] == "treatment")
    assert (shown["f"], shown["df"]) == (f"{test.f:.4f}", 2)
    assert next(row for row in result["anova"] if row["source"] == "residual")["df"] == 3


def test_lost_strips_are_listed_and_their_block_stays(lead: Api, trial: Place) -> None:
    mark(lead, trial, 4, lost=True, reason="flooded")
    harvest_all(lead, trial, GAIN)
    result = verdict(lead, trial)
    assert [(item["strip"], "flooded" in item["why"]) for item in result["left_out"]] == [(5, True)]
    assert next(row for row in result["yield_"]["anova"] if row["source"] == "block")["df"] == 2


def test_a_wrongly_sown_strip_counts_as_what_it_got(lead: Api, trial: Place) -> None:
    strip = trial["strips"][0]
    other = next(item for item in trial["treatments"] if item["id"] != strip["treatment_id"])
    mark(lead, trial, 0, sown_treatment_id=other["id"], reason="drill left on the last setting")
    harvest_all(lead, trial, GAIN)
    result = verdict(lead, trial)
    counts = {mean["treatment_id"]: mean["n"] for mean in result["yield_"]["means"]}
    assert counts[other["id"]] == 4
    assert counts[strip["treatment_id"]] == 2
    assert result["deviations"][0]["strip"] == 1
    labels = [item["label"] for item in result["alternates"]]
    assert labels[:2] == ["as planned, the deviation ignored", "the strips sown otherwise left out"]
    assert labels[2].startswith("strip "), "one strip stands far out: what it does to the answer is shown"


def test_an_unreplicated_look_gets_no_probability(lead: Api, trial: Place) -> None:
    path = f"/trials/{trial['id']}/layout"
    body = {
        "version": trial["version"],
        "design": "unreplicated",
        "blocks": 1,
        "strip_width": typed("6", "m"),
        "strip_length": typed("300", "m"),
    }
    look = lead.ok("post", path, body)
    harvest_all(lead, look, GAIN)
    result = verdict(lead, look)
    assert result["state"] == "description"
    assert result["headline"].startswith("A look, not a result")
    assert "chance" not in result["money"]
    for analysis in (result["yield_"], result["net_return"]):
        for row in analysis["differences"]:
            assert row["call"] is None
            assert (row["p"], row["lower"], row["chance"], row["settle"]) == (None, None, None, "")
        assert all(mean["lower"] is None and mean["letters"] is None for mean in analysis["means"])


def test_no_difference_that_matters_is_shown_not_assumed(lead: Api, trial: Place) -> None:
    """Equal yields with tiny scatter and a wide margin: the interval lies inside it."""
    lead.ok("patch", f"/trials/{trial['id']}", {"version": trial["version"], "price": typed("30", "money/t")})
    harvest_all(lead, trial, {"A": 1200, "B": 1200, "C": 1200}, spread=1)
    calls = {row["letter"]: row["call"] for row in verdict(lead, trial)["yield_"]["differences"]}
    assert calls["A"] == "no_difference_that_matters"


def test_cannot_tell_yet_says_what_it_would_take(lead: Api, trial: Place) -> None:
    harvest_all(lead, trial, {"A": 1200, "B": 1196, "C": 1190}, spread=40)
    row = verdict(lead, trial)["yield_"]["differences"][0]
    assert row["call"] == "cannot_tell_yet"
    assert "blocks" in row["settle"]
    assert "80 %" in row["settle"]


def test_a_yield_gain_that_loses_money_is_named(lead: Api, trial: Place) -> None:
    rows = [
        {
            "id": item["id"],
            "levels": [{"text": item["levels"][0]["text"], "unit": item["levels"][0]["unit"]}],
            "is_control": item["is_control"],
            "extra_cost": typed("" if item["is_control"] else "400", "money/ha"),
        }
        for item in trial["treatments"]
    ]
    lead.ok(
        "put",
        f"/trials/{trial['id']}/treatments",
        {"version": trial["version"], "factors": [{"kind": "row_spacing"}], "treatments": rows},
    )
    harvest_all(lead, trial, GAIN, spread=3)
    result = verdict(lead, trial)
    assert "raised yield and still lost money" in result["money"]


def test_net_return_is_worked_strip_by_strip(lead: Api, trial: Place) -> None:
    """Net of a strip = yield × (price − cost with yield) − extra cost; here (200 − 10) €/t and 20 €/ha on A."""
    harvest_all(lead, trial, GAIN)
    fresh = lead.ok("get", f"/trials/{trial['id']}")
    extra = {item["id"]: {"A": 20, "B": 10, "C": 0}[item["letter"]] for item in fresh["treatments"]}
    for strip in fresh["strips"]:
        assert strip["net_return"]["value"] == pytest.approx(190 * strip["yield_"]["value"] - extra[strip["received_id"]])
    result = verdict(lead, trial)["net_return"]
    raw = [item["value"]["value"] for mean in result["means"] for item in mean["raw"]]
    assert sorted(raw) == pytest.approx(sorted(strip["net_return"]["value"] for strip in fresh["strips"]))


def test_the_verdict_is_stored_and_follows_its_inputs(lead: Api, trial: Place) -> None:
    harvest_all(lead, trial, GAIN)
    first = verdict(lead, trial)
    assert verdict(lead, trial)["fingerprint"] == first["fingerprint"]
    assert Verdict.objects.count() == 1
    lead.ok("put", f"/trials/{trial['id']}/harvest-loads/{uuid4()}", load_body(trial["strips"][0], "900"))
    second = verdict(lead, trial)
    assert second["fingerprint"] != first["fingerprint"]
    assert second["yield_"]["means"] != first["yield_"]["means"]
    fresh = lead.ok("get", f"/trials/{trial['id']}")
    lead.ok("patch", f"/trials/{trial['id']}", {"version": fresh["version"], "alpha": 0.05})
    assert verdict(lead, trial)["yield_"]["level_pct"] == 95


def test_units_change_the_numbers_and_not_the_calls(lead: Api, trial: Place) -> None:
    harvest_all(lead, trial, GAIN)
    metric = verdict(lead, trial)
    lead.ok("patch", "/session", {"unit_system": "us"})
    us = verdict(lead, trial)
    assert us["yield_"]["unit"] == "bu/ac"
    for item, other in zip(metric["yield_"]["differences"], us["yield_"]["differences"], strict=True):
        assert other["estimate"]["value"] == pytest.approx(item["estimate"]["value"] * 1000 / 67.2510, rel=1e-4)
        assert (item["call"], item["p"]) == (other["call"], other["p"])


def test_every_number_has_its_working(lead: Api, trial: Place) -> None:
    harvest_all(lead, trial, GAIN)
    row = verdict(lead, trial)["yield_"]["differences"][0]
    labels = [step["label"] for step in row["working"]["steps"]]
    assert labels[0] == "Difference"
    assert any("interval" in label.lower() for label in labels)
    assert all(step["numbers"] and step["outcome"] for step in row["working"]["steps"])
    assert row["estimate"]["text"] in str(row["working"]["steps"][0]["outcome"])


def test_means_lines_and_money_have_their_workings_too(lead: Api, trial: Place) -> None:
    harvest_all(lead, trial, GAIN)
    result = verdict(lead, trial)
    for analysis in (result["yield_"], result["net_return"]):
        for mean in analysis["means"]:
            assert mean["working"]["outcome"] == mean["mean"]["text"]
        lines = {row["source"]: row["working"] for row in analysis["anova"]}
        assert lines["residual"] is None
        assert lines["treatment"]["steps"][1]["outcome"] == next(
            row["f"] for row in analysis["anova"] if row["source"] == "treatment"
        )
    for strip in lead.ok("get", f"/trials/{trial['id']}")["strips"]:
        steps = strip["net_return_working"]["steps"]
        assert steps[-1]["label"] == "Net return"
        assert strip["yield_"]["text"] in steps[1]["numbers"]


def test_a_treatment_that_lost_all_its_strips(lead: Api, trial: Place) -> None:
    gone = next(item for item in trial["treatments"] if item["letter"] == "B")
    for place, strip in enumerate(trial["strips"]):
        if strip["treatment_id"] == gone["id"]:
            mark(lead, trial, place, lost=True, reason="mice")
    harvest_all(lead, trial, GAIN)
    result = verdict(lead, trial)
    assert result["state"] == "judged"
    assert {mean["letter"] for mean in result["yield_"]["means"]} == {"A", "C"}
    assert any("B (18 cm) has no harvested strip" in remark for remark in result["remarks"])


def test_a_control_that_lost_all_its_strips(lead: Api, trial: Place) -> None:
    for place, strip in enumerate(trial["strips"]):
        if strip["treatment_id"] == trial["treatments"][2]["id"]:
            mark(lead, trial, place, lost=True, reason="mice")
    harvest_all(lead, trial, GAIN)
    result = verdict(lead, trial)
    assert result["headline"].startswith("No control with a harvested strip")
    assert result["yield_"]["differences"] == []
    assert len(result["yield_"]["means"]) == 2


def test_numbers_that_other_code_stored_are_made_anew(lead: Api, trial: Place, monkeypatch: pytest.MonkeyPatch) -> None:
    """An installation that is brought up to date never reads the shape of before, nor calls by the rule of before."""
    from apps.analysis.verdict import queries

    harvest_all(lead, trial, {"A": 1260, "B": 1140, "C": 1130})
    told = lead.ok("get", f"/trials/{trial['id']}/verdict")
    Verdict.objects.update(numbers={"yield": {"of": "before"}})
    monkeypatch.setattr(queries, "code_fingerprint", lambda: "another")
    again = lead.ok("get", f"/trials/{trial['id']}/verdict")
    assert again.pop("fingerprint") != told.pop("fingerprint")
    assert again == told
