"""Harvest as a person walks it: a log from file to verdict, loads in the field book, instruments."""

from __future__ import annotations

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.e2e.conftest import stage, to_setup

PHONE = {"width": 390, "height": 844}


def take_simulated(page: Page, title: str) -> None:
    """The log of the simulated combine, taken into a trial from Setup."""
    to_setup(page, "Stand-ins")
    part = page.get_by_role("region", name="Stand-ins")
    part.get_by_role("combobox", name="Trial").select_option(label=title)
    part.get_by_label("Monitor reads × the truth").fill("1.2")
    part.get_by_label("Monitor reads × the truth").press("Tab")
    part.get_by_role("button", name="Take its log into the trial").click()
    part.get_by_role("link", name="Look at it there").click()


def test_a_log_goes_from_the_combine_to_the_verdict(lead: Page) -> None:
    title = "Row width in winter wheat 2024"
    lead.get_by_role("link", name="Trials", exact=True).click()
    lead.get_by_role("link", name=title, exact=True).click()
    stage(lead, "Verdict")
    expect(lead.get_by_text("Yields are those of the loads.")).to_be_visible()
    means = lead.get_by_role("table").first
    before = means.get_by_role("cell").nth(2).inner_text()

    take_simulated(lead, title)
    columns = lead.get_by_role("table", name="What the columns mean")
    expect(columns.get_by_label("Column of Grain flow")).to_have_value("flow_kg_s")
    expect(columns.get_by_label("Unit of Speed")).to_have_value("m/s")
    lead.get_by_label("Remember for the machine").select_option(label="Header 5.4 m")
    lead.get_by_role("button", name="Read and clean the log").click()

    steps = lead.get_by_role("table", name="Steps of the cleaning")
    expect(steps).to_be_visible()
    expect(lead.get_by_text("15 passes")).to_be_visible()
    expect(lead.get_by_role("img", name=re.compile("Map of"))).to_be_visible()
    ends = steps.get_by_role("row", name=re.compile("Pass starts and ends"))
    dropped = int(ends.get_by_role("cell").nth(3).inner_text().replace(",", ""))
    assert dropped > 10

    ends.get_by_role("button", name="Undo Pass starts and ends").click()
    expect(ends.get_by_role("button", name="Do again Pass starts and ends")).to_be_enabled()
    expect(ends.get_by_role("cell").nth(3)).to_have_text("")
    ends.get_by_role("button", name="Do again Pass starts and ends").click()
    expect(ends.get_by_role("cell").nth(3)).to_have_text(str(dropped))

    strips = lead.get_by_role("table", name="Strips by the log")
    expect(strips.get_by_role("row")).to_have_count(16)
    calibrate = lead.get_by_label("Bring the log to the scale")
    expect(calibrate).to_be_checked()
    calibrate.click()
    expect(calibrate).not_to_be_checked()
    lead.get_by_label("The verdict rests on").select_option(label="the log simulated-combine.csv")
    expect(lead.get_by_text("not brought to the scale.")).to_be_visible()

    stage(lead, "Verdict")
    expect(lead.get_by_text("Yields are those of the log simulated-combine.csv, as the monitor has them")).to_be_visible()
    expect(lead.get_by_role("heading", name="By the scale instead of the log")).to_be_visible()
    expect(means.get_by_role("cell").nth(2)).not_to_have_text(before)

    stage(lead, "Harvest")
    lead.get_by_label("The verdict rests on").select_option(label="the loads")
    expect(lead.get_by_text("Yields are those of the loads.")).to_be_visible()
    stage(lead, "Verdict")
    expect(means.get_by_role("cell").nth(2)).to_have_text(before)


def test_files_that_are_no_logs_are_refused_in_words(lead: Page, tmp_path: Path) -> None:
    lead.get_by_role("link", name="Trials", exact=True).click()
    lead.get_by_role("link", name="Row width in winter wheat 2025", exact=True).click()
    stage(lead, "Harvest")
    lead.get_by_role("tab", name="Combine log").click()
    bad = tmp_path / "picture.csv"
    bad.write_bytes(b"\x89PNG\r\n\x1a\n\x00\x00\x00")
    lead.get_by_label("Read a log").set_input_files(bad)
    expect(lead.get_by_role("alert")).to_contain_text("none of the formats")
    far = tmp_path / "far.csv"
    rows = "\n".join(f"{t},10.5,{46 + t / 1e5},1.8,6,5" for t in range(400))
    far.write_text(f"time_s,longitude,latitude,speed_m_s,swath_m,flow_kg_s\n{rows}\n")
    lead.get_by_label("Read a log").set_input_files(far)
    lead.get_by_role("button", name="Read and clean the log").click()
    expect(lead.get_by_role("alert").filter(has_text="not one of its readings lies on a strip").first).to_be_visible()
    lead.get_by_role("button", name="Void log far.csv").click()
    lead.get_by_label("Reason").fill("another field")
    lead.get_by_role("button", name="Void it").click()
    expect(lead.get_by_text("No log yet.")).to_be_visible()


def test_harvest_day_on_the_phone(lead: Page) -> None:
    """The next strip in driving order, its weights and moisture, the yield at once, the load on the server."""
    lead.get_by_role("link", name="Trials", exact=True).click()
    lead.get_by_role("link", name="Maize seeding rate on Upper Step", exact=True).click()
    stage(lead, "Harvest")
    address = lead.url.replace("/harvest", "/fieldbook?task=harvest&strip=9")
    lead.set_viewport_size(PHONE)
    lead.goto(address)
    expect(lead.get_by_text("Strip 9", exact=True)).to_be_visible()
    expect(lead.get_by_text("7 of 12 strips weighed")).to_be_visible()
    lead.keyboard.type("7560")
    typed = lead.get_by_role("group", name="What is typed")
    expect(typed.get_by_role("button", name=re.compile("^Tare"))).to_contain_text("5620")
    lead.get_by_role("button", name="Next", exact=True).click()
    lead.get_by_role("button", name="Next", exact=True).click()
    lead.keyboard.type("21.5")
    # (7560 − 5620) kg ÷ (4.5 × 380 m²) × (100 − 21.5) ÷ (100 − 15.5) = 10.54 t/ha, by hand
    expect(lead.get_by_text("10.54 t/ha")).to_be_visible()
    expect(lead.get_by_text("estimated on this strip before harvest")).to_be_visible()
    lead.get_by_role("button", name="Record", exact=True).click()
    loads = lead.get_by_label("Loads of this strip")
    expect(loads).to_contain_text("10.54 t/ha")
    expect(loads.get_by_text("server")).to_be_visible()
    expect(lead.get_by_text("8 of 12 strips weighed")).to_be_visible()
    lead.get_by_role("button", name="Next strip").click()
    expect(lead.get_by_text("Strip 10", exact=True)).to_be_visible()


def test_weights_come_from_the_scale(lead: Page) -> None:
    lead.get_by_role("link", name="Trials", exact=True).click()
    lead.get_by_role("link", name="Maize seeding rate on Upper Step", exact=True).click()
    stage(lead, "Harvest")
    lead.set_viewport_size(PHONE)
    lead.goto(lead.url.replace("/harvest", "/fieldbook?task=harvest&strip=11"))
    lead.get_by_role("button", name="From the scale").click()
    lead.get_by_role("button", name="Take the simulated scale").click()
    expect(lead.get_by_role("status").filter(has_text="at rest for")).to_be_visible()
    gross = lead.get_by_role("group", name="What is typed").get_by_role("button", name=re.compile("^Gross"))
    assert float(re.sub(r"[^\d.]", "", gross.inner_text())) > 500
    lead.get_by_role("button", name="From the scale").click()
    lead.get_by_label("Lines the scale sent").fill("t=1 weight=80 unit=kg motion=1")
    lead.get_by_role("button", name="Read them").click()
    expect(lead.get_by_role("status").filter(has_text="A weight at rest is missing")).to_be_visible()


def test_a_shared_load_is_refused_and_what_was_typed_stays(lead: Page) -> None:
    lead.get_by_role("link", name="Trials", exact=True).click()
    lead.get_by_role("link", name="Maize seeding rate on Upper Step", exact=True).click()
    stage(lead, "Harvest")
    lead.set_viewport_size(PHONE)
    lead.goto(lead.url.replace("/harvest", "/fieldbook?task=harvest&strip=12"))
    lead.get_by_text("cut, scale in kg").click()
    lead.get_by_label("Grain of another strip is in this load too").check()
    lead.get_by_text("cut, scale in kg").click()
    lead.get_by_role("group", name="Keypad").get_by_role("button", name="7", exact=True).click()
    for _ in range(2):
        lead.get_by_role("button", name="Next", exact=True).click()
    lead.get_by_role("button", name="Record", exact=True).click()
    expect(lead.get_by_role("alert")).to_contain_text("cannot be shared out")
    expect(lead.get_by_role("group", name="What is typed").get_by_role("button", name=re.compile("^Gross"))).to_contain_text(
        "7"
    )
    expect(lead.get_by_label("Loads of this strip").get_by_role("listitem")).to_have_count(0)
