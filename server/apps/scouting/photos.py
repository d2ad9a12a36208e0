"""Photographs: bounded, re-encoded, position data left behind. Files lie beside the database under their hash."""

from __future__ import annotations

import hashlib
import io
import os
from pathlib import Path
from uuid import UUID

from cultrix_core.errors import Refusal
from django.conf import settings
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction

from apps.accounts.faults import NotHere
from apps.accounts.models import User
from apps.records.keeping import keep, strip_of, when
from apps.scouting.models import Photo
from apps.scouting.schemas import PhotoIn

LONGEST_PX = 1600
SMALL_PX = 320
MOST_PIXELS = 60_000_000
QUALITY = 82
FORMATS = ("JPEG", "PNG", "WEBP")


def put_photo(user: User, trial_id: UUID, photo_id: UUID, body: PhotoIn, file: UploadedFile) -> tuple[Photo, bool]:
    """Store a photograph under the client's id. Refuses what is too large, or no picture at all."""
    trial, strip = strip_of(user, trial_id, body.strip_id)  # before any work is done on the file
    recorded_at = when(body.recorded_at)
    picture, width, height = clean(file)  # outside the transaction: this is slow
    digest = _store(picture)
    with transaction.atomic():
        photo = Photo(
            id=photo_id,
            strip=strip,
            caption=body.caption.strip()[:200],
            digest=digest,
            width=width,
            height=height,
            recorded_at=recorded_at,
        )
        return keep(user, trial, photo, None)  # a photograph is never changed: the same id with another picture is a conflict


def clean(file: UploadedFile) -> tuple[bytes, int, int]:
    """Turn upright, shrink, and encode anew, so that nothing of the original file but the picture is left."""
    from PIL import Image, ImageOps, UnidentifiedImageError

    limit = settings.PHOTO_LIMIT_BYTES
    if (file.size or 0) > limit:
        raise Refusal(
            "too_large", field="file", label="The photograph", value=f"{(file.size or 0) / 1e6:.0f}", unit=" MB",
            limit=f"{limit / 1e6:.0f}", remedy="Take it with a lower resolution.",
        )  # fmt: skip
    try:
        with Image.open(file, formats=FORMATS) as opened:
            if opened.width * opened.height > MOST_PIXELS:
                raise Refusal(
                    "too_large", field="file", label="The photograph", value=f"{opened.width} × {opened.height}",
                    limit=f"{MOST_PIXELS / 1e6:.0f} million", unit=" pixels", remedy="Take it with a lower resolution.",
                )  # fmt: skip
            picture = ImageOps.exif_transpose(opened).convert("RGB")
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError, Image.DecompressionBombError) as error:
        if isinstance(error, Refusal):
            raise
        raise Refusal(
            "unknown_choice",
            field="file",
            label="The photograph",
            value=(file.name or "")[:40],
            limit="JPEG, PNG or WebP pictures",
        ) from None
    picture.thumbnail((LONGEST_PX, LONGEST_PX))
    bare = Image.new("RGB", picture.size)  # pixels only: no EXIF, no profile, no comment
    bare.paste(picture)
    return _encoded(bare), *bare.size


def _encoded(picture: object) -> bytes:
    handle = io.BytesIO()
    picture.save(handle, "JPEG", quality=QUALITY, optimize=True)  # type: ignore[attr-defined]
    return handle.getvalue()


def _store(picture: bytes) -> str:
    """Write once under the hash; a half-written file never gets the name."""
    digest = hashlib.sha256(picture).hexdigest()
    path = path_of(digest)
    if not path.exists():
        path.parent.mkdir(parents=True, exist_ok=True)
        half = path.with_suffix(f".{os.getpid()}.part")
        half.write_bytes(picture)
        half.replace(path)
    return digest


def path_of(digest: str) -> Path:
    """Where a picture lies."""
    return Path(settings.PHOTOS) / digest[:2] / f"{digest}.jpg"


def photo_for(user: User, photo_id: UUID) -> Photo:
    """A photograph of one of the person's workspaces, else ``NotHere``."""
    photo = Photo.objects.filter(id=photo_id, strip__trial__workspace__memberships__user=user).first()
    if photo is None or not path_of(photo.digest).exists():
        raise NotHere
    return photo


def small(photo: Photo) -> bytes:
    """A small copy for lists."""
    from PIL import Image

    with Image.open(path_of(photo.digest)) as opened:
        opened.thumbnail((SMALL_PX, SMALL_PX))
        return _encoded(opened)
