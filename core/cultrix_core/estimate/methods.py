"""Methods of estimating yield: what is counted on an area, what is measured on each piece, and the product of the two.

A place (spot) is an area on which the units that bear the yield are counted: ears, heads, plants, bulbs. Pieces drawn
among them are measured one by one, and each piece gives one product: kernel rows × kernels per row, spikelets × seeds on
each, π/4 (D² − d²) × filled seeds per area, pods × seeds per pod, or a weight less its tare. The place then yields

    units per area × mean product of its pieces        (seeds per m², or kg per m²)

Products are formed on every piece before they are averaged: where long ears also have more rows, the product of the two
means is too low by their covariance. Forage and residue are weighed from the whole area and turned into dry matter.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from cultrix_core.errors import Refusal

Gives = Literal["seeds", "mass"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Field:
    """One entry of a piece or of a place. ``low`` and ``high`` are hard limits in canonical units."""

    key: str
    label: str
    dimension: str = "number"
    kind: str = "count"
    low: float = 0.0
    high: float = 1e6
    whole: bool = False
    optional: bool = False
    choices: tuple[tuple[str, str], ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Method:
    """A method. ``counted``: what is counted on the area, empty where the whole area is weighed."""

    key: str
    name: str
    piece: str
    pieces: str
    counted: str
    piece_fields: tuple[Field, ...]
    place_fields: tuple[Field, ...]
    gives: Gives
    places: int
    drawn: int
    formula: str
    caution: str = ""
    framed: bool = False


_TARE = Field(key="tare", label="Tare of the bowl or bag", dimension="mass", kind="catch", high=100, optional=True)
_WET = Field(key="gross", label="Weight as cut, with the bag", dimension="mass", kind="catch", high=500)
_MAIN = Field(key="gross", label="Main crop as cut, with the bag", dimension="mass", kind="catch", high=500, optional=True)
_DM = (
    Field(key="dm_wet", label="Sub-sample before drying", dimension="mass", kind="catch", high=50, optional=True),
    Field(key="dm_dry", label="The same, dried", dimension="mass", kind="catch", high=50, optional=True),
    Field(key="dm_pct", label="or dry matter known", dimension="percent", kind="percent", low=1, high=100, optional=True),
)
_OVEN = "Samples drying in an oven or microwave are never left alone."

METHODS: tuple[Method, ...] = (
    Method(
        key="ears",
        name="Ears",
        piece="ear",
        pieces="ears",
        counted="Ears on the area",
        piece_fields=(
            Field(key="kernel_rows", label="Kernel rows", high=40, whole=True),
            Field(key="kernels_per_row", label="Kernels in a row", high=100),
        ),
        place_fields=(),
        gives="seeds",
        places=2,
        drawn=5,
        formula="ears per area × (kernel rows × kernels in a row of each ear) × kernel weight",
        caution="A blind ear is an ear without grain: count it on the area, and type 0 rows and 0 kernels when it is drawn.",
    ),
    Method(
        key="pods",
        name="Pods on a small area",
        piece="plant",
        pieces="plants",
        counted="Plants on the area",
        piece_fields=(Field(key="pods", label="Pods on the plant", high=2000, whole=True),),
        place_fields=(
            Field(key="pods_opened", label="Pods opened", low=1, high=1000, whole=True),
            Field(key="seeds_in_pods", label="Seeds found in them", high=10_000, whole=True),
            Field(
                key="shortest_pod",
                label="Shortest pod counted",
                dimension="length",
                kind="row_spacing",
                high=0.5,
                optional=True,
            ),
        ),
        gives="seeds",
        places=2,
        drawn=8,
        formula="plants per area × pods of each plant × seeds per pod × seed weight",
    ),
    Method(
        key="heads",
        name="Heads or spikes",
        piece="head",
        pieces="heads",
        counted="Heads on the area, small late ones too",
        piece_fields=(
            Field(key="groups", label="Spikelets or branches", low=1, high=400, whole=True, optional=True),
            Field(key="seeds_each", label="Seeds on each, or in the head", high=10_000),
        ),
        place_fields=(),
        gives="seeds",
        places=3,
        drawn=5,
        formula="heads per area × (spikelets × seeds on each, of each head) × seed weight",
    ),
    Method(
        key="discs",
        name="Sunflower discs",
        piece="disc",
        pieces="discs",
        counted="Heads on the area",
        piece_fields=(
            Field(key="diameter", label="Disc across", dimension="length", kind="plant_height", low=0.01, high=0.8),
            Field(
                key="empty_centre",
                label="Empty centre across",
                dimension="length",
                kind="plant_height",
                high=0.8,
                optional=True,
            ),
            Field(key="filled_per_cm2", label="Filled seeds on 1 cm²", low=0.1, high=40),
        ),
        place_fields=(),
        gives="seeds",
        places=2,
        drawn=5,
        formula="heads per area × π/4 (D² − d²) × filled seeds per cm² of each disc × seed weight",
    ),
    Method(
        key="pulses",
        name="Pulses by plant",
        piece="plant",
        pieces="plants",
        counted="Plants on the area",
        piece_fields=(
            Field(key="pods", label="Pods on the plant", high=2000, whole=True),
            Field(key="seeds_per_pod", label="Seeds per pod, counted on it", high=60),
        ),
        place_fields=(),
        gives="seeds",
        places=3,
        drawn=5,
        formula="plants per area × (pods × seeds per pod of each plant) × seed weight",
    ),
    Method(
        key="counted",
        name="Bulbs, roots, fruits",
        piece="piece",
        pieces="pieces",
        counted="Surviving on the area",
        piece_fields=(
            Field(key="gross", label="Weight, with the bowl", dimension="mass", kind="catch", high=200),
            Field(key="number_in", label="Pieces in the bowl", low=1, high=500, whole=True, optional=True),
        ),
        place_fields=(
            _TARE,
            Field(
                key="state",
                label="Weighed",
                dimension="choice",
                choices=(("fresh", "fresh"), ("cured", "cured")),
                optional=True,
            ),
            Field(key="cured_days", label="Days cured", high=400, optional=True),
            Field(key="planted", label="Planted on the area", high=100_000, whole=True, optional=True),
        ),
        gives="mass",
        places=2,
        drawn=5,
        formula="surviving per area × mean weight less tare",
    ),
    Method(
        key="forage",
        name="Forage cut from a frame",
        piece="cut",
        pieces="cuts",
        counted="",
        piece_fields=(),
        place_fields=(
            _MAIN,
            _TARE,
            *_DM,
            Field(
                key="companion_gross",
                label="Companion crop, weighed apart",
                dimension="mass",
                kind="catch",
                high=500,
                optional=True,
            ),
            Field(
                key="companion_dm_pct",
                label="Its dry matter",
                dimension="percent",
                kind="percent",
                low=1,
                high=100,
                optional=True,
            ),
        ),
        gives="mass",
        places=3,
        drawn=0,
        formula="(weight as cut − tare) × dry matter ÷ area",
        caution=_OVEN,
        framed=True,
    ),
    Method(
        key="residue",
        name="Residue before and after grazing",
        piece="cut",
        pieces="cuts",
        counted="",
        piece_fields=(),
        place_fields=(
            Field(
                key="phase",
                label="Taken",
                dimension="choice",
                choices=(("before", "before grazing"), ("after", "after grazing")),
            ),
            _WET,
            _TARE,
            *_DM,
        ),
        gives="mass",
        places=3,
        drawn=0,
        formula="(weight as raked − tare) × dry matter ÷ area, before less after",
        caution=f"Turn stock onto stubble slowly: grain overload kills. Mind nitrate after drought and frost. {_OVEN}",
        framed=True,
    ),
)
_BY_KEY = {method.key: method for method in METHODS}


def method_of(key: str) -> Method:
    """The method named ``key``; refuses ``unknown_choice``."""
    if key not in _BY_KEY:
        raise Refusal("unknown_choice", field="method", value=key, limit=", ".join(_BY_KEY))
    return _BY_KEY[key]
