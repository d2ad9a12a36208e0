"""How deep to sow: two schools side by side, each with what it risks.

*Into moisture*: seed lies at least ¼ in below the moisture line, so that the sprout is not left dry, but never deeper
than the crop pushes through. *Fixed depth*: the middle of the crop's window whatever the moisture, waiting for rain.

What the crop pushes through: ``deepest_m`` in warm soil; in cold soil, or in clay that may cap, no deeper than the
usual window. Sand allows more. Brassica oilseeds: ½ in into dry soil about 20 % emerged, 1–1¼ in 70–75 %, 2 in came
two days later and thinner. All values: common practice, no source.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import fmean, stdev
from typing import Literal

from cultrix_core.crops.oilseed_rape import WINDOW_M as BRASSICA_WINDOW_M
from cultrix_core.crops.profile import SowingProfile
from cultrix_core.errors import Refusal, require_between
from cultrix_core.stats.multiplicity import t_critical
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.units import IN_M
from cultrix_core.working import Step, Working

MOISTURE_MARGIN_M = 0.25 * IN_M
WARM_ABOVE_LEAST_C = 3.0
LEVEL_ALPHA = 0.10

Texture = Literal["sand", "loam", "clay"]
PRACTICE = "common practice, no source"


@dataclass(frozen=True, slots=True, kw_only=True)
class School:
    """One way of choosing the depth. ``depth_m`` is None where it has no answer; ``risks`` in words."""

    name: Literal["into_moisture", "fixed"]
    title: str
    depth_m: float | None
    verdict: str
    risks: tuple[str, ...]
    working: Working


@dataclass(frozen=True, slots=True, kw_only=True)
class DepthAdvice:
    """Both schools, and the depths within which either may go."""

    least_m: float
    most_m: float
    into_moisture: School
    fixed: School


def advise_depth(
    profile: SowingProfile,
    show: UnitFormatter,
    *,
    moisture_line_m: float | None,
    texture: Texture = "loam",
    soil_c: float | None = None,
) -> DepthAdvice:
    """Depth by both schools. ``moisture_line_m``: depth at which soil holds together in the hand, None if not dug.

    Raises
    ------
    Refusal : ``too_small``, ``too_large`` moisture line or temperature.
    """
    if moisture_line_m is not None:
        require_between(moisture_line_m, 0, 1, "moisture_line", label="Depth of the moisture line", unit=" m")
    if soil_c is not None:
        require_between(soil_c, -20, 50, "soil_temperature", label="Soil temperature", unit=" °C")
    deeper = profile.sand_deeper_m if texture == "sand" else 0.0
    least, usual_most = profile.window_m[0], profile.window_m[1] + deeper
    cold = soil_c is not None and soil_c < profile.least_soil_c + WARM_ABOVE_LEAST_C
    most = usual_most if cold or texture == "clay" else max(profile.deepest_m, usual_most)
    limit = _limit_step(profile, show, most, deeper=deeper, cold=cold, clay=texture == "clay")
    return DepthAdvice(
        least_m=least,
        most_m=most,
        into_moisture=_into_moisture(profile, show, moisture_line_m, most, limit),
        fixed=_fixed(profile, show, moisture_line_m, deeper, limit),
    )


def _limit_step(profile: SowingProfile, show: UnitFormatter, most: float, *, deeper: float, cold: bool, clay: bool) -> Step:
    why = (
        "the window, for cold soil does not forgive depth"
        if cold
        else "the window, for clay may cap"
        if clay
        else "warm enough"
    )
    parts = [show.text(profile.window_m[1], "depth")]
    if deeper:
        parts.append(f"{show.text(deeper, 'depth')} in sand")
    numbers = (
        " + ".join(parts) if cold or clay else f"larger of {' + '.join(parts)} and {show.text(profile.deepest_m, 'depth')}"
    )
    return Step(
        label="Deepest it still comes up from", formula=why, numbers=numbers, outcome=show.text(most, "depth"), source=PRACTICE
    )


def _into_moisture(profile: SowingProfile, show: UnitFormatter, line: float | None, most: float, limit: Step) -> School:
    title = "Into moisture"
    if line is None:
        return School(
            name="into_moisture",
            title=title,
            depth_m=None,
            risks=(),
            verdict="Dig first: measure down to where soil holds together in the hand.",
            working=Working(title=title, outcome="needs the moisture line", steps=(limit,)),
        )
    need = line + MOISTURE_MARGIN_M
    depth = max(need, profile.window_m[0])
    steps = _moisture_steps(profile, show, line, limit)
    if depth > most + 1e-9:
        return School(
            name="into_moisture",
            title=title,
            depth_m=None,
            verdict=f"Moisture lies out of reach: {show.text(depth, 'depth')} is needed, {show.text(most, 'depth')} is the "
            "deepest this crop comes up from here. Wait for rain.",
            risks=("Sown as deep as the moisture, many sprouts never reach the light.",),
            working=Working(title=title, outcome="out of reach", steps=steps),
        )
    risks = ["Rain on a deep slot may cap it; sprouts use more of the seed on the way up."]
    if depth > profile.window_m[1]:
        risks.insert(0, "Deeper than usual: later and often thinner.")
    if profile.window_m == BRASSICA_WINDOW_M and depth >= 1.75 * IN_M:
        risks.insert(
            0, f"Brassica oilseeds from {show.text(2 * IN_M, 'depth')} came about two days later and thinner ({PRACTICE})."
        )
    return School(
        name="into_moisture",
        title=title,
        depth_m=depth,
        verdict=f"{show.text(depth, 'depth')}, a little below the moisture line.",
        risks=tuple(risks),
        working=Working(
            title=title,
            outcome=show.text(depth, "depth"),
            steps=steps,
            assumption="The moisture line, dug in one place; dig in several.",
        ),
    )


def _moisture_steps(profile: SowingProfile, show: UnitFormatter, line: float, limit: Step) -> tuple[Step, ...]:
    need = line + MOISTURE_MARGIN_M
    depth = max(need, profile.window_m[0])
    return (
        Step(
            label="Below the moisture line",
            formula="moisture line + ¼ in",
            numbers=f"{show.text(line, 'depth')} + {show.text(MOISTURE_MARGIN_M, 'depth')}",
            outcome=show.text(need, "depth"),
            source=PRACTICE,
        ),
        Step(
            label="No shallower than the window",
            formula="larger of the two",
            numbers=f"{show.text(need, 'depth')}, {show.text(profile.window_m[0], 'depth')}",
            outcome=show.text(depth, "depth"),
            source=PRACTICE,
        ),
        limit,
    )


def _fixed(profile: SowingProfile, show: UnitFormatter, line: float | None, deeper: float, limit: Step) -> School:
    low, high = profile.window_m[0], profile.window_m[1] + deeper
    depth = (low + high) / 2
    dry = line is not None and depth < line - 1e-9
    risks = []
    if line is not None and line - 1e-9 <= depth < line + MOISTURE_MARGIN_M - 1e-9:
        risks.append(
            f"Only {show.text(depth - line, 'depth')} below the moisture line from {show.text(line, 'depth')}: "
            "if the surface dries on, the sprout is left dry."
        )
    elif dry and line is not None:
        risks.append(
            f"At {show.text(depth, 'depth')} seed lies above the moisture from {show.text(line, 'depth')}: it waits for rain, "
            "and a shower too small to reach down can start it and leave it dry."
        )
        if profile.window_m == BRASSICA_WINDOW_M:
            half, low_w, high_w = (show.text(x, "depth") for x in (0.5 * IN_M, *BRASSICA_WINDOW_M))
            risks.append(
                f"Brassica oilseeds at {half} in dry soil: about 20 % came up; at {low_w} to {high_w} 70–75 % ({PRACTICE})."
            )
    else:
        risks.append("Uneven if the surface dries before the roots are down.")
    verdict = f"{show.text(depth, 'depth')}, the middle of the window" + (", in dry soil for now." if dry else ".")
    step = Step(
        label="Middle of the window",
        formula="(shallow + deep) ÷ 2" + (", sand taken deeper" if deeper else ""),
        numbers=f"({show.text(low, 'depth')} + {show.text(high, 'depth')}) ÷ 2",
        outcome=show.text(depth, "depth"),
        source=PRACTICE,
    )
    return School(
        name="fixed",
        title="Fixed depth",
        depth_m=depth,
        verdict=verdict,
        risks=tuple(risks),
        working=Working(
            title="Fixed depth", outcome=show.text(depth, "depth"), steps=(step, limit), assumption="That rain comes in time."
        ),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class DepthsDug:
    """Depths dug on one strip, m: mean, spread, interval, share inside a window, distance from the target.

    ``sd_m``, ``half_width_m`` are None with one; ``inside_frac`` without a window; ``off_m`` without a target.
    """

    n: int
    mean_m: float
    sd_m: float | None
    half_width_m: float | None
    window_m: tuple[float, float] | None
    inside_frac: float | None
    target_m: float | None
    off_m: float | None


def depths_dug(
    depths_m: Sequence[float], *, window_m: tuple[float, float] | None = None, target_m: float | None = None
) -> DepthsDug:
    """Mean, spread and share inside the window of depths dug and measured.

    Raises
    ------
    Refusal : ``missing`` depths, ``too_small``/``too_large`` for one that cannot be (0 to 0.4 m).
    """
    if not depths_m:
        raise Refusal("missing", field="depths", label="A depth", remedy="Dig to the seed and measure up to the surface.")
    for depth in depths_m:
        require_between(depth, 0, 0.4, "depth", label="Depth", unit=" m", remedy="Check the unit.")
    n, mean = len(depths_m), fmean(depths_m)
    sd = stdev(depths_m) if n > 1 else None
    inside = None
    if window_m is not None:
        inside = sum(window_m[0] - 1e-9 <= depth <= window_m[1] + 1e-9 for depth in depths_m) / n
    return DepthsDug(
        n=n,
        mean_m=mean,
        sd_m=sd,
        half_width_m=None if sd is None else t_critical(LEVEL_ALPHA, n - 1) * sd / n**0.5,
        window_m=window_m,
        inside_frac=inside,
        target_m=target_m,
        off_m=None if target_m is None else mean - target_m,
    )


def depths_working(dug: DepthsDug, show: UnitFormatter) -> Working:
    """The working of ``depths_dug``."""
    mean = show.text(dug.mean_m, "depth")
    steps = [Step(label="Mean", formula="sum ÷ n", numbers=f"n = {dug.n}", outcome=mean)]
    if dug.sd_m is not None and dug.half_width_m is not None:
        finer = show.decimals("depth") + 1  # a spread is much smaller than a depth
        spread = show.text(dug.sd_m, "depth", decimals=finer)
        steps.append(Step(label="Spread", formula="standard deviation, n − 1", numbers=f"n = {dug.n}", outcome=spread))
        steps.append(
            Step(
                label="Half of the 90 % interval",
                formula="t × spread ÷ √n",
                numbers=f"{t_critical(LEVEL_ALPHA, dug.n - 1):.3f} × {spread} ÷ √{dug.n}",
                outcome=show.text(dug.half_width_m, "depth", decimals=finer),
                source="Student 1908, from memory",
            )
        )
    if dug.window_m is not None and dug.inside_frac is not None:
        window = f"{show.number(dug.window_m[0], 'depth')} to {show.text(dug.window_m[1], 'depth')}"
        steps.append(
            Step(
                label="Inside the window",
                formula="depths from the window's shallow to its deep end ÷ n",
                numbers=f"{round(dug.inside_frac * dug.n)} ÷ {dug.n}, window {window}",
                outcome=f"{format_number(100 * dug.inside_frac, 0)} %",
                source="definition",
            )
        )
    if dug.target_m is not None and dug.off_m is not None:
        steps.append(
            Step(
                label="Against the target",
                formula="mean − target",
                numbers=f"{mean} − {show.text(dug.target_m, 'depth')}",
                outcome=show.text(dug.off_m, "depth", signed=True),
                source="definition",
            )
        )
    return Working(
        title="Depth dug and measured",
        outcome=mean,
        steps=tuple(steps),
        assumption="Places dug as they come, not where the row looks good; several rows of the machine.",
    )
