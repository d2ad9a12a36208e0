"""The command ``cultrix``: its JSON, its exit codes, its one line of complaint."""

from __future__ import annotations

import csv
import json
import subprocess
import sys
from pathlib import Path

import pytest
from cultrix_core.cli import main

from tests.core.references import O01, O02, Case


def write(folder: Path, reference: Case, drop: bool = False) -> Path:
    path = folder / "trial.csv"
    with path.open("w", newline="") as handle:
        table = csv.DictWriter(handle, fieldnames=list(reference.rows[0]))
        table.writeheader()
        for place, row in enumerate(reference.rows):
            table.writerow(row | ({"yield": "NA"} if drop and place in (1, 10, 19) else {}))
    return path


def run(capsys: pytest.CaptureFixture[str], *arguments: object) -> dict:
    code = main([str(one) for one in arguments])
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
