"""People come in, are let in again, and go: who may do what to whom, and what ends with it."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

import pytest
from apps.accounts import first_start
from apps.accounts.models import AccountLink, Device, Installation, Membership, User, Workspace
from apps.field.stand.models import StandCount
from apps.trials.models import Trial
from cultrix_core import __version__
from django.core import mail
from django.core.management import CommandError, call_command
from django.utils import timezone

from tests.server.conftest import PASSWORD, Api, record_count

STRONG = "reeds-by-the-weir"
Place = dict[str, Any]


def token_of(answer: Place) -> str:
    return str(answer["path"]).split("#")[1]


def invited(lead: Api, workspace: Workspace, role: str = "field_hand", **more: str) -> str:
    answer = lead.ok("post", f"/workspaces/{workspace.id}/account-links", {"name": "Jon Sedge", "role": role, **more})
    return token_of(answer)


def accept(who: Api, token: str, **entries: str) -> Any:
    who.call("get", "/session")
    return who.call("post", "/account-links/accept", {"token": token, **entries})


def sign_in(name: str, password: str, **more: str) -> Any:
    who = Api()
    return who.call("post", "/session", {"username": name, "password": password, **more})


# --- first start ------------------------------------------------------------------------------------------------------

START = {
    "username": "mira",
    "name": "Mira Arden",
    "password": STRONG,
    "workspace": "Arden Farm",
    "currency": "€",
    "time_zone": "Europe/Paris",
    "region": "europe",
}


def test_the_first_person_needs_the_code_and_comes_once(db: None, nobody: Api) -> None:  # noqa: ARG001
    code = first_start.new_code()
    assert nobody.ok("get", "/session") == {
        "person": None,
        "demo": False,
        "first_start": True,
        "version": __version__,
    }
    assert nobody.refused("post", "/first-start", {**START, "code": "AAAA-AAAA"})["code"] == "wrong_first_code"
    for changes, field in (
        ({"username": "m"}, "username"),
        ({"name": "  "}, "name"),
        ({"password": "mira arden"}, "password"),
        ({"password": "1234567890"}, "password"),
        ({"currency": "12"}, "currency"),
        ({"time_zone": "Mars/Base"}, "time_zone"),
        ({"region": "mars"}, "region"),
    ):
        assert nobody.refused("post", "/first-start", {**START, "code": code, **changes})["field"] == field
        assert not User.objects.exists()
        assert not Workspace.objects.exists()
    answer = nobody.ok("post", "/first-start", {**START, "code": code.lower().replace("-", " ")})
    result = {
        "name": "Arden Farm",
        "currency": "€",
        "time_zone": "Europe/Paris",
        "region": "europe",
        "paper": "A4",
        "role": "owner",
        "pack_days": 14,
        "practice": False,
        "leads_need_second_factor": False,
        "shut": False,
    }
    assert result.items() <= answer["person"]["workspaces"][0].items()
    assert not Installation.objects.get().demo
    again = Api().refused("post", "/first-start", {**START, "code": code, "username": "second"})
    assert again["code"] == "already_started"


def test_codes_are_not_tried_out(db: None, nobody: Api) -> None:  # noqa: ARG001
    first_start.new_code()
    answers = [nobody.call("post", "/first-start", {**START, "code": f"AAAA-{n:04d}"}).status_code for n in range(8)]
    assert answers[0] == 422
    assert answers[-1] == 429


def test_the_demo_is_not_put_beside_people(workspace: Workspace) -> None:  # noqa: ARG001
    User.objects.create_user("mira", password=STRONG)
    with pytest.raises(CommandError, match="people of its own"):
        call_command("load_demo")


# --- invitations ------------------------------------------------------------------------------------------------------


def test_an_invitation_makes_an_account_once(lead: Api, workspace: Workspace) -> None:
    token = invited(lead, workspace)
    guest = Api()
    assert guest.ok("post", "/account-links/look", {"token": token}) == {
        "kind": "invite",
        "name": "Jon Sedge",
        "username": "",
        "workspace": workspace.name,
        "role": "field_hand",
        "farms": [],
        "invited_by": "Mirren",
    }
    weak = accept(guest, token, username="jon", name="Jon Sedge", password="jon-sedge1")
    assert (weak.status_code, weak.json()["field"]) == (422, "password")
    taken = accept(guest, token, username="Mirren", name="Jon Sedge", password=STRONG)
    assert taken.json()["code"] == "name_taken", "names differ by more than their capitals"
    answer = accept(guest, token, username="jon", name="Jon Sedge", password=STRONG)
    assert answer.status_code == 200
    assert [item["name"] for item in answer.json()["person"]["workspaces"]] == [workspace.name]
    assert accept(Api(), token, username="eve", name="Eve", password=STRONG).json()["code"] == "dead_link"
    assert sign_in("jon", STRONG).status_code == 200
    assert AccountLink.objects.get().token_hash != token


@pytest.mark.parametrize("why", ["expired", "revoked", "maker deactivated", "altered"])
def test_a_link_that_is_over_lets_nobody_in(why: str, lead: Api, workspace: Workspace) -> None:
    token = invited(lead, workspace)
    if why == "expired":
        AccountLink.objects.update(expires_at=timezone.now() - timedelta(seconds=1))
    elif why == "revoked":
        link = lead.ok("get", f"/workspaces/{workspace.id}/account-links")[0]
        assert lead.call("delete", f"/workspaces/{workspace.id}/account-links/{link['id']}").status_code == 204
    elif why == "maker deactivated":
        User.objects.filter(username="mirren").update(is_active=False)
    else:
        token = token[:-1] + ("A" if token[-1] != "A" else "B")
    assert accept(Api(), token, username="jon", name="Jon", password=STRONG).json()["code"] == "dead_link"
    assert not User.objects.filter(username="jon").exists()


def test_who_has_an_account_joins_with_it(lead: Api, outsider: Api, workspace: Workspace) -> None:
    answer = outsider.ok("post", "/account-links/join", {"token": invited(lead, workspace, "reader")})
    assert {item["role"] for item in answer["person"]["workspaces"]} == {"owner", "reader"}


def test_mail_goes_where_the_installation_can_send(lead: Api, workspace: Workspace, settings: Any) -> None:
    path, body = f"/workspaces/{workspace.id}/account-links", {"name": "Jon", "role": "field_hand", "email": "jon@farm.example"}
    assert not lead.ok("post", path, body)["mailed"]
    settings.EMAIL_HOST = "mail.farm.example"
    answer = lead.ok("post", path, body)
    assert answer["mailed"]
    assert mail.outbox[0].to == ["jon@farm.example"]
    assert answer["path"] in mail.outbox[0].body
    assert lead.refused("post", path, {**body, "email": "not an address"})["field"] == "email"


# --- passwords --------------------------------------------------------------------------------------------------------


def test_a_password_is_changed_with_the_present_one(lead: Api) -> None:
    here, there = Api(), Api()
    for who in (here, there):
        who.ok("post", "/session", {"username": "mirren", "password": PASSWORD})
    assert here.refused("patch", "/password", {"current": "wrong", "new": STRONG})["field"] == "current"
    assert here.refused("patch", "/password", {"current": PASSWORD, "new": "password123"})["field"] == "password"
    here.ok("patch", "/password", {"current": PASSWORD, "new": STRONG})
    assert here.ok("get", "/session")["person"]["username"] == "mirren"
    assert there.ok("get", "/session")["person"] is None, "other devices are signed out"
    assert lead.ok("get", "/session")["person"] is None
    assert Device.objects.filter(user__username="mirren").count() == 1
    assert sign_in("mirren", PASSWORD).status_code == 401
    assert sign_in("mirren", STRONG).status_code == 200


def test_a_lead_lets_somebody_in_again(lead: Api, scout: Api, workspace: Workspace) -> None:
    path = f"/workspaces/{workspace.id}/people/corin/reset-link"
    first, second = token_of(lead.ok("post", path)), token_of(lead.ok("post", path))
    assert accept(Api(), first, password=STRONG).json()["code"] == "dead_link", "a newer link ends an older one"
    assert accept(Api(), second, password="too short").json()["field"] == "password"
    assert accept(Api(), second, password=STRONG).json()["person"] is None, "who has the link still signs in by name"
    assert scout.ok("get", "/session")["person"] is None
    assert sign_in("corin", STRONG).status_code == 200


@pytest.mark.parametrize("deed", ["reset-link", "deactivate", "second-factor-off"])
def test_a_lead_does_not_reach_into_other_workspaces(
    deed: str, lead: Api, scout: Api, outsider: Api, workspace: Workspace
) -> None:
    """Else a lead could take over an account, and with it what another workspace shows it."""
    del scout, outsider
    theirs = Workspace.objects.get(name="Elsewhere")
    Membership.objects.create(user=User.objects.get(username="corin"), workspace=theirs, role="reader")
    answer = lead.refused("post", f"/workspaces/{workspace.id}/people/corin/{deed}")
    assert answer["code"] == "of_other_workspaces"
    assert User.objects.get(username="corin").is_active
    lead.ok("delete", f"/workspaces/{workspace.id}/people/corin")
    assert list(Membership.objects.filter(user__username="corin").values_list("workspace__name", flat=True)) == ["Elsewhere"]


# --- going ------------------------------------------------------------------------------------------------------------


def test_deactivating_ends_sessions_and_links_and_keeps_records(
    lead: Api, scout: Api, workspace: Workspace, trial: Place
) -> None:
    count_id, _ = record_count(scout, trial)
    Membership.objects.filter(user__username="corin").update(role="owner")
    token = invited(scout, workspace)
    share = scout.ok("post", f"/trials/{trial['id']}/shares", {"days": 3})
    assert Api().client.get(share["path"]).status_code == 200
    lead.ok("post", f"/workspaces/{workspace.id}/people/corin/deactivate")
    assert scout.call("get", f"/trials/{trial['id']}").status_code == 401
    assert sign_in("corin", PASSWORD).status_code == 401
    assert accept(Api(), token, username="jon", name="Jon", password=STRONG).json()["code"] == "dead_link"
    assert Api().client.get(share["path"]).status_code == 404
    assert StandCount.objects.get(id=count_id).recorded_by.username == "corin"
    lead.ok("post", f"/workspaces/{workspace.id}/people/corin/reactivate")
    assert sign_in("corin", PASSWORD).status_code == 200


def test_a_workspace_keeps_a_lead(lead: Api, scout: Api, workspace: Workspace) -> None:
    del scout
    own = f"/workspaces/{workspace.id}/people/mirren"
    assert lead.refused("patch", own, {"role": "field_hand"})["code"] == "last_owner"
    assert lead.refused("delete", own)["code"] == "last_owner"
    assert lead.refused("post", f"{own}/deactivate")["code"] == "not_yourself"
    lead.ok("patch", f"/workspaces/{workspace.id}/people/corin", {"role": "owner"})
    lead.ok("patch", own, {"role": "reader"})
    assert Membership.objects.get(user__username="mirren").role == "reader"


def test_trials_are_handed_over_and_records_are_not(
    lead: Api, adviser: Api, scout: Api, workspace: Workspace, trial: Place
) -> None:
    del adviser
    count_id, _ = record_count(scout, trial)
    assert trial["responsible"] == "Mirren"
    path = f"/workspaces/{workspace.id}/people/mirren/hand-over"
    assert lead.refused("post", path, {"to": "corin"})["code"] == "no_successor", "a field hand cannot answer for a trial"
    assert lead.ok("post", path, {"to": "anselm"}) == {"trials": 1}
    assert lead.ok("get", f"/trials/{trial['id']}")["responsible"] == "Anselm"
    held = {item["username"]: item["trials_in_hand"] for item in lead.ok("get", f"/workspaces/{workspace.id}/people")}
    assert held == {"mirren": 0, "anselm": 1, "corin": 0}
    result = Trial.objects.get(id=trial["id"])
    assert result.created_by.username == "mirren"
    assert result.history.first().history_change_reason == "handed over by mirren to anselm"
    assert StandCount.objects.get(id=count_id).recorded_by.username == "corin"


def test_trials_of_somebody_who_left_can_still_be_handed_over(lead: Api, adviser: Api, workspace: Workspace) -> None:
    result = adviser.ok("post", f"/workspaces/{workspace.id}/trials", {"title": "Theirs", "crop": "maize", "season": 2026})
    lead.ok("delete", f"/workspaces/{workspace.id}/people/anselm")
    assert lead.ok("post", f"/workspaces/{workspace.id}/people/anselm/hand-over", {"to": "mirren"}) == {"trials": 1}
    assert lead.ok("get", f"/trials/{result['id']}")["responsible"] == "Mirren"


# --- workspaces -------------------------------------------------------------------------------------------------------


def test_another_workspace_is_made_by_who_leads_one(lead: Api, scout: Api) -> None:
    body = {"name": "River Plots", "currency": "USD", "time_zone": "America/Chicago", "region": "us"}
    assert scout.call("post", "/workspaces", body).status_code == 403
    names = {item["name"]: item["currency"] for item in lead.ok("post", "/workspaces", body)["person"]["workspaces"]}
    assert names["River Plots"] == "USD"


def test_a_currency_stays_once_amounts_are_written_in_it(lead: Api, workspace: Workspace) -> None:
    path = f"/workspaces/{workspace.id}"
    assert lead.ok("patch", path, {"currency": "£", "name": "Renamed"})["currency"] == "£"
    lead.ok("post", f"{path}/trials", {"title": "x", "crop": "maize", "season": 2026})
    assert lead.refused("patch", path, {"currency": "€"})["code"] == "currency_bound"
    assert lead.ok("patch", path, {"currency": "£", "pack_days": 20})["pack_days"] == 20


def test_today_is_the_day_of_the_farm(lead: Api, workspace: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    """The server's days are those of the workspace that is asked about, request by request."""
    real, seen = timezone.localdate, []

    def noted() -> Any:
        seen.append(timezone.get_current_timezone_name())
        return real()

    monkeypatch.setattr(timezone, "localdate", noted)
    lead.ok("patch", f"/workspaces/{workspace.id}", {"time_zone": "Pacific/Auckland"})
    lead.ok("get", f"/workspaces/{workspace.id}/today")
    assert set(seen) == {"Pacific/Auckland"}
    assert timezone.get_current_timezone_name() == "UTC", "the next request starts from nowhere again"
