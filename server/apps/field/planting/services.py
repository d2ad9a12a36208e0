"""Writing what was done at planting: records, depths, deviations, seedbed checks, passes."""

from __future__ import annotations

from collections.abc import Sequence
from uuid import UUID

from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.seeding.depth import depths_dug
from cultrix_core.seeding.rates import seeds_per_m2
from cultrix_core.seeding.seedbed import Seedbed, judge
from cultrix_core.seeding.sowing_profiles import sowing_profile
from cultrix_core.stand.openers import MOST_OPENERS
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.units import parse_number
from django.db import transaction

from apps.accounts.models import User, Workspace
from apps.accounts.rights import require
from apps.accounts.services import save_as
from apps.base.quantities import fill
from apps.farms.merged import found
from apps.farms.models import Machine, SeedLot
from apps.farms.seed_lots import values_of
from apps.field.planting import models
from apps.field.planting.clock import day_sown
from apps.field.planting.models import DepthCheck, Deviation, PlantingRecord, SeedbedCheck, TillagePass
from apps.field.planting.schemas import (
    DepthCheckIn,
    DeviationIn,
    PlantingRecordIn,
    PlantingRowIn,
    PlantingSheetIn,
    SeedbedCheckIn,
    TillagePassIn,
)
from apps.records.keeping import all_or_none, keep, not_to_come, strip_of, strips_named, when
from apps.trials.lots import lot_of
from apps.trials.models import Strip, Trial
from apps.trials.queries import sowings_of, trial_for

MOST_ROWS_OFF = 200
SOWN = "sown"  # ends the reason in the history of a trial whose day of sowing a record has given


def put_planting_record(user: User, trial_id: UUID, record_id: UUID, body: PlantingRecordIn) -> tuple[PlantingRecord, bool]:
    """Store how a strip was sown under the client's id. The first one says when the trial was sown."""
    with transaction.atomic():
        trial, strip = strip_of(user, trial_id, body.strip_id)
        record, changed = keep(user, trial, _planting_record(trial, strip, record_id, body), body.version)
        settle_sowing_day(user, trial)
        return record, changed


def put_planting_sheet(user: User, trial_id: UUID, body: PlantingSheetIn) -> list[PlantingRecord]:
    """Store records of many strips, all or none."""

    def put(row: PlantingRowIn) -> PlantingRecord:
        return put_planting_record(user, trial_id, row.id, row)[0]

    return all_or_none(body.rows, put)


def _planting_record(trial: Trial, strip: Strip, record_id: UUID, body: PlantingRecordIn) -> PlantingRecord:
    record = PlantingRecord(
        id=record_id,
        strip=strip,
        sown_at=when(body.sown_at),
        way=body.way,
        recorded_at=when(body.recorded_at),
        machine=_machine(trial.workspace, body.machine_id),
        lot=_lot(trial, body.lot_id),
        setting=body.setting.strip()[:40],
        soil=body.soil,
        weather=body.weather.strip()[:120],
        note=body.note.strip()[:400],
    )
    if body.rate.text.strip():
        value = parse_number(body.rate.text, field="rate", label="Rate sown")
        lot = lot_of(trial, sowings_of(trial), strip.received)
        if record.lot is not None:
            lot = type(lot)(
                thousand_seed_weight_g=values_of(record.lot).bag_weight_g,
                emergence_frac=lot.emergence_frac,
                seeds_in_bag=values_of(record.lot).seeds_in_bag,
            )
        fill(record, models.SOWN_RATE, body.rate, value=seeds_per_m2(value, body.rate.unit, lot=lot))
    fill(record, models.SPEED, body.speed)
    if record.speed.value is not None:
        require_between(record.speed.value, 0.1, 40, "speed", label="Speed", unit=" km/h")
    return record


def _machine(workspace: Workspace, machine_id: UUID | None) -> Machine | None:
    if machine_id is None:
        return None
    machine = found(Machine, workspace, machine_id)
    if machine is None:
        raise Refusal("unknown_choice", field="machine", label="Machine", value=machine_id, limit="the machines in Setup")
    return machine


def _lot(trial: Trial, lot_id: UUID | None) -> SeedLot | None:
    if lot_id is None:
        return None
    lot = found(SeedLot, trial.workspace, lot_id)
    if lot is None:
        raise Refusal("unknown_choice", field="lot", label="Lot", value=lot_id, limit="the lots in Setup")
    if lot.crop != trial.crop and not trial.sowings.filter(lot=lot).exists():
        raise Refusal("other_crop", field="lot", value=f"{lot} is another crop", limit=trial.crop.replace("_", " "))
    return lot


def put_depth_check(user: User, trial_id: UUID, check_id: UUID, body: DepthCheckIn) -> tuple[DepthCheck, bool]:
    """Store one depth under the client's id. Refuses negative depths and such as no drill reaches."""
    with transaction.atomic():
        trial, strip = strip_of(user, trial_id, body.strip_id)
        check = DepthCheck(id=check_id, strip=strip, opener=_opener(body.opener), recorded_at=when(body.recorded_at))
        fill(check, models.DUG, body.depth)
        if check.depth.value is None:
            raise Refusal("missing", field="depth", label="The depth", remedy="Dig to the seed, measure up to the surface.")
        depths_dug([check.depth.value])
        return keep(user, trial, check, body.version)


def _opener(number: int | None) -> int | None:
    """A row of the machine, from 1."""
    if number is not None:
        require_between(number, 1, MOST_OPENERS, "opener", label="Row of the machine")
    return number


def put_deviation(user: User, trial_id: UUID, deviation_id: UUID, body: DeviationIn) -> tuple[Deviation, bool]:
    """Store what went otherwise; where the strip got another treatment, the strip says so too, plan and deed both kept."""
    with transaction.atomic():
        trial, strip = strip_of(user, trial_id, body.strip_id)
        deviation = Deviation(
            id=deviation_id,
            strip=strip,
            kind=body.kind,
            rows=body.rows,
            note=body.note.strip()[:200],
            recorded_at=when(body.recorded_at),
        )
        if body.rows is not None:
            require_between(body.rows, 1, MOST_ROWS_OFF, "rows", label="Rows")
        _put_stretch(deviation, strip, body)
        if body.sown_treatment_id is not None:
            deviation.sown_treatment = trial.treatments.filter(id=body.sown_treatment_id).first()
            if deviation.sown_treatment is None:
                raise Refusal(
                    "unknown_choice",
                    field="sown_treatment_id",
                    label="Treatment",
                    value=body.sown_treatment_id,
                    limit="this trial's own",
                )
        if body.kind == "other" and not deviation.note:
            raise Refusal("missing", field="note", label="What happened", remedy="A few words are enough.")
        kept, changed = keep(user, trial, deviation, body.version)
        if changed:
            settle_strip(user, strip)
        return kept, changed


def _put_stretch(deviation: Deviation, strip: Strip, body: DeviationIn) -> None:
    fill(deviation, models.FROM, body.start)
    fill(deviation, models.TO, body.end)
    for value, name, label in ((deviation.start.value, "start", "From"), (deviation.end.value, "end", "To")):
        if value is not None:
            require_between(
                value, 0, (strip.length.value or 1e5) + 1, name, label=label, unit=" m", remedy="It is measured from the stake."
            )
    if deviation.start.value is not None and deviation.end.value is not None and deviation.end.value < deviation.start.value:
        raise Refusal(
            "too_small",
            field="end",
            label="To",
            value=f"{deviation.end.value:g}",
            limit=f"{deviation.start.value:g}",
            unit=" m",
            remedy="Were they swapped?",
        )


def reason_of(deviation: Deviation) -> str:
    """What the strip says of it, such as “Wrong setting: left at the strip before”."""
    return f"{deviation.get_kind_display()}{f': {deviation.note}' if deviation.note else ''}"[:300]


def settle_strip(user: User, strip: Strip) -> None:
    """Let a strip say what its standing deviations say it got; what was marked on the desk stays.

    The last standing deviation with another treatment decides. Without one, a mark that came from a deviation is taken back.
    """
    strip.refresh_from_db()
    all_of = list(Deviation.objects.filter(strip=strip, sown_treatment__isnull=False))
    standing = [deviation for deviation in all_of if not deviation.voided]
    if standing:
        last = standing[-1]
        treatment = last.sown_treatment if last.sown_treatment_id != strip.treatment_id else None
        if (strip.sown_treatment_id, strip.reason) != (treatment.pk if treatment else None, reason_of(last)):
            strip.sown_treatment, strip.reason = treatment, reason_of(last) if treatment or strip.lost else ""
            save_as(strip, user, reason_of(last))
        return
    if strip.sown_treatment_id and strip.reason in {reason_of(deviation) for deviation in all_of}:
        strip.sown_treatment, strip.reason = None, strip.reason if strip.lost else ""
        save_as(strip, user, "deviation voided, back to the plan")


BED = (models.BOOT, models.SOIL_TEMPERATURE, models.PH, models.RESIDUE, models.MOISTURE_LINE, models.ON_TOP)


def bed_of(check: SeedbedCheck) -> Seedbed:
    """The bed as the core reads it."""
    return Seedbed(
        boot_sink_m=check.boot_sink.value,
        soil_c=check.soil_temperature.value,
        ph=check.ph.value,
        residue_pct=check.residue.value,
        moisture_line_m=check.moisture_line.value,
        weeds=check.weeds or None,  # type: ignore[arg-type]
        seeds_on_top_per_m2=check.seeds_on_top.value,
    )


def put_seedbed_check(user: User, trial_id: UUID, check_id: UUID, body: SeedbedCheckIn) -> tuple[SeedbedCheck, bool]:
    """Store the bed as it was found; something must have been measured or said."""
    with transaction.atomic():
        trial = trial_for(user, trial_id)
        require(user, trial.workspace, "record")
        check = SeedbedCheck(
            id=check_id,
            trial=trial,
            strip=strips_named(trial, [body.strip_id])[0] if body.strip_id else None,
            checked_on=not_to_come(body.checked_on, "checked_on"),
            weeds=body.weeds,
            texture=body.texture,
            note=body.note.strip()[:400],
            recorded_at=when(body.recorded_at),
        )
        for quantity in BED:
            fill(check, quantity, getattr(body, quantity.name))
        bed = bed_of(check)
        if bed == Seedbed() and not check.note:
            raise Refusal("missing", field="boot_sink", label="A measurement", remedy="One is enough; leave the others empty.")
        profile = sowing_profile(trial.crop) or sowing_profile("winter_wheat")
        assert profile is not None
        judge(bed, profile, UnitFormatter(system="metric"))  # refuses what cannot be
        return keep(user, trial, check, body.version)


def put_tillage_pass(user: User, trial_id: UUID, pass_id: UUID, body: TillagePassIn) -> tuple[TillagePass, bool]:
    """Store a pass over the ground, on all strips or on those named."""
    with transaction.atomic():
        trial = trial_for(user, trial_id)
        require(user, trial.workspace, "record")
        strips: Sequence[Strip] = strips_named(trial, body.strip_ids)
        require_between(body.times, 1, 20, "times", label="Times")
        tillage_pass = TillagePass(
            id=pass_id,
            trial=trial,
            done_on=not_to_come(body.done_on, "done_on"),
            kind=body.kind,
            machine=_machine(trial.workspace, body.machine_id),
            times=body.times,
            note=body.note.strip()[:200],
            recorded_at=when(body.recorded_at),
        )
        fill(tillage_pass, models.WORKED_DEPTH, body.depth)
        if tillage_pass.depth.value is not None:
            require_positive(tillage_pass.depth.value, "depth", label="Working depth", unit=" m")
        kept, changed = keep(user, trial, tillage_pass, body.version)
        if changed:
            kept.strips.set(strips)
        return kept, changed


def deviation_voided(user: User, deviation: Deviation) -> None:
    """Let the strip follow when a deviation is voided or restored."""
    settle_strip(user, deviation.strip)


def planting_record_voided(user: User, record: PlantingRecord) -> None:
    """Let the trial's day of sowing follow when a planting record is voided or restored."""
    settle_sowing_day(user, record.strip.trial)


def settle_sowing_day(user: User, trial: Trial) -> None:
    """The trial's day is that of its first strip sown, where records give it; one that was typed stays.

    It stands in lists. Ages, heat and visits go by each strip's own day (``planting.clock``).
    """
    given = trial.history.filter(planted_on=trial.planted_on).order_by("history_date").first()
    by_record = given is not None and str(given.history_change_reason or "").endswith(SOWN)
    if trial.planted_on is not None and not by_record:
        return
    first = PlantingRecord.objects.filter(strip__trial=trial, voided=False).order_by("sown_at", "received_at").first()
    now = day_sown(first) if first is not None else None
    if now != trial.planted_on:
        trial.planted_on = now
        save_as(
            trial, user, "a record of sowing voided or taken back" if first is None else f"strip {first.strip.order} {SOWN}"
        )
