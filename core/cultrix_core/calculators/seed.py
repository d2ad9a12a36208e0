"""Calculators of seed: what is in a bag, rates for a stand, prices, mixtures."""

from __future__ import annotations

from cultrix_core.calculators.inputs import Calculator, Values, choice, number, of, percent
from cultrix_core.economics.costs import price_per_thousand
from cultrix_core.errors import Refusal
from cultrix_core.seeding.lot_workings import lot_working, rate_for_stand_working, seed_cost_per_ha, stand_working
from cultrix_core.seeding.lots import Chain, SeedLot, bag_for_pls, lot_values
from cultrix_core.seeding.mixtures import Part, mixture, mixture_working
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.units import ACRE_M2
from cultrix_core.working import Step, Working

WEIGHT = of("weight", "Thousand-seed weight", "seed_mass", ("44", "g/1000"), ("10300", "seeds/lb"))
WEIGHT_OF = choice("weight_of", "That weight is of", ("bare", "the bare seed"), ("coated", "the seed with its coating"))
PURITY = percent("purity", "Pure seed on the tag", "98")
PURITY_OF = choice("purity_of", "That purity is of", ("seed", "the seed without coating"), ("bag", "the whole bag"))
COATING = percent("coating", "Coating, share of the weight", "0")
GERMINATION = percent("germination", "Germination", "92")
CHAIN = (
    percent("emergence", "Expected emergence", "80"),
    choice("emergence_of", "Emergence is of", ("live", "live seed"), ("sown", "seed sown")),
    percent("survival", "Of these, alive at harvest", "95"),
)
TAG = (WEIGHT, WEIGHT_OF, GERMINATION, PURITY, PURITY_OF, COATING)


def _lot(values: Values) -> SeedLot:
    return SeedLot(
        thousand_seed_weight_g=values["weight"],
        weight_of=values["weight_of"],
        germination_pct=values["germination"],
        hard_seed_pct=values.get("hard_seed") or 0.0,
        purity_pct=values["purity"],
        purity_of=values["purity_of"],
        coating_pct=values["coating"],
        bag_price=values.get("bag_price"),
        bag_kg=values.get("bag_weight"),
    )


def _chain(values: Values) -> Chain:
    return Chain(emergence_pct=values["emergence"], emergence_of=values["emergence_of"], survival_pct=values["survival"])


def _bag(values: Values, show: UnitFormatter) -> Working:
    return lot_working(_lot(values), show)


def _rate_for(values: Values, show: UnitFormatter) -> Working:
    return rate_for_stand_working(values["plants"], lot_values(_lot(values)), _chain(values), show)


def _stand_from(values: Values, show: UnitFormatter) -> Working:
    return stand_working(values["rate"], lot_values(_lot(values)), _chain(values), show)


def _pure_live(values: Values, show: UnitFormatter) -> Working:
    lot = SeedLot(
        thousand_seed_weight_g=1.0, germination_pct=values["germination"], purity_pct=values["purity"], purity_of="bag"
    )
    result = lot_values(lot)
    wanted, bag = values["pure_live_rate"], values["bag_weight"]
    through = bag_for_pls(wanted, result)
    per, unit = (1.0, "ha") if show.system == "metric" else (1e4 / ACRE_M2, "ac")
    covered = bag / through * per
    return Working(
        title="Bag seed for pure live seed",
        outcome=f"{show.text(through, 'seed_rate_mass', decimals=2)} through the drill",
        steps=(
            Step(
                label="Bag seed",
                formula="pure live seed ÷ (pure seed × germination)",
                numbers=f"{show.text(wanted, 'seed_rate_mass', decimals=2)} ÷ ({values['purity']:g} % × "
                f"{values['germination']:g} %)",
                outcome=show.text(through, "seed_rate_mass", decimals=2),
                source="definition",
            ),
            Step(
                label="A bag covers",
                formula="weight of a bag ÷ bag seed per area",
                numbers=f"{show.text(bag, 'mass')} ÷ {show.text(through, 'seed_rate_mass', decimals=2)}",
                outcome=f"{format_number(covered, 2)} {unit}",
                source="definition",
            ),
        ),
        assumption="Whether the tag's pure seed counts the coating as inert, as many tags do: here it must.",
    )


def _price(values: Values, show: UnitFormatter) -> Working:
    price = price_per_thousand(bag_price=values["bag_price"], seeds_in_bag=values["bag_seeds"])
    cost = seed_cost_per_ha(values["rate"], price)
    return Working(
        title="Price of seed",
        outcome=f"{show.text(price, 'money', decimals=3)} a thousand, {show.text(cost, 'money_per_area')}",
        steps=(
            Step(
                label="Price of a thousand",
                formula="price of a bag ÷ seeds in it × 1000",
                numbers=f"{values['bag_price']:g} ÷ {format_number(values['bag_seeds'], 0)} × 1000",
                outcome=show.text(price, "money", decimals=3),
                source="definition",
            ),
            Step(
                label="Cost per area",
                formula="seeds per area ÷ 1000 × price of a thousand",
                numbers=f"{show.text(values['rate'], 'density')} × {show.text(price, 'money', decimals=3)}",
                outcome=show.text(cost, "money_per_area"),
                source="definition",
            ),
        ),
        assumption="Seeds in the bag as the tag says; bags sold by weight hold fewer of a bold lot.",
    )


def _mixture(values: Values, show: UnitFormatter) -> Working:
    by = values["total_by"]
    total = _there(values, "total_weight" if by == "weight" else "total_seeds", "The total")
    parts = [
        Part(
            name=f"Part {place}",
            share_pct=_there(values, f"share_{place}", f"Share of part {place}"),
            weight_g=_there(values, f"weight_{place}", f"Seed weight of part {place}"),
        )
        for place in (1, 2, 3)
        if values.get(f"share_{place}") is not None or values.get(f"weight_{place}") is not None
    ]
    return mixture_working(mixture(parts, total=total, total_by=by, shares_by=values["shares_by"]), show)


def _there(values: Values, name: str, label: str) -> float:
    value: float | None = values.get(name)
    if value is None:
        raise Refusal("missing", field=name, label=label, remedy="It is needed for this mixture.")
    return value


CALCULATORS: tuple[Calculator, ...] = (
    Calculator(
        key="rate_for_stand",
        title="Rate for a stand",
        run=_rate_for,
        needs_crop=True,
        purpose="From plants wanted to seeds, weight through the drill: every divisor in sight.",
        inputs=(of("plants", "Plants wanted", "areal_density", ("240", "/m2"), ("22", "/ft2")), *TAG, *CHAIN),
    ),
    Calculator(
        key="stand_from_rate",
        title="Stand from a rate",
        run=_stand_from,
        needs_crop=True,
        purpose="From seeds sown to plants up and plants at harvest.",
        inputs=(of("rate", "Seeding rate", "areal_density", ("320", "/m2"), ("1300000", "/ac")), *TAG, *CHAIN),
    ),
    Calculator(
        key="bag",
        title="What is in a bag",
        run=_bag,
        purpose="Pure live seed, seeds in a bag, price of a thousand.",
        inputs=(
            of("weight", "Thousand-seed weight", "seed_mass", ("2.1", "g/1000"), ("216000", "seeds/lb")),
            WEIGHT_OF,
            GERMINATION,
            percent("hard_seed", "Hard seed", "4", optional=True),
            percent("purity", "Pure seed on the tag", "99"),
            PURITY_OF,
            percent("coating", "Coating, share of the weight", "32"),
            of("bag_weight", "Weight of a bag", "mass", ("22.7", "kg"), ("50", "lb"), optional=True),
            number("bag_price", "Price of a bag", "240", optional=True),
        ),
    ),
    Calculator(
        key="pure_live",
        title="Bag seed for pure live seed",
        run=_pure_live,
        purpose="What to let through the drill, and how far a bag goes, for a rate of pure live seed.",
        inputs=(
            of("pure_live_rate", "Pure live seed wanted", "mass_per_area", ("13.5", "kg/ha"), ("12", "lb/ac")),
            percent("purity", "Pure seed, of the whole bag", "66"),
            percent("germination", "Germination, hard seed where it counts", "90"),
            of("bag_weight", "Weight of a bag", "mass", ("22.7", "kg"), ("50", "lb")),
        ),
    ),
    Calculator(
        key="seed_price",
        title="Price of seed",
        run=_price,
        purpose="Price of a thousand seeds and cost per area.",
        inputs=(
            number("bag_price", "Price of a bag", "60"),
            number("bag_seeds", "Seeds in a bag", "150000"),
            of("rate", "Seeding rate", "areal_density", ("80", "k/ha"), ("32000", "/ac")),
        ),
    ),
    Calculator(
        key="mixture",
        title="Mixture through one drill",
        run=_mixture,
        purpose="Several species, shares by weight or by seeds, the total by weight or by seeds.",
        inputs=(
            choice("total_by", "The total is", ("weight", "a weight"), ("seeds", "a number of seeds")),
            of("total_weight", "Total by weight", "mass_per_area", ("120", "kg/ha"), ("107", "lb/ac"), optional=True),
            of("total_seeds", "Total by seeds", "areal_density", ("200", "/m2"), ("19", "/ft2"), optional=True),
            choice("shares_by", "Shares are of", ("weight", "the weight"), ("seeds", "the seeds")),
            percent("share_1", "Share of part 1", "70"),
            of("weight_1", "Seed weight of part 1", "seed_mass", ("220", "g/1000"), ("2060", "seeds/lb")),
            percent("share_2", "Share of part 2", "30"),
            of("weight_2", "Seed weight of part 2", "seed_mass", ("38", "g/1000"), ("11900", "seeds/lb")),
            percent("share_3", "Share of part 3", "", optional=True),
            of("weight_3", "Seed weight of part 3", "seed_mass", ("", "g/1000"), ("", "seeds/lb"), optional=True),
        ),
    ),
)
