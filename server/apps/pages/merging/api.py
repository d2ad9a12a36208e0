"""Merging what was entered twice."""

from uuid import UUID

from django.http import HttpRequest
from ninja import Query, Router, Schema

from apps.accounts.queries import actor
from apps.pages.merging import services
from apps.pages.merging.services import Merging, What

router = Router(tags=["merging"])


class MergeAsked(Schema):
    """Ids, or names of farms: which of two goes, and which is kept."""

    what: What
    gone: str
    kept: str


class MergeIn(MergeAsked):
    accept: bool = False


class MergingOut(Schema):
    """What goes over to the one that is kept, and where the two differ."""

    kept: str
    gone: str
    moves: list[str]
    differs: list[str]


def _out(told: Merging) -> MergingOut:
    return MergingOut(kept=told.kept, gone=told.gone, moves=told.moves, differs=told.differs)


@router.get("/workspaces/{workspace_id}/merge", response=MergingOut, operation_id="look_at_merge")
def look_at_merge(request: HttpRequest, workspace_id: UUID, asked: Query[MergeAsked]):
    return _out(services.look(actor(request), workspace_id, asked.what, gone=asked.gone, kept=asked.kept))


@router.post("/workspaces/{workspace_id}/merge", response=MergingOut, operation_id="merge")
def merge(request: HttpRequest, workspace_id: UUID, body: MergeIn):
    return _out(services.merge(actor(request), workspace_id, body.what, gone=body.gone, kept=body.kept, accept=body.accept))
