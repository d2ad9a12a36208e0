"""What every record knows, whatever its kind: to be voided with a reason, and restored."""

from typing import Any, Literal
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema

from apps.accounts.queries import actor
from apps.records import keeping
from apps.records.kinds import KINDS
from apps.records.schemas import VoidedOut, VoidIn

router = Router(tags=["records"])
RecordKind: Any = Literal[tuple(KINDS)]  # the addresses of the registry, so that the contract lists them


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
