"""Every operation, for every kind of person. An operation without a row here fails the suite."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from typing import Any
from uuid import uuid4

import pytest
from apps.accounts.models import Membership, User, Workspace
from apps.accounts.rights import RIGHTS, ROLES, Role
from apps.analysis.verdict.models import Verdict
from apps.field.stand.models import StandCount
from apps.jobs.services import at_once
from apps.trial_state.listing import listed, make_summaries
from apps.trial_state.models import TrialSummary
from apps.trials.models import Trial
from config.deeds import DEEDS
from django.db import connection

from tests.server.conftest import (
    Api,
    count_body,
    load_body,
    record_count,
    typed,
)
from tests.server.operation_rows import ROWS, Place
from tests.server.operations import OPEN, operations, send, tallies
from tests.server.world import FARM, World, built


def test_every_operation_has_a_row() -> None:
    assert set(operations()) == set(ROWS) | set(OPEN)


def test_every_operation_has_its_deed() -> None:
    """One that has none is refused to everybody."""
    assert set(operations()) == set(DEEDS)
    assert {name for name, deed in DEEDS.items() if deed is None} == set(OPEN)


def test_every_row_names_its_own_operation() -> None:
    for name, (method, path, _, _) in ROWS.items():
        got_method, got_path = operations()[name]
        assert method == got_method
        assert path.split("?")[0].count("/") == got_path.removeprefix("/api").count("/")


@pytest.fixture(autouse=True)
def nothing_to_fill(monkeypatch: pytest.MonkeyPatch) -> None:
    """A practice workspace is made here, and left empty: filling it has a test of its own."""
    monkeypatch.setattr("apps.demo.practice.fill", lambda *_: None)


@pytest.fixture(scope="module")
def world(
    django_db_setup: None,  # noqa: ARG001
    django_db_blocker: Any,
    tmp_path_factory: pytest.TempPathFactory,
) -> Iterator[World]:
    with django_db_blocker.unblock(), built(tmp_path_factory.mktemp("world")) as result:
        yield result


@pytest.fixture(autouse=True)
def logs_aside(world: World) -> Iterator[None]:  # noqa: ARG001 - files lie where the world's lie
    with at_once():
        yield


@pytest.fixture(autouse=True)
def photos_aside(world: World) -> None:
    """Photographs lie where the world's lie."""


@pytest.fixture(autouse=True)
def backups_aside(world: World) -> None:
    """Backups lie where the world's lie."""


@pytest.fixture
def workspace(world: World, db: None) -> Workspace:  # noqa: ARG001
    return Workspace.objects.get(id=world.workspace.id)


@pytest.fixture
def lead(world: World, db: None) -> Api:  # noqa: ARG001
    return world.of("mirren")


@pytest.fixture
def scout(world: World, db: None) -> Api:  # noqa: ARG001
    return world.of("corin")


@pytest.fixture
def viewer(world: World, db: None) -> Api:  # noqa: ARG001
    return world.of("vesna")


@pytest.fixture
def outsider(world: World, db: None) -> Api:  # noqa: ARG001
    return world.of("stranger")


@pytest.fixture
def trial(world: World, lead: Api) -> Place:
    return world.fresh_trial(lead)


@pytest.fixture
def place(world: World) -> Callable[[str], str]:
    return world.at


TO_ANYBODY = {"session", "sign_in", "clock", "begin_installation", "look_at_link", "accept_link", "time_zones", "regions"}
each_row = pytest.mark.parametrize("name", sorted(ROWS))


@each_row
def test_another_workspace_finds_nothing(name: str, outsider: Api, trial: Place, place: Callable[[str], str]) -> None:
    path = place(ROWS[name][1])
    before = tallies()
    response = send(outsider, ROWS[name], path, trial)
    assert response.status_code == 404, response.content
    assert response.json()["code"] == "not_here"
    assert trial["title"] not in response.content.decode()
    assert tallies() == before
    assert not Verdict.objects.exists()


@each_row
def test_nobody_is_asked_to_sign_in(name: str, nobody: Api, trial: Place, place: Callable[[str], str]) -> None:
    path = place(ROWS[name][1])
    before = tallies()
    response = send(nobody, ROWS[name], path, trial)
    assert response.status_code == 401
    assert response.json()["code"] == "signed_out"
    assert tallies() == before


# Who holds each part in the world; the growers reach one farm, the trial's and another.
HOLDERS = {"owner": "mirren", "adviser": "anselm", "field_hand": "corin", "grower": "wystan", "reader": "vesna"}
ELSEWHERE_ON_THE_VALE = {"grower": "neave", "adviser": "lowri", "field_hand": "hale", "reader": "quin"}
BOUND = ("set_treatments", "draw_layout", "import_layout")


def allowed(role: Role, name: str) -> bool:
    """By the table alone; the record in the world is another person's for all but its owner."""
    deed = DEEDS[name]
    assert deed is not None
    if deed == "correct_own" and role != "owner":
        return "void" in RIGHTS[role]
    return deed in RIGHTS[role]


@pytest.mark.parametrize("role", ROLES)
@each_row
def test_every_operation_of_every_role(
    name: str, role: Role, world: World, lead: Api, trial: Place, place: Callable[[str], str]
) -> None:
    """The table against what the server does: what a role may is done, what it may not is refused and changes nothing."""
    del lead
    if name in ("back_up", "download_backup"):  # they hold the other workspace too
        User.objects.filter(username="mirren").update(is_superuser=True)
    path = place(ROWS[name][1])
    before = tallies()
    response = send(world.of(HOLDERS[role]), ROWS[name], path, trial)
    if not allowed(role, name):
        assert response.status_code == 403, response.content
        assert response.json()["code"] == "forbidden"
        assert tallies() == before
    elif name in BOUND:
        assert response.json()["code"] == "would_orphan", "a count hangs on a strip"
    else:
        assert response.status_code in (200, 201, 204), response.content


OF_A_FARM = sorted(
    name for name, (_, path, _, _) in ROWS.items() if re.search(r"\{(trial|strip|field|share|job|log|photo|count)\}", path)
)


@pytest.mark.parametrize("role", sorted(ELSEWHERE_ON_THE_VALE))
@pytest.mark.parametrize("name", OF_A_FARM)
def test_another_farm_is_not_there(name: str, role: str, world: World, trial: Place, place: Callable[[str], str]) -> None:
    """Whoever's part reaches another farm of the same workspace finds nothing, whatever the role may do on its own farm."""
    path = place(ROWS[name][1])
    before = tallies()
    response = send(world.of(ELSEWHERE_ON_THE_VALE[role]), ROWS[name], path, trial)
    assert response.status_code == 404, response.content
    assert trial["title"] not in response.content.decode()
    assert tallies() == before


@pytest.mark.parametrize("name", sorted(name for name in ROWS if ROWS[name][0] == "get" and "{workspace}" in ROWS[name][1]))
def test_lists_name_no_other_farm(name: str, world: World, trial: Place, place: Callable[[str], str]) -> None:
    """Every answer about the workspace, as a grower of another farm: no trial, field, farm or grower of this one is named."""
    response = send(world.of("neave"), ROWS[name], place(ROWS[name][1]), trial)
    assert response.status_code in (200, 403), response.content
    told = response.content.decode()
    for word in (trial["title"], trial["field"]["name"], FARM, "wystan", str(trial["id"])):
        assert word not in told, (name, word)


AMOUNT = re.compile(r"€\s?\d|\d\s?€")


@pytest.mark.parametrize(
    "name",
    sorted(
        name
        for name in ROWS
        if ROWS[name][0] == "get" and DEEDS[name] == "see" and "photo" not in name and name != "attachment"
    ),
)
def test_a_field_hand_sees_no_amount_of_money(name: str, world: World, trial: Place, place: Callable[[str], str]) -> None:
    path = place(ROWS[name][1])
    if name == "trials":
        path += "?layer=net_return"
    told = send(world.of("corin"), (*ROWS[name][:1], path, *ROWS[name][2:]), path, trial).content.decode(errors="replace")
    assert not AMOUNT.search(told), AMOUNT.search(told)


def test_a_trial_keeps_its_prices_from_a_field_hand(world: World, lead: Api, trial: Place) -> None:
    """Typed amounts, what they cost, what was frozen and the net return of strips; the plan itself is there."""
    whole = lead.ok("get", f"/trials/{trial['id']}")
    assert whole["price"]["text"]
    apart = world.of("corin").ok("get", f"/trials/{trial['id']}")
    assert {
        name: apart[name]["text"] for name in ("price", "unit_cost", "net_margin", "bag_price", "bag_seeds")
    } == dict.fromkeys(("price", "unit_cost", "net_margin", "bag_price", "bag_seeds"), "")
    assert apart["costs"] == []
    assert all(strip["net_return"] is None for strip in apart["strips"])
    assert [strip["treatment_id"] for strip in apart["strips"]] == [strip["treatment_id"] for strip in whole["strips"]]
    assert "money" in whole["may"]
    assert "money" not in apart["may"]


def told_by_lists(lead: Api, user: User, workspace: Workspace) -> list[Any]:
    rows = {item.trial.id: (item.fixed, item.progress, item.stages) for item in listed(user, workspace)}
    return [rows, *(lead.call("get", f"/workspaces/{workspace.id}/{page}").content for page in ("today", "ledger", "trials"))]


@pytest.mark.parametrize("name", sorted(name for name in ROWS if ROWS[name][3]))
def test_no_write_lets_an_old_summary_stand(
    name: str, lead: Api, workspace: Workspace, trial: Place, place: Callable[[str], str]
) -> None:
    """After any write, lists say what the trials themselves say: what no longer stands was marked in the same transaction."""
    make_summaries(Trial.objects.filter(workspace=workspace).values_list("id", flat=True))
    response = send(lead, ROWS[name], place(ROWS[name][1]), trial)
    if response.status_code >= 500:
        pytest.fail(response.content.decode())
    user, there = User.objects.get(username="mirren"), Workspace.objects.filter(id=workspace.id).first()
    if there is None:
        assert not TrialSummary.objects.exists(), "a workspace that was removed takes its summaries along"
        return
    told = told_by_lists(lead, user, there)
    TrialSummary.objects.all().delete()
    assert told == told_by_lists(lead, user, there)


@pytest.mark.parametrize("name", sorted(name for name in OPEN if name not in TO_ANYBODY))
def test_open_operations_still_need_a_person(name: str, nobody: Api) -> None:
    method, path = operations()[name]
    body = {} if method in ("patch", "post") else None
    path = path.removeprefix("/api").replace("{key}", "stand").replace("{device_id}", str(uuid4()))
    response = nobody.call(method, path, body)
    assert response.status_code == 401


def test_another_workspaces_ids_cannot_be_smuggled_in(lead: Api, outsider: Api, trial: Place) -> None:
    """Ids of one workspace inside bodies and paths of another."""
    other = outsider.client.get("/api/session").json()["person"]["workspaces"][0]["id"]
    theirs = outsider.ok("post", f"/workspaces/{other}/trials", {"title": "Theirs", "crop": "maize", "season": 2026})
    field = lead.ok(
        "post",
        f"/workspaces/{trial['workspace_id']}/fields",
        {"name": "Ours", "farm": "", "width": typed("90", "m"), "length": typed("400", "m")},
    )
    answer = outsider.refused("patch", f"/trials/{theirs['id']}", {"version": theirs["version"], "field_id": field["id"]})
    assert answer["code"] == "unknown_choice"
    for path, body in (
        (f"/trials/{theirs['id']}/stand-counts/{uuid4()}", count_body(trial["strips"][0])),
        (f"/trials/{theirs['id']}/harvest-loads/{uuid4()}", load_body(trial["strips"][0])),
    ):
        assert outsider.refused("put", path, body, status=404)["code"] == "not_here"
    count_id, body = record_count(lead, trial)
    outsider.refused("put", f"/trials/{trial['id']}/stand-counts/{count_id}", body, status=404)
    assert StandCount.objects.get(pk=count_id).version == 1


def test_an_id_that_is_none(lead: Api) -> None:
    lead.refused("get", f"/trials/{uuid4()}", status=404)
    assert lead.refused("get", "/trials/not-an-id")["code"] == "malformed"


@each_row
def test_a_deactivated_member_is_nobody(name: str, scout: Api, trial: Place, place: Callable[[str], str]) -> None:
    path = place(ROWS[name][1])
    User.objects.filter(username="corin").update(is_active=False)
    before = tallies()
    assert send(scout, ROWS[name], path, trial).status_code == 401
    assert tallies() == before


@each_row
def test_an_owner_elsewhere_who_reads_here_does_not_write(
    name: str, outsider: Api, workspace: Workspace, trial: Place, place: Callable[[str], str]
) -> None:
    """A member of both: the role is that of the workspace that the address belongs to."""
    Membership.objects.create(user=User.objects.get(username="stranger"), workspace=workspace, role="reader")
    path = place(ROWS[name][1])
    before = tallies()
    response = send(outsider, ROWS[name], path, trial)
    assert response.status_code == (200 if allowed("reader", name) else 403), response.content
    assert tallies() == before


READ_ROWS = sorted(name for name, (method, *_) in ROWS.items() if method == "get")
# What a look may leave behind: that the device was there, and work asked of the worker.
LEFT_BEHIND = re.compile(
    r'^(SELECT|PRAGMA|SAVEPOINT|RELEASE|BEGIN)\b|(UPDATE|INSERT INTO) "(accounts_device|django_session)"', re.IGNORECASE
)
NOTED = re.compile(r'^INSERT INTO "audit_auditevent"')  # who takes data out is noted


@pytest.mark.parametrize("name", READ_ROWS)
def test_a_look_writes_nothing(name: str, lead: Api, trial: Place, place: Callable[[str], str]) -> None:
    """Every address that is got, by the lead who may see all: no row is added, changed or taken away."""
    written: list[str] = []

    def listen(execute: Any, sql: str, params: Any, many: bool, context: Any) -> Any:  # noqa: FBT001 - as Django calls it
        if not LEFT_BEHIND.search(sql):
            written.append(sql[:120])
        return execute(sql, params, many, context)

    path = place(ROWS[name][1])
    with connection.execute_wrapper(listen):
        send(lead, ROWS[name], path, trial)
    if DEEDS[name] == "export" or name == "download_backup":
        assert [bool(NOTED.match(sql)) for sql in written] == [True]
    else:
        assert written == []
