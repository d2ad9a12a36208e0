"""A combine with a yield monitor that drives a trial's own strips: the stand-in for a real one, with the truth known.

Model. The crop on a strip yields its mean times a smooth pattern along and across the field, the same for all strips, so
that neighbouring passes see the same ground. Intake is yield × swath × speed. What the sensor reports is the intake
smeared by an exponential and delayed, ``lag_s`` on average, times noise: grain takes its time through the machine. The log
runs on past the end of the strip until the grain is through, unless the header is lifted at once (``runs_on`` False), when
the last seconds of every pass never come. Now and then the machine stops in the crop and starts again. The log goes out as
CSV text in the very form that real files are read in.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from cultrix_core.errors import Refusal, require_between, require_positive

Array = NDArray[np.float64]
Ring = Sequence[Sequence[float]]
HEADER = "time_s,x_m,y_m,speed_m_s,swath_m,distance_m,flow_kg_s,moisture_pct"
STEP_S = 0.2  # inner clock of the machine
TURN_S = 25.0
MOST_READINGS = 5_000_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Combine:
    """The machine. Lengths in m, times in s; ``noise`` relative; ``stops``: chance of a stop on a pass.

    ``lag_s``: mean time of grain through the machine, of which ``smear_s`` (at most all of it) is smearing.
    """

    swath_m: float = 6.0
    speed_m_s: float = 1.8
    interval_s: float = 1.0
    lag_s: float = 10.0
    smear_s: float = 1.5
    noise: float = 0.03
    gps_m: float = 0.05
    stops: float = 0.3
    moisture_pct: float = 14.0
    runs_on: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class TrueStrip:
    """A strip as it stands: rectangle in m, driven along y, and its true mean yield in kg/ha as cut."""

    left_m: float
    right_m: float
    near_m: float
    far_m: float
    yield_kg_per_ha: float


def drive(strips: Sequence[TrueStrip], machine: Combine, *, seed: int) -> str:
    """The log of harvesting strips up and down in the order given, as CSV text.

    Raises
    ------
    Refusal : ``missing`` without strips, ``not_positive`` sizes and rates, ``too_large`` numbers of readings.
    """
    if not strips:
        raise Refusal("missing", field="strips", label="Strips", remedy="Draw the layout first; the combine drives its strips.")
    for name in ("swath_m", "speed_m_s", "interval_s"):
        require_positive(getattr(machine, name), name)
    require_between(machine.lag_s, 0, 60, "lag_s", label="Lag", unit=" s")
    require_between(machine.noise, 0, 0.5, "noise", label="Noise")
    rng = np.random.default_rng(seed)
    ground = _Ground(rng)
    clock, rows, up = 0.0, [], True
    for strip in strips:
        wide = strip.right_m - strip.left_m
        passes = max(round(wide / machine.swath_m), 1)
        for number in range(passes):
            middle = strip.left_m + (number + 0.5) * wide / passes
            driven = _pass(strip, middle, machine, ground, rng, up=up)
            driven[:, 0] += clock
            rows.append(driven)
            require_between(sum(len(row) for row in rows), 0, MOST_READINGS, "readings")
            clock = float(driven[-1, 0]) + TURN_S
            up = not up
    body = "\n".join(",".join(f"{value:.3f}" for value in row) for row in np.vstack(rows))
    return f"{HEADER}\n{body}\n"


def drive_along(rings: Sequence[Ring], yields_kg_per_ha: Sequence[float], machine: Combine, *, seed: int) -> str:
    """The log of harvesting strips as they lie: four or more corners in m each, all along one direction.

    Raises
    ------
    Refusal : as ``drive``; ``lengths_differ`` when strips and yields do not match.
    """
    if not rings:
        return drive((), machine, seed=seed)
    if len(rings) != len(yields_kg_per_ha):
        raise Refusal("lengths_differ", field="yields", label="Yields", value=len(yields_kg_per_ha), limit=len(rings))
    longest = max(
        (np.subtract(rings[0][place], rings[0][place - 1]) for place in range(len(rings[0]))), key=lambda side: np.hypot(*side)
    )
    along = longest / np.hypot(*longest)
    turn = np.array([[along[1], -along[0]], along])  # to a frame whose second axis runs along the strips
    strips = []
    for ring, yield_ in zip(rings, yields_kg_per_ha, strict=True):
        corners = np.asarray(ring) @ turn.T
        (left, near), (right, far) = corners.min(axis=0), corners.max(axis=0)
        strips.append(TrueStrip(left_m=left, right_m=right, near_m=near, far_m=far, yield_kg_per_ha=yield_))
    header, *lines = drive(strips, machine, seed=seed).splitlines()
    values = [line.split(",") for line in lines]
    places = np.array([[float(row[1]), float(row[2])] for row in values]) @ turn
    body = "\n".join(",".join([row[0], f"{x:.3f}", f"{y:.3f}", *row[3:]]) for row, (x, y) in zip(values, places, strict=True))
    return f"{header}\n{body}\n"


class _Ground:
    """Smooth relative yield over the field: a few waves along, a slow one across."""

    def __init__(self, rng: np.random.Generator) -> None:
        self.lengths = rng.uniform(35, 140, 5)
        self.phases = rng.uniform(0, 2 * np.pi, 5)
        self.heights = rng.uniform(0.03, 0.07, 5)
        self.slant = rng.uniform(-0.25, 0.25, 5)

    def at(self, x: Array, y: Array) -> Array:
        waves = self.heights[:, None] * np.sin(
            2 * np.pi * (y[None, :] + self.slant[:, None] * x[None, :]) / self.lengths[:, None] + self.phases[:, None]
        )
        return np.asarray(1 + waves.sum(axis=0))


def _pass(strip: TrueStrip, middle: float, machine: Combine, ground: _Ground, rng: np.random.Generator, *, up: bool) -> Array:
    speed = _speeds(strip.far_m - strip.near_m, machine, rng)
    in_crop = len(speed)
    if machine.runs_on:
        speed = np.concatenate([speed, np.full(round((machine.lag_s + 4 * machine.smear_s) / STEP_S), machine.speed_m_s)])
    travelled = np.cumsum(speed) * STEP_S
    y = strip.near_m + travelled if up else strip.far_m - travelled
    x = np.full_like(y, middle)
    whole = np.linspace(strip.near_m, strip.far_m, 2_000)
    mean = float(ground.at(np.full_like(whole, middle), whole).mean())
    standing = strip.yield_kg_per_ha / 1e4 * ground.at(x, y) / mean
    intake = np.where(np.arange(len(speed)) < in_crop, standing * machine.swath_m * speed, 0.0)
    smear = min(machine.smear_s, machine.lag_s)
    weights = np.exp(-np.arange(0, 8 * smear + STEP_S, STEP_S) / max(smear, 1e-9))
    weights = weights / weights.sum()
    delayed = np.concatenate([np.zeros(round((machine.lag_s - smear) / STEP_S)), intake])[: len(intake)]
    sensed = np.convolve(delayed, weights)[: len(intake)]
    every = max(round(machine.interval_s / STEP_S), 1)
    at = np.arange(every - 1, len(y), every)
    # a reading stands for its interval: mean flow and speed, ground covered since the one before
    means = [array[: len(at) * every].reshape(-1, every).mean(axis=1) for array in (sensed, speed)]
    noise = 1 + machine.noise * rng.standard_normal(len(at))
    return np.column_stack(
        [
            (at + 1) * STEP_S,
            x[at] + machine.gps_m * rng.standard_normal(len(at)),
            y[at] + machine.gps_m * rng.standard_normal(len(at)),
            means[1],
            np.full(len(at), machine.swath_m),
            means[1] * machine.interval_s,
            np.maximum(means[0] * noise, 0.0),
            machine.moisture_pct + 0.2 * rng.standard_normal(len(at)),
        ]
    )


def _speeds(length: float, machine: Combine, rng: np.random.Generator) -> Array:
    """Speed at every tick until the strip is through: steady with a slow drift, at times a stop in the crop."""
    ticks = int(2.5 * length / machine.speed_m_s / STEP_S) + 600
    drift = 0.06 * np.sin(2 * np.pi * np.arange(ticks) * STEP_S / 70 + rng.uniform(0, 6))
    speed = machine.speed_m_s * (1 + drift)
    if rng.random() < machine.stops:
        start = int(rng.uniform(0.3, 0.7) * length / machine.speed_m_s / STEP_S)
        ramp, wait = int(3 / STEP_S), int(rng.uniform(6, 20) / STEP_S)
        speed[start : start + ramp] *= np.linspace(1, 0.02, ramp)
        speed[start + ramp : start + ramp + wait] = 0.0
        again = start + ramp + wait
        speed[again : again + ramp] *= np.linspace(0.02, 1, ramp)
    through = int(np.searchsorted(np.cumsum(speed) * STEP_S, length))
    return np.asarray(speed[: max(through, 10)])
