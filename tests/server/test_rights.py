"""Rights beyond the table: one's own records and others', parts that may be given, farms that a part reaches."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any
from uuid import uuid4

import pytest
from apps.accounts.models import Membership, User, Workspace
from apps.accounts.people import reach_farms
from apps.accounts.rights import RIGHTS, ROLES
from apps.analysis.power.queries import FarmExperience, farm_experience
from apps.farms.models import Field
from apps.trial_state.view import TrialView, view
from apps.trials.queries import trial_for

from tests.server.conftest import Api, count_body, load_body, member, record_count, trial_of, typed

Place = dict[str, Any]
HERE, THERE = "Hallow Farm", "Sallow Farm"


def of_farm(name: str, workspace: Workspace, role: str, *farms: str) -> Api:
    api = member(name, workspace, role)
    reach_farms(Membership.objects.get(user__username=name, workspace=workspace), list(farms))
    return api


@pytest.fixture
def farms(lead: Api, workspace: Workspace) -> tuple[Place, Place]:
    """The same trial on two farms of a workspace, each with a count and a load on every strip."""
    trials = []
    for farm in (HERE, THERE):
        trial = trial_of(lead, workspace)
        Field.objects.filter(id=trial["field"]["id"]).update(farm=farm, name=f"Ground of {farm}")
        path = f"/trials/{trial['id']}"
        trial = lead.ok("patch", path, {"version": trial["version"], "title": f"Width at {farm}", "series": "Width"})
        for strip in trial["strips"]:
            lead.ok("put", f"{path}/stand-counts/{uuid4()}", count_body(strip, "40"))
            weight = f"{1_000 + 10 * strip['order'] + 40 * (strip['treatment_id'] == trial['treatments'][1]['id'])}"
            lead.ok("put", f"{path}/harvest-loads/{uuid4()}", load_body(strip, weight))
        trials.append(lead.ok("get", path))
    return trials[0], trials[1]


def test_a_role_may_no_less_than_one_below_it() -> None:
    """An owner everything; an adviser all but the settings; who records also sees; a reader and a grower do not design."""
    assert RIGHTS["adviser"] == RIGHTS["owner"] - {"settings"}
    assert all("see" in RIGHTS[role] for role in ROLES)
    for deed in ("freeze", "amend", "share", "people"):
        assert {role for role in ROLES if deed in RIGHTS[role]} == {"owner", "adviser"}
    assert "money" not in RIGHTS["field_hand"]


def test_own_records_and_those_of_others(lead: Api, adviser: Api, scout: Api, trial: Place) -> None:
    path = f"/trials/{trial['id']}/stand-counts"
    own, body = record_count(scout, trial)
    assert scout.ok("put", f"{path}/{own}", {**body, "plants": "71", "version": 1})["version"] == 2
    other, body = record_count(lead, trial)
    refused = scout.refused("put", f"{path}/{other}", {**body, "plants": "71", "version": 1}, status=403)
    assert "Correct records of others" in refused["message"]
    scout.ok("put", f"{path}/{other}", body)  # the same again, as an outbox sends it after a lost answer, changes nothing
    void = {"voided": True, "reason": "wrong strip", "version": 1}
    assert scout.call("post", f"/records/stand-count/{other}/void", void).status_code == 403
    scout.ok("post", f"/records/stand-count/{own}/void", void | {"version": 2})
    assert adviser.ok("put", f"{path}/{other}", {**body, "plants": "72", "version": 1})["version"] == 2
    adviser.ok("post", f"/records/stand-count/{other}/void", void | {"version": 2})


def test_a_frozen_protocol_is_amended_by_who_may(lead: Api, adviser: Api, scout: Api, trial: Place) -> None:
    path = f"/trials/{trial['id']}"
    assert scout.call("post", f"{path}/protocol").status_code == 403
    frozen = adviser.ok("post", f"{path}/protocol")
    change = {"version": frozen["version"], "guess": "It pays.", "amendment": "Asked again."}
    assert scout.call("patch", path, change).status_code == 403
    assert adviser.ok("patch", path, change)["protocol"]["amendments"][0]["reason"] == "Asked again."
    del lead


def test_nobody_gives_or_takes_more_than_they_may(lead: Api, adviser: Api, scout: Api, workspace: Workspace) -> None:
    del scout
    people = f"/workspaces/{workspace.id}/people"
    for path, body in (
        (f"{people}/corin", {"role": "owner"}),
        (f"{people}/mirren", {"role": "reader"}),
        (f"{people}/anselm", {"role": "owner"}),
    ):
        assert adviser.call("patch", path, body).status_code == 403, path
    assert adviser.call("delete", f"{people}/mirren").status_code == 403
    assert adviser.call("post", f"{people}/mirren/deactivate").status_code in (403, 422)
    assert adviser.call("post", f"{people}/mirren/reset-link").status_code in (403, 422), "an owner's account is not taken over"
    links = f"/workspaces/{workspace.id}/account-links"
    assert adviser.call("post", links, {"name": "Jon", "role": "owner"}).status_code == 403
    adviser.ok("post", links, {"name": "Jon", "role": "field_hand"})
    adviser.ok("patch", f"{people}/corin", {"role": "adviser"})
    lead.ok("patch", f"{people}/corin", {"role": "owner"})


def test_a_grower_has_farms_and_an_owner_all(lead: Api, scout: Api, workspace: Workspace, farms: tuple[Place, Place]) -> None:
    del scout, farms
    path, links = f"/workspaces/{workspace.id}/people/corin", f"/workspaces/{workspace.id}/account-links"
    for where, method, more in ((path, "patch", {}), (links, "post", {"name": "Jon"})):
        assert lead.refused(method, where, {"role": "grower", **more})["field"] == "farms"
        unknown = lead.refused(method, where, {"role": "grower", "farms": ["Nowhere"], **more})
        assert (unknown["field"], unknown["code"]) == ("farms", "unknown_choice")
        assert lead.refused(method, where, {"role": "owner", "farms": [HERE], **more})["code"] == "owner_of_all"
    person = next(item for item in lead.ok("patch", path, {"role": "grower", "farms": [HERE]}) if item["username"] == "corin")
    assert (person["role"], person["farms"]) == ("grower", [HERE])
    assert lead.ok("get", f"/workspaces/{workspace.id}/rights")["farms"] == [HERE, THERE]


def test_an_invited_grower_reaches_the_farm_of_the_invitation(
    lead: Api, workspace: Workspace, farms: tuple[Place, Place]
) -> None:
    made = lead.ok("post", f"/workspaces/{workspace.id}/account-links", {"name": "Jon", "role": "grower", "farms": [HERE]})
    guest = Api()
    token = made["path"].split("#")[1]
    body = {"token": token, "username": "jon", "name": "Jon Sedge", "password": "a long enough password 7"}
    guest.ok("post", "/account-links/accept", body)
    home = guest.client.get("/api/session").json()["person"]["workspaces"][0]
    assert (home["role"], home["farms"], "design" in home["deeds"]) == ("grower", [HERE], False)
    rows = guest.ok("get", f"/workspaces/{workspace.id}/trials")["rows"]
    assert [row["id"] for row in rows] == [farms[0]["id"]]


def test_a_grower_sees_the_own_answer_and_no_other_farm(workspace: Workspace, farms: tuple[Place, Place]) -> None:
    """Verdict, money, report, ledger, series over years, learning: of the own farm; the other one is named nowhere."""
    grower = of_farm("wystan", workspace, "grower", HERE)
    own, other = farms
    for page in ("", "/verdict", "/money", "/report?record=true", "/series", "/estimates/learning", "/explanation", "/seed"):
        response = grower.client.get(f"/api/trials/{own['id']}{page}")
        assert response.status_code == 200, page
        assert THERE not in response.content.decode(), page
        assert grower.client.get(f"/api/trials/{other['id']}{page}").status_code == 404, page
    ledger = grower.ok("get", f"/workspaces/{workspace.id}/ledger")
    assert own["id"] in str(ledger)
    assert other["id"] not in str(ledger)
    assert grower.call("get", f"/workspaces/{workspace.id}/trials").content.decode().count("Width at") == 1


def test_a_grower_records_on_the_own_farm(workspace: Workspace, farms: tuple[Place, Place]) -> None:
    grower = of_farm("wystan", workspace, "grower", HERE)
    own, other = farms
    grower.ok("put", f"/trials/{own['id']}/stand-counts/{uuid4()}", count_body(own["strips"][0], "44"))
    path = f"/trials/{other['id']}/stand-counts/{uuid4()}"
    assert grower.call("put", path, count_body(other["strips"][0], "44")).status_code == 404
    mixed = f"/trials/{own['id']}/stand-counts/{uuid4()}"
    assert grower.call("put", mixed, count_body(other["strips"][0], "44")).status_code == 404, "a strip of another farm"


def test_an_adviser_of_some_farms_stays_on_them(lead: Api, workspace: Workspace, farms: tuple[Place, Place]) -> None:
    adviser = of_farm("anselm", workspace, "adviser", HERE)
    own, other = farms
    home, body = f"/workspaces/{workspace.id}", {"title": "New", "crop": "maize", "season": 2026}
    assert adviser.call("post", f"{home}/trials", body).status_code == 403, "a trial of no farm would be out of reach"
    assert adviser.call("post", f"{home}/trials", body | {"field_id": other["field"]["id"]}).status_code == 403
    made = adviser.ok("post", f"{home}/trials", body | {"field_id": own["field"]["id"]})
    moved = {"version": made["version"], "field_id": other["field"]["id"]}
    assert adviser.call("patch", f"/trials/{made['id']}", moved).status_code == 403
    field = {"name": "Third", "farm": THERE, "width": typed("90", "m"), "length": typed("400", "m")}
    assert adviser.call("post", f"{home}/fields", field).status_code == 403
    assert {item["farm"] for item in adviser.ok("get", f"{home}/fields")} == {HERE}
    assert adviser.call("patch", f"/fields/{other['field']['id']}", {"version": 1, "heading": "20"}).status_code == 404
    assert adviser.call("post", f"{home}/account-links", {"name": "Jon", "role": "reader"}).status_code == 403
    del lead


def test_what_one_person_was_told_is_not_told_to_another(
    lead: Api, workspace: Workspace, farms: tuple[Place, Place], monkeypatch: pytest.MonkeyPatch
) -> None:
    """What earlier trials say is remembered for the next question; a grower is told of the own farm, whoever asked first."""
    del lead

    def of(views: Sequence[TrialView], _crop: str, _erased: Any = ()) -> FarmExperience:
        return FarmExperience(
            cv_pct=None, yield_kg_per_ha=None, length_m=None, trials=tuple(seen.trial.title for seen in views)
        )

    monkeypatch.setattr("apps.analysis.power.queries.experience_of", of)
    of_farm("wystan", workspace, "grower", HERE)
    told = {}
    for name in ("mirren", "wystan"):
        user = User.objects.get(username=name)
        told[name] = farm_experience(user, view(user, trial_for(user, farms[0]["id"]))).trials
    assert told == {"mirren": (farms[1]["title"],), "wystan": ()}


def test_a_link_dies_with_the_right_to_share_and_in_the_bin(
    lead: Api, adviser: Api, nobody: Api, farms: tuple[Place, Place]
) -> None:
    path = f"/trials/{farms[0]['id']}"
    token = adviser.ok("post", f"{path}/shares", {"days": 5})["path"]
    assert nobody.client.get(token).status_code == 200
    lead.call("post", f"{path}/bin", {"reason": "entered twice"})
    assert nobody.client.get(token).status_code == 404
    lead.ok("post", f"/workspaces/{farms[0]['workspace_id']}/bin/{farms[0]['id']}/restore")
    assert nobody.client.get(token).status_code == 200
    Membership.objects.filter(user__username="anselm").update(role="field_hand")
    assert nobody.client.get(token).status_code == 404
