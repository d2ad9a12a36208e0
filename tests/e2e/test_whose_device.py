"""A device that several people use, with and without a signal: signed out means signed out, records stay their maker's."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.e2e.phones import count, counts, kept_of, phone_of, sign_in, to_book


def sign_out(page: Page, name: str) -> None:
    page.get_by_role("button", name=f"Sign out {name}").click()


def test_signing_out_without_a_signal_signs_out(browser: Browser, address: str) -> None:
    with phone_of(browser, address) as page:
        sign_in(page)
        to_book(page, 1)
        page.get_by_role("button", name=re.compile("Take along|Store again")).click()
        expect(page.get_by_text(re.compile("^Stored "))).to_be_visible()
        page.goto("/")
        expect(page.get_by_role("heading", name="Due at Tamsin Vale")).to_be_visible()
        cookies = page.context.cookies()
        page.context.set_offline(True)
        sign_out(page, "tobin")
        shut = page.get_by_text("Nobody can open this device until then.")
        expect(shut).to_be_visible()
        page.goto("/trials")  # switched off and on again
        expect(shut).to_be_visible()
        expect(page.get_by_role("heading", name="Due at")).to_have_count(0)
        page.context.set_offline(False)
        expect(page.get_by_role("button", name="Sign in")).to_be_visible()
        page.context.add_cookies(cookies)  # whoever has kept the cookie has nothing: the session itself is over
        assert page.request.get("/api/session").json()["person"] is None
        page.goto("/")
        sign_in(page)


def test_records_of_one_person_wait_for_that_person(browser: Browser, address: str, tmp_path: Path) -> None:
    with phone_of(browser, address) as page:
        sign_in(page)
        place = to_book(page, 9)
        page.context.set_offline(True)
        count(page, "119")
        expect(page.get_by_text("1 on this device: no signal")).to_be_visible()
        page.get_by_role("link", name="Leave").click()
        sign_out(page, "tobin")
        dialog = page.get_by_role("dialog", name="Records wait on this device")
        with page.expect_download() as download:
            dialog.get_by_role("button", name="Save them as a file").click()
        download.value.save_as(tmp_path / "records.json")
        dialog.get_by_role("button", name="Sign out, they are saved").click()
        expect(page.get_by_text("Nobody can open this device until then.")).to_be_visible()
        page.context.set_offline(False)
        sign_in(page, "ilse")
        page.get_by_role("link", name="Records here: 1 of other people").click()
        expect(page.get_by_text("1 record of tobin: locked")).to_be_visible()
        expect(page.get_by_text("119")).to_have_count(0)
        page.get_by_role("button", name="Send now").click()
        expect(page.get_by_text("Everything you recorded here is on the server.")).to_be_visible()
        assert not any(item["plants"] == 119 for item in kept_of(page, place, 9))
        sign_out(page, "ilse")
        expect(page.get_by_role("button", name="Sign in")).to_be_visible()
        sign_in(page)
        page.goto(place)
        expect(counts(page).filter(has_text="119").filter(has_text="server")).to_have_count(1)
        # the file that was saved at sign-out is read back: the same records, none of them twice
        page.goto("/waiting")
        page.get_by_label("Read records from a file").set_input_files(tmp_path / "records.json")
        expect(page.get_by_text("1 record was read from the file.")).to_be_visible()
        expect(page.get_by_text("Everything you recorded here is on the server.")).to_be_visible()
        assert [item["plants"] for item in kept_of(page, place, 9)].count(119) == 1


def test_a_lost_phone_is_signed_out_from_the_desk(browser: Browser, address: str) -> None:
    with phone_of(browser, address) as phone, phone_of(browser, address) as desk:
        for page in (phone, desk):
            sign_in(page, "odette")
        desk.goto("/setup/devices")
        expect(desk.get_by_text("this one")).to_be_visible()
        desk.get_by_role("button", name="Sign out all other devices").click()
        expect(desk.get_by_role("button", name="Sign out all other devices")).to_have_count(0)
        phone.goto("/trials")
        expect(phone.get_by_role("button", name="Sign in")).to_be_visible()


def test_a_pack_that_is_too_old_is_gone(browser: Browser, address: str) -> None:
    """Fifteen days later by the device's clock, without a signal: what was stored is not there any more."""
    later = "if (localStorage.getItem('later')) { const now = Date.now; Date.now = () => now() + 15 * 86400000; }"
    with phone_of(browser, address, later) as page:
        sign_in(page)
        place = to_book(page, 2)
        page.get_by_role("button", name=re.compile("Take along|Store again")).click()
        expect(page.get_by_text(re.compile("^Stored "))).to_be_visible()
        page.evaluate("localStorage.setItem('later', '1')")
        page.context.set_offline(True)
        page.goto(place)
        expect(page.get_by_text("Strip 2", exact=True)).to_have_count(0)
        expect(page.get_by_text(re.compile("server cannot be reached"))).to_be_visible()


GROUP, OWN = ["People", "Rights"], ["Account", "Devices"]
FARM = ["Fields", "Seed lots", "Machines", "Prices", "Variables", "Weather", "Stand-ins"]
OWNERS = ["Workspace", "Backups", "System"]


@pytest.mark.parametrize(
    ("who", "pages"),
    [
        ("ilse", [*FARM, *GROUP, "Bin", "Farms", "History", *OWNERS, *OWN]),
        ("odette", [*FARM, *GROUP, "Farms", *OWN]),
    ],
)
def test_setup_has_pages_and_the_owners_own(browser: Browser, address: str, who: str, pages: list[str]) -> None:
    with phone_of(browser, address) as page:
        sign_in(page, who)
        page.goto("/setup")
        links = page.get_by_role("navigation", name="Setup").get_by_role("link")
        expect(links).to_have_text(pages)
        links.last.click()
        expect(page.get_by_role("heading", level=1)).to_have_text("Devices")
        if who == "ilse":
            links.filter(has_text="System").click()
            expect(page.get_by_role("heading", level=1)).to_have_text(re.compile("^The system"))
