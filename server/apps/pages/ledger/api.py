"""The ledger."""

from uuid import UUID

from django.http import HttpRequest
from ninja import Router

from apps.accounts.queries import actor, workspace_for
from apps.pages.ledger.output import ledger_out
from apps.pages.ledger.schemas import LedgerOut

router = Router(tags=["ledger"])


@router.get("/workspaces/{workspace_id}/ledger", response=LedgerOut, operation_id="ledger")
def ledger(request: HttpRequest, workspace_id: UUID):
    user = actor(request)
    return ledger_out(user, workspace_for(user, workspace_id))
