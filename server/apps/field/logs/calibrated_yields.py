"""Yields of strips from a log, at standard moisture and brought to the scale where loads are there."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from uuid import UUID

from cultrix_core.harvest.loads import to_standard_moisture
from cultrix_core.harvest.on_loads import Calibration, LoadPair, calibrate

from apps.base.read_once import read_once
from apps.field.harvest.ground import area_of
from apps.field.harvest.models import HarvestLoad
from apps.field.logs.models import HarvestSource, YieldLog
from apps.trials.models import Trial
from apps.trials.profiles import profile_of


@dataclass(frozen=True, slots=True, kw_only=True)
class LogStrip:
    """One strip by the log. ``yield_kg_per_ha`` at standard moisture and calibrated, None with too few readings."""

    readings: int
    area_m2: float
    wet_kg_per_ha: float | None
    moisture_pct: float | None
    raw_kg_per_ha: float | None
    uncalibrated_kg_per_ha: float | None
    yield_kg_per_ha: float | None
    se_kg_per_ha: float | None
    effective: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class LogReading:
    """A log read against the loads as they stand now."""

    log: YieldLog
    strips: dict[UUID, LogStrip]
    calibration: Calibration | None
    factor: float
    pairs: tuple[LoadPair, ...]


@read_once
def source_of(trial: Trial) -> HarvestSource | None:
    """What was chosen as source of yields; None: the loads."""
    return HarvestSource.objects.filter(trial=trial).select_related("log", "chosen_by").first()


def chosen_log(trial: Trial) -> YieldLog | None:
    """The log the verdict rests on, None where it rests on loads."""
    source = source_of(trial)
    return source.log if source is not None and source.log is not None and not source.log.voided else None


def read(log: YieldLog, loads: Sequence[HarvestLoad]) -> LogReading:
    """Yields of a log by strip, from its stored result and the loads."""
    result = log.result or {"strips": {}}
    standard = profile_of(log.trial).standard_moisture_pct
    plain = {UUID(key): _at_standard(one, _load_moisture(loads, UUID(key)), standard) for key, one in result["strips"].items()}
    pairs = tuple(_pairs(log, loads, {key: one[0] for key, one in plain.items()}))
    calibration = calibrate(pairs) if pairs else None
    factor = calibration.factor if calibration is not None and log.calibrated else 1.0
    strips = {}
    for key, item in result["strips"].items():
        yield_, share = plain[UUID(key)]
        strips[UUID(key)] = LogStrip(
            readings=item["readings"],
            area_m2=item["area_m2"],
            wet_kg_per_ha=item["wet_kg_per_ha"],
            moisture_pct=item["moisture_pct"],
            raw_kg_per_ha=item["raw_kg_per_ha"],
            uncalibrated_kg_per_ha=yield_,
            yield_kg_per_ha=None if yield_ is None else factor * yield_,
            se_kg_per_ha=None if item["se_kg_per_ha"] is None else factor * share * item["se_kg_per_ha"],
            effective=item["effective"],
        )
    return LogReading(log=log, strips=strips, calibration=calibration, factor=factor, pairs=pairs)


def _load_moisture(loads: Sequence[HarvestLoad], strip_id: UUID) -> float | None:
    values = [load.moisture.value for load in loads if load.strip_id == strip_id and load.moisture.value is not None]
    return sum(values) / len(values) if values else None


def _at_standard(item: Mapping[str, float | None], of_load: float | None, standard: float | None) -> tuple[float | None, float]:
    """Yield at standard moisture and the factor to it; by the log's moisture, else the load's, else as cut."""
    wet = item["wet_kg_per_ha"]
    moisture = item["moisture_pct"] if item["moisture_pct"] is not None else of_load
    share = 1.0
    if moisture is not None and standard is not None:
        share = to_standard_moisture(1.0, moisture_pct=moisture, standard_pct=standard)
    return (None if wet is None else wet * share), share


def _pairs(log: YieldLog, loads: Sequence[HarvestLoad], yields: Mapping[UUID, float | None]) -> list[LoadPair]:
    """Loads beside what the log says of the same ground; loads left out, stated or without a yield are not calibrated on."""
    pairs = []
    numbers: dict[UUID, int] = {}
    for load in loads:
        numbers[load.strip_id] = numbers.get(load.strip_id, 0) + 1
        yield_, area = yields.get(load.strip_id), area_of(load)
        if str(load.id) in log.left_out or not yield_ or area is None or not load.yield_kg_per_ha:
            continue
        again = f", load {numbers[load.strip_id]}" if numbers[load.strip_id] > 1 else ""
        hectares = area / 1e4
        pairs.append(
            LoadPair(
                name=f"strip {load.strip.order}{again}",
                scale_kg=load.yield_kg_per_ha * hectares,
                log_kg=yield_ * hectares,
            )
        )
    return pairs
