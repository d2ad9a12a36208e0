"""Photographs: bounded, re-encoded, position data left behind. Files lie beside the database under their hash."""

from __future__ import annotations

import hashlib
from pathlib import Path
from uuid import UUID

from cultrix_core.season.canopy import GroundCover, Pixels, ground_cover, pixels_of
from django.conf import settings
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction

from apps.accounts.models import User
from apps.accounts.rights import within_reach
from apps.base.errors import NotFound
from apps.field.season.models import Photo
from apps.field.season.schemas import PhotoIn
from apps.intake.quota import admit
from apps.intake.quota import keep as keep_space
from apps.intake.reader.picture import encoded
from apps.intake.services import picture_in
from apps.intake.storing import keep_bytes
from apps.records.keeping import keep, strip_of, when

SMALL_PX = 320


def put_photo(user: User, trial_id: UUID, photo_id: UUID, body: PhotoIn, file: UploadedFile) -> tuple[Photo, bool]:
    """Store a photograph under the client's id. Refuses what is too large, or no picture at all."""
    trial, strip = strip_of(user, trial_id, body.strip_id)  # before any work is done on the file
    recorded_at = when(body.recorded_at)
    upload = admit(user, trial.workspace, "photograph", file.size or 0)
    picture = picture_in(file)  # outside the transaction: this is slow
    digest = hashlib.sha256(picture.content).hexdigest()
    existing = Photo.objects.filter(id=photo_id).first()
    if (existing is None or existing.digest == digest) and keep_bytes(picture.content, path_of(digest)):
        keep_space(upload, len(picture.content))
    with transaction.atomic():
        photo = Photo(
            id=photo_id,
            strip=strip,
            caption=body.caption.strip()[:200],
            digest=digest,
            width=picture.width,
            height=picture.height,
            recorded_at=recorded_at,
        )
        return keep(user, trial, photo, None)  # a photograph is never changed: the same id with another picture is a conflict


def path_of(digest: str) -> Path:
    """Where a picture lies."""
    return Path(settings.PHOTOS) / digest[:2] / f"{digest}.jpg"


def photo_for(user: User, photo_id: UUID) -> Photo:
    """A photograph of one of the person's workspaces, else ``NotFound``."""
    reach = within_reach(user, workspace="strip__trial__workspace", farm="strip__trial__field__farm")
    photo = Photo.objects.filter(reach, id=photo_id).first()
    if photo is None or not path_of(photo.digest).exists():
        raise NotFound
    return photo


def small(photo: Photo) -> bytes:
    """A small copy for lists."""
    from PIL import Image

    with Image.open(path_of(photo.digest)) as opened:
        opened.thumbnail((SMALL_PX, SMALL_PX))
        return encoded(opened)


def cover_of(photo: Photo, threshold: float | None) -> tuple[Pixels, GroundCover]:
    """The pixels of a photograph and the share of them that is crop; ``threshold`` where a person has moved it."""
    pixels = pixels_of(path_of(photo.digest).read_bytes())
    return pixels, ground_cover(pixels, threshold=threshold)
