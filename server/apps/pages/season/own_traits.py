"""Variables of a workspace's own."""

from typing import Literal
from uuid import UUID

from cultrix_core.crops import crop as profile_of
from cultrix_core.errors import Refusal
from cultrix_core.season.own_traits import OwnTrait
from cultrix_core.units import parse_number
from django.http import HttpRequest
from ninja import Router, Schema

from apps.accounts.models import Workspace
from apps.accounts.queries import actor, workspace_for
from apps.field.season import own_traits

router = Router(tags=["variables"])


class OwnTraitIn(Schema):
    """A number with unit and limits, a rating with the words at its ends, or words to choose between."""

    name: str
    way: Literal["number", "rating", "choice"]
    unit: str = ""
    low: str = ""
    high: str = ""
    decimals: str = ""
    better: Literal["", "more", "less"] = ""
    words: list[str] = []
    crop: str = ""
    days: str = ""


class OwnTraitOut(Schema):
    key: str
    name: str
    way: str
    words: str
    crop_name: str
    days: int | None


class WithdrawIn(Schema):
    key: str


def _out(workspace: Workspace) -> list[OwnTraitOut]:
    return [
        OwnTraitOut(
            key=row.key,
            name=row.trait.name,
            way=row.trait.way,
            words=own_traits.words_of(row),
            crop_name=profile_of(row.crop).title if row.crop else "",
            days=row.days,
        )
        for row in own_traits.offered(workspace)
    ]


def _limit(text: str, field: str, label: str) -> float:
    if not text.strip():
        raise Refusal("missing", field=field, label=label, remedy="What lies beyond is refused when it is typed.")
    return parse_number(text, field=field, label=label)


def _trait(body: OwnTraitIn) -> OwnTrait:
    if body.way == "choice":
        return OwnTrait(name=body.name, way="choice", words=tuple(body.words))
    decimals = parse_number(body.decimals, field="decimals", label="Decimals") if body.decimals.strip() else 0
    if decimals != int(decimals):
        raise Refusal("not_a_count", field="decimals", label="Decimals", value=body.decimals.strip())
    return OwnTrait(
        name=body.name,
        way=body.way,
        unit=body.unit,
        low=_limit(body.low, "low", "The lowest value"),
        high=_limit(body.high, "high", "The highest value"),
        decimals=int(decimals),
        better=body.better,
        words=tuple(body.words),
    )


@router.get("/workspaces/{workspace_id}/own-traits", response=list[OwnTraitOut], operation_id="own_traits")
def list_own_traits(request: HttpRequest, workspace_id: UUID):
    return _out(workspace_for(actor(request), workspace_id))


@router.post("/workspaces/{workspace_id}/own-traits", response=list[OwnTraitOut], operation_id="offer_own_trait")
def offer(request: HttpRequest, workspace_id: UUID, body: OwnTraitIn):
    return _out(own_traits.offer(actor(request), workspace_id, _trait(body), crop=body.crop, days=body.days))


@router.post("/workspaces/{workspace_id}/own-traits/withdraw", response=list[OwnTraitOut], operation_id="withdraw_own_trait")
def withdraw(request: HttpRequest, workspace_id: UUID, body: WithdrawIn):
    return _out(own_traits.withdraw(actor(request), workspace_id, body.key))
