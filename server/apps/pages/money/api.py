"""Money: price lists, and what a trial means in money."""

from uuid import UUID

from django.http import HttpRequest
from ninja import Router

from apps.accounts.queries import actor, formatter_for, workspace_for
from apps.analysis.economics.models import PriceList
from apps.analysis.economics.prices import price_list_out
from apps.analysis.economics.schemas import (
    MoneyOut,
    MoneyPlanIn,
    PriceListIn,
    PriceListOut,
    TakePriceIn,
    WhatIfOut,
)
from apps.analysis.economics.services import put_money_plan, put_price_list, take_price
from apps.base.quantities import TypedIn
from apps.pages.money.output import money_out, what_if_out
from apps.pages.trial.output import trial_out
from apps.trial_state.view import view
from apps.trials.queries import trial_for
from apps.trials.schemas import TrialOut

router = Router(tags=["money"])


@router.get("/workspaces/{workspace_id}/price-lists", response=list[PriceListOut], operation_id="price_lists")
def price_lists(request: HttpRequest, workspace_id: UUID):
    user = actor(request)
    workspace = workspace_for(user, workspace_id)
    lists = PriceList.objects.filter(workspace=workspace).prefetch_related("items")
    return [price_list_out(price_list, formatter_for(user, workspace)) for price_list in lists]


@router.put("/workspaces/{workspace_id}/price-lists/{list_id}", response=PriceListOut, operation_id="put_price_list")
def put_list(request: HttpRequest, workspace_id: UUID, list_id: UUID, body: PriceListIn):
    user = actor(request)
    record = put_price_list(user, workspace_id, list_id, body)
    return price_list_out(record, formatter_for(user, record.workspace))


@router.post("/trials/{trial_id}/price", response=TrialOut, operation_id="take_price")
def take(request: HttpRequest, trial_id: UUID, body: TakePriceIn):
    user = actor(request)
    trial = take_price(user, trial_id, body)
    return trial_out(view(user, trial_for(user, trial.id)), user)


@router.get("/trials/{trial_id}/money", response=MoneyOut, operation_id="money")
def money(request: HttpRequest, trial_id: UUID):
    user = actor(request)
    return money_out(user, view(user, trial_for(user, trial_id)))


@router.put("/trials/{trial_id}/money", response=MoneyOut, operation_id="put_money_plan")
def put_plan(request: HttpRequest, trial_id: UUID, body: MoneyPlanIn):
    user = actor(request)
    trial = put_money_plan(user, trial_id, body)
    return money_out(user, view(user, trial_for(user, trial.id)))


@router.get("/trials/{trial_id}/what-if", response=WhatIfOut, operation_id="what_if")
def what_if(request: HttpRequest, trial_id: UUID, price: str = "", unit: str = "", costs: str = ""):
    user = actor(request)
    return what_if_out(view(user, trial_for(user, trial_id)), TypedIn(text=price, unit=unit), TypedIn(text=costs, unit="%"))
