"""``cultrix curve``: amounts and responses of a file in, shapes and optima as JSON out."""

from __future__ import annotations

import argparse

from cultrix_core.cli_nested import columns_of, dropped_words
from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.stats.curves import Optimum, Shape, fit_curves
from cultrix_core.tables import Table
from cultrix_core.units import parse_number


def curve_json(arguments: argparse.Namespace, table: Table) -> dict[str, object]:
    """Fit all shapes.

    Raises
    ------
    Refusal : price without cost or the other way round, columns that are not there, and those of ``fit_curves``.
    """
    if (arguments.price is None) != (arguments.cost is None):
        raise Refusal("missing", field="price", label="Price and cost", remedy="The profit optimum needs both.")
    ratio = None
    if arguments.price is not None:
        ratio = require_between(arguments.cost, 0, 1e12, "cost") / require_positive(arguments.price, "price")
    names = [arguments.x, *([arguments.block] if arguments.block else [])]
    response, columns, dropped = columns_of(table, names, arguments.response)
    amounts = [parse_number(text, field="x", label=arguments.x) for text in columns[arguments.x]]
    found = fit_curves(
        amounts, response, columns[arguments.block] if arguments.block else None, ratio=ratio, alpha=arguments.alpha
    )
    return {
        "x": arguments.x,
        "response": arguments.response,
        "n": len(response),
        "alpha": arguments.alpha,
        "models": [_shape(shape) for shape in found.shapes],
        "chosen": found.chosen,
        "optimum": _optimum(found.optimum),
        "profit_optimum": _optimum(found.profit_optimum) if found.profit_optimum else None,
        "warnings": [*found.warnings, *dropped_words(dropped)],
    }


def _shape(one: Shape) -> dict[str, object]:
    return {
        "name": one.name,
        "status": one.status,
        "parameters": [{"name": part.name, "estimate": part.estimate, "se": part.se} for part in one.parameters],
        "sigma": one.sigma,
        "aicc": one.aicc,
    }


def _optimum(one: Optimum) -> dict[str, object]:
    return {"x": one.x, "lower": one.lower, "upper": one.upper, "inside_range": one.inside_range, "words": one.words}
