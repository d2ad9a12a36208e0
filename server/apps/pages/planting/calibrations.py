"""Which planters and calibrations a trial needs, and which are missing."""

from __future__ import annotations

from apps.farms.models import Machine
from apps.field.planting.models import Calibration
from apps.trial_state.view import TrialView
from apps.trials import lots


def planters_of(view: TrialView) -> list[Machine]:
    """The planters a trial was laid out for, else all of the workspace."""
    asked = view.trial.plan.get("asked", {}).get("machines") or []
    all_of = Machine.objects.filter(workspace=view.trial.workspace, kind="planter").order_by("name")
    return list(all_of.filter(id__in=asked)) or list(all_of)


def calibrations_for(view: TrialView) -> list[Calibration]:
    """Standing calibrations of the lots a trial sows, newest first."""
    used = {part.lot_id for part in view.sowings}
    calibrations = Calibration.objects.filter(workspace=view.trial.workspace, lot_id__in=used, voided=False)
    return sorted(
        calibrations.select_related("lot", "machine", "recorded_by"),
        key=lambda calibration: (calibration.done_on, calibration.received_at),
        reverse=True,
    )


def missing_for(view: TrialView, result: list[Calibration]) -> list[str]:
    """Which lots still ask for a calibration of their own, and why another lot's does not do."""
    planters = planters_of(view)
    lacking = []
    seen = set()
    for treatment in view.treatments:
        for part, _ in lots.seed_for(view.sowings, treatment):
            if part.lot_id in seen:
                continue
            seen.add(part.lot_id)
            done = [
                calibration
                for calibration in result
                if calibration.lot_id == part.lot_id and calibration.machine_id in {machine.id for machine in planters}
            ]
            if done:
                continue
            names = " or ".join(machine.name for machine in planters) or "the drill"
            others = sorted({str(calibration.lot) for calibration in result if calibration.lot_id != part.lot_id})
            why = f" That of {', '.join(others)} does not hold for it: lots flow differently at one setting." if others else ""
            lacking.append(f"{part.lot} has not been calibrated with {names}.{why}")
    return lacking
