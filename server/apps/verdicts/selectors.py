"""The verdict of a trial: computed by the core, kept with the fingerprint of its inputs."""

from __future__ import annotations

import dataclasses
import hashlib
import json
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any
from uuid import UUID

from cultrix_core.economics.net_return import net_return_per_ha
from cultrix_core.errors import Refusal
from cultrix_core.stats.compare import Comparison, Design, StripResponse, compare
from pydantic import TypeAdapter

from apps.records.selectors import loads_of
from apps.trials.models import SPLIT, Strip, Treatment
from apps.trials.selectors import TrialView
from apps.verdicts.models import Verdict
from apps.yieldlogs.reading import chosen_log
from apps.yieldlogs.reading import read as read_log

ENGINE = "fixed-blocks-4"
ANALYSED_AS: dict[str, Design] = {"latin": "latin", "crd": "crd"}
NO_LOADS = Refusal("no_response", field="response").message
SPLIT_REFUSED = (
    "This is a {design}: main strips and the strips inside them vary differently, and an analysis as plain blocks would "
    "claim more certainty than there is. Its own analysis is not built in yet, so no call is made; the yields stand on the "
    "ribbon, and the strips with their main strips are in the file."
)
READ = TypeAdapter(Comparison)


@dataclass(frozen=True, slots=True, kw_only=True)
class Alternate:
    """The same comparison with deviating strips handled otherwise."""

    label: str
    yield_: Comparison


@dataclass(frozen=True, slots=True, kw_only=True)
class OtherSource:
    """Yields in kg/ha by strip, of a source that the verdict does not rest on."""

    label: str
    yields: dict[UUID, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class Computed:
    """Comparisons of a trial, levels being treatment ids. ``problem`` says why there is none."""

    yield_: Comparison | None
    net: Comparison | None
    alternates: tuple[Alternate, ...]
    problem: str
    fingerprint: str


def computed(view: TrialView) -> Computed:
    """The comparisons, from the store when nothing they rest on has changed."""
    other = other_source(view)
    fingerprint = _fingerprint(view, other)
    stored = Verdict.objects.filter(trial=view.trial).first()
    if stored is not None and stored.inputs_hash == fingerprint:
        return _read(stored.numbers, fingerprint)
    result = _compute(view, fingerprint, other)
    Verdict.objects.update_or_create(trial=view.trial, defaults={"inputs_hash": fingerprint, "numbers": _numbers(result)})
    return result


def _compute(view: TrialView, fingerprint: str, other: OtherSource | None) -> Computed:
    if view.trial.design in SPLIT:
        name = view.trial.get_design_display().lower()
        problem = (
            SPLIT_REFUSED.format(design=name)
            if any(one.yield_kg_per_ha is not None for one in view.records.values())
            else NO_LOADS
        )
        return Computed(yield_=None, net=None, alternates=(), problem=problem, fingerprint=fingerprint)
    try:
        yields = _compare(view, _received, _yield)
        net = _compare(view, _received, _net) if view.trial.price_per_t is not None and view.control else None
        return Computed(
            yield_=yields,
            net=net,
            alternates=_alternates(view, other) if yields.replicated else (),
            problem="",
            fingerprint=fingerprint,
        )
    except Refusal as refusal:
        return Computed(yield_=None, net=None, alternates=(), problem=refusal.message, fingerprint=fingerprint)


def _received(strip: Strip) -> Treatment | None:
    return strip.received


def _yield(view: TrialView, strip: Strip) -> float | None:
    return view.records[strip.id].yield_kg_per_ha


def _net(view: TrialView, strip: Strip) -> float | None:
    yield_, money = _yield(view, strip), view.money(strip.received)
    return None if yield_ is None or money is None else net_return_per_ha(yield_, money)


def _compare(
    view: TrialView, treated: Callable[[Strip], Treatment | None], response: Callable[[TrialView, Strip], float | None]
) -> Comparison:
    rows = []
    for strip in view.strips:
        treatment, value = treated(strip), response(view, strip)
        if strip.lost or treatment is None or value is None:
            continue
        rows.append(
            StripResponse(
                treatment=str(treatment.id),
                block=str(strip.block.number),
                row=str(strip.row),
                response=value,
                label=f"Strip {strip.order}",
            )
        )
    present = {row.treatment for row in rows}
    control = str(view.control.id) if view.control and str(view.control.id) in present else None
    return compare(
        rows,
        design=ANALYSED_AS.get(view.trial.design, "rcbd"),
        alpha=view.trial.alpha,
        control=control,
        levels=[str(treatment.id) for treatment in view.treatments],
    )


Treated = Callable[[Strip], Treatment | None]
Response = Callable[[TrialView, Strip], float | None]


def other_source(view: TrialView) -> OtherSource | None:
    """Yields of the source that was not chosen, where there is one to hold against."""
    if not any(one.yield_kg_per_ha is not None for one in view.records.values()):
        return None
    if chosen_log(view.trial) is not None:
        return OtherSource(label="by the scale instead of the log", yields=_of_scale(view))
    finished = list(view.trial.yield_logs.filter(struck=False, result__isnull=False).select_related("trial"))
    if not finished:
        return None
    strips = read_log(finished[-1], loads_of(view.trial)).strips
    return OtherSource(
        label=f"by the log {finished[-1].name} instead of the scale",
        yields={key: one.yield_kg_per_ha for key, one in strips.items() if one.yield_kg_per_ha is not None},
    )


def _of_scale(view: TrialView) -> dict[UUID, float]:
    return {key: one.scale_kg_per_ha for key, one in view.records.items() if one.scale_kg_per_ha is not None}


def _alternates(view: TrialView, other: OtherSource | None) -> tuple[Alternate, ...]:
    ways: list[tuple[str, Treated, Response]] = []
    if any(strip.sown_treatment_id and not strip.lost for strip in view.strips):
        ways += [
            ("as planned, the deviation ignored", lambda strip: strip.treatment, _yield),
            (
                "the strips sown otherwise left out",
                lambda strip: None if strip.sown_treatment_id else strip.treatment,
                _yield,
            ),
        ]
    if other is not None:
        ways.append((other.label, _received, lambda _view, strip: other.yields.get(strip.id)))
    found = []
    for label, treated, response in ways:
        try:
            found.append(Alternate(label=label, yield_=_compare(view, treated, response)))
        except Refusal:
            continue
    return tuple(found)


def _fingerprint(view: TrialView, other: OtherSource | None) -> str:
    trial = view.trial
    inputs = {
        "engine": ENGINE,
        "design": trial.design,
        "alpha": trial.alpha,
        "price": trial.price_per_t,
        "cost": trial.unit_cost_per_t,
        "other": [other.label, sorted((str(key), value) for key, value in other.yields.items())] if other else None,
        "treatments": [[str(one.id), one.is_control, round(view.cost(one).per_ha, 6)] for one in view.treatments],
        "strips": [
            [
                strip.order,
                strip.block.number,
                strip.row,
                str(strip.treatment_id),
                str(strip.received.id),
                strip.lost,
                view.records[strip.id].yield_kg_per_ha,
            ]
            for strip in view.strips
        ],
    }
    return hashlib.sha256(json.dumps(inputs, sort_keys=True).encode()).hexdigest()


def _numbers(result: Computed) -> dict[str, object]:
    return {
        "yield": result.yield_ and dataclasses.asdict(result.yield_),
        "net": result.net and dataclasses.asdict(result.net),
        "alternates": [{"label": one.label, "yield": dataclasses.asdict(one.yield_)} for one in result.alternates],
        "problem": result.problem,
    }


def _read(numbers: dict[str, Any], fingerprint: str) -> Computed:
    return Computed(
        yield_=READ.validate_python(numbers["yield"]) if numbers["yield"] else None,
        net=READ.validate_python(numbers["net"]) if numbers["net"] else None,
        alternates=tuple(
            Alternate(label=one["label"], yield_=READ.validate_python(one["yield"])) for one in numbers["alternates"]
        ),
        problem=numbers["problem"],
        fingerprint=fingerprint,
    )
