"""Stage of growth by the crop's own counting rule.

Maize and sorghum: leaves whose collar shows, the first rounded leaf included (V1, V2, …). Pulses: fully opened compound
leaves; seed leaves and the first single leaf do not count. Small cereals: unfolded leaves on the main shoot, tillers,
then nodes. Sunflower: true leaves at least 4 cm long. Oilseed rape: true leaves unfolded, seed leaves do not count.
Lucerne: fully opened compound leaves on the main stem; the first, single-bladed leaf does not count. All common
practice, no source. A stand is at a stage when at least half of the plants have reached it (common practice, no source).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from cultrix_core.crops import crop as profile_of
from cultrix_core.crops.profile import Absent, StageRule
from cultrix_core.errors import Refusal, require_between

MOST_LEAVES = 30


def stage_rule(crop: str) -> StageRule | None:
    """The counting rule of a crop, None where it has none; refuses a crop that the catalogue does not have."""
    stages = profile_of(crop).stages
    return None if isinstance(stages, Absent) else stages


@dataclass(frozen=True, slots=True, kw_only=True)
class StandStage:
    """Stage of a stand from plants looked at: the highest that at least half have reached, and the spread."""

    n: int
    stage: str
    lowest: int
    highest: int
    reached_frac: float
    words: str


def stand_stage(leaves: Sequence[float], rule: StageRule) -> StandStage:
    """Stage of a stand from leaves counted on several plants.

    Raises
    ------
    Refusal : ``missing`` without plants, ``not_a_count``, ``too_large`` number of leaves.
    """
    if not leaves:
        raise Refusal("missing", field="leaves", label="A plant", remedy="Count the leaves of a few plants.")
    for number in leaves:
        require_between(number, 0, MOST_LEAVES, "leaves", label="Leaves on a plant")
        if number != int(number):
            raise Refusal("not_a_count", field="leaves", label="Leaves on a plant", value=f"{number:g}")
    counts = sorted(int(number) for number in leaves)
    stage = max(number for number in counts if 2 * sum(1 for other in counts if other >= number) >= len(counts))
    reached = sum(1 for other in counts if other >= stage) / len(counts)
    name = f"{rule.prefix}{stage}" if stage else "up, no leaf counts yet"
    spread = "all alike" if counts[0] == counts[-1] else f"from {counts[0]} to {counts[-1]}"
    return StandStage(
        n=len(counts),
        stage=name,
        lowest=counts[0],
        highest=counts[-1],
        reached_frac=reached,
        words=f"{name}: {stage} {rule.what} on {100 * reached:.0f} % of {len(counts)} plants, {spread}",
    )
