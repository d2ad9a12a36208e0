"""Records from the field. Ids are made by the client; a repeated post is the same record."""

from typing import Any, Literal
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema, Status

from apps.accounts.queries import actor
from apps.field.events import services as events_services
from apps.field.events.schemas import FieldEventIn, FieldEventOut
from apps.field.harvest import services as harvest_services
from apps.field.harvest.models import HarvestLoad
from apps.field.harvest.schemas import HarvestLoadIn, HarvestLoadOut, HarvestOut, HarvestSheetIn
from apps.field.queries import events_of
from apps.field.stand import sampling, services
from apps.field.stand.models import StandCount
from apps.field.stand.schemas import (
    SamplingOut,
    SamplingPlanIn,
    SamplingPlanOut,
    StandCountIn,
    StandCountOut,
    StandOut,
    VariationOut,
)
from apps.pages.harvest import output
from apps.pages.season import events as season_events
from apps.pages.stand import output as stand_output
from apps.records import keeping
from apps.records.kinds import KINDS
from apps.records.schemas import VoidedOut, VoidIn
from apps.trial_state.sampling_places import drawn
from apps.trial_state.view import TrialView, view
from apps.trials.queries import trial_for

router = Router(tags=["records"])
RecordKind: Any = Literal[tuple(KINDS)]  # the addresses of the registry, so that the contract lists them


def _view(request: HttpRequest, trial_id: UUID) -> TrialView:
    return view(actor(request), trial_for(actor(request), trial_id))


def _strip(view: TrialView, record: StandCount | HarvestLoad):
    return next(strip for strip in view.strips if strip.id == record.strip_id)


@router.get("/trials/{trial_id}/stand", response=StandOut, operation_id="stand")
def stand(request: HttpRequest, trial_id: UUID, visit: int | None = None):
    return stand_output.stand_out(_view(request, trial_id), visit)


@router.get("/trials/{trial_id}/sampling-plans", response=SamplingOut, operation_id="sampling_plans")
def sampling_plans(request: HttpRequest, trial_id: UUID, within_pct: float = 5.0):
    trial_view = _view(request, trial_id)
    variation = sampling.farm_variation(trial_view.trial.workspace, trial_view.trial.crop)
    counts = sampling.wanted_counts(variation, within_pct)
    where = "your own counts of this crop" if variation.own else "the usual value, until you have counts of your own"
    return SamplingOut(
        plans=[stand_output.plan_out(trial_view, drawn(trial_view, plan)) for plan in sampling.plans_of(trial_view.trial)],
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
    answer = stand_output.plan_out(trial_view, drawn(trial_view, plan))
    return Status(201 if changed and plan.version == 1 else 200, answer)


@router.put(
    "/trials/{trial_id}/stand-counts/{count_id}",
    response={200: StandCountOut, 201: StandCountOut},
    operation_id="put_stand_count",
)
def put_stand_count(request: HttpRequest, trial_id: UUID, count_id: UUID, body: StandCountIn):
    count, changed = services.put_stand_count(actor(request), trial_id, count_id, body)
    trial_view = _view(request, trial_id)
    seeds = trial_view.seeds_per_m2(_strip(trial_view, count).received)
    answer = stand_output.count_out(trial_view, count, seeds, *stand_output.beside(trial_view, count))
    return Status(201 if changed and count.version == 1 else 200, answer)


@router.get("/trials/{trial_id}/harvest", response=HarvestOut, operation_id="harvest")
def harvest(request: HttpRequest, trial_id: UUID):
    return output.harvest_out(_view(request, trial_id))


@router.put(
    "/trials/{trial_id}/harvest-loads/{load_id}",
    response={200: HarvestLoadOut, 201: HarvestLoadOut},
    operation_id="put_harvest_load",
)
def put_harvest_load(request: HttpRequest, trial_id: UUID, load_id: UUID, body: HarvestLoadIn):
    load, changed = harvest_services.put_harvest_load(actor(request), trial_id, load_id, body)
    trial_view = _view(request, trial_id)
    return Status(201 if changed and load.version == 1 else 200, output.load_out(trial_view, _strip(trial_view, load), load))


@router.post("/trials/{trial_id}/harvest-sheet", response=HarvestOut, operation_id="put_harvest_sheet")
def put_harvest_sheet(request: HttpRequest, trial_id: UUID, body: HarvestSheetIn):
    harvest_services.put_harvest_sheet(actor(request), trial_id, body)
    return output.harvest_out(_view(request, trial_id))


@router.get("/trials/{trial_id}/field-events", response=list[FieldEventOut], operation_id="field_events")
def field_events(request: HttpRequest, trial_id: UUID):
    return [season_events.event_out(event) for event in events_of(trial_for(actor(request), trial_id))]


@router.put(
    "/trials/{trial_id}/field-events/{event_id}",
    response={200: FieldEventOut, 201: FieldEventOut},
    operation_id="put_field_event",
)
def put_field_event(request: HttpRequest, trial_id: UUID, event_id: UUID, body: FieldEventIn):
    event, changed = events_services.put_field_event(actor(request), trial_id, event_id, body)
    return Status(201 if changed and event.version == 1 else 200, season_events.event_out(event))


@router.post("/records/{kind}/{record_id}/void", response=VoidedOut, operation_id="void")
def void(request: HttpRequest, kind: RecordKind, record_id: UUID, body: VoidIn):
    record = keeping.void(actor(request), kind, record_id, voided=body.voided, reason=body.reason, version=body.version)
    return VoidedOut(id=record.pk, version=record.version, voided=record.voided)


class StrikeIn(Schema):
    """What pages of earlier versions send, from devices that have not opened a newer one yet."""

    struck: bool
    reason: str = ""
    version: int


@router.post("/records/{kind}/{record_id}/strike", response=VoidedOut, operation_id="void_as_before", deprecated=True)
def void_as_before(request: HttpRequest, kind: RecordKind, record_id: UUID, body: StrikeIn):
    return void(request, kind, record_id, VoidIn(voided=body.struck, reason=body.reason, version=body.version))
