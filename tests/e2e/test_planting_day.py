"""Seed at the desk, and planting day in the hand: no signal, wet thumbs, a drill left at the wrong setting."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Page, Route, expect

from tests.e2e.conftest import commit, new_trial, stage, strip_letters, to_setup, two_widths

LATE = "Late wheat, 3 or 5 cm deep"


def open_stage(page: Page, title: str, name: str) -> None:
    page.get_by_role("link", name="Trials", exact=True).click()
    page.get_by_role("link", name=title, exact=True).click()
    stage(page, name)


def read(page: Page, what: str) -> Any:
    """What the server holds of the trial that is open."""
    trial = re.search(r"/trials/([^/?]+)", page.url)
    assert trial is not None
    answer = page.request.get(f"/api/trials/{trial.group(1)}{what}")
    assert answer.ok
    return answer.json()


def strip_of(page: Page, order: int) -> dict[str, Any]:
    key = next(item["id"] for item in read(page, "")["strips"] if item["order"] == order)
    return next(item for item in read(page, "/planting")["strips"] if item["strip_id"] == key)


@pytest.fixture
def book(lead: Page) -> Page:
    """The field book on planting day, on a phone, at the first strip that is not sown."""
    open_stage(lead, LATE, "Planting")
    lead.set_viewport_size({"width": 390, "height": 844})
    lead.get_by_role("link", name="Planting day in the field book").click()
    expect(lead.get_by_role("button", name="Sow", exact=True)).to_have_attribute("aria-pressed", "true")
    return lead


def to_strip(page: Page, order: int) -> None:
    page.get_by_role("group", name="Strips in field order").get_by_role("button", name=re.compile(f"^Strip {order},")).click()
    expect(page.get_by_text(f"Strip {order}", exact=True)).to_be_visible()


def test_no_signal_and_a_double_tap(book: Page) -> None:
    """The signal drops for two strips; a double tap is one record; a wrong setting is kept beside the plan; all arrive once."""
    to_strip(book, 4)
    listed = book.get_by_label("Sowing of this strip").get_by_role("listitem")
    book.context.set_offline(True)
    book.get_by_role("button", name="Sown", exact=True).dblclick(delay=15)
    expect(listed).to_have_count(1)
    expect(listed.first).to_contain_text("this device")
    expect(book.get_by_text("Strip 4", exact=True)).to_be_visible()
    book.get_by_role("button", name="On to the next strip").click()
    expect(book.get_by_text("Strip 5", exact=True)).to_be_visible()
    planned = re.search(r"([AB]):", book.locator(".tag").nth(1).inner_text())
    assert planned is not None
    got = "A" if planned.group(1) == "B" else "B"
    book.get_by_role("button", name="Went otherwise").click()
    book.get_by_role("button", name="Wrong setting").click()
    expect(book.get_by_role("button", name="Record it")).to_be_disabled()  # what it got must be said
    book.get_by_role("group", name="It got").get_by_role("button", name=re.compile(f"^{got}")).click()
    book.get_by_label("In a word").fill("lever not moved")
    book.get_by_role("button", name="Record it").dblclick(delay=15)
    book.get_by_role("button", name="Sown", exact=True).click()
    expect(book.get_by_text("3 on this device: no signal")).to_be_visible()
    book.context.set_offline(False)
    expect(book.get_by_text("all on the server")).to_be_visible()
    expect(listed).to_have_count(2)
    assert len(strip_of(book, 4)["records"]) == 1
    fifth = strip_of(book, 5)
    assert (len(fifth["records"]), len(fifth["deviations"])) == (1, 1)
    ribbon = next(item for item in read(book, "")["strips"] if item["order"] == 5)
    assert ribbon["received_id"] != ribbon["treatment_id"], "plan and deed are both kept"
    book.reload()
    expect(listed).to_have_count(2)
    book.get_by_role("button", name=re.compile("Take back Wrong setting")).click()
    expect(listed).to_have_count(1)
    expect(book.get_by_text("all on the server")).to_be_visible()
    ribbon = next(item for item in read(book, "")["strips"] if item["order"] == 5)
    assert ribbon["received_id"] == ribbon["treatment_id"], "taken back, the strip is as planned again"


def test_an_answer_lost_on_the_way_makes_no_second_record(book: Page) -> None:
    """The server has it, the answer is lost with the signal: sent again under the same id, it stays one."""
    to_strip(book, 6)
    lost = []

    def lose_first(route: Route) -> None:
        if not lost:
            lost.append(route.fetch().status)
            route.abort("internetdisconnected")
        else:
            route.continue_()

    book.route("**/planting-records/**", lose_first)
    book.get_by_role("button", name="Sown", exact=True).click()
    expect(book.get_by_text("all on the server")).to_be_visible()
    expect(book.get_by_label("Sowing of this strip").get_by_role("listitem").filter(has_text="server")).to_have_count(1)
    assert lost == [201]
    assert len(strip_of(book, 6)["records"]) == 1


def test_depths_by_thumb_and_keyboard(book: Page) -> None:
    """30, 34 and 38 mm: mean 34, all inside 25 to 50 mm; with no signal, and one taken back (by hand)."""
    to_strip(book, 7)
    book.get_by_role("button", name="Depth", exact=True).click()
    book.context.set_offline(True)
    listed = book.get_by_label("Depths of this strip").get_by_role("listitem")
    keypad = book.get_by_role("group", name="Keypad")
    for digit in "30":
        keypad.get_by_role("button", name=digit, exact=True).click()
    keypad.get_by_role("button", name="Record").dblclick(delay=15)
    expect(listed).to_have_count(1)
    book.evaluate("document.activeElement.blur()")
    for depth in ("34", "38", "90"):
        book.keyboard.type(depth)
        book.keyboard.press("Enter")
    expect(listed).to_have_count(4)
    expect(book.get_by_text("3 of 4 inside the window")).to_be_visible()
    book.keyboard.press("Backspace")
    expect(listed).to_have_count(3)
    expect(book.get_by_text(re.compile(r"^34 ± \d+ mm"))).to_be_visible()
    book.context.set_offline(False)
    expect(book.get_by_text("all on the server")).to_be_visible()
    dug = strip_of(book, 7)["dug"]
    assert (dug["n"], dug["mean"]["text"], dug["inside_pct"]) == (3, "3.4 cm", 100.0)


def test_targets_of_planting_day_fit_a_wet_thumb(book: Page) -> None:
    to_strip(book, 8)
    book.get_by_role("button", name="Went otherwise").click()
    scopes = [book.get_by_role("group", name="What went otherwise"), book.get_by_role("group", name="Task")]
    for scope in scopes:
        for button in scope.get_by_role("button").all():
            box = button.bounding_box()
            assert box is not None
            assert min(box["height"], box["width"]) >= 44
    assert book.evaluate("document.documentElement.scrollWidth") <= 390
    book.get_by_role("button", name="Leave it").click()
    for name in ("Sown", "Went otherwise", "Next strip", "Strip before"):
        box = book.get_by_role("button", name=name, exact=True).bounding_box()
        assert box is not None
        assert min(box["height"], box["width"]) >= 44


def drawn(page: Page, title: str, blocks: str = "4") -> None:
    """A new trial of two row widths with its strips."""
    new_trial(page, title)
    commit(page, "Price of the crop", "200")
    two_widths(page, blocks=blocks)


def choose_lot(page: Page) -> None:
    """A lot from its tag, refused first, then mended and chosen for all strips."""
    page.get_by_role("tab", name="Lots and mixtures").click()
    page.get_by_role("button", name="Add a seed lot").click()
    form = page.get_by_role("form", name="New seed lot")
    form.get_by_label("Variety").fill("Desk Wheat")
    form.get_by_label("Number on the tag").fill("D-1")
    form.get_by_label("Weight of seed", exact=True).fill("44")
    form.get_by_label("Germination", exact=True).fill("130")
    form.get_by_label("Pure seed", exact=True).fill("98")
    form.get_by_role("button", name="Add the lot").click()
    expect(form.get_by_role("alert")).to_contain_text("Germination must be at most 100 %; got 130 %")
    expect(form.get_by_label("Weight of seed", exact=True)).to_have_value("44")  # what was typed stays
    form.get_by_label("Germination", exact=True).fill("92")
    form.get_by_role("button", name="Add the lot").click()
    expect(page.get_by_role("row", name=re.compile("Desk Wheat, lot D-1")).first).to_contain_text("90.2 %")  # 98 % × 92 %
    page.get_by_role("button", name="Add the crop's lot").click()
    page.get_by_label("Lot of part 1").select_option(label="Winter wheat: Desk Wheat, lot D-1")
    page.get_by_role("button", name="Keep what is sown").click()
    expect(page.get_by_label("The seed", exact=True)).to_contain_text("Desk Wheat, lot D-1")


def test_seed_from_the_tag_to_the_calibrated_drill(lead: Page) -> None:
    drawn(lead, "Seed at the desk")
    stage(lead, "Seed")
    commit(lead, "Seeding rate, all strips", "320")
    choose_lot(lead)
    lead.get_by_role("tab", name="Rates and stand").click()
    commit(lead, "Seeds expected up", "80")
    with lead.expect_response(lambda answer: answer.request.method == "PATCH"):
        lead.get_by_label("That is of").select_option(label="live seed only")
    rates = lead.get_by_role("table", name="From rate to stand")
    expect(rates).to_contain_text("235.5 /m²")  # 320 × 92 % × 80 % (by hand)
    expect(rates).to_contain_text("143.7 kg/ha")  # 320 × 44 g ÷ 98 % (by hand)
    rates.get_by_role("button", name="235.5 /m²").first.click()
    expect(lead.get_by_label("The working")).to_contain_text("92.0 %")
    lead.keyboard.press("Escape")
    calibrate(lead)


def calibrate(page: Page) -> None:
    """Nothing caught is refused with the reason; 315 g where 262.5 are due says the setting: 42 × 140 ÷ 168 = 35 (by hand)."""
    page.get_by_role("tab", name="Calibration").click()
    expect(page.get_by_text("has not been calibrated with")).to_be_visible()
    page.get_by_role("button", name="Enter catches").click()
    form = page.get_by_role("form", name="Calibration")
    form.get_by_label("Machine").select_option(label="Drill 6 m")
    form.get_by_label("Rate wanted", exact=True).fill("140")
    form.get_by_label("Row spacing", exact=True).fill("12.5")
    form.get_by_label("Setting of catch 1", exact=True).fill("42")
    form.get_by_label("Weight of catch 1", exact=True).fill("0")
    form.get_by_label("Length driven of catch 1", exact=True).fill("50")
    form.get_by_role("button", name="Keep the calibration").click()
    expect(form.get_by_role("alert")).to_contain_text("Nothing was caught")
    form.get_by_label("Weight of catch 1", exact=True).fill("315")
    form.get_by_role("button", name="Keep the calibration").click()
    expect(page.get_by_text("Set it to 35.00 and catch again.")).to_be_visible()
    expect(page.get_by_text("has not been calibrated with")).to_have_count(0)


def test_a_seed_weight_in_the_wrong_unit_is_asked_about(lead: Page) -> None:
    to_setup(lead, "Seed lots")
    lead.get_by_role("button", name="Add a seed lot").click()
    form = lead.get_by_role("form", name="New seed lot")
    form.get_by_label("Variety").fill("Wrong Way")
    form.get_by_label("Weight of seed", exact=True).fill("44")
    form.get_by_label("Unit of weight of seed").select_option(label="seeds/lb")
    form.get_by_role("button", name="Add the lot").click()
    expect(lead.get_by_text("grams per thousand and seeds per pound were mixed up?")).to_be_visible()


def test_a_bed_is_judged_and_passes_are_noted(lead: Page) -> None:
    drawn(lead, "Bed at the desk")
    stage(lead, "Planting")
    lead.get_by_role("tab", name="Seedbed and depth to choose").click()
    form = lead.get_by_role("form", name="Check the bed")
    form.get_by_label("Soil pH", exact=True).fill("17")
    form.get_by_label("Depth of the moisture line", exact=True).fill("3.5")
    form.get_by_role("button", name="Judge and keep").click()
    expect(form.get_by_role("alert")).to_contain_text("Soil pH must be at most 10; got 17")
    form.get_by_label("Soil pH", exact=True).fill("5.1")
    form.get_by_role("button", name="Judge and keep").click()
    expect(lead.get_by_role("heading", name=re.compile("Not ready"))).to_be_visible()
    schools = lead.get_by_label("Two schools of depth")
    expect(schools).to_contain_text("4.1 cm")  # 3.5 cm and a quarter inch (common practice, no source)
    expect(schools).to_contain_text("3.8 cm")  # the middle of 2.5 to 5 cm
    lead.get_by_role("tab", name="Passes over the ground").click()
    lead.get_by_label("Pass", exact=True).select_option(label="Hoeing between rows")
    lead.get_by_label("On", exact=True).select_option(label="strips with 25 cm")
    lead.get_by_role("button", name="Note the pass").click()
    wide = [str(place) for place, letter in enumerate(strip_letters(lead), start=1) if letter == "A"]
    row = lead.get_by_role("table", name="Passes over the ground").get_by_role("row", name=re.compile("Hoeing"))
    expect(row).to_contain_text(", ".join(wide))


def test_strips_are_recorded_in_bulk_and_voided_with_a_reason(lead: Page) -> None:
    drawn(lead, "Bulk at the desk", blocks="2")
    stage(lead, "Planting")
    lead.get_by_text("Record strips: 4 without a record").click()
    lead.get_by_label("Setting", exact=True).fill("42")
    lead.get_by_label("Speed", exact=True).fill("fast")
    lead.get_by_role("button", name="Record 4 strips").click()
    expect(lead.get_by_role("alert")).to_contain_text("Speed must be a number")
    lead.get_by_label("Speed", exact=True).fill("8")
    lead.get_by_role("button", name="Record 4 strips").click()
    table = lead.get_by_role("table", name="How each strip was sown")
    expect(table.get_by_text("8.0 km/h")).to_have_count(4)
    expect(lead.get_by_role("heading", name="Sown as planned")).to_be_visible()
    table.get_by_role("button", name="Void the record of strip 2").click()
    table.get_by_label("Reason").fill("sown again")
    table.get_by_role("button", name="Void it").click()
    expect(lead.get_by_role("heading", name="3 of 4 strips sown so far")).to_be_visible()


def test_a_viewer_sees_and_changes_nothing(as_person: Callable[[str], Page]) -> None:
    page = as_person("odette")
    open_stage(page, LATE, "Planting")
    expect(page.get_by_role("table", name="How each strip was sown")).to_be_visible()
    expect(page.get_by_role("link", name="Planting day in the field book")).to_have_count(0)
    expect(page.get_by_role("button", name=re.compile("^Void"))).to_have_count(0)
    stage(page, "Seed")
    expect(page.get_by_role("table", name="From rate to stand")).to_contain_text("Terrace Gold")
    page.get_by_role("tab", name="Calibration").click()
    expect(page.get_by_role("button", name="Enter catches")).to_have_count(0)
