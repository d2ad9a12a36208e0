"""A farm moves in: an empty installation, its first person, the people invited, two workspaces that never mix."""

from __future__ import annotations

import re
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.e2e.conftest import started
from tests.e2e.phones import count
from tests.made_once import copied, manage

FIRST, SCOUT, VIEWER = "seven-oak-gates", "brook-over-slate", "linden-and-rain"


@dataclass
class Farm:
    """An installation that nobody uses yet."""

    var: Path
    address: str
    code: str


@pytest.fixture(scope="module")
def farm(empty: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Farm]:
    var = copied(empty, tmp_path_factory.mktemp("farm"))
    with started(var) as (address, text):
        code = re.search(r"^\s+([A-Z2-9]{4}-[A-Z2-9]{4})$", text, re.MULTILINE)
        assert code, text
        yield Farm(var, address, code[1])


@contextmanager
def device(browser: Browser, address: str) -> Iterator[Page]:
    """A browser of somebody's own."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=address)
    context.set_default_timeout(90_000)
    page = context.new_page()
    page.goto("/")
    yield page
    context.close()


def sign_in(page: Page, name: str, password: str) -> None:
    page.get_by_label("Name you sign in with").fill(name)
    page.get_by_label("Password").fill(password)
    page.get_by_role("button", name="Sign in").click()


def link_shown(page: Page) -> str:
    locator = page.get_by_role("status").filter(has_text="It works once")
    return locator.get_by_label("Link").input_value()


def invite(page: Page, name: str, part: str) -> str:
    page.goto("/setup/people")
    page.get_by_label("Name", exact=True).fill(name)
    page.get_by_label("Part", exact=True).select_option(label=part)
    page.get_by_role("button", name="Make a link").click()
    expect(page.get_by_role("status").filter(has_text=f"Invitation for {name}")).to_be_visible()
    return link_shown(page)


def accept(page: Page, link: str, username: str, password: str) -> None:
    page.goto(link)
    page.get_by_label("Name you sign in with").fill(username)
    page.get_by_label("Password").fill(password)
    page.get_by_role("button", name="Make my account").click()


def change(page: Page, name: str) -> None:
    page.goto("/setup/people")
    page.get_by_role("button", name=f"Change {name}").click()


def test_the_first_person_moves_in_and_invites_two(browser: Browser, farm: Farm) -> None:
    with device(browser, farm.address) as page:
        expect(page.get_by_role("heading", name="First start")).to_be_visible()
        page.get_by_label("Code from the terminal").fill("AAAA-AAAA")
        page.get_by_label("Your name").fill("Mira Arden")
        page.get_by_label("Name you sign in with").fill("mira")
        page.get_by_label("Password").fill("mira arden")
        page.get_by_label("Farm or group").fill("Arden Farm")
        page.get_by_label("Currency").fill("€")
        page.get_by_label("Time zone").fill("Europe/Paris")
        page.get_by_role("button", name="Start").click()
        expect(page.get_by_role("alert")).to_contain_text("not the code that the server printed")
        page.get_by_label("Code from the terminal").fill(farm.code.lower())
        page.get_by_role("button", name="Start").click()
        expect(page.get_by_role("alert")).to_contain_text("similar")  # the password is the name
        expect(page.get_by_label("Farm or group")).to_have_value("Arden Farm")  # what was typed stays
        page.get_by_label("Password").fill(FIRST)
        page.get_by_role("button", name="Start").click()

        expect(page.get_by_role("heading", name="Due at Arden Farm")).to_be_visible()
        expect(page.get_by_text("No trial yet. What comes first:")).to_be_visible()
        expect(page.get_by_role("button", name="Make a practice workspace")).to_be_visible()
        expect(page.get_by_text("There is no backup yet")).to_be_visible()
        jon, ada = invite(page, "Jon Sedge", "Field hand"), invite(page, "Ada Rill", "Reader")

    with device(browser, farm.address) as page:
        accept(page, jon, "jon", "short")
        expect(page.get_by_role("alert")).to_contain_text("at least 10 characters")
        page.get_by_label("Password").fill(SCOUT)
        page.get_by_role("button", name="Make my account").click()
        expect(page.get_by_role("heading", name="Due at Arden Farm")).to_be_visible()
        page.get_by_role("button", name="Sign out jon").click()
        sign_in(page, "jon", SCOUT)
        expect(page.get_by_role("heading", name="Due at Arden Farm")).to_be_visible()
        page.goto(jon)  # the link is used up
        expect(page.get_by_role("alert")).to_contain_text("does not work any more")
    with device(browser, farm.address) as page:
        accept(page, ada, "ada", VIEWER)
        expect(page.get_by_text("No trial yet. An owner or adviser begins the first one.")).to_be_visible()


def test_one_is_reset_and_one_deactivated(browser: Browser, farm: Farm) -> None:
    with device(browser, farm.address) as lead, device(browser, farm.address) as scout, device(browser, farm.address) as ada:
        sign_in(lead, "mira", FIRST)
        sign_in(scout, "jon", SCOUT)
        sign_in(ada, "ada", VIEWER)
        expect(ada.get_by_role("heading", name="Due at Arden Farm")).to_be_visible()
        expect(scout.get_by_role("heading", name="Due at Arden Farm")).to_be_visible()
        change(lead, "Jon Sedge")
        lead.get_by_role("button", name="Link for a new password").click()
        link = link_shown(lead)
        scout.goto(link)
        scout.get_by_label("New password").fill("reeds-by-the-weir")
        scout.get_by_role("button", name="Set it").click()
        scout.get_by_role("link", name="To the sign-in").click()
        sign_in(scout, "jon", SCOUT)
        expect(scout.get_by_role("alert")).to_contain_text("do not belong together")
        sign_in(scout, "jon", "reeds-by-the-weir")
        expect(scout.get_by_role("heading", name="Due at Arden Farm")).to_be_visible()

        change(lead, "Ada Rill")
        lead.get_by_role("button", name="Deactivate the account").click()
        lead.get_by_role("button", name="Deactivate Ada Rill").click()
        expect(lead.get_by_role("row").filter(has_text="Ada Rill")).to_contain_text("account shut")
        ada.reload()
        expect(ada.get_by_role("button", name="Sign in")).to_be_visible()
        sign_in(ada, "ada", VIEWER)
        expect(ada.get_by_role("alert")).to_contain_text("do not belong together")


def test_the_owner_of_the_machine_adds_somebody(browser: Browser, farm: Farm) -> None:
    text = manage(farm.var, "person", "add", "finn", "--name", "Finn Marl", "--workspace", "Arden Farm")
    path = re.search(r"/welcome#\S+", text)
    assert path, text
    with device(browser, farm.address) as page:
        page.goto(path[0])
        page.get_by_label("New password").fill("chalk-and-clover")
        page.get_by_role("button", name="Set it").click()
        page.get_by_role("link", name="To the sign-in").click()
        sign_in(page, "finn", "chalk-and-clover")
        expect(page.get_by_role("heading", name="Due at Arden Farm")).to_be_visible()
        manage(farm.var, "person", "deactivate", "finn")
        page.reload()
        expect(page.get_by_role("button", name="Sign in")).to_be_visible()


def test_a_backup_is_made_and_taken_away(browser: Browser, farm: Farm, tmp_path: Path) -> None:
    with device(browser, farm.address) as page:
        sign_in(page, "mira", FIRST)
        expect(page.get_by_role("heading", name="Due at Arden Farm")).to_be_visible()
        page.goto("/setup/backups")
        page.get_by_role("button", name="Back up now").click()
        expect(page.get_by_text("It was read back and is whole.")).to_be_visible()
        with page.expect_download() as download:
            page.get_by_role("link", name="Download").click()
        file = tmp_path / "taken.zip"
        download.value.save_as(file)
        page.goto("/")
        expect(page.get_by_text("Last good backup:")).to_be_visible()
    text = manage(tmp_path / "elsewhere", "restore", str(file))
    assert "all whole" in text
    with started(tmp_path / "elsewhere") as (address, printed), device(browser, address) as page:
        assert "Nobody has an account yet" not in printed
        sign_in(page, "mira", FIRST)
        expect(page.get_by_role("heading", name="Due at Arden Farm")).to_be_visible()


def practice_there(page: Page) -> None:
    page.goto("/setup/workspace")
    page.get_by_role("button", name="Make a practice workspace").click()
    expect(page.get_by_role("button", name="Go to the practice workspace")).to_be_visible(timeout=240_000)


def test_two_workspaces_never_mix(browser: Browser, farm: Farm) -> None:
    """A count made without a signal in one, sent while the other is open; packs, drafts and lists each of their own."""
    with device(browser, farm.address) as page:
        sign_in(page, "mira", FIRST)
        expect(page.get_by_role("heading", name="Due at Arden Farm")).to_be_visible()
        practice_there(page)
        page.get_by_role("button", name="Go to the practice workspace").click()
        expect(page.get_by_role("heading", name="Due at Practice: Tamsin Vale")).to_be_visible()
        expect(page.get_by_text("Practice workspace: people, places and numbers are made up.")).to_be_visible()
        page.goto("/trials")
        href = page.get_by_role("link", name="Wheat seeding rate after peas", exact=True).get_attribute("href")
        assert href
        book = f"/trials/{href.split('/')[2]}/fieldbook?task=count&strip=9"
        page.goto(book)
        page.get_by_role("button", name=re.compile("Take along|Store again")).click()
        expect(page.get_by_text(re.compile("^Stored "))).to_be_visible()
        page.context.set_offline(True)
        count(page, "143")
        expect(page.get_by_text("1 on this device: no signal")).to_be_visible()

        page.goto("/")  # from the pack
        page.get_by_role("combobox", name="Workspace").select_option(label="Arden Farm")
        expect(page.get_by_role("heading", name="Due at Arden Farm")).to_be_visible()
        page.goto("/waiting")
        waiting = page.get_by_role("region", name="Waiting to be sent")
        expect(waiting).to_contain_text("in Practice: Tamsin Vale")
        page.context.set_offline(False)
        page.get_by_role("button", name="Send now").click()
        expect(page.get_by_text("Everything you recorded here is on the server.")).to_be_visible()
        page.goto("/trials")
        expect(page.get_by_role("link", name="Wheat seeding rate after peas", exact=True)).to_have_count(0)
        page.goto(book)  # of the other workspace
        expect(page.get_by_text("This trial belongs to Practice: Tamsin Vale, and you are in Arden Farm.")).to_be_visible()
        page.get_by_role("button", name="Go to Practice: Tamsin Vale").click()
        listed = page.get_by_label("Counts of this strip").get_by_role("listitem")
        expect(listed.filter(has_text="143").filter(has_text="server")).to_have_count(1)


def test_the_practice_workspace_goes_with_one_touch(browser: Browser, farm: Farm) -> None:
    with device(browser, farm.address) as page:
        sign_in(page, "mira", FIRST)
        expect(page.get_by_role("heading", name=re.compile("^Due at"))).to_be_visible()
        page.goto("/setup/workspace")
        page.get_by_role("button", name="Remove the practice workspace").click()
        expect(page.get_by_role("button", name="Make a practice workspace")).to_be_visible()
        expect(page.get_by_role("combobox", name="Workspace")).to_have_count(0)
        page.goto("/")
        expect(page.get_by_role("heading", name="Due at Arden Farm")).to_be_visible()
