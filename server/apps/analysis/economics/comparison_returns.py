"""The comparisons of a verdict as money can be moved: at other prices and costs, block by block, and along a curve."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from uuid import UUID

from cultrix_core.economics.risk import Risk, StripReturn, risk
from cultrix_core.economics.sensitivity import Bar, Cell, Driver, NetComparison, at, tornado
from cultrix_core.errors import Refusal

from apps.analysis.verdict.comparisons import compared_strips, net_of, treatment_means
from apps.analysis.verdict.decisions import Decision, decisions_for
from apps.analysis.verdict.queries import Computed
from apps.analysis.verdict.series import key_of
from apps.trial_state.view import TrialView
from apps.trials.models import Strip, Treatment

LEFT, RIGHT = "left", "right"


@dataclass(frozen=True, slots=True, kw_only=True)
class Moved:
    """A judged comparison of net return with what is needed to move it; ``base`` is None without intervals."""

    row: Decision
    name: str
    base: NetComparison | None


def moved(view: TrialView, computed: Computed) -> list[Moved]:
    """The comparisons of net return, in the verdict's order."""
    if computed.net is None or computed.yield_ is None or view.trial.price.value is None:
        return []
    means = treatment_means(view, computed.yield_)
    rows = decisions_for(view, computed.net, "net_return", computed.net_trend, every=True)
    return [Moved(row=row, name=name_of(row), base=_base(view, row, means)) for row in rows]


def name_of(row: Decision) -> str:
    """A comparison in words."""
    inside = f" at {row.within}" if row.within else ""
    return f"{row.left} against {row.right}{inside}"


def _base(view: TrialView, row: Decision, means: dict[UUID, float]) -> NetComparison | None:
    item, price = row.difference, view.trial.price.value
    if item.lower is None or item.upper is None or price is None:
        return None
    left, right = row.sides
    other = row.other
    second = None
    if other is not None and other.lower is not None and other.upper is not None:
        second = (other.estimate, other.lower, other.upper)
    treatment_costs = [view.cost(treatment) for treatment in left]
    return NetComparison(
        estimate=item.estimate,
        lower=item.lower,
        upper=item.upper,
        yield_t_per_ha=(_mean(means, left) - _mean(means, right)) / 1000,
        extra_cost_per_ha=_average([cost.per_ha for cost in treatment_costs])
        - _average([view.cost(each).per_ha for each in right]),
        price_per_t=price,
        worth_per_t=price - (view.trial.unit_cost.value or 0.0) - _average([cost.per_t for cost in treatment_costs]),
        second=second,
    )


def _mean(means: dict[UUID, float], side: Sequence[Treatment]) -> float:
    return _average([means[treatment.id] for treatment in side if treatment.id in means])


def _average(values: Sequence[float]) -> float:
    return sum(values) / len(values)


def cell_at(
    view: TrialView, base: NetComparison, *, price: float | None = None, unit_cost: float | None = None, factor: float = 1.0
) -> Cell:
    """The comparison at other prices; another cost per unit of yield moves it as a price does."""
    now = view.trial.unit_cost.value or 0.0
    shift = 0.0 if unit_cost is None else unit_cost - now
    wanted = (base.price_per_t if price is None else price) - shift
    return at(base, price_per_t=wanted, cost_factor=factor, margin=view.trial.net_margin.value)


def bars(view: TrialView, item: Moved, swing: float) -> tuple[Bar, ...]:
    """What moves a comparison, one thing at a time by a share up and down; the yield over its interval."""
    base = item.base
    assert base is not None
    price, cost = base.price_per_t, view.trial.unit_cost.value or 0.0
    drivers = [
        Driver(
            name="price",
            low=price * (1 - swing),
            high=price * (1 + swing),
            outcome=lambda value: cell_at(view, base, price=value).estimate,
        ),
        Driver(name="difference in yield", low=base.lower, high=base.upper, outcome=lambda value: value),
    ]
    if cost:
        drivers.append(
            Driver(
                name="drying and hauling",
                low=cost * (1 - swing),
                high=cost * (1 + swing),
                outcome=lambda value: cell_at(view, base, unit_cost=value).estimate,
            )
        )
    for label, extra in _extras(view, item).items():
        drivers.append(
            Driver(
                name=label,
                low=extra * (1 - swing),
                high=extra * (1 + swing),
                outcome=lambda value, extra=extra: base.estimate - (value - extra),  # type: ignore[misc]
            )
        )
    return tornado(drivers)


def _extras(view: TrialView, item: Moved) -> dict[str, float]:
    """What one side costs more than the other per ha, by line; what is equal is left out."""
    result: dict[str, float] = {}
    for side, sign in zip(item.row.sides, (1, -1), strict=True):
        for treatment in side:
            for label, value in parts(view, treatment):
                result[label] = result.get(label, 0.0) + sign * value / len(side)
    return {label: value for label, value in result.items() if abs(value) > 0.005}


def parts(view: TrialView, treatment: Treatment) -> list[tuple[str, float]]:
    """Planned costs by area of a treatment, line by line."""
    cost = view.cost(treatment)
    rows = [(line.label, line.per_ha) for line in cost.lines if not line.each_per_t]
    if cost.seed_per_ha is not None:
        rows.append(("seed", cost.seed_per_ha))
    if cost.stated_per_ha:
        rows.append(("stated cost", cost.stated_per_ha))
    return rows


def risk_of(views: Sequence[TrialView], row: Decision) -> Risk | None:
    """Gains of a comparison by block and year over trials of one question; None where no block has both sides."""
    names, base = ({key_of(treatment) for treatment in side} for side in row.sides)
    strips = [(view, strip) for view in views for strip in compared_strips(view)]
    rows = [made for view, strip in strips if (made := _return(view, strip, names, base)) is not None]
    try:
        return risk(rows, treatment=LEFT, control=RIGHT)
    except Refusal:
        return None


def _return(view: TrialView, strip: Strip, own: set[str], base: set[str]) -> StripReturn | None:
    key, net = key_of(strip.received), net_of(view, strip)
    side = LEFT if key in own else RIGHT if key in base else None
    if net is None or side is None:
        return None
    return StripReturn(treatment=side, block=str(strip.block.number), year=str(view.trial.season), net_per_ha=net)
