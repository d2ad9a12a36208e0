"""Files kept with a trial or a lot: listed, added, taken away, and handed out as downloads."""

from datetime import datetime
from uuid import UUID

from django.http import FileResponse, HttpRequest
from ninja import File, Form, Router, Schema, Status
from ninja.files import UploadedFile

from apps.accounts.queries import actor
from apps.base.errors import NotFound
from apps.farms.models import SeedLot
from apps.farms.seed_lots import lot_for
from apps.field.attachments import services
from apps.field.attachments.models import Attachment
from apps.trials.models import Trial
from apps.trials.queries import trial_for

router = Router(tags=["attachments"])


class AttachmentIn(Schema):
    """What goes with an uploaded file."""

    kind: str
    note: str = ""


class AttachmentOut(Schema):
    id: UUID
    kind: str
    kind_name: str
    name: str
    note: str
    size: int
    added_at: datetime
    added_by: str


class AttachmentsOut(Schema):
    """Files of a trial or lot, and the kinds that this person may add."""

    attachments: list[AttachmentOut]
    kinds: list[list[str]]
    limit_mb: float


class TakenAwayIn(Schema):
    reason: str = ""


def _out(request: HttpRequest, home: Trial | SeedLot) -> AttachmentsOut:
    from django.conf import settings

    money = services.reach_in(actor(request), home.workspace).may("money")
    return AttachmentsOut(
        attachments=[_one(item) for item in services.attachments_of(actor(request), home)],
        kinds=[[key, name] for key, name in Attachment.KINDS if money or key != services.OF_MONEY],
        limit_mb=settings.ATTACHMENT_LIMIT_BYTES / 1e6,
    )


def _one(item: Attachment) -> AttachmentOut:
    return AttachmentOut(
        id=item.id,
        kind=item.kind,
        kind_name=item.get_kind_display(),
        name=item.name,
        note=item.note,
        size=item.size,
        added_at=item.added_at,
        added_by=item.added_by.get_full_name() or item.added_by.username,
    )


@router.get("/trials/{trial_id}/attachments", response=AttachmentsOut, operation_id="attachments")
def attachments(request: HttpRequest, trial_id: UUID):
    return _out(request, trial_for(actor(request), trial_id))


@router.post(
    "/trials/{trial_id}/attachments/{attachment_id}",
    response={200: AttachmentsOut, 201: AttachmentsOut},
    operation_id="put_attachment",
)
def put_attachment(
    request: HttpRequest, trial_id: UUID, attachment_id: UUID, details: Form[AttachmentIn], file: File[UploadedFile]
):
    return _attach(request, trial_for(actor(request), trial_id), attachment_id, details, file)


@router.get("/seed-lots/{lot_id}/attachments", response=AttachmentsOut, operation_id="lot_attachments")
def lot_attachments(request: HttpRequest, lot_id: UUID):
    return _out(request, lot_for(actor(request), lot_id))


@router.post(
    "/seed-lots/{lot_id}/attachments/{attachment_id}",
    response={200: AttachmentsOut, 201: AttachmentsOut},
    operation_id="put_lot_attachment",
)
def put_lot_attachment(
    request: HttpRequest, lot_id: UUID, attachment_id: UUID, details: Form[AttachmentIn], file: File[UploadedFile]
):
    return _attach(request, lot_for(actor(request), lot_id), attachment_id, details, file)


def _attach(
    request: HttpRequest, home: Trial | SeedLot, attachment_id: UUID, details: AttachmentIn, file: UploadedFile
) -> Status[AttachmentsOut]:
    _, new = services.attach(actor(request), home, attachment_id, kind=details.kind, note=details.note, file=file)
    return Status(201 if new else 200, _out(request, home))


@router.post("/attachments/{attachment_id}/void", response=AttachmentsOut, operation_id="void_attachment")
def void_attachment(request: HttpRequest, attachment_id: UUID, body: TakenAwayIn):
    attachment = services.take_away(actor(request), attachment_id, body.reason)
    return _out(request, services.home_of(actor(request), attachment))


@router.get("/attachments/{attachment_id}", operation_id="attachment", response={200: None})
def download(request: HttpRequest, attachment_id: UUID):
    """The file as it was sent, as a download that no page opens, whatever its name says it is."""
    attachment = services.attachment_for(actor(request), attachment_id)
    path = services.path_of(attachment.digest)
    if attachment.voided or not path.exists():
        raise NotFound
    answer = FileResponse(
        path.open("rb"), as_attachment=True, filename=attachment.name, content_type="application/octet-stream"
    )
    answer["Content-Security-Policy"] = "sandbox; default-src 'none'"
    answer["X-Content-Type-Options"] = "nosniff"
    answer["Cache-Control"] = "private, no-store"
    return answer
