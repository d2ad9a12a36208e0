"""What the commands do: a table in, an answer as plain data out. Imported once a command is known: it brings the statistics."""

from __future__ import annotations

import argparse
import dataclasses
from collections.abc import Sequence

from cultrix_core.cli_curve import curve_json
from cultrix_core.cli_emergence import emergence_json
from cultrix_core.cli_nested import (
    answer_json,
    call_margin,
    checks_json,
    columns_of,
    dropped_words,
    is_nested,
    nested_json,
    plain_speech,
)
from cultrix_core.design.audit import audit
from cultrix_core.design.designs import design_kind
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
from cultrix_core.stats.compare import Comparison, Difference, StripResponse, compare
from cultrix_core.stats.decision_rule import equivalence_p, make_call
from cultrix_core.stats.factor_answers import factor_answers
from cultrix_core.stats.factor_rule import Family
from cultrix_core.stats.families import CellDifference
from cultrix_core.stats.multiplicity import Adjust, t_critical
from cultrix_core.tables import Table, read_table

MOST_BYTES = 50_000_000


def power_json(arguments: argparse.Namespace) -> dict[str, object]:
    """``cultrix power``. Refusals: ``too_few_treatments``, ``too_few_blocks``, ``missing`` variation."""
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
    rows = [_stratum_json(stratum, arguments) for stratum in strata(size, variation)]
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


def analyse_json(arguments: argparse.Namespace) -> dict[str, object]:
    """``cultrix analyse``. Refusals are those of the design's own analysis."""
    _require_size(arguments)
    table = read_table(arguments.file.read_text(encoding="utf-8"))
    if is_nested(arguments):
        return nested_json(arguments, table)
    if not arguments.treatment:
        raise Refusal("missing", field="treatment", label="The treatment column", remedy="Name it with --treatment.")
    arguments.treatment = arguments.treatment[0]
    strips, warnings = _strips(arguments, table)
    adjust: Adjust = arguments.adjust
    if adjust == "dunnett" and arguments.control is None:
        raise Refusal("missing", field="control", remedy="Dunnett compares with a control: name it with --control.")
    result = compare(
        strips,
        design=arguments.design,
        alpha=arguments.alpha,
        control=arguments.control,
        levels=tuple(
            dict.fromkeys(table.rows[line][table.columns.index(arguments.treatment)] for line in range(len(table.rows)))
        ),
        pairs_adjust="none" if adjust == "dunnett" else adjust,
    )
    return _as_json(result, arguments, warnings)


def curve_of_file(arguments: argparse.Namespace) -> dict[str, object]:
    """``cultrix curve``. Refusals are those of ``curve_json``."""
    _require_size(arguments)
    return curve_json(arguments, read_table(arguments.file.read_text(encoding="utf-8")))


def emergence_of_file(arguments: argparse.Namespace) -> dict[str, object]:
    """``cultrix emergence``. Refusals are those of ``emergence_json``."""
    _require_size(arguments)
    return emergence_json(arguments, read_table(arguments.file.read_text(encoding="utf-8")))


def audit_json(arguments: argparse.Namespace) -> dict[str, object]:
    """``cultrix audit``. Refusals: ``unknown_choice`` and ``duplicate`` columns, ``missing`` treatments, those of ``audit``."""
    _require_size(arguments)
    table = read_table(arguments.file.read_text(encoding="utf-8"))
    names = [arguments.treatment, *arguments.against]
    for name in names:
        if name not in table.columns:
            raise Refusal("unknown_choice", field="column", label="Column", value=name, limit=", ".join(table.columns[:20]))
        if names.count(name) > 1:
            raise Refusal("duplicate", field="column", label="Column", value=name, remedy="Name each once.")
    columns = {name: [row[table.columns.index(name)] for row in table.rows] for name in names}
    treatments = columns.pop(arguments.treatment)
    for line, name in enumerate(treatments, start=2):
        if not name.strip():
            raise Refusal(
                "missing", field="treatment", label=f"Line {line}: {arguments.treatment}", remedy="Every strip needs it."
            )
    return {"findings": [dataclasses.asdict(finding) for finding in audit(treatments, columns)]}


def _require_size(arguments: argparse.Namespace) -> None:
    if arguments.file.stat().st_size > MOST_BYTES:
        raise Refusal(
            "too_large", field="file", label="The file", value=arguments.file.stat().st_size, limit=MOST_BYTES, unit=" bytes"
        )


def _strips(arguments: argparse.Namespace, table: Table) -> tuple[list[StripResponse], list[str]]:
    """Rows with a response as strips, whatever blocks them, and what was left out."""
    square = arguments.design == "latin"
    block = arguments.column if square else arguments.block
    if arguments.design == "rcbd" and not block:
        raise Refusal("missing", field="block", label="The block column", remedy="Complete blocks need --block.")
    if square and (not arguments.row or not block):
        raise Refusal("missing", field="row", label="A column", remedy="A Latin square needs --row and --column.")
    wanted = [arguments.treatment, *([block] if arguments.design != "crd" else []), *([arguments.row] if square else [])]
    if len({*wanted, arguments.response}) <= len(wanted):
        raise Refusal(
            "duplicate",
            field="column",
            label="Column",
            value=arguments.response,
            remedy="Each part needs its own.",
        )
    values, columns, dropped = columns_of(table, wanted, arguments.response)
    blocks = columns[block] if arguments.design != "crd" else [""] * len(values)
    rows = columns[arguments.row] if square else [""] * len(values)
    strips = [
        StripResponse(treatment=level, block=place, response=value, row=row)
        for level, place, value, row in zip(columns[arguments.treatment], blocks, values, rows, strict=True)
    ]
    return strips, dropped_words(dropped)


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
        "interactions": [],
        "answers": _answers(differences, arguments, result.alpha),
        "cv_percent": result.cv_percent,
        "sed": [{"comparison": comparison, "value": result.sed}],
        "lsd": [{"comparison": comparison, "value": result.lsd}],
        "checks": {} if result.checks is None else checks_json(result.checks),
        "warnings": [*result.warnings, *warnings],
    }


def _answers(differences: Sequence[Difference], arguments: argparse.Namespace, alpha: float) -> list[dict[str, object]]:
    """One sentence about the one factor; none where nothing is replicated."""
    rows = tuple(
        CellDifference(
            factor=arguments.treatment,
            left=row.left,
            right=row.right,
            within={},
            estimate=row.estimate,
            se=row.se,
            df=row.df,
            t=row.t or 0.0,
            p=row.p or 0.0,
            p_adjusted=row.p_adjusted or 0.0,
            lower=row.lower,
            upper=row.upper,
            critical=0.0,
        )
        for row in differences
        if row.lower is not None and row.upper is not None and row.se is not None and row.df is not None
    )
    if not rows:
        return []
    against = arguments.control if arguments.adjust == "dunnett" else None
    adjust: Adjust = arguments.adjust
    one = Family(
        factor=arguments.treatment,
        within={},
        against=against,
        adjust=adjust,
        level=alpha,
        own_level=alpha,
        differences=rows,
    )
    told = factor_answers(
        [one],
        [],
        [],
        plain_speech(arguments.response, alpha),
        lambda row: make_call(row.lower, row.upper, call_margin(arguments)),
    )
    return [answer_json(answer) for answer in told]


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
    asked = {"tost_p": arguments.margin, "call": call_margin(arguments)}
    entry |= {name: None for name, value in asked.items() if value is not None}
    if row.lower is not None and row.upper is not None and row.se is not None and row.df is not None:
        if arguments.margin is not None:
            entry["tost_p"] = equivalence_p(row.estimate, row.se, row.df, arguments.margin)
        if asked["call"] is not None:
            entry["call"] = make_call(row.lower, row.upper, asked["call"]).name
    return entry
