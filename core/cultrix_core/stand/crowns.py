"""Dug plants of a perennial stand: are crowns and roots alive, and how many shoots does a crown carry?

Rule of the trade: a crown and tap root that is firm and white inside is alive; brown, soft or pulling out is dead;
between the two is a plant that may live a year (common practice, no source). The share alive has Wilson's interval [1];
shoots per crown have Student's. Shoots per area = plants per area × shoots per crown of the plants that live × share alive.

Reference: [1] Wilson (1927) J. Am. Stat. Assoc. 22:209–212 (from memory).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import scipy

from cultrix_core.errors import Refusal, require_between
from cultrix_core.stats.multiplicity import t_critical
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.working import Step, Working

Health = Literal["firm", "doubtful", "dead"]
HEALTH: tuple[tuple[Health, str], ...] = (
    ("firm", "Firm and white"),
    ("doubtful", "Discoloured"),
    ("dead", "Brown, soft, pulls out"),
)
MOST_SHOOTS = 120
LEVEL_ALPHA = 0.10
FEW_DUG = 5  # fewer say little about a stand: common practice, no source


@dataclass(frozen=True, slots=True, kw_only=True)
class Dug:
    """One plant; shoots are counted on plants that live."""

    health: Health
    shoots: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Crowns:
    """Dug plants together. Shares are fractions; ``doubtful`` plants count as alive but are named."""

    n: int
    firm: int
    doubtful: int
    dead: int
    alive_frac: float
    alive_lower: float
    alive_upper: float
    shoots_mean: float | None
    shoots_half: float | None


def crowns_of(plants: Sequence[Dug], *, alpha: float = LEVEL_ALPHA) -> Crowns:
    """Health and shoots of dug plants.

    Raises
    ------
    Refusal : ``missing`` without plants, ``too_large`` shoots, ``unknown_choice`` health.
    """
    if not plants:
        raise Refusal("missing", field="plants", label="A dug plant", remedy="Dig plants at places drawn, not the poor ones.")
    known = [key for key, _ in HEALTH]
    for plant in plants:
        if plant.health not in known:
            raise Refusal("unknown_choice", field="health", value=plant.health, limit=", ".join(known))
        if plant.shoots is not None:
            require_between(plant.shoots, 0, MOST_SHOOTS, "shoots", label="Shoots on a crown")
    tally = {key: sum(1 for plant in plants if plant.health == key) for key in known}
    n, alive = len(plants), len(plants) - tally["dead"]
    lower, upper = _wilson(alive, n, alpha)
    shoots = [plant.shoots for plant in plants if plant.shoots is not None and plant.health != "dead"]
    half = None
    if len(shoots) > 1:
        half = t_critical(alpha, len(shoots) - 1) * float(np.std(shoots, ddof=1)) / len(shoots) ** 0.5
    return Crowns(
        n=n,
        firm=tally["firm"],
        doubtful=tally["doubtful"],
        dead=tally["dead"],
        alive_frac=alive / n,
        alive_lower=lower,
        alive_upper=upper,
        shoots_mean=float(np.mean(shoots)) if shoots else None,
        shoots_half=half,
    )


def _wilson(hits: int, n: int, alpha: float) -> tuple[float, float]:
    """Wilson's score interval. [1]"""
    z = float(scipy.stats.norm.isf(alpha / 2))
    share, spread = hits / n, z * z / n
    middle = (share + spread / 2) / (1 + spread)
    half = z / (1 + spread) * (share * (1 - share) / n + z * z / (4 * n * n)) ** 0.5
    return max(middle - half, 0.0), min(middle + half, 1.0)


def shoots_per_m2(crowns: Crowns, plants_per_m2: float) -> float | None:
    """Living shoots per m² from dug plants and the stand counted, None without shoots."""
    if crowns.shoots_mean is None:
        return None
    return plants_per_m2 * crowns.alive_frac * crowns.shoots_mean


def crowns_working(crowns: Crowns, show: UnitFormatter, *, plants_per_m2: float | None = None) -> Working:
    """The working of ``crowns_of``, with shoots per area where the stand is known."""
    alive = f"{format_number(100 * crowns.alive_frac, 0)} %"
    steps = [
        Step(
            label="Alive",
            formula="plants that are not dead ÷ plants dug; Wilson's 90 % interval",
            numbers=f"{crowns.n - crowns.dead} of {crowns.n} ({crowns.doubtful} of them doubtful)",
            outcome=f"{alive} ({format_number(100 * crowns.alive_lower, 0)} to {format_number(100 * crowns.alive_upper, 0)} %)",
            source="Wilson 1927, from memory",
        )
    ]
    if crowns.shoots_mean is not None:
        half = "" if crowns.shoots_half is None else f" ± {format_number(crowns.shoots_half, 1)}"
        steps.append(
            Step(
                label="Shoots on a living crown",
                formula="mean, 90 % interval",
                numbers="plants that live",
                outcome=f"{format_number(crowns.shoots_mean, 1)}{half}",
                source="Student 1908, from memory",
            )
        )
    shoots = None if plants_per_m2 is None else shoots_per_m2(crowns, plants_per_m2)
    if shoots is not None and plants_per_m2 is not None:
        steps.append(
            Step(
                label="Shoots per area",
                formula="plants per area × share alive × shoots per crown",
                numbers=f"{show.text(plants_per_m2, 'density')} × {alive} × {format_number(crowns.shoots_mean or 0, 1)}",
                outcome=show.text(shoots, "density"),
                source="definition",
            )
        )
    return Working(
        title="Crowns and roots",
        outcome=f"{alive} alive",
        steps=tuple(steps),
        assumption="Plants were dug where the plan said. Digging the thin spots makes any stand look dying.",
    )
