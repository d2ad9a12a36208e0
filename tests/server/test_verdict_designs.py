"""Verdicts of every layout through the API: the model from the layout, calls by factor, curves, series."""

from __future__ import annotations

from typing import Any

import pytest
from apps.accounts.models import Workspace
from cultrix_core.stats.factor_comparison import FactorStrip, compare_factors

from tests.server.conftest import Api, harvest_all, load_body, record_count, typed
from tests.server.test_designs import draw

Place = dict[str, Any]
FLAT = {"A": 1500, "B": 1560, "C": 1565, "D": 1470, "E": 1555, "F": 1570}
TORN = {"A": 1500, "B": 1560, "C": 1700, "D": 1470, "E": 1555, "F": 1400}


def verdict(api: Api, trial: Place) -> Place:
    return api.ok("get", f"/trials/{trial['id']}/verdict")


def laid(api: Api, trial: Place, design: str, nets: dict[str, int] | None = None, spread: int = 9, **more: Any) -> Place:
    drawn = draw(api, trial, design=design, strip_width=typed("3", "m"), **more)
    harvest_all(api, drawn, nets or FLAT, spread)
    return drawn


LAYOUTS = [
    ("rcbd", "Blocks are taken out", "least squares"),
    ("augmented", "Blocks are taken out", "least squares"),
    ("crd", "Nothing is taken out", "least squares"),
    ("latin", "Rows and columns", "least squares"),
    ("split_plot", "error of their own (block:Tillage)", "Kenward and Roger"),
    ("strip_plot", "cross; each has an error of its own", "Kenward and Roger"),
]


@pytest.mark.parametrize(("design", "words", "fitted"), LAYOUTS)
def test_the_model_follows_from_the_layout(lead: Api, split: Place, design: str, words: str, fitted: str) -> None:
    laid(lead, split, design)
    found = verdict(lead, split)
    assert found["state"] == "judged", found["problem"]
    analysis = found["yield_"]
    assert analysis["factored"]
    assert words in analysis["method"]
    assert fitted in analysis["method"]
    assert "Tillage + Seeding rate + Tillage:Seeding rate" in analysis["formula"]
    assert {row["source"] for row in analysis["anova"]} >= {"Tillage", "Seeding rate", "Tillage:Seeding rate"}
    assert analysis["residuals"]
    for row in analysis["differences"]:
        assert row["factor"] in ("Tillage", "Seeding rate")
        assert row["call"] in ("gain", "loss", "no_difference_that_matters", "cannot_tell_yet")
        assert row["lower"]["value"] < row["estimate"]["value"] < row["upper"]["value"]
        assert row["working"]["steps"][0]["numbers"]


def test_numbers_of_a_split_plot_are_the_cores(lead: Api, split: Place) -> None:
    drawn = laid(lead, split, "split_plot")
    got = verdict(lead, split)["yield_"]
    fresh = lead.ok("get", f"/trials/{drawn['id']}")
    names = {one["id"]: [level["text"] for level in one["levels"]] for one in fresh["treatments"]}
    rows = []
    for strip in fresh["strips"]:
        tillage, rate = names[strip["received_id"]]
        levels = {"Tillage": tillage, "Seeding rate": rate}
        rows.append(FactorStrip(response=strip["yield_"]["value"], levels=levels, planned=levels, block=str(strip["block"])))
    wanted = compare_factors(
        rows,
        layout="split_plot",
        factors=["Tillage", "Seeding rate"],
        alpha=0.10,
        control={"Tillage": "Plough", "Seeding rate": "80"},
        levels={"Tillage": ["Plough", "Strip till"], "Seeding rate": ["70", "80", "90"]},
    )
    assert len(got["differences"]) == len(wanted.differences) >= 3
    for mine, one in zip(got["differences"], wanted.differences, strict=True):
        assert mine["estimate"]["value"] == pytest.approx(one.estimate, rel=1e-6)
        assert mine["lower"]["value"] == pytest.approx(one.lower, rel=1e-4)
        assert mine["p"] == f"{one.p:.4f}" or one.p < 0.0001
    assert [row["den_df"] for row in got["anova"]] == [f"{line.den_df:.1f}" for line in wanted.anova]
    if wanted.strata:
        assert [row["df"] for row in got["strata"]] == [row.df for row in wanted.strata]


def test_margins_of_levels_are_the_costs_averaged_over_the_other_factor(lead: Api, split: Place) -> None:
    """Strip till saves 40 whatever the rate: 40 ÷ 180 t/ha; ten thousand seeds more cost 20 whatever the tillage."""
    laid(lead, split, "split_plot")
    by_name = {(row["factor"], row["name"]): row for row in verdict(lead, split)["yield_"]["differences"]}
    assert by_name["Tillage", "Strip till"]["margin"]["value"] == pytest.approx(40 / 180)
    assert by_name["Seeding rate", "90 thousand/ha"]["margin"]["value"] == pytest.approx(20 / 180)


def test_an_interaction_is_said_first_and_moves_the_comparisons_inside(lead: Api, split: Place) -> None:
    laid(lead, split, "split_plot", TORN)
    analysis = verdict(lead, split)["yield_"]
    one = analysis["interactions"][0]
    assert one["matters"]
    assert "depends on" in one["words"]
    assert len(one["lines"]) == 3
    assert len(one["lines"][0]["points"]) == 2
    tillage = [row for row in analysis["differences"] if row["factor"] == "Tillage"]
    assert {row["within"] for row in tillage} == {"70 thousand/ha", "80 thousand/ha", "90 thousand/ha"}
    assert all(f"at {row['within']}" in row["sentence"] for row in tillage)
    torn = next(table for table in analysis["tables"] if table["title"].startswith("Tillage"))
    assert "read the means of the combinations" in torn["note"]
    assert all(row["letters"] is None for row in torn["rows"])


def test_without_an_interaction_levels_are_compared_over_the_other_factor(lead: Api, split: Place) -> None:
    laid(lead, split, "split_plot", spread=60)
    found = verdict(lead, split)
    assert "not proof" in found["yield_"]["interactions"][0]["words"]
    assert {row["within"] for row in found["yield_"]["differences"]} == {""}
    assert "Tillage: " in found["headline"]
    assert found["headline"].startswith("Seeding rate: against 80 thousand/ha: "), "what is settled comes first"
    assert found["net_return"]["differences"]
    assert "In money" in found["money"]


def test_a_strip_of_a_split_plot_sown_otherwise_shows_all_ways(lead: Api, split: Place) -> None:
    drawn = draw(lead, split)
    strip = drawn["strips"][0]
    other = next(one for one in drawn["treatments"] if one["id"] != strip["treatment_id"])
    lead.ok("patch", f"/strips/{strip['id']}", {"lost": False, "sown_treatment_id": other["id"], "reason": "wrong hopper"})
    harvest_all(lead, lead.ok("get", f"/trials/{split['id']}"), FLAT, 9)
    found = verdict(lead, split)
    assert found["state"] == "judged", found["problem"]
    labels = [one["label"] for one in found["alternates"]]
    assert labels[:2] == ["as planned, the deviation ignored", "the strips sown otherwise left out"]
    assert all("against" in line for one in found["alternates"] for line in one["lines"])


@pytest.mark.parametrize("design", ["split_plot", "rcbd"])
def test_a_combination_lost_everywhere(lead: Api, split: Place, design: str) -> None:
    """In a split-plot it is refused with the reason; in blocks the combinations that stand are compared as treatments."""
    drawn = draw(lead, split, design=design, strip_width=typed("3", "m"))
    gone = next(one["id"] for one in drawn["treatments"] if one["letter"] == "F")
    for strip in drawn["strips"]:
        if strip["treatment_id"] == gone:
            lead.ok("patch", f"/strips/{strip['id']}", {"lost": True, "sown_treatment_id": None, "reason": "hail"})
    harvest_all(lead, lead.ok("get", f"/trials/{split['id']}"), FLAT, 9)
    found = verdict(lead, split)
    if design == "split_plot":
        assert found["state"] == "none"
        assert "A strip of Strip till with 90 thousand/ha is missing" in found["problem"]
    else:
        assert found["state"] == "judged"
        assert not found["yield_"]["factored"]


def test_no_control_compares_all_pairs(lead: Api, trial: Place) -> None:
    rows = [
        {"id": one["id"], "levels": [{"text": one["levels"][0]["text"], "unit": one["levels"][0]["unit"]}], "is_control": False}
        for one in trial["treatments"]
    ]
    fresh = lead.ok(
        "put",
        f"/trials/{trial['id']}/treatments",
        {"version": trial["version"], "factors": [{"kind": "row_spacing"}], "treatments": rows},
    )
    harvest_all(lead, fresh, {"A": 1260, "B": 1140, "C": 1130})
    found = verdict(lead, trial)
    assert len(found["yield_"]["differences"]) == 3
    assert "More yield from A (12.5 cm) over B (18 cm)" in found["headline"]
    assert found["money"] == "The money is not reckoned: no control is named."
    steps = found["yield_"]["differences"][0]["working"]["steps"]
    assert any("Tukey" in step["source"] for step in steps)


def test_an_alternating_order_needs_both_analyses_to_agree(lead: Api, trial: Place) -> None:
    """A drift that leans on the order is a gain in blocks and none once the drift is taken out: cannot tell yet."""
    body = {
        "version": trial["version"],
        "design": "systematic",
        "blocks": 6,
        "strip_width": typed("6", "m"),
        "strip_length": typed("300", "m"),
    }
    laid_out = lead.ok("post", f"/trials/{trial['id']}/layout", body)
    rows = [
        load_body(strip, str(1000 + 25 * place + (7 * place) % 5), id=f"00000000-0000-4000-8000-{place:012d}")
        for place, strip in enumerate(laid_out["strips"])
    ]
    lead.ok("post", f"/trials/{trial['id']}/harvest-sheet", {"rows": rows})
    found = verdict(lead, trial)
    told = [row for row in found["yield_"]["differences"] if "With a drift along the field" in row["sentence"]]
    assert told
    assert all(row["call"] == "cannot_tell_yet" for row in told)
    assert any("only where the analysis in blocks" in one for one in found["remarks"])


def test_second_looks_are_words_that_make_no_call(lead: Api, trial: Place) -> None:
    harvest_all(lead, trial, {"A": 1260, "B": 1140, "C": 1130})
    looks = verdict(lead, trial)["yield_"]["second_looks"]
    assert looks[0].startswith("Friedman.")
    assert looks[1].startswith("On logarithms, turned back: A yields 1")
    assert looks[-1] == "A second look never makes the call."


def ladder(api: Api, workspace: Workspace, nets: dict[str, int], **more: Any) -> Place:
    made = api.ok("post", f"/workspaces/{workspace.id}/trials", {"title": "Rates", "crop": "maize", "season": 2026})
    made = api.ok(
        "patch",
        f"/trials/{made['id']}",
        {
            "version": made["version"],
            "price": typed("200", "money/t"),
            "unit_cost": typed("20", "money/t"),
            "row_spacing": typed("75", "cm"),
            "bag_price": typed("100", "money"),
            "bag_seeds": typed("50000"),
        }
        | more,
    )
    treatments = [{"levels": [typed(str(rate), "k/ha")], "is_control": rate == 80} for rate in (50, 60, 70, 80, 90, 100)]
    made = api.ok(
        "put",
        f"/trials/{made['id']}/treatments",
        {"version": made["version"], "factors": [{"kind": "seeding_rate"}], "treatments": treatments},
    )
    made = api.ok(
        "post",
        f"/trials/{made['id']}/layout",
        {
            "version": made["version"],
            "design": "rcbd",
            "blocks": 4,
            "strip_width": typed("6", "m"),
            "strip_length": typed("300", "m"),
            "seed": 3,
        },
    )
    harvest_all(api, made, nets, 6)
    return made


BENT = {"A": 1400, "B": 1560, "C": 1640, "D": 1650, "E": 1640, "F": 1590}


def test_a_ladder_has_its_best_rate_for_yield_and_for_money(lead: Api, workspace: Workspace) -> None:
    trial = ladder(lead, workspace, BENT)
    found = lead.ok("get", f"/trials/{trial['id']}/response-curves")
    assert found["problem"] == ""
    assert (found["factor"], found["x_unit"]) == ("Seeding rate", "thousand/ha")
    curve = found["curves"][0]
    assert 70 < curve["optimum"]["x"] < 95
    assert curve["profit"]["x"] < curve["optimum"]["x"], "seed costs, so the best return lies below the best yield"
    assert curve["optimum"]["lower"] < curve["optimum"]["x"]
    assert [shape["chosen"] for shape in curve["shapes"]].count(True) == 1
    assert "costs €2.00/ha" in found["money"] or "costs" in found["money"]
    assert len(found["points"]) == 24
    for point in curve["band"]:
        assert point["lower"] < point["y"] < point["upper"]
    polynomials = verdict(lead, trial)["yield_"]["polynomials"][0]
    assert "quadratic" in polynomials["words"]


def test_a_curve_speaks_the_readers_units(lead: Api, workspace: Workspace) -> None:
    trial = ladder(lead, workspace, BENT)
    metric = lead.ok("get", f"/trials/{trial['id']}/response-curves")["curves"][0]["optimum"]["x"]
    lead.ok("patch", "/session", {"unit_system": "us"})
    us = lead.ok("get", f"/trials/{trial['id']}/response-curves")
    assert us["x_unit"] == "/ac"
    assert us["curves"][0]["optimum"]["x"] == pytest.approx(1000 * metric / 2.47105, rel=1e-4)


def test_a_response_that_still_rises_has_no_best_rate(lead: Api, workspace: Workspace) -> None:
    trial = ladder(lead, workspace, {letter: 1300 + 60 * place for place, letter in enumerate("ABCDEF")})
    curve = lead.ok("get", f"/trials/{trial['id']}/response-curves")["curves"][0]
    assert curve["optimum"]["x"] is None
    assert "as far as these data go" in curve["optimum"]["text"]


def test_curves_by_tillage_are_told_to_differ_or_not(lead: Api, split: Place) -> None:
    laid(lead, split, "split_plot", TORN)
    found = lead.ok("get", f"/trials/{split['id']}/response-curves")
    assert [one["level"] for one in found["curves"]] == ["", "Plough", "Strip till"]
    assert found["differ"].startswith("The curves differ")
    assert {point["group"] for point in found["points"]} == {"Plough", "Strip till"}


def test_widths_without_a_ladder_have_no_curve(lead: Api, workspace: Workspace) -> None:
    made = lead.ok("post", f"/workspaces/{workspace.id}/trials", {"title": "Two", "crop": "maize", "season": 2026})
    assert "three levels" in lead.ok("get", f"/trials/{made['id']}/response-curves")["problem"]


def explained(api: Api, trial: Place) -> Place:
    return api.ok("get", f"/trials/{trial['id']}/explanation")


def test_the_stand_explains_and_its_parts_multiply(lead: Api, trial: Place) -> None:
    """Counts that rise with the yield inside treatments: the parts multiply to the whole, the caution stands above."""
    harvest_all(lead, trial, {"A": 1260, "B": 1140, "C": 1130})
    fresh = lead.ok("get", f"/trials/{trial['id']}")
    for place, strip in enumerate(fresh["strips"]):
        plants = round(20 * strip["yield_"]["value"] + (place * 7) % 5)
        record_count(lead, trial, place, str(plants))
    found = explained(lead, trial)
    assert found["problem"] == ""
    assert "does not adjust" in found["caution"]
    by = found["by"][0]
    assert by["title"] == "By the stand"
    whole, plants, per = ([share["ratio"] / 100 for share in part["shares"]] for part in by["parts"])
    for one, other, rest in zip(whole, plants, per, strict=True):
        assert one == pytest.approx(other * rest)
    path = by["paths"][0]
    assert path["total"]["value"] == pytest.approx(path["through"]["value"] + path["beside"]["value"])
    assert "runs through plants per area" in path["sentence"]


def test_nothing_counted_explains_nothing(lead: Api, trial: Place) -> None:
    harvest_all(lead, trial, {"A": 1260, "B": 1140, "C": 1130})
    assert "nothing to explain" in explained(lead, trial)["problem"]


def test_a_split_layout_is_not_explained_as_blocks(lead: Api, split: Place) -> None:
    laid(lead, split, "split_plot")
    assert "every size of strip" in explained(lead, split)["problem"]


def test_an_alternating_factorial_needs_both_analyses_too(lead: Api, split: Place) -> None:
    """A steep drift leans on the order of levels; taken out in the place of blocks it makes other calls, so none is made."""
    drawn = draw(lead, split, design="systematic", strip_width=typed("3", "m"))
    rows = [
        load_body(
            strip,
            str(1500 + 12 * place + (11 * place) % 7),
            id=f"00000000-0000-4000-8000-{place:012d}",
            length=typed("300", "m"),
        )
        for place, strip in enumerate(drawn["strips"])
    ]
    lead.ok("post", f"/trials/{split['id']}/harvest-sheet", {"rows": rows})
    found = verdict(lead, split)
    assert found["yield_"]["factored"]
    told = [row for row in found["yield_"]["differences"] if "With a drift along the field" in row["sentence"]]
    assert told
    assert all(row["call"] == "cannot_tell_yet" for row in told)


def test_ways_beside_an_alternating_order_need_both_analyses_as_well(lead: Api, trial: Place) -> None:
    """A strip sown otherwise: as planned and without it are judged as strictly as the verdict itself."""
    body = {
        "version": trial["version"],
        "design": "systematic",
        "blocks": 6,
        "strip_width": typed("6", "m"),
        "strip_length": typed("300", "m"),
    }
    laid_out = lead.ok("post", f"/trials/{trial['id']}/layout", body)
    other = next(one for one in laid_out["treatments"] if one["id"] != laid_out["strips"][9]["treatment_id"])
    note = {"lost": False, "sown_treatment_id": other["id"], "reason": "wrong hopper"}
    lead.ok("patch", f"/strips/{laid_out['strips'][9]['id']}", note)
    rows = [
        load_body(strip, str(1000 + 25 * place + (7 * place) % 5), id=f"00000000-0000-4000-8000-{place:012d}")
        for place, strip in enumerate(laid_out["strips"])
    ]
    lead.ok("post", f"/trials/{trial['id']}/harvest-sheet", {"rows": rows})
    found = verdict(lead, trial)
    planned = next(one for one in found["alternates"] if one["label"].startswith("as planned"))
    assert planned["lines"]
    assert all("cannot tell yet" in line or "no difference" in line for line in planned["lines"])
