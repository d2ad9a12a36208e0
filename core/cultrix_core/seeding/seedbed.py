"""The seedbed, judged for a crop: firm, warm, moist, clean, sweet enough.

Three things cause most failed small-seed stands: low pH, loose soil, wrong depth. Values come from
``sowing_profiles`` (common practice, no source) and are shown with each finding; what was not measured is listed as
not known, never taken as good.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from cultrix_core.crops.profile import SowingProfile
from cultrix_core.errors import require_between
from cultrix_core.seeding.depth import MOISTURE_MARGIN_M
from cultrix_core.seeding.sowing_profiles import SEEDS_LEFT_ON_TOP_PER_M2
from cultrix_core.unit_formatting import UnitFormatter, format_number

Weeds = Literal["none", "few", "many"]
State = Literal["good", "watch", "poor", "unknown"]
Overall = Literal["ready", "with_care", "not_ready", "not_known"]

# Above this, residue is likely pushed into the slot or piles up at the openers (common practice, no source).
MUCH_RESIDUE_PCT = 60.0
PRACTICE = "common practice, no source"


@dataclass(frozen=True, slots=True, kw_only=True)
class Seedbed:
    """What was measured, None where it was not. Depths and sinking in m from the surface."""

    boot_sink_m: float | None = None
    soil_c: float | None = None
    ph: float | None = None
    residue_pct: float | None = None
    moisture_line_m: float | None = None
    weeds: Weeds | None = None
    seeds_on_top_per_m2: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """One check: how it stands, why, and where the value comes from."""

    check: str
    state: State
    reason: str
    source: str = PRACTICE


@dataclass(frozen=True, slots=True, kw_only=True)
class SeedbedJudgement:
    """All findings and what they come to: the worst decides; nothing measured is not known."""

    overall: Overall
    findings: tuple[Finding, ...]


def judge(bed: Seedbed, profile: SowingProfile, show: UnitFormatter) -> SeedbedJudgement:
    """How a bed stands for a crop.

    Raises
    ------
    Refusal : values that cannot be (pH outside 3–10, soil outside −20–50 °C, residue outside 0–100 %, negative depths).
    """
    _check(bed)
    findings = [
        _firmness(bed, profile, show),
        _warmth(bed, profile, show),
        _ph(bed, profile),
        _moisture(bed, profile, show),
        _residue(bed),
        _weeds(bed),
    ]
    if profile.small_seeded and bed.seeds_on_top_per_m2 is not None:
        findings.append(_on_top(bed.seeds_on_top_per_m2, show))
    states = {finding.state for finding in findings}
    known = states - {"unknown"}
    overall: Overall = (
        "not_known" if not known else "not_ready" if "poor" in known else "with_care" if "watch" in states else "ready"
    )
    if overall == "ready" and "unknown" in states:
        overall = "with_care"
    return SeedbedJudgement(overall=overall, findings=tuple(findings))


def _check(bed: Seedbed) -> None:
    for value, low, high, name, label, unit in (
        (bed.boot_sink_m, 0, 0.5, "boot_sink", "How deep a boot sinks", " m"),
        (bed.soil_c, -20, 50, "soil_temperature", "Soil temperature", " °C"),
        (bed.ph, 3, 10, "ph", "Soil pH", ""),
        (bed.residue_pct, 0, 100, "residue", "Ground under residue", " %"),
        (bed.moisture_line_m, 0, 1, "moisture_line", "Depth of the moisture line", " m"),
        (bed.seeds_on_top_per_m2, 0, 5000, "seeds_on_top", "Seeds left on top", " /m²"),
    ):
        if value is not None:
            require_between(value, low, high, name, label=label, unit=unit, remedy="Check the number and its unit.")


def _unknown(check: str, remedy: str) -> Finding:
    return Finding(check=check, state="unknown", reason=remedy, source="")


def _firmness(bed: Seedbed, profile: SowingProfile, show: UnitFormatter) -> Finding:
    if bed.boot_sink_m is None:
        return _unknown("Firmness", "Not measured: stand on the bed and measure how deep the heel sinks.")
    text = show.text(bed.boot_sink_m, "depth")
    if profile.boot_sink_m is None:
        state: State = "good" if bed.boot_sink_m <= 0.05 else "watch"
        reason = f"A boot sinks {text}; over {show.text(0.05, 'depth', decimals=0)} the drill's depth wheels sink too."
        return Finding(check="Firmness", state=state, reason=reason)
    limit = show.text(profile.boot_sink_m, "depth")
    if bed.boot_sink_m <= profile.boot_sink_m + 1e-9:
        return Finding(check="Firmness", state="good", reason=f"A boot sinks {text}, no more than {limit}.")
    reason = f"A boot sinks {text}, more than {limit}: loose soil is one of three common causes of failed stands. Roll first."
    return Finding(check="Firmness", state="poor", reason=reason)


def _warmth(bed: Seedbed, profile: SowingProfile, show: UnitFormatter) -> Finding:
    if bed.soil_c is None:
        return _unknown("Soil temperature", "Not measured: at seed depth, in the morning, three days running.")
    text, least = show.text(bed.soil_c, "temperature"), show.text(profile.least_soil_c, "temperature", decimals=0)
    if bed.soil_c >= profile.least_soil_c:
        return Finding(check="Soil temperature", state="good", reason=f"{text} at seed depth; {least} is enough.")
    state: State = "watch" if bed.soil_c >= profile.least_soil_c - 2 else "poor"
    return Finding(
        check="Soil temperature",
        state=state,
        reason=f"{text} is under {least}: slow, uneven; cold soil does not forgive depth.",
    )


def _ph(bed: Seedbed, profile: SowingProfile) -> Finding:
    if bed.ph is None:
        return _unknown("Soil pH", "Not measured: a soil test of this field tells; lime works over months.")
    text = f"pH {format_number(bed.ph, 1)}"
    if bed.ph >= profile.least_ph - 1e-9:
        return Finding(check="Soil pH", state="good", reason=f"{text}; {profile.least_ph:g} or more is wanted.")
    state: State = "poor" if bed.ph < profile.least_ph - 0.5 else "watch"
    cause = ": low pH is one of three common causes of failed stands" if profile.small_seeded else ""
    return Finding(check="Soil pH", state=state, reason=f"{text} is under the {profile.least_ph:g} wanted{cause}.")


def _moisture(bed: Seedbed, profile: SowingProfile, show: UnitFormatter) -> Finding:
    if bed.moisture_line_m is None:
        return _unknown("Moisture", "Not measured: dig until soil holds together in the hand, and measure down to it.")
    need, deepest = bed.moisture_line_m + MOISTURE_MARGIN_M, profile.deepest_m
    text = show.text(bed.moisture_line_m, "depth")
    if need <= profile.window_m[1] + 1e-9:
        return Finding(check="Moisture", state="good", reason=f"Moist from {text}: within reach of the usual depth.")
    if need <= deepest + 1e-9:
        reason = f"Moist from {text}: reached only below the usual {show.text(profile.window_m[1], 'depth')}."
        return Finding(check="Moisture", state="watch", reason=reason)
    reason = (
        f"Moist from {text} only: deeper than this crop pushes through ({show.text(deepest, 'depth')}). "
        "Wait for rain, or sow shallow and wait."
    )
    return Finding(check="Moisture", state="poor", reason=reason)


def _residue(bed: Seedbed) -> Finding:
    if bed.residue_pct is None:
        return _unknown("Residue", "Not measured: a knotted cord across the rows, share of knots over residue.")
    text = f"{bed.residue_pct:g} % of the ground under residue"
    if bed.residue_pct <= MUCH_RESIDUE_PCT:
        return Finding(check="Residue", state="good", reason=f"{text}.")
    return Finding(
        check="Residue",
        state="watch",
        reason=f"{text}: straw pressed into the slot holds seed off the soil. Lift out of loose straw.",
    )


def _weeds(bed: Seedbed) -> Finding:
    if bed.weeds is None:
        return _unknown("Weeds", "Not said.")
    reasons: dict[Weeds, tuple[State, str]] = {
        "none": ("good", "None standing."),
        "few": ("watch", "A few standing: they are ahead of the crop."),
        "many": ("poor", "Many standing: clear them first, by the label or with steel."),
    }
    state, reason = reasons[bed.weeds]
    return Finding(check="Weeds", state=state, reason=reason)


def _on_top(seen: float, show: UnitFormatter) -> Finding:
    low, high = SEEDS_LEFT_ON_TOP_PER_M2
    usual = f"{show.number(low, 'density_dense', decimals=0)} to {show.text(high, 'density_dense', decimals=0)}"
    text = show.text(seen, "density_dense", decimals=0)
    if seen < 0.25 * low:
        return Finding(
            check="Seeds left on top",
            state="watch",
            reason=f"{text}; about {usual} is usual. All may lie too deep: dig and look.",
        )
    if seen > 3 * high:
        return Finding(
            check="Seeds left on top",
            state="watch",
            reason=f"{text}; about {usual} is usual. Much seed lies bare: press it in.",
        )
    return Finding(check="Seeds left on top", state="good", reason=f"{text}; about {usual} is usual.")
