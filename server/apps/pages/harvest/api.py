"""The harvest: loads by strip. Ids are made by the client; a repeated post is the same record."""

from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Status

from apps.accounts.queries import actor
from apps.field.harvest import services
from apps.field.harvest.schemas import HarvestLoadIn, HarvestLoadOut, HarvestOut, HarvestSheetIn
from apps.pages.harvest import output
from apps.trial_state.view import TrialView, view
from apps.trials.queries import trial_for

router = Router(tags=["records"])


def _view(request: HttpRequest, trial_id: UUID) -> TrialView:
    return view(actor(request), trial_for(actor(request), trial_id))


@router.get("/trials/{trial_id}/harvest", response=HarvestOut, operation_id="harvest")
def harvest(request: HttpRequest, trial_id: UUID):
    return output.harvest_out(_view(request, trial_id))


@router.put(
    "/trials/{trial_id}/harvest-loads/{load_id}",
    response={200: HarvestLoadOut, 201: HarvestLoadOut},
    operation_id="put_harvest_load",
)
def put_harvest_load(request: HttpRequest, trial_id: UUID, load_id: UUID, body: HarvestLoadIn):
    load, changed = services.put_harvest_load(actor(request), trial_id, load_id, body)
    trial_view = _view(request, trial_id)
    return Status(
        201 if changed and load.version == 1 else 200,
        output.load_out(trial_view, next(strip for strip in trial_view.strips if strip.id == load.strip_id), load),
    )


@router.post("/trials/{trial_id}/harvest-sheet", response=HarvestOut, operation_id="put_harvest_sheet")
def put_harvest_sheet(request: HttpRequest, trial_id: UUID, body: HarvestSheetIn):
    services.put_harvest_sheet(actor(request), trial_id, body)
    return output.harvest_out(_view(request, trial_id))
