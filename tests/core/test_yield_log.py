"""Yield logs: read, cleaned step by step, and brought back to the truth that the simulated combine was given."""

from __future__ import annotations

import json
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from cultrix_core.errors import Refusal
from cultrix_core.harvest.cleaning import NAMES, Cleaned, Settings, clean, find_delay, passes_of
from cultrix_core.harvest.log_columns import Column
from cultrix_core.harvest.strip_points import StripPoints, effective_number, inside, strip_of_points
from cultrix_core.harvest.yield_log import YieldLog, read_log
from cultrix_core.simulate.yield_monitor import HEADER, Combine, TrueStrip, drive, drive_along
from cultrix_core.stats.compare import StripResponse, compare
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.references import FOLDER

COLUMNS = {
    role: Column(name=name, unit=unit)
    for role, name, unit in zip(
        ("time", "x", "y", "speed", "swath", "distance", "flow", "moisture"),
        HEADER.split(","),
        ("s", "m", "m", "m/s", "m", "m", "kg/s", "%"),
        strict=True,
    )
}
ALL_OFF = frozenset(NAMES)


def field(seed: int, strips: int = 12, length: float = 300.0) -> list[TrueStrip]:
    """Strips of two swaths side by side, whose yields differ as strips do."""
    rng = np.random.default_rng(seed)
    return [
        TrueStrip(
            left_m=12.0 * place,
            right_m=12.0 * place + 12,
            near_m=0.0,
            far_m=length,
            yield_kg_per_ha=float(7000 * (1 + 0.05 * rng.standard_normal())),
        )
        for place in range(strips)
    ]


def ring(strip: TrueStrip) -> list[tuple[float, float]]:
    low, high = strip.near_m, strip.far_m
    return [(strip.left_m, low), (strip.right_m, low), (strip.right_m, high), (strip.left_m, high)]


def means(log: YieldLog, cleaned: Cleaned, strips: list[TrueStrip]) -> list[StripPoints]:
    return [strip_of_points(log, cleaned, inside(log, ring(strip), margin_m=1), standard_moisture_pct=None) for strip in strips]


def errors(log: YieldLog, cleaned: Cleaned, strips: list[TrueStrip]) -> np.ndarray:
    points = means(log, cleaned, strips)
    return np.array(
        [
            (strip_points.yield_kg_per_ha or 0) / strip.yield_kg_per_ha - 1
            for strip_points, strip in zip(points, strips, strict=True)
        ]
    )


@pytest.mark.parametrize("lag", [0.0, 4.0, 8.0, 12.0, 15.0])
def test_strip_means_come_back_to_the_truth(lag: float) -> None:
    """Within 1 % on every strip once cleaned, the lag found within a second; left as it comes, several per cent off."""
    strips = field(seed=int(lag) + 1)
    log = read_log(drive(strips, Combine(lag_s=lag), seed=int(lag) + 1), COLUMNS)
    cleaned = clean(log, Settings())
    assert cleaned.delay_found
    assert cleaned.delay_s == pytest.approx(lag, abs=1.0)
    assert np.abs(errors(log, cleaned, strips)).max() < 0.01
    if lag >= 4:
        raw = clean(log, Settings(delay_s=0.0, off=ALL_OFF - {"delay"}))
        assert np.abs(errors(log, raw, strips)).max() > 0.02


@pytest.mark.slow
@given(st.integers(0, 10_000), st.floats(1, 15), st.floats(0, 0.04))
@settings(max_examples=8, deadline=None)
def test_the_lag_is_found_whatever_the_field(seed: int, lag: float, noise: float) -> None:
    """And strips come back to within 1 % of each other's truth. What they have in common is left out: the pass ends that
    are dropped may be better or worse ground than the rest, on all strips alike. Readings that each err by 4 % leave a
    strip of about 260 of them with a standard error of 0.25 %, so that 1 % is four of those."""
    strips = field(seed, strips=6, length=250)
    log = read_log(drive(strips, Combine(lag_s=lag, noise=noise), seed=seed), COLUMNS)
    delay, told = find_delay(log, passes_of(log))
    assert told
    assert delay == pytest.approx(lag, abs=1.0)
    cleaned = clean(log, Settings())
    off = errors(log, cleaned, strips)
    assert np.abs(off - off.mean()).max() < 0.01


def test_a_log_that_cannot_tell_its_delay_says_so() -> None:
    """One pass has no neighbour driven the other way: the usual delay stands in and is not called found."""
    strips = [TrueStrip(left_m=0, right_m=6, near_m=0, far_m=300, yield_kg_per_ha=7000)]
    log = read_log(drive(strips, Combine(lag_s=5), seed=1), COLUMNS)
    cleaned = clean(log, Settings())
    assert not cleaned.delay_found
    assert cleaned.delay_s == 10.0
    assert "as set" in cleaned.steps[0].words


def test_every_dropped_reading_has_its_step_and_any_can_be_undone() -> None:
    strips = field(seed=3, strips=4)
    log = read_log(drive(strips, Combine(stops=1.0), seed=3), COLUMNS)
    cleaned = clean(log, Settings())
    assert [step.key for step in cleaned.steps] == list(NAMES)
    left = len(log)
    for step in cleaned.steps:
        left -= step.dropped
        assert step.left == left
    assert int(cleaned.keep.sum()) == left
    for key in NAMES:
        undone = clean(log, Settings(delay_s=cleaned.delay_s, off=frozenset({key})))
        step = next(item for item in undone.steps if item.key == key)
        assert step.dropped == 0 or key == "delay"
    assert np.isnan(clean(log, Settings(delay_s=8.0)).yield_kg_per_ha).any()
    nothing = clean(log, Settings(off=ALL_OFF))
    assert nothing.delay_s == 0
    assert int(nothing.keep.sum()) >= len(log) - int((log.speed_m_s <= 0).sum())


def test_stops_in_the_crop_are_dropped_by_speed() -> None:
    strips = field(seed=5, strips=4)
    log = read_log(drive(strips, Combine(stops=1.0), seed=5), COLUMNS)
    cleaned = clean(log, Settings())
    standing_still = log.speed_m_s < 0.2
    assert standing_still.sum() > 10
    assert not cleaned.keep[standing_still].any()


def test_passes_are_told_by_pauses_and_turns() -> None:
    strips = field(seed=2, strips=3)
    log = read_log(drive(strips, Combine(), seed=2), COLUMNS)
    assert int(passes_of(log).max()) + 1 == 6
    straight = np.arange(40.0)
    turned = YieldLog(
        row=np.arange(40),
        time_s=straight,
        x_m=np.zeros(40),
        y_m=np.concatenate([straight[:20], straight[:20][::-1]]),
        speed_m_s=np.ones(40),
        swath_m=np.full(40, 6.0),
        distance_m=np.ones(40),
        flow_kg_s=np.ones(40),
        moisture_pct=np.full(40, 14.0),
        unreadable=0,
    )
    assert int(passes_of(turned).max()) + 1 == 2


def reading_log(**more: Any) -> YieldLog:
    """Two passes side by side, all alike: 0.42 kg/s on 6 m at 1 m/s are 700 kg/ha."""
    n = 120
    usual: dict[str, Any] = {
        "row": np.arange(n),
        "time_s": np.concatenate([np.arange(60.0), np.arange(60.0) + 100]),
        "x_m": np.concatenate([np.zeros(60), np.full(60, 6.0)]),
        "y_m": np.concatenate([np.arange(60.0), np.arange(60.0)[::-1]]),
        "speed_m_s": np.ones(n),
        "swath_m": np.full(n, 6.0),
        "distance_m": np.ones(n),
        "flow_kg_s": np.full(n, 0.42),
        "moisture_pct": np.full(n, 14.0),
        "unreadable": 0,
    }
    return YieldLog(**(usual | more))


def test_yield_of_a_reading_by_definition() -> None:
    assert clean(reading_log(), Settings(off=ALL_OFF)).yield_kg_per_ha == pytest.approx(np.full(120, 700.0))


@pytest.mark.parametrize(
    ("key", "more", "settings_"),
    [
        ("swath", {"swath_m": np.where(np.arange(120) == 30, 3.0, 6.0)}, {}),
        ("limits", {"flow_kg_s": np.where(np.arange(120) == 30, 40.0, 0.42)}, {}),
        ("outliers", {"flow_kg_s": np.where(np.arange(120) == 30, 0.84, 0.42 + 0.002 * (np.arange(120) % 5))}, {}),
        ("overlap", {"x_m": np.concatenate([np.zeros(60), np.full(60, 1.0)])}, {}),
        ("speed", {"speed_m_s": np.where(np.arange(120) == 30, 0.3, 1.0)}, {}),
        ("ends", {}, {"start_s": 5.0, "end_s": 0.0}),
    ],
)
def test_each_step_drops_what_it_is_for(key: str, more: dict[str, Any], settings_: dict[str, Any]) -> None:
    off = ALL_OFF - {key}
    cleaned = clean(reading_log(**more), Settings(off=off, neighbours=6, **settings_))
    dropped = np.flatnonzero(~cleaned.keep)
    if key == "overlap":
        assert list(dropped) == list(range(60, 120))  # the later pass over the same ground
    elif key == "ends":
        assert list(dropped) == [*range(5), *range(60, 65)]
    else:
        assert 30 in dropped
        assert len(dropped) <= 2  # a jump of speed shows on both of its readings


def test_a_good_log_loses_nothing_to_the_steps() -> None:
    cleaned = clean(reading_log(), Settings(delay_s=0.0, start_s=0.0, end_s=0.0))
    assert cleaned.keep.all()


@pytest.mark.parametrize(
    ("change", "field_"),
    [
        ({"delay_s": -1.0}, "delay_s"),
        ({"delay_s": 300.0}, "delay_s"),
        ({"slow": 2.0}, "slow"),
        ({"fast": 0.5}, "fast"),
        ({"jump": 0.0}, "jump"),
        ({"swath_share": 1.5}, "swath_share"),
        ({"neighbours": 1}, "neighbours"),
        ({"spread": 0.0}, "spread"),
        ({"low_kg_per_ha": 9e9}, "low_kg_per_ha"),
        ({"off": frozenset({"magic"})}, "off"),
        ({"start_s": float("nan")}, "start_s"),
        ({"end_s": 999.0}, "end_s"),
        ({"overlap_share": 2.0}, "overlap_share"),
    ],
)
def test_settings_that_cannot_be_are_refused(change: dict[str, Any], field_: str) -> None:
    with pytest.raises(Refusal) as refused:
        clean(reading_log(), Settings(**change))
    assert refused.value.field == field_


def test_points_inside_a_strip_keep_off_its_edges() -> None:
    log = reading_log()
    square = [(-3.0, 0.0), (3.0, 0.0), (3.0, 59.0), (-3.0, 59.0)]
    assert inside(log, square, margin_m=0).sum() >= 58
    assert not inside(log, square, margin_m=3.1).any()
    assert inside(log, square, margin_m=2).sum() == 54
    with pytest.raises(Refusal) as refused:
        inside(log, [(0, 0), (5, 5), (5, 0), (0, 5)], margin_m=1)
    assert refused.value.code == "bad_geometry"


def test_a_strip_with_too_few_readings_has_no_yield() -> None:
    log = reading_log()
    cleaned = clean(log, Settings(off=ALL_OFF))
    none = strip_of_points(log, cleaned, np.zeros(120, dtype=bool), standard_moisture_pct=13.5)
    assert (none.readings, none.yield_kg_per_ha, none.se_kg_per_ha) == (0, None, None)


def test_strip_yield_is_grain_over_ground_at_standard_moisture() -> None:
    """Half the ground at 600, half of it twice as long at 900: (600 + 2 × 900) ÷ 3 = 800, × 86 ÷ 86.5 (by hand)."""
    long = np.arange(120) % 2 == 1
    log = reading_log(
        flow_kg_s=np.where(long, 0.54, 0.36), distance_m=np.where(long, 2.0, 1.0), moisture_pct=np.full(120, 14.0)
    )
    strip_points = strip_of_points(log, clean(log, Settings(off=ALL_OFF)), np.ones(120, dtype=bool), standard_moisture_pct=13.5)
    assert strip_points.yield_kg_per_ha == pytest.approx(800 * 86 / 86.5)
    assert strip_points.moisture_pct == pytest.approx(14.0)


def test_readings_alike_count_for_fewer() -> None:
    """First-order autocorrelation r: n (1 − r) ÷ (1 + r) (Bayley & Hammersley 1946, from memory), on a simulated row."""
    rng = np.random.default_rng(4)
    values = np.zeros(6_000)
    for place in range(1, len(values)):
        values[place] = 0.7 * values[place - 1] + rng.standard_normal()
    assert effective_number(values) == pytest.approx(6_000 * 0.3 / 1.7, rel=0.1)
    assert effective_number(rng.standard_normal(400)) > 300
    assert effective_number(np.ones(5)) == 5.0
    assert effective_number(np.arange(50.0)) == pytest.approx(2.0, abs=1.0)


def test_strips_with_points_against_r() -> None:
    """Fifteen strips of forty autocorrelated readings, read as a log: means of strips, analysed over strips, agree with R;
    taking the readings for replicates would have claimed far more certainty."""
    raw = json.loads((FOLDER / "o22_strips_points_ar1_simulated.json").read_text())
    order = {name: place for place, name in enumerate(dict.fromkeys(row["strip"] for row in raw["data"]))}
    lines, treated = [], {}
    for row in raw["data"]:
        place = order[row["strip"]]
        treated[row["strip"]] = (row["trt"], row["block"])
        y = 2.0 * row["pos"] if place % 2 == 0 else 2.0 * (41 - row["pos"])
        flow = row["yield"] * 2.0 * 6.0 / 1e4
        lines.append(f"{1000 * place + row['pos']},{6 * place + 3},{y},2,6,2,{flow!r},14")
    log = read_log(HEADER + "\n" + "\n".join(lines), COLUMNS)
    cleaned = clean(log, Settings(off=ALL_OFF))
    rows, pooled, worth = [], [], []
    for strip, place in order.items():
        edges = [(6 * place, 0), (6 * place + 6, 0), (6 * place + 6, 84), (6 * place, 84)]
        strip_points = strip_of_points(log, cleaned, inside(log, edges, margin_m=0.5), standard_moisture_pct=None)
        assert strip_points.readings == 40
        worth.append(strip_points.effective or 0.0)
        treatment, block = treated[strip]
        rows.append(StripResponse(treatment=treatment, block=block, response=strip_points.yield_kg_per_ha or 0.0))
        pooled += [
            StripResponse(treatment=treatment, block=block, response=row["yield"])
            for row in raw["data"]
            if row["strip"] == strip
        ]
    assert 5 < float(np.mean(worth)) < 30  # forty readings that resemble each other
    result = compare(rows, design="rcbd", alpha=0.05)
    assert result.residual_df == 8
    assert result.mse == pytest.approx(raw["expected"]["strip_mean_anova"][2]["ms"], rel=1e-9)
    for mean in raw["expected"]["strip_mean_emmeans"]:
        own = next(item for item in result.means if item.level == mean["trt"])
        assert (own.mean, own.se) == pytest.approx((mean["emmean"], mean["se"]), rel=1e-9)
    wrong = compare(pooled, design="rcbd", alpha=0.05)
    honest = next(pair for pair in result.pairs if {pair.left, pair.right} == {"A", "C"})
    claimed = next(pair for pair in wrong.pairs if {pair.left, pair.right} == {"A", "C"})
    assert (honest.se or 0) > 3 * (claimed.se or 0)
    # what would have come out with readings taken for replicates, and that it is refused once they name their strip
    pretended = raw["expected"]["wrong_pseudoreplicated"]
    treatment_row = next(row for row in wrong.anova if row.term == "treatment")
    assert (treatment_row.f, wrong.residual_df) == (pytest.approx(pretended["f"], rel=1e-8), pretended["df2"])
    named = [replace(row, label=raw["data"][place]["strip"]) for place, row in enumerate(pooled)]
    with pytest.raises(Refusal, match="same ground") as refused:
        compare(named, design="rcbd", alpha=0.05)
    assert (refused.value.code, refused.value.params["value"]) == ("not_replicates", 40)


@pytest.mark.parametrize(
    ("strips", "change", "field_"),
    [
        ([], {}, "strips"),
        (None, {"swath_m": 0.0}, "swath_m"),
        (None, {"lag_s": 600.0}, "lag_s"),
        (None, {"noise": 9.0}, "noise"),
    ],
)
def test_a_machine_that_cannot_be_is_refused(strips: list[TrueStrip] | None, change: dict[str, Any], field_: str) -> None:
    with pytest.raises(Refusal) as refused:
        drive(field(1) if strips is None else strips, Combine(**change), seed=1)
    assert refused.value.field == field_


def test_the_same_seed_drives_the_same_log() -> None:
    strips = field(1, strips=2, length=60)
    assert drive(strips, Combine(), seed=4) == drive(strips, Combine(), seed=4)
    assert drive(strips, Combine(), seed=4) != drive(strips, Combine(), seed=5)


def test_strips_that_lie_aslant_are_driven_as_they_lie() -> None:
    """Turned by 30 degrees and moved away, the same strips come back to the same truth."""
    strips = field(seed=4, strips=6)
    turn = np.array([[np.cos(0.5), -np.sin(0.5)], [np.sin(0.5), np.cos(0.5)]])
    rings = [[tuple(np.array(corner) @ turn.T + [800, -300]) for corner in ring(strip)] for strip in strips]
    log = read_log(drive_along(rings, [strip.yield_kg_per_ha for strip in strips], Combine(), seed=3), COLUMNS)
    cleaned = clean(log, Settings())
    for place, true_strip in enumerate(strips):
        strip_points = strip_of_points(log, cleaned, inside(log, rings[place], margin_m=1), standard_moisture_pct=None)
        assert strip_points.yield_kg_per_ha == pytest.approx(true_strip.yield_kg_per_ha, rel=0.01)
    with pytest.raises(Refusal) as refused:
        drive_along(rings, [5000.0], Combine(), seed=3)
    assert refused.value.code == "lengths_differ"


def test_progress_is_told_and_what_it_raises_ends_the_work() -> None:
    log = read_log(drive(field(seed=2, strips=4), Combine(), seed=2), COLUMNS)
    heard: list[tuple[float, str]] = []
    clean(log, Settings(), lambda done, name: heard.append((done, name)))
    shares = [done for done, _ in heard]
    assert shares == sorted(shares)
    assert {name for _, name in heard} == set(NAMES.values())

    def stop(done: float, name: str) -> None:
        raise InterruptedError(f"{name} at {done}")

    with pytest.raises(InterruptedError):
        clean(log, Settings(), stop)


@pytest.mark.slow
def test_cleaned_strips_are_off_by_chance_only() -> None:
    """Over eight fields of twelve strips the mean error is near nothing: no step leans to one side."""
    result = []
    for seed in range(8):
        strips = field(seed=seed + 40)
        log = read_log(drive(strips, Combine(lag_s=9, noise=0.04), seed=seed), COLUMNS)
        result.append(errors(log, clean(log, Settings()), strips))
    assert abs(float(np.mean(result))) < 0.0015
    assert float(np.std(result)) < 0.005


def test_a_pass_ends_where_the_grain_ends_not_where_the_log_does() -> None:
    """Ten seconds of empty log beyond the crop: the seconds taken off are those of the crop's own end."""
    grain = np.where((np.arange(120) >= 10) & (np.arange(120) < 110), 0.6, 0.0)
    log = reading_log(flow_kg_s=grain)
    only = frozenset(NAMES) - {"ends"}
    cleaned = clean(log, Settings(off=only, start_s=4, end_s=3))
    kept = np.flatnonzero(cleaned.keep)
    first, last = float(log.time_s[10]), float(log.time_s[109])
    assert log.time_s[kept[0]] >= first + 4
    assert log.time_s[kept[0] - 1] < first + 4
    assert log.time_s[kept[-1]] <= last - 3


def test_readings_around_a_stop_are_dropped() -> None:
    speed = np.full(120, 1.8)
    speed[50:60] = 0.0
    log = reading_log(speed_m_s=speed)
    only = frozenset(NAMES) - {"speed"}
    near = clean(log, Settings(off=only, settle_s=5))
    wide = clean(log, Settings(off=only, settle_s=0))
    gone, before = np.flatnonzero(~near.keep), np.flatnonzero(~wide.keep)
    assert set(before) < set(gone)
    stood = log.time_s[50:60]
    assert all(min(abs(log.time_s[place] - stood)) < 5 for place in set(gone) - set(before))
