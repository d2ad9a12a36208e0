"""Two trials of several factors walked in the browser: every sentence against means taken by hand from the loads."""

from __future__ import annotations

import itertools
import json
import re
from datetime import UTC, datetime
from typing import Any
from uuid import uuid4

import numpy as np
from playwright.sync_api import Page, expect

ACRE_M2 = 4046.8564224
SWATH_M, LENGTH_M = 5.4, 300.0
SEND = """async ([method, path, body, home, person]) => {
    const token = document.cookie.match(/csrftoken=([^;]+)/)[1];
    const headers = { "Content-Type": "application/json", "X-CSRFToken": token, "X-Person": person, "X-Workspace": home };
    const answer = await fetch(path, { method, headers, body: JSON.stringify(body) });
    return { status: answer.status, text: await answer.text() };
}"""
Levels = list[tuple[str, str]]


class Desk:
    """The signed-in person's own address of the API, as the page uses it."""

    def __init__(self, page: Page) -> None:
        self.page = page
        person = page.request.get("/api/session").json()["person"]
        self.home, self.person = person["workspaces"][0]["id"], person["username"]

    def ask(self, method: str, path: str, body: dict[str, Any]) -> Any:
        answer = self.page.evaluate(SEND, [method, f"/api{path}", body, self.home, self.person])
        assert answer["status"] in (200, 201), answer["text"]
        return json.loads(answer["text"])


def typed(text: str, unit: str = "") -> dict[str, str]:
    return {"text": text, "unit": unit}


def laid(desk: Desk, title: str, crop: str, factors: list[dict[str, Any]], levels: list[Levels], **more: Any) -> Any:
    """Every combination in four blocks, the first one the control."""
    trial = desk.ask("POST", f"/workspaces/{desk.home}/trials", {"title": title, "crop": crop, "season": 2026})
    path = f"/trials/{trial['id']}"
    trial = desk.ask("PATCH", path, {"version": trial["version"], "question": "Which of them pays?"} | more)
    rows = [
        {"levels": [typed(*level) for level in cell], "is_control": place == 0}
        for place, cell in enumerate(itertools.product(*levels))
    ]
    trial = desk.ask("PUT", f"{path}/treatments", {"version": trial["version"], "factors": factors, "treatments": rows})
    size = {"strip_width": typed("6", "m"), "strip_length": typed("300", "m"), "seed": 11}
    return desk.ask("POST", f"{path}/layout", {"version": trial["version"], "design": "rcbd", "blocks": 4} | size)


def weighed(desk: Desk, trial: Any, levels: list[Levels], of_cell: Any, moisture: str) -> dict[tuple[str, ...], list[float]]:
    """Loads at the moisture of sale, so that yield is net weight over area; kg/ha by combination."""
    cells = [tuple(level[0] for level in cell) for cell in itertools.product(*levels)]
    by_id = {item["id"]: cells[item["position"]] for item in trial["treatments"]}
    scatter = np.random.default_rng(8).normal(0, 6, len(trial["strips"]))
    rows, yields = [], {}
    for place, strip in enumerate(trial["strips"]):
        cell = by_id[strip["treatment_id"]]
        net = round(of_cell(cell) + 3 * strip["block"] + scatter[place])
        yields.setdefault(cell, []).append(net / (SWATH_M * LENGTH_M / 1e4))
        rows.append(
            {
                "id": str(uuid4()),
                "strip_id": strip["id"],
                "method": "weighed",
                "net": typed(str(net), "kg"),
                "moisture": typed(moisture, "%"),
                "swath_width": typed(f"{SWATH_M:g}", "m"),
                "length": typed(f"{LENGTH_M:g}", "m"),
                "recorded_at": datetime.now(UTC).isoformat(),
            }
        )
    desk.ask("POST", f"/trials/{trial['id']}/harvest-sheet", {"rows": rows})
    return yields


def mean_at(yields: dict[tuple[str, ...], list[float]], place: int, level: str) -> float:
    return float(np.mean([value for cell, values in yields.items() if cell[place] == level for value in values]))


def headline(page: Page, trial: Any) -> str:
    page.goto(f"/trials/{trial['id']}/verdict")
    expect(page.locator("[data-headline]")).to_contain_text("Best combination")
    expect(page.locator("[data-headline]"), "a page is shown once, when its first answers are there").to_be_visible()
    return page.locator("[data-headline]").inner_text()


def test_width_and_rate_of_soybean_have_a_sentence_each(lead: Page) -> None:
    """20 against 30 in by four rates: the width by its mean over rates, the rate by a curve beside the farm's own."""
    desk = Desk(lead)
    levels: list[Levels] = [[("30", "in"), ("20", "in")], [(rate, "k/ac") for rate in ("140", "100", "180", "220")]]
    trial = laid(
        desk,
        "Soybean width by rate",
        "soybean",
        [{"kind": "row_spacing"}, {"kind": "seeding_rate"}],
        levels,
        expected_yield=typed("60", "bu/ac"),
        price=typed("11", "money/bu"),
        bag_price=typed("60", "money"),
        bag_seeds=typed("140000"),
        net_margin=typed("15", "money/ha"),
    )
    bend = {"100": -60, "140": -10, "180": 0, "220": -30}
    yields = weighed(desk, trial, levels, lambda cell: 640 + (25 if cell[0] == "20" else 0) + bend[cell[1]], "13")
    told = headline(lead, trial)
    gain = mean_at(yields, 0, "20") - mean_at(yields, 0, "30")
    size = re.search(r"Row spacing: \S+ \S+ gains ([\d.]+) t/ha yield over", told)
    assert size is not None, told
    assert float(size[1]) == round(gain / 1000, 2), "mean over the rates, by hand"
    assert "Seeding rate matters" in told
    best = re.search(r"best return is at ([\d.]+) /m² \(90 % interval ([\d.]+) to ([\d.]+)\)", told)
    assert best is not None, told
    lower, upper = (thousand * 1e3 / ACRE_M2 for thousand in (140, 220))
    assert lower < float(best[1]) < upper, "between the second and the last rate, where the means bend"
    assert f"your {140e3 / ACRE_M2:.1f} /m² lies" in told
    assert f"Best combination: 50.8 cm with {best[1]} /m²." in told, "the rate that the curve found, not a cell's"
    assert "depends" not in told, "nothing was put in that turns"


def test_four_factors_that_add_have_four_sentences(lead: Page) -> None:
    """Starter, machine, width and rate in 2⁴: what was put in is told factor by factor, and no factor is torn apart."""
    desk = Desk(lead)
    levels: list[Levels] = [
        [("without", ""), ("with", "")],
        [("old drill", ""), ("new drill", "")],
        [("75", "cm"), ("50", "cm")],
        [("80", "k/ha"), ("90", "k/ha")],
    ]
    factors = [
        {"kind": "free", "name": "Starter"},
        {"kind": "free", "name": "Machine"},
        {"kind": "row_spacing"},
        {"kind": "seeding_rate"},
    ]
    trial = laid(desk, "Four at once", "maize", factors, levels, expected_yield=typed("9", "t/ha"), alpha=0.1)
    effects = {"with": 40, "new drill": 0, "50": 25, "90": -20}
    yields = weighed(desk, trial, levels, lambda cell: 1450 + sum(effects.get(level, 0) for level in cell), "15.5")
    told = headline(lead, trial)
    for place, (title, old, new) in enumerate(
        (
            ("Starter", "without", "with"),
            ("Machine", "old drill", "new drill"),
            ("Row spacing", "75", "50"),
            ("Seeding rate", "80", "90"),
        )
    ):
        change = (mean_at(yields, place, new) - mean_at(yields, place, old)) / 1000
        sentence = re.search(rf"{title}: [^.]*(?:\.\d[^.]*)*\.", told)
        assert sentence is not None, told
        if title == "Machine":
            assert re.search("no difference that matters|not clear yet|a small difference", sentence[0]), sentence[0]
            continue
        verb = "gains" if change > 0 else "loses"
        assert f" {verb} {abs(change):.2f} t/ha yield" in sentence[0], (sentence[0], change)
    assert " at " not in told.split("Best combination")[0].replace(" at least", ""), "no factor is judged inside another"
    assert "Best combination by the model: with with " in told
    lead.get_by_role("region", name="Comparisons").get_by_text("Starter").first.wait_for()
