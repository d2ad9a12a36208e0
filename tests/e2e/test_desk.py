"""Units, refusals, roles, undo and deep links at the desk."""

from __future__ import annotations

import re
from collections.abc import Callable

from playwright.sync_api import Page, expect

from tests.e2e.conftest import commit, new_trial, stage, two_widths


def open_trial(page: Page, title: str) -> None:
    page.get_by_role("link", name="Trials", exact=True).click()
    page.get_by_role("link", name=title, exact=True).click()
    expect(page.get_by_role("heading", name=title)).to_be_visible()


def test_units_switch_the_whole_screen_and_back(lead: Page) -> None:
    open_trial(lead, "Row width in winter wheat 2026")
    stage(lead, "Verdict")
    means = lead.get_by_label("Means of yield", exact=True)
    expect(means).to_contain_text("t/ha")
    before = means.inner_text()
    lead.get_by_label("Units").select_option("us")
    expect(means).to_contain_text("bu/ac")
    expect(lead.get_by_label("The verdict")).to_contain_text("€/ac")
    stage(lead, "Question")
    expect(lead.get_by_label("Price of the crop", exact=True)).to_have_value("205")  # as typed
    expect(lead.get_by_text(re.compile(r"typed as 205 .*; that is 5\.58 €/bu"))).to_be_visible()
    lead.get_by_label("Units").select_option("metric")
    stage(lead, "Verdict")
    expect(means).to_contain_text("t/ha")
    assert means.inner_text() == before


def test_bad_input_is_kept_beside_its_message(lead: Page) -> None:
    new_trial(lead, "Bad input")
    price = lead.get_by_label("Price of the crop", exact=True)
    price.fill("about 200")
    price.press("Tab")
    expect(lead.get_by_role("alert")).to_contain_text("must be a number; got “about 200”")
    expect(price).to_have_value("about 200")
    commit(lead, "Price of the crop", "200")
    expect(lead.get_by_role("alert")).to_have_count(0)
    two_widths(lead)
    stage(lead, "Layout")
    for blocks, width, says in (
        ("1", "6", "Blocks must be at least 2"),
        ("3", "-6", "must be more than 0"),
        ("some", "6", "whole"),
    ):
        lead.get_by_label("Blocks", exact=True).fill(blocks)
        lead.get_by_label("Strip width", exact=True).fill(width)
        lead.get_by_label("Strip length", exact=True).fill("300")
        lead.get_by_role("button", name="Draw anew").click()
        expect(lead.get_by_role("alert")).to_contain_text(says)
        expect(lead.get_by_label("Strip width", exact=True)).to_have_value(width)
    stage(lead, "Harvest")
    lead.get_by_label("or net, strip 2", exact=True).fill("1200")
    lead.get_by_label("Moisture, strip 2", exact=True).fill("130")
    lead.get_by_label("Swath width, strip 2", exact=True).fill("wide")
    lead.get_by_label("Length cut, strip 2", exact=True).fill("300")
    lead.get_by_role("button", name="Record 1 load").click()
    expect(lead.get_by_text("Swath width must be a number; got “wide”")).to_be_visible()
    lead.get_by_label("Swath width, strip 2", exact=True).fill("5.4")
    lead.get_by_role("button", name="Record 1 load").click()
    expect(lead.get_by_text(re.compile(r"Moisture must be at most"))).to_be_visible()
    expect(lead.get_by_label("Moisture, strip 2", exact=True)).to_have_value("130")
    lead.get_by_label("Moisture, strip 2", exact=True).fill("14")
    lead.get_by_role("button", name="Record 1 load").click()
    expect(lead.get_by_role("heading", name="1 of 8 strips have a yield")).to_be_visible()
    stage(lead, "Layout")
    expect(lead.get_by_text("The layout is fixed now: 1 load hang")).to_be_visible()


def test_a_season_that_is_no_year(lead: Page) -> None:
    new_trial(lead, "No year")
    season = lead.get_by_label("Season, year of harvest")
    season.fill("next")
    season.press("Tab")
    expect(lead.get_by_role("alert")).to_contain_text("a year of four digits, the year of harvest; got “next”")
    expect(season).to_have_value("next")
    commit(lead, "Season, year of harvest", "2027")
    expect(lead.get_by_role("alert")).to_have_count(0)
    commit(lead, "Title", "A year after all")
    expect(lead.get_by_role("heading", name="A year after all")).to_be_visible()


def test_two_tabs_on_one_trial_lose_nothing(lead: Page) -> None:
    new_trial(lead, "Two tabs")
    other = lead.context.new_page()
    other.goto(lead.url)
    expect(other.get_by_role("heading", name="Two tabs")).to_be_visible()
    commit(lead, "Your guess, before any result", "from the first")
    question = other.get_by_label("The question")
    question.fill("from the second")
    with other.expect_response(lambda answer: answer.request.method == "PATCH") as answer:
        question.press("Tab")
    assert answer.value.status == 409
    expect(other.get_by_role("alert")).to_contain_text("changed elsewhere meanwhile. What you typed is kept")
    expect(question).to_have_value("from the second")
    expect(other.get_by_label("Your guess, before any result")).to_have_value("from the first")
    question.fill("from the second, again")
    with other.expect_response(lambda answer: answer.request.method == "PATCH") as answer:
        question.press("Tab")
    assert answer.value.status == 200


def test_signing_out_shuts_the_door(lead: Page) -> None:
    lead.goto("/trials")
    lead.get_by_role("button", name="Sign out ilse").click()
    expect(lead.get_by_role("button", name="Sign in")).to_be_visible()
    lead.goto("/trials")
    expect(lead.get_by_role("button", name="Sign in")).to_be_visible()
    expect(lead.get_by_text("Row width in winter wheat 2026")).to_have_count(0)


def test_the_shelf_finds_sorts_and_exports(lead: Page) -> None:
    lead.goto("/trials")
    articles = lead.get_by_role("article")
    expect(articles.filter(has_text="Sorghum seeding rate")).to_have_count(1)
    lead.get_by_label("Find").fill("wheat width")
    expect(articles).to_have_count(3)
    lead.get_by_label("In order of").select_option("title")
    expect(articles.first).to_contain_text("Row width in winter wheat 2024")
    expect(lead).to_have_url(re.compile("order=title"))
    with lead.expect_download() as download:
        lead.get_by_role("button", name="Save as CSV").click()
    lines = download.value.path().read_text(encoding="utf-8-sig").splitlines()
    assert lines[0] == "title,crop,season,series,field,treatments,strips,next"
    assert len(lines) == 4
    lead.get_by_label("Find").fill("lupin")
    expect(lead.get_by_text("No trial fits that.")).to_be_visible()


def test_treatments_without_a_level_are_refused(lead: Page) -> None:
    new_trial(lead, "No level")
    stage(lead, "Treatments")
    lead.get_by_label("Level of A", exact=True).fill("25")
    lead.get_by_role("button", name="Keep these treatments").click()
    expect(lead.get_by_role("alert")).to_contain_text("Every treatment needs one")
    expect(lead.get_by_label("Level of A", exact=True)).to_have_value("25")
    stage(lead, "Layout")
    expect(lead.get_by_text("Settle at least two treatments first.")).to_be_visible()


def test_undo_takes_a_change_back(lead: Page) -> None:
    new_trial(lead, "Undo")
    commit(lead, "Your guess, before any result", "first thought")
    commit(lead, "Your guess, before any result", "second thought")
    lead.get_by_role("button", name="Undo: guess").click()
    expect(lead.get_by_label("Your guess, before any result")).to_have_value("first thought")
    lead.reload()
    expect(lead.get_by_label("Your guess, before any result")).to_have_value("first thought")


def test_a_strip_is_selected_everywhere(lead: Page) -> None:
    open_trial(lead, "Sorghum seeding rate")
    lead.get_by_role("button", name=re.compile("^Strip 7,")).click()
    expect(lead.get_by_text("planned was")).to_be_visible()
    lead.keyboard.press("ArrowRight")
    expect(lead.get_by_role("button", name=re.compile("^Strip 8,"))).to_have_attribute("aria-pressed", "true")
    expect(lead).to_have_url(re.compile("strip=8"))
    address = lead.url
    lead.go_back()
    lead.goto(address)
    expect(lead.get_by_role("button", name=re.compile("^Strip 8,"))).to_have_attribute("aria-pressed", "true")


def test_a_viewer_looks_on(as_person: Callable[[str], Page]) -> None:
    page = as_person("odette")
    page.get_by_role("link", name="Trials", exact=True).click()
    expect(page.get_by_role("link", name="Row width in winter wheat 2026", exact=True)).to_be_visible()
    expect(page.get_by_role("link", name="New trial")).to_have_count(0)
    open_trial(page, "Maize seeding rate on Upper Step")
    expect(page.get_by_text("You look on here")).to_be_visible()
    expect(page.get_by_label("Gross, strip 8", exact=True)).to_be_disabled()
    stage(page, "Question")
    expect(page.get_by_label("The question")).to_be_disabled()


def test_somebody_elses_trial(lead: Page) -> None:
    lead.goto("/trials/00000000-0000-4000-8000-000000000000/verdict")
    expect(lead.get_by_role("alert")).to_contain_text("There is nothing here that you can see")


def test_an_unreplicated_look_says_so(lead: Page) -> None:
    open_trial(lead, "Sunflower at half the row width")
    stage(lead, "Verdict")
    expect(lead.get_by_label("The verdict")).to_contain_text("A look, not a result")
    expect(lead.get_by_text("Analysis of variance")).to_have_count(0)
    expect(lead.get_by_text(re.compile(r"chance that .* (yields|returns) more"))).to_have_count(0)


def test_the_bench_reckons_in_both_systems(lead: Page) -> None:
    """Row length of 1/1000 acre at 30 in is 17.424 ft, on the tape 17 ft 5 in (definition; common practice)."""
    lead.get_by_label("Units").select_option("us")
    lead.get_by_role("link", name="Bench").click()
    lead.get_by_role("button", name="Row length for a count").click()
    lead.get_by_label("Row spacing", exact=True).fill("30")
    lead.get_by_role("button", name="Reckon").click()
    answer = lead.get_by_label("Answer")
    expect(answer).to_contain_text("17.424 ft")
    expect(answer).to_contain_text("17 ft 5 in")
    lead.get_by_label("Row spacing", exact=True).fill("thirty")
    lead.get_by_role("button", name="Reckon").click()
    expect(lead.get_by_role("alert")).to_contain_text("must be a number")
    lead.get_by_label("Units").select_option("metric")
    expect(lead.get_by_label("Row spacing", exact=True)).to_have_value("75")
    lead.get_by_role("button", name="Reckon").click()
    expect(answer).to_contain_text("13.333 m")  # 10 m² ÷ 0.75 m (definition)
