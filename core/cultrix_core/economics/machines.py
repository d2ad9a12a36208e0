"""What a machine costs a year, and the area it must work to pay.

Ownership by capital recovery [1]. With price P, value at the end S, n years, interest i:

    recovery factor   i (1 + i)ⁿ ÷ ((1 + i)ⁿ − 1), 1 ÷ n without interest
    ownership         (P − S) × factor + S × i

To it come repairs, and insurance and housing, each as a share of the price a year. Of a machine that is shared, a farm carries
its share of all that. Working rate: width × speed × field efficiency.

    area to pay = yearly cost ÷ net gain per area.

References: [1] capital recovery: textbooks of engineering economics (from memory); tests hold it against numpy-financial.
"""

from __future__ import annotations

from dataclasses import dataclass

from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.units import HA_M2
from cultrix_core.working import Step, Working


@dataclass(frozen=True, slots=True, kw_only=True)
class Machine:
    """A machine as it is bought: money, years, rates as percent a year, ``share_pct`` that this farm carries."""

    price: float
    salvage: float
    years: float
    interest_pct: float
    repairs_pct: float = 0.0
    insurance_pct: float = 0.0
    share_pct: float = 100.0


@dataclass(frozen=True, slots=True, kw_only=True)
class YearlyCost:
    """Money a year, all of it the farm's share."""

    factor: float
    ownership: float
    repairs: float
    insurance: float

    @property
    def total(self) -> float:
        return self.ownership + self.repairs + self.insurance


def recovery_factor(interest: float, years: float) -> float:
    """Capital recovery factor; ``interest`` a share a year.

    Raises
    ------
    Refusal : ``not_positive`` years, interest outside 0 to 1.
    """
    require_positive(years, "years", label="Years it is kept")
    require_between(interest, 0, 1, "interest", label="Interest")
    if interest == 0:
        return 1 / years
    return float(interest / (1 - (1 + interest) ** -years))


def yearly_cost(machine: Machine) -> YearlyCost:
    """What the machine costs this farm a year.

    Raises
    ------
    Refusal : ``not_positive`` price or years, ``too_large`` value at the end, rates outside 0 to 100 %.
    """
    require_positive(machine.price, "price", label="Price of the machine")
    require_between(machine.salvage, 0, machine.price, "salvage", label="Value at the end")
    require_between(machine.years, 1, 60, "years", label="Years it is kept")
    require_between(machine.interest_pct, 0, 100, "interest", label="Interest", unit=" %")
    require_between(machine.repairs_pct, 0, 100, "repairs", label="Repairs", unit=" %")
    require_between(machine.insurance_pct, 0, 100, "insurance", label="Insurance and housing", unit=" %")
    require_between(machine.share_pct, 1, 100, "share", label="This farm's share", unit=" %")
    factor = recovery_factor(machine.interest_pct / 100, machine.years)
    share = machine.share_pct / 100
    whole = (machine.price - machine.salvage) * factor + machine.salvage * machine.interest_pct / 100
    return YearlyCost(
        factor=factor,
        ownership=share * whole,
        repairs=share * machine.price * machine.repairs_pct / 100,
        insurance=share * machine.price * machine.insurance_pct / 100,
    )


def area_to_pay_m2(yearly: float, gain_per_ha: float) -> float | None:
    """Area a year on which a gain pays the yearly cost; None where there is no gain."""
    require_between(yearly, 0, 1e12, "yearly", label="Yearly cost")
    return yearly / gain_per_ha * HA_M2 if gain_per_ha > 0 else None


def area_per_hour_m2(*, width_m: float, speed_km_h: float, efficiency_pct: float) -> float:
    """Area worked in an hour.

    Raises
    ------
    Refusal : ``not_positive`` width or speed, efficiency outside 1 to 100 %.
    """
    require_positive(width_m, "width", label="Working width")
    require_positive(speed_km_h, "speed", label="Speed")
    require_between(efficiency_pct, 1, 100, "efficiency", label="Field efficiency", unit=" %")
    return width_m * speed_km_h * 1000 * efficiency_pct / 100


def earlier_days(*, area_m2: float, first_m2_per_day: float, second_m2_per_day: float) -> float:
    """Days earlier that the average hectare is sown when a second machine works beside the first.

    Half of an area is done at half its time: the average waits area ÷ (2 × rate).
    """
    require_positive(area_m2, "area", label="Area")
    require_positive(first_m2_per_day, "rate", label="Area a day")
    require_positive(second_m2_per_day, "rate", label="Area a day")
    return area_m2 / (2 * first_m2_per_day) - area_m2 / (2 * (first_m2_per_day + second_m2_per_day))


def machine_working(
    machine: Machine,
    cost: YearlyCost,
    show: UnitFormatter,
    *,
    gain_per_ha: float,
    gain_steps: tuple[Step, ...] = (),
    area_m2: float | None = None,
) -> Working:
    """The working from the price to the area that pays; ``area_m2``: what the farm would work a year, where said."""
    if gain_per_ha <= 0 and not gain_steps:
        raise Refusal("not_positive", field="gain", label="Gain", value=f"{gain_per_ha:g}")
    m = show.text
    price, salvage = m(machine.price, "money"), m(machine.salvage, "money")
    steps = [
        Step(
            label="Recovery factor",
            formula="i ÷ (1 − (1 + i)^−n)",
            numbers=f"i = {machine.interest_pct:g} %, n = {machine.years:g}",
            outcome=format_number(cost.factor, 6),
            source="engineering economics, any table",
        ),
        Step(
            label="Ownership a year",
            formula="((price − value at the end) × factor + value at the end × i) × share",
            numbers=f"(({price} − {salvage}) × {cost.factor:.6f} + {salvage} × {machine.interest_pct:g} %) × "
            f"{machine.share_pct:g} %",
            outcome=m(cost.ownership, "money"),
            source="capital recovery",
        ),
        Step(
            label="Repairs, insurance and housing a year",
            formula="price × (repairs + insurance and housing) × share",
            numbers=f"{price} × ({machine.repairs_pct:g} % + {machine.insurance_pct:g} %) × {machine.share_pct:g} %",
            outcome=m(cost.repairs + cost.insurance, "money"),
            source="definition",
        ),
        *gain_steps,
    ]
    area = area_to_pay_m2(cost.total, gain_per_ha)
    gain = m(gain_per_ha, "money_per_area")
    outcome = "it never pays: there is no gain" if area is None else f"pays from {m(area, 'farm_area')} a year"
    steps.append(
        Step(
            label="Area to pay",
            formula="yearly cost ÷ net gain per area",
            numbers=f"{m(cost.total, 'money')} ÷ {gain}",
            outcome="no area is enough" if area is None else m(area, "farm_area"),
            source="definition",
        )
    )
    if area_m2 is not None:
        left = gain_per_ha * area_m2 / HA_M2 - cost.total
        steps.append(
            Step(
                label="Left a year on this farm",
                formula="net gain per area × area − yearly cost",
                numbers=f"{gain} × {m(area_m2, 'farm_area')} − {m(cost.total, 'money')}",
                outcome=m(left, "money", signed=True),
                source="definition",
            )
        )
        outcome += f"; on {m(area_m2, 'farm_area')} it {'leaves' if left >= 0 else 'loses'} {m(abs(left), 'money')} a year"
    return Working(
        title="Does the machine pay",
        outcome=outcome,
        steps=tuple(steps),
        assumption="The gain per area: a trial's, with its interval. At the low end of the interval the area is larger.",
    )
