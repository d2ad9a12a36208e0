"""The real application with its demo, and a browser to use it with."""

from __future__ import annotations

import os
import re
import socket
import subprocess
import sys
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

from tests.made_once import copied, empty_installation, filled_demo

ROOT = Path(__file__).resolve().parents[2]
PASSWORD = "terrace-demo-2026"
CHROMIUM = "/usr/bin/chromium"
ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--host-resolver-rules=MAP * ~NOTFOUND, EXCLUDE localhost, EXCLUDE 127.0.0.1",
]
# Generous, so that a busy machine is slow and not wrong; nothing waits longer than it must.
expect.set_options(timeout=40_000)


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


@contextmanager
def serving(var: Path) -> Iterator[str]:
    """Address of an application started as ``make demo`` starts it, on a database of its own."""
    with started(var, "--demo") as (address, text):
        assert PASSWORD in text, "make demo prints the login"
        yield address


@contextmanager
def started(var: Path, *options: str) -> Iterator[tuple[str, str]]:
    """Address of an application on a folder, and what it printed until it was there."""
    if not (ROOT / "web" / "dist" / "index.html").exists():
        raise FileNotFoundError("The interface is not built: run `make setup`.")
    port = _free_port()
    server = subprocess.Popen(
        [sys.executable, str(ROOT / "server" / "serve.py"), *options, "--port", str(port)],
        env=os.environ | {"CULTRIX_VAR": str(var), "DJANGO_SETTINGS_MODULE": "config.settings"},
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
    )
    assert server.stdout is not None
    text = ""
    for line in server.stdout:  # ends when the server says it is there, or when it dies
        text += line
        if "Cultrix is at" in line:
            break
    else:
        raise RuntimeError(f"The application did not start:\n{text}")
    # emptied for as long as it runs: a full pipe would stop the server
    threading.Thread(target=server.stdout.read, daemon=True).start()
    try:
        yield f"http://localhost:{port}", text
    finally:
        server.terminate()
        server.wait(10)


@pytest.fixture(scope="module")
def address(tmp_path_factory: pytest.TempPathFactory, filled: Path) -> Iterator[str]:
    """A server for each file of tests: what one records must not stand in another's lists."""
    with serving(copied(filled, tmp_path_factory.mktemp("demo"))) as name:
        yield name


@pytest.fixture(scope="session")
def filled() -> Path:
    """A folder with the demo in it, made once; each server runs on a copy of its own."""
    return filled_demo()


@pytest.fixture(scope="session")
def empty() -> Path:
    """A folder with a database that nobody uses yet."""
    return empty_installation()


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        chromium = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        yield chromium
        chromium.close()


@pytest.fixture
def page(browser: Browser, address: str) -> Iterator[Page]:
    """A fresh browser at the sign-in; whatever the console complains of fails the test."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=address, service_workers="block")
    context.set_default_timeout(90_000)
    result = context.new_page()
    complaints: list[str] = []
    result.on("pageerror", lambda error: complaints.append(str(error)))
    result.on("console", lambda message: complaints.append(message.text) if message.type == "error" else None)
    result.goto("/")
    yield result
    context.close()
    # a refused write is answered with 4xx, which the browser logs; those are what some tests are about
    serious = [text for text in complaints if not re.search(r"status of (4\d\d)|ERR_INTERNET_DISCONNECTED", text)]
    assert not serious, serious


def to_setup(page: Page, part: str) -> None:
    """Go to a page of Setup, as a person does."""
    page.get_by_role("link", name="Setup", exact=True).click()
    page.get_by_role("navigation", name="Setup").get_by_role("link", name=part, exact=True).click()


SIGNED_IN: dict[
    tuple[str, str], list[Any]
] = {}  # cookies of who has signed in at an application by typing, for the tests after


@pytest.fixture
def as_person(page: Page, address: str) -> Callable[[str], Page]:
    """Signs in: by typing the first time at an application, from then on with what the browser was given."""

    def sign_in(name: str) -> Page:
        kept = SIGNED_IN.get((address, name))
        if kept:
            page.context.add_cookies(kept)
        if kept and page.request.get("/api/session").json()["person"]:
            page.goto("/")
        else:  # never been here, or signed out by a test before
            page.context.clear_cookies()
            page.goto("/")
            page.get_by_label("Name you sign in with").fill(name)
            page.get_by_label("Password").fill(PASSWORD)
            page.get_by_role("button", name="Sign in").click()
        expect(page.get_by_role("heading", name="Due at Tamsin Vale")).to_be_visible()
        SIGNED_IN[address, name] = page.context.cookies()
        return page

    return sign_in


@pytest.fixture
def lead(as_person: Callable[[str], Page]) -> Page:
    return as_person("ilse")


def stage(page: Page, name: str) -> None:
    page.get_by_role("navigation", name="Season line").get_by_role("link", name=re.compile(f"^{name}")).click()
    expect(page).to_have_url(re.compile(f"/{name.lower()}"))


def commit(page: Page, label: str, text: str) -> None:
    """Type into a field and leave it; wait until it is saved."""
    field = page.get_by_label(label, exact=True)
    field.fill(text)
    with page.expect_response(lambda answer: answer.request.method == "PATCH") as answer:
        field.press("Tab")
    assert answer.value.status == 200, answer.value.text()


def new_trial(page: Page, title: str, crop: str = "Winter wheat") -> None:
    page.get_by_role("link", name="Trials", exact=True).click()
    page.get_by_role("link", name="New trial").click()
    expect(page).to_have_url(re.compile("/trials/new"))  # its script is loaded first, and the list stands meanwhile
    page.get_by_label("Title", exact=True).fill(title)
    page.get_by_label("Crop").select_option(label=crop)
    page.get_by_label("Season, year of harvest").fill("2026")
    page.get_by_role("button", name="Start with the question").click()
    expect(page.get_by_role("heading", name=title)).to_be_visible()


def two_widths(page: Page, blocks: str = "4", seed: str = "99") -> None:
    """Treatments 12.5 against 25 cm, and a layout."""
    stage(page, "Treatments")
    page.get_by_label("Level of A", exact=True).fill("25")
    page.get_by_label("Level of B", exact=True).fill("12.5")
    page.get_by_label("Extra cost of B", exact=True).fill("20")
    page.get_by_role("button", name="Keep these treatments").click()
    expect(page.get_by_role("navigation", name="Season line")).to_contain_text("2 treatments")
    stage(page, "Layout")
    page.get_by_label("Blocks", exact=True).fill(blocks)
    page.get_by_label("Strip width", exact=True).fill("6")
    page.get_by_label("Strip length", exact=True).fill("300")
    page.get_by_label("Seed of the draw").fill(seed)
    page.get_by_role("button", name="Draw the strips").click()
    expect(page.get_by_role("group", name="Strips in field order").get_by_role("button")).to_have_count(2 * int(blocks))


def strip_letters(page: Page) -> list[str]:
    """The letters on the ribbon in field order."""
    strips = page.get_by_role("group", name="Strips in field order").get_by_role("button").all()
    return [re.search(r", ([A-H]), ", strip.get_attribute("title") or "").group(1) for strip in strips]  # type: ignore[union-attr]
