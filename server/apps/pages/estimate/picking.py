"""Picking the best looking, shown on a simulated crop as uneven as the one at hand."""

from __future__ import annotations

from math import sqrt

from cultrix_core.estimate.propagate import USUAL_PIECE_CV
from cultrix_core.simulate.picking import simulate_picking
from cultrix_core.unit_formatting import format_number

from apps.field.samples.queries import estimates_of_trial
from apps.field.samples.schemas import PickingOut
from apps.trial_state.view import TrialView

SEED = 20_260  # fixed, so that the picture is the same for everybody
SHOWN = 120
SEEN = 3
LEAST_DF = 8


def picking_out(view: TrialView) -> PickingOut:
    """Drawn and picked samples of a simulated crop whose pieces vary as those of this trial do, once enough are measured."""
    trial_estimates = estimates_of_trial(view.trial)
    own = trial_estimates is not None and trial_estimates.variation.piece_df >= LEAST_DF
    cv = sqrt(trial_estimates.variation.piece_var) if trial_estimates is not None and own else USUAL_PIECE_CV
    cv = min(max(cv, 0.02), 1.0)
    result = simulate_picking(piece_cv=cv, seed=SEED, samples=2_000, seen=SEEN)
    over = 100 * (result.picked_mean - 1)
    piece = trial_estimates.method.piece if trial_estimates else "ear"
    where = "as in this trial" if own else "as is usual"
    return PickingOut(
        drawn=[100 * value for value in result.drawn[:SHOWN]],
        picked=[100 * value for value in result.picked[:SHOWN]],
        drawn_mean=100 * result.drawn_mean,
        picked_mean=100 * result.picked_mean,
        piece_cv_pct=100 * cv,
        own_cv=own,
        words=f"A simulated crop with {format_number(100 * cv, 0)} % from {piece} to {piece}, {where}. "
        f"Taking the best of every {SEEN} looked at says {format_number(over, 0, signed=True)} %; drawn ones say "
        f"{format_number(100 * (result.drawn_mean - 1), 1, signed=True)} % on average of 2000 samples.",
    )
