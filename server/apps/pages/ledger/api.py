"""The ledger."""

from typing import Literal
from uuid import UUID

from django.http import HttpRequest, JsonResponse
from ninja import Field, Query, Router, Schema

from apps.accounts.queries import actor, workspace_for
from apps.pages.ledger.output import FILTERS, Asked, ledger_out, portfolio_out
from apps.pages.ledger.schemas import LedgerOut, PortfolioOut

router = Router(tags=["ledger"])


class LedgerAsked(Schema):
    """Which comparisons, in which order."""

    crop: str = Field("", max_length=200)
    factor: str = Field("", max_length=200)
    field: str = Field("", max_length=200)
    year: str = Field("", max_length=10)
    order: Literal["net", "season", "crop"] = "net"
    offset: int = Field(0, ge=0, le=1_000_000)
    limit: int = Field(100, ge=1, le=1_000)


@router.get("/workspaces/{workspace_id}/ledger", response=LedgerOut, operation_id="ledger")
def ledger(request: HttpRequest, workspace_id: UUID, asked: Query[LedgerAsked]):
    user = actor(request)
    chosen = {name: getattr(asked, name) for name in FILTERS}
    wanted = Asked(chosen=chosen, order=asked.order, offset=asked.offset, limit=asked.limit)
    # as it was stored: checking it again takes longer than reading it
    return JsonResponse(ledger_out(user, workspace_for(user, workspace_id), wanted))


@router.get("/workspaces/{workspace_id}/portfolio", response=PortfolioOut, operation_id="portfolio")
def portfolio(request: HttpRequest, workspace_id: UUID):
    user = actor(request)
    return portfolio_out(user, workspace_for(user, workspace_id))
