"""The verdict as the API carries it: sentence, money, means, table, method."""

from __future__ import annotations

from typing import Any, cast

from cultrix_core.economics.net_return import net_return_per_ha
from cultrix_core.showing import Shower, chance_text, format_number
from cultrix_core.stats.call import Call, make_call, probability_above, settle
from cultrix_core.stats.compare import Comparison, Difference
from cultrix_core.stats.workings import CALL_WORDS, anova_working, difference_working, mean_working

from apps.shown import ShownOut, shown, working_out
from apps.trials.answers import amendment_words, protocol_out
from apps.trials.models import Treatment
from apps.trials.naming import treatment_name
from apps.trials.selectors import TrialView
from apps.verdicts import wording
from apps.verdicts.schemas import AlternateOut, AnalysisOut, AnovaRowOut, DifferenceOut, LeftOutOut, MeanOut, RawOut, VerdictOut
from apps.verdicts.selectors import Computed, computed
from apps.yieldlogs.answers import source_words

KIND = {"yield": "yield", "net_return": "net_return"}


def verdict_out(view: TrialView) -> VerdictOut:
    """The verdict whole."""
    result = computed(view)
    base = VerdictOut(
        state="none",
        headline="No verdict yet.",
        money="",
        primary=cast(Any, view.trial.primary_response),
        problem=result.problem,
        yield_=None,
        net_return=None,
        alternates=[],
        left_out=_left_out(view),
        deviations=_deviations(view),
        amendments=amendment_words(protocol_out(view.trial)),
        remarks=[],
        fingerprint=result.fingerprint[:12],
        source=source_words(view),
    )
    if result.yield_ is None:
        return base
    base.yield_ = _analysis(view, result.yield_, "yield")
    base.net_return = _analysis(view, result.net, "net_return") if result.net else None
    base.state = "judged" if result.yield_.replicated else "description"
    base.headline, base.money = _sentences(view, result)
    base.alternates = [_alternate(view, one.label, one.yield_) for one in result.alternates]
    base.remarks = _remarks(view, result)
    return base


def _by_id(view: TrialView) -> dict[str, Treatment]:
    return {str(treatment.id): treatment for treatment in view.treatments}


def _label(treatment: Treatment, show: Shower) -> str:
    return f"{treatment.letter} ({treatment_name(treatment, show)})"


def _margin(view: TrialView, treatment: Treatment, response: str) -> float | None:
    return view.margin_kg_per_ha(treatment) if response == "yield" else view.trial.net_margin_per_ha


def call_of(view: TrialView, difference: Difference, response: str) -> Call | None:
    """The call of one difference with the control; None without an interval."""
    if difference.lower is None or difference.upper is None:
        return None
    return make_call(difference.lower, difference.upper, _margin(view, _by_id(view)[difference.left], response))


def _chance(difference: Difference, threshold: float = 0.0) -> float | None:
    if difference.se is None or difference.df is None:
        return None
    return probability_above(difference.estimate, difference.se, difference.df, threshold)


def _sentences(view: TrialView, result: Computed) -> tuple[str, str]:
    assert result.yield_ is not None
    if view.control is None or not result.yield_.to_control:
        return "No control with a harvested strip, so there is nothing to be better than. The means are below.", ""
    control, treatments = _label(view.control, view.show), _by_id(view)
    primary = view.trial.primary_response if result.net else "yield"
    chosen = result.net if primary == "net_return" and result.net else result.yield_
    rows = [(_label(treatments[one.left], view.show), one, call_of(view, one, primary)) for one in chosen.to_control]
    headline = wording.headline(rows, view.show, KIND[primary], primary, control, chosen.replicated)
    if result.net is None or not result.net.to_control:
        return headline, "No price is set, so the money is not reckoned."
    raised = {_label(treatments[one.left], view.show) for one in result.yield_.to_control if (one.lower or 0) > 0}
    money = [
        (_label(treatments[one.left], view.show), one, call_of(view, one, "net_return"), _chance(one))
        for one in result.net.to_control
    ]
    return headline, wording.money_sentence(money, view.show, control, raised)


def _analysis(view: TrialView, result: Comparison, response: str) -> AnalysisOut:
    show, kind = view.show, KIND[response]
    differences = [_difference(view, result, one, response) for one in result.to_control]
    level = 100 * (1 - result.alpha)
    note = (
        f"Means that share a letter are not shown to differ (Tukey, all pairs, {format_number(100 * result.alpha, 0)} % level)."
        if result.replicated
        else ""
    )
    return AnalysisOut(
        response=response,
        unit=show.unit(kind),
        level_pct=level,
        means=_means(view, result, response),
        differences=differences,
        sentence=" ".join(one.sentence for one in differences[:1]),
        anova=_anova(result, show, kind),
        anova_unit=f"sums of squares in ({show.unit(kind)})²",
        method=result.method,
        letters_note=note,
        checks=list(result.checks.words) if result.checks else [],
        warnings=list(result.warnings),
        cv_pct=None if result.cv_percent is None else f"{format_number(result.cv_percent, 1)} %",
        sed=shown(result.sed, kind, show),
        lsd=shown(result.lsd, kind, show),
    )


def _means(view: TrialView, result: Comparison, response: str) -> list[MeanOut]:
    show, kind, treatments = view.show, KIND[response], _by_id(view)
    return [
        MeanOut(
            treatment_id=treatments[mean.level].id,
            letter=treatments[mean.level].letter,
            name=treatment_name(treatments[mean.level], show),
            is_control=treatments[mean.level].is_control,
            n=mean.n,
            mean=_must(mean.mean, kind, show),
            se=shown(mean.se, kind, show),
            lower=shown(mean.lower, kind, show),
            upper=shown(mean.upper, kind, show),
            letters=mean.letters,
            raw=_raw(view, mean.level, response),
            working=working_out(mean_working(result, mean, show, kind, name=_label(treatments[mean.level], show))),
        )
        for mean in result.means
    ]


def _raw(view: TrialView, treatment_id: str, response: str) -> list[RawOut]:
    rows = []
    for strip in view.strips:
        yield_ = view.records[strip.id].yield_kg_per_ha
        if strip.lost or yield_ is None or str(strip.received.id) != treatment_id:
            continue
        money = view.money(strip.received)
        value = yield_ if response == "yield" or money is None else net_return_per_ha(yield_, money)
        rows.append(
            RawOut(
                strip_id=strip.id, order=strip.order, block=strip.block.number, value=_must(value, KIND[response], view.show)
            )
        )
    return rows


def _difference(view: TrialView, result: Comparison, one: Difference, response: str) -> DifferenceOut:
    show, kind, treatments = view.show, KIND[response], _by_id(view)
    treatment, control = treatments[one.left], treatments[one.right]
    left, right = _label(treatment, show), _label(control, show)
    call, margin = call_of(view, one, response), _margin(view, treatment, response)
    chance = _chance(one)
    threshold = _worth_more_than(view, treatment, response)
    beyond = None if threshold is None else _chance(one, threshold)
    return DifferenceOut(
        treatment_id=treatment.id,
        letter=treatment.letter,
        name=treatment_name(treatment, show),
        against=control.letter,
        estimate=_must(one.estimate, kind, show, signed=True),
        se=shown(one.se, kind, show),
        lower=shown(one.lower, kind, show, signed=True),
        upper=shown(one.upper, kind, show, signed=True),
        p=wording.p_text(one.p),
        p_adjusted=wording.p_text(one.p_adjusted),
        margin=shown(margin, kind, show),
        call=call.name if call else None,
        call_words=CALL_WORDS[call.name] if call else "no call",
        sentence=wording.comparison_sentence(
            one, call, show, kind, response, left=left, right=right, level_pct=100 * (1 - result.alpha)
        ),
        chance_above_zero=None if chance is None else chance_text(chance),
        chance_beyond_margin=None if beyond is None else chance_text(beyond),
        settle=_settle(result, call, margin, show, kind),
        working=working_out(difference_working(result, one, show, kind, left=left, right=right, call=call, probability=chance)),
    )


def _worth_more_than(view: TrialView, treatment: Treatment, response: str) -> float | None:
    """The yield gain that covers the extra cost (negative where the treatment saves)."""
    money = view.money(treatment)
    if response != "yield" or money is None or money.gain_kg_per_ha is None:
        return None
    return money.gain_kg_per_ha if money.extra_cost_per_ha > 0 else -money.gain_kg_per_ha


def _settle(result: Comparison, call: Call | None, margin: float | None, show: Shower, kind: str) -> str:
    if call is None or call.name != "cannot_tell_yet" or not result.mse:
        return ""
    if not margin:
        return "Set the margin that would matter to you, and the number of blocks that would settle it can be said."
    settling = settle(
        margin=margin,
        sigma=result.mse**0.5,
        treatments=len(result.means),
        alpha=result.alpha,
        comparisons=len(result.to_control),
    )
    return wording.settle_sentence(settling, show, kind)


def _anova(result: Comparison, show: Shower, kind: str) -> list[AnovaRowOut]:
    if not result.replicated:
        return []
    scale = show.show(1.0, kind).value ** 2
    rows = [
        AnovaRowOut(
            source=test.term,
            df=test.num_df,
            ss=f"{test.ss * scale:.5g}",
            ms=f"{test.ss / test.num_df * scale:.5g}",
            f=None if test.f is None else f"{test.f:.4f}",
            p=wording.p_text(test.p),
            working=working_out(anova_working(result, test, show, kind)),
        )
        for test in result.anova
    ]
    rows.append(
        AnovaRowOut(
            source="residual",
            df=result.residual_df,
            ss=f"{result.residual_ss * scale:.5g}",
            ms=f"{(result.mse or 0) * scale:.5g}",
            f=None,
            p=None,
            working=None,
        )
    )
    return rows


def _alternate(view: TrialView, label: str, result: Comparison) -> AlternateOut:
    treatments = _by_id(view)
    lines = []
    for one in result.to_control:
        call = call_of(view, one, "yield")
        lines.append(
            f"{_label(treatments[one.left], view.show)}: {view.show.text(one.estimate, 'yield', signed=True)}, "
            f"{CALL_WORDS[call.name] if call else 'no call'}"
        )
    return AlternateOut(label=label, lines=lines)


def _left_out(view: TrialView) -> list[LeftOutOut]:
    rows = [LeftOutOut(strip=strip.order, why=f"lost: {strip.reason}") for strip in view.strips if strip.lost]
    if any(view.records[strip.id].yield_kg_per_ha is not None for strip in view.strips):
        rows += [
            LeftOutOut(strip=strip.order, why="no yield in the log" if view.records[strip.id].loads else "no load yet")
            for strip in view.strips
            if not strip.lost and view.records[strip.id].yield_kg_per_ha is None
        ]
    return sorted(rows, key=lambda row: row.strip)


def _deviations(view: TrialView) -> list[LeftOutOut]:
    return [
        LeftOutOut(strip=strip.order, why=f"planned {strip.treatment.letter}, sown {strip.received.letter}: {strip.reason}")
        for strip in view.strips
        if strip.sown_treatment_id and not strip.lost
    ]


def _remarks(view: TrialView, result: Computed) -> list[str]:
    remarks = []
    assert result.yield_ is not None
    present = {mean.level for mean in result.yield_.means}
    for treatment in view.treatments:
        if str(treatment.id) not in present:
            remarks.append(f"{_label(treatment, view.show)} has no harvested strip, so nothing can be said about it.")
    if not result.yield_.replicated:
        remarks.append(
            "What it can teach: whether the treatment is workable, and roughly what to expect. A repeat with each treatment "
            "once in each of four blocks could answer the question."
        )
    elif any(view.margin_kg_per_ha(one) is None for one in view.treatments if not one.is_control):
        remarks.append(
            "Without a practical margin “no difference that matters” cannot be called for a treatment that costs nothing extra."
        )
    if result.net and view.trial.net_margin_per_ha is None and result.net.replicated:
        remarks.append("No margin in money is set, so net return is called a gain, a loss, or not yet told.")
    if view.trial.design == "systematic" and result.yield_.replicated:
        remarks.append(
            "The order alternates without a draw: a drift across the field leans on these differences, "
            "and neither their intervals nor their probabilities know of it."
        )
    if result.yield_.replicated:
        remarks.append("One season in one field: the same comparison next year is worth more than more decimals now.")
    return remarks


def _must(value: float, kind: str, show: Shower, *, signed: bool = False) -> ShownOut:
    result = shown(value, kind, show, signed=signed)
    assert result is not None
    return result
