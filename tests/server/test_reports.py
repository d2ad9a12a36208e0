"""The report and its links: the verdict's own numbers, one page, and nothing of the workspace for strangers."""

from __future__ import annotations

import re
from datetime import timedelta
from typing import Any
from uuid import uuid4

import pypdfium2
import pytest
from apps.accounts.models import Membership, User, Workspace
from apps.report.models import ReportShare
from apps.report.pdf import pdf_of
from django.test import Client
from django.utils import timezone

from tests.server.conftest import Api, add_yield_log, harvest_all, now, record_count, typed
from tests.server.remembered import remembered

Place = dict[str, Any]
GAIN = {"A": 1260, "B": 1140, "C": 1130}
SECRET = "Ask Vesna about the ditch at Lower Terraces"


def page(api: Api, trial: Place, **query: Any) -> str:
    response = api.client.get(f"/api/trials/{trial['id']}/report", query)
    assert response.status_code == 200, response.content
    return str(response.content.decode())


def pdf(api: Api, trial: Place, **query: Any) -> pypdfium2.PdfDocument:
    response = api.client.get(f"/api/trials/{trial['id']}/report", {"format": "pdf", **query})
    assert response["Content-Type"] == "application/pdf"
    return pypdfium2.PdfDocument(response.content)


def words(document: pypdfium2.PdfDocument, place: int) -> str:
    return " ".join(document[place].get_textpage().get_text_range().split())


@pytest.fixture
def finished(lead: Api, trial: Place) -> Place:
    """Frozen, one strip lost, one event noted, harvested."""
    return remembered("finished", lambda: _finished(lead, trial))


def _finished(lead: Api, trial: Place) -> Place:
    lead.ok("post", f"/trials/{trial['id']}/protocol")
    body = {"kind": "note", "happened_on": "2026-05-01", "text": SECRET, "recorded_at": now()}
    lead.ok("put", f"/trials/{trial['id']}/field-events/{uuid4()}", body)
    harvest_all(lead, trial, GAIN)
    lead.ok(
        "patch", f"/strips/{trial['strips'][4]['id']}", {"lost": True, "sown_treatment_id": None, "reason": "flooded in June"}
    )
    result: Place = lead.ok("get", f"/trials/{trial['id']}")
    return result


def share(api: Api, trial: Place, **body: Any) -> Place:
    result: Place = api.ok("post", f"/trials/{trial['id']}/shares", {"days": 5, **body})
    return result


def stranger() -> Client:
    return Client(HTTP_HOST="localhost")


def test_the_page_says_what_the_verdict_says(lead: Api, finished: Place) -> None:
    verdict = lead.ok("get", f"/trials/{finished['id']}/verdict")
    html = page(lead, finished)
    for text in (verdict["headline"], verdict["money"], verdict["fingerprint"], finished["question"], "flooded in June"):
        assert text in html
    for mean in verdict["yield_"]["means"]:
        assert re.search(rf">{re.escape(mean['mean']['text'].removesuffix(' t/ha'))}<", html), mean["mean"]["text"]
    for item in verdict["yield_"]["differences"]:
        assert f"{item['estimate']['text']}, {item['call_words']}" in html
    assert "The full record" not in html
    assert "Next year." in html


def test_the_record_holds_protocol_strips_analysis_and_money(lead: Api, finished: Place) -> None:
    verdict, money = (lead.ok("get", f"/trials/{finished['id']}/{name}") for name in ("verdict", "money"))
    html = page(lead, finished, record=True)
    for text in (SECRET, verdict["yield_"]["method"], money["marginal"]["words"], finished["protocol"]["fingerprint"]):
        assert text in html
    for item in verdict["net_return"]["differences"]:
        assert item["p"] in html
        assert item["lower"]["text"].removesuffix(" €/ha") in html
    assert html.count('<tr><td class="num">') >= len(finished["strips"])


def test_the_page_is_one_page_of_a4_with_the_answer(lead: Api, finished: Place) -> None:
    document = pdf(lead, finished)
    assert len(document) == 1
    width, height = document[0].get_size()
    assert (round(width), round(height)) == (595, 842)
    text = words(document, 0)
    assert "gains yield" in text
    assert "label, local codes and licensed advice outrank" in text
    record = pdf(lead, finished, record=True)
    assert len(record) > 1
    assert words(record, 0)[:400] == text[:400]


def test_a_printed_page_is_not_blank_and_shows_its_hatches(lead: Api, finished: Place) -> None:
    image = pdf(lead, finished)[0].render(scale=1.0).to_pil().convert("L")
    dark = sum(1 for value in image.tobytes() if value < 100) / (image.width * image.height)
    assert 0.02 < dark < 0.30


def test_a_trial_without_harvest_still_has_a_report(lead: Api, trial: Place) -> None:
    assert "No verdict yet." in page(lead, trial, record=True)
    assert len(pdf(lead, trial)) == 1


def test_what_people_typed_cannot_become_markup(lead: Api, finished: Place) -> None:
    lead.ok(
        "patch",
        f"/trials/{finished['id']}",
        {
            "version": finished["version"],
            "title": "<script>alert(1)</script>",
            "guess": "<img src=x onerror=y>",
            "amendment": "<b>why</b>",
        },
    )
    html = page(lead, finished, record=True)
    assert "<script" not in html
    assert "<img" not in html
    assert "<b>why" not in html
    response = lead.client.get(f"/api/trials/{finished['id']}/report")
    assert "default-src 'none'" in response["Content-Security-Policy"]
    assert "script-src" not in response["Content-Security-Policy"]


def test_prints_fetch_nothing() -> None:
    document = pypdfium2.PdfDocument(pdf_of('<img src="file:///etc/hostname"><p>still here</p>'))
    assert "still here" in words(document, 0)


def test_a_link_opens_for_a_stranger_and_shows_nothing_private(lead: Api, finished: Place, workspace: Workspace) -> None:
    result = share(lead, finished, record=True, title="Rows, a trial of ours")
    response = stranger().get(result["path"])
    html = response.content.decode()
    assert response.status_code == 200
    assert "gains yield" in html
    assert "Rows, a trial of ours" in html
    for private in (
        SECRET,
        "Home Ground",
        "mirren",
        "Mirren",
        workspace.name,
        finished["title"],
        str(finished["id"]),
        str(workspace.id),
    ):
        assert private not in html, private
    assert "no-store" in response["Cache-Control"]
    assert "noindex" in response["X-Robots-Tag"]
    assert response["Referrer-Policy"] == "no-referrer"
    document = pypdfium2.PdfDocument(stranger().get(f"{result['path']}/pdf").content)
    printed = " ".join(words(document, place) for place in range(len(document)))
    assert SECRET.split()[1] not in printed
    assert "Home Ground" not in printed


@pytest.mark.usefixtures("scout", "viewer")
def test_names_typed_into_free_text_do_not_leave_with_a_link(lead: Api, finished: Place) -> None:
    """Title, question, reasons, price source and the name of a log, all with names in them."""
    lead.ok(
        "post",
        f"/workspaces/{finished['workspace_id']}/fields",
        {
            "name": "Otter Mead",
            "farm": "Knapp Farm",
            "width": typed("90", "m"),
            "length": typed("300", "m"),
        },
    )
    fresh = lead.ok(
        "patch",
        f"/trials/{finished['id']}",
        {
            "version": finished["version"],
            "title": "Rows on Home Ground",
            "question": "Does Corin's drill pay at Knapp Farm?",
            "price_source": "Weir Mill, told by Vesna",
            "amendment": "Otter Mead was let to Mirren",
        },
    )
    log = add_yield_log(lead, fresh)
    lead.ok("put", f"/trials/{fresh['id']}/harvest-source", {"version": 0, "log_id": log["id"]})
    inside = page(lead, fresh, record=True)
    private = ("Otter", "Knapp", "Home Ground", "Mirren", "Vesna", "Corin", "Weir Mill", "log.csv", "Lower Terraces")
    for record in (False, True):
        html = stranger().get(share(lead, fresh, record=record)["path"]).content.decode()
        assert "Rows on …" in html
        assert [name for name in private if name in html] == []
    assert [name for name in private[:6] if name not in inside] == [], "a member reads them all"
    shown = stranger().get(share(lead, fresh, places=True)["path"]).content.decode()
    assert "Rows on Home Ground" in shown
    assert "Mirren" not in shown


def test_places_are_shown_when_that_is_wanted(lead: Api, finished: Place) -> None:
    assert "Home Ground" in stranger().get(share(lead, finished, places=True)["path"]).content.decode()


def test_a_link_gives_no_way_further_in(lead: Api, finished: Place) -> None:
    result = share(lead, finished)
    who = stranger()
    who.get(result["path"])
    for path in (f"/api/trials/{finished['id']}", f"/api/trials/{finished['id']}/report", "/api/session"):
        answer = who.get(path)
        assert answer.status_code == 401 or not answer.json().get("person")
    for method in ("post", "put", "patch", "delete"):
        assert getattr(who, method)(result["path"]).status_code == 405


def test_a_link_ends(lead: Api, finished: Place) -> None:
    result = share(lead, finished)
    assert stranger().get(result["path"]).status_code == 200
    ReportShare.objects.update(expires_at=timezone.now() - timedelta(seconds=1))
    gone = stranger().get(result["path"])
    assert gone.status_code == 404
    assert "opens nothing" in gone.content.decode()
    assert lead.ok("get", f"/trials/{finished['id']}/shares")[0]["state"] == "expired"


def test_a_link_is_revoked(lead: Api, adviser: Api, finished: Place) -> None:
    result = share(lead, finished)
    assert adviser.ok("post", f"/shares/{result['id']}/revoke")["state"] == "revoked"
    assert stranger().get(result["path"]).status_code == 404
    assert stranger().get(f"{result['path']}/pdf").status_code == 404


def test_a_link_dies_with_the_membership_of_its_maker(lead: Api, finished: Place) -> None:
    result = share(lead, finished)
    Membership.objects.filter(user=User.objects.get(username="mirren")).delete()
    assert stranger().get(result["path"]).status_code == 404


def test_a_link_dies_with_the_account_of_its_maker(lead: Api, finished: Place) -> None:
    """Deactivated, and a member still by the books."""
    result = share(lead, finished)
    User.objects.filter(username="mirren").update(is_active=False)
    assert stranger().get(result["path"]).status_code == 404
    assert stranger().get(f"{result['path']}/pdf").status_code == 404


def test_names_of_people_who_left_stay_out_of_shared_pages(lead: Api, scout: Api, finished: Place) -> None:
    """Corin recorded and left, Wenna was only a member and left: both names stand in free text."""
    record_count(scout, finished)
    wenna = User.objects.create_user("wenna", first_name="Wenna", last_name="Tregale")
    home = Workspace.objects.get(pk=finished["workspace_id"])
    Membership.objects.create(user=wenna, workspace=home, role="reader")
    fresh = lead.ok("get", f"/trials/{finished['id']}")
    lead.ok(
        "patch",
        f"/trials/{finished['id']}",
        {
            "version": fresh["version"],
            "question": "Do Corin's rows pay, as Wenna Tregale thinks?",
            "amendment": "asked by Tregale",
        },
    )
    Membership.objects.filter(user__username__in=("corin", "wenna")).delete()
    result = share(lead, finished, record=True)
    html = stranger().get(result["path"]).content.decode()
    assert "rows pay, as" in html
    assert [name for name in ("Corin", "Wenna", "Tregale") if name in html] == []


def test_a_token_is_not_kept_and_not_guessed(lead: Api, finished: Place) -> None:
    result = share(lead, finished)
    token = result["path"].rsplit("/", 1)[1]
    assert len(token) >= 40
    kept = ReportShare.objects.get()
    assert token not in str(vars(kept))
    assert lead.ok("get", f"/trials/{finished['id']}/shares")[0]["path"] == ""
    for other in (token[:-1], token + "x", kept.token_hash, str(kept.id), "x"):
        assert stranger().get(f"/shared/{other}").status_code == 404
    assert stranger().get(result["path"]).status_code == 200
    assert lead.ok("get", f"/trials/{finished['id']}/shares")[0]["opened"] == 1


@pytest.mark.parametrize(("days", "code"), [(0, "too_small"), (-3, "too_small"), (366, "too_large")])
def test_days_that_cannot_be(lead: Api, finished: Place, days: int, code: str) -> None:
    answer = lead.refused("post", f"/trials/{finished['id']}/shares", {"days": days})
    assert (answer["code"], answer["field"]) == (code, "days")
    assert not ReportShare.objects.exists()


def test_advice_follows_the_money(lead: Api, trial: Place) -> None:
    """Nothing harvested: none. A clear gain: use it. Nothing to tell: change nothing yet."""
    assert "Next year." not in page(lead, trial)
    harvest_all(lead, trial, GAIN)
    assert "Use A (12.5 cm) rather than C (25 cm) where the field is alike." in page(lead, trial)


def test_advice_without_a_difference(lead: Api, trial: Place) -> None:
    harvest_all(lead, trial, {"A": 1130, "B": 1132, "C": 1130}, spread=60)
    html = page(lead, trial)
    assert "Change nothing for good yet." in html
    assert "pay is open" in html
