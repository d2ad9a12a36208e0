"""What tests on a phone share: signing in, opening the field book, typing a count."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from playwright.sync_api import Browser, Page, expect

from tests.e2e.conftest import PASSWORD

WHEAT = "Wheat seeding rate after peas"


@contextmanager
def phone_of(browser: Browser, address: str, script: str = "") -> Iterator[Page]:
    """A phone with nothing on it yet; ``script`` runs before every page of it."""
    context = browser.new_context(viewport={"width": 390, "height": 844}, base_url=address)
    context.set_default_timeout(90_000)
    if script:
        context.add_init_script(script)
    page = context.new_page()
    page.goto("/")
    yield page
    context.close()


def sign_in(page: Page, name: str = "tobin") -> None:
    page.get_by_label("Name you sign in with").fill(name)
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("heading", name="Due at Tamsin Vale")).to_be_visible()


def to_book(page: Page, strip: int, task: str = "") -> str:
    """Open the field book of a wheat trial at a strip; its address."""
    page.goto("/trials")
    href = page.get_by_role("link", name=WHEAT, exact=True).get_attribute("href")
    assert href
    place = f"/trials/{href.split('/')[2]}/fieldbook?strip={strip}{f'&task={task}' if task else ''}"
    page.goto(place)
    expect(page.get_by_text(f"Strip {strip}", exact=True)).to_be_visible()
    return place


def count(page: Page, plants: str) -> None:
    page.keyboard.type(plants)
    page.keyboard.press("Enter")


def counts(page: Page):  # type: ignore[no-untyped-def] - a locator
    """The counts listed on the strip at hand."""
    return page.get_by_label("Counts of this strip").get_by_role("listitem")


def kept_of(page: Page, place: str, strip: int) -> list[dict[str, object]]:
    """Counts of a strip as the server holds them."""
    trial = place.split("/")[2]
    answer = page.request.get(f"/api/trials/{trial}/stand").json()
    number = next(item["id"] for item in page.request.get(f"/api/trials/{trial}").json()["strips"] if item["order"] == strip)
    result: list[dict[str, object]] = next(item["counts"] for item in answer["strips"] if item["strip_id"] == number)
    return result
