"""``cultrix analyse`` for factorials and for designs whose strips lie inside strips or cross: columns in, JSON out."""

from __future__ import annotations

import argparse
from collections.abc import Mapping, Sequence
from typing import Any, cast

from cultrix_core.cli_look import cell_means, is_look, look_json
from cultrix_core.errors import Refusal
from cultrix_core.stats.checks import Checks
from cultrix_core.stats.covariates import covariate_looks, covariate_words
from cultrix_core.stats.decision_rule import Call, equivalence_p, make_call
from cultrix_core.stats.environments import analyse_environments
from cultrix_core.stats.factor_answers import Answer, Speech, best_answer, best_combination, factor_answers
from cultrix_core.stats.factor_rule import call_of_factor, families_of, judge_interactions, simple_reach
from cultrix_core.stats.families import CellDifference
from cultrix_core.stats.nested_designs import (
    FACTORS,
    NOT_A_REPLICATE,
    NestedAnalysis,
    NestedDesign,
    analyse_nested,
    precision_of,
)
from cultrix_core.tables import EMPTY_RESPONSES, Table, written_number


def is_nested(arguments: argparse.Namespace) -> bool:
    """Whether the design needs the mixed model, or several factors."""
    return (
        arguments.design in FACTORS
        or arguments.design == "multi-env"
        or len(arguments.treatment) > 1
        or arguments.strip is not None
        or arguments.covariate is not None
        or arguments.main is not None
        or (arguments.design in ("rcbd", "latin") and arguments.blocks == "random")
    )


def nested_json(arguments: argparse.Namespace, table: Table) -> dict[str, object]:
    """Analyse the table as the arguments say.

    Raises
    ------
    Refusal : missing or unknown columns, a response that is no number, and those of ``analyse_nested``.
    """
    if arguments.design == "multi-env":
        return _environments(arguments, table)
    factors = _factors(arguments)
    blocking = _blocking(arguments)
    names = [*factors, *blocking, *([arguments.strip] if arguments.strip else [])]
    covariates = [arguments.covariate] if arguments.covariate else []
    response, columns, dropped = columns_of(table, [*names, *covariates], arguments.response)
    covariate = _amounts(arguments.covariate, columns) if covariates else None
    if arguments.strip is None and is_look(columns, factors, blocking, len(response)):
        return look_json(arguments, response, columns, factors, dropped_words(dropped))
    nested = arguments.design in FACTORS
    result = analyse_nested(
        response,
        columns,
        design=cast(NestedDesign, arguments.design if nested else "factorial"),
        factors=factors,
        block=blocking[0] if blocking else None,
        row=blocking[1] if len(blocking) > 1 else None,
        strip=arguments.strip,
        covariate=covariate,
        alpha=arguments.alpha,
        adjust=arguments.adjust,
        control=_control(arguments, factors, columns),
        blocks=arguments.blocks,
    )
    warnings = [*result.warnings, *dropped_words(dropped)]
    if covariate is not None:
        warnings += covariate_words(covariate_looks(response, columns, factors, blocking, covariate), covariate[0])
    if arguments.strip is None and blocking and len(set(zip(*(columns[name] for name in names), strict=True))) < len(response):
        warnings.append(NOT_A_REPLICATE)
    return _json(result, arguments, warnings)


def _blocking(arguments: argparse.Namespace) -> list[str]:
    """Columns that the design blocks by: none, blocks, or columns and rows of a square."""
    if arguments.design == "crd":
        return []
    if arguments.design == "latin":
        if not arguments.row or not arguments.column:
            raise Refusal("missing", field="row", label="A column", remedy="A Latin square needs --row and --column.")
        return [arguments.column, arguments.row]
    if not arguments.block:
        raise Refusal("missing", field="block", label="The block column", remedy="Name it with --block.")
    return [arguments.block]


def _amounts(name: str, columns: Mapping[str, Sequence[str]]) -> tuple[str, list[float]]:
    """A covariate as numbers."""
    return name, [written_number(text, field="covariate", label=name) for text in columns[name]]


def _environments(arguments: argparse.Namespace, table: Table) -> dict[str, object]:
    if len(arguments.treatment) != 1:
        raise Refusal(
            "not_for_design",
            field="treatment",
            label=f"{len(arguments.treatment)} treatment columns",
            value="several environments",
            limit="one factor is combined over them",
            remedy="Name one with --treatment, or analyse each environment alone.",
        )
    if arguments.covariate or arguments.strip or arguments.blocks == "fixed":
        raise Refusal(
            "not_for_design",
            field="covariate",
            label="--covariate, --strip or --blocks fixed",
            value="several environments",
            limit="blocks are random inside environments, and rows are strips",
            remedy="Leave it away.",
        )
    if not arguments.environment:
        raise Refusal("missing", field="environment", label="The environment column", remedy="Name it with --environment.")
    names = [*arguments.treatment, arguments.environment, *([arguments.block] if arguments.block else [])]
    response, columns, dropped = columns_of(table, names, arguments.response)
    result = analyse_environments(
        response,
        columns,
        treatment=arguments.treatment[0],
        environment=arguments.environment,
        block=arguments.block,
        alpha=arguments.alpha,
        adjust=arguments.adjust,
        control=_control(arguments, arguments.treatment, columns),
    )
    answer = _json(result, arguments, [*result.warnings, *dropped_words(dropped)])
    return {**answer, "environment_means": cell_means(response, columns, [arguments.treatment[0], arguments.environment])}


def dropped_words(lines: Sequence[int]) -> list[str]:
    """The warning about rows left out, none where there are none."""
    return [f"Rows without a response were dropped: lines {', '.join(map(str, lines))}."] if lines else []


def _factors(arguments: argparse.Namespace) -> list[str]:
    if arguments.design not in FACTORS and (arguments.main or arguments.sub):
        raise Refusal(
            "not_for_design",
            field="main",
            label="--main or --sub",
            value=arguments.design,
            limit="strips inside main strips vary less than the main strips, and plain blocks would claim too much",
            remedy="Take --design split-plot or strip-plot, or name the factors with --treatment.",
        )
    if arguments.design in FACTORS:
        factors = [item for item in (arguments.main, arguments.sub, arguments.subsub) if item]
        if len(factors) != FACTORS[arguments.design]:
            roles = "--main, --sub and --subsub" if FACTORS[arguments.design] == 3 else "--main and --sub"
            raise Refusal("missing", field="main", label="A factor", remedy=f"A {arguments.design} design needs {roles}.")
        return factors
    if not arguments.treatment:
        raise Refusal("missing", field="treatment", label="The treatment column", remedy="Name it with --treatment.")
    return list(arguments.treatment)


def columns_of(table: Table, names: Sequence[str], response: str) -> tuple[list[float], dict[str, list[str]], list[int]]:
    """Responses and labels of the rows that have a response, and the lines of those that have none."""
    for name in (*names, response):
        if name not in table.columns:
            raise Refusal("unknown_choice", field="column", label="Column", value=name, limit=", ".join(table.columns[:20]))
    places = {name: table.columns.index(name) for name in (*names, response)}
    values: list[float] = []
    columns: dict[str, list[str]] = {name: [] for name in names}
    dropped = []
    for line, row in enumerate(table.rows, start=2):
        text = row[places[response]]
        if text.strip().lower() in EMPTY_RESPONSES:
            dropped.append(line)
            continue
        values.append(written_number(text, field="response", label=f"Line {line}: {response}"))
        for name in names:
            if not row[places[name]]:
                raise Refusal("missing", field=name, label=f"Line {line}: {name}", remedy="Every strip needs it.")
            columns[name].append(row[places[name]])
    return values, columns, dropped


def _control(arguments: argparse.Namespace, factors: Sequence[str], columns: Mapping[str, Sequence[str]]) -> dict[str, str]:
    """Control level of the factors that have it, for Dunnett."""
    if arguments.adjust != "dunnett":
        return {}
    control = {name: arguments.control for name in factors if arguments.control in columns[name]}
    if not control:
        raise Refusal("missing", field="control", remedy="Dunnett compares with a control: name a level with --control.")
    return control


def _json(result: NestedAnalysis, arguments: argparse.Namespace, warnings: list[str]) -> dict[str, object]:
    precision = precision_of(result.differences, result.alpha)
    return {
        "design": arguments.design,
        "response": arguments.response,
        "n": result.n,
        "alpha": result.alpha,
        "method": result.method,
        "anova": [
            {"term": term, "num_df": test.num_df, "den_df": test.den_df, "f": test.f, "p": test.p}
            for term, test in result.anova
        ],
        "strata": [
            {
                "stratum": row.stratum,
                "source": row.source,
                "df": row.df,
                "ss": row.ss,
                "ms": row.ms,
                "f": row.f,
                "p": row.p,
            }
            for row in result.strata
        ],
        "variance_components": [{"group": name, "variance": value} for name, value in result.components.items()],
        "means": [
            {
                "levels": dict(mean.levels),
                "factors": list(term),
                "within": {},
                "mean": mean.mean,
                "se": mean.se,
                "df": mean.df,
                "lower": mean.lower,
                "upper": mean.upper,
                "letters": None if arguments.adjust == "dunnett" else mean.letters,
            }
            for term, means in result.means.items()
            for mean in means
        ],
        "differences": [
            _difference(row, strict, arguments) for row, strict in zip(result.differences, result.deciding, strict=True)
        ],
        **factors_json(result, arguments),
        "cv_percent": result.cv_percent,
        "sed": [{"comparison": words, "value": se} for words, se, _ in precision],
        "lsd": [{"comparison": words, "value": reach} for words, _, reach in precision],
        "checks": {} if result.checks is None else checks_json(result.checks),
        "warnings": warnings,
    }


def factors_json(result: NestedAnalysis, arguments: argparse.Namespace) -> dict[str, object]:
    """The interactions as one family, and the answer: a sentence a factor, then the best combination."""
    interactions = judge_interactions(result)
    control = arguments.control if arguments.adjust == "dunnett" else None
    by_factor = [
        families_of(result, name, interactions, control if control in result.fit.factor(name).levels else None)
        for name in result.factors
    ]
    margin = call_margin(arguments)

    reach = {name: simple_reach(result, name) for name in result.factors}

    def call_of(difference: CellDifference) -> Call:
        return call_of_factor(difference, margin, reach[difference.factor])

    speech = plain_speech(arguments.response, result.alpha)
    families = [item for own in by_factor for item in own.called]
    answers = [*factor_answers(families, [item for own in by_factor for item in own.sizes], interactions, speech, call_of)]
    cells = result.means.get(result.factors, ()) if len(result.factors) > 1 else ()
    if cells:
        best = best_combination(cells, result.factors, {item.factors: item.f for item in interactions})
        answers += [answer for answer in [best_answer(best, speech)] if answer]
    return {
        "interactions": [
            {"term": ":".join(item.factors), "p": item.p, "p_holm": item.p_holm, "status": item.status} for item in interactions
        ],
        "answers": [answer_json(answer) for answer in answers],
    }


def call_margin(arguments: argparse.Namespace) -> float | None:
    """The margin of calls: the practical one, else that of equivalence."""
    margin: float | None = arguments.practical_margin if arguments.practical_margin is not None else arguments.margin
    return margin


def plain_speech(response: str, alpha: float) -> Speech:
    """Sizes as plain numbers with four digits, levels and factors as the file names them."""
    return Speech(
        size=lambda value: f"{value:.4g}",
        signed=lambda value: f"{value:+.4g}",
        level=str,
        factor=str,
        noun=response,
        per_cent=f"{100 * (1 - alpha):g} %",
    )


def answer_json(answer: Answer) -> dict[str, object]:
    """One sentence with what it is about."""
    return {"factor": answer.factor, "kind": answer.kind, "within": dict(answer.within), "sentence": answer.sentence}


def _difference(row: CellDifference, strict: CellDifference, arguments: argparse.Namespace) -> dict[str, object]:
    entry: dict[str, Any] = {
        "left": {row.factor: row.left},
        "right": {row.factor: row.right},
        "factors": [row.factor],
        "within": dict(row.within),
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
        entry["tost_p"] = equivalence_p(strict.estimate, strict.se, strict.df, arguments.margin)
    if call_margin(arguments) is not None:
        entry["call"] = make_call(strict.lower, strict.upper, call_margin(arguments)).name
        if strict is not row:
            entry["call_lower"], entry["call_upper"] = strict.lower, strict.upper
    return entry


def checks_json(checks: Checks) -> dict[str, object]:
    """The checks as numbers; empty where too few strips stand."""
    if checks.shapiro_w is None:
        return {}
    return {
        "shapiro": {"w": checks.shapiro_w, "p": checks.shapiro_p},
        "brown_forsythe": {"f": checks.brown_forsythe_f, "p": checks.brown_forsythe_p},
        "outlier": {
            "row": checks.outlier_row,
            "rstudent": checks.outlier_rstudent,
            "p_bonferroni": checks.outlier_p_bonferroni,
        },
        "additivity": {"f": checks.additivity_f, "p": checks.additivity_p},
    }
