"""Readings: one address for each kind that is described by its entries, and one answer for all of them."""

from typing import Any
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Status

from apps.accounts.queries import actor
from apps.field.readings.schemas import ReadingOut, reading_in
from apps.field.readings.services import put_reading
from apps.pages.readings.output import ReadingsOut, reading_out, readings_out
from apps.records.kinds import Kind
from apps.records.kinds import readings as kinds_of_reading
from apps.trial_state.view import view
from apps.trials.queries import trial_for

router = Router(tags=["readings"])


@router.get("/trials/{trial_id}/readings", response=ReadingsOut, operation_id="readings")
def readings(request: HttpRequest, trial_id: UUID):
    return readings_out(view(actor(request), trial_for(actor(request), trial_id)))


def _add_address(kind: Kind) -> None:
    def put(request: HttpRequest, trial_id: UUID, record_id: UUID, body: Any):
        reading, changed = put_reading(actor(request), kind, trial_id, record_id, body)
        show = view(actor(request), trial_for(actor(request), trial_id)).show
        return Status(201 if changed and reading.version == 1 else 200, reading_out(reading, show))

    put.__annotations__["body"] = reading_in(kind)
    add = router.put(
        f"/trials/{{trial_id}}/{kind.address}/{{record_id}}",
        response={200: ReadingOut, 201: ReadingOut},
        operation_id=f"put_{kind.name.replace('-', '_')}",
        summary=kind.words,
    )
    add(put)


for _kind in kinds_of_reading():
    _add_address(_kind)
