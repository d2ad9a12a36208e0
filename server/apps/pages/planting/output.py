"""Planting as the API carries it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from typing import Any, cast
from uuid import UUID

from cultrix_core.seeding.calibration import WORDS, calibration_working
from cultrix_core.seeding.depth import DepthAdvice, advise_depth, depths_dug, depths_working
from cultrix_core.seeding.rates import kg_per_ha
from cultrix_core.seeding.seedbed import judge
from cultrix_core.seeding.sowing_profiles import sowing_profile
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.units import find_unit

from apps.base.formatting import shown, working_out
from apps.base.quantities import TypedIn, out
from apps.field.planting import calibration, models
from apps.field.planting.models import (
    Calibration,
    DepthCheck,
    Deviation,
    PlantingRecord,
    SeedbedCheck,
    TillagePass,
)
from apps.field.planting.schemas import (
    CalibrationOut,
    CalibrationsOut,
    CatchOut,
    DepthCheckOut,
    DepthsOut,
    DepthUnitOut,
    DeviationOut,
    FindingOut,
    PlantingOut,
    PlantingRecordOut,
    SchoolOut,
    SeedbedCheckOut,
    StripPlantingOut,
    TillagePassOut,
    TreatmentDepthOut,
)
from apps.field.planting.services import BED, bed_of
from apps.pages.planting import calibrations as planting_calibrations
from apps.trial_state.view import TrialView
from apps.trials.models import Strip, Treatment

OVERALL = {
    "ready": "The bed is ready",
    "with_care": "With care: something is only half right or not measured",
    "not_ready": "Not ready",
    "not_known": "Nothing measured yet",
}
KINDS = {
    "soil": PlantingRecord.SOILS,
    "way": PlantingRecord.WAYS,
    "deviation": Deviation.KINDS,
    "weeds": SeedbedCheck.WEEDS,
    "texture": SeedbedCheck.TEXTURES,
    "pass": TillagePass.KINDS,
    "method": Calibration.METHODS,
}


def planting_out(view: TrialView) -> PlantingOut:
    """The Planting stage of a trial."""
    trial, show = view.trial, view.show
    records = _by_strip(
        PlantingRecord.objects.filter(strip__trial=trial, voided=False).select_related("machine", "lot", "recorded_by")
    )
    depths = _by_strip(DepthCheck.objects.filter(strip__trial=trial, voided=False).select_related("recorded_by"))
    deviations = _by_strip(
        Deviation.objects.filter(strip__trial=trial, voided=False).select_related("recorded_by", "sown_treatment")
    )
    checks = list(trial.seedbed_checks.filter(voided=False).select_related("recorded_by"))
    passes = list(trial.tillage_passes.filter(voided=False).select_related("machine", "recorded_by").prefetch_related("strips"))
    profile = sowing_profile(trial.crop)
    code = show.unit_code("depth_dug")
    unit = find_unit("length", code)
    calibrations = planting_calibrations.calibrations_for(view)
    return PlantingOut(
        strips=[_strip_out(view, strip, records[strip.id], depths[strip.id], deviations[strip.id]) for strip in view.strips],
        treatments=[_treatment_depths(view, treatment, depths) for treatment in view.treatments],
        seedbed=[seedbed_out(view, check) for check in reversed(checks)],
        schools=[] if checks or profile is None else _schools(advise_depth(profile, show, moisture_line_m=None)),
        tillage=[tillage_out(view, tillage_pass) for tillage_pass in passes],
        window=""
        if profile is None
        else f"{show.number(profile.window_m[0], 'depth')} to {show.text(profile.window_m[1], 'depth')}",
        window_m=[] if profile is None else list(profile.window_m),
        small_seeded=profile is not None and profile.small_seeded,
        depth_unit=DepthUnitOut(code=code, label=unit.label, factor=unit.factor),
        uncalibrated=planting_calibrations.missing_for(view, calibrations) if view.sowings else [],
        kinds={name: [list(pair) for pair in pairs] for name, pairs in KINDS.items()},
    )


def _by_strip(rows: Any) -> dict[UUID, list[Any]]:
    result: dict[UUID, list[Any]] = defaultdict(list)
    for row in rows:
        result[row.strip_id].append(row)
    return result


def _strip_out(
    view: TrialView,
    strip: Strip,
    records: Sequence[PlantingRecord],
    depths: Sequence[DepthCheck],
    deviations: Sequence[Deviation],
) -> StripPlantingOut:
    show, planned = view.show, view.seeds_per_m2(strip.treatment)
    weight = view.lot(strip.treatment).thousand_seed_weight_g
    return StripPlantingOut(
        strip_id=strip.id,
        target_depth=shown(view.depth_m(strip.received), "depth", show),
        planned_rate=show.text(planned, "density") if planned else None,
        planned_mass=show.text(kg_per_ha(planned, thousand_seed_weight_g=weight), "seed_rate_mass")
        if planned and weight
        else None,
        records=[record_out(view, record) for record in records],
        depths=[depth_out(view, check) for check in depths],
        dug=dug_out(view, strip, depths),
        deviations=[deviation_out(view, deviation) for deviation in deviations],
    )


def record_out(view: TrialView, record: PlantingRecord) -> PlantingRecordOut:
    """How a strip was sown, and how far the rate is from the one wanted."""
    strip = next(strip for strip in view.strips if strip.id == record.strip_id)
    planned, sown = view.seeds_per_m2(strip.treatment), record.rate.value
    off = "" if not planned or sown is None else f"{format_number(100 * (sown / planned - 1), 1, signed=True)} %"
    return PlantingRecordOut(
        id=record.id,
        strip_id=record.strip_id,
        version=record.version,
        sown_at=record.sown_at,
        way=cast(Any, record.way),
        machine_id=record.machine_id,
        machine=record.machine.name if record.machine else "",
        lot_id=record.lot_id,
        lot=str(record.lot) if record.lot else "",
        setting=record.setting,
        rate=out(record, models.SOWN_RATE, view.show),
        rate_off=off,
        speed=out(record, models.SPEED, view.show),
        soil=cast(Any, record.soil),
        soil_name=record.get_soil_display() if record.soil else "",
        weather=record.weather,
        note=record.note,
        recorded_by=record.recorded_by.get_full_name(),
    )


def depth_out(view: TrialView, check: DepthCheck) -> DepthCheckOut:
    """One depth."""
    return DepthCheckOut(
        id=check.id,
        strip_id=check.strip_id,
        version=check.version,
        depth=out(check, models.DUG, view.show),
        depth_m=check.depth.value or 0.0,
        opener=check.opener,
        recorded_by=check.recorded_by.get_full_name(),
    )


def dug_out(view: TrialView, strip: Strip, depths: Sequence[DepthCheck]) -> DepthsOut | None:
    """Depths of a strip together, None without any."""
    if not depths:
        return None
    show, profile = view.show, sowing_profile(view.trial.crop)
    dug = depths_dug(
        [check.depth.value or 0.0 for check in depths],
        window_m=profile.window_m if profile else None,
        target_m=view.depth_m(strip.received),
    )
    mean = shown(dug.mean_m, "depth", show)
    assert mean is not None
    return DepthsOut(
        n=dug.n,
        mean=mean,
        half_width=shown(dug.half_width_m, "depth", show),
        inside_pct=None if dug.inside_frac is None else 100 * dug.inside_frac,
        off="" if dug.off_m is None else show.text(dug.off_m, "depth", signed=True),
        working=working_out(depths_working(dug, show)),
    )


def _treatment_depths(view: TrialView, treatment: Treatment, depths: dict[UUID, list[DepthCheck]]) -> TreatmentDepthOut:
    strips = [strip for strip in view.strips if strip.received.id == treatment.id and not strip.lost and depths[strip.id]]
    means = [depths_dug([check.depth.value or 0.0 for check in depths[strip.id]]).mean_m for strip in strips]
    every = [check.depth.value or 0.0 for strip in strips for check in depths[strip.id]]
    profile = sowing_profile(view.trial.crop)
    inside = depths_dug(every, window_m=profile.window_m).inside_frac if every and profile else None
    return TreatmentDepthOut(
        treatment_id=treatment.id,
        strips=len(strips),
        n=len(every),
        mean=shown(sum(means) / len(means), "depth", view.show) if means else None,
        target=shown(view.depth_m(treatment), "depth", view.show),
        inside_pct=None if inside is None else 100 * inside,
    )


def deviation_out(view: TrialView, deviation: Deviation) -> DeviationOut:
    """What went otherwise, in words too."""
    parts = [deviation.get_kind_display()]
    if deviation.rows:
        parts.append(f"{deviation.rows} row{'s' if deviation.rows != 1 else ''}")
    if deviation.start.value is not None or deviation.end.value is not None:
        start, end = (
            None if value is None else view.show.text(value, "strip_length")
            for value in (deviation.start.value, deviation.end.value)
        )
        parts.append(f"from {start or 'the stake'} to {end or 'the end'}")
    if deviation.sown_treatment_id:
        letters = {treatment.id: treatment.letter for treatment in view.treatments}
        parts.append(f"got {letters.get(deviation.sown_treatment_id, '?')}")
    if deviation.note:
        parts.append(deviation.note)
    return DeviationOut(
        id=deviation.id,
        strip_id=deviation.strip_id,
        version=deviation.version,
        kind=cast(Any, deviation.kind),
        kind_name=deviation.get_kind_display(),
        rows=deviation.rows,
        start=out(deviation, models.FROM, view.show),
        end=out(deviation, models.TO, view.show),
        sown_treatment_id=deviation.sown_treatment_id,
        note=deviation.note,
        words=", ".join(parts),
        recorded_by=deviation.recorded_by.get_full_name(),
    )


def _schools(advice: DepthAdvice) -> list[SchoolOut]:
    return [
        SchoolOut(
            title=school.title,
            depth=school.working.outcome if school.depth_m is not None else None,
            verdict=school.verdict,
            risks=list(school.risks),
            working=working_out(school.working),
        )
        for school in (advice.into_moisture, advice.fixed)
    ]


def seedbed_out(view: TrialView, check: SeedbedCheck) -> SeedbedCheckOut:
    """A bed with its verdict for this crop and both schools of depth; no verdict where the crop has no profile."""
    show, profile = view.show, sowing_profile(view.trial.crop)
    judged = judge(bed_of(check), profile, show) if profile else None
    schools = []
    if profile:
        schools = _schools(
            advise_depth(
                profile,
                show,
                moisture_line_m=check.moisture_line.value,
                texture=cast(Any, check.texture),
                soil_c=check.soil_temperature.value,
            )
        )
    overall = judged.overall if judged else "not_known"
    return SeedbedCheckOut(
        id=check.id,
        version=check.version,
        strip_id=check.strip_id,
        checked_on=check.checked_on,
        **{quantity.name: out(check, quantity, show) for quantity in BED},
        weeds=cast(Any, check.weeds),
        texture=cast(Any, check.texture),
        note=check.note,
        overall=overall,
        overall_words=OVERALL[overall],
        findings=[
            FindingOut(check=finding.check, state=finding.state, reason=finding.reason, source=finding.source)
            for finding in judged.findings
        ]
        if judged
        else [],
        schools=schools,
        recorded_by=check.recorded_by.get_full_name(),
    )


def tillage_out(view: TrialView, tillage_pass: TillagePass) -> TillagePassOut:
    """A pass over the ground, and whether it was before or after planting."""
    on = {strip.id for strip in tillage_pass.strips.all()}
    sown = {view.records[strip.id].sown_on for strip in view.strips if not on or strip.id in on}
    days = sorted((tillage_pass.done_on - day).days for day in sown if day is not None)
    when = (
        "" if not days else _from_sowing(days[0]) if len(days) == 1 else f"{_from_sowing(days[0])} to {_from_sowing(days[-1])}"
    )
    return TillagePassOut(
        id=tillage_pass.id,
        version=tillage_pass.version,
        done_on=tillage_pass.done_on,
        kind=cast(Any, tillage_pass.kind),
        kind_name=tillage_pass.get_kind_display(),
        machine=tillage_pass.machine.name if tillage_pass.machine else "",
        times=tillage_pass.times,
        depth=out(tillage_pass, models.WORKED_DEPTH, view.show),
        strip_ids=[strip.id for strip in tillage_pass.strips.all()],
        when=when,
        note=tillage_pass.note,
        recorded_by=tillage_pass.recorded_by.get_full_name(),
    )


def _from_sowing(days: int) -> str:
    """A day told from the day of sowing."""
    if days == 0:
        return "on the day of planting"
    return f"{abs(days)} days {'after' if days > 0 else 'before'} planting"


def calibration_out(record: Calibration, show: UnitFormatter) -> CalibrationOut:
    """Catches with how they stand."""
    done = calibration.result_of(record)
    working = calibration_working(done, show)
    return CalibrationOut(
        id=record.id,
        version=record.version,
        lot_id=record.lot_id,
        lot=str(record.lot),
        machine_id=record.machine_id,
        machine=record.machine.name,
        done_on=record.done_on,
        method=cast(Any, record.method),
        target=out(record, models.TARGET, show),
        tolerance=out(record, models.TOLERANCE, show),
        catches=[
            CatchOut(
                setting=catch["setting"],
                mass=TypedIn(text=catch["text"], unit=catch["unit"]),
                way=TypedIn(text=catch["way"], unit=catch["way_unit"]),
                rate=show.text(catch["kg_per_ha"], "seed_rate_mass"),
            )
            for catch in record.catches
        ],
        standing=done.standing,
        words=WORDS[done.standing],
        mean=show.text(done.mean_kg_per_ha, "seed_rate_mass"),
        off=f"{format_number(100 * done.off_frac, 1, signed=True)} %",
        corrected="" if done.corrected_setting is None else format_number(done.corrected_setting, 2),
        advice=working.assumption,
        note=record.note,
        working=working_out(working),
        recorded_by=record.recorded_by.get_full_name(),
    )


def calibrations_out(view: TrialView) -> CalibrationsOut:
    """Calibrations of the lots a trial sows, and what is missing."""
    calibrations = planting_calibrations.calibrations_for(view)
    return CalibrationsOut(
        calibrations=[calibration_out(item, view.show) for item in calibrations],
        missing=planting_calibrations.missing_for(view, calibrations) if view.sowings else [],
    )
