"""The places of a sampling plan on every strip of a trial."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from uuid import UUID

from cultrix_core.errors import Refusal
from cultrix_core.stand.places import (
    Place,
    Walk,
    walking_order,
)

from apps.field.stand.models import SamplingPlan
from apps.field.stand.sampling import places_on
from apps.trial_state.view import TrialView


@dataclass(frozen=True, slots=True, kw_only=True)
class DrawnPlan:
    """A plan with its places by strip id, the walk, and strips that have none with the reason."""

    plan: SamplingPlan
    places: Mapping[UUID, Sequence[Place]]
    walk: Walk
    problems: tuple[str, ...]


def drawn(view: TrialView, plan: SamplingPlan) -> DrawnPlan:
    """The places of a plan on every standing strip, and the walk along them in field order."""
    places: dict[UUID, tuple[Place, ...]] = {}
    problems = []
    for strip in view.strips:
        if strip.lost:
            continue
        try:
            places[strip.id] = places_on(plan, strip, view.row_spacing_m(strip.received))
        except Refusal as refusal:
            problems.append(f"Strip {strip.order}: {refusal.message}")
    by_order = {strip.order: places[strip.id] for strip in view.strips if strip.id in places}
    walk = walking_order(by_order, {strip.order: strip.length.value or 0.0 for strip in view.strips})
    return DrawnPlan(plan=plan, places=places, walk=walk, problems=tuple(problems))
