"""The ribbon for print: strips in field order in their proportions, hatch and letter, block brackets, a column of yield."""

from __future__ import annotations

from django.utils.html import format_html, format_html_join
from django.utils.safestring import SafeString

from apps.report.map_svg import HATCHES, patterns
from apps.trial_state.view import TrialView
from apps.trials.models import Strip

WIDTH, HEIGHT, TOP = 680.0, 92.0, 16.0
FLOOR = 0.25  # of the height: the lowest yield still shows a column


def ribbon_svg(view: TrialView) -> SafeString:
    """The ribbon as an SVG element; lost strips are crossed out."""
    strips = view.strips
    widths = [strip.width.value or 1.0 for strip in strips]
    scale = WIDTH / sum(widths)
    edges = [0.0]
    for width in widths:
        edges.append(edges[-1] + width * scale)
    yields = {strip.id: view.records[strip.id].yield_kg_per_ha for strip in strips if not strip.lost}
    known = [value for value in yields.values() if value is not None]
    low, span = (min(known), (max(known) - min(known)) or 1.0) if known else (0.0, 1.0)
    rows = [
        _strip(strip, edges[place], edges[place + 1], yields.get(strip.id), low, span) for place, strip in enumerate(strips)
    ]
    return format_html(
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="-1 0 {0} {1}" width="100%" role="img"><title>Ribbon of the strips'
        "</title><defs>{2}</defs>{3}{4}</svg>",
        f"{WIDTH + 2:.0f}",
        f"{TOP + HEIGHT + 2:.0f}",
        patterns(),
        _brackets(strips, edges),
        format_html_join("", "{}", [(row,) for row in rows]),
    )


def _strip(strip: Strip, left: float, right: float, yield_: float | None, low: float, span: float) -> SafeString:
    width, middle = right - left, (left + right) / 2
    height = 0.0 if yield_ is None else (FLOOR + (1 - FLOOR) * (yield_ - low) / span) * (HEIGHT - 2)
    bottom = TOP + HEIGHT
    size = min(11.0, width * 0.6)
    cross = (
        format_html(
            '<path d="M{0} {1}L{2} {3}M{2} {1}L{0} {3}" stroke="#10181b" stroke-width="1"/>',
            f"{left:.1f}",
            f"{TOP:.1f}",
            f"{right:.1f}",
            f"{bottom:.1f}",
        )
        if strip.lost
        else ""
    )
    return format_html(
        '<rect x="{0}" y="{1}" width="{2}" height="{3}" fill="#fff" stroke="#10181b" stroke-width="0.8"/>'
        '<rect x="{0}" y="{4}" width="{2}" height="{5}" fill="url(#h{6})" stroke="#10181b" stroke-width="0.8"/>'
        '<rect x="{7}" y="{8}" width="{9}" height="{10}" fill="#fff" stroke="#10181b" stroke-width="0.5"/>'
        '<text x="{11}" y="{12}" font-size="{13}" font-weight="bold" text-anchor="middle">{14}</text>'
        '<rect x="{20}" y="{21}" width="{18}" height="8" fill="#fff"/><text x="{15}" y="{16}" font-size="7">{17}</text>{19}',
        f"{left:.1f}",
        f"{TOP:.1f}",
        f"{width:.1f}",
        f"{HEIGHT:.1f}",
        f"{bottom - height:.1f}",
        f"{height:.1f}",
        strip.received.position % len(HATCHES),
        f"{middle - size * 0.7:.1f}",
        f"{TOP + 26:.1f}",
        f"{size * 1.4:.1f}",
        f"{size * 1.4:.1f}",
        f"{middle:.1f}",
        f"{TOP + 26 + size * 1.08:.1f}",
        f"{size:.1f}",
        strip.received.letter,
        f"{left + 2:.1f}",
        f"{TOP + 8:.1f}",
        strip.order,
        f"{min(width, 4 + 4.6 * len(str(strip.order))):.1f}",
        cross,
        f"{left + 0.5:.1f}",
        f"{TOP + 0.5:.1f}",
    )


def _brackets(strips: tuple[Strip, ...], edges: list[float]) -> SafeString:
    blocks: dict[int, list[int]] = {}
    for place, strip in enumerate(strips):
        blocks.setdefault(strip.block.number, []).append(place)
    rows = [
        (f"{edges[own[0]] + 2:.1f}", f"{edges[own[-1] + 1] - 2:.1f}", f"{(edges[own[0]] + edges[own[-1] + 1]) / 2:.1f}", number)
        for number, own in blocks.items()
        if own == list(range(own[0], own[-1] + 1))
    ]
    return format_html_join(
        "",
        '<path d="M{0} 14V10H{1}V14" fill="none" stroke="#10181b"/>'
        '<text x="{2}" y="7.5" font-size="7.5" text-anchor="middle">Block {3}</text>',
        rows,
    )
