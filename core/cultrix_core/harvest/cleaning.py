"""Cleaning a combine's log: named steps in order, each with its parameter and what it dropped.

Model. Grain takes ``delay`` seconds through the machine, so the flow read at t + delay was cut where the machine stood at
t. Yield of a reading = flow × time ÷ (distance × swath). The delay is found from the log itself: adjacent passes driven in
opposite directions cross the same ground, and a wrong delay shifts one against the other by twice its error times the
speed; the delay under which neighbouring readings of opposite passes agree best is taken [1]. Then, in this order: starts
and ends of passes, speed out of range or changing fast, narrow swaths, yields out of limits, ground driven twice, and
readings far from their neighbours (median of the k nearest, in units of their median absolute deviation [2]).

Every step looks only at readings the earlier ones have left; any may be switched off. Nothing is deleted: a reading keeps
the name of the step that dropped it.

References: [1] Chung, Sudduth & Drummond (2002) Trans. ASAE 45:1337–1345; [2] Blackmore & Moore (1999) Precision
Agriculture 1:53–66 (ideas, both from memory).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from cultrix_core.errors import Refusal, require_between
from cultrix_core.harvest.yield_log import Array, Whole, YieldLog

Flags = NDArray[np.bool_]
Said = Callable[[float, str], None]
MOST_DELAY_S = 25.0
DELAY_STEP_S = 0.5
MOST_COMPARED = 40_000  # readings compared when the delay is looked for
LEAST_COMPARED = 60
LEAST_CONTRAST = 0.04  # a dip of the disagreement smaller than this is no sign of a delay
USUAL_DELAY_S = 10.0  # where the log cannot tell: common practice, no source
FITTED = 4  # steps of the parabola on either side of the lowest
WILD_LOG = 0.7  # a difference of logarithms beyond which a reading is a mishap, not ground
IN_CROP = 0.35  # of the median yield: less is no crop under the header
STANDING = 0.3  # of the usual speed: the machine stands or nearly so
SAME_PASS_TURN = 0.5  # cosine of the turn that ends a pass
SCALED_MAD = 1.4826
NAMES: dict[str, str] = {
    "delay": "Flow delay",
    "ends": "Pass starts and ends",
    "speed": "Speed and acceleration",
    "swath": "Narrow swath",
    "limits": "Yield limits",
    "overlap": "Ground driven twice",
    "outliers": "Local outliers",
}
# parameters of each step: name in ``Settings``, label, unit
PARAMETERS: dict[str, tuple[tuple[str, str, str], ...]] = {
    "delay": (("delay_s", "Delay", "s"),),
    "ends": (("start_s", "At the start", "s"), ("end_s", "At the end", "s")),
    "speed": (
        ("slow", "Slowest, of the usual speed", ""),
        ("fast", "Fastest, of the usual speed", ""),
        ("jump", "Jump, of the usual speed", ""),
        ("settle_s", "Around a stop", "s"),
    ),
    "swath": (("swath_share", "Least, of the usual swath", ""),),
    "limits": (("low_kg_per_ha", "Lowest", "kg/ha"), ("high_kg_per_ha", "Highest", "kg/ha")),
    "overlap": (("overlap_share", "Closer than, of a swath", ""),),
    "outliers": (("neighbours", "Nearest readings", ""), ("spread", "Deviations", "")),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Settings:
    """Parameters of the steps. ``delay_s`` None: found from the log. ``off``: steps that are undone.

    ``slow`` and ``fast``: speeds as shares of the median; ``jump``: change of speed between readings as a share of it.
    ``settle_s``: around a stop in the crop.
    ``swath_share``: of the widest usual swath. ``low`` and ``high``: kg/ha. ``spread``: median absolute deviations.
    """

    delay_s: float | None = None
    start_s: float = 4.0
    end_s: float = 2.0
    slow: float = 0.5
    fast: float = 1.6
    jump: float = 0.2
    settle_s: float = 5.0
    swath_share: float = 0.9
    low_kg_per_ha: float = 100.0
    high_kg_per_ha: float = 25_000.0
    overlap_share: float = 0.5
    neighbours: int = 12
    spread: float = 4.0
    off: frozenset[str] = frozenset()


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """One step: readings dropped by it and left after it, its parameter in words."""

    key: str
    name: str
    dropped: int
    left: int
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Cleaned:
    """The outcome. ``dropped_by``: index into ``NAMES`` + 1 of the step that dropped a reading, 0 where it stands.

    ``yield_kg_per_ha``: wet, of every reading; ``delay_found``: whether the log itself told the delay.
    """

    yield_kg_per_ha: Array
    moisture_pct: Array
    area_m2: Array
    pass_number: Whole
    dropped_by: Whole
    steps: tuple[Step, ...]
    delay_s: float
    delay_found: bool

    @property
    def keep(self) -> Flags:
        """Readings that no step has dropped."""
        return np.asarray(self.dropped_by == 0)


def passes_of(log: YieldLog) -> Whole:
    """Number of the pass of every reading: a pause in the log or a turn of the machine begins another."""
    if len(log) < 2:
        return np.zeros(len(log), dtype=np.int64)
    interval = np.diff(log.time_s)
    usual = float(np.median(interval[interval > 0])) if (interval > 0).any() else 1.0
    dx, dy = np.diff(log.x_m), np.diff(log.y_m)
    length = np.hypot(dx, dy)
    pause = interval > max(5.0, 4 * usual)
    # heading against the last real move of the same pass; the way over to the next pass is no heading
    moves = np.flatnonzero((length > 0.25 * float(np.median(length))) & ~pause)
    before, after = moves[:-1], moves[1:]
    turn = (dx[after] * dx[before] + dy[after] * dy[before]) < SAME_PASS_TURN * length[after] * length[before]
    pauses = np.cumsum(pause)
    begins = pause.copy()
    begins[after[turn & (pauses[after] == pauses[before])]] = True
    return np.concatenate([[0], np.cumsum(begins)]).astype(np.int64)


def shifted(log: YieldLog, values: Array, passes: Whole, delay_s: float) -> Array:
    """Values read ``delay_s`` later in the same pass; NaN where the pass had ended by then."""
    if delay_s == 0:
        return values.copy()
    array = np.full(len(log), np.nan)
    edges = np.flatnonzero(np.diff(passes)) + 1
    for start, stop in zip(np.concatenate([[0], edges]), np.concatenate([edges, [len(log)]]), strict=True):
        time = log.time_s[start:stop]
        array[start:stop] = np.interp(time + delay_s, time, values[start:stop], right=np.nan)
    return array


def yields_of(log: YieldLog, flow: Array) -> Array:
    """Wet yield in kg/ha of every reading: flow ÷ (speed × swath), inf or NaN where nothing was covered."""
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.asarray(1e4 * flow / (log.speed_m_s * log.swath_m))


def find_delay(log: YieldLog, passes: Whole, said: Said | None = None) -> tuple[float, bool]:
    """The delay under which opposite passes agree best, in s, and whether the log tells it.

    Disagreement: mean squared difference of the logarithm of yields of neighbours on opposite passes, each pass against
    its own mean so that treatments do not count, mishaps cut off; a parabola about the lowest value gives the part of a
    step.
    """
    left, right = _opposite_neighbours(log, passes)
    if len(left) < LEAST_COMPARED:
        return USUAL_DELAY_S, False
    steady = _steady(log)
    both = steady[left] & steady[right]
    left, right = left[both], right[both]
    if len(left) < LEAST_COMPARED:
        return USUAL_DELAY_S, False
    tried = np.arange(0, MOST_DELAY_S + DELAY_STEP_S, DELAY_STEP_S)
    cost = np.full(len(tried), np.nan)
    for place, item in enumerate(tried):
        if said is not None:
            said(place / len(tried), NAMES["delay"])
        cost[place] = _disagreement(log, passes, left, right, float(item))
    if not np.isfinite(cost).any():
        return USUAL_DELAY_S, False
    best = int(np.nanargmin(cost))
    if 1 - cost[best] / np.nanmedian(cost) < LEAST_CONTRAST:
        return USUAL_DELAY_S, False
    around = np.arange(max(best - FITTED, 0), min(best + FITTED + 1, len(tried)))
    around = around[np.isfinite(cost[around])]
    if len(around) > 3:
        bend, slope, _ = np.polyfit(tried[around], cost[around], 2)
        if bend > 0:
            return float(np.clip(-slope / (2 * bend), tried[around[0]], tried[around[-1]])), True
    return float(tried[best]), True


def _steady(log: YieldLog) -> Flags:
    usual = float(np.median(log.speed_m_s))
    return np.asarray((log.speed_m_s > 0.7 * usual) & (log.speed_m_s < 1.4 * usual))


def _opposite_neighbours(log: YieldLog, passes: Whole) -> tuple[Whole, Whole]:
    """Pairs of readings of passes driven opposite ways, less than a swath and a half apart along and across."""
    dx, dy = np.gradient(log.x_m), np.gradient(log.y_m)
    swath = float(np.median(log.swath_m))
    thin = _thinned(log, np.arange(len(log)), swath / 3)
    chosen = thin[:: max(len(thin) // MOST_COMPARED, 1)]
    apart, near = _near(log, thin, chosen, most=24, reach_m=1.25 * swath)
    other = np.isfinite(apart) & (passes[near] != passes[chosen][:, None])
    fits = other & (dx[near] * dx[chosen][:, None] + dy[near] * dy[chosen][:, None] < 0)
    return np.repeat(chosen, fits.sum(axis=1)), near[fits]


def _thinned(log: YieldLog, among: Whole, apart_m: float) -> Whole:
    """Every so many readings, about ``apart_m`` from one to the next: a dense log has its neighbours on its own pass only."""
    covered = log.distance_m[log.distance_m > 0]
    usual = float(np.median(covered)) if len(covered) else apart_m
    return among[:: max(round(apart_m / usual), 1)]


def _near(log: YieldLog, among: Whole, of: Whole, *, most: int, reach_m: float) -> tuple[Array, Whole]:
    """Distances to the nearest readings ``among`` some, inf beyond reach, and their numbers (any number where inf)."""
    points = np.column_stack([log.x_m, log.y_m])
    apart, near = scipy.spatial.cKDTree(points[among]).query(points[of], k=min(most, len(among)), distance_upper_bound=reach_m)
    apart, near = np.reshape(apart, (len(of), -1)), np.reshape(near, (len(of), -1))
    return apart, among[np.where(np.isfinite(apart), near, 0)]


def _disagreement(log: YieldLog, passes: Whole, left: Whole, right: Whole, delay_s: float) -> float:
    yields = yields_of(log, shifted(log, log.flow_kg_s, passes, delay_s))
    usual = float(np.nanmedian(yields))
    good = np.isfinite(yields) & (yields > 0.4 * usual) & (yields < 2.5 * usual) & _steady(log)
    logs = np.full(len(log), np.nan)
    logs[good] = np.log(yields[good])
    count = np.bincount(passes[good], minlength=int(passes.max()) + 1)
    total = np.bincount(passes[good], weights=logs[good], minlength=int(passes.max()) + 1)
    with np.errstate(invalid="ignore", divide="ignore"):
        logs = logs - (total / count)[passes]
    off = (logs[left] - logs[right]) ** 2
    off = np.minimum(off[np.isfinite(off)], WILD_LOG**2)
    return float(off.mean()) if len(off) >= LEAST_COMPARED else float("nan")


def clean(log: YieldLog, settings: Settings, said: Said | None = None) -> Cleaned:
    """Run every step that is not switched off.

    ``said`` hears the share done and the name of the step under way; what it raises ends the work.

    Raises
    ------
    Refusal : ``too_large``, ``too_small`` parameters, ``unknown_choice`` of a step to undo.
    """
    check_settings(settings)
    passes = passes_of(log)
    delay, told = (0.0, False) if "delay" in settings.off else (settings.delay_s, False)
    if delay is None:
        delay, told = find_delay(log, passes, None if said is None else lambda done, name: said(0.6 * done, name))
    flow = shifted(log, log.flow_kg_s, passes, delay)
    yields = yields_of(log, flow)
    dropped = np.zeros(len(log), dtype=np.int64)
    dropped[~np.isfinite(yields)] = 1
    steps = [_step("delay", dropped, 1, f"{delay:.1f} s, {'found from opposite passes' if told else 'as set'}")]
    for number, (key, work, words) in enumerate(_works(log, passes, yields, settings), start=2):
        if said is not None:
            said(0.6 + 0.4 * (number - 2) / len(NAMES), NAMES[key])
        if key not in settings.off:
            standing = dropped == 0
            dropped[standing & work(standing)] = number
        steps.append(_step(key, dropped, number, "undone" if key in settings.off else words))
    return Cleaned(
        yield_kg_per_ha=yields,
        moisture_pct=shifted(log, log.moisture_pct, passes, delay),
        area_m2=log.distance_m * log.swath_m,
        pass_number=passes,
        dropped_by=dropped,
        steps=tuple(steps),
        delay_s=delay,
        delay_found=told,
    )


Work = tuple[str, Callable[[Flags], Flags], str]


def _works(log: YieldLog, passes: Whole, yields: Array, settings: Settings) -> tuple[Work, ...]:
    """The steps after the delay, in order: key, what it drops of the readings that stand, its parameter in words."""
    return (
        ("ends", lambda _: _ends(log, passes, yields, settings), f"first {settings.start_s:g} s and last {settings.end_s:g} s"),
        (
            "speed",
            lambda _: _speed(log, passes, settings),
            f"{settings.slow:g} to {settings.fast:g} of the usual speed, jumps over {settings.jump:g} of it, "
            f"{settings.settle_s:g} s around a stop",
        ),
        (
            "swath",
            lambda _: log.swath_m < settings.swath_share * float(np.quantile(log.swath_m, 0.95)),
            f"under {settings.swath_share:g} of the usual swath",
        ),
        (
            "limits",
            lambda _: (yields < settings.low_kg_per_ha) | (yields > settings.high_kg_per_ha),
            f"outside {settings.low_kg_per_ha:g} to {settings.high_kg_per_ha:g} kg/ha",
        ),
        ("overlap", lambda keep: _overlap(log, passes, keep, settings), f"closer than {settings.overlap_share:g} of a swath"),
        (
            "outliers",
            lambda keep: _outliers(log, yields, keep, settings),
            f"over {settings.spread:g} deviations from the {settings.neighbours} nearest",
        ),
    )


def check_settings(settings: Settings) -> None:
    """Refuse parameters and steps that cannot be, before any work is done."""
    unknown = settings.off - set(NAMES)
    if unknown:
        raise Refusal("unknown_choice", field="off", label="Step", value=", ".join(sorted(unknown)), limit=", ".join(NAMES))
    if settings.delay_s is not None:
        require_between(settings.delay_s, 0, 60, "delay_s", label="Flow delay", unit=" s")
    require_between(settings.start_s, 0, 120, "start_s", label="Seconds at the start", unit=" s")
    require_between(settings.end_s, 0, 120, "end_s", label="Seconds at the end", unit=" s")
    require_between(settings.slow, 0, 1, "slow", label="Slowest share")
    require_between(settings.fast, 1, 10, "fast", label="Fastest share")
    require_between(settings.settle_s, 0, 120, "settle_s", label="Seconds around a stop", unit=" s")
    require_between(settings.jump, 0.01, 10, "jump", label="Jump of speed")
    require_between(settings.swath_share, 0, 1, "swath_share", label="Share of the swath")
    require_between(settings.overlap_share, 0, 1, "overlap_share", label="Overlap")
    require_between(settings.neighbours, 3, 200, "neighbours", label="Neighbours")
    require_between(settings.spread, 1, 100, "spread", label="Deviations")
    require_between(settings.low_kg_per_ha, 0, settings.high_kg_per_ha, "low_kg_per_ha", label="Lowest yield", unit=" kg/ha")


def _step(key: str, dropped: Whole, number: int, words: str) -> Step:
    return Step(key=key, name=NAMES[key], dropped=int((dropped == number).sum()), left=int((dropped == 0).sum()), words=words)


def _ends(log: YieldLog, passes: Whole, yields: Array, settings: Settings) -> Flags:
    """Seconds in and out of the crop, which is where grain came from, not where the log begins: many run on beyond it."""
    last = int(passes.max()) + 1
    first_s = np.full(last, np.inf)
    final_s = np.full(last, -np.inf)
    grain = np.isfinite(yields) & (yields > 0)
    crop = grain & (yields > IN_CROP * float(np.median(yields[grain]))) if grain.any() else grain
    np.minimum.at(first_s, passes[crop], log.time_s[crop])
    np.maximum.at(final_s, passes[crop], log.time_s[crop])
    return np.asarray((log.time_s < first_s[passes] + settings.start_s) | (log.time_s > final_s[passes] - settings.end_s))


def _speed(log: YieldLog, passes: Whole, settings: Settings) -> Flags:
    usual = float(np.median(log.speed_m_s[log.speed_m_s > 0])) if (log.speed_m_s > 0).any() else 1.0
    wrong = (log.speed_m_s < settings.slow * usual) | (log.speed_m_s > settings.fast * usual)
    change = np.abs(np.diff(log.speed_m_s, prepend=log.speed_m_s[0]))
    change[np.concatenate([[True], np.diff(passes) > 0])] = 0.0
    return np.asarray(wrong | (change > settings.jump * usual) | _around_stops(log, usual, settings))


def _around_stops(log: YieldLog, usual: float, settings: Settings) -> Flags:
    """Readings so soon before or after the machine stood that grain and ground are out of step: it smears on the way."""
    if settings.settle_s == 0:
        return np.zeros(len(log), dtype=bool)
    stood = log.time_s[log.speed_m_s < STANDING * usual]
    if not len(stood):
        return np.zeros(len(log), dtype=bool)
    after = np.searchsorted(stood, log.time_s, side="right")
    since = log.time_s - np.where(after > 0, stood[np.maximum(after - 1, 0)], -np.inf)
    until = np.where(after < len(stood), stood[np.minimum(after, len(stood) - 1)], np.inf) - log.time_s
    return np.asarray((since < settings.settle_s) | (until < settings.settle_s))


def _overlap(log: YieldLog, passes: Whole, keep: Flags, settings: Settings) -> Flags:
    """Readings nearer to an earlier pass than a share of the swath."""
    array = np.zeros(len(log), dtype=bool)
    standing = np.flatnonzero(keep)
    if len(standing) < 2 or settings.overlap_share == 0:
        return array
    reach = settings.overlap_share * float(np.median(log.swath_m))
    apart, near = _near(log, _thinned(log, standing, reach / 2), standing, most=16, reach_m=reach)
    array[standing] = (np.isfinite(apart) & (passes[near] < passes[standing][:, None])).any(axis=1)
    return array


def _outliers(log: YieldLog, yields: Array, keep: Flags, settings: Settings) -> Flags:
    outliers = np.zeros(len(log), dtype=bool)
    standing = np.flatnonzero(keep)
    if len(standing) <= settings.neighbours:
        return outliers
    points = np.column_stack([log.x_m[standing], log.y_m[standing]])
    _, near = scipy.spatial.cKDTree(points).query(points, k=settings.neighbours + 1)
    around = yields[standing][np.asarray(near)[:, 1:]]
    middle = np.median(around, axis=1)
    spread = SCALED_MAD * np.median(np.abs(around - middle[:, None]), axis=1)
    usual = float(np.median(spread))
    outliers[standing] = np.abs(yields[standing] - middle) > settings.spread * np.maximum(spread, usual)
    return outliers
