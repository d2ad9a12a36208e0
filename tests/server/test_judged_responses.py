"""A trial judged by what its plan records instead of yield: frozen with its margin, called, told everywhere."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any

import pytest
from apps.accounts.models import Workspace

from tests.server.conftest import Api, harvest_all, load_body, measure_body, member, rating_body, typed
from tests.server.test_strip_clock import MAY, at, counted, daily_counts, letters, put, sown

Place = dict[str, Any]


def judged_by(api: Api, trial: Place, key: str, margin: Place | None = None) -> Place:
    version = api.ok("get", f"/trials/{trial['id']}")["version"]
    body = {"version": version, "primary_response": key} | ({"response_margin": margin} if margin else {})
    return api.ok("patch", f"/trials/{trial['id']}", body)


def differences(api: Api, trial: Place) -> dict[str, Place]:
    verdict = api.ok("get", f"/trials/{trial['id']}/verdict")
    return {row["letter"]: row for row in verdict["judged"]["differences"]}


def test_a_stand_is_called_over_strips_with_its_margin_in_its_own_unit(lead: Api, trial: Place) -> None:
    """Two counts a strip are subsamples: 4 degrees of freedom with three treatments in three blocks. Means by hand."""
    saved = judged_by(lead, trial, "stand", typed("10", "/m2"))
    assert (saved["response_name"], saved["response_margin"]["shown"]) == ("Stand", "10.0 /m²")
    of, base = letters(trial), {"A": 260, "B": 203, "C": 200}
    means: dict[str, list[float]] = {}
    for strip in trial["strips"]:
        for place in range(2):
            counted(lead, trial, strip, MAY, base[of[strip["treatment_id"]]] + 2 * (strip["order"] % 3) + 4 * place)
        means.setdefault(of[strip["treatment_id"]], []).append(base[of[strip["treatment_id"]]] + 2 * (strip["order"] % 3) + 2)
    rows = differences(lead, trial)
    verdict = lead.ok("get", f"/trials/{trial['id']}/verdict")
    assert verdict["yield_"] is None
    assert verdict["state"] == "judged"
    assert rows["A"]["call"] == "gain"
    expected = sum(means["A"]) / 3 - sum(means["C"]) / 3
    assert rows["A"]["estimate"]["value"] == pytest.approx(expected, abs=0.2)
    assert "more stand than C (25 cm)" in rows["A"]["sentence"]
    assert rows["B"]["call"] == "no_difference_that_matters"
    assert verdict["headline"].startswith("Stand: A (12.5 cm) has")
    assert next(row for row in verdict["judged"]["anova"] if row["source"] == "residual")["df"] == 4
    report = lead.client.get(f"/api/trials/{trial['id']}/report").content.decode()
    assert "has" in report
    assert "judged by stand" in report.lower()


def test_the_ledger_names_the_response_and_keeps_it_out_of_the_ranking(lead: Api, trial: Place, workspace: Workspace) -> None:
    judged_by(lead, trial, "measure:height", typed("2", "cm"))
    of = letters(trial)
    for strip in trial["strips"]:
        value = {"A": 50, "B": 41, "C": 40}[of[strip["treatment_id"]]] + strip["order"] % 3
        put(lead, trial, "plant-measures", measure_body(strip, value=typed(str(value), "cm"), recorded_at=at(MAY)))
    entries = [
        item for item in lead.ok("get", f"/workspaces/{workspace.id}/ledger")["entries"] if item["trial_id"] == trial["id"]
    ]
    assert {entry["rank"] for entry in entries} == {None}
    first = next(entry for entry in entries if entry["name"].startswith("A "))
    assert (first["call"], first["standing"]) == ("gain", "open")
    assert first["said"].startswith("Judged by height: +")


def test_yield_is_described_where_another_response_was_frozen(lead: Api, trial: Place) -> None:
    judged_by(lead, trial, "stand", typed("10", "/m2"))
    for strip in trial["strips"]:
        counted(lead, trial, strip, MAY, 200 + 3 * (strip["order"] % 4))
    harvest_all(lead, trial, {"A": 1250, "B": 1100, "C": 1000})
    verdict = lead.ok("get", f"/trials/{trial['id']}/verdict")
    row = verdict["yield_"]["differences"][0]
    assert (row["call"], row["call_words"], row["chance"]) == (None, "described", None)
    assert "Described, not called: the trial is judged by stand" in row["sentence"]
    assert verdict["headline"].startswith(("Stand", "Not clear yet in stand"))


def test_days_to_half_emergence_of_strips_sown_on_other_days(lead: Api, trial: Place) -> None:
    """Same time on each strip's own clock: no difference that matters within a day, though sowings lie ten days apart."""
    judged_by(lead, trial, "half_emergence", typed("1", "d"))
    daily_counts(lead, trial, final={"A": 165, "B": 240, "C": 165})
    version = lead.ok("get", f"/trials/{trial['id']}")["version"]
    rows = differences(lead, trial)
    assert rows["A"]["call"] == "no_difference_that_matters"
    assert rows["B"]["call"] is None, "B was sown on another day than the others, which was not declared"
    assert "cannot be told apart from the day of sowing" in rows["B"]["sentence"]
    assert version > 1


def test_emergence_as_a_share_has_the_logit_analysis_beside(lead: Api, trial: Place) -> None:
    """Odds ratios by hand from the strips' empirical logits: half a square metre of 320 seeds/m² is 160 seeds."""
    judged_by(lead, trial, "emerged", typed("5", "%"))
    of = letters(trial)
    for strip in trial["strips"]:
        sown(lead, trial, strip, MAY)
        stand = {"A": 280, "B": 220, "C": 220}[of[strip["treatment_id"]]] + 2 * (strip["order"] % 3)
        counted(lead, trial, strip, MAY + timedelta(days=20), stand)
    verdict = lead.ok("get", f"/trials/{trial['id']}/verdict")
    told = next(words for words in verdict["judged"]["second_looks"] if "logit" in words)
    assert "seeds sown" in told
    # 280 of 320 against 220 of 320: odds 7 against 2.2, so a ratio near 3.2
    ratio = float(told.split("A (12.5 cm) against C (25 cm): ")[1].split()[0])
    assert ratio == pytest.approx((280 / 40) / (220 / 100), rel=0.08)


def test_a_rating_and_a_bulb_weight_may_decide(lead: Api, trial: Place) -> None:
    judged_by(lead, trial, "piece_weight", typed("5", "g"))
    of = letters(trial)
    for strip in trial["strips"]:
        net = {"A": 90, "B": 60, "C": 60}[of[strip["treatment_id"]]] + strip["order"] % 3
        body = load_body(strip, str(net), pieces=typed("1000"), recorded_at=at(date(2026, 8, 1)))
        put(lead, trial, "harvest-loads", body)
    rows = differences(lead, trial)
    assert (rows["A"]["call"], rows["A"]["estimate"]["value"]) == ("gain", pytest.approx(30, abs=1.5))
    judged_by(lead, trial, "rating:vigour", typed("1"))
    for strip in trial["strips"]:
        score = {"A": 8, "B": 5, "C": 5}[of[strip["treatment_id"]]]
        put(lead, trial, "ratings", rating_body(strip, trait="vigour", score=score + strip["order"] % 2, recorded_at=at(MAY)))
    assert differences(lead, trial)["A"]["call"] == "gain"


def test_a_response_that_is_not_recorded_and_one_that_is_unknown(lead: Api, trial: Place) -> None:
    judged_by(lead, trial, "measure:height", typed("2", "cm"))
    verdict = lead.ok("get", f"/trials/{trial['id']}/verdict")
    assert verdict["problem"] == "Judged by height: nothing of it is recorded yet."
    version = lead.ok("get", f"/trials/{trial['id']}")["version"]
    path = f"/trials/{trial['id']}"
    assert lead.refused("patch", path, {"version": version, "primary_response": "taste"})["field"] == "primary_response"
    wrong = {"version": version, "response_margin": typed("2", "kg")}
    assert lead.refused("patch", path, wrong)["field"] in ("unit", "response_margin")
    kept = lead.ok("get", path)
    assert (kept["primary_response"], kept["response_margin"]["text"]) == ("measure:height", "2")
    changed = judged_by(lead, trial, "stand")
    assert changed["response_margin"]["text"] == "", "a margin in centimetres is none of a stand"


def test_counting_each_treatment_by_another_person_withholds_the_call(lead: Api, trial: Place, workspace: Workspace) -> None:
    judged_by(lead, trial, "stand", typed("10", "/m2"))
    other, of = member("berit", workspace, "field_hand"), letters(trial)
    for strip in trial["strips"]:
        letter = of[strip["treatment_id"]]
        counted(
            other if letter == "A" else lead, trial, strip, MAY, {"A": 260, "B": 200, "C": 205}[letter] + strip["order"] % 3
        )
    rows = differences(lead, trial)
    assert rows["A"]["call"] is None
    assert "the person counting" in rows["A"]["sentence"]
    assert rows["B"]["call"] is not None


def test_the_response_and_its_margin_are_frozen(lead: Api, trial: Place) -> None:
    judged_by(lead, trial, "measure:height", typed("2", "cm"))
    frozen = lead.ok("post", f"/trials/{trial['id']}/protocol")
    content = dict(frozen["protocol"]["content"])
    assert (content["primary response"], content["margin of the response"]) == ("Height", "2 cm")
    body = {"version": frozen["version"], "primary_response": "stand"}
    assert "primary response" in lead.refused("patch", f"/trials/{trial['id']}", body, status=409)["message"]


def test_rating_each_treatment_by_another_person_withholds_the_call(lead: Api, trial: Place, workspace: Workspace) -> None:
    judged_by(lead, trial, "rating:vigour", typed("1"))
    other, of = member("berit", workspace, "field_hand"), letters(trial)
    for strip in trial["strips"]:
        letter = of[strip["treatment_id"]]
        body = rating_body(
            strip, trait="vigour", score={"A": 7, "B": 4, "C": 4}[letter] + strip["order"] % 2, recorded_at=at(MAY)
        )
        put(other if letter == "A" else lead, trial, "ratings", body)
    rows = differences(lead, trial)
    assert rows["A"]["call"] is None
    assert "the person rating" in rows["A"]["sentence"]
