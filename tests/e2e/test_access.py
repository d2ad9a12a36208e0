"""Reach: axe on every main view in every theme, and the whole walk with the keyboard alone."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import PASSWORD
from tests.e2e.reach import every_place, serious, settled, trial_id, violations_on


def test_axe_at_the_sign_in(page: Page) -> None:
    expect(page.get_by_role("button", name="Sign in")).to_be_visible()
    assert serious(page) == []


def test_the_theme_is_an_attribute_of_the_page_and_nothing_else(lead: Page) -> None:
    """What the walk of axe below rests on: it changes the attribute as choosing a theme does."""
    for theme in ("night", "sun", "day"):
        lead.get_by_label("Theme").select_option(theme)
        expect(lead.locator("html")).to_have_attribute("data-theme", theme)


def test_axe_on_the_first_half_of_all_views(lead: Page) -> None:
    """The other half is a file of its own, so that two workers share them."""
    places = every_place(lead)
    assert violations_on(lead, places[: len(places) // 2]) == {}


def test_axe_with_the_working_open(lead: Page) -> None:
    settled(lead, f"/trials/{trial_id(lead, 'Row width in winter wheat 2026')}/verdict")
    lead.get_by_role("button", name="The working").first.click()
    expect(lead.get_by_role("complementary", name="The working")).to_be_visible()
    assert serious(lead) == []


def tab_to(page: Page, name: str) -> None:
    """Press Tab until the element with this accessible name has the focus."""
    script = """() => {
        const one = document.activeElement;
        if (!one) return "";
        const label = one.labels && one.labels[0] ? one.labels[0].innerText : "";
        return (one.getAttribute("aria-label") || label || one.innerText || "").trim();
    }"""
    named = re.compile(f"^\\s*{re.escape(name)}")
    there = page.get_by_label(named).or_(page.get_by_role("button", name=named)).or_(page.get_by_role("link", name=named))
    expect(there.first).to_be_visible()  # a page still on its way swallows every Tab
    for _ in range(150):
        page.keyboard.press("Tab")
        if re.match(re.escape(name), page.evaluate(script)):
            return
    pytest.fail(f"the keyboard does not reach “{name}”")


def type_in(page: Page, name: str, text: str) -> None:
    tab_to(page, name)
    page.keyboard.press("ControlOrMeta+A")
    page.keyboard.type(text)


def press(page: Page, name: str) -> None:
    tab_to(page, name)
    page.keyboard.press("Enter")


def to_stage(page: Page, key: str, name: str) -> None:
    """A single key of the desk; first out of the field one is in."""
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press(key)
    expect(page).to_have_url(re.compile(name))


def test_the_walk_with_the_keyboard_alone(page: Page) -> None:
    page.mouse.move(0, 0)
    type_in(page, "Name you sign in with", "ilse")
    type_in(page, "Password", PASSWORD)
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Due at Tamsin Vale")).to_be_visible()
    press(page, "Trials")
    expect(page.get_by_role("heading", name="Trials")).to_be_visible()
    press(page, "New trial")
    type_in(page, "Title", "Keys only")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Keys only")).to_be_visible()

    type_in(page, "The question", "Do narrow rows pay?")
    type_in(page, "Price of the crop", "200")
    page.keyboard.press("Enter")
    expect(page.get_by_role("status").first).to_contain_text("Saved")
    to_stage(page, "2", "treatments")
    type_in(page, "Level of A", "25")
    type_in(page, "Level of B", "12.5")
    type_in(page, "Extra cost of B", "20")
    press(page, "Keep these treatments")
    expect(page.get_by_role("navigation", name="Season line")).to_contain_text("2 treatments")
    to_stage(page, "3", "layout")
    type_in(page, "Strip width", "6")
    type_in(page, "Strip length", "300")
    type_in(page, "Seed of the draw", "99")
    press(page, "Draw the strips")
    expect(page.get_by_role("group", name="Strips in field order").get_by_role("button")).to_have_count(8)

    to_stage(page, "6", "stand")
    press(page, "Count in the field book")
    expect(page.get_by_role("heading", name="Field book of Keys only")).to_be_attached()
    for count in ("43", "45"):
        page.keyboard.type(count)
        page.keyboard.press("Enter")
    expect(page.get_by_label("Counts of this strip").get_by_role("listitem")).to_have_count(2)
    page.keyboard.press("ArrowRight")
    expect(page.get_by_text("Strip 2", exact=True)).to_be_visible()
    press(page, "Leave")
    expect(page.get_by_role("heading", name="1 of 8 strips counted")).to_be_visible()

    to_stage(page, "9", "harvest")
    type_in(page, "Swath width of all empty rows", "5.4")
    type_in(page, "Length cut of all empty rows", "300")
    tab_to(page, "or net, strip 1")
    letters = [
        "narrow" if "12.5 cm" in (locator.get_attribute("title") or "") else "wide"
        for locator in page.get_by_role("group", name="Strips in field order").get_by_role("button").all()
    ]
    for place, letter in enumerate(letters):
        page.keyboard.type(str((1200 if letter == "narrow" else 1120) + 3 * place))
        page.keyboard.press("Enter")
    page.evaluate("document.activeElement.blur()")
    tab_to(page, "Moisture, strip 1")
    for _ in letters:
        page.keyboard.type("13.5")
        page.keyboard.press("Enter")
    page.evaluate("document.activeElement.blur()")
    press(page, "Record 8 loads")
    expect(page.get_by_role("heading", name="8 of 8 strips have a yield")).to_be_visible()
    to_stage(page, "0", "verdict")
    expect(page.get_by_label("The verdict")).to_contain_text("B (12.5 cm) gains yield over A (25 cm)")
    page.keyboard.press("w")
    expect(page.get_by_role("complementary", name="The working")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("complementary", name="The working")).to_have_count(0)
    page.keyboard.press("j")
    page.keyboard.type("keys only stand")
    expect(page.get_by_role("dialog").get_by_role("button", name="Keys only › stand")).to_be_visible()
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("/stand"))
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("?")
    expect(page.get_by_role("dialog", name="Shortcuts")).to_be_visible()


def test_single_keys_can_be_switched_off(lead: Page) -> None:
    lead.keyboard.press("?")
    box = lead.get_by_label("Single keys are on", exact=False)
    box.uncheck()
    expect(box).not_to_be_checked()
    lead.keyboard.press("Escape")
    lead.keyboard.press("b")
    expect(lead).not_to_have_url(re.compile("/bench"))
    lead.get_by_role("button", name="Shortcuts of this place").click()
    box.check()
    expect(box).to_be_checked()
