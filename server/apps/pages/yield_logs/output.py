"""Logs as the API carries them: state, columns, steps, strips beside the scale, calibration."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, cast

from cultrix_core.errors import Refusal
from cultrix_core.estimate.learning import limits_of_agreement
from cultrix_core.harvest.cleaning import NAMES, PARAMETERS, Settings
from cultrix_core.harvest.log_columns import ROLES, UNITS
from cultrix_core.harvest.on_loads import FAR_LOAD
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.working import Step, Working

from apps.base.formatting import shown, working_out
from apps.base.quantities import out
from apps.field.harvest.ground import area_of
from apps.field.harvest.models import HarvestLoad
from apps.field.logs import calibrated_yields, cleaning, models
from apps.field.logs.models import YieldLog
from apps.field.logs.queries import logs_of
from apps.field.logs.schemas import (
    ColumnOut,
    LogAgreementOut,
    LogCalibrationOut,
    LogLoadOut,
    LogStepOut,
    LogStripOut,
    ParameterOut,
    SourceOut,
    YieldLogOut,
    YieldLogsOut,
)
from apps.field.queries import loads_of, yields_of
from apps.jobs.queries import latest, state_of
from apps.trial_state.view import TrialView
from apps.trials.models import Strip

OPTIONAL = {"distance", "moisture", "yield", "speed", "flow"}


def logs_out(view: TrialView) -> YieldLogsOut:
    """Every standing log of a trial and the source of its yields."""
    loads = loads_of(view.trial)
    chosen = calibrated_yields.source_of(view.trial)
    log = calibrated_yields.chosen_log(view.trial)
    try:
        cleaning.rings_of(view.trial)
        needs = ""
    except Refusal as refusal:
        needs = refusal.message
    return YieldLogsOut(
        source=SourceOut(
            version=chosen.version if chosen else 0, log_id=log.id if log else None, words=source_words(view, loads)
        ),
        placed=not needs,
        needs=needs,
        logs=[log_out(view, yield_log, loads) for yield_log in logs_of(view.trial)],
    )


def source_words(view: TrialView, loads: Sequence[HarvestLoad] | None = None) -> str:
    """What the yields of the verdict are, in a sentence."""
    loads = loads_of(view.trial) if loads is None else loads
    log = calibrated_yields.chosen_log(view.trial)
    if log is None:
        return "Yields are those of the loads." if loads else ""
    read = calibrated_yields.read(log, loads)
    if read.calibration is None:
        return f"Yields are those of the log {log.name}, as the monitor has them: no load to calibrate on."
    if not log.calibrated:
        return f"Yields are those of the log {log.name}, as the monitor has them: not brought to the scale."
    return (
        f"Yields are those of the log {log.name}, brought to the scale on {len(read.pairs)} "
        f"load{'s' if len(read.pairs) != 1 else ''} (× {read.factor:.3f})."
    )


def log_out(view: TrialView, log: YieldLog, loads: Sequence[HarvestLoad]) -> YieldLogOut:
    """One log whole."""
    read = calibrated_yields.read(log, loads)
    job = latest(log.id)
    fresh = log.result is not None and log.result_hash == cleaning.inputs_hash(log)
    state = "done" if fresh else state_of(job) if job else "columns"
    if state == "done" and not fresh:  # the layout moved after the work was done
        state = "cancelled"
    result: dict[str, Any] = log.result or {}
    agreement = _agreement(view, read, loads)
    chosen = calibrated_yields.chosen_log(view.trial)
    return YieldLogOut(
        id=log.id,
        version=log.version,
        name=log.name,
        size_kb=max(round(log.size / 1000), 1),
        digest=log.digest[:12],
        machine_id=log.machine_id,
        machine=log.machine.name if log.machine else "",
        recorded_at=log.recorded_at,
        recorded_by=log.recorded_by.get_full_name(),
        state=cast(Any, state),
        job_id=job.id if job and state in ("waiting", "running") else None,
        progress_pct=100 * (job.progress if job else 0.0),
        said=job.said if job and state != "done" else "",
        field=job.field if job and state == "failed" else "",
        header=log.header["names"],
        rows=log.header["rows"],
        columns=_columns(log, view.show),
        readings=result.get("readings", 0),
        unreadable=result.get("unreadable", 0),
        passes=result.get("passes", 0),
        on_strips=result.get("on_strips", 0),
        delay_s=result.get("delay_s"),
        delay_found=result.get("delay_found", False),
        steps=_steps(log, result),
        off=list(log.steps.get("off", [])),
        values={name: value for name, value in log.steps.items() if name != "off"},
        margin=out(log, models.MARGIN, view.show),
        calibrated=log.calibrated,
        calibration=_calibration(view, read, loads),
        agreement=agreement,
        strips=[_strip(view, strip, read, loads) for strip in view.strips if strip.id in read.strips],
        chosen=chosen is not None and chosen.id == log.id,
        remarks=_remarks(view, log, read, result),
    )


def _columns(log: YieldLog, show: UnitFormatter) -> list[ColumnOut]:
    rows = []
    for role, label in ROLES.items():
        item = log.columns.get(role, {"name": "", "unit": next(iter(UNITS[role])), "constant": None})
        constant = item["constant"]
        rows.append(
            ColumnOut(
                role=role,
                label=label,
                optional=role in OPTIONAL,
                units=list(UNITS[role]),
                name=item["name"],
                unit=item["unit"],
                constant="" if constant is None else format_number(show.show(constant, "strip_width").value, 2),
            )
        )
    return rows


def _steps(log: YieldLog, result: dict[str, Any]) -> list[LogStepOut]:
    usual, off = Settings(), set(log.steps.get("off", []))
    numbers = {item["key"]: item for item in result.get("steps", [])}
    return [
        LogStepOut(
            key=key,
            index=index,
            name=name,
            on=key not in off,
            words=numbers.get(key, {}).get("words", ""),
            dropped=numbers.get(key, {}).get("dropped", 0),
            left=numbers.get(key, {}).get("left", 0),
            parameters=[
                ParameterOut(
                    name=parameter, label=label, unit=unit, value=log.steps.get(parameter), usual=getattr(usual, parameter)
                )
                for parameter, label, unit in PARAMETERS[key]
            ],
        )
        for index, (key, name) in enumerate(NAMES.items(), start=1)
    ]


def _strip(view: TrialView, strip: Strip, read: calibrated_yields.LogReading, loads: Sequence[HarvestLoad]) -> LogStripOut:
    log_strip = read.strips[strip.id]
    scale = yields_of(load for load in loads if load.strip_id == strip.id).get(strip.id)
    value = log_strip.yield_kg_per_ha
    both = scale is not None and value is not None
    return LogStripOut(
        strip_id=strip.id,
        order=strip.order,
        letter=strip.received.letter,
        readings=log_strip.readings,
        effective=log_strip.effective,
        raw=shown(log_strip.raw_kg_per_ha, "yield", view.show),
        yield_=shown(value, "yield", view.show),
        se=shown(log_strip.se_kg_per_ha, "yield", view.show),
        scale=shown(scale, "yield", view.show),
        difference=shown(scale - value, "yield", view.show, signed=True) if both else None,  # type: ignore[operator]
        difference_pct=100 * (scale / value - 1) if both else None,  # type: ignore[operator]
        working=working_out(strip_working(view, strip, read)) if value is not None else None,
    )


def strip_working(view: TrialView, strip: Strip, read: calibrated_yields.LogReading) -> Working:
    """How the yield of a strip follows from its readings."""
    log_strip, show = read.strips[strip.id], view.show
    wet, final = show.text(log_strip.wet_kg_per_ha or 0.0, "yield"), show.text(log_strip.yield_kg_per_ha or 0.0, "yield")
    steps = [
        Step(
            label="Yield as cut",
            formula="grain ÷ ground over the readings inside",
            numbers=f"{log_strip.readings} readings on {show.text(log_strip.area_m2, 'area', decimals=4)}",
            outcome=wet,
        )
    ]
    standard = view.profile.standard_moisture_pct
    if (
        standard is not None
        and log_strip.uncalibrated_kg_per_ha is not None
        and log_strip.uncalibrated_kg_per_ha != log_strip.wet_kg_per_ha
    ):
        at = "the loads’ moisture" if log_strip.moisture_pct is None else f"{format_number(log_strip.moisture_pct, 1)} %"
        steps.append(
            Step(
                label=f"At {standard:g} % moisture",
                formula="wet × (100 − moisture) ÷ (100 − standard)",
                numbers=f"{wet} at {at}",
                outcome=show.text(log_strip.uncalibrated_kg_per_ha, "yield"),
            )
        )
    if read.factor != 1:
        steps.append(
            Step(
                label="Brought to the scale",
                formula="× grain by scale ÷ grain by log, over all loads used",
                numbers=f"× {read.factor:.4f}, from {len(read.pairs)} loads",
                outcome=final,
                source="Cochran (1977), Sampling Techniques, ch. 6, from memory",
            )
        )
    se = "" if log_strip.se_kg_per_ha is None else f" ± {show.text(log_strip.se_kg_per_ha, 'yield')} (standard error)"
    return Working(
        title=f"Yield of strip {strip.order} by the log",
        outcome=f"{final}{se}",
        steps=tuple(steps),
        assumption=(
            f"Readings along a strip resemble each other: {log_strip.readings} of them are worth about "
            f"{format_number(log_strip.effective or 0.0, 0)} independent ones. They say how well this strip is known, "
            "not how strips differ: the strip is the replicate."
        ),
    )


def _calibration(view: TrialView, read: calibrated_yields.LogReading, loads: Sequence[HarvestLoad]) -> LogCalibrationOut | None:
    strips = read.strips
    rows = []
    calibration = read.calibration
    for load in loads:
        log_strip, area = strips.get(load.strip_id), area_of(load)
        if log_strip is None or log_strip.uncalibrated_kg_per_ha is None or area is None or not load.yield_kg_per_ha:
            continue
        scale, logged = load.yield_kg_per_ha * area / 1e4, log_strip.uncalibrated_kg_per_ha * area / 1e4
        off = (calibration.factor if calibration else 1.0) * logged / scale - 1
        used = str(load.id) not in read.log.left_out
        rows.append(
            LogLoadOut(
                load_id=load.id,
                strip=load.strip.order,
                scale=view.show.text(scale, "mass"),
                logged=view.show.text(logged, "mass"),
                residual_pct=100 * off,
                used=used,
                far=bool(calibration and used and abs(off) > FAR_LOAD and len(read.pairs) > 1),
            )
        )
    if not rows:
        return None
    if calibration is None:
        return LogCalibrationOut(factor="", words="No load is used: the yields stay as the monitor has them.", loads=rows)
    error = "" if calibration.se is None else f" ± {calibration.se:.3f} (standard error)"
    words = f"Scale ÷ log over {len(read.pairs)} load{'s' if len(read.pairs) != 1 else ''}: {calibration.factor:.3f}{error}."
    return LogCalibrationOut(factor=f"{calibration.factor:.3f}", words=words, loads=rows)


def _agreement(view: TrialView, read: calibrated_yields.LogReading, loads: Sequence[HarvestLoad]) -> LogAgreementOut | None:
    scale = yields_of(loads)
    pairs = [
        (scale[key], log_strip.yield_kg_per_ha)
        for key, log_strip in read.strips.items()
        if key in scale and log_strip.yield_kg_per_ha is not None
    ]
    if len(pairs) < 3:
        return None
    limits = limits_of_agreement([first - second for first, second in pairs])
    show = view.show

    def plain(value: float) -> float:
        return show.show(value, "yield").value

    words = (
        f"Scale less log over {len(pairs)} strips: {show.text(limits.mean, 'yield', signed=True)} on average; "
        f"95 % of strips between {show.text(limits.lower, 'yield', signed=True)} and "
        f"{show.text(limits.upper, 'yield', signed=True)}."
    )
    return LogAgreementOut(
        unit=show.unit("yield"),
        bias=plain(limits.mean),
        lower=plain(limits.lower),
        upper=plain(limits.upper),
        words=words,
        points=[[plain((first + second) / 2), plain(first - second)] for first, second in pairs],
    )


def _remarks(view: TrialView, log: YieldLog, read: calibrated_yields.LogReading, result: dict[str, Any]) -> list[str]:
    if not result:
        return []
    sentences = []
    thin = [strip.order for strip in view.strips if strip.id in read.strips and read.strips[strip.id].yield_kg_per_ha is None]
    if thin:
        sentences.append(
            f"Too few readings on strip{'s' if len(thin) > 1 else ''} {', '.join(map(str, thin))}: no yield from this log."
        )
    if result["unreadable"]:
        sentences.append(f"{result['unreadable']} rows of the file hold no number where one is needed; they are left out.")
    if not result["delay_found"] and "delay" not in log.steps.get("off", []) and "delay_s" not in log.steps:
        sentences.append(
            "The log does not tell its flow delay (too few passes driven opposite ways); "
            f"{result['delay_s']:g} s is the usual one."
        )
    gone = sum(step["dropped"] for step in result["steps"])
    if result["readings"] and gone > 0.5 * result["readings"]:
        sentences.append(f"More than half of the readings are dropped ({gone} of {result['readings']}). Is a unit wrong?")
    if view.profile.standard_moisture_pct is not None and all(strip.moisture_pct is None for strip in read.strips.values()):
        sentences.append("The log has no moisture: the loads’ moisture is used where there is one, else yields stay as cut.")
    if read.calibration is not None and read.calibration.far:
        sentences.append(
            f"Far from the others on the scale: {', '.join(read.calibration.far)}. Weighed wrong, or another strip’s grain?"
        )
    return sentences
