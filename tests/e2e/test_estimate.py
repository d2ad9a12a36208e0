"""Yield before harvest as a person walks it: plants drawn, sampled on the phone, estimated, held against the harvest."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import commit, new_trial, stage, two_widths
from tests.e2e.test_stand_and_season import PHONE, open_trial

TYPED = "Value typed"


@pytest.fixture
def drawn(lead: Page) -> Page:
    """A trial of four strips with two places of three heads drawn on each."""
    new_trial(lead, "What will it make")
    commit(lead, "Price of the crop", "200")
    two_widths(lead, blocks="2", seed="12")
    stage(lead, "Estimate")
    expect(lead.get_by_role("heading", name="No strip sampled yet")).to_be_visible()
    lead.get_by_role("tab", name="Which plants").click()
    form = lead.get_by_role("form", name="Draw plants")
    for label, text in (("Places a strip", "2"), ("Heads at each place", "3"), ("Length of row", "0.5")):
        form.get_by_label(label, exact=True).fill(text)
        form.get_by_label(label, exact=True).press("Tab")
    form.get_by_role("button", name="Draw", exact=True).click()
    expect(lead.get_by_role("table", name="Plants drawn, in walking order").get_by_role("row")).to_have_count(1 + 4 * 2)
    return lead


def to_book(page: Page, strip: int = 1) -> None:
    url = re.sub(r"/estimate.*", "", page.url)
    page.set_viewport_size(PHONE)
    page.goto(f"{url}/fieldbook?task=yield&strip={strip}")
    expect(page.get_by_text(f"Strip {strip}", exact=True)).to_be_visible()


def enter(page: Page, *texts: str) -> None:
    for text in texts:
        page.keyboard.type(text)
        page.keyboard.press("Enter")


def lines(page: Page) -> object:
    return page.get_by_label("Sampled on this strip").get_by_role("listitem")


def test_drawn_plants_are_sampled_on_the_phone(drawn: Page) -> None:
    drawn.get_by_label("Were there").fill("27")
    cells = drawn.get_by_role("table", name="Plants drawn, in walking order").get_by_role("row").nth(1).get_by_role("cell")
    taken = re.findall(r"\d+", cells.nth(4).inner_text())
    where = cells.nth(3).inner_text()
    assert len(taken) == 3
    to_book(drawn)
    expect(drawn.get_by_text(where)).to_be_visible()
    expect(drawn.get_by_text("Heads on the area, small late ones too")).to_be_visible()
    enter(drawn, "27")
    expect(drawn.get_by_text(f"Of 27: {', '.join(taken)}")).to_be_visible()
    expect(drawn.get_by_text(re.compile(rf"^{taken[0]}(st|nd|rd|th) head from the peg: spikelets"))).to_be_visible()
    enter(drawn, "16", "2.1")
    drawn.reload()  # a telephone in a pocket forgets the page, not the sample
    expect(drawn.get_by_text(re.compile(rf"^{taken[1]}(st|nd|rd|th) head from the peg: spikelets"))).to_be_visible()
    enter(drawn, "15", "2.3", "17", "2")
    expect(drawn.get_by_label("Sampled on this strip").get_by_role("listitem")).to_have_text(
        re.compile(r"place 1: 27 counted, 3 heads measured, \d+\.\d\d t/ha.*server")
    )
    expect(drawn.get_by_text("Place 2:")).to_be_visible()
    enter(drawn, "30", "16", "2.1", "15", "2.3", "17", "2")
    expect(drawn.get_by_text("Planned places done; in reserve, place 3:")).to_be_visible()
    drawn.get_by_role("link", name="Leave").click()
    drawn.set_viewport_size({"width": 1280, "height": 800})
    expect(drawn.get_by_role("heading", name=re.compile("1 of 4 strips sampled"))).to_be_visible()
    row = drawn.get_by_role("table", name="Estimates of strips").get_by_role("row").nth(1)
    expect(row).to_contain_text(re.compile(r"\d\.\d\d t/ha to \d+\.\d\d t/ha"))
    row.locator("[data-worked]").click()
    working = drawn.get_by_label("The working")
    expect(working).to_contain_text("Had means been multiplied")
    expect(working).to_contain_text("90 % interval")


def test_a_sample_by_eye_with_an_ear_missing_is_asked_about_and_voided(drawn: Page) -> None:
    to_book(drawn)
    enter(drawn, "25", "16", "2.1", "15", "2.3")
    drawn.get_by_role("button", name="Record as it is").click()
    expect(drawn.get_by_text("? 2 of 3 heads entered. Was one lost, or left out for its looks?")).to_be_visible()
    drawn.locator("summary").click()
    drawn.get_by_label("Chosen by eye").check()
    drawn.locator("summary").click()
    expect(drawn.get_by_text("Place chosen by eye: it is marked so.")).to_be_visible()
    drawn.evaluate("document.activeElement.blur()")
    enter(drawn, "25", "20", "2.9", "20", "2.8", "21", "2.9")
    expect(drawn.get_by_text(re.compile("by eye: 25 counted"))).to_be_visible()
    drawn.get_by_role("link", name="Leave").click()
    drawn.set_viewport_size({"width": 1280, "height": 800})
    eye = drawn.get_by_role("region", name="Samples taken by eye")
    expect(eye).to_contain_text(re.compile(r"By eye \+\d\d % beside the drawn ones on 1 strip"))
    expect(eye.get_by_role("img")).to_have_attribute("aria-label", re.compile("drawn 100, best looking 11[0-9]"))
    drawn.get_by_role("tab", name="Samples").click()
    listed = drawn.get_by_role("region", name="Samples of strip 1")
    expect(listed).to_contain_text("? 2 of 3 heads entered")
    listed.get_by_role("button", name=re.compile("^Void")).first.click()
    listed.get_by_label("Reason").fill("wrong row")
    listed.get_by_role("button", name="Void it").click()
    expect(listed.get_by_text("? 2 of 3 heads entered")).to_have_count(0)


def test_samples_wait_on_the_device_without_a_signal(drawn: Page) -> None:
    to_book(drawn, strip=2)
    drawn.context.set_offline(True)
    enter(drawn, "26", "16", "2.1", "15", "2.3", "17", "2")
    listed = drawn.get_by_label("Sampled on this strip").get_by_role("listitem")
    expect(listed).to_have_text(re.compile("26 counted, 3 heads measured.*this device"))
    expect(drawn.get_by_text("Place 1:")).to_be_visible()  # one walks up the first strip and down the second
    drawn.keyboard.press("Backspace")  # taken back before it ever left
    expect(listed).to_have_count(0)
    enter(drawn, "28", "16", "2.1", "15", "2.3", "17", "2")
    expect(listed).to_have_count(1)
    drawn.context.set_offline(False)
    expect(listed).to_have_text(re.compile(r"28 counted.*t/ha.*server"))


def test_nothing_is_recorded_before_it_is_there(drawn: Page) -> None:
    to_book(drawn, strip=3)
    drawn.keyboard.press("Enter")
    expect(drawn.get_by_role("alert")).to_have_text(re.compile("type a number"))
    expect(drawn.get_by_role("button", name="Record as it is")).to_be_disabled()
    enter(drawn, "26")
    drawn.keyboard.press("Enter")  # spikelets may be left out: seeds alone count
    expect(drawn.get_by_text(re.compile("head from the peg: seeds on each"))).to_be_visible()
    drawn.keyboard.press("Enter")
    expect(drawn.get_by_role("alert")).to_have_text(re.compile("type a number"))
    drawn.keyboard.press("Backspace")
    drawn.keyboard.press("Backspace")
    expect(drawn.get_by_label(TYPED)).to_have_text("26")


def test_grain_is_weighed_and_bad_entries_stay(drawn: Page) -> None:
    drawn.get_by_role("tab", name="Grain weight").click()
    expect(drawn.get_by_text("2 earlier trials of this farm")).to_be_visible()
    form = drawn.get_by_role("form", name="Weigh a sample")

    def weigh(seeds: str, mass: str, moisture: str) -> None:
        for label, text in (("Seeds counted", seeds), ("Their weight, without the bowl", mass), ("Moisture, %", moisture)):
            form.get_by_label(label, exact=True).fill(text)
            form.get_by_label(label, exact=True).press("Tab")
        form.get_by_role("button", name="Take the sample in").click()

    weigh("five hundred", "22.4", "18")
    expect(form.get_by_role("alert")).to_have_text(re.compile("whole number"))
    expect(form.get_by_label("Seeds counted", exact=True)).to_have_value("five hundred")
    weigh("500", "22.4", "180")
    expect(form.get_by_role("alert")).to_have_text(re.compile("at most 99"))
    weigh("500", "22.4", "18")
    expect(drawn.get_by_role("heading", name="42.5 g per 1000")).to_be_visible()
    drawn.get_by_text("How winter wheat is estimated in this workspace").click()
    drawn.get_by_label("Usual grain weight", exact=True).fill("44")
    drawn.get_by_label("Usual grain weight", exact=True).press("Tab")
    drawn.get_by_role("button", name="Use it in this workspace").click()
    expect(drawn.get_by_role("alert")).to_have_text(re.compile("A range needs all three"))
    expect(drawn.get_by_label("Usual grain weight", exact=True)).to_have_value("44")


def test_a_draw_that_cannot_be_keeps_what_was_typed(drawn: Page) -> None:
    form = drawn.get_by_role("form", name="Draw plants")
    form.get_by_label("Length of row", exact=True).fill("400")
    form.get_by_label("Length of row", exact=True).press("Tab")
    form.get_by_role("button", name="Draw others").click()
    expect(form.get_by_role("alert")).to_have_text(re.compile("does not fit"))
    expect(form.get_by_label("Length of row", exact=True)).to_have_value("400")


def test_the_estimate_of_the_demo_is_no_verdict(lead: Page) -> None:
    open_trial(lead, "Maize seeding rate on Upper Step", "estimate")
    expect(lead.get_by_role("heading", name=re.compile("12 of 12 strips sampled"))).to_be_visible()
    expect(lead.get_by_text("Estimate, not harvest")).to_be_visible()
    treatments = lead.get_by_role("table", name="Estimates by treatment")
    expect(treatments.get_by_role("row")).to_have_count(4)
    expect(treatments).not_to_contain_text(re.compile(r"\b(gain|loss)\b", re.I))
    expect(lead.get_by_text("6 degrees of freedom over strips; samples counted as replicates would claim 18.")).to_be_visible()
    parts = lead.get_by_role("region", name="What the interval is made of")
    expect(parts).to_contain_text(re.compile("Narrowed most cheaply: .* minutes"))
    ribbon = lead.get_by_role("group", name="Strips in field order").get_by_role("button").first
    expect(ribbon).to_have_attribute("title", re.compile("estimated"))


def test_estimates_are_held_against_the_harvest(lead: Page) -> None:
    open_trial(lead, "Row width in winter wheat 2026", "estimate?sheet=learned")
    plot = lead.get_by_role("img", name=re.compile("Estimate against harvest on 45 strips"))
    expect(plot).to_have_attribute("aria-label", re.compile("limits of agreement"))
    table = lead.get_by_role("table", name="What estimates taught")
    wheat = table.get_by_role("row", name=re.compile("Winter wheat, heads"))
    expect(wheat).to_contain_text("multiply the next estimate by 0.9")
    expect(table.get_by_role("row", name=re.compile("Maize, ears"))).to_contain_text("from one trial")
    lead.get_by_role("tab", name="Estimates").click()
    expect(lead.get_by_role("table", name="Residue by treatment")).to_contain_text("used or lost")


def test_the_bench_reckons_a_place_and_says_what_is_wrong(lead: Page) -> None:
    lead.goto("/bench?of=ears")
    lead.get_by_label("Crop").select_option(label="Maize")
    lead.get_by_label("Kernels in a row, ear by ear").fill("34 29")
    lead.get_by_role("button", name="Reckon").click()
    expect(lead.get_by_role("alert")).to_have_text(re.compile("must have 5 entries"))
    expect(lead.get_by_label("Kernels in a row, ear by ear")).to_have_value("34 29")
    lead.get_by_label("Kernels in a row, ear by ear").fill("34 29 39 33 30")
    lead.get_by_role("button", name="Reckon").click()
    answer = lead.get_by_role("region", name="Answer")
    expect(answer).to_contain_text(re.compile(r"\d+\.\d\d t/ha \(\d+\.\d\d t/ha to \d+\.\d\d t/ha\)"))
    expect(answer).to_contain_text("Narrowed most cheaply by")


def test_bulbs_weighed_in_bowls_and_forage_from_a_frame(lead: Page) -> None:
    """Two bowls where five were planned, then tare, state and survival; and a cut of 640 g less 20 at 22 % dry matter on
    0.25 m²: 5.46 t/ha (definition)."""
    new_trial(lead, "Garlic in bowls", crop="Garlic")
    commit(lead, "Price of the crop", "900")
    two_widths(lead, blocks="2", seed="5")
    stage(lead, "Estimate")
    lead.get_by_role("tab", name="Which plants").click()
    lead.get_by_role("form", name="Draw plants").get_by_role("button", name="Draw", exact=True).click()
    expect(lead.get_by_role("table", name="Plants drawn, in walking order")).to_be_visible()
    to_book(lead)
    enter(lead, "5", "560", "2", "290", "1")
    expect(lead.get_by_text("Weighing 3: weight, with the bowl")).to_be_visible()
    lead.keyboard.press("Enter")  # no third bowl
    expect(lead.get_by_text("Tare of the bowl or bag")).to_be_visible()
    enter(lead, "120")
    lead.get_by_role("button", name="cured", exact=True).click()
    lead.get_by_role("button", name="Next", exact=True).click()
    enter(lead, "15", "6")
    listed = lead.get_by_label("Sampled on this strip").get_by_role("listitem")
    expect(listed.first).to_have_text(re.compile(r"5 counted of 6 planted \(83 %\), 3 pieces measured.*server"))
    lead.locator("summary").click()
    lead.get_by_label("Method").select_option("forage")
    lead.locator("summary").click()
    lead.evaluate("document.activeElement.blur()")
    expect(lead.get_by_text("Samples drying in an oven or microwave are never left alone.")).to_be_visible()
    enter(lead, "640", "20", "400", "88", "", "", "")
    expect(listed.first).to_have_text(re.compile(r"by eye: 5\.46 t/ha.*server"))
