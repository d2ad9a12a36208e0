"""What keeps an estimate honest: questions, what choosing does, what harvest taught, mixtures."""

from __future__ import annotations

from math import log, sqrt
from typing import Any

import numpy as np
import pytest
from cultrix_core.calculators import calculator
from cultrix_core.errors import Refusal
from cultrix_core.estimate.by_eye import eye_effect
from cultrix_core.estimate.crop_defaults import estimate_defaults
from cultrix_core.estimate.forage import Yielded, dry_matter_frac, land_equivalent_ratio, residue_used_frac
from cultrix_core.estimate.guards import Entry, questions_on
from cultrix_core.estimate.learning import Pair, learned_from, limits_of_agreement
from cultrix_core.estimate.methods import method_of
from cultrix_core.estimate.spots import Spot, spot_of
from cultrix_core.simulate.picking import simulate_picking
from cultrix_core.unit_formatting import UnitFormatter
from hypothesis import given
from hypothesis import strategies as st

METRIC = UnitFormatter(system="metric", sparse=True)
EAR = {"kernel_rows": 16.0, "kernels_per_row": 34.0}


def entry(method: str, *, pieces: list[dict[str, Any]], number: int | None = 30, area: float = 4.0, **more: Any) -> Entry:
    place = more.pop("place", {})
    spot = spot_of(method_of(method), area_m2=area, number=number, pieces=pieces, place=place)
    return Entry(spot=spot, pieces=pieces, place=place, **more)


def asked(method: str, one: Entry, crop: str, others: list[Entry] | None = None) -> set[str]:
    return {question.code for question in questions_on(method_of(method), one, others or [], estimate_defaults(crop), METRIC)}


def test_a_sound_sample_is_not_asked_about() -> None:
    assert asked("ears", entry("ears", pieces=[EAR] * 5, wanted=5), "maize") == set()


def test_nine_of_ten_ears_is_asked_about() -> None:
    text = questions_on(method_of("ears"), entry("ears", pieces=[EAR] * 9, wanted=10), [], estimate_defaults("maize"), METRIC)[
        0
    ].text
    assert text.startswith("9 of 10 ears entered.")
    few = entry("ears", pieces=[EAR] * 3, number=3, wanted=10)  # no more than three stood there
    assert "not_all" not in asked("ears", few, "maize")


def test_rows_of_kernels_come_in_pairs() -> None:
    """Kernel rows of a maize ear are even in number (fact of the trade, no source)."""
    assert "uneven_rows" in asked("ears", entry("ears", pieces=[EAR | {"kernel_rows": 15.0}]), "maize")


@pytest.mark.parametrize(
    ("change", "code"),
    [
        ({"kernel_rows": 34.0, "kernels_per_row": 16.0}, "odd_piece"),  # the two swapped
        ({"kernels_per_row": 4.0}, "odd_piece"),
    ],
)
def test_impossible_ears_are_asked_about(change: dict[str, float], code: str) -> None:
    assert code in asked("ears", entry("ears", pieces=[EAR | change]), "maize")


def test_a_count_on_the_wrong_area_is_asked_about() -> None:
    assert "odd_number" in asked("ears", entry("ears", pieces=[EAR], number=300), "maize")


PODS = {"pods_opened": 40.0, "seeds_in_pods": 98.0}


@pytest.mark.parametrize(
    ("number", "place", "code"),
    [
        (6, PODS, "too_few_plants"),  # at least 8 plants (common practice, no source)
        (12, PODS | {"shortest_pod": 0.02}, "short_pods"),  # pods of an inch or more (common practice, no source)
        (12, {"pods_opened": 5.0, "seeds_in_pods": 12.0}, "few_pods"),
        (12, {"pods_opened": 40.0, "seeds_in_pods": 980.0}, "odd_piece"),
    ],
)
def test_what_the_pod_method_asks(number: int, place: dict[str, float], code: str) -> None:
    item = entry("pods", pieces=[{"pods": 38.0}] * min(number, 8), number=number, area=0.405, place=place)
    assert code in asked("pods", item, "soybean")
    sound = entry("pods", pieces=[{"pods": 38.0}] * 8, number=12, area=0.405, place=PODS | {"shortest_pod": 0.03})
    assert asked("pods", sound, "soybean") == set()


def bulbs(state: str, **place: float) -> Entry:
    return entry("counted", pieces=[{"gross": 0.06}], number=40, area=2.0, place={"tare": 0.01} | place, state=state)


def test_wet_and_cured_weights_are_never_mixed_in_silence() -> None:
    """Bulbs are cured about two weeks before they are weighed, and the bowl is tared (common practice, no source)."""
    cured = bulbs("cured", cured_days=15.0)
    assert asked("counted", cured, "garlic", [bulbs("cured", cured_days=14.0)]) == set()
    assert "mixed_states" in asked("counted", cured, "garlic", [bulbs("fresh")])
    assert "which_state" in asked("counted", bulbs(""), "garlic")
    assert "short_curing" in asked("counted", bulbs("cured", cured_days=4.0), "garlic")
    assert "other_curing" in asked("counted", cured, "garlic", [bulbs("cured", cured_days=30.0)])
    no_tare = entry("counted", pieces=[{"gross": 0.06}], number=40, area=2.0, state="cured")
    assert "no_tare" in asked("counted", no_tare, "garlic")


def test_a_place_far_from_the_others_is_asked_about() -> None:
    others = [entry("ears", pieces=[EAR]) for _ in range(3)]
    assert "far_off" in asked("ears", entry("ears", pieces=[EAR], number=200), "maize", others)


def test_questions_change_nothing() -> None:
    odd = entry("ears", pieces=[EAR | {"kernel_rows": 15.0}] * 4, wanted=5)
    before = odd.spot.per_m2
    assert asked("ears", odd, "maize") == {"not_all", "uneven_rows"}
    assert odd.spot.per_m2 == before == 30 / 4 * 15 * 34


def test_land_equivalent_ratio_by_definition() -> None:
    """9.1 ÷ 11.8 + 1.9 ÷ 4.6 = 1.184 (Willey 1979, from memory), and its error against 200 000 simulated quotients."""
    ratio = land_equivalent_ratio(
        mixed_main=Yielded(mean=9.1, se=0.3),
        alone_main=Yielded(mean=11.8, se=0.4),
        mixed_companion=Yielded(mean=1.9, se=0.1),
        alone_companion=Yielded(mean=4.6, se=0.2),
    )
    assert ratio.total == pytest.approx(9.1 / 11.8 + 1.9 / 4.6)
    rng = np.random.default_rng(5)

    def drawn(mean: float, se: float) -> np.ndarray:
        return rng.normal(mean, se, 200_000)

    simulated = drawn(9.1, 0.3) / drawn(11.8, 0.4) + drawn(1.9, 0.1) / drawn(4.6, 0.2)
    assert ratio.se == pytest.approx(float(np.std(simulated)), rel=0.02)
    alone = Yielded(mean=5.0)
    nothing = Yielded(mean=0.0)
    sole = land_equivalent_ratio(mixed_main=alone, alone_main=alone, mixed_companion=nothing, alone_companion=alone)
    assert sole.total == 1.0


@given(st.floats(0.1, 100), st.floats(0.1, 100), st.floats(0.01, 50), st.floats(0.01, 50), st.floats(0.01, 1000))
def test_land_equivalent_ratio_knows_no_unit(main: float, alone: float, other: float, other_alone: float, times: float) -> None:
    def ratio(factor: float) -> float:
        return land_equivalent_ratio(
            mixed_main=Yielded(mean=main * factor),
            alone_main=Yielded(mean=alone * factor),
            mixed_companion=Yielded(mean=other),
            alone_companion=Yielded(mean=other_alone),
        ).total

    assert ratio(times) == pytest.approx(ratio(1.0))


def test_dry_matter_and_residue() -> None:
    assert dry_matter_frac(wet_kg=0.4, dry_kg=0.088) == pytest.approx(0.22)
    assert residue_used_frac(before=6400, after=4300) == pytest.approx(0.328125)
    assert residue_used_frac(before=100, after=120) == pytest.approx(-0.2)
    for call in (
        lambda: dry_matter_frac(wet_kg=0.1, dry_kg=0.2),
        lambda: residue_used_frac(before=0, after=0),
        lambda: land_equivalent_ratio(
            mixed_main=Yielded(mean=1),
            alone_main=Yielded(mean=0),
            mixed_companion=Yielded(mean=1),
            alone_companion=Yielded(mean=1),
        ),
    ):
        with pytest.raises(Refusal):
            call()


PEAK_FLOW = (
    (494, 512),
    (395, 430),
    (516, 520),
    (434, 428),
    (476, 500),
    (557, 600),
    (413, 364),
    (442, 380),
    (650, 658),
    (433, 445),
    (417, 432),
    (656, 626),
    (267, 260),
    (478, 477),
    (178, 259),
    (423, 350),
    (427, 451),
)


def test_limits_of_agreement_on_the_published_data() -> None:
    """Two peak flow meters on 17 people: mean difference −2.1, SD 38.8, limits −78 to 74 l/min (Bland & Altman 1986,
    data and results from memory; they use 2 SD where 1.96 is used here)."""
    limits = limits_of_agreement([first - second for first, second in PEAK_FLOW])
    assert limits.mean == pytest.approx(-2.1, abs=0.05)
    assert limits.sd == pytest.approx(38.8, abs=0.05)
    assert (limits.mean - 2 * limits.sd, limits.mean + 2 * limits.sd) == (pytest.approx(-80, abs=1), pytest.approx(75, abs=1))
    assert limits.upper - limits.mean == pytest.approx(1.96 * limits.sd)


def pairs(*ratios: float, trial: str = "a") -> list[Pair]:
    return [Pair(trial=trial, strip=str(place), estimate=7000 * ratio, harvest=7000) for place, ratio in enumerate(ratios)]


def test_the_farm_learns_over_trials_not_over_strips() -> None:
    learned = learned_from(pairs(1.08, 1.10, 1.12))
    assert learned is not None
    assert not learned.over_trials
    assert learned.bias == pytest.approx((1.08 * 1.10 * 1.12) ** (1 / 3) - 1)
    assert learned.correction == pytest.approx(1 / (1 + learned.bias))
    assert learned.shown
    two = learned_from(pairs(1.08, 1.10, 1.12) + pairs(0.99, 1.01, trial="b"))
    assert two is not None
    assert two.over_trials
    assert not two.shown  # +10 % one year and 0 % the next is no correction for the third
    assert two.lower < 0 < two.upper
    assert two.limit_low < two.bias < two.limit_high


def test_too_few_strips_teach_nothing() -> None:
    assert learned_from(pairs(1.1, 1.2)) is None
    with pytest.raises(Refusal):
        limits_of_agreement([1.0])
    with pytest.raises(Refusal):
        learned_from([Pair(trial="a", strip=str(item), estimate=0.0, harvest=5.0) for item in range(3)])


@given(st.lists(st.floats(0.5, 2.0), min_size=3, max_size=10), st.floats(0.001, 1000))
def test_learning_knows_no_unit(ratios: list[float], times: float) -> None:
    first = learned_from(pairs(*ratios))
    scaled = [
        Pair(trial=pair.trial, strip=pair.strip, estimate=pair.estimate * times, harvest=pair.harvest * times)
        for pair in pairs(*ratios)
    ]
    second = learned_from(scaled)
    assert first is not None
    assert second is not None
    assert second.bias == pytest.approx(first.bias, abs=1e-9)
    assert second.limit_high == pytest.approx(first.limit_high, abs=1e-9)


def spot(per_m2: float, *, by_eye: bool = False) -> Spot:
    return Spot(number_per_m2=1.0, counted=10, pieces=(per_m2,), factors=((per_m2,),), by_eye=by_eye)


def test_what_choosing_did_is_seen_on_strips_sampled_both_ways() -> None:
    """Ratios 1.2 and 1.1 on two strips: ln mean and a t interval with one degree of freedom, by hand."""
    effect = eye_effect(
        {"1": [spot(100), spot(120, by_eye=True)], "2": [spot(200), spot(220, by_eye=True)], "3": [spot(90)]}, alpha=0.10
    )
    assert effect is not None
    assert effect.strips == 2
    assert log(1 + effect.over) == pytest.approx((log(1.2) + log(1.1)) / 2)
    half = 6.313751514675 * abs(log(1.2) - log(1.1)) / sqrt(2) / sqrt(2)
    assert effect.upper is not None
    assert log(1 + effect.upper) - log(1 + effect.over) == pytest.approx(half)
    assert eye_effect({"1": [spot(100)], "2": [spot(120, by_eye=True)]}) is None
    single = eye_effect({"1": [spot(100), spot(120, by_eye=True)]})
    assert single is not None
    assert single.lower is None


def test_drawn_pieces_are_right_on_average_and_the_best_looking_are_not() -> None:
    """Drawn: within three Monte-Carlo standard errors of the truth. The best of three independent ones lies 0.8463 SD over
    the mean (expected largest of three normal values, tables of normal order statistics), here 0.8463 × 20 % = 16.9 %."""
    picked = simulate_picking(piece_cv=0.2, seed=11, samples=4_000, spacing_cv=0.01)
    assert abs(picked.drawn_mean - 1) < 3 * picked.drawn_se
    assert picked.picked_mean - 1 == pytest.approx(0.8463 * 0.2, abs=3 * picked.picked_se + 0.003)
    best_of_five = simulate_picking(piece_cv=0.2, seed=11, samples=4_000, spacing_cv=0.01, seen=5)
    assert best_of_five.picked_mean - 1 == pytest.approx(1.1630 * 0.2, abs=3 * best_of_five.picked_se + 0.004)


@pytest.mark.parametrize("piece_cv", [0.05, 0.2, 0.4])
def test_the_more_uneven_the_crop_the_more_choosing_flatters(piece_cv: float) -> None:
    picked = simulate_picking(piece_cv=piece_cv, seed=3, samples=2_000)
    assert abs(picked.drawn_mean - 1) < 4 * picked.drawn_se
    assert 0.6 * piece_cv < picked.picked_mean - 1 < 0.9 * piece_cv


def test_a_picture_that_cannot_be_is_refused() -> None:
    for wrong in ({"piece_cv": 0.0}, {"piece_cv": 0.2, "pieces": 20, "seen": 3}, {"piece_cv": 0.2, "samples": 1}):
        with pytest.raises(Refusal):
            simulate_picking(seed=1, **wrong)  # type: ignore[arg-type]


def test_the_bench_asks_and_says_what_narrows() -> None:
    values = {
        "number": 30,
        "area": 4.0,
        "kernel_rows": [16.0, 15.0, 18.0],
        "kernels_per_row": [34.0, 30.0, 38.0],
        "weight": None,
        "crop": "maize",
    }
    working = calculator("ears").run(values, METRIC)
    labels = [step.label for step in working.steps]
    assert "Asked" in labels
    assert "Narrowed most cheaply by" in labels
    assert any("228.6 g per 1000 and 330.2" in step.numbers for step in working.steps)
    with pytest.raises(Refusal) as refused:
        calculator("ears").run(values | {"kernels_per_row": [34.0]}, METRIC)
    assert (refused.value.code, refused.value.field) == ("lengths_differ", "kernels_per_row")
    with pytest.raises(Refusal) as refused:
        calculator("ears").run(values | {"crop": "garlic"}, METRIC)
    assert refused.value.field == "weight"
