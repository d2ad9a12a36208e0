"""``make trust-answers``: what the sentences of the verdict promise, held against simulated trials of known truth.

Parts run by name: ``python -m tests.trust_answers curves chances --trials 200``. The page docs/trust_answers.md keeps the
rows of the parts that were not run.
"""

from __future__ import annotations

import argparse
import itertools
import re
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from os import cpu_count
from pathlib import Path

import numpy as np
from cultrix_core.design.audit import audit
from cultrix_core.stats.decision_rule import chance_of_no_difference, make_call
from cultrix_core.stats.effect_prior import believe
from cultrix_core.stats.factor_rule import call_of_factor, judge_interactions, simple_reach
from cultrix_core.stats.multiplicity import t_critical

from tests.core.test_amounts import COST, FINE, PRICE, TRUTHS, WITHIN, one
from tests.core.test_factor_rule import factorial, judged

PAGE = Path(__file__).parents[1] / "docs" / "trust_answers.md"
ALPHA = 0.10
Row = tuple[str, str, int, float, str]  # part, what, trials, share that was found, promise


def null_factorials(trials: int, start: int = 0) -> Iterator[Row]:
    """Nothing differs: how often a factor gets a gain or a loss, over the others or inside them; over all its factors alike."""
    for factors in (2, 3, 4):
        false = np.zeros(factors)
        for seed in range(start, start + trials):
            for place, families in enumerate(judged(factorial(seed, factors)).values()):
                rows = [row for family in families.called for row in family.differences]
                false[place] += any(row.lower > 0 or row.upper < 0 for row in rows)
        yield "null factorials", f"2^{factors} in 4 blocks, a factor", trials, float(false.mean()) / trials, "at most 11 %"


def additive_factorials(trials: int, start: int = 0) -> Iterator[Row]:
    """Four true main effects of five standard errors and no interaction: all four are the headline."""
    size = 5 * np.sqrt(4 / 64)
    kept = sum(
        all(
            not family.within
            for families in judged(factorial(seed, 4, effect=_added(size))).values()
            for family in families.called
        )
        for seed in range(start, start + trials)
    )
    yield (
        "additive factorials",
        "2×2×2×2 in 4 blocks, four main effects are the headline",
        trials,
        kept / trials,
        "at least 95 %",
    )


def _added(size: float) -> Callable[[object], float]:
    return lambda cell: size * sum(cell)  # type: ignore[call-overload]


def crossings(trials: int, start: int = 0) -> Iterator[Row]:
    """An interaction of six standard errors that turns the effect: it is told."""
    size = 6 * np.sqrt(4 / 4) / 2  # a difference of differences of four means of four strips has √(4 ÷ 4)
    told = sum(
        any(
            item.matters
            for item in judge_interactions(factorial(seed, 2, effect=lambda cell: size * (2 * cell[0] - 1) * cell[1]))
        )
        for seed in range(start, start + trials)
    )
    yield "crossings", "2×2 in 4 blocks, six standard errors", trials, told / trials, "at least 90 %"


def curves(trials: int, start: int = 0) -> Iterator[Row]:
    """Interval of the best return, and amounts shown to lose no more than the sum, by truth and size of error."""
    for (name, truth), sd in itertools.product(TRUTHS.items(), (0.4, 0.15)):
        net = PRICE * truth(FINE) - COST * FINE
        best, held, wrong = FINE[net.argmax()], 0, 0
        for seed in range(start, start + trials):
            curve = one(truth, seed, sd=sd)
            assert curve.profit is not None
            step = (curve.x[1] - curve.x[0]) / 2
            held += bool(curve.profit.lower - step <= best <= curve.profit.upper + step) or name == "flat"
            if curve.shown is not None:
                inside = (curve.shown.lower <= FINE) & (curve.shown.upper >= FINE)
                wrong += bool((net.max() - net[inside]).max() > WITHIN)
        where = f"{name}, strips scatter by {sd:g} t/ha"
        if name != "flat":
            yield "curves, 90 % interval of the best return", where, trials, held / trials, "at least 87 %"
        yield "curves, shown range", f"{where}: wrong", trials, wrong / trials, "at most 10 %"


def chances(trials: int, start: int = 0) -> Iterator[Row]:
    """Truths drawn from the prior, and from one half or twice as wide: chances of 80 to 90 % and over 90 % come true."""
    draw = np.random.default_rng(900 + start)
    for times in (1.0, 0.5, 2.0):
        truth = draw.normal(0, 300 * times, trials)
        estimates = truth + draw.normal(0, 250, trials)
        errors = 250 * np.sqrt(draw.chisquare(6, trials) / 6)
        said = np.array([believe(d, s, 6, scale=300).above() for d, s in zip(estimates, errors, strict=True)])
        for low in (0.8, 0.9):
            inside = (said >= low) & (said < low + 0.1)
            came = float((truth[inside] > 0).mean()) if inside.any() else float("nan")
            told = f"truth {times:g} times as wide as the prior: given {100 * said[inside].mean():.0f} % on average"
            promise = f"{100 * low:.0f} to {100 * low + 10:.0f} %" if times == 1 else "reported"
            yield "chances", told, int(inside.sum()), came, promise


def margins(trials: int, start: int = 0) -> Iterator[Row]:
    """“No difference that matters” at the practical margin: where the truth is the margin, and where it is nought."""
    se, df = 0.5, 24.0
    for width in (2.0, 3.0, 4.0):
        draw, margin, limit = np.random.default_rng(70 + start), width * se, t_critical(ALPHA, df)
        errors = se * np.sqrt(draw.chisquare(df, trials) / df)
        noise = draw.normal(0, se, trials)
        for truth, promise in (
            (margin, "at most 5 %"),
            (0.0, f"{100 * chance_of_no_difference(width, limit, df):.1f} %, foretold"),
        ):
            equal = [
                make_call(d - limit * s, d + limit * s, margin).name == "no_difference_that_matters"
                for d, s in zip(truth + noise, errors, strict=True)
            ]
            yield (
                "equal calls",
                f"margin of {width:g} standard errors, truth {truth / se:g}",
                trials,
                float(np.mean(equal)),
                promise,
            )


def opposite_effects(trials: int, start: int = 0) -> Iterator[Row]:
    """Opposite simple effects of twice the margin that average to nought: called no difference."""
    called = 0
    for seed in range(start, start + trials):
        analysis = factorial(seed, 2, blocks=6, effect=lambda cell: 2.0 * cell[0] * (1 if cell[1] else -1), sd=0.8)
        reach = simple_reach(analysis, "starter")
        own = next(row for row in analysis.deciding if row.factor == "starter" and not row.within)
        called += call_of_factor(own, 1.0, reach).name == "no_difference_that_matters"
    yield "equal calls", "effects of +2 and −2 margins at two levels, in 6 blocks", trials, called / trials, "at most 5 %"


THINGS: dict[str, Callable[[int], str]] = {
    "day": lambda number: f"2026-05-{2 + 9 * number:02d}",
    "machine, lot, person, field or scale": lambda number: f"the {'ABCDEF'[number]} one",
    "passes or inputs": lambda number: " and ".join(["harrow"] * number) or "none",
}


def auditor(trials: int, start: int = 0) -> Iterator[Row]:
    """Recorded things laid with the treatments, with them but for one strip, or with the blocks, in drawn complete blocks."""
    for thing, label in THINGS.items():
        found = {"with the treatment": 0, "but for one strip of twenty a side": 0, "with the block": 0}
        for seed in range(start, start + trials):
            draw = np.random.default_rng(seed)
            treatments, blocks = int(draw.integers(2, 5)), int(draw.integers(3, 7))
            rows = [(f"T{place}", block) for block in range(blocks) for place in draw.permutation(treatments)]
            names = [name for name, _ in rows]
            tied = audit(names, {thing: [label(int(name[1:])) for name in names]})
            found["with the treatment"] += bool(tied) and all(item.kind == "identical" for item in tied)
            by_block = audit(names, {thing: [label(block % 3) for _, block in rows]})
            found["with the block"] += any(item.kind == "identical" for item in by_block)
            values = [label(place // 20) for place in range(40)]
            for end in (int(draw.integers(20)), 20 + int(draw.integers(20))):
                values[end] = label(1 - end // 20)
            nearly = audit(["A"] * 20 + ["B"] * 20, {thing: values})
            found["but for one strip of twenty a side"] += [item.kind for item in nearly] == ["nearly"]
        for laid, number in found.items():
            promise = "at most 0 %" if laid == "with the block" else "at least 100 %"
            what = f"{thing} {laid}: {'inseparable' if 'one strip' not in laid else 'nearly'}"
            yield "auditor", what, trials, number / trials, promise
    yield (
        "auditor",
        "curing time or plot size, other for each treatment: nearly",
        trials,
        _lines(trials, start),
        "at least 100 %",
    )


def _lines(trials: int, start: int) -> float:
    """Numbers of their own for every strip, far apart between two treatments."""
    found = 0
    for seed in range(start, start + trials):
        draw = np.random.default_rng(seed)
        values = [f"{14 + 9 * (place % 2) + draw.normal(0, 0.5):.3f}" for place in range(12)]
        found += [item.kind for item in audit(["A", "B"] * 6, {"curing time": values})] == ["nearly"]
    return found / trials


PARTS: dict[str, tuple[Callable[..., Iterator[Row]], int]] = {
    "null": (null_factorials, 2000),
    "additive": (additive_factorials, 1000),
    "crossings": (crossings, 2000),
    "curves": (curves, 1000),
    "chances": (chances, 20000),
    "margins": (margins, 20000),
    "auditor": (auditor, 500),
    "opposite": (opposite_effects, 1000),
}


def kept(found: float, promise: str) -> bool | None:
    """Whether a share keeps its promise; None where it is only reported."""
    most, least, between = (re.search(form, promise) for form in (r"at most (\d+)", r"at least (\d+)", r"^(\d+) to (\d+) %"))
    if most:
        return found <= int(most[1]) / 100
    if least:
        return found >= int(least[1]) / 100
    return int(between[1]) / 100 - 0.015 <= found <= int(between[2]) / 100 + 0.015 if between else None


def line(name: str, row: Row) -> str:
    """One row of the page with its standard error."""
    part, what, trials, found, promise = row
    error = np.sqrt(max(found * (1 - found), 1e-9) / max(trials, 1))
    word = {True: "kept", False: "**missed**", None: ""}[kept(found, promise)]
    return f"| {name} | {part} | {what} | {trials} | {100 * found:.1f} % ({100 * error:.1f}) | {promise} | {word} |"


HEAD = """# Trust, answers

What the sentences of the verdict promise, held against simulated trials of known truth through the same code (`make
trust-answers`; parts by name: `python -m tests.trust_answers curves --trials 200`). Standard errors in brackets. The truths of
the curves are six shapes over 40 to 140 thousand seeds, five blocks of six rates.

| name | part | what | trials | found | promise | |
|---|---|---|---|---|---|---|
"""


def run(name: str, trials: int) -> list[str]:
    """All rows of one part."""
    return [line(name, row) for row in PARTS[name][0](trials)]


def main() -> None:
    """Run the parts that are named, all by default, and write the page."""
    parser = argparse.ArgumentParser()
    parser.add_argument("names", nargs="*", help=", ".join(PARTS))
    parser.add_argument("--trials", type=int)
    asked = parser.parse_args()
    names, started = asked.names or list(PARTS), time.monotonic()
    known = [row for row in PAGE.read_text().splitlines() if row.startswith("| ")] if PAGE.exists() else []
    rows = {name: [row for row in known if row.startswith(f"| {name} ")] for name in PARTS}
    with ProcessPoolExecutor(max_workers=cpu_count()) as pool:
        for name, result in zip(names, pool.map(run, names, [asked.trials or PARTS[name][1] for name in names]), strict=True):
            rows[name] = result
    PAGE.write_text(HEAD + "\n".join(row for name in PARTS for row in rows[name]) + "\n")
    print(f"{PAGE}: {', '.join(names)} in {(time.monotonic() - started) / 60:.0f} min")


if __name__ == "__main__":
    main()
