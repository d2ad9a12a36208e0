"""Everything that pages and calculators say in one region, to look through for units of another."""

from __future__ import annotations

import html
import re
from collections.abc import Iterator
from typing import Any

from apps.accounts.models import Workspace
from apps.trials.models import Trial

from tests.server.conftest import Api

TRIAL_PAGES = (
    "",
    "/seed",
    "/planting",
    "/stand",
    "/stand-analysis",
    "/scouting",
    "/readings",
    "/schedule",
    "/estimates",
    "/estimates/learning",
    "/power",
    "/pass-card",
    "/harvest",
    "/verdict",
    "/money",
)
WORKSPACE_PAGES = ("/today", "/trials", "/ledger", "/portfolio", "/seed-lots", "/fields", "/price-lists", "/station")
CROPS = ("maize", "winter_wheat", "soybean", "dry_bean", "sunflower", "oilseed_rape")
# Units that the trade of a region does not use, as they would stand behind a number.
FOREIGN = {
    "europe": "bu/ac|lb/ac|cwt/ac|tons/ac|lb|ft²|/ft²|/ac|ac|ft|in|oz|°F|°F days|mph|bu|/bu|/lb|/cwt|gal|seeds/lb|lb/bu|psi",
    "us": "t/ha|kg/ha|g/m|/m²|/ha|ha|cm|mm|m|kg|g|t|°C|°C days|km/h|m²|thousand/ha|g per 1000|kg/hL|L/ha|/t|/kg|MPa|kPa",
    "canada": "MPa|kPa|t/ha|/m²|/ha|ha|cm|m|km/h|m²|/t|thousand/ha|°F|°F days|oz|gal|gal/ac|seeds/lb|lb/bu",
}
# What people wrote themselves stays as they wrote it: names, questions, remarks, and the protocol as it was frozen.
WRITTEN = {"question", "guess", "title", "trial_title", "note", "machine", "events", "protocol", "uncalibrated", "tag", "name"}
# Calculators that turn units of one region into those of another: that is what they are for.
CONVERTERS = {"grain_weight", "factor", "test_weight", "rate", "ears_acre", "pods"}


def foreign(region: str) -> re.Pattern[str]:
    """Finds a number in a unit that does not belong to the region."""
    longest_first = "|".join(re.escape(name) for name in sorted(FOREIGN[region].split("|"), key=len, reverse=True))
    return re.compile(rf"(?:(?<=[\d€$])|(?<=\d[ \u202f]))(?:{longest_first})(?![A-Za-z/²\d])")


def texts(answer: Any, path: str = "") -> Iterator[tuple[str, str]]:
    """Every text of an answer that the server worded, with where it stands; what was typed apart."""
    if isinstance(answer, dict):
        typed = {"text", "unit"} <= set(answer)
        for name, value in answer.items():
            if (
                name in WRITTEN
                or name in ("id", "key")
                or name.endswith(("_id", "fingerprint"))
                or (typed and name in ("text", "unit"))
            ):
                continue
            yield from texts(value, f"{path}.{name}")
    elif isinstance(answer, list):
        for value in answer:
            yield from texts(value, path)
    elif isinstance(answer, str):
        yield path, answer


def said_of_trials(api: Api, workspace: Workspace) -> Iterator[tuple[str, str]]:
    """What the pages of the workspace and of all its trials say."""
    for page in WORKSPACE_PAGES:
        yield from texts(api.ok("get", f"/workspaces/{workspace.id}{page}"), page)
    for trial in Trial.objects.filter(workspace=workspace):
        for page in TRIAL_PAGES:
            answer = api.call("get", f"/trials/{trial.id}{page}")
            if answer.status_code == 200:  # a stage may refuse before its time
                yield from texts(answer.json(), page or "/trial")


def said_of_calculators(api: Api, workspace: Workspace) -> Iterator[tuple[str, str]]:
    """What every calculator offers and answers on its own example, for some crops."""
    for entry in api.ok("get", f"/workspaces/{workspace.id}/bench"):
        if entry["key"] in CONVERTERS:
            continue
        values = {one["name"]: one["example"] for one in entry["inputs"]}
        for item in entry["inputs"]:
            yield f"example of {entry['key']}", f"1 {item['example']['unit']}"
        for crop in CROPS:
            answer = api.call("post", f"/workspaces/{workspace.id}/bench/{entry['key']}", {"crop": crop, "values": values})
            if answer.status_code == 200:  # a crop may have no such rule
                yield from texts(answer.json(), entry["key"])


def said_in_report(api: Api, trial: Trial) -> str:
    """The words of a trial's report."""
    page = api.call("get", f"/trials/{trial.id}/report").content.decode()
    return html.unescape(re.sub(r"<style>.*?</style>|<[^>]+>", " ", page, flags=re.DOTALL))
