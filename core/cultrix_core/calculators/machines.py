"""Calculators of passes and machines: what a pass costs, and the area on which a machine pays.

The three machines are worked examples of our own; their prices are invented and meant to be overwritten.
"""

from __future__ import annotations

from cultrix_core.calculators.inputs import Calculator, Input, Values, number, of, percent
from cultrix_core.economics.break_even import break_even
from cultrix_core.economics.costs import pass_cost
from cultrix_core.economics.machines import (
    Machine,
    area_per_hour_m2,
    earlier_days,
    machine_working,
    yearly_cost,
)
from cultrix_core.unit_formatting import UnitFormatter, format_number
from cultrix_core.working import Step, Working

PRICE = of("price", "Price of the crop", "price", ("210", "money/t"), ("9.00", "money/bu"))
UNIT_COST = of("unit_cost", "Drying, hauling per unit", "price", ("12", "money/t"), ("0.30", "money/bu"))
AREA = of("area", "Area it would work a year", "area", ("180", "ha"), ("450", "ac"))


def _bought(price: str, salvage: str) -> tuple[Input, ...]:
    return (
        of("machine_price", "Price of the machine", "money", (price, "money"), (price, "money")),
        of("salvage", "Value at the end", "money", (salvage, "money"), (salvage, "money")),
        number("years", "Years it is kept", "10"),
        percent("interest", "Interest", "7"),
        percent("repairs", "Repairs a year, of the price", "3"),
        percent("insurance", "Insurance and housing a year, of the price", "1"),
        percent("share", "This farm's share of it", "100"),
    )


def _machine(values: Values) -> Machine:
    return Machine(
        price=values["machine_price"],
        salvage=values["salvage"],
        years=values["years"],
        interest_pct=values["interest"],
        repairs_pct=values["repairs"],
        insurance_pct=values["insurance"],
        share_pct=values["share"],
    )


def _worth(values: Values) -> float:
    even = break_even(extra_cost_per_ha=0.0, price_per_t=values["price"], unit_cost_per_t=values["unit_cost"])
    return even.worth_per_t


def _of_yield(values: Values, show: UnitFormatter) -> tuple[float, Step]:
    money = values["yield_gain"] / 1000 * _worth(values)
    return money, Step(
        label="Worth of the yield gained",
        formula="yield gain × (price − cost per unit of yield)",
        numbers=f"{show.text(values['yield_gain'], 'yield', signed=True)} × {show.text(_worth(values), 'price')}",
        outcome=show.text(money, "money_per_area", signed=True),
        source="definition",
    )


def _gain(parts: list[tuple[str, float]], show: UnitFormatter) -> tuple[float, Step]:
    total = sum(value for _, value in parts)
    return total, Step(
        label="Net gain per area",
        formula=" + ".join(name for name, _ in parts),
        numbers=" + ".join(f"({show.text(value, 'money_per_area', signed=True)})" for _, value in parts),
        outcome=show.text(total, "money_per_area", signed=True),
        source="definition",
    )


def _strip_till(values: Values, show: UnitFormatter) -> Working:
    worth, step = _of_yield(values, show)
    gain, added = _gain(
        [("yield gained", worth), ("passes saved", values["saved"]), ("its own pass", -values["own_pass"])], show
    )
    machine = _machine(values)
    return machine_working(
        machine, yearly_cost(machine), show, gain_per_ha=gain, gain_steps=(step, added), area_m2=values["area"]
    )


def _narrow(values: Values, show: UnitFormatter) -> Working:
    worth, step = _of_yield(values, show)
    gain, added = _gain(
        [("yield gained", worth), ("more seed", -values["more_seed"]), ("rows under later wheels", -values["wheels"])], show
    )
    machine = _machine(values)
    return machine_working(
        machine, yearly_cost(machine), show, gain_per_ha=gain, gain_steps=(step, added), area_m2=values["area"]
    )


def _second_planter(values: Values, show: UnitFormatter) -> Working:
    per_hour = area_per_hour_m2(width_m=values["width"], speed_km_h=values["speed"], efficiency_pct=values["efficiency"])
    per_day = per_hour * values["hours"]
    days = earlier_days(area_m2=values["area"], first_m2_per_day=per_day, second_m2_per_day=per_day)
    lost = values["loss_a_day"] / 1000 * _worth(values)
    steps = (
        Step(
            label="Area a day of one planter",
            formula="width × speed × field efficiency × hours",
            numbers=f"{show.text(values['width'], 'strip_width')} × {show.text(values['speed'], 'speed')} × "
            f"{values['efficiency']:g} % × {values['hours']:g} h",
            outcome=show.text(per_day, "farm_area"),
            source="definition",
        ),
        Step(
            label="Days earlier, on average",
            formula="area ÷ (2 × area a day) − area ÷ (4 × area a day)",
            numbers=f"{show.text(values['area'], 'farm_area')}, {show.text(per_day, 'farm_area')} a day",
            outcome=f"{format_number(days, 1)} days",
            source="the average hectare is sown at half time",
        ),
        Step(
            label="Net gain per area",
            formula="days earlier × loss a day × (price − cost per unit of yield) − the second driver",
            numbers=f"{format_number(days, 1)} × {show.text(lost, 'money_per_area')} − "
            f"{show.text(values['driver'], 'money_per_area')}",
            outcome=show.text(days * lost - values["driver"], "money_per_area", signed=True),
            source="definition",
        ),
    )
    machine = _machine(values)
    return machine_working(
        machine,
        yearly_cost(machine),
        show,
        gain_per_ha=days * lost - values["driver"],
        gain_steps=steps,
        area_m2=values["area"],
    )


def _plain(values: Values, show: UnitFormatter) -> Working:
    machine = _machine(values)
    return machine_working(machine, yearly_cost(machine), show, gain_per_ha=values["gain"], area_m2=values["area"])


def _pass(values: Values, show: UnitFormatter) -> Working:
    cost = pass_cost(
        fuel_l_per_ha=values["fuel"],
        fuel_price_per_l=values["fuel_price"],
        hours_per_ha=values["hours"],
        wage_per_h=values["wage"],
        hire_per_h=values["hire"],
    )
    fuel = values["fuel"] * values["fuel_price"]
    return Working(
        title="What a pass costs",
        outcome=show.text(cost, "money_per_area"),
        steps=(
            Step(
                label="Fuel",
                formula="fuel per area × price of fuel",
                numbers=f"{show.text(values['fuel'], 'fuel')} × {show.text(values['fuel_price'], 'fuel_price')}",
                outcome=show.text(fuel, "money_per_area"),
                source="definition",
            ),
            Step(
                label="Labour and hire",
                formula="hours per area × (wage + hire of the machine)",
                numbers=f"{show.text(values['hours'], 'hours')} × ({show.text(values['wage'], 'wage')} + "
                f"{show.text(values['hire'], 'wage')})",
                outcome=show.text(cost - fuel, "money_per_area"),
                source="definition",
            ),
            Step(
                label="The pass",
                formula="fuel + labour and hire",
                numbers=f"{show.text(fuel, 'money_per_area')} + {show.text(cost - fuel, 'money_per_area')}",
                outcome=show.text(cost, "money_per_area"),
                source="definition",
            ),
        ),
        assumption="Fuel on this soil and at this depth: heavy ground takes half as much again (common practice, no source).",
    )


YIELD_GAIN = of("yield_gain", "Yield gained, from a trial", "mass_per_area", ("0.12", "t/ha"), ("1.8", "bu/ac"))

CALCULATORS: tuple[Calculator, ...] = (
    Calculator(
        key="pass_cost",
        title="What a pass costs",
        run=_pass,
        purpose="Fuel, labour and hire of one pass, per area.",
        inputs=(
            of("fuel", "Fuel", "volume_per_area", ("9", "L/ha"), ("1.0", "gal/ac")),
            of("fuel_price", "Price of fuel", "money_per_volume", ("1.20", "money/L"), ("4.10", "money/gal")),
            of("hours", "Hours", "time_per_area", ("0.35", "h/ha"), ("0.14", "h/ac")),
            of("wage", "Wage", "money_per_time", ("22", "money/h"), ("24", "money/h")),
            of("hire", "Hire of tractor and machine", "money_per_time", ("30", "money/h"), ("34", "money/h")),
        ),
    ),
    Calculator(
        key="machine_pays",
        title="Does a machine pay",
        run=_plain,
        purpose="Ownership by capital recovery, and the area that pays it at a net gain per area.",
        inputs=(
            *_bought("90000", "30000"),
            of("gain", "Net gain per area", "money_per_area", ("45", "money/ha"), ("36", "money/ac")),
            AREA,
        ),
    ),
    Calculator(
        key="machine_strip_till",
        needs_crop=True,
        title="A strip-till bar: does it pay",
        run=_strip_till,
        purpose="Passes saved and yield gained against the price of the bar. Prices are an example of ours.",
        inputs=(
            *_bought("64000", "18000"),
            YIELD_GAIN,
            PRICE,
            UNIT_COST,
            of("saved", "Passes it saves", "money_per_area", ("58", "money/ha"), ("24", "money/ac")),
            of("own_pass", "Its own pass, without ownership", "money_per_area", ("31", "money/ha"), ("13", "money/ac")),
            AREA,
        ),
    ),
    Calculator(
        key="machine_narrow",
        needs_crop=True,
        title="Narrower row units: do they pay",
        run=_narrow,
        purpose="Yield of narrow rows against more units, more seed and rows under later wheels. An example of ours.",
        inputs=(
            *_bought("38000", "9000"),
            YIELD_GAIN,
            PRICE,
            UNIT_COST,
            of("more_seed", "More seed", "money_per_area", ("6", "money/ha"), ("2.5", "money/ac")),
            of("wheels", "Lost under later wheels", "money_per_area", ("9", "money/ha"), ("3.6", "money/ac")),
            AREA,
        ),
    ),
    Calculator(
        key="machine_second_planter",
        needs_crop=True,
        title="A second planter: does it pay",
        run=_second_planter,
        purpose="Days gained at sowing, at what a late day costs. An example of ours.",
        inputs=(
            *_bought("72000", "24000"),
            of("width", "Working width", "length", ("6", "m"), ("20", "ft")),
            of("speed", "Speed", "speed", ("8", "km/h"), ("5", "mph")),
            percent("efficiency", "Field efficiency", "65"),
            number("hours", "Hours a day fit for sowing", "9"),
            of("loss_a_day", "Yield lost by a day's delay", "mass_per_area", ("45", "kg/ha"), ("0.7", "bu/ac")),
            PRICE,
            UNIT_COST,
            of("driver", "The second driver", "money_per_area", ("5", "money/ha"), ("2", "money/ac")),
            of("area", "Area to sow", "area", ("420", "ha"), ("1040", "ac")),
        ),
    ),
)
