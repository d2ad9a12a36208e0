"""The stand: counts on strips, where to count, how many. Ids are made by the client; a repeated post is the same record."""

from typing import Any, cast
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Status

from apps.accounts.queries import actor
from apps.field.stand import sampling, services
from apps.field.stand.schemas import (
    SamplingOut,
    SamplingPlanIn,
    SamplingPlanOut,
    StandCountIn,
    StandCountOut,
    StandOut,
    VariationOut,
)
from apps.field.visits import services as visit_services
from apps.field.visits.models import JoinedVisit
from apps.field.visits.queries import joined_of
from apps.field.visits.schemas import JoinedVisitIn, JoinedVisitOut
from apps.pages.stand import output
from apps.trial_state.sampling_places import drawn
from apps.trial_state.view import TrialView, view
from apps.trials.queries import trial_for

router = Router(tags=["records"])


def _view(request: HttpRequest, trial_id: UUID) -> TrialView:
    return view(actor(request), trial_for(actor(request), trial_id))


@router.get("/trials/{trial_id}/stand", response=StandOut, operation_id="stand")
def stand(request: HttpRequest, trial_id: UUID, visit: int | None = None):
    return output.stand_out(_view(request, trial_id), visit)


@router.get("/trials/{trial_id}/stand-counts", response=list[StandCountOut], operation_id="stand_counts")
def stand_counts(request: HttpRequest, trial_id: UUID, strip: UUID, visit: int | None = None):
    return output.counts_out(_view(request, trial_id), strip, visit)


@router.get("/trials/{trial_id}/sampling-plans", response=SamplingOut, operation_id="sampling_plans")
def sampling_plans(request: HttpRequest, trial_id: UUID, within_pct: float = 5.0):
    trial_view = _view(request, trial_id)
    variation = sampling.farm_variation(trial_view.trial.workspace, trial_view.trial.crop)
    counts = sampling.wanted_counts(variation, within_pct)
    where = "your own counts of this crop" if variation.own else "the usual value, until you have counts of your own"
    return SamplingOut(
        plans=[output.plan_out(trial_view, drawn(trial_view, plan)) for plan in sampling.plans_of(trial_view.trial)],
        suggestion=VariationOut(
            cv_pct=100 * variation.cv,
            own=variation.own,
            counts=counts,
            words=f"{100 * variation.cv:.0f} % from count to count, from {where}",
        ),
    )


@router.put(
    "/trials/{trial_id}/sampling-plans/{plan_id}",
    response={200: SamplingPlanOut, 201: SamplingPlanOut},
    operation_id="put_sampling_plan",
)
def put_sampling_plan(request: HttpRequest, trial_id: UUID, plan_id: UUID, body: SamplingPlanIn):
    plan, changed = sampling.put_sampling_plan(actor(request), trial_id, plan_id, body)
    trial_view = _view(request, trial_id)
    answer = output.plan_out(trial_view, drawn(trial_view, plan))
    return Status(201 if changed and plan.version == 1 else 200, answer)


@router.get("/trials/{trial_id}/joined-visits", response=list[JoinedVisitOut], operation_id="joined_visits")
def joined_visits(request: HttpRequest, trial_id: UUID):
    trial = trial_for(actor(request), trial_id)
    return [output.joined_out(joined) for task, _ in JoinedVisit.TASKS for joined in joined_of(trial, cast(Any, task))]


@router.put(
    "/trials/{trial_id}/joined-visits/{record_id}",
    response={200: JoinedVisitOut, 201: JoinedVisitOut},
    operation_id="put_joined_visit",
)
def put_joined_visit(request: HttpRequest, trial_id: UUID, record_id: UUID, body: JoinedVisitIn):
    joined, changed = visit_services.put_joined_visit(actor(request), trial_id, record_id, body)
    return Status(201 if changed and joined.version == 1 else 200, output.joined_out(joined))


@router.put(
    "/trials/{trial_id}/stand-counts/{count_id}",
    response={200: StandCountOut, 201: StandCountOut},
    operation_id="put_stand_count",
)
def put_stand_count(request: HttpRequest, trial_id: UUID, count_id: UUID, body: StandCountIn):
    count, changed = services.put_stand_count(actor(request), trial_id, count_id, body)
    trial_view = _view(request, trial_id)
    seeds = trial_view.seeds_per_m2(next(strip for strip in trial_view.strips if strip.id == count.strip_id).received)
    answer = output.count_out(trial_view, count, seeds, *output.beside(trial_view, count))
    return Status(201 if changed and count.version == 1 else 200, answer)
