"""Price lists with day and source, and scenarios of the trials that are harvested."""

from __future__ import annotations

from datetime import date
from uuid import UUID, uuid5

from apps.accounts.models import User, Workspace
from apps.analysis.economics.schemas import MoneyPlanIn, PriceItemIn, PriceListIn, ScenarioIn, TakePriceIn
from apps.analysis.economics.services import put_money_plan, put_price_list, take_price
from apps.base.quantities import TypedIn
from apps.demo.writing import NAMESPACE, typed
from apps.trials.models import Trial


def _list(lead: User, workspace: Workspace, name: str, dated: date, source: str, items: list[PriceItemIn]) -> UUID:
    key = uuid5(NAMESPACE, name)
    put_price_list(
        lead,
        workspace.id,
        key,
        PriceListIn(version=0, name=name, dated=dated, source=source, currency=workspace.currency, items=items),
    )
    return key


def _crop(key: str, price: str) -> PriceItemIn:
    return PriceItemIn(kind="crop", crop=key, price=typed(price, "money/t"))


def _thing(kind: str, name: str, price: TypedIn) -> PriceItemIn:
    return PriceItemIn(kind=kind, name=name, price=price)  # type: ignore[arg-type]


def prices(lead: User, workspace: Workspace) -> None:
    """The mill's board and the co-operative's shop; the maize of the coming year takes its price from the board."""
    _list(
        lead,
        workspace,
        "Weir Mill board",
        date(2026, 10, 12),
        "board at the mill's gate, for delivery in autumn",
        [
            _crop("winter_wheat", "208"),
            _crop("maize", "196"),
            _crop("sorghum", "184"),
            _crop("sunflower", "415"),
            _crop("field_pea", "262"),
        ],
    )
    _list(
        lead,
        workspace,
        "Growers' shop",
        date(2026, 9, 30),
        "price sheet of the circle's own shop",
        [
            _thing("fuel", "Diesel, delivered", typed("1.10", "money/L")),
            _thing("hour", "Labour with tractor", typed("43", "money/h")),
            _thing("area", "Spraying, by contract", typed("17", "money/ha")),
            _thing("bag", "Maize seed, 50 000", typed("118", "money")),
        ],
    )


def scenarios(lead: User, trial: Trial, poor: str, good: str) -> None:
    """A poor and a good price, and dear inputs, for a harvested trial."""
    put_money_plan(
        lead,
        trial.id,
        MoneyPlanIn(
            version=0,
            minimum_rate=typed("80", "%"),
            scenarios=[
                ScenarioIn(name="Poor price", price=typed(poor, "money/t"), source="lowest of five autumns at the mill"),
                ScenarioIn(name="Good price", price=typed(good, "money/t"), source="highest of five autumns at the mill"),
                ScenarioIn(name="Dear inputs", costs=typed("140", "%")),
            ],
        ),
    )


def from_the_board(lead: User, trial: Trial) -> Trial:
    """The trial's price from the newest list that has its crop."""
    board = trial.workspace.price_lists.filter(items__crop=trial.crop).first()
    assert board is not None
    item = board.items.get(crop=trial.crop)
    return take_price(lead, trial.id, TakePriceIn(version=trial.version, item_id=item.pk))
