"""Yield of a strip from its load, at standard moisture, and the questions an odd load raises.

Definitions. net = gross − tare; wet yield = net ÷ (swath width × length × passes); yield at standard moisture =
wet × (100 − moisture) / (100 − standard): the dry matter is kept. A standard of 0 % is dry matter itself, as forage is
reckoned. Handling shrink, where somebody wants it, is taken off last as a percent of its own.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from cultrix_core.crops import CropProfile
from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.units import HA_M2
from cultrix_core.working import Step, Working

MOST_PASSES = 50
MOST_SHRINK_PCT = 10.0

_WIDTH_ASSUMED = (
    "The width really cut: a header {plant_height 0.10} too wide in the sum is {plant_height 0.10} of crop that was never "
    + "there."
)


@dataclass(frozen=True, slots=True, kw_only=True)
class StripYield:
    """Yield of a strip; moisture fields are None for a crop weighed as it comes."""

    net_kg: float
    area_m2: float
    wet_kg_per_ha: float
    moisture_pct: float | None
    standard_moisture_pct: float | None
    shrink_pct: float
    yield_kg_per_ha: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Question:
    """Something asked about, never blocked: a code, the field it concerns, and the question in words."""

    code: str
    field: str
    text: str


def net_mass(*, gross_kg: float, tare_kg: float) -> float:
    """Gross less tare; refuses ``tare_over_gross`` and values that are not positive."""
    require_positive(gross_kg, "gross", unit=" kg")
    require_between(tare_kg, 0, float("1e9"), "tare", unit=" kg")
    if tare_kg >= gross_kg:
        raise Refusal("tare_over_gross", field="tare", value=f"{gross_kg:g}", limit=f"{tare_kg:g}", unit=" kg")
    return gross_kg - tare_kg


def to_standard_moisture(mass: float, *, moisture_pct: float, standard_pct: float) -> float:
    """Mass at standard moisture: mass × (100 − m)/(100 − m_std), any unit of mass.

    Raises
    ------
    Refusal : moisture outside 0–99 %, standard outside 0–90 %.
    """
    require_between(moisture_pct, 0, 99, "moisture", unit=" %", remedy="Moisture is a percent of the wet weight.")
    require_between(standard_pct, 0, 90, "standard_moisture", unit=" %")
    return mass * (100 - moisture_pct) / (100 - standard_pct)


def strip_yield(
    *,
    net_kg: float,
    swath_width_m: float,
    length_m: float,
    moisture_pct: float | None,
    standard_moisture_pct: float | None,
    passes: int = 1,
    shrink_pct: float = 0.0,
) -> StripYield:
    """Yield of one strip from one load, cut in one or more passes of the swath.

    Raises
    ------
    Refusal : ``not_positive``; ``missing`` moisture where the crop has a standard moisture.
    """
    require_positive(net_kg, "net", label="Net weight", unit=" kg")
    require_positive(swath_width_m, "swath_width", unit=" m")
    require_positive(length_m, "length", unit=" m")
    require_between(passes, 1, MOST_PASSES, "passes", label="Passes")
    require_between(shrink_pct, 0, MOST_SHRINK_PCT, "shrink", label="Handling shrink", unit=" %")
    if standard_moisture_pct is not None and moisture_pct is None:
        raise Refusal("missing", field="moisture", remedy="Yield at standard moisture needs it; take a sample.")
    area = swath_width_m * length_m * passes
    wet = net_kg / area * HA_M2
    dry = wet
    if standard_moisture_pct is not None and moisture_pct is not None:
        dry = to_standard_moisture(wet, moisture_pct=moisture_pct, standard_pct=standard_moisture_pct)
    return StripYield(
        net_kg=net_kg,
        area_m2=area,
        wet_kg_per_ha=wet,
        moisture_pct=moisture_pct,
        standard_moisture_pct=standard_moisture_pct,
        shrink_pct=shrink_pct,
        yield_kg_per_ha=dry * (1 - shrink_pct / 100),
    )


def questions_on_load(
    *,
    profile: CropProfile,
    yield_kg_per_ha: float,
    moisture_pct: float | None,
    swath_width_m: float | None,
    strip_width_m: float | None,
    tare_given: bool | None,
    expected_kg_per_ha: float | None,
    show: UnitFormatter,
) -> tuple[Question, ...]:
    """What a careful colleague would ask about this load. ``tare_given`` None: not weighed that way.

    ``expected_kg_per_ha``: by the strip's treatment and block, from the other strips.
    """
    questions: list[Question] = []
    low, high = profile.usual_moisture_pct
    if moisture_pct is not None and not low <= moisture_pct <= high:
        questions.append(
            Question(
                code="odd_moisture",
                field="moisture",
                text=f"Moisture of {moisture_pct:g} % is outside the usual {low:g}–{high:g} % "
                f"for {profile.name.lower()}. Is it right?",
            )
        )
    if yield_kg_per_ha > profile.believable_yield_kg_per_ha:
        questions.append(
            Question(
                code="too_good",
                field="net",
                text=f"{show.text(yield_kg_per_ha, 'yield')} is more than {profile.name.lower()} is "
                "believed to make. Was the tare taken, and is the area right?",
            )
        )
    if swath_width_m is not None and strip_width_m is not None and swath_width_m > strip_width_m * 1.001:
        questions.append(
            Question(
                code="wide_swath",
                field="swath_width",
                text=f"The swath ({show.text(swath_width_m, 'strip_width')}) is wider than the strip "
                f"({show.text(strip_width_m, 'strip_width')}). Was a neighbour cut as well?",
            )
        )
    if tare_given is False:
        questions.append(Question(code="no_tare", field="tare", text="No tare was entered. Was the scale zeroed?"))
    if expected_kg_per_ha and not 0.6 <= yield_kg_per_ha / expected_kg_per_ha <= 1.6:
        questions.append(
            Question(
                code="far_from_others",
                field="net",
                text=f"{show.text(yield_kg_per_ha, 'yield')} stands far from what the other strips of its treatment and block "
                f"lead one to expect ({show.text(expected_kg_per_ha, 'yield')}). Is it the right strip and the right unit?",
            )
        )
    return tuple(questions)


def yield_working(
    result: StripYield,
    show: UnitFormatter,
    *,
    gross_kg: float | None,
    tare_kg: float | None,
    swath_width_m: float,
    length_m: float,
    passes: int = 1,
) -> Working:
    """The working of ``strip_yield``."""
    net, area = show.text(result.net_kg, "mass"), show.text(result.area_m2, "area", decimals=4)
    steps = []
    if gross_kg is not None:
        steps.append(
            Step(
                label="Net weight",
                formula="gross − tare",
                numbers=f"{show.text(gross_kg, 'mass')} − {show.text(tare_kg or 0.0, 'mass')}",
                outcome=net,
            )
        )
    steps.append(
        Step(
            label="Area cut",
            formula="swath width × length" + (" × passes" if passes > 1 else ""),
            numbers=f"{show.text(swath_width_m, 'strip_width')} × {show.text(length_m, 'strip_length')}"
            + (f" × {passes}" if passes > 1 else ""),
            outcome=area,
        )
    )
    wet = show.text(result.wet_kg_per_ha, "yield")
    steps.append(Step(label="Yield as weighed", formula="net weight ÷ area", numbers=f"{net} ÷ {area}", outcome=wet))
    outcome = show.text(result.yield_kg_per_ha, "yield")
    steps += _to_final(result, show, wet=wet, outcome=outcome)
    return Working(
        title="Yield of the strip",
        outcome=outcome,
        steps=tuple(steps),
        assumption=show.words(_WIDTH_ASSUMED),
    )


def _to_final(result: StripYield, show: UnitFormatter, *, wet: str, outcome: str) -> list[Step]:
    """Steps from the yield as weighed to the final one: standard moisture, and shrink where it is wanted."""
    steps = []
    dry = show.text(result.yield_kg_per_ha / (1 - result.shrink_pct / 100), "yield")
    if result.standard_moisture_pct is not None:
        m, standard = f"{result.moisture_pct:g}", f"{result.standard_moisture_pct:g}"
        steps.append(
            Step(
                label=f"Yield at {standard} % moisture" if result.standard_moisture_pct else "Dry matter",
                formula="wet × (100 − moisture) ÷ (100 − standard)",
                numbers=f"{wet} × (100 − {m}) ÷ (100 − {standard})",
                outcome=dry,
                source="dry matter is kept: definition; standard moisture from the crop profile, from memory",
            )
        )
    if result.shrink_pct:
        steps.append(
            Step(
                label="Less handling shrink",
                formula="× (100 − shrink) ÷ 100",
                numbers=f"{dry} × (100 − {result.shrink_pct:g}) ÷ 100",
                outcome=outcome,
                source="as typed; what a buyer takes off is no yield that was not there",
            )
        )
    return steps


@dataclass(frozen=True, slots=True, kw_only=True)
class LoadShare:
    """One load of a strip: its yield, and the area it was cut from (None for a stated yield)."""

    yield_kg_per_ha: float
    area_m2: float | None


def yield_of_loads(loads: Sequence[LoadShare]) -> float:
    """Yield of a strip from its loads: each weighs by the area it was cut from; stated yields weigh alike.

    Raises
    ------
    Refusal : ``missing`` without a load.
    """
    if not loads:
        raise Refusal("missing", field="loads", remedy="Enter a load.")
    weights = _weights(loads)
    return sum(load.yield_kg_per_ha * weight for load, weight in zip(loads, weights, strict=True)) / sum(weights)


def _weights(loads: Sequence[LoadShare]) -> list[float]:
    areas = [load.area_m2 for load in loads if load.area_m2]
    return areas if len(areas) == len(loads) else [1.0] * len(loads)


def loads_working(loads: Sequence[LoadShare], show: UnitFormatter) -> Working:
    """The working of ``yield_of_loads``."""
    outcome = show.text(yield_of_loads(loads), "yield")
    areas = all(load.area_m2 for load in loads)
    parts = [
        f"{show.text(load.yield_kg_per_ha, 'yield')} × {show.text(load.area_m2 or 0.0, 'area')}"
        if areas
        else show.text(load.yield_kg_per_ha, "yield")
        for load in loads
    ]
    total = show.text(sum(load.area_m2 or 0.0 for load in loads), "area") if areas else str(len(loads))
    return Working(
        title="Yield of the strip from its loads",
        outcome=outcome,
        steps=(
            Step(
                label="Yield of the strip",
                formula="each load by the area it was cut from" if areas else "mean of the yields given",
                numbers=f"({' + '.join(parts)}) ÷ {total}",
                outcome=outcome,
            ),
        ),
        assumption="The loads together are the whole strip, and no ground was cut twice.",
    )
