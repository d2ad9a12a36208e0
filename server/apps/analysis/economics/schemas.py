"""Money as the API carries it."""

from datetime import date
from typing import Literal
from uuid import UUID

from ninja import Schema

from apps.base.formatting import ShownOut, WorkingOut
from apps.base.quantities import TypedIn, TypedOut

PriceKind = Literal["crop", "fuel", "hour", "area", "bag"]


class PriceItemIn(Schema):
    kind: PriceKind
    crop: str = ""
    name: str = ""
    price: TypedIn


class PriceListIn(Schema):
    """A whole list; ``version`` is 0 for a new one. ``currency``: the one it was read in."""

    version: int
    name: str
    dated: date
    source: str
    currency: str
    retired: bool = False
    items: list[PriceItemIn]


class PriceItemOut(Schema):
    id: int
    kind: PriceKind
    crop: str
    name: str
    price: TypedOut


class PriceListOut(Schema):
    id: UUID
    version: int
    name: str
    dated: date
    source: str
    retired: bool
    items: list[PriceItemOut]


class TakePriceIn(Schema):
    version: int
    item_id: int
    amendment: str = ""


class ScenarioIn(Schema):
    name: str
    source: str = ""
    price: TypedIn = TypedIn()
    unit_cost: TypedIn = TypedIn()
    costs: TypedIn = TypedIn()


class MoneyPlanIn(Schema):
    """``version`` is 0 where nothing was set yet."""

    version: int
    minimum_rate: TypedIn = TypedIn()
    within: TypedIn = TypedIn()
    loss: TypedIn = TypedIn()
    swing: TypedIn = TypedIn()
    scenarios: list[ScenarioIn] = []


class MoneyPlanOut(Schema):
    version: int
    minimum_rate: TypedOut
    within: TypedOut
    loss: TypedOut
    swing: TypedOut
    scenarios: list[ScenarioIn]


class CostPartOut(Schema):
    label: str
    text: str


class StripBudgetOut(Schema):
    strip_id: UUID
    order: int
    block: int
    letter: str
    yield_: ShownOut
    income: ShownOut
    by_yield: ShownOut
    by_area: ShownOut
    net: ShownOut
    seed_sown: bool
    working: WorkingOut


class TreatmentBudgetOut(Schema):
    """Means as the verdict has them; ``parts``: planned costs by line."""

    treatment_id: UUID
    letter: str
    name: str
    is_control: bool
    yield_: ShownOut
    income: ShownOut
    by_yield: ShownOut
    by_area: ShownOut
    net: ShownOut
    parts: list[CostPartOut]


class PartialOut(Schema):
    """A treatment against the control: what more it brings and costs, and what would make them equal."""

    treatment_id: UUID
    letter: str
    name: str
    extra_income: ShownOut
    extra_cost: ShownOut
    net_gain: ShownOut
    return_on_cost: str
    even_gain: ShownOut
    even_price: str
    even_cost: ShownOut
    working: WorkingOut


class MarginalRowOut(Schema):
    letter: str
    name: str
    cost: ShownOut
    net: ShownOut
    rate: str
    said: str
    recommended: bool


class MarginalOut(Schema):
    rows: list[MarginalRowOut]
    words: str
    problem: str


class GainOut(Schema):
    label: str
    gain: ShownOut


class RiskOut(Schema):
    """Gain of one comparison block by block; over years where the trial belongs to a series."""

    gains: list[GainOut]
    years: list[GainOut]
    words: str


class CellOut(Schema):
    estimate: ShownOut
    lower: ShownOut
    upper: ShownOut
    call: Literal["gain", "loss", "no_difference_that_matters", "cannot_tell_yet"] | None
    call_words: str
    here: bool


class BarOut(Schema):
    name: str
    low: str
    high: str
    at_low: ShownOut
    at_high: ShownOut
    turns: bool


class ComparisonMoneyOut(Schema):
    """One comparison in money: its grid over price and costs, what moves it, and how it fell out."""

    key: str
    name: str
    estimate: ShownOut
    call_words: str
    grid: list[list[CellOut]]
    tornado: list[BarOut]
    words: str
    risk: RiskOut


class ScenarioLineOut(Schema):
    name: str
    estimate: ShownOut
    lower: ShownOut
    upper: ShownOut
    call: str | None
    call_words: str


class ScenarioOut(Schema):
    name: str
    said: str
    lines: list[ScenarioLineOut]
    best_amount: str
    problem: str


class OptimumOut(Schema):
    """The amount that pays best with what surrounds it; ``grid``: best amount by cost (rows) and price (columns)."""

    problem: str
    factor: str
    unit: str
    best: str
    flat: str
    safety: str
    grid: list[list[str]]
    working: WorkingOut | None


class MoneyOut(Schema):
    """Everything a verdict means in money; ``problem`` says why there is nothing."""

    problem: str
    said: str
    unit: str
    replicated: bool
    strips: list[StripBudgetOut]
    treatments: list[TreatmentBudgetOut]
    partial: list[PartialOut]
    marginal: MarginalOut
    prices: list[str]
    costs: list[str]
    comparisons: list[ComparisonMoneyOut]
    scenarios: list[ScenarioOut]
    optimum: OptimumOut
    remarks: list[str]
    plan: MoneyPlanOut
    level_pct: float


class WhatIfOut(Schema):
    """The comparisons at a price and costs that are only tried on."""

    lines: list[ScenarioLineOut]
    best_amount: str
    said: str
    price_typed: str
