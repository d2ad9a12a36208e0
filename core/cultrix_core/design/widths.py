"""Strip widths that hold whole passes of every machine that must work in a strip.

A machine that applies a treatment (planter, drill, cultivator) fills a strip with a whole number of passes;
the harvester needs at least one full header inside, and cuts whole headers only. A sprayer or spreader that
treats all strips alike may straddle them, so it is asked to fit only when a treatment is sprayed.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from cultrix_core.errors import Refusal, require_positive

MachineKind = Literal["planter", "tillage", "sprayer", "harvester"]
WIDEST_M = 80.0
SLACK_M = 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class WorkingMachine:
    """A machine with its working width."""

    name: str
    kind: MachineKind
    width_m: float


@dataclass(frozen=True, slots=True, kw_only=True)
class WidthOption:
    """A strip width with whole passes by machine name, and the harvested swath inside it."""

    width_m: float
    passes: tuple[tuple[str, int], ...]
    swath_m: float
    swath_passes: int
    border_m: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Widths:
    """Widths that fit, narrowest first, or why there are none."""

    options: tuple[WidthOption, ...]
    explanation: str


def strip_widths(machines: Sequence[WorkingMachine], *, most: int = 4) -> Widths:
    """Strip widths up to ``WIDEST_M`` that hold whole passes.

    Raises
    ------
    Refusal : ``missing`` when no machine fills the strip, ``not_positive`` widths.
    """
    for machine in machines:
        require_positive(machine.width_m, "width", label=f"Width of {machine.name}", unit=" m")
    filling = [machine for machine in machines if machine.kind != "harvester"]
    harvesters = [machine for machine in machines if machine.kind == "harvester"]
    if not filling:
        raise Refusal("missing", field="machines", label="A machine that sows or tills", remedy="Choose it from Setup.")
    widest = max(filling, key=lambda machine: machine.width_m)
    options = []
    for passes in range(1, int(WIDEST_M / widest.width_m) + 1):
        option = _option(passes * widest.width_m, filling, harvesters)
        if option:
            options.append(option)
        if len(options) == most:
            break
    return Widths(options=tuple(options), explanation=_explained(options, filling, harvesters, widest))


def passes_at(width_m: float, machines: Sequence[WorkingMachine]) -> WidthOption:
    """Passes and swath at a chosen width.

    Raises
    ------
    Refusal : ``does_not_fit`` naming the nearest width of whole passes, ``not_positive``.
    """
    require_positive(width_m, "strip_width", label="Strip width", unit=" m")
    filling = [machine for machine in machines if machine.kind != "harvester"]
    option = _option(width_m, filling, [machine for machine in machines if machine.kind == "harvester"])
    if option is not None:
        return option
    widths = strip_widths(machines, most=40)
    near = sorted(widths.options, key=lambda width_option: abs(width_option.width_m - width_m))[:2]
    nearest = " or ".join(f"{width_option.width_m:g} m" for width_option in sorted(near, key=lambda item: item.width_m))
    raise Refusal(
        "does_not_fit",
        field="strip_width",
        label="A strip of",
        value=f"{width_m:g} m",
        limit="whole passes of " + ", ".join(f"{machine.name} ({machine.width_m:g} m)" for machine in machines),
        remedy=f"Nearest that do: {nearest}." if nearest else widths.explanation,
    )


def _option(width: float, filling: Sequence[WorkingMachine], harvesters: Sequence[WorkingMachine]) -> WidthOption | None:
    passes = []
    for machine in filling:
        times = round(width / machine.width_m)
        if times < 1 or abs(times * machine.width_m - width) > SLACK_M:
            return None
        passes.append((machine.name, times))
    swath, cuts = width, 0
    if harvesters:
        header = max(machine.width_m for machine in harvesters)
        cuts = int((width + SLACK_M) / header)
        if cuts < 1:
            return None
        swath = cuts * header
    return WidthOption(
        width_m=round(width, 6),
        passes=tuple(passes),
        swath_m=round(min(swath, width), 6),
        swath_passes=cuts,
        border_m=round(max(width - swath, 0.0) / 2, 6),
    )


def _explained(
    options: Sequence[WidthOption],
    filling: Sequence[WorkingMachine],
    harvesters: Sequence[WorkingMachine],
    widest: WorkingMachine,
) -> str:
    if options:
        best = options[0]
        each = ", ".join(f"{times} × {name}" for name, times in best.passes)
        header = f", {best.swath_passes} header width{'s' if best.swath_passes > 1 else ''} inside" if harvesters else ""
        return f"{best.width_m:g} m is the narrowest strip of whole passes: {each}{header}."
    others = ", ".join(f"{machine.name} ({machine.width_m:g} m)" for machine in filling if machine is not widest)
    reason = (
        f"no multiple of {widest.name} ({widest.width_m:g} m) up to {WIDEST_M:g} m is a whole number of passes of {others}"
        if others
        else f"no strip of {widest.name} up to {WIDEST_M:g} m holds a full header"
    )
    nearest = _nearest(filling, widest)
    return f"No width fits: {reason}." + (f" Nearest: {nearest}" if nearest else "")


def _nearest(filling: Sequence[WorkingMachine], widest: WorkingMachine) -> str:
    """The width at which the machine that misses most overlaps or gaps least."""
    result: tuple[float, str] | None = None
    for passes in range(1, int(WIDEST_M / widest.width_m) + 1):
        width = passes * widest.width_m
        misses = [
            (abs(max(1, round(width / machine.width_m)) * machine.width_m - width), machine)
            for machine in filling
            if machine is not widest
        ]
        if not misses:
            return ""
        miss, machine = max(misses, key=lambda pair: pair[0])
        if result is None or miss < result[0] - 1e-9:
            times = max(1, round(width / machine.width_m))
            over = times * machine.width_m > width
            result = (
                miss,
                f"{width:g} m, where {times} passes of {machine.name} "
                f"{'overlap by' if over else 'leave'} {miss:.2f} m{'' if over else ' free'}.",
            )
    return result[1] if result else ""
