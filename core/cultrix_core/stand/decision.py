"""Keep or replant an annual crop: what the stand that is there will make, against sowing again later.

Model. Yield of a thin stand as a share of full: y(s) = s(1 + h) ÷ (s + h) for s = stand ÷ wanted stand up to 1, and 1
above (the reciprocal law of yield and density, scaled to the wanted stand [1]); h follows from one anchor of the crop,
such as half the plants → four fifths of the yield. Replanting yields full × (1 − penalty a day × days late) and costs
seed and passes. The difference in money, keep − replant, carries an interval: the stand's own, the anchor's, the
penalty's, taken as independent and added in quadrature (each part's share is the change when that part alone moves to
its limit). The stand at which both are equal is solved from the curve.

Evenness is not in it: a gap of metres is not made up by neighbours as a thin row is; counts at drawn places carry that
into the interval of the stand.

Reference: [1] Shinozaki & Kira (1956) J. Inst. Polytech. Osaka City Univ. D7:35–72; Holliday (1960) Field Crop Abstr.
13:159–167 (from memory).
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import hypot
from typing import Literal

from cultrix_core.crops import crop as profile_of
from cultrix_core.crops.profile import Absent, StandCurve
from cultrix_core.errors import require_between, require_positive
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.working import Step, Working

Answer = Literal["keep", "replant", "close"]


def stand_curve(crop: str) -> StandCurve | None:
    """The stand–yield curve of a crop, None where it has none (perennials are decided by plants and shoots)."""
    curve = profile_of(crop).stand_curve
    return None if isinstance(curve, Absent) else curve


def own_curve(curve: StandCurve, *, half_stand_yield_pct: float | None, penalty_pct_a_day: float | None) -> StandCurve:
    """A crop's curve with what a farm knows better: yield of half the plants in %, loss a day in %; None keeps the crop's."""
    if half_stand_yield_pct is None and penalty_pct_a_day is None:
        return curve
    changed = replace(curve, source="your own values")
    if half_stand_yield_pct is not None:
        changed = replace(changed, stand_frac=0.5, yield_frac=half_stand_yield_pct / 100)
    if penalty_pct_a_day is not None:
        changed = replace(changed, penalty_pct_a_day=penalty_pct_a_day, penalty_half=penalty_pct_a_day / 2)
    return changed


def yield_share(stand_frac: float, curve: StandCurve) -> float:
    """Share of full yield that a share of the wanted stand makes. [1]"""
    require_between(stand_frac, 0, 100, "stand", label="Stand")
    if stand_frac >= 1:
        return 1.0
    h = curve.half_stand
    return stand_frac * (1 + h) / (stand_frac + h)


@dataclass(frozen=True, slots=True, kw_only=True)
class Case:
    """What is known of the stand and of sowing again. Money per ha and per t (price less costs of a tonne)."""

    stand_per_m2: float
    stand_half_per_m2: float
    wanted_per_m2: float
    full_yield_kg_per_ha: float
    worth_per_t: float
    days_late: float
    seed_per_ha: float
    passes_per_ha: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Decision:
    """Keep against replant; money per ha, ``lower``/``upper`` around ``keep_less_replant``.

    ``parts``: what the interval is made of, (name, ± in money). ``equal_stand_per_m2``: above it keeping is better; None
    when keeping is better at any stand.
    """

    answer: Answer
    keep_frac: float
    keep_yield_kg_per_ha: float
    keep_lower_kg_per_ha: float
    keep_upper_kg_per_ha: float
    replant_yield_kg_per_ha: float
    keep_less_replant: float
    lower: float
    upper: float
    parts: tuple[tuple[str, float], ...]
    equal_stand_per_m2: float | None


def decide(case: Case, curve: StandCurve) -> Decision:
    """Keep or replant.

    Raises
    ------
    Refusal : ``not_positive`` stands, yield and worth, ``too_small``/``too_large`` costs and days.
    """
    require_between(case.stand_per_m2, 0, 1e4, "stand", label="Stand counted")
    require_between(case.stand_half_per_m2, 0, 1e4, "stand_half", label="± of the stand")
    require_positive(case.wanted_per_m2, "wanted", label="Stand wanted")
    require_positive(case.full_yield_kg_per_ha, "full_yield", label="Yield of a full stand")
    require_positive(case.worth_per_t, "worth", label="Price less its costs")
    require_between(case.seed_per_ha, 0, 1e5, "seed", label="Seed for replanting")
    require_between(case.passes_per_ha, 0, 1e5, "passes", label="Passes for replanting")
    require_between(case.days_late, 0, 90, "days_late", label="Days later", remedy="Beyond that another crop is the question.")
    here = _money(case, curve)
    parts = tuple((name, abs(_money(moved, bent) - here)) for name, moved, bent in _moves(case, curve))
    half = hypot(*(part for _, part in parts))
    keep = yield_share(case.stand_per_m2 / case.wanted_per_m2, curve)
    keep_half = hypot(
        *(
            abs(yield_share(moved.stand_per_m2 / moved.wanted_per_m2, bent) - keep)
            for name, moved, bent in _moves(case, curve)
            if name != "date penalty"
        )
    )
    replant = _replant_share(case, curve)
    answer: Answer = "keep" if here - half > 0 else "replant" if here + half < 0 else "close"
    return Decision(
        answer=answer,
        keep_frac=keep,
        keep_yield_kg_per_ha=keep * case.full_yield_kg_per_ha,
        keep_lower_kg_per_ha=max(keep - keep_half, 0) * case.full_yield_kg_per_ha,
        keep_upper_kg_per_ha=min(keep + keep_half, 1) * case.full_yield_kg_per_ha,
        replant_yield_kg_per_ha=replant * case.full_yield_kg_per_ha,
        keep_less_replant=here,
        lower=here - half,
        upper=here + half,
        parts=parts,
        equal_stand_per_m2=_equal(case, curve),
    )


def _replant_share(case: Case, curve: StandCurve) -> float:
    lost = curve.penalty_pct_a_day * case.days_late / 100
    require_between(100 * lost, 0, 95, "penalty", label="Lost by sowing late", unit=" %", remedy="Nothing would be left.")
    return 1 - lost


def _money(case: Case, curve: StandCurve) -> float:
    worth = case.worth_per_t * case.full_yield_kg_per_ha / 1000
    keep = yield_share(case.stand_per_m2 / case.wanted_per_m2, curve)
    return worth * (keep - _replant_share(case, curve)) + case.seed_per_ha + case.passes_per_ha


def _moves(case: Case, curve: StandCurve) -> list[tuple[str, Case, StandCurve]]:
    """One part moved to its limit at a time; downwards for the stand, where the curve is steeper."""
    low = replace(case, stand_per_m2=max(case.stand_per_m2 - case.stand_half_per_m2, 0.0))
    flatter = replace(curve, yield_frac=curve.yield_frac - min(curve.yield_half, (curve.yield_frac - curve.stand_frac) * 0.9))
    sooner = replace(curve, penalty_pct_a_day=max(curve.penalty_pct_a_day - curve.penalty_half, 0.0))
    return [("stand", low, curve), ("stand–yield curve", case, flatter), ("date penalty", case, sooner)]


def _equal(case: Case, curve: StandCurve) -> float | None:
    """Stand at which both are worth the same."""
    worth = case.worth_per_t * case.full_yield_kg_per_ha / 1000
    share = _replant_share(case, curve) - (case.seed_per_ha + case.passes_per_ha) / worth
    if share <= 0:
        return None
    h = curve.half_stand
    return case.wanted_per_m2 * h * share / (1 + h - share)


WORDS: dict[Answer, str] = {
    "keep": "Keep the stand",
    "replant": "Replanting is worth more",
    "close": "Too close to tell: keep, unless the stand is patchy",
}


def decision_working(case: Case, curve: StandCurve, decision: Decision, show: UnitFormatter) -> Working:
    """The working of ``decide``."""
    full = show.text(case.full_yield_kg_per_ha, "yield")
    stand, wanted = show.text(case.stand_per_m2, "density"), show.text(case.wanted_per_m2, "density")
    keep = show.text(decision.keep_yield_kg_per_ha, "yield")
    again = show.text(decision.replant_yield_kg_per_ha, "yield")
    money = show.text(decision.keep_less_replant, "money_per_area", signed=True)
    share = f"{format_number(100 * decision.keep_frac, 0)} %"
    steps = [
        Step(
            label="What this stand makes",
            formula="s × (1 + h) ÷ (s + h) of full yield, s = stand ÷ wanted, h from the anchor",
            numbers=f"s = {stand} ÷ {wanted} = {format_number(case.stand_per_m2 / case.wanted_per_m2, 2)}, "
            f"h = {format_number(curve.half_stand, 2)} ({100 * curve.stand_frac:g} % of the plants make "
            f"{100 * curve.yield_frac:g} %)",
            outcome=f"{share} of {full} = {keep}",
            source=f"reciprocal yield law, Shinozaki & Kira 1956, from memory; anchor: {curve.source}",
        ),
        Step(
            label="What sowing again makes",
            formula="full yield × (100 % − penalty a day × days later)",
            numbers=f"{full} × (100 % − {curve.penalty_pct_a_day:g} % × {case.days_late:g})",
            outcome=again,
            source=curve.source,
        ),
        Step(
            label="Keep less replant",
            formula="(yield kept − yield replanted) × worth + seed + passes",
            numbers=f"({keep} − {again}) × {show.text(case.worth_per_t, 'price')} + "
            f"{show.text(case.seed_per_ha, 'money_per_area')} + {show.text(case.passes_per_ha, 'money_per_area')}",
            outcome=money,
            source="definition",
        ),
        *_sure_steps(curve, decision, show),
    ]
    widest = max(decision.parts, key=lambda part: part[1])[0]
    return Working(
        title="Keep or replant",
        outcome=f"{WORDS[decision.answer]}: {money}",
        steps=tuple(steps),
        assumption=f"The {widest} moves the answer most. Gaps of metres are worse than the curve says.",
    )


def _sure_steps(curve: StandCurve, decision: Decision, show: UnitFormatter) -> list[Step]:
    """How sure the difference is, and the stand at which it is nothing."""
    steps = [
        Step(
            label="How sure",
            formula="√ of the sum of squares of each part moved to its limit",
            numbers="; ".join(f"{name} ±{show.text(part, 'money_per_area')}" for name, part in decision.parts),
            outcome=f"{show.text(decision.lower, 'money_per_area')} to {show.text(decision.upper, 'money_per_area')}",
            source="independent parts in quadrature",
        )
    ]
    if decision.equal_stand_per_m2 is not None:
        steps.append(
            Step(
                label="Both equal at",
                formula="wanted × h × y ÷ (1 + h − y), y = replanted share less its costs",
                numbers=f"h = {format_number(curve.half_stand, 2)}",
                outcome=show.text(decision.equal_stand_per_m2, "density"),
                source="solved from the same curve",
            )
        )
    return steps
