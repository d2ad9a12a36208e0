"""A season on two farms with every part of a workspace in it: each does what is theirs, and is refused the rest."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from playwright.sync_api import Page, expect

from tests.e2e.test_answer_stories import Desk, laid, typed, weighed
from tests.e2e.test_roles import shelf
from tests.e2e.test_trial_life import menu

AsPerson = Callable[[str], Page]
OWN, OTHER = "Rows by the ferry", "Rows by the kiln"  # on the grower's farm, and on another
LEVELS = [[("12.5", "cm"), ("25", "cm")]]
FACTORS = [{"kind": "row_spacing"}]


def planned(desk: Desk, title: str, farm: str) -> Any:
    """As an adviser plans it: question, treatments, layout on a field of a farm."""
    fields = desk.page.request.get(f"/api/workspaces/{desk.home}/fields").json()
    field = next(item for item in fields if item["farm"] == farm)
    money = {"price": typed("200", "money/t"), "unit_cost": typed("0", "money/t"), "field_id": field["id"]}
    return laid(desk, title, "winter_wheat", FACTORS, LEVELS, **money)


def write(page: Page, path: str, body: dict[str, Any]) -> int:
    """What the server says to a write that the page does not offer."""
    told = page.evaluate(
        """async ([path, body]) => {
          const session = await (await fetch("/api/session")).json();
          const token = document.cookie.match(/csrftoken=([^;]+)/)?.[1] ?? "";
          const headers = {"Content-Type": "application/json", "X-CSRFToken": token,
            "X-Person": encodeURIComponent(session.person.username), "X-Workspace": session.person.workspaces[0].id};
          return (await fetch("/api" + path, {method: "POST", headers, body: JSON.stringify(body)})).status;
        }""",
        [path, body],
    )
    return int(told)


def test_a_season_of_two_farms(as_person: AsPerson) -> None:
    # the adviser plans on both farms and freezes
    page = as_person("maren")
    desk = Desk(page)
    own, other = planned(desk, OWN, "Quillbrook"), planned(desk, OTHER, "Harrowfold")
    for trial in (own, other):
        page.goto(f"/trials/{trial['id']}/layout?sheet=protocol")
        page.get_by_role("button", name="Freeze the protocol").click()
        expect(page.get_by_role("button", name="Freeze the protocol")).to_have_count(0)
    # the owner gives the count of the other farm to the field hand
    page = as_person("ilse")
    Desk(page).ask("PUT", f"/trials/{other['id']}/tasks/0f0f0f0f-0000-4000-8000-000000000001", task("Count the kiln rows"))
    # the field hand has it first, counts, says so, and may neither freeze nor see the money
    page = as_person("tobin")
    due = page.get_by_role("region", name="Due at").get_by_role("listitem")
    for place in (0, 1):  # this one, and one that the demo gave him
        expect(due.nth(place)).to_contain_text("Yours")
    expect(due.filter(has_text="Yours").filter(has_text="Count the kiln rows")).to_have_count(1)
    page.goto(f"/trials/{other['id']}/fieldbook?task=count&strip=1")
    expect(page.get_by_text("Strip 1", exact=True)).to_be_visible()
    page.keyboard.type("61")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Counts of this strip").get_by_role("listitem").filter(has_text="server")).to_have_count(1)
    page.goto("/")
    page.get_by_role("listitem").filter(has_text="Count the kiln rows").get_by_role("button", name="Task").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Hours of work, all people together").fill("2.5")
    dialog.get_by_label("It is done").check()
    dialog.get_by_role("button", name="Save").click()
    expect(page.get_by_text("Count the kiln rows")).to_have_count(0)
    page.goto(f"/trials/{own['id']}/verdict")
    expect(page.get_by_text("is not part of a field hand's rights here", exact=False).first).to_be_visible()
    assert write(page, f"/trials/{own['id']}/archive", {"archived": True}) == 403
    # the grower weighs on the own farm, reads the answer, and finds nothing of the other
    page = as_person("pell")
    weighed(Desk(page), own, LEVELS, lambda cell: 640 if cell == ("12.5",) else 600, "14.5")
    page.goto(f"/trials/{own['id']}/verdict")
    expect(page.locator("[data-headline]")).to_be_visible()
    page.goto(f"/trials/{other['id']}/stand")
    expect(page.get_by_text("There is nothing here that you can see").first).to_be_visible()
    assert write(page, f"/trials/{own['id']}/close-season", {"note": ""}) == 403
    assert write(page, f"/trials/{other['id']}/archive", {"archived": True}) == 404
    # the reader reads both and changes neither
    page = as_person("odette")
    page.goto(f"/trials/{own['id']}/verdict")
    expect(page.locator("[data-headline]")).to_be_visible()
    assert write(page, f"/trials/{own['id']}/bin", {"reason": "no"}) == 403
    # the adviser reviews, closes, copies for next year, and archives what is over
    page = as_person("maren")
    page.goto(f"/trials/{own['id']}/question")
    menu(page, "Close the season")
    page.get_by_role("button", name="Close it").click()
    expect(page.get_by_text("Season closed by Maren", exact=False)).to_be_visible()
    menu(page, "Copy it")
    page.get_by_role("dialog").get_by_label("Title", exact=True).fill("Rows by the ferry 2027")
    page.get_by_role("button", name="Copy it", exact=True).last.click()
    expect(page.get_by_role("heading", name="Rows by the ferry 2027", exact=True)).to_be_visible()
    page.goto(f"/trials/{own['id']}/question")
    menu(page, "Archive")
    expect(page.get_by_text("In the archive", exact=False)).to_be_visible()
    shelf(page)
    expect(page.get_by_role("link", name=OWN, exact=True)).to_have_count(0)


def task(what: str) -> dict[str, Any]:
    return {"ref": "", "what": what, "given_to": "tobin"}


def test_handing_over_binning_and_restoring(as_person: AsPerson) -> None:
    page = as_person("maren")
    made = planned(Desk(page), "Rows to hand over", "Harrowfold")
    page.goto(f"/trials/{made['id']}/question")
    menu(page, "Put in the bin")
    page.get_by_label("Reason").fill("laid out on the wrong field")
    page.get_by_role("button", name="Put it in the bin").click()
    expect(page).to_have_url(re.compile("/trials$"))
    assert as_person("pell").request.get(f"/api/trials/{made['id']}").status == 404
    page = as_person("ilse")
    page.goto("/setup/bin")
    page.get_by_role("listitem").filter(has_text="wrong field").get_by_role("button", name="Restore").click()
    expect(page.get_by_text("laid out on the wrong field")).to_have_count(0)
    page.goto("/setup/people")
    page.get_by_role("button", name="Change Maren").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("trials in hand, to", exact=False).select_option(label="Ilse Varnholt")
    dialog.get_by_role("button", name="Hand over").click()
    expect(page.get_by_text("trials in hand, to", exact=False)).to_have_count(0)
    page.goto(f"/trials/{made['id']}/history")
    for words in ("put in the bin", "restored from the bin", "handed over by maren"):
        expect(page.get_by_text(words, exact=False).first).to_be_visible()


def test_a_variable_of_ones_own_from_setup_to_the_field_book(as_person: AsPerson) -> None:
    page = as_person("ilse")
    made = planned(Desk(page), "Rows and rust", "Harrowfold")
    page.goto("/setup/variables")
    form = page.get_by_role("form", name="A variable of one's own")
    form.get_by_label("Name", exact=True).fill("Rust")
    form.get_by_label("Recorded as").select_option(label="A choice between words")
    form.get_by_label("Words to choose between").fill("none, patches")
    form.get_by_role("button", name="Add it").click()
    expect(page.get_by_role("listitem").filter(has_text="one of none, patches")).to_be_visible()
    rust = "own%7Cchoice%7CRust%7Cnone%2Fpatches"
    page.goto(f"/trials/{made['id']}/fieldbook?task=rate&strip=1&trait={rust}")
    expect(page.get_by_label("Judged")).to_have_value("own|choice|Rust|none/patches")
    page.get_by_role("group", name="Score").get_by_role("button", name="patches").click()
    expect(page.get_by_text("Strip 2", exact=True)).to_be_visible()
    page.keyboard.press("ArrowLeft")
    listed = page.get_by_label("Ratings of this strip").get_by_role("listitem")
    expect(listed.filter(has_text="server").filter(has_text="patches")).to_have_count(1)
    page.goto(f"/trials/{made['id']}/season?sheet=judged")
    table = page.get_by_role("region", name="Rust").get_by_role("row")
    expect(table.filter(has_text="1")).to_have_count(1)


def test_files_are_kept_and_a_machine_entered_twice_is_merged(as_person: AsPerson) -> None:
    page = as_person("ilse")
    made = planned(Desk(page), "Rows and papers", "Harrowfold")
    page.goto(f"/trials/{made['id']}/question")
    menu(page, "Files")
    sheet = {"name": "protein.csv", "mimeType": "text/csv", "buffer": b"strip,protein\n1,11.8\n"}
    page.get_by_label("File to keep here").set_input_files(sheet)  # type: ignore[arg-type]
    with page.expect_download() as download:
        page.get_by_role("link", name="protein.csv").click()
    assert download.value.suggested_filename == "protein.csv"
    page.get_by_role("dialog").get_by_role("button", name="Close").click()
    page.goto("/setup/machines")
    for name in ("Roller", "Roller, six metres"):
        page.get_by_label("Machine", exact=True).fill(name)
        page.get_by_label("Working width", exact=True).fill("6")
        page.get_by_role("button", name=re.compile("Add")).click()
        expect(page.get_by_role("listitem").filter(has_text=name).last).to_be_visible()
    page.get_by_text("Merge a machine entered twice").click()
    page.get_by_label("This one goes").select_option(label="Roller, six metres")
    page.get_by_label("into this one, which is kept").select_option(label="Roller")
    page.get_by_role("button", name="Merge Roller, six metres into Roller").click()
    expect(page.get_by_text("Roller, six metres is now Roller.")).to_be_visible()
    expect(page.get_by_role("list").get_by_text("Roller, six metres")).to_have_count(0)
