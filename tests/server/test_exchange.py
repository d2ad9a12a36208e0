"""Finished trials from files: the reference case on screen, and files that cannot be taken in."""

from __future__ import annotations

from typing import Any

import pytest
from apps.accounts.models import Workspace
from apps.field.harvest.models import HarvestLoad
from apps.trials.models import Trial
from django.core.files.uploadedfile import SimpleUploadedFile

from tests.core.references import reference_csv
from tests.server.conftest import Api

MAPPING = {
    "block": "block",
    "treatment": "rate",
    "response": "yield",
    "unit": "kg/ha",
    "title": "Rice seeding rates",
    "crop": "other",
    "season": "1984",
    "control": "25",
    "factor_name": "Seeding rate, kg/ha",
}


def send(api: Api, workspace: Workspace, text: str | bytes, where: str = "import", **change: str) -> Any:
    content = text.encode() if isinstance(text, str) else text
    file = SimpleUploadedFile("trial.csv", content, content_type="text/csv")
    return api.client.post(f"/api/workspaces/{workspace.id}/{where}", MAPPING | change | {"file": file})


def test_o01_reads_its_f_and_p(lead: Api, workspace: Workspace) -> None:
    """Gomez & Gomez (1984), rice seeding rates; rows and table typed from memory of the book."""
    response = send(lead, workspace, reference_csv("o01_rcbd_seedrate"))
    assert response.status_code == 201, response.content
    trial = response.json()
    assert len(trial["strips"]) == 24
    assert {strip["block_name"] for strip in trial["strips"]} == {"B1", "B2", "B3", "B4"}
    result = lead.ok("get", f"/trials/{trial['id']}/verdict")
    row = next(row for row in result["yield_"]["anova"] if row["source"] == "treatment")
    assert (row["df"], row["f"], row["p"]) == (5, "2.1678", "0.1128")
    assert result["yield_"]["cv_pct"] == "6.7 %"
    assert result["state"] == "judged"


def test_o02_with_missing_strips(lead: Api, workspace: Workspace) -> None:
    """The same with three responses empty: the strips stay, lost, and the model has 12 df."""
    lines = reference_csv("o01_rcbd_seedrate").splitlines()
    for place in (2, 11, 20):
        lines[place] = ",".join([*lines[place].split(",")[:2], "NA"])
    trial = send(lead, workspace, "\n".join(lines)).json()
    assert sum(strip["lost"] for strip in trial["strips"]) == 3
    result = lead.ok("get", f"/trials/{trial['id']}/verdict")
    rows = {row["source"]: row for row in result["yield_"]["anova"]}
    assert (rows["treatment"]["f"], rows["treatment"]["p"], rows["residual"]["df"]) == ("2.3859", "0.1008", 12)
    assert len(result["left_out"]) == 3


def test_preview_shows_columns_and_values(lead: Api, workspace: Workspace) -> None:
    answer = send(lead, workspace, reference_csv("o01_rcbd_seedrate"), "import-preview").json()
    assert answer["columns"] == ["rate", "block", "yield"]
    assert answer["row_count"] == 24
    assert answer["values"]["rate"] == ["25", "50", "75", "100", "125", "150"]
    assert len(answer["rows"]) == 8


GOOD = "block,rate,yield\nI,a,4\nI,b,5\nII,a,4\nII,b,6\n"


@pytest.mark.parametrize(
    ("text", "change", "code"),
    [
        ("block,rate,grain\nI,a,4\nI,b,5\n", {}, "rows"),
        ("block,rate,yield\nI,a,four\nI,b,5\n", {}, "rows"),
        ("block,rate,yield\nI,a,4\n,b,5\n", {}, "rows"),
        ("block,rate,yield\nI,a,-4\nI,b,5\n", {}, "rows"),
        ("block,rate,yield\nI,a,4\nI,a,5\n", {}, "too_few_treatments"),
        ("block,rate,yield\nI,a,4\nI,a,5\nI,b,5\n", {}, "too_few_blocks"),
        ("block,rate,yield\nI,a,NA\nI,b,\n", {"control": "a"}, "no_response"),
        ("", {}, "missing"),
        ("just one line\n", {}, "missing"),
        (b"\xff\xfe\x00b", {}, "missing"),
        (GOOD, {"control": "z"}, "unknown_choice"),
        (GOOD, {"unit": "stones"}, "unknown_unit"),
        (GOOD, {"unit": "bu/ac", "control": "a"}, "needs_bushel"),
        (GOOD, {"crop": "dragonfruit", "control": "a"}, "unknown_choice"),
        (GOOD, {"title": " ", "control": "a"}, "missing"),
        (GOOD, {"season": "next", "control": "a"}, "malformed"),
        (GOOD, {"treatment": "block"}, "rows"),
    ],
)
def test_files_that_cannot_be_taken_in(lead: Api, workspace: Workspace, text: str, change: dict[str, str], code: str) -> None:
    response = send(lead, workspace, text, **change)
    assert response.status_code == 422, response.content
    assert response.json()["code"] == code
    assert response.json()["message"]
    assert not Trial.objects.exists()
    assert not HarvestLoad.objects.exists()


def test_problems_carry_the_row_of_the_file(lead: Api, workspace: Workspace) -> None:
    answer = send(lead, workspace, "block,rate,yield\nI,a,4\nI,b,five\nII,,4\n").json()
    assert [(item["row"], item["field"]) for item in answer["problems"]] == [(3, "yield"), (4, "rate")]


@pytest.mark.parametrize("where", ["import", "import-preview"])
def test_a_file_of_60_mb(lead: Api, workspace: Workspace, where: str) -> None:
    response = send(lead, workspace, b"block,rate,yield\n" + b"I,a,4\n" * 10_000_000, where)
    assert response.status_code == 413
    answer = response.json()
    assert (answer["code"], answer["field"]) == ("too_large", "file")
    assert "60.0 MB" in answer["message"]
    assert not Trial.objects.exists()


def test_formulas_in_a_file_stay_text(lead: Api, workspace: Workspace) -> None:
    text = 'block,rate,yield\nI,"=cmd()",4\nI,<b>b</b>,5\nII,"=cmd()",4\nII,<b>b</b>,6\n'
    trial = send(lead, workspace, text, control="=cmd()").json()
    assert [item["name"] for item in trial["treatments"]] == ["=cmd()", "<b>b</b>"]
