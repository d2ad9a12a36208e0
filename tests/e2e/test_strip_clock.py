"""Daily counts on two sowing dates, walked in the browser: each strip on its own clock, days joined by nobody but a person."""

from __future__ import annotations

import re
from datetime import UTC, date, datetime, timedelta
from typing import Any
from uuid import uuid4

from playwright.sync_api import Page, expect

from tests.e2e.conftest import stage
from tests.e2e.test_answer_stories import Desk, laid, typed

FINAL = {"A": 165, "B": 240}
HALF, SHAPE = 8.0, 7.0
FRAME_M2 = 0.5


def at(day: date) -> str:
    return datetime(day.year, day.month, day.day, 9, tzinfo=UTC).isoformat()


def plants(letter: str, age: int, order: int) -> int:
    """Plants in the frame: a log-logistic time, half up at eight days, each strip a little apart."""
    half = HALF * (1 + 0.01 * (order % 3))
    return round(FRAME_M2 * (FINAL[letter] + 2 * (order % 4)) / (1 + (age / half) ** -SHAPE))


def counted_daily(desk: Desk, trial: Any, sown: dict[str, date], last: date) -> dict[str, str]:
    """Ten days of counts after each strip's own sowing, up to the day before the last; letters by strip id."""
    letters = {item["id"]: item["letter"] for item in trial["treatments"]}
    of = {strip["id"]: letters[strip["treatment_id"]] for strip in trial["strips"]}
    for strip in trial["strips"]:
        letter = of[strip["id"]]
        for age in range(5, 15):
            day = sown[letter] + timedelta(days=age)
            if day >= last:
                continue
            body = {
                "strip_id": strip["id"],
                "method": "quadrat",
                "plants": str(plants(letter, age, strip["order"])),
                "area": typed("0.5", "m2"),
                "recorded_at": at(day),
            }
            desk.ask("PUT", f"/trials/{trial['id']}/stand-counts/{uuid4()}", body)
    return of


def test_ten_days_of_counts_on_two_sowing_dates(lead: Page) -> None:
    page = lead
    desk = Desk(page)
    today = datetime.now(UTC).date()
    sown = {"A": today - timedelta(days=24), "B": today - timedelta(days=14)}
    levels = [[("12.5", "cm"), ("25", "cm")]]
    trial = laid(desk, "Two dates", "winter_wheat", [{"kind": "row_spacing"}], levels, seeding_rate=typed("320", "/m2"))
    page.goto(f"/trials/{trial['id']}/planting")
    page.get_by_text(re.compile(r"Record strips")).click()
    for letter, day in sown.items():
        page.get_by_label("For", exact=True).select_option(trial["treatments"]["AB".index(letter)]["id"])
        page.get_by_label("When").fill(f"{day:%Y-%m-%d}T09:00")
        page.get_by_role("button", name="Record 4 strips").click()
        expect(page.get_by_text("9:00")).to_have_count(4 if letter == "A" else 8)
    of = counted_daily(desk, trial, sown, today)

    # the last day of the later sowing is counted in the field book, a strip at a time
    for strip in trial["strips"]:
        if of[strip["id"]] == "B":
            page.goto(f"/trials/{trial['id']}/fieldbook?strip={strip['order']}")
            _by_frame(page)
            keypad = page.get_by_role("group", name="Keypad")
            for digit in str(plants("B", 14, strip["order"])):
                keypad.get_by_role("button", name=digit, exact=True).click()
            keypad.get_by_role("button", name="Record", exact=True).click()
            expect(page.get_by_text("1 count", exact=False).first).to_be_visible()

    page.goto(f"/trials/{trial['id']}/stand")
    visits = page.locator("label").filter(has_text="Visit").locator("option")
    expect(visits).to_have_count(20)
    expect(page.get_by_text(re.compile(r"counted on .*another visit, so not in this table")).first).to_be_visible()
    page.get_by_role("tab", name="Emergence and survival").click()
    half = page.get_by_role("region", name="Days to half emergence")
    for row in (half.get_by_role("row").nth(1), half.get_by_role("row").nth(2)):
        days = re.search(r"([0-9.]+) days", row.inner_text())
        assert days is not None
        assert abs(float(days[1]) - HALF) < 0.4
    final = page.get_by_role("region", name="Final emergence").inner_text()
    assert re.search(r"B[^/]*23\d", final), final
    assert re.search(r"\+[67]\d\.\d /m² \(\+", final), "B is ahead, and its interval lies above nought"
    page.get_by_text("Strip by strip, each on its own clock").click()
    table = page.get_by_role("table", name="Emergence by strip")
    expect(table.get_by_role("row")).to_have_count(9)
    stage(page, "Verdict")
    layout = page.request.get(f"/api/trials/{trial['id']}/verdict").json()
    tied = {item["against"]: item["kind"] for item in layout["confounded"]}
    assert tied["the day of sowing"] == "identical"


def _by_frame(page: Page) -> None:
    """Count by a frame of half a square metre, as the days before; the device keeps it for the trial."""
    expect(page.get_by_role("group", name="Keypad")).to_be_visible()
    if page.get_by_text(re.compile(r"^frame of 0.5")).count():
        return
    page.get_by_text(re.compile(r"^\d+ × .* of row at")).click()
    page.get_by_label("Counted").select_option("quadrat")
    area = page.get_by_label("Area of the frame", exact=True)
    area.fill("0.5")
    area.press("Tab")
    page.get_by_text(re.compile(r"^frame of 0.5")).click()
