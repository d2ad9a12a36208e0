"""Stand and season as a person walks them: places, counts, tape, ratings, notes, keep or replant, visits due."""

from __future__ import annotations

import re
from datetime import date, timedelta
from pathlib import Path

import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from tests.e2e.conftest import commit, new_trial, stage, to_setup, two_widths

PHONE = {"width": 390, "height": 844}
WATCH = """() => { window.touches = 0; window.addEventListener("pointerdown", () => { window.touches += 1; }, true); }"""


def open_trial(page: Page, title: str, place: str) -> None:
    """A place of a trial by its title; ``place`` such as ``stand?sheet=spacing``."""
    page.goto("/trials")
    href = page.get_by_role("link", name=title, exact=True).get_attribute("href")
    assert href
    page.goto(f"/trials/{href.split('/')[2]}/{place}")
    page.wait_for_load_state("networkidle")


def book(page: Page, title: str, task: str = "count", strip: int = 1) -> Page:
    page.set_viewport_size(PHONE)
    open_trial(page, title, f"fieldbook?task={task}&strip={strip}")
    expect(page.get_by_text(f"Strip {strip}", exact=True)).to_be_visible()
    return page


@pytest.fixture
def sown(lead: Page) -> Page:
    """A trial of twelve strips, sown, nothing recorded."""
    new_trial(lead, "Twelve to count")
    commit(lead, "Price of the crop", "200")
    two_widths(lead, blocks="6", seed="31")
    stage(lead, "Planting")
    day = lead.get_by_label("Day of sowing", exact=True)
    day.fill((date.today() - timedelta(days=25)).isoformat())
    with lead.expect_response(lambda answer: answer.request.method == "PATCH"):
        day.press("Enter")
    return lead


def draw_places(page: Page, counts: str = "4") -> None:
    stage(page, "Stand")
    page.get_by_role("tab", name="Places to count").click()
    form = page.get_by_role("form", name="Draw places")
    form.get_by_label("Counts a strip", exact=True).fill(counts)
    form.get_by_label("Counts a strip", exact=True).press("Tab")
    form.get_by_role("button", name="Draw places").click()
    expect(page.get_by_role("table", name="Places in walking order")).to_be_visible()


def test_places_are_drawn_walked_and_counted(sown: Page) -> None:
    draw_places(sown)
    walk = sown.get_by_role("table", name="Places in walking order").get_by_role("row")
    expect(walk).to_have_count(1 + 12 * 4)
    first = walk.nth(1).inner_text()
    sown.reload()
    expect(walk.nth(1)).to_have_text(re.compile(re.escape(first.split("\t")[4])))
    url = sown.url.split("/stand")[0]
    sown.set_viewport_size(PHONE)
    sown.goto(f"{url}/fieldbook?strip=1")
    expect(sown.get_by_text("1 of 4, place 1:")).to_be_visible()
    sown.keyboard.type("46")
    sown.keyboard.press("Enter")
    expect(sown.get_by_text("2 of 4, place 2:")).to_be_visible()
    listed = sown.get_by_label("Counts of this strip").get_by_role("listitem")
    expect(listed.filter(has_text="place 1").filter(has_text="server")).to_have_count(1)
    sown.locator("summary").first.click()
    sown.get_by_label("Place chosen by eye").check()
    sown.locator("summary").first.click()
    expect(sown.get_by_text("Place chosen by eye: it is marked so.")).to_be_visible()
    sown.evaluate("document.activeElement.blur()")
    sown.keyboard.type("60")
    sown.keyboard.press("Enter")
    expect(listed.filter(has_text="server")).to_have_count(2)
    sown.get_by_role("link", name="Leave").click()
    sown.set_viewport_size({"width": 1280, "height": 800})
    sown.get_by_role("button", name="1", exact=True).click()
    expect(sown.get_by_role("region", name="Counts of strip 1")).to_contain_text("by eye")


def test_a_count_of_two_digits_costs_at_most_four_touches(sown: Page) -> None:
    draw_places(sown)
    url = sown.url.split("/stand")[0]
    sown.set_viewport_size(PHONE)
    sown.goto(f"{url}/fieldbook?strip=2")
    expect(sown.get_by_text(re.compile("^1 of 4, place"))).to_be_visible()
    sown.evaluate(WATCH)
    pad = sown.get_by_role("group", name="Keypad")
    for key in ("4", "7", "Record"):
        pad.get_by_role("button", name=key, exact=True).click()
    expect(sown.get_by_text(re.compile("^2 of 4, place"))).to_be_visible()  # advanced by itself
    expect(sown.get_by_label("Counts of this strip").get_by_role("listitem")).to_have_count(1)
    assert sown.evaluate("window.touches") <= 4
    record = pad.get_by_role("button", name="Record", exact=True).bounding_box()
    assert record is not None
    assert record["y"] + record["height"] <= 844, "the whole pad is under the thumb without scrolling"


def test_ten_counts_on_twelve_strips_need_no_pointer(sown: Page) -> None:
    url = sown.url.split("/planting")[0]
    sown.set_viewport_size(PHONE)
    sown.goto(f"{url}/fieldbook?strip=1")
    expect(sown.get_by_text("Strip 1", exact=True)).to_be_visible()
    sown.evaluate(WATCH)
    listed = sown.get_by_label("Counts of this strip").get_by_role("listitem")
    for strip in range(1, 13):
        expect(sown.get_by_text(f"Strip {strip}", exact=True)).to_be_visible()
        for place in range(10):
            sown.keyboard.type(str(40 + (strip * 7 + place * 3) % 11))
            sown.keyboard.press("Enter")
        expect(listed).to_have_count(10)
        sown.keyboard.press("ArrowRight")
    expect(sown.get_by_text("all on the server")).to_be_visible(
        timeout=120_000
    )  # a hundred and twenty records, one after the other
    assert sown.evaluate("window.touches") == 0
    sown.goto(f"{url}/stand")
    expect(sown.get_by_role("heading", name="12 of 12 strips counted")).to_be_visible()
    expect(sown.get_by_text("taking every count for a repeat would claim")).to_be_visible()
    answer = sown.request.get(url.replace("/trials/", "/api/trials/") + "/stand").json()
    assert [len(strip["counts"]) for strip in answer["strips"]] == [10] * 12


def test_310_for_31_is_asked_before_and_after(lead: Page) -> None:
    page = book(lead, "Wheat seeding rate after peas", strip=6)
    for count in ("29", "33", "30"):
        page.keyboard.type(count)
        page.keyboard.press("Enter")
    listed = page.get_by_label("Counts of this strip").get_by_role("listitem")
    expect(listed.filter(has_text="server")).to_have_count(3)
    page.keyboard.type("310")
    expect(page.get_by_text("310 is ten times the others here. 31?")).to_be_visible()
    page.keyboard.press("Enter")
    expect(listed.filter(has_text="Was it 31?")).to_have_count(1)  # asked again by the server, and kept
    page.keyboard.press("Backspace")
    expect(listed).to_have_count(3)
    for left in (2, 1, 0):
        page.keyboard.press("Backspace")
        expect(listed).to_have_count(left)
    expect(page.get_by_text("all on the server")).to_be_visible()


def test_gaps_and_doubles_by_key_and_by_thumb(lead: Page) -> None:
    page = book(lead, "Wheat seeding rate after peas", strip=11)
    page.keyboard.press("g")
    page.keyboard.press("d")
    page.get_by_role("button", name=re.compile("^Gap")).click()
    expect(page.get_by_role("button", name=re.compile("^Gap"))).to_contain_text("Gap 2")
    page.evaluate("document.activeElement.blur()")
    page.keyboard.type("151")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Counts of this strip").get_by_role("listitem").filter(has_text="server")).to_have_count(1)
    page.get_by_role("link", name="Leave").click()
    expect(page.get_by_role("region", name="Counts of strip 11")).to_contain_text("2 gaps, 1 doubles")


def test_a_tape_run_survives_a_reload_and_shows_its_indices(lead: Page) -> None:
    page = book(lead, "Maize seeding rate on Upper Step", "tape", 6)
    page.get_by_label("Spacing wanted", exact=True).fill("10")
    page.get_by_label("Spacing wanted", exact=True).press("Tab")
    page.evaluate("document.activeElement.blur()")
    for at in ("0", "10", "14", "24", "40", "65"):
        page.keyboard.type(at)
        page.keyboard.press("Enter")
    page.keyboard.press("g")
    page.keyboard.type("60")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("60 lies before the plant at 65")
    expect(page.get_by_label("Position typed")).to_contain_text("60")  # what was typed stays
    page.reload()
    page.get_by_label("Spacing wanted", exact=True).fill("10")
    page.get_by_label("Spacing wanted", exact=True).press("Tab")
    page.evaluate("document.activeElement.blur()")
    expect(page.get_by_text("6 plants, precision")).to_be_visible()
    for at in ("95", "100", "115", "127", "136"):
        page.keyboard.type(at)
        page.keyboard.press("Enter")
    expect(page.get_by_text(re.compile(r"doubles 20 %, skips 30 %"))).to_be_visible()
    expect(page.get_by_role("img", name="Spacings: 2 doubles, 5 singles, 3 skips")).to_be_visible()
    page.get_by_role("button", name="Finish run").click()
    runs = page.get_by_label("Runs of this strip").get_by_role("listitem")
    expect(runs.filter(has_text="11 plants").filter(has_text="server")).to_have_count(1)
    page.get_by_role("link", name="Leave").click()
    page.set_viewport_size({"width": 1280, "height": 800})
    run = page.get_by_role("region", name="A tape run").filter(has_text="Strip 6: 11 plants")
    expect(run).to_contain_text("Doubles 20.0 %, skips 30.0 %")
    expect(run).not_to_contain_text("a real gap, or one overlooked")  # it was marked as looked at


def test_blind_ratings_by_one_key_each_and_on_to_the_next(lead: Page) -> None:
    page = book(lead, "Sorghum seeding rate", "rate", 1)
    page.get_by_role("combobox", name="Judged").select_option("vigour")
    page.evaluate("document.activeElement.blur()")
    expect(page.get_by_text(re.compile(r"Block 1, [A-D]:"))).to_have_count(0)
    for number in range(1, 5):
        expect(page.get_by_text(f"Strip {number}", exact=True)).to_be_visible()
        page.keyboard.press(str(4 + number))
    expect(page.get_by_text("4 of 20 strips judged")).to_be_visible()
    page.keyboard.press("ArrowLeft")
    expect(page.get_by_label("Ratings of this strip").get_by_role("listitem")).to_contain_text("8 of 9, blind")
    expect(page.get_by_text("all on the server")).to_be_visible()
    page.keyboard.press("Backspace")
    expect(page.get_by_text("3 of 20 strips judged")).to_be_visible()
    page.get_by_role("link", name="Leave").click()
    expect(page.get_by_role("tab", name="Judged", selected=True)).to_be_visible()
    expect(page.get_by_role("region", name="Vigour", exact=True)).to_contain_text("3 ratings, all blind")


def test_a_note_on_two_strips_marks_them_on_the_ribbon(lead: Page) -> None:
    page = book(lead, "Row width in winter wheat 2026", "note", 1)
    page.get_by_role("group", name="What happened").get_by_role("button", name="Leak or spill").click()
    page.get_by_label("In a few words").fill("Nozzle dripped at the turn")
    fields = page.get_by_role("group", name=re.compile("^On "))
    fields.get_by_role("button", name="Strip 3", exact=True).click()
    fields.get_by_role("button", name="Strip 4", exact=True).click()
    expect(page.get_by_text("On strip 3, 4")).to_be_visible()
    page.get_by_role("button", name="Note it").click()
    expect(page.get_by_text("all on the server")).to_be_visible()
    page.get_by_role("link", name="Leave").click()
    page.set_viewport_size({"width": 1280, "height": 800})
    expect(page.get_by_role("button", name=re.compile("^Strip 3, .*Nozzle dripped"))).to_be_visible()
    titles = [
        locator.get_attribute("title") or ""
        for locator in page.get_by_role("group", name="Strips in field order").get_by_role("button").all()
    ]
    assert ["Nozzle dripped" in title for title in titles[:5]] == [False, False, True, True, False]
    row = page.get_by_role("row").filter(has_text="Nozzle dripped")
    expect(row).to_contain_text("3, 4")
    row.get_by_role("button", name=re.compile("^Void")).click()
    row.get_by_label("Reason").fill("another field")
    row.get_by_role("button", name="Void it").click()
    expect(row).to_have_count(0)


def test_dug_plants_and_measures(lead: Page) -> None:
    page = book(lead, "Lucerne seeding rate, third year", "dig", 2)
    listed = page.get_by_label("Dug plants of this strip").get_by_role("listitem")
    before = listed.count()
    page.keyboard.type("27")
    page.keyboard.press("Enter")
    page.keyboard.press("d")
    expect(listed.filter(has_text="server")).to_have_count(before + 2)
    expect(listed.filter(has_text="alive, 27 shoots")).to_have_count(1)
    for left in (before + 1, before):
        page.keyboard.press("Backspace")
        expect(listed).to_have_count(left)
    expect(page.get_by_text("all on the server")).to_be_visible()
    page.get_by_role("group", name="Task").get_by_role("button", name="Measure").click()
    page.get_by_role("combobox", name="Measured").select_option("weeds")
    page.evaluate("document.activeElement.blur()")
    page.keyboard.type("3")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("kind of weed")
    page.get_by_label("Kind of weed").fill("Dock")
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Measured on this strip").get_by_role("listitem")).to_contain_text("12.0 /m²")
    page.get_by_role("combobox", name="Measured").select_option("leaves")
    expect(page.get_by_role("img", name=re.compile("^Counts: each leaf on the main stem"))).to_be_visible()


def test_keep_or_replant_is_reckoned_and_kept(lead: Page) -> None:
    open_trial(lead, "Maize seeding rate on Upper Step", "stand?sheet=decide")
    expect(lead.get_by_text("Say first what a full stand yields").first).to_be_visible()
    form = {
        "Stand wanted": "72",
        "Yield of a full stand": "10.4",
        "Price less costs of a unit": "168",
        "Days later than the first sowing": "20",
        "Seed for replanting": "95",
        "Passes for replanting": "60",
    }
    for label, value in form.items():
        lead.get_by_label(re.compile(f"^{re.escape(label)}$")).fill(value)
    lead.get_by_label("Unit of stand wanted").select_option("kplants/ha")
    lead.get_by_role("button", name="Reckon and keep").click()
    table = lead.get_by_role("table", name="Keep or replant by treatment")
    expect(table.get_by_text("Keep the stand")).to_have_count(3)
    table.locator("[data-worked]").first.click()
    drawer = lead.get_by_role("complementary", name="The working")
    expect(drawer).to_contain_text("Both equal at")
    expect(drawer).to_contain_text("reciprocal yield law")


def test_thresholds_are_the_workspaces_to_change(lead: Page) -> None:
    open_trial(lead, "Lucerne seeding rate, third year", "stand?sheet=decide")
    lead.get_by_role("button", name="Change Old stand: thin under").click()
    own = lead.get_by_label("Old stand: thin under", exact=True)
    own.fill("60")
    own.press("Tab")
    lead.get_by_role("button", name="Use it in this workspace").click()
    expect(lead.get_by_role("alert")).to_contain_text("source")
    expect(own).to_have_value("60")
    lead.get_by_label("Source").fill("our own strips")
    lead.get_by_label("Source").press("Tab")
    lead.get_by_role("button", name="Use it in this workspace").click()
    row = lead.get_by_role("row").filter(has_text="Old stand: thin under")
    expect(row).to_contain_text("our own strips")
    row.get_by_role("button", name="Change").click()
    lead.get_by_role("button", name="Back to the default").click()
    expect(row).to_contain_text("common practice")


def test_today_names_the_visit_and_opens_its_task(sown: Page, tmp_path: Path) -> None:
    """Wheat sown 25 days ago at 10 heat units a day: the first count was due 14 days ago."""
    trial = sown.url.split("/")[-2]
    lines = ["date,min_c,max_c,rain_mm"]
    lines += [f"{date.today() - timedelta(days=ago)},10,10,0" for ago in range(40, -1, -1)]
    file = tmp_path / "weather.csv"
    file.write_text("\n".join(lines))
    to_setup(sown, "Weather")
    sown.get_by_label("Read a CSV file").set_input_files(file)
    expect(sown.get_by_text("41 days from")).to_be_visible()
    sown.get_by_role("link", name="Today").click()
    first = sown.get_by_role("listitem").first
    expect(first).to_contain_text("Overdue. First count")
    mine = sown.get_by_role("listitem").filter(has_text="Twelve to count").filter(has_text="First count").last
    expect(mine).to_contain_text("110 °C days since sowing reached")
    mine.get_by_role("link", name=re.compile("^Open field book")).click()
    expect(sown.get_by_role("group", name="Task").get_by_role("button", name="Count", pressed=True)).to_be_visible()
    bad = tmp_path / "bad.csv"
    bad.write_text("date,min_c,max_c\n2026-05-01,14,3\n")
    sown.goto("/setup/weather")
    sown.get_by_label("Read a CSV file").set_input_files(bad)
    expect(sown.get_by_role("alert")).to_contain_text("Line 2: warmest")
    with sown.expect_download() as download:
        sown.get_by_role("link", name="Save as CSV").click()
    assert download.value.suggested_filename == "weather.csv"
    sown.get_by_role("button", name="Use the simulated station").click()
    expect(sown.get_by_text("A simulated station that ships")).to_be_visible()
    assert trial


def test_a_photograph_goes_to_its_strip(lead: Page, tmp_path: Path) -> None:
    page = book(lead, "Wheat seeding rate after peas", "photo", 3)
    path = tmp_path / "strip.jpg"
    Image.new("RGB", (900, 600), "#557733").save(path, "JPEG")
    page.get_by_label("What it shows").fill("Even rows")
    page.get_by_label("Take a photograph").set_input_files(path)
    listed = page.get_by_label("Photographs of this strip").get_by_role("listitem")
    expect(listed.filter(has_text="Even rows").filter(has_text="server")).to_have_count(1)
    page.get_by_role("link", name="Leave").click()
    shown = page.get_by_role("img", name="Strip 3: Even rows")
    expect(shown).to_be_visible()
    page.wait_for_function("one => one.complete && one.naturalWidth > 100", arg=shown.element_handle())
