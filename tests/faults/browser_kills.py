"""The browser is killed over and over on a phone that counts without a signal; what it had confirmed is there again."""

from __future__ import annotations

import os
import re
import signal
import sqlite3
import subprocess
from contextlib import closing, suppress
from pathlib import Path

from playwright.sync_api import BrowserContext, Page, Playwright, expect, sync_playwright

from tests.e2e.conftest import ARGUMENTS, CHROMIUM, PASSWORD
from tests.faults.installation import WHEAT, Installation, pause


def killed(at: Installation, profile: Path, kills: int) -> dict[str, int]:
    """Kills the browser so many times; returns what the device had confirmed, and what of it the server has in the end."""
    at.start()
    expect.set_options(timeout=60_000)
    confirmed: list[int] = []
    with sync_playwright() as playwright:
        context = _opened(playwright, profile, at.address)
        place = _signed_in(context.pages[0] if context.pages else context.new_page())
        _until_signed_in_on_disk(profile)
        for turn in range(kills):
            page = context.pages[0] if context.pages else context.new_page()
            if turn % 3 == 0:  # two turns in three nobody answers
                at.kill()
            if turn % 3 == 2:
                at.start()
            page.goto(f"{at.address}{place}&strip={turn % 12 + 1}")
            expect(page.get_by_label("Plants typed")).to_be_visible()
            plants = 1_000 + turn
            page.keyboard.type(str(plants))
            page.keyboard.press("Enter")
            listed = page.get_by_label("Counts of this strip").get_by_role("listitem").filter(has_text=str(plants))
            expect(listed).to_have_count(1)  # the device says that it has it
            confirmed.append(plants)
            page.keyboard.type("77")  # in the middle of the next
            page.keyboard.press("Enter")
            _kill(profile)
            context = _opened(playwright, profile, at.address)
            if turn % 10 == 9:
                print(f"  {turn + 1} kills, {len(confirmed)} confirmed", flush=True)
        if at.server is None or at.server.poll() is not None:
            at.start()
        page = context.pages[0] if context.pages else context.new_page()
        page.goto(f"{at.address}{place}")
        expect(page.get_by_text("all on the server")).to_be_visible()
        context.close()
    rows = [plants for (plants,) in at.ask("SELECT plants FROM records_standcount WHERE plants >= 1000")]
    names = at.ask(
        "SELECT DISTINCT u.username FROM records_standcount r JOIN accounts_user u ON u.id = r.recorded_by_id"
        " WHERE r.plants >= 1000"
    )
    at.kill()
    return {
        "kills": kills,
        "confirmed": len(confirmed),
        "lost": sum(item not in rows for item in confirmed),
        "doubled": sum(rows.count(item) > 1 for item in confirmed),
        "wrong name": int(names != [("tobin",)]),
    }


def _opened(playwright: Playwright, profile: Path, address: str) -> BrowserContext:
    return playwright.chromium.launch_persistent_context(
        str(profile), executable_path=CHROMIUM, args=ARGUMENTS, viewport={"width": 390, "height": 844}, base_url=address
    )


def _signed_in(page: Page) -> str:
    page.goto("/")
    page.get_by_label("Name you sign in with").fill("tobin")
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("heading", name=re.compile("^Due at"))).to_be_visible()
    page.goto("/trials")
    href = page.get_by_role("link", name=WHEAT, exact=True).get_attribute("href")
    assert href
    place = f"/trials/{href.split('/')[2]}/fieldbook?task=count"
    page.goto(place)
    page.get_by_role("button", name=re.compile("Take along|Store again")).click()
    expect(page.get_by_text(re.compile("^Stored "))).to_be_visible()
    return place


def _until_signed_in_on_disk(profile: Path) -> None:
    """The browser writes cookies to its disk every half minute; killed before that, it asks to sign in again."""
    while True:
        with closing(sqlite3.connect(f"file:{profile / 'Default' / 'Cookies'}?mode=ro&immutable=1", uri=True)) as kept:
            if kept.execute("SELECT 1 FROM cookies WHERE name = 'sessionid'").fetchone():
                return
        pause(1.0)


def _kill(profile: Path) -> None:
    """Every process of this browser, at once and without asking."""
    completed_process = subprocess.run(
        ["pgrep", "-f", "--", f"--user-data-dir={profile}"], capture_output=True, text=True, check=True
    )
    for number in completed_process.stdout.split():
        with suppress(ProcessLookupError):  # a child goes with its parent
            os.kill(int(number), signal.SIGKILL)
    while subprocess.run(["pgrep", "-f", "--", f"--user-data-dir={profile}"], capture_output=True, check=False).stdout:
        pause(0.05)  # until the last is gone: two browsers on one profile shut each other out
    (profile / "SingletonLock").unlink(missing_ok=True)
