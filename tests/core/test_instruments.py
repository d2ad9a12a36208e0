"""Scale, moisture meter, calibration on loads and swapped strips: the stand-ins speak, the parsers read."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from cultrix_core.errors import Refusal
from cultrix_core.harvest.instruments import MOST_LINES, read_moisture, read_scale
from cultrix_core.harvest.on_loads import LoadPair, calibrate, likely_swap
from cultrix_core.simulate.scale import Scale, measure_moisture, weigh
from cultrix_core.stats.compare import StripResponse, compare
from hypothesis import given, settings
from hypothesis import strategies as st


@given(st.floats(200, 8_000), st.integers(0, 1_000))
@settings(max_examples=40, deadline=None)
def test_the_scale_is_read_at_rest(load: float, seed: int) -> None:
    """Within a division and what noise and drift add, whatever ran in before."""
    weighed = read_scale(weigh(load, Scale(), seed=seed))
    assert weighed.weight_kg == pytest.approx(load, abs=7.5)
    assert weighed.still_s >= 3
    assert weighed.unreadable == 0


def test_a_scale_in_motion_has_no_weight() -> None:
    moving = "".join(f"t={t} weight={100 * t} unit=kg motion=1\n" for t in range(30))
    with pytest.raises(Refusal, match="A weight at rest"):
        read_scale(moving)
    restless = "".join(f"t={t} weight=500 unit=kg motion={t % 2}\n" for t in range(30))
    with pytest.raises(Refusal):
        read_scale(restless)


def test_the_last_weight_at_rest_counts() -> None:
    first = "".join(f"t={t} weight=500 unit=kg motion=0\n" for t in range(6))
    more = "t=6 weight=600 unit=kg motion=1\n" + "".join(f"t={t} weight=700 unit=kg motion=0\n" for t in range(7, 12))
    assert read_scale(first + more).weight_kg == 700
    assert read_scale(first + "t=6 weight=600 unit=kg motion=1\n").weight_kg == 500


def test_pounds_noise_and_rubbish_on_the_line() -> None:
    lines = "".join(f"unit=lb motion=0 weight=1000 t={t}\n" for t in range(5))
    weighed = read_scale("hello\n\x02\x03\nt=abc weight=1 unit=kg motion=0\nt=1 weight=nan unit=kg motion=0\n" + lines)
    assert weighed.weight_kg == pytest.approx(453.59237)
    assert weighed.unreadable == 4
    for wrong, code in (("", "missing"), ("hello\n", "missing"), ("t=1 weight=2 unit=stone motion=0\n", "unknown_unit")):
        with pytest.raises(Refusal) as refused:
            read_scale(wrong)
        assert refused.value.code == code
    with pytest.raises(Refusal) as refused:
        read_scale("x\n" * (MOST_LINES + 1))
    assert refused.value.code == "too_large"


def test_moisture_is_the_mean_of_its_repeats() -> None:
    """Over many samples the mean of three repeats errs by 0.25 ÷ √3 (definition of the standard error)."""
    moistures = [read_moisture(measure_moisture(15.5, seed=seed)) for seed in range(600)]
    off = np.array([moisture.moisture_pct - 15.5 for moisture in moistures])
    assert float(off.std()) == pytest.approx(0.25 / np.sqrt(3), rel=0.1)
    assert abs(float(off.mean())) < 0.03
    told = float(np.mean([(moisture.se_pct or 0) ** 2 for moisture in moistures])) ** 0.5
    assert told == pytest.approx(0.25 / np.sqrt(3), rel=0.12)
    assert read_moisture("moisture=14.2 unit=pct").se_pct is None
    mixed = read_moisture("moisture=14.2 unit=pct\nmoisture=140 unit=pct\nmoisture=x unit=pct\nmoisture=0.2 unit=frac\n")
    assert (mixed.moisture_pct, mixed.unreadable) == (14.2, 3)
    with pytest.raises(Refusal):
        read_moisture("temperature=12\n")


def test_calibration_is_a_ratio_of_sums() -> None:
    """1020 + 2010 + 1470 by scale over 1000 + 2000 + 1500 by log = 1.0; residuals −1.96, −0.50 and +2.04 % (by hand)."""
    loads = [
        LoadPair(name="1", scale_kg=1020, log_kg=1000),
        LoadPair(name="2", scale_kg=2010, log_kg=2000),
        LoadPair(name="3", scale_kg=1470, log_kg=1500),
    ]
    calibration = calibrate(loads)
    assert calibration.factor == pytest.approx(1.0)
    assert [round(100 * off, 2) for _, off in calibration.residuals] == [-1.96, -0.5, 2.04]
    assert calibration.far == ()
    assert calibration.se == pytest.approx(np.sqrt((20**2 + 10**2 + 30**2) / 2 * 3) / 4500)
    assert calibrate(loads[:1]).se is None
    assert calibrate([*loads, LoadPair(name="4", scale_kg=1500, log_kg=1000)]).far != ()
    for wrong in ([], [LoadPair(name="1", scale_kg=0, log_kg=5)], [LoadPair(name="1", scale_kg=5, log_kg=-1)]):
        with pytest.raises(Refusal):
            calibrate(wrong)


@given(st.floats(0.7, 1.4), st.integers(0, 500))
@settings(max_examples=30)
def test_calibration_finds_the_factor_it_was_given(factor: float, seed: int) -> None:
    rng = np.random.default_rng(seed)
    logs = rng.uniform(800, 4_000, 8)
    loads = [
        LoadPair(name=str(n), scale_kg=factor * kg * (1 + 0.01 * rng.standard_normal()), log_kg=kg) for n, kg in enumerate(logs)
    ]
    calibration = calibrate(loads)
    assert calibration.se is not None
    assert abs(calibration.factor - factor) < 5 * max(calibration.se, 1e-4)


def strips(seed: int, swap: tuple[int, int] | None = None) -> list[StripResponse]:
    rng = np.random.default_rng(seed)
    rows = [
        StripResponse(
            treatment="ABC"[place],
            block=str(block),
            response=7000 + 250 * place + 120 * block + 45 * rng.standard_normal(),
            label=f"Strip {3 * block + place + 1}",
        )
        for block in range(5)
        for place in range(3)
    ]
    if swap is not None:
        item, other = swap
        first, second = rows[item], rows[other]
        rows[item] = StripResponse(treatment=first.treatment, block=first.block, response=second.response, label=first.label)
        rows[other] = StripResponse(treatment=second.treatment, block=second.block, response=first.response, label=second.label)
    return rows


def test_two_swapped_strips_are_pointed_out() -> None:
    swaps = [likely_swap(strips(seed, swap=(6, 8))) for seed in range(20)]
    assert all(swap is not None and (swap.first, swap.second) == ("Strip 7", "Strip 9") for swap in swaps)


def test_the_share_of_a_swap_is_that_of_the_comparison() -> None:
    """Residual sums of squares of the whole comparison, with the two the other way round and as they are."""
    rows = strips(3, swap=(6, 8))
    swap = likely_swap(rows)
    assert swap is not None
    tried = list(rows)
    tried[6] = replace(rows[6], response=rows[8].response)
    tried[8] = replace(rows[8], response=rows[6].response)
    before, after = (compare(strip_responses, design="rcbd", alpha=0.1).residual_ss for strip_responses in (rows, tried))
    assert swap.share == pytest.approx(after / before, rel=1e-9)


def test_strips_in_their_place_are_left_in_peace() -> None:
    """No more than one trial in fifty is asked about for nothing, on 100 simulated ones."""
    assert sum(likely_swap(strips(seed)) is not None for seed in range(100)) <= 2


def test_too_few_strips_say_nothing_of_a_swap() -> None:
    assert likely_swap(strips(1)[:4]) is None
    assert likely_swap([]) is None
