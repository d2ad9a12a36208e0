"""A trial without its money, for people whose part does not see it: prices, costs, margins in money, net return."""

from __future__ import annotations

from apps.base.quantities import MeasuredValue, TypedOut
from apps.farms.models import BAG_PRICE
from apps.trial_state.view import TrialView
from apps.trials.models import PRICE, UNIT_COST
from apps.trials.protocol import WORDS
from apps.trials.schemas import TrialOut

PRICED = ("price", "unit_cost", "net_margin", "bag_price", "bag_seeds")
APART = {WORDS.get(name, name.replace("_", " ")) for name in PRICED} | {"price read"}
NOTHING = MeasuredValue("", "", None)
NOT_SHOWN = TypedOut(text="", unit="", shown=None)


def without_money(answer: TrialOut) -> TrialOut:
    """The same trial, its money left out; what was recorded and planned stays."""
    for name in PRICED:
        setattr(answer, name, NOT_SHOWN)
    answer.price_source, answer.costs = "", []
    for treatment in answer.treatments:
        treatment.extra_cost, treatment.costs_more = NOT_SHOWN, None
        treatment.margin, treatment.margin_working = None, None
    for strip in answer.strips:
        strip.net_return, strip.net_return_working = None, None
    answer.notes = [note for note in answer.notes if "price" not in note.lower()]
    if answer.protocol is not None:
        answer.protocol.content = [
            [name, text.split("; stated cost")[0]] for name, text in answer.protocol.content if name not in APART
        ]
        for amendment in answer.protocol.amendments:
            amendment.changes = [change for change in amendment.changes if change[0] not in APART]
    return answer


def unpriced(view: TrialView) -> TrialView:
    """A view whose prices are left out before anything is reckoned from them; it is for one answer and is never saved."""
    for quantity in (PRICE, UNIT_COST, BAG_PRICE):
        setattr(view.trial, quantity.name, NOTHING)
    for part in view.sowings:
        part.lot.bag_price = NOTHING
    return view
