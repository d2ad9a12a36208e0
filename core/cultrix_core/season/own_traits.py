"""Traits of a farm's own: a number with a unit and limits, a rating on a scale, a choice between words.

The key of such a trait says all there is to know of it, so a record, a file and another farm read it without a list:
``own|number|Sugar|°Bx|0|40|1|more``.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal, cast, get_args

from cultrix_core.errors import Refusal

Way = Literal["number", "rating", "choice"]
Better = Literal["", "more", "less"]
WAYS: tuple[Way, ...] = get_args(Way)
MARK = "own|"
MOST_DECIMALS = 4
WIDEST_SCALE = 10  # steps of a rating: more cannot be told apart by eye, and have no room on a phone
MOST_CHOICES = 9
LONGEST_KEY = 240
_NAME = re.compile(r"[^\W_](?:[\w ()/.,'’+-]{0,38}[\w)])?")
_UNIT = re.compile(r"[\w°%/·²³⁻¹.^ -]{0,12}")
_WORD = re.compile(r"[^\W_](?:[\w ()/'’+-]{0,22}[\w)])?")
_NUMBER = re.compile(r"-?\d{1,7}(?:\.\d{1,4})?")


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnTrait:
    """What the key says.

    ``low``, ``high``: limits of a number in ``unit``; of a rating the ends of its scale, whole numbers, with ``words`` for the
    two. Of a choice, ``words`` are what is chosen between. ``better``: which end is the better one.
    """

    name: str
    way: Way
    unit: str = ""
    low: float = 0
    high: float = 0
    decimals: int = 0
    better: Better = ""
    words: tuple[str, ...] = ()


def own_trait_key(trait: OwnTrait) -> str:
    """Key of a trait.

    Parameters
    ----------
    trait : name up to 40 signs, unit up to 12, words up to 24 signs each.

    Raises
    ------
    Refusal : ``unknown_choice`` way or better end; ``bad_trait`` name, unit or words; ``too_large`` scale or list;
        ``wrong_order`` limits.

    Examples
    --------
    >>> own_trait_key(OwnTrait(name="Sugar", way="number", unit="°Bx", low=0, high=40, decimals=1, better="more"))
    'own|number|Sugar|°Bx|0|40|1|more'
    """
    name = " ".join(trait.name.split())
    if trait.way not in WAYS:
        raise Refusal("unknown_choice", field="way", label="How it is recorded", value=trait.way, limit=", ".join(WAYS))
    if trait.better not in get_args(Better):
        raise Refusal("unknown_choice", field="better", label="The better end", value=trait.better, limit="more, less, neither")
    if not _NAME.fullmatch(name):
        raise Refusal("bad_trait", field="name", label="The name", value=name[:50])
    if trait.way == "choice":
        words = _words(trait.words, 2, MOST_CHOICES)
        return _fitting(f"{MARK}choice|{name}|{'/'.join(words)}")
    low, high = _limit(trait.low), _limit(trait.high)
    if float(low) >= float(high):
        raise Refusal("wrong_order", field="high", label="The limits", value=f"{low} to {high}")
    if trait.way == "number":
        unit = " ".join(trait.unit.split())
        if not _UNIT.fullmatch(unit):
            raise Refusal("bad_trait", field="unit", label="The unit", value=unit[:20])
        if not 0 <= trait.decimals <= MOST_DECIMALS:
            raise Refusal("too_large", field="decimals", label="Decimals", value=trait.decimals, limit=MOST_DECIMALS)
        return _fitting(f"{MARK}number|{name}|{unit}|{low}|{high}|{trait.decimals}|{trait.better}")
    if "." in low + high or float(low) < 0 or float(high) - float(low) > WIDEST_SCALE:
        raise Refusal(
            "too_large",
            field="high",
            label="The scale",
            value=f"{low} to {high}",
            limit=f"{WIDEST_SCALE} whole steps from 0 on",
        )
    words = _words(trait.words, 2, 2)
    return _fitting(f"{MARK}rating|{name}|{low}|{high}|{'/'.join(words)}|{trait.better}")


def _limit(value: float) -> str:
    text = f"{value:.4f}".rstrip("0").rstrip(".")
    if not _NUMBER.fullmatch(text):
        raise Refusal("too_large", field="high", label="A limit", value=f"{value:g}", limit="7 digits before the point")
    return "0" if text == "-0" else text


def _words(words: tuple[str, ...], fewest: int, most: int) -> list[str]:
    plain = [" ".join(word.replace("/", " ").split()) for word in words]
    plain = [word for word in plain if word]
    if not fewest <= len(plain) <= most:
        raise Refusal("too_large", field="words", label="The words", value=len(plain), limit=f"{fewest} to {most} of them")
    for word in plain:
        if not _WORD.fullmatch(word):
            raise Refusal("bad_trait", field="words", label="A word", value=word[:30])
    if len({word.casefold() for word in plain}) < len(plain):
        raise Refusal("duplicate", field="words", label="A word", value="twice", remedy="Each once.")
    return plain


def _fitting(key: str) -> str:
    if len(key) > LONGEST_KEY:
        raise Refusal("too_large", field="words", label="Name, unit and words together", value=len(key), limit=LONGEST_KEY)
    return key


def is_own(key: str) -> bool:
    """Whether a key is one of a farm's own traits."""
    return key.startswith(MARK)


@lru_cache(maxsize=512)
def own_trait(key: str) -> OwnTrait | None:
    """What a key says; None where it is none that ``own_trait_key`` makes."""
    way, _, rest = key.removeprefix(MARK).partition("|")
    parts = rest.split("|")
    try:
        if way == "number":
            name, unit, low, high, decimals, better = parts
            trait = OwnTrait(
                name=name,
                way="number",
                unit=unit,
                low=float(low),
                high=float(high),
                decimals=int(decimals),
                better=cast(Better, better),
            )
        elif way == "rating":
            name, low, high, words, better = parts
            ends = tuple(words.split("/"))
            trait = OwnTrait(name=name, way="rating", low=float(low), high=float(high), words=ends, better=cast(Better, better))
        else:
            name, words = parts
            trait = OwnTrait(name=name, way="choice", words=tuple(words.split("/")))
        return trait if own_trait_key(trait) == key else None
    except (ValueError, Refusal):
        return None


def own_kind(trait: OwnTrait) -> str:
    """The kind of quantity that a number is shown as: its decimals and its unit."""
    return f"{MARK}{trait.decimals}|{trait.unit}"
