"""Writing prices and what a trial's money is judged by."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from uuid import UUID

from cultrix_core.crops import crop
from cultrix_core.economics.break_even import break_even
from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.units import LABELS
from django.db import transaction

from apps.accounts.models import User, Workspace
from apps.accounts.queries import workspace_for
from apps.accounts.rights import require
from apps.accounts.services import save_as
from apps.analysis.economics.models import (
    COSTS,
    SCENARIO_PRICE,
    SCENARIO_UNIT_COST,
    SETTINGS,
    MoneyPlan,
    PriceItem,
    PriceList,
    Scenario,
)
from apps.analysis.economics.schemas import MoneyPlanIn, PriceItemIn, PriceListIn, ScenarioIn, TakePriceIn
from apps.audit.services import note
from apps.base.errors import Conflict, NotFound
from apps.base.quantities import Quantity, TypedIn, fill
from apps.trials.models import Trial
from apps.trials.queries import trial_for
from apps.trials.schemas import TrialPatchIn
from apps.trials.services import edit_trial

MOST_ITEMS = 80
MOST_SCENARIOS = 8
DIMENSIONS = {"crop": "price", "fuel": "money_per_volume", "hour": "money_per_time", "area": "money_per_area", "bag": "money"}
STALE = "This was changed elsewhere meanwhile. What you typed is kept; look at what is there now and decide."


def price_quantity(kind: str) -> Quantity:
    """The quantity of a price of a kind."""
    return Quantity(name="price", suffix="canonical", dimension=DIMENSIONS[kind], kind="", label="Price")


def put_price_list(user: User, workspace_id: UUID, list_id: UUID, body: PriceListIn) -> PriceList:
    """Write a list whole. The client makes its id; a list is never deleted, only retired."""
    workspace = workspace_for(user, workspace_id)
    require(user, workspace, "prices")
    price_list = PriceList.objects.filter(id=list_id).select_related("workspace").first()
    if price_list is not None and price_list.workspace_id != workspace.id:
        raise NotFound
    if (price_list.version if price_list else 0) != body.version:
        raise Conflict("stale", STALE, {"version": price_list.version if price_list else 0})
    _check_list(workspace, body)
    with transaction.atomic():
        record = price_list or PriceList(id=list_id, workspace=workspace)
        record.name, record.source = body.name.strip()[:80], body.source.strip()[:160]
        record.dated, record.retired = body.dated, body.retired
        record.version = body.version + 1
        items = [_item(place, row) for place, row in enumerate(body.items)]
        save_as(record, user, "set prices: " + "; ".join(f"{item.name or item.crop} {item.price.text}" for item in items))
        before = _prices(list(record.items.all()))
        note(user, "prices", f"set the prices of {record}", workspace=workspace, before=before, after=_prices(items))
        record.items.all().delete()
        for item in items:
            item.price_list = record
            item.save()
    return record


def _prices(items: Sequence[PriceItem]) -> dict[str, str]:
    return {
        item.name or crop(item.crop).title: f"{item.price.text} {LABELS.get(item.price.unit, item.price.unit)}"
        for item in items
    }


def _scenarios(rows: Iterable[Scenario]) -> dict[str, str]:
    """Scenarios as they are told."""
    return {
        row.name: ", ".join(
            f"{label} {typed.text} {LABELS.get(typed.unit, typed.unit)}".strip()
            for label, typed in (("price", row.price), ("cost with yield", row.unit_cost), ("costs", row.costs))
            if typed.text
        )
        for row in rows
    }


def _check_list(workspace: Workspace, body: PriceListIn) -> None:
    if not body.name.strip():
        raise Refusal("missing", field="name", label="A name", remedy="Such as the mill or the shop whose prices they are.")
    if not body.source.strip():
        raise Refusal("missing", field="source", label="The source", remedy="Say where the prices were read.")
    if body.currency.strip() != workspace.currency:
        raise Refusal(
            "other_currency",
            field="currency",
            label="This list",
            value=body.currency.strip() or "no currency",
            limit=workspace.currency,
        )
    if not body.items:
        raise Refusal("missing", field="items", label="A price", remedy="Add a line, or leave the list out.")
    if len(body.items) > MOST_ITEMS:
        raise Refusal("too_large", field="items", label="Prices in a list", value=len(body.items), limit=MOST_ITEMS)


def _item(place: int, row: PriceItemIn) -> PriceItem:
    item = PriceItem(position=place, kind=row.kind, name=row.name.strip()[:80])
    bushel = None
    if row.kind == "crop":
        profile = crop(row.crop)
        item.crop, bushel = profile.key, profile.bushel_kg
    elif not item.name:
        raise Refusal("missing", field="items", label="What the price is of", remedy="Name it in a word or two.")
    label = f"The price of {item.name or item.crop.replace('_', ' ')}"
    fill(item, price_quantity(row.kind), row.price, bushel_kg=bushel)
    if item.price.value is None:
        raise Refusal("missing", field="items", label=label, remedy="Type it, or remove the line.")
    require_positive(item.price.value, "items", label=label)
    require_between(item.price.value, 0, 1e8, "items", label="Price")
    return item


def take_price(user: User, trial_id: UUID, body: TakePriceIn) -> Trial:
    """Put the price of a list into a trial, with where and when it was read."""
    trial = trial_for(user, trial_id)
    item = PriceItem.objects.filter(id=body.item_id, price_list__workspace=trial.workspace).select_related("price_list").first()
    if item is None:
        raise NotFound
    if item.kind != "crop" or item.crop != trial.crop:
        raise Refusal(
            "unknown_choice",
            field="item_id",
            label="Price of",
            value=item.name or item.crop.replace("_", " "),
            limit=trial.crop.replace("_", " "),
        )
    return edit_trial(
        user,
        trial_id,
        TrialPatchIn(
            version=body.version,
            price=TypedIn(text=item.price.text, unit=item.price.unit),
            price_source=str(item.price_list)[:160],
            amendment=body.amendment,
        ),
    )


def put_money_plan(user: User, trial_id: UUID, body: MoneyPlanIn) -> Trial:
    """Set the rates and scenarios a trial's money is judged by."""
    trial = trial_for(user, trial_id)
    require(user, trial.workspace, "prices")
    if len(body.scenarios) > MOST_SCENARIOS:
        raise Refusal("too_large", field="scenarios", label="Scenarios", value=len(body.scenarios), limit=MOST_SCENARIOS)
    with transaction.atomic():
        plan = MoneyPlan.objects.filter(trial=trial).first()
        if (plan.version if plan else 0) != body.version:
            raise Conflict("stale", STALE, {"version": plan.version if plan else 0})
        plan = plan or MoneyPlan(trial=trial)
        for quantity in SETTINGS:
            fill(plan, quantity, getattr(body, quantity.name))
            value = getattr(plan, quantity.value_column)
            if value is not None:
                require_between(value, 0, 95 if quantity.name == "swing" else 1e6, quantity.name, label=quantity.label)
                if quantity.name != "minimum_rate":
                    require_positive(value, quantity.name, label=quantity.label)
        plan.version = body.version + 1
        rows = [_scenario(trial, place, row) for place, row in enumerate(body.scenarios)]
        names = [row.name.lower() for row in rows]
        for row in rows:
            if names.count(row.name.lower()) > 1:
                raise Refusal("duplicate", field="scenarios", label="Scenario", value=row.name, remedy="Name each once.")
        save_as(plan, user, "set money: " + "; ".join(f"{row.name} {row.price.text}" for row in rows))
        before = _scenarios(trial.scenarios.all())
        note(user, "prices", "set scenarios", trial=trial, before=before, after=_scenarios(rows))
        trial.scenarios.all().delete()
        for row in rows:
            row.save()
    return trial


def _scenario(trial: Trial, place: int, row: ScenarioIn) -> Scenario:
    scenario = Scenario(trial=trial, position=place, name=row.name.strip()[:60], source=row.source.strip()[:160])
    if not scenario.name:
        raise Refusal("missing", field="scenarios", label="A scenario's name", remedy="Such as “poor price”.")
    bushel = crop(trial.crop).bushel_kg
    for quantity in (SCENARIO_PRICE, SCENARIO_UNIT_COST, COSTS):
        fill(scenario, quantity, getattr(row, quantity.name), bushel_kg=bushel)
    if scenario.costs.value is not None:
        require_between(scenario.costs.value, 0, 1000, "costs", label=COSTS.label, unit=" %")
    price = scenario.price.value if scenario.price.value is not None else trial.price.value
    cost = scenario.unit_cost.value if scenario.unit_cost.value is not None else trial.unit_cost.value
    if price is not None:
        break_even(extra_cost_per_ha=0.0, price_per_t=price, unit_cost_per_t=cost or 0.0)
    return scenario
