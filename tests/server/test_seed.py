"""Seed lots, what goes through the drill, and what the Seed page makes of it."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any

import pytest
from apps.accounts.models import Workspace
from apps.farms.models import SeedLot

from tests.server.conftest import Api, add_lot, lot_body, sow, typed, wheels_body

Trial = dict[str, Any]


def crop_part(lot: str, **more: Any) -> dict[str, Any]:
    return {"part": "crop", "lot_id": lot} | more


def edit(api: Api, trial: Trial, **patch: Any) -> Trial:
    fresh = api.ok("get", f"/trials/{trial['id']}")
    return api.ok("patch", f"/trials/{trial['id']}", {"version": fresh["version"]} | patch)


def seed(api: Api, trial: Trial) -> dict[str, Any]:
    return api.ok("get", f"/trials/{trial['id']}/seed")


def test_a_lot_shows_what_is_in_its_bag(lead: Api, workspace: Workspace) -> None:
    """98 % pure × 92 % germinating = 90.2 % (definition); 25 kg ÷ (44 ÷ 0.98 g) × 1000 = 556 818 seeds for 24 (by hand)."""
    lot = lead.ok("post", f"/workspaces/{workspace.id}/seed-lots", lot_body())
    assert lot["pure_live"] == "90.2 %"
    assert lot["price"] == "0.043 €"
    assert "556\u202f818" in [step["outcome"] for step in lot["working"]["steps"]]
    assert lot["questions"] == []
    assert lot["thousand_seed_weight"]["text"] == "44"


@pytest.mark.parametrize(
    ("change", "code", "field"),
    [
        ({"germination": typed("130", "%")}, "too_large", "germination"),
        ({"thousand_seed_weight": typed("-44", "g/1000")}, "not_positive", "thousand_seed_weight"),
        ({"thousand_seed_weight": typed("")}, "missing", "thousand_seed_weight"),
        ({"thousand_seed_weight": typed("0", "seeds/lb")}, "not_positive", "thousand_seed_weight"),
        ({"name": "  "}, "missing", "name"),
        ({"purity": typed("98", "%"), "purity_of": "bag", "coating": typed("32", "%")}, "more_than_whole", "purity"),
        ({"crop": "dragonfruit"}, "unknown_choice", "crop"),
        ({"bag_weight": typed("a bag", "kg")}, "not_a_number", "bag_weight"),
    ],
)
def test_tags_that_cannot_be(lead: Api, workspace: Workspace, change: dict[str, Any], code: str, field: str) -> None:
    answer = lead.refused("post", f"/workspaces/{workspace.id}/seed-lots", lot_body(**change))
    assert (answer["code"], answer["field"]) == (code, field)
    assert not SeedLot.objects.exists()


def test_a_seed_weight_in_the_wrong_unit_is_asked_about_and_kept(lead: Api, workspace: Workspace) -> None:
    lot = lead.ok("post", f"/workspaces/{workspace.id}/seed-lots", lot_body(thousand_seed_weight=typed("44", "seeds/lb")))
    question = next(item for item in lot["questions"] if item["code"] == "odd_weight")
    assert "mixed up" in question["text"]
    assert lot["thousand_seed_weight"] == {"text": "44", "unit": "seeds/lb", "shown": lot["thousand_seed_weight"]["shown"]}


def test_an_old_test_and_treated_seed_are_warned_of(lead: Api, workspace: Workspace) -> None:
    old = (date.today() - timedelta(days=400)).isoformat()
    body = lot_body(tested_on=old, treated=True, treatment="a fungicide")
    lot = lead.ok("post", f"/workspaces/{workspace.id}/seed-lots", body)
    texts = {item["code"]: item["text"] for item in lot["questions"]}
    assert "400 days old" in texts["old_test"]
    assert "gloves" in texts["treated"]
    assert "a fungicide" in texts["treated"]


def test_the_same_tag_twice_is_refused(lead: Api, workspace: Workspace) -> None:
    add_lot(lead, workspace)
    assert lead.refused("post", f"/workspaces/{workspace.id}/seed-lots", lot_body())["code"] == "duplicate"


def test_the_stand_expected_follows_lot_and_chain(lead: Api, workspace: Workspace, trial: Trial) -> None:
    """320 seeds/m² × 92 % × 80 % × 95 % = 223.7 plants/m² (by hand); of seed sown without the 92 %."""
    sow(lead, trial, crop_part(add_lot(lead, workspace)))
    edit(lead, trial, emergence=typed("80", "%"), emergence_of="live", survival=typed("95", "%"))
    first = seed(lead, trial)["treatments"][0]
    assert first["stand"] == "223.7 /m²"
    assert "92.0 %" in str(first["stand_working"])
    assert first["target"] == {"text": "143.7", "unit": "kg/ha"}
    assert first["mass"] == "143.7 kg/ha", "98 % pure: the rest goes through the drill too"
    edit(lead, trial, emergence_of="sown")
    assert seed(lead, trial)["treatments"][0]["stand"] == "243.2 /m²"


def test_a_rate_in_plants_follows_the_lot(lead: Api, workspace: Workspace, trial: Trial) -> None:
    """240 plants ÷ (0.92 × 0.8) = 326.09 seeds/m²; with a lot of 96 % it becomes 312.5 (by hand)."""
    lot = add_lot(lead, workspace)
    sow(lead, trial, crop_part(lot))
    result = edit(lead, trial, emergence=typed("80", "%"), emergence_of="live", seeding_rate=typed("240", "plants/m2"))
    assert result["treatments"][0]["along_row"]["rate"] == "326.1 /m²"
    lead.ok("patch", f"/seed-lots/{lot}", {"version": 1, "germination": typed("96", "%")})
    again = lead.ok("get", f"/trials/{trial['id']}")
    assert again["treatments"][0]["along_row"]["rate"] == "312.5 /m²"
    assert again["seeding_rate"]["text"] == "240", "what was typed stays as typed"


def test_seed_joins_the_cost_by_the_lots_price(lead: Api, workspace: Workspace, trial: Trial) -> None:
    """320/m² × 24 per 556 818 seeds = 137.9 a hectare, the same for all: no treatment costs more for it (by hand)."""
    sow(lead, trial, crop_part(add_lot(lead, workspace)))
    assert seed(lead, trial)["treatments"][0]["cost"] == "137.93 €/ha"
    margins = [
        item["costs_more"]["text"] for item in lead.ok("get", f"/trials/{trial['id']}")["treatments"] if item["costs_more"]
    ]
    assert margins == ["+20.00 €/ha", "+10.00 €/ha"]


def test_a_lot_of_another_crop_is_refused_and_said(lead: Api, workspace: Workspace, trial: Trial) -> None:
    maize = add_lot(lead, workspace, crop="maize", thousand_seed_weight=typed("290", "g/1000"))
    body = {"version": trial["version"], "parts": [crop_part(maize)]}
    answer = lead.refused("put", f"/trials/{trial['id']}/sowing", body)
    assert (answer["code"], answer["field"]) == ("other_crop", "lot")
    assert "maize" in answer["message"]
    assert "winter wheat" in answer["message"]


def test_a_strangers_lot_is_not_to_be_had(lead: Api, outsider: Api, workspace: Workspace, trial: Trial) -> None:
    elsewhere = Workspace.objects.exclude(id=workspace.id).get()
    theirs = add_lot(outsider, elsewhere)
    body = {"version": trial["version"], "parts": [crop_part(theirs)]}
    assert lead.refused("put", f"/trials/{trial['id']}/sowing", body)["code"] == "unknown_choice"
    lead.refused("patch", f"/seed-lots/{theirs}", {"version": 1, "name": "mine"}, status=404)


def test_double_width_rows_with_a_companion_between(lead: Api, workspace: Workspace, trial: Trial) -> None:
    """At equal seeds per area, 25-cm rows carry twice the seeds of 12.5-cm rows per length (definition); clover joins there."""
    clover = add_lot(lead, workspace, crop="lucerne", name="Terrace clover", thousand_seed_weight=typed("2.1", "g/1000"))
    wheat = add_lot(lead, workspace)
    wide = trial["factors"][0]["level_ids"][2]
    companion = {"part": "companion", "lot_id": clover, "level_id": wide, "rate": typed("8", "kg/ha"), "place": "between"}
    result = sow(lead, trial, crop_part(wheat), companion)
    rows = {item["name"]: item["along_row"] for item in result["treatments"]}
    assert (rows["12.5 cm"]["per_row"], rows["25 cm"]["per_row"]) == ("40.00 /m of row", "80.00 /m of row")
    by_id = {item["treatment_id"]: item["companions"] for item in seed(lead, trial)["treatments"]}
    names = {item["id"]: item["name"] for item in trial["treatments"]}
    assert {names[key]: len(value) for key, value in by_id.items()} == {"12.5 cm": 0, "18 cm": 0, "25 cm": 1}
    (clover_out,) = next(value for value in by_id.values() if value)
    assert clover_out["place"] == "between the rows"
    assert clover_out["mass"] == "8.0 kg/ha"


def test_a_mixture_shares_the_rate(lead: Api, workspace: Workspace, trial: Trial) -> None:
    """70 : 30 by weight of 44- and 30-g seed, both 98 % pure: 61.4 % and 38.6 % of 320 seeds/m² (by hand)."""
    name, other = add_lot(lead, workspace), add_lot(lead, workspace, name="Step", thousand_seed_weight=typed("30", "g/1000"))
    parts = [
        {"part": "mixture", "lot_id": name, "share": typed("70", "%"), "share_by": "weight"},
        {"part": "mixture", "lot_id": other, "share": typed("30", "%"), "share_by": "weight"},
    ]
    sow(lead, trial, *parts)
    mixed = seed(lead, trial)["treatments"][0]["mixture"]
    first = 70 / 44 / (70 / 44 + 30 / 30)
    assert mixed[0]["seeds"] == f"{320 * first:.1f} /m²"
    assert mixed[1]["seeds"] == f"{320 * (1 - first):.1f} /m²"
    parts[1]["share"] = typed("20", "%")
    fresh = lead.ok("get", f"/trials/{trial['id']}")
    answer = lead.refused("put", f"/trials/{trial['id']}/sowing", {"version": fresh["version"], "parts": parts})
    assert answer["code"] == "not_whole"
    assert len(seed(lead, trial)["parts"]) == 2, "the mixture that stood stays"


@pytest.mark.parametrize("wrong", ["two lots", "lot and mixture", "companion without a rate", "mixture without a share"])
def test_sowings_that_contradict_themselves(lead: Api, workspace: Workspace, trial: Trial, wrong: str) -> None:
    name, other = add_lot(lead, workspace), add_lot(lead, workspace, name="Step")
    parts = {
        "two lots": [crop_part(name), crop_part(other)],
        "lot and mixture": [crop_part(name), {"part": "mixture", "lot_id": other, "share": typed("100", "%")}],
        "companion without a rate": [{"part": "companion", "lot_id": other}],
        "mixture without a share": [{"part": "mixture", "lot_id": other}],
    }[wrong]
    lead.refused("put", f"/trials/{trial['id']}/sowing", {"version": trial["version"], "parts": parts})


def test_primed_against_dry_seed_each_by_its_own_lot(lead: Api, workspace: Workspace) -> None:
    """A rate by weight is other seeds for another lot: 140 kg/ha, 98 % pure, are 312 /m² of 44 g, 274 of 50 g."""
    result = lead.ok("post", f"/workspaces/{workspace.id}/trials", {"title": "Priming", "crop": "winter_wheat", "season": 2026})
    result = lead.ok(
        "put",
        f"/trials/{result['id']}/treatments",
        {
            "version": result["version"],
            "factors": [{"kind": "free", "name": "Priming"}],
            "treatments": [{"levels": [typed("dry")], "is_control": True}, {"levels": [typed("primed")]}],
        },
    )
    dry = add_lot(lead, workspace)
    primed = add_lot(lead, workspace, tag="primed", thousand_seed_weight=typed("50", "g/1000"))
    result = edit(lead, result, row_spacing=typed("12.5", "cm"))
    sow(lead, result, crop_part(dry), crop_part(primed, level_id=result["factors"][0]["level_ids"][1]))
    edit(lead, result, seeding_rate=typed("140", "kg/ha"))
    rows = seed(lead, result)["treatments"]
    assert [row["lot"] for row in rows] == ["Terrace Gold, lot T-118", "Terrace Gold, lot primed"]
    assert [row["seeds"] for row in rows] == ["311.8 /m²", "274.4 /m²"]
    assert {row["mass"] for row in rows} == {"140.0 kg/ha"}


def test_a_changed_lot_of_a_frozen_trial_wants_a_reason(lead: Api, workspace: Workspace, trial: Trial) -> None:
    lot = add_lot(lead, workspace)
    sow(lead, trial, crop_part(lot))
    edit(lead, trial, emergence=typed("80", "%"), emergence_of="live", seeding_rate=typed("240", "plants/m2"))
    lead.ok("post", f"/trials/{trial['id']}/protocol")
    answer = lead.refused("patch", f"/seed-lots/{lot}", {"version": 1, "tag": "T-119"}, status=409)
    assert answer["code"] == "frozen"
    assert SeedLot.objects.get(id=lot).tag == "T-118"
    lead.ok("patch", f"/seed-lots/{lot}", {"version": 1, "tag": "T-119", "amendment": "misread the tag"})
    protocol = lead.ok("get", f"/trials/{trial['id']}")["protocol"]
    assert protocol["amendments"][0]["changes"][0][0] == "seed"
    assert SeedLot.history.filter(id=lot).count() == 2, "what the tag said before is kept"


def test_fertiliser_with_the_seed_against_a_spacing_one_knows(lead: Api, trial: Trial) -> None:
    """25 cm against 12.5 cm, the same opener: twice as thick (definition). No safe limit is ever named."""
    values = {"rate": typed("80", "kg/ha"), "spread": typed("2.5", "cm"), "reference_spacing": typed("12.5", "cm")}
    body = {"version": trial["version"], "calculator": "fertiliser", "values": values}
    lead.ok("put", f"/trials/{trial['id']}/kept-inputs", body)
    result = seed(lead, trial)
    assert [(row["row_spacing"], row["relative"], row["warns"]) for row in result["fertiliser"]] == [
        ("12.5 cm", "1.00 ×", False),
        ("18.0 cm", "1.44 ×", True),
        ("25.0 cm", "2.00 ×", True),
    ]
    assert "local guidance" in result["fertiliser_caution"]


def test_bad_kept_inputs_are_kept_and_said(lead: Api, trial: Trial) -> None:
    values = {"rate": typed("much", "kg/ha"), "spread": typed("2.5", "cm"), "reference_spacing": typed("12.5", "cm")}
    body = {"version": trial["version"], "calculator": "fertiliser", "values": values}
    lead.ok("put", f"/trials/{trial['id']}/kept-inputs", body)
    result = seed(lead, trial)
    assert result["fertiliser"] == []
    assert result["fertiliser_problem"]["field"] == "rate"
    assert result["kept"]["fertiliser"]["rate"]["text"] == "much"


def test_wheels_into_the_costs(lead: Api, trial: Trial) -> None:
    """The loss per spacing times yield and worth joins the cost lines of its level, and a second time replaces the first."""
    path = f"/trials/{trial['id']}"
    assert lead.refused("post", f"{path}/wheel-costs", {"version": trial["version"]})["code"] == "missing"
    fresh = edit(lead, trial, expected_yield=typed("7", "t/ha"))
    fresh = lead.ok("put", f"{path}/kept-inputs", wheels_body(fresh["version"]))
    result = seed(lead, trial)
    losses = {row["row_spacing"]: row["loss"] for row in result["wheels"]}
    assert result["wheels_into_costs"]
    for _ in range(2):
        fresh = lead.ok("post", f"{path}/wheel-costs", {"version": fresh["version"]})
    lines = [line for line in fresh["costs"] if line["label"] == "Wheel tracks"]
    shown = [row for row in losses.values() if row != "0.00 €/ha"]
    assert [line["each"]["shown"] for line in lines] == shown
    assert len(shown) >= 1
    narrow = next(row for row in result["wheels"] if row["row_spacing"] == "12.5 cm")
    assert {row["better_centre"] for row in result["wheels"]} <= {"on a row", "between two rows"}
    wide = next(row for row in result["wheels"] if row["row_spacing"] == "25.0 cm")
    # wheels reach from 72 to 108 cm: rows at 75 and 100 with the centre on a row, only 87.5 between two (by hand)
    assert (wide["rows_hit"], wide["better_centre"]) == (2, "between two rows")
    share = narrow["rows_hit"] / (24 / 0.125) * 0.8
    assert losses["12.5 cm"] == f"{share * 7 * 190:.2f} €/ha"  # by hand: 7 t at 200 less 10


def keep(api: Api, trial: Trial, calculator: str, **values: dict[str, str]) -> Trial:
    version = api.ok("get", f"/trials/{trial['id']}")["version"]
    body = {"version": version, "calculator": calculator, "values": values}
    return api.ok("put", f"/trials/{trial['id']}/kept-inputs", body)


METER = {
    "discs": typed("24 30"),
    "driving": typed("17 19 22"),
    "driven": typed("18 23 28"),
    "fixed_ratio": typed("0.5"),
    "circumference": typed("2.1", "m"),
    "seeds_a_hole": typed("1"),
    "slip": typed("3", "%"),
}


def test_the_meter_is_matched_to_each_treatment(lead: Api, workspace: Workspace) -> None:
    """75-cm rows, wheel 2.1 m, slip 3 %: 24 holes, 19 on 18 teeth sow 78.0 thousand/ha, 2.5 % under 80 (by hand):
    24 × 19 ÷ 18 × 0.5 = 12.667 seeds on 2.165 m of 0.75-m row."""
    result = lead.ok("post", f"/workspaces/{workspace.id}/trials", {"title": "Rates", "crop": "maize", "season": 2026})
    rows = [{"levels": [typed(rate, "k/ha")], "is_control": rate == "80"} for rate in ("60", "80", "100")]
    body = {"version": result["version"], "factors": [{"kind": "seeding_rate"}], "treatments": rows}
    result = lead.ok("put", f"/trials/{result['id']}/treatments", body)
    edit(lead, result, row_spacing=typed("75", "cm"))
    keep(lead, result, "meter", **METER)
    meter = seed(lead, result)["meter"]
    assert meter[1]["combination"] == "24 holes, 19 on 18 teeth"
    assert (meter[1]["rate"], meter[1]["off"]) == ("78.0 thousand/ha", "−2.5 %")
    assert len({row["combination"] for row in meter}) == 3
    assert len(meter[0]["working"]["table"]) == 19
    keep(lead, result, "meter", **METER | {"discs": typed("24 3O")})
    broken = seed(lead, result)
    assert broken["meter"] == []
    assert broken["meter_problem"]["field"] == "discs"


def test_counted_seed_for_the_plots_of_each_treatment(lead: Api, workspace: Workspace, trial: Trial) -> None:
    """6 rows of 4 m at 12.5, 18 and 25 cm: 320 × 6 × 0.125 × 4 = 960 seeds, 160 a row; 1382.4 up to 231 a row (by hand)."""
    sow(lead, trial, crop_part(add_lot(lead, workspace)))
    keep(lead, trial, "envelope", rows=typed("6"), length=typed("4", "m"))
    rows = seed(lead, trial)["envelopes"]
    assert [(row["a_row"], row["seeds"]) for row in rows] == [(160, 960), (231, 1386), (320, 1920)]
    assert rows[0]["weight"] == "43.1 g"  # 960 × 44 g ÷ 0.98 ÷ 1000 (by hand)


def test_the_product_stands_in_the_working(lead: Api, trial: Trial) -> None:
    values = {"rate": typed("80", "kg/ha"), "spread": typed("2.5", "cm"), "reference_spacing": typed("12.5", "cm")}
    keep(lead, trial, "fertiliser", **values, product=typed("Starter 11-52"))
    assert seed(lead, trial)["fertiliser"][0]["working"]["title"] == "Starter 11-52 with the seed at 12.5 cm"


def test_the_crop_stays_while_a_lot_of_it_is_chosen(lead: Api, workspace: Workspace, trial: Trial) -> None:
    fresh = sow(lead, trial, crop_part(add_lot(lead, workspace)))
    answer = lead.refused("patch", f"/trials/{trial['id']}", {"version": fresh["version"], "crop": "maize"}, status=409)
    assert "Terrace Gold, lot T-118 is winter wheat" in answer["message"]
    fresh = sow(lead, trial)
    assert lead.ok("patch", f"/trials/{trial['id']}", {"version": fresh["version"], "crop": "barley"})["crop"] == "barley"


def test_a_level_with_a_companion_does_not_go_unseen(lead: Api, workspace: Workspace, trial: Trial) -> None:
    clover = add_lot(lead, workspace, crop="lucerne", name="Clover", thousand_seed_weight=typed("2.1", "g/1000"))
    wide = trial["factors"][0]["level_ids"][2]
    fresh = sow(lead, trial, {"part": "companion", "lot_id": clover, "level_id": wide, "rate": typed("8", "kg/ha")})
    rows = [{"levels": [typed(level, "cm")], "is_control": level == "12.5"} for level in ("12.5", "18", "30")]
    body = {"version": fresh["version"], "factors": [{"kind": "row_spacing"}], "treatments": rows}
    answer = lead.refused("put", f"/trials/{trial['id']}/treatments", body, status=409)
    assert "Clover, lot T-118 is sown on “25” only" in answer["message"]
    assert len(seed(lead, trial)["parts"]) == 1
    assert [item["name"] for item in lead.ok("get", f"/trials/{trial['id']}")["treatments"]] == ["12.5 cm", "18 cm", "25 cm"]


def test_a_companions_seed_is_paid_for_by_those_who_sow_it(lead: Api, workspace: Workspace, trial: Trial) -> None:
    """8 kg/ha from a 20-kg bag for 40 is 16 a hectare more for the 12.5-cm rows, beside the 20 stated (by hand)."""
    clover = add_lot(
        lead,
        workspace,
        crop="lucerne",
        name="Clover",
        thousand_seed_weight=typed("2.1", "g/1000"),
        purity=typed("100", "%"),
        bag_price=typed("40", "money"),
        bag_weight=typed("20", "kg"),
    )
    narrow = trial["factors"][0]["level_ids"][0]
    result = sow(lead, trial, {"part": "companion", "lot_id": clover, "level_id": narrow, "rate": typed("8", "kg/ha")})
    costs = {item["name"]: item["costs_more"]["text"] for item in result["treatments"] if item["costs_more"]}
    assert costs == {"12.5 cm": "+36.00 €/ha", "18 cm": "+10.00 €/ha"}
    working = next(item["margin_working"] for item in result["treatments"] if item["name"] == "12.5 cm")
    assert "seed of Clover, lot T-118" in str(working)


def test_a_mixture_for_one_level_takes_the_place_of_the_general_lot(lead: Api, workspace: Workspace, trial: Trial) -> None:
    name, other = add_lot(lead, workspace), add_lot(lead, workspace, name="Step", thousand_seed_weight=typed("30", "g/1000"))
    wide = trial["factors"][0]["level_ids"][2]
    mixed = [
        {"part": "mixture", "lot_id": lot, "level_id": wide, "share": typed("50", "%"), "share_by": "seeds"}
        for lot in (name, other)
    ]
    sow(lead, trial, crop_part(name), *mixed)
    rows = seed(lead, trial)["treatments"]
    assert [row["lot"] for row in rows] == [
        "Terrace Gold, lot T-118",
        "Terrace Gold, lot T-118",
        "Terrace Gold, lot T-118 + Step, lot T-118",
    ]
    # 320 seeds/m²: half of 44 g, half of 30 g, both 98 % pure: 37 g ÷ 0.98 × 3.2 = 120.8 kg/ha (by hand)
    assert [row["mass"] for row in rows] == ["143.7 kg/ha", "143.7 kg/ha", "120.8 kg/ha"]


def test_a_reader_in_us_units_reads_the_same_seed(lead: Api, workspace: Workspace, trial: Trial) -> None:
    """320 /m² are 29.73 /ft²; 143.67 kg/ha are 128.2 lb/ac (definition); what was typed stays as typed."""
    sow(lead, trial, crop_part(add_lot(lead, workspace)))
    lead.ok("patch", "/session", {"unit_system": "us"})
    result = seed(lead, trial)
    assert (result["treatments"][0]["seeds"], result["treatments"][0]["mass"]) == ("29.73 /ft²", "128.2 lb/ac")
    assert result["lots"][0]["thousand_seed_weight"]["text"] == "44"
    assert result["lots"][0]["thousand_seed_weight"]["shown"] == "10\u202f309 seeds/lb"


def test_seed_needed_follows_the_lot(lead: Api, workspace: Workspace, trial: Trial) -> None:
    """3 strips of 6 × 300 m are 0.54 ha: 143.67 kg/ha and a tenth in reserve are 85.3 kg, 3.4 bags of 25 kg (by hand)."""
    sow(lead, trial, crop_part(add_lot(lead, workspace)))
    card = lead.ok("get", f"/trials/{trial['id']}/pass-card?reserve_pct=10")
    assert [(row["weight"], row["bags"]) for row in card["seed"]] == [("85.3 kg", "3.4")] * 3


@pytest.mark.parametrize("method", ["post", "patch"])
def test_a_stale_lot_and_a_viewer(lead: Api, viewer: Api, workspace: Workspace, method: str) -> None:
    lot = add_lot(lead, workspace)
    if method == "post":
        viewer.refused("post", f"/workspaces/{workspace.id}/seed-lots", lot_body(tag="other"), status=403)
        assert SeedLot.objects.count() == 1
        return
    lead.ok("patch", f"/seed-lots/{lot}", {"version": 1, "tag": "T-2"})
    assert lead.refused("patch", f"/seed-lots/{lot}", {"version": 1, "tag": "T-3"}, status=409)["code"] == "stale"
    assert SeedLot.objects.get(id=lot).tag == "T-2"
