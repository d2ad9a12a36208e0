"""Verdicts of every layout through the API: the model from the layout, calls by factor, curves, series."""

from __future__ import annotations

import re
from dataclasses import replace
from typing import Any

import pytest
from apps.accounts.models import Workspace
from cultrix_core.stats.factor_comparison import FactorComparison, FactorStrip, compare_factors

from tests.server.conftest import Api, harvest_all, load_body, record_count, typed
from tests.server.test_designs import draw

Place = dict[str, Any]
FLAT = {"A": 1500, "B": 1560, "C": 1565, "D": 1470, "E": 1555, "F": 1570}
TURNED = {"A": 1500, "B": 1560, "C": 1700, "D": 1800, "E": 1555, "F": 1400}
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
    result = verdict(lead, split)
    assert result["state"] == "judged", result["problem"]
    analysis = result["yield_"]
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
    names = {item["id"]: [level["text"] for level in item["levels"]] for item in fresh["treatments"]}
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
    for mine, cell_difference in zip(got["differences"], wanted.differences, strict=True):
        assert mine["estimate"]["value"] == pytest.approx(cell_difference.estimate, rel=1e-6)
        assert mine["lower"]["value"] == pytest.approx(cell_difference.lower, rel=1e-4)
        assert mine["p"] == f"{cell_difference.p:.4f}" or cell_difference.p < 0.0001
    assert [row["den_df"] for row in got["anova"]] == [f"{line.den_df:.1f}" for line in wanted.anova]
    if wanted.strata:
        assert [row["df"] for row in got["strata"]] == [row.df for row in wanted.strata]


def test_break_evens_of_levels_are_the_costs_averaged_over_the_other_factor(lead: Api, split: Place) -> None:
    """Strip till saves 40 whatever the rate: −40 ÷ 180 t/ha; ten thousand seeds more cost 20 whatever the tillage.

    The margin is the practical one: 2 % of the expected 10 t/ha where none is stated (common practice, no source).
    """
    laid(lead, split, "split_plot")
    by_name = {(row["factor"], row["name"]): row for row in verdict(lead, split)["yield_"]["differences"]}
    assert by_name["Tillage", "Strip till"]["break_even"]["value"] == pytest.approx(-40 / 180)
    assert by_name["Seeding rate", "90 thousand/ha"]["break_even"]["value"] == pytest.approx(20 / 180)
    assert [row["margin"]["value"] for row in by_name.values()] == pytest.approx([0.2] * len(by_name))


def test_an_effect_that_turns_moves_the_comparisons_inside(lead: Api, split: Place) -> None:
    laid(lead, split, "split_plot", TURNED)
    result = verdict(lead, split)
    analysis = result["yield_"]
    item = analysis["interactions"][0]
    assert item["matters"]
    assert "turns" in item["words"]
    assert len(item["lines"]) == 3
    assert len(item["lines"][0]["points"]) == 2
    tillage = [row for row in analysis["differences"] if row["factor"] == "Tillage"]
    assert {row["within"] for row in tillage} == {"70 thousand/ha", "80 thousand/ha", "90 thousand/ha"}
    assert all(f"at {row['within']}" in row["sentence"] for row in tillage)
    assert "Tillage at 70 thousand/ha: Strip till gains" in result["headline"]
    assert "Tillage at 90 thousand/ha: Strip till loses" in result["headline"]
    torn = next(table for table in analysis["tables"] if table["title"].startswith("Tillage"))
    assert "read the means of the combinations" in torn["note"]
    assert all(row["letters"] is None for row in torn["rows"])


def test_an_effect_that_keeps_its_direction_is_called_once_with_its_sizes(lead: Api, split: Place) -> None:
    laid(lead, split, "split_plot", TORN)
    result = verdict(lead, split)
    assert "Seeding rate turns" in result["yield_"]["interactions"][0]["words"]
    tillage = [row for row in result["yield_"]["differences"] if row["factor"] == "Tillage"]
    assert [row["within"] for row in tillage] == [""]
    assert "in one direction" in result["headline"]
    assert "Best combination by the model: Plough with 90 thousand/ha" in result["headline"]


def test_without_an_interaction_levels_are_compared_over_the_other_factor(lead: Api, split: Place) -> None:
    laid(lead, split, "split_plot", spread=60)
    result = verdict(lead, split)
    assert "not proof" in result["yield_"]["interactions"][0]["words"]
    assert {row["within"] for row in result["yield_"]["differences"]} == {""}
    assert "Tillage: " in result["headline"]
    assert result["headline"].startswith("Seeding rate: 70 thousand/ha loses "), "what is settled comes first"
    assert result["net_return"]["differences"]
    assert "In money" in result["money"]


def test_a_strip_of_a_split_plot_sown_otherwise_shows_all_ways(lead: Api, split: Place) -> None:
    drawn = draw(lead, split)
    strip = drawn["strips"][0]
    other = next(item for item in drawn["treatments"] if item["id"] != strip["treatment_id"])
    lead.ok("patch", f"/strips/{strip['id']}", {"lost": False, "sown_treatment_id": other["id"], "reason": "wrong hopper"})
    harvest_all(lead, lead.ok("get", f"/trials/{split['id']}"), FLAT, 9)
    result = verdict(lead, split)
    assert result["state"] == "judged", result["problem"]
    labels = [item["label"] for item in result["alternates"]]
    assert labels[:2] == ["as planned, the deviation ignored", "the strips sown otherwise left out"]
    assert all("against" in line for item in result["alternates"] for line in item["lines"])


@pytest.mark.parametrize("design", ["split_plot", "rcbd"])
def test_a_combination_lost_everywhere(lead: Api, split: Place, design: str) -> None:
    """Both layouts are judged by the additive model, and say which combination is missing."""
    drawn = draw(lead, split, design=design, strip_width=typed("3", "m"))
    gone = next(item["id"] for item in drawn["treatments"] if item["letter"] == "F")
    for strip in drawn["strips"]:
        if strip["treatment_id"] == gone:
            lead.ok("patch", f"/strips/{strip['id']}", {"lost": True, "sown_treatment_id": None, "reason": "hail"})
    harvest_all(lead, lead.ok("get", f"/trials/{split['id']}"), FLAT, 9)
    result = verdict(lead, split)
    assert result["state"] == "judged"
    assert result["yield_"]["factored"]
    assert result["yield_"]["interactions"] == []
    assert any("No strip of Strip till with 90 thousand/ha" in warning for warning in result["yield_"]["warnings"])
    assert {item["letter"] for item in result["yield_"]["means"]} == set("ABCDEF")


def test_no_control_compares_all_pairs(lead: Api, trial: Place) -> None:
    rows = [
        {
            "id": item["id"],
            "levels": [{"text": item["levels"][0]["text"], "unit": item["levels"][0]["unit"]}],
            "is_control": False,
        }
        for item in trial["treatments"]
    ]
    fresh = lead.ok(
        "put",
        f"/trials/{trial['id']}/treatments",
        {"version": trial["version"], "factors": [{"kind": "row_spacing"}], "treatments": rows},
    )
    harvest_all(lead, fresh, {"A": 1260, "B": 1140, "C": 1130})
    result = verdict(lead, trial)
    assert len(result["yield_"]["differences"]) == 3
    assert "More yield from A (12.5 cm) over B (18 cm)" in result["headline"]
    assert result["money"] == "The money is not reckoned: no control is named."
    steps = result["yield_"]["differences"][0]["working"]["steps"]
    assert any("Tukey" in step["source"] for step in steps)


def test_an_alternating_order_needs_both_analyses_to_agree(lead: Api, trial: Place) -> None:
    """A drift that leans on the order is a gain in blocks and none once the drift is taken out: not clear yet."""
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
    result = verdict(lead, trial)
    told = [row for row in result["yield_"]["differences"] if "With a drift along the field" in row["sentence"]]
    assert told
    assert all(row["call"] == "cannot_tell_yet" for row in told)
    assert any("only where the analysis in blocks" in item for item in result["remarks"])


def test_second_looks_are_words_that_make_no_call(lead: Api, trial: Place) -> None:
    harvest_all(lead, trial, {"A": 1260, "B": 1140, "C": 1130})
    looks = verdict(lead, trial)["yield_"]["second_looks"]
    assert looks[0].startswith("Friedman.")
    assert looks[1].startswith("On logarithms, turned back: A yields 1")
    assert any(words.startswith("Were strips like their neighbours (AR(1), correlation ") for words in looks)
    smooth = next(words for words in looks if words.startswith("With a smooth trend along the strips"))
    assert "against C: A +" in smooth
    assert looks[-1] == "A second look never makes the call."


def ladder(api: Api, workspace: Workspace, nets: dict[str, int], **more: Any) -> Place:
    result = api.ok("post", f"/workspaces/{workspace.id}/trials", {"title": "Rates", "crop": "maize", "season": 2026})
    result = api.ok(
        "patch",
        f"/trials/{result['id']}",
        {
            "version": result["version"],
            "price": typed("200", "money/t"),
            "unit_cost": typed("20", "money/t"),
            "row_spacing": typed("75", "cm"),
            "bag_price": typed("100", "money"),
            "bag_seeds": typed("50000"),
        }
        | more,
    )
    treatments = [{"levels": [typed(str(rate), "k/ha")], "is_control": rate == 80} for rate in (50, 60, 70, 80, 90, 100)]
    result = api.ok(
        "put",
        f"/trials/{result['id']}/treatments",
        {"version": result["version"], "factors": [{"kind": "seeding_rate"}], "treatments": treatments},
    )
    result = api.ok(
        "post",
        f"/trials/{result['id']}/layout",
        {
            "version": result["version"],
            "design": "rcbd",
            "blocks": 4,
            "strip_width": typed("6", "m"),
            "strip_length": typed("300", "m"),
            "seed": 3,
        },
    )
    harvest_all(api, result, nets, 6)
    return result


BENT = {"A": 1400, "B": 1560, "C": 1640, "D": 1650, "E": 1640, "F": 1590}


def test_a_ladder_has_its_best_rate_for_yield_and_for_money(lead: Api, workspace: Workspace) -> None:
    trial = ladder(lead, workspace, BENT)
    result = lead.ok("get", f"/trials/{trial['id']}/response-curves")
    assert result["problem"] == ""
    assert (result["factor"], result["x_unit"]) == ("Seeding rate", "thousand/ha")
    curve, averaged = result["curves"][0], result["averaged"][0]
    most = max(averaged["band"], key=lambda point: point["y"])["x"]
    assert 70 < most < 95
    assert averaged["best"] < most, "seed costs, so the best return lies below the best yield"
    assert averaged["estimated"][0] < averaged["best"] < averaged["estimated"][1]
    assert [shape["chosen"] for shape in curve["shapes"]].count(True) == 1
    assert "costs €2.00/ha" in result["money"] or "costs" in result["money"]
    assert len(result["points"]) == 24
    for point in averaged["band"]:
        assert point["lower"] < point["y"] < point["upper"]
    polynomials = verdict(lead, trial)["yield_"]["polynomials"][0]
    assert "quadratic" in polynomials["words"]


def test_a_curve_speaks_the_readers_units(lead: Api, workspace: Workspace) -> None:
    trial = ladder(lead, workspace, BENT)
    metric = lead.ok("get", f"/trials/{trial['id']}/response-curves")["averaged"][0]["best"]
    lead.ok("patch", "/session", {"unit_system": "us"})
    us = lead.ok("get", f"/trials/{trial['id']}/response-curves")
    assert us["x_unit"] == "/ac"
    assert us["averaged"][0]["best"] == pytest.approx(1000 * metric / 2.47105, rel=1e-4)


def test_the_averaged_curve_answers_beside_the_farms_own_rate(lead: Api, workspace: Workspace) -> None:
    """Does it matter, which rate, how flat: what the core answers, in three sentences."""
    trial = ladder(lead, workspace, BENT)
    result = lead.ok("get", f"/trials/{trial['id']}/response-curves")
    matters, best, *flat = result["answer"]
    assert matters.startswith("Seeding rate matters (p ")
    assert best.startswith(("The best return is at ", "The highest yield is at "))
    assert "90 % interval" in best
    assert all("within" in sentence and "of the best" in sentence for sentence in flat)


def test_a_response_that_still_rises_has_no_best_rate(lead: Api, workspace: Workspace) -> None:
    trial = ladder(lead, workspace, {letter: 1300 + 60 * place for place, letter in enumerate("ABCDEF")})
    answer = lead.ok("get", f"/trials/{trial['id']}/response-curves")["answer"]
    assert re.search(r"(is at|at or beyond) 100\.0 thousand/ha.* to 100\.0\)?", answer[1]), "the end of what was tried"


def test_curves_by_tillage_are_told_to_differ_or_not(lead: Api, split: Place) -> None:
    laid(lead, split, "split_plot", TORN)
    result = lead.ok("get", f"/trials/{split['id']}/response-curves")
    assert [item["level"] for item in result["curves"]] == ["", "Plough", "Strip till"]
    assert result["differ"].startswith("The curves differ")
    assert {point["group"] for point in result["points"]} == {"Plough", "Strip till"}


def test_widths_without_a_ladder_have_no_curve(lead: Api, workspace: Workspace) -> None:
    result = lead.ok("post", f"/workspaces/{workspace.id}/trials", {"title": "Two", "crop": "maize", "season": 2026})
    assert "three levels" in lead.ok("get", f"/trials/{result['id']}/response-curves")["problem"]


def explained(api: Api, trial: Place) -> Place:
    return api.ok("get", f"/trials/{trial['id']}/explanation")


def test_the_stand_explains_and_its_parts_multiply(lead: Api, trial: Place) -> None:
    """Counts that rise with the yield inside treatments: the parts multiply to the whole, the caution stands above."""
    harvest_all(lead, trial, {"A": 1260, "B": 1140, "C": 1130})
    fresh = lead.ok("get", f"/trials/{trial['id']}")
    for place, strip in enumerate(fresh["strips"]):
        plants = round(20 * strip["yield_"]["value"] + (place * 7) % 5)
        record_count(lead, trial, place, str(plants))
    result = explained(lead, trial)
    assert result["problem"] == ""
    assert "does not adjust" in result["caution"]
    by = result["by"][0]
    assert by["title"] == "By the stand"
    whole, plants, per = ([share["ratio"] / 100 for share in part["shares"]] for part in by["parts"])
    for item, other, rest in zip(whole, plants, per, strict=True):
        assert item == pytest.approx(other * rest)
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
    result = verdict(lead, split)
    assert result["yield_"]["factored"]
    told = [row for row in result["yield_"]["differences"] if "With a drift along the field" in row["sentence"]]
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
    other = next(item for item in laid_out["treatments"] if item["id"] != laid_out["strips"][9]["treatment_id"])
    note = {"lost": False, "sown_treatment_id": other["id"], "reason": "wrong hopper"}
    lead.ok("patch", f"/strips/{laid_out['strips'][9]['id']}", note)
    rows = [
        load_body(strip, str(1000 + 25 * place + (7 * place) % 5), id=f"00000000-0000-4000-8000-{place:012d}")
        for place, strip in enumerate(laid_out["strips"])
    ]
    lead.ok("post", f"/trials/{trial['id']}/harvest-sheet", {"rows": rows})
    result = verdict(lead, trial)
    planned = next(item for item in result["alternates"] if item["label"].startswith("as planned"))
    assert planned["lines"]
    assert all("not clear yet" in line or "no difference" in line for line in planned["lines"])


def test_opposite_effects_that_cancel_are_no_equality(lead: Api, split: Place) -> None:
    """Tillage + 0.15 at one rate and − 0.15 at another, nought on average: not called alike where the parts are not."""
    from apps.accounts.models import User
    from apps.analysis.verdict import decisions
    from apps.analysis.verdict.queries import computed
    from apps.trial_state.view import view
    from apps.trials.models import Trial

    laid(lead, split, "split_plot", {"A": 1500, "B": 1560, "C": 1700, "D": 1508, "E": 1568, "F": 1708}, spread=6)
    seen = view(User.objects.get(username="mirren"), Trial.objects.get(id=split["id"]))
    result = computed(seen).yield_
    assert isinstance(result, FactorComparison)
    wide = replace(result, reach=tuple((name, -1e9, 1e9) for name, _, _ in result.reach))
    as_it_is, torn = ([row.call for row in decisions.decisions_for(seen, told, "yield")] for told in (result, wide))
    alike = [place for place, call in enumerate(as_it_is) if call and call.name == "no_difference_that_matters"]
    assert alike, "the strips agree so well that tillage is called alike"
    assert [call.name for call in (torn[place] for place in alike) if call] == ["cannot_tell_yet"] * len(alike)


def test_a_control_outside_the_combinations_is_held_against_their_mean(lead: Api, workspace: Workspace) -> None:
    """Two factors by two levels and the farm's own way beside them: two sentences, and one against the control."""
    trial = lead.ok("post", f"/workspaces/{workspace.id}/trials", {"title": "Beside", "crop": "maize", "season": 2026})
    cells = [("Plough", "80"), ("Plough", "90"), ("Strip till", "80"), ("Strip till", "90"), ("As ever", "70")]
    trial = lead.ok(
        "put",
        f"/trials/{trial['id']}/treatments",
        {
            "version": trial["version"],
            "factors": [{"kind": "tillage"}, {"kind": "seeding_rate"}],
            "treatments": [
                {"levels": [typed(tillage), typed(rate, "k/ha")], "is_control": rate == "70"} for tillage, rate in cells
            ],
        },
    )
    size = {"strip_width": typed("6", "m"), "strip_length": typed("300", "m"), "seed": 3}
    trial = lead.ok(
        "post", f"/trials/{trial['id']}/layout", {"version": trial["version"], "design": "rcbd", "blocks": 4} | size
    )
    harvest_all(lead, trial, {"A": 1500, "B": 1560, "C": 1500, "D": 1560, "E": 1400}, 6)
    result = verdict(lead, trial)
    assert result["yield_"]["factored"]
    rows = {row["factor"]: row for row in result["yield_"]["differences"]}
    assert set(rows) == {"Tillage", "Seeding rate", "Against the control"}
    apart = rows["Against the control"]
    assert apart["call"] == "gain"
    means = {mean["letter"]: mean["mean"]["value"] for mean in result["yield_"]["means"]}
    assert set(means) == set("ABCD"), "the factors are judged without the control"
    assert "Against the control: the mean of the combinations gains" in result["headline"]
    assert re.search(r"Seeding rate: 90 thousand/ha gains", result["headline"])
    report = lead.call("get", f"/trials/{trial['id']}/report").content.decode()
    assert "the mean of the combinations" in report
