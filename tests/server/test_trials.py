"""Question, treatments, layout, planting: what is kept, what is refused, what would be orphaned."""

from __future__ import annotations

from typing import Any
from uuid import uuid4

import pytest
from apps.accounts.models import Workspace
from apps.trials.models import Trial

from tests.server.conftest import Api, count_body, harvest_all, record_count, typed

Place = dict[str, Any]


def patch(api: Api, trial: Place, **body: Any) -> Place:
    return api.ok("patch", f"/trials/{trial['id']}", {"version": trial["version"], **body})


def test_what_was_typed_is_kept_as_typed(lead: Api, trial: Place) -> None:
    fresh = patch(lead, trial, price=typed("5,60", "money/bu"), row_spacing=typed(" 7.5", "in"))
    assert fresh["price"]["text"] == "5,60"
    assert fresh["price"]["unit"] == "money/bu"
    assert fresh["price"]["shown"] == "205.76 €/t"  # 5.60 ÷ 27.2155 kg, a 60-lb bushel
    lead.ok("patch", "/session", {"unit_system": "us"})
    read = lead.ok("get", f"/trials/{trial['id']}")
    assert read["price"]["text"] == "5,60"
    assert read["price"]["shown"] == "5.60 €/bu"
    lead.ok("patch", "/session", {"unit_system": "metric"})
    assert lead.ok("get", f"/trials/{trial['id']}")["price"] == fresh["price"]
    stored = Trial.objects.get(pk=trial["id"])
    assert stored.price_per_t == pytest.approx(5.60 / 27.21554220 * 1000)


def test_the_difference_that_matters(trial: Place) -> None:
    """20 €/ha over 200 − 10 €/t is 105.3 kg/ha (definition: extra cost ÷ (price − cost per unit))."""
    narrow, middle, control = trial["treatments"]
    assert narrow["margin"]["text"] == "0.11 t/ha"
    assert narrow["margin"]["value"] == pytest.approx(20 / 190)
    assert middle["margin"]["value"] == pytest.approx(10 / 190)
    assert control["margin"] is None
    steps = narrow["margin_working"]["steps"]
    assert steps[2]["outcome"] == "+20.00 €/ha"
    assert steps[3]["numbers"] == "200.00 €/t − 10.00 €/t"
    assert steps[-1]["numbers"] == "20.00 €/ha ÷ 190.00 €/t"


def test_us_reader_gets_the_same_margin_in_bushels(lead: Api, trial: Place) -> None:
    lead.ok("patch", "/session", {"unit_system": "us"})
    narrow = lead.ok("get", f"/trials/{trial['id']}")["treatments"][0]
    assert narrow["margin"]["value"] == pytest.approx(
        20 / 190 * 1000 / 67.2510, rel=1e-4
    )  # 67.25 kg/ha a bu/ac of 60 lb (definition)
    assert narrow["name"] == "4.92 in", "12.5 cm as this reader says it"


def test_layout_of_a_seed(lead: Api, trial: Place) -> None:
    assert [strip["order"] for strip in trial["strips"]] == list(range(1, 10))
    assert trial["seed"] == 7
    again = lead.ok(
        "post",
        f"/trials/{trial['id']}/layout",
        {
            "version": trial["version"],
            "design": "rcbd",
            "blocks": 3,
            "seed": 7,
            "strip_width": typed("6", "m"),
            "strip_length": typed("300", "m"),
        },
    )
    assert [strip["treatment_id"] for strip in again["strips"]] == [strip["treatment_id"] for strip in trial["strips"]]
    assert {strip["width"]["text"] for strip in again["strips"]} == {"6.00 m"}


LAYOUT = {"design": "rcbd", "blocks": 3, "strip_width": typed("6", "m"), "strip_length": typed("300", "m")}


@pytest.mark.parametrize(
    ("change", "code", "field"),
    [
        ({"blocks": 1}, "too_few_blocks", "blocks"),
        ({"blocks": 900}, "too_large", "blocks"),
        ({"strip_width": typed("-6", "m")}, "not_positive", "strip_width"),
        ({"strip_width": typed("six", "m")}, "not_a_number", "strip_width"),
        ({"strip_width": typed("", "m")}, "missing", "strip_width"),
        ({"strip_length": typed("300", "kg")}, "unknown_unit", "strip_length"),
        ({"seed": -4}, "too_small", "seed"),
        ({"design": "chequered"}, "malformed", "design"),
        ({"design": "latin"}, "does_not_fit", "strip_width"),
        ({"design": "pairs"}, "not_for_design", "design"),
        ({"heading": "north"}, "not_a_number", "heading"),
        ({"headland": typed("-3", "m")}, "too_small", "headland"),
        ({"guards": 30}, "too_large", "guards"),
        ({"tiers": 9}, "too_large", "tiers"),
        ({"first": str(uuid4())}, "unknown_choice", "first"),
        ({"swath": typed("7", "m")}, "does_not_fit", "swath"),
    ],
)
def test_layouts_that_cannot_be(lead: Api, trial: Place, change: Place, code: str, field: str) -> None:
    answer = lead.refused("post", f"/trials/{trial['id']}/layout", LAYOUT | {"version": trial["version"]} | change)
    assert (answer["code"], answer["field"]) == (code, field)
    assert len(lead.ok("get", f"/trials/{trial['id']}")["strips"]) == 9, "the old layout stands"


def test_strips_must_fit_into_the_field(lead: Api, workspace: Workspace) -> None:
    field = lead.ok(
        "post",
        f"/workspaces/{workspace.id}/fields",
        {"name": "Narrow Piece", "farm": "", "width": typed("50", "m"), "length": typed("400", "m")},
    )
    other = lead.ok("post", f"/workspaces/{workspace.id}/trials", {"title": "Fit", "crop": "maize", "season": 2026})
    other = patch(lead, other, field_id=field["id"])
    other = lead.ok("put", f"/trials/{other['id']}/treatments", treatments(other, "tillage", ["plough", "strip till"]))
    answer = lead.refused("post", f"/trials/{other['id']}/layout", LAYOUT | {"version": other["version"], "blocks": 5})
    assert answer["code"] == "does_not_fit"
    assert "where 8 can be driven" in answer["message"]
    assert "4 blocks would fit" in answer["message"]


def treatments(trial: Place, kind: str, levels: list[str], unit: str = "", **more: Any) -> Place:
    rows = [{"levels": [typed(level, unit)], "is_control": place == 0} for place, level in enumerate(levels)]
    return {"version": trial["version"], "factors": [{"kind": kind}], "treatments": rows} | more


@pytest.mark.parametrize(
    ("kind", "levels", "unit", "code"),
    [
        ("seeding_rate", ["220", "300"], "/m2", None),
        ("seeding_rate", ["90", "120"], "k/ac", None),
        ("seeding_depth", ["1.5", "3"], "in", None),
        ("tillage", ["plough", "strip till", "none"], "", None),
        ("row_spacing", ["12.5", "12.5"], "cm", "duplicate"),
        ("row_spacing", ["12.5", ""], "cm", "missing"),
        ("row_spacing", ["-5", "10"], "cm", "not_positive"),
        ("row_spacing", ["wide", "narrow"], "cm", "not_a_number"),
        ("seeding_rate", ["140", "160"], "kg/ha", "needs_seed_weight"),
        ("free", ["a", "b"], "", "missing"),
    ],
)
def test_levels_with_their_units(lead: Api, trial: Place, kind: str, levels: list[str], unit: str, code: str | None) -> None:
    path, body = f"/trials/{trial['id']}/treatments", treatments(trial, kind, levels, unit)
    if code:
        assert lead.refused("put", path, body)["code"] == code
        assert len(lead.ok("get", f"/trials/{trial['id']}")["treatments"]) == 3, "what was there stands"
    else:
        fresh = lead.ok("put", path, body)
        assert [item["levels"][0]["text"] or item["name"] for item in fresh["treatments"]] == levels
        assert fresh["strips"] == [], "a layout without records is taken up"


def test_a_rate_by_weight_follows_the_seed_weight(lead: Api, trial: Place) -> None:
    trial = patch(lead, trial, thousand_seed_weight=typed("40", "g/1000"))
    trial = lead.ok("put", f"/trials/{trial['id']}/treatments", treatments(trial, "seeding_rate", ["120", "160"], "kg/ha"))
    trial = patch(lead, trial, row_spacing=typed("12.5", "cm"))
    assert [item["along_row"]["rate"] for item in trial["treatments"]] == ["300.0 /m²", "400.0 /m²"]
    trial = patch(lead, trial, thousand_seed_weight=typed("50", "g/1000"))
    assert [item["along_row"]["rate"] for item in trial["treatments"]] == ["240.0 /m²", "320.0 /m²"]
    assert [item["along_row"]["per_row"] for item in trial["treatments"]] == ["30.00 /m of row", "40.00 /m of row"]


def test_records_are_not_orphaned(lead: Api, trial: Place) -> None:
    record_count(lead, trial)
    path = f"/trials/{trial['id']}"
    answer = lead.refused("put", f"{path}/treatments", treatments(trial, "row_spacing", ["10", "20"], "cm"), status=409)
    assert answer["code"] == "would_orphan"
    assert "1 stand count" in answer["message"]
    answer = lead.refused("post", f"{path}/layout", LAYOUT | {"version": trial["version"]}, status=409)
    assert answer["code"] == "would_orphan"
    fresh = lead.ok("get", path)
    assert not fresh["treatments_bound"]["open"]
    assert [strip["id"] for strip in fresh["strips"]] == [strip["id"] for strip in trial["strips"]]


def test_costs_and_control_may_still_change(lead: Api, trial: Place) -> None:
    record_count(lead, trial)
    rows = [
        {
            "id": item["id"],
            "levels": [{"text": item["levels"][0]["text"], "unit": item["levels"][0]["unit"]}],
            "is_control": place == 0,
            "extra_cost": typed("30", "money/ha"),
        }
        for place, item in enumerate(trial["treatments"])
    ]
    fresh = lead.ok(
        "put",
        f"/trials/{trial['id']}/treatments",
        {"version": trial["version"], "factors": [{"kind": "row_spacing"}], "treatments": rows},
    )
    assert fresh["treatments"][0]["is_control"]
    assert len(fresh["strips"]) == 9


def test_crop_and_field_are_bound_by_records(lead: Api, trial: Place) -> None:
    harvest_all(lead, trial, {"A": 1200, "B": 1180, "C": 1150})
    answer = lead.refused("patch", f"/trials/{trial['id']}", {"version": trial["version"], "crop": "maize"}, status=409)
    assert answer["code"] == "would_orphan"
    answer = lead.refused(
        "patch", f"/trials/{trial['id']}", {"version": trial["version"], "field_id": str(uuid4())}, status=409
    )
    assert "lie in its field" in answer["message"]


def test_a_stale_page_loses_nothing(lead: Api, adviser: Api, trial: Place) -> None:
    patch(adviser, trial, guess="It pays.")
    answer = lead.refused("patch", f"/trials/{trial['id']}", {"version": trial["version"], "guess": "It does not."}, status=409)
    assert answer["code"] == "stale"
    assert lead.ok("get", f"/trials/{trial['id']}")["guess"] == "It pays."


@pytest.mark.parametrize(
    ("body", "code", "field"),
    [
        ({"alpha": 0.9}, "too_large", "alpha"),
        ({"season": 20_260}, "too_large", "season"),
        ({"title": "  "}, "missing", "title"),
        ({"question": "x" * 700}, "too_large", "question"),
        ({"price": typed("-4", "money/t")}, "not_positive", "price"),
        ({"price": typed("9", "money/t")}, "price_not_above_cost", "unit_cost"),
        ({"price": typed("1,250", "money/t")}, "ambiguous_number", "price"),
        ({"crop": "dragonfruit"}, "unknown_choice", "crop"),
        ({"season": None, "crop": 3}, "malformed", "crop"),
    ],
)
def test_questions_that_cannot_be(lead: Api, trial: Place, body: Place, code: str, field: str) -> None:
    answer = lead.refused("patch", f"/trials/{trial['id']}", {"version": trial["version"], **body})
    assert (answer["code"], answer["field"]) == (code, field)
    assert lead.ok("get", f"/trials/{trial['id']}")["version"] == trial["version"]


def test_what_happened_to_a_strip_needs_a_reason(lead: Api, trial: Place) -> None:
    strip = trial["strips"][4]
    path = f"/strips/{strip['id']}"
    answer = lead.refused("patch", path, {"lost": True, "sown_treatment_id": None, "reason": " "})
    assert (answer["code"], answer["field"]) == ("missing", "reason")
    other = next(item["id"] for item in trial["treatments"] if item["id"] != strip["treatment_id"])
    fresh = lead.ok("patch", path, {"lost": False, "sown_treatment_id": other, "reason": "wrong gate"})
    assert fresh["strips"][4]["received_id"] == other
    assert fresh["strips"][4]["treatment_id"] == strip["treatment_id"]
    back = lead.ok("patch", path, {"lost": False, "sown_treatment_id": None, "reason": ""})
    assert back["strips"][4]["received_id"] == strip["treatment_id"]
    answer = lead.refused("patch", path, {"lost": False, "sown_treatment_id": str(uuid4()), "reason": "x"})
    assert answer["code"] == "unknown_choice"


def test_season_line_and_today(lead: Api, workspace: Workspace, trial: Place) -> None:
    stages = {stage["key"]: stage["state"] for stage in trial["stages"]}
    assert list(stages) == [
        "question",
        "treatments",
        "layout",
        "seed",
        "planting",
        "stand",
        "season",
        "estimate",
        "harvest",
        "verdict",
    ]
    assert stages["layout"] == "done"
    assert stages["planting"] == "due"
    dues = lead.ok("get", f"/workspaces/{workspace.id}/today")["dues"]
    assert [due["stage"] for due in dues] == ["planting"]
    sown = patch(lead, trial, planted_on="2025-10-09")
    assert {stage["key"]: stage["state"] for stage in sown["stages"]}["stand"] == "due"
    lead.ok("put", f"/trials/{trial['id']}/stand-counts/{uuid4()}", count_body(trial["strips"][0]))
    note = next(stage for stage in lead.ok("get", f"/trials/{trial['id']}")["stages"] if stage["key"] == "stand")
    assert (note["state"], note["note"]) == ("partly", "1 of 9 strips counted")


def test_harvest_is_not_due_while_the_crop_stands_green(lead: Api, trial: Place) -> None:
    from django.utils import timezone

    sown = patch(lead, trial, planted_on=str(timezone.localdate()), season=timezone.localdate().year + 1)
    assert next(stage for stage in sown["stages"] if stage["key"] == "harvest")["state"] == "ahead"


def test_fields(lead: Api, workspace: Workspace) -> None:
    path = f"/workspaces/{workspace.id}/fields"
    body = {"name": "Long Piece", "farm": "Home", "width": typed("120", "m"), "length": typed("1300", "ft")}
    field = lead.ok("post", path, body)
    assert field["length"]["shown"] == "396.2 m"
    assert lead.refused("post", path, body | {"width": typed("-1", "m")})["field"] == "width"
    assert lead.refused("post", path, body | {"name": ""})["field"] == "name"
    assert len(lead.ok("get", path)) == 1


def test_a_limit_speaks_the_unit_that_was_typed(lead: Api, trial: dict[str, Any]) -> None:
    """Winter wheat: 60 lb to the bushel; the most believed is in bushels where bushels were typed, in t/ha where those were."""
    path, version = f"/trials/{trial['id']}", trial["version"]
    in_bushels = lead.refused("patch", path, {"version": version, "expected_yield": typed("900", "bu/ac")})
    assert "got 900 bu/ac" in in_bushels["message"]
    assert "kg/ha" not in in_bushels["message"]
    in_tonnes = lead.refused("patch", path, {"version": version, "expected_yield": typed("90", "t/ha")})
    assert "at most 26 t/ha; got 90 t/ha" in in_tonnes["message"]
    again = lead.refused("patch", path, {"version": version, "thousand_seed_weight": typed("-4", "seeds/lb")})
    assert "kg" not in again["message"]


def test_a_price_off_by_a_unit_is_questioned(lead: Api, trial: dict[str, Any]) -> None:
    """5.60 a bushel of wheat is 206 a tonne; the same number per pound is asked about, and kept as typed."""
    fresh = patch(lead, trial, price=typed("5.60", "money/lb"))
    assert any("Do you mean €5.60/bu?" in note for note in fresh["notes"]), fresh["notes"]
    assert fresh["price"]["text"] == "5.60"
    assert not any("Do you mean" in note for note in patch(lead, fresh, price=typed("5.60", "money/bu"))["notes"])
