"""Designing a trial through the API: factors, every design, real ground, margin, rehearsal, pass card, protocol."""

from __future__ import annotations

from typing import Any

import pytest
from apps.accounts.models import Workspace
from apps.trials.models import Amendment, LayoutDraw
from shapely.geometry import Polygon

from tests.server.conftest import (
    TILLAGE,
    Api,
    count_body,
    harvest_all,
    record_count,
    two_factors,
    typed,
)

Place = dict[str, Any]


def draw(api: Api, trial: Place, **more: Any) -> Place:
    body = {
        "version": trial["version"],
        "design": "split_plot",
        "blocks": 4,
        "strip_width": typed("6", "m"),
        "headland": typed("12", "m"),
        "seed": 11,
    }
    return api.ok("post", f"/trials/{trial['id']}/layout", body | more)


def test_costs_of_levels_and_seed_make_the_margin(split: Place) -> None:
    """By definition: strip till 2 × 20 against plough 80, the same seed: it saves 40, worth 222 kg/ha at 200 − 20."""
    at = {tuple(level["text"] for level in item["levels"]): item for item in split["treatments"]}
    assert at["Strip till", "80"]["costs_more"]["value"] == pytest.approx(-40)
    assert at["Strip till", "80"]["margin"]["value"] == pytest.approx(40 / 180)
    # ten thousand seeds more at 2.00 a thousand
    assert at["Plough", "90"]["costs_more"]["value"] == pytest.approx(20)
    labels = [step["label"] for step in at["Plough", "90"]["margin_working"]["steps"]]
    assert labels[0].startswith("Costs of C")
    assert "Extra cost" in labels
    along = at["Plough", "80"]["along_row"]
    assert along["space"] == "1250.0 cm²"
    assert dict(along["rates"])["bags/ha"] == "1.60"


def test_confusions_are_found_in_the_entries(lead: Api, split: Place, workspace: Workspace) -> None:
    path = f"/trials/{split['id']}"
    rows = two_factors(split["version"])
    rows["treatments"] = [rows["treatments"][0], rows["treatments"][5] | {"is_control": True}]
    rows["costs"] = []
    result = lead.ok("put", f"{path}/treatments", rows)
    assert any("Tillage and seeding rate change together" in note for note in result["notes"])
    lead.ok("post", f"/workspaces/{workspace.id}/fields", {"name": "Low Meadow", "shape_later": True})
    for question in (
        "Does Far Step yield more than Low Meadow?",
        "Is the other half of the field better? Half of the field was ploughed.",
    ):
        result = lead.ok("patch", path, {"version": result["version"], "question": question})
        assert any("compares fields" in note for note in result["notes"]), question
    item = {"version": result["version"], "factors": [{"kind": "free", "name": "System"}]}
    named = [{"levels": [typed("as now")], "is_control": True}, {"levels": [typed("narrow rows and a higher rate")]}]
    result = lead.ok("put", f"{path}/treatments", item | {"treatments": named})
    assert any("two things at once" in note for note in result["notes"])
    named[0]["is_control"] = False
    result = lead.ok("put", f"{path}/treatments", item | {"version": result["version"], "treatments": named})
    assert any("No control" in note for note in result["notes"])


def test_a_split_plot_is_proposed_with_its_reason(split: Place) -> None:
    assert "Tillage needs another machine" in split["layout"]["suggests"]
    assert "split-plot" in split["layout"]["suggests"]


def test_a_split_plot_lies_on_the_field(lead: Api, split: Place) -> None:
    drawn = draw(lead, split)
    assert drawn["design_name"] == "Split-plot"
    assert len(drawn["strips"]) == 24
    assert len({strip["main"] for strip in drawn["strips"]}) == 8
    assert drawn["layout"]["placed"]
    assert drawn["layout"]["georeferenced"]
    assert all(strip["place"] is not None and strip["area"]["value"] > 0 for strip in drawn["strips"])
    result = lead.ok("get", f"/trials/{split['id']}/map")
    assert len(result["strips"]) == 24
    assert result["north_deg"] is not None
    lefts = [strip["place"][0] for strip in drawn["strips"]]
    assert lefts == sorted(lefts)


@pytest.mark.parametrize(
    ("design", "strips"),
    [("rcbd", 24), ("crd", 24), ("systematic", 24), ("augmented", 28), ("latin", 36), ("strip_plot", 24), ("unreplicated", 6)],
)
def test_every_design_can_be_drawn(lead: Api, split: Place, design: str, strips: int) -> None:
    drawn = draw(lead, split, design=design, strip_width=typed("3", "m"))
    assert len(drawn["strips"]) == strips
    assert drawn["layout"]["record"]
    again = draw(lead, drawn, design=design, strip_width=typed("3", "m"))
    order = [strip["treatment_id"] for strip in drawn["strips"]]
    assert [strip["treatment_id"] for strip in again["strips"]] == order, "same seed, same layout"
    verdict = lead.ok("get", f"/trials/{split['id']}/verdict")
    assert verdict["state"] == "none"


def test_machines_decide_the_width(lead: Api, split: Place, workspace: Workspace) -> None:
    ids = [
        lead.ok("post", f"/workspaces/{workspace.id}/machines", {"name": name, "kind": kind, "width": typed(width, "m")})["id"]
        for name, kind, width in (("drill", "planter", "3"), ("bar", "tillage", "4.5"), ("header", "harvester", "5.4"))
    ]
    widths = lead.ok("post", f"/trials/{split['id']}/strip-widths", {"machines": ids})
    assert widths["options"][0]["width"] == {"text": "9", "unit": "m"}
    assert "3 × drill" in widths["options"][0]["words"]
    drawn = draw(lead, split, strip_width=typed(""), machines=ids, design="rcbd", blocks=2)
    assert drawn["strips"][0]["width"]["text"] == "9.00 m"
    body = {"version": drawn["version"], "design": "rcbd", "blocks": 2, "strip_width": typed("10", "m"), "machines": ids}
    answer = lead.refused("post", f"/trials/{split['id']}/layout", body)
    assert "9 m or 18 m" in answer["message"]
    twin = {"name": "drill", "kind": "planter", "width": typed("3", "m")}
    assert lead.refused("post", f"/workspaces/{workspace.id}/machines", twin)["code"] == "duplicate"
    assert (
        lead.refused("post", f"/workspaces/{workspace.id}/machines", twin | {"name": "x", "width": typed("0", "m")})["field"]
        == "width"
    )


def test_a_redraw_is_logged(lead: Api, split: Place) -> None:
    drawn = draw(lead, draw(lead, split), seed=12, no_equal_neighbours=True)
    assert [item["said"].split(", seed ")[1][:2] for item in drawn["layout"]["draws"]] == ["11", "12"]
    assert "thrown away" in drawn["layout"]["draws"][1]["said"]
    assert LayoutDraw.objects.count() == 2


def test_blocks_the_wrong_way_are_told(lead: Api, split: Place) -> None:
    field = split["field"]
    lead.ok("patch", f"/fields/{field['id']}", {"version": 1, "gradient": "90", "heading": "0"})
    item = draw(lead, split, design="rcbd", blocks=3)
    assert not item["layout"]["gradient_wrong"]
    assert "across the gradient" in item["layout"]["gradient"]
    stacked = draw(lead, item, design="rcbd", blocks=3, tiers=3)
    assert stacked["layout"]["gradient_wrong"]
    assert "wrong way" in stacked["layout"]["gradient"]


def test_the_margin_moves_with_what_if(lead: Api, split: Place) -> None:
    drawn = draw(lead, split)
    path = f"/trials/{drawn['id']}/margin"
    first = lead.ok("post", path, {})
    assert first["can_answer"] is False
    assert "cannot answer" in first["sentence"]
    assert first["cv_source"].startswith("usual for the crop")
    by_key = {row["key"]: row for row in first["rows"]}
    assert {"main", "sub", "sub_within", "interaction"} <= set(by_key)
    assert by_key["main"]["label"] == "Tillage"
    assert by_key["main"]["df"] == 3
    assert by_key["main"]["margin"]["value"] == pytest.approx(0.02 * 10), "2 % of the expected yield, none is stated"
    assert 0 < float(by_key["main"]["chance"].rstrip(" %")) < float(by_key["main"]["chance_twice"].rstrip(" %"))
    assert len(first["changes"]) == 2
    more = lead.ok("post", path, {"blocks": 10})
    assert {row["key"]: row for row in more["rows"]}["main"]["least_pct"] < by_key["main"]["least_pct"]
    stated = lead.ok("post", path, {"margin": typed("1.4", "t/ha")})
    assert {row["key"]: row for row in stated["rows"]}["main"]["margin"]["value"] == pytest.approx(1.4)
    assert "out of reach" in first["sentence"], "nothing differs would be called less than one time in five"
    assert lead.refused("post", path, {"margin": typed("0", "t/ha")})["code"] == "not_positive"
    calm = lead.ok("post", path, {"cv": "0.4", "cv_main": "0.4"})
    assert calm["can_answer"] is True
    assert "can answer" in calm["sentence"]
    assert lead.refused("post", path, {"cv": "wild"})["field"] == "cv"
    assert lead.refused("post", path, {"blocks": 1})["code"] == "too_few_blocks"
    assert lead.refused("post", path, {"design": "unreplicated"})["code"] == "not_for_design"


def test_every_treatment_is_judged_by_its_own_margin(lead: Api, trial: Place) -> None:
    """20 and 10 €/ha over 190 €/t: two margins, the dearer treatment the easier to tell."""
    result = lead.ok("post", f"/trials/{trial['id']}/margin", {"expected_yield": typed("7", "t/ha"), "cv": "2"})
    assert [row["label"] for row in result["rows"]] == ["A, 12.5 cm", "B, 18 cm"]
    assert [row["margin"]["value"] for row in result["rows"]] == pytest.approx([20 / 190, 10 / 190])
    assert result["rows"][0]["chance_value"] > result["rows"][1]["chance_value"]
    assert result["rows"][1]["chance"] in result["sentence"], "the sentence speaks of the hardest"


def test_the_farms_own_variation_is_used_and_named(lead: Api, trial: Place, workspace: Workspace) -> None:
    path = f"/trials/{trial['id']}"
    other = lead.ok("post", f"/workspaces/{workspace.id}/trials", {"title": "Next", "crop": "winter_wheat", "season": 2027})
    rows = {
        "version": other["version"],
        "factors": [{"kind": "row_spacing"}],
        "treatments": [{"levels": [typed("12", "cm")], "is_control": True}, {"levels": [typed("20", "cm")]}],
    }
    lead.ok("put", f"/trials/{other['id']}/treatments", rows)
    ask = {"design": "rcbd", "blocks": 4}
    assert lead.ok("post", f"/trials/{other['id']}/margin", ask)["cv_source"].startswith("usual")
    # three widths in five blocks leave eight degrees of freedom, enough to plan with
    fresh = lead.ok(
        "post",
        f"{path}/layout",
        {
            "version": trial["version"],
            "design": "rcbd",
            "blocks": 5,
            "seed": 3,
            "strip_width": typed("6", "m"),
            "strip_length": typed("300", "m"),
        },
    )
    harvest_all(lead, fresh, {"A": 1250, "B": 1200, "C": 1180})
    verdict = lead.ok("get", f"{path}/verdict")
    result = lead.ok("post", f"/trials/{other['id']}/margin", ask)
    assert result["cv_source"] == "this farm's own: Row width"
    assert result["cv"] == verdict["yield_"]["cv_pct"]
    assert result["yield_source"].startswith("mean of this farm's")


def test_a_rehearsal_runs_in_batches_and_says_what_it_found(lead: Api, trial: Place) -> None:
    path, ask = f"/trials/{trial['id']}/rehearsal", {"fields": 60, "what_if": {"expected_yield": typed("7", "t/ha"), "cv": "3"}}
    first = lead.ok("post", path, ask)
    second = lead.ok("post", path, ask | {"start": 60, "tally": first["tally"]})
    assert (first["fields"], second["fields"]) == (60, 120)
    assert {row["order"] for row in second["rows"]} == {"as planned", "systematic"}
    assert len(second["rows"]) == 6
    assert any("drift" in text for text in second["words"])
    mapped = lead.ok("post", path, ask | {"ground": "map"})
    assert mapped["tally"] != first["tally"]
    assert lead.refused("post", path, ask | {"fields": 100_000})["code"] == "too_large"
    assert lead.refused("post", path, ask | {"tally": first["tally"] | {"calls": {"x": [[1]]}}})["code"] == "unknown_choice"
    assert lead.refused("post", path, {"fields": 5})["code"] == "missing", "without a yield there is no margin in percent"


def test_the_pass_card_follows_the_strips(lead: Api, split: Place) -> None:
    drawn = draw(lead, split)
    path = f"/trials/{drawn['id']}/pass-card"
    card = lead.ok("get", path)
    assert [item["strip"] for item in card["passes"]] == list(range(1, 25))
    fewest = lead.ok("get", f"{path}?driving=fewest_changes")
    assert fewest["changes"] == 5 < card["changes"]
    tillage = lead.ok("get", f"{path}?sets=0")
    assert {item["setting"] for item in tillage["passes"]} == set(TILLAGE)
    assert tillage["changes"] < card["changes"], "the bar changes with tillage only"
    # by definition: area × seeds per area × seed weight, a tenth in reserve
    area = sum(strip["area"]["value"] for strip in drawn["strips"] if strip["treatment_id"] == drawn["treatments"][0]["id"])
    assert card["seed"][0]["weight"] == f"{area * 7 * 10_000 * 300 / 1e6 * 1.1:.1f} kg"
    assert len(card["stakes"]) == 48
    assert card["stakes"][1]["across"] == "6.0 m"
    assert card["stakes"][0]["position"]
    assert any("label" in text for text in card["cautions"])
    assert lead.refused("get", f"{path}?sets=7")["code"] == "unknown_choice"
    assert lead.refused("get", f"{path}?passes=0")["code"] == "too_small"


def test_a_latin_square_is_called_from_rows_and_columns(lead: Api, trial: Place) -> None:
    body = {
        "version": trial["version"],
        "design": "latin",
        "blocks": 3,
        "seed": 5,
        "strip_width": typed("6", "m"),
        "strip_length": typed("90", "m"),
        "alley": typed("6", "m"),
    }
    drawn = lead.ok("post", f"/trials/{trial['id']}/layout", body)
    harvest_all(lead, drawn, {"A": 420, "B": 400, "C": 390})
    analysis = lead.ok("get", f"/trials/{trial['id']}/verdict")["yield_"]
    assert "row + column" in analysis["method"]
    assert [(row["source"], row["df"]) for row in analysis["anova"]] == [
        ("row", 2),
        ("block", 2),
        ("treatment", 2),
        ("residual", 2),
    ]


def test_the_protocol_is_frozen_and_amended_with_a_reason(lead: Api, adviser: Api, trial: Place) -> None:
    path = f"/trials/{trial['id']}"
    frozen = lead.ok("post", f"{path}/protocol")
    print_ = frozen["protocol"]["fingerprint"]
    assert dict(frozen["protocol"]["content"])["treatment C"] == "25 cm; control"
    assert lead.refused("post", f"{path}/protocol", status=409)["code"] == "frozen"
    change = {"version": frozen["version"], "price": typed("250", "money/t")}
    answer = lead.refused("patch", path, change, status=409)
    assert answer["code"] == "frozen"
    assert "price" in answer["message"]
    same = lead.ok("get", path)
    assert same["price"]["text"] == "200", "nothing changed without a reason"
    assert same["version"] == frozen["version"]
    fresh = adviser.ok("patch", path, change | {"amendment": "contract signed at 250"})
    (amended,) = fresh["protocol"]["amendments"]
    assert amended["reason"] == "contract signed at 250"
    assert amended["changes"] == [["price", "200 €/t", "250 €/t"]]
    assert amended["by"] == "anselm"
    assert fresh["protocol"]["fingerprint"] == print_, "the original stays"
    # what is no part of it needs no reason
    fresh = lead.ok("patch", path, {"version": fresh["version"], "title": "Row width, terraces"})
    redraw = {
        "version": fresh["version"],
        "design": "rcbd",
        "blocks": 3,
        "seed": 8,
        "strip_width": typed("6", "m"),
        "strip_length": typed("300", "m"),
    }
    assert lead.refused("post", f"{path}/layout", redraw, status=409)["code"] == "frozen"
    assert LayoutDraw.objects.count() == 1
    redrawn = lead.ok("post", f"{path}/layout", redraw | {"amendment": "the low end was flooded"})
    assert Amendment.objects.count() == 2
    assert {row[0] for row in redrawn["protocol"]["amendments"][1]["changes"]} == {"design", "layout"}
    harvest_all(lead, redrawn, {"A": 1250, "B": 1200, "C": 1180})
    verdict = lead.ok("get", f"{path}/verdict")
    assert any("contract signed at 250" in text for text in verdict["amendments"])


def test_nothing_is_frozen_before_it_is_said(lead: Api, workspace: Workspace) -> None:
    bare = lead.ok("post", f"/workspaces/{workspace.id}/trials", {"title": "Bare", "crop": "maize", "season": 2027})
    answer = lead.refused("post", f"/trials/{bare['id']}/protocol")
    assert answer["code"] == "missing"
    assert "layout" in answer["message"]


@pytest.mark.parametrize(
    ("body", "code", "field"),
    [
        ({"factors": []}, "too_large", "factors"),
        ({"factors": [{"kind": "tillage"}, {"kind": "tillage"}]}, "duplicate", "factors"),
        ({"factors": [{"kind": "tillage"}]}, "lengths_differ", "treatments"),
        ({"factors": [{"kind": "tillage"}, {"kind": "free"}]}, "missing", "factor_name"),
    ],
)
def test_factors_that_cannot_be(lead: Api, split: Place, body: Place, code: str, field: str) -> None:
    answer = lead.refused("put", f"/trials/{split['id']}/treatments", two_factors(split["version"]) | body)
    assert (answer["code"], answer["field"]) == (code, field)


def test_cost_lines_that_cannot_be(lead: Api, split: Place) -> None:
    for change, field in (
        ({"level": typed("Disc")}, "costs"),
        ({"times": "-1"}, "times"),
        ({"each": typed("", "money/ha")}, "costs"),
        ({"each": typed("much", "money/ha")}, "each"),
    ):
        body = two_factors(split["version"])
        body["costs"][0] |= change
        assert lead.refused("put", f"/trials/{split['id']}/treatments", body)["field"] == field
    assert len(lead.ok("get", f"/trials/{split['id']}")["costs"]) == 2, "the kept lines stay"


def test_rates_follow_the_lot(lead: Api, split: Place) -> None:
    """A rate in plants wanted is divided by the share expected up; a better lot needs less seed."""
    rows = {
        "version": split["version"],
        "factors": [{"kind": "seeding_rate"}],
        "treatments": [{"levels": [typed("8", "plants/m2")], "is_control": True}, {"levels": [typed("1.6", "bags/ha")]}],
    }
    assert lead.refused("put", f"/trials/{split['id']}/treatments", rows)["code"] == "needs_emergence"
    ready = lead.ok("patch", f"/trials/{split['id']}", {"version": split["version"], "emergence": typed("80", "%")})
    result = lead.ok("put", f"/trials/{split['id']}/treatments", rows | {"version": ready["version"]})
    assert [item["along_row"]["rate"] for item in result["treatments"]] == ["100.0 thousand/ha", "80.0 thousand/ha"]
    better = lead.ok("patch", f"/trials/{split['id']}", {"version": result["version"], "emergence": typed("100", "%")})
    assert better["treatments"][0]["along_row"]["rate"] == "80.0 thousand/ha"
    assert (
        lead.refused("patch", f"/trials/{split['id']}", {"version": better["version"], "emergence": typed("140", "%")})["field"]
        == "emergence"
    )


def test_an_expected_yield_in_the_wrong_unit_is_asked_about(lead: Api, split: Place) -> None:
    for text, unit in (("10", "kg/ha"), ("900", "t/ha")):
        body = {"version": split["version"], "expected_yield": typed(text, unit)}
        answer = lead.refused("patch", f"/trials/{split['id']}", body)
        assert answer["field"] == "expected_yield"
        assert "Check the unit" in answer["message"]


def test_records_still_hold_the_layout(lead: Api, split: Place) -> None:
    drawn = draw(lead, split)
    record_count(lead, drawn)
    body = {"version": drawn["version"], "design": "rcbd", "blocks": 2, "strip_width": typed("6", "m")}
    assert lead.refused("post", f"/trials/{split['id']}/layout", body, status=409)["code"] == "would_orphan"
    assert count_body(drawn["strips"][0])["strip_id"] == drawn["strips"][0]["id"]


def test_another_workspaces_machines_and_fields_are_not_here(
    lead: Api, outsider: Api, split: Place, workspace: Workspace
) -> None:
    machine = {"name": "Bar", "kind": "tillage", "width": typed("3", "m")}
    mine = lead.ok("post", f"/workspaces/{workspace.id}/machines", machine)
    other = outsider.client.get("/api/session").json()["person"]["workspaces"][0]["id"]
    theirs = outsider.ok("post", f"/workspaces/{other}/machines", machine)
    lead.refused("post", f"/trials/{split['id']}/strip-widths", {"machines": [theirs["id"]]}, status=404)
    body = {"version": split["version"], "design": "rcbd", "blocks": 2, "strip_width": typed("6", "m")}
    lead.refused("post", f"/trials/{split['id']}/layout", body | {"machines": [theirs["id"]]}, status=404)
    drawn = draw(lead, split)
    lead.refused("get", f"/trials/{drawn['id']}/pass-card?machine={theirs['id']}", status=404)
    by_width = lead.ok("get", f"/trials/{drawn['id']}/pass-card?machine={mine['id']}")
    assert (by_width["machine"], by_width["passes_a_strip"]) == ("Bar", 2), "6 m are two passes of 3 m"
    outsider.refused("patch", f"/fields/{split['field']['id']}", {"version": 1, "heading": "5"}, status=404)


def test_a_field_changed_later_moves_no_layout(lead: Api, split: Place) -> None:
    drawn = draw(lead, split)
    before = lead.ok("get", f"/trials/{drawn['id']}/map")
    lead.ok(
        "patch",
        f"/fields/{split['field']['id']}",
        {"version": 1, "corners": "", "width": typed("100", "m"), "length": typed("200", "m")},
    )
    after = lead.ok("get", f"/trials/{drawn['id']}/map")
    assert after["boundary"] == before["boundary"]
    assert after["strips"] == before["strips"]


def test_an_obstacle_is_jumped_on_the_real_field(lead: Api, split: Place) -> None:
    whole = draw(lead, split, design="rcbd", blocks=3)
    middle = whole["strips"][8]
    lefts = [strip["place"][0] for strip in whole["strips"]]
    assert max(b - a for a, b in zip(lefts, lefts[1:], strict=False)) == pytest.approx(6, abs=0.02)
    card = lead.ok("get", f"/trials/{whole['id']}/pass-card")
    lat, lon = map(float, next(item["position"] for item in card["stakes"] if item["strip"] == middle["order"]).split(", "))
    corners = "\n".join(f"{lat + dlat}, {lon + dlon}" for dlat, dlon in ((0.001, 0), (0.001, 0.00003), (0.00103, 0.00003)))
    lead.ok("patch", f"/fields/{split['field']['id']}", {"version": 1, "areas": [{"kind": "obstacle", "corners": corners}]})
    before = lead.ok("get", f"/trials/{whole['id']}/map")
    jumped = draw(lead, whole, design="rcbd", blocks=3)
    result = lead.ok("get", f"/trials/{jumped['id']}/map")
    (mast,) = (Polygon(ring) for ring in result["obstacles"])
    assert any(Polygon(item["ring"]).intersects(mast) for item in before["strips"]), "it stood on a strip before"
    assert not any(Polygon(item["ring"]).intersects(mast) for item in result["strips"])
    assert len(result["strips"]) == len(before["strips"])


def test_us_readers_see_the_same_ground_in_feet(lead: Api, split: Place) -> None:
    drawn = draw(lead, split)
    lead.ok("patch", "/session", {"unit_system": "us"})
    seen = lead.ok("get", f"/trials/{drawn['id']}")
    assert seen["strips"][0]["width"]["text"] == "19.69 ft"
    assert seen["strips"][0]["place"] == drawn["strips"][0]["place"], "metres for drawing"
    assert lead.ok("get", f"/trials/{drawn['id']}/map")["scale"].endswith(" ft")
    assert seen["treatments"][2]["costs_more"]["text"].endswith("/ac")
    margin = lead.ok("post", f"/trials/{drawn['id']}/margin", {})
    assert "bu/ac" in margin["sentence"]


def test_wordings_of_the_question_that_confuse_nothing(lead: Api, split: Place) -> None:
    """A warning nobody needs is soon a warning nobody reads."""
    for question in ("Does Far Step want a higher rate?", "Is strip tillage as good as ploughing?"):
        split = lead.ok("patch", f"/trials/{split['id']}", {"version": split["version"], "question": question})
        assert not any("compares fields" in note for note in split["notes"])
    assert not any("two things" in note or "together" in note for note in split["notes"])
