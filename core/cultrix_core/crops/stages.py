"""The ways in which leaves are counted. Common practice, no source; drawn in the field book by ``drawing``."""

from __future__ import annotations

from cultrix_core.crops.profile import StageRule

COLLAR = StageRule(
    drawing="collar",
    what="leaves with a visible collar",
    counts=("every leaf whose collar shows, from the bottom up", "the short first leaf with the rounded tip"),
    counts_not=("leaves still in the whorl, however long", "the leaf whose collar is still inside the one below"),
    prefix="V",
)
COMPOUND = StageRule(
    drawing="compound",
    what="fully opened compound leaves",
    counts=("each leaf on the main stem whose leaflets lie open and apart",),
    counts_not=("seed leaves", "the first single leaf or leaf pair, and scale leaves", "a leaf still folded"),
    prefix="V",
)
TILLER = StageRule(
    drawing="tiller",
    what="unfolded leaves on the main shoot",
    counts=("each leaf on the main shoot with its base clear of the sheath", "tillers once they show above the leaf sheath"),
    counts_not=("the tip that is still rolled", "leaves of tillers"),
    prefix="L",
)
PAIR = StageRule(
    drawing="pair",
    what="true leaves at least {plant_height 0.04} long",
    counts=("each true leaf of {plant_height 0.04} or more, pairs count as two",),
    counts_not=("seed leaves", "shorter leaves around the bud"),
    prefix="V",
)
ROSETTE = StageRule(
    drawing="rosette",
    what="unfolded true leaves",
    counts=("each true leaf that is open, scars of fallen ones too",),
    counts_not=("the two kidney-shaped seed leaves", "the curled heart"),
    prefix="L",
)
FAN = StageRule(
    drawing="fan",
    what="leaves of the fan that show green",
    counts=("each leaf blade whose tip has left the sheath of the one below, yellowed lower ones too",),
    counts_not=("the bladeless sprout leaf that breaks the ground", "the tip still inside the sheath", "the flower stalk"),
    prefix="L",
)
