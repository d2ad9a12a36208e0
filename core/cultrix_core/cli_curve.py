"""``cultrix curve``: amounts and responses of a file in; shapes, the averaged curve and what pays as JSON out."""

from __future__ import annotations

import argparse
import json
from collections.abc import Sequence

from cultrix_core.cli_nested import columns_of, dropped_words
from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.stats.amounts import answer_amounts, fit_amounts
from cultrix_core.stats.averaged_curve import AveragedCurve, Best, Stretch
from cultrix_core.stats.contrast_test import Guess, guess_of
from cultrix_core.stats.curves import Optimum, Shape, fit_curves
from cultrix_core.stats.mixed_model import MixedFit, MixedTest, term_test
from cultrix_core.tables import Table, written_number

MOST_SHAPES = 12


def curve_json(arguments: argparse.Namespace, table: Table) -> dict[str, object]:
    """Fit all shapes, and average them over the adjusted means.

    Raises
    ------
    Refusal : price without cost or the other way round, columns that are not there or named twice, shapes that are none, and
        those of ``fit_curves``, ``fit_averaged`` and ``contrast_test``.
    """
    if (arguments.price is None) != (arguments.cost is None):
        raise Refusal("missing", field="price", label="Price and cost", remedy="The profit optimum needs both.")
    ratio = None
    if arguments.price is not None:
        ratio = require_between(arguments.cost, 0, 1e12, "cost") / require_positive(arguments.price, "price")
    if arguments.within is not None:
        require_positive(arguments.within, "within", label="The loss to put up with")
    names = [arguments.x, *([arguments.block] if arguments.block else []), *([arguments.by] if arguments.by else [])]
    if len({*names, arguments.response}) <= len(names):
        raise Refusal("duplicate", field="column", label="Column", value=arguments.response, remedy="Each part needs its own.")
    response, columns, dropped = columns_of(table, names, arguments.response)
    amounts = [written_number(text, field="x", label=arguments.x) for text in columns[arguments.x]]
    blocks = columns[arguments.block] if arguments.block else None
    curve_fit = fit_curves(amounts, response, blocks, ratio=ratio, alpha=arguments.alpha)
    guesses = _guesses(arguments)
    by = columns[arguments.by] if arguments.by else None
    fit, why = _fitted(amounts, response, blocks, by)
    answer: dict[str, object] = {
        "x": arguments.x,
        "response": arguments.response,
        "n": len(response),
        "alpha": arguments.alpha,
        "models": [_shape(shape) for shape in curve_fit.shapes],
        "chosen": curve_fit.chosen,
        "optimum": _optimum(curve_fit.optimum),
        "profit_optimum": _optimum(curve_fit.profit_optimum) if curve_fit.profit_optimum else None,
        **_told(arguments, fit, {}, guesses),
        "warnings": [*curve_fit.warnings, *dropped_words(dropped), *why],
    }
    if fit is not None and by is not None and len(set(by)) > 1:
        test = term_test(fit, ("other", "amount"))
        answer["differ"] = _test(test)
        answer["by"] = [{"level": level, **_told(arguments, fit, {"other": level}, guesses)} for level in dict.fromkeys(by)]
    return answer


def _fitted(
    amounts: Sequence[float], response: Sequence[float], blocks: Sequence[str] | None, by: Sequence[str] | None
) -> tuple[MixedFit | None, list[str]]:
    """The adjusted means, or in words why there are none: shapes of strips are told all the same."""
    try:
        return fit_amounts(amounts, response, blocks, by), []
    except Refusal as refusal:
        return None, [f"No averaged curve: {refusal.message}"]


def _told(
    arguments: argparse.Namespace, fit: MixedFit | None, at: dict[str, str], guesses: Sequence[Guess]
) -> dict[str, object]:
    """The averaged curve and the test of shapes, over all or at one level of another factor."""
    if fit is None:
        return {"averaged": None, "contrast_test": None}
    answer = answer_amounts(
        fit,
        at=at,
        alpha=arguments.alpha,
        price=arguments.price,
        cost=arguments.cost,
        within=arguments.within,
        guesses=guesses,
    )
    test = answer.test
    return {
        "averaged": _averaged(answer.curve),
        "contrast_test": {
            "shapes": [
                {
                    "name": item.guess.name,
                    "guess": item.guess.guess,
                    "t": item.t,
                    "p": item.p,
                    "p_adjusted": item.p_adjusted,
                }
                for item in test.shapes
            ],
            "t": test.t,
            "p": test.p,
            "df": test.df,
        },
    }


def _guesses(arguments: argparse.Namespace) -> tuple[Guess, ...]:
    """The frozen shapes of a file; none without one."""
    if arguments.shapes is None:
        return ()
    try:
        read = json.loads(arguments.shapes.read_text(encoding="utf-8"))
        listed = read["shapes"] if isinstance(read, dict) else read
        shapes = [(str(item["name"]), item.get("guess")) for item in listed]
        guesses = [(name, None if value is None else float(value)) for name, value in shapes]
    except (ValueError, TypeError, KeyError, AttributeError) as error:
        raise Refusal(
            "missing", field="shapes", label="A list of shapes", remedy='Write JSON: [{"name": "quadratic", "guess": 85}].'
        ) from error
    if not 1 <= len(guesses) <= MOST_SHAPES:
        raise Refusal("too_large", field="shapes", label="Shapes", value=len(guesses), limit=MOST_SHAPES)
    return tuple(guess_of(name, value) for name, value in guesses)


def _averaged(curve: AveragedCurve) -> dict[str, object]:
    return {
        "weights": dict(curve.weights),
        "optimum": _best(curve.best),
        "profit_optimum": _best(curve.profit) if curve.profit else None,
        "estimated_range": _stretch(curve.estimated),
        "shown_range": _stretch(curve.shown),
        "within": curve.within,
    }


def _best(best: Best) -> dict[str, object]:
    return {"x": best.x, "lower": best.lower, "upper": best.upper, "at_end": best.at_end}


def _stretch(stretch: Stretch | None) -> dict[str, float] | None:
    return {"lower": stretch.lower, "upper": stretch.upper} if stretch else None


def _test(test: MixedTest) -> dict[str, float]:
    return {"num_df": test.num_df, "den_df": test.den_df, "f": test.f, "p": test.p}


def _shape(shape: Shape) -> dict[str, object]:
    return {
        "name": shape.name,
        "status": shape.status,
        "parameters": [{"name": part.name, "estimate": part.estimate, "se": part.se} for part in shape.parameters],
        "sigma": shape.sigma,
        "aicc": shape.aicc,
    }


def _optimum(optimum: Optimum) -> dict[str, object]:
    return {
        "x": optimum.x,
        "lower": optimum.lower,
        "upper": optimum.upper,
        "inside_range": optimum.inside_range,
        "words": optimum.words,
    }
