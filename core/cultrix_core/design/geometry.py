"""Strips on a real field: bands across the driving direction, cut to the boundary in metres.

Coordinates are metres in a local frame (x east, y north). The heading is the driving direction in degrees
clockwise from north. Inside, the field is turned so that the driving direction points up: u runs across
to the right of the driver, v along. A strip is a band of width w in u; its usable stretch is where the whole
band lies inside the field less a headland at both ends, so that strips have square ends and a machine never
leaves the field. Obstacles are jumped by the whole band; no-go areas shorten it.

Planar areas and lengths; the frame's projection keeps them true within a part in ten thousand on a farm.
References: oracles in the tests are pyproj's geodesic and Monte-Carlo point in polygon.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import cast

import numpy as np
import shapely
from shapely import affinity
from shapely.geometry import LineString, MultiPolygon, Polygon, box
from shapely.geometry.base import BaseGeometry

from cultrix_core.design.randomise import PlannedStrip
from cultrix_core.errors import Refusal, require_between, require_positive

Ring = tuple[tuple[float, float], ...]
LEAST_LENGTH_M = 5.0
SMALLEST_FIELD_M2 = 1.0
LARGEST_FIELD_M2 = 25e6
MOST_CORNERS = 5_000
TOLERANCE_M = 1e-6


@dataclass(frozen=True, slots=True, kw_only=True)
class Ground:
    """A field to lay strips on: outer ring, and rings of obstacles (jumped) and no-go areas (cut out)."""

    boundary: Ring
    obstacles: tuple[Ring, ...] = ()
    no_go: tuple[Ring, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Placing:
    """How strips lie.

    heading_deg : driving direction, clockwise from north; headland_m : cut off at both ends;
    guards : strips left free at each side; side_m : kept free along the left side before the first guard;
    swath_m : harvested width inside the strip, 0: the whole width; length_m : None takes all there is;
    alley_m : kept free between rows of plots one behind the other.
    """

    heading_deg: float
    strip_width_m: float
    headland_m: float = 0.0
    guards: int = 0
    side_m: float = 0.0
    swath_m: float = 0.0
    length_m: float | None = None
    alley_m: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class PlacedStrip:
    """A strip on the ground: ring in the frame, its swath, true length and area, and its middle."""

    order: int
    ring: Ring
    swath: Ring
    length_m: float
    area_m2: float
    centre: tuple[float, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class Placed:
    """All strips on the ground, the guards beside them, how many bands there was room for, and remarks.

    ``longest_m`` is the length all chosen bands have in common.
    """

    strips: tuple[PlacedStrip, ...]
    guards: tuple[Ring, ...]
    bands: int
    longest_m: float
    heading_deg: float
    remarks: tuple[str, ...]


def polygon_of(ring: Ring, *, label: str = "The boundary", field: str = "boundary") -> Polygon:
    """A ring as a checked polygon; refuses ``bad_geometry`` with the reason."""
    corners = [point for point in ring if all(math.isfinite(part) for part in point)]
    if len(corners) != len(ring):
        raise _bad(field, label, "a corner is not a number", "Type the corners again.")
    if len({(round(x, 6), round(y, 6)) for x, y in corners}) < 3:
        raise _bad(field, label, "fewer than three corners", "Give at least three.")
    if len(corners) > MOST_CORNERS:
        raise _bad(field, label, f"{len(corners)} corners", f"Simplify it to at most {MOST_CORNERS}.")
    polygon = Polygon(corners)
    if not polygon.is_valid:
        raise _bad(field, label, shapely.is_valid_reason(polygon).lower(), "Its edge must not cross itself.")
    if polygon.area < SMALLEST_FIELD_M2 or polygon.area > LARGEST_FIELD_M2:
        raise _bad(field, label, f"an area of {polygon.area:.4g} m²", "Check that corners are in the right order and unit.")
    return polygon


def _bad(field: str, label: str, value: str, remedy: str) -> Refusal:
    return Refusal("bad_geometry", field=field, label=label, value=value, remedy=remedy)


def repaired(geometry: BaseGeometry) -> tuple[Polygon, tuple[str, ...]]:
    """The largest sound polygon in a geometry, and what was done to get it.

    Raises
    ------
    Refusal : ``bad_geometry`` when nothing with an area remains.
    """
    sentences: list[str] = []
    fixed = geometry
    if not geometry.is_valid:
        sentences.append(f"The outline was mended: {shapely.is_valid_reason(geometry).split('[')[0].lower()}.")
        fixed = shapely.make_valid(geometry)
    parts = [part for part in shapely.get_parts(fixed) if isinstance(part, Polygon | MultiPolygon)]
    polygons = [part_polygon for part in parts for part_polygon in shapely.get_parts(part) if part_polygon.area > 0]
    if not polygons:
        raise _bad("boundary", "The boundary", "no area in it", "Draw it as one closed outline.")
    largest = max(polygons, key=lambda polygon: polygon.area)
    if len(polygons) > 1:
        lost = 100 * (1 - largest.area / sum(polygon.area for polygon in polygons))
        sentences.append(f"Of {len(polygons)} parts the largest was kept; the others were {lost:.2g} % of the area.")
    return Polygon(largest.exterior, largest.interiors), tuple(sentences)


def longest_side_heading(ring: Ring) -> float:
    """Heading of the longest side of the smallest rectangle around the field, 0 ≤ h < 180 degrees."""
    rectangle = cast(Polygon, shapely.minimum_rotated_rectangle(polygon_of(ring)))
    corners = list(rectangle.exterior.coords)
    sides = [(math.dist(a, b), a, b) for a, b in zip(corners, corners[1:], strict=False)]
    _, (x0, y0), (x1, y1) = max(sides)
    return round(math.degrees(math.atan2(x1 - x0, y1 - y0)) % 180, 6) % 180


def place_strips(ground: Ground, plan: Sequence[PlannedStrip], placing: Placing) -> Placed:
    """Lay a plan on the ground.

    Returns
    -------
    Placed : one placed strip for each planned one, in the plan's order, disjoint and inside the field.

    Raises
    ------
    Refusal : ``not_positive``, ``too_small``, ``bad_geometry``; ``does_not_fit`` naming the layout that would.
    """
    _check(placing)
    outline = polygon_of(ground.boundary)
    turned = _turned(outline, placing.heading_deg)
    depth = max(strip.row for strip in plan)
    columns = max(strip.column for strip in plan)
    usable = _usable(turned, ground, placing)
    bands = _bands(usable, _union(ground.obstacles, placing), placing, depth)
    needed = columns + 2 * placing.guards
    if len(bands) < needed:
        raise _too_many(len(bands), needed, plan, placing, bands)
    room = len(bands)
    bands = _best_run(bands, needed, placing)
    taken = bands[placing.guards : placing.guards + columns]
    cells = _cells(taken, depth, placing)
    strips = tuple(_placed(strip, cells[strip.column - 1][strip.row - 1], placing) for strip in plan)
    sides = [*bands[: placing.guards], *bands[placing.guards + columns :]]
    return Placed(
        strips=strips,
        guards=tuple(_ring(box(*band), placing.heading_deg) for band in sides),
        bands=room,
        longest_m=min(band[3] - band[1] for band in taken),
        heading_deg=placing.heading_deg,
        remarks=_remarks(strips, taken, placing),
    )


def _check(placing: Placing) -> None:
    require_positive(placing.strip_width_m, "strip_width", unit=" m")
    require_between(placing.headland_m, 0, 500, "headland", label="Headland", unit=" m")
    require_between(placing.side_m, 0, 2_000, "side", label="Kept free at the side", unit=" m")
    require_between(placing.guards, 0, 20, "guards", label="Guard strips")
    require_between(placing.alley_m, 0, 200, "alley", label="Alley", unit=" m")
    if placing.length_m is not None:
        require_positive(placing.length_m, "strip_length", label="Strip length", unit=" m")
    if placing.swath_m > placing.strip_width_m * (1 + 1e-9):
        raise Refusal(
            "does_not_fit",
            field="swath",
            label="Harvested swath",
            value=f"{placing.swath_m:g}",
            limit=f"a strip of {placing.strip_width_m:g} m",
            unit=" m",
            remedy="Take wider strips, or a narrower header.",
        )


def _turned(geometry: BaseGeometry, heading_deg: float) -> BaseGeometry:
    return affinity.rotate(geometry, heading_deg, origin=(0, 0))


def _ring(geometry: Polygon, heading_deg: float) -> Ring:
    back = affinity.rotate(geometry, -heading_deg, origin=(0, 0))
    return tuple((float(x), float(y)) for x, y in list(back.exterior.coords)[:-1])


def _union(rings: Sequence[Ring], placing: Placing) -> BaseGeometry:
    return shapely.union_all([_turned(polygon_of(ring, label="An area", field="areas"), placing.heading_deg) for ring in rings])


def _usable(turned: BaseGeometry, ground: Ground, placing: Placing) -> BaseGeometry:
    """The field less no-go areas, worn away along the driving direction by the headland."""
    free = turned.difference(_union(ground.no_go, placing))
    # erosion by a stretch along v: what stays inside under every shift; ends and steps between catch notches
    shifts = np.linspace(-placing.headland_m, placing.headland_m, 9) if placing.headland_m else [0.0]
    worn = free
    for shift in shifts:
        worn = worn.intersection(affinity.translate(free, 0, float(shift)))
    return worn


def _bands(
    usable: BaseGeometry, obstacles: BaseGeometry, placing: Placing, depth: int
) -> list[tuple[float, float, float, float]]:
    """Boxes (u0, v0, u1, v1) of all bands that can be driven, left to right."""
    if usable.is_empty:
        return []
    left, low, right, high = usable.bounds
    least = placing.length_m if placing.length_m is not None else LEAST_LENGTH_M
    least = least * depth + placing.alley_m * (depth - 1)
    bands, u = [], left + placing.side_m
    while u + placing.strip_width_m <= right + TOLERANCE_M:
        stretch = _longest_stretch(usable, u, u + placing.strip_width_m, low, high)
        band = box(u, low, u + placing.strip_width_m, high)
        if not obstacles.is_empty and obstacles.intersects(band):
            # jump: the next band starts where the obstacle ends
            u = max(obstacles.intersection(band).bounds[2], u + placing.strip_width_m * 1e-3)
            continue
        if stretch and stretch[1] - stretch[0] >= least - TOLERANCE_M:
            bands.append((u, stretch[0], u + placing.strip_width_m, stretch[1]))
            u += placing.strip_width_m
        else:
            # an edge that narrows the field: try again a little further in, so that the first band is a full one
            u += placing.strip_width_m if bands else placing.strip_width_m / 8
    return bands


def _best_run(
    bands: list[tuple[float, float, float, float]], needed: int, placing: Placing
) -> list[tuple[float, float, float, float]]:
    """The run of bands whose shortest is longest, the leftmost of equals; from the left when a side is kept free."""
    if placing.side_m:
        return bands[:needed]
    starts = range(len(bands) - needed + 1)
    shortest = [min(band[3] - band[1] for band in bands[start : start + needed]) for start in starts]
    best = max(starts, key=lambda start: (round(shortest[start], 1), -start))
    return bands[best : best + needed]


def _longest_stretch(usable: BaseGeometry, u0: float, u1: float, low: float, high: float) -> tuple[float, float] | None:
    """The longest run of v over which the band from u0 to u1 lies wholly inside."""
    band = box(u0, low, u1, high)
    outside = band.difference(usable)
    blocked = sorted(
        (part.bounds[1], part.bounds[3])
        for part in shapely.get_parts(outside)
        if part.area > TOLERANCE_M * max(1.0, high - low)
    )
    best: tuple[float, float] | None = None
    start = low
    for bottom, top in [*blocked, (high, high)]:
        if bottom > start and (best is None or bottom - start > best[1] - best[0]):
            best = (start, bottom)
        start = max(start, top)
    return best


def _cells(
    bands: Sequence[tuple[float, float, float, float]], depth: int, placing: Placing
) -> list[list[tuple[float, float, float, float]]]:
    """Each band cut into ``depth`` rows that line up across the bands when there is more than one."""
    if depth == 1:
        return [[_shortened(band, placing.length_m)] for band in bands]
    low, high = max(band[1] for band in bands), min(band[3] for band in bands)
    room = (high - low - placing.alley_m * (depth - 1)) / depth
    length = placing.length_m if placing.length_m is not None else room
    if length > room + TOLERANCE_M or length < LEAST_LENGTH_M / 10:
        raise Refusal(
            "does_not_fit",
            field="strip_length",
            label=f"{depth} rows of plots, each",
            value=f"{length:.4g}",
            limit=f"the {high - low:.4g} m that all bands share",
            unit=" m",
            remedy=f"Plots of {max(room, 0):.1f} m would fit.",
        )
    step = length + placing.alley_m
    return [[(band[0], low + row * step, band[2], low + row * step + length) for row in range(depth)] for band in bands]


def _shortened(band: tuple[float, float, float, float], length_m: float | None) -> tuple[float, float, float, float]:
    """The middle ``length_m`` of a band."""
    if length_m is None:
        return band
    spare = (band[3] - band[1] - length_m) / 2
    return (band[0], band[1] + spare, band[2], band[3] - spare)


def _placed(strip: PlannedStrip, cell: tuple[float, float, float, float], placing: Placing) -> PlacedStrip:
    u0, v0, u1, v1 = cell
    margin = (placing.strip_width_m - placing.swath_m) / 2 if placing.swath_m else 0.0
    shape, swath = box(*cell), box(u0 + margin, v0, u1 - margin, v1)
    middle = affinity.rotate(shape.centroid, -placing.heading_deg, origin=(0, 0))
    return PlacedStrip(
        order=strip.order,
        ring=_ring(shape, placing.heading_deg),
        swath=_ring(swath, placing.heading_deg),
        length_m=float(LineString([(u0, v0), (u0, v1)]).length),
        area_m2=float(shape.area),
        centre=(float(middle.x), float(middle.y)),
    )


def _too_many(
    bands: int,
    needed: int,
    plan: Sequence[PlannedStrip],
    placing: Placing,
    result: Sequence[tuple[float, float, float, float]],
) -> Refusal:
    blocks = len({strip.block for strip in plan})
    first = [strip for strip in plan if strip.block == plan[0].block]
    tiers = max(strip.row for strip in plan) // max(strip.row for strip in first)
    room = max(bands - 2 * placing.guards, 0)
    fewer = room // len({strip.column for strip in first}) * tiers
    width = placing.strip_width_m * bands / needed if bands else 0
    ways = []
    if fewer >= 2 and blocks > fewer:
        ways.append(f"{fewer} blocks would fit")
    if placing.guards and bands >= needed - 2 * placing.guards:
        ways.append("it fits without guard strips")
    if width >= 0.5:
        ways.append(f"so would strips of about {math.floor(width * 10) / 10:g} m")
    if placing.length_m is not None and not result:
        ways.append("shorter strips may find room")
    remedy = ("; ".join(ways) + ".").capitalize() if ways else "Try another driving direction or a smaller headland."
    return Refusal(
        "does_not_fit",
        field="strip_width",
        label=f"The layout needs {needed} strips side by side"
        + (f", guards included, of {placing.strip_width_m:g} m:" if placing.guards else f" of {placing.strip_width_m:g} m:"),
        value=f"{needed * placing.strip_width_m:g} m",
        limit=f"this field, where {bands} can be driven",
        remedy=remedy,
    )


def _remarks(
    strips: Sequence[PlacedStrip], bands: Sequence[tuple[float, float, float, float]], placing: Placing
) -> tuple[str, ...]:
    said = []
    lengths = [strip.length_m for strip in strips]
    if max(lengths) > 1.15 * min(lengths):
        said.append(
            f"Strips differ in length, {min(lengths):.0f} to {max(lengths):.0f} m: the short ones tell less. "
            "A common length makes them equal."
        )
    gaps = [right[0] - left[2] for left, right in zip(bands, bands[1:], strict=False)]
    if any(gap > placing.strip_width_m * 0.01 for gap in gaps):
        said.append("Strips jump over an obstacle; the ground between is left to the field's usual crop.")
    return tuple(said)


@dataclass(frozen=True, slots=True, kw_only=True)
class GradientCheck:
    """Share of the gradient's spread among strips that lies inside blocks; ``words`` says what it means."""

    share_within: float | None
    wrong_way: bool
    words: str


def check_gradient(centres: Sequence[tuple[float, float]], blocks: Sequence[int], *, gradient_deg: float) -> GradientCheck:
    """Do blocks lie across the marked gradient? ``gradient_deg``: the way the ground changes, from north.

    The position of every strip's middle along the gradient is split into between and within blocks; blocks
    do their work when little of it is left within.
    """
    angle = math.radians(gradient_deg)
    along = np.array([x * math.sin(angle) + y * math.cos(angle) for x, y in centres])
    total = float(((along - along.mean()) ** 2).sum())
    span = max(math.dist(a, b) for a in centres for b in centres) if len(centres) > 1 else 0.0
    number = np.array(blocks)
    if total <= (0.02 * span) ** 2 * len(centres):
        return GradientCheck(
            share_within=None,
            wrong_way=False,
            words="Every strip runs along the gradient and crosses all of it, so it is nearly the same for all.",
        )
    within = sum(float(((along[number == item] - along[number == item].mean()) ** 2).sum()) for item in np.unique(number))
    share = within / total
    wrong = share > 0.5 or len(np.unique(number)) < 2
    if wrong:
        words = (
            f"Blocks run the wrong way: {100 * share:.0f} % of the gradient lies inside blocks, "
            "where it leans on the comparison. Turn the driving direction, "
            "or lay blocks one behind the other along the gradient."
        )
    else:
        words = f"Blocks lie across the gradient: {100 * (1 - share):.0f} % of it falls between them and out of the comparison."
    return GradientCheck(share_within=share, wrong_way=wrong, words=words)
