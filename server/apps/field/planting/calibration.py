"""Writing and reading calibrations: catches of one lot through one machine."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from cultrix_core.errors import Refusal, require_between
from cultrix_core.seeding.calibration import Calibrated, Catch, bag_rate, calibrate, catch_rate, length_of_turns
from cultrix_core.units import parse_number, parse_quantity
from django.db import transaction

from apps.accounts.models import User, Workspace
from apps.accounts.queries import workspace_for
from apps.accounts.rights import require
from apps.base.errors import NotFound
from apps.base.quantities import fill
from apps.farms.models import Machine, SeedLot
from apps.field.planting import models
from apps.field.planting.models import Calibration
from apps.field.planting.schemas import CalibrationIn, CatchIn
from apps.records.keeping import keep, not_to_come, when
from apps.trials.models import Trial

MOST_CATCHES = 60


def put_calibration(user: User, workspace_id: UUID, calibration_id: UUID, body: CalibrationIn) -> tuple[Calibration, bool]:
    """Store catches under the client's id. Refuses catches that cannot be and machines that sow nothing."""
    with transaction.atomic():
        workspace = workspace_for(user, workspace_id)
        require(user, workspace, "record")
        record = Calibration(
            id=calibration_id,
            workspace=workspace,
            trial=_trial(workspace, body.trial_id),
            lot=_of(SeedLot, workspace, body.lot_id, "lot", "Lot"),
            machine=_of(Machine, workspace, body.machine_id, "machine", "Machine"),
            done_on=not_to_come(body.done_on, "done_on"),
            method=body.method,
            openers=body.openers,
            note=body.note.strip()[:200],
            recorded_at=when(body.recorded_at),
        )
        if record.machine.kind != "planter":
            raise Refusal(
                "unknown_choice", field="machine", label="Machine", value=record.machine.name, limit="planters and drills"
            )
        for quantity in (models.TARGET, models.TOLERANCE, models.CAUGHT_SPACING, models.CIRCUMFERENCE, models.SLIP):
            fill(record, quantity, getattr(body, quantity.name))
        if record.target.value is None:
            raise Refusal(
                "missing",
                field="target",
                label="The rate wanted",
                remedy="Type the weight per area the drill should let through.",
            )
        if len(body.catches) > MOST_CATCHES:
            raise Refusal("too_large", field="catches", label="Catches", value=len(body.catches), limit=MOST_CATCHES)
        record.catches = [_catch(record, row) for row in body.catches]
        result_of(record)
        return keep(user, workspace, record, body.version)


def _trial(workspace: Workspace, trial_id: UUID | None) -> Trial | None:
    if trial_id is None:
        return None
    trial = Trial.objects.filter(id=trial_id, workspace=workspace).first()
    if trial is None:
        raise NotFound
    return trial


def _of(model: Any, workspace: Workspace, key: UUID, field: str, label: str) -> Any:
    result = model.objects.filter(id=key, workspace=workspace).first()
    if result is None:
        raise Refusal("unknown_choice", field=field, label=label, value=key, limit="those in Setup")
    return result


def _catch(record: Calibration, row: CatchIn) -> dict[str, Any]:
    """A catch as typed, with the rate it stands for."""
    mass = parse_quantity(row.mass.text, "mass", row.mass.unit, field="mass", label="Seed caught")
    setting = row.setting.strip()[:20]
    if setting:
        parse_number(setting, field="setting", label="Setting")
    return {
        "setting": setting,
        "text": row.mass.text.strip()[:24],
        "unit": row.mass.unit,
        "way": row.way.text.strip()[:24],
        "way_unit": row.way.unit,
        "kg_per_ha": _rate(record, row, mass),
    }


def _rate(record: Calibration, row: CatchIn, mass: float) -> float:
    if record.method == "bag":
        area = parse_quantity(row.way.text, "area", row.way.unit, field="way", label="Area covered")
        return bag_rate(mass_kg=mass, area_m2=area)
    for name, label, value in (
        ("openers", "Openers caught", record.openers),
        ("row_spacing", "Row spacing", record.row_spacing.value),
    ):
        if value is None:
            raise Refusal("missing", field=name, label=label, remedy="The area under the openers rests on it.")
    if record.method == "length":
        length = parse_quantity(row.way.text, "length", row.way.unit, field="way", label="Length driven")
    else:
        if record.circumference.value is None:
            raise Refusal(
                "missing", field="circumference", label="Rolling circumference", remedy="Measure ten turns in the field."
            )
        turns = parse_number(row.way.text, field="way", label="Turns of the wheel")
        length = length_of_turns(turns=turns, circumference_m=record.circumference.value, slip_pct=record.slip.value or 0.0)
    require_between(length, 0.5, 20_000, "way", label="Way driven", unit=" m")
    return catch_rate(mass_kg=mass, openers=record.openers or 1, row_spacing_m=record.row_spacing.value or 0.0, length_m=length)


def result_of(record: Calibration) -> Calibrated:
    """How the stored catches stand against the rate wanted."""
    catches = [
        Catch(
            delivered_kg_per_ha=catch["kg_per_ha"],
            setting=parse_number(catch["setting"], field="setting") if catch["setting"] else None,
        )
        for catch in record.catches
    ]
    tolerance = 5.0 if record.tolerance.value is None else record.tolerance.value
    return calibrate(catches, target_kg_per_ha=record.target.value or 0.0, tolerance_pct=tolerance)
