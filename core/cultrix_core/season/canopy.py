"""Ground cover from a photograph taken straight down: the share of the picture that is green crop.

Each pixel has its excess green, 2g − r − b of the chromatic coordinates r = R ÷ (R + G + B) and so on [1], which tells green
from soil whatever the light. Where the picture holds both, the threshold between them is found in the picture itself, as the
value that makes the variance between the two classes largest [2]. A picture of one thing only has no such value: where the two
classes lie closer than ``LEAST_APART``, all of it is crop or none, by ``USUAL`` (common practice, no source).

Weeds are green as well, and yellow leaves are not: the mask is shown and the threshold is the person's to move.

References: [1] Woebbecke et al. (1995) Trans. ASAE 38:259–269; [2] Otsu (1979) IEEE Trans. Syst. Man Cybern. 9:62–66 (both from
memory).
"""

from __future__ import annotations

from dataclasses import dataclass
from io import BytesIO

import numpy as np
from numpy.typing import NDArray

from cultrix_core.errors import Refusal, require_between

USUAL = 0.10
LEAST_APART = 0.12
BINS = 256
LOWEST, HIGHEST = -1.0, 2.0
LEAST_PIXELS = 100
ROUNDING = 1e-12
MOST_PX = 1600

Pixels = NDArray[np.uint8]


@dataclass(frozen=True, slots=True, kw_only=True)
class GroundCover:
    """Share of the picture that is crop, the threshold of excess green, whether it was ``found`` in the picture, and the mask.

    ``mask``: (h, w), true where there is crop.
    """

    cover_frac: float
    threshold: float
    found: bool
    mask: NDArray[np.bool_]


def excess_green(pixels: Pixels) -> NDArray[np.float64]:
    """2g − r − b of each pixel, (h, w); black pixels have none.

    Raises
    ------
    Refusal : ``bad_geometry`` for what is no colour picture, ``too_small`` pictures.
    """
    if pixels.ndim != 3 or pixels.shape[2] != 3:
        raise Refusal("bad_geometry", field="file", label="The picture", value="it has no three colours", remedy="")
    if pixels.shape[0] * pixels.shape[1] < LEAST_PIXELS:
        raise Refusal("too_small", field="file", label="The picture", value=pixels[..., 0].size, limit=LEAST_PIXELS)
    colours = pixels.astype(np.float64)
    total = colours.sum(axis=2)
    green = 3 * colours[..., 1] - total
    return np.asarray(np.divide(green, total, out=np.zeros_like(total), where=total > 0))


def ground_cover(pixels: Pixels, *, threshold: float | None = None) -> GroundCover:
    """Ground cover of a picture.

    Parameters
    ----------
    pixels : (h, w, 3) red, green, blue.
    threshold : of excess green, where a person has moved it; found in the picture otherwise.

    Raises
    ------
    Refusal : those of ``excess_green``; a threshold outside −1 to 2.
    """
    green = excess_green(pixels)
    if threshold is not None:
        limit, found = require_between(threshold, LOWEST, HIGHEST, "threshold", label="The threshold"), False
    else:
        limit, found = _between_classes(green)
    mask = green > limit
    return GroundCover(cover_frac=float(mask.mean()), threshold=limit, found=found, mask=mask)


def _between_classes(green: NDArray[np.float64]) -> tuple[float, bool]:
    """The threshold with the largest variance between classes; the usual one where there are not two. [2]"""
    numbers, edges = np.histogram(green, bins=BINS, range=(LOWEST, HIGHEST))
    middles = (edges[:-1] + edges[1:]) / 2
    share = numbers / numbers.sum()
    below, mass = np.cumsum(share), np.cumsum(share * middles)
    above = 1 - below
    with np.errstate(divide="ignore", invalid="ignore"):
        low, high = mass / below, (mass[-1] - mass) / above
        between = np.where((below > ROUNDING) & (above > ROUNDING), below * above * (high - low) ** 2, -1.0)
    if between.max() <= 0:
        return USUAL, False
    best = np.flatnonzero(between >= between.max() * (1 - 1e-9))
    place = int(best[len(best) // 2])  # in the middle of an empty gap, where every value parts alike
    if high[place] - low[place] < LEAST_APART:
        return USUAL, False
    return float(edges[place + 1]), True


def pixels_of(content: bytes) -> Pixels:
    """The pixels of a picture file, made smaller where it is large.

    Raises
    ------
    Refusal : ``bad_geometry`` where it cannot be read.
    """
    from PIL import Image, UnidentifiedImageError

    try:
        with Image.open(BytesIO(content)) as picture:
            picture.thumbnail((MOST_PX, MOST_PX))
            return np.asarray(picture.convert("RGB"))
    except (UnidentifiedImageError, OSError, ValueError) as error:
        raise Refusal("bad_geometry", field="file", label="The picture", value="it cannot be read", remedy="") from error


def mask_picture(pixels: Pixels, cover: GroundCover) -> bytes:
    """The picture as PNG with everything but the crop faded, so that one sees what was taken for crop."""
    from PIL import Image

    faded = 200 + pixels.mean(axis=2, keepdims=True) * (55 / 255)
    shown = np.where(cover.mask[..., None], pixels, faded).astype(np.uint8)
    out = BytesIO()
    Image.fromarray(shown).save(out, "PNG", optimize=True)
    return out.getvalue()
