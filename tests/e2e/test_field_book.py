"""The field book in the mud: no signal, a small screen, a blind count."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.e2e.conftest import stage
from tests.e2e.phones import phone_of, sign_in, to_book


@pytest.fixture
def book(lead: Page) -> Page:
    """The field book of a trial that waits to be counted."""
    lead.set_viewport_size({"width": 390, "height": 844})
    lead.get_by_role("link", name=re.compile("Open Stand of Wheat seeding rate")).click()
    stage(lead, "Stand")
    lead.get_by_role("link", name="Count in the field book").click()
    expect(lead.get_by_role("heading", name=re.compile("Field book of"))).to_be_attached()
    return lead


def type_count(page: Page, count: str) -> None:
    page.keyboard.type(count)
    page.keyboard.press("Enter")


def test_without_a_signal(book: Page) -> None:
    for _ in range(7):
        book.keyboard.press("ArrowRight")
    expect(book.get_by_text("Strip 8", exact=True)).to_be_visible()
    listed = book.get_by_label("Counts of this strip").get_by_role("listitem")
    expect(listed).to_have_count(0)
    book.context.set_offline(True)
    for count in ("141", "152", "147"):
        type_count(book, count)
    expect(listed.filter(has_text="this device")).to_have_count(3)
    expect(book.get_by_text("3 on this device: no signal")).to_be_visible()
    expect(book.get_by_text(re.compile(r"more to reach|enough here"))).to_be_visible()  # reckoned on the device
    book.keyboard.press("Backspace")
    expect(listed).to_have_count(2)
    book.context.set_offline(False)
    expect(book.get_by_text("all on the server")).to_be_visible()
    expect(listed.filter(has_text="server")).to_have_count(2)
    book.reload()
    expect(listed).to_have_count(2)


def test_a_second_tab_sends_nothing_twice(book: Page) -> None:
    book.context.set_offline(True)
    type_count(book, "133")
    other = book.context.new_page()
    listed = book.get_by_label("Counts of this strip").get_by_role("listitem").filter(has_text="133")
    expect(listed).to_have_count(1)
    book.context.set_offline(False)
    other.goto(book.url)
    expect(book.get_by_text("all on the server")).to_be_visible()
    other.reload()
    expect(other.get_by_label("Counts of this strip").get_by_role("listitem").filter(has_text="133")).to_have_count(1)


def test_blind_shows_strip_numbers_only(book: Page) -> None:
    expect(book.get_by_text(re.compile(r"Block 1, [A-C]:"))).to_be_visible()
    book.locator("summary").first.click()
    book.get_by_label("Blind: strip numbers only").check()
    expect(book.get_by_text(re.compile(r"[A-C]: \d+"))).to_have_count(0)
    labels = [
        locator.get_attribute("title") or "" for locator in book.get_by_role("group", name="Strips").get_by_role("button").all()
    ]
    assert labels
    assert not any(re.search(r", [A-H], ", label) for label in labels)


def test_targets_are_large_enough_for_a_thumb(book: Page) -> None:
    for button in book.get_by_role("group", name="Keypad").get_by_role("button").all():
        box = button.bounding_box()
        assert box is not None
        assert box["height"] >= 44
        assert box["width"] >= 44
    width = book.evaluate("document.documentElement.scrollWidth")
    assert width <= 390, "nothing runs out of a phone's screen"


def test_a_frame_instead_of_rows(book: Page) -> None:
    """52 plants in a frame of 0.25 m² are 208 /m² (definition)."""
    for _ in range(8):
        book.keyboard.press("ArrowRight")
    expect(book.get_by_text("Strip 9", exact=True)).to_be_visible()
    book.locator("summary").first.click()
    book.get_by_label("Counted", exact=True).select_option("quadrat")
    expect(book.get_by_label("Area of the frame", exact=True)).to_have_value("0.25")
    book.locator("summary").first.click()
    book.evaluate("document.activeElement.blur()")
    type_count(book, "52")
    listed = book.get_by_label("Counts of this strip").get_by_role("listitem")
    expect(listed.filter(has_text="52, 208.0/m²").filter(has_text="server")).to_have_count(1)
    expect(book.get_by_text("208.0 plants/m²")).to_be_visible()


def test_an_odd_count_is_questioned_and_kept(book: Page) -> None:
    for _ in range(9):
        book.keyboard.press("ArrowRight")
    expect(book.get_by_text("Strip 10", exact=True)).to_be_visible()
    type_count(book, "4")
    listed = book.get_by_label("Counts of this strip").get_by_role("listitem")
    expect(listed).to_contain_text("of the seed sown. Right length")
    expect(listed).to_contain_text("server")


def test_how_it_is_counted_must_be_said(book: Page) -> None:
    book.locator("summary").first.click()
    book.get_by_label("Length of row", exact=True).fill("none")
    book.get_by_label("Length of row", exact=True).press("Tab")
    book.locator("summary").first.click()
    book.evaluate("document.activeElement.blur()")
    type_count(book, "12")
    expect(book.get_by_role("alert")).to_contain_text("Say first how it is counted")
    expect(book.get_by_label("Plants typed")).to_have_text("12")


def test_the_cone_is_read_at_one_depth_after_the_other(browser: Browser, address: str) -> None:
    """A task that follows from the registry: what is needed beside the number is asked for once, and kept."""
    with phone_of(browser, address) as page:
        sign_in(page)
        place = to_book(page, 4, "read-soil")
        page.keyboard.type("1.85")
        page.keyboard.press("Enter")
        expect(page.get_by_role("alert")).to_have_text("Type it first: depth of the cone.")
        page.get_by_label("Depth of the cone", exact=True).fill("15")
        page.get_by_label("Value typed").click()
        page.keyboard.press("Enter")
        listed = page.get_by_label("Soil resistance on this strip").get_by_role("listitem")
        expect(listed).to_have_text(re.compile("1.85 MPa, at 15 cm.*server"))
        page.context.set_offline(True)
        page.keyboard.type("2.1")
        page.keyboard.press("Enter")
        expect(listed.first).to_have_text(re.compile("2.1 MPa, at 15 cm.*this device"))
        page.context.set_offline(False)
        expect(listed.first).to_have_text(re.compile("2.10 MPa, at 15 cm.*server"))
        page.goto(place.replace("fieldbook", "season").replace("task=read-soil", "sheet=measured"))
        expect(page.get_by_role("region", name="Readings of strip 4")).to_contain_text("1.85 MPa, at 15 cm")
