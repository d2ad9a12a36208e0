"""Data out: a workbook, a table, and a Data Package that validates and reads back as the same trial."""

from __future__ import annotations

import csv
import io
import json
import re
import zipfile
from pathlib import Path
from typing import Any
from uuid import uuid4

import frictionless
import pytest
from apps.accounts.models import Membership, User, Workspace
from apps.exchange.package.tables import TABLES, harmless, plain
from apps.field.logs.files import path_of
from apps.trials.models import Strip, Trial
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from openpyxl import load_workbook

from tests.server.conftest import (
    Api,
    add_lot,
    add_yield_log,
    count_body,
    harvest_all,
    heads_body,
    measure_body,
    now,
    package_bytes,
    plan_body,
    planting_body,
    rating_body,
    send_package,
    tape_body,
    typed,
)
from tests.server.remembered import remembered

Place = dict[str, Any]
GAIN = {"A": 1260, "B": 1140, "C": 1130}
UUID = re.compile(r"[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}")


def tables_of(content: bytes) -> dict[str, list[dict[str, str]]]:
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        return {
            name.removesuffix(".csv"): list(csv.DictReader(io.StringIO(archive.read(name).decode(), newline="")))
            for name in archive.namelist()
            if name.endswith(".csv") and "/" not in name
        }


def nameless(content: bytes) -> Any:
    """The tables of a package with ids turned to the order in which they first appear, so that copies compare."""
    seen: dict[str, str] = {}
    numbered = {table.name: table.model._meta.pk.get_internal_type() != "UUIDField" for table in TABLES}  # type: ignore[union-attr]
    places: dict[tuple[str, str], str] = {}
    tables = tables_of(content)
    for name, rows in tables.items():
        if numbered.get(name):
            for place, row in enumerate(rows):
                places[name, row["id"]] = f"{name}-{place}"
    result = {}
    for name, rows in tables.items():
        listed = [
            {column: _own(name, column, text, places, seen) for column, text in row.items() if column != "recorded_by_id"}
            for row in rows
        ]
        result[name] = listed
    return result


NUMBERED = {"factor_id": "factors", "level_id": "levels", "block_id": "blocks"}


def _own(name: str, column: str, text: str, places: dict[tuple[str, str], str], seen: dict[str, str]) -> str:
    if column == "id" and (name, text) in places:
        return places[name, text]
    if column in NUMBERED and text:
        return places[NUMBERED[column], text]
    if name == "treatments" and column == "levels":
        return str([places["levels", str(load)] for load in json.loads(text)])
    return UUID.sub(lambda match: seen.setdefault(match[0], f"id-{len(seen)}"), text)


def sortable(tables: dict[str, list[dict[str, str]]]) -> Any:
    """Rows by content, ids left away: new ids sort otherwise."""
    drop = re.compile(r"id-\d+")
    return {
        name: sorted(str({key: drop.sub("id", text) for key, text in row.items()}) for row in rows)
        for name, rows in tables.items()
    }


@pytest.fixture
def full(lead: Api, workspace: Workspace, trial: Place) -> Place:
    """A trial with something in nearly every table."""
    return remembered("full", lambda: _full(lead, workspace, trial))


def _full(lead: Api, workspace: Workspace, trial: Place) -> Place:
    path = f"/trials/{trial['id']}"
    lot = add_lot(lead, workspace)
    trial = lead.ok("put", f"{path}/sowing", {"version": trial["version"], "parts": [{"part": "crop", "lot_id": lot}]})
    trial = lead.ok("patch", path, {"version": trial["version"], "guess": "=1+1 is 2", "series": "+rows"})
    lead.ok("post", f"{path}/protocol")
    strips = trial["strips"]
    event = {"kind": "note", "happened_on": "2026-05-01", "text": "@home, said Vesna", "recorded_at": now()}
    event["strip_ids"] = [strips[0]["id"]]
    skip = {"strip_id": strips[3]["id"], "kind": "skip", "note": "-2 rows", "recorded_at": now()}
    for kind, body in (
        ("planting-records", planting_body(strips[0])),
        ("stand-counts", count_body(strips[0])),
        ("tape-runs", tape_body(strips[1])),
        ("plant-measures", measure_body(strips[1])),
        ("ratings", rating_body(strips[2])),
        ("sampling-plans", plan_body()),
        ("yield-samples", heads_body(strips[0])),
        ("field-events", event),
        ("deviations", skip),
    ):
        lead.ok("put", f"{path}/{kind}/{uuid4()}", body)
    lead.ok("put", f"{path}/money", {"version": 0, "scenarios": [{"name": "-poor", "price": typed("150", "money/t")}]})
    harvest_all(lead, trial, GAIN)
    lead.ok(
        "patch",
        f"/strips/{strips[5]['id']}",
        {"lost": True, "sown_treatment_id": None, "reason": "'quoted', \"twice\"\nand on two lines"},
    )
    result: Place = lead.ok("get", path)
    return result


def extract(content: bytes, folder: Path) -> Path:
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        for name in archive.namelist():
            target = folder / name
            target.parent.mkdir(parents=True, exist_ok=True)
            target.write_bytes(archive.read(name))
    return folder / "datapackage.json"


def test_the_package_validates(lead: Api, full: Place, tmp_path: Path) -> None:
    """Against the specification, by the frictionless validator: types, required cells, keys and relations."""
    head = extract(package_bytes(lead, full), tmp_path)
    with frictionless.system.use_context(trusted=True):
        report = frictionless.validate(str(head))
    assert report.valid, report.flatten(["title", "rowNumber", "fieldName", "message"])[:5]
    assert report.stats["errors"] == 0
    described = json.loads(head.read_text())
    assert {item["name"] for item in described["resources"]} >= {"strips", "harvest-loads", "protocol", "verdict-differences"}
    fields = {
        item["name"]: item
        for item in next(one for one in described["resources"] if one["name"] == "harvest-loads")["schema"]["fields"]
    }
    assert (fields["yield_kg_per_ha"]["unit"], fields["moisture_pct"]["unit"]) == ("kg/ha", "%")


def test_the_validator_would_see_a_broken_package(lead: Api, full: Place, tmp_path: Path) -> None:
    """So that the test above can fail: a strip whose block is not there, a yield that is no number."""
    head = extract(package_bytes(lead, full), tmp_path)
    loads = tmp_path / "harvest_loads.csv"
    lines = loads.read_text().replace("\r\n", "\n").splitlines()
    lines[1] = lines[1].replace("weighed", "weighed,too many")
    loads.write_text("\n".join(lines))
    with frictionless.system.use_context(trusted=True):
        assert not frictionless.validate(str(head)).valid


def test_read_back_it_is_the_same_trial(lead: Api, workspace: Workspace, full: Place) -> None:
    content = package_bytes(lead, full)
    answer = send_package(lead, workspace.id, content)
    assert answer.status_code == 201, answer.content
    copy = answer.json()
    assert copy["id"] != full["id"]
    again = package_bytes(lead, copy)
    assert sortable(nameless(again)) == sortable(nameless(content))
    for name in ("verdict", "money"):
        before, after = (lead.ok("get", f"/trials/{item['id']}/{name}") for item in (full, copy))
        assert [text["text"] for text in _texts(after)] == [text["text"] for text in _texts(before)]
    first, second = (lead.ok("get", f"/trials/{item['id']}") for item in (full, copy))
    assert [strip["reason"] for strip in first["strips"]] == [strip["reason"] for strip in second["strips"]]
    assert second["guess"] == "=1+1 is 2"
    assert second["protocol"]["fingerprint"] == first["protocol"]["fingerprint"]
    assert second["protocol"]["frozen_at"] == first["protocol"]["frozen_at"]


def _texts(found: Any) -> list[dict[str, Any]]:
    if isinstance(found, dict):
        own = [found] if set(found) == {"value", "text"} else []
        return own + [text for value in found.values() for text in _texts(value)]
    return [text for value in found for text in _texts(value)] if isinstance(found, list) else []


def test_the_original_is_left_alone(lead: Api, workspace: Workspace, full: Place) -> None:
    before = package_bytes(lead, full)
    send_package(lead, workspace.id, before)
    assert package_bytes(lead, full) == before


def test_it_reads_back_in_another_workspace(lead: Api, outsider: Api, full: Place) -> None:
    """Fields, lots and machines are made there; nobody of the first workspace is named in the second."""
    Workspace.objects.filter(name="Elsewhere").update(currency="€")
    other = outsider.client.get("/api/session").json()["person"]["workspaces"][0]["id"]
    answer = send_package(outsider, other, package_bytes(lead, full))
    assert answer.status_code == 201, answer.content
    copy = answer.json()
    assert copy["field"]["name"] == full["field"]["name"]
    assert copy["field"]["id"] != full["field"]["id"]
    assert copy["protocol"]["by"] == "stranger"
    lead.refused("get", f"/trials/{copy['id']}", status=404)


def test_a_log_comes_along_and_stays_the_source(lead: Api, workspace: Workspace, trial: Place) -> None:
    log = add_yield_log(lead, trial)
    lead.ok("put", f"/trials/{trial['id']}/harvest-source", {"version": 0, "log_id": log["id"]})
    content = package_bytes(lead, trial)
    raw = Trial.objects.get(pk=trial["id"]).yield_logs.get()
    stored = path_of(raw.digest, raw.suffix)
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        assert archive.read(f"logs/{raw.digest}{raw.suffix}") == stored.read_bytes()
    copy = send_package(lead, workspace.id, content).json()
    before, after = (lead.ok("get", f"/trials/{item['id']}/verdict") for item in (trial, copy))
    assert after["headline"] == before["headline"]
    assert [item["yield_"] for item in copy["strips"]] == [
        item["yield_"] for item in lead.ok("get", f"/trials/{trial['id']}")["strips"]
    ]


def test_machines_named_in_a_plan_come_along(lead: Api, outsider: Api, workspace: Workspace, trial: Place) -> None:
    """A layout drawn for machines draws for them in the other workspace too."""
    drill = lead.ok(
        "post", f"/workspaces/{workspace.id}/machines", {"name": "Drill", "kind": "planter", "width": typed("3", "m")}
    )
    drawn = lead.ok(
        "post",
        f"/trials/{trial['id']}/layout",
        {
            "version": trial["version"],
            "design": "rcbd",
            "blocks": 3,
            "seed": 9,
            "machines": [drill["id"]],
            "strip_width": typed("6", "m"),
            "strip_length": typed("300", "m"),
        },
    )
    Workspace.objects.filter(name="Elsewhere").update(currency="€")
    other = outsider.client.get("/api/session").json()["person"]["workspaces"][0]["id"]
    copy = send_package(outsider, other, package_bytes(lead, drawn)).json()
    theirs = outsider.ok("get", f"/workspaces/{other}/machines")
    assert [item["name"] for item in theirs] == ["Drill"]
    assert copy["layout"]["asked"]["machines"] == [theirs[0]["id"]]


SIGNS = st.text(alphabet=st.sampled_from(list("=+-@\t\r'\"\n,;ä x1")), max_size=12)


@given(st.text(max_size=40) | SIGNS)
def test_harmless_text_comes_back_as_it_was(text: str) -> None:
    assert plain(harmless(text)) == text
    assert not harmless(text).startswith(("=", "+", "-", "@", "\t", "\r"))


WORDS = st.text(alphabet=st.characters(blacklist_categories=("Cs", "Cc"), blacklist_characters="\x00"), max_size=60)


@settings(max_examples=6, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    question=WORDS,
    reason=WORDS | SIGNS,
    kgs=st.lists(st.integers(1, 99_999), min_size=9, max_size=9),
    moisture=st.floats(5, 40),
)
def test_any_trial_reads_back_the_same(
    lead: Api, workspace: Workspace, trial: Place, question: str, reason: str, kgs: list[int], moisture: float
) -> None:
    """Whatever was typed and weighed: the copy's package is the original's, ids apart."""
    fresh = lead.ok("get", f"/trials/{trial['id']}")
    lead.ok("patch", f"/trials/{trial['id']}", {"version": fresh["version"], "question": question})
    rows = [
        {
            "id": str(uuid4()),
            "strip_id": strip["id"],
            "method": "weighed",
            "net": typed(f"{kg / 10:g}", "kg"),
            "moisture": typed(f"{moisture:.3f}", "%"),
            "swath_width": typed("5.4", "m"),
            "length": typed("300", "m"),
            "recorded_at": now(),
        }
        for strip, kg in zip(trial["strips"], kgs, strict=True)
    ]
    lead.ok("post", f"/trials/{trial['id']}/harvest-sheet", {"rows": rows})
    body = {"lost": True, "sown_treatment_id": None, "reason": reason or "x"}
    lead.call("patch", f"/strips/{trial['strips'][0]['id']}", body)
    content = package_bytes(lead, trial)
    answer = send_package(lead, workspace.id, content)
    assert answer.status_code == 201, answer.content
    assert sortable(nameless(package_bytes(lead, answer.json()))) == sortable(nameless(content))


def changed(content: bytes, name: str, edit: Any) -> bytes:
    """A package with one file otherwise; None leaves it out."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(content)) as archive, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as zip_file:
        for item in archive.namelist():
            text = archive.read(item)
            if item == name:
                if edit is None:
                    continue
                text = edit(text.decode()).encode()
            zip_file.writestr(item, text)
    return out.getvalue()


def test_a_package_of_an_earlier_version_still_goes_in(lead: Api, workspace: Workspace, full: Place) -> None:
    """Voided records were called struck then."""
    content = package_bytes(lead, full)
    old = content
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        tables = [item for item in archive.namelist() if item.endswith(".csv") and b"void_reason" in archive.read(item)]
    assert len(tables) >= 8, "every kind of record has the column"
    for name in tables:
        old = changed(old, name, lambda text: text.replace("void_reason", "struck_reason", 1).replace("voided", "struck", 1))
    answer = send_package(lead, workspace.id, old)
    assert answer.status_code == 201, answer.content
    assert sortable(nameless(package_bytes(lead, answer.json()))) == sortable(nameless(content))


@pytest.mark.parametrize(
    ("name", "edit", "code"),
    [
        ("datapackage.json", None, "bad_geometry"),
        ("datapackage.json", lambda _: "{", "bad_geometry"),
        ("datapackage.json", lambda text: text.replace('"format": 1', '"format": 9'), "bad_geometry"),
        ("datapackage.json", lambda text: text.replace('"currency": "€"', '"currency": "$"'), "other_currency"),
        ("strips.csv", None, "bad_geometry"),
        ("strips.csv", lambda text: text.replace("width_m", "breadth_m"), "bad_geometry"),
        ("strips.csv", lambda text: text.replace(",false,", ",perhaps,"), "rows"),
        ("strips.csv", lambda text: text.replace("\r\n", ",1\r\n"), "bad_geometry"),
        ("blocks.csv", lambda text: "\r\n".join(text.split("\r\n")[:2]) + "\r\n", "rows"),
        ("harvest_loads.csv", lambda text: text.replace(",weighed,", ",guessed,"), "rows"),
        ("harvest_loads.csv", lambda text: re.sub(r"\d{4}\.\d+", "nan", text), "rows"),
        ("harvest_loads.csv", lambda text: re.sub(r"\d{4}\.\d+", "1e999", text), "rows"),
        ("trial.csv", lambda text: text + text.split("\r\n")[1] + "\r\n", "bad_geometry"),
        ("trial.csv", lambda text: text.split("\r\n")[0] + "\r\n", "bad_geometry"),
        ("trial.csv", lambda text: text.replace("rcbd", "by guess"), "rows"),
        ("trial.csv", lambda text: text.replace("2026-", "2026/"), "rows"),
    ],
)
def test_packages_that_cannot_be_read(lead: Api, workspace: Workspace, full: Place, name: str, edit: Any, code: str) -> None:
    content = package_bytes(lead, full)
    before = (Trial.objects.count(), Strip.objects.count(), Trial.history.count())
    answer = send_package(lead, workspace.id, changed(content, name, edit))
    assert answer.status_code == 422, answer.content
    result = answer.json()
    assert result["code"] == code
    assert result["message"].strip()
    if code == "rows":
        where = "strips.csv" if name == "blocks.csv" else name  # a strip names a block that is not there
        assert all(where in item["message"] for item in result["problems"])
    assert (Trial.objects.count(), Strip.objects.count(), Trial.history.count()) == before, "nothing half taken in"


def test_a_log_is_named_by_a_hash_and_by_nothing_else(lead: Api, workspace: Workspace, trial: Place) -> None:
    """A name of a file from outside never reaches the disk."""
    add_yield_log(lead, trial)
    content = package_bytes(lead, trial)
    digest = Trial.objects.get(pk=trial["id"]).yield_logs.get().digest
    for bad in ("../../../../etc/passwd", "x" * 64, digest.upper()):
        edited = changed(content, "yield_logs.csv", lambda text, bad=bad: text.replace(digest, bad))
        answer = send_package(lead, workspace.id, edited)
        assert answer.status_code == 422, bad
    swapped = changed(content, f"logs/{digest}.csv", lambda text: text + "1")
    assert send_package(lead, workspace.id, swapped).status_code == 422
    assert Trial.objects.count() == 1


def rewritten(content: bytes, table: str, column: str, value: str) -> bytes:
    """A package with one column of a table otherwise in every row."""

    def edit(text: str) -> str:
        rows = list(csv.DictReader(io.StringIO(text, newline="")))
        out = io.StringIO()
        writer = csv.DictWriter(out, rows[0].keys(), lineterminator="\r\n")
        writer.writeheader()
        writer.writerows([row | {column: value} for row in rows])
        return out.getvalue()

    return changed(content, f"{table}.csv", edit)


@pytest.mark.parametrize(
    ("table", "column", "value"),
    [
        ("trial", "plan", "[1]"),
        ("trial", "crop", "moss"),
        ("strips", "ring", '"x"'),
        ("protocol", "content", "[3]"),
        ("yield_logs", "result", '{"strips": 3}'),
        ("yield_logs", "header", "[]"),
        ("levels", "amount_unit", "parsecs"),
    ],
)
def test_a_package_that_would_not_open_is_not_taken_in(
    lead: Api, workspace: Workspace, full: Place, table: str, column: str, value: str
) -> None:
    """Whatever a package holds, the shelf stays readable."""
    add_yield_log(lead, full)
    answer = send_package(lead, workspace.id, rewritten(package_bytes(lead, full), table, column, value))
    assert answer.status_code in (201, 422), answer.content
    assert len(lead.ok("get", f"/workspaces/{workspace.id}/trials")["rows"]) == Trial.objects.count()
    assert lead.ok("get", f"/workspaces/{workspace.id}/ledger")["entries"]
    if answer.status_code == 422:
        assert Trial.objects.count() == 1


def test_a_log_of_another_workspace_is_not_opened_by_its_hash(lead: Api, outsider: Api, trial: Place) -> None:
    add_yield_log(lead, trial)
    content = package_bytes(lead, trial)
    raw = Trial.objects.get(pk=trial["id"]).yield_logs.get()
    bare = changed(content, f"logs/{raw.digest}{raw.suffix}", None)
    Workspace.objects.filter(name="Elsewhere").update(currency="€")
    other = outsider.client.get("/api/session").json()["person"]["workspaces"][0]["id"]
    assert "not in the package" in send_package(outsider, other, bare).json()["message"]
    assert send_package(lead, trial["workspace_id"], bare).status_code == 201
    assert send_package(outsider, other, content).status_code == 201


@pytest.mark.parametrize("content", [b"", b"PK", b"no zip at all", b"PK\x03\x04" + b"\x00" * 60])
def test_what_is_no_zip(lead: Api, workspace: Workspace, content: bytes) -> None:
    answer = send_package(lead, workspace.id, content)
    assert answer.status_code == 422
    assert answer.json()["field"] == "file"


def test_a_damaged_zip_and_a_deep_json(lead: Api, workspace: Workspace, trial: Place) -> None:
    content = bytearray(package_bytes(lead, trial))
    place = content.index(b"datapackage.json") + 200
    content[place : place + 40] = bytes(40)
    assert send_package(lead, workspace.id, bytes(content)).status_code == 422
    deep = changed(package_bytes(lead, trial), "datapackage.json", lambda _: "[" * 100_000)
    assert send_package(lead, workspace.id, deep).status_code == 422


def test_a_bomb_is_not_unpacked(lead: Api, workspace: Workspace, settings: Any) -> None:
    settings.PACKAGE_LIMIT_BYTES = 100_000
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("strips.csv", b"0" * 5_000_000)
    assert len(out.getvalue()) < 100_000
    answer = send_package(lead, workspace.id, out.getvalue())
    assert answer.status_code == 422
    assert "unpacks to far more" in answer.json()["message"]
    settings.PACKAGE_LIMIT_BYTES = 100
    assert send_package(lead, workspace.id, out.getvalue()).json()["code"] == "too_large"


def test_people_are_taken_where_they_are_members(lead: Api, workspace: Workspace, full: Place) -> None:
    copy = send_package(lead, workspace.id, package_bytes(lead, full)).json()
    assert copy["protocol"]["by"] == full["protocol"]["by"]
    assert (
        Membership.objects.filter(workspace=workspace).count() == User.objects.filter(memberships__workspace=workspace).count()
    )


def test_the_workbook_holds_the_screens_numbers(lead: Api, full: Place) -> None:
    response = lead.client.get(f"/api/trials/{full['id']}/data-file?format=xlsx")
    book = load_workbook(io.BytesIO(response.content))
    assert book.sheetnames[:2] == ["About", "Strips"]
    fresh = lead.ok("get", f"/trials/{full['id']}")
    rows = list(book["Strips"].iter_rows(values_only=True))
    column = rows[0].index("Yield, t/ha")
    wanted = [strip["yield_"]["value"] if strip["yield_"] else None for strip in fresh["strips"]]
    assert [row[column] for row in rows[1:]] == [None if item is None else pytest.approx(item) for item in wanted]
    assert wanted.count(None) <= 1, "all but the lost strip have one"
    verdict = lead.ok("get", f"/trials/{full['id']}/verdict")
    means = {row[0]: row[3] for row in list(book["Means yield"].iter_rows(values_only=True))[1:]}
    assert means == pytest.approx({item["letter"]: item["mean"]["value"] for item in verdict["yield_"]["means"]})


def test_nothing_in_a_workbook_or_table_runs_as_a_formula(lead: Api, full: Place) -> None:
    """=1+1 typed as a guess stays that text: no cell is a formula, and CSV cells begin with nothing that would be one."""
    response = lead.client.get(f"/api/trials/{full['id']}/data-file?format=xlsx")
    book = load_workbook(io.BytesIO(response.content))
    kinds = {cell.data_type for sheet in book for row in sheet.iter_rows() for cell in row}
    assert "f" not in kinds
    assert "=1+1 is 2" in {cell.value for row in book["About"].iter_rows() for cell in row}
    content = lead.client.get(f"/api/trials/{full['id']}/data-file?format=csv").content.decode("utf-8-sig")
    cells = [cell for row in csv.reader(io.StringIO(content, newline="")) for cell in row]
    risky = [cell for cell in cells if cell.startswith(("=", "+", "@")) or (cell.startswith("-") and not _number(cell))]
    assert risky == []
    assert "''quoted', \"twice\"\nand on two lines" in cells


def _number(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True


def test_a_package_that_is_here_already_is_asked_about(lead: Api, workspace: Workspace, trial: Place) -> None:
    """Replace puts the trial into the bin, beside keeps both, leaving it changes nothing: no trial counts twice unasked."""
    content = package_bytes(lead, trial)
    before = Trial.objects.count()
    asked = send_package(lead, workspace.id, content, "ask")
    assert (asked.status_code, asked.json()["code"]) == (409, "already_here")
    assert trial["title"] in asked.json()["message"]
    assert Trial.objects.count() == before
    replaced = send_package(lead, workspace.id, content, "replace").json()
    rows = lead.ok("get", f"/workspaces/{workspace.id}/trials")["rows"]
    assert [row["id"] for row in rows] == [replaced["id"]]
    (binned,) = lead.ok("get", f"/workspaces/{workspace.id}/bin")["trials"]
    assert (binned["id"], binned["reason"]) == (trial["id"], "replaced by a data package")
    again = send_package(lead, workspace.id, content, "ask")
    assert "the very one it was read from" in again.json()["message"], "what was read back is known by where it came from"
    assert send_package(lead, workspace.id, content, "beside").status_code == 201
    assert len(lead.ok("get", f"/workspaces/{workspace.id}/trials")["rows"]) == 2
