"""Reach: axe on every main view in every theme, and the whole walk with the keyboard alone."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import PASSWORD

AXE = (Path(__file__).resolve().parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js").read_text()
STAGES = ["question", "treatments", "layout", "seed", "planting", "stand", "season", "estimate", "harvest", "verdict"]
SHEETS = ["strips", "margin", "rehearsal", "passes", "files", "protocol"]
PLACES = [
    "/",
    "/trials",
    "/trials/new",
    "/trials/import",
    "/bench",
    "/setup",
    "/setup/people",
    "/setup/workspace",
    "/setup/backups",
    "/setup/account",
    "/setup/look",
]


THEMES = ("day", "night", "sun")
COLOURS = ", runOnly: { type: 'rule', values: ['color-contrast', 'link-in-text-block'] }"


def serious(page: Page, only: str = "") -> list[str]:
    page.evaluate(AXE)
    found = page.evaluate(f"axe.run(document, {{ resultTypes: ['violations']{only} }})")
    return [
        f"{one['id']} ({one['impact']}): {[node['html'][:120] for node in one['nodes'][:3]]}"
        for one in found["violations"]
        if one["impact"] in ("serious", "critical")
    ]


def settled(page: Page, place: str) -> None:
    page.goto(place)
    page.wait_for_load_state("networkidle")
    expect(page.locator("h1, h2").first).to_be_attached()


def trial_id(page: Page, title: str) -> str:
    page.goto("/trials")
    href = page.get_by_role("link", name=title, exact=True).get_attribute("href")
    assert href
    return href.split("/")[2]


def test_axe_at_the_sign_in(page: Page) -> None:
    expect(page.get_by_role("button", name="Sign in")).to_be_visible()
    assert serious(page) == []


def test_the_theme_is_an_attribute_of_the_page_and_nothing_else(lead: Page) -> None:
    """What the walk of axe below rests on: it changes the attribute as choosing a theme does."""
    for theme in ("night", "sun", "day"):
        lead.get_by_label("Theme").select_option(theme)
        expect(lead.locator("html")).to_have_attribute("data-theme", theme)


def test_axe_on_every_main_view(lead: Page) -> None:
    """All rules by day; by night and in the sun those of colour, for nothing else differs."""
    sorghum = trial_id(lead, "Sorghum seeding rate")
    places = PLACES + [f"/trials/{sorghum}/{stage}?strip=7" for stage in STAGES] + [f"/trials/{sorghum}/fieldbook?strip=3"]
    tillage = trial_id(lead, "Strip tillage and maize rate")
    places += [f"/trials/{tillage}/treatments", *(f"/trials/{tillage}/layout?sheet={sheet}" for sheet in SHEETS)]
    wide, late = trial_id(lead, "Double-width sorghum, cowpea between"), trial_id(lead, "Late wheat, 3 or 5 cm deep")
    places += [f"/trials/{wide}/seed?sheet={sheet}" for sheet in ("lots", "calibration", "rows", "fertiliser")]
    places += [f"/trials/{sorghum}/planting?sheet={sheet}&strip=7" for sheet in ("depth", "otherwise", "passes")]
    places += [f"/trials/{late}/planting?sheet=bed", *(f"/trials/{late}/fieldbook?task={task}" for task in ("sowing", "depth"))]
    places += ["/bench?of=meter", "/bench?of=mixture", "/bench?of=tape_run"]
    lucerne, maize = trial_id(lead, "Lucerne seeding rate, third year"), trial_id(lead, "Maize seeding rate on Upper Step")
    places += [f"/trials/{lucerne}/stand?sheet={sheet}" for sheet in ("places", "emergence", "crowns", "decide")]
    places += [f"/trials/{maize}/stand?sheet={sheet}" for sheet in ("spacing", "decide")]
    places += [f"/trials/{maize}/season?sheet={sheet}&strip=3" for sheet in ("measured", "judged", "photos", "visits")]
    places += [f"/trials/{maize}/estimate?sheet={sheet}" for sheet in ("strips", "samples", "places", "grain", "reckon")]
    places += [f"/trials/{trial_id(lead, 'Row width in winter wheat 2026')}/estimate?sheet=learned", "/bench?of=ears"]
    places += [
        f"/trials/{maize}/fieldbook?task={task}" for task in ("tape", "dig", "measure", "rate", "yield", "note", "photo")
    ]
    places += [f"/trials/{late}/planting?sheet=before"]
    split = trial_id(lead, "Tillage by rate in maize 2025")
    places += [f"/trials/{split}/verdict", f"/trials/{split}/verdict?sheet=curve"]
    places += [f"/trials/{trial_id(lead, 'Row width in winter wheat 2026')}/verdict?sheet=series"]
    places += [f"/trials/{split}/verdict?sheet=money", f"/trials/{split}/report", "/ledger"]
    found = {}
    for place in places:
        settled(lead, place)
        for name in ("Open Stone Row", "Open Weir Mill board"):
            for button in lead.get_by_role("button", name=name).all():
                button.click()
        for theme in THEMES:
            lead.evaluate("theme => document.documentElement.setAttribute('data-theme', theme)", theme)
            if violations := serious(lead, "" if theme == "day" else COLOURS):
                found[f"{place} ({theme})"] = violations
    assert found == {}


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
        "narrow" if "12.5 cm" in (one.get_attribute("title") or "") else "wide"
        for one in page.get_by_role("group", name="Strips in field order").get_by_role("button").all()
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
