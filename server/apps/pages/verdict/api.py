"""The verdict."""

from typing import Literal
from uuid import UUID

from django.http import HttpRequest
from ninja import Router

from apps.accounts.queries import actor
from apps.analysis.verdict.curves import curves_out
from apps.analysis.verdict.explanation import explanation_out
from apps.analysis.verdict.schemas import ExplanationOut, ResponseCurvesOut, SeriesOut, VerdictOut
from apps.analysis.verdict.series import series_out
from apps.pages.verdict.output import verdict_out
from apps.trial_state.view import view
from apps.trials.queries import trial_for

router = Router(tags=["verdicts"])


@router.get("/trials/{trial_id}/verdict", response=VerdictOut, operation_id="verdict")
def verdict(request: HttpRequest, trial_id: UUID):
    return verdict_out(view(actor(request), trial_for(actor(request), trial_id)))


@router.get("/trials/{trial_id}/response-curves", response=ResponseCurvesOut, operation_id="response_curves")
def response_curves(request: HttpRequest, trial_id: UUID):
    return curves_out(view(actor(request), trial_for(actor(request), trial_id)))


@router.get("/trials/{trial_id}/series", response=SeriesOut, operation_id="trial_series")
def trial_series(request: HttpRequest, trial_id: UUID, response: Literal["yield", "net_return"] = "yield"):
    return series_out(actor(request), view(actor(request), trial_for(actor(request), trial_id)), response)


@router.get("/trials/{trial_id}/explanation", response=ExplanationOut, operation_id="explanation")
def explanation(request: HttpRequest, trial_id: UUID):
    return explanation_out(view(actor(request), trial_for(actor(request), trial_id)))
