"""Tables that leave hold no formulas, whatever people typed."""

from __future__ import annotations

from typing import Any

from tests.server.conftest import Api, typed

Place = dict[str, Any]


def test_the_strips_table_runs_no_formula(lead: Api, trial: Place) -> None:
    """Names that spreadsheets run stay text in every table that leaves."""
    rows = [("=HYPERLINK(1)", True), ("@SUM(A1)", False), ("+1+1", False)]
    fresh = lead.ok("post", f"/workspaces/{trial['workspace_id']}/trials", {"title": "F", "crop": "maize", "season": 2026})
    fresh = lead.ok(
        "put",
        f"/trials/{fresh['id']}/treatments",
        {
            "version": fresh["version"],
            "factors": [{"kind": "free", "name": "Word"}],
            "treatments": [{"levels": [typed(name)], "is_control": control} for name, control in rows],
        },
    )
    plan = {"design": "rcbd", "blocks": 3, "seed": 7, "strip_width": typed("6", "m"), "strip_length": typed("300", "m")}
    fresh = lead.ok("post", f"/trials/{fresh['id']}/layout", {"version": fresh["version"], **plan})
    for path in ("strips-file?format=csv", "data-file?format=csv"):
        text = lead.client.get(f"/api/trials/{fresh['id']}/{path}").content.decode("utf-8-sig")
        assert "'=HYPERLINK(1)" in text
        for line in text.splitlines():
            assert not any(cell.startswith(("=", "@", "+")) for cell in line.split(",")), line
