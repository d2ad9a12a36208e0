"""Field variation to rehearse on: trend, patches and noise, or a real uniformity map.

Model, in % of the mean yield. A strip's own value is

    trend × (place across the field, −½ … ½)  +  patches  +  noise,

patches being white noise on a fine grid smoothed by a Gaussian of a given range and averaged over the strip.
Patches and noise together have the strip-to-strip CV within blocks that the trial is planned with; the trend
comes on top. The map is 500 plots of one wheat field sown alike [1], laid under the strips at a random place,
turned over at random, and mirrored where the field is larger.

References: [1] Mercer & Hall (1911) The experimental error of field trials, J. Agric. Sci. 4:107–132; data as in
spData (CC0), one value corrected there (4.03 to 4.33).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from importlib import resources

import numpy as np
from numpy.typing import NDArray

from cultrix_core.design.randomise import PlannedStrip
from cultrix_core.errors import require_between

Array = NDArray[np.float64]
CELLS_ALONG = 12
CELLS_ACROSS = 2


@dataclass(frozen=True, slots=True, kw_only=True)
class FieldVariation:
    """What the ground does. ``trend_pct``: from edge to edge; ``patch_share``: of the variance within blocks."""

    cv_pct: float
    trend_pct: float = 10.0
    patch_share: float = 0.5
    patch_range_m: float = 25.0
    strip_width_m: float = 6.0
    strip_length_m: float = 300.0


def simulated(strips: Sequence[PlannedStrip], ground: FieldVariation, *, fields: int, seed: int) -> Array:
    """Values of the strips' places on simulated fields: shape (fields, strips), in % of the mean."""
    require_between(fields, 1, 5_000, "fields")
    require_between(ground.cv_pct, 0.1, 80, "cv", label="Strip-to-strip variation", unit=" %")
    require_between(ground.patch_share, 0, 1, "patch_share", label="Share of patches")
    draw = np.random.default_rng(seed)
    columns, rows = _extent(strips)
    place = np.array([(strip.column - 1, strip.row - 1) for strip in strips])
    patches = _patches(draw, ground, fields, columns, rows)[:, place[:, 0], place[:, 1]]
    if ground.patch_share:
        patches *= ground.cv_pct * np.sqrt(ground.patch_share) / _spread_within(patches, strips)
    noise = draw.normal(0, ground.cv_pct * np.sqrt(1 - ground.patch_share), (fields, len(strips)))
    across = (place[:, 0] + 0.5) / columns - 0.5
    return np.asarray(ground.trend_pct * across + patches + noise)


def _extent(strips: Sequence[PlannedStrip]) -> tuple[int, int]:
    return max(strip.column for strip in strips), max(strip.row for strip in strips)


def _patches(draw: np.random.Generator, ground: FieldVariation, fields: int, columns: int, rows: int) -> Array:
    """Smoothed noise averaged over strips, not yet scaled: shape (fields, columns, rows)."""
    if ground.patch_share == 0:
        return np.zeros((fields, columns, rows))
    along = max(2, CELLS_ALONG // rows)
    smooth_u = _smoother(columns * CELLS_ACROSS, ground.strip_width_m / CELLS_ACROSS, ground.patch_range_m)
    smooth_v = _smoother(rows * along, ground.strip_length_m / along, ground.patch_range_m)
    white = draw.normal(size=(fields, columns * CELLS_ACROSS, rows * along))
    smoothed = np.einsum("ij,fjk,lk->fil", smooth_u, white, smooth_v, optimize=True)
    means = smoothed.reshape(fields, columns, CELLS_ACROSS, rows, along).mean(axis=(2, 4))
    return np.asarray(means)


def _spread_within(values: Array, strips: Sequence[PlannedStrip]) -> float:
    """Standard deviation of strips inside blocks, over all fields."""
    blocks = np.array([strip.block for strip in strips])
    parts = [values[:, blocks == block].var(axis=1, ddof=1) for block in np.unique(blocks) if (blocks == block).sum() > 1]
    return float(np.sqrt(np.mean(parts)))


def _smoother(cells: int, cell_m: float, range_m: float) -> Array:
    apart = np.abs(np.subtract.outer(np.arange(cells), np.arange(cells))) * cell_m
    weights = np.exp(-0.5 * (apart / max(range_m, cell_m / 2)) ** 2)
    return np.asarray(weights / np.sqrt((weights**2).sum(axis=1, keepdims=True)))


def mapped(strips: Sequence[PlannedStrip], *, fields: int, seed: int) -> Array:
    """Values of the strips' places on the uniformity map, in % of its mean: shape (fields, strips)."""
    require_between(fields, 1, 5_000, "fields")
    field = uniformity_map()
    columns, rows = _extent(strips)
    draw = np.random.default_rng(seed)
    tall = field.shape[0] // rows
    out = np.empty((fields, len(strips)))
    for index in range(fields):
        turned = field[:: draw.choice((-1, 1)), :: draw.choice((-1, 1))]
        first = int(draw.integers(0, max(1, field.shape[1] - min(columns, field.shape[1]) + 1)))
        across = _mirrored(first + np.arange(columns), field.shape[1])
        for number, strip in enumerate(strips):
            start = (strip.row - 1) * max(tall, 1)
            down = _mirrored(start + np.arange(max(tall, 1)), field.shape[0])
            out[index, number] = turned[down, across[strip.column - 1]].mean()
    return out


def window(strips: Sequence[PlannedStrip], *, seed: int, plots_along: int = 8) -> Array:
    """Values of strips on a window of the uniformity map laid anywhere, turned any way: in % of its mean, (strips,).

    A strip is ``plots_along`` plots long. One map has few windows as wide as a trial, and a trial of few main strips has few
    orders; judged over one window its false calls come in steps. So the window starts anywhere in the map continued by its
    mirror images, across and along, with rows and columns exchanged in half of the draws.
    """
    draw = np.random.default_rng(seed)
    field = uniformity_map()
    if draw.integers(2):
        field = field.T
    across, along = (int(draw.integers(2 * size)) for size in (field.shape[1], field.shape[0]))
    values = np.empty(len(strips))
    for number, strip in enumerate(strips):
        down = _mirrored(along + (strip.row - 1) * plots_along + np.arange(plots_along), field.shape[0])
        column = _mirrored(np.array([across + strip.column - 1]), field.shape[1])[0]
        values[number] = field[down, column].mean()
    return values


def _mirrored(index: NDArray[np.int64], size: int) -> NDArray[np.int64]:
    period = index % (2 * size)
    return np.asarray(np.where(period < size, period, 2 * size - 1 - period))


@lru_cache(maxsize=1)
def uniformity_map() -> Array:
    """The wheat map, 20 rows × 25 columns, as % departure from its mean."""
    text = resources.files("cultrix_core.simulate").joinpath("uniformity_wheat.csv").read_text()
    field = np.array([[float(value) for value in line.split(",")] for line in text.splitlines() if line[0] != "#"])
    return np.asarray(100 * (field / field.mean() - 1))
