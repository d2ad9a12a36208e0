"""The harvest through the API: loads that wait, pieces, passes, shrink, odd loads and exchanged strips."""

from __future__ import annotations

from typing import Any
from uuid import uuid4

import pytest
from apps.accounts.models import Workspace
from apps.field.harvest.models import HarvestLoad

from tests.server.conftest import Api, harvest_all, load_body, typed

Answer = dict[str, Any]


def put(api: Api, trial: Answer, place: int = 0, **changes: Any) -> Answer:
    body = load_body(trial["strips"][place]) | changes
    answer: Answer = api.ok("put", f"/trials/{trial['id']}/harvest-loads/{uuid4()}", body)
    return answer


def codes(load: Answer) -> list[str]:
    return [item["code"] for item in load["questions"]]


def test_a_load_without_its_moisture_is_kept_and_waits(lead: Api, trial: Answer) -> None:
    load_id = str(uuid4())
    path = f"/trials/{trial['id']}/harvest-loads/{load_id}"
    body = load_body(trial["strips"][0], moisture=typed("", "%"))
    waiting = lead.ok("put", path, body)
    assert (waiting["yield_"], codes(waiting)) == (None, ["no_moisture"])
    assert HarvestLoad.objects.get().net_kg == 1200
    harvest = lead.ok("get", f"/trials/{trial['id']}/harvest")
    assert harvest["strips"][0]["yield_"] is None
    strip = lead.ok("get", f"/trials/{trial['id']}")["strips"][0]
    assert (strip["loads"], strip["yield_"]) == (1, None)
    assert lead.ok("get", f"/trials/{trial['id']}/verdict")["state"] == "none"
    whole = lead.ok("put", path, load_body(trial["strips"][0], version=1))
    assert whole["yield_"]["value"] > 7
    assert "no_moisture" not in codes(whole)


def test_a_load_over_two_strips_is_refused_with_the_reason(lead: Api, trial: Answer) -> None:
    body = load_body(trial["strips"][0], more_strip_ids=[trial["strips"][1]["id"]])
    answer = lead.refused("put", f"/trials/{trial['id']}/harvest-loads/{uuid4()}", body)
    assert answer["code"] == "shared_load"
    assert "strips 1, 2" in answer["message"]
    assert not HarvestLoad.objects.exists()
    own = load_body(trial["strips"][0], more_strip_ids=[trial["strips"][0]["id"]])
    lead.ok("put", f"/trials/{trial['id']}/harvest-loads/{uuid4()}", own)


def test_the_same_weights_twice_are_asked_about(lead: Api, trial: Answer) -> None:
    weights = {"net": typed("", "kg"), "gross": typed("7000", "kg"), "tare": typed("5800", "kg")}
    put(lead, trial, 0, **weights)
    assert "same_weights" in codes(put(lead, trial, 1, **weights))


def test_passes_shrink_and_test_weight(lead: Api, trial: Answer) -> None:
    """1200 kg at 14.2 % from two passes of 2.7 m × 300 m, less 1 % (by hand)."""
    load = put(
        lead,
        trial,
        0,
        swath_width=typed("2.7", "m"),
        passes=typed("2", ""),
        shrink=typed("1", "%"),
        test_weight=typed("60", "lb/bu"),
    )
    assert load["yield_"]["value"] == pytest.approx(1.2 / 0.162 * (100 - 14.2) / (100 - 13.5) * 0.99, abs=5e-3)
    assert [step["label"] for step in load["working"]["steps"]][-1] == "Less handling shrink"
    assert load["test_weight"]["shown"] == "77.2 kg/hL"
    assert codes(load) == []
    assert "odd_test_weight" in codes(put(lead, trial, 1, test_weight=typed("60", "kg/hL")))


@pytest.mark.parametrize(
    ("changes", "field"),
    [
        ({"passes": typed("0", "")}, "passes"),
        ({"passes": typed("1.5", "")}, "passes"),
        ({"pieces": typed("-3", "")}, "pieces"),
        ({"shrink": typed("40", "%")}, "shrink"),
        ({"test_weight": typed("7", "kg/hL")}, "test_weight"),
        ({"gross": typed("5000", "kg"), "tare": typed("6000", "kg"), "net": typed("", "kg")}, "tare"),
        ({"moisture": typed("140", "%")}, "moisture"),
        ({"net": typed("12oo", "kg")}, "net"),
    ],
)
def test_bad_loads_are_refused_with_their_field(lead: Api, trial: Answer, changes: Answer, field: str) -> None:
    body = load_body(trial["strips"][0]) | changes
    assert lead.refused("put", f"/trials/{trial['id']}/harvest-loads/{uuid4()}", body)["field"] == field
    assert not HarvestLoad.objects.exists()


def test_counted_produce_has_number_and_weight(lead: Api, trial: Answer, workspace: Workspace) -> None:
    """Garlic: 9000 bulbs of 540 kg on 162 m²: 55.6 a m², 60 g each (by hand)."""
    assert workspace
    lead.ok("patch", f"/trials/{trial['id']}", {"version": trial["version"], "crop": "garlic"})
    body = {"net": typed("540", "kg"), "pieces": typed("9000", ""), "length": typed("30", "m"), "moisture": typed("", "%")}
    load = put(lead, trial, 0, **body)
    assert load["per_area"].endswith("60 g each")
    assert load["per_area"].startswith("55.6 ")
    assert load["yield_"]["value"] == pytest.approx(540 / 162 * 10)
    odd = put(lead, trial, 1, **(body | {"pieces": typed("900", "")}))
    assert "odd_pieces" in codes(odd)


def test_forage_yields_dry_matter(lead: Api, trial: Answer) -> None:
    """950 kg at 68 % from 0.162 ha is 1.877 t/ha of dry matter (by hand)."""
    lead.ok("patch", f"/trials/{trial['id']}", {"version": trial["version"], "crop": "lucerne"})
    load = put(lead, trial, 0, net=typed("950", "kg"), moisture=typed("68", "%"))
    assert load["yield_"]["value"] == pytest.approx(950 * 0.32 / 0.162 / 1000, abs=5e-3)
    assert load["working"]["steps"][-1]["label"] == "Dry matter"


def test_two_strips_that_look_exchanged_are_pointed_out(lead: Api, trial: Answer) -> None:
    """Loads of two treatments of a block the wrong way round, little scatter otherwise."""
    harvest_all(lead, trial, {"A": 1100, "B": 1250, "C": 1400}, spread=3)
    assert lead.ok("get", f"/trials/{trial['id']}/harvest")["swap"] == ""
    letters = {item["id"]: item["letter"] for item in trial["treatments"]}
    block = trial["strips"][0]["block_name"]
    loads = {
        letters[load.strip.treatment_id.__str__()]: load
        for load in HarvestLoad.objects.select_related("strip")
        if str(load.strip.id) in {item["id"] for item in trial["strips"] if item["block_name"] == block}
    }
    harvest_load, other = loads["A"], loads["C"]
    harvest_load.yield_kg_per_ha, other.yield_kg_per_ha = other.yield_kg_per_ha, harvest_load.yield_kg_per_ha
    harvest_load.save()
    other.save()
    swap = lead.ok("get", f"/trials/{trial['id']}/harvest")["swap"]
    assert "look exchanged" in swap
    assert {str(harvest_load.strip.order), str(other.strip.order)} <= set(swap.lower().replace(",", "").split())
    assert "nothing is changed" in swap


def test_a_load_far_from_its_treatment_and_block_is_asked_about_and_one_of_a_treatment_that_works_is_not(
    lead: Api, trial: Answer
) -> None:
    """One treatment gives twice the others on every strip: no question; a third less than that is asked about."""
    letters = {item["id"]: item["letter"] for item in trial["treatments"]}
    nets = {"A": 1400, "B": 700, "C": 720}
    last = None
    for place, strip in enumerate(trial["strips"]):
        letter = letters[strip["treatment_id"]]
        if letter == "A" and strip["block"] == 3:
            last = place
            continue
        put(lead, trial, place, net=typed(str(nets[letter] + place), "kg"))
    assert last is not None
    assert codes(put(lead, trial, last, net=typed("1395", "kg"))) == []
    every = lead.ok("get", f"/trials/{trial['id']}/harvest")["strips"]
    assert [question for strip in every for load in strip["loads"] for question in load["questions"]] == []
    assert codes(put(lead, trial, last, net=typed("930", "kg"))) == ["off_expected"]


def test_the_book_knows_how_a_strip_was_last_cut(lead: Api, trial: Answer) -> None:
    before = lead.ok("get", f"/trials/{trial['id']}/harvest")["strips"][3]
    assert before["length"]["text"]
    put(lead, trial, 3, swath_width=typed("4.8", "m"), length=typed("290", "m"))
    harvest = lead.ok("get", f"/trials/{trial['id']}/harvest")
    assert harvest["strips"][3]["length"]["text"] == "290"
    assert harvest["strips"][5]["swath_width"]["text"] == "4.8", "the header is the same on the next strip"
    assert harvest["strips"][5]["length"]["text"] == before["length"]["text"]
    assert harvest["yield_unit"] == {"label": "t/ha", "factor": pytest.approx(1000), "decimals": 2}


def test_the_trial_may_set_its_own_standard_moisture(lead: Api, trial: Answer) -> None:
    """Base moistures are the trade's, editable: loads follow, keep their history, and an empty field takes it back."""
    put(lead, trial, 0)
    put(lead, trial, 1, moisture=typed("", "%"))
    before = lead.ok("get", f"/trials/{trial['id']}/harvest")["strips"][0]["yield_"]["value"]
    version = lead.ok("get", f"/trials/{trial['id']}")["version"]
    path = f"/trials/{trial['id']}"
    lead.ok("patch", path, {"version": version, "standard_moisture": typed("0", "%")})
    dry = lead.ok("get", f"{path}/harvest")
    assert dry["standard_moisture_pct"] == 0
    assert dry["strips"][0]["yield_"]["value"] == pytest.approx(before * (100 - 13.5) / 100, abs=6e-3)
    assert dry["strips"][0]["loads"][0]["version"] == 2
    assert codes(dry["strips"][1]["loads"][0]) == ["no_moisture"]
    assert HarvestLoad.history.count() == 4
    refused = lead.refused("patch", path, {"version": version + 1, "standard_moisture": typed("75", "%")})
    assert refused["field"] == "standard_moisture"
    lead.ok("patch", path, {"version": version + 1, "standard_moisture": typed("", "%")})
    assert lead.ok("get", f"{path}/harvest")["strips"][0]["yield_"]["value"] == pytest.approx(before)
