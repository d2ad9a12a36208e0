"""Samples of yield through the API: drawn, typed, asked about, estimated, compared, and held against the harvest."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import uuid4

import pytest
from apps.field.samples.models import EstimateSetting, GrainSample, YieldSample
from apps.field.stand.models import SamplingPlan
from apps.trials.models import Trial
from cultrix_core.estimate.drawn import drawn_pieces

from tests.server.conftest import (
    Api,
    grain_body,
    harvest_all,
    heads_body,
    load_body,
    typed,
    yield_plan_body,
)

Place = dict[str, Any]


def put(api: Api, trial: Place, kind: str, body: dict[str, Any], record_id: str = "") -> Any:
    return api.ok("put", f"/trials/{trial['id']}/{kind}/{record_id or uuid4()}", body)


def refused(api: Api, trial: Place, body: dict[str, Any], kind: str = "yield-samples") -> dict[str, Any]:
    return api.refused("put", f"/trials/{trial['id']}/{kind}/{uuid4()}", body)


def estimates(api: Api, trial: Place) -> Any:
    return api.ok("get", f"/trials/{trial['id']}/estimates")


def draw(api: Api, trial: Place, **more: Any) -> Any:
    return put(api, trial, "sampling-plans", yield_plan_body(**more))


def ago(days: int) -> str:
    return (datetime.now(UTC) - timedelta(days=days)).isoformat()


def sample_all(api: Api, trial: Place, heads: dict[str, tuple[int, int]], **more: Any) -> None:
    """Two places on every strip, three days ago; ``heads`` by letter."""
    plan = draw(api, trial)
    more = {"recorded_at": ago(3)} | more
    letters = {item["id"]: item["letter"] for item in trial["treatments"]}
    for strip in trial["strips"]:
        for place, number in enumerate(heads[letters[strip["received_id"]]], start=1):
            body = heads_body(strip, number=str(number + strip["order"] % 3), plan_id=plan["id"], place=place, **more)
            put(api, trial, "yield-samples", body)


def of_crop(trial: Place, crop: str) -> None:
    Trial.objects.filter(pk=trial["id"]).update(crop=crop)


def test_a_sample_is_reckoned_and_kept_as_typed(lead: Api, trial: Place) -> None:
    """27 heads on 0.0625 m² × 16 × 2.1 seeds × 41 g ÷ 100 = 5952 kg/ha (definition; the usual weight of the crop)."""
    kept = put(lead, trial, "yield-samples", heads_body(trial["strips"][0]))
    assert kept["words"] == "27 counted, 5 heads measured, 5.95 t/ha"
    assert kept["by_eye"]  # no plan drew the place
    assert kept["pieces"][1] == {"groups": "16", "seeds_each": "2.3"}
    result = estimates(lead, trial)
    row = next(item for item in result["strips"] if item["strip_id"] == trial["strips"][0]["id"])
    assert row["estimate"]["value"]["value"] == pytest.approx(27 / 0.0625 * 16 * 2.1 * 41 / 100 / 1000)
    assert row["estimate"]["lower"]["value"] < row["estimate"]["value"]["value"] < row["estimate"]["upper"]["value"]
    assert "taken by eye alone" in " ".join(result["words"])
    shown = lead.ok("get", f"/trials/{trial['id']}")
    assert shown["strips"][0]["estimate"]["text"] == row["estimate"]["value"]["text"]
    assert next(item for item in shown["stages"] if item["key"] == "estimate")["state"] == "partly"


def test_the_same_post_twice_is_one_sample_and_an_edit_names_its_version(lead: Api, trial: Place) -> None:
    sample_id, body = str(uuid4()), heads_body(trial["strips"][0])
    put(lead, trial, "yield-samples", body, sample_id)
    put(lead, trial, "yield-samples", body, sample_id)
    assert YieldSample.objects.count() == 1
    changed = put(lead, trial, "yield-samples", body | {"number": "29", "version": 1}, sample_id)
    assert (changed["version"], changed["number"]) == (2, 29)
    stale = lead.refused("put", f"/trials/{trial['id']}/yield-samples/{sample_id}", body | {"version": 1}, status=409)
    assert "changed elsewhere" in stale["message"]


def test_a_voided_sample_leaves_the_estimate_and_stays_in_the_base(lead: Api, trial: Place) -> None:
    kept = put(lead, trial, "yield-samples", heads_body(trial["strips"][0]))
    lead.ok("post", f"/records/yield-sample/{kept['id']}/void", {"voided": True, "reason": "wrong row", "version": 1})
    assert estimates(lead, trial)["answer"] == "No strip sampled yet"
    assert YieldSample.objects.get(pk=kept["id"]).void_reason == "wrong row"
    lead.ok("post", f"/records/yield-sample/{kept['id']}/void", {"voided": False, "reason": "", "version": 2})
    assert estimates(lead, trial)["answer"].startswith("1 of 9 strips sampled")


@pytest.mark.parametrize(
    ("change", "field", "words"),
    [
        ({"number": ""}, "number", "missing"),
        ({"number": "2x"}, "number", "whole number"),
        ({"number": "3"}, "pieces", "Count again"),
        ({"pieces": []}, "pieces", "at least one head"),
        ({"pieces": [{"groups": "16", "seeds_each": "2,1,3"}]}, "pieces", "Head 1"),
        ({"pieces": [{"groups": "16", "seeds_each": "2.1"}, {"groups": "16"}]}, "pieces", "Head 2"),
        ({"pieces": [{"groups": "16.5", "seeds_each": "2.1"}]}, "groups", "whole number"),
        ({"pieces": [{"groups": "-16", "seeds_each": "2.1"}]}, "groups", "at least 1"),
        ({"pieces": [{"seeds_each": "nan"}]}, "pieces", "number"),
        ({"length": typed("")}, "length", "no area"),
        ({"length": typed("0", "m")}, "length", "more than 0"),
        ({"row_spacing": typed("12.5", "furlong")}, "row_spacing", "furlong"),
        ({"rows": "0"}, "rows", "at least 1"),
        ({"area": typed("4000", "m2")}, "area", "at most 200"),
        ({"method": "forage"}, "area", "area of the frame"),
        ({"plan_id": str(uuid4())}, "plan_id", "plans of this trial"),
        (
            {"method": "residue", "area": typed("1", "m2"), "values": {"gross": "300"}, "units": {"gross": "g"}},
            "phase",
            "Choose",
        ),
        (
            {"method": "residue", "area": typed("1", "m2"), "values": {"phase": "during", "gross": "300"}},
            "phase",
            "not known",
        ),
    ],
)
def test_bad_samples_are_refused_by_the_entry(lead: Api, trial: Place, change: dict[str, Any], field: str, words: str) -> None:
    answer = refused(lead, trial, heads_body(trial["strips"][0]) | change)
    assert answer["field"] == field
    assert words in answer["message"]
    assert not YieldSample.objects.exists()


def test_a_method_nobody_knows_and_too_many_pieces(lead: Api, trial: Place) -> None:
    assert refused(lead, trial, heads_body(trial["strips"][0], method="horoscope"))["code"] == "malformed"
    many = [{"seeds_each": "30"}] * 61
    assert refused(lead, trial, heads_body(trial["strips"][0], number="200", pieces=many))["field"] == "pieces"


def test_places_and_pieces_are_drawn_for_ever(lead: Api, trial: Place) -> None:
    plan = draw(lead, trial)
    result = estimates(lead, trial)
    assert (result["plan"]["id"], result["pieces"], result["method"]) == (plan["id"], 5, "heads")
    first = result["strips"][0]["places"]
    assert [item["number"] for item in first if not item["extra"]] == [1, 2]
    assert estimates(lead, trial)["strips"][0]["places"] == first
    taken = drawn_pieces(counted=27, wanted=5, start=first[0]["start"])
    assert len(taken) == 5
    starts = {place["start"] for strip in result["strips"] for place in strip["places"]}
    assert len(starts) == sum(len(strip["places"]) for strip in result["strips"])
    # the stand keeps its own plans
    assert lead.ok("get", f"/trials/{trial['id']}/stand")["plan"] is None


def test_a_plan_that_was_sampled_keeps_its_places(lead: Api, trial: Place) -> None:
    plan = draw(lead, trial)
    put(lead, trial, "yield-samples", heads_body(trial["strips"][0], plan_id=plan["id"], place=1))
    path = f"/trials/{trial['id']}/sampling-plans/{plan['id']}"
    other = lead.refused("put", path, yield_plan_body(pieces=8, version=1), status=409)
    assert "another plan" in other["message"]
    renamed = lead.ok("put", path, yield_plan_body(name="Second look", version=1))
    assert renamed["name"] == "Second look"
    beyond = heads_body(trial["strips"][0], plan_id=plan["id"], place=9)
    assert refused(lead, trial, beyond)["field"] == "place"


def test_a_plan_without_numbers_takes_the_methods_own(lead: Api, trial: Place) -> None:
    plan = draw(lead, trial, planned=None, pieces=None)
    assert SamplingPlan.objects.get(pk=plan["id"]).pieces == 5
    assert plan["planned"] == 3
    unknown = lead.refused("put", f"/trials/{trial['id']}/sampling-plans/{uuid4()}", yield_plan_body(method="guess"))
    assert unknown["field"] == "method"


def test_nine_of_ten_is_asked_and_taken(lead: Api, trial: Place) -> None:
    plan = draw(lead, trial)
    body = heads_body(trial["strips"][0], plan_id=plan["id"], place=1)
    short = put(lead, trial, "yield-samples", body | {"pieces": body["pieces"][:4]})
    assert [item["code"] for item in short["questions"]] == ["not_all"]
    assert not short["by_eye"]
    assert estimates(lead, trial)["strips"][0]["estimate"]["pieces"] == 4


def test_treatments_are_compared_over_strips(lead: Api, trial: Place) -> None:
    sample_all(lead, trial, {"A": (30, 33), "B": (27, 30), "C": (24, 27)})
    result = estimates(lead, trial)
    assert (result["honest_df"], result["pooled_df"]) == (4, 4 + 9)
    by_letter = {item["id"]: item["letter"] for item in trial["treatments"]}
    rows = {by_letter[item["treatment_id"]]: item for item in result["treatments"]}
    values: dict[str, list[float]] = {}
    for strip in trial["strips"]:
        estimate = next(item["estimate"] for item in result["strips"] if item["strip_id"] == strip["id"])
        values.setdefault(by_letter[strip["received_id"]], []).append(estimate["value"]["value"])
    for letter, own in values.items():
        assert rows[letter]["mean"]["value"] == pytest.approx(sum(own) / 3)
    assert rows["A"]["difference"]["value"] > 0
    assert rows["A"]["difference_lower"]["value"] < rows["A"]["difference"]["value"] < rows["A"]["difference_upper"]["value"]
    assert rows["C"]["difference"] is None  # the control
    # the interval of the mean holds the grain weight as well, which a difference of treatments shares
    width = rows["A"]["upper"]["value"] - rows["A"]["lower"]["value"]
    weighed = lead.ok("put", f"/trials/{trial['id']}/grain-samples/{uuid4()}", grain_body())
    assert weighed["weight"]["value"] == pytest.approx(42.469, abs=1e-3)
    again = {by_letter[item["treatment_id"]]: item for item in estimates(lead, trial)["treatments"]}
    assert again["A"]["upper"]["value"] - again["A"]["lower"]["value"] < width
    stage = next(item for item in lead.ok("get", f"/trials/{trial['id']}")["stages"] if item["key"] == "estimate")
    assert (stage["state"], stage["note"]) == ("done", "9 of 9 strips sampled")


def test_the_widest_strip_is_told_how_to_narrow_it(lead: Api, trial: Place) -> None:
    sample_all(lead, trial, {"A": (30, 33), "B": (27, 30), "C": (24, 27)})
    result = estimates(lead, trial)
    widest = max(result["strips"], key=lambda item: item["estimate"]["half_pct"])
    assert all(way["half_pct"] < widest["estimate"]["half_pct"] for way in result["narrow"])
    assert f"on strip {result['narrow_strip']}" in " ".join(way["words"] for way in result["narrow"])
    assert sum(part["share_pct"] for part in widest["estimate"]["parts"]) == pytest.approx(100)


def test_samples_by_eye_stand_beside_the_drawn_ones(lead: Api, trial: Place) -> None:
    plan = draw(lead, trial)
    strip = trial["strips"][0]
    drawn = put(lead, trial, "yield-samples", heads_body(strip, plan_id=plan["id"], place=1))
    before = estimates(lead, trial)["strips"][0]["estimate"]["value"]["value"]
    fat = [{"groups": "20", "seeds_each": "2.8"}] * 5
    put(lead, trial, "yield-samples", heads_body(strip, plan_id=plan["id"], by_eye=True, pieces=fat))
    result = estimates(lead, trial)
    assert result["strips"][0]["estimate"]["value"]["value"] == pytest.approx(before)
    assert result["by_eye"] == 1
    assert result["eye"]["over_pct"] == pytest.approx(100 * (20 * 2.8 / (16 * 2.1) - 1))
    assert result["eye"]["lower_pct"] is None
    assert "1 sample taken by eye" in " ".join(result["words"])
    assert not drawn["by_eye"]
    picking = lead.ok("get", f"/trials/{trial['id']}/estimates/picking")
    assert picking["drawn_mean"] == pytest.approx(100, abs=1.5)
    assert picking["picked_mean"] > 103
    assert not picking["own_cv"]


def test_grain_weight_comes_from_the_best_that_is_known(lead: Api, trial: Place) -> None:
    draw(lead, trial)
    assert estimates(lead, trial)["grain"]["known"] == "range"
    earlier = lead.ok(
        "post", f"/workspaces/{trial['workspace_id']}/trials", {"title": "x", "crop": "winter_wheat", "season": 2024}
    )
    put(lead, earlier, "grain-samples", grain_body(mass=typed("20", "g"), moisture=typed("13.5", "%")))
    past = estimates(lead, trial)["grain"]
    assert (past["known"], past["mean"]["value"]) == ("past", pytest.approx(40))
    put(lead, trial, "grain-samples", grain_body())
    own = estimates(lead, trial)["grain"]
    assert (own["known"], own["mean"]["value"]) == ("weighed", pytest.approx(42.469, abs=1e-3))
    other = lead.ok("post", f"/workspaces/{trial['workspace_id']}/trials", {"title": "y", "crop": "maize", "season": 2026})
    assert lead.ok("get", f"/trials/{other['id']}/estimates")["grain"]["factor"].startswith("factor 0.01100")


def test_grain_is_weighed_by_treatment_only_when_all_are(lead: Api, trial: Place) -> None:
    sample_all(lead, trial, {"A": (30, 33), "B": (27, 30), "C": (24, 27)})
    seen = set()
    for number, strip in enumerate(trial["strips"]):
        if strip["received_id"] in seen:
            continue
        seen.add(strip["received_id"])
        before = estimates(lead, trial)["strips"][0]["estimate"]["value"]["value"]
        mass = typed(f"{20 + 2 * number}", "g")
        put(lead, trial, "grain-samples", grain_body(strip_id=strip["id"], mass=mass, moisture=typed("13.5", "%")))
    result = estimates(lead, trial)
    assert not any("taken alike" in text for text in result["words"])
    assert result["strips"][0]["estimate"]["value"]["value"] != pytest.approx(before)


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"seeds": "0"}, "seeds"),
        ({"seeds": "-4"}, "seeds"),
        ({"mass": typed("")}, "mass"),
        ({"mass": typed("0", "g")}, "mass"),
        ({"moisture": typed("120", "%")}, "moisture"),
        ({"mass": typed("abc", "g")}, "mass"),
    ],
)
def test_bad_grain_samples_are_refused(lead: Api, trial: Place, change: dict[str, Any], field: str) -> None:
    assert refused(lead, trial, grain_body() | change, "grain-samples")["field"] == field
    assert not GrainSample.objects.exists()


@pytest.mark.parametrize(
    ("change", "code"),
    [
        ({"seeds": "40", "mass": typed("1.7", "g")}, "few_seeds"),
        ({"moisture": typed("")}, "no_moisture"),
        ({"moisture": typed("48", "%")}, "still_filling"),
        ({"mass": typed("224", "g")}, "odd_weight"),
    ],
)
def test_odd_grain_samples_are_asked_about(lead: Api, trial: Place, change: dict[str, Any], code: str) -> None:
    assert code in {item["code"] for item in put(lead, trial, "grain-samples", grain_body() | change)["questions"]}


SETTING = {
    "method": "heads",
    "places": 4,
    "pieces": 8,
    "stressed": typed("34", "g/1000"),
    "usual": typed("44", "g/1000"),
    "excellent": typed("52", "g/1000"),
    "source": "our own threshing",
}


def test_a_workspace_estimates_its_own_way(lead: Api, trial: Place) -> None:
    path = f"/trials/{trial['id']}/estimate-setting"
    set_ = lead.ok("put", path, SETTING)
    assert set_["setting"]["own"]
    assert (set_["setting"]["places"], set_["setting"]["pieces"]) == (4, 8)
    assert set_["grain"]["mean"]["value"] == 44
    assert "our own threshing" in set_["grain"]["words"]
    empty = typed("", "")
    back = lead.ok("put", path, {"stressed": empty, "usual": empty, "excellent": empty})
    assert (back["grain"]["mean"]["value"], back["setting"]["places"]) == (41, 3)


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"source": ""}, "source"),
        ({"usual": typed("")}, "usual"),
        ({"usual": typed("60", "g/1000")}, "usual"),
        ({"places": 0}, "places"),
        ({"pieces": 400}, "pieces"),
        ({"stressed": typed("x", "g/1000")}, "stressed"),
    ],
)
def test_a_setting_that_cannot_be_is_refused(lead: Api, trial: Place, change: dict[str, Any], field: str) -> None:
    assert lead.refused("put", f"/trials/{trial['id']}/estimate-setting", SETTING | change)["field"] == field
    assert not EstimateSetting.objects.exists()


def test_estimate_against_harvest(lead: Api, trial: Place) -> None:
    """Bias over the strips of one trial, by hand on the ratios of what the ribbon shows."""
    sample_all(lead, trial, {"A": (30, 33), "B": (27, 30), "C": (24, 27)})
    path = f"/trials/{trial['id']}/estimates/learning"
    assert "No strip has both" in lead.ok("get", path)["problem"]
    for strip in trial["strips"][:2]:
        put(lead, trial, "harvest-loads", load_body(strip))
    two = lead.ok("get", path)
    assert (len(two["pairs"]), two["groups"]) == (2, [])
    assert "too few" in two["problem"]
    for strip in trial["strips"][2:]:
        put(lead, trial, "harvest-loads", load_body(strip, net="1100"))
    result = lead.ok("get", path)
    assert [one["group"] for one in result["groups"]] == ["Winter wheat, heads or spikes", "Sampled by Mirren"]
    group = result["groups"][0]
    product = 1.0
    for item in lead.ok("get", f"/trials/{trial['id']}")["strips"]:
        product *= item["estimate"]["value"] / item["yield_"]["value"]
    assert group["bias_pct"] == pytest.approx(100 * (product ** (1 / 9) - 1))
    assert group["correction"] == pytest.approx(1 / (1 + group["bias_pct"] / 100))
    assert "one trial" in group["words"]
    assert group["limit_low_pct"] < group["lower_pct"] < group["bias_pct"] < group["upper_pct"] < group["limit_high_pct"]
    assert all(pair["here"] for pair in result["pairs"])
    # grain weighed with the harvest refines the estimate, and is no merit of the one that was given before it
    put(lead, trial, "grain-samples", grain_body(mass=typed("26", "g"), moisture=typed("13.5", "%")))
    assert lead.ok("get", path)["groups"][0]["bias_pct"] == pytest.approx(group["bias_pct"])
    put(lead, trial, "grain-samples", grain_body(mass=typed("26", "g"), moisture=typed("13.5", "%"), recorded_at=ago(1)))
    assert lead.ok("get", path)["groups"][0]["bias_pct"] > group["bias_pct"] + 10


def test_learning_does_not_look_into_other_workspaces(lead: Api, outsider: Api, trial: Place) -> None:
    sample_all(lead, trial, {"A": (30, 33), "B": (27, 30), "C": (24, 27)})
    harvest_all(lead, trial, {"A": 1250, "B": 1220, "C": 1190})
    mine = outsider.ok("get", "/session")["person"]["workspaces"][0]["id"]
    other = outsider.ok("post", f"/workspaces/{mine}/trials", {"title": "z", "crop": "winter_wheat", "season": 2027})
    assert outsider.ok("get", f"/trials/{other['id']}/estimates/learning")["pairs"] == []


CUT = {"method": "forage", "area": typed("0.25", "m2"), "units": {"gross": "g", "tare": "g", "companion_gross": "g"}}


def test_a_mixture_is_judged_by_its_land(lead: Api, trial: Place) -> None:
    """Main alone on A, companion alone on C, both on B: 8 ÷ 10 + 3 ÷ 6 = 1.3 (definition), every strip alike."""
    of_crop(trial, "lucerne")
    by_letter = {item["id"]: item["letter"] for item in trial["treatments"]}
    for strip in trial["strips"]:
        values = {
            "A": {"gross": "1000", "dm_pct": "25"},
            "B": {"gross": "800", "dm_pct": "25", "companion_gross": "300", "companion_dm_pct": "20"},
            "C": {"companion_gross": "600", "companion_dm_pct": "20"},
        }[by_letter[strip["received_id"]]]
        put(
            lead,
            trial,
            "yield-samples",
            {"strip_id": strip["id"], "recorded_at": heads_body(strip)["recorded_at"], "values": values} | CUT,
        )
    land = estimates(lead, trial)["land"]
    assert len(land) == 1
    assert (land[0]["main"], land[0]["companion"], land[0]["total"]) == (
        pytest.approx(0.8),
        pytest.approx(0.5),
        pytest.approx(1.3),
    )
    assert by_letter[land[0]["treatment_id"]] == "B"
    assert "makes more of the land" in land[0]["words"]


def test_residue_before_and_after_grazing(lead: Api, trial: Place) -> None:
    strip = trial["strips"][0]
    for phase, gross in (("before", "220"), ("after", "170")):
        body = {"strip_id": strip["id"], "recorded_at": heads_body(strip)["recorded_at"], "method": "residue"}
        values = {"phase": phase, "gross": gross, "tare": "20", "dm_pct": "86"}
        put(lead, trial, "yield-samples", body | {"area": typed("0.25", "m2"), "values": values, "units": CUT["units"]})
    result = estimates(lead, trial)
    row = result["residue"][0]
    assert row["before"]["value"] == pytest.approx(0.2 * 0.86 / 0.25 * 10)
    assert row["used_pct"] == pytest.approx(25)
    assert result["answer"] == "No strip sampled yet"  # residue is no yield


def test_bulbs_ask_for_tare_and_state(lead: Api, trial: Place) -> None:
    of_crop(trial, "garlic")
    body = heads_body(trial["strips"][0], method="counted", number="40", units={"gross": "g", "tare": "g"})
    kept = put(lead, trial, "yield-samples", body | {"pieces": [{"gross": "600", "number_in": "10"}], "area": typed("2", "m2")})
    assert {item["code"] for item in kept["questions"]} == {"no_tare", "which_state"}
    assert "10 pieces measured" in kept["words"]
    survived = put(
        lead,
        trial,
        "yield-samples",
        body | {"pieces": [{"gross": "60"}], "area": typed("2", "m2"), "values": {"planted": "50", "tare": "5"}},
    )
    assert survived["words"].startswith("40 counted of 50 planted (80 %)")
    lead.ok("post", f"/records/yield-sample/{survived['id']}/void", {"voided": True, "reason": "twice", "version": 1})
    assert estimates(lead, trial)["grain"] is None
    assert estimates(lead, trial)["strips"][0]["estimate"]["value"]["value"] == pytest.approx(20 * 0.06 * 10)


def test_only_the_latest_look_counts(lead: Api, trial: Place) -> None:
    put(lead, trial, "yield-samples", heads_body(trial["strips"][0], number="60", recorded_at=ago(40)))
    put(lead, trial, "yield-samples", heads_body(trial["strips"][1]))
    result = estimates(lead, trial)
    assert [item["estimate"] is not None for item in result["strips"][:2]] == [False, True]
    assert len(result["strips"][0]["samples"]) == 1


def test_units_of_the_reader_change_no_estimate(lead: Api, trial: Place) -> None:
    body = heads_body(trial["strips"][0])
    put(lead, trial, "yield-samples", body)
    inches = {"length": typed("19.68503937", "in"), "row_spacing": typed("4.921259843", "in")}
    put(lead, trial, "yield-samples", heads_body(trial["strips"][1]) | inches)
    metric = [estimate["estimate"]["value"]["value"] for estimate in estimates(lead, trial)["strips"][:2]]
    assert metric[0] == pytest.approx(metric[1], rel=1e-8)
    lead.ok("patch", "/session", {"unit_system": "us"})
    bushels = estimates(lead, trial)["strips"][0]["estimate"]["value"]
    assert bushels["text"].endswith("bu/ac")
    assert bushels["value"] * 60 * 0.45359237 / 0.40468564224 == pytest.approx(1000 * metric[0], rel=1e-9)


def test_strips_with_samples_are_not_drawn_away(lead: Api, trial: Place) -> None:
    """A layout whose strips carry samples is bound like one with counts."""
    put(lead, trial, "yield-samples", heads_body(trial["strips"][0]))
    shown = lead.ok("get", f"/trials/{trial['id']}")
    assert not shown["layout_bound"]["open"]
    body = {
        "version": shown["version"],
        "design": "rcbd",
        "blocks": 2,
        "strip_width": typed("6", "m"),
        "strip_length": typed("300", "m"),
    }
    assert lead.call("post", f"/trials/{trial['id']}/layout", body).status_code == 409
