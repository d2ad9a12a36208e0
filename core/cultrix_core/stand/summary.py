"""Stand of a treatment: the mean of its strips, and what share of the seed it is.

The strip is the unit: each strip's mean weighs alike, however many places were counted on it, so that a
strip that was counted more often does not speak louder for its treatment.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from cultrix_core.errors import Refusal, require_finite
from cultrix_core.stand.row_lengths import share_of_seed_pct, share_step
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.working import Step, Working


@dataclass(frozen=True, slots=True, kw_only=True)
class TreatmentStand:
    """Mean of strip means in plants per m², and its percent of the seed when the rate is known."""

    strips: int
    plants_per_m2: float
    seeds_per_m2: float | None
    share_pct: float | None


def treatment_stand(strip_means_per_m2: Sequence[float], *, seeds_per_m2: float | None) -> TreatmentStand:
    """Stand of a treatment from the means of its counted strips.

    Raises
    ------
    Refusal : ``missing`` without a counted strip, ``not_finite``, ``not_positive`` for the seeding rate.
    """
    if not strip_means_per_m2:
        raise Refusal("missing", field="counts", remedy="Count a strip of this treatment.")
    for value in strip_means_per_m2:
        require_finite(value, "counts")
    mean = sum(strip_means_per_m2) / len(strip_means_per_m2)
    return TreatmentStand(
        strips=len(strip_means_per_m2),
        plants_per_m2=mean,
        seeds_per_m2=seeds_per_m2,
        share_pct=None if seeds_per_m2 is None else share_of_seed_pct(mean, seeds_per_m2),
    )


def treatment_stand_working(
    stand: TreatmentStand, strip_means_per_m2: Sequence[float], show: UnitFormatter, *, name: str
) -> Working:
    """The working of ``treatment_stand``."""
    mean = show.text(stand.plants_per_m2, "density")
    means = " + ".join(show.number(value, "density") for value in strip_means_per_m2)
    steps = [
        Step(
            label="Mean stand",
            formula="sum of the strips' means ÷ strips counted",
            numbers=f"({means}) ÷ {stand.strips}",
            outcome=mean,
        )
    ]
    if stand.seeds_per_m2 is not None:
        steps.append(share_step(stand.plants_per_m2, stand.seeds_per_m2, show))
    return Working(
        title=f"Stand of {name}",
        outcome=mean,
        steps=tuple(steps),
        assumption="Places were drawn, not chosen: the eye goes to good spots, and the mean goes up with it.",
    )
