"""Cold start without a signal, an expired session, and signing out while records wait."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from PIL import Image
from playwright.sync_api import Browser, Page, expect

from tests.e2e.conftest import PASSWORD
from tests.e2e.phones import phone_of, sign_in, to_book


@pytest.fixture
def phone(browser: Browser, address: str) -> Iterator[Page]:
    """A phone that keeps the page, signed in as a scout."""
    with phone_of(browser, address) as page:
        sign_in(page)
        yield page


def test_cold_start_without_a_signal(phone: Page, tmp_path: Path) -> None:
    place = to_book(phone, 12)
    phone.get_by_role("button", name=re.compile("Take along|Store again")).click()
    expect(phone.get_by_text(re.compile("^Stored "))).to_be_visible()
    context = phone.context
    phone.close()
    context.set_offline(True)
    cold = context.new_page()
    cold.goto("/")  # from the home screen
    expect(cold.get_by_role("heading", name="Due at Tamsin Vale")).to_be_visible()
    cold.goto(place)
    expect(cold.get_by_text("Strip 12", exact=True)).to_be_visible()
    expect(cold.get_by_text(re.compile("^1 of 6, place"))).to_be_visible()  # places came along
    for count in ("141", "152"):
        cold.keyboard.type(count)
        cold.keyboard.press("Enter")
    listed = cold.get_by_label("Counts of this strip").get_by_role("listitem")
    expect(listed.filter(has_text="this device")).to_have_count(2)
    cold.get_by_role("group", name="Task").get_by_role("button", name="Photo").click()
    path = tmp_path / "strip.jpg"
    Image.new("RGB", (400, 300), "#335511").save(path, "JPEG")
    cold.get_by_label("What it shows").fill("Taken without a signal")
    cold.get_by_label("Take a photograph").set_input_files(path)
    expect(cold.get_by_text("3 on this device: no signal")).to_be_visible()
    cold.close()
    again = context.new_page()  # the device was switched off in between
    again.goto(place)
    expect(again.get_by_text(re.compile("3 on this device"))).to_be_visible()
    context.set_offline(False)
    expect(again.get_by_text("all on the server")).to_be_visible()
    listed = again.get_by_label("Counts of this strip").get_by_role("listitem")
    expect(listed.filter(has_text="server")).to_have_count(2)
    again.get_by_role("group", name="Task").get_by_role("button", name="Photo").click()
    photos = again.get_by_label("Photographs of this strip").get_by_role("listitem")
    expect(photos.filter(has_text="Taken without a signal").filter(has_text="server")).to_have_count(1)
    again.get_by_role("group", name="Task").get_by_role("button", name="Count").click()
    for left in (1, 0):
        again.keyboard.press("Backspace")
        expect(listed).to_have_count(left)
    expect(again.get_by_text("all on the server")).to_be_visible()


def test_an_expired_session_keeps_what_was_recorded(phone: Page) -> None:
    place = to_book(phone, 3)
    phone.context.clear_cookies()
    phone.keyboard.type("133")
    phone.keyboard.press("Enter")
    expect(phone.get_by_text(re.compile("1 on this device: You are signed out"))).to_be_visible()
    phone.goto("/")
    sign_in(phone)
    phone.goto(place)
    listed = phone.get_by_label("Counts of this strip").get_by_role("listitem")
    expect(listed.filter(has_text="133").filter(has_text="server")).to_have_count(1)
    phone.keyboard.press("Backspace")
    expect(listed).to_have_count(0)
    expect(phone.get_by_text("all on the server")).to_be_visible()


def test_signing_out_is_refused_while_records_wait(phone: Page, tmp_path: Path) -> None:
    to_book(phone, 4)
    phone.context.set_offline(True)
    phone.keyboard.type("127")
    phone.keyboard.press("Enter")
    expect(phone.get_by_text("1 on this device: no signal")).to_be_visible()
    phone.get_by_role("link", name="Leave").click()
    phone.get_by_role("button", name="Sign out tobin").click()
    dialog = phone.get_by_role("dialog", name="Records wait on this device")
    expect(dialog).to_contain_text("1 record is on this device only")
    expect(dialog.get_by_role("button", name="Sign out, they are saved")).to_be_disabled()
    with phone.expect_download() as download:
        dialog.get_by_role("button", name="Save them as a file").click()
    kept = tmp_path / "records.json"
    download.value.save_as(kept)
    assert '"plants": "127"' in kept.read_text()
    expect(dialog.get_by_role("button", name="Sign out, they are saved")).to_be_enabled()
    dialog.get_by_role("button", name="Stay signed in").click()
    phone.context.set_offline(False)
    phone.goto("/")
    to_book(phone, 4)
    listed = phone.get_by_label("Counts of this strip").get_by_role("listitem")
    expect(listed.filter(has_text="127").filter(has_text="server")).to_have_count(1)
    phone.keyboard.press("Backspace")
    expect(listed).to_have_count(0)


def test_what_one_person_read_does_not_stay_for_the_next(phone: Page) -> None:
    to_book(phone, 1)
    phone.get_by_role("button", name=re.compile("Take along|Store again")).click()
    expect(phone.get_by_text(re.compile("^Stored "))).to_be_visible()
    phone.goto("/")
    phone.get_by_role("button", name="Sign out tobin").click()
    expect(phone.get_by_role("button", name="Sign in")).to_be_visible()
    phone.get_by_label("Name you sign in with").fill("ilse")
    phone.get_by_label("Password").fill(PASSWORD)
    phone.get_by_role("button", name="Sign in").click()
    expect(phone.get_by_role("heading", name="Due at Tamsin Vale")).to_be_visible()
    left = """async () => {
        const pack = await caches.open("cultrix-pack");
        return (await pack.keys()).filter((one) => one.url.includes("/trials/")).length;
    }"""
    assert phone.evaluate(left) == 0


def test_an_address_that_is_not_secure_says_that_the_page_cannot_be_kept(browser: Browser, address: str) -> None:
    context = browser.new_context(viewport={"width": 390, "height": 844}, base_url=address)
    context.add_init_script("Object.defineProperty(window, 'isSecureContext', { value: false })")
    context.set_default_timeout(90_000)
    page = context.new_page()
    page.goto("/")
    sign_in(page)
    to_book(page, 2)
    expect(page.get_by_text("This address is not secure (https), so the page cannot be stored")).to_be_visible()
    context.close()


def test_harvest_day_without_a_signal(phone: Page) -> None:
    """The yield is reckoned on the device, the load waits, and arrives once there is a signal."""
    phone.goto("/trials")
    href = phone.get_by_role("link", name="Maize seeding rate on Upper Step", exact=True).get_attribute("href")
    assert href
    phone.goto(f"/trials/{href.split('/')[2]}/fieldbook?task=harvest&strip=10")
    expect(phone.get_by_text("Strip 10", exact=True)).to_be_visible()
    phone.context.set_offline(True)
    for text in ("7300", "5620", "21"):
        phone.get_by_role("group", name="Keypad").wait_for()
        if text == "5620":
            for _ in range(4):
                phone.keyboard.press("Backspace")
        phone.keyboard.type(text)
        if text != "21":
            phone.keyboard.press("Enter")
    # 1680 kg ÷ 1710 m² × 79 ÷ 84.5 = 9.185 t/ha, by hand
    expect(phone.get_by_text(re.compile(r"^9\.1[89] t/ha$"))).to_be_visible()
    phone.keyboard.press("Enter")
    loads = phone.get_by_label("Loads of this strip")
    expect(loads).to_contain_text("this device")
    expect(phone.get_by_text("1 on this device: no signal")).to_be_visible()
    phone.context.set_offline(False)
    expect(loads.get_by_text("server")).to_be_visible()
    expect(loads).to_contain_text("t/ha")
