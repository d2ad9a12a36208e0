"""Calculators of yield before harvest: one place each, with the interval and what narrows it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from cultrix_core.calculators.inputs import Calculator, Input, Values, choice, number, of, percent, whole, whole_number
from cultrix_core.errors import Refusal, require_between
from cultrix_core.estimate.crop_defaults import estimate_defaults
from cultrix_core.estimate.grain_weight import (
    GrainWeight,
    WeighedGrain,
    weight_in_range,
    weight_of_samples,
)
from cultrix_core.estimate.guards import Entry, questions_on
from cultrix_core.estimate.methods import method_of
from cultrix_core.estimate.narrowing import ways_to_narrow
from cultrix_core.estimate.propagate import LEVEL_ALPHA, strip_estimate, variation_of
from cultrix_core.estimate.spots import spot_of
from cultrix_core.estimate.workings import percent as as_percent
from cultrix_core.estimate.workings import strip_working
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.working import Step, Working

Columns = Mapping[str, Sequence[float]]


def _weight(values: Values) -> GrainWeight:
    """Grain weight typed, else the crop's range."""
    typed = values.get("weight")
    if typed is not None:
        sample = WeighedGrain(seeds=1000, mass_g=typed)
        return weight_of_samples([sample], standard_moisture_pct=None)
    grain = estimate_defaults(values["crop"]).grain_g
    if grain is None:
        raise Refusal(
            "missing",
            field="weight",
            label="Thousand-seed weight",
            remedy="There is no usual range for this crop; weigh a sample.",
        )
    return weight_in_range(
        stressed_g=grain[0], usual_g=grain[1], excellent_g=grain[2], words="usual range of the crop, common practice, no source"
    )


def rows_of(columns: Columns) -> list[dict[str, float | None]]:
    """Lists of entries as pieces; refuses lists of unequal length."""
    longest = max(len(values) for values in columns.values())
    for key, values in columns.items():
        if len(values) not in (longest, 0):
            raise Refusal("lengths_differ", field=key, value=len(values), limit=longest)
    return [{key: values[place] if values else None for key, values in columns.items()} for place in range(longest)]


def _sampled(
    method_key: str,
    values: Values,
    show: UnitFormatter,
    columns: Columns,
    *,
    place: Mapping[str, float | None] | None = None,
    state: str = "",
) -> Working:
    """One place by a method: its working, what it asks, and the cheapest way to narrow it."""
    method = method_of(method_key)
    pieces = rows_of(columns) if columns else []
    spot = spot_of(
        method,
        area_m2=values["area"],
        number=whole(values, "number") if method.counted else None,
        pieces=pieces,
        place=place or {},
    )
    weight = _weight(values) if method.gives == "seeds" else None
    variation = variation_of({"": [spot]})
    estimate = strip_estimate([spot], variation, weight)
    working = strip_working(method, [spot], estimate, weight, show, level=1 - LEVEL_ALPHA)
    asked = questions_on(
        method, Entry(spot=spot, pieces=pieces, place=place or {}, state=state), [], estimate_defaults(values["crop"]), show
    )
    steps = [*working.steps]
    for question in asked:
        steps.append(
            Step(label="Asked", formula="a question; nothing is changed for it", numbers="as typed", outcome=question.text)
        )
    ways = ways_to_narrow(method, [spot], variation, weight)
    if ways:
        best = ways[0]
        steps.append(
            Step(
                label="Narrowed most cheaply by",
                formula="fall of the interval's half-width for a minute of work",
                numbers="; ".join(f"{way.words}, {way.minutes:g} min: {as_percent(way.half_frac)} upwards" for way in ways),
                outcome=f"{best.words}: {as_percent(estimate.half_frac)} upwards becomes {as_percent(best.half_frac)}",
                source="minutes common practice, no source",
            )
        )
    return Working(title=working.title, outcome=working.outcome, steps=tuple(steps), assumption=working.assumption)


def _by(method: str, *names: str, place: tuple[str, ...] = ()) -> Callable[[Values, UnitFormatter], Working]:
    def run(values: Values, show: UnitFormatter) -> Working:
        columns = {name: values[name] or [] for name in names}
        return _sampled(method, values, show, columns, place={key: values[key] for key in place})

    return run


def _counted(values: Values, show: UnitFormatter) -> Working:
    columns = {
        "gross": values["gross"],
        "number_in": [float(whole_number(value, "number_in")) for value in values["number_in"] or []],
    }
    place = {"tare": values["tare"], "cured_days": values["cured_days"]}
    working = _sampled("counted", values, show, columns, place=place, state=values["state"])
    planted = values["planted"]
    if planted is None:
        return working
    survived = whole(values, "number")
    require_between(planted, max(survived, 1), 1e6, "planted", label="Planted on the area")
    step = Step(
        label="Survival",
        formula="surviving ÷ planted",
        numbers=f"{survived} ÷ {planted:g}: weight alone would leave this out",
        outcome=as_percent(survived / planted),
        source="definition",
    )
    return Working(title=working.title, outcome=working.outcome, steps=(*working.steps, step), assumption=working.assumption)


def _forage(values: Values, show: UnitFormatter) -> Working:
    place = {key: values[key] for key in ("gross", "tare", "dm_wet", "dm_dry", "dm_pct")}
    return _sampled("forage", values, show, {}, place=place)


def _area(metric: str, us: str) -> Input:
    return of("area", "Area they were counted on", "area", (metric, "m2"), (us, "ft2"))


def _grain_weight(metric: str, us: str) -> Input:
    return of("weight", "Thousand-seed weight weighed", "seed_mass", (metric, "g/1000"), (us, "seeds/lb"), optional=True)


_DM = (
    of("dm_wet", "Sub-sample before drying", "mass", ("400", "g"), ("14", "oz"), optional=True),
    of("dm_dry", "The same, dried", "mass", ("88", "g"), ("3.1", "oz"), optional=True),
    percent("dm_pct", "or dry matter known", "", optional=True),
)

CALCULATORS: tuple[Calculator, ...] = (
    Calculator(
        key="ears",
        title="Ears",
        purpose="Each ear's rows × kernels, ears on an area, kernel weight: with the interval and what narrows it.",
        inputs=(
            number("number", "Ears on the area", "30"),
            _area("4", "43.56"),
            number("kernel_rows", "Kernel rows, ear by ear", "16 14 18 16 14", several=True),
            number("kernels_per_row", "Kernels in a row, ear by ear", "34 29 39 33 30", several=True),
            _grain_weight("", ""),
        ),
        run=_by("ears", "kernel_rows", "kernels_per_row"),
        needs_crop=True,
    ),
    Calculator(
        key="pods_area",
        title="Pods on a small area",
        purpose="Pods of each plant, seeds per pod counted here, seed weight.",
        inputs=(
            number("number", "Plants on the area", "12"),
            _area("0.405", "4.356"),
            number("pods", "Pods, plant by plant", "38 41 29 35 44 31 36 40", several=True),
            number("pods_opened", "Pods opened", "40"),
            number("seeds_in_pods", "Seeds found in them", "98"),
            of("shortest_pod", "Shortest pod counted", "length", ("2.5", "cm"), ("1", "in"), optional=True),
            _grain_weight("", ""),
        ),
        run=_by("pods", "pods", place=("pods_opened", "seeds_in_pods", "shortest_pod")),
        needs_crop=True,
    ),
    Calculator(
        key="heads",
        title="Heads or spikes",
        purpose="Heads on an area, spikelets × seeds of each head (or seeds alone), seed weight.",
        inputs=(
            number("number", "Heads on the area", "100"),
            _area("0.25", "2.5"),
            number("groups", "Spikelets or branches, head by head", "", several=True, optional=True),
            number("seeds_each", "Seeds on each, or in the head", "35 38 31 36 35", several=True),
            _grain_weight("42", ""),
        ),
        run=_by("heads", "groups", "seeds_each"),
        needs_crop=True,
    ),
    Calculator(
        key="discs",
        title="Sunflower discs",
        purpose="Discs less their empty centre, filled seeds per cm² of each.",
        inputs=(
            number("number", "Heads on the area", "22"),
            _area("4", "43.56"),
            of("diameter", "Disc across, one by one", "length", ("18 16 20", "cm"), ("7 6.5 8", "in"), several=True),
            of(
                "empty_centre",
                "Empty centre across, one by one",
                "length",
                ("4 3 5", "cm"),
                ("1.5 1 2", "in"),
                several=True,
                optional=True,
            ),
            number("filled_per_cm2", "Filled seeds on 1 cm², one by one", "6 6.4 5.8", several=True),
            _grain_weight("50", ""),
        ),
        run=_by("discs", "diameter", "empty_centre", "filled_per_cm2"),
        needs_crop=True,
    ),
    Calculator(
        key="pulses",
        title="Pulses by plant",
        purpose="Plants on an area, pods × seeds per pod of each plant, seed weight.",
        inputs=(
            number("number", "Plants on the area", "18"),
            _area("0.25", "2.5"),
            number("pods", "Pods, plant by plant", "7 9 6 8 5", several=True),
            number("seeds_per_pod", "Seeds per pod, plant by plant", "4.5 5 4 5.5 4", several=True),
            _grain_weight("", ""),
        ),
        run=_by("pulses", "pods", "seeds_per_pod"),
        needs_crop=True,
    ),
    Calculator(
        key="counted",
        title="Bulbs, roots, fruits",
        purpose="Survivors × weight, cured and less the tare; not weight alone.",
        inputs=(
            number("number", "Surviving on the area", "46"),
            number("planted", "Planted on the area", "50", optional=True),
            _area("2", "20"),
            of("gross", "Weighings, with the bowl", "mass", ("560 610 545", "g"), ("20 21.5 19", "oz"), several=True),
            number("number_in", "Pieces in each weighing", "10 10 10", several=True, optional=True),
            of("tare", "Tare of the bowl", "mass", ("120", "g"), ("4.2", "oz"), optional=True),
            choice("state", "Weighed", ("cured", "cured"), ("fresh", "fresh")),
            number("cured_days", "Days cured", "14", optional=True),
        ),
        run=_counted,
        needs_crop=True,
    ),
    Calculator(
        key="forage",
        title="Forage cut from a frame",
        purpose="Wet weight × dry matter ÷ area.",
        inputs=(
            _area("0.25", "2.5"),
            of("gross", "Weight as cut, with the bag", "mass", ("640", "g"), ("22", "oz")),
            of("tare", "Tare of the bag", "mass", ("20", "g"), ("0.7", "oz"), optional=True),
            *_DM,
        ),
        run=_forage,
        needs_crop=True,
    ),
)
