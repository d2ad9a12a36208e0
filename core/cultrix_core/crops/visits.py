"""The visits that crops share: counts of emergence, tape, measures, yield samples. Common practice, no source."""

from __future__ import annotations

from cultrix_core.crops.profile import Visit


def emergence_counts(half: float, half_days: int, full: float, full_days: int) -> tuple[Visit, Visit]:
    """A count under way and one of the complete stand, each by heat units (°C·days) and by days where no weather is known."""
    return (
        Visit(
            key="first_count",
            task="count",
            what="First count: emergence under way",
            heat=half,
            days=half_days,
            why="Half emergence can only be told from a count before the stand is complete.",
        ),
        Visit(
            key="full_count",
            task="count",
            what="Full count: the stand is complete",
            heat=full,
            days=full_days,
            why="Later, tillers and branches hide plants, and thinning begins.",
        ),
    )


def tape(heat: float, days: int) -> Visit:
    """A tape run along the row."""
    return Visit(
        key="tape",
        task="tape",
        what="Tape run: spacing along the row",
        heat=heat,
        days=days,
        why="Doubles and skips are told apart while plants are small.",
    )


def canopy(heat: float, days: int) -> Visit:
    """Ground covered."""
    return Visit(
        key="canopy",
        task="measure",
        what="Ground covered",
        heat=heat,
        days=days,
        why="Rows that close earlier shade weeds; after closing there is nothing left to see.",
        trait="canopy",
    )


def flowering(heat: float, days: int) -> Visit:
    """Plants in flower."""
    return Visit(
        key="flowering",
        task="measure",
        what="Plants in flower",
        heat=heat,
        days=days,
        why="Evenness of flowering tells of even depth and water.",
        trait="flowering",
    )


def lodging(heat: float, days: int) -> Visit:
    """Lodging before harvest."""
    return Visit(
        key="lodging",
        task="measure",
        what="Lodging before harvest",
        heat=heat,
        days=days,
        why="Before the first storm after ripening; the harvester lifts what lies.",
        trait="lodged",
    )


def yield_sample(
    heat: float | None,
    days: int,
    why: str = "Seeds are set and can be counted; their weight still comes. Samples now teach how estimates err here.",
) -> Visit:
    """Samples of the yield before harvest."""
    return Visit(key="estimate", task="yield", what="Sample yield: what will it make?", heat=heat, days=days, why=why)


AFTER_WINTER = Visit(
    key="spring_count",
    task="count",
    what="Count after winter",
    heat=None,
    days=165,
    why="What winter took is only known from the same strips counted before and after.",
)
CROWNS = Visit(
    key="crowns",
    task="dig",
    what="Dig plants: crowns and roots",
    heat=None,
    days=190,
    why="Before winter only a formed crown counts; in spring firm and white is alive.",
)
