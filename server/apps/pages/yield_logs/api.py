"""Yield logs, the source of yields, instruments and their stand-ins."""

from typing import Annotated, Any, cast
from uuid import UUID

from django.http import FileResponse, HttpRequest, HttpResponse
from django.utils.text import slugify
from ninja import File, Form, Query, Router, Schema, Status
from ninja.files import UploadedFile
from pydantic import Field

from apps.accounts.queries import actor
from apps.base.errors import NotFound
from apps.field.logs import files, services
from apps.field.logs.models import YieldLog
from apps.field.logs.queries import log_for
from apps.field.logs.schemas import (
    ColumnsIn,
    InstrumentOut,
    JobOut,
    LinesIn,
    LogIn,
    LogPictureOut,
    SourceIn,
    StandInOut,
    StepsIn,
    YieldLogOut,
    YieldLogsOut,
)
from apps.field.queries import loads_of
from apps.jobs.services import cancel
from apps.pages.yield_logs import output, picture, stand_ins
from apps.trial_state.view import TrialView, view
from apps.trials.queries import trial_for

router = Router(tags=["yield logs"])
MOST_SEED = 2**31 - 1
Seed = Annotated[int, Query(ge=0, le=MOST_SEED)]


class CombineIn(Schema):
    """The simulated combine."""

    lag_s: float = 10.0
    noise_pct: float = 3.0
    gain: float = 1.0
    moisture_pct: float = 14.0
    seed: int = Field(default=1, ge=0, le=MOST_SEED)


def _view(request: HttpRequest, trial_id: UUID) -> TrialView:
    return view(actor(request), trial_for(actor(request), trial_id))


def _answer(request: HttpRequest, log: YieldLog) -> YieldLogOut:
    trial_view = _view(request, log.trial_id)
    return output.log_out(trial_view, log_for(actor(request), log.id), loads_of(trial_view.trial))


@router.get("/trials/{trial_id}/yield-logs", response=YieldLogsOut, operation_id="yield_logs")
def yield_logs(request: HttpRequest, trial_id: UUID):
    return output.logs_out(_view(request, trial_id))


@router.post(
    "/trials/{trial_id}/yield-logs/{log_id}", response={200: YieldLogOut, 201: YieldLogOut}, operation_id="put_yield_log"
)
def put_yield_log(request: HttpRequest, trial_id: UUID, log_id: UUID, body: Form[LogIn], file: File[UploadedFile]):
    log, new = services.put_log(actor(request), trial_id, log_id, body, file)
    return Status(201 if new else 200, _answer(request, log))


@router.get("/yield-logs/{log_id}", response=YieldLogOut, operation_id="yield_log")
def yield_log(request: HttpRequest, log_id: UUID):
    return _answer(request, log_for(actor(request), log_id))


@router.put("/yield-logs/{log_id}/columns", response=YieldLogOut, operation_id="set_log_columns")
def set_log_columns(request: HttpRequest, log_id: UUID, body: ColumnsIn):
    return _answer(request, services.set_columns(actor(request), log_id, body))


@router.put("/yield-logs/{log_id}/steps", response=YieldLogOut, operation_id="set_log_steps")
def set_log_steps(request: HttpRequest, log_id: UUID, body: StepsIn):
    return _answer(request, services.set_steps(actor(request), log_id, body))


@router.get("/yield-logs/{log_id}/picture", response=LogPictureOut, operation_id="log_picture")
def log_picture(request: HttpRequest, log_id: UUID):
    log = log_for(actor(request), log_id)
    return picture.picture_of(_view(request, log.trial_id), log)


@router.get("/yield-logs/{log_id}/raw", operation_id="raw_log")
def raw_log(request: HttpRequest, log_id: UUID):
    """The file as it came, unchanged."""
    log = log_for(actor(request), log_id)
    path = files.path_of(log.digest, log.suffix)
    if not path.exists():
        raise NotFound
    return FileResponse(path.open("rb"), as_attachment=True, filename=log.name, content_type="application/octet-stream")


@router.post("/jobs/{job_id}/cancel", response=JobOut, operation_id="cancel_job")
def cancel_job(request: HttpRequest, job_id: UUID):
    job = cancel(actor(request), job_id)
    return JobOut(id=job.id, state=cast(Any, job.state), said=job.said)


@router.put("/trials/{trial_id}/harvest-source", response=YieldLogsOut, operation_id="set_harvest_source")
def set_harvest_source(request: HttpRequest, trial_id: UUID, body: SourceIn):
    services.choose_source(actor(request), trial_id, body)
    return output.logs_out(_view(request, trial_id))


@router.post("/trials/{trial_id}/instrument-lines", response=InstrumentOut, operation_id="read_instrument")
def read_instrument(request: HttpRequest, trial_id: UUID, body: LinesIn):
    trial_for(actor(request), trial_id)
    return stand_ins.read_lines(body)


@router.get("/trials/{trial_id}/stand-ins/combine", operation_id="simulated_combine")
def simulated_combine(request: HttpRequest, trial_id: UUID, asked: Query[CombineIn]):
    """The log of a simulated combine that drives the strips of the trial."""
    trial_view = _view(request, trial_id)
    text = stand_ins.combine_log(
        trial_view,
        stand_ins.Asked(
            lag_s=asked.lag_s, noise=asked.noise_pct / 100, gain=asked.gain, moisture_pct=asked.moisture_pct, seed=asked.seed
        ),
    )
    answer = HttpResponse(text, content_type="text/csv; charset=utf-8")
    name = slugify(trial_view.trial.title)[:60] or "trial"
    answer["Content-Disposition"] = f'attachment; filename="{name}-simulated-log.csv"'
    return answer


@router.get("/trials/{trial_id}/stand-ins/scale", response=StandInOut, operation_id="simulated_scale")
def simulated_scale(request: HttpRequest, trial_id: UUID, strip: int, seed: Seed = 1):
    trial_view = _view(request, trial_id)
    return stand_ins.scale_says(trial_view, stand_ins.strip_at(trial_view, strip), seed)


@router.get("/trials/{trial_id}/stand-ins/meter", response=StandInOut, operation_id="simulated_meter")
def simulated_meter(request: HttpRequest, trial_id: UUID, moisture_pct: float = 14.0, seed: Seed = 1):
    _view(request, trial_id)
    return stand_ins.meter_says(moisture_pct, seed)
