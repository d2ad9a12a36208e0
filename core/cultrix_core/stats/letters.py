"""Compact letter display by insert-and-absorb.

Levels that share a letter are not shown to differ. Start with one column holding every level; for each
pair that differs, split every column holding both; drop columns contained in others [1].

References: [1] Piepho (2004) An algorithm for a letter-based representation of all-pairwise
comparisons, J. Comput. Graph. Stat. 13:456–466 (from memory).
"""

from __future__ import annotations

from collections.abc import Collection, Sequence


def compact_letters(order: Sequence[str], differing: Collection[tuple[str, str]]) -> dict[str, str]:
    """Letters for each level.

    Parameters
    ----------
    order : levels from the highest mean to the lowest; the first column seen gets the letter a.
    differing : pairs (in either order) that differ at the chosen level.
    """
    columns: list[frozenset[str]] = [frozenset(order)]
    for left, right in differing:
        split: list[frozenset[str]] = []
        for column in columns:
            if left in column and right in column:  # insert
                split += [column - {left}, column - {right}]
            else:
                split.append(column)
        columns = _absorb(split)
    rank = {level: place for place, level in enumerate(order)}
    columns.sort(key=lambda column: sorted(rank[level] for level in column))
    return {level: "".join(_letter(place) for place, column in enumerate(columns) if level in column) for level in order}


def _absorb(columns: list[frozenset[str]]) -> list[frozenset[str]]:
    unique = list(dict.fromkeys(columns))
    return [names for names in unique if not any(names < other for other in unique)]


def _letter(place: int) -> str:
    alphabet = "abcdefghijklmnopqrstuvwxyz"
    return alphabet[place] if place < 26 else alphabet[place // 26 - 1] + alphabet[place % 26]
