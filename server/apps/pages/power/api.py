"""Judging a plan, freezing it, and the sheets for the field."""

from typing import Literal
from uuid import UUID

from django.http import HttpRequest
from ninja import Router

from apps.accounts.queries import actor
from apps.analysis.power.schemas import AmountPlanOut, MapOut, MarginIn, MarginOut, PassCardOut, RehearsalIn, RehearsalOut
from apps.pages.power import cards, output
from apps.pages.power.amounts import amount_plan_out
from apps.trial_state.view import TrialView, view
from apps.trials.queries import trial_for

router = Router(tags=["planning"])


def _view(request: HttpRequest, trial_id: UUID) -> TrialView:
    user = actor(request)
    return view(user, trial_for(user, trial_id))


@router.post("/trials/{trial_id}/margin", response=MarginOut, operation_id="honest_margin")
def honest_margin(request: HttpRequest, trial_id: UUID, body: MarginIn):
    return output.margin_out(actor(request), _view(request, trial_id), body)


@router.post("/trials/{trial_id}/amount-plan", response=AmountPlanOut, operation_id="amount_plan")
def amount_plan(request: HttpRequest, trial_id: UUID, body: MarginIn):
    return amount_plan_out(actor(request), _view(request, trial_id), body)


@router.post("/trials/{trial_id}/rehearsal", response=RehearsalOut, operation_id="rehearse")
def rehearse(request: HttpRequest, trial_id: UUID, body: RehearsalIn):
    return output.rehearsal_out(actor(request), _view(request, trial_id), body)


@router.get("/trials/{trial_id}/pass-card", response=PassCardOut, operation_id="pass_card")
def pass_card(
    request: HttpRequest,
    trial_id: UUID,
    passes: int | None = None,
    driving: Literal["as_laid", "fewest_changes"] = "as_laid",
    reserve_pct: float = 10.0,
    sets: int | None = None,
    machine: UUID | None = None,
):
    return cards.pass_card_out(
        _view(request, trial_id), passes=passes, driving=driving, reserve_pct=reserve_pct, sets=sets, machine=machine
    )


@router.get("/trials/{trial_id}/map", response=MapOut, operation_id="trial_map")
def trial_map(request: HttpRequest, trial_id: UUID):
    return cards.map_out(_view(request, trial_id))
