"""An amount measured before planting: it adjusts, stands beside, or is refused, by its date and the frozen protocol."""

from __future__ import annotations

from typing import Any

import pytest

from tests.server.conftest import Api, harvest_all
from tests.server.test_verdict_designs import verdict

Place = dict[str, Any]


def covariate(api: Api, trial: Place, day: str, **more: Any) -> Place:
    """Soil moisture that goes with the gradient along the field."""
    fresh = api.ok("get", f"/trials/{trial['id']}")
    body = {
        "version": fresh["version"],
        "name": "Soil moisture",
        "unit": "%",
        "measured_on": day,
        "values": [
            {"strip_id": strip["id"], "text": f"{20 + 0.5 * place + (place * 5) % 3:g}"}
            for place, strip in enumerate(fresh["strips"])
        ],
    }
    return api.ok("put", f"/trials/{trial['id']}/covariate", body | more)


def planted(api: Api, trial: Place, day: str) -> Place:
    fresh = api.ok("get", f"/trials/{trial['id']}")
    return api.ok("patch", f"/trials/{trial['id']}", {"version": fresh["version"], "planted_on": day, "question": "Rows?"})


def test_a_covariate_named_in_the_frozen_protocol_adjusts(lead: Api, trial: Place) -> None:
    planted(lead, trial, "2025-10-05")
    covariate(lead, trial, "2025-09-20")
    lead.ok("post", f"/trials/{trial['id']}/protocol")
    harvest_all(lead, trial, {"A": 1260, "B": 1140, "C": 1130})
    result = verdict(lead, trial)
    assert "slope × covariate" in result["yield_"]["method"]
    assert [row["source"] for row in result["yield_"]["anova"]][-2:] == ["covariate", "residual"]
    labels = [item["label"] for item in result["alternates"]]
    assert labels[-1] == "without Soil moisture as a covariate"
    assert any("named in the frozen protocol" in item for item in result["remarks"])


def test_a_covariate_named_too_late_stands_beside(lead: Api, trial: Place) -> None:
    planted(lead, trial, "2025-10-05")
    lead.ok("post", f"/trials/{trial['id']}/protocol")
    refused = lead.call(
        "put",
        f"/trials/{trial['id']}/covariate",
        {
            "version": lead.ok("get", f"/trials/{trial['id']}")["version"],
            "name": "Soil",
            "measured_on": "2025-09-20",
        },
    )
    assert refused.status_code == 409, "a frozen protocol asks for the reason"
    covariate(lead, trial, "2025-09-20", amendment="found the sheet")
    harvest_all(lead, trial, {"A": 1260, "B": 1140, "C": 1130})
    result = verdict(lead, trial)
    assert "covariate" not in result["yield_"]["method"]
    assert [item["label"] for item in result["alternates"]][-1] == "adjusted by Soil moisture"
    assert any("decides nothing" in item for item in result["remarks"])


def test_what_was_measured_after_planting_never_adjusts(lead: Api, trial: Place) -> None:
    planted(lead, trial, "2025-10-05")
    covariate(lead, trial, "2025-11-01")
    lead.ok("post", f"/trials/{trial['id']}/protocol")
    harvest_all(lead, trial, {"A": 1260, "B": 1140, "C": 1130})
    result = verdict(lead, trial)
    assert "covariate" not in result["yield_"]["method"]
    assert not any("Soil" in item["label"] for item in result["alternates"])
    assert any("must not adjust it" in item for item in result["remarks"])
    assert "must not adjust it" in lead.ok("get", f"/trials/{trial['id']}/covariate")["words"]


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"measured_on": None}, "day of measuring"),
        ({"values": [{"strip_id": "00000000-0000-4000-8000-000000000001", "text": "4"}]}, "trial's own"),
        ({"name": "x" * 61}, "The name"),
    ],
)
def test_a_covariate_that_cannot_be_is_refused(lead: Api, trial: Place, change: Place, words: str) -> None:
    body = {"version": trial["version"], "name": "Soil", "measured_on": "2025-09-01", "values": []} | change
    assert words in lead.refused("put", f"/trials/{trial['id']}/covariate", body)["message"]


def test_a_value_that_is_no_number_names_its_strip(lead: Api, trial: Place) -> None:
    body = {
        "version": trial["version"],
        "name": "Soil",
        "measured_on": "2025-09-01",
        "values": [{"strip_id": trial["strips"][1]["id"], "text": "wet"}],
    }
    assert "Strip 2" in lead.refused("put", f"/trials/{trial['id']}/covariate", body)["message"]


def test_a_covariate_taken_away_is_gone_from_the_verdict(lead: Api, trial: Place) -> None:
    fresh = covariate(lead, trial, "2025-09-20")
    lead.ok("put", f"/trials/{trial['id']}/covariate", {"version": fresh["version"], "name": ""})
    assert lead.ok("get", f"/trials/{trial['id']}/covariate")["name"] == ""
