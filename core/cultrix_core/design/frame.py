"""Words for directions, so that a heading of 178.6° is read as what it is in the field."""

from __future__ import annotations

POINTS = ("north", "north-east", "east", "south-east", "south", "south-west", "west", "north-west")


def compass(heading_deg: float) -> str:
    """The nearest of eight points of the compass."""
    return POINTS[round((heading_deg % 360) / 45) % 8]
