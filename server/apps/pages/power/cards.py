"""The pass card, the seed list, the stakes, and the map of a layout."""

from __future__ import annotations

import math
from uuid import UUID

from cultrix_core.design.pass_card import Driving, PassCard, StripToDrive, pass_card, seed_needed
from cultrix_core.errors import Refusal
from cultrix_core.seeding.rates import Lot
from cultrix_core.unit_formatting import format_number
from shapely import affinity
from shapely.geometry import Polygon

from apps.analysis.power.schemas import MapOut, MapStripOut, PassCardOut, PassOut, SeedOut, StakeOut
from apps.geography import frames
from apps.trial_state.view import TrialView
from apps.trials.layout import machines_of
from apps.trials.models import Strip, Treatment
from apps.trials.naming import level_name, treatment_name

CAUTIONS = (
    "Stop the engine and wait until all parts stand still before clearing a row unit, an opener or a header.",
    "Treated seed: gloves, no dust breathed, none left for feed or birds; follow the tag.",
    "Look up for power lines before folding, unfolding or tipping; nobody between machines.",
    "Utilities are located before stakes are driven or holes dug. Alone in the field: somebody knows where.",
    "A trial is no exemption from the label; local codes, the label and licensed advice outrank this sheet.",
)


def pass_card_out(
    view: TrialView,
    *,
    driving: Driving,
    reserve_pct: float,
    passes: int | None = None,
    sets: int | None = None,
    machine: UUID | None = None,
) -> PassCardOut:
    """What the driver does and what must be in the hopper.

    ``sets`` is the place of the one factor this machine sets, None for all; ``machine`` gives passes by its width.
    """
    if not view.strips:
        raise Refusal("missing", field="layout", label="A layout", remedy="Draw the strips first.")
    strips = [
        StripToDrive(
            order=strip.order,
            column=strip.column or strip.order,
            row=strip.row,
            treatment=str(strip.treatment_id),
            setting=_setting(view, strip.treatment, sets),
        )
        for strip in view.strips
    ]
    width = view.strips[0].width.value or 1.0
    driven = machines_of(view.trial, [machine])[0] if machine else None
    by_width = max(1, round(width / driven.width_m)) if driven else _passes(view)
    each = passes if passes is not None else by_width
    both: dict[Driving, PassCard] = {
        name: pass_card(strips, passes_a_strip=each, strip_width_m=width, driving=name)
        for name in ("as_laid", "fewest_changes")
    }
    seed, total = _seed(view, reserve_pct)
    return PassCardOut(
        driving=driving,
        machine=driven.name if driven else "",
        passes_a_strip=each,
        passes=_passes_out(view, both[driving]),
        changes=both[driving].changes,
        changes_as_laid=both["as_laid"].changes,
        changes_fewest=both["fewest_changes"].changes,
        across=view.show.text(both[driving].across_m, "strip_length", decimals=0),
        across_as_laid=view.show.text(both["as_laid"].across_m, "strip_length", decimals=0),
        across_fewest=view.show.text(both["fewest_changes"].across_m, "strip_length", decimals=0),
        seed=seed,
        seed_total=total,
        stakes=stakes(view),
        cautions=list(CAUTIONS),
    )


def _passes_out(view: TrialView, card: PassCard) -> list[PassOut]:
    letters = {str(treatment.id): treatment.letter for treatment in view.treatments}
    return [
        PassOut(
            number=one_pass.number,
            strip=one_pass.strip,
            pass_in_strip=one_pass.pass_in_strip,
            direction=one_pass.direction,
            letter=letters[one_pass.treatment],
            setting=one_pass.setting,
            change=one_pass.change,
        )
        for one_pass in card.passes
    ]


def _setting(view: TrialView, treatment: Treatment, sets: int | None) -> str:
    if sets is None:
        return treatment_name(treatment, view.show)
    levels = [level for level in treatment.levels.all() if level.factor.position == sets]
    if not levels:
        raise Refusal("unknown_choice", field="sets", label="Factor", value=sets, limit="the factors of this trial")
    return level_name(levels[0], view.show)


def _passes(view: TrialView) -> int:
    """Passes of the first machine the width was chosen for, else one."""
    result = view.trial.plan.get("passes") or []
    return int(result[0][1]) if result else 1


def _seed(view: TrialView, reserve_pct: float) -> tuple[list[SeedOut], str]:
    areas: dict[str, float] = {}
    for strip in view.strips:
        area = strip.area_m2 or (strip.width.value or 0.0) * (strip.length.value or 0.0)
        areas[str(strip.treatment_id)] = areas.get(str(strip.treatment_id), 0.0) + area
    rates = {str(treatment.id): rate for treatment in view.treatments if (rate := view.seeds_per_m2(treatment))}
    by_id: dict[str, Treatment] = {str(treatment.id): treatment for treatment in view.treatments}
    lots = {key: view.lot(treatment) for key, treatment in by_id.items()}
    weights = {key: lot.thousand_seed_weight_g for key, lot in lots.items()}
    needs = seed_needed(areas, rates, thousand_seed_weights_g=weights, reserve_pct=reserve_pct)
    rows = [
        SeedOut(
            letter=by_id[need.treatment].letter,
            name=treatment_name(by_id[need.treatment], view.show),
            area=view.show.text(need.area_m2, "area", decimals=2),
            seeds=f"{format_number(need.seeds / 1000, 0)} thousand",
            weight=None if need.kg is None else view.show.text(need.kg, "mass"),
            bags=_bags(need.seeds, lots[need.treatment]),
        )
        for need in sorted(needs, key=lambda need: by_id[need.treatment].position)
    ]
    kg = sum(need.kg or 0.0 for need in needs)
    seeds = sum(need.seeds for need in needs)
    total = "" if not needs else view.show.text(kg, "mass") if kg else f"{format_number(seeds / 1000, 0)} thousand seeds"
    return rows, total


def _bags(seeds: float, lot: Lot) -> str | None:
    return None if not lot.seeds_in_bag else format_number(seeds / lot.seeds_in_bag, 1)


def _turned(ring: list[list[float]], heading: float) -> list[tuple[float, float]]:
    shape = affinity.rotate(Polygon(ring), heading, origin=(0, 0))
    return [(float(x), float(y)) for x, y in list(shape.exterior.coords)[:-1]]


def turned_strips(view: TrialView) -> list[tuple[Strip, list[tuple[float, float]]]]:
    """Strips with their rings turned so that the driving direction points up."""
    heading = float(view.trial.plan.get("heading_deg", 0.0))
    return [(strip, _turned(strip.ring, heading)) for strip in view.strips if strip.ring]


def stakes(view: TrialView) -> list[StakeOut]:
    """Flags at the near end of every strip, measured from the first strip's outer corner."""
    rows = turned_strips(view)
    if not rows:
        return []
    left = min(min(x for x, _ in ring) for _, ring in rows)
    low = min(min(y for _, y in ring) for _, ring in rows)
    frame, heading = view.trial.plan.get("frame", ""), float(view.trial.plan.get("heading_deg", 0.0))
    result = []
    for strip, ring in rows:
        near = min(y for _, y in ring)
        for side, x in (("left", min(x for x, _ in ring)), ("right", max(x for x, _ in ring))):
            position = ""
            if frame:
                back = affinity.rotate(Polygon([(x, near), (x + 1, near), (x, near + 1)]), -heading, origin=(0, 0))
                lon, lat = frames.to_degrees([back.exterior.coords[0]], frame)[0]
                position = f"{lat:.6f}, {lon:.6f}"
            result.append(
                StakeOut(
                    strip=strip.order,
                    side=side,  # type: ignore[arg-type]
                    across=view.show.text(x - left, "strip_length"),
                    up=view.show.text(near - low, "strip_length"),
                    position=position,
                )
            )
    return result


def map_out(view: TrialView) -> MapOut:
    """The map of a placed layout."""
    plan = view.trial.plan
    if not view.strips or view.strips[0].ring is None or "boundary" not in plan:
        raise Refusal("missing", field="layout", label="A placed layout", remedy="Draw the strips on a field with a size.")
    heading = float(plan["heading_deg"])

    def turned(rings: list[list[list[float]]]) -> list[list[list[float]]]:
        return [[[round(x, 2), round(y, 2)] for x, y in _turned(ring, heading)] for ring in rings]

    boundary = turned([plan["boundary"]])[0]
    span = max(max(x for x, _ in boundary) - min(x for x, _ in boundary), 1.0)
    scale = _round_scale(span / 4)
    gradient = view.trial.field.gradient_deg if view.trial.field else None
    return MapOut(
        boundary=boundary,
        obstacles=turned(plan["obstacles"]),
        no_go=turned(plan["no_go"]),
        guards=turned(plan["guards"]),
        strips=[
            MapStripOut(
                strip_id=strip.id,
                order=strip.order,
                ring=turned([strip.ring])[0],
                swath=turned([strip.swath])[0] if strip.swath else [],
            )
            for strip in view.strips
            if strip.ring
        ],
        north_deg=-heading % 360 if plan.get("frame") else None,
        gradient_deg=None if gradient is None else (gradient - heading) % 360,
        scale_m=scale,
        scale=view.show.text(scale, "strip_length", decimals=0),
    )


def _round_scale(metres: float) -> float:
    power = 10 ** math.floor(math.log10(max(metres, 1e-3)))
    return float(max(step * power for step in (1, 2, 5) if step * power <= metres))
