"""Letters: whatever the pattern of differences, two levels share a letter exactly when they do not differ."""

from __future__ import annotations

from itertools import combinations

from cultrix_core.stats.letters import compact_letters
from hypothesis import given
from hypothesis import strategies as st

LEVELS = list("PQRSTUV")


@given(st.sets(st.sampled_from(list(combinations(LEVELS, 2)))))
def test_sharing_a_letter_is_not_differing(differing: set[tuple[str, str]]) -> None:
    letters = compact_letters(LEVELS, differing)
    for left, right in combinations(LEVELS, 2):
        share = bool(set(letters[left]) & set(letters[right]))
        assert share == ((left, right) not in differing)


@given(st.sets(st.sampled_from(list(combinations(LEVELS, 2)))))
def test_no_letter_is_idle(differing: set[tuple[str, str]]) -> None:
    letters = compact_letters(LEVELS, differing)
    used = sorted(set("".join(letters.values())))
    groups = {letter: {level for level in LEVELS if letter in letters[level]} for letter in used}
    for name, other in combinations(used, 2):
        assert not groups[name] <= groups[other]
        assert not groups[other] <= groups[name]
    assert used[0] == "a"


def test_the_pattern_of_piephos_example() -> None:
    """Insert-and-absorb on four levels with 1–3, 1–4 and 2–4 differing gives a, ab, bc, c (Piepho 2004, from memory)."""
    letters = compact_letters(["1", "2", "3", "4"], [("1", "3"), ("1", "4"), ("2", "4")])
    assert letters == {"1": "a", "2": "ab", "3": "bc", "4": "c"}


def test_more_than_26_groups() -> None:
    levels = [f"L{number}" for number in range(30)]
    letters = compact_letters(levels, list(combinations(levels, 2)))
    assert len(set(letters.values())) == 30
    assert letters["L26"] == "aa"
