"""Parts of a workspace in the browser: what each sees, is offered, and is refused by its own address."""

from __future__ import annotations

import re
from collections.abc import Callable

from playwright.sync_api import Page, expect

OWN, OTHER = "Late wheat, 3 or 5 cm deep", "Sorghum seeding rate"
AsPerson = Callable[[str], Page]


def shelf(page: Page) -> None:
    page.get_by_role("link", name="Trials", exact=True).click()
    expect(page.get_by_role("heading", level=1)).to_be_visible()


def address_of(page: Page, title: str) -> str:
    shelf(page)
    page.get_by_role("link", name=title, exact=True).click()
    page.wait_for_url(re.compile(r"/trials/[0-9a-f-]{36}/"))
    return page.url.rsplit("/", 1)[0]


def test_a_grower_has_the_own_farm_and_no_other(as_person: AsPerson) -> None:
    other = address_of(as_person("ilse"), OTHER)
    page = as_person("pell")
    shelf(page)
    expect(page.get_by_role("link", name=OWN, exact=True)).to_be_visible()
    expect(page.get_by_role("link", name=OTHER, exact=True)).to_have_count(0)
    expect(page.get_by_role("link", name="New trial")).to_have_count(0)
    for stage in ("question", "harvest", "verdict", "fieldbook"):
        page.goto(f"{other}/{stage}")
        expect(page.get_by_text("There is nothing here that you can see").first).to_be_visible()
    page.goto("/ledger")
    expect(page.get_by_role("table").first).to_contain_text("Quillbrook")
    for farm in ("Aldermere", "Harrowfold", "Sallowbank"):
        expect(page.get_by_text(farm)).to_have_count(0)
    page.goto("/setup/rights")
    expect(page.get_by_text("on Quillbrook", exact=False).first).to_be_visible()


def test_a_grower_records_and_does_not_plan(as_person: AsPerson) -> None:
    page = as_person("pell")
    own = address_of(page, OWN)
    page.goto(f"{own}/question")
    expect(page.get_by_label("The question")).to_be_disabled()
    page.goto(f"{own}/fieldbook?task=count&strip=1")
    expect(page.get_by_text("Strip 1", exact=True)).to_be_visible()
    page.keyboard.type("88")
    page.keyboard.press("Enter")
    listed = page.get_by_label("Counts of this strip").get_by_role("listitem")
    expect(listed.filter(has_text="server").filter(has_text="88")).to_have_count(1)


def test_a_field_hand_sees_no_money(as_person: AsPerson) -> None:
    page = as_person("tobin")
    expect(page.get_by_role("navigation", name="Places").get_by_role("link", name="Ledger")).to_have_count(0)
    trial = address_of(page, OTHER)
    page.goto(f"{trial}/harvest")
    expect(page.get_by_text("19 of 19 strips have a yield")).to_be_visible()
    for name in ("Verdict", "Report"):
        expect(page.get_by_role("link", name=re.compile(f"^{name}"))).to_have_count(0)
    expect(page.get_by_label("Ribbon shows").locator("option")).not_to_contain_text(["Net return"] * 5)
    page.goto(f"{trial}/question")
    expect(page.get_by_label("The question")).to_be_disabled()
    expect(page.get_by_text("What is planned is changed by an owner or adviser", exact=False)).to_be_visible()
    page.goto(f"{trial}/verdict")
    expect(page.get_by_text("is not part of a field hand's rights here", exact=False).first).to_be_visible()


def test_an_adviser_lets_in_and_leaves_the_settings(as_person: AsPerson) -> None:
    page = as_person("maren")
    page.goto("/setup/people")
    expect(page.get_by_role("navigation", name="Setup").get_by_role("link", name="Backups")).to_have_count(0)
    page.get_by_role("button", name="Change Ilse Varnholt").click()
    page.get_by_label("Part in").select_option(label="Reader")
    page.get_by_role("button", name="Change the part").click()
    expect(page.get_by_role("dialog").get_by_role("alert")).to_contain_text("can give that part or take it away")


def move(as_person: AsPerson, taken: str, given: str) -> None:
    """As the owner: a farm of Pell's is taken, and another one given."""
    page = as_person("ilse")
    page.goto("/setup/people")
    page.get_by_role("button", name="Change Pell Arrowby").click()
    dialog = page.get_by_role("dialog")
    for name in (taken, given):
        dialog.get_by_label(name, exact=True).click()
    dialog.get_by_role("button", name="Change the part").click()
    expect(page.get_by_role("row").filter(has_text="Pell Arrowby")).to_contain_text(f"Grower, {given}")


def test_an_owner_gives_a_grower_another_farm(as_person: AsPerson) -> None:
    move(as_person, "Quillbrook", "Aldermere")
    grower = as_person("pell")
    shelf(grower)
    expect(grower.get_by_role("link", name=OWN, exact=True)).to_have_count(0)
    move(as_person, "Aldermere", "Quillbrook")
    grower = as_person("pell")
    shelf(grower)
    expect(grower.get_by_role("link", name=OWN, exact=True)).to_be_visible()
