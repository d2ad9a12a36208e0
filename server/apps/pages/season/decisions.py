"""Keep, thicken, replant or rotate: a trial's stands against thresholds, curve and money."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date
from typing import Any
from uuid import UUID

from cultrix_core.calculators import calculator, read
from cultrix_core.calculators.stand import keep_case
from cultrix_core.crops.profile import StandCurve
from cultrix_core.errors import Refusal
from cultrix_core.stand.crowns import Crowns, shoots_per_m2
from cultrix_core.stand.decision import WORDS, decide, decision_working, stand_curve
from cultrix_core.stand.forage import BRIDGES, CAUTIONS, judge_forage, sow_by_date, window_words
from cultrix_core.stand.precision import running_precision
from cultrix_core.stand.thresholds import Threshold, thresholds_of
from cultrix_core.unit_formatting import UnitFormatter

from apps.accounts.models import Workspace
from apps.base.formatting import QuestionOut, shown, shown_value, working_out
from apps.base.quantities import TypedIn, TypedOut
from apps.field.queries import latest_counts
from apps.field.season.models import StandLine
from apps.field.season.schemas import BridgeOut, DecisionOut, ForageOut, SchoolSaysOut, ThresholdOut
from apps.field.stand.models import StandCount
from apps.field.visits.queries import day_of
from apps.trial_state.view import TrialView
from apps.trials.models import Treatment

KEPT = "keep_or_replant"
DAYS_A_YEAR = 365.25


def decisions(view: TrialView, crowns: Mapping[UUID, Crowns | None], *, today: date, short_of_feed: bool) -> dict[str, Any]:
    """The part of a stand's analysis that advises what to do."""
    lines = lines_of(view.trial.workspace, view.trial.crop)
    kept = {name: TypedIn(**item) for name, item in view.trial.kept.get(KEPT, {}).items()}
    result, problem = _annual(view, lines, kept)
    age = _age_years(view)
    perennial = "old_thin" in lines
    return {
        "thresholds": [line_out(line, view.show) for line in lines.values()],
        "decisions": result,
        "decision_problem": problem,
        "kept": kept,
        "forage": [
            judged
            for treatment in view.treatments
            if perennial
            and age is not None
            and (judged := _forage(view, treatment, crowns[treatment.id], age, lines, short_of_feed))
        ],
        "age_years": age,
        "bridges": _bridges(view, today) if perennial else [],
        "cautions": list(CAUTIONS),
    }


def lines_of(workspace: Workspace, crop: str) -> dict[str, Threshold]:
    """Thresholds of a crop as the workspace has them."""
    own = {line.key: line for line in StandLine.objects.filter(workspace=workspace, crop=crop)}
    values = {key: line.value.value or 0.0 for key, line in own.items()}
    return thresholds_of(crop, values, {key: line.source for key, line in own.items()})


def line_out(line: Threshold, show: UnitFormatter) -> ThresholdOut:
    """A threshold in the reader's units."""
    text = shown_value(line.per_m2, "density", show)
    return ThresholdOut(
        key=line.key,
        label=line.label,
        value=TypedOut(text="", unit="", shown=text.text),
        per_m2=line.per_m2,
        source=line.source,
        own=line.own,
    )


def _southern(view: TrialView) -> bool:
    """Where the workspace says its weather station stands."""
    station = getattr(view.trial.workspace, "station", None)
    return bool(station and station.southern)


def _bridges(view: TrialView, today: date) -> list[BridgeOut]:
    """What may be sown into a thin stand, with its window and whether it is open now."""
    southern = _southern(view)
    now = sow_by_date(today, southern=southern)
    return [
        BridgeOut(
            name=bridge.name,
            window=window_words(bridge, southern=southern),
            open=bridge in now,
            why=view.show.words(bridge.why),
            caution=bridge.caution,
        )
        for bridge in BRIDGES
    ]


def _stand(view: TrialView, treatment: Treatment) -> tuple[float, float] | None:
    """Stand of a treatment now and its ±: over strips, or over the counts where there is only one strip."""
    latest: dict[UUID, list[float]] = {}
    for count in _latest(view):
        latest.setdefault(count.strip_id, []).append(count.plants_per_m2)
    strips = [strip for strip in view.strips if strip.received.id == treatment.id and not strip.lost and strip.id in latest]
    if not strips:
        return None
    means = [sum(latest[strip.id]) / len(latest[strip.id]) for strip in strips]
    precision = running_precision(means if len(means) > 1 else latest[strips[0].id])
    return precision.mean, precision.half_width or 0.0


def _latest(view: TrialView) -> list[StandCount]:
    return latest_counts(view.trial)


def _age_years(view: TrialView) -> float | None:
    """Age of the stand on the day it was last counted, from the strips' own sowing; None without counts or sowings."""
    sown = [(day_of(count), view.records[count.strip_id].sown_on) for count in _latest(view)]
    ages = [(day - on).days / DAYS_A_YEAR for day, on in sown if on is not None and day >= on]
    return sum(ages) / len(ages) if ages else None


def _annual(
    view: TrialView, lines: Mapping[str, Threshold], kept: Mapping[str, TypedIn]
) -> tuple[list[DecisionOut], QuestionOut | None]:
    """Keep or replant by treatment; a reason when it cannot be reckoned yet."""
    curve = stand_curve(view.trial.crop)
    if curve is None:
        return [], None
    try:
        values = _values(view, kept)
        result = []
        for treatment in view.treatments:
            stand = _stand(view, treatment)
            if stand is not None:
                result.append(_decision(view, treatment, stand, curve, lines, values))
        return result, None
    except Refusal as refusal:
        return [], QuestionOut(code=refusal.code, field=refusal.field, text=refusal.message)


def _values(view: TrialView, kept: Mapping[str, TypedIn]) -> dict[str, Any] | None:
    """The kept inputs as values; None when nothing was kept yet. Stand and its ± come from the counts."""
    if not kept:
        return None
    entry = calculator(KEPT)
    typed = {name: (item.text, item.unit) for name, item in kept.items()} | {
        "stand": ("1", "plants/m2"),
        "stand_half": ("", ""),
    }
    return read(entry, typed, bushel_kg=view.profile.bushel_kg)


def _decision(
    view: TrialView,
    treatment: Treatment,
    stand: tuple[float, float],
    curve: StandCurve,
    lines: Mapping[str, Threshold],
    values: Mapping[str, Any] | None,
) -> DecisionOut:
    show = view.show
    answer = DecisionOut(
        treatment_id=treatment.id,
        stand=shown_value(stand[0], "density", show),
        half=shown(stand[1] or None, "density", show),
        line=_against_line(view, stand[0], lines),
        answer=None,
        words="Say first what a full stand yields and what sowing again would cost." if values is None else "",
        keep_yield="",
        replant_yield="",
        money=None,
        lower=None,
        upper=None,
        equal_stand=None,
        working=None,
    )
    if values is None:
        return answer
    case, curve = keep_case(values, curve, stand_per_m2=stand[0], half_per_m2=stand[1])
    decision = decide(case, curve)
    low, high = show.text(decision.keep_lower_kg_per_ha, "yield"), show.text(decision.keep_upper_kg_per_ha, "yield")
    answer.answer = decision.answer
    answer.words = WORDS[decision.answer]
    answer.keep_yield = f"{show.text(decision.keep_yield_kg_per_ha, 'yield')} ({low} to {high})"
    answer.replant_yield = show.text(decision.replant_yield_kg_per_ha, "yield")
    answer.money = shown(decision.keep_less_replant, "net_return", show, signed=True)
    answer.lower = shown(decision.lower, "net_return", show, signed=True)
    answer.upper = shown(decision.upper, "net_return", show, signed=True)
    answer.equal_stand = shown(decision.equal_stand_per_m2, "density", show)
    answer.working = working_out(decision_working(case, curve, decision, show))
    return answer


def _against_line(view: TrialView, stand: float, lines: Mapping[str, Threshold]) -> str:
    """The stand against the crop's lines, in a few words; empty without lines."""
    text = view.show.text
    thin, dense, low = lines.get("thin"), lines.get("dense"), lines.get("wanted_low")
    if thin and stand < thin.per_m2:
        return f"under {text(thin.per_m2, 'density')}: {thin.label[0].lower()}{thin.label[1:]} ({thin.source})"
    if dense and stand > dense.per_m2:
        return f"over {text(dense.per_m2, 'density')}: too dense ({dense.source})"
    if low and stand < low.per_m2:
        return f"under the {text(low.per_m2, 'density')} wanted ({low.source})"
    if thin or low:
        return "not under the crop's lines"
    return ""


def _forage(
    view: TrialView,
    treatment: Treatment,
    crowns: Crowns | None,
    age: float,
    lines: Mapping[str, Threshold],
    short_of_feed: bool,
) -> ForageOut | None:
    stand = _stand(view, treatment)
    if stand is None:
        return None
    shoots = None if crowns is None else shoots_per_m2(crowns, stand[0])
    judged = judge_forage(
        plants_per_m2=stand[0] * (crowns.alive_frac if crowns else 1.0),
        shoots_per_m2=shoots,
        age_years=age,
        lines=lines,
        show=view.show,
        short_of_feed=short_of_feed,
    )
    return ForageOut(
        treatment_id=treatment.id,
        stand=shown_value(stand[0], "density", view.show),
        shoots=shown(shoots, "density", view.show),
        action=judged.action,
        agree=judged.agree,
        words=judged.words,
        schools=[SchoolSaysOut(name=school.name, words=school.words, source=school.source) for school in judged.schools],
    )
