"""Ground cover on drawn pictures of known cover, in several lights; excess green by hand."""

from __future__ import annotations

from io import BytesIO

import numpy as np
import pytest
from cultrix_core.errors import Refusal
from cultrix_core.season.canopy import excess_green, ground_cover, mask_picture, pixels_of
from PIL import Image, ImageDraw

SOIL, LEAF = (120, 92, 70), (70, 128, 52)


def drawn(cover: float, *, light: float = 1.0, noise: float = 8.0, seed: int = 1) -> tuple[np.ndarray, float]:
    """Leaves as ellipses on soil until about so much is covered; and what is covered, counted."""
    draw = np.random.default_rng(seed)
    shape = Image.new("1", (320, 240))
    pen = ImageDraw.Draw(shape)
    while np.asarray(shape).mean() < cover:
        x, y, w, h = draw.integers(-20, 320), draw.integers(-20, 240), draw.integers(10, 60), draw.integers(5, 20)
        pen.ellipse((x, y, x + w, y + h), fill=1)
    if cover >= 1:
        pen.rectangle((0, 0, 320, 240), fill=1)
    leaves = np.asarray(shape)
    picture = np.where(leaves[..., None], LEAF, SOIL) * light + draw.normal(0, noise, (240, 320, 3))
    return np.clip(picture, 0, 255).astype(np.uint8), float(leaves.mean())


def test_excess_green_by_hand() -> None:
    """(70, 128, 52): 3 × 128 ÷ 250 − 1 = 0.536; grey has none; black counts as none."""
    pixels = np.tile(np.array([[[70, 128, 52], [90, 90, 90], [0, 0, 0]]], dtype=np.uint8), (40, 1, 1))
    assert excess_green(pixels)[0] == pytest.approx([3 * 128 / 250 - 1, 0.0, 0.0])


@pytest.mark.parametrize("cover", [0.05, 0.2, 0.5, 0.8, 0.95])
@pytest.mark.parametrize("light", [0.5, 1.0, 1.6])
def test_known_cover_comes_back_in_any_light(cover: float, light: float) -> None:
    pixels, true = drawn(cover, light=light, noise=6 * light)
    result = ground_cover(pixels)
    assert result.found
    assert result.cover_frac == pytest.approx(true, abs=0.015)


@pytest.mark.parametrize(("cover", "seen"), [(0.0, 0.0), (1.0, 1.0)])
def test_a_picture_of_one_thing_is_not_torn_in_two(cover: float, seen: float) -> None:
    pixels, _ = drawn(cover, noise=4)
    result = ground_cover(pixels)
    assert not result.found
    assert result.cover_frac == pytest.approx(seen, abs=0.01)


def test_a_person_may_move_the_threshold_and_more_is_never_more_crop() -> None:
    pixels, _ = drawn(0.4)
    shares = [ground_cover(pixels, threshold=limit).cover_frac for limit in (-0.5, 0.0, 0.1, 0.3, 0.6, 1.5)]
    assert shares == sorted(shares, reverse=True)
    assert shares[0] == 1.0
    with pytest.raises(Refusal):
        ground_cover(pixels, threshold=3)


def test_the_mask_keeps_the_crop_and_fades_the_rest() -> None:
    pixels, _ = drawn(0.4)
    cover = ground_cover(pixels)
    shown = np.asarray(Image.open(BytesIO(mask_picture(pixels, cover))))
    assert np.array_equal(shown[cover.mask], pixels[cover.mask])
    assert shown[~cover.mask].min() >= 200


def test_files_are_read_smaller_and_what_is_no_picture_is_refused() -> None:
    out = BytesIO()
    Image.new("RGB", (4000, 3000), LEAF).save(out, "JPEG")
    pixels = pixels_of(out.getvalue())
    assert max(pixels.shape) == 1600
    assert ground_cover(pixels).cover_frac == 1.0
    with pytest.raises(Refusal):
        pixels_of(b"no picture")
    with pytest.raises(Refusal):
        excess_green(np.zeros((5, 5, 3), dtype=np.uint8))
    with pytest.raises(Refusal):
        excess_green(np.zeros((50, 50), dtype=np.uint8))
