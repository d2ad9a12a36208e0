"""The command ``cultrix``: a thin face of the core that reads a CSV and prints JSON.

``analyse`` takes one trial of any design in ``nested_designs``, completely randomised trials, complete blocks and Latin
squares. ``device`` prints the table the field book reckons with. Bad input: exit 2 and one line on standard error.
"""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path

from cultrix_core.cli_curve import curve_json
from cultrix_core.cli_nested import checks_json, columns_of, dropped_words, is_nested, nested_json
from cultrix_core.design.designs import DESIGNS, design_kind
from cultrix_core.design.detectable_difference import (
    DesignSize,
    Stratum,
    Variation,
    detect,
    least_detectable,
    power,
    power_f,
    strata,
)
from cultrix_core.errors import Refusal
from cultrix_core.stand.device import device_table
from cultrix_core.stats.compare import Comparison, Difference, StripResponse, compare
from cultrix_core.stats.decision_rule import equivalence_p, make_call
from cultrix_core.stats.multiplicity import Adjust, t_critical
from cultrix_core.stats.nested_designs import FACTORS
from cultrix_core.tables import MappedRow, map_strips, read_table

MOST_BYTES = 50_000_000


def main(argv: list[str] | None = None) -> int:
    """Run the command; returns the exit code."""
    arguments = _parser().parse_args(argv)
    try:
        works = {"device": lambda _: device_table(), "power": _power, "analyse": _analyse, "curve": _curve}
        answer = works[arguments.command](arguments)
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
    analyse.add_argument("--design", required=True, choices=["crd", "rcbd", "latin", *FACTORS, "multi-env"])
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
    analyse.add_argument("--margin", type=float)
    analyse.add_argument("--json", action="store_true")
    curve = commands.add_parser("curve", help="response to an amount: shapes, optimum, what pays")
    curve.add_argument("file", type=Path)
    curve.add_argument("--x", required=True, help="column of the amounts")
    curve.add_argument("--response", required=True)
    curve.add_argument("--block")
    curve.add_argument("--price", type=float, help="of one unit of the response")
    curve.add_argument("--cost", type=float, help="of one unit of the amount")
    curve.add_argument("--alpha", type=float, default=0.10)
    curve.add_argument("--json", action="store_true")
    planned = commands.add_parser("power", help="what a design can detect, before a seed is sown")
    planned.add_argument("--design", required=True, choices=[design.key for design in DESIGNS if design.replicated])
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
    device = commands.add_parser("device", help="the field book's t table and fixtures")
    device.add_argument("--json", action="store_true")
    return parser


def _power(arguments: argparse.Namespace) -> dict[str, object]:
    split = design_kind(arguments.design).split
    size = DesignSize(
        design=arguments.design,
        treatments=arguments.main * arguments.sub * max(arguments.subsub, 1) if split else arguments.treatments,
        blocks=arguments.blocks,
        main=arguments.main,
        sub=arguments.sub,
        subsub=arguments.subsub,
        control=not arguments.no_control,
    )
    if size.treatments < 2:
        raise Refusal("too_few_treatments", field="treatments", value=size.treatments)
    if size.blocks < 2:
        raise Refusal("too_few_blocks", field="blocks", value=size.blocks)
    cv = arguments.cv_sub or arguments.cv
    if cv is None:
        raise Refusal("missing", field="cv", label="The variation", remedy="Give --cv, or --cv-main and --cv-sub.")
    variation = Variation(cv_pct=cv, cv_main_pct=arguments.cv_main)
    rows = [_stratum_json(one, arguments) for one in strata(size, variation)]
    simple = (
        size.kind.blocking == "blocks" and not (size.kind.split or size.kind.extra_control) and arguments.difference is not None
    )
    chance = (
        power_f(
            treatments=size.treatments,
            blocks=size.blocks,
            cv_pct=cv,
            difference_pct=arguments.difference,
            alpha=arguments.alpha,
        )
        if simple
        else None
    )
    return {"design": size.design, "alpha": arguments.alpha, **rows[0], "power_f": chance, "strata": rows}


def _stratum_json(stratum: Stratum, arguments: argparse.Namespace) -> dict[str, object]:
    adjusted = detect(stratum, alpha=arguments.alpha, margin_pct=arguments.difference)
    plain = t_critical(arguments.alpha, stratum.df)
    return {
        "stratum": stratum.key,
        "df": stratum.df,
        "sed": stratum.sed_pct,
        "power_pairwise": None
        if arguments.difference is None
        else power(arguments.difference / stratum.sed_pct, stratum.df, plain),
        "power_adjusted": adjusted.power_at_margin,
        "ldd_pairwise_80": least_detectable(stratum.sed_pct, stratum.df, plain),
        "ldd_adjusted_80": adjusted.least_detectable_pct,
        "adjust": stratum.adjust,
    }


def _analyse(arguments: argparse.Namespace) -> dict[str, object]:
    _require_size(arguments)
    if is_nested(arguments):
        return nested_json(arguments, read_table(arguments.file.read_text(encoding="utf-8")))
    if not arguments.treatment:
        raise Refusal("missing", field="treatment", label="The treatment column", remedy="Name it with --treatment.")
    arguments.treatment = arguments.treatment[0]
    squares = _rows_of_square(arguments)
    rows, warnings = _unblocked(arguments) if arguments.design == "crd" else _read(arguments)
    adjust: Adjust = arguments.adjust
    if adjust == "dunnett" and arguments.control is None:
        raise Refusal("missing", field="control", remedy="Dunnett compares with a control: name it with --control.")
    strips = [
        StripResponse(treatment=row.treatment, block=row.block, response=row.response, row=squares.get(row.line, ""))
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


def _curve(arguments: argparse.Namespace) -> dict[str, object]:
    _require_size(arguments)
    return curve_json(arguments, read_table(arguments.file.read_text(encoding="utf-8")))


def _require_size(arguments: argparse.Namespace) -> None:
    if arguments.file.stat().st_size > MOST_BYTES:
        raise Refusal(
            "too_large", field="file", label="The file", value=arguments.file.stat().st_size, limit=MOST_BYTES, unit=" bytes"
        )


def _rows_of_square(arguments: argparse.Namespace) -> dict[int, str]:
    """Row of a Latin square by line of the file; its columns take the part of blocks."""
    if arguments.design != "latin":
        return {}
    if not arguments.row or not arguments.column:
        raise Refusal("missing", field="row", label="A column", remedy="A Latin square needs --row and --column.")
    table = read_table(arguments.file.read_text(encoding="utf-8"))
    if arguments.row not in table.columns:
        raise Refusal("unknown_choice", field="row", label="Column", value=arguments.row, limit=", ".join(table.columns[:20]))
    place = table.columns.index(arguments.row)
    return {line: row[place] for line, row in enumerate(table.rows, start=2)}


def _read(arguments: argparse.Namespace) -> tuple[tuple[MappedRow, ...], list[str]]:
    table = read_table(arguments.file.read_text(encoding="utf-8"))
    if arguments.design == "rcbd" and not arguments.block:
        raise Refusal("missing", field="block", label="The block column", remedy="Complete blocks need --block.")
    block = arguments.column if arguments.design == "latin" else arguments.block
    rows, problems = map_strips(table, block=block, treatment=arguments.treatment, response=arguments.response)
    if problems:
        more = f" (and {len(problems) - 1} more problems)" if len(problems) > 1 else ""
        raise Refusal("missing", field="file", label="A usable table", remedy=problems[0].text + more)
    dropped = [str(row.line) for row in rows if row.response is None]
    warnings = [f"Rows without a response were dropped: lines {', '.join(dropped)}."] if dropped else []
    return rows, warnings


def _unblocked(arguments: argparse.Namespace) -> tuple[tuple[MappedRow, ...], list[str]]:
    """Rows of a completely randomised trial, whose file needs no other column."""
    table = read_table(arguments.file.read_text(encoding="utf-8"))
    values, columns, dropped = columns_of(table, [arguments.treatment], arguments.response)
    levels = columns[arguments.treatment]
    rows = tuple(
        MappedRow(line=line, block="", treatment=level, response_text="", response=value)
        for line, (level, value) in enumerate(zip(levels, values, strict=True), start=2)
    )
    return rows, dropped_words(dropped)


def _as_json(result: Comparison, arguments: argparse.Namespace, warnings: list[str]) -> dict[str, object]:
    names = {"treatment": arguments.treatment, "block": arguments.block or arguments.column, "row": arguments.row}
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
        "checks": {} if result.checks is None else checks_json(result.checks),
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
            entry["tost_p"] = equivalence_p(row.estimate, row.se, row.df, arguments.margin)
            entry["call"] = make_call(row.lower, row.upper, arguments.margin).name
    return entry


if __name__ == "__main__":
    raise SystemExit(main())
