"""The command ``cultrix``: a thin face of the core that reads a CSV and prints JSON.

``analyse`` takes one trial of any design in ``nested_designs``, completely randomised trials, complete blocks and Latin
squares. ``device`` prints the table the field book reckons with. Bad input: exit 2 and one line on standard error.
"""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path

from cultrix_core import __version__
from cultrix_core.errors import Refusal

# Named here so that --help imports no statistics; held against their own modules by a test.
NESTED_DESIGNS = ("split-plot", "strip-plot", "split-split", "strip-split")
PLANNED_DESIGNS = ("rcbd", "pairs", "systematic", "crd", "latin", "augmented", "split_plot", "split_split", "strip_plot")


def main(argv: list[str] | None = None) -> int:
    """Run the command; returns the exit code."""
    arguments = _parser().parse_args(argv)
    try:
        answer = _work(arguments)
        print(json.dumps(answer, indent=None if arguments.json else 2))
    except (Refusal, OSError, UnicodeDecodeError) as error:
        print(f"cultrix: {' '.join(str(error).split())}", file=sys.stderr)
        return 2
    return 0


def _work(arguments: argparse.Namespace) -> dict[str, object]:
    if arguments.command == "device":
        from cultrix_core.stand.device import device_table  # noqa: PLC0415 - help needs none of them

        return device_table()
    from cultrix_core import cli_work  # noqa: PLC0415

    works = {
        "power": cli_work.power_json,
        "analyse": cli_work.analyse_json,
        "curve": cli_work.curve_of_file,
        "emergence": cli_work.emergence_of_file,
        "audit": cli_work.audit_json,
    }
    return works[arguments.command](arguments)


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="cultrix", description="Replicated on-farm trials: the numbers behind the verdict.")
    parser.add_argument("--version", action="version", version=f"cultrix {__version__}")
    commands = parser.add_subparsers(dest="command", required=True)
    _add_analyse(commands.add_parser("analyse", help="compare the treatments of one trial"))
    _add_curve(commands.add_parser("curve", help="response to an amount: shapes, optimum, what pays"))
    _add_power(commands.add_parser("power", help="what a design can detect, before a seed is sown"))
    _add_emergence(commands.add_parser("emergence", help="when plants came up, from counts days apart"))
    audit = commands.add_parser("audit", help="what the treatments of a trial cannot be told apart from")
    audit.add_argument("file", type=Path, help="one row a strip")
    audit.add_argument("--treatment", required=True)
    audit.add_argument(
        "--against", required=True, nargs="+", action="extend", help="columns: field, block, day, machine, operator …"
    )
    audit.add_argument("--json", action="store_true")
    device = commands.add_parser("device", help="the field book's t table and fixtures")
    device.add_argument("--json", action="store_true")
    return parser


def _add_analyse(analyse: argparse.ArgumentParser) -> None:
    analyse.add_argument("file", type=Path)
    analyse.add_argument("--response", required=True)
    analyse.add_argument("--design", required=True, choices=["crd", "rcbd", "latin", *NESTED_DESIGNS, "multi-env"])
    analyse.add_argument("--treatment", action="append", default=[], help="repeat it for a factorial")
    analyse.add_argument("--block")
    analyse.add_argument("--main", help="factor of the main strips, or the first of two that cross")
    analyse.add_argument("--sub", help="factor of the strips inside them, or the second of two that cross")
    analyse.add_argument("--subsub", help="factor of the smallest strips")
    analyse.add_argument("--row", help="rows of a Latin square")
    analyse.add_argument("--column", help="columns of a Latin square")
    analyse.add_argument("--environment", help="site-year of the row")
    analyse.add_argument("--strip", help="names the strip where rows are samples inside strips")
    analyse.add_argument("--covariate", help="amount measured on every strip before treatments began")
    analyse.add_argument("--control")
    analyse.add_argument("--alpha", type=float, default=0.10)
    analyse.add_argument("--blocks", choices=["fixed", "random"])
    analyse.add_argument("--adjust", choices=["none", "tukey", "dunnett", "holm"], default="none")
    analyse.add_argument("--margin", type=float, help="of equivalence: adds the p of two one-sided tests")
    analyse.add_argument(
        "--practical-margin", type=float, help="the smallest difference anybody would act on: the call's margin"
    )
    analyse.add_argument("--json", action="store_true")


def _add_curve(curve: argparse.ArgumentParser) -> None:
    curve.add_argument("file", type=Path)
    curve.add_argument("--x", required=True, help="column of the amounts")
    curve.add_argument("--response", required=True)
    curve.add_argument("--block")
    curve.add_argument("--price", type=float, help="of one unit of the response")
    curve.add_argument("--cost", type=float, help="of one unit of the amount")
    curve.add_argument("--within", type=float, help="loss against the best to put up with, in money per hectare where priced")
    curve.add_argument("--by", help="column of another factor: a curve at each of its levels as well")
    curve.add_argument("--shapes", type=Path, help="JSON: [{name, guess}], the shapes that were frozen before harvest")
    curve.add_argument("--alpha", type=float, default=0.10)
    curve.add_argument("--json", action="store_true")


def _add_emergence(emergence: argparse.ArgumentParser) -> None:
    emergence.add_argument("file", type=Path, help="one row a strip and count")
    emergence.add_argument("--strip", required=True)
    emergence.add_argument("--treatment", required=True)
    emergence.add_argument("--day", required=True, help="column of days from sowing")
    emergence.add_argument("--emerged", required=True, help="plants up by that day, cumulative")
    emergence.add_argument("--sown", required=True, help="seeds sown where the strip was counted")
    emergence.add_argument("--block")
    emergence.add_argument("--alpha", type=float, default=0.10)
    emergence.add_argument("--json", action="store_true")


def _add_power(planned: argparse.ArgumentParser) -> None:
    planned.add_argument("--design", required=True, choices=PLANNED_DESIGNS)
    planned.add_argument("--treatments", type=int, default=0)
    planned.add_argument("--blocks", type=int, required=True)
    planned.add_argument("--main", type=int, default=0, help="levels of the main strips")
    planned.add_argument("--sub", type=int, default=0, help="levels of the strips inside them")
    planned.add_argument("--subsub", type=int, default=0)
    planned.add_argument("--cv", type=float)
    planned.add_argument("--cv-main", type=float)
    planned.add_argument("--cv-sub", type=float)
    planned.add_argument("--difference", type=float)
    planned.add_argument("--no-control", action="store_true")
    planned.add_argument("--alpha", type=float, default=0.10)
    planned.add_argument("--json", action="store_true")


if __name__ == "__main__":
    raise SystemExit(main())
