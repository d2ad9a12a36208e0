"""Simulated instruments of a trial: a combine that drives its strips, a scale, a moisture meter. The truth is known.

The truth of a strip is its yield by the loads where it is harvested, else what is expected of the trial, with a variation
of its own from strip to strip. Everything goes out as the text that real files and instruments are read in.
"""

from __future__ import annotations

from dataclasses import dataclass
from uuid import UUID

import numpy as np
from cultrix_core.errors import Refusal, require_between
from cultrix_core.harvest.instruments import read_moisture, read_scale
from cultrix_core.harvest.loads import to_standard_moisture
from cultrix_core.simulate.scale import Scale, measure_moisture, weigh
from cultrix_core.simulate.yield_monitor import Combine, drive_along
from cultrix_core.unit_formatting import format_number
from cultrix_core.units import HA_M2

from apps.base.errors import NotFound
from apps.field.logs import cleaning
from apps.field.logs.schemas import InstrumentOut, LinesIn, StandInOut
from apps.geography import frames
from apps.trial_state.view import TrialView
from apps.trials.models import Strip

SPREAD = 0.05  # from strip to strip where nothing is harvested yet
USUAL_SHARE = 0.5  # of what a crop is believed to make, where nothing is expected either


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """The combine asked for. ``gain``: what its monitor reads for one of grain, so that there is something to calibrate."""

    lag_s: float = 10.0
    noise: float = 0.03
    gain: float = 1.0
    seed: int = 1
    moisture_pct: float = 14.0
    swath_m: float | None = None


def truth_of(view: TrialView, seed: int) -> dict[UUID, float]:
    """True yield of every strip in kg/ha at standard moisture; lost strips too, they are driven through."""
    rng = np.random.default_rng(seed)
    usual = view.trial.expected_yield.value or USUAL_SHARE * view.profile.believable_yield_kg_per_ha
    truth = {}
    for strip in view.strips:
        drawn = usual * (1 + SPREAD * rng.standard_normal())
        value = view.records[strip.id].scale_kg_per_ha
        truth[strip.id] = drawn if value is None else value
    return truth


def combine_log(view: TrialView, asked: Asked) -> str:
    """The log of a combine that has driven the trial's strips, in longitude and latitude where the field lies on the earth."""
    require_between(asked.gain, 0.5, 2, "gain", label="Reading of the monitor")
    require_between(asked.moisture_pct, 1, 60, "moisture", label="Moisture", unit=" %")
    rings = cleaning.rings_of(view.trial)
    truth = truth_of(view, asked.seed)
    standard = view.profile.standard_moisture_pct
    wet = 1.0
    if standard is not None:
        wet = 1 / to_standard_moisture(1.0, moisture_pct=asked.moisture_pct, standard_pct=standard)
    width = asked.swath_m or min(strip.width.value or 6.0 for strip in view.strips)
    text = drive_along(
        [rings[str(strip.id)] for strip in view.strips],
        [truth[strip.id] * wet * asked.gain for strip in view.strips],
        Combine(swath_m=width, lag_s=asked.lag_s, noise=asked.noise, moisture_pct=asked.moisture_pct),
        seed=asked.seed,
    )
    frame = view.trial.plan.get("frame") or ""
    return _on_earth(text, frame) if frame else text


def _on_earth(text: str, frame: str) -> str:
    header, *lines = text.splitlines()
    rows = [line.split(",") for line in lines]
    degrees = frames.many_to_degrees([(float(row[1]), float(row[2])) for row in rows], frame)
    names = header.replace("x_m", "longitude").replace("y_m", "latitude")
    body = "\n".join(
        ",".join([row[0], f"{lon:.8f}", f"{lat:.8f}", *row[3:]]) for row, (lon, lat) in zip(rows, degrees, strict=True)
    )
    return f"{names}\n{body}\n"


def scale_says(view: TrialView, strip: Strip, seed: int) -> StandInOut:
    """A load of a strip on the scale: the grain of its swath, as it comes."""
    load = truth_of(view, seed)[strip.id] * (strip.width.value or 6.0) * (strip.length.value or 100.0) / HA_M2
    return StandInOut(lines=weigh(load, Scale(), seed=seed), truth=f"{format_number(load, 0)} kg")


def meter_says(true_pct: float, seed: int) -> StandInOut:
    """Three measurements of one sample."""
    return StandInOut(lines=measure_moisture(true_pct, seed=seed), truth=f"{format_number(true_pct, 1)} %")


def strip_at(view: TrialView, order: int) -> Strip:
    """A strip by its place, else ``NotFound``."""
    result = next((strip for strip in view.strips if strip.order == order), None)
    if result is None:
        raise NotFound
    return result


def read_lines(body: LinesIn) -> InstrumentOut:
    """What an instrument said, as a reading."""
    if len(body.lines) > 400_000:
        raise Refusal("too_large", field="lines", label="Text", value=len(body.lines), limit=400_000)
    if body.instrument == "scale":
        weighed = read_scale(body.lines)
        words = f"at rest for {format_number(weighed.still_s, 0)} s, within {format_number(weighed.spread_kg, 1)} kg"
        return InstrumentOut(text=format_number(weighed.weight_kg, 1), unit="kg", words=words + _odd(weighed.unreadable))
    moisture = read_moisture(body.lines)
    error = "" if moisture.se_pct is None else f" ± {format_number(moisture.se_pct, 2)} (standard error)"
    words = f"mean of {moisture.repeats}{error}" if moisture.repeats > 1 else "one measurement"
    return InstrumentOut(text=format_number(moisture.moisture_pct, 1), unit="%", words=words + _odd(moisture.unreadable))


def _odd(lines: int) -> str:
    return f"; {lines} lines could not be read" if lines else ""
