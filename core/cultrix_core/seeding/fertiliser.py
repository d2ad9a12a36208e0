"""Fertiliser in the seed row: the same rate per area lies thicker along the row of wider rows.

Definitions. Along the row: rate per area × row spacing. Seedbed use: width over which seed and fertiliser are spread
÷ row spacing, at most the whole (bands that meet). In the band: rate per area ÷ seedbed use. Relative to a reference
spacing with the same opener it is the ratio of the two; nothing here is a safe limit. That depends on the salt, the
ammonia, the soil, its moisture and the crop: local guidance decides.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from cultrix_core.errors import require_between, require_positive
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.working import Step, Working

DEFER = "How much is safe depends on product, soil, moisture and crop: local guidance and the label decide."
# From here on the change against the reference is worth a warning (common practice, no source).
MORE_FRAC = 1.10


@dataclass(frozen=True, slots=True, kw_only=True)
class Furrow:
    """Fertiliser with the seed at one row spacing; ``relative`` to the reference spacing, 1 is the same."""

    row_spacing_m: float
    per_row_g_per_m: float
    seedbed_use_frac: float
    in_band_kg_per_ha: float
    relative: float

    @property
    def warns(self) -> bool:
        """Whether it lies markedly thicker than at the reference."""
        return self.relative >= MORE_FRAC


def furrows(
    *, rate_kg_per_ha: float, row_spacings_m: Sequence[float], spread_m: float, reference_spacing_m: float
) -> tuple[Furrow, ...]:
    """Concentration at each row spacing against the reference spacing.

    Raises
    ------
    Refusal : ``not_positive`` rate, spacing or spread; ``too_large`` rate.
    """
    require_positive(rate_kg_per_ha, "fertiliser_rate", label="Fertiliser rate")
    require_between(rate_kg_per_ha, 0, 2000, "fertiliser_rate", label="Fertiliser rate", unit=" kg/ha")
    require_positive(spread_m, "spread", label="Width of the opener's band")
    require_positive(reference_spacing_m, "reference_spacing", label="Reference row spacing")
    reference = rate_kg_per_ha / _use(spread_m, reference_spacing_m)
    result = []
    for spacing in row_spacings_m:
        require_positive(spacing, "row_spacing", label="Row spacing")
        use = _use(spread_m, spacing)
        result.append(
            Furrow(
                row_spacing_m=spacing,
                per_row_g_per_m=rate_kg_per_ha * spacing / 10,
                seedbed_use_frac=use,
                in_band_kg_per_ha=rate_kg_per_ha / use,
                relative=rate_kg_per_ha / use / reference,
            )
        )
    return tuple(result)


def _use(spread_m: float, spacing_m: float) -> float:
    return min(1.0, spread_m / spacing_m)  # bands that meet cover the whole


def furrow_working(
    furrow: Furrow,
    show: UnitFormatter,
    *,
    rate_kg_per_ha: float,
    spread_m: float,
    reference_spacing_m: float,
    product: str | None = None,
) -> Working:
    """The working of one row of ``furrows``."""
    spacing = show.text(furrow.row_spacing_m, "row_spacing")
    rate = show.text(rate_kg_per_ha, "nutrient_rate")
    use = f"{format_number(100 * furrow.seedbed_use_frac, 1)} %"
    return Working(
        title=f"{product or 'Fertiliser'} with the seed at {spacing}",
        outcome=f"{show.text(furrow.per_row_g_per_m, 'mass_per_row')}, {format_number(furrow.relative, 2)} × the reference",
        steps=(
            Step(
                label="Along the row",
                formula="rate per area × row spacing",
                numbers=f"{rate} × {spacing}",
                outcome=show.text(furrow.per_row_g_per_m, "mass_per_row"),
                source="definition",
            ),
            Step(
                label="Seedbed use",
                formula="width of the band ÷ row spacing",
                numbers=f"{show.text(spread_m, 'depth')} ÷ {spacing}",
                outcome=use,
                source="definition",
            ),
            Step(
                label="In the band",
                formula="rate per area ÷ seedbed use",
                numbers=f"{rate} ÷ {use}",
                outcome=show.text(furrow.in_band_kg_per_ha, "nutrient_rate"),
                source="definition",
            ),
            Step(
                label="Against the reference",
                formula="in the band here ÷ in the band at the reference spacing",
                numbers=f"{spacing} against {show.text(reference_spacing_m, 'row_spacing')}",
                outcome=f"{format_number(furrow.relative, 2)} ×",
                source="definition",
            ),
        ),
        assumption=DEFER,
    )
