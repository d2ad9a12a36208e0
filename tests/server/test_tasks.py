"""A due visit is given to a person: it stands first on that person's Today and in the calendar, and its hours become costs."""

from __future__ import annotations

from datetime import timedelta
from typing import Any
from uuid import uuid4

import pytest
from apps.accounts.models import Membership, MembershipFarm, User, Workspace
from django.utils import timezone

from tests.server.conftest import Api, typed

Place = dict[str, Any]


@pytest.fixture
def sown(lead: Api, trial: Place) -> Place:
    """Sown twelve days ago: the counts of emergence are due or coming."""
    day = (timezone.localdate() - timedelta(days=12)).isoformat()
    body = {"version": trial["version"], "planted_on": day}
    fresh: Place = lead.ok("patch", f"/trials/{trial['id']}", body)
    return fresh


def give(api: Api, trial: Place, to: str, *, key: str = "", **more: Any) -> Any:
    body = {"ref": "first_count", "what": "First count", "given_to": to, **more}
    return api.call("put", f"/trials/{trial['id']}/tasks/{key or uuid4()}", body)


def dues(api: Api, workspace: Workspace) -> list[Place]:
    found: list[Place] = api.ok("get", f"/workspaces/{workspace.id}/today")["dues"]
    return found


def test_what_is_mine_comes_first(lead: Api, scout: Api, workspace: Workspace, sown: Place) -> None:
    before = dues(scout, workspace)
    last = before[-1]
    assert len(before) > 1
    answer = give(lead, sown, "corin", ref=last["ref"], what=last["what"], note="both ends of the field")
    assert answer.status_code == 200, answer.content
    mine = dues(scout, workspace)
    assert (mine[0]["ref"], mine[0]["given"]["mine"], mine[0]["given"]["note"]) == (last["ref"], True, "both ends of the field")
    assert len(mine) == len(before)
    others = next(due for due in dues(lead, workspace) if due["ref"] == last["ref"])
    assert (others["given"]["to"], others["given"]["mine"]) == ("Corin", False)
    assert dues(lead, workspace)[0]["ref"] == before[0]["ref"]


def test_something_else_has_its_day(lead: Api, scout: Api, workspace: Workspace, sown: Place) -> None:
    yesterday = (timezone.localdate() - timedelta(days=1)).isoformat()
    give(lead, sown, "corin", ref="", what="Fetch the moisture meter", due_on=yesterday)
    first = dues(scout, workspace)[0]
    assert (first["what"], first["state"], first["on"]) == ("Fetch the moisture meter", "overdue", yesterday)
    calendar = scout.call("get", f"/workspaces/{workspace.id}/visits.ics?mine=true").content.decode()
    assert "SUMMARY:Fetch the moisture meter" in calendar
    assert calendar.count("BEGIN:VEVENT") == 1


def test_the_calendar_says_whose_it_is(lead: Api, scout: Api, workspace: Workspace, sown: Place) -> None:
    path = f"/workspaces/{workspace.id}/visits.ics"
    whole = lead.call("get", path).content.decode()
    assert give(lead, sown, "corin", note="take the hoop").status_code == 200
    told = lead.call("get", path).content.decode()
    assert told.count("BEGIN:VEVENT") == whole.count("BEGIN:VEVENT")
    assert "(Corin)" in told.replace("\r\n ", "")
    assert "take the hoop" in told.replace("\r\n ", "")
    assert scout.call("get", f"{path}?mine=true").content.decode().count("BEGIN:VEVENT") == 1
    assert lead.call("get", f"{path}?mine=true").content.decode().count("BEGIN:VEVENT") == 0


def test_who_gives_and_who_takes(lead: Api, scout: Api, viewer: Api, sown: Place) -> None:
    assert give(scout, sown, "mirren").status_code == 403
    key = str(uuid4())
    assert give(scout, sown, "corin", key=key).status_code == 200, "one takes for oneself"
    assert [person["username"] for person in scout.ok("get", f"/trials/{sown['id']}/tasks")["people"]] == ["corin"]
    assert give(viewer, sown, "").status_code == 403
    assert give(lead, sown, "vesna").status_code == 422, "who only reads is given nothing"
    assert give(lead, sown, "mirren", key=key, version=1).status_code == 200
    assert give(scout, sown, "corin", key=key, version=2).status_code == 403, "it is somebody else's now"
    assert give(scout, sown, "corin").json()["code"] == "given"
    assert give(lead, sown, "", key=key, version=1).json()["code"] == "stale"


def test_a_person_of_another_farm_is_given_nothing(lead: Api, scout: Api, sown: Place) -> None:
    del scout
    member = Membership.objects.get(user=User.objects.get(username="corin"))
    member.all_farms = False
    member.save()
    MembershipFarm.objects.create(membership=member, farm="Elsewhere")
    assert give(lead, sown, "corin").status_code == 422


def test_hours_become_a_cost_of_the_strips_they_were_spent_on(lead: Api, scout: Api, sown: Place) -> None:
    """By hand: hours over the area of the strips of a treatment, in h/ha."""
    key = str(uuid4())
    give(scout, sown, "corin", key=key)
    assert give(scout, sown, "corin", key=key, hours="lots", version=1).status_code == 422
    give(scout, sown, "corin", key=key, hours="4.5", done=True, version=1)
    answer = lead.ok("get", f"/trials/{sown['id']}/tasks")
    assert answer["hours"] == 4.5
    assert answer["tasks"][0]["done_at"]
    trial = lead.ok("get", f"/trials/{sown['id']}")
    letter = trial["treatments"][0]["id"]
    strips = [strip for strip in trial["strips"] if strip["treatment_id"] == letter]
    area_ha = (
        sum(float(strip["width"]["text"].split()[0]) * float(strip["length"]["text"].split()[0]) for strip in strips) / 10_000
    )
    line = next(item for item in answer["labour"] if item["level"]["text"] == trial["treatments"][0]["levels"][0]["text"])
    assert (line["hours"]["unit"], float(line["hours"]["text"])) == ("h/ha", pytest.approx(4.5 / area_ha, rel=0.005))
    assert scout.ok("get", f"/trials/{sown['id']}/tasks")["labour"] == [], "prices are not a field hand's"
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
                "factor": line["factor"],
                "level": line["level"],
                "kind": "passes",
                "label": "counting",
                "times": "1",
                "each": typed(""),
                "basis": "area",
                "made_of": {"hours": line["hours"], "wage": typed("20", "money/h")},
            }
        ],
    }
    costed = lead.ok("put", f"/trials/{trial['id']}/treatments", body)
    assert float(costed["costs"][0]["made_of"]["hours"]["text"]) == float(line["hours"]["text"])
