"""The verdict of a trial: computed by the core, kept with the fingerprint of its inputs."""

from __future__ import annotations

import dataclasses
import hashlib
import json
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any
from uuid import UUID

from cultrix_core.errors import Refusal
from cultrix_core.stats.checks import NOTICED
from cultrix_core.stats.compare import Comparison
from pydantic import TypeAdapter

from apps.analysis.verdict.comparisons import (
    Compared,
    Response,
    SplitRefused,
    Treated,
    compare_strips,
    compared_strips,
    net_of,
    received,
    yield_of,
)
from apps.analysis.verdict.models import Verdict
from apps.analysis.verdict.responses import judged_values
from apps.base.code_fingerprint import code_fingerprint
from apps.field.logs.calibrated_yields import chosen_log
from apps.field.logs.calibrated_yields import read as read_log
from apps.field.logs.queries import logs_of
from apps.field.queries import loads_of
from apps.trial_state.view import TrialView
from apps.trials.covariates import CovariateStanding, standing_of

NO_LOADS = Refusal("no_response", field="response").message
READ: TypeAdapter[Compared] = TypeAdapter(Compared)


@dataclass(frozen=True, slots=True, kw_only=True)
class Alternate:
    """The same comparison with deviating strips handled otherwise."""

    label: str
    yield_: Compared
    trend: Compared | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class OtherSource:
    """Yields in kg/ha by strip, of a source that the verdict does not rest on."""

    label: str
    yields: dict[UUID, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class Computed:
    """Comparisons of a trial, levels being ids of treatments or of levels. ``problem`` says why there is none.

    ``judged`` is the comparison of the response that the trial is judged by, where that is neither yield nor net return.
    ``trend`` and ``net_trend`` are the second analysis of an alternating layout, with a drift in the place of blocks.
    """

    yield_: Compared | None
    net: Compared | None
    trend: Compared | None
    net_trend: Compared | None
    alternates: tuple[Alternate, ...]
    judged: Compared | None
    problem: str
    fingerprint: str


def computed(view: TrialView) -> Computed:
    """The comparisons, from the store when nothing they rest on has changed; one view finds them once."""
    if "computed" not in view.memo:
        view.memo["computed"] = _computed(view)
    result: Computed = view.memo["computed"]
    return result


def _computed(view: TrialView) -> Computed:
    other, standing = other_source(view), standing_of(view.trial)
    fingerprint = _fingerprint(view, other, standing)
    stored = Verdict.objects.filter(trial=view.trial).first()
    if stored is not None and stored.inputs_hash == fingerprint:
        return _read(stored.numbers, fingerprint)
    result = _compute(view, fingerprint, other, standing)
    if not result.problem:  # a problem is told in the reader's units, and costs nothing to find again
        Verdict.objects.update_or_create(trial=view.trial, defaults={"inputs_hash": fingerprint, "numbers": _numbers(result)})
    return result


def _compute(view: TrialView, fingerprint: str, other: OtherSource | None, standing: CovariateStanding | None) -> Computed:
    deciding = standing.values if standing is not None and standing.decides else None
    judged, judged_problem = _judged(view, deciding)
    try:
        yields = compare_strips(view, received, yield_of, measured=deciding)
        priced = view.trial.price.value is not None and view.control
        net = compare_strips(view, received, net_of, measured=deciding) if priced else None
    except Refusal as refusal:
        return _nothing(refusal.message, fingerprint, judged, judged_problem)
    except SplitRefused as refused:
        return _nothing(str(refused), fingerprint, judged, judged_problem)
    replicated = not isinstance(yields, Comparison) or yields.replicated
    second = replicated and not view.design.drawn
    return Computed(
        yield_=yields,
        net=net,
        trend=_trend(view, yield_of) if second else None,
        net_trend=_trend(view, net_of) if second and net is not None else None,
        alternates=_alternates(view, yields, other, standing) if replicated else (),
        judged=judged,
        problem=judged_problem,
        fingerprint=fingerprint,
    )


def _judged(view: TrialView, deciding: Mapping[UUID, float] | None) -> tuple[Compared | None, str]:
    """The response that the trial is judged by, compared; and why it cannot be."""
    values = judged_values(view)
    if values is None:
        return None, ""
    try:
        return compare_strips(view, received, lambda _view, strip: values.values.get(strip.id), measured=deciding), ""
    except Refusal as refusal:
        why = "nothing of it is recorded yet" if refusal.code == "no_response" else refusal.message
        return None, f"Judged by {values.response.noun}: {why}."
    except SplitRefused as refused:
        return None, str(refused)


def _nothing(problem: str, fingerprint: str, judged: Compared | None, judged_problem: str) -> Computed:
    """Without yields there is still the response that the trial is judged by, where it is another."""
    return Computed(
        yield_=None,
        net=None,
        trend=None,
        net_trend=None,
        alternates=(),
        judged=judged,
        problem=judged_problem if judged is not None or judged_problem else problem,
        fingerprint=fingerprint,
    )


def _trend(view: TrialView, response: Response) -> Compared | None:
    try:
        return compare_strips(view, received, response, trend=True)
    except Refusal:
        return None


def other_source(view: TrialView) -> OtherSource | None:
    """Yields of the source that was not chosen, where there is one to hold against."""
    if not any(record.yield_kg_per_ha is not None for record in view.records.values()):
        return None
    if chosen_log(view.trial) is not None:
        return OtherSource(label="by the scale instead of the log", yields=_of_scale(view))
    finished = [log for log in logs_of(view.trial) if log.result is not None]
    if not finished:
        return None
    strips = read_log(finished[-1], loads_of(view.trial)).strips
    return OtherSource(
        label=f"by the log {finished[-1].name} instead of the scale",
        yields={key: log_strip.yield_kg_per_ha for key, log_strip in strips.items() if log_strip.yield_kg_per_ha is not None},
    )


def _of_scale(view: TrialView) -> dict[UUID, float]:
    return {
        key: strip_records.scale_kg_per_ha
        for key, strip_records in view.records.items()
        if strip_records.scale_kg_per_ha is not None
    }


def _alternates(
    view: TrialView, yields: Compared, other: OtherSource | None, standing: CovariateStanding | None
) -> tuple[Alternate, ...]:
    ways: list[tuple[str, Treated, Response]] = []
    if any(strip.sown_treatment_id and not strip.lost for strip in view.strips):
        ways += [
            ("as planned, the deviation ignored", lambda strip: strip.treatment, yield_of),
            (
                "the strips sown otherwise left out",
                lambda strip: None if strip.sown_treatment_id else strip.treatment,
                yield_of,
            ),
        ]
    far = _far_out(view, yields)
    if far is not None:
        ways.append(
            (
                f"strip {far} left out, which stands far from the others",
                lambda strip: None if strip.order == far else strip.received,
                yield_of,
            )
        )
    if other is not None:
        ways.append((other.label, received, lambda _view, strip: other.yields.get(strip.id)))
    deciding = standing.values if standing is not None and standing.decides else None
    looks = [(label, treated, response, deciding) for label, treated, response in ways]
    if standing is not None and standing.usable:
        beside = None if standing.decides else standing.values
        label = f"without {standing.name} as a covariate" if standing.decides else f"adjusted by {standing.name}"
        looks.append((label, received, yield_of, beside))
    alternates = []
    for label, treated, response, measured in looks:
        try:
            yield_ = compare_strips(view, treated, response, measured=measured)
            trend = compare_strips(view, treated, response, trend=True) if not view.design.drawn else None
            alternates.append(Alternate(label=label, yield_=yield_, trend=trend))
        except (Refusal, SplitRefused):
            continue
    return tuple(alternates)


def _far_out(view: TrialView, yields: Compared) -> int | None:
    """Order of the strip that the checks point at, None where none stands out."""
    checks = yields.checks
    if checks is None or len(checks.residuals) != len(compared_strips(view)):
        return None
    if checks.outlier_row is None or (checks.outlier_p_bonferroni or 1.0) >= NOTICED:
        return None
    return compared_strips(view)[checks.outlier_row - 1].order


def _fingerprint(view: TrialView, other: OtherSource | None, standing: CovariateStanding | None) -> str:
    trial = view.trial
    inputs = {
        "code": code_fingerprint(),
        "design": trial.design,
        "alpha": trial.alpha,
        "judged": _judged_inputs(view),
        "price": trial.price.value,
        "cost": trial.unit_cost.value,
        "other": [other.label, sorted((str(key), value) for key, value in other.yields.items())] if other else None,
        "covariate": [standing.usable, standing.decides, sorted((str(key), value) for key, value in standing.values.items())]
        if standing
        else None,
        "plan": [trial.plan.get("main"), trial.plan.get("sub")],
        "treatments": [
            [
                str(treatment.id),
                treatment.is_control,
                round(view.cost(treatment).per_ha, 6),
                view.cost(treatment).per_t,
                sorted(level.pk for level in treatment.levels.all()),
            ]
            for treatment in view.treatments
        ],
        "strips": [
            [
                strip.order,
                strip.block.number,
                strip.row,
                str(strip.treatment_id),
                str(strip.received.id),
                strip.lost,
                view.records[strip.id].yield_kg_per_ha,
                net_of(view, strip),
            ]
            for strip in view.strips
        ],
    }
    return hashlib.sha256(json.dumps(inputs, sort_keys=True).encode()).hexdigest()


def _judged_inputs(view: TrialView) -> list[object] | None:
    judged = judged_values(view)
    return None if judged is None else [judged.response.key, sorted((str(key), value) for key, value in judged.values.items())]


def _numbers(result: Computed) -> dict[str, object]:
    return {
        "yield": result.yield_ and dataclasses.asdict(result.yield_),
        "judged": result.judged and dataclasses.asdict(result.judged),
        "net": result.net and dataclasses.asdict(result.net),
        "trend": result.trend and dataclasses.asdict(result.trend),
        "net_trend": result.net_trend and dataclasses.asdict(result.net_trend),
        "alternates": [dataclasses.asdict(alternate) for alternate in result.alternates],
        "problem": result.problem,
    }


def _read(numbers: dict[str, Any], fingerprint: str) -> Computed:
    def read(key: str) -> Compared | None:
        return READ.validate_python(numbers[key]) if numbers[key] else None

    return Computed(
        yield_=read("yield"),
        net=read("net"),
        judged=read("judged"),
        trend=read("trend"),
        net_trend=read("net_trend"),
        alternates=tuple(
            Alternate(
                label=number["label"],
                yield_=READ.validate_python(number["yield_"]),
                trend=READ.validate_python(number["trend"]) if number["trend"] else None,
            )
            for number in numbers["alternates"]
        ),
        problem=numbers["problem"],
        fingerprint=fingerprint,
    )
