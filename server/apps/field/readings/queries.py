"""Standing readings of a trial."""

from __future__ import annotations

from apps.field.readings.models import Reading
from apps.records.kinds import Kind, readings
from apps.trials.models import Trial


def model_of(kind: Kind) -> type[Reading]:
    """The model of a kind that is described by its entries."""
    assert issubclass(kind.model, Reading)
    return kind.model


def readings_of(trial: Trial) -> list[Reading]:
    """Standing readings of every kind, oldest first."""
    result: list[Reading] = []
    for kind in readings():
        result += model_of(kind)._default_manager.filter(strip__trial=trial, voided=False).select_related("recorded_by")
    return sorted(result, key=lambda reading: reading.recorded_at)
