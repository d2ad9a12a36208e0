"""Seed lots: what is in a bag, what it costs, and the chain from seed sown to plants that stand.

Definitions, shares of the weight of a bag. Pure seed = label purity, when the label's shares are of the whole bag
(the coating then counts as inert); or (1 − coating) × purity, when purity is of the seed without its coating.
Live = germination + hard seed, where the crop counts hard seed. Pure live seed = pure seed × live.

A thousand-seed weight may be of coated seed or of the bare seed inside: bare = coated × (1 − coating). What the
drill must let through for a thousand pure seeds is bare weight ÷ pure share of the bag.

Chain. Plants at harvest = seeds sown × [germination] × emergence × survival; germination is in it only when the
expected emergence is of live seed. An emergence of seed sown has germination in it already.

Coats: clay about 32 % of the bag, polymer 8–10 % (common practice, no source).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.seeding.rates import Lot

USUAL_COATING_PCT: dict[str, float] = {"clay": 32.0, "polymer": 9.0}

WeightOf = Literal["bare", "coated"]
PurityOf = Literal["bag", "seed"]
EmergenceOf = Literal["sown", "live"]


@dataclass(frozen=True, slots=True, kw_only=True)
class SeedLot:
    """A lot as its tag tells it; percentages of weight, None where not known.

    ``weight_of``: whether the thousand-seed weight is of coated or bare seed. ``purity_of``: whether the pure-seed
    percent is of the whole bag or of the seed without its coating. A bag holds ``bag_seeds`` or ``bag_kg``.
    """

    thousand_seed_weight_g: float
    weight_of: WeightOf = "bare"
    germination_pct: float | None = None
    hard_seed_pct: float = 0.0
    purity_pct: float = 100.0
    purity_of: PurityOf = "seed"
    coating_pct: float = 0.0
    bag_price: float | None = None
    bag_seeds: float | None = None
    bag_kg: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class LotValues:
    """What follows from a tag.

    ``bare_weight_g``: thousand bare seeds; ``bag_weight_g``: what leaves the bag for a thousand pure seeds.
    ``live_frac`` and ``pls_frac`` are None without a germination test; ``pls_frac`` is of the bag's weight.
    """

    bare_weight_g: float
    bag_weight_g: float
    pure_frac: float
    live_frac: float | None
    pls_frac: float | None
    seeds_in_bag: float | None
    price_per_thousand: float | None

    @property
    def seeds_per_kg(self) -> float:
        """Pure seeds in a kilogram of bag."""
        return 1e6 / self.bag_weight_g


@dataclass(frozen=True, slots=True, kw_only=True)
class Chain:
    """From seed sown to plants at harvest. ``survival_pct``: of the plants that came up."""

    emergence_pct: float
    emergence_of: EmergenceOf = "sown"
    survival_pct: float = 100.0


def lot_values(lot: SeedLot) -> LotValues:
    """Pure, live and pure live seed of a lot, seeds in a bag and their price.

    Raises
    ------
    Refusal : ``not_positive`` weight or bag; ``too_small``/``too_large`` percentages; ``more_than_whole`` when
    purity and coating, or germination and hard seed, exceed the whole.
    """
    _check(lot)
    coat = lot.coating_pct / 100
    pure = lot.purity_pct / 100 if lot.purity_of == "bag" else (1 - coat) * lot.purity_pct / 100
    bare = lot.thousand_seed_weight_g * ((1 - coat) if lot.weight_of == "coated" else 1)
    through = bare / pure
    live = None if lot.germination_pct is None else (lot.germination_pct + lot.hard_seed_pct) / 100
    seeds = lot.bag_seeds if lot.bag_seeds is not None else None if lot.bag_kg is None else lot.bag_kg * 1e6 / through
    price = None if lot.bag_price is None or seeds is None else lot.bag_price / seeds * 1000
    return LotValues(
        bare_weight_g=bare,
        bag_weight_g=through,
        pure_frac=pure,
        live_frac=live,
        pls_frac=None if live is None else pure * live,
        seeds_in_bag=seeds,
        price_per_thousand=price,
    )


def _check(lot: SeedLot) -> None:
    require_positive(lot.thousand_seed_weight_g, "thousand_seed_weight", label="Thousand-seed weight", unit=" g")
    for value, name, label, low, high in (
        (lot.germination_pct, "germination", "Germination", 1, 100),
        (lot.hard_seed_pct, "hard_seed", "Hard seed", 0, 100),
        (lot.purity_pct, "purity", "Purity", 1, 100),
        (lot.coating_pct, "coating", "Coating", 0, 90),
    ):
        if value is not None:
            require_between(value, low, high, name, label=label, unit=" %", remedy="It is a share of the whole; read the tag.")
    for value, name, label in ((lot.bag_seeds, "bag_seeds", "Seeds in a bag"), (lot.bag_kg, "bag_weight", "Weight of a bag")):
        if value is not None:
            require_positive(value, name, label=label)
    if lot.bag_price is not None:
        require_between(lot.bag_price, 0, 1e9, "bag_price", label="Price of a bag")
    if lot.germination_pct is not None and lot.germination_pct + lot.hard_seed_pct > 100 + 1e-9:
        raise Refusal(
            "more_than_whole",
            field="hard_seed",
            label="Germination and hard seed",
            limit="the seeds tested",
            value=f"{lot.germination_pct:g} % + {lot.hard_seed_pct:g} %",
            remedy="If germination already counts the hard seeds, leave them out.",
        )
    if lot.purity_of == "bag" and lot.purity_pct + lot.coating_pct > 100 + 1e-9:
        raise Refusal(
            "more_than_whole",
            field="purity",
            label="Pure seed and coating",
            limit="the bag",
            value=f"{lot.purity_pct:g} % + {lot.coating_pct:g} %",
            remedy="If the tag's purity leaves the coating out, say that it is of the seed without its coating.",
        )


def share_up(values: LotValues, chain: Chain) -> float:
    """Plants at harvest for each seed sown.

    Raises
    ------
    Refusal : ``needs_germination`` when emergence is of live seed and no test is known; limits of percentages.
    """
    require_between(chain.emergence_pct, 1, 100, "emergence", label="Expected emergence", unit=" %")
    require_between(chain.survival_pct, 1, 100, "survival", label="Survival to harvest", unit=" %")
    share = chain.emergence_pct / 100 * chain.survival_pct / 100
    if chain.emergence_of == "sown":
        return share
    if values.live_frac is None:
        raise Refusal("needs_germination", field="germination")
    return share * values.live_frac


def seeds_for(plants_per_m2: float, values: LotValues, chain: Chain) -> float:
    """Seeds to sow per m² for the plants wanted at harvest per m²; the inverse of ``plants_from``."""
    require_positive(plants_per_m2, "plants", label="Plants wanted")
    return plants_per_m2 / share_up(values, chain)


def plants_from(seeds_per_m2: float, values: LotValues, chain: Chain) -> float:
    """Plants expected at harvest per m² from seeds sown per m²."""
    require_positive(seeds_per_m2, "seeding_rate", label="Seeding rate")
    return seeds_per_m2 * share_up(values, chain)


def bag_kg_per_ha(seeds_per_m2: float, values: LotValues) -> float:
    """What the drill must let through, kg of bag per hectare: coating and impurities come along."""
    require_positive(seeds_per_m2, "seeding_rate", label="Seeding rate")
    return seeds_per_m2 * values.bag_weight_g / 100


def bag_for_pls(pls_kg: float, values: LotValues) -> float:
    """Weight of bag that holds a weight of pure live seed, in the same unit."""
    require_positive(pls_kg, "pure_live_seed", label="Pure live seed")
    if values.pls_frac is None:
        raise Refusal("needs_germination", field="germination")
    return pls_kg / values.pls_frac


def as_spoken(values: LotValues, chain: Chain | None) -> Lot:
    """What a rate needs to be spoken in other units: weight let through, share up, seeds in a bag."""
    try:
        up = None if chain is None else share_up(values, chain)
    except Refusal as refusal:
        if refusal.code != "needs_germination":
            raise
        up = None
    return Lot(thousand_seed_weight_g=values.bag_weight_g, emergence_frac=up, seeds_in_bag=values.seeds_in_bag)


def blend(parts: Sequence[tuple[LotValues, float]]) -> LotValues:
    """One lot standing for several in one drill; each with its share of the seeds, 0 to 1.

    Weights and price of a thousand are means over seeds; live seed and price are None when one part's is unknown.
    """
    if len(parts) == 1:
        return parts[0][0]
    bare = sum(share * values.bare_weight_g for values, share in parts)
    through = sum(share * values.bag_weight_g for values, share in parts)
    lives = [(share, values.live_frac) for values, share in parts]
    prices = [(share, values.price_per_thousand) for values, share in parts]
    live = sum(share * value for share, value in lives if value is not None)
    price = sum(share * value for share, value in prices if value is not None)
    known = all(value is not None for _, value in lives)
    living = sum(share * (values.live_frac or 0.0) * values.bare_weight_g for values, share in parts)
    return LotValues(
        bare_weight_g=bare,
        bag_weight_g=through,
        pure_frac=bare / through,
        live_frac=live if known else None,
        pls_frac=living / through if known else None,
        seeds_in_bag=None,
        price_per_thousand=price if all(value is not None for _, value in prices) else None,
    )
