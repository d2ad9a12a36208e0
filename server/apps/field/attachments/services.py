"""Keeping files with a trial or a lot, and handing them out again as they were."""

from __future__ import annotations

from pathlib import Path
from uuid import UUID

from cultrix_core.errors import Refusal
from django.conf import settings
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from django.db.models import QuerySet

from apps.accounts.models import User
from apps.accounts.rights import reach_in, require
from apps.accounts.services import save_as
from apps.base.errors import Conflict, NotFound
from apps.farms.models import SeedLot
from apps.farms.seed_lots import lot_for
from apps.field.attachments.models import Attachment
from apps.intake.quota import admit
from apps.intake.quota import keep as keep_space
from apps.intake.services import check_size, name_of
from apps.intake.storing import half_written
from apps.trials.editing import require_open
from apps.trials.models import Trial
from apps.trials.queries import trial_for

MOST = 60  # files of one trial or lot
# What an office, a laboratory or a phone makes. None of it is ever opened here, and all of it leaves as a download.
DOCUMENTS = (".pdf", ".txt", ".doc", ".docx", ".odt", ".rtf", ".eml")
PICTURES = (".jpg", ".jpeg", ".png", ".webp", ".heic", ".tif", ".tiff")
TABLES = (".csv", ".xls", ".xlsx", ".ods", ".json", ".geojson", ".xml", ".zip")
ENDINGS = (*DOCUMENTS, *PICTURES, *TABLES)
OF_MONEY = "invoice"


def attach(
    user: User, home: Trial | SeedLot, attachment_id: UUID, *, kind: str, note: str, file: UploadedFile
) -> tuple[Attachment, bool]:
    """Keep a file under the client's id; returns whether it is new. The same file again is one attachment.

    Raises
    ------
    Refusal : too large, too many, or a kind of file that no office makes. Conflict : the id has another file already.
    """
    require(user, home.workspace, "record")
    if kind == OF_MONEY:
        require(user, home.workspace, "money")
    if isinstance(home, Trial):
        require_open(home)
    name = name_of(file)
    _check(home, kind, name, file)
    upload = admit(user, home.workspace, "attachment", file.size or 0)
    with half_written(file, Path(settings.ATTACHMENTS)) as half, transaction.atomic():
        existing = Attachment.objects.filter(id=attachment_id).first()
        if existing is not None:
            if existing.workspace_id != home.workspace.pk or home not in (existing.trial, existing.lot):
                raise NotFound
            if existing.digest != half.digest:
                raise Conflict("stale", "Another file was kept under this name already. Yours is kept on this device.")
            return existing, False
        attachment = Attachment(
            id=attachment_id,
            workspace=home.workspace,
            trial=home if isinstance(home, Trial) else None,
            lot=None if isinstance(home, Trial) else home,
            kind=kind,
            name=name,
            note=" ".join(note.split())[:200],
            digest=half.digest,
            size=half.size,
            added_by=user,
        )
        save_as(attachment, user, "added", new=True)
        if half.keep_as(path_of(half.digest)):
            keep_space(upload, half.size)
    return attachment, True


def _check(home: Trial | SeedLot, kind: str, name: str, file: UploadedFile) -> None:
    if kind not in dict(Attachment.KINDS):
        raise Refusal("unknown_choice", field="kind", label="Kind", value=kind, limit=", ".join(dict(Attachment.KINDS)))
    if Path(name).suffix.lower() not in ENDINGS:
        known = ", ".join(ending[1:] for ending in ENDINGS)
        raise Refusal("unknown_choice", field="file", label="A file of this kind", value=name, limit=known)
    check_size(file, settings.ATTACHMENT_LIMIT_BYTES, label="The file", remedy="Scan it smaller, or send a part of it.")
    standing = home.attachments.filter(voided=False).count()
    if standing >= MOST:
        raise Refusal(
            "too_large", field="file", label="Files here", value=standing + 1, limit=MOST, remedy="Take away what nobody needs."
        )


def attachments_of(user: User, home: Trial | SeedLot) -> QuerySet[Attachment]:
    """Standing files of a trial or lot that this person may see: invoices are money."""
    found = home.attachments.filter(voided=False).select_related("added_by")
    return found if reach_in(user, home.workspace).may("money") else found.exclude(kind=OF_MONEY)


def attachment_for(user: User, attachment_id: UUID) -> Attachment:
    """A file within reach, else ``NotFound``: also where it is an invoice and money is not for this person."""
    attachment = Attachment.objects.filter(id=attachment_id).select_related("workspace", "trial", "lot").first()
    if attachment is None:
        raise NotFound
    home = home_of(user, attachment)
    if attachment.kind == OF_MONEY and not reach_in(user, home.workspace).may("money"):
        raise NotFound
    return attachment


def home_of(user: User, attachment: Attachment) -> Trial | SeedLot:
    """What a file is kept with, where this person sees it."""
    if attachment.trial_id is not None:
        return trial_for(user, attachment.trial_id)
    assert attachment.lot_id is not None
    return lot_for(user, attachment.lot_id)


def take_away(user: User, attachment_id: UUID, reason: str) -> Attachment:
    """Void a file, with the reason; it stays in the history."""
    with transaction.atomic():
        attachment = attachment_for(user, attachment_id)
        home = home_of(user, attachment)
        require(user, home.workspace, "correct_own" if attachment.added_by_id == user.pk else "void")
        if isinstance(home, Trial):
            require_open(home)
        if not reason.strip():
            raise Refusal("missing", field="reason", label="The reason", remedy="Somebody may look for this file; say why.")
        attachment.voided, attachment.void_reason = True, reason.strip()[:200]
        save_as(attachment, user, attachment.void_reason)
    return attachment


def path_of(digest: str) -> Path:
    """Where a file lies."""
    return Path(settings.ATTACHMENTS) / digest[:2] / digest
