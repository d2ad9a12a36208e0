"""Spacing of plants along a row: positions on a tape, or plants, gaps and doubles tapped while walking.

Definitions [1, 2]. With the reference spacing r (what the drill was set to), a spacing of at most 0.5 r is a double, one of
more than 1.5 r a skip, all others are singles. Shares of doubles, singles and skips are of all spacings [1]; the
precision is the standard deviation of the singles ÷ r [1]. The standard [2] counts a long spacing as several missed
places (1.5–2.5 r: one; 2.5–3.5 r: two; …) and takes shares of all intended places; both are given. Uniformity of the
whole row is the CV of all spacings.

References: [1] Kachman & Smith (1995) Trans. ASAE 38(2):379–387; [2] ISO 7256-1:1984 (both from memory).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import floor

import numpy as np

from cultrix_core.errors import Refusal, require_between, require_finite, require_positive
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.working import Step, Working

MOST_PLANTS = 500
DOUBLE, SKIP = 0.5, 1.5
LONG_GAP = 2.5  # from here on a gap nobody marked is asked about
BIN = 0.25  # width of a histogram class in reference spacings: four to a spacing, so that 0.5 and 1.5 are edges
MOST_BINS = 16


@dataclass(frozen=True, slots=True, kw_only=True)
class Spacings:
    """A tape run. Lengths in m, indices as fractions; ``precision`` None with fewer than two singles.

    ``histogram``: (from, to, number) in reference spacings, the last class open upwards (to = inf).
    """

    plants: int
    length_m: float
    reference_m: float
    spacings_m: tuple[float, ...]
    mean_m: float
    sd_m: float | None
    cv_frac: float | None
    doubles: int
    singles: int
    skips: int
    doubles_frac: float
    singles_frac: float
    skips_frac: float
    precision_frac: float | None
    intended: int
    missed: int
    missed_frac: float
    doubles_of_intended_frac: float
    plants_per_m: float
    histogram: tuple[tuple[float, float, int], ...]


def spacings_of(positions_m: Sequence[float], *, reference_m: float) -> Spacings:
    """Spacing quality from the positions of successive plants on one tape, in m, in the order walked.

    Raises
    ------
    Refusal : ``too_small``/``too_large`` number of plants, ``not_finite``, a position before the one before it,
        ``not_positive`` reference.
    """
    _check(positions_m, reference_m)
    gaps = np.diff(np.asarray(positions_m, dtype=float))
    shares = gaps / reference_m
    double, skip = shares <= DOUBLE + 1e-9, shares > SKIP + 1e-9
    singles = gaps[~double & ~skip]
    n = len(gaps)
    mean = float(gaps.mean())
    if mean == 0:
        raise Refusal("not_positive", field="positions", label="Length of the tape run", value="0")
    sd = float(gaps.std(ddof=1)) if n > 1 else None
    missed = int(sum(floor(share + 0.5 - 1e-9) - 1 for share in shares[skip]))  # [2]
    intended = int((~double).sum()) + missed
    return Spacings(
        plants=n + 1,
        length_m=float(positions_m[-1] - positions_m[0]),
        reference_m=reference_m,
        spacings_m=tuple(float(gap) for gap in gaps),
        mean_m=mean,
        sd_m=sd,
        cv_frac=None if sd is None else sd / mean,
        doubles=int(double.sum()),
        singles=len(singles),
        skips=int(skip.sum()),
        doubles_frac=float(double.mean()),
        singles_frac=len(singles) / n,
        skips_frac=float(skip.mean()),
        precision_frac=float(singles.std(ddof=1)) / reference_m if len(singles) > 1 else None,  # [1]
        intended=intended,
        missed=missed,
        missed_frac=missed / intended if intended else 0.0,
        doubles_of_intended_frac=int(double.sum()) / intended if intended else 0.0,
        plants_per_m=n / float(gaps.sum()),
        histogram=_histogram(shares),
    )


def _check(positions_m: Sequence[float], reference_m: float) -> None:
    require_positive(reference_m, "reference", label="Spacing wanted", unit=" m")
    require_between(len(positions_m), 3, MOST_PLANTS, "positions", label="Plants on the tape", remedy="Go on along the row.")
    for place, (before, after) in enumerate(zip(positions_m, positions_m[1:], strict=False), start=2):
        require_finite(after, "positions", label=f"Plant {place}")
        if after < before:
            raise Refusal(
                "too_small",
                field="positions",
                label=f"Plant {place} on the tape",
                value=f"{after:g}",
                limit=f"{before:g}",
                unit=" m",
                remedy="Positions grow along the tape.",
            )


def _histogram(shares: np.ndarray) -> tuple[tuple[float, float, int], ...]:
    """Classes of ``BIN``, closed above like the definition of a double; the last takes all that is longer."""
    places = np.clip(np.ceil(shares / BIN - 1e-9).astype(int) - 1, 0, MOST_BINS - 1)
    last = max(int(places.max()), 7)
    return tuple(
        (
            place * BIN,
            float("inf") if place == MOST_BINS - 1 else (place + 1) * BIN,
            int((places == place).sum()),
        )
        for place in range(last + 1)
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Tapped:
    """Plants, gaps and doubles tapped at the places where a plant was wanted; shares are of those places.

    Positions were not measured, so there is no CV.
    """

    places: int
    plants: int
    doubles_frac: float
    skips_frac: float
    plants_per_m: float


MARKS = {"p": 1, "g": 0, "d": 2}


def tapped(marks: str, *, reference_m: float) -> Tapped:
    """Read a run of marks: ``p`` one plant, ``g`` none, ``d`` two; one mark for each place a seed was meant to lie.

    Raises
    ------
    Refusal : ``missing`` without marks, ``unknown_choice`` for any other letter, ``not_positive`` reference.
    """
    require_positive(reference_m, "reference", label="Spacing wanted", unit=" m")
    if not marks:
        raise Refusal("missing", field="marks", label="The run", remedy="Tap a plant, a gap or a double at each place.")
    for mark in marks:
        if mark not in MARKS:
            raise Refusal("unknown_choice", field="marks", label="Mark", value=mark, limit="p (plant), g (gap), d (double)")
    require_between(len(marks), 1, MOST_PLANTS, "marks", label="Places")
    plants = sum(MARKS[mark] for mark in marks)
    return Tapped(
        places=len(marks),
        plants=plants,
        doubles_frac=marks.count("d") / len(marks),
        skips_frac=marks.count("g") / len(marks),
        plants_per_m=plants / (len(marks) * reference_m),
    )


def long_gaps(run: Spacings, looked_at: Sequence[int] = ()) -> tuple[int, ...]:
    """Numbers of spacings (from 1) that are very long and were not marked as looked at: was a plant overlooked?"""
    seen = set(looked_at)
    return tuple(
        number for number, gap in enumerate(run.spacings_m, start=1) if gap > LONG_GAP * run.reference_m and number not in seen
    )


def percent(share: float | None) -> str:
    """A share for reading."""
    return "not known" if share is None else f"{format_number(100 * share, 1)} %"


def tape_run_working(run: Spacings, show: UnitFormatter) -> Working:
    """The working of ``spacings_of``."""
    return Working(
        title="Spacing along the row",
        outcome=f"CV {percent(run.cv_frac)}, doubles {percent(run.doubles_frac)}, skips {percent(run.skips_frac)}",
        steps=_steps(run, show),
        assumption="The spacing wanted: what counts as a double or a skip is measured against it.",
    )


def _steps(run: Spacings, show: UnitFormatter) -> tuple[Step, ...]:
    reference = show.text(run.reference_m, "in_row_spacing")
    mean = show.text(run.mean_m, "in_row_spacing")
    n = len(run.spacings_m)
    published = "Kachman & Smith 1995, from memory"
    steps = [
        Step(
            label="Mean spacing",
            formula="length from first to last plant ÷ spacings",
            numbers=f"{show.text(run.length_m, 'tape_length')} ÷ {n}",
            outcome=mean,
            source="definition",
        ),
        Step(
            label="Unevenness",
            formula="standard deviation ÷ mean",
            numbers=f"{show.text(run.sd_m or 0, 'in_row_spacing')} ÷ {mean}",
            outcome=f"CV {percent(run.cv_frac)}",
            source="definition",
        ),
        Step(
            label="Doubles",
            formula="spacings of at most half the spacing wanted ÷ all spacings",
            numbers=f"{run.doubles} of {n}, at most {show.text(DOUBLE * run.reference_m, 'in_row_spacing')}",
            outcome=percent(run.doubles_frac),
            source=published,
        ),
        Step(
            label="Skips",
            formula="spacings of more than one and a half times the spacing wanted ÷ all spacings",
            numbers=f"{run.skips} of {n}, more than {show.text(SKIP * run.reference_m, 'in_row_spacing')}",
            outcome=percent(run.skips_frac),
            source=published,
        ),
        Step(
            label="Precision",
            formula="standard deviation of the singles ÷ spacing wanted",
            numbers=f"{run.singles} singles, wanted {reference}",
            outcome=percent(run.precision_frac),
            source=published,
        ),
        Step(
            label="Places missed",
            formula="places a long spacing leaves out ÷ places intended",
            numbers=f"{run.missed} of {run.intended}",
            outcome=percent(run.missed_frac),
            source="ISO 7256-1:1984, from memory",
        ),
    ]
    return tuple(steps)
