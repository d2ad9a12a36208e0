"""Differences with their intervals for print, drawn from the verdict's own numbers."""

from __future__ import annotations

from django.utils.html import format_html, format_html_join
from django.utils.safestring import SafeString, mark_safe

from apps.analysis.verdict.schemas import AnalysisOut, DifferenceOut

LEFT, WIDTH, RIGHT, ROW = 190.0, 680.0, 200.0, 22.0


def differences_svg(analysis: AnalysisOut) -> SafeString:
    """One row for each difference: point, interval, nought, and the difference that matters where there is one."""
    rows = [difference for difference in analysis.differences if difference.lower is not None and difference.upper is not None]
    if not rows:
        return mark_safe("")
    ends = [0.0, *(value.value for row in rows for value in (row.lower, row.upper) if value is not None)]
    low, high = min(ends), max(ends)
    room = (high - low) * 0.05 or 1.0

    def x(value: float) -> float:
        return LEFT + (value - low + room) / (high - low + 2 * room) * (WIDTH - LEFT - RIGHT)

    bottom = len(rows) * ROW + 6
    return format_html(
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {0} {1}" width="100%" role="img"><title>Differences with '
        'intervals</title>{2}<path d="M{3} 2V{4}" stroke="#10181b" stroke-width="1.2"/>'
        '<text x="{3}" y="{5}" font-size="8" text-anchor="middle">0</text></svg>',
        f"{WIDTH:.0f}",
        f"{bottom + 14:.0f}",
        format_html_join("", "{}", [(_row(difference, place, x),) for place, difference in enumerate(rows)]),
        f"{x(0):.1f}",
        f"{bottom:.1f}",
        f"{bottom + 10:.1f}",
    )


def _row(difference: DifferenceOut, place: int, x: object) -> SafeString:
    at = x  # the scale of this plot
    assert callable(at)
    assert difference.lower is not None
    assert difference.upper is not None
    y = place * ROW + ROW / 2 + 2
    inside = f" at {difference.within}" if difference.within else ""
    return format_html(
        '<text x="{0}" y="{1}" font-size="9" text-anchor="end">{2} against {3}{4}</text>'
        '<path d="M{5} {6}v8m0 -4H{7}m0 -4v8" stroke="#10181b" stroke-width="1.4" fill="none"/>'
        '<circle cx="{8}" cy="{9}" r="3.2"/><text x="{10}" y="{1}" font-size="9">{11}, {12}</text>',
        f"{LEFT - 8:.1f}",
        f"{y + 3:.1f}",
        difference.letter,
        difference.against,
        inside,
        f"{at(difference.lower.value):.1f}",
        f"{y - 4:.1f}",
        f"{at(difference.upper.value):.1f}",
        f"{at(difference.estimate.value):.1f}",
        f"{y:.1f}",
        f"{WIDTH - RIGHT + 8:.1f}",
        difference.estimate.text,
        difference.call_words,
    )
