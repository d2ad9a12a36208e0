"""A thin perennial forage stand: by plants, by shoots, by its age; and what to sow into it, by date.

Two schools. Plants per area: under the line of its age a stand is thin; young and thin it is thickened with a perennial
grass (its own seedlings would not come up through it: old plants poison young ones), old and thin it is rotated out or
bridged with an annual. Shoots per area: crowns make up for lost neighbours, so shoots tell what it can still yield.
Where the schools differ both are shown; shoots speak for this year, plants for how long it will last, and the action is what
the sentence says: no stand of enough plants is ploughed for weak shoots before it is known why.

What to sow by date: windows by soil temperature and month, written for the northern hemisphere and moved by half a year
for the southern. All common practice, no source.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from typing import Literal

from cultrix_core.errors import Refusal, require_between
from cultrix_core.stand.thresholds import Threshold
from cultrix_core.unit_formatting import UnitFormatter

YOUNG_YEARS = 1.5  # up to the end of the year after sowing: common practice, no source
Action = Literal["keep", "thicken", "rotate", "look"]
ACTIONS: dict[Action, str] = {
    "keep": "Keep it",
    "thicken": "Thicken it with a perennial grass",
    "rotate": "Rotate out, or bridge the gap with an annual",
    "look": "Look first for what holds the shoots back",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class School:
    """What one way of judging says and the line it used."""

    name: str
    says: Action | None
    words: str
    source: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ForageDecision:
    """Both schools and the action; ``agree`` None when only one could be asked."""

    action: Action
    agree: bool | None
    words: str
    schools: tuple[School, ...]


def judge_forage(
    *,
    plants_per_m2: float,
    shoots_per_m2: float | None,
    age_years: float,
    lines: Mapping[str, Threshold],
    show: UnitFormatter,
    short_of_feed: bool = False,
) -> ForageDecision:
    """Judge a forage stand by plants and, where counted, by shoots.

    Raises
    ------
    Refusal : ``missing`` without thresholds for the crop, limits of age and stand.
    """
    if "old_thin" not in lines:
        raise Refusal(
            "missing", field="crop", label="A threshold", remedy="This crop has no forage thresholds; set them first."
        )
    require_between(plants_per_m2, 0, 1e4, "plants", label="Plants")
    require_between(age_years, 0, 30, "age", label="Age of the stand", unit=" years")
    young = age_years <= YOUNG_YEARS
    line = lines["young_thin" if young else "old_thin"]
    thin = plants_per_m2 < line.per_m2
    stand = show.text(plants_per_m2, "density")
    thin_action: Action = "thicken" if young else "rotate"
    schools = [
        School(
            name="By plants",
            says=thin_action if thin else "keep",
            words=f"{stand} is {'under' if thin else 'not under'} {show.text(line.per_m2, 'density')} "
            f"for a {'young' if young else 'grown'} stand",
            source=line.source,
        )
    ]
    if shoots_per_m2 is not None:
        schools.append(_by_shoots(shoots_per_m2, lines, thin_action, show))
    shoots = schools[1].says if len(schools) > 1 else None
    agree = None if len(schools) == 1 else (schools[0].says == "keep") == (shoots == "keep")
    action = schools[0].says or "keep"
    words = ACTIONS[action]
    if agree is False:
        action = "keep" if short_of_feed or shoots == "keep" else "look"
        words = (
            "The schools differ: enough shoots for this year, too few plants to last. Take this year's cuts, plan its end."
            if shoots == "keep"
            else "The schools differ: plants enough, but weak ones. Look for what holds the shoots back before ploughing."
        )
    elif thin and short_of_feed:
        words = f"{ACTIONS[action]}; short of feed, take the next cut first"
    return ForageDecision(action=action, agree=agree, words=words, schools=tuple(schools))


def _by_shoots(shoots: float, lines: Mapping[str, Threshold], thin: Action, show: UnitFormatter) -> School:
    full, low = lines["shoots_full"], lines["shoots_thin"]
    text = show.text(shoots, "density")
    if shoots > full.per_m2:
        return School(name="By shoots", says="keep", words=f"{text}: the stand does not limit the yield", source=full.source)
    if shoots >= low.per_m2:
        return School(
            name="By shoots",
            says="keep",
            words=f"{text}: some loss, between {show.text(low.per_m2, 'density')} and {show.text(full.per_m2, 'density')}",
            source=low.source,
        )
    return School(name="By shoots", says=thin, words=f"{text} is under {show.text(low.per_m2, 'density')}", source=low.source)


@dataclass(frozen=True, slots=True, kw_only=True)
class Bridge:
    """Something to sow into or after a thin stand within a window of days of the year (north)."""

    name: str
    first: tuple[int, int]
    last: tuple[int, int]
    why: str
    caution: str = ""


_GRAZE = "Introduce stock slowly; mind nitrate after drought and prussic acid after frost."
BRIDGES: tuple[Bridge, ...] = (
    Bridge(name="Oats with forage pea", first=(3, 1), last=(4, 30), why="cool soil, early cut, gone by midsummer"),
    Bridge(
        name="Perennial grass (orchard grass, ryegrass, fescue) drilled in",
        first=(3, 1),
        last=(4, 25),
        why="thickens a young stand before the sward closes",
    ),
    Bridge(
        name="Sorghum–sudangrass or millet",
        first=(5, 20),
        last=(7, 10),
        why="warm soil of {temperature 15} and more, most feed in a hot summer",
        caution=_GRAZE,
    ),
    Bridge(
        name="Brassica forage (turnip, rape)", first=(7, 1), last=(8, 15), why="autumn grazing in ten weeks", caution=_GRAZE
    ),
    Bridge(
        name="Perennial grass drilled in after the last cut",
        first=(8, 10),
        last=(9, 10),
        why="rain and warm soil, six weeks before hard frost",
    ),
    Bridge(name="Winter rye or triticale", first=(9, 1), last=(10, 20), why="ground cover and the first feed of spring"),
)


MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")


def window_words(bridge: Bridge, *, southern: bool = False) -> str:
    """The window of a bridge, such as “1 Mar to 30 Apr”."""
    shift = 6 if southern else 0
    first, last = (f"{day} {MONTHS[(month - 1 + shift) % 12]}" for month, day in (bridge.first, bridge.last))
    return f"{first} to {last}"


def sow_by_date(on: date, *, southern: bool = False) -> tuple[Bridge, ...]:
    """What may be sown on a day; empty in the dead season."""
    month = (on.month + 5) % 12 + 1 if southern else on.month
    today = (month, on.day)
    return tuple(bridge for bridge in BRIDGES if bridge.first <= today <= bridge.last)


CAUTIONS = (
    "Before replanting or interseeding: plant-back intervals and grazing limits on the labels of everything sprayed, "
    "and the insurer's release. The label and local advice outrank this page.",
)
