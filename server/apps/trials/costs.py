"""Cost lines as they are typed: by area, by unit of yield, or as a sum spread over an area; passes from fuel and hours."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from cultrix_core.crops import crop
from cultrix_core.economics.costs import pass_cost, spread_over
from cultrix_core.errors import Refusal, require_between
from cultrix_core.units import LABELS, parse_number

from apps.base.quantities import Quantity, TypedIn, fill, parse
from apps.trials import models
from apps.trials.models import CostLine, Level, Trial
from apps.trials.schemas import CostIn

SUM = Quantity(name="each", suffix="per_ha", dimension="money", kind="money", label="Cost")
BY_YIELD = Quantity(name="each", suffix="per_t", dimension="price", kind="price", label="Cost")
MOST = 1e6
MOST_SUM = 1e8


def put_costs(trial: Trial, rows: Sequence[tuple[CostIn, Level | None]], levels: Sequence[Level]) -> None:
    """Put these cost lines in the place of those that the levels have.

    Raises
    ------
    Refusal : ``unknown_choice`` level or part of a pass, ``missing`` cost or area, limits of money.
    """
    CostLine.objects.filter(level__in=levels).delete()
    for row, level in rows:
        if level is None:
            raise Refusal(
                "unknown_choice", field="costs", label="Level", value=row.level.text, limit="the levels of the treatments"
            )
        line = CostLine(level=level, kind=row.kind, label=row.label.strip()[:60], basis=row.basis)
        times = parse_number(row.times or "1", field="times", label="Times")
        require_between(times, 0, 1e6, "times", label="Times")
        fill(line, models.TIMES, TypedIn(text=row.times or "1"), value=times)
        _fill_each(trial, line, row)
        line.save()


def _fill_each(trial: Trial, line: CostLine, row: CostIn) -> None:
    made_of = {name: typed for name, typed in row.made_of.items() if typed.text.strip()}
    if made_of:
        if row.basis != "area":
            raise Refusal(
                "not_for_design",
                field="costs",
                label="Fuel and hours",
                value="this line",
                limit="they are a cost by area",
                remedy="Choose “By area”.",
            )
        line.each = replace(line.each, value=_of_pass(made_of))
        line.made_of = {name: typed.dict() for name, typed in made_of.items()}
        return
    if not row.each.text.strip():
        raise Refusal("missing", field="costs", label="A cost", remedy="Type what one time costs, or remove the line.")
    if row.basis == "yield":
        fill(line, BY_YIELD, row.each, bushel_kg=crop(trial.crop).bushel_kg)
        line.each = replace(line.each, value=0.0)
        require_between(line.each_per_t or 0.0, -MOST, MOST, "each", label="Cost")
    elif row.basis == "area":
        fill(line, models.EACH, row.each)
        require_between(line.each.value or 0.0, -MOST, MOST, "each", label="Cost")
    else:
        total = parse(SUM, row.each) or 0.0
        require_between(total, 0, MOST_SUM, "each", label="Cost")
        fill(line, models.SPREAD, row.spread)
        if line.spread.value is None:
            raise Refusal(
                "missing",
                field="costs",
                label="The area it is spread over",
                remedy="A sum for a trial or a machine's year needs the area it serves.",
            )
        fill(line, SUM, row.each, value=spread_over(total, line.spread.value))


def _of_pass(made_of: dict[str, TypedIn]) -> float:
    known = {quantity.name: quantity for quantity in models.OF_PASS}
    for name in made_of:
        if name not in known:
            raise Refusal("unknown_choice", field="costs", label="Part of a pass", value=name, limit=", ".join(known))
    value = {name: parse(quantity, made_of.get(name)) or 0.0 for name, quantity in known.items()}
    return pass_cost(
        fuel_l_per_ha=value["fuel"],
        fuel_price_per_l=value["fuel_price"],
        hours_per_ha=value["hours"],
        wage_per_h=value["wage"],
        hire_per_h=value["hire"],
    )


def as_typed(line: CostLine) -> TypedIn:
    """What one time costs, as it was typed."""
    return TypedIn(text=line.each.text, unit=line.each.unit)


def said(line: CostLine, currency: str) -> str:
    """A line in words, for the protocol."""
    head = f"{line.label or line.kind} {line.times.text} ×"
    if line.made_of:
        parts = ", ".join(
            f"{name.replace('_', ' ')} {item['text']} {LABELS.get(item['unit'], item['unit'])}"
            for name, item in line.made_of.items()
        )
        return f"{head} ({parts})"
    label = LABELS.get(line.each.unit, line.each.unit)
    amount = f"{line.each.text} {currency}{label}"
    if line.basis in ("trial", "machine_year"):
        what = "for the trial" if line.basis == "trial" else "a year"
        return f"{head} {amount} {what} over {line.spread.text} {LABELS.get(line.spread.unit, line.spread.unit)}"
    return f"{head} {amount}"
