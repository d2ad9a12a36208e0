"""Heat units by both published ways, weather in and out, what is due, eye against count, counts inside strips."""

from __future__ import annotations

from collections import defaultdict
from datetime import date, timedelta

import numpy as np
import pytest
from cultrix_core.crops.profile import HeatProfile
from cultrix_core.errors import Refusal
from cultrix_core.season.agreement import StripPair, agreement_of
from cultrix_core.season.heat_units import Day, heat_of, heat_profile, heat_sum, heat_working
from cultrix_core.season.schedule import WET_MM, schedule, visits_of
from cultrix_core.season.traits import MEASURED, RATED, measured, per_sample, rated
from cultrix_core.season.weather import read_weather, write_weather
from cultrix_core.simulate.weather import START, station
from cultrix_core.stand.nested import StripCounts, nested_stand
from cultrix_core.unit_formatting import KINDS, UnitFormatter
from cultrix_core.units import CANONICAL
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from tests.core.references import case

METRIC = UnitFormatter(system="metric")
TODAY = date(2026, 5, 20)


@pytest.mark.parametrize(
    ("low", "high", "mean_first", "limits_first"),
    [
        (12, 24, 8.0, 8.0),  # both above the base: the ways agree
        (4, 20, 2.0, 5.0),  # minimum below: (24 ÷ 2) − 10 against (20 + 10) ÷ 2 − 10
        (-2, 14, 0.0, 2.0),  # mean below the base
        (1, 8, 0.0, 0.0),  # maximum below too
    ],
)
def test_heat_units_by_both_published_ways(low: float, high: float, mean_first: float, limits_first: float) -> None:
    """McMaster & Wilhelm (1997), methods 1 and 2, base 10 °C: definitions from memory, days worked by hand."""
    assert heat_of(low, high, base_c=10, way="mean_first") == pytest.approx(mean_first)
    assert heat_of(low, high, base_c=10, way="limits_first") == pytest.approx(limits_first)


def test_maize_is_reckoned_with_10_and_30_degrees() -> None:
    """50 and 86 °F with way 2: common practice, no source. 6 to 34 °C: (30 + 10) ÷ 2 − 10 = 10."""
    maize = heat_profile("maize")
    assert heat_of(6, 34, base_c=maize.base_c, upper_c=maize.upper_c, way=maize.way) == pytest.approx(10)
    assert "10.0 °C days" in heat_working(6, 34, maize, METRIC).outcome
    assert "18.0 °F days" in heat_working(6, 34, maize, UnitFormatter(system="us")).outcome


@given(low=st.floats(-30, 35), spread=st.floats(0, 25), base=st.floats(-5, 15))
def test_limits_first_never_gives_less(low: float, spread: float, base: float) -> None:
    value = heat_of(low, low + spread, base_c=base, way="mean_first")
    two = heat_of(low, low + spread, base_c=base, way="limits_first")
    assert 0 <= value <= two + 1e-9
    if low >= base:
        assert value == pytest.approx(two, abs=1e-9)


def test_heat_refuses_swapped_temperatures() -> None:
    with pytest.raises(Refusal) as refusal:
        heat_of(20, 8, base_c=10, way="mean_first")
    assert "swapped" in refusal.value.message


def test_the_station_says_the_same_past_again_and_speaks_the_files_text() -> None:
    short, long = station(7, until=date(2025, 6, 1)), station(7, until=date(2026, 6, 1))
    assert long[: len(short)] == short
    assert station(8, until=date(2025, 6, 1)) != short
    assert read_weather(write_weather(long)) == long
    assert (long[0].on, long[-1].on) == (START, date(2026, 6, 1))


def test_the_stations_climate_is_the_one_it_was_given() -> None:
    days = station(3, until=date(2026, 12, 31))
    assert all(day.min_c <= day.max_c and day.rain_mm >= 0 for day in days)
    means = [(day.min_c + day.max_c) / 2 for day in days]
    assert np.mean(means) == pytest.approx(10.5, abs=1.0)
    summer = [mean for day, mean in zip(days, means, strict=True) if day.on.month == 7]
    winter = [mean for day, mean in zip(days, means, strict=True) if day.on.month == 1]
    assert np.mean(summer) - np.mean(winter) == pytest.approx(19, abs=3)
    assert 0.2 < np.mean([day.rain_mm > 0 for day in days]) < 0.5


def test_weather_files_in_fahrenheit_and_any_order() -> None:
    text = "\ufeffRain_in,MAX_F,min_f,date,note\n0.5,68,50,2026-05-02,x\n,59,41,2026-05-01,\n"
    days = read_weather(text)
    assert [day.on.day for day in days] == [1, 2]
    assert (days[1].min_c, days[1].max_c, days[1].rain_mm) == pytest.approx((10, 20, 12.7))
    assert days[0].soil_c is None


@pytest.mark.parametrize(
    ("text", "code"),
    [
        ("day,min_c,max_c\n2026-05-01,3,9\n", "missing"),
        ("date,min_c,max_c\n", "missing"),
        ("date,min_c,max_c\n01.05.2026,3,9\n", "unknown_choice"),
        ("date,min_c,max_c\n2026-05-01,three,9\n", "not_a_number"),
        ("date,min_c,max_c\n2026-05-01,9,3\n", "too_small"),
        ("date,min_c,max_c\n2026-05-01,3,99\n", "too_large"),
        ("date,min_c,max_c\n2026-05-01,,9\n", "missing"),
        ("date,min_c,max_c,rain_mm\n2026-05-01,3,9,-4\n", "too_small"),
        ("date,min_c,max_c\n2026-05-01,3,9\n2026-05-01,3,9\n", "duplicate"),
        ("\x00\x01binary", "missing"),
    ],
)
def test_broken_weather_files_are_refused_with_the_line(text: str, code: str) -> None:
    with pytest.raises(Refusal) as refusal:
        read_weather(text)
    assert refusal.value.code == code
    assert refusal.value.field == "file"


def even_weather(per_day: float, *, start: date, end: date, rain: dict[date, float] | None = None) -> list[Day]:
    days = (end - start).days + 1
    return [
        Day(on=on, min_c=10 + per_day, max_c=10 + per_day, rain_mm=(rain or {}).get(on, 0.0))
        for on in (start + timedelta(days=number) for number in range(days))
    ]


def due(key: str, found: tuple):  # noqa: ANN201 - a Due
    return next(item for item in found if item.visit.key == key)


def test_visits_fall_due_by_heat_units() -> None:
    """Maize, 10 heat units a day from 1 May: 70 on 8 May, 130 on 14 May."""
    weather = even_weather(10, start=date(2026, 4, 1), end=TODAY)
    dues = schedule("maize", planted_on=date(2026, 5, 1), today=TODAY, weather=weather, done={})
    assert due("first_count", dues).on == date(2026, 5, 8)
    assert due("first_count", dues).state == "overdue"
    assert due("full_count", dues).on == date(2026, 5, 14)
    assert "reached on 14 May" in due("full_count", dues).reason
    later = due("canopy", dues)
    assert later.state == "coming"
    assert later.on == TODAY + timedelta(days=round((380 - 190) / 10))


def test_far_visits_follow_the_same_days_of_earlier_years() -> None:
    """15 heat units a day in summer, 2 in winter: wheat sown in October is not projected at November's pace."""
    start, end = date(2025, 1, 1), date(2026, 11, 26)
    days = [
        Day(on=on, min_c=heat, max_c=heat)
        for on in (start + timedelta(days=number) for number in range((end - start).days + 1))
        for heat in [15.0 if 4 <= on.month <= 9 else 2.0]
    ]
    result = due("lodging", schedule("winter_wheat", planted_on=date(2026, 10, 2), today=end, weather=days, done={}))
    so_far = 2 * (end - date(2026, 10, 2)).days
    until_april = 2 * (date(2027, 3, 31) - end).days
    wanted = date(2027, 3, 31) + timedelta(days=-(-(2300 - so_far - until_april) // 15))
    assert result.on == wanted
    assert f"{so_far} of 2300" in result.reason


def test_without_an_earlier_year_the_usual_days_stand_for_what_is_far() -> None:
    days = even_weather(2, start=date(2026, 9, 1), end=date(2026, 11, 26))
    planted = date(2026, 10, 2)
    result = due("lodging", schedule("winter_wheat", planted_on=planted, today=date(2026, 11, 26), weather=days, done={}))
    assert result.on == planted + timedelta(days=265)
    assert "usual days" in result.reason


def test_without_weather_days_decide_and_say_so() -> None:
    dues = schedule("maize", planted_on=date(2026, 5, 1), today=TODAY, weather=[], done={})
    first = due("first_count", dues)
    assert first.on == date(2026, 5, 11)
    assert "no weather known" in first.reason
    gaps = even_weather(10, start=date(2026, 5, 15), end=TODAY)
    assert due("first_count", schedule("maize", planted_on=date(2026, 5, 1), today=TODAY, weather=gaps, done={})).on == first.on


def test_a_count_serves_one_visit_only() -> None:
    weather = even_weather(10, start=date(2026, 4, 1), end=TODAY)
    once = schedule("maize", planted_on=date(2026, 5, 1), today=TODAY, weather=weather, done={"count": [date(2026, 5, 9)]})
    assert due("first_count", once).state == "done"
    assert due("full_count", once).state == "overdue"
    both = schedule(
        "maize",
        planted_on=date(2026, 5, 1),
        today=TODAY,
        weather=weather,
        done={"count": [date(2026, 5, 9), date(2026, 5, 18)]},
    )
    assert due("full_count", both).state == "done"


def test_wet_days_move_on_and_old_ones_are_let_go() -> None:
    rain = {TODAY: WET_MM + 1}
    weather = even_weather(10, start=date(2026, 4, 1), end=TODAY, rain=rain)
    result = due("full_count", schedule("maize", planted_on=date(2026, 5, 1), today=TODAY, weather=weather, done={}))
    assert (result.state, result.on) == ("wait", TODAY + timedelta(days=1))
    assert "too wet to enter" in result.reason
    late = schedule("maize", planted_on=date(2026, 1, 1), today=TODAY, weather=[], done={})
    assert due("first_count", late).state == "missed"


def test_every_crop_has_visits_in_the_order_of_their_days() -> None:
    for crop in ("winter_wheat", "maize", "sorghum", "sunflower", "field_pea", "lucerne", "other"):
        visits = visits_of(crop)
        assert {visit.key for visit in visits} >= {"first_count", "full_count"}
        assert len({visit.key for visit in visits}) == len(visits)
        for visit in visits:
            assert visit.why
            if visit.task == "measure":
                assert measured(visit.trait)


def test_heat_sum_leaves_out_the_day_of_sowing() -> None:
    weather = even_weather(10, start=date(2026, 5, 1), end=date(2026, 5, 3))
    profile = HeatProfile(base_c=10, upper_c=None, way="mean_first")
    assert heat_sum(weather, profile, after=date(2026, 5, 1), until=date(2026, 5, 3)) == pytest.approx(20)


def test_traits_are_shown_in_known_kinds_and_kept_apart() -> None:
    for trait in MEASURED:
        assert trait.dimension in CANONICAL
        assert trait.kind in KINDS
        assert KINDS[trait.kind][0] == trait.dimension
    assert {trait.key for trait in MEASURED}.isdisjoint({"vigour", "disease"})
    known = {trait.key for trait in MEASURED} | {"stand", ""}
    assert all(trait.against in known for trait in RATED)


def test_samples_become_values() -> None:
    assert per_sample(measured("weeds"), 6, area_m2=0.25) == 24
    assert per_sample(measured("pests"), 31, plants=20) == pytest.approx(1.55)
    assert per_sample(measured("diseased"), 7, plants=20) == 35
    assert per_sample(measured("height"), 0.42) == 0.42


@pytest.mark.parametrize(
    ("trait", "value", "sample", "code", "field"),
    [
        ("weeds", 6, {}, "missing", "area"),
        ("pests", 6, {}, "missing", "plants"),
        ("diseased", 21, {"plants": 20}, "too_large", "value"),
        ("height", 42, {}, "too_large", "value"),
        ("canopy", 101, {}, "too_large", "value"),
        ("stem", -0.01, {}, "too_small", "value"),
    ],
)
def test_samples_that_cannot_be_are_refused(trait: str, value: float, sample: dict, code: str, field: str) -> None:
    with pytest.raises(Refusal) as refusal:
        per_sample(measured(trait), value, **sample)
    assert (refusal.value.code, refusal.value.field) == (code, field)
    for call in (measured, rated):
        with pytest.raises(Refusal):
            call("taste")


def pairs(eye: float, count: float) -> list[StripPair]:
    """Four blocks; the second treatment is rated ``eye`` higher and counted ``count`` higher, with small wobbles."""
    wobble = (0.0, 0.3, -0.2, 0.1)
    return [
        StripPair(
            treatment=treatment,
            block=str(block),
            rating=5 + (eye if treatment == "B" else 0) + (wobble[block] if treatment == "B" else -wobble[block]),
            measured=300 + (count if treatment == "B" else 0) + 10 * (wobble[-1 - block] if treatment == "B" else 0),
        )
        for block in range(4)
        for treatment in ("A", "B")
    ]


def test_the_eye_said_worse_the_count_shows_no_difference() -> None:
    agreement = agreement_of(pairs(-2, 0), design="rcbd", control="A", rating_up=True, measured_up=True, names={"B": "B: 220"})
    (pair,) = agreement.both
    assert (pair.eye, pair.count, pair.agree) == ("worse", "none", False)
    assert pair.words == "B: 220: the eye said worse, the count shows no difference"
    low, high = pair.count_difference.lower, pair.count_difference.upper
    assert low is not None
    assert high is not None
    assert low < 0 < high


def test_both_say_the_same_and_ranks_are_spearmans() -> None:
    strips = pairs(2, 40)
    agreement = agreement_of(strips, design="rcbd", control="A", rating_up=True, measured_up=True)
    assert agreement.both[0].agree
    assert "so does the count" in agreement.both[0].words
    expected = stats.spearmanr([strip.rating for strip in strips], [strip.measured for strip in strips]).statistic
    assert agreement.rank_correlation == pytest.approx(expected)
    turned = agreement_of(strips, design="rcbd", control="A", rating_up=False, measured_up=True)
    assert turned.rank_correlation == pytest.approx(-expected)
    assert turned.both[0].eye == "worse"


def test_all_rated_alike_ranks_nothing() -> None:
    flat = [StripPair(treatment=pair.treatment, block=pair.block, rating=5, measured=pair.measured) for pair in pairs(0, 10)]
    agreement = agreement_of(flat, design="rcbd", control="A", rating_up=True, measured_up=True)
    assert agreement.rank_correlation is None
    assert "alike" in agreement.words
    with pytest.raises(Refusal):
        agreement_of([], design="rcbd", control="A", rating_up=True, measured_up=True)


def nested_case(file: str, treatment: str, response: str) -> tuple[list[StripCounts], dict]:
    reference = case(file, "rcbd", treatment, response, "block")
    grouped: dict[tuple[str, str], list[float]] = defaultdict(list)
    for row in reference.rows:
        grouped[str(row["block"]), str(row[treatment])].append(float(row[response]))
    strips = [StripCounts(treatment=level, block=block, counts=tuple(counts)) for (block, level), counts in grouped.items()]
    return strips, reference.expected


def test_counts_inside_strips_against_r_where_they_are_equal_in_number() -> None:
    """Kiwifruit vines inside plots (Snelgar et al. 1992, by way of DAAG): R's nested analysis, 1e-8."""
    strips, expected = nested_case("o16_subsampling_kiwishade", "shade", "yield")
    stand = nested_stand(strips)
    tests, wrong = expected["nested_tests"], expected["wrong_pseudoreplicated"]
    treatment = next(term for term in stand.comparison.anova if term.term == "treatment")
    assert treatment.f == pytest.approx(tests["f_treatment"], rel=1e-8)
    assert treatment.p == pytest.approx(tests["p_treatment"], abs=1e-5)
    assert stand.within_variance == pytest.approx(tests["variance_sample"], rel=1e-8)
    assert stand.between_variance == pytest.approx(tests["variance_plot"], rel=1e-8)
    assert (stand.comparison.residual_df, stand.pooled_df) == (6, wrong["df2"])
    assert treatment.f != pytest.approx(wrong["f"], rel=0.1)
    assert not [words for words in stand.warnings if "different numbers" in words]


def test_counts_inside_strips_against_r_where_they_are_not() -> None:
    """Simulated stand counts, 3 to 6 a plot: the analysis of plot means, and the mixed model close by."""
    strips, expected = nested_case("o33_subsampling_unequal_simulated", "trt", "count")
    stand = nested_stand(strips)
    wanted = {row["source"]: row for row in expected["plot_mean_anova"]}
    treatment = next(term for term in stand.comparison.anova if term.term == "treatment")
    assert treatment.f == pytest.approx(wanted["trt"]["f"], rel=1e-8)
    assert stand.comparison.residual_df == 8
    assert stand.pooled_df == expected["wrong_pseudoreplicated"]["df2"]
    mixed = expected["lmer_kr"]["f_tests_type3_kenward_roger"][0]
    assert treatment.f == pytest.approx(mixed["f"], rel=0.01)
    assert any("different numbers" in words for words in stand.warnings)
    assert (stand.strips, stand.counts) == (len(strips), len([count for strip in strips for count in strip.counts]))


def test_variance_between_strips_counted_unequally_by_simulation() -> None:
    """Over 300 draws the two components are those that were drawn with, though strips have 2 to 9 counts; within 4 %."""
    draw, sizes = np.random.default_rng(4), (2, 9, 3, 8, 2, 9, 4, 7, 2, 9, 3, 8)
    found = []
    for _ in range(300):
        strips = []
        for place, size in enumerate(sizes):
            own = 30 + draw.normal(0, 3)
            counts = tuple(own + draw.normal(0, 4, size))
            strips.append(StripCounts(treatment="AB"[place % 2], block=str(place // 2), counts=counts))
        stand = nested_stand(strips, design="crd")
        assert stand.comparison.mse is not None
        assert stand.within_variance is not None
        found.append((stand.within_variance, stand.comparison.mse, stand.between_variance))
    within, _, between = np.mean(np.array(found, dtype=float), axis=0)
    assert within == pytest.approx(16, rel=0.04)
    mse = np.mean([row[1] for row in found])
    assert mse - within * np.mean([1 / size for size in sizes]) == pytest.approx(9, rel=0.06)
    assert between == pytest.approx(9, rel=0.08), "cut off at nought it lies a little higher"


def test_one_count_a_strip_measures_no_variation_inside() -> None:
    strips = [
        StripCounts(treatment=t, block=b, counts=(v,))
        for t, b, v in (("A", "1", 3.0), ("B", "1", 4.0), ("A", "2", 3.5), ("B", "2", 4.1))
    ]
    stand = nested_stand(strips)
    assert stand.within_variance is None
    assert stand.between_variance is None
    with pytest.raises(Refusal) as refusal:
        nested_stand([StripCounts(treatment="A", block="1", counts=())])
    assert refusal.value.code == "no_response"
