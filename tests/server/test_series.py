"""Trials of one question over years: combined, left out one by one, refused, and continued."""

from __future__ import annotations

from typing import Any

import pytest
from apps.accounts.models import Workspace

from tests.server.conftest import Api, field_with_boundary
from tests.server.test_verdict_designs import BENT, ladder, laid

Place = dict[str, Any]


def years(api: Api, workspace: Workspace, count: int, series: str = "Rates") -> list[Place]:
    return [
        ladder(api, workspace, {key: value + 5 * year for key, value in BENT.items()}, series=series) for year in range(count)
    ]


def test_years_of_a_series_are_taken_together(lead: Api, workspace: Workspace) -> None:
    trials = years(lead, workspace, 3)
    result = lead.ok("get", f"/trials/{trials[0]['id']}/series")
    assert result["problem"] == ""
    assert [len(result[key]) for key in ("alone", "combined", "without")] == [3, 5, 3]
    assert result["against"] == "80 thousand/ha"
    assert "too few to stand for others" in result["remarks"][0]
    low = next(row for row in result["combined"] if row["name"] == "50 thousand/ha")
    assert low["call"] == "loss"
    alone = [next(item for item in row["differences"] if item["name"] == "50 thousand/ha") for row in result["alone"]]
    assert low["estimate"]["value"] == pytest.approx(sum(item["estimate"]["value"] for item in alone) / 3, rel=1e-6)
    width = [item["upper"]["value"] - item["lower"]["value"] for item in alone]
    assert low["upper"]["value"] - low["lower"]["value"] < min(width)


@pytest.mark.parametrize(("series", "words"), [("", "belongs to no series"), ("Alone", "Only one trial")])
def test_one_year_is_no_series(lead: Api, workspace: Workspace, series: str, words: str) -> None:
    trial = years(lead, workspace, 1, series)[0]
    assert words in lead.ok("get", f"/trials/{trial['id']}/series")["problem"]


def test_a_split_plot_is_not_combined_as_blocks(lead: Api, split: Place, workspace: Workspace) -> None:
    laid(lead, split, "split_plot")
    fresh = lead.ok("get", f"/trials/{split['id']}")
    lead.ok("patch", f"/trials/{split['id']}", {"version": fresh["version"], "series": "Tillage"})
    other = ladder(lead, workspace, BENT, series="tillage")
    assert "error of their own" in lead.ok("get", f"/trials/{other['id']}/series")["problem"]


def test_the_same_strips_again_are_judged_by_their_totals(lead: Api, workspace: Workspace) -> None:
    """Two years on one layout: the difference is that of sums, with the degrees of freedom of one trial."""
    field = field_with_boundary(lead, workspace)
    for year in range(2):
        nets = {key: value + 10 * year for key, value in BENT.items()}
        trial = ladder(lead, workspace, nets, series="Same", field_id=field["id"])
    result = lead.ok("get", f"/trials/{trial['id']}/series")
    assert result["problem"] == ""
    assert result["sentence"].startswith("In all of 2 years on the same strips")
    assert "no site-years and no replicates" in result["remarks"][0]
    assert result["without"] == []
    low = next(row for row in result["combined"] if row["name"] == "50 thousand/ha")
    alone = [next(item for item in row["differences"] if item["name"] == "50 thousand/ha") for row in result["alone"]]
    assert low["estimate"]["value"] == pytest.approx(sum(item["estimate"]["value"] for item in alone))


def test_a_series_that_repeats_some_strips_only_is_refused(lead: Api, workspace: Workspace) -> None:
    field = field_with_boundary(lead, workspace)
    for _ in range(2):
        trial = ladder(lead, workspace, BENT, series="Mixed", field_id=field["id"])
    ladder(lead, workspace, BENT, series="Mixed")
    assert "series of their own" in lead.ok("get", f"/trials/{trial['id']}/series")["problem"]


def test_a_series_stays_inside_its_workspace(lead: Api, workspace: Workspace) -> None:
    mine = years(lead, workspace, 2)
    elsewhere = Workspace.objects.create(name="Elsewhere")
    from apps.trials.models import Trial

    stranger = Trial.objects.get(id=mine[1]["id"])
    stranger.workspace = elsewhere
    stranger.save()
    assert "Only one trial" in lead.ok("get", f"/trials/{mine[0]['id']}/series")["problem"]


def test_a_year_is_added_with_everything_asked_and_nothing_grown(lead: Api, split: Place) -> None:
    """Factors, levels, costs, control and money come along; layout, protocol and records do not."""
    laid(lead, split, "split_plot")
    new = lead.ok("post", f"/trials/{split['id']}/next-year")
    old = lead.ok("get", f"/trials/{split['id']}")
    assert old["series"] == new["series"] == "Tillage and rate"
    assert (new["season"], new["title"]) == (2028, "Tillage and rate 2028")
    assert new["strips"] == []

    def told(trial: Place) -> list[tuple[list[str], bool, Any]]:
        return [
            ([own["text"] for own in item["levels"]], item["is_control"], item["costs_more"]) for item in trial["treatments"]
        ]

    assert told(new) == told(old)
    assert new["question"] == old["question"]
    assert lead.ok("post", f"/trials/{split['id']}/next-year")["season"] == 2029, "it follows the latest of the series"


def test_a_year_added_keeps_named_series_and_rates_by_weight(lead: Api, workspace: Workspace) -> None:
    trial = ladder(lead, workspace, BENT, series="Old name")
    new = lead.ok("post", f"/trials/{trial['id']}/next-year")
    assert (new["series"], new["title"]) == ("Old name", "Rates 2027")
    assert [item["levels"][0]["text"] for item in new["treatments"]] == ["50", "60", "70", "80", "90", "100"]


def test_a_series_with_an_alternating_year_calls_nothing(lead: Api, workspace: Workspace) -> None:
    trials = years(lead, workspace, 2)
    from apps.trials.models import Trial

    Trial.objects.filter(id=trials[1]["id"]).update(design="systematic")
    result = lead.ok("get", f"/trials/{trials[0]['id']}/series")
    assert {row["call"] for row in result["combined"]} == {None}
    assert "alternates without a draw" in " ".join(result["remarks"])
    assert "no call" in result["sentence"]
