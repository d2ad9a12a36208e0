"""Strips on the ground against outside tools: pyproj's geodesic, Monte-Carlo points, and exact rectangles."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from apps.geography import frames
from cultrix_core.design.geometry import (
    Ground,
    Placed,
    Placing,
    Ring,
    check_gradient,
    longest_side_heading,
    place_strips,
    polygon_of,
    repaired,
)
from cultrix_core.design.randomise import Cell, PlannedStrip, in_tiers, lay_out
from cultrix_core.design.widths import WorkingMachine, passes_at, strip_widths
from cultrix_core.errors import Refusal
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from pyproj import Geod
from shapely.geometry import Polygon

IRREGULAR: Ring = ((0, 0), (200, 20), (210, 420), (120, 470), (-10, 400))
NOTCHED: Ring = ((0, 0), (200, 0), (200, 400), (110, 400), (110, 250), (90, 250), (90, 400), (0, 400))


def plan(treatments: int = 3, blocks: int = 3, tiers: int = 1) -> tuple[PlannedStrip, ...]:
    cells = [Cell(name=f"t{number}") for number in range(treatments)]
    return in_tiers(lay_out("rcbd", cells, blocks=blocks, seed=5).strips, tiers)


def placed(ring: Ring, **more: float) -> Placed:
    placing = Placing(**({"heading_deg": 0.0, "strip_width_m": 6.0} | more))  # type: ignore[arg-type]
    return place_strips(Ground(boundary=ring), plan(), placing)


@pytest.mark.slow
@given(
    st.lists(st.floats(0.6, 1.4), min_size=6, max_size=14),
    st.floats(0, 360),
    st.floats(3, 12),
    st.floats(0, 25),
    st.integers(0, 2),
)
@settings(max_examples=60)
def test_strips_lie_inside_the_field_and_apart(
    radii: list[float], heading: float, width: float, headland: float, guards: int
) -> None:
    angles = np.linspace(0, 2 * np.pi, len(radii), endpoint=False)
    ring = tuple((float(190 * r * np.cos(a)), float(260 * r * np.sin(a))) for r, a in zip(radii, angles, strict=True))
    placing = Placing(heading_deg=heading, strip_width_m=width, headland_m=headland, guards=guards, swath_m=width * 0.9)
    try:
        result = place_strips(Ground(boundary=ring), plan(), placing)
    except Refusal as refused:
        assume(refused.code != "does_not_fit")  # anything else is a fault
        raise
    field = polygon_of(ring).buffer(1e-6)
    strips = [Polygon(strip.ring) for strip in result.strips]
    for strip, shape in zip(result.strips, strips, strict=True):
        assert field.contains(shape)
        assert shape.contains(Polygon(strip.swath).buffer(-1e-6))
        assert shape.area == pytest.approx(strip.area_m2) == pytest.approx(strip.length_m * width)
    every = [*strips, *(Polygon(ring) for ring in result.guards)]
    for number, polygon in enumerate(every):
        for other in every[number + 1 :]:
            assert polygon.intersection(other).area < 1e-4
    assert len(result.guards) == 2 * guards


@pytest.mark.parametrize("ring", [IRREGULAR, NOTCHED])
def test_by_points_thrown_at_random(ring: Ring) -> None:
    """Monte-Carlo: no point of a strip, nor of a stretch one headland beyond its ends, lies outside the field."""
    result = placed(ring, headland_m=10, heading_deg=20)
    draw = np.random.default_rng(3)
    field, along = polygon_of(ring), np.array([math.sin(math.radians(20)), math.cos(math.radians(20))])
    for strip in result.strips:
        a, b, _, d = (np.array(point) for point in strip.ring)
        points = a + draw.uniform(0, 1, (400, 1)) * (b - a) + draw.uniform(0, 1, (400, 1)) * (d - a)
        for shift in (-9.99, 0, 9.99):
            moved = points + shift * along
            # inward a millimetre of rounding
            assert shapely.contains_xy(field.buffer(1e-3), moved[:, 0], moved[:, 1]).all()


def test_lengths_and_areas_on_the_globe() -> None:
    """The frame's metres against the geodesic on the WGS 84 ellipsoid (pyproj.Geod)."""
    geod = Geod(ellps="WGS84")
    outline = Polygon([(-28.4, 46.5), (-28.3938, 46.5002), (-28.394, 46.5042), (-28.4004, 46.5039)])
    frame = frames.frame_of(outline)
    ring = frames.to_metres(list(outline.exterior.coords)[:-1], frame)
    area, _ = geod.geometry_area_perimeter(shapely.orient_polygons(outline))
    assert polygon_of(ring).area == pytest.approx(area, rel=1e-5)
    result = place_strips(Ground(boundary=ring), plan(), Placing(heading_deg=3.0, strip_width_m=12, headland_m=15))
    for strip in result.strips:
        lonlat = frames.to_degrees(strip.ring, frame)
        sides = [geod.inv(*lonlat[k], *lonlat[k + 1])[2] for k in range(4)]
        assert max(sides) == pytest.approx(strip.length_m, rel=1e-5)
        assert min(sides) == pytest.approx(12, rel=1e-5)
        true_area, _ = geod.geometry_area_perimeter(shapely.orient_polygons(Polygon(lonlat)))
        assert true_area == pytest.approx(strip.area_m2, rel=2e-5)
        back = frames.to_metres(lonlat[:-1], frame)
        assert np.allclose(back, strip.ring, atol=1e-3)


def test_a_plain_rectangle_is_exact() -> None:
    result = placed(((0, 0), (100, 0), (100, 400), (0, 400)), headland_m=20, guards=1)
    assert {round(strip.length_m, 9) for strip in result.strips} == {360.0}
    assert result.bands == 16, "100 m hold sixteen strips of 6 m"
    first = min(x for strip in result.strips for x, _ in strip.ring)
    assert first == pytest.approx(6), "one guard to the left"


def test_an_obstacle_is_jumped_and_a_no_go_area_cut_out() -> None:
    ring = ((0, 0), (100, 0), (100, 400), (0, 400))
    mast = ((14, 200), (16, 200), (16, 202), (14, 202))
    jumped = place_strips(
        Ground(boundary=ring, obstacles=(mast,)), plan(), Placing(heading_deg=0, strip_width_m=6, side_m=0.001)
    )
    assert all(not Polygon(strip.ring).intersects(Polygon(mast)) for strip in jumped.strips)
    assert any("jump" in text for text in jumped.remarks)
    pond = ((0, 300), (100, 300), (100, 400), (0, 400))
    short = place_strips(Ground(boundary=ring, no_go=(pond,)), plan(), Placing(heading_deg=0, strip_width_m=6))
    assert {round(strip.length_m) for strip in short.strips} == {300}


def test_rows_of_plots_line_up() -> None:
    cells = plan(3, 4, tiers=2)
    result = place_strips(
        Ground(boundary=((0, 0), (30, 0), (30, 22), (0, 22))), cells, Placing(heading_deg=0, strip_width_m=3, alley_m=2)
    )
    assert {round(strip.length_m, 6) for strip in result.strips} == {10.0}, "two rows of plots and an alley of 2 m in 22 m"


@given(st.floats(0, 179), st.floats(30, 90), st.floats(100, 500))
def test_the_longest_side(heading: float, width: float, length: float) -> None:
    turn = math.radians(heading)
    corners = [(0, 0), (width, 0), (width, length), (0, length)]
    ring = tuple((x * math.cos(turn) + y * math.sin(turn), -x * math.sin(turn) + y * math.cos(turn)) for x, y in corners)
    apart = abs(longest_side_heading(ring) - heading) % 180
    assert min(apart, 180 - apart) < 1e-4


@pytest.mark.parametrize(
    ("ring", "said"),
    [
        (((0, 0), (10, 10), (10, 0), (0, 10)), "self-intersection"),
        (((0, 0), (1, 1)), "fewer than three"),
        (((0, 0), (1, 0), (float("nan"), 1)), "not a number"),
        (((0, 0), (0.1, 0), (0, 0.1)), "area"),
    ],
)
def test_outlines_that_cannot_be(ring: Ring, said: str) -> None:
    with pytest.raises(Refusal, match=said) as refused:
        polygon_of(ring)
    assert refused.value.code == "bad_geometry"


def test_mending_says_what_it_did() -> None:
    bow = Polygon([(0, 0), (10, 10), (10, 0), (0, 12)])
    mended, sentences = repaired(bow)
    assert mended.is_valid
    assert "mended" in sentences[0]
    assert "largest was kept" in sentences[1]


def test_what_would_fit_is_named() -> None:
    with pytest.raises(Refusal) as refused:
        place_strips(Ground(boundary=IRREGULAR), plan(4, 6), Placing(heading_deg=0, strip_width_m=18, guards=1))
    message = str(refused.value)
    assert "26 strips" in message
    assert "2 blocks would fit" in message
    fits = place_strips(Ground(boundary=IRREGULAR), plan(4, 2), Placing(heading_deg=0, strip_width_m=18, guards=1))
    assert len(fits.strips) == 8


def test_blocks_along_the_gradient_are_told() -> None:
    ring = ((0, 0), (200, 0), (200, 400), (0, 400))
    across = place_strips(Ground(boundary=ring), plan(4, 4), Placing(heading_deg=0, strip_width_m=6))
    blocks = [strip.block for strip in plan(4, 4)]
    centres = [strip.centre for strip in across.strips]
    assert not check_gradient(centres, blocks, gradient_deg=90).wrong_way
    assert check_gradient(centres, blocks, gradient_deg=0).share_within is None, "every strip crosses all of it"
    # four tiers of one block: each block spans the whole gradient
    tiered = plan(4, 4, tiers=4)
    stacked = place_strips(Ground(boundary=ring), tiered, Placing(heading_deg=0, strip_width_m=6))
    wrong = check_gradient([strip.centre for strip in stacked.strips], [strip.block for strip in tiered], gradient_deg=90)
    assert wrong.wrong_way
    assert wrong.share_within == pytest.approx(1)
    assert "wrong way" in wrong.words


DRILL, TILL, HEADER = (
    WorkingMachine(name="drill", kind="planter", width_m=3.0),
    WorkingMachine(name="bar", kind="tillage", width_m=4.5),
    WorkingMachine(name="header", kind="harvester", width_m=5.4),
)


def test_widths_hold_whole_passes() -> None:
    widths = strip_widths([DRILL, TILL, HEADER])
    assert [option.width_m for option in widths.options] == [9, 18, 27, 36], (
        "multiples of the least common multiple of 3 and 4.5"
    )
    first = widths.options[0]
    assert dict(first.passes) == {"drill": 3, "bar": 2}
    assert (first.swath_passes, first.swath_m, first.border_m) == (1, 5.4, pytest.approx(1.8))
    assert passes_at(18, [DRILL, TILL, HEADER]).swath_passes == 3


def test_widths_that_never_meet_are_explained() -> None:
    odd = WorkingMachine(name="odd bar", kind="tillage", width_m=math.pi)
    widths = strip_widths([WorkingMachine(name="wide drill", kind="planter", width_m=36.0), odd])
    assert widths.options == ()
    assert "No width fits" in widths.explanation
    assert "Nearest" in widths.explanation
    with pytest.raises(Refusal, match="9 m or 18 m"):
        passes_at(10, [DRILL, TILL])


@given(st.floats(0, 359), st.integers(1, 3), st.floats(0, 20))
@settings(max_examples=30)
def test_turning_field_and_heading_together_changes_nothing(turn: float, guards: int, headland: float) -> None:
    angle = math.radians(turn)
    turned = tuple(
        (x * math.cos(angle) + y * math.sin(angle), -x * math.sin(angle) + y * math.cos(angle)) for x, y in IRREGULAR
    )
    item = placed(IRREGULAR, headland_m=headland, guards=guards)
    other = placed(turned, headland_m=headland, guards=guards, heading_deg=turn)
    assert other.bands == item.bands
    assert [strip.length_m for strip in other.strips] == pytest.approx([strip.length_m for strip in item.strips], abs=1e-3)
    for mine, theirs in zip(item.strips, other.strips, strict=True):
        x, y = mine.centre
        assert theirs.centre == pytest.approx(
            (x * math.cos(angle) + y * math.sin(angle), -x * math.sin(angle) + y * math.cos(angle)), abs=1e-2
        )


@pytest.mark.slow
@given(st.floats(0.1, 40))
def test_a_deeper_headland_shortens_every_strip_by_twice_as_much(headland: float) -> None:
    ring = ((0, 0), (100, 0), (100, 400), (0, 400))
    without, with_it = placed(ring), placed(ring, headland_m=headland)
    for mine, theirs in zip(without.strips, with_it.strips, strict=True):
        assert mine.length_m - theirs.length_m == pytest.approx(2 * headland, abs=1e-6)


def test_a_common_length_is_taken_from_the_middle() -> None:
    full, cut = placed(IRREGULAR, headland_m=10), placed(IRREGULAR, headland_m=10, length_m=200)
    assert {round(strip.length_m, 6) for strip in cut.strips} == {200.0}
    assert cut.longest_m >= 200
    assert full.longest_m == pytest.approx(min(strip.length_m for strip in full.strips))
    assert any("differ in length" in text for text in full.remarks) == (
        max(strip.length_m for strip in full.strips) > 1.15 * full.longest_m
    )


def test_the_best_run_of_bands_is_taken_unless_a_side_is_kept_free() -> None:
    wedge: Ring = ((0, 0), (200, 0), (200, 400), (150, 400), (0, 100))
    best = placed(wedge)
    assert best.longest_m == pytest.approx(400, abs=30)
    left = placed(wedge, side_m=5)
    assert left.longest_m < best.longest_m
    assert min(x for strip in left.strips for x, _ in strip.ring) == pytest.approx(5, abs=1)


@pytest.mark.parametrize(
    ("change", "code", "field"),
    [
        ({"strip_width_m": 0.0}, "not_positive", "strip_width"),
        ({"headland_m": -1.0}, "too_small", "headland"),
        ({"guards": 99}, "too_large", "guards"),
        ({"alley_m": 500.0}, "too_large", "alley"),
        ({"length_m": 0.0}, "not_positive", "strip_length"),
        ({"swath_m": 7.0}, "does_not_fit", "swath"),
        ({"length_m": 900.0}, "does_not_fit", "strip_width"),
        ({"headland_m": 300.0}, "does_not_fit", "strip_width"),
    ],
)
def test_placing_that_cannot_be(change: dict[str, float], code: str, field: str) -> None:
    with pytest.raises(Refusal) as refused:
        placed(IRREGULAR, **change)
    assert (refused.value.code, refused.value.field) == (code, field)


@given(st.lists(st.integers(2, 24), min_size=1, max_size=3, unique=True))
def test_options_hold_whole_passes_of_all(halves: list[int]) -> None:
    machines = [WorkingMachine(name=f"m{size}", kind="planter", width_m=size / 2) for size in halves]
    widths = strip_widths(machines)
    step = math.lcm(*halves) / 2
    assert [option.width_m for option in widths.options] == pytest.approx(
        [step * times for times in range(1, 5) if step * times <= 80]
    )
    for option in widths.options:
        for machine, (name, times) in zip(machines, option.passes, strict=True):
            assert name == machine.name
            assert times * machine.width_m == pytest.approx(option.width_m)
