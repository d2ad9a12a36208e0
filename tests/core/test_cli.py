"""The command ``cultrix``: its JSON, its exit codes, its one line of complaint."""

from __future__ import annotations

import csv
import json
import subprocess
import sys
from importlib.metadata import version as metadata
from pathlib import Path

import numpy as np
import pytest
from cultrix_core.cli import main

from tests.core.references import FOLDER, O01, O02, Case


def write(folder: Path, reference: Case, drop: bool = False) -> Path:
    path = folder / "trial.csv"
    with path.open("w", newline="") as handle:
        table = csv.DictWriter(handle, fieldnames=list(reference.rows[0]))
        table.writeheader()
        for place, row in enumerate(reference.rows):
            table.writerow(row | ({"yield": "NA"} if drop and place in (1, 10, 19) else {}))
    return path


def run(capsys: pytest.CaptureFixture[str], *arguments: object) -> dict:
    code = main([str(argument) for argument in arguments])
    printed = capsys.readouterr()
    assert code == 0, printed.err
    return json.loads(printed.out)


USUAL = ("--response", "yield", "--design", "rcbd", "--treatment", "rate", "--block", "block", "--json")


def test_blocks_fixed(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    answer = run(capsys, "analyse", write(tmp_path, O01), *USUAL, "--adjust", "tukey")
    test = next(row for row in answer["anova"] if row["term"] == "rate")
    assert test["f"] == pytest.approx(2.16777868149536, rel=1e-8)
    assert test["p"] == pytest.approx(0.112809412634841, abs=1e-8)
    assert (test["num_df"], test["den_df"], answer["n"]) == (5, 15, 24)
    assert [row["levels"]["rate"] for row in answer["means"]] == O01.levels
    assert len(answer["differences"]) == 15
    assert answer["cv_percent"] == pytest.approx(6.70425774561566)


def test_rows_without_a_response_are_dropped_and_listed(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    answer = run(capsys, "analyse", write(tmp_path, O01, drop=True), *USUAL)
    assert answer["n"] == 21
    assert "lines 3, 12, 21" in " ".join(answer["warnings"])
    wanted = next(row for row in O02.expected["anova"] if row["source"] == "treatment")
    assert next(row for row in answer["anova"] if row["term"] == "rate")["f"] == pytest.approx(wanted["f"], rel=1e-8)


def test_dunnett_with_a_margin_calls(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    answer = run(capsys, "analyse", write(tmp_path, O01), *USUAL, "--adjust", "dunnett", "--control", "25", "--margin", "1500")
    assert {row["right"]["rate"] for row in answer["differences"]} == {"25"}
    assert all(row["letters"] is None for row in answer["means"])
    assert all(row["call"] in ("no_difference_that_matters", "cannot_tell_yet") for row in answer["differences"])
    assert all(0 <= row["tost_p"] <= 1 for row in answer["differences"])


def test_unreplicated_gets_no_probability(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "look.csv"
    path.write_text("block,rate,yield\n1,low,4\n1,high,5\n")
    answer = run(capsys, "analyse", path, *USUAL)
    assert answer["warnings"]
    assert all(row["p"] is None and row["lower"] is None for row in answer["differences"])


@pytest.mark.parametrize(
    ("text", "arguments", "says"),
    [
        ("block,rate,yield\n1,a,4\n1,b,five\n", USUAL, "five"),
        ("block,rate,grain\n1,a,4\n1,b,5\n", USUAL, "yield"),
        ("block,rate,yield\n", USUAL, "header"),
        ("block,rate,yield\n1,a,4\n1,b,5\n", (*USUAL, "--control", "z"), "z"),
        ("block,rate,yield\n1,a,4\n1,b,5\n", (*USUAL, "--adjust", "dunnett"), "control"),
        ("block,rate,yield\n1,a,4\n1,b,5\n", ("--response", "yield", "--design", "rcbd", "--treatment", "rate"), "block"),
    ],
)
def test_bad_input(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], text: str, arguments: tuple[str, ...], says: str
) -> None:
    path = tmp_path / "bad.csv"
    path.write_text(text)
    assert main(["analyse", str(path), *arguments]) == 2
    printed = capsys.readouterr()
    assert printed.out == ""
    assert len(printed.err.strip().splitlines()) == 1
    assert says in printed.err


def test_a_file_that_is_not_there(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["analyse", str(tmp_path / "none.csv"), *USUAL]) == 2
    assert "none.csv" in capsys.readouterr().err


@pytest.mark.slow
def test_the_installed_command() -> None:
    command = Path(sys.executable).with_name("cultrix")
    done = subprocess.run([command, "device", "--json"], capture_output=True, text=True, check=True)
    assert json.loads(done.stdout)["alpha"] == 0.10


def test_the_core_imports_no_django() -> None:
    """In a fresh interpreter: importing all of the core leaves Django, ninja and the server out."""
    code = (
        "import sys, pkgutil, importlib, cultrix_core\n"
        "for one in pkgutil.walk_packages(cultrix_core.__path__, 'cultrix_core.'): importlib.import_module(one.name)\n"
        "print([name for name in sys.modules if name.split('.')[0] in ('django', 'ninja', 'apps', 'config')])"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"


def test_power_as_in_r(capsys: pytest.CaptureFixture[str]) -> None:
    """R 4.2.2, noncentral t and F: 5 treatments, 4 blocks, CV 7 %, a difference of 8 % at 0.10."""
    grid = json.loads((FOLDER / "o19_power_grid.json").read_text())["expected"]
    wanted = next(
        row
        for row in grid["rcbd_grid"]
        if (row["treatments"], row["blocks"], row["cv_pct"], row["diff_pct"], row["alpha"]) == (4, 4, 7, 8, 0.1)
    )
    usual = ("power", "--design", "rcbd", "--treatments", 4, "--blocks", 4, "--cv", 7, "--alpha", 0.1, "--json")
    answer = run(capsys, *usual, "--difference", 8)
    assert answer["power_pairwise"] == pytest.approx(wanted["power_pairwise_t_rcbd_error_df"], abs=1e-8)
    assert answer["power_f"] == pytest.approx(wanted["power_f_two_extremes"], abs=1e-8)
    assert answer["adjust"] == "dunnett"
    assert answer["ldd_adjusted_80"] > answer["ldd_pairwise_80"]
    least = next(
        row
        for row in grid["min_detectable_difference"]
        if (row["treatments"], row["blocks"], row["cv_pct"], row["alpha"]) == (4, 4, 7, 0.1)
    )
    assert answer["ldd_pairwise_80"] == pytest.approx(least["min_detectable_diff_pct_power_80"], rel=1e-7)
    assert run(capsys, *usual)["power_pairwise"] is None


def test_power_of_a_split_plot(capsys: pytest.CaptureFixture[str]) -> None:
    parts = ("--main", 2, "--sub", 3, "--blocks", 4, "--cv-main", 10, "--cv-sub", 7, "--difference", 6, "--json")
    answer = run(capsys, "power", "--design", "split_plot", *parts)
    assert [(row["stratum"], row["df"]) for row in answer["strata"]] == [
        ("main", 3),
        ("sub", 12),
        ("sub_within", 12),
        ("interaction", 12),
    ]


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (("--design", "rcbd", "--treatments", 3, "--blocks", 1, "--cv", 7), "Blocks must be at least 2"),
        (("--design", "rcbd", "--blocks", 4, "--cv", 7), "at least 2 treatments"),
        (("--design", "rcbd", "--treatments", 3, "--blocks", 4), "--cv"),
    ],
)
def test_power_refuses(arguments: tuple[object, ...], said: str, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["power", *map(str, arguments)]) == 2
    assert said in capsys.readouterr().err


def test_the_version_is_said_and_is_that_of_the_package(capsys: pytest.CaptureFixture[str]) -> None:
    with pytest.raises(SystemExit) as ended:
        main(["--version"])
    assert ended.value.code == 0
    assert capsys.readouterr().out.strip() == f"cultrix {metadata('cultrix')}"


def test_help_imports_no_statistics() -> None:
    """What is printed needs no numbers: the modules that bring them stay out, so that help comes at once."""
    command = "import sys; from cultrix_core.cli import main\ntry: main(['analyse', '--help'])\nexcept SystemExit: pass\n"
    done = subprocess.run(
        [sys.executable, "-c", command + "print([name for name in ('numpy', 'scipy', 'pandas') if name in sys.modules])"],
        check=True,
        capture_output=True,
        text=True,
    )
    assert done.stdout.strip().endswith("[]")


def test_designs_named_for_the_help_are_those_there_are() -> None:
    from cultrix_core.cli import NESTED_DESIGNS, PLANNED_DESIGNS
    from cultrix_core.design.designs import DESIGNS
    from cultrix_core.stats.nested_designs import FACTORS

    assert tuple(FACTORS) == NESTED_DESIGNS
    assert tuple(design.key for design in DESIGNS if design.replicated) == PLANNED_DESIGNS


RCBD = ["--response", "yield", "--design", "rcbd", "--treatment", "t", "--block", "b", "--json"]


def test_numbers_as_programs_write_them(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    """1e-3 as R and pandas write it, seventeen digits, and losses: a difference may be less than nought."""
    path = tmp_path / "t.csv"
    path.write_text("b,t,yield\n1,x,1e-3\n1,y,-2.5E+00\n2,x,0.12345678901234567\n2,y,-3\n3,x,.5\n3,y,-1.75e0\n")
    assert main(["analyse", str(path), *RCBD]) == 0
    answer = json.loads(capsys.readouterr().out)
    assert answer["means"][0]["mean"] == pytest.approx((0.001 + 0.12345678901234567 + 0.5) / 3)
    assert answer["interactions"] == []
    assert answer["answers"][0]["sentence"].startswith("T: x gains ")


def test_one_column_named_twice_is_refused_in_one_line(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "t.csv"
    path.write_text("b,t,yield\n1,x,1\n1,y,2\n2,x,1\n2,y,3\n")
    assert main(["analyse", str(path), "--response", "yield", "--design", "rcbd", "--treatment", "t", "--block", "t"]) == 2
    assert capsys.readouterr().err.count("\n") == 1
    factorial = ["--response", "yield", "--design", "rcbd", "--treatment", "t", "--treatment", "t", "--block", "b"]
    assert main(["analyse", str(path), *factorial]) == 2
    assert capsys.readouterr().err.count("\n") == 1


def test_a_factorial_answers_by_factor(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    draw = np.random.default_rng(2)
    rows = [
        f"{block},{width},{rate},{20 + 3 * (width == 'w20') + draw.normal(0, 0.5)}"
        for block in range(4)
        for width in ("w30", "w20")
        for rate in ("r1", "r2")
    ]
    path = tmp_path / "t.csv"
    path.write_text("\n".join(["b,width,rate,yield", *rows]))
    arguments = ["--response", "yield", "--design", "split-plot", "--main", "width", "--sub", "rate", "--block", "b"]
    assert main(["analyse", str(path), *arguments, "--practical-margin", "1.5", "--json"]) == 0
    answer = json.loads(capsys.readouterr().out)
    assert [(row["term"], row["status"]) for row in answer["interactions"]] == [("width:rate", "none")]
    assert answer["interactions"][0]["p"] == answer["interactions"][0]["p_holm"]
    assert [(row["factor"], row["kind"]) for row in answer["answers"]] == [("width", "main"), ("rate", "main"), ("", "best")]
    assert "w20 gains 3" in answer["answers"][0]["sentence"] or "w20 gains 2" in answer["answers"][0]["sentence"]
    assert answer["answers"][1]["sentence"].endswith("a small difference."), "shown, and inside the margin"
    calls = {row["factors"][0]: row["call"] for row in answer["differences"] if not row["within"]}
    assert calls == {"width": "loss", "rate": "gain"}
