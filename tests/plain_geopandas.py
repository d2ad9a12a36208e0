"""The steps of the cleaning written as spatial joins in plain GeoPandas: the yardstick of ``make bench`` for speed.

Straightforward on purpose, the way one would write it in an afternoon: buffers and joins, no thinning, no index by hand. The
delay is given, not looked for.
"""

from __future__ import annotations

import io
from collections.abc import Sequence

import geopandas as gpd
import numpy as np
import pandas as pd
import shapely


def clean_plainly(text: str, rings: Sequence[Sequence[tuple[float, float]]], *, delay_s: float, reach_m: float) -> pd.Series:
    """Mean yield by strip after the same seven steps; ``reach_m``: within which about a dozen neighbours lie."""
    frame = pd.read_csv(io.StringIO(text))
    step = np.hypot(frame.x_m.diff(), frame.y_m.diff())
    frame["pass_"] = ((frame.time_s.diff() > 5) | (step > 20)).cumsum()
    frame["flow"] = frame.groupby("pass_", group_keys=False).apply(
        lambda item: pd.Series(np.interp(item.time_s + delay_s, item.time_s, item.flow_kg_s, right=np.nan), index=item.index),
        include_groups=False,
    )
    frame["yield_"] = 1e4 * frame.flow / (frame.speed_m_s * frame.swath_m)
    frame = frame[np.isfinite(frame.yield_)]
    since = frame.time_s - frame.groupby("pass_").time_s.transform("min")
    until = frame.groupby("pass_").time_s.transform("max") - frame.time_s
    frame = frame[(since >= 6) & (until >= 2)]
    usual = frame.speed_m_s.median()
    frame = frame[frame.speed_m_s.between(0.5 * usual, 1.6 * usual) & (frame.speed_m_s.diff().abs().fillna(0) <= 0.2 * usual)]
    frame = frame[(frame.swath_m >= 0.9 * frame.swath_m.quantile(0.95)) & frame.yield_.between(100, 25_000)]
    points = gpd.GeoDataFrame(frame, geometry=gpd.points_from_xy(frame.x_m, frame.y_m))
    points = points[~_driven_twice(points)]
    points = points[~_far_from_neighbours(points, reach_m)]
    strips = gpd.GeoDataFrame({"strip": range(len(rings))}, geometry=[shapely.Polygon(ring).buffer(-1) for ring in rings])
    inside = gpd.sjoin(points, strips, predicate="within")
    means: pd.Series = inside.groupby("strip").yield_.mean()
    return means


def _driven_twice(points: gpd.GeoDataFrame) -> pd.Series:
    """Readings nearer than half a swath to one of an earlier pass."""
    around = gpd.GeoDataFrame(
        {"earlier": points.pass_.to_numpy()}, geometry=points.geometry.buffer(0.5 * points.swath_m.median()).to_numpy()
    )
    pairs = gpd.sjoin(points[["pass_", "geometry"]], around, predicate="within")
    return points.index.isin(pairs[pairs.earlier < pairs.pass_].index)


def _far_from_neighbours(points: gpd.GeoDataFrame, reach_m: float) -> pd.Series:
    """Readings over four scaled deviations from the median of their neighbours."""
    around = gpd.GeoDataFrame({"near": points.yield_.to_numpy()}, geometry=points.geometry.buffer(reach_m).to_numpy())
    pairs = gpd.sjoin(points[["yield_", "geometry"]], around, predicate="within")
    middle = pairs.groupby(level=0).near.median()
    spread = 1.4826 * (pairs.near - middle.reindex(pairs.index)).abs().groupby(level=0).median()
    off = (points.yield_ - middle.reindex(points.index)).abs()
    return off > 4 * np.maximum(spread.reindex(points.index), spread.median())
