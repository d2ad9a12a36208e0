"""What a reader of the question page should think about: the classic confusions, found in the trial's own entries."""

from __future__ import annotations

import re

from cultrix_core.design.factors import structure
from cultrix_core.economics.price_units import meant_unit
from cultrix_core.units import LABELS, parse_number

from apps.farms.models import Field
from apps.trial_state.view import TrialView
from apps.trials.naming import treatment_name

TWO_THINGS = re.compile(r"\b(and|with|plus)\b|[+&]", re.IGNORECASE)
ACROSS = re.compile(
    r"\b(other|another|neighbou?r'?s?|two|both) fields?\b|\bhal(f|ves) of (the|a|our) field\b"
    r"|\b(against|than|versus|vs\.?) last year\b",
    re.IGNORECASE,
)
TOGETHER = (
    "{one} and {other} change together in these treatments, so their effects can never be told apart. "
    "Add the missing combinations, or hold one of them equal."
)


def notes_of(view: TrialView) -> list[str]:
    """Warnings and advice, the gravest first."""
    return [*_own_crop(view), *_price(view), *_confusions(view), *_missing(view)]


def _own_crop(view: TrialView) -> list[str]:
    relative = view.profile.relative
    if not relative:
        return []
    return [
        f"{view.profile.name} is a crop of your own. Heat units, visits, stages, sowing depth, stands, moisture and the weight "
        f"of a bushel are those of {relative.lower()}, its nearest relative: nothing of them was checked for "
        f"{view.profile.name.lower()}."
    ]


def _price(view: TrialView) -> list[str]:
    """Asks where the price looks like one of another unit."""
    trial, currency = view.trial, view.show.currency
    if trial.price.value is None or not trial.price.text:
        return []
    typed = parse_number(trial.price.text, field="price")
    meant = meant_unit(typed, trial.price.unit, view.profile, currency=currency, system=view.show.system)
    if meant is None:
        return []
    text, shown = f"{currency}{trial.price.text}{LABELS[trial.price.unit]}", view.show.text(trial.price.value, "price")
    also = "" if view.show.unit_code("price") == trial.price.unit else f", which is {shown},"
    return [
        f"The price of {text}{also} is far from what {view.profile.name.lower()} usually brings. "
        f"Do you mean {currency}{trial.price.text}{meant.label}?"
    ]


def _confusions(view: TrialView) -> list[str]:
    notes = []
    names = [[str(level.id) for level in treatment.levels.all()] for treatment in view.treatments]
    if names and len(view.factors) > 1:
        for item, other in structure(names).together:
            notes.append(TOGETHER.format(one=view.factors[item].title, other=view.factors[other].title.lower()))
    usual = {level.id for level in view.control.levels.all()} if view.control else set()
    for treatment in view.treatments:
        text = " ".join(level.name for level in treatment.levels.all() if level.id not in usual)
        if TWO_THINGS.search(text):
            notes.append(
                f"“{treatment_name(treatment, view.show)}” speaks of two things at once. If both change against the control, "
                "make them two factors."
            )
            break
    notes += _across_fields(view)
    kinds = {factor.kind for factor in view.factors}
    if "row_spacing" in kinds and "seeding_rate" not in kinds and view.trial.seeding_rate.value:
        notes.append(
            "Seeds per area stay equal, so seeds along the row change with the row spacing: set the drill for each width. "
            "The table under Treatments shows both."
        )
    return notes


def _across_fields(view: TrialView) -> list[str]:
    text = f"{view.trial.question} {view.trial.title}"
    named = [
        field.name
        for field in Field.objects.filter(workspace=view.trial.workspace).only("name")
        if re.search(rf"\b{re.escape(field.name)}\b", text, re.IGNORECASE)
    ]
    if len(named) > 1 or ACROSS.search(text):
        where = f" ({' and '.join(named)})" if len(named) > 1 else ""
        return [
            f"The question compares fields, halves of one, or years{where}: soil, sowing date and weather are then part of the "
            "treatment. Compare strips side by side in one field, and repeat it in the other."
        ]
    return []


def _missing(view: TrialView) -> list[str]:
    notes = []
    if view.treatments and view.control is None:
        notes.append("No control is chosen: without what the farm does now, a gain has nothing to be a gain over.")
    if (
        view.treatments
        and view.control
        and any(view.margin_kg_per_ha(treatment) is None for treatment in view.treatments if not treatment.is_control)
    ):
        notes.append(
            "No practical margin is stated, the smallest difference you would act on, and no expected yield to take 2 % of: "
            "“no difference that matters” cannot be called."
        )
    if not view.design.replicated:
        notes.append("One strip a treatment shows what could be seen, never how sure it is. Three to six blocks would.")
    if not view.design.drawn:
        notes.append("The order alternates without a draw: a drift across the field leans on the comparison, unseen.")
    if not view.trial.guess:
        notes.append("Write your guess before the result is in: it is how one learns how good one's eye is.")
    return notes
