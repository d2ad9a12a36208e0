"""The verdict of a split-plot, its curve, and a series over years, as a person reads them."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.e2e.conftest import stage


def verdict_of(page: Page, title: str) -> None:
    page.get_by_role("link", name="Trials", exact=True).click()
    page.get_by_role("link", name=title, exact=True).click()
    stage(page, "Verdict")


def test_a_split_plot_says_interactions_first_and_shows_its_errors(lead: Page) -> None:
    verdict_of(lead, "Tillage by rate in maize 2025")
    expect(lead.locator("[data-headline]")).to_contain_text("Seeding rate: 70 thousand/ha loses")
    expect(lead.get_by_role("region", name="Interaction of Tillage by Seeding rate")).to_contain_text(
        "not proof that it does not"
    )
    tests = lead.get_by_role("region", name="Analysis of variance")
    expect(tests.get_by_role("row", name=re.compile(r"^Tillage 1 4\.0"))).to_be_visible()
    lead.get_by_text("The classical table in error strata").click()
    expect(lead.get_by_role("region", name="Errors").get_by_role("cell", name="block:Tillage").first).to_be_visible()
    expect(lead.get_by_role("region", name="Checks")).to_contain_text("Nothing in the residuals speaks against the model.")
    lead.get_by_role("radio", name="Net return").check()
    expect(lead.get_by_role("region", name="Means of net_return")).to_be_visible()


def test_the_curve_is_chosen_by_level(lead: Page) -> None:
    verdict_of(lead, "Tillage by rate in maize 2025")
    lead.get_by_role("tab", name="Response curve").click()
    curve = lead.get_by_role("region", name="Response curve")
    expect(curve).to_contain_text("Pairs answer in this trial; as a curve, which decides nothing here: Seeding rate matters")
    curve.get_by_text("Each shape for itself").click()
    expect(curve).to_contain_text("No sign that the curves differ")
    curve.get_by_role("radio", name="Strip tillage").check()
    expect(curve.get_by_role("row", name=re.compile("– lowest AICc"))).to_have_count(1)
    expect(lead).to_have_url(re.compile("sheet=curve"))


def test_three_years_of_row_width_are_taken_together(lead: Page) -> None:
    verdict_of(lead, "Row width in winter wheat 2026")
    lead.get_by_role("tab", name="Over years").click()
    series = lead.get_by_role("region", name="Series")
    expect(series.locator("[data-series]")).to_contain_text("Over 3 site-years. 12.5 cm against 25 cm")
    expect(series).to_contain_text("the conclusion is for these environments only")
    expect(series.get_by_role("img", name=re.compile("12.5 cm: Long Terrace 2024"))).to_be_visible()
    left_out = series.get_by_role("region", name="Left out")
    expect(left_out.get_by_role("row")).to_have_count(4)
    series.get_by_role("link", name="its own verdict").first.click()
    expect(lead.get_by_role("heading", name="Row width in winter wheat 2024")).to_be_visible()
