"""Traits of a farm's own: what their keys say, what is refused, and how they are shown."""

from __future__ import annotations

import pytest
from cultrix_core.errors import Refusal
from cultrix_core.season.own_traits import OwnTrait, own_kind, own_trait, own_trait_key
from cultrix_core.season.responses import is_judged_response, response_of
from cultrix_core.season.traits import MEASURED, RATED, measured, per_sample, rated
from cultrix_core.unit_formatting import UnitFormatter
from hypothesis import given
from hypothesis import strategies as st

SUGAR = OwnTrait(name="Sugar", way="number", unit="°Bx", low=0, high=40, decimals=1, better="more")
CHILL = OwnTrait(name="Canopy less air", way="number", unit="°C", low=-15, high=15, decimals=2, better="less")
GREEN = OwnTrait(name="Stay green", way="rating", low=0, high=10, words=("dry", "all green"), better="more")
RUST = OwnTrait(name="Rust", way="choice", words=("none", "patches", "everywhere"))


@pytest.mark.parametrize("trait", [SUGAR, CHILL, GREEN, RUST], ids=lambda trait: trait.name)
def test_a_key_says_the_trait_again(trait: OwnTrait) -> None:
    assert own_trait(own_trait_key(trait)) == trait


@given(
    name=st.from_regex(r"[A-Za-z][A-Za-z0-9 ]{0,20}[a-z]", fullmatch=True),
    low=st.integers(-9_999, 9_999),
    span=st.integers(1, 9_999),
    decimals=st.integers(0, 4),
)
def test_any_number_comes_back(name: str, low: int, span: int, decimals: int) -> None:
    trait = OwnTrait(name=" ".join(name.split()), way="number", low=low / 10, high=(low + span) / 10, decimals=decimals)
    assert own_trait(own_trait_key(trait)) == trait


@pytest.mark.parametrize(
    ("trait", "field"),
    [
        (OwnTrait(name="", way="number", low=0, high=1), "name"),
        (OwnTrait(name="a|b", way="number", low=0, high=1), "name"),
        (OwnTrait(name="Sugar", way="number", unit="x|y", low=0, high=1), "unit"),
        (OwnTrait(name="Sugar", way="number", unit="a" * 13, low=0, high=1), "unit"),
        (OwnTrait(name="Sugar", way="number", low=3, high=3), "high"),
        (OwnTrait(name="Sugar", way="number", low=0, high=1e9), "high"),
        (OwnTrait(name="Sugar", way="number", low=0, high=1, decimals=5), "decimals"),
        (OwnTrait(name="Green", way="rating", low=0, high=11, words=("a", "b")), "high"),
        (OwnTrait(name="Green", way="rating", low=0.5, high=5, words=("a", "b")), "high"),
        (OwnTrait(name="Green", way="rating", low=-1, high=5, words=("a", "b")), "high"),
        (OwnTrait(name="Green", way="rating", low=1, high=5, words=("a",)), "words"),
        (OwnTrait(name="Rust", way="choice", words=("none",)), "words"),
        (OwnTrait(name="Rust", way="choice", words=("none", "None")), "words"),
        (OwnTrait(name="Rust", way="choice", words=tuple("abcdefghij")), "words"),
    ],
)
def test_what_cannot_be_is_refused(trait: OwnTrait, field: str) -> None:
    with pytest.raises(Refusal) as refused:
        own_trait_key(trait)
    assert refused.value.field == field


@pytest.mark.parametrize(
    "key", ["own|", "own|number|Sugar", "own|number|Sugar|°Bx|40|0|1|more", "own|choice|Rust|none", "own|rating|G|1|9|a/b|best"]
)
def test_a_key_that_none_made_is_no_trait(key: str) -> None:
    assert own_trait(key) is None
    with pytest.raises(Refusal):
        measured(key)


def test_a_number_keeps_its_limits_and_its_unit() -> None:
    trait = measured(own_trait_key(CHILL))
    assert per_sample(trait, -3.25) == -3.25
    for value in (-15.1, 15.1):
        with pytest.raises(Refusal):
            per_sample(trait, value)
    for system in ("metric", "us"):
        show = UnitFormatter(system=system)
        assert show.text(-3.256, trait.kind) == "−3.26 °C", "its own unit, whatever the reader's"
    assert UnitFormatter(system="us").text(18, own_kind(SUGAR)) == "18.0 °Bx"


def test_a_scale_and_words() -> None:
    green, rust = rated(own_trait_key(GREEN)), rated(own_trait_key(RUST))
    assert (green.lowest, green.highest, green.low, green.high) == (0, 10, "dry", "all green")
    assert (rust.choices, rust.highest) == (("none", "patches", "everywhere"), 3)
    assert {(trait.lowest, trait.highest) for trait in RATED} == {(1, 9)}
    assert {trait.least for trait in MEASURED} == {0}


def test_what_a_trial_may_be_judged_by() -> None:
    """A number and a rating; words have no mean, so nothing is judged by them."""
    sugar, green = f"measure:{own_trait_key(SUGAR)}", f"rating:{own_trait_key(GREEN)}"
    assert (response_of(sugar).name, response_of(sugar).more_is_better) == ("Sugar", True)
    assert response_of(green).noun == "rating of stay green"
    for key in (f"rating:{own_trait_key(RUST)}", f"rating:{own_trait_key(SUGAR)}", f"measure:{own_trait_key(GREEN)}"):
        assert not is_judged_response(key)
