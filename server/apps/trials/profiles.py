"""The crop's profile as a trial uses it: the trade's values, with what the trial sets otherwise."""

from __future__ import annotations

import dataclasses

from cultrix_core.crops import CropProfile, crop

from apps.trials.models import Trial


def profile_of(trial: Trial) -> CropProfile:
    """The profile of the trial's crop, at the trial's own standard moisture where one is set."""
    profile = crop(trial.crop)
    if trial.standard_moisture.value is None:
        return profile
    return dataclasses.replace(profile, standard_moisture_pct=trial.standard_moisture.value)
