"""The pass card: what the driver does, pass by pass, and what must be in the hopper.

Strips are driven up and back by turns. “As laid” takes them in field order; “fewest changes” takes all strips of
one setting before the next, sweeping across the field there and back, which saves settings and costs empty
travel. The order of driving never touches which strip gets what: that was drawn.

Seed needed = area × seeds per area × thousand-seed weight ÷ 1000, plus a reserve for filling, turning and the
last metres in the hopper.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

from cultrix_core.errors import require_between, require_positive

Driving = Literal["as_laid", "fewest_changes"]


@dataclass(frozen=True, slots=True, kw_only=True)
class StripToDrive:
    """A strip with its place and the setting its treatment asks for."""

    order: int
    column: int
    row: int
    treatment: str
    setting: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Pass:
    """One pass: number from 1, strip, which of the strip's passes, direction, whether the setting changes before it."""

    number: int
    strip: int
    pass_in_strip: int
    direction: Literal["up", "back"]
    treatment: str
    setting: str
    change: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class PassCard:
    """Passes in driving order; changes of setting after the first; metres driven across without work."""

    passes: tuple[Pass, ...]
    changes: int
    across_m: float


def pass_card(
    strips: Sequence[StripToDrive], *, passes_a_strip: int, strip_width_m: float, driving: Driving = "as_laid"
) -> PassCard:
    """Passes of one machine over all strips.

    Plots in several rows of one column are driven in one pass along the column.

    Raises
    ------
    Refusal : ``too_small`` passes, ``not_positive`` width.
    """
    require_between(passes_a_strip, 1, 50, "passes", label="Passes in a strip")
    require_positive(strip_width_m, "strip_width", unit=" m")
    passes: list[Pass] = []
    last = ""
    up = True
    visits = _visits(strips, driving, passes_a_strip)
    for number, (column, which) in enumerate(visits, start=1):
        along = sorted(column, key=lambda strip: strip.row, reverse=not up)
        for strip in along:
            passes.append(
                Pass(
                    number=number,
                    strip=strip.order,
                    pass_in_strip=which,
                    direction="up" if up else "back",
                    treatment=strip.treatment,
                    setting=strip.setting,
                    change=bool(last) and strip.setting != last,
                )
            )
            last = strip.setting
        up = not up
    columns = [column[0].column for column, _ in visits]
    across = sum(max(abs(b - a) - 1, 0) * strip_width_m for a, b in pairwise(columns))
    return PassCard(passes=tuple(passes), changes=sum(drive.change for drive in passes), across_m=across)


def _visits(strips: Sequence[StripToDrive], driving: Driving, passes_a_strip: int) -> list[tuple[list[StripToDrive], int]]:
    columns: dict[int, list[StripToDrive]] = {}
    for strip in sorted(strips, key=lambda strip: (strip.column, strip.row)):
        columns.setdefault(strip.column, []).append(strip)
    ordered = list(columns.values())
    if driving == "fewest_changes":
        by_setting: dict[tuple[str, ...], list[list[StripToDrive]]] = {}
        for column in ordered:
            by_setting.setdefault(tuple(strip.setting for strip in column), []).append(column)
        ordered = []
        for place, group in enumerate(by_setting.values()):
            ordered += group if place % 2 == 0 else group[::-1]
    return [(column, which) for column in ordered for which in range(1, passes_a_strip + 1)]


@dataclass(frozen=True, slots=True, kw_only=True)
class SeedNeed:
    """Seed for one treatment: area in m², seeds, and kg where the seed weight is known."""

    treatment: str
    area_m2: float
    seeds: float
    kg: float | None


def seed_needed(
    areas_m2: Mapping[str, float],
    seeds_per_m2: Mapping[str, float],
    *,
    thousand_seed_weights_g: Mapping[str, float | None],
    reserve_pct: float,
) -> tuple[SeedNeed, ...]:
    """Seed for every treatment with a known rate, the reserve included; weights in g by treatment, of its own lot.

    Raises
    ------
    Refusal : ``too_small``, ``too_large`` reserve, ``not_positive`` weight.
    """
    require_between(reserve_pct, 0, 100, "reserve", label="Reserve", unit=" %")
    for weight in thousand_seed_weights_g.values():
        if weight is not None:
            require_positive(weight, "thousand_seed_weight", unit=" g")
    needs = []
    for treatment, area in areas_m2.items():
        rate = seeds_per_m2.get(treatment)
        if rate is None:
            continue
        seeds = area * rate * (1 + reserve_pct / 100)
        weight = thousand_seed_weights_g.get(treatment)
        kg = None if weight is None else seeds * weight / 1e6
        needs.append(SeedNeed(treatment=treatment, area_m2=area, seeds=seeds, kg=kg))
    return tuple(needs)
