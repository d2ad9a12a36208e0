"""Photographs: turned upright, shrunk and encoded anew, so that nothing of the file but the picture is left."""

from __future__ import annotations

import io

from cultrix_core.errors import Refusal
from PIL import Image, ImageOps

LONGEST_PX = 1600
MOST_PIXELS = 60_000_000
QUALITY = 82


def clean(content: bytes, *, form: str) -> tuple[bytes, int, int]:
    """A JPEG without position, profile or comment, and its width and height."""
    try:
        with Image.open(io.BytesIO(content), formats=(form,)) as opened:
            if opened.width * opened.height > MOST_PIXELS:
                raise Refusal(
                    "too_large",
                    field="file",
                    label="The photograph",
                    value=f"{opened.width} × {opened.height}",
                    limit=f"{MOST_PIXELS / 1e6:.0f} million",
                    unit=" pixels",
                    remedy="Take it with a lower resolution.",
                )
            picture = ImageOps.exif_transpose(opened).convert("RGB")
    except (OSError, SyntaxError, ValueError, MemoryError, Image.DecompressionBombError) as error:
        if isinstance(error, Refusal):
            raise
        raise not_a_picture("a broken picture") from None
    picture.thumbnail((LONGEST_PX, LONGEST_PX))
    bare = Image.new("RGB", picture.size)  # pixels only: no EXIF, no profile, no comment
    bare.paste(picture)
    return encoded(bare), *bare.size


def encoded(picture: Image.Image) -> bytes:
    """A picture as JPEG."""
    handle = io.BytesIO()
    picture.save(handle, "JPEG", quality=QUALITY, optimize=True)
    return handle.getvalue()


def not_a_picture(name: str) -> Refusal:
    """What comes in as a photograph and is none."""
    return Refusal("unknown_choice", field="file", label="The photograph", value=name[:40], limit="JPEG, PNG or WebP pictures")
