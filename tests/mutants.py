"""``make mutants``: does a test notice when a formula or rule is changed? Mutation testing by mutmut, of files that changed.

The changed files (or those named after ``--``) are copied with their tests into a folder of their own, where mutmut alters one
expression at a time and runs the tests that name the module. What no test notices is printed: a survivor is a check that is
missing, or a change that means the same.
"""

from __future__ import annotations

import argparse
import os
import re
import shutil
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
PLACE = ROOT / "var" / "mutants"
PARTS = {"core/cultrix_core": "tests/core", "server/apps": "tests/server"}
OF_A_REFUSAL = re.compile(r",?\s*(label|unit|remedy|source)=[^,)]*")
CONFIG = """
[tool.mutmut]
source_paths = [{source!r}]
only_mutate = {only}
also_copy = ["cultrix_core", "apps", "config", "tests", "docs", "web"]
pytest_add_cli_args = ["-p", "no:cacheprovider", "-m", "not slow and not e2e"]
pytest_add_cli_args_test_selection = {tests}
mutate_only_covered_lines = true
timeout_multiplier = 10.0
"""


def changed(since: str) -> list[str]:
    """Python files of core and server that differ from a commit."""
    told = subprocess.run(
        ["git", "diff", "--name-only", "--diff-filter=d", since], cwd=ROOT, capture_output=True, text=True, check=True
    )
    return [name for name in told.stdout.split() if name.endswith(".py") and part_of(name) and "migrations" not in name]


def part_of(name: str) -> str | None:
    return next((part for part in PARTS if name.startswith(f"{part}/")), None)


def tests_of(name: str) -> list[str]:
    """Files of tests that import a module, or a name of its package that it makes."""
    part = part_of(name)
    assert part is not None
    module = name.removeprefix(f"{Path(part).parent}/").removesuffix(".py").replace("/", ".")
    package, _, last = module.rpartition(".")
    sought = re.compile(rf"(?:from|import) {re.escape(module)}\b|from {re.escape(package)} import [^\n]*\b{re.escape(last)}\b")
    files = sorted((ROOT / PARTS[part]).glob("test_*.py"))
    return [str(path.relative_to(ROOT)) for path in files if sought.search(path.read_text())]


def laid_out(part: str, names: list[str], tests: list[str]) -> Path:
    """A folder with copies of what is altered and what it needs, as mutmut expects them."""
    shutil.rmtree(PLACE, ignore_errors=True)
    skipped = shutil.ignore_patterns("__pycache__", "node_modules", "dist", "screenshots")
    for source in ("core/cultrix_core", "server/apps", "server/config", "tests", "docs"):
        shutil.copytree(ROOT / source, PLACE / Path(source).name, ignore=skipped)
    device = Path("web/src/features/fieldbook")
    shutil.copytree(ROOT / device, PLACE / device, ignore=skipped)
    text = (ROOT / "pyproject.toml").read_text().replace('pythonpath = ["core", "server", "."]', 'pythonpath = ["."]')
    only = [name.removeprefix(f"{Path(part).parent}/") for name in names]
    (PLACE / "pyproject.toml").write_text(text + CONFIG.format(source=Path(part).name, only=only, tests=tests))
    return PLACE


def of_words(diff: str) -> bool:
    """Whether an alteration is of a sentence only: its letters, two marks beside it, or what a refusal calls a thing."""
    taken, put = (
        [line[1:] for line in diff.splitlines() if line.startswith(sign) and not line.startswith(sign * 3)] for sign in "-+"
    )
    plain = [OF_A_REFUSAL.sub("", "".join(lines)).casefold().replace("xx", "") for lines in (taken, put)]
    return plain[0].replace(" ", "") == plain[1].replace(" ", "")


def main() -> int:
    parser = argparse.ArgumentParser(description="Which changes of a formula or rule does no test notice?")
    parser.add_argument("--since", default="HEAD", help="files that differ from this commit (default: not committed yet)")
    parser.add_argument("--most", type=int, default=4, help="processes at once")
    parser.add_argument("files", nargs="*", help="files instead of those that changed")
    asked = parser.parse_args()
    names = asked.files or changed(asked.since)
    survivors = 0
    for part in PARTS:
        own = [name for name in names if part_of(name) == part]
        tests = sorted({test for name in own for test in tests_of(name)})
        if not own or not tests:
            print(f"{part}: nothing to alter{f', no test names {own}' if own else ''}")
            continue
        place = laid_out(part, own, tests)
        environment = os.environ | {"PYTHONPATH": str(place), "DJANGO_SETTINGS_MODULE": "config.settings"}
        mutmut = [sys.executable, "-m", "mutmut"]
        run = [*mutmut, "run", "--max-children", str(asked.most)]
        with (place / "run.log").open("wb") as log:  # a picture that turns, thousands of times
            ran = subprocess.run(run, cwd=place, env=environment, stdout=log, stderr=subprocess.STDOUT, check=False)
        told = subprocess.run([*mutmut, "results"], cwd=place, env=environment, capture_output=True, text=True, check=False)
        alive = re.findall(r"^\s*(\S+): survived", told.stdout, re.MULTILINE)
        shown = [
            subprocess.run(
                [*mutmut, "show", name], cwd=place, env=environment, capture_output=True, text=True, check=False
            ).stdout
            for name in alive
        ]
        told_of = [diff for diff in shown if not of_words(diff)]
        print("\n".join(told_of))
        survivors += len(told_of)
        print(
            f"{part}: {len(own)} files, {len(tests)} files of tests, {len(told_of)} survivors, "
            f"{len(alive) - len(told_of)} more that change words only"
        )
        if ran.returncode not in (0, 1):
            return ran.returncode
    return int(survivors > 0)


if __name__ == "__main__":
    raise SystemExit(main())
