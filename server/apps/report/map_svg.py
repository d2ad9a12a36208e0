"""The map of a layout as SVG for print: driving direction to the right, letter and hatch on every strip."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from django.utils.html import format_html, format_html_join
from django.utils.safestring import SafeString, mark_safe

from apps.analysis.power.schemas import MapOut
from apps.trial_state.view import TrialView

Ring = Sequence[Sequence[float]]
# The eight hatches of the interface, drawn as patterns: letter and hatch carry the treatment without colour.
HATCHES = (
    '<path d="M0 7L7 0" stroke="#10181b" stroke-width="0.9"/>',
    '<circle cx="3.5" cy="3.5" r="1.2"/>',
    '<path d="M0 3.5H7" stroke="#10181b" stroke-width="1.2"/>',
    '<path d="M3.5 0V7" stroke="#10181b" stroke-width="1"/>',
    '<path d="M0 0L7 7M7 0L0 7" stroke="#10181b" stroke-width="0.6"/>',
    '<path d="M0 0L7 7" stroke="#10181b" stroke-width="0.9"/>',
    '<path d="M1 3.5H5" stroke="#10181b" stroke-width="1"/>',
    '<path d="M3.5 0V7M0 3.5H7" stroke="#10181b" stroke-width="0.6"/>',
)
MAP_WIDTH, MAP_HEIGHT = 620.0, 460.0


@dataclass(frozen=True, slots=True, kw_only=True)
class _Sheet:
    """Metres across and along the drive to points of the page; the drive runs to the right."""

    left: float
    near: float
    factor: float

    def at(self, across: float, along: float) -> tuple[float, float]:
        return (along - self.near) * self.factor, (across - self.left) * self.factor

    def points(self, ring: Ring) -> str:
        return " ".join("{:.1f},{:.1f}".format(*self.at(across, along)) for across, along in ring)


def map_svg(view: TrialView, result: MapOut) -> SafeString:
    """The map as an SVG element."""
    xs, ys = [x for x, _ in result.boundary], [y for _, y in result.boundary]
    wide, long = max(max(xs) - min(xs), 1), max(max(ys) - min(ys), 1)
    factor = min(MAP_WIDTH / long, MAP_HEIGHT / wide)
    sheet = _Sheet(left=min(xs), near=min(ys), factor=factor)
    width, height = long * factor, wide * factor
    return format_html(
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="-4 -8 {0} {1}" width="{0}" height="{1}" role="img">'
        "<title>Map of the layout</title><defs>{2}</defs>{3}{4}{5}{6}{7}{8}</svg>",
        f"{width + 50:.0f}",
        f"{height + 34:.0f}",
        patterns(),
        _polygons(sheet, result.guards, 'fill="#dfe5e6" stroke="#8a979b"'),
        _strips(view, result, sheet),
        _polygons(sheet, [*result.obstacles, *result.no_go], 'fill="#fff" stroke="#10181b" stroke-dasharray="3 2"'),
        _polygons(sheet, [result.boundary], 'fill="none" stroke="#10181b" stroke-width="1.4"'),
        _north(result, width),
        _scale(result, height, factor),
    )


def patterns() -> SafeString:
    """The hatches as SVG patterns h0 to h7, for a ``defs`` element."""
    rows = (
        f'<pattern id="h{place}" width="7" height="7" patternUnits="userSpaceOnUse">{shape}</pattern>'
        for place, shape in enumerate(HATCHES)
    )
    return mark_safe("".join(rows))  # constants of this module


def _polygons(sheet: _Sheet, rings: Sequence[Ring], look: str) -> SafeString:
    return format_html_join("", '<polygon points="{}" {}/>', [(sheet.points(ring), mark_safe(look)) for ring in rings])


def _strips(view: TrialView, result: MapOut, sheet: _Sheet) -> SafeString:
    treatments = {strip.id: strip.treatment for strip in view.strips}
    rows = []
    for map_strip in result.strips:
        treatment = treatments[map_strip.strip_id]
        thick = (max(px for px, _ in map_strip.ring) - min(px for px, _ in map_strip.ring)) * sheet.factor
        size = max(4.5, min(9.0, thick * 0.85))
        x, y = sheet.at(
            sum(px for px, _ in map_strip.ring) / len(map_strip.ring), sum(py for _, py in map_strip.ring) / len(map_strip.ring)
        )
        rows.append(
            (
                sheet.points(map_strip.ring),
                treatment.position % len(HATCHES),
                f"{x - 1.6 * size:.1f}",
                f"{y - size / 2:.1f}",
                f"{3.2 * size:.1f}",
                f"{size:.1f}",
                f"{x:.1f}",
                f"{y + size * 0.36:.1f}",
                f"{map_strip.order} {treatment.letter}",
            )
        )
    return format_html_join(
        "",
        '<polygon points="{0}" fill="url(#h{1})" stroke="#10181b" stroke-width="0.7"/>'
        '<rect x="{2}" y="{3}" width="{4}" height="{5}" fill="#fff"/>'
        '<text x="{6}" y="{7}" font-size="{5}" font-weight="bold" text-anchor="middle">{8}</text>',
        rows,
    )


def _north(result: MapOut, width: float) -> SafeString:
    if result.north_deg is None:
        return mark_safe("")
    return format_html(
        '<g transform="translate({},34) rotate({})"><path d="M0 12V-12M-4 -5L0 -13L4 -5" fill="none" stroke="#10181b" '
        'stroke-width="1.4"/><text y="-16" font-size="9" text-anchor="middle">N</text></g>',
        f"{width + 22:.0f}",
        f"{result.north_deg + 90:.1f}",
    )


def _scale(result: MapOut, height: float, factor: float) -> SafeString:
    return format_html(
        '<path d="M0 {0}H{1}" stroke="#10181b" stroke-width="2"/><text x="{1}" y="{2}" dx="5" font-size="9">{3}</text>',
        f"{height + 14:.0f}",
        f"{result.scale_m * factor:.1f}",
        f"{height + 17:.0f}",
        result.scale,
    )
