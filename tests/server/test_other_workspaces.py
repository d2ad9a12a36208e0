"""Nothing of another workspace, and nothing that was voided, is in any answer."""

from __future__ import annotations

import re
from collections.abc import Callable
from uuid import uuid4

import pytest
from apps.accounts.models import Membership, User, Workspace
from apps.records.kinds import KINDS as REGISTERED

from tests.server.conftest import (
    Api,
    add_drill,
    add_lot,
    count_body,
    grain_body,
    harvest_all,
    heads_body,
    typed,
)
from tests.server.operation_rows import ROWS, Place
from tests.server.operations import OF_THE_INSTALLATION, places_of, send


@pytest.fixture
def place(lead: Api, workspace: Workspace, trial: Place) -> Callable[[str], str]:
    return places_of(lead, workspace, trial)


def read_operations() -> list[str]:
    """What somebody reads of a trial or a workspace, aggregates included."""
    return sorted(name for name, (method, _, body, writes) in ROWS.items() if method == "get" and not writes and not body)


CHANGING = re.compile(
    rb'"(version|received_at|opened|uploads_this_hour|last_contact|value|recorded_by|name|created_by)": [^,}]+'
    rb'|last heard of [^"]*'
    rb'|"(treatments|layout|crop)_bound": {[^}]*}'  # a voided record is history that must not lose its strip
)


def answers(who: Api, paths: dict[str, str]) -> dict[str, bytes]:
    result = {}
    for name, path in paths.items():
        response = who.client.get(f"/api{path}")
        assert response.status_code in (200, 404), (name, response.content)
        if "json" in response.headers.get("Content-Type", ""):
            result[name] = CHANGING.sub(b"", response.content)
    return result


def fill_everything(api: Api, trial: Place) -> None:
    """Harvest, counts, grain and samples: everything that a workspace learns from."""
    harvest_all(api, trial, {"A": 1300, "B": 1200, "C": 1100})
    for strip in trial["strips"]:
        for plants in ("30", "44", "52"):
            api.ok("put", f"/trials/{trial['id']}/stand-counts/{uuid4()}", count_body(strip, plants))
        api.ok("put", f"/trials/{trial['id']}/yield-samples/{uuid4()}", heads_body(strip))
    api.ok("put", f"/trials/{trial['id']}/grain-samples/{uuid4()}", grain_body())


def told_apart(paths: dict[str, str]) -> dict[str, str]:
    """Histories without what a look leaves there: who took which file out."""
    kinds = {"workspace_history": "people", "trial_history": "Trial"}
    return {name: f"{path}?kind={kinds[name]}" if name in kinds else path for name, path in paths.items()}


def test_what_is_learned_comes_from_this_workspace_only(
    lead: Api, outsider: Api, workspace: Workspace, trial: Place, place: Callable[[str], str]
) -> None:
    """A lead of two workspaces reads in the one what its own lead reads, whatever happened in the other."""
    other = outsider.client.get("/api/session").json()["person"]["workspaces"][0]["id"]
    paths = told_apart({name: place(ROWS[name][1]) for name in read_operations() if name not in OF_THE_INSTALLATION})
    before = answers(lead, paths)
    Membership.objects.create(user=User.objects.get(username="stranger"), workspace=workspace, role="owner")
    elsewhere = dict(trial)
    theirs = outsider.ok("post", f"/workspaces/{other}/trials", {"title": "Row width", "crop": "winter_wheat", "season": 2025})
    theirs = outsider.ok("patch", f"/trials/{theirs['id']}", {"version": theirs["version"], "series": "Widths"})
    theirs = outsider.ok(
        "put",
        f"/trials/{theirs['id']}/treatments",
        {
            "version": theirs["version"],
            "factors": [{"kind": "row_spacing"}],
            "treatments": [{"levels": [typed(item, "cm")], "is_control": item == "25"} for item in ("12.5", "18", "25")],
        },
    )
    plan = {"design": "rcbd", "blocks": 3, "seed": 7, "strip_width": typed("6", "m"), "strip_length": typed("300", "m")}
    theirs = outsider.ok("post", f"/trials/{theirs['id']}/layout", {"version": theirs["version"], **plan})
    fill_everything(outsider, {**elsewhere, **theirs})
    assert answers(lead, paths) == before
    for name, content in answers(outsider, paths).items():
        assert content == before[name], name


KINDS = {kind: f"put_{kind.replace('-', '_')}" for kind in REGISTERED}


@pytest.mark.parametrize("kind", sorted(KINDS))
def test_a_voided_record_counts_nowhere(kind: str, lead: Api, placed: Place, workspace: Workspace) -> None:
    """Every answer of the trial and the workspace is, after the void, what it was before the record."""
    words = {"workspace": str(workspace.id), "trial": placed["id"]}
    paths = {
        name: ROWS[name][1].format(**words)
        for name in read_operations()
        if set(re.findall(r"{(\w+)}", ROWS[name][1])) <= set(words)
        and name not in OF_THE_INSTALLATION | {"usage", "trial_history"}
    }
    placed["lot"], placed["drill"] = (
        add_lot(lead, workspace, name="Other", tag="O-1"),
        add_drill(lead, workspace, "Other drill"),
    )
    paths = told_apart(paths)
    before = answers(lead, paths)
    row, record_id = ROWS[KINDS[kind]], str(uuid4())
    result = send(lead, row, row[1].format(new=record_id, **words), placed)
    assert result.status_code == 201, result.content
    lead.ok("post", f"/records/{kind}/{record_id}/void", {"voided": True, "reason": "not so", "version": 1})
    after = answers(lead, paths)
    assert {name: differing(before[name], after[name]) for name in before if after[name] != before[name]} == {}


def differing(before: bytes, after: bytes) -> list[str]:
    """Parts of an answer that are not what they were."""
    was, now = (re.split(rb", (?=\")", content) for content in (before, after))
    return [f"{a.decode()} → {b.decode()}"[:200] for a, b in zip(was, now, strict=False) if a != b][:4]
