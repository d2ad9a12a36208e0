"""What the wheels of later passes cost at each row spacing, and that cost written into the cost lines."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any
from uuid import UUID

from cultrix_core.calculators import calculator, read
from cultrix_core.economics.wheel_tracks import Pass, Tracks, loss_per_ha, wheel_tracks
from cultrix_core.errors import Refusal
from django.db import transaction

from apps.accounts.models import User
from apps.base.quantities import MeasuredValue
from apps.trial_state.view import TrialView, view
from apps.trials.editing import saved, writable
from apps.trials.models import CostLine, Treatment, Trial
from apps.trials.schemas import WheelCostsIn

WHEEL_LABEL = "Wheel tracks"
Kept = Mapping[str, Any]
# Stand-ins for what each treatment brings itself, so that the rest of a calculator's inputs can be read.
FROM_TREATMENTS = {"row_spacing": ("1", "m"), "rate": ("1", "/m2"), "weight": ("1", "g/1000")}


def put_wheel_costs(user: User, trial_id: UUID, body: WheelCostsIn) -> Trial:
    """Write what the wheels cost at each row spacing into the cost lines of its level."""
    with transaction.atomic():
        trial = writable(user, trial_id, body.version, "prices")
        losses = wheel_losses(view(user, trial))
        if not losses:
            raise Refusal(
                "missing",
                field="wheels",
                label="The cost of the wheels",
                remedy="It needs row spacing as a factor, the wheels, an expected yield and a price.",
            )
        for level_id, loss in losses.items():
            CostLine.objects.filter(level_id=level_id, label=WHEEL_LABEL).delete()
            if loss > 0:
                line = CostLine(level_id=level_id, kind="other", label=WHEEL_LABEL)
                line.times = MeasuredValue("1", "", 1.0)
                line.each = MeasuredValue(f"{loss:.2f}", "money/ha", round(loss, 2))
                line.save()
        return saved(trial, user, "wheel tracks into the costs", body.amendment)


def kept_inputs(view: TrialView, name: str) -> Kept | None:
    """The typed inputs of a calculator as values; what the treatments bring is left to them; None when none are kept."""
    typed = view.trial.kept.get(name)
    if not typed:
        return None
    given = FROM_TREATMENTS | {key: (item["text"], item["unit"]) for key, item in typed.items()}
    return read(calculator(name), given) | {"leaf_span": optional_length(given.get("leaf_span"))}


def spacings_of(view: TrialView) -> dict[float, list[Treatment]]:
    """Row spacings of the treatments, narrowest first, with who has them."""
    result: dict[float, list[Treatment]] = {}
    for treatment in view.treatments:
        spacing = view.row_spacing_m(treatment)
        if spacing:
            result.setdefault(spacing, []).append(treatment)
    return dict(sorted(result.items()))


def pass_driven(values: Kept) -> Pass:
    return Pass(track_m=values["track"], tyre_m=values["tyre"], width_m=values["pass_width"], plant_half_m=values["plant_half"])


def tracks_by_spacing(view: TrialView, values: Kept) -> dict[float, Tracks]:
    return {
        spacing: wheel_tracks(
            pass_driven(values), row_spacing_m=spacing, centre=values["centre"], made_up_pct=values["made_up"]
        )
        for spacing in spacings_of(view)
    }


def loss_of(view: TrialView, tracks: Tracks) -> float | None:
    trial = view.trial
    if trial.expected_yield.value is None or trial.price.value is None:
        return None
    worth = trial.price.value - (trial.unit_cost.value or 0.0)
    return loss_per_ha(tracks, yield_kg_per_ha=trial.expected_yield.value, worth_per_t=worth) if worth > 0 else None


def wheel_losses(view: TrialView) -> dict[int, float]:
    """Money lost to the wheels per hectare by level of row spacing; empty where it cannot be said or is not varied."""
    try:
        values = kept_inputs(view, "wheels")
        if values is None:
            return {}
        tracks = tracks_by_spacing(view, values)
    except Refusal:
        return {}
    losses: dict[int, float] = {}
    for treatment in view.treatments:
        level, spacing = view.level_of(treatment, "row_spacing"), view.row_spacing_m(treatment)
        if level is None or not spacing:
            return {}
        loss = loss_of(view, tracks[spacing])
        if loss is None:
            return {}
        losses[level.pk] = loss
    return losses


def optional_length(typed: tuple[str, str] | None) -> float | None:
    if typed is None or not typed[0]:
        return None
    length: float = read(calculator("canopy"), {"leaf_span": typed, "row_spacing": ("1", "m")})["leaf_span"]
    return length
