"""What is measured and what is judged in season, and what a believable value is.

Measured and judged are kept apart: a measurement has a unit and a sample, a rating is what an eye says on a scale of 1
to 9. Believable ranges only raise questions (common practice, no source); limits refuse what cannot be.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from cultrix_core.errors import Refusal
from cultrix_core.season.own_traits import is_own, own_kind, own_trait

By = Literal["plant", "strip", "area", "plants"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Measured:
    """A measured trait in the canonical unit of ``dimension``, shown as ``kind``.

    ``by``: one value a plant; one a place on the strip; a count in a frame of known area; a count on so many plants.
    ``subject``: what is asked beside (species, pest). ``more_is_better``: None where neither is.
    """

    key: str
    name: str
    dimension: str
    kind: str
    by: By
    most: float
    usual: tuple[float, float] | None = None
    subject: str = ""
    more_is_better: bool | None = None
    hint: str = ""
    least: float = 0


LOWEST, HIGHEST = 1, 9


@dataclass(frozen=True, slots=True, kw_only=True)
class Rated:
    """A judged trait on 1–9; ``low`` and ``high`` are the words at the ends. ``against``: the measured trait or "stand".

    A farm's own may have another scale; with ``choices``, the score is the number of the one chosen, and never averaged.
    """

    key: str
    name: str
    low: str
    high: str
    more_is_better: bool | None
    against: str = ""
    lowest: int = LOWEST
    highest: int = HIGHEST
    choices: tuple[str, ...] = ()


MEASURED: tuple[Measured, ...] = (
    Measured(
        key="height",
        name="Height",
        dimension="length",
        kind="plant_height",
        by="plant",
        most=6,
        usual=(0.02, 3.5),
        hint="From the ground to the tip of the longest leaf, or to the ear once it is out; the same way on every strip.",
    ),
    Measured(
        key="stem",
        name="Stem diameter",
        dimension="length",
        kind="stem",
        by="plant",
        most=0.12,
        usual=(0.001, 0.05),
        more_is_better=True,
        hint="The thinner side, second internode above ground.",
    ),
    Measured(
        key="canopy",
        name="Ground covered by the crop",
        dimension="percent",
        kind="percent",
        by="strip",
        most=100,
        more_is_better=True,
        hint="Seen from straight above; rows are closed when no ground is seen between them.",
    ),
    Measured(
        key="weeds",
        name="Weeds",
        dimension="areal_density",
        kind="density_dense",
        by="area",
        most=5000,
        usual=(0, 500),
        subject="Kind of weed",
        more_is_better=False,
        hint="Each kind by itself, in the frame laid at the place drawn.",
    ),
    Measured(
        key="pests",
        name="Pests",
        dimension="count",
        kind="count_per_plant",
        by="plants",
        most=2000,
        usual=(0, 200),
        subject="Pest",
        more_is_better=False,
        hint="All of them on so many plants in a row, none left out.",
    ),
    Measured(
        key="diseased",
        name="Plants with disease",
        dimension="percent",
        kind="percent",
        by="plants",
        most=100,
        subject="Disease",
        more_is_better=False,
        hint="Plants that show it, out of so many looked at in a row.",
    ),
    Measured(
        key="flowering",
        name="Plants in flower",
        dimension="percent",
        kind="percent",
        by="plants",
        most=100,
        hint="Plants with at least one open flower, out of so many in a row.",
    ),
    Measured(
        key="lodged",
        name="Lodged",
        dimension="percent",
        kind="percent",
        by="strip",
        most=100,
        more_is_better=False,
        hint="Share of the strip leaning more than 45°.",
    ),
    Measured(
        key="leaves",
        name="Leaves by the crop's rule",
        dimension="count",
        kind="count",
        by="plant",
        most=30,
        hint="See the picture: what counts and what does not.",
    ),
    Measured(
        key="crown",
        name="Crowns that can be felt",
        dimension="percent",
        kind="percent",
        by="plants",
        most=100,
        more_is_better=True,
        hint="Autumn-sown forage winters once a crown can be felt, usually at "
        "{plant_height 0.08 to 0.10} of growth; height alone does not tell.",
    ),
)
RATED: tuple[Rated, ...] = (
    Rated(key="vigour", name="Vigour", low="weak", high="strong", more_is_better=True, against="stand"),
    Rated(key="stand", name="Stand", low="thin", high="full", more_is_better=True, against="stand"),
    Rated(key="evenness", name="Evenness", low="patchy", high="even", more_is_better=True),
    Rated(key="weediness", name="Weeds", low="clean", high="full of weeds", more_is_better=False, against="weeds"),
    Rated(key="disease", name="Disease", low="healthy", high="all leaves hit", more_is_better=False, against="diseased"),
    Rated(key="pest_damage", name="Damage by pests", low="none", high="bare", more_is_better=False, against="pests"),
    Rated(key="lodging", name="Lodging", low="upright", high="flat", more_is_better=False, against="lodged"),
    Rated(key="flower", name="Evenness of flowering", low="uneven", high="all at once", more_is_better=True),
    Rated(key="colour", name="Colour", low="pale", high="dark green", more_is_better=True),
)


def measured(key: str) -> Measured:
    """A measured trait; refuses ``unknown_choice``."""
    result = next((item for item in MEASURED if item.key == key), None) or _own_measured(key)
    if result is None:
        raise Refusal(
            "unknown_choice", field="trait", label="What is measured", value=key, limit=", ".join(item.key for item in MEASURED)
        )
    return result


def rated(key: str) -> Rated:
    """A judged trait; refuses ``unknown_choice``."""
    result = next((item for item in RATED if item.key == key), None) or _own_rated(key)
    if result is None:
        raise Refusal(
            "unknown_choice", field="trait", label="What is judged", value=key, limit=", ".join(item.key for item in RATED)
        )
    return result


def _own_measured(key: str) -> Measured | None:
    trait = own_trait(key) if is_own(key) else None
    if trait is None or trait.way != "number":
        return None
    return Measured(
        key=key,
        name=trait.name,
        dimension="count",
        kind=own_kind(trait),
        by="strip",
        least=trait.low,
        most=trait.high,
        more_is_better=_BETTER[trait.better],
    )


def _own_rated(key: str) -> Rated | None:
    trait = own_trait(key) if is_own(key) else None
    if trait is None or trait.way == "number":
        return None
    if trait.way == "choice":
        ends, highest = (trait.words[0], trait.words[-1]), len(trait.words)
        return Rated(
            key=key,
            name=trait.name,
            low=ends[0],
            high=ends[1],
            more_is_better=None,
            lowest=1,
            highest=highest,
            choices=trait.words,
        )
    return Rated(
        key=key,
        name=trait.name,
        low=trait.words[0],
        high=trait.words[1],
        more_is_better=_BETTER[trait.better],
        lowest=int(trait.low),
        highest=int(trait.high),
    )


_BETTER = {"more": True, "less": False, "": None}


def per_sample(trait: Measured, value: float, *, plants: int | None = None, area_m2: float | None = None) -> float:
    """What was typed as the trait's own value: a count in a frame per m², a count on plants per plant or percent of them.

    Raises
    ------
    Refusal : ``missing`` sample, ``too_large`` beyond what can be.
    """
    if value < trait.least:
        raise Refusal("too_small", field="value", label=trait.name, value=f"{value:g}", limit=f"{trait.least:g}")
    result = value
    if trait.by == "area":
        if area_m2 is None or area_m2 <= 0:
            raise Refusal("missing", field="area", label="Area of the frame", remedy="A count needs the ground it was made on.")
        result = value / area_m2
    if trait.by == "plants":
        if plants is None or plants < 1:
            raise Refusal("missing", field="plants", label="Plants looked at", remedy="Say how many plants were looked at.")
        if trait.dimension == "percent" and value > plants:
            raise Refusal(
                "too_large",
                field="value",
                label=trait.name,
                value=f"{value:g}",
                limit=plants,
                remedy="More than were looked at.",
            )
        result = 100 * value / plants if trait.dimension == "percent" else value / plants
    if result > trait.most:
        raise Refusal(
            "too_large", field="value", label=trait.name, value=f"{result:g}", limit=f"{trait.most:g}", remedy="Check the unit."
        )
    return result
