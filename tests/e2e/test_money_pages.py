"""From a finished trial to its money, a shared report, the ledger and a package, as a person does it."""

from __future__ import annotations

import re

from playwright.sync_api import Browser, Page, expect

from tests.e2e.conftest import stage, to_setup


def money_of(page: Page, title: str) -> None:
    page.get_by_role("link", name="Trials", exact=True).click()
    page.get_by_role("link", name=title, exact=True).click()
    stage(page, "Verdict")
    page.get_by_role("tab", name="Money").click()


def test_from_a_finished_trial_to_a_shared_report(lead: Page, browser: Browser, address: str) -> None:
    money_of(lead, "Row width in winter wheat 2024")
    answer = lead.locator("[data-headline]").inner_text()
    budget = lead.get_by_role("region", name="Budget of each treatment").first
    expect(budget.get_by_role("row", name=re.compile("12.5 cm")).first).to_contain_text("€/ha")
    lead.get_by_role("link", name="Report").click()
    expect(lead.get_by_role("heading", name="Report: Row width in winter wheat 2024")).to_be_visible()
    page = lead.frame_locator("iframe")
    expect(page.locator(".headline")).to_have_text(answer)
    expect(page.get_by_role("heading", name="The full record")).to_have_count(0)
    lead.get_by_label("With the full record behind the page").check()
    expect(page.get_by_role("heading", name="The full record")).to_be_visible()
    share = lead.get_by_role("region", name="Share")
    share.get_by_label("Title to show in the place of the trial's").fill("Rows, told to a neighbour")
    share.get_by_label("Days it stays open").fill("ten")
    share.get_by_role("button", name="Make a link").click()
    expect(share.get_by_role("alert")).to_contain_text("got “ten”")
    expect(share.get_by_label("Title to show")).to_have_value("Rows, told to a neighbour")
    share.get_by_label("Days it stays open").fill("10")
    share.get_by_role("button", name="Make a link").click()
    link = lead.locator("[data-share]").inner_text()

    # somebody without an account, in a browser of their own
    other = browser.new_context(base_url=address).new_page()
    complaints: list[str] = []
    other.on("console", lambda message: complaints.append(message.text) if message.type == "error" else None)
    other.goto(link)
    expect(other.get_by_role("heading", name="Rows, told to a neighbour")).to_be_visible()
    expect(other.locator(".headline")).to_have_text(answer)
    assert "Long Terrace" not in other.content()
    assert other.locator(".answer").evaluate("one => getComputedStyle(one).borderLeftStyle") == "solid", "its style is applied"
    assert complaints == []
    with other.expect_download() as download:
        other.get_by_role("link", name="As PDF").click()
    assert download.value.path().read_bytes()[:5] == b"%PDF-"
    other.goto("/trials")
    expect(other.get_by_role("button", name="Sign in")).to_be_visible()

    share.get_by_role("button", name=re.compile("Revoke")).click()
    expect(share.get_by_text(re.compile("revoked"))).to_be_visible()
    other.goto(link)
    expect(other.get_by_role("heading", name="This link opens nothing")).to_be_visible()
    other.context.close()


def test_a_price_tried_on_moves_the_answer_and_nothing_else(lead: Page) -> None:
    money_of(lead, "Row width in winter wheat 2024")
    tried = lead.get_by_role("region", name="Try a price on")
    expect(tried).to_contain_text("At 205.00 €/t")
    tried.get_by_label("Price tried on", exact=True).fill("60")
    expect(tried).to_contain_text("At 60.00 €/t")
    # at 60 the gain in yield just pays, and all of its interval lies within the margin of 25
    expect(tried.get_by_role("listitem").first).to_contain_text("no difference that matters")
    tried.get_by_label("Price tried on", exact=True).fill("0")
    expect(tried.get_by_role("alert")).to_contain_text("Price must be more than 0")
    expect(tried.get_by_label("Price tried on", exact=True)).to_have_value("0")
    lead.reload()
    expect(lead.get_by_role("region", name="Try a price on")).to_contain_text("At 205.00 €/t")


def test_the_best_rate_stands_with_its_flatness_and_its_margin(lead: Page) -> None:
    money_of(lead, "Sunflower seeding rate")
    best = lead.get_by_role("region", name="Amount that pays best")
    expect(best).to_contain_text(re.compile(r"The best return is at 6\d\.\d thousand/ha \(90 % interval"))
    expect(best).to_contain_text("the return is within 25.00 €/ha of the best")
    expect(best).to_contain_text("plants at 86 % emergence")
    best.get_by_role("button", name=re.compile("The best return")).click()
    expect(lead.get_by_role("complementary", name="The working")).to_contain_text("Margin of safety")


def test_a_scenario_is_kept_and_told(lead: Page) -> None:
    money_of(lead, "Row width in winter wheat 2025")
    lead.get_by_text("What the money is judged by, and scenarios").click()
    lead.get_by_role("button", name="Add a scenario").click()
    lead.get_by_label("Name of scenario 1").fill("Half the price")
    lead.get_by_label("Price in scenario 1", exact=True).fill("8")
    lead.get_by_role("button", name="Keep", exact=True).click()
    expect(lead.get_by_role("alert").filter(has_text="must be above the cost")).to_be_visible()
    lead.get_by_label("Price in scenario 1", exact=True).fill("102")
    lead.get_by_role("button", name="Keep", exact=True).click()
    scenario = lead.get_by_role("region", name="Scenarios")
    expect(scenario).to_contain_text("Half the price: price 102.00 €/t")
    expect(scenario.get_by_role("listitem").first).to_contain_text("A (12.5 cm) against C (25 cm)")


def test_the_ledger_shows_losers_and_looks_and_leads_on(lead: Page) -> None:
    lead.get_by_role("link", name="Ledger", exact=True).click()
    expect(lead.get_by_role("heading", name="Ledger")).to_be_visible()
    look = lead.get_by_role("row", name=re.compile("Sunflower at half the row width"))
    expect(look).to_contain_text("a look, not a result")
    expect(look.get_by_role("cell").first).to_have_text("")
    lead.get_by_role("combobox", name="Crop").select_option("Maize")
    expect(lead.get_by_role("row", name=re.compile("loss")).first).to_be_visible()
    expect(lead.get_by_role("row", name=re.compile("Sunflower"))).to_have_count(0)
    expect(lead).to_have_url(re.compile("crop=Maize"))
    expect(lead.get_by_role("region", name="Over years")).to_contain_text("12.5 cm against 25 cm")
    expect(lead.get_by_role("region", name="What the farm has learned")).to_contain_text("Winter wheat")
    with lead.expect_download() as download:
        lead.get_by_role("button", name="Save as CSV").click()
    text = download.value.path().read_text("utf-8-sig")
    assert "Strip tillage against Plough and harrow" in text
    assert "Sunflower" not in text
    lead.get_by_role("link", name="Tillage by rate in maize 2025").first.click()
    expect(lead.get_by_role("region", name="How the money moves")).to_be_visible()


def test_a_price_list_in_another_currency_is_refused_and_kept_as_typed(lead: Page) -> None:
    to_setup(lead, "Prices")
    lead.get_by_role("button", name="Add a price list").click()
    form = lead.get_by_role("form", name="Price list")
    form.get_by_label("Name of the list").fill("Harbour")
    form.get_by_label("Day of the prices").fill("2026-11-02")
    form.get_by_label("Source of the prices").fill("told by telephone")
    form.get_by_label("Currency").fill("$")
    form.get_by_role("button", name="Add a price").click()
    form.get_by_label("Crop of price 1").select_option("sorghum")
    form.get_by_label("Price 1", exact=True).fill("190")
    form.get_by_role("button", name="Keep the list").click()
    expect(form.get_by_role("alert")).to_contain_text("this workspace reckons in €")
    expect(form.get_by_label("Price 1", exact=True)).to_have_value("190")
    form.get_by_label("Currency").fill("€")
    form.get_by_role("button", name="Keep the list").click()
    expect(lead.get_by_text("Grain sorghum 190.00 €/t")).to_be_visible()


def test_a_package_goes_out_and_comes_back_as_the_same_trial(lead: Page) -> None:
    money_of(lead, "Lucerne seeding rate, third year")
    answer = lead.locator("[data-headline]").inner_text()
    lead.get_by_role("link", name="Report").click()
    with lead.expect_download() as download:
        lead.get_by_role("link", name="Data package").click()
    content = download.value.path().read_bytes()
    lead.goto("/trials/import")
    lead.get_by_label("Choose the package").set_input_files(
        {"name": "broken.zip", "mimeType": "application/zip", "buffer": content[:900]}
    )
    expect(lead.get_by_role("alert")).to_contain_text("cannot be unpacked")
    lead.get_by_label("Choose the package").set_input_files(
        {"name": "trial.zip", "mimeType": "application/zip", "buffer": content}
    )
    expect(lead.get_by_role("alert")).to_contain_text("is here already")
    lead.get_by_role("button", name="Keep both").click()
    expect(lead.locator("[data-headline]")).to_have_text(answer)
    stage(lead, "Question")
    title = lead.get_by_label("Title", exact=True)  # so that there are not two of the same name on the shelf
    title.fill("Lucerne, read back")
    title.press("Enter")
    expect(lead.get_by_role("heading", name="Lucerne, read back")).to_be_visible()


def test_costs_of_a_machine_year_and_of_fuel_are_kept(lead: Page) -> None:
    lead.get_by_role("link", name="Trials", exact=True).click()
    lead.get_by_role("link", name="Strip tillage and maize rate", exact=True).click()
    stage(lead, "Treatments")
    costs = lead.get_by_role("region", name="Costs by level")
    expect(costs.get_by_label("Fuel of cost 1", exact=True)).to_have_value("24")
    expect(costs.get_by_label("Area cost 5 is spread over", exact=True)).to_have_value("180")
    # another way of reckoning asks for another unit: the amount stays and its unit is the one that is shown
    costs.get_by_label("How cost 4 is reckoned").select_option(label="By unit of yield")
    expect(costs.get_by_label("Each of cost 4", exact=True)).to_have_value("31")
    expect(costs.get_by_label("Unit of each of cost 4")).to_have_value("money/t")
    with lead.expect_response(lambda answer: answer.request.method == "PUT" and "/treatments" in answer.url) as kept:
        lead.get_by_role("button", name="Keep these treatments").click()
    assert kept.value.status == 200
    lead.reload()
    expect(costs.get_by_label("How cost 4 is reckoned")).to_have_value("yield")
    expect(costs.get_by_label("Unit of each of cost 4")).to_have_value("money/t")
    costs.get_by_label("How cost 4 is reckoned").select_option(label="By area")
    lead.get_by_role("button", name="Keep these treatments").click()
    expect(lead.get_by_role("button", name="Keep these treatments")).to_be_disabled()
