"""Kinds of record that are described by their entries alone: what follows from the description."""

from __future__ import annotations

from typing import Any
from uuid import uuid4

import pytest
from apps.records.kinds import KINDS

from tests.server.conftest import Api, now, typed

Place = dict[str, Any]


def read(api: Api, trial: Place, strip: Place, resistance: str, unit: str = "MPa", depth: str = "15", **more: Any) -> Place:
    body = {"strip_id": strip["id"], "resistance": typed(resistance, unit), "depth": typed(depth, "cm"), "recorded_at": now()}
    return api.ok("put", f"/trials/{trial['id']}/penetrometer-readings/{uuid4()}", body | more)


def test_a_reading_is_shown_as_read(lead: Api, placed: Place) -> None:
    """300 psi is 2.07 MPa (1 psi = 6.894757 kPa, NIST Special Publication 811, appendix B)."""
    got = read(lead, placed, placed["strips"][0], "300", "psi")
    assert got["text"] == "2.07 MPa, at 15 cm"
    assert got["values"]["resistance"] == {"text": "300", "unit": "psi", "shown": "2.07 MPa"}
    assert got["questions"] == []
    odd = read(lead, placed, placed["strips"][0], "9")
    assert [item["code"] for item in odd["questions"]] == ["odd_value"]


@pytest.mark.parametrize(
    ("changes", "field", "words"),
    [
        ({"resistance": typed("4000", "psi")}, "resistance", "psi"),
        ({"resistance": typed("", "MPa")}, "resistance", "needed|without"),
        ({"depth": typed("80", "in")}, "depth", "in"),
        ({"depth": typed("deep", "cm")}, "depth", "number"),
    ],
)
def test_what_cannot_be_is_refused_in_the_unit_typed(lead: Api, placed: Place, changes: Place, field: str, words: str) -> None:
    body = {
        "strip_id": placed["strips"][0]["id"],
        "resistance": typed("2", "MPa"),
        "depth": typed("15", "cm"),
        "recorded_at": now(),
    } | changes
    refused = lead.refused("put", f"/trials/{placed['id']}/penetrometer-readings/{uuid4()}", body)
    assert refused["field"] == field
    assert any(word in refused["message"] for word in words.split("|")), refused["message"]


def test_treatments_side_by_side_each_depth_by_itself(lead: Api, placed: Place) -> None:
    """Two readings a strip make one mean; the difference is the mean of the differences within the blocks."""
    control = {item["id"] for item in placed["treatments"] if item["is_control"]}
    worth = {}
    for number, strip in enumerate(placed["strips"]):
        base = 2.0 + 0.1 * strip["block"] + (0 if strip["received_id"] in control else 0.4) + 0.03 * (number % 3)
        for off in (-0.1, 0.1):
            read(lead, placed, strip, f"{base + off:.2f}")
        worth[strip["id"]] = base
        read(lead, placed, strip, "1.1", depth="30")
    result = lead.ok("get", f"/trials/{placed['id']}/readings")
    assert [(item["name"], item["subject"]) for item in result["summaries"]] == [
        ("Soil resistance", "at 15 cm"),
        ("Soil resistance", "at 30 cm"),
    ]
    rows = {item["treatment_id"]: item for item in result["summaries"][0]["treatments"]}
    own = {
        key: [worth[strip["id"]] for strip in placed["strips"] if strip["received_id"] == key]
        for key in (item["id"] for item in placed["treatments"])
    }
    for key, values in own.items():
        assert rows[key]["mean"]["value"] == pytest.approx(sum(values) / len(values), abs=0.006)
        if key not in control:
            (against,) = (own[item] for item in control)
            wanted = sum(values) / len(values) - sum(against) / len(against)
            assert rows[key]["difference"]["value"] == pytest.approx(wanted, abs=0.006)
            assert rows[key]["lower"]["value"] < wanted < rows[key]["upper"]["value"]


def test_a_void_reading_counts_no_more(lead: Api, placed: Place) -> None:
    got = read(lead, placed, placed["strips"][0], "2")
    lead.ok("post", f"/records/penetrometer-reading/{got['id']}/void", {"voided": True, "reason": "a stone", "version": 1})
    result = lead.ok("get", f"/trials/{placed['id']}/readings")
    assert result["summaries"] == []
    assert all(not strip["readings"] for strip in result["strips"])


def test_the_description_is_whole() -> None:
    """A kind of reading without a button, a hint or its entries in the model fails here."""
    for kind in (item for item in KINDS.values() if item.entries):
        assert kind.button
        assert kind.hint
        assert kind.task
        assert kind.shown_in == ("readings", "readings")
        for entry in kind.entries:
            assert entry.low < entry.high
            assert hasattr(kind.model, entry.name), f"{kind.name} has no place for {entry.name}"
