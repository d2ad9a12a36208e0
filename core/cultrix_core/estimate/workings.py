"""The arithmetic of an estimate, line by line."""

from __future__ import annotations

from collections.abc import Sequence

from cultrix_core.estimate.forage import LandEquivalent
from cultrix_core.estimate.grain_weight import GrainWeight, thousand_weight_to_factor
from cultrix_core.estimate.methods import Method
from cultrix_core.estimate.propagate import KG_M2_TO_KG_HA, StripEstimate
from cultrix_core.estimate.spots import Spot
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.working import Step, Working

MOST_LINES = 12
SOURCES = {
    "ears": "definition; factor and ranges common practice, no source",
    "pods": "definition; least of 8 plants and pods of {depth 0.0254}: common practice, no source",
    "heads": "definition",
    "discs": "geometry of two circles",
    "pulses": "definition",
    "counted": "definition; two weeks of curing common practice, no source",
    "forage": "definition of dry matter",
    "residue": "definition of dry matter",
}


def percent(share: float, *, decimals: int = 0, signed: bool = False) -> str:
    """A fraction in percent, such as “12 %”."""
    return f"{format_number(100 * share, decimals, signed=signed)} %"


def strip_working(
    method: Method,
    spots: Sequence[Spot],
    estimate: StripEstimate,
    weight: GrainWeight | None,
    show: UnitFormatter,
    *,
    level: float,
) -> Working:
    """How one strip's estimate came about; ``level`` of the interval as a fraction."""
    steps = [_place(method, spot, number, show) for number, spot in enumerate(spots[:MOST_LINES], start=1)]
    if len(spots) > MOST_LINES:
        rest = f"{len(spots) - MOST_LINES} more places alike"
        steps.append(Step(label="And so on", formula="", numbers=rest, outcome="in the mean"))
    steps.append(_yield(method, estimate, weight, show, len(spots)))
    if method.counted and any(len(spot.pieces) > 1 for spot in spots) and len(spots[0].factors[0]) > 1:
        steps.append(_means(estimate, show))
    reach = f"{yield_text(estimate.lower, show)} to {yield_text(estimate.upper, show)}"
    shares = ", ".join(f"{part.name} {percent(part.share)}{' (assumed)' if part.assumed else ''}" for part in estimate.parts)
    steps.append(
        Step(
            label=f"{percent(level)} interval",
            formula="estimate × exp(± t × √(sum of the parts' squared relative errors))",
            numbers=f"relative error {percent(estimate.relative_se, decimals=1)}; of its square: {shares}",
            outcome=reach,
            source="delta method, two-stage sampling; Cochran 1977, from memory",
        )
    )
    if weight is not None and estimate.stressed is not None and estimate.excellent is not None:
        steps.append(
            Step(
                label="At the ends of the grain weight",
                formula="the same seeds, light and heavy",
                numbers=f"{show.text(weight.low_g, 'seed_mass')} and {show.text(weight.high_g, 'seed_mass')}",
                outcome=f"{yield_text(estimate.stressed, show)} to {yield_text(estimate.excellent, show)}",
                source=weight.words,
            )
        )
    return Working(
        title=method.name,
        outcome=f"{yield_text(estimate.value, show)} ({reach})",
        steps=tuple(steps),
        assumption=_assumption(estimate, weight),
    )


def yield_text(value: float, show: UnitFormatter) -> str:
    """Yield in the reader's unit; light ones of metric readers in three digits."""
    return show.text(value, "yield")


def _seeds(per_m2: float, show: UnitFormatter) -> str:
    return f"{show.number(per_m2, 'density_dense', decimals=0)} seeds{show.unit('density_dense')}"


def _place(method: Method, spot: Spot, number: int, show: UnitFormatter) -> Step:
    many = len(spot.pieces)
    if not method.counted:
        return Step(
            label=f"Cut {number}",
            formula=method.formula,
            numbers="dry matter on the area",
            outcome=show.text(spot.per_m2 * KG_M2_TO_KG_HA, "yield_by_weight"),
            source=show.words(SOURCES[method.key]),
        )
    per = format_number(spot.per_piece, 0) if method.gives == "seeds" else show.text(spot.per_piece, "catch")
    of = "seeds" if method.gives == "seeds" else "each"
    few = method.pieces if many > 1 else method.piece
    numbers = f"{show.text(spot.number_per_m2, 'density')} × {per} {of} on the mean of {many} {few}"
    outcome = (
        _seeds(spot.per_m2, show) if method.gives == "seeds" else show.text(spot.per_m2 * KG_M2_TO_KG_HA, "yield_by_weight")
    )
    label = f"Place {number}{', by eye' if spot.by_eye else ''}"
    return Step(label=label, formula=method.formula, numbers=numbers, outcome=outcome, source=show.words(SOURCES[method.key]))


def _yield(method: Method, estimate: StripEstimate, weight: GrainWeight | None, show: UnitFormatter, places: int) -> Step:
    outcome = yield_text(estimate.value, show)
    mean = "mean of the places" if places > 1 else "the place"
    if weight is None:
        return Step(label="Yield", formula=mean, numbers=f"{places} places" if places > 1 else "one place", outcome=outcome)
    text = show.text(weight.mean_g, "seed_mass")
    if show.bushel_kg and method.key == "ears":
        text += f" (factor {thousand_weight_to_factor(weight.mean_g, bushel_kg=show.bushel_kg):.5f})"
    return Step(
        label="Yield",
        formula=f"{mean} × {'kernel' if method.key == 'ears' else 'seed'} weight",
        numbers=f"{_seeds(estimate.per_m2, show)} × {text}",
        outcome=outcome,
        source=weight.words,
    )


def _means(estimate: StripEstimate, show: UnitFormatter) -> Step:
    off = estimate.product_of_means / estimate.value - 1 if estimate.value else 0.0
    return Step(
        label="Had means been multiplied",
        formula="mean of each factor first, then their product",
        numbers="what goes together in the pieces is lost",
        outcome=f"{yield_text(estimate.product_of_means, show)} ({percent(off, decimals=1, signed=True)})",
        source="covariance of the factors; definition",
    )


def _assumption(estimate: StripEstimate, weight: GrainWeight | None) -> str:
    most = max(estimate.parts, key=lambda part: part.share)
    if most.key == "weight" and weight is not None:
        return "Grain weight, which is not known before the grain is ripe: weigh a counted sample as soon as it is."
    if most.key == "pieces":
        return "What the single pieces differ by: measure more of them, as they were drawn."
    return "What places on the strip differ by: add a place rather than more pieces at the same one."


def land_working(ratio: LandEquivalent, show: UnitFormatter, yields: Sequence[float]) -> Working:
    """Land-equivalent ratio; ``yields``: main mixed, main alone, companion mixed, companion alone, in kg/ha."""
    main, alone, companion, other = (show.text(value, "yield_by_weight") for value in yields)
    words = "more" if ratio.total > 1 else "no more"
    return Working(
        title="Land-equivalent ratio",
        outcome=format_number(ratio.total, 2),
        steps=(
            Step(
                label="Main crop",
                formula="yield in the mixture ÷ yield alone",
                numbers=f"{main} ÷ {alone}",
                outcome=format_number(ratio.main, 2),
                source="definition, Willey 1979, from memory",
            ),
            Step(
                label="Companion",
                formula="yield in the mixture ÷ yield alone",
                numbers=f"{companion} ÷ {other}",
                outcome=format_number(ratio.companion, 2),
                source="definition, Willey 1979, from memory",
            ),
            Step(
                label="Together",
                formula="main + companion",
                numbers=f"{format_number(ratio.main, 2)} + {format_number(ratio.companion, 2)}",
                outcome=f"{format_number(ratio.total, 2)} times the land: {words} than the two crops side by side",
            ),
        ),
        assumption="Both crops alone were grown as well as they can be; at a poor stand alone the ratio flatters the mixture.",
    )
