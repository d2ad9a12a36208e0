"""A trial copied, archived, closed, opened again, binned and restored in the browser, and its history read."""

from __future__ import annotations

import re
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.test_answer_stories import Desk, laid, typed


def menu(page: Page, name: str) -> None:
    page.get_by_text("This trial", exact=True).click()
    page.get_by_role("button", name=name, exact=True).or_(page.get_by_role("link", name=name, exact=True)).first.click()


@pytest.fixture
def trial(lead: Page) -> Any:
    levels = [[("12.5", "cm"), ("25", "cm")]]
    made = laid(
        Desk(lead), "Rows to look back on", "winter_wheat", [{"kind": "row_spacing"}], levels, price=typed("200", "money/t")
    )
    lead.goto(f"/trials/{made['id']}/question")
    expect(lead.get_by_role("heading", name="Rows to look back on", exact=True)).to_be_visible()
    return made


def test_a_season_is_closed_and_opened_again_with_a_reason(lead: Page, trial: Any) -> None:
    menu(lead, "Close the season")
    lead.get_by_label("Note, if you like").fill("Looked through.")
    lead.get_by_role("button", name="Close it").click()
    expect(lead.get_by_text("Season closed by Ilse Varnholt", exact=False)).to_be_visible()
    expect(lead.get_by_label("The question")).to_be_disabled()
    menu(lead, "Open the season again")
    lead.get_by_role("button", name="Open it again").click()
    expect(lead.get_by_role("dialog").get_by_text("The reason is missing", exact=False)).to_be_visible()
    lead.get_by_label("Reason").fill("A strip was marked wrongly.")
    lead.get_by_role("button", name="Open it again").click()
    expect(lead.get_by_label("The question")).to_be_enabled()
    lead.goto(f"/trials/{trial['id']}/verdict")
    expect(lead.get_by_text("opened again by Ilse Varnholt", exact=False)).to_contain_text("A strip was marked wrongly.")


def test_a_copy_is_archived_and_found_again(lead: Page, trial: Any) -> None:
    del trial
    menu(lead, "Copy it")
    lead.get_by_role("dialog").get_by_label("Title", exact=True).fill("Rows once more")
    lead.get_by_role("button", name="Copy it", exact=True).last.click()
    expect(lead.get_by_role("heading", name="Rows once more", exact=True)).to_be_visible()
    menu(lead, "Archive")
    expect(lead.get_by_text("In the archive", exact=False)).to_be_visible()
    lead.goto("/trials?find=once+more")
    expect(lead.get_by_text("No trial fits that", exact=False)).to_be_visible()
    lead.get_by_label("Archived").check()
    expect(lead.get_by_role("link", name="Rows once more", exact=True)).to_be_visible()


def test_the_bin_gives_back_what_was_put_there(lead: Page, trial: Any) -> None:
    menu(lead, "Put in the bin")
    lead.get_by_label("Reason").fill("laid out twice")
    lead.get_by_role("button", name="Put it in the bin").click()
    expect(lead).to_have_url(re.compile("/trials$"))
    lead.goto(f"/trials/{trial['id']}/question")
    expect(lead.get_by_text("This trial lies in the bin", exact=False)).to_be_visible()
    lead.goto("/setup/bin")
    row = lead.get_by_role("listitem").filter(has_text="laid out twice")
    expect(row).to_contain_text("Rows to look back on")
    row.get_by_role("button", name="Restore").click()
    expect(row).to_have_count(0)
    lead.goto(f"/trials/{trial['id']}/question")
    menu(lead, "History")
    expect(lead.get_by_role("heading", level=1)).to_contain_text("History of Rows to look back on")
    expect(lead.get_by_text("put in the bin", exact=False)).to_be_visible()
    lead.get_by_role("combobox", name="Of").select_option(label="Trial")
    expect(lead.get_by_text("put in the bin", exact=False)).to_have_count(0)
