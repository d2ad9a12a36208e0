"""Made-up ground and crops: what a strip would yield and how its stand would count.

The ground is a slope along the field plus slow waves plus strip noise, all from a seed; the size of each
is what grain strips on one field commonly show (common practice, no source).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True, slots=True, kw_only=True)
class Ground:
    """A field's yield over its strips. ``cv`` is the strip noise, ``slope`` the change from end to end, as fractions."""

    mean_kg_per_ha: float
    cv: float
    slope: float
    seed: int

    def yields(self, effects: list[float]) -> list[float]:
        """Yield of each strip in field order; ``effects`` are what its treatment adds, kg/ha."""
        draw = np.random.default_rng(self.seed)
        place = np.linspace(-0.5, 0.5, len(effects))
        waves = 0.02 * np.sin(2 * np.pi * (place * 1.3 + draw.uniform()))
        noise = draw.normal(0, self.cv, len(effects))
        return [
            float(self.mean_kg_per_ha * (1 + self.slope * x + wave + e) + effect)
            for x, wave, e, effect in zip(place, waves, noise, effects, strict=True)
        ]

    def plants(self, seeds_per_m2: float, area_m2: float, counts: int, strip: int, emergence: float) -> list[int]:
        """Plants in repeated places of one strip: patchy emergence, so more spread than Poisson's."""
        draw = np.random.default_rng(self.seed * 1000 + strip)
        local = draw.gamma(120, emergence / 120, counts)
        return [int(plants) for plants in draw.poisson(seeds_per_m2 * area_m2 * local)]
