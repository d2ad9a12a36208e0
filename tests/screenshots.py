"""One current picture of each main view, from the demo: ``make screenshots`` writes docs/screenshots."""

from __future__ import annotations

import re
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

from PIL import Image
from playwright.sync_api import Browser, Page, sync_playwright

from tests.e2e.conftest import ARGUMENTS, CHROMIUM, PASSWORD, ROOT, serving, started

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


def _invited(page: Page) -> None:
    page.get_by_label("Name", exact=True).fill("Wren Talla")
    page.get_by_role("button", name="Make a link").click()
    page.get_by_role("status").filter(has_text="It works once").wait_for()


def _backed_up(page: Page) -> None:
    page.get_by_role("button", name="Back up now").click()
    page.get_by_role("link", name="Download").wait_for()


def _done(page: Page, deed: str, label: str, text: str, button: str) -> None:
    """Something done with a trial as a whole, under “This trial”."""
    page.get_by_text("This trial", exact=True).click()
    page.get_by_role("button", name=deed, exact=True).click()
    page.get_by_label(label).fill(text)
    page.get_by_role("button", name=button, exact=True).click()
    page.get_by_role("dialog").wait_for(state="detached")


def _binned(page: Page) -> None:
    _done(page, "Put in the bin", "Reason", "entered a second time", "Put it in the bin")
    page.goto("/setup/bin")
    page.get_by_text("entered a second time").wait_for()


def _closed(page: Page) -> None:
    _done(page, "Close the season", "Note, if you like", "Loads and strip notes looked through.", "Close it")


def _record(page: Page) -> None:
    page.get_by_role("button", name=re.compile("^History of")).first.click()
    page.get_by_role("dialog").get_by_role("listitem").first.wait_for()


def _task(page: Page) -> None:
    page.get_by_role("button", name=re.compile("^Task Finish")).click()
    page.get_by_role("dialog").get_by_label("Given to").wait_for()


LOOK = "{Sunflower at half the row width}"
WIDTH, RATE, SORGHUM = "{Row width in winter wheat 2026}", "{Wheat seeding rate after peas}", "{Sorghum seeding rate}"
TILLAGE = "{Strip tillage and maize rate}"
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
    ("setup", "/setup/rights", DESK, None),
    ("people", "/setup/people", DESK, _invited),
    ("backups", "/setup/backups", DESK, _backed_up),
    ("fieldbook", f"/trials/{RATE}/fieldbook?strip=9", PHONE, _count),
    ("money", f"/trials/{WIDTH}/verdict?sheet=money", DESK, _moves),
    ("report", f"/trials/{WIDTH}/report", DESK, _report),
    ("ledger", "/ledger", DESK, None),
    ("bin", f"/trials/{LOOK}/question", DESK, _binned),
    ("closed", f"/trials/{SORGHUM}/verdict", DESK, _closed),
    ("history", f"/trials/{SORGHUM}/history", DESK, None),
    ("record", f"/trials/{RATE}/season", DESK, _record),
    ("task", "/", DESK, _task),
    ("variables", "/setup/variables", DESK, None),
    ("farms", "/setup/farms", DESK, None),
]
# Pages that share one picture, so that there are not too many of them.
TOGETHER = {"setup": ("people", "backups", "bin", "closed", "history", "record", "task", "variables", "farms")}


def main(wanted: list[str]) -> None:
    """All views, or those named."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        if not wanted or "first-start" in wanted:
            _first_start(browser)
        if wanted != ["first-start"]:
            _demo(browser, wanted)
        browser.close()
    for name, parts in TOGETHER.items():
        if (FOLDER / f"{parts[0]}.png").exists():
            _together(name, parts)


def _first_start(browser: Browser) -> None:
    """The first page of an installation that nobody uses yet."""
    with started(Path(tempfile.mkdtemp())) as (address, _):
        page = browser.new_page(base_url=address, viewport={"width": DESK[0], "height": DESK[1]})
        page.goto("/")
        page.get_by_label("Your name").fill("Mira Arden")
        _take(page, "first-start")


def _demo(browser: Browser, wanted: list[str]) -> None:
    with serving(Path(tempfile.mkdtemp())) as address:
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
        for name, place, (width, height), act in [view for view in VIEWS if not wanted or view[0] in wanted]:
            page.set_viewport_size({"width": width, "height": height})
            page.goto(re.sub(r"\{(.+?)\}", lambda match: ids[match.group(1)], place))
            page.wait_for_load_state("networkidle")
            if act:
                act(page)
                page.wait_for_load_state("networkidle")
            _take(page, name)


def _take(page: Page, name: str) -> None:
    page.evaluate("document.fonts.ready")
    page.screenshot(path=FOLDER / f"{name}.png", animations="disabled", caret="hide")
    print(f"docs/screenshots/{name}.png")


def _together(name: str, parts: tuple[str, ...]) -> None:
    """Put several pages into one picture, two beside each other."""
    paths = [FOLDER / f"{item}.png" for item in (name, *parts)]
    pictures = [Image.open(path).convert("RGB") for path in paths]
    width, height = pictures[0].size
    whole = Image.new("RGB", (2 * width, (len(pictures) + 1) // 2 * height), "white")
    for place, picture in enumerate(pictures):
        whole.paste(picture, (place % 2 * width, place // 2 * height))
    whole.save(FOLDER / f"{name}.png", optimize=True)
    for path in paths[1:]:
        path.unlink()


if __name__ == "__main__":
    main(sys.argv[1:])
