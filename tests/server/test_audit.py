"""What is no row with a history of its own is told all the same: sign-ins, rights, files taken out, plans rewritten whole."""

from __future__ import annotations

from io import StringIO
from typing import Any

import pytest
from apps.accounts.models import User, Workspace
from apps.audit.models import AuditEvent
from apps.backup.chain import chain, verify
from django.core.management import CommandError, call_command
from django.test import Client

from tests.server.conftest import Api, add_prices, typed
from tests.server.test_history_chain import put_back

Place = dict[str, Any]


def told(api: Api, workspace: Workspace, kind: str = "", by: str = "") -> list[Place]:
    entries: list[Place] = api.ok("get", f"/workspaces/{workspace.id}/history?limit=200&kind={kind}&by={by}")["entries"]
    return entries


def changes(entry: Place) -> dict[str, tuple[str, str]]:
    return {change["name"]: (change["before"], change["after"]) for change in entry["changes"]}


def test_sign_ins_right_and_wrong(lead: Api, scout: Api, viewer: Api, workspace: Workspace) -> None:
    del scout
    person = User.objects.get(username="corin")
    person.set_password("a longer phrase of four words")
    person.save()
    client = Client()
    for password in ("wrong", "a longer phrase of four words"):
        client.get("/api/session")
        client.post(
            "/api/session",
            {"username": "corin", "password": password},
            content_type="application/json",
            headers={"X-CSRFToken": client.cookies["csrftoken"].value},
        )
    entries = told(lead, workspace, "sign_in", "corin")
    assert [entry["action"].split(" on ")[0] for entry in entries] == [
        "signed in",
        "had a sign-in refused for a wrong password",
    ]
    assert viewer.call("get", f"/workspaces/{workspace.id}/history").status_code == 403


def test_sign_ins_are_told_where_a_person_belongs(lead: Api, outsider: Api, workspace: Workspace) -> None:
    stranger = User.objects.get(username="stranger")
    AuditEvent.objects.create(history_user=stranger, kind="sign_in", what="signed in on a phone")
    assert not told(lead, workspace, "sign_in")
    elsewhere = stranger.memberships.get().workspace
    assert [entry["action"] for entry in told(outsider, elsewhere, "sign_in")] == ["signed in on a phone"]


def test_rights_given_and_taken(lead: Api, scout: Api, workspace: Workspace) -> None:
    del scout
    lead.ok("patch", f"/workspaces/{workspace.id}/people/corin", {"role": "reader"})
    lead.ok("post", f"/workspaces/{workspace.id}/account-links", {"name": "Wendel", "role": "adviser", "email": ""})
    lead.ok("delete", f"/workspaces/{workspace.id}/people/corin")
    removed, invited, changed = told(lead, workspace, "people")
    assert changes(changed)["part"] == ("Field hand", "Reader")
    assert (invited["action"], changes(invited)["part"]) == ("invited Wendel", ("", "adviser"))
    assert removed["action"] == "removed Corin"
    assert {entry["by"] for entry in (removed, invited, changed)} == {"Mirren"}


def test_settings_are_told_from_what_to_what(lead: Api, workspace: Workspace) -> None:
    lead.ok("patch", f"/workspaces/{workspace.id}", {"name": "Vale", "pack_days": 20})
    lead.ok("patch", f"/workspaces/{workspace.id}", {"pack_days": 20})
    (entry,) = told(lead, workspace, "settings")
    assert changes(entry)["pack days"] == ("14", "20")
    assert changes(entry)["name"][1] == "Vale"


def test_who_takes_data_out_is_told(lead: Api, workspace: Workspace, trial: Place) -> None:
    assert lead.call("get", f"/trials/{trial['id']}/data-file?format=csv").status_code == 200
    (entry,) = told(lead, workspace, "export")
    assert (entry["by"], entry["action"]) == ("Mirren", f"exported data as csv of {trial['title']}")
    assert lead.ok("get", f"/trials/{trial['id']}/history?kind=export")["total"] == 1
    lead.call("get", f"/trials/{trial['id']}/report")
    assert len(told(lead, workspace, "export")) == 1, "a page is looked at"
    lead.call("get", f"/trials/{trial['id']}/report?format=pdf")
    assert told(lead, workspace, "export")[0]["action"] == f"exported report as pdf of {trial['title']}"


def test_treatments_costs_and_seed_are_told_as_they_were(lead: Api, trial: Place) -> None:
    body = {
        "version": trial["version"],
        "factors": [{"kind": factor["kind"], "name": factor["name"]} for factor in trial["factors"]],
        "treatments": [
            {
                "id": row["id"],
                "levels": [{"text": level["text"], "unit": level["unit"]} for level in row["levels"]],
                "is_control": row["is_control"],
                "extra_cost": typed(""),
            }
            for row in trial["treatments"]
        ],
        "costs": [
            {
                "factor": 0,
                "level": trial["treatments"][1]["levels"][0],
                "kind": "passes",
                "label": "second pass",
                "times": "1",
                "each": typed("31", "money/ha"),
                "basis": "area",
            }
        ],
    }
    body["costs"][0]["level"] = {key: body["costs"][0]["level"][key] for key in ("text", "unit")}
    after = lead.ok("put", f"/trials/{trial['id']}/treatments", body)
    body["costs"][0]["each"], body["version"] = typed("35", "money/ha"), after["version"]
    lead.ok("put", f"/trials/{trial['id']}/treatments", body)
    latest, first, *_ = lead.ok("get", f"/trials/{trial['id']}/history?kind=plan")["entries"]
    (was, now) = changes(latest)["treatment B"]
    assert ("31" in was, "35" in now) == (True, True)
    assert list(changes(latest)) == ["treatment B"], "only what changed"
    assert "second pass" in changes(first)["treatment B"][1]


def test_prices_are_told_line_by_line(lead: Api, workspace: Workspace) -> None:
    listed = add_prices(lead, workspace)
    items = [
        {
            "kind": item["kind"],
            "crop": item["crop"],
            "name": item["name"],
            "price": {key: item["price"][key] for key in ("text", "unit")},
        }
        for item in listed["items"]
    ]
    items[0]["price"]["text"] = "999"
    body = {key: listed[key] for key in ("name", "source", "dated", "retired")}
    lead.ok(
        "put",
        f"/workspaces/{workspace.id}/price-lists/{listed['id']}",
        {**body, "currency": workspace.currency, "version": listed["version"], "items": items},
    )
    latest = told(lead, workspace, "prices")[0]
    assert len(latest["changes"]) == 1
    assert latest["changes"][0]["after"].startswith("999")


def test_events_are_chained_with_the_rest(lead: Api, workspace: Workspace) -> None:
    lead.ok("patch", f"/workspaces/{workspace.id}", {"pack_days": 20})
    put_back(1)
    assert chain() == 1
    assert verify() == []
    AuditEvent.objects.update(what="changed nothing")
    assert len(verify()) == 1


def test_heads_are_mailed(lead: Api, workspace: Workspace, settings: Any, mailoutbox: list[Any]) -> None:
    lead.ok("patch", f"/workspaces/{workspace.id}", {"pack_days": 20})
    put_back(1)
    settings.EMAIL_HOST = ""
    with pytest.raises(CommandError, match="sends no mail"):
        call_command("history_heads", mail="keeper@vale.example", stdout=StringIO())
    settings.EMAIL_HOST = "mail.vale.example"
    call_command("history_heads", mail="keeper@vale.example", stdout=StringIO())
    (mail,) = mailoutbox
    assert mail.to == ["keeper@vale.example"]
    assert len(mail.body.split()[1]) == 64
