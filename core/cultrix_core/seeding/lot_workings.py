"""Workings and questions of seed lots: every divisor on the way from plants wanted to bags, and what to ask about a tag."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from cultrix_core.seeding.lots import Chain, LotValues, SeedLot, bag_kg_per_ha, lot_values, plants_from, seeds_for
from cultrix_core.seeding.sowing_profiles import sowing_profile
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.units import ACRE_M2, FT_M, HA_M2, LB_KG
from cultrix_core.working import Step, Working

# Seed laws ask for a fresh test after five to twelve months; nine is common. Common practice, no source: the tag decides.
RECENT_TEST_DAYS = 274
# Six seeds a square foot for each pound an acre is 261 360 seeds a pound (common practice, no source).
HANDY_SEEDS_PER_FT2 = 6
HANDY_SEEDS_PER_LB = HANDY_SEEDS_PER_FT2 * ACRE_M2 / FT_M**2
SMALL_SEED_G = 10.0


@dataclass(frozen=True, slots=True, kw_only=True)
class LotQuestion:
    """Something asked about a lot; it blocks nothing."""

    code: str
    field: str
    text: str


def lot_working(lot: SeedLot, show: UnitFormatter) -> Working:
    """From the tag to pure live seed, seeds a bag and the price of a thousand."""
    values = lot_values(lot)
    steps = [
        _pure_step(lot, values),
        *_live_steps(lot, values),
        *_weight_steps(lot, values, show),
        *_bag_steps(lot, values, show),
    ]
    outcome = (
        f"{_pct(values.pls_frac)} pure live seed"
        if values.pls_frac is not None
        else f"{_pct(values.pure_frac)} pure seed; no germination test"
    )
    return Working(
        title="What is in the bag",
        outcome=outcome,
        steps=tuple(steps),
        assumption="Whether the tag's purity and seed weight mean coated or bare seed: asked above, and easy to mix up.",
    )


def _by_thousand(show: UnitFormatter) -> bool:
    """Whether this reader has seed weights by the thousand rather than seeds to the pound."""
    return show.unit_code("seed_mass") == "g/1000"


def _weight(grams: float, show: UnitFormatter) -> str:
    """A thousand-seed weight; a light one with two decimals, for a tenth of a gram is much of it."""
    return show.text(grams, "seed_mass", decimals=2 if grams < SMALL_SEED_G and _by_thousand(show) else None)


def _weight_exact(grams: float, show: UnitFormatter) -> str:
    """A seed weight with the digits that a working needs to add up."""
    return show.text(grams, "seed_mass", decimals=2 if _by_thousand(show) else 0)


def _weight_of_many(grams: float, show: UnitFormatter) -> str:
    """What a thousand seeds weigh, where the formula says that it is a thousand."""
    return f"{format_number(grams, 2)} g" if _by_thousand(show) else _weight_exact(grams, show)


def _pct(share: float) -> str:
    return f"{format_number(100 * share, 1)} %"


def _pure_step(lot: SeedLot, values: LotValues) -> Step:
    if lot.purity_of == "bag":
        return Step(
            label="Pure seed",
            formula="the tag's pure seed, of the whole bag: the coating is left out already",
            numbers=f"{lot.purity_pct:g} %",
            outcome=_pct(values.pure_frac),
            source="the tag",
        )
    return Step(
        label="Pure seed",
        formula="(100 % − coating) × purity of the seed without its coating",
        numbers=f"(100 % − {lot.coating_pct:g} %) × {lot.purity_pct:g} %",
        outcome=_pct(values.pure_frac),
        source="definition",
    )


def _live_steps(lot: SeedLot, values: LotValues) -> list[Step]:
    if values.live_frac is None or values.pls_frac is None:
        return []
    steps = []
    if lot.hard_seed_pct:
        steps.append(
            Step(
                label="Live seed",
                formula="germination + hard seed",
                numbers=f"{lot.germination_pct:g} % + {lot.hard_seed_pct:g} %",
                outcome=_pct(values.live_frac),
                source="definition",
            )
        )
    steps.append(
        Step(
            label="Pure live seed",
            formula="pure seed × live seed",
            numbers=f"{_pct(values.pure_frac)} × {_pct(values.live_frac)}",
            outcome=_pct(values.pls_frac),
            source="definition",
        )
    )
    return steps


def _weight_steps(lot: SeedLot, values: LotValues, show: UnitFormatter) -> list[Step]:
    steps = []
    if lot.weight_of == "coated" and lot.coating_pct:
        steps.append(
            Step(
                label="Weight of the bare seed",
                formula="coated weight × (100 % − coating)",
                numbers=f"{_weight(lot.thousand_seed_weight_g, show)} × (100 % − {lot.coating_pct:g} %)",
                outcome=_weight(values.bare_weight_g, show),
                source="definition",
            )
        )
    if values.pure_frac < 1:
        by_thousand = _by_thousand(show)
        steps.append(
            Step(
                label="Bag weight of a thousand pure seeds" if by_thousand else "Pure seeds in a pound of bag seed",
                formula="bare thousand-seed weight ÷ pure seed" if by_thousand else "bare seeds in a pound × pure seed",
                numbers=f"{_weight_of_many(values.bare_weight_g, show)} {'÷' if by_thousand else '×'} {_pct(values.pure_frac)}",
                outcome=_weight_of_many(values.bag_weight_g, show),
                source="definition",
            )
        )
    if values.bare_weight_g < SMALL_SEED_G:
        per_lb = 1000 * LB_KG * 1000 / values.bag_weight_g
        steps.append(
            Step(
                label="Seeds on a square foot for each pound an acre",
                formula="seeds per pound ÷ 43 560; the handy 6 holds at 261 360 seeds a pound",
                numbers=f"{format_number(per_lb, 0)} ÷ 43 560",
                outcome=f"{format_number(per_lb / (ACRE_M2 / FT_M**2), 1)} (handy rule {HANDY_SEEDS_PER_FT2})",
                source="definition; the rule is common practice, no source",
            )
        )
    return steps


def _bag_steps(lot: SeedLot, values: LotValues, show: UnitFormatter) -> list[Step]:
    steps = []
    by_thousand = _by_thousand(show)
    if values.seeds_in_bag is not None and lot.bag_seeds is None and lot.bag_kg is not None:
        steps.append(
            Step(
                label="Seeds in a bag",
                formula="bag weight ÷ bag weight of a thousand pure seeds × 1000"
                if by_thousand
                else "bag weight × pure seeds in a pound",
                numbers=f"{show.text(lot.bag_kg, 'mass')} ÷ {_weight_of_many(values.bag_weight_g, show)} × 1000"
                if by_thousand
                else f"{show.text(lot.bag_kg, 'mass')} × {_weight_exact(values.bag_weight_g, show)}",
                outcome=format_number(values.seeds_in_bag, 0),
                source="definition",
            )
        )
    if values.price_per_thousand is not None and values.seeds_in_bag is not None and lot.bag_price is not None:
        steps.append(
            Step(
                label="Price of a thousand seeds",
                formula="price of a bag ÷ seeds in it × 1000",
                numbers=f"{show.text(lot.bag_price, 'money')} ÷ {format_number(values.seeds_in_bag, 0)} × 1000",
                outcome=show.text(values.price_per_thousand, "money", decimals=3),
                source="definition",
            )
        )
    return steps


def stand_working(seeds_per_m2: float, values: LotValues, chain: Chain, show: UnitFormatter) -> Working:
    """From a rate sown to the stand expected."""
    plants = plants_from(seeds_per_m2, values, chain)
    steps = []
    so_far = seeds_per_m2
    for label, formula, share in _links(values, chain):
        nxt = so_far * share
        steps.append(
            Step(
                label=label,
                formula=formula,
                numbers=f"{show.text(so_far, 'density')} × {_pct(share)}",
                outcome=show.text(nxt, "density"),
                source="definition",
            )
        )
        so_far = nxt
    return Working(title="Stand expected", outcome=show.text(plants, "density"), steps=tuple(steps), assumption=_moves(chain))


def _links(values: LotValues, chain: Chain) -> list[tuple[str, str, float]]:
    links = []
    if chain.emergence_of == "live" and values.live_frac is not None:
        links.append(("Live seed", "seeds sown × germination", values.live_frac))
        links.append(("Plants up", "live seed × emergence of live seed", chain.emergence_pct / 100))
    else:
        links.append(
            ("Plants up", "seeds sown × emergence of seed sown, germination is in it already", chain.emergence_pct / 100)
        )
    links.append(("Plants at harvest", "plants up × survival", chain.survival_pct / 100))
    return links


def _moves(chain: Chain) -> str:
    text = "live seed" if chain.emergence_of == "live" else "seed sown"
    return f"Emergence is expected as {chain.emergence_pct:g} % of {text}: the weather after sowing moves it most."


def rate_for_stand_working(plants_per_m2: float, values: LotValues, chain: Chain, show: UnitFormatter) -> Working:
    """From plants wanted at harvest to seeds, weight and bags, every divisor shown."""
    seeds = seeds_for(plants_per_m2, values, chain)
    steps = []
    so_far = plants_per_m2
    words = {
        "Plants at harvest": ("Plants that must come up", "plants wanted ÷ survival"),
        "Plants up": ("Seeds", "plants up ÷ emergence"),
        "Live seed": ("Seeds to sow", "live seed ÷ germination"),
    }
    for label, _, share in reversed(_links(values, chain)):
        name, formula = words[label]
        if label == "Plants up":
            live = chain.emergence_of == "live"
            name = "Live seeds" if live else "Seeds to sow"
            formula += " of live seed" if live else " of seed sown; not divided by germination, it is in it already"
        steps.append(
            Step(
                label=name,
                formula=formula,
                numbers=f"{show.text(so_far, 'density')} ÷ {_pct(share)}",
                outcome=show.text(so_far / share, "density"),
                source="definition",
            )
        )
        so_far /= share
    steps += rate_steps(seeds, values, show)
    mass = show.text(bag_kg_per_ha(seeds, values), "seed_rate_mass")
    return Working(
        title="Rate for a stand",
        outcome=f"{show.text(seeds, 'density')}, {mass}",
        steps=tuple(steps),
        assumption=_moves(chain),
    )


def rate_steps(seeds_per_m2: float, values: LotValues, show: UnitFormatter) -> list[Step]:
    """A rate as the drill lets it through: by weight of bag, in bags, and its cost."""
    kg = bag_kg_per_ha(seeds_per_m2, values)
    by_thousand = _by_thousand(show)
    formula = "seeds × bare thousand-seed weight" if by_thousand else "seeds ÷ bare seeds in a pound"
    formula += " ÷ pure seed" if values.pure_frac < 1 else ""
    numbers = f"{show.text(seeds_per_m2, 'density')} {'×' if by_thousand else '÷'} {_weight_exact(values.bare_weight_g, show)}"
    if values.pure_frac < 1:
        numbers += f" ÷ {_pct(values.pure_frac)}"
    steps = [
        Step(
            label="Weight through the drill",
            formula=formula,
            numbers=numbers,
            outcome=show.text(kg, "seed_rate_mass"),
            source="definition",
        )
    ]
    if values.seeds_in_bag is not None:
        unit = show.unit("area")
        per = HA_M2 if unit == "ha" else ACRE_M2
        bags = seeds_per_m2 * per / values.seeds_in_bag
        steps.append(
            Step(
                label="Bags",
                formula="seeds per area ÷ seeds in a bag",
                numbers=f"{format_number(seeds_per_m2 * per, 0)} per {unit} ÷ {format_number(values.seeds_in_bag, 0)}",
                outcome=f"{format_number(bags, 2)} bags/{unit}, a bag for {format_number(1 / bags, 2)} {unit}",
                source="definition",
            )
        )
    if values.price_per_thousand is not None:
        steps.append(
            Step(
                label="Cost of seed",
                formula="thousands of seeds per area × price of a thousand",
                numbers=f"{show.text(seeds_per_m2, 'density')} × {show.text(values.price_per_thousand, 'money', decimals=3)}",
                outcome=show.text(seed_cost_per_ha(seeds_per_m2, values.price_per_thousand), "money_per_area"),
                source="definition",
            )
        )
    return steps


def seed_cost_per_ha(seeds_per_m2: float, price_per_thousand: float) -> float:
    """Money for seed per hectare."""
    return seeds_per_m2 * 10 * price_per_thousand


def questions_on_lot(
    lot: SeedLot, *, crop: str, tested_on: date | None, sown_on: date, treated: bool, treatment: str, show: UnitFormatter
) -> tuple[LotQuestion, ...]:
    """What to ask about a lot before it is sown: test, seed weight against the crop, treatment."""
    questions = [*_test_questions(lot, tested_on, sown_on), *_weight_questions(lot, crop, show)]
    if lot.hard_seed_pct and (profile := sowing_profile(crop)) is not None and not profile.hard_seed_counts:
        questions.append(
            LotQuestion(
                code="hard_seed",
                field="hard_seed",
                text="Hard seed is usually counted as live in lucerne and clovers only. Does it come up in time here?",
            )
        )
    if treated:
        questions.append(
            LotQuestion(
                code="treated",
                field="treated",
                text=f"Treated seed{f' ({treatment})' if treatment else ''}: gloves, no dust breathed, none left on the ground "
                "for birds, none for feed, food or oil; empty bags and left-over seed as the tag says.",
            )
        )
    return tuple(questions)


def _test_questions(lot: SeedLot, tested_on: date | None, sown_on: date) -> list[LotQuestion]:
    if lot.germination_pct is None:
        text = "No germination test: ask for it, or test 4 × 100 seeds on wet paper. Rates then rest on guesswork."
        return [LotQuestion(code="no_test", field="germination", text=text)]
    if tested_on is None:
        return [
            LotQuestion(
                code="no_test_date", field="tested_on", text="When was germination tested? Old seed loses vigour first."
            )
        ]
    age = (sown_on - tested_on).days
    if age > RECENT_TEST_DAYS:
        text = (
            f"The germination test is {age} days old; after about nine months a new one is due "
            "(common practice; the tag decides)."
        )
        return [LotQuestion(code="old_test", field="tested_on", text=text)]
    return []


def _weight_questions(lot: SeedLot, crop: str, show: UnitFormatter) -> list[LotQuestion]:
    profile = sowing_profile(crop)
    if profile is None:
        return []
    low, high = profile.usual_seed_weight_g
    bare = lot.thousand_seed_weight_g * (1 - lot.coating_pct / 100 if lot.weight_of == "coated" else 1)
    if low <= bare <= high:
        return []
    text = (
        f"{show.text(bare, 'seed_mass')} is far from what this crop's seed weighs "
        f"({show.number(low, 'seed_mass')} to {show.text(high, 'seed_mass')})."
    )
    if low <= LB_KG * 1e6 / bare <= high:  # the number typed, read in the other way of speaking
        text += " The number fits in the other unit: grams per thousand and seeds per pound were mixed up?"
    elif low <= bare * 10 <= high or low <= bare / 10 <= high:
        text += " Ten times off: was it per hundred, or a decimal point lost?"
    else:
        text += " Right unit, right lot?"
    return [LotQuestion(code="odd_weight", field="thousand_seed_weight", text=text)]
