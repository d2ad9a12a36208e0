"""A workspace moves from region to region: what stands on its pages is in the units of the place it is in."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.conftest import new_trial, stage, to_setup
from tests.e2e.test_desk import open_trial
from tests.server.region_walk import foreign

# Words that stand on the page, and the units that empty fields would be typed in; what people typed is theirs.
WORDS = """() => {
  const found = [];
  const walker = document.createTreeWalker(document.querySelector("main") ?? document.body, NodeFilter.SHOW_TEXT);
  for (let node = walker.nextNode(); node; node = walker.nextNode()) {
    const parent = node.parentElement;
    if (!parent.closest("select, textarea, script, style, [data-typed]")) found.push(node.textContent.trim());
  }
  for (const select of document.querySelectorAll("select")) {
    const typed = select.parentElement.querySelector("input");
    if (typed && typed.value === "" && /^Unit of /.test(select.ariaLabel ?? ""))
      found.push(`1 ${select.selectedOptions[0]?.textContent ?? ""}`);
  }
  return found.filter(Boolean);
}"""
TYPED = re.compile(
    r"typed as|[Rr]ow width|Drill|Header|Planter|Strip-till|our \d+ cm|“|Cloudburst|Same herbicide|^\d.* kg\b|0\.2 t/ha|frozen"
)


def stray(page: Page, region: str) -> list[str]:
    """What stands on the page in a unit of another region."""
    pattern = foreign(region)
    return [text for text in page.evaluate(WORDS) if pattern.search(text) and not TYPED.search(text)]


@pytest.mark.parametrize(
    ("region", "amount"),
    [("us", "bu/ac")],
)
def test_each_region_from_question_to_verdict(lead: Page, region: str, amount: str) -> None:
    to_setup(lead, "Workspace")
    chosen = lead.get_by_role("region", name="Units and writing").get_by_label("Region", exact=True)
    with lead.expect_response(lambda answer: answer.request.method == "PATCH"):
        chosen.select_option(region if region != chosen.input_value() else "us")
    if chosen.input_value() != region:
        with lead.expect_response(lambda answer: answer.request.method == "PATCH"):
            chosen.select_option(region)
    expect(chosen).to_have_value(region)
    open_trial(lead, "Row width in winter wheat 2026")
    for name_of_stage in ("Question", "Treatments", "Seed", "Planting", "Stand", "Season", "Harvest", "Verdict"):
        stage(lead, name_of_stage)
        lead.wait_for_load_state("networkidle")
        assert stray(lead, region) == [], name_of_stage
    expect(lead.get_by_label("Means of yield", exact=True)).to_contain_text(amount)
    lead.get_by_role("link", name="Field book").click()
    for task in ("Count", "Harvest"):
        lead.get_by_role("group", name="Task").get_by_role("button", name=task).click()
        lead.wait_for_load_state("networkidle")
        assert stray(lead, region) == [], task


def test_a_crop_of_ones_own_is_chosen_and_marked(lead: Page) -> None:
    to_setup(lead, "Workspace")
    form = lead.get_by_role("form", name="A crop of one's own")
    form.get_by_label("Name of the crop").fill("Maize")
    form.get_by_label("Nearest relative").select_option("sorghum")
    form.get_by_role("button", name="Add the crop").click()
    expect(form.get_by_role("alert")).to_contain_text("in the catalogue already")
    form.get_by_label("Name of the crop").fill("Faba bean")
    form.get_by_label("Nearest relative").select_option("field_pea")
    form.get_by_role("button", name="Add the crop").click()
    expect(form.get_by_role("listitem")).to_contain_text("Faba bean, as field pea")
    new_trial(lead, "Faba rows", "Faba bean (as field pea)")
    expect(lead.get_by_text("nothing of them was checked for faba bean")).to_be_visible()
