"""What the catalogue says of a crop: one object that holds everything, and the shapes of its parts.

A crop is complete: each part is a value, or ``Absent`` with the reason why the crop has none. Every value is a default that
advises or raises a question, never a limit; ``sources`` says for each part where its values come from.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

from cultrix_core.errors import Refusal, require_between
from cultrix_core.units import LB_KG

Range = tuple[float, float]
HeatWay = Literal["mean_first", "limits_first"]
Task = Literal["count", "tape", "dig", "measure", "rate", "yield"]
PRACTICE = "common practice, no source"
USUAL_EFFECT_PCT: Mapping[str, float] = {
    "row_spacing": 4.0,
    "seeding_rate": 4.0,
    "seeding_depth": 4.0,
    "tillage": 5.0,
    "sowing_date": 5.0,
    "free": 4.0,
}
MEMORY = "from memory, to be replaced by your own"
CUSTOMARY = "United States customary value, from memory"


@dataclass(frozen=True, slots=True, kw_only=True)
class Absent:
    """A part that a crop does not have, and why."""

    reason: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TradeUnits:
    """Codes of the units in which the trade speaks of yield, price and stand: in the United States, in Canada, in metric
    countries."""

    us_yield: str
    us_price: str
    canada_yield: str
    canada_price: str
    us_stand: str = "/ft2"
    canada_stand: str = "/ft2"
    metric_stand: str = "/m2"
    metric_yield: str = "t/ha"
    metric_price: str = "money/t"


@dataclass(frozen=True, slots=True, kw_only=True)
class HeatProfile:
    """Base and upper limit of one crop in °C; ``upper_c`` is used by way 2 only."""

    base_c: float
    upper_c: float | None
    way: HeatWay


@dataclass(frozen=True, slots=True, kw_only=True)
class Visit:
    """One visit: field-book task, heat units (°C·days by the crop's own way) or days from sowing, and why then.

    ``trait`` names what is measured or judged.
    """

    key: str
    task: Task
    what: str
    heat: float | None
    days: int
    why: str
    trait: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class StageRule:
    """How one crop is staged. ``drawing`` names the picture: collar, compound, tiller, pair or rosette."""

    drawing: str
    what: str
    counts: tuple[str, ...]
    counts_not: tuple[str, ...]
    prefix: str


@dataclass(frozen=True, slots=True, kw_only=True)
class StandCurve:
    """Anchor of a crop's stand–yield curve as fractions, ± of the yield; late sowing in % a day, ± of it; with sources."""

    stand_frac: float
    yield_frac: float
    yield_half: float
    penalty_pct_a_day: float
    penalty_half: float
    source: str

    @property
    def half_stand(self) -> float:
        """h of the curve: the stand at which the reciprocal curve bends, in wanted stands."""
        stand, share = self.stand_frac, self.yield_frac
        require_between(stand, 0.05, 0.95, "anchor_stand", label="Stand of the anchor")
        if not stand < share < 1:
            raise Refusal(
                "too_small",
                field="half_stand_yield",
                label="Yield at the anchor",
                value=f"{100 * share:g}",
                limit=f"{100 * stand:g} (the share of plants) and less than 100",
                unit=" %",
            )
        return stand * (1 - share) / (share - stand)


@dataclass(frozen=True, slots=True, kw_only=True)
class StandLine:
    """A stand that decides: what it says, plants or shoots per m², and from where."""

    key: str
    label: str
    per_m2: float
    source: str = PRACTICE


@dataclass(frozen=True, slots=True, kw_only=True)
class SowingProfile:
    """Defaults for sowing one crop.

    ``window_m``: usual depths; ``deepest_m``: what the crop still pushes through in warm soil; ``sand_deeper_m``:
    how much deeper sand allows. ``boot_sink_m`` is set for small seeds only, whose bed must be firm.
    """

    usual_seed_weight_g: Range
    window_m: Range
    deepest_m: float
    sand_deeper_m: float
    least_soil_c: float
    least_ph: float
    boot_sink_m: float | None = None
    hard_seed_counts: bool = False

    @property
    def small_seeded(self) -> bool:
        """Whether the rules for small seeds hold: firm bed, very shallow, a few seeds left on top."""
        return self.boot_sink_m is not None


@dataclass(frozen=True, slots=True, kw_only=True)
class EstimateDefaults:
    """``grain_g``: stressed, usual, excellent thousand-seed weight; None where nothing is counted in seeds.

    ``usual``: by method and entry, what is usually found, in canonical units; ``number_per_m2`` is what is counted.
    """

    methods: tuple[str, ...]
    grain_g: tuple[float, float, float] | None
    usual: Mapping[str, Mapping[str, Range]]


@dataclass(frozen=True, slots=True, kw_only=True)
class CropProfile:
    """Everything the catalogue knows of one crop.

    ``bushel_lb``: legal weight of a bushel in lb, None where the trade does not count bushels. ``standard_moisture_pct``:
    moisture at which grain is sold, None where yields stay as weighed. ``usual_moisture_pct``,
    ``believable_yield_kg_per_ha``, ``usual_stand_per_m2`` and ``usual_price_per_t`` (in dollars, euros or pounds) only raise
    questions. ``planning_cv_pct``: strip-to-strip variation to plan with until the farm has its own. ``usual_effect_pct``:
    standard deviation of true differences in yield between treatments that people try, by kind of factor, in percent of the
    yield. ``days_to_harvest``: from sowing to the earliest harvest, which decides when a reminder appears. ``perennial``: cut
    more than once, so that a harvest does not end the visits. ``relative``: name of the crop that lent all this to a farm's
    own; empty in the catalogue.
    """

    key: str
    name: str
    units: TradeUnits
    bushel_lb: float | None
    standard_moisture_pct: float | None
    usual_moisture_pct: Range
    believable_yield_kg_per_ha: float
    usual_price_per_t: Range
    usual_stand_per_m2: Range
    planning_cv_pct: float
    days_to_harvest: int
    heat: HeatProfile
    visits: tuple[Visit, ...]
    stages: StageRule | Absent
    sowing: SowingProfile | Absent
    stand_curve: StandCurve | Absent
    stand_lines: tuple[StandLine, ...] | Absent
    estimate: EstimateDefaults
    sources: Mapping[str, str]
    usual_effect_pct: Mapping[str, float] = field(default_factory=lambda: USUAL_EFFECT_PCT)
    perennial: bool = False
    relative: str = ""

    @property
    def sparse_stand(self) -> bool:
        """Whether stands are spoken of by the hectare or acre rather than by the m² or ft²."""
        return self.units.metric_stand == "k/ha"

    @property
    def title(self) -> str:
        """Its name, with the relative that lends a farm's own crop its values."""
        return f"{self.name} (as {self.relative.lower()})" if self.relative else self.name

    @property
    def bushel_kg(self) -> float | None:
        """Weight of a bushel in kg."""
        return None if self.bushel_lb is None else self.bushel_lb * LB_KG


# Parts of a profile that must say where their values come from.
SOURCED = (
    "units",
    "bushel_lb",
    "standard_moisture_pct",
    "usual_moisture_pct",
    "believable_yield_kg_per_ha",
    "usual_price_per_t",
    "usual_stand_per_m2",
    "planning_cv_pct",
    "usual_effect_pct",
    "days_to_harvest",
    "heat",
    "visits",
    "stages",
    "sowing",
    "stand_curve",
    "stand_lines",
    "estimate",
)


def sourced(**known: str) -> dict[str, str]:
    """The source of each part: those named, common practice for the rest."""
    return {part: known.get(part, PRACTICE) for part in SOURCED}


def practised_curve(share: float, plus_minus: float, penalty_pct_a_day: float) -> StandCurve:
    """A stand–yield curve by its usual anchor: half the plants make ``share`` of the yield."""
    return StandCurve(
        stand_frac=0.5,
        yield_frac=share,
        yield_half=plus_minus,
        penalty_pct_a_day=penalty_pct_a_day,
        penalty_half=penalty_pct_a_day / 2,
        source=PRACTICE,
    )
