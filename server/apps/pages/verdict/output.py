"""The verdict as the API carries it: sentence, money, means, table, method."""

from __future__ import annotations

from typing import Any, cast

from cultrix_core.stats.factor_comparison import FactorComparison

from apps.analysis.verdict import wording
from apps.analysis.verdict.amounts import HELD, amount_sentences, amount_verdict, answered_by_curve, best_amount, own_sentence
from apps.analysis.verdict.analysis_out import analysis_out
from apps.analysis.verdict.chances import prior_words
from apps.analysis.verdict.comparisons import Compared, compared_strips, treatment_means
from apps.analysis.verdict.confounding import confounded, label_of, remarks_of
from apps.analysis.verdict.decisions import Decision, call_words, decisions_for, judges
from apps.analysis.verdict.queries import Alternate, Computed, computed
from apps.analysis.verdict.responses import kind_of
from apps.analysis.verdict.schemas import AlternateOut, ConfoundedOut, LeftOutOut, VerdictOut
from apps.pages.trial.output import amendment_words, protocol_out
from apps.pages.yield_logs.output import source_words
from apps.trial_state.view import TrialView
from apps.trials.covariates import standing_of
from apps.trials.naming import response_name


def verdict_out(view: TrialView) -> VerdictOut:
    """The verdict whole."""
    result = computed(view)
    base = VerdictOut(
        state="none",
        headline="No verdict yet.",
        money="",
        primary=view.trial.primary_response,
        primary_name=response_name(view.trial.primary_response),
        judged=None,
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
        confounded=confounded_out(view),
    )
    if result.judged is not None:
        _fill_judged(view, base, result.judged)
    if result.yield_ is None:
        return base
    rows = decisions_for(view, result.yield_, "yield", result.trend)
    money = decisions_for(view, result.net, "net_return", result.net_trend) if result.net else []
    base.yield_ = analysis_out(view, result.yield_, "yield", rows)
    base.net_return = analysis_out(view, result.net, "net_return", money) if result.net else None
    if judges(view, "yield"):
        base.state = "judged" if _replicated(result.yield_) else "description"
        base.headline, base.money = _sentences(view, result, rows, money)
    base.alternates = [_alternate(view, alternate) for alternate in result.alternates]
    base.remarks = [*base.remarks, *(remark for remark in _remarks(view, result) if remark not in base.remarks)]
    return base


def _fill_judged(view: TrialView, base: VerdictOut, result: Compared) -> None:
    """The answer of a trial that is judged by something else than yield or money."""
    response = view.trial.primary_response
    rows = decisions_for(view, result, response)
    base.judged = analysis_out(view, result, response, rows)
    base.state = "judged" if _replicated(result) else "description"
    base.headline = wording.judged_headline(rows, view.show, response, replicated=_replicated(result))
    base.money = "Yield and money are described below, not called."
    base.remarks = remarks_of(view)
    if view.trial.response_margin.value is None:
        base.remarks.append("Without a margin in its own unit “no difference that matters” cannot be called.")


def confounded_out(view: TrialView) -> list[ConfoundedOut]:
    """What treatments are tied to, inseparable pairs first."""
    return [
        ConfoundedOut(
            against=item.finding.against,
            kind=cast(Any, item.finding.kind),
            inflation=item.finding.inflation,
            declared=item.declared,
            sentence=item.finding.sentence,
            remedy=item.remedy,
        )
        for item in confounded(view)
    ]


def _replicated(result: Compared) -> bool:
    return isinstance(result, FactorComparison) or result.replicated


def _sentences(view: TrialView, result: Computed, rows: list[Decision], money: list[Decision]) -> tuple[str, str]:
    assert result.yield_ is not None
    if answered_by_curve(view) is not None:
        return _by_curve(view, result, rows, money)
    if not rows:
        return "No control with a harvested strip, so there is nothing to be better than. The means are below.", ""
    primary = view.trial.primary_response if result.net else "yield"
    chosen = money if primary == "net_return" and money else rows
    told = result.net if chosen is money else result.yield_
    if isinstance(told, FactorComparison):
        headline = wording.factor_headline(view, told, chosen, primary)
    else:
        headline = wording.headline(chosen, view.show, kind_of(primary), primary, _replicated(result.yield_))
    if not money:
        why = "no price is set" if view.trial.price.value is None else "no control is named"
        return headline, f"The money is not reckoned: {why}."
    raised = {(row.left, row.right, row.within) for row in rows if (row.difference.lower or 0) > 0}
    return headline, wording.money_sentence(money, view.show, raised) + _highest(view, result)


def _by_curve(view: TrialView, result: Computed, rows: list[Decision], money: list[Decision]) -> tuple[str, str]:
    """The answer of an amount, beside those of the other factors where there are any."""
    verdict = amount_verdict(view)
    if isinstance(verdict, str):
        amounts, own, in_money = f"The amount has no curve. {verdict}", "", False
    else:
        amounts, own, in_money = " ".join(amount_sentences(view, verdict)), own_sentence(view, verdict), verdict.in_money
    primary = view.trial.primary_response if result.net else "yield"
    told = result.net if primary == "net_return" and money else result.yield_
    others = ""
    if isinstance(told, FactorComparison):
        amount = None if isinstance(verdict, str) else best_amount(view, verdict)
        others = f" {wording.factor_headline(view, told, money if told is result.net else rows, primary, amount)}"
    if not in_money:
        return f"{amounts} {own[:1].upper()}{own[1:]}{others}".replace(
            "  ", " "
        ), "The money is not reckoned: no price is set." if not money else ""
    raised = {(row.left, row.right, row.within) for row in rows if (row.difference.lower or 0) > 0}
    rest = f" {wording.money_sentence(money, view.show, raised)}" if money else ""
    return f"{amounts}{others}", f"In money {own}{rest}" if own else rest.strip()


def _highest(view: TrialView, result: Computed) -> str:
    """Says when the highest yield is not the highest return."""
    if result.yield_ is None or result.net is None:
        return ""
    yields, nets = treatment_means(view, result.yield_), treatment_means(view, result.net)
    by_id = {treatment.id: treatment for treatment in view.treatments}
    most, best = max(yields, key=lambda key: yields[key]), max(nets, key=lambda key: nets[key])
    if most == best or view.show.number(nets[best], "net_return") == view.show.number(nets[most], "net_return"):
        return ""
    return (
        f" The highest yield is not the highest return: {label_of(view, by_id[most])} yielded most, "
        f"{label_of(view, by_id[best])} returned most."
    )


def _alternate(view: TrialView, alternate: Alternate) -> AlternateOut:
    lines = []
    for row in decisions_for(view, alternate.yield_, "yield", alternate.trend, every=True):
        inside = f" at {row.within}" if row.within else ""
        against = f" against {row.right}" if row.factor or view.control is None else ""
        lines.append(
            f"{row.left}{against}{inside}: {view.show.text(row.difference.estimate, 'yield', signed=True)}, "
            f"{call_words(row) if row.call or row.withheld else 'a curve answers, so no call'}"
        )
    return AlternateOut(label=alternate.label, lines=lines)


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


def _grounds(view: TrialView, result: Compared) -> list[str]:
    """What the chances rest on beside the strips, once for each kind of comparison."""
    rows = [row for row in decisions_for(view, result, "yield") if row.chance is not None]
    told = dict.fromkeys(prior_words(view, row.prior) for row in rows)
    return [f"Chances weigh the strips against what such trials usually show. {' '.join(told)}"] if told else []


def _remarks(view: TrialView, result: Computed) -> list[str]:
    assert result.yield_ is not None
    remarks = [*remarks_of(view), *_grounds(view, result.yield_)]
    if answered_by_curve(view) is not None:
        remarks.append(HELD)
    standing = standing_of(view.trial)
    if standing is not None:
        remarks.append(f"{standing.name}. {standing.words}")
    present = {strip.received.id for strip in compared_strips(view)}
    for treatment in view.treatments:
        if treatment.id not in present:
            remarks.append(f"{label_of(view, treatment)} has no harvested strip, so nothing can be said about it.")
    if not _replicated(result.yield_):
        remarks.append(
            "What it can teach: whether the treatment is workable, and roughly what to expect. A repeat with each treatment "
            "once in each of four blocks could answer the question."
        )
    elif any(view.margin_kg_per_ha(item) is None for item in view.treatments if not item.is_control):
        remarks.append(
            "Without a practical margin, the least difference you would act on, “no difference that matters” cannot be called."
        )
    elif view.trial.practical_margin.value is None and view.frozen:
        remarks.append("The margin of yield is the break-even of each comparison, as it was when the protocol was frozen.")
    elif view.trial.practical_margin.value is None:
        remarks.append("The margin of yield is 2 % of the expected yield: none is stated under Question.")
    if result.net and view.trial.net_margin.value is None and _replicated(result.net):
        remarks.append("No margin in money is set, so net return is called a gain, a loss, or not clear yet.")
    if not view.design.drawn and _replicated(result.yield_):
        remarks.append(
            "The order alternates without a draw: a drift across the field leans on these differences, and neither their "
            "intervals nor their probabilities know of it. So a call is made only where the analysis in blocks and one with a "
            "straight drift along the field agree."
        )
    if _replicated(result.yield_):
        remarks.append("One season in one field: the same comparison next year is worth more than more decimals now.")
    return remarks
