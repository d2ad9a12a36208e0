"""Reference cases through the command line, and blocks of results that are read off its answer."""

from __future__ import annotations

import csv
import json
from collections.abc import Callable
from functools import lru_cache
from pathlib import Path
from typing import Any

import pytest
from cultrix_core.cli import main
from cultrix_core.stats.compare import StripResponse
from cultrix_core.stats.linear_model import Factor
from cultrix_core.stats.second_looks import rank_test

from tests.core.references import FOLDER
from tests.core.test_nested_designs import check

CASES = {path.name[:3]: path.stem for path in sorted(FOLDER.glob("o*.json"))}

OATS = ("yield", ["--design", "split-plot", "--main", "variety", "--sub", "nitro", "--block", "block"], ["variety", "nitro"])

# case: (response, arguments of the command line, columns of factors)
COMMANDS: dict[str, tuple[str, list[str], list[str]]] = {
    "o01": ("yield", ["--design", "rcbd", "--treatment", "rate", "--block", "block"], ["rate"]),
    "o02": ("yield", ["--design", "rcbd", "--treatment", "rate", "--block", "block"], ["rate"]),
    "o03": ("inf", ["--design", "crd", "--treatment", "trt"], ["trt"]),
    "o04": (
        "yield",
        ["--design", "rcbd", "--treatment", "spacing", "--treatment", "density", "--block", "block"],
        ["spacing", "density"],
    ),
    "o06": ("yield", ["--design", "latin", "--treatment", "trt", "--row", "row", "--column", "col"], ["trt"]),
    "o07": OATS,
    "o08": OATS,
    "o09": ("yield", ["--design", "split-plot", "--main", "nitro", "--sub", "gen", "--block", "rep"], ["nitro", "gen"]),
    "o10": ("yield", ["--design", "strip-plot", "--main", "gen", "--sub", "nitro", "--block", "rep"], ["gen", "nitro"]),
    "o21": (
        "final",
        ["--design", "rcbd", "--treatment", "trt", "--block", "block", "--covariate", "initial"],
        ["trt"],
    ),
    "o23": ("yield", ["--design", "split-plot", "--main", "harvest", "--sub", "sow", "--block", "block"], ["harvest", "sow"]),
    "o24": ("yield", ["--design", "rcbd", "--treatment", "variety", "--block", "block"], ["variety"]),
    "o26": ("yield", ["--design", "rcbd", "--treatment", "variety", "--block", "block"], ["variety"]),
    "o28": ("weight", ["--design", "crd", "--treatment", "group"], ["group"]),
    "o30": ("yield", ["--design", "latin", "--treatment", "trt", "--row", "row", "--column", "col"], ["trt"]),
    "o32": (
        "angle",
        ["--design", "split-plot", "--main", "recipe", "--sub", "temperature", "--block", "replicate"],
        ["recipe", "temperature"],
    ),
    "o34": (
        "yield",
        ["--design", "rcbd", "--treatment", "spacing", "--treatment", "density", "--block", "block"],
        ["spacing", "density"],
    ),
}


@lru_cache(maxsize=64)
def load(case: str) -> dict[str, Any]:
    raw: dict[str, Any] = json.loads((FOLDER / f"{CASES[case]}.json").read_text())
    return raw


class Runner:
    """One case through the command line; answers are kept by their arguments."""

    def __init__(self, case: str, folder: Path, capsys: pytest.CaptureFixture[str]) -> None:
        self.case, self.raw, self.folder, self.capsys = case, load(case), folder, capsys
        self.tolerance: dict[str, float] = self.raw["suggested_tolerance"]
        self.response, self.arguments, self.factors = COMMANDS.get(case, ("", [], []))

    def rows(self) -> list[dict[str, Any]]:
        rows: list[dict[str, Any]] = self.raw["data"]
        return rows

    def run(self, *more: str, response: str = "", drop: tuple[str, ...] = ()) -> dict[str, Any]:
        path = self.folder / "trial.csv"
        with path.open("w", newline="") as handle:
            out = csv.DictWriter(handle, fieldnames=list(self.rows()[0]))
            out.writeheader()
            out.writerows(self.rows())
        arguments = list(self.arguments)
        for name in drop:
            place = arguments.index(name)
            del arguments[place : place + 2]
        given = ["--alpha", "0.05"] if "--alpha" not in more else []
        code = main(["analyse", str(path), "--response", response or self.response, *arguments, *given, "--json", *more])
        caught = self.capsys.readouterr()
        assert code == 0, caught.err
        result: dict[str, Any] = json.loads(caught.out)
        return result

    def factor(self, name: str) -> Factor:
        levels = next(column.get("levels") for column in self.raw["columns"] if column["name"] == name)
        return Factor.of(
            name, [str(row[name]) for row in self.rows()], None if levels is None else [str(level) for level in levels]
        )

    def values(self) -> list[float]:
        return [float(row[self.response]) for row in self.rows()]


def near(wanted: float, rel: float, smallest: float = 1e-9) -> object:
    return pytest.approx(wanted, rel=rel, abs=smallest)


def residual(got: dict[str, Any]) -> float:
    return float(next(item["variance"] for item in got["variance_components"] if item["group"] == "Residual"))


def anova(run: Runner, wanted: list[dict[str, Any]]) -> int:
    """Sequential tables equal type III in balanced data, and for their last term always."""
    got = {row["term"]: row for row in run.run(*(["--blocks", "fixed"] if run.case == "o24" else []))["anova"]}
    last = [row["source"] for row in wanted if row["f"] is not None][-1]
    last = {"treatment": run.factors[0]}.get(last, last)
    compared = 0
    for row in wanted:
        name = {"treatment": run.factors[0], "col": "col"}.get(row["source"], row["source"])
        if name not in got or (run.case in ("o02", "o30", "o34") and name != last):
            continue
        assert got[name]["num_df"] == row["df"]
        assert got[name]["f"] == near(row["f"], 1e-7)
        assert got[name]["p"] == pytest.approx(row["p"], abs=run.tolerance.get("p_abs", 1e-5))
        compared += 1
    assert compared
    return compared


def type3(run: Runner, wanted: list[dict[str, Any]]) -> int:
    got = {row["term"]: row for row in run.run()["anova"]}
    names = {"x": "initial", **{name: name for name in got}}
    compared = 0
    for row in wanted:
        name = names.get(row["term"], "")
        if name in got:
            assert (got[name]["num_df"], got[name]["f"]) == (row["df"], near(row["f"], 1e-7))
            compared += 1
    assert compared >= 2
    return compared


def means(run: Runner, wanted: list[dict[str, Any]]) -> int:
    got = run.run()["means"]
    tables = wanted if "specs" in wanted[0] else [{"specs": run.factors, "rows": wanted}]
    for table in tables:
        for row in table["rows"]:
            levels = {name: str(row[name] if name in row else row["level"]) for name in table["specs"]}
            item = next(mean for mean in got if mean["levels"] == levels)
            for mine, theirs in (("mean", "emmean"), ("se", "se"), ("df", "df"), ("lower", "lo95"), ("upper", "hi95")):
                assert item[mine] == near(row[theirs], 1e-7), (levels, mine)
    return sum(len(table["rows"]) for table in tables)


def pairs(run: Runner, wanted: list[dict[str, Any]]) -> int:
    tables = wanted if "compare" in wanted[0] else [{"compare": run.factors, "rows": wanted}]
    compared = 0
    for adjust, name in (("none", "p"), ("tukey", "p_tukey"), ("holm", "p_holm")):
        got = run.run("--adjust", adjust)["differences"]
        for table in tables:
            if len(table["compare"]) != 1:
                continue  # all pairs of combinations are no family of ours
            inside = table.get("within") or []
            for row in table["rows"]:
                within = {key: str(row[key]) for key in ([inside] if isinstance(inside, str) else inside)}
                ends = {str(row["level1"]), str(row["level2"])}
                item = next(
                    one
                    for one in got
                    if one["factors"] == table["compare"]
                    and one["within"] == within
                    and {*one["left"].values(), *one["right"].values()} == ends
                )
                sign = 1 if str(row["level1"]) in item["left"].values() else -1
                assert sign * item["estimate"] == pytest.approx(row["estimate"], rel=1e-7, abs=1e-7 * row["se"])
                assert item["se"] == near(row["se"], 1e-7)
                assert item["df"] == near(row["df"], 1e-7)
                assert item["p_adjusted"] == pytest.approx(row[name], abs=run.tolerance["p_abs"])
                compared += 1
    return compared


def share(one: str, other: str) -> bool:
    return bool(set(one) & set(other))


def letters(adjust: str, alpha: str) -> Callable[[Runner, Any], int]:
    def compared(run: Runner, wanted: Any) -> int:
        got = run.run("--adjust", adjust, "--alpha", alpha)["means"]
        tables = wanted if isinstance(wanted, dict) else {run.factors[0]: wanted}
        count = 0
        for name, rows in tables.items():
            mine = {item["levels"][name]: item["letters"] for item in got if item["factors"] == [name]}
            named = [(str(row.get(name, row.get("level"))), row["letters"]) for row in rows]
            for place, (one, letter) in enumerate(named):
                for other, letter_other in named[place + 1 :]:
                    assert share(mine[one], mine[other]) == share(letter, letter_other), (one, other)
                    count += 1
        return count

    return compared


def number(path: Callable[[dict[str, Any], Runner], float], rel: float = 1e-8) -> Callable[[Runner, Any], int]:
    def compared(run: Runner, wanted: Any) -> int:
        assert path(run.run(), run) == near(float(wanted), rel)
        return 1

    return compared


def lsd(alpha: str) -> Callable[[Runner, Any], int]:
    def compared(run: Runner, wanted: Any) -> int:
        assert run.run("--alpha", alpha)["lsd"][0]["value"] == near(float(wanted), 1e-8)
        return 1

    return compared


def precision(run: Runner, wanted: dict[str, Any]) -> int:
    got = run.run()
    assert got["sed"][0]["value"] == near(wanted["sed"], 1e-8)
    assert got["means"][0]["se"] == near(wanted["sem"], 1e-8)
    for key, alpha in (("lsd_01", "0.01"), ("lsd_05", "0.05"), ("lsd_10", "0.10")):
        lsd(alpha)(run, wanted[key])
    for key, alpha in (("tukey_hsd_05", "0.05"), ("tukey_hsd_10", "0.10")):
        item = run.run("--adjust", "tukey", "--alpha", alpha)["differences"][0]
        assert (item["upper"] - item["lower"]) / 2 == near(wanted[key], run.tolerance["tukey_p_abs"])
    return 7


def seds(run: Runner, wanted: dict[str, Any]) -> int:
    got = {item["comparison"]: item["value"] for item in run.run()["sed"]}
    names = {
        "spacing": "two spacing means",
        "density": "two density means",
        "cell": "two spacing means at one level of density",
    }
    told = [key for key in wanted if wanted[key] is not None]
    for key in told:
        assert got[names[key]] == near(wanted[key], 1e-8)
    return len(told)


def dunnett(run: Runner, wanted: dict[str, Any]) -> int:
    exact = "exact" in wanted
    rows = wanted["exact"]["rows"] if exact else wanted["mvt"]
    got = {
        item["left"][run.factors[0]]: item
        for item in run.run("--adjust", "dunnett", "--control", str(wanted["control"]))["differences"]
    }
    for row in rows:
        one = got[row["contrast"].split(" - ")[0].strip("()")]
        assert one["estimate"] == pytest.approx(row["estimate"], rel=1e-8, abs=1e-8)
        # multcomp integrates by randomised quasi-Monte Carlo, with an error of up to 1e-3 in p
        assert one["p_adjusted"] == pytest.approx(row.get("p_dunnett", row.get("p")), abs=1e-5 if exact else 1e-3)
    return len(rows)


def shapiro(run: Runner, wanted: dict[str, Any]) -> int:
    got = run.run()["checks"]["shapiro"]
    own = wanted.get("shapiro", wanted)
    assert got["w"] == near(own["w"], 1e-7)
    assert got["p"] == pytest.approx(own["p"], abs=1e-6)
    return 2


def conditional(run: Runner, wanted: dict[str, Any]) -> int:
    got = run.run()["checks"]["shapiro"]
    own = wanted["shapiro_conditional_residuals"]
    assert got["w"] == near(own["w"], 1e-5)
    assert got["p"] == pytest.approx(own["p"], abs=1e-4)
    return 2


def diagnostics(run: Runner, wanted: dict[str, Any]) -> int:
    if "shapiro" in wanted:
        return shapiro(run, wanted)
    if "shapiro_conditional_residuals" in wanted:
        return conditional(run, wanted)
    got = run.run()["checks"]
    assert got["shapiro"]["w"] == near(wanted["shapiro_wilk_residuals"]["w"], 1e-6)
    assert got["brown_forsythe"]["f"] == near(wanted["brown_forsythe_on_model_residuals"]["f"], 1e-7)
    largest = wanted["largest_outlier"]
    assert (got["outlier"]["row"], got["outlier"]["rstudent"]) == (largest["row_1based"], near(largest["rstudent"], 1e-8))
    if tukey := wanted.get("tukey_nonadditivity_1df"):
        assert (got["additivity"]["f"], got["additivity"]["p"]) == (near(tukey["f"], 1e-7), near(tukey["p"], 1e-7))
    return 4


def friedman(run: Runner, wanted: dict[str, Any]) -> int:
    strips = [
        StripResponse(treatment=str(row[run.factors[0]]), block=str(row.get("block", "")), response=float(row[run.response]))
        for row in run.rows()
    ]
    test = rank_test(strips, blocked="block" in run.rows()[0])
    assert test is not None
    assert (test.statistic, test.df, test.p) == (near(wanted["chisq"], 1e-8), wanted["df"], near(wanted["p"], 1e-8))
    return 3


def random_blocks(run: Runner, wanted: dict[str, Any]) -> int:
    got = run.run("--blocks", "random", "--adjust", "tukey")
    for row in wanted["variance_components"]:
        mine = next(item for item in got["variance_components"] if item["group"] == row["group"])
        assert mine["variance"] == near(row["variance"], run.tolerance["reml_variance_rel"])
    return check(got, wanted, run.tolerance)
