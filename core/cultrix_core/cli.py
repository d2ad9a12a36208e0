"""The command ``cultrix``: a thin face of the core that reads a CSV and prints JSON.

``analyse`` takes completely randomised trials and complete blocks with fixed blocks; designs with random
terms are refused with the reason. ``device`` prints the table the field book reckons with. Bad input:
exit 2 and one line on standard error.
"""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path

from scipy import stats

from cultrix_core.errors import Refusal
from cultrix_core.stand.device import device_table
from cultrix_core.stats.call import make_call
from cultrix_core.stats.compare import Comparison, Difference, StripResponse, compare
from cultrix_core.stats.multiplicity import Adjust
from cultrix_core.tables import MappedRow, map_strips, read_table

MOST_BYTES = 50_000_000


def main(argv: list[str] | None = None) -> int:
    """Run the command; returns the exit code."""
    arguments = _parser().parse_args(argv)
    try:
        answer = device_table() if arguments.command == "device" else _analyse(arguments)
        print(json.dumps(answer, indent=None if arguments.json else 2))
    except (Refusal, OSError, UnicodeDecodeError) as error:
        print(f"cultrix: {' '.join(str(error).split())}", file=sys.stderr)
        return 2
    return 0


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="cultrix", description="Replicated on-farm trials: the numbers behind the verdict.")
    commands = parser.add_subparsers(dest="command", required=True)
    analyse = commands.add_parser("analyse", help="compare the treatments of one trial")
    analyse.add_argument("file", type=Path)
    analyse.add_argument("--response", required=True)
    analyse.add_argument("--design", required=True, choices=["crd", "rcbd"])
    analyse.add_argument("--treatment", required=True)
    analyse.add_argument("--block")
    analyse.add_argument("--control")
    analyse.add_argument("--alpha", type=float, default=0.10)
    analyse.add_argument("--blocks", choices=["fixed"], default="fixed")
    analyse.add_argument("--adjust", choices=["none", "tukey", "dunnett", "holm"], default="none")
    analyse.add_argument("--margin", type=float)
    analyse.add_argument("--json", action="store_true")
    device = commands.add_parser("device", help="the field book's t table and fixtures")
    device.add_argument("--json", action="store_true")
    return parser


def _analyse(arguments: argparse.Namespace) -> dict[str, object]:
    rows, warnings = _read(arguments)
    adjust: Adjust = arguments.adjust
    if adjust == "dunnett" and arguments.control is None:
        raise Refusal("missing", field="control", remedy="Dunnett compares with a control: name it with --control.")
    strips = [
        StripResponse(treatment=row.treatment, block=row.block, response=row.response)
        for row in rows
        if row.response is not None
    ]
    levels = tuple(dict.fromkeys(row.treatment for row in rows))
    result = compare(
        strips,
        design=arguments.design,
        alpha=arguments.alpha,
        control=arguments.control,
        levels=levels,
        pairs_adjust="none" if adjust == "dunnett" else adjust,
    )
    return _as_json(result, arguments, warnings)


def _read(arguments: argparse.Namespace) -> tuple[tuple[MappedRow, ...], list[str]]:
    if arguments.file.stat().st_size > MOST_BYTES:
        raise Refusal(
            "too_large", field="file", label="The file", value=arguments.file.stat().st_size, limit=MOST_BYTES, unit=" bytes"
        )
    table = read_table(arguments.file.read_text(encoding="utf-8"))
    if arguments.design == "rcbd" and not arguments.block:
        raise Refusal("missing", field="block", label="The block column", remedy="Complete blocks need --block.")
    block = arguments.block or next(
        (name for name in table.columns if name not in (arguments.treatment, arguments.response)), arguments.treatment
    )
    rows, problems = map_strips(table, block=block, treatment=arguments.treatment, response=arguments.response)
    if problems:
        more = f" (and {len(problems) - 1} more problems)" if len(problems) > 1 else ""
        raise Refusal("missing", field="file", label="A usable table", remedy=problems[0].text + more)
    dropped = [str(row.line) for row in rows if row.response is None]
    warnings = [f"Rows without a response were dropped: lines {', '.join(dropped)}."] if dropped else []
    return rows, warnings


def _as_json(result: Comparison, arguments: argparse.Namespace, warnings: list[str]) -> dict[str, object]:
    names = {"treatment": arguments.treatment, "block": arguments.block}
    dunnett = arguments.adjust == "dunnett"
    differences = result.to_control if dunnett else result.pairs
    comparison = f"two {arguments.treatment} means"
    return {
        "design": result.design,
        "response": arguments.response,
        "n": result.n,
        "alpha": result.alpha,
        "method": result.method,
        "anova": [
            {"term": names[test.term], "num_df": test.num_df, "den_df": test.den_df, "f": test.f, "p": test.p}
            for test in result.anova
        ],
        "strata": [],
        "variance_components": [{"group": "Residual", "variance": result.mse}],
        "means": [
            {
                "levels": {arguments.treatment: mean.level},
                "factors": [arguments.treatment],
                "within": {},
                "mean": mean.mean,
                "se": mean.se,
                "df": mean.df,
                "lower": mean.lower,
                "upper": mean.upper,
                "letters": None if dunnett else mean.letters,
            }
            for mean in result.means
        ],
        "differences": [_difference_json(row, arguments) for row in differences],
        "cv_percent": result.cv_percent,
        "sed": [{"comparison": comparison, "value": result.sed}],
        "lsd": [{"comparison": comparison, "value": result.lsd}],
        "checks": {}
        if result.checks is None
        else {
            "shapiro": {"w": result.checks.shapiro_w, "p": result.checks.shapiro_p},
            "brown_forsythe": {"f": result.checks.brown_forsythe_f, "p": result.checks.brown_forsythe_p},
            "outlier": {
                "row": result.checks.outlier_row,
                "rstudent": result.checks.outlier_rstudent,
                "p_bonferroni": result.checks.outlier_p_bonferroni,
            },
        },
        "warnings": [*result.warnings, *warnings],
    }


def _difference_json(row: Difference, arguments: argparse.Namespace) -> dict[str, object]:
    entry: dict[str, object] = {
        "left": {arguments.treatment: row.left},
        "right": {arguments.treatment: row.right},
        "factors": [arguments.treatment],
        "within": {},
        "estimate": row.estimate,
        "se": row.se,
        "df": row.df,
        "t": row.t,
        "p": row.p,
        "p_adjusted": row.p_adjusted,
        "lower": row.lower,
        "upper": row.upper,
    }
    if arguments.margin is not None:
        entry["tost_p"] = entry["call"] = None
        if row.lower is not None and row.upper is not None and row.se is not None and row.df is not None:
            below = float(stats.t.sf((row.estimate + arguments.margin) / row.se, row.df))
            above = float(stats.t.cdf((row.estimate - arguments.margin) / row.se, row.df))
            entry["tost_p"] = max(below, above)
            entry["call"] = make_call(row.lower, row.upper, arguments.margin).name
    return entry


if __name__ == "__main__":
    raise SystemExit(main())
