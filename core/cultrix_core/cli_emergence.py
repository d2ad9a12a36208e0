"""``cultrix emergence``: cumulative counts by strip and day in; when plants came up, by treatment and strip, as JSON out."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from math import exp, log

from cultrix_core.errors import Refusal, require_between
from cultrix_core.stand.emergence_time import StripCounts, TimeFit, Way, fit_common_shape, fit_time
from cultrix_core.stats.compare import Comparison, StripResponse, compare
from cultrix_core.tables import Table, written_number

WAYS: tuple[tuple[str, Way], ...] = (
    ("all_sown", "all-sown"),
    ("emerged", "emerged"),
    ("three_parameter", "three-parameter"),
)
POOLED = (
    "Standard errors of pooled fits take seeds as independent and are too small where strips differ: the comparison goes by "
    "strips."
)


def emergence_json(arguments: argparse.Namespace, table: Table) -> dict[str, object]:
    """Fit every treatment over its strips pooled, every strip alone, and compare strips.

    Raises
    ------
    Refusal : columns that are not there or named twice, numbers that are none, and those of ``fit_time`` and ``compare``.
    """
    require_between(arguments.alpha, 0.001, 0.5, "alpha", label="Significance level")
    strips = _strips(arguments, table)
    treatments = list(dict.fromkeys(strip.treatment for strip in strips))
    fits, silent = _by_strip(strips)
    warnings = [f"Strip {name} is left out: {why}" for name, why in silent]
    return {
        "alpha": arguments.alpha,
        "strips": [_strip_json(strip, *fits[strip.strip]) for strip in strips if strip.strip in fits],
        "treatments": [_treatment_json(name, [strip for strip in strips if strip.treatment == name]) for name in treatments],
        "common_shape": _common_json(strips, treatments) if len(treatments) > 1 else None,
        "comparison": _comparison_json(strips, fits, arguments) if len(treatments) > 1 else None,
        "warnings": [*warnings, POOLED],
    }


def _strips(arguments: argparse.Namespace, table: Table) -> list[StripCounts]:
    labels = [arguments.strip, arguments.treatment, *([arguments.block] if arguments.block else [])]
    numbers = [arguments.day, arguments.emerged, arguments.sown]
    names = [*labels, *numbers]
    for name in names:
        if name not in table.columns:
            raise Refusal("unknown_choice", field="column", label="Column", value=name, limit=", ".join(table.columns[:20]))
    if len(set(names)) < len(names):
        twice = next(name for name in names if names.count(name) > 1)
        raise Refusal("duplicate", field="column", label="Column", value=twice, remedy="Each part needs its own.")
    places = {name: table.columns.index(name) for name in names}
    rows: dict[str, list[tuple[str, str, float, float, float]]] = {}
    for line, row in enumerate(table.rows, start=2):
        day, emerged, sown = (written_number(row[places[name]], field=name, label=f"Line {line}: {name}") for name in numbers)
        block = row[places[arguments.block]] if arguments.block else ""
        rows.setdefault(row[places[arguments.strip]], []).append((row[places[arguments.treatment]], block, day, emerged, sown))
    strips = []
    for name, own in rows.items():
        for place, label in ((0, "treatment"), (1, "block"), (4, "seeds sown")):
            if len({item[place] for item in own}) > 1:
                told = ", ".join(str(item[place]) for item in own[:2])
                raise Refusal(
                    "duplicate", field=label, label=f"The {label} of strip", value=name, remedy=f"It has several: {told}."
                )
        strips.append(
            StripCounts(
                strip=name,
                treatment=own[0][0],
                block=own[0][1],
                days=tuple(item[2] for item in own),
                emerged=tuple(item[3] for item in own),
                sown=own[0][4],
            )
        )
    return strips


def _by_strip(strips: Sequence[StripCounts]) -> tuple[dict[str, tuple[TimeFit, TimeFit]], list[tuple[str, str]]]:
    """Among those that emerged, and with the final share, of every strip that tells its time; and why others do not."""
    fits, silent = {}, []
    for strip in strips:
        try:
            fits[strip.strip] = (fit_time([strip], "emerged"), fit_time([strip], "three-parameter"))
        except Refusal as refusal:
            if refusal.code != "not_estimable":
                raise
            silent.append((strip.strip, refusal.message))
    return fits, silent


def _fit_json(fit: TimeFit) -> dict[str, object]:
    return {
        "t50": fit.t50,
        "se_t50": fit.se_t50,
        "shape": fit.shape,
        "se_shape": fit.se_shape,
        "final_fraction": fit.final,
        "se_final_fraction": fit.se_final,
        "t90": fit.day_of(0.9),
        "days_10_to_90": fit.day_of(0.9) - fit.day_of(0.1),
        "loglik": fit.loglik,
    }


def _treatment_json(name: str, strips: Sequence[StripCounts]) -> dict[str, object]:
    return {"treatment": name, "strips": len(strips), **{key: _fit_json(fit_time(strips, way)) for key, way in WAYS}}


def _strip_json(strip: StripCounts, emerged: TimeFit, final: TimeFit) -> dict[str, object]:
    return {
        "strip": strip.strip,
        "treatment": strip.treatment,
        "block": strip.block,
        "emerged_fraction": max(strip.emerged) / strip.sown,
        "emerged": _fit_json(emerged),
        "three_parameter": _fit_json(final),
    }


def _common_json(strips: Sequence[StripCounts], treatments: Sequence[str]) -> dict[str, object]:
    common = fit_common_shape(strips, treatments)
    rows = zip(common.treatments, common.t50, common.se, common.se_clustered, strict=True)
    return {
        "shape": common.shape,
        "loglik": common.loglik,
        "t50": [{"treatment": name, "t50": t50, "se": se, "se_clustered": robust} for name, t50, se, robust in rows],
        "log_ratio_to_first": [
            {"treatment": name, "estimate": estimate, "se": se, "se_clustered": robust}
            for name, estimate, se, robust in common.log_ratios
        ],
    }


def _comparison_json(
    strips: Sequence[StripCounts], fits: dict[str, tuple[TimeFit, TimeFit]], arguments: argparse.Namespace
) -> dict[str, object]:
    """log t50 of those that emerged, and the share that emerged, over strips."""
    told = [strip for strip in strips if strip.strip in fits]
    log_t50 = {name: log(emerged.t50) for name, (emerged, _) in fits.items()}
    return {
        "log_t50": _compared(told, log_t50, arguments, turned=True),
        "emerged_fraction": _compared(
            told, {strip.strip: max(strip.emerged) / strip.sown for strip in told}, arguments, turned=False
        ),
    }


def _compared(
    strips: Sequence[StripCounts], values: dict[str, float], arguments: argparse.Namespace, *, turned: bool
) -> dict[str, object]:
    rows = [
        StripResponse(treatment=strip.treatment, block=strip.block, response=values[strip.strip], label=f"Strip {strip.strip}")
        for strip in strips
    ]
    result: Comparison = compare(rows, design="rcbd" if arguments.block else "crd", alpha=arguments.alpha, pairs_adjust="tukey")
    means = []
    for mean in result.means:
        line: dict[str, object] = {
            "treatment": mean.level,
            "mean": mean.mean,
            "se": mean.se,
            "lower": mean.lower,
            "upper": mean.upper,
        }
        if turned:
            line |= {
                "t50": exp(mean.mean),
                "t50_lower": None if mean.lower is None else exp(mean.lower),
                "t50_upper": None if mean.upper is None else exp(mean.upper),
            }
        means.append(line)
    return {
        "anova": [
            {"term": test.term, "num_df": test.num_df, "den_df": result.residual_df, "f": test.f, "p": test.p}
            for test in result.anova
        ],
        "means": means,
        "differences": [
            {
                "left": pair.left,
                "right": pair.right,
                "estimate": pair.estimate,
                "se": pair.se,
                "df": pair.df,
                "p": pair.p,
                "p_adjusted": pair.p_adjusted,
                "lower": pair.lower,
                "upper": pair.upper,
            }
            for pair in result.pairs
        ],
    }
