"""Estimates: samples, weighed grain, a workspace's own defaults, and what harvest taught. Ids are made by the client."""

from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Status

from apps.accounts.queries import actor
from apps.analysis.portfolio import learning
from apps.field.samples import services
from apps.field.samples.queries import samples_of
from apps.field.samples.schemas import (
    EstimateSettingIn,
    EstimatesOut,
    GrainSampleIn,
    GrainSampleOut,
    LearningOut,
    PickingOut,
    YieldSampleIn,
    YieldSampleOut,
)
from apps.pages.estimate import output, picking
from apps.trial_state.view import TrialView, view
from apps.trials.queries import trial_for

router = Router(tags=["estimates"])


def _view(request: HttpRequest, trial_id: UUID) -> TrialView:
    return view(actor(request), trial_for(actor(request), trial_id))


@router.get("/trials/{trial_id}/estimates", response=EstimatesOut, operation_id="estimates")
def estimates(request: HttpRequest, trial_id: UUID):
    return output.estimates_out(_view(request, trial_id))


@router.get("/trials/{trial_id}/estimates/learning", response=LearningOut, operation_id="estimate_learning")
def estimate_learning(request: HttpRequest, trial_id: UUID):
    return learning.learning_out(_view(request, trial_id))


@router.get("/trials/{trial_id}/estimates/picking", response=PickingOut, operation_id="picking")
def picked(request: HttpRequest, trial_id: UUID):
    return picking.picking_out(_view(request, trial_id))


@router.put(
    "/trials/{trial_id}/yield-samples/{sample_id}",
    response={200: YieldSampleOut, 201: YieldSampleOut},
    operation_id="put_yield_sample",
)
def put_yield_sample(request: HttpRequest, trial_id: UUID, sample_id: UUID, body: YieldSampleIn):
    sample, changed = services.put_yield_sample(actor(request), trial_id, sample_id, body)
    trial_view = _view(request, trial_id)
    beside = output.Beside.of(trial_view, samples_of(trial_view.trial))
    status = 201 if changed and sample.version == 1 else 200
    return Status(status, output.sample_out(trial_view, sample, beside))


@router.put(
    "/trials/{trial_id}/grain-samples/{sample_id}",
    response={200: GrainSampleOut, 201: GrainSampleOut},
    operation_id="put_grain_sample",
)
def put_grain_sample(request: HttpRequest, trial_id: UUID, sample_id: UUID, body: GrainSampleIn):
    sample, changed = services.put_grain_sample(actor(request), trial_id, sample_id, body)
    status = 201 if changed and sample.version == 1 else 200
    return Status(status, output.grain_sample_out(_view(request, trial_id), sample))


@router.put("/trials/{trial_id}/estimate-setting", response=EstimatesOut, operation_id="set_estimate_setting")
def set_estimate_setting(request: HttpRequest, trial_id: UUID, body: EstimateSettingIn):
    """The setting of the trial's workspace and crop."""
    trial = trial_for(actor(request), trial_id)
    services.set_estimate_setting(actor(request), trial.workspace_id, trial.crop, body)
    return output.estimates_out(_view(request, trial_id))
