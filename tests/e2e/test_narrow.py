"""No page is wider than the phone it is read on: what is wider scrolls in its own frame."""

from __future__ import annotations

import re
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.e2e.phones import sign_in

TRIALS = (
    "Sorghum seeding rate",
    "Lucerne seeding rate, third year",
    "Tillage by rate in maize 2025",
    "Maize seeding rate on Upper Step",
)
STAGES = ("question", "treatments", "layout", "seed", "planting", "stand", "season", "estimate", "harvest", "verdict")
SHEETS = (
    "layout?sheet=margin",
    "layout?sheet=passes",
    "layout?sheet=files",
    "layout?sheet=protocol",
    "stand?sheet=emergence",
    "season?sheet=measured",
    "season?sheet=judged",
    "season?sheet=visits",
    "verdict?sheet=money",
    "report",
    "history",
)
OF_THE_FARM = ("seed-lots", "machines", "prices", "variables", "weather", "stand-ins")
SETUP = (
    *OF_THE_FARM,
    "people",
    "rights",
    "bin",
    "farms",
    "history",
    "workspace",
    "backups",
    "system",
    "account",
    "devices",
    "look",
)
PLACES = ("/", "/trials", "/trials/new", "/trials/import", "/bench", "/ledger", "/waiting", "/setup")
WIDER = """() => {
  const width = document.documentElement.clientWidth;
  if (document.documentElement.scrollWidth <= width) return [];
  const scrolls = (node) => node && (getComputedStyle(node).overflowX !== "visible" || scrolls(node.parentElement));
  const wide = [...document.querySelectorAll("main *, header *")]
    .filter((node) => node.getBoundingClientRect().right > width + 1 && !scrolls(node.parentElement));
  return ["wider than " + width, ...wide.slice(0, 3).map((node) => node.outerHTML.slice(0, 120))];
}"""


def is_shown(page: Page) -> None:
    page.wait_for_load_state("networkidle")
    expect(page.locator("h1").first).to_be_visible()


@pytest.mark.parametrize("width", [390, 320])
def test_no_page_scrolls_sideways(browser: Browser, address: str, width: int) -> None:
    context = browser.new_context(viewport={"width": width, "height": 844}, base_url=address, service_workers="block")
    page = context.new_page()
    page.goto("/")
    sign_in(page, "ilse")
    home = page.request.get("/api/session").json()["person"]["workspaces"][0]["id"]
    rows = page.request.get(f"/api/workspaces/{home}/trials?limit=50").json()["rows"]
    ids: dict[str, Any] = {row["title"]: row["id"] for row in rows}
    paths = [*PLACES, *(f"/setup/{part}" for part in SETUP)]
    for title in TRIALS:
        paths += [f"/trials/{ids[title]}/{part}" for part in (*STAGES, *SHEETS)]
    wide = {}
    for path in paths:
        page.goto(path)
        is_shown(page)
        told = page.evaluate(WIDER)
        if told:
            wide[re.sub(r"[0-9a-f-]{36}", "…", path)] = told
    context.close()
    assert wide == {}
