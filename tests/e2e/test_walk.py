"""From a question to a verdict, as a person walks it."""

from __future__ import annotations

import re
from pathlib import Path

from cultrix_core.harvest.loads import strip_yield
from cultrix_core.stats.compare import StripResponse, compare
from playwright.sync_api import Page, expect

from tests.core.references import reference_csv
from tests.e2e.conftest import commit, new_trial, stage, strip_letters, two_widths

NETS = [1105, 1181, 1190, 1112, 1121, 1199, 1126, 1203]  # two widths in four blocks, narrow the better one


def paste_column(page: Page, label: str, lines: list[str]) -> None:
    """Paste as a browser does from a spreadsheet: one cell a line."""
    cell = page.get_by_label(label, exact=True)
    cell.focus()
    cell.evaluate(
        """(cell, text) => {
            const data = new DataTransfer();
            data.setData("text/plain", text);
            cell.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }));
        }""",
        "\n".join(lines),
    )


def test_from_the_question_to_the_verdict(lead: Page) -> None:
    new_trial(lead, "Narrow rows on trial")
    commit(lead, "The question", "Do 12.5 cm rows pay against 25 cm?")
    commit(lead, "Your guess, before any result", "A little.")
    commit(lead, "Price of the crop", "200")
    commit(lead, "Cost that comes with yield", "10")
    two_widths(lead)
    stage(lead, "Question")
    expect(lead.get_by_label("What must be gained to pay")).to_contain_text("12.5 cm must gain 0.11 t/ha")
    stage(lead, "Seed")
    commit(lead, "Seeding rate, all strips", "320")
    # 320 seeds/m² in 12.5-cm rows: 40 seeds a metre (definition)
    along = lead.get_by_label("Along the row", exact=True)
    expect(along.get_by_role("row", name=re.compile(r"B.*12\.5 cm"))).to_contain_text("40.00 /m of row")
    stage(lead, "Planting")
    day = lead.get_by_label("Day of sowing")
    day.fill("2025-10-07")
    with lead.expect_response(lambda answer: answer.request.method == "PATCH"):
        day.blur()
    expect(lead.get_by_role("heading", name="Sown; how is not recorded")).to_be_visible()

    count_strip(lead)
    letters = strip_letters(lead)
    nets = sorted_to(letters)
    harvest(lead, nets)
    read_verdict(lead, letters, nets)


def count_strip(page: Page) -> None:
    """Three counts in the field book: thumb, then keyboard; 33, 31 and 35 on 4 rows of 25 cm by 1 m are 33 /m²."""
    stage(page, "Stand")
    page.get_by_role("link", name="Count in the field book").click()
    expect(page.get_by_role("heading", name="Field book of Narrow rows on trial")).to_be_attached()
    page.locator("summary").first.click()
    page.get_by_label("Rows", exact=True).fill("4")
    page.get_by_label("Length of row", exact=True).fill("1")
    page.get_by_label("Row spacing", exact=True).fill("25")
    page.get_by_label("Row spacing", exact=True).press("Tab")
    page.locator("summary").first.click()
    keypad = page.get_by_role("group", name="Keypad")
    for digit in "33":
        keypad.get_by_role("button", name=digit, exact=True).click()
    keypad.get_by_role("button", name="Record").dblclick(delay=20)  # a double tap is one record
    expect(page.get_by_label("Counts of this strip").get_by_role("listitem")).to_have_count(1)
    page.locator("body").press("Tab")
    page.evaluate("document.activeElement.blur()")
    for count in ("31", "35"):
        page.keyboard.type(count)
        page.keyboard.press("Enter")
    listed = page.get_by_label("Counts of this strip").get_by_role("listitem")
    expect(listed).to_have_count(3)
    expect(listed.filter(has_text="server")).to_have_count(3)
    # mean 33, s 2, t 2.920 on 2 df: ± 3.4, 10.2 % (by hand); the core asks for 6 places for ± 5 %
    expect(page.get_by_text("33.0 ± 3.4 plants/m²")).to_be_visible()
    expect(page.get_by_text("3 more to reach ±5 %")).to_be_visible()
    page.keyboard.type("9")
    page.keyboard.press("Backspace")
    page.keyboard.press("Backspace")  # on an empty number: takes the last count back
    expect(listed).to_have_count(2)
    page.get_by_role("link", name="Leave").click()
    expect(page.get_by_role("heading", name="1 of 8 strips counted")).to_be_visible()


def sorted_to(letters: list[str]) -> list[int]:
    """Heavy loads on narrow strips whatever the draw gave."""
    heavy = iter(sorted(NETS)[4:])
    light = iter(sorted(NETS)[:4])
    return [next(heavy) if letter == "B" else next(light) for letter in letters]


def harvest(page: Page, nets: list[int]) -> None:
    stage(page, "Harvest")
    paste_column(page, "or net, strip 1", [str(net) for net in nets])
    paste_column(page, "Moisture, strip 1", ["14.0"] * 8)
    for label, text in (("Swath width of all empty rows", "5.4"), ("Length cut of all empty rows", "300")):
        page.get_by_label(label).fill(text)
        page.get_by_label(label).press("Tab")
    expect(page.get_by_text("On this device only, until recorded.")).to_be_visible()
    page.reload()
    expect(page.get_by_label("or net, strip 8", exact=True)).to_have_value(str(nets[7]))  # nothing typed is lost
    page.get_by_role("button", name="Record 8 loads").click()
    expect(page.get_by_role("heading", name="8 of 8 strips have a yield")).to_be_visible()


def read_verdict(page: Page, letters: list[str], nets: list[int]) -> None:
    """The screen says what the core says of the same eight loads."""
    rows = [
        StripResponse(
            treatment=letter,
            block=str(place // 2),
            response=strip_yield(
                net_kg=net, swath_width_m=5.4, length_m=300, moisture_pct=14.0, standard_moisture_pct=13.5
            ).yield_kg_per_ha,
        )
        for place, (letter, net) in enumerate(zip(letters, nets, strict=True))
    ]
    result = compare(rows, control="A", levels=["A", "B"])
    (difference,) = result.to_control
    assert (difference.lower or 0) > 0, "the example must be a clear gain"
    stage(page, "Verdict")
    gain = f"{difference.estimate / 1000:.2f} t/ha"
    expect(page.get_by_label("The verdict")).to_contain_text(f"B (12.5 cm) gains yield over A (25 cm): {gain} more.")
    table = page.get_by_label("Analysis of variance")
    test = next(term for term in result.anova if term.term == "treatment")
    expect(table.get_by_role("row", name=re.compile("treatment"))).to_contain_text(f"{test.f:.4f}")
    means = page.get_by_label("Means of yield", exact=True)
    for mean in result.means:
        expect(means).to_contain_text(f"{mean.mean / 1000:.2f} t/ha")
    net = 190 * difference.estimate / 1000 - 20
    expect(page.get_by_label("The verdict")).to_contain_text(f"returned {net:.0f} €/ha more")
    page.get_by_role("button", name="The working").first.click()
    expect(page.get_by_label("The working")).to_contain_text("mean of B (12.5 cm) − mean of A (25 cm)")
    page.keyboard.press("Escape")
    expect(page.get_by_role("complementary", name="The working")).to_have_count(0)


def test_a_finished_trial_from_a_file(lead: Page, tmp_path: Path) -> None:
    """o01: Gomez & Gomez (1984), rice seeding rates; rows and table typed from memory of the book."""
    file = tmp_path / "rice seeding rates.csv"
    file.write_text(reference_csv("o01_rcbd_seedrate"))
    lead.get_by_role("link", name="Trials", exact=True).click()
    lead.get_by_role("link", name="Bring in a finished trial").click()
    lead.get_by_label("CSV file, one row a strip").set_input_files(file)
    expect(lead.get_by_role("heading", name="24 rows read; the first 8")).to_be_visible()
    expect(lead.get_by_label("Column of the block")).to_have_value("block")
    expect(lead.get_by_label("Column of the treatment")).to_have_value("rate")
    lead.get_by_role("button", name="Take it in and see the verdict").click()
    row = lead.get_by_label("Analysis of variance").get_by_role("row", name=re.compile("treatment"))
    expect(row).to_contain_text("2.1678")
    expect(row).to_contain_text("0.1128")
    expect(lead.get_by_label("Means of yield", exact=True)).to_contain_text("Spread between strips (CV) 6.7 %")


def test_files_that_cannot_be_taken_in(lead: Page, tmp_path: Path) -> None:
    lead.goto("/trials/import")
    wide = tmp_path / "wide.csv"
    wide.write_text("block,rate,grain\nI,a,4\nI,b,five\nII,a,5\nII,b,6\n")
    lead.get_by_label("CSV file, one row a strip").set_input_files(wide)
    lead.get_by_role("button", name="Take it in and see the verdict").click()
    expect(lead.get_by_role("heading", name="What needs mending")).to_be_visible()
    expect(lead.get_by_text("The column for the response")).to_be_visible()
    lead.get_by_label("Column of the yield").select_option("grain")
    lead.get_by_role("button", name="Take it in and see the verdict").click()
    expect(lead.get_by_role("row", name=re.compile("^3 grain"))).to_contain_text("“five”")
    big = tmp_path / "big.csv"
    with big.open("wb") as handle:
        handle.truncate(60_000_000)
    lead.get_by_label("CSV file, one row a strip").set_input_files(big)
    expect(lead.get_by_role("alert")).to_contain_text("big.csv is 60 MB")
