"""The field book never drops a record and never ends in a wall: full devices, wrong clocks, faults, refusals, slow answers."""

from __future__ import annotations

import json
import re
from datetime import UTC, datetime, timedelta

from playwright.sync_api import Browser, Page, Route, expect

from tests.e2e.phones import count, counts, kept_of, phone_of, sign_in, to_book

FULL = """() => {
  const put = IDBObjectStore.prototype.put;
  window.makeRoom = () => { IDBObjectStore.prototype.put = put; };
  IDBObjectStore.prototype.put = () => { throw new DOMException("no room", "QuotaExceededError"); };
}"""


def test_a_full_device_keeps_the_entry_on_the_screen(browser: Browser, address: str) -> None:
    with phone_of(browser, address) as page:
        sign_in(page)
        to_book(page, 5)
        page.evaluate(FULL)
        count(page, "131")
        expect(page.get_by_role("alert")).to_contain_text("NOT saved: this device has no room left")
        expect(page.get_by_label("Plants typed")).to_have_text("131")
        expect(counts(page).filter(has_text="131")).to_have_count(0)
        page.evaluate("window.makeRoom()")
        page.keyboard.press("Enter")
        expect(counts(page).filter(has_text="131").filter(has_text="server")).to_have_count(1)
        expect(page.get_by_label("Plants typed")).to_have_text("0")
        expect(page.get_by_role("alert")).to_have_count(0)
        # a form behaves as the keypad does
        page.get_by_role("group", name="Task").get_by_role("button", name="Note").click()
        page.get_by_role("button", name="Something else").click()
        words = page.get_by_role("textbox").first
        words.fill("Low end")
        page.evaluate(FULL)
        page.get_by_role("button", name="Note it").click()
        expect(page.get_by_role("alert")).to_contain_text("NOT saved")
        expect(words).to_have_value("Low end")
        page.evaluate("window.makeRoom()")
        page.get_by_role("button", name="Note it").click()
        expect(words).to_have_value("")


def test_figures_typed_while_one_is_written_belong_to_the_next(browser: Browser, address: str) -> None:
    """A device that takes its time: nothing typed meanwhile is lost, and nothing is added to the count before."""
    with phone_of(browser, address) as page:
        sign_in(page)
        place = to_book(page, 6)
        page.evaluate("""() => {
          const put = IDBObjectStore.prototype.put;
          IDBObjectStore.prototype.put = function (...what) {
            for (let turn = 0, until = performance.now() + 300; performance.now() < until; turn++);
            return put.apply(this, what);
          };
        }""")
        before = len(kept_of(page, place, 6))
        for plants in ("101", "102", "103"):
            count(page, plants)
        expect(counts(page).filter(has_text="103").filter(has_text="server")).to_have_count(1)
        expect(page.get_by_text("all on the server")).to_be_visible()
        assert [item["plants"] for item in kept_of(page, place, 6)][before:] == [101, 102, 103]


def test_a_record_that_meets_a_fault_does_not_block_those_behind_it(browser: Browser, address: str) -> None:
    with phone_of(browser, address) as page:
        sign_in(page)
        to_book(page, 7)
        failing = {"on": True}

        def answer(route: Route) -> None:
            if failing["on"] and '"plants":"141"' in (route.request.post_data or ""):
                route.fulfill(status=500, json={"code": "fault", "message": "An error occurred (reference 1).", "field": None})
            else:
                route.continue_()

        page.route("**/stand-counts/*", answer)
        for plants in ("141", "142", "143"):
            count(page, plants)
        for plants in ("142", "143"):
            expect(counts(page).filter(has_text=plants).filter(has_text="server")).to_have_count(1)
        expect(counts(page).filter(has_text="141").filter(has_text="this device")).to_have_count(1)
        failing["on"] = False
        expect(counts(page).filter(has_text="141").filter(has_text="server")).to_have_count(1)


def test_what_was_refused_is_corrected_and_sent_again(browser: Browser, address: str) -> None:
    with phone_of(browser, address) as page:
        sign_in(page)
        place = to_book(page, 8)

        def refuse(route: Route) -> None:
            body = json.loads(route.request.post_data or "{}")
            if body.get("plants") == "99999":
                route.fulfill(
                    status=422, json={"code": "too_large", "message": "Plants must be at most 5000.", "field": "plants"}
                )
            else:
                route.continue_()

        page.route("**/stand-counts/*", refuse)
        count(page, "99999")
        expect(counts(page).filter(has_text="refused")).to_contain_text("Plants must be at most 5000.")
        page.get_by_role("link", name="1 record was not taken: correct").click()
        mend = page.get_by_role("region", name="To correct")
        expect(mend).to_contain_text("Stand count, strip 8")
        mend.get_by_label("Plants counted").fill("144")
        tenth = mend.get_by_role("option").filter(has_text=re.compile("^10,")).text_content()
        mend.get_by_label("Strip").select_option(label=tenth)
        mend.get_by_role("button", name="Send again").click()
        expect(page.get_by_text("Everything you recorded here is on the server.")).to_be_visible()
        assert [item["plants"] for item in kept_of(page, place, 10)].count(144) == 1


def write_meanwhile(page: Page, url: str, body: dict[str, object]) -> None:
    """What another device has made of the same record."""
    token = next(cookie["value"] for cookie in page.context.cookies() if cookie["name"] == "csrftoken")
    trial = page.request.get(url.split("/stand-counts/")[0]).json()
    headers = {"X-CSRFToken": token, "X-Person": "tobin", "X-Workspace": trial["workspace_id"]}
    answer = page.request.put(url, data=body, headers=headers)
    assert answer.status == 201, answer.text()


def test_a_conflict_shows_both_and_one_decides(browser: Browser, address: str) -> None:
    with phone_of(browser, address) as page:
        sign_in(page)
        place = to_book(page, 11)

        def first(route: Route) -> None:
            body = json.loads(route.request.post_data or "{}")
            if body.get("version") is None and body["plants"] == "150":
                write_meanwhile(page, route.request.url, {**body, "plants": "155"})
            route.continue_()

        page.route("**/stand-counts/*", first)
        count(page, "150")
        page.get_by_role("link", name="1 record was not taken: correct").click()
        page.unroute("**/stand-counts/*")
        mend = page.get_by_role("region", name="To correct")
        expect(mend.get_by_label("Plants counted")).to_have_value("150")
        expect(mend.get_by_role("region", name="On the server")).to_contain_text("155")
        mend.get_by_role("button", name="Use mine").click()
        expect(page.get_by_text("Everything you recorded here is on the server.")).to_be_visible()
        kept = [item["plants"] for item in kept_of(page, place, 11)]
        assert (kept.count(150), kept.count(155)) == (1, 0)


def test_what_is_never_taken_is_kept_as_a_note(browser: Browser, address: str) -> None:
    with phone_of(browser, address) as page:
        sign_in(page)
        place = to_book(page, 12)
        refused = {"code": "too_large", "message": "No such count.", "field": "plants"}
        page.route("**/stand-counts/*", lambda route: route.fulfill(status=422, json=refused))
        count(page, "77")
        page.get_by_role("link", name="1 record was not taken: correct").click()
        page.get_by_role("button", name="Keep as a note").click()
        expect(page.get_by_text("Everything you recorded here is on the server.")).to_be_visible()
        notes = page.request.get(f"/api/trials/{place.split('/')[2]}/field-events").json()
        assert any("Plants counted 77" in note["text"] and "No such count" in note["text"] for note in notes)


AHEAD = """
const real = Date;
const off = 3 * 86400000;
Date = class extends real {
  constructor(...what) { super(...(what.length ? what : [real.now() + off])); }
  static now() { return real.now() + off; }
};
"""


def test_a_clock_three_days_ahead_is_corrected(browser: Browser, address: str) -> None:
    with phone_of(browser, address, AHEAD) as page:
        sign_in(page)
        place = to_book(page, 2)
        before = {item["id"] for item in kept_of(page, place, 2)}
        count(page, "126")
        expect(counts(page).filter(has_text="126").filter(has_text="server")).to_have_count(1)
        result = next(item for item in kept_of(page, place, 2) if item["id"] not in before)
        at = datetime.fromisoformat(str(result["recorded_at"]))
        assert abs(datetime.now(UTC) - at) < timedelta(minutes=5), result
        assert abs(int(str(result["clock_shift_s"])) + 3 * 86_400) < 300
        expect(counts(page).filter(has_text="126")).to_contain_text("time corrected")


HANGING = """
const ask = window.fetch;
window.fetch = (what, ...more) => {
  const url = typeof what === "string" ? what : what.url;
  if (localStorage.getItem("weak") && url.includes("/api/")) return new Promise(() => undefined);
  return ask(what, ...more);
};
"""


def test_a_weak_signal_shows_what_was_seen_last(browser: Browser, address: str) -> None:
    """Every question hangs for ever; the pack answers after two seconds."""
    with phone_of(browser, address, HANGING) as page:
        sign_in(page)
        place = to_book(page, 3)
        page.get_by_role("button", name=re.compile("Take along|Store again")).click()
        expect(page.get_by_text(re.compile("^Stored "))).to_be_visible()
        page.evaluate("localStorage.setItem('weak', '1')")
        page.goto(place)
        expect(page.get_by_text("Strip 3", exact=True)).to_be_visible()
        count(page, "118")
        expect(counts(page).filter(has_text="118").filter(has_text="this device")).to_have_count(1)


ONE_FAILS = """
const ask = window.fetch;
window.fetch = (what, ...more) => {
  const url = typeof what === "string" ? what : what.url;
  if (/harvest$|scouting$|planting$/.test(url)) return Promise.resolve(new Response("{}", { status: 500 }));
  return ask(what, ...more);
};
"""


def test_one_answer_that_fails_stops_one_task(browser: Browser, address: str) -> None:
    with phone_of(browser, address, ONE_FAILS) as page:
        sign_in(page)
        to_book(page, 4, "harvest")
        expect(page.get_by_role("alert")).to_be_visible()
        page.get_by_role("group", name="Task").get_by_role("button", name="Count").click()
        expect(page.get_by_label("Plants typed")).to_be_visible()
        count(page, "117")
        expect(counts(page).filter(has_text="117").filter(has_text="server")).to_have_count(1)
