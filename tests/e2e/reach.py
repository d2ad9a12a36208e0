"""What tests of reach share: the places of the application, and axe."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from playwright.sync_api import Page, expect

AXE = (Path(__file__).resolve().parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js").read_text()
STAGES = ["question", "treatments", "layout", "seed", "planting", "stand", "season", "estimate", "harvest", "verdict"]
SHEETS = ["strips", "margin", "rehearsal", "passes", "files", "protocol"]
PLACES = [
    "/",
    "/trials",
    "/trials/new",
    "/trials/import",
    "/bench",
    "/setup",
    "/setup/people",
    "/setup/workspace",
    "/setup/backups",
    "/setup/account",
    "/setup/look",
]


THEMES = ("day", "night", "sun")
COLOURS = ", runOnly: { type: 'rule', values: ['color-contrast', 'link-in-text-block'] }"


def serious(page: Page, only: str = "") -> list[str]:
    page.evaluate(AXE)
    result = page.evaluate(f"axe.run(document, {{ resultTypes: ['violations']{only} }})")
    return [
        f"{item['id']} ({item['impact']}): {[node['html'][:120] for node in item['nodes'][:3]]}"
        for item in result["violations"]
        if item["impact"] in ("serious", "critical")
    ]


def settled(page: Page, place: str) -> None:
    page.goto(place)
    page.wait_for_load_state("networkidle")
    expect(page.locator("h1, h2").first).to_be_attached()


def trial_id(page: Page, title: str) -> str:
    page.goto("/trials")
    href = page.get_by_role("link", name=title, exact=True).get_attribute("href")
    assert href
    return href.split("/")[2]


def every_place(lead: Page) -> list[str]:
    """Every main view, each sheet of a stage on a trial that has something on it."""
    sorghum = trial_id(lead, "Sorghum seeding rate")
    places = PLACES + [f"/trials/{sorghum}/{stage}?strip=7" for stage in STAGES] + [f"/trials/{sorghum}/fieldbook?strip=3"]
    tillage = trial_id(lead, "Strip tillage and maize rate")
    places += [f"/trials/{tillage}/treatments", *(f"/trials/{tillage}/layout?sheet={sheet}" for sheet in SHEETS)]
    wide, late = trial_id(lead, "Double-width sorghum, cowpea between"), trial_id(lead, "Late wheat, 3 or 5 cm deep")
    places += [f"/trials/{wide}/seed?sheet={sheet}" for sheet in ("lots", "calibration", "rows", "fertiliser")]
    places += [f"/trials/{sorghum}/planting?sheet={sheet}&strip=7" for sheet in ("depth", "otherwise", "passes")]
    places += [f"/trials/{late}/planting?sheet=bed", *(f"/trials/{late}/fieldbook?task={task}" for task in ("sowing", "depth"))]
    places += ["/bench?of=meter", "/bench?of=mixture", "/bench?of=tape_run"]
    lucerne, maize = trial_id(lead, "Lucerne seeding rate, third year"), trial_id(lead, "Maize seeding rate on Upper Step")
    places += [f"/trials/{lucerne}/stand?sheet={sheet}" for sheet in ("places", "emergence", "crowns", "decide")]
    places += [f"/trials/{maize}/stand?sheet={sheet}" for sheet in ("spacing", "decide")]
    places += [f"/trials/{maize}/season?sheet={sheet}&strip=3" for sheet in ("measured", "judged", "photos", "visits")]
    places += [f"/trials/{maize}/estimate?sheet={sheet}" for sheet in ("strips", "samples", "places", "grain", "reckon")]
    places += [f"/trials/{trial_id(lead, 'Row width in winter wheat 2026')}/estimate?sheet=learned", "/bench?of=ears"]
    places += [
        f"/trials/{maize}/fieldbook?task={task}" for task in ("tape", "dig", "measure", "rate", "yield", "note", "photo")
    ]
    places += [f"/trials/{late}/planting?sheet=before"]
    split = trial_id(lead, "Tillage by rate in maize 2025")
    places += [f"/trials/{split}/verdict", f"/trials/{split}/verdict?sheet=curve"]
    places += [f"/trials/{trial_id(lead, 'Row width in winter wheat 2026')}/verdict?sheet=series"]
    places += [f"/trials/{split}/verdict?sheet=money", f"/trials/{split}/report", "/ledger"]
    return places


def violations_on(lead: Page, places: Sequence[str]) -> dict[str, list[str]]:
    """All rules by day; by night and in the sun those of colour, for nothing else differs."""
    result = {}
    for place in places:
        settled(lead, place)
        for name in ("Open Stone Row", "Open Weir Mill board"):
            for button in lead.get_by_role("button", name=name).all():
                button.click()
        for theme in THEMES:
            lead.evaluate("theme => document.documentElement.setAttribute('data-theme', theme)", theme)
            if violations := serious(lead, "" if theme == "day" else COLOURS):
                result[f"{place} ({theme})"] = violations
    return result
