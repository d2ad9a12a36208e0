"""One current picture of each main view, from the demo: ``make screenshots`` writes docs/screenshots."""

from __future__ import annotations

import re
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from tests.e2e.conftest import ARGUMENTS, CHROMIUM, PASSWORD, ROOT, serving

FOLDER = ROOT / "docs" / "screenshots"
DESK, PHONE = (1280, 800), (390, 844)
Act = Callable[[Page], object]


def _reckon(page: Page) -> None:
    page.get_by_role("button", name="Reckon").click()


def _count(page: Page) -> None:
    for count in ("143", "131", "150"):
        page.keyboard.type(count)
        page.keyboard.press("Enter")
    page.get_by_label("Counts of this strip").get_by_text("server").nth(2).wait_for()
    page.keyboard.type("13")


def _map(page: Page) -> None:
    page.get_by_label("Show what Pass starts and ends dropped").check()
    page.get_by_role("img", name=re.compile("^Map of")).scroll_into_view_if_needed()


def _moves(page: Page) -> None:
    page.get_by_role("region", name="Step by step").evaluate("one => one.scrollIntoView()")


def _report(page: Page) -> None:
    page.frame_locator("iframe").locator(".headline").wait_for()


def _night_us(page: Page) -> None:
    page.get_by_label("Theme").select_option("night")
    page.get_by_label("Units").select_option("us")
    page.get_by_text("yield, bu/ac").first.wait_for()


WIDTH, RATE, SORGHUM = "{Row width in winter wheat 2026}", "{Wheat seeding rate after peas}", "{Sorghum seeding rate}"
TILLAGE = "{Strip tillage and maize rate}"
SPLIT = "{Tillage by rate in maize 2025}"
MAIZE = "{Maize seeding rate on Upper Step}"
VIEWS: list[tuple[str, str, tuple[int, int], Act | None]] = [
    ("today", "/", DESK, None),
    ("trials", "/trials", DESK, None),
    ("question", f"/trials/{WIDTH}/question", DESK, None),
    ("treatments", f"/trials/{TILLAGE}/treatments", DESK, None),
    ("layout", f"/trials/{TILLAGE}/layout?strip=4", DESK, None),
    ("seed", f"/trials/{RATE}/seed", DESK, None),
    ("planting", f"/trials/{SORGHUM}/planting?sheet=depth&strip=7", DESK, None),
    ("stand", f"/trials/{RATE}/stand?strip=5", DESK, None),
    ("season", f"/trials/{MAIZE}/season?sheet=judged", DESK, None),
    ("harvest", f"/trials/{WIDTH}/harvest?sheet=log", DESK, _map),
    ("verdict", f"/trials/{WIDTH}/verdict", DESK, None),
    ("estimate", f"/trials/{MAIZE}/estimate", DESK, None),
    ("bench", "/bench?of=meter", DESK, _reckon),
    ("setup", "/setup", DESK, None),
    ("fieldbook", f"/trials/{RATE}/fieldbook?strip=9", PHONE, _count),
    ("money", f"/trials/{WIDTH}/verdict?sheet=money", DESK, _moves),
    ("report", f"/trials/{WIDTH}/report", DESK, _report),
    ("ledger", "/ledger", DESK, None),
    ("verdict-split", f"/trials/{SPLIT}/verdict", DESK, _night_us),
]


def main(wanted: list[str]) -> None:
    """All views, or those named."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    with serving(Path(tempfile.mkdtemp())) as address, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        page = browser.new_page(base_url=address)
        page.goto("/")
        page.get_by_label("Name you sign in with").fill("ilse")
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Sign in").click()
        page.get_by_role("heading", name="Due at").wait_for()
        page.goto("/trials")
        page.get_by_role("article").first.wait_for()
        links = page.get_by_role("article").get_by_role("heading").get_by_role("link").all()
        ids = {link.inner_text(): (link.get_attribute("href") or "").split("/")[2] for link in links}
        for name, place, (width, height), act in [one for one in VIEWS if not wanted or one[0] in wanted]:
            page.set_viewport_size({"width": width, "height": height})
            page.goto(re.sub(r"\{(.+?)\}", lambda match: ids[match.group(1)], place))
            page.wait_for_load_state("networkidle")
            if act:
                act(page)
                page.wait_for_load_state("networkidle")
            page.evaluate("document.fonts.ready")
            page.screenshot(path=FOLDER / f"{name}.png", animations="disabled", caret="hide")
            print(f"docs/screenshots/{name}.png")
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1:])
