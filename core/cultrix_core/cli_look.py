"""``cultrix analyse`` of several factors that stand once each: means and differences, nothing that would need replicates."""

from __future__ import annotations

import argparse
from collections.abc import Mapping, Sequence
from itertools import combinations, product

from cultrix_core.stats.compare import UNREPLICATED

Columns = Mapping[str, Sequence[str]]


def is_look(columns: Columns, factors: Sequence[str], blocking: Sequence[str], rows: int) -> bool:
    """Whether every combination stands once, in one block at most, with something to compare."""
    cells = set(zip(*(columns[name] for name in factors), strict=True))
    varied = all(len(set(columns[name])) > 1 for name in factors)
    return varied and len(cells) == rows and all(len(set(columns[name])) < 2 for name in blocking)


def cell_means(response: Sequence[float], columns: Columns, factors: Sequence[str]) -> list[dict[str, object]]:
    """Plain means of the combinations of factors that stand, with their number of rows."""
    result: dict[tuple[str, ...], list[float]] = {}
    for place, value in enumerate(response):
        result.setdefault(tuple(columns[name][place] for name in factors), []).append(value)
    return [
        {"levels": dict(zip(factors, cell, strict=True)), "mean": sum(values) / len(values), "n": len(values)}
        for cell, values in result.items()
    ]


def look_json(
    arguments: argparse.Namespace, response: Sequence[float], columns: Columns, factors: Sequence[str], warnings: Sequence[str]
) -> dict[str, object]:
    """The answer of an unreplicated trial: p values and intervals are null."""
    nothing = dict.fromkeys(("se", "df", "lower", "upper"))
    means, differences = [], []
    for size in range(1, len(factors) + 1):
        for term in combinations(factors, size):
            means += [
                {
                    "levels": cell_mean["levels"],
                    "factors": list(term),
                    "within": {},
                    "mean": cell_mean["mean"],
                    **nothing,
                    "letters": None,
                }
                for cell_mean in cell_means(response, columns, term)
            ]
    for name in factors:
        others = [factor for factor in factors if factor != name]
        for within in _places(columns, others):
            differences += _pairs(response, columns, name, within, dict(nothing))
    if arguments.margin is not None:
        for difference in differences:
            difference["tost_p"] = difference["call"] = None
    return {
        "design": arguments.design,
        "response": arguments.response,
        "n": len(response),
        "alpha": arguments.alpha,
        "method": "Description only: one strip a treatment.",
        "anova": [],
        "strata": [],
        "variance_components": [],
        "means": means,
        "differences": differences,
        "interactions": [],
        "answers": [],
        "cv_percent": None,
        "sed": [],
        "lsd": [],
        "checks": {},
        "warnings": [UNREPLICATED, *warnings],
    }


def _places(columns: Columns, others: Sequence[str]) -> list[dict[str, str]]:
    return [
        dict(zip(inside, cell, strict=True))
        for size in range(len(others) + 1)
        for inside in combinations(others, size)
        for cell in product(*(dict.fromkeys(columns[name]) for name in inside))
    ]


def _pairs(
    response: Sequence[float], columns: Columns, name: str, within: Mapping[str, str], nothing: dict[str, object]
) -> list[dict[str, object]]:
    """Differences of a factor's levels among the strips at one place; a level without a strip there is left out."""
    result: dict[str, list[float]] = {}
    for place, value in enumerate(response):
        if all(columns[other][place] == level for other, level in within.items()):
            result.setdefault(columns[name][place], []).append(value)
    mean = {level: sum(values) / len(values) for level, values in result.items()}
    return [
        {
            "left": {name: left},
            "right": {name: right},
            "factors": [name],
            "within": dict(within),
            "estimate": mean[left] - mean[right],
            **nothing,
            "t": None,
            "p": None,
            "p_adjusted": None,
        }
        for left, right in combinations(mean, 2)
    ]
