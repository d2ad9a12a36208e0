"""A simulated weather station: a daily series by seed, in the text that real files speak.

Made up: a yearly sine of mean temperature, day-to-day deviations that persist (first-order autoregression), a daily
range, rain on wet days whose chance follows the day before (two-state Markov chain) and gamma-distributed amounts,
soil temperature as a lagging mean of the air. A day depends on the seed and on the days since the start of the series,
so reading the station again later gives the same past.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta
from math import cos, pi

import numpy as np

from cultrix_core.errors import require_between
from cultrix_core.season.heat_units import Day

START = date(2023, 1, 1)
MOST_DAYS = 8_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Climate:
    """The climate the station stands in: °C, and the warmest day of the year (about 200 in the north, 17 in the south)."""

    mean_c: float = 10.5
    swing_c: float = 9.5
    range_c: float = 10.0
    persistence: float = 0.72
    noise_c: float = 2.4
    wet_after_dry: float = 0.22
    wet_after_wet: float = 0.55
    rain_mm: float = 5.0
    warmest_day: int = 200


def station(seed: int, *, until: date, climate: Climate | None = None) -> tuple[Day, ...]:
    """Days from ``START`` to ``until``.

    Raises
    ------
    Refusal : ``too_small``/``too_large`` number of days.
    """
    where = climate or Climate()
    days = require_between((until - START).days + 1, 1, MOST_DAYS, "until", label="Days of the station")
    draw = np.random.default_rng([seed, 77])
    result: list[Day] = []
    deviation, wet, soil = 0.0, False, where.mean_c - where.swing_c
    for number in range(int(days)):
        on = START + timedelta(days=number)
        shock, spread, chance, amount = draw.normal(), draw.random(), draw.random(), draw.gamma(0.8, 1.0)
        deviation = where.persistence * deviation + where.noise_c * shock
        wet = bool(chance < (where.wet_after_wet if wet else where.wet_after_dry))
        season = where.swing_c * cos(2 * pi * (on.timetuple().tm_yday - where.warmest_day) / 365.25)
        mean = where.mean_c + season + deviation - (0.8 if wet else 0.0)
        half = where.range_c * (0.7 + 0.6 * spread) * (0.6 if wet else 1.0) / 2
        soil += 0.18 * (mean - soil)
        result.append(
            Day(
                on=on,
                min_c=round(float(mean - half), 1),
                max_c=round(float(mean + half), 1),
                rain_mm=round(float(amount * where.rain_mm), 1) if wet else 0.0,
                soil_c=round(float(soil), 1),
            )
        )
    return tuple(result)
