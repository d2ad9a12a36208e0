"""Emergence over time and survival: curve, days to half, evenness, and what is left later.

Model. The stand of a treatment at each visit is the mean of its strips. Different places are counted each time, so a
mean can fall by chance before the stand is complete; up to its highest value the curve is made non-decreasing by
least squares (pool adjacent violators [1]). Time to half emergence is found on that curve by straight lines between
visits, half of the *final* emergence, as usual for seed tests [2]; so are the times to a quarter and three quarters,
whose distance is the evenness (days from 25 to 75 %, fewer is more even). The mean emergence time weights each visit's
new plants by their days [3]. A curve that is half up at its first visit has no half time: it was earlier.

Survival is the later stand ÷ the stand of the same strip when it was complete, averaged over strips, with Student's
interval over strips: the strip is the unit, the places in it are subsamples.

References: [1] Ayer et al. (1955) Ann. Math. Stat. 26:641–647; [2] Coolbear, Francis & Grierson (1984) J. Exp. Bot.
35:1609–1617; [3] Ellis & Roberts (1981) Seed Sci. Technol. 9:373–409 (all from memory).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from cultrix_core.errors import Refusal, require_finite
from cultrix_core.stats.multiplicity import t_critical
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.working import Step, Working

LEVEL_ALPHA = 0.10


@dataclass(frozen=True, slots=True, kw_only=True)
class CountedStand:
    """Stand at one visit: whole days from sowing, plants per m²."""

    day: int
    plants_per_m2: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Emergence:
    """Emergence of one treatment. Days are None where the visits do not tell.

    ``curve``: visits with the fitted, non-decreasing stand up to its highest; ``half_before``: half was up already at
    the first visit.
    """

    visits: tuple[CountedStand, ...]
    curve: tuple[CountedStand, ...]
    final_per_m2: float
    final_of_seed_frac: float | None
    half_days: float | None
    even_days: float | None
    mean_days: float | None
    half_before: bool


def emergence_of(visits: Sequence[CountedStand], *, seeds_per_m2: float | None = None) -> Emergence:
    """Emergence from the stands of a treatment at several visits.

    Raises
    ------
    Refusal : ``missing`` without visits, ``not_finite``, ``duplicate`` day, ``too_small`` day before sowing.
    """
    if not visits:
        raise Refusal("missing", field="visits", label="A count", remedy="Count the stand at least once.")
    ordered = sorted(visits, key=lambda visit: visit.day)
    for counted_stand in ordered:
        require_finite(counted_stand.plants_per_m2, "plants")
        if counted_stand.day < 0:
            raise Refusal("too_small", field="day", label="Days from sowing", value=counted_stand.day, limit=0)
    if len({stand.day for stand in ordered}) < len(ordered):
        raise Refusal("duplicate", field="day", value="the same day", remedy="Put the counts of a day together.")
    top = int(np.argmax([stand.plants_per_m2 for stand in ordered]))
    curve = _rising(ordered[: top + 1])
    final = curve[-1].plants_per_m2
    # seed in the ground on the day of sowing: nothing is up
    points = curve if curve[0].day == 0 else (CountedStand(day=0, plants_per_m2=0.0), *curve)
    early = bool(curve[0].plants_per_m2 > final / 2)
    several = len(curve) > 1 and final > 0
    half = _reaching(points, final / 2) if several and not early else None
    quarter = _reaching(points, final / 4) if several and not early and curve[0].plants_per_m2 <= final / 4 else None
    three = _reaching(points, 3 * final / 4) if several and curve[0].plants_per_m2 <= 3 * final / 4 else None
    new = np.diff([0.0, *[stand.plants_per_m2 for stand in curve]])
    return Emergence(
        visits=tuple(ordered),
        curve=curve,
        final_per_m2=final,
        final_of_seed_frac=final / seeds_per_m2 if seeds_per_m2 else None,
        half_days=half,
        even_days=three - quarter if three is not None and quarter is not None else None,
        mean_days=float(new @ [stand.day for stand in curve] / final) if several else None,  # [3]
        half_before=early and several,
    )


def _rising(visits: Sequence[CountedStand]) -> tuple[CountedStand, ...]:
    """Pool adjacent violators: the closest non-decreasing stands. [1]"""
    from scipy.optimize import isotonic_regression

    fitted = isotonic_regression([visit.plants_per_m2 for visit in visits]).x
    return tuple(
        CountedStand(day=counted_stand.day, plants_per_m2=float(value))
        for counted_stand, value in zip(visits, fitted, strict=True)
    )


def _reaching(curve: Sequence[CountedStand], wanted: float) -> float | None:
    """Day at which a non-decreasing curve reaches a stand, by straight lines. [2]"""
    for before, after in zip(curve, curve[1:], strict=False):
        if before.plants_per_m2 <= wanted <= after.plants_per_m2 and after.plants_per_m2 > before.plants_per_m2:
            share = (wanted - before.plants_per_m2) / (after.plants_per_m2 - before.plants_per_m2)
            return before.day + share * (after.day - before.day)
    return None


@dataclass(frozen=True, slots=True, kw_only=True)
class Survival:
    """Share of the plants left, over strips, with its interval; None with one strip."""

    strips: int
    frac: float
    lower: float | None
    upper: float | None


def survival_of(pairs: Sequence[tuple[float, float]], *, alpha: float = LEVEL_ALPHA) -> Survival:
    """Survival from (complete stand, later stand) of each strip, plants per m².

    Raises
    ------
    Refusal : ``missing`` without strips, ``not_positive`` complete stand.
    """
    if not pairs:
        raise Refusal("missing", field="strips", label="A strip counted twice", remedy="Count the same strips again.")
    for before, _ in pairs:
        if not before > 0:
            raise Refusal("not_positive", field="plants", label="The stand when complete", value=f"{before:g}")
    shares = np.asarray([later / before for before, later in pairs])
    mean = float(shares.mean())
    if len(shares) < 2:
        return Survival(strips=1, frac=mean, lower=None, upper=None)
    half = t_critical(alpha, len(shares) - 1) * float(shares.std(ddof=1)) / len(shares) ** 0.5
    return Survival(strips=len(shares), frac=mean, lower=mean - half, upper=mean + half)


def emergence_working(result: Emergence, show: UnitFormatter, *, name: str, seeds_per_m2: float | None) -> Working:
    """The working of ``emergence_of``."""
    final = show.text(result.final_per_m2, "density")
    steps = [
        Step(
            label="Final emergence",
            formula="highest stand on the rising curve",
            numbers=f"{len(result.visits)} visits",
            outcome=final,
            source="pool adjacent violators, Ayer et al. 1955, from memory",
        )
    ]
    if result.final_of_seed_frac is not None and seeds_per_m2:
        steps.append(
            Step(
                label="Of the seed sown",
                formula="final emergence ÷ seeds sown on the same area",
                numbers=f"{final} ÷ {show.text(seeds_per_m2, 'density')}",
                outcome=f"{format_number(100 * result.final_of_seed_frac, 0)} %",
            )
        )
    for label, value, formula, source in (
        (
            "Days to half",
            result.half_days,
            "day on which the curve passes half of its end, by straight lines",
            "Coolbear et al. 1984, from memory",
        ),
        ("Evenness", result.even_days, "days from a quarter to three quarters of the end", "common practice, no source"),
        (
            "Mean emergence time",
            result.mean_days,
            "sum of (new plants × their day) ÷ all plants",
            "Ellis & Roberts 1981, from memory",
        ),
    ):
        if value is not None:
            steps.append(Step(label=label, formula=formula, numbers="from the table", outcome=days(value), source=source))
    return Working(
        title=f"Emergence of {name}",
        outcome=f"{final}, half up after {days(result.half_days)}" if result.half_days is not None else final,
        steps=tuple(steps),
        table=_table(result, show),
        assumption="Counts before the stand is complete: between two visits a straight line is drawn, "
        "so the half time is no finer than the visits.",
    )


def _table(result: Emergence, show: UnitFormatter) -> tuple[tuple[str, ...], ...]:
    """Visits as counted and as fitted."""
    return (
        ("Days from sowing", "Counted", "On the rising curve"),
        *(
            (
                str(visit.day),
                show.text(visit.plants_per_m2, "density"),
                next(
                    (show.text(fit.plants_per_m2, "density") for fit in result.curve if fit.day == visit.day), "after the top"
                ),
            )
            for visit in result.visits
        ),
    )


def days(value: float | None) -> str:
    """Days for reading."""
    return "not known" if value is None else f"{format_number(value, 1)} days"
