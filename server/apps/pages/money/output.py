"""What a verdict means in money, as the API carries it."""

from __future__ import annotations

from typing import Any, cast

from cultrix_core.crops import crop
from cultrix_core.economics.budgets import Budget, PartialBudget, partial_budget, partial_working
from cultrix_core.economics.marginal import MarginalAnalysis, Option, Ranked, marginal_analysis
from cultrix_core.economics.sensitivity import Bar, Cell
from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.stats.workings import CALL_WORDS
from cultrix_core.unit_formatting import UnitFormatter, format_number

from apps.accounts.models import User
from apps.analysis.economics.comparison_returns import Moved, bars, cell_at, moved, parts, risk_of
from apps.analysis.economics.models import (
    COSTS,
    SCENARIO_PRICE,
    SCENARIO_UNIT_COST,
    SETTINGS,
    MoneyPlan,
    Scenario,
)
from apps.analysis.economics.optimum import best_amount_words, optimum_out
from apps.analysis.economics.schemas import (
    BarOut,
    CellOut,
    ComparisonMoneyOut,
    CostPartOut,
    GainOut,
    MarginalOut,
    MarginalRowOut,
    MoneyOut,
    MoneyPlanOut,
    OptimumOut,
    PartialOut,
    RiskOut,
    ScenarioIn,
    ScenarioLineOut,
    ScenarioOut,
    StripBudgetOut,
    TreatmentBudgetOut,
    WhatIfOut,
)
from apps.analysis.verdict.comparisons import compared_strips, treatment_means
from apps.analysis.verdict.decisions import call_words
from apps.analysis.verdict.queries import Computed, computed
from apps.base.formatting import shown, shown_value, working_out
from apps.base.quantities import TypedIn, TypedOut, out, parse, typed
from apps.base.read_once import read_once
from apps.pages.trial.output import budget_working_out
from apps.pages.verdict.output import verdict_out
from apps.trial_state.view import TrialView, trials_in_series
from apps.trials.models import Treatment, Trial
from apps.trials.naming import treatment_name

MINIMUM_RATE = 50.0  # percent: 50 to 100 is asked in CIMMYT 1988 (from memory)
SWING = 20.0  # percent: common practice, no source
FACTORS = (0.5, 0.75, 1.0, 1.25, 1.5)
NO_PRICE = "No price is set. Type it under Question, or take it from a price list; then the money can be reckoned."
NO_NET = "No strip has a net return: the price does not cover what comes with the yield, or nothing is harvested."
NO_CONTROL = "No control is named, so there is nothing to compare with."
M = "money_per_area"


def money_out(user: User, view: TrialView) -> MoneyOut:
    """Budgets, marginal rates, sensitivity, risk, scenarios and optimum of a trial."""
    result = computed(view)
    plan = MoneyPlan.objects.filter(trial=view.trial).first()
    base = MoneyOut(
        problem="",
        said="",
        unit=view.show.unit(M),
        replicated=False,
        strips=[],
        treatments=[],
        partial=[],
        marginal=MarginalOut(rows=[], words="", problem=""),
        prices=[],
        costs=[],
        comparisons=[],
        scenarios=[],
        optimum=OptimumOut(problem="", factor="", unit="", best="", flat="", safety="", grid=[], working=None),
        remarks=[],
        plan=_plan_out(view, plan),
        level_pct=100 * (1 - view.trial.alpha),
    )
    if view.trial.price.value is None:
        base.problem = NO_PRICE
        return base
    if result.net is None or result.yield_ is None:
        base.problem = result.problem or (NO_NET if view.control else NO_CONTROL)
        return base
    rows = moved(view, result)
    base.said = verdict_out(view).money
    base.replicated = any(row.base is not None for row in rows)
    base.strips = _strips(view)
    budgets = _budgets(view, result)
    base.treatments = [_treatment(view, budget, budgets[budget]) for budget in budgets]
    base.partial = _partials(view, budgets)
    base.marginal = _marginal(view, budgets, plan)
    swing = (plan.swing.value if plan and plan.swing.value else SWING) / 100
    base.prices = [view.show.text(price, "price") for price in _prices(view, swing)]
    base.costs = [f"{100 * factor:g} %" for factor in FACTORS]
    series = _series(user, view)
    base.comparisons = [_comparison(view, row, swing, series) for row in rows]
    base.scenarios = [_scenario(view, scenario, rows) for scenario in _scenarios(view.trial)]
    base.optimum = optimum_out(view, plan, _prices(view, swing), FACTORS)
    base.remarks = _remarks(view)
    return base


def _series(user: User, view: TrialView) -> list[TrialView]:
    if not view.trial.series.strip():
        return [view]
    return [other_trial for other_trial in trials_in_series(user, view) if compared_strips(other_trial)] or [view]


@read_once
def _scenarios(trial: Trial) -> list[Scenario]:
    return list(trial.scenarios.all())


def _prices(view: TrialView, swing: float) -> list[float]:
    price = view.trial.price.value or 0.0
    return [price * (1 + swing * share) for share in (-1, -0.5, 0, 0.5, 1)]


def _plan_out(view: TrialView, plan: MoneyPlan | None) -> MoneyPlanOut:
    money_plan = plan or MoneyPlan(trial=view.trial, version=0)
    defaults = {"minimum_rate": f"{MINIMUM_RATE:g}", "swing": f"{SWING:g}"}
    fields: dict[str, TypedOut] = {}
    for quantity in SETTINGS:
        item = out(money_plan, quantity, view.show)
        if not item.text and quantity.name in defaults:
            item.shown = f"{defaults[quantity.name]} % (usual)"
        fields[quantity.name] = item
    return MoneyPlanOut(
        version=plan.version if plan else 0,
        scenarios=[
            ScenarioIn(
                name=scenario.name,
                source=scenario.source,
                **{part.name: typed(scenario, part) for part in (SCENARIO_PRICE, SCENARIO_UNIT_COST, COSTS)},
            )
            for scenario in _scenarios(view.trial)
        ],
        **fields,
    )


def _strips(view: TrialView) -> list[StripBudgetOut]:
    rows, show = [], view.show
    for strip in compared_strips(view):
        budget = view.budget_of(strip)
        if budget is None:
            continue
        rows.append(
            StripBudgetOut(
                strip_id=strip.id,
                order=strip.order,
                block=strip.block.number,
                letter=strip.received.letter,
                yield_=shown_value(budget.yield_kg_per_ha, "yield", show),
                income=shown_value(budget.income_per_ha, M, show),
                by_yield=shown_value(budget.by_yield_per_ha, M, show),
                by_area=shown_value(budget.by_area_per_ha, M, show),
                net=shown_value(budget.net_per_ha, M, show),
                seed_sown=view.seed_sown_per_ha(strip) is not None,
                working=budget_working_out(view, strip, budget),
            )
        )
    return rows


def _budgets(view: TrialView, found: Computed) -> dict[Treatment, Budget]:
    """Budgets of the model's means, so that their differences are the verdict's own."""
    assert found.yield_ is not None
    assert found.net is not None
    yields, nets = treatment_means(view, found.yield_), treatment_means(view, found.net)
    price = view.trial.price.value or 0.0
    result = {}
    for treatment in view.treatments:
        if treatment.id not in yields or treatment.id not in nets:
            continue
        tonnes = yields[treatment.id] / 1000
        per_t = (view.trial.unit_cost.value or 0.0) + view.cost(treatment).per_t
        result[treatment] = Budget(
            yield_kg_per_ha=yields[treatment.id],
            price_per_t=price,
            per_t=per_t,
            income_per_ha=tonnes * price,
            by_yield_per_ha=tonnes * per_t,
            by_area_per_ha=tonnes * (price - per_t) - nets[treatment.id],
        )
    return result


def _treatment(view: TrialView, treatment: Treatment, budget: Budget) -> TreatmentBudgetOut:
    show = view.show
    return TreatmentBudgetOut(
        treatment_id=treatment.id,
        letter=treatment.letter,
        name=treatment_name(treatment, show),
        is_control=treatment.is_control,
        yield_=shown_value(budget.yield_kg_per_ha, "yield", show),
        income=shown_value(budget.income_per_ha, M, show),
        by_yield=shown_value(budget.by_yield_per_ha, M, show),
        by_area=shown_value(budget.by_area_per_ha, M, show),
        net=shown_value(budget.net_per_ha, M, show),
        parts=[CostPartOut(label=label, text=show.text(value, M)) for label, value in parts(view, treatment)],
    )


def _partials(view: TrialView, budgets: dict[Treatment, Budget]) -> list[PartialOut]:
    control = view.control
    if control is None or control not in budgets:
        return []
    return [
        _partial(view, treatment, partial_budget(budget, budgets[control]), control)
        for treatment, budget in budgets.items()
        if treatment != control
    ]


def _partial(view: TrialView, treatment: Treatment, budget: PartialBudget, control: Treatment) -> PartialOut:
    show = view.show
    price = budget.break_even_price_per_t
    even = "at no price" if price is None else f"{'above' if budget.pays_above else 'below'} {show.text(price, 'price')}"
    if price is None and budget.net_gain_per_ha > 0:
        even = "at any price"
    return PartialOut(
        treatment_id=treatment.id,
        letter=treatment.letter,
        name=treatment_name(treatment, show),
        extra_income=_signed(budget.extra_income_per_ha, show),
        extra_cost=_signed(budget.extra_cost_per_ha, show),
        net_gain=_signed(budget.net_gain_per_ha, show),
        return_on_cost=_return_words(budget.return_on_cost),
        even_gain=cast(Any, shown(budget.break_even_gain_kg_per_ha, "yield", show, signed=True)),
        even_price=even,
        even_cost=_signed(budget.break_even_cost_per_ha, show),
        working=working_out(partial_working(budget, show, treatment=treatment.letter, control=control.letter)),
    )


def _return_words(share: float | None) -> str:
    return "nothing extra spent" if share is None else f"{format_number(100 * share, 0)} %"


def _signed(value: float, show: UnitFormatter) -> Any:
    return shown(value, M, show, signed=True)


def _marginal(view: TrialView, budgets: dict[Treatment, Budget], plan: MoneyPlan | None) -> MarginalOut:
    minimum = plan.minimum_rate.value if plan and plan.minimum_rate.value is not None else MINIMUM_RATE
    by_letter = {treatment.letter: treatment for treatment in budgets}
    options = [
        Option(name=treatment.letter, cost_per_ha=budget.by_area_per_ha, net_per_ha=budget.net_per_ha)
        for treatment, budget in budgets.items()
    ]
    try:
        analysis = marginal_analysis(options, minimum_rate=minimum / 100)
    except Refusal as refusal:
        return MarginalOut(rows=[], words="", problem=refusal.message)
    best = by_letter[analysis.recommended]
    return MarginalOut(
        rows=[_ranked(view, by_letter[row.option.name], row, analysis) for row in analysis.rows],
        words=f"Asking at least {minimum:g} % on extra money, {best.letter} ({treatment_name(best, view.show)}) is as far as "
        "the means carry. They are means: whether a step is real is what the intervals say.",
        problem="",
    )


def _ranked(view: TrialView, treatment: Treatment, row: Ranked, analysis: MarginalAnalysis) -> MarginalRowOut:
    if row.dominated_by:
        text = f"dominated: {row.dominated_by} costs less and returns as much or more"
    elif row.marginal_rate is None:
        text = "the cheapest"
    else:
        text = "worth the step" if row.accepted else "not worth the step"
    return MarginalRowOut(
        letter=treatment.letter,
        name=treatment_name(treatment, view.show),
        cost=shown_value(row.option.cost_per_ha, M, view.show),
        net=shown_value(row.option.net_per_ha, M, view.show),
        rate="" if row.marginal_rate is None else f"{format_number(100 * row.marginal_rate, 0)} %",
        said=text,
        recommended=treatment.letter == analysis.recommended,
    )


def _comparison(view: TrialView, item: Moved, swing: float, series: list[TrialView]) -> ComparisonMoneyOut:
    call = call_words(item.row)
    comparison_money = ComparisonMoneyOut(
        key="/".join([item.row.factor, item.row.within, item.row.difference.left, item.row.difference.right]),
        name=item.name,
        estimate=_signed(item.row.difference.estimate, view.show),
        call_words=call,
        grid=[],
        tornado=[],
        words="",
        risk=_risk(view, item, series),
    )
    if item.row.withheld:
        comparison_money.words = item.row.withheld
        return comparison_money
    if item.base is None:
        return comparison_money
    cells = [[cell_at(view, item.base, price=price, factor=factor) for price in _prices(view, swing)] for factor in FACTORS]
    middle = cells[2][2]
    comparison_money.grid = [[_cell(view, cell, cell is middle) for cell in row] for row in cells]
    result = bars(view, item, swing)
    comparison_money.tornado = [_bar(view, bar) for bar in result]
    called = [cell.call.name for row in cells for cell in row if cell.call is not None]
    same = called.count(middle.call.name) if middle.call is not None else 0
    comparison_money.words = (
        f"The call stays “{call}” in {same} of {len(cells) * len(cells[0])} combinations. "
        f"Most of all it hangs on the {result[0].name}."
    )
    return comparison_money


def _cell(view: TrialView, cell: Cell, here: bool) -> CellOut:
    return CellOut(
        estimate=_signed(cell.estimate, view.show),
        lower=_signed(cell.lower, view.show),
        upper=_signed(cell.upper, view.show),
        call=cell.call.name if cell.call else None,
        call_words=CALL_WORDS[cell.call.name] if cell.call else "the price does not cover its costs",
        here=here,
    )


def _bar(view: TrialView, bar: Bar) -> BarOut:
    show = view.show
    kind = "price" if bar.name in ("price", "drying and hauling") else M
    return BarOut(
        name=bar.name,
        low=show.text(bar.low, kind, signed=kind == M),
        high=show.text(bar.high, kind, signed=kind == M),
        at_low=_signed(bar.at_low, show),
        at_high=_signed(bar.at_high, show),
        turns=bar.turns,
    )


def _risk(view: TrialView, row: Moved, series: list[TrialView]) -> RiskOut:
    risk = risk_of(series, row.row)
    if risk is None:
        return RiskOut(gains=[], years=[], words="No block has both sides with a yield.")
    several = len(risk.by_year) > 1
    label = "{0}, block {1}" if several else "Block {1}"
    worst, middle, best = (view.show.text(value, M, signed=True) for value in (risk.worst, risk.median, risk.best))
    words = f"It lost money in {risk.losing} of {len(risk.gains)} blocks; worst {worst}, middle {middle}, best {best}."
    if several:
        years = sum(1 for _, gain in risk.by_year if gain < 0)
        words += f" On average it lost money in {years} of {len(risk.by_year)} years."
    else:
        words += " Blocks share one season: they are not years."
    return RiskOut(
        gains=[
            GainOut(label=label.format(gain.year, gain.block), gain=_signed(gain.gain_per_ha, view.show)) for gain in risk.gains
        ],
        years=[GainOut(label=year, gain=_signed(gain, view.show)) for year, gain in risk.by_year] if several else [],
        words=words,
    )


def _scenario(view: TrialView, scenario: Scenario, rows: list[Moved]) -> ScenarioOut:
    show = view.show
    price = scenario.price.value if scenario.price.value is not None else view.trial.price.value
    unit_cost = scenario.unit_cost.value if scenario.unit_cost.value is not None else view.trial.unit_cost.value or 0.0
    factor = 1.0 if scenario.costs.value is None else scenario.costs.value / 100
    assert price is not None
    text = f"price {show.text(price, 'price')}, with the yield {show.text(unit_cost, 'price')}, extra costs {100 * factor:g} %"
    if scenario.source:
        text += f" ({scenario.source})"
    result = ScenarioOut(name=scenario.name, said=text, lines=[], best_amount="", problem="")
    try:
        result.lines = [
            _line(view, row, cell_at(view, row.base, price=price, unit_cost=unit_cost, factor=factor))
            for row in rows
            if row.base is not None
        ]
        result.best_amount = best_amount_words(view, worth_per_t=price - unit_cost, factor=factor)
    except Refusal as refusal:
        result.problem = refusal.message
    return result


def _line(view: TrialView, row: Moved, cell: Cell) -> ScenarioLineOut:
    return ScenarioLineOut(
        name=row.name,
        estimate=_signed(cell.estimate, view.show),
        lower=_signed(cell.lower, view.show),
        upper=_signed(cell.upper, view.show),
        call=cell.call.name if cell.call else None,
        call_words=CALL_WORDS[cell.call.name] if cell.call else "the price does not cover its costs",
    )


def what_if_out(view: TrialView, price: TypedIn, costs: TypedIn) -> WhatIfOut:
    """The comparisons at a price and extra costs that are tried on; nothing is kept.

    Raises
    ------
    Refusal : those of parsing; ``not_positive`` price; ``missing`` without a price to start from.
    """
    if view.trial.price.value is None:
        raise Refusal("missing", field="price", label="A price", remedy=NO_PRICE)
    bushel = crop(view.trial.crop).bushel_kg
    wanted = parse(SCENARIO_PRICE, price, bushel_kg=bushel)
    if wanted is not None:
        require_positive(wanted, "price", label="Price")
    share = parse(COSTS, costs)
    if share is not None:
        require_between(share, 0, 1000, "costs", label=COSTS.label, unit=" %")
    factor = 1.0 if share is None else share / 100
    value = view.trial.price.value if wanted is None else wanted
    rows = moved(view, computed(view))
    lines = [_line(view, row, cell_at(view, row.base, price=value, factor=factor)) for row in rows if row.base is not None]
    return WhatIfOut(
        lines=lines,
        best_amount=best_amount_words(view, worth_per_t=value - (view.trial.unit_cost.value or 0.0), factor=factor),
        said=f"At {view.show.text(value, 'price')} and {100 * factor:g} % of the extra costs",
        price_typed=price.text,
    )


def _remarks(view: TrialView) -> list[str]:
    remarks = []
    sown = [strip for strip in compared_strips(view) if view.seed_sown_per_ha(strip) is not None]
    count = len(compared_strips(view))
    if sown:
        remarks.append(
            f"Seed of {len(sown)} of {count} strips is reckoned by the rate recorded at sowing; "
            "grids and scenarios move the planned costs."
        )
    if any(view.cost(treatment).per_t for treatment in view.treatments) and view.trial.expected_yield.value is None:
        remarks.append("A cost comes with the yield, but no yield is expected: the difference that matters cannot be said.")
    if view.trial.price_source:
        remarks.append(f"Price from {view.trial.price_source}.")
    if not view.cost(view.treatments[0]).lines and all(view.cost(treatment).per_ha == 0 for treatment in view.treatments):
        remarks.append("No costs are typed for any treatment: the money is the yield's worth alone.")
    return remarks
