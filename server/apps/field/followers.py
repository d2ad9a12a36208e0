"""What this floor does when trials announce something."""

from __future__ import annotations

from collections.abc import Sequence

from apps.field.harvest.services import recompute_loads
from apps.records import tally
from apps.trials.hooks import notes_on_strips, standard_moisture_changed
from apps.trials.models import Strip, Trial

__all__ = ["tally"]  # following by being imported

standard_moisture_changed.follow(recompute_loads)


@notes_on_strips.follow
def named_in_notes(trial: Trial, strips: Sequence[Strip]) -> bool:
    """Whether a line of the season's log or a tillage pass names one of these strips."""
    return any(notes.filter(strips__in=strips).exists() for notes in (trial.field_events, trial.tillage_passes))
