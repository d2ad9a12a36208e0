"""A practice workspace: filled beside one's own, seen by nobody else, removed without a trace."""

from __future__ import annotations

from typing import Any

import pytest
from apps.accounts.models import User, Workspace
from apps.backup.removing import paths_to
from apps.demo import practice
from apps.jobs.models import Job
from django.apps import apps
from django.db import connection

from tests.server.conftest import Api, add_photo

Place = dict[str, Any]


def counts() -> dict[str, int]:
    """Rows of every table that holds something of a workspace, histories included."""
    return {model._meta.label: model._default_manager.count() for model in (*paths_to(Workspace), Workspace, User)}


def test_it_is_filled_and_goes_without_a_trace(
    lead: Api, viewer: Api, outsider: Api, workspace: Workspace, trial: Place
) -> None:
    add_photo(lead, trial)
    before = counts()
    path = f"/workspaces/{workspace.id}/practice"
    assert viewer.call("post", path).status_code == 403
    result = lead.ok("post", path)  # long work is done at once in tests
    assert [job.said for job in Job.objects.exclude(state="done")] == []
    home = result["workspace_id"]
    names = [item["name"] for item in lead.ok("get", "/session")["person"]["workspaces"]]
    assert practice.NAME in names
    assert lead.ok("get", f"/workspaces/{home}/trials")["total"] >= 14
    assert outsider.call("get", f"/workspaces/{home}/trials").status_code == 404
    for person in User.objects.filter(username__startswith=practice.PREFIX):
        assert not person.is_active
        assert not person.has_usable_password()
    assert lead.refused("post", path)["code"] == "practice_there"
    assert lead.refused("delete", path)["code"] == "not_practice", "one's own workspace is never removed so"
    assert counts()["records.StandCount"] > before["records.StandCount"]
    assert lead.call("delete", f"/workspaces/{home}/practice").status_code == 204
    after = counts()
    assert after.pop("jobs.Job") == 1  # that it was asked for is kept with one's own workspace
    before.pop("jobs.Job")
    assert after == before
    with connection.cursor() as cursor:
        assert cursor.execute("PRAGMA foreign_key_check").fetchall() == []


def test_what_a_killed_worker_left_goes_first(lead: Api, workspace: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    path = f"/workspaces/{workspace.id}/practice"

    def dies(*_: Any) -> None:
        raise RuntimeError("killed")

    monkeypatch.setattr(practice, "fill", dies)
    assert lead.ok("post", path)["failed"]
    assert Workspace.objects.filter(practice=True).count() == 1
    assert len(lead.ok("get", "/session")["person"]["workspaces"]) == 1, "what is half done is not shown"
    job = Job.objects.get()
    monkeypatch.setattr(practice, "fill", lambda *_: None)
    practice.fill_practice(job, lambda *_: None)
    assert Workspace.objects.filter(practice=True).count() == 1
    assert lead.ok("get", path)["workspace_id"]


def test_every_table_that_holds_something_of_a_workspace_is_known() -> None:
    """A new table without a way to its workspace would stay behind; those that belong to nobody's workspace are named."""
    others = {
        "auth",
        "contenttypes",
        "sessions",
        "otp_totp",
        "otp_static",
    }
    of_all = {"HistoryDay", "HistoryTombstone"}  # the chain of history is of the installation, and holds digests only
    of_people = {"User", "Device", "SignInFailure", "Installation", "User_groups", "User_user_permissions", "Workspace"}
    left = {
        model._meta.label
        for model in apps.get_models(include_auto_created=True)
        if model not in paths_to(Workspace) and model._meta.app_label not in others and model.__name__ not in of_people | of_all
    }
    assert left == set()
