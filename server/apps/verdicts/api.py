"""The verdict."""

from uuid import UUID

from django.http import HttpRequest
from ninja import Router

from apps.accounts.selectors import actor
from apps.trials.selectors import trial_for, view
from apps.verdicts.answers import verdict_out
from apps.verdicts.schemas import VerdictOut

router = Router(tags=["verdicts"])


@router.get("/trials/{trial_id}/verdict", response=VerdictOut, operation_id="verdict")
def verdict(request: HttpRequest, trial_id: UUID):
    return verdict_out(view(actor(request), trial_for(actor(request), trial_id)))
