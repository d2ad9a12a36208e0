"""Factorials, split, crossed and sampled strips through the command line, against R on every reference case that has one."""

from __future__ import annotations

import csv
import itertools
import json
from pathlib import Path
from typing import Any

import pytest
from cultrix_core.cli import main
from cultrix_core.errors import Refusal
from cultrix_core.stats.nested_designs import analyse_nested, random_terms
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.references import FOLDER

# case: (response, arguments, block of results, columns of the strip where rows are samples)
CASES: dict[str, tuple[str, list[str], str]] = {
    "o07_splitplot_oats": (
        "yield",
        ["--design", "split-plot", "--main", "variety", "--sub", "nitro", "--block", "block"],
        "lmer_kr",
    ),
    "o08_splitplot_oats_missing": (
        "yield",
        ["--design", "split-plot", "--main", "variety", "--sub", "nitro", "--block", "block"],
        "lmer_kr",
    ),
    "o09_splitplot_boundary_rice": (
        "yield",
        ["--design", "split-plot", "--main", "nitro", "--sub", "gen", "--block", "rep"],
        "lmer_kr",
    ),
    "o10_stripplot_rice": ("yield", ["--design", "strip-plot", "--main", "gen", "--sub", "nitro", "--block", "rep"], "lmer_kr"),
    "o27_stripplot_rice_missing": (
        "yield",
        ["--design", "strip-plot", "--main", "gen", "--sub", "nitro", "--block", "rep"],
        "lmer_kr",
    ),
    "o11_splitsplit_wheat": (
        "yield",
        ["--design", "split-split", "--main", "gen", "--sub", "trt", "--subsub", "inoc", "--block", "block"],
        "lmer_kr",
    ),
    "o12_stripsplit_simulated": (
        "yield",
        ["--design", "strip-split", "--main", "tillage", "--sub", "spacing", "--subsub", "rate", "--block", "block"],
        "lmer_kr",
    ),
    "o32_splitplot_cake": (
        "angle",
        ["--design", "split-plot", "--main", "recipe", "--sub", "temperature", "--block", "replicate"],
        "lmer_kr",
    ),
}
FIXED_BLOCKS = ["o07_splitplot_oats", "o08_splitplot_oats_missing", "o09_splitplot_boundary_rice", "o32_splitplot_cake"]


def case(name: str) -> dict[str, Any]:
    raw: dict[str, Any] = json.loads((FOLDER / f"{name}.json").read_text())
    return raw


def write(folder: Path, raw: dict[str, Any]) -> Path:
    path = folder / "trial.csv"
    with path.open("w", newline="") as handle:
        out = csv.DictWriter(handle, fieldnames=[column["name"] for column in raw["columns"]])
        out.writeheader()
        out.writerows(raw["data"])
    return path


def answer(capsys: pytest.CaptureFixture[str], path: Path, response: str, arguments: list[str], *more: str) -> dict[str, Any]:
    assert main(["analyse", str(path), "--response", response, *arguments, "--alpha", "0.05", "--json", *more]) == 0
    result: dict[str, Any] = json.loads(capsys.readouterr().out)
    return result


def check(got: dict[str, Any], expected: dict[str, Any], tolerance: dict[str, float]) -> int:
    """Tests, means and differences of one model; the number of values compared."""
    compared = 0
    for row in expected["f_tests_type3_kenward_roger"]:
        test = next((one for one in got["anova"] if one["term"] == row["term"]), None)
        if test is None:
            continue  # blocks are no question
        assert test["num_df"] == row["num_df"]
        assert test["den_df"] == pytest.approx(row["den_df"], rel=tolerance["kr_df_rel"])
        assert test["f"] == pytest.approx(row["f"], rel=tolerance["kr_f_rel"])
        assert test["p"] == pytest.approx(row["p"], abs=tolerance["p_abs"])
        compared += 4
    for table in expected["emmeans"]:
        for row in table["rows"]:
            levels = {name: str(row[name]) for name in table["specs"]}
            mean = next(one for one in got["means"] if one["levels"] == levels)
            for key, name, rel in (("mean", "emmean", "emmean_rel"), ("se", "se", "se_rel"), ("df", "df", "kr_df_rel")):
                assert mean[key] == pytest.approx(row[name], rel=tolerance[rel]), (levels, key)
            assert (mean["lower"], mean["upper"]) == (
                pytest.approx(row["lo95"], rel=tolerance["se_rel"]),
                pytest.approx(row["hi95"], rel=tolerance["se_rel"]),
            )
            compared += 5
    for table in expected.get("pairs", []):
        if len(table["compare"]) != 1:
            continue
        name, inside = table["compare"][0], table["within"] or []
        inside = [inside] if isinstance(inside, str) else inside
        for row in table["rows"]:
            within = {other: str(row[other]) for other in inside}
            ends = {str(row["level1"]), str(row["level2"])}
            item = next(
                one
                for one in got["differences"]
                if one["factors"] == [name] and one["within"] == within and {one["left"][name], one["right"][name]} == ends
            )
            sign = 1 if item["left"][name] == str(row["level1"]) else -1
            assert sign * item["estimate"] == pytest.approx(
                row["estimate"], abs=tolerance["emmean_rel"] * max(abs(row["se"]), abs(row["estimate"]))
            )
            assert item["se"] == pytest.approx(row["se"], rel=tolerance["se_rel"])
            assert item["df"] == pytest.approx(row["df"], rel=tolerance["kr_df_rel"])
            assert item["p"] == pytest.approx(row["p"], abs=tolerance["p_abs"])
            assert item["p_adjusted"] == pytest.approx(row["p_tukey"], abs=tolerance["tukey_p_abs"])
            compared += 5
    return compared


@pytest.mark.parametrize("name", CASES)
def test_the_command_reproduces_the_mixed_model_of_r(name: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    response, arguments, key = CASES[name]
    raw = case(name)
    got = answer(capsys, write(tmp_path, raw), response, arguments, "--adjust", "tukey")
    assert check(got, raw["expected"][key], raw["suggested_tolerance"]) > 40
    for row in raw["expected"][key]["variance_components"]:
        mine = next(
            item for item in got["variance_components"] if set(item["group"].split(":")) == set(row["group"].split(":"))
        )
        total = sum(item["variance"] for item in got["variance_components"])
        assert mine["variance"] == pytest.approx(
            row["variance"], rel=raw["suggested_tolerance"]["reml_variance_rel"], abs=1e-7 * total
        )
    zero = any(item["variance"] == 0 for item in got["variance_components"])
    assert zero == any("estimated as zero" in item for item in got["warnings"])


@pytest.mark.parametrize("name", FIXED_BLOCKS)
def test_blocks_may_be_fixed_there_too(name: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    response, arguments, _ = CASES[name]
    raw = case(name)
    got = answer(capsys, write(tmp_path, raw), response, arguments, "--adjust", "tukey", "--blocks", "fixed")
    assert check(got, raw["expected"]["lmer_kr_blocks_fixed"], raw["suggested_tolerance"]) > 40


@pytest.mark.parametrize("name", [name for name in CASES if "missing" not in name])
def test_balanced_data_show_the_classical_strata(name: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    response, arguments, _ = CASES[name]
    raw = case(name)
    got = answer(capsys, write(tmp_path, raw), response, arguments)["strata"]
    compared = 0
    for stratum in raw["expected"]["aov_strata"]:
        names = set(stratum["stratum"].split(":"))
        own = [
            row
            for row in got
            if set(row["stratum"].split(":")) == names or (stratum["stratum"] == "Within" and row["stratum"] == "Residual")
        ]
        for row in stratum["rows"]:
            mine = next(item for item in own if set(item["source"].split(":")) == set(row["source"].split(":")))
            assert mine["df"] == row["df"]
            assert (mine["ss"], mine["ms"]) == (pytest.approx(row["ss"], rel=1e-8), pytest.approx(row["ms"], rel=1e-8))
            if row["f"] is not None:
                assert (mine["f"], mine["p"]) == (pytest.approx(row["f"], rel=1e-8), pytest.approx(row["p"], abs=1e-8))
            compared += 1
    assert compared >= 4


@pytest.mark.parametrize("name", [name for name in CASES if "missing" in name])
def test_strata_are_not_shown_where_strips_are_missing(name: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    response, arguments, _ = CASES[name]
    assert answer(capsys, write(tmp_path, case(name)), response, arguments)["strata"] == []


@pytest.mark.parametrize("part", ["all_12_treatments_unbalanced", "four_treatments_in_every_block"])
def test_several_environments(part: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    """Eight sites of a maize trial in blocks, some treatments in half of them only (Antigua, by way of DAAG)."""
    raw = case("o13_met_antigua")
    expected = raw["expected"][part]["lmer_kr"]
    if part.startswith("four"):
        chosen = {str(row["trt"]) for table in expected["emmeans"] for row in table["rows"]}
        raw["data"] = [row for row in raw["data"] if str(row["trt"]) in chosen]
    got = answer(
        capsys,
        write(tmp_path, raw),
        "harvwt",
        ["--design", "multi-env", "--treatment", "trt", "--environment", "site", "--block", "block"],
        "--adjust",
        "tukey",
    )
    assert check(got, expected, raw["suggested_tolerance"]) > 20
    for row in expected["variance_components"]:
        mine = next(
            item for item in got["variance_components"] if set(item["group"].split(":")) == set(row["group"].split(":"))
        )
        assert mine["variance"] == pytest.approx(row["variance"], rel=raw["suggested_tolerance"]["reml_variance_rel"])


def test_environments_without_replication(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    """Ten barley varieties, twelve site-years, one plot each: interaction is the error."""
    raw = case("o14_met_barley_noreps")
    got = answer(
        capsys,
        write(tmp_path, raw),
        "yield",
        ["--design", "multi-env", "--treatment", "variety", "--environment", "env"],
        "--adjust",
        "tukey",
    )
    assert check(got, raw["expected"]["env_random"], raw["suggested_tolerance"]) > 40
    assert any("is the error it is judged by" in item for item in got["warnings"])


def test_few_environments_are_fixed_and_speak_for_themselves(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    raw = case("o13_met_antigua")
    sites = list(dict.fromkeys(row["site"] for row in raw["data"]))[:3]
    raw["data"] = [row for row in raw["data"] if row["site"] in sites and row["trt"] in ("111", "000", "222", "121")]
    got = answer(
        capsys,
        write(tmp_path, raw),
        "harvwt",
        ["--design", "multi-env", "--treatment", "trt", "--environment", "site", "--block", "block"],
    )
    assert {row["term"] for row in got["anova"]} == {"trt", "trt:site"}
    assert any("for these environments only" in item for item in got["warnings"])
    assert {item["group"] for item in got["variance_components"]} == {"site:block", "Residual"}


def test_holm_within_each_family(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    raw = case("o07_splitplot_oats")
    response, arguments, key = CASES["o07_splitplot_oats"]
    got = answer(capsys, write(tmp_path, raw), response, arguments, "--adjust", "holm")
    for table in raw["expected"][key]["pairs"]:
        if len(table["compare"]) == 1 and not table["within"]:
            name = table["compare"][0]
            for row in table["rows"]:
                item = next(
                    one
                    for one in got["differences"]
                    if one["factors"] == [name]
                    and not one["within"]
                    and {one["left"][name], one["right"][name]} == {str(row["level1"]), str(row["level2"])}
                )
                assert item["p_adjusted"] == pytest.approx(row["p_holm"], abs=1e-5)


def test_letters_share_where_the_reference_shares(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    raw = case("o07_splitplot_oats")
    response, arguments, key = CASES["o07_splitplot_oats"]
    got = answer(capsys, write(tmp_path, raw), response, arguments, "--adjust", "tukey")
    for table in raw["expected"][key]["pairs"]:
        if len(table["compare"]) != 1 or table["within"]:
            continue
        name = table["compare"][0]
        mine = {one["levels"][name]: one["letters"] for one in got["means"] if one["factors"] == [name]}
        for item, other in itertools.combinations(table["cld_tukey_05"], 2):
            shared = bool(set(item["letters"]) & set(other["letters"]))
            assert bool(set(mine[item[name]]) & set(mine[other[name]])) == shared


@pytest.mark.parametrize("name", ["o16_subsampling_kiwishade", "o33_subsampling_unequal_simulated"])
def test_samples_inside_strips(name: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    """Vines and counts are no replicates: the strip is a random term, blocks are random as in the reference."""
    raw = case(name)
    response, treatment = ("yield", "shade") if name.startswith("o16") else ("count", "trt")
    columns = {item: [str(row[item]) for row in raw["data"]] for item in ("block", treatment)}
    columns["strip"] = ["1"] * len(raw["data"])  # one strip a treatment and block
    values = [row[response] for row in raw["data"]]
    nested_analysis = analyse_nested(
        values, columns, design="factorial", factors=[treatment], block="block", strip="strip", alpha=0.05
    )
    term, test = nested_analysis.anova[0]
    assert term == treatment
    expected = raw["expected"]
    if name.startswith("o16"):  # balanced: random and fixed blocks give the same test
        row = expected["lmer_kr"]["f_tests_type3_kenward_roger"][0]
        assert (test.f, test.den_df) == (pytest.approx(row["f"], rel=1e-4), pytest.approx(row["den_df"], rel=1e-4))
    # samples taken for strips would have claimed more
    wrong = analyse_nested(values, columns, design="factorial", factors=[treatment], block="block", alpha=0.05)
    assert wrong.anova[0][1].den_df > 3 * test.den_df
    raw["columns"].append({"name": "plot", "type": "factor"})
    for row in raw["data"]:
        row["plot"] = "1"
    more = ["--design", "rcbd", "--treatment", treatment, "--block", "block", "--strip", "plot"]
    got = answer(capsys, write(tmp_path, raw), response, more)
    assert got["anova"][0]["f"] == pytest.approx(test.f)


def test_a_factorial_in_blocks(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    """Three factors of npk without the confounding: type III sums are those of the linear model (statsmodels)."""
    import pandas as pd
    import statsmodels.api as sm
    import statsmodels.formula.api as smf

    raw = case("o12_stripsplit_simulated")
    got = answer(
        capsys,
        write(tmp_path, raw),
        "yield",
        ["--design", "rcbd", "--treatment", "tillage", "--treatment", "rate", "--block", "block"],
    )
    frame = pd.DataFrame(raw["data"]).rename(columns={"yield": "y"}).astype({"rate": str, "block": str})
    fit = smf.ols("y ~ C(block, Sum) + C(tillage, Sum) * C(rate, Sum)", frame).fit()
    table = sm.stats.anova_lm(fit, typ=3)
    for term, row in (
        ("tillage", "C(tillage, Sum)"),
        ("rate", "C(rate, Sum)"),
        ("tillage:rate", "C(tillage, Sum):C(rate, Sum)"),
    ):
        mine = next(item for item in got["anova"] if item["term"] == term)
        assert mine["f"] == pytest.approx(table.loc[row, "F"], rel=1e-8)
        assert mine["den_df"] == pytest.approx(fit.df_resid, rel=1e-8)


def test_latin_square_from_the_command(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    raw = case("o06_latin_square_5x5")
    names = [column["name"] for column in raw["columns"]]
    response = next(name for name in names if name in ("yield", "y", "response"))
    row, column, treatment = (next(name for name in names if name.startswith(part)) for part in ("row", "col", "t"))
    got = answer(
        capsys,
        write(tmp_path, raw),
        response,
        ["--design", "latin", "--treatment", treatment, "--row", row, "--column", column],
    )
    expected = next(item for item in raw["expected"]["anova"] if item["source"] == treatment)
    mine = next(item for item in got["anova"] if item["term"] == treatment)
    assert (mine["f"], mine["p"]) == (pytest.approx(expected["f"], rel=1e-8), pytest.approx(expected["p"], abs=1e-8))


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (["--design", "split-plot", "--main", "variety", "--block", "block"], "--main and --sub"),
        (["--design", "split-split", "--main", "variety", "--sub", "nitro", "--block", "block"], "--subsub"),
        (["--design", "split-plot", "--main", "variety", "--sub", "nitro"], "block column"),
        (["--design", "split-plot", "--main", "variety", "--sub", "colour", "--block", "block"], "colour"),
        (["--design", "rcbd", "--block", "block"], "--treatment"),
        (["--design", "multi-env", "--treatment", "variety"], "--environment"),
        (["--design", "multi-env", "--treatment", "variety", "--treatment", "nitro", "--environment", "block"], "one factor"),
        (["--design", "latin", "--treatment", "variety"], "--row and --column"),
        (["--design", "rcbd", "--main", "variety", "--sub", "nitro", "--block", "block"], "plain blocks would claim too much"),
        (
            ["--design", "split-plot", "--main", "variety", "--sub", "nitro", "--block", "block", "--adjust", "dunnett"],
            "control",
        ),
    ],
)
def test_bad_arguments_end_in_one_line(
    arguments: list[str], said: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path = write(tmp_path, case("o07_splitplot_oats"))
    assert main(["analyse", str(path), "--response", "yield", *arguments, "--json"]) == 2
    error = capsys.readouterr().err
    assert said in error
    assert error.count("\n") == 1


def hostile(change: str) -> dict[str, Any]:
    raw = case("o07_splitplot_oats")
    rows = raw["data"]
    if change == "equal":
        for row in rows:
            row["yield"] = 80
    if change == "wild":
        rows[0]["yield"] = 1e9
    if change == "empty cell":
        raw["data"] = [row for row in rows if not (row["variety"] == rows[0]["variety"] and row["nitro"] == rows[0]["nitro"])]
    if change == "one block":
        raw["data"] = [row for row in rows if row["block"] == rows[0]["block"]]
    if change == "words":
        rows[3]["yield"] = "plenty"
    if change == "no rows":
        raw["data"] = rows[:1]
    return raw


@pytest.mark.parametrize("change", ["equal", "wild", "empty cell", "one block", "words", "no rows"])
def test_hostile_tables_end_in_numbers_or_one_line(change: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = write(tmp_path, hostile(change))
    code = main(["analyse", str(path), "--response", "yield", *CASES["o07_splitplot_oats"][1], "--json"])
    text = capsys.readouterr()
    if code == 0:
        assert change in ("wild", "one block", "empty cell")
        additive = "additive model" in text.out
        assert additive == (change == "empty cell")
        assert "NaN" not in text.out
        item = json.loads(text.out)["differences"][0]
        assert (item["p"] is None) == (change == "one block"), "one block is a look: described, never judged"
    else:
        assert code == 2
        assert text.err.count("\n") == 1


def test_dunnett_at_one_level_of_the_other_factor(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    """With two levels Dunnett is the plain test; with four its p lies between unadjusted and Bonferroni's."""
    raw = case("o07_splitplot_oats")
    arguments = CASES["o07_splitplot_oats"][1]
    control = str(raw["data"][0]["nitro"])
    got = answer(
        capsys, write(tmp_path, raw), "yield", arguments, "--adjust", "dunnett", "--control", control, "--margin", "20"
    )
    rows = got["differences"]
    assert {row["right"]["nitro"] for row in rows} == {control}
    assert all(row["p"] - 1e-9 <= row["p_adjusted"] <= min(3 * row["p"] + 1e-6, 1) for row in rows)
    assert all(mean["letters"] is None for mean in got["means"])
    assert {row["call"] for row in rows} <= {"gain", "loss", "no_difference_that_matters", "cannot_tell_yet"}
    assert all(0 <= row["tost_p"] <= 1 for row in rows)


@given(st.floats(0.001, 1000), st.integers(0, 500))
@settings(max_examples=15, deadline=None)
def test_units_change_no_test(factor: float, seed: int) -> None:
    import numpy as np

    rng = np.random.default_rng(seed)
    cells = list(itertools.product(range(4), range(2), range(3)))
    columns = {name: [f"{name}{cell[place]}" for cell in cells] for place, name in enumerate(("block", "tillage", "rate"))}
    y = [7000 + 100 * cell[1] + 60 * cell[2] + rng.normal(0, 200) for cell in cells]
    nested_analysis = analyse_nested(y, columns, design="split-plot", factors=["tillage", "rate"], block="block")
    other = analyse_nested([factor * v for v in y], columns, design="split-plot", factors=["tillage", "rate"], block="block")
    assert [test.f for _, test in other.anova] == pytest.approx([test.f for _, test in nested_analysis.anova], rel=1e-5)
    assert other.cv_percent == pytest.approx(nested_analysis.cv_percent, rel=1e-5)


def test_errors_of_the_designs() -> None:
    assert random_terms("strip-split", ("a", "b", "c"), "block") == [
        ("block",),
        ("block", "a"),
        ("block", "b"),
        ("block", "a", "b"),
    ]
    with pytest.raises(Refusal) as refused:
        analyse_nested([1, 2], {"block": ["1", "2"], "a": ["x", "x"]}, design="factorial", factors=["a"], block="block")
    assert refused.value.code == "too_few_treatments"


@pytest.mark.parametrize(
    "arguments",
    [
        ["--design", "rcbd", "--treatment", "tillage", "--treatment", "rate", "--block", "block"],
        ["--design", "crd", "--treatment", "tillage", "--treatment", "rate"],
        ["--design", "split-plot", "--main", "tillage", "--sub", "rate", "--block", "block"],
        ["--design", "strip-plot", "--main", "tillage", "--sub", "rate", "--block", "block"],
    ],
)
def test_a_look_at_several_factors_is_described(
    arguments: list[str], tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    """One strip a combination: exit 0, means and differences, no p, no interval, a warning."""
    path = tmp_path / "look.csv"
    path.write_text("block,tillage,rate,y\n1,plough,70,8\n1,plough,90,9\n1,strip,70,7\n1,strip,90,10\n")
    got = answer(capsys, path, "y", arguments, "--margin", "0.3")
    assert got["n"] == 4
    assert any("nothing to measure" in one for one in got["warnings"])
    over = next(one for one in got["differences"] if one["factors"] == ["tillage"] and not one["within"])
    inside = next(one for one in got["differences"] if one["factors"] == ["tillage"] and one["within"] == {"rate": "90"})
    assert (over["estimate"], inside["estimate"]) == (0.0, -1.0)
    for item in got["differences"]:
        assert [item[key] for key in ("se", "p", "lower", "upper", "call", "tost_p")] == [None] * 6
    assert {tuple(one["factors"]) for one in got["means"]} == {("tillage",), ("rate",), ("tillage", "rate")}


def test_environments_come_with_their_own_means(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    raw = case("o14_met_barley_noreps")
    arguments = ["--design", "multi-env", "--treatment", "variety", "--environment", "env"]
    got = answer(capsys, write(tmp_path, raw), "yield", arguments)
    row = raw["data"][0]
    own = next(
        item for item in got["environment_means"] if item["levels"] == {"variety": str(row["variety"]), "env": str(row["env"])}
    )
    assert own == {"levels": own["levels"], "mean": row["yield"], "n": 1}
    assert main(["analyse", str(tmp_path / "trial.csv"), "--response", "yield", *arguments, "--covariate", "year"]) == 2
    assert "Leave it away" in capsys.readouterr().err
