"""Designing a trial as a person does: boundary from a file, two factors, split-plot, margin, rehearsal, card, PDF."""

from __future__ import annotations

import re
from pathlib import Path

import geopandas
import pytest
from playwright.sync_api import Page, expect
from shapely.geometry import Polygon

from tests.e2e.conftest import commit, new_trial, stage

OUTLINE = [(-27.4, 45.5), (-27.3973, 45.5002), (-27.397, 45.5037), (-27.4003, 45.5036)]
pytestmark = pytest.mark.e2e


def sheet(page: Page, name: str) -> None:
    page.get_by_role("tab", name=name).click()
    expect(page.get_by_role("tab", name=name)).to_have_attribute("aria-selected", "true")


def strips(page: Page) -> int:
    return page.get_by_role("group", name="Strips in field order").get_by_role("button").count()


def add_field(page: Page, name: str, folder: Path) -> None:
    """A field whose boundary comes from a GeoPackage."""
    path = folder / "outline.gpkg"
    geopandas.GeoDataFrame({"field": [name]}, geometry=[Polygon(OUTLINE)], crs=4326).to_crs(32626).to_file(path)
    page.get_by_role("link", name="Setup", exact=True).click()
    expect(page.get_by_role("button", name="Open Stone Row")).to_be_visible()
    page.get_by_label("Name of the field").fill(name)
    page.get_by_label("Its shape").select_option(label="a file, right after")
    page.get_by_role("button", name="Add the field").click()
    page.get_by_role("button", name=f"Open {name}").click()
    page.get_by_label(f"Boundary of {name} from a file").set_input_files(path)
    expect(page.get_by_text("Read from outline.gpkg.")).to_be_visible()
    expect(page.get_by_role("img", name="Outline of the field, north up")).to_be_visible()
    page.get_by_label("The ground changes towards, degrees").fill("95")
    page.get_by_label("The ground changes towards, degrees").press("Tab")
    expect(page.get_by_label("The ground changes towards, degrees")).to_have_value("95")


def tillage_by_rate(page: Page) -> None:
    """Two factors, every combination, a cost line."""
    stage(page, "Treatments")
    page.get_by_label("What is varied").select_option(label="Tillage")
    page.get_by_role("button", name="Add a factor").click()
    page.get_by_label("Factor 2").select_option(label="Seeding rate")
    for letter, (tillage, rate) in zip("AB", (("Plough", "70"), ("Strip till", "85")), strict=True):
        page.get_by_label(f"Tillage of {letter}", exact=True).fill(tillage)
        page.get_by_label(f"Seeding rate of {letter}", exact=True).fill(rate)
        page.get_by_label(f"Unit of seeding rate of {letter}").select_option(label="thousand/ha")
    page.get_by_role("button", name="Make every combination").click()
    expect(page.get_by_label("Tillage of D", exact=True)).to_have_value("Strip till")
    page.get_by_role("button", name="Add a cost line").click()
    page.get_by_label("Each of cost 1", exact=True).fill("60")
    page.get_by_role("button", name="Keep these treatments").click()
    expect(page.get_by_role("navigation", name="Season line")).to_contain_text("4 treatments")


def test_a_split_plot_on_an_imported_boundary_to_the_pdf(lead: Page, tmp_path: Path) -> None:
    page = lead
    add_field(page, "Imported Step", tmp_path)
    new_trial(page, "Tillage by rate", "Maize")
    page.get_by_label("Field", exact=True).select_option(label="Imported Step ()")
    commit(page, "The question", "Does strip tillage hold the yield?")
    commit(page, "Price of the crop", "190")
    commit(page, "Expected yield", "10")
    tillage_by_rate(page)
    expect(page.get_by_text("Tillage needs another machine or pass")).to_be_visible()
    stage(page, "Seed")
    commit(page, "Row spacing, all strips", "75")
    commit(page, "Weight of seed", "300")

    stage(page, "Layout")
    page.get_by_label("Design").select_option(label="Split-plot")
    page.get_by_label("Blocks", exact=True).fill("4")
    page.get_by_label("Planter, 8 rows at 75 cm").check()
    page.get_by_label("Header 5.4 m").check()
    page.get_by_role("button", name=re.compile("6.00 m: 1 × Planter")).click()
    page.get_by_label("Seed of the draw").fill("41")
    page.get_by_text("Place on the field, and conditions of the draw").click()
    page.get_by_label("Headland", exact=True).fill("15")
    page.get_by_label("Guard strips a side").fill("1")
    page.get_by_role("button", name="Draw the strips").click()
    expect(page.get_by_role("img", name=re.compile("Map of the layout"))).to_be_visible()
    assert strips(page) == 16
    expect(page.get_by_text("Split-plot: 4 blocks, 16 strips of 6.00 m")).to_be_visible()
    expect(page.get_by_text("Blocks lie across the gradient")).to_be_visible()

    sheet(page, "Honest margin")
    locator = page.get_by_role("region", name="The honest margin")
    expect(locator.get_by_text("the difference that matters is")).to_be_visible()
    main = locator.get_by_role("row", name=re.compile("^Tillage"))
    before = main.inner_text()
    page.get_by_label("What if: blocks").fill("9")
    expect(main).not_to_have_text(before)
    expect(page.get_by_role("img", name=re.compile("with 9 blocks"))).to_be_visible()

    sheet(page, "Rehearsal")
    page.get_by_role("button", name="Rehearse").click()
    expect(page.get_by_text("1000 of 1000 fields")).to_be_visible()
    expect(page.get_by_role("row", name=re.compile("as planned no true difference"))).to_be_visible()

    sheet(page, "Pass card")
    expect(page.get_by_text(re.compile("Seed needed, reserve included: "))).to_be_visible()
    page.get_by_label("Driving").select_option(label="fewest changes of setting")
    expect(page.get_by_text(re.compile("^3 changes of setting"))).to_be_visible()

    sheet(page, "Files")
    with page.expect_download() as download:
        page.get_by_role("link", name="Layout sheet, PDF").click()
    assert Path(download.value.path()).read_bytes().startswith(b"%PDF-")
    assert download.value.suggested_filename == "tillage-by-rate-strips.pdf"
    with page.expect_download() as download:
        page.get_by_role("link", name="GeoPackage").click()
    file = tmp_path / "back.gpkg"
    download.value.save_as(file)
    assert len(geopandas.read_file(file)) == 16
    page.get_by_label("Choose the file").set_input_files(file)
    expect(page.get_by_text("Taken in from a file; the order is the file's.")).to_be_visible()
    assert strips(page) == 16

    sheet(page, "Protocol")
    page.get_by_role("button", name="Freeze the protocol").click()
    expect(page.get_by_text(re.compile("Frozen on .* fingerprint"))).to_be_visible()
    stage(page, "Question")
    price = page.get_by_label("Price of the crop", exact=True)
    price.fill("210")
    price.press("Tab")
    expect(page.get_by_role("dialog", name="Amend the protocol")).to_contain_text("this changes price")
    page.get_by_label("Reason of the amendment").fill("contract signed")
    page.get_by_role("button", name="Amend", exact=True).click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    stage(page, "Layout")
    sheet(page, "Protocol")
    expect(page.get_by_text("price: “190 €/t” became “210 €/t”")).to_be_visible()


def test_a_boundary_that_cannot_be_says_why(lead: Page, tmp_path: Path) -> None:
    page = lead
    page.get_by_role("link", name="Setup", exact=True).click()
    page.get_by_role("button", name="Open Ferry Ground").click()
    path = tmp_path / "words.geojson"
    path.write_text("this is no map")
    page.get_by_label("Boundary of Ferry Ground from a file").set_input_files(path)
    expect(page.get_by_role("alert")).to_contain_text("none of the formats that are read here")
    page.get_by_label("Driving direction, degrees from north").fill("north")
    page.get_by_label("Driving direction, degrees from north").press("Tab")
    expect(page.get_by_role("alert")).to_contain_text("must be a number")
    expect(page.get_by_label("Driving direction, degrees from north")).to_have_value("north")


def test_a_layout_that_does_not_fit_names_one_that_does(lead: Page) -> None:
    page = lead
    new_trial(page, "Too wide")
    page.get_by_label("Field", exact=True).select_option(label="Stone Row (Sallowbank)")
    stage(page, "Treatments")
    page.get_by_label("Level of A", exact=True).fill("25")
    page.get_by_label("Level of B", exact=True).fill("12.5")
    page.get_by_role("button", name="Keep these treatments").click()
    stage(page, "Layout")
    page.get_by_label("Blocks", exact=True).fill("8")
    page.get_by_label("Strip width", exact=True).fill("18")
    page.get_by_role("button", name="Draw the strips").click()
    alert = page.get_by_role("alert")
    expect(alert).to_contain_text("does not fit into this field")
    fitting = re.search(r"(\d+) blocks would fit", alert.inner_text())
    assert fitting, alert.inner_text()
    page.get_by_label("Blocks", exact=True).fill(fitting.group(1))
    page.get_by_role("button", name="Draw the strips").click()
    expect(page.get_by_role("img", name=re.compile("Map of the layout"))).to_be_visible()
    assert strips(page) == 2 * int(fitting.group(1))


def test_a_rehearsal_can_be_stopped(lead: Page) -> None:
    page = lead
    page.get_by_role("link", name="Trials", exact=True).click()
    page.get_by_role("link", name=re.compile("Strip tillage and maize rate")).first.click()
    stage(page, "Layout")
    sheet(page, "Rehearsal")

    def stop_then_answer(route):  # type: ignore[no-untyped-def]
        # the second batch is on its way when the person stops
        if not stopped:
            stopped.append(True)
            page.get_by_role("button", name="Stop").dispatch_event("click")
        route.continue_()

    stopped: list[bool] = []
    page.get_by_role("button", name="Rehearse").click()
    page.route("**/rehearsal", stop_then_answer)
    expect(page.get_by_role("button", name="Stop")).to_have_count(0)
    expect(page.get_by_text(re.compile(r"\d+ of 1000 fields"))).to_be_visible()
