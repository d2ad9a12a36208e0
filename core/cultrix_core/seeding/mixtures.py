"""Several species through one drill: shares by weight or by seeds, the total by weight or by seeds.

Definitions. With bag weights of a thousand w_i (g) and seeds per area n_i, mass m_i = n_i w_i / 100 (kg/ha).
Shares by weight: m_i = s_i M; shares by seeds: n_i = s_i N. The total fixes M or N; the other follows.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.working import Step, Working

By = Literal["weight", "seeds"]
SHARES_TOLERANCE_PCT = 0.1


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """One species or variety: its share in percent and the bag weight of a thousand of its seeds, g."""

    name: str
    share_pct: float
    weight_g: float


@dataclass(frozen=True, slots=True, kw_only=True)
class PartRate:
    """What one part is sown at, and its share either way."""

    name: str
    kg_per_ha: float
    seeds_per_m2: float
    weight_share: float
    seeds_share: float


def mixture(parts: Sequence[Part], *, total: float, total_by: By, shares_by: By) -> tuple[PartRate, ...]:
    """Rates of all parts. ``total``: kg/ha when by weight, seeds/m² when by seeds.

    Raises
    ------
    Refusal : ``missing`` parts, ``not_positive`` total or weight, limits of a share, ``not_whole`` shares.
    """
    if not parts:
        raise Refusal("missing", field="parts", label="The parts of the mixture", remedy="Give at least one.")
    require_positive(total, "rate", label="Total rate")
    for part in parts:
        require_between(part.share_pct, 0, 100, "share", label=f"Share of {part.name}", unit=" %")
        require_positive(part.weight_g, "thousand_seed_weight", label=f"Thousand-seed weight of {part.name}", unit=" g")
    whole = sum(part.share_pct for part in parts)
    if abs(whole - 100) > SHARES_TOLERANCE_PCT:
        raise Refusal(
            "not_whole", field="share", label="Shares of the mixture", value=f"{whole:g} %", remedy="Mend one of them."
        )
    # relative kg/ha of each part, then scaled so that the total holds
    relative = [part.share_pct * (1.0 if shares_by == "weight" else part.weight_g) for part in parts]
    counts = [mass * 100 / part.weight_g for mass, part in zip(relative, parts, strict=True)]
    scale = total / (sum(relative) if total_by == "weight" else sum(counts))
    return tuple(
        PartRate(
            name=part.name,
            kg_per_ha=mass * scale,
            seeds_per_m2=count * scale,
            weight_share=mass / sum(relative),
            seeds_share=count / sum(counts),
        )
        for part, mass, count in zip(parts, relative, counts, strict=True)
    )


def mixture_working(rates: Sequence[PartRate], show: UnitFormatter) -> Working:
    """The working of ``mixture``."""
    kg = sum(rate.kg_per_ha for rate in rates)
    seeds = sum(rate.seeds_per_m2 for rate in rates)
    return Working(
        title="Mixture through one drill",
        outcome=f"{show.text(kg, 'seed_rate_mass')}, {show.text(seeds, 'density')}",
        steps=(
            *(_part_step(rate, show) for rate in rates),
            Step(
                label="Together",
                formula="sum of the parts",
                numbers=" + ".join(show.text(rate.kg_per_ha, "seed_rate_mass") for rate in rates),
                outcome=show.text(kg, "seed_rate_mass"),
                source="definition",
            ),
        ),
        assumption="Seeds of different size part in the hopper: stir, fill little at a time, catch from all openers.",
    )


def _part_step(rate: PartRate, show: UnitFormatter) -> Step:
    return Step(
        label=rate.name,
        formula="share of the whole; mass = seeds × bag weight of a thousand",
        numbers=f"{format_number(100 * rate.weight_share, 1)} % of the weight, "
        f"{format_number(100 * rate.seeds_share, 1)} % of the seeds",
        outcome=f"{show.text(rate.kg_per_ha, 'seed_rate_mass')}, {show.text(rate.seeds_per_m2, 'density')}",
        source="definition",
    )
