"""What a trial may be judged by beside yield and net return: anything its plan records, with its unit and its better end."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

from cultrix_core.errors import Refusal
from cultrix_core.season.own_traits import is_own, own_trait
from cultrix_core.season.traits import MEASURED, RATED, Measured, Rated, measured, rated

Source = Literal["stand", "emergence", "harvest", "measure", "rating"]


@dataclass(frozen=True, slots=True, kw_only=True)
class JudgedResponse:
    """A response: ``name`` as a label, ``noun`` inside a sentence, canonical unit of ``dimension``, shown as ``kind``.

    ``share_of``: what a proportion is of, where it is one with a known number: it gets an analysis on the logit scale beside.
    ``more_is_better``: None where neither is.
    """

    key: str
    name: str
    noun: str
    dimension: str
    kind: str
    source: Source
    more_is_better: bool | None
    share_of: str = ""


def _noun(name: str) -> str:
    return name[:1].lower() + name[1:]


def _measured_response(trait: Measured) -> JudgedResponse:
    return JudgedResponse(
        key=f"measure:{trait.key}",
        name=trait.name,
        noun=_noun(trait.name),
        dimension=trait.dimension,
        kind=trait.kind,
        source="measure",
        more_is_better=trait.more_is_better,
        share_of="plants looked at" if trait.by == "plants" and trait.dimension == "percent" else "",
    )


def _rated_response(trait: Rated) -> JudgedResponse:
    return JudgedResponse(
        key=f"rating:{trait.key}",
        name=f"Rating: {_noun(trait.name)}",
        noun=f"rating of {_noun(trait.name)}",
        dimension="count",
        kind="rating",
        source="rating",
        more_is_better=trait.more_is_better,
    )


RESPONSES: tuple[JudgedResponse, ...] = (
    JudgedResponse(
        key="stand",
        name="Stand",
        noun="stand",
        dimension="areal_density",
        kind="density",
        source="stand",
        more_is_better=None,
    ),
    JudgedResponse(
        key="emerged",
        name="Emergence, share of the seed sown",
        noun="emergence",
        dimension="percent",
        kind="percent",
        source="emergence",
        more_is_better=True,
        share_of="seeds sown",
    ),
    JudgedResponse(
        key="half_emergence",
        name="Days to half emergence",
        noun="time to half emergence",
        dimension="duration",
        kind="days",
        source="emergence",
        more_is_better=False,
    ),
    JudgedResponse(
        key="evenness",
        name="Days between first and last tenth of emergence",
        noun="time between first and last tenth",
        dimension="duration",
        kind="days",
        source="emergence",
        more_is_better=False,
    ),
    JudgedResponse(
        key="test_weight",
        name="Test weight",
        noun="test weight",
        dimension="test_weight",
        kind="test_weight",
        source="harvest",
        more_is_better=True,
    ),
    JudgedResponse(
        key="piece_weight",
        name="Weight of a bulb, head or fruit",
        noun="weight of a piece",
        dimension="mass",
        kind="catch",
        source="harvest",
        more_is_better=True,
    ),
    *(_measured_response(trait) for trait in MEASURED),
    *(_rated_response(trait) for trait in RATED),
)
_BY_KEY = {response.key: response for response in RESPONSES}


def response_of(key: str) -> JudgedResponse:
    """The response named ``key``, also one of a farm's own traits; refuses ``unknown_choice``."""
    response = _BY_KEY.get(key) or own_response(key)
    if response is None:
        limit = ", ".join(["yield", "net_return", *_BY_KEY])
        raise Refusal("unknown_choice", field="primary_response", label="Judged by", value=key, limit=limit)
    return response


@lru_cache(maxsize=512)
def own_response(key: str) -> JudgedResponse | None:
    """The response of a farm's own trait; None where there is none: words that are chosen between have no mean."""
    source, _, trait = key.partition(":")
    known = own_trait(trait) if is_own(trait) else None
    if known is None or known.way == "choice" or source != ("measure" if known.way == "number" else "rating"):
        return None
    return _measured_response(measured(trait)) if known.way == "number" else _rated_response(rated(trait))


def is_judged_response(key: str) -> bool:
    """Whether a trial may be judged by this, beside yield and net return."""
    return key in _BY_KEY or own_response(key) is not None
