"""Parts of the report: what is struck, what is drawn, what is advised, and how tables and cells are kept."""

from __future__ import annotations

import io
import re
from dataclasses import replace
from typing import Any
from uuid import uuid4

import pytest
from apps.accounts.models import User
from apps.analysis.verdict.advice import LOOK, advice
from apps.analysis.verdict.decisions import Decision, decisions_for
from apps.analysis.verdict.models import Verdict
from apps.analysis.verdict.queries import computed
from apps.audit.models import AuditEvent
from apps.exchange.package.tables import NAMES, TABLES, cell, fields_of, schema_of, value_of
from apps.field.attachments.models import Attachment
from apps.field.season.models import Photo
from apps.field.tasks.models import VisitTask
from apps.jobs.models import Job
from apps.pages.verdict.output import verdict_out
from apps.report.differences_svg import differences_svg
from apps.report.models import ReportShare
from apps.report.private import private_words, without
from apps.report.ribbon_svg import ribbon_svg
from apps.trial_state.models import TrialSummary
from apps.trial_state.view import view
from apps.trials.models import Strip, Trial, TrialLife, TrialOrigin
from apps.trials.queries import trial_for
from cultrix_core.stats.decision_rule import Call, CallName
from django.apps import apps
from django.utils.safestring import mark_safe
from openpyxl import load_workbook

from tests.server.conftest import Api, harvest_all, load_body, typed

Place = dict[str, Any]
# Not in a package, with the reason.
LEFT_OUT = {
    Job: "work of the server",
    Verdict: "computed from the rest",
    TrialSummary: "computed from the rest",
    ReportShare: "a link belongs to where it was made",
    Photo: "pictures stay on the server",
    TrialLife: "where it is put is said where it was put",
    Attachment: "files stay on the server, and may be invoices",
    VisitTask: "who does what is arranged among the people of a workspace",
    AuditEvent: "who took it out is said where it was taken out",
    TrialOrigin: "it comes from this package then",
}
GAIN = {"A": 1260, "B": 1140, "C": 1130}


def seen(trial: Place) -> Any:
    user = User.objects.get(username="mirren")
    return view(user, trial_for(user, Trial.objects.get(pk=trial["id"]).id))


@pytest.fixture
def rows(lead: Api, trial: Place) -> list[Decision]:
    """The two comparisons of net return of a harvested trial."""
    harvest_all(lead, trial, GAIN)
    found = seen(trial)
    result = computed(found).net
    assert result is not None
    return decisions_for(found, result, "net_return")


def called(row: Decision, name: CallName) -> Decision:
    return replace(row, call=Call(name=name, beyond_margin=False, excludes_zero=True, margin=20.0))


@pytest.mark.parametrize(
    ("first", "second", "words"),
    [
        ("gain", "loss", ["Use A (12.5 cm) rather than C (25 cm)", "Leave B (18 cm) alone."]),
        ("gain", "no_difference_that_matters", ["Use A (12.5 cm) rather than C (25 cm)"]),
        ("loss", "loss", ["Leave A (12.5 cm), B (18 cm) alone."]),
        ("no_difference_that_matters", "no_difference_that_matters", ["A (12.5 cm) or C (25 cm): take the one that is easier"]),
        ("cannot_tell_yet", "cannot_tell_yet", ["Change nothing for good yet.", "Whether A (12.5 cm), B (18 cm) pay is open."]),
        ("gain", "cannot_tell_yet", ["Use A (12.5 cm)", "Whether B (18 cm) pays is open. Eight blocks would."]),
    ],
)
def test_advice_by_calls(rows: list[Decision], first: CallName, second: CallName, words: list[str]) -> None:
    told = advice([called(rows[0], first), called(rows[1], second)], in_money=True, settle="Eight blocks would.")
    for text in words:
        assert text in told
    assert ("Change nothing" in told) == (first == second == "cannot_tell_yet")


def test_advice_without_money_and_without_a_call(rows: list[Decision]) -> None:
    told = advice([called(rows[0], "cannot_tell_yet")], in_money=False, settle="")
    assert told.endswith("Whether A (12.5 cm) yields more is open. It wants another year, with more blocks.")
    assert advice([replace(row, call=None) for row in rows], in_money=True, settle="") == LOOK
    assert advice([], in_money=True, settle="") == LOOK


def test_the_ribbon_draws_every_strip_with_its_letter_and_crosses_the_lost(lead: Api, trial: Place) -> None:
    harvest_all(lead, trial, GAIN)
    before = str(ribbon_svg(seen(trial)))
    letters = re.findall(r'font-weight="bold" text-anchor="middle">([A-Z]+)<', before)
    by_id = {item["id"]: item["letter"] for item in trial["treatments"]}
    assert letters == [by_id[strip["treatment_id"]] for strip in trial["strips"]]
    assert before.count("Block ") == 3
    body = {"lost": True, "sown_treatment_id": None, "reason": "hail"}
    lead.ok("patch", f"/strips/{trial['strips'][3]['id']}", body)
    after = str(ribbon_svg(seen(trial)))
    crosses = [len(re.findall(r'<path d="M[\d.]+ [\d.]+L[\d.]+ [\d.]+M', name)) for name in (before, after)]
    assert crosses[1] == crosses[0] + 1


def test_a_column_is_the_higher_the_more_the_strip_gave(lead: Api, trial: Place) -> None:
    harvest_all(lead, trial, GAIN)
    result = seen(trial)
    heights = [float(item) for item in re.findall(r'height="([\d.]+)" fill="url\(#h', str(ribbon_svg(result)))]
    yields = [result.records[strip.id].yield_kg_per_ha for strip in result.strips]
    assert [heights.index(height) for height in sorted(heights)] == [yields.index(item) for item in sorted(yields)]
    assert min(heights) > 0, "the lowest still shows a column"


def test_differences_are_drawn_to_scale(lead: Api, trial: Place) -> None:
    """Ends of intervals, estimates and nought lie on one straight scale (definition)."""
    harvest_all(lead, trial, GAIN)
    analysis = verdict_out(seen(trial)).yield_
    assert analysis is not None
    svg = str(differences_svg(analysis))
    ends = [(float(a), float(b)) for a, b in re.findall(r'd="M([\d.]+) [\d.]+v8m0 -4H([\d.]+)m', svg)]
    points = [float(item) for item in re.findall(r'<circle cx="([\d.]+)"', svg)]
    nought = float(re.findall(r'<path d="M([\d.]+) 2V', svg)[0])
    values = [(difference.lower, difference.estimate, difference.upper) for difference in analysis.differences]
    drawn = [x for (low, high), point in zip(ends, points, strict=True) for x in (low, point, high)]
    told = [end.value for row in values for end in row if end is not None]
    slope = (drawn[-1] - nought) / told[-1]
    for x, value in zip(drawn, told, strict=True):
        assert x == pytest.approx(nought + slope * value, abs=0.11)
    assert slope > 0


def test_words_are_struck_wherever_they_stand(lead: Api, trial: Place) -> None:
    words = private_words(seen(trial), names=False, places=False)
    assert words is not None
    struck = without(
        {
            "a": "At HOME GROUND, by Mirren",
            "b": [("home ground's edge", 3)],
            "style": "mirren",
            "c": mark_safe("<b>mirren</b>"),
        },
        words,
    )
    assert struck["a"] == "At …, by …"
    assert struck["b"] == [["…'s edge", 3]]
    assert struck["style"] == "mirren"
    assert struck["c"] == "<b>mirren</b>"
    assert without("unmirrened homegrounds", words) == "unmirrened homegrounds", "words, not letters"
    assert private_words(seen(trial), names=True, places=True) is None
    lead.ok("get", f"/trials/{trial['id']}")


def test_short_names_are_not_struck(lead: Api, trial: Place) -> None:
    """A field called “A1” would take letters out of every page."""
    body = {"name": "ab", "farm": "Oak", "width": typed("90", "m"), "length": typed("300", "m")}
    lead.ok("post", f"/workspaces/{trial['workspace_id']}/fields", body)
    words = private_words(seen(trial), names=False, places=False)
    assert without("ab Oak Home Ground", words) == "ab Oak …"


def test_every_table_of_a_trial_is_in_it_or_left_out_for_a_reason() -> None:
    """A model added later that hangs on a trial or a strip fails here until it is written into the package."""
    hanging = {
        model
        for model in apps.get_models()
        if not model.__name__.startswith("Historical")
        and any(field.related_model in (Trial, Strip) for field in model._meta.concrete_fields)
    }
    assert hanging - set(NAMES) == set(LEFT_OUT)


@pytest.mark.parametrize("table", TABLES, ids=lambda item: item.name)
def test_schemas_name_every_column_once(table: Any) -> None:
    schema = schema_of(table.model, table.many, [])
    names = [item["name"] for item in schema["fields"]]
    assert len(names) == len(set(names))
    assert "id" in names
    assert not any(name.startswith("workspace") for name in names)
    for key in schema["foreignKeys"]:
        assert key["fields"] in names


@pytest.mark.parametrize(
    ("column", "text"),
    [
        ("order", "one"),
        ("order", ""),
        ("order", "1.5"),
        ("lost", "yes"),
        ("lost", ""),
        ("width_m", "wide"),
        ("width_m", "inf"),
        ("id", "42"),
        ("ring", "[1, NaN]"),
        ("ring", "[1,"),
        ("block_id", "x"),
    ],
)
def test_cells_that_are_no_value(column: str, text: str) -> None:
    field = next(item for item in fields_of(Strip) if item.attname == column)
    with pytest.raises(ValueError):  # noqa: PT011 - json, uuid and numbers each say it in their own words
        value_of(field, text)


def test_cells_come_back_as_they_were(lead: Api, trial: Place) -> None:
    strip = trial["strips"][0]
    lead.ok("put", f"/trials/{trial['id']}/harvest-loads/{uuid4()}", load_body(strip, "1234.567"))
    for table in TABLES:
        for record in table.rows(Trial.objects.get(pk=trial["id"])):
            for field in fields_of(table.model):
                value = getattr(record, field.attname)
                if field.related_model is not User:
                    assert value_of(field, cell(record, field)) == value, (table.name, field.attname)


def test_a_workbook_speaks_the_readers_units(lead: Api, trial: Place) -> None:
    harvest_all(lead, trial, GAIN)
    lead.ok("patch", "/session", {"unit_system": "us"})
    content = lead.client.get(f"/api/trials/{trial['id']}/data-file?format=xlsx").content
    head = next(load_workbook(io.BytesIO(content))["Strips"].iter_rows(values_only=True))
    assert "Yield, bu/ac" in head
    assert "Net return, €/ac" in head


def test_a_workbook_before_harvest_has_the_plan_only(lead: Api, trial: Place) -> None:
    content = lead.client.get(f"/api/trials/{trial['id']}/data-file?format=xlsx").content
    book = load_workbook(io.BytesIO(content))
    assert book.sheetnames == ["About", "Strips"]
    assert book["Strips"].max_row == 10


def test_an_alternating_order_needs_both_analyses_in_money_too(lead: Api, trial: Place) -> None:
    """The grid's middle is the verdict's call, which a drift along the field takes back."""
    rows = [{"levels": [typed("25", "cm")], "is_control": True}, {"levels": [typed("12.5", "cm")]}]
    fresh = lead.ok(
        "put",
        f"/trials/{trial['id']}/treatments",
        {
            "version": trial["version"],
            "factors": [{"kind": "row_spacing"}],
            "treatments": rows,
        },
    )
    drawn = lead.ok(
        "post",
        f"/trials/{trial['id']}/layout",
        {
            "version": fresh["version"],
            "design": "systematic",
            "blocks": 4,
            "strip_width": typed("6", "m"),
            "strip_length": typed("300", "m"),
        },
    )
    for place, strip in enumerate(drawn["strips"]):
        net = str(1100 + 30 * place + (0, 5, -4, 7, 2, -6, 3, 1)[place])
        lead.ok("put", f"/trials/{trial['id']}/harvest-loads/{uuid4()}", load_body(strip, net))
    verdict = lead.ok("get", f"/trials/{trial['id']}/verdict")
    money = lead.ok("get", f"/trials/{trial['id']}/money")
    here = next(cell for row in money["comparisons"][0]["grid"] for cell in row if cell["here"])
    assert here["call"] == verdict["net_return"]["differences"][0]["call"] == "cannot_tell_yet"
