"""What belongs to a treatment beside its levels: declared before the result, frozen in the protocol.

Another width may need another planter, another tillage has its own passes. What is declared is part of what is compared, and
the verdict says so; what is not declared and still goes with a treatment leaves the comparison without a call.
"""

from __future__ import annotations

from collections.abc import Sequence

from cultrix_core.errors import Refusal

from apps.trials.models import Factor, Sowing, Trial

PACKAGE: dict[str, str] = {
    "machine": "another machine at sowing",
    "passes": "other passes over the ground",
    "inputs": "other inputs in the season",
    "lot": "another seed lot",
    "plot_size": "strips of another size",
    "harvest_day": "harvest on another day, when ripe",
}
SEPARATE: dict[str, str] = {
    "machine": "sow one treatment with both machines, a strip of each in every block",
    "passes": "make the same passes on every strip, or add strips with the one change alone",
    "inputs": "give every strip the same inputs, or add strips with the one change alone",
    "lot": "sow one lot on every strip, or both lots under each treatment",
    "plot_size": "cut strips of one size from all treatments",
    "harvest_day": "harvest each block whole on one day",
    "count_day": "count all strips on one day",
    "sowing_day": "sow every treatment in each block on the same day, or each treatment on both days",
}
OF_KIND = {"tillage": ("passes",), "sowing_date": ("sowing_day", "count_day")}
WORDS = PACKAGE | {"sowing_day": "another day of sowing", "count_day": "counting at its own age"}


def declared(trial: Trial, factors: Sequence[Factor], sowings: Sequence[Sowing]) -> dict[str, str]:
    """Parts that belong to the treatments, with their words: those that a person named, and what a factor is made of."""
    own = {part for factor in factors for part in OF_KIND.get(factor.kind, ())}
    if any(sowing.level_id and sowing.part == "crop" for sowing in sowings):
        own.add("lot")
    return {key: words for key, words in WORDS.items() if key in trial.package or key in own}


def checked(parts: Sequence[str]) -> list[str]:
    """Parts as they are stored, in their own order; refuses others."""
    unknown = next((part for part in parts if part not in PACKAGE), None)
    if unknown is not None:
        raise Refusal("unknown_choice", field="package", label="Part of a treatment", value=unknown, limit=", ".join(PACKAGE))
    return [key for key in PACKAGE if key in parts]
