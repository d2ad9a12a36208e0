"""Files kept with trials and lots: bounded, known again, handed out as downloads only, invoices for those who see money."""

from __future__ import annotations

from typing import Any
from uuid import uuid4

import pytest
from apps.accounts.models import Workspace
from apps.field.attachments.models import Attachment

from tests.server.conftest import Api, add_attachment, add_lot

Place = dict[str, Any]
PAGE = b"<html><script>alert(document.cookie)</script>"


@pytest.fixture
def home(trial: Place) -> str:
    return f"/trials/{trial['id']}"


def listed(api: Api, home: str) -> list[str]:
    return [item["name"] for item in api.ok("get", f"{home}/attachments")["attachments"]]


def test_a_file_is_kept_and_handed_out_as_it_was_and_as_a_download_only(scout: Api, home: str) -> None:
    key = str(uuid4())
    answer = add_attachment(scout, home, key, content=PAGE, name="sheet.xml", note="  grain,\n protein ")
    assert answer.status_code == 201, answer.content
    (item,) = answer.json()["attachments"]
    assert (item["name"], item["note"], item["size"], item["added_by"]) == ("sheet.xml", "grain, protein", len(PAGE), "Corin")
    file = scout.call("get", f"/attachments/{key}")
    assert b"".join(file.streaming_content) == PAGE
    assert file["Content-Type"] == "application/octet-stream"
    assert file["Content-Disposition"] == 'attachment; filename="sheet.xml"'
    assert file["X-Content-Type-Options"] == "nosniff"
    assert "sandbox" in file["Content-Security-Policy"]


def test_the_same_file_again_is_one_and_another_is_a_conflict(scout: Api, home: str) -> None:
    key = str(uuid4())
    assert [add_attachment(scout, home, key).status_code for _ in range(2)] == [201, 200]
    assert add_attachment(scout, home, key, content=b"%PDF-1.4 another").status_code == 409
    assert listed(scout, home) == ["sheet.pdf"]


@pytest.mark.parametrize("name", ["run.exe", "page.html", "picture.svg", "script.js", "none"])
def test_what_no_office_makes_is_refused(scout: Api, home: str, name: str) -> None:
    answer = add_attachment(scout, home, name=name)
    assert (answer.status_code, answer.json()["field"]) == (422, "file")
    assert not Attachment.objects.exists()


def test_it_is_bounded(scout: Api, home: str, settings: Any) -> None:
    settings.ATTACHMENT_LIMIT_BYTES = 1000
    assert add_attachment(scout, home, content=b"x" * 1001).status_code == 422
    assert add_attachment(scout, home, content=b"x" * 400_000).status_code == 413


def test_an_invoice_is_money(lead: Api, scout: Api, viewer: Api, home: str) -> None:
    key = str(uuid4())
    assert add_attachment(lead, home, key, kind="invoice", name="bill.pdf").status_code == 201
    add_attachment(lead, home)
    assert (listed(viewer, home), listed(scout, home)) == (["bill.pdf", "sheet.pdf"], ["sheet.pdf"])
    assert scout.call("get", f"/attachments/{key}").status_code == 404
    assert add_attachment(scout, home, kind="invoice").status_code == 403
    assert "invoice" not in [kind for kind, _ in scout.ok("get", f"{home}/attachments")["kinds"]]


def test_taken_away_with_a_reason_and_told_in_the_history(lead: Api, scout: Api, home: str) -> None:
    key, other = str(uuid4()), str(uuid4())
    add_attachment(scout, home, key)
    add_attachment(lead, home, other)
    assert scout.refused("post", f"/attachments/{key}/void", {"reason": " "})["field"] == "reason"
    scout.refused("post", f"/attachments/{other}/void", {"reason": "not mine"}, status=403)
    scout.ok("post", f"/attachments/{key}/void", {"reason": "of another field"})
    assert listed(lead, home) == ["sheet.pdf"]
    assert lead.call("get", f"/attachments/{key}").status_code == 404
    entry = lead.ok("get", f"{home}/history?kind=Attachment")["entries"][0]
    assert (entry["action"], entry["reason"], entry["by"]) == ("voided", "of another field", "Corin")


def test_of_a_lot(lead: Api, scout: Api, outsider: Api, workspace: Workspace) -> None:
    home, key = f"/seed-lots/{add_lot(lead, workspace)}", str(uuid4())
    assert add_attachment(scout, home, key, kind="label", name="tag.jpg").status_code == 201
    assert listed(lead, home) == ["tag.jpg"]
    assert outsider.call("get", f"/attachments/{key}").status_code == 404


def test_a_purge_takes_its_row_with_it(lead: Api, workspace: Workspace, trial: Place, home: str) -> None:
    add_attachment(lead, home)
    lead.call("post", f"{home}/bin", {"reason": "entered twice"})
    assert lead.call("delete", f"/workspaces/{workspace.id}/bin/{trial['id']}").status_code == 204
    assert not Attachment.objects.exists()
