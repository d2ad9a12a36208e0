"""Planting: what was done between the design and the first count. Ids are made by the client."""

from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Status

from apps.accounts.queries import actor, formatter_for, workspace_for
from apps.field.planting import calibration, services
from apps.field.planting.models import Calibration
from apps.field.planting.schemas import (
    CalibrationIn,
    CalibrationOut,
    CalibrationsOut,
    DepthCheckIn,
    DepthCheckOut,
    DeviationIn,
    DeviationOut,
    OpenersOut,
    PlantingOut,
    PlantingRecordIn,
    PlantingRecordOut,
    PlantingSheetIn,
    SeedbedCheckIn,
    SeedbedCheckOut,
    TillagePassIn,
    TillagePassOut,
)
from apps.pages.planting import output
from apps.pages.planting.openers import openers_out
from apps.records.models import FieldRecord
from apps.trial_state.view import TrialView, view
from apps.trials.queries import trial_for

router = Router(tags=["planting"])


def _view(request: HttpRequest, trial_id: UUID) -> TrialView:
    return view(actor(request), trial_for(actor(request), trial_id))


def _status(record: FieldRecord, changed: bool) -> int:
    return 201 if changed and record.version == 1 else 200


@router.get("/trials/{trial_id}/planting", response=PlantingOut, operation_id="planting")
def planting(request: HttpRequest, trial_id: UUID):
    return output.planting_out(_view(request, trial_id))


@router.get("/trials/{trial_id}/openers", response=list[OpenersOut], operation_id="openers")
def openers(request: HttpRequest, trial_id: UUID):
    return openers_out(_view(request, trial_id))


@router.put(
    "/trials/{trial_id}/planting-records/{record_id}",
    response={200: PlantingRecordOut, 201: PlantingRecordOut},
    operation_id="put_planting_record",
)
def put_planting_record(request: HttpRequest, trial_id: UUID, record_id: UUID, body: PlantingRecordIn):
    record, changed = services.put_planting_record(actor(request), trial_id, record_id, body)
    return Status(_status(record, changed), output.record_out(_view(request, trial_id), record))


@router.post("/trials/{trial_id}/planting-sheet", response=PlantingOut, operation_id="put_planting_sheet")
def put_planting_sheet(request: HttpRequest, trial_id: UUID, body: PlantingSheetIn):
    services.put_planting_sheet(actor(request), trial_id, body)
    return output.planting_out(_view(request, trial_id))


@router.put(
    "/trials/{trial_id}/depth-checks/{check_id}",
    response={200: DepthCheckOut, 201: DepthCheckOut},
    operation_id="put_depth_check",
)
def put_depth_check(request: HttpRequest, trial_id: UUID, check_id: UUID, body: DepthCheckIn):
    check, changed = services.put_depth_check(actor(request), trial_id, check_id, body)
    return Status(_status(check, changed), output.depth_out(_view(request, trial_id), check))


@router.put(
    "/trials/{trial_id}/deviations/{deviation_id}",
    response={200: DeviationOut, 201: DeviationOut},
    operation_id="put_deviation",
)
def put_deviation(request: HttpRequest, trial_id: UUID, deviation_id: UUID, body: DeviationIn):
    deviation, changed = services.put_deviation(actor(request), trial_id, deviation_id, body)
    return Status(_status(deviation, changed), output.deviation_out(_view(request, trial_id), deviation))


@router.put(
    "/trials/{trial_id}/seedbed-checks/{check_id}",
    response={200: SeedbedCheckOut, 201: SeedbedCheckOut},
    operation_id="put_seedbed_check",
)
def put_seedbed_check(request: HttpRequest, trial_id: UUID, check_id: UUID, body: SeedbedCheckIn):
    check, changed = services.put_seedbed_check(actor(request), trial_id, check_id, body)
    return Status(_status(check, changed), output.seedbed_out(_view(request, trial_id), check))


@router.put(
    "/trials/{trial_id}/tillage-passes/{pass_id}",
    response={200: TillagePassOut, 201: TillagePassOut},
    operation_id="put_tillage_pass",
)
def put_tillage_pass(request: HttpRequest, trial_id: UUID, pass_id: UUID, body: TillagePassIn):
    tillage_pass, changed = services.put_tillage_pass(actor(request), trial_id, pass_id, body)
    return Status(_status(tillage_pass, changed), output.tillage_out(_view(request, trial_id), tillage_pass))


@router.get("/trials/{trial_id}/calibrations", response=CalibrationsOut, operation_id="calibrations")
def calibrations(request: HttpRequest, trial_id: UUID):
    return output.calibrations_out(_view(request, trial_id))


@router.get("/workspaces/{workspace_id}/calibrations", response=list[CalibrationOut], operation_id="all_calibrations")
def all_calibrations(request: HttpRequest, workspace_id: UUID):
    workspace = workspace_for(actor(request), workspace_id)
    show = formatter_for(actor(request), workspace)
    result = Calibration.objects.filter(workspace=workspace, voided=False).select_related("lot", "machine", "recorded_by")
    return [output.calibration_out(item, show) for item in result.order_by("-done_on", "-received_at")]


@router.put(
    "/workspaces/{workspace_id}/calibrations/{calibration_id}",
    response={200: CalibrationOut, 201: CalibrationOut},
    operation_id="put_calibration",
)
def put_calibration(request: HttpRequest, workspace_id: UUID, calibration_id: UUID, body: CalibrationIn):
    record, changed = calibration.put_calibration(actor(request), workspace_id, calibration_id, body)
    return Status(_status(record, changed), output.calibration_out(record, formatter_for(actor(request), record.workspace)))
