"""The report of a trial: one page for the grower, and the full record behind it for the colleague.

Every number is the verdict's, the budget's or a record's own; nothing is computed here. What may leave the workspace is
decided by three switches: ``names`` (people and free notes), ``places`` (field, farm, map, other site-years), ``record``.
"""

from __future__ import annotations

import base64
import hashlib
from pathlib import Path
from typing import Any

from cultrix_core.regions import PAPERS
from cultrix_core.writing import written_day
from django.template.loader import render_to_string
from django.utils import timezone

from apps.accounts.models import User
from apps.accounts.queries import region_of
from apps.analysis.economics.schemas import MoneyOut
from apps.analysis.verdict.advice import ONE_SEASON, advice
from apps.analysis.verdict.amounts import amount_verdict, answered_by_curve, next_sentence
from apps.analysis.verdict.decisions import decisions_for
from apps.analysis.verdict.queries import computed
from apps.analysis.verdict.schemas import AnalysisOut, VerdictOut
from apps.analysis.verdict.series import series_out
from apps.base.formatting import ShownOut, shown
from apps.pages.money.output import money_out
from apps.pages.power.cards import map_out
from apps.pages.trial.output import amendment_words, protocol_out
from apps.pages.verdict.output import verdict_out
from apps.report.differences_svg import differences_svg
from apps.report.map_svg import map_svg
from apps.report.private import private_words, without
from apps.report.ribbon_svg import ribbon_svg
from apps.trial_state.rows import strip_out
from apps.trial_state.view import TrialView
from apps.trials.hooks import tally
from apps.trials.schemas import ProtocolOut

STYLE = (Path(__file__).parent / "templates" / "report.css").read_text()
STYLES = {paper: STYLE.replace("size: A4", f"size: {paper}") for paper in PAPERS}
STYLE_HASHES = [
    "'sha256-" + base64.b64encode(hashlib.sha256(style.encode()).digest()).decode() + "'" for style in STYLES.values()
]
MOST_CHECKS, MOST_REMARKS = 3, 4
LABEL = (
    "The label, local codes and licensed advice outrank this page; a trial is no exemption from the label. Treated seed, "
    "sprayed crops and machines: follow tag, re-entry interval and manual."
)


def report_html(user: User, view: TrialView, *, record: bool, places: bool, title: str, names: bool, link: str = "") -> str:
    """The report as HTML. ``link``: the token of the shared link, for its own PDF; empty for members."""
    verdict = verdict_out(view)
    money = money_out(user, view)
    primary = verdict.judged or (
        verdict.net_return if verdict.primary == "net_return" and verdict.net_return else verdict.yield_
    )
    protocol = protocol_out(view.trial)
    context: dict[str, Any] = {
        "style": STYLES[region_of(view.trial.workspace).paper],
        "title": title,
        "link": link,
        "record": record,
        "names": names,
        "places": places,
        "page": _page(user, view, verdict, primary, protocol, money, names=names, places=places),
        "printed": timezone.now(),
    }
    if record:
        context |= _record(view, verdict, protocol, money, names=names, places=places)
    return render_to_string("trial_report.html", without(context, private_words(view, names=names, places=places)))


def _page(
    user: User,
    view: TrialView,
    verdict: VerdictOut,
    primary: AnalysisOut | None,
    protocol: ProtocolOut | None,
    money: MoneyOut,
    *,
    names: bool,
    places: bool,
) -> dict[str, Any]:
    trial = view.trial
    return {
        "crop": view.profile.title,
        "season": trial.season,
        "field": str(trial.field) if trial.field and places else "",
        "question": trial.question,
        "guess": trial.guess,
        "headline": verdict.headline,
        "money": verdict.money,
        "problem": verdict.problem,
        "judged_by": verdict.primary_name[:1].lower() + verdict.primary_name[1:],
        "replicated": verdict.state == "judged",
        "ribbon": ribbon_svg(view) if view.strips else "",
        "layout": _layout_words(view),
        "measured": _measured(view, verdict),
        "differences": differences_svg(primary) if primary else "",
        "caption": primary.caption if primary else "",
        "rows": _rows(verdict, money),
        "checks": (primary.checks if primary else [])[:MOST_CHECKS],
        "left_out": [f"Strip {left_out.strip}: {left_out.why}" for left_out in (*verdict.left_out, *verdict.deviations)],
        "amendments": amendment_words(protocol),
        "remarks": [
            *verdict.remarks[:MOST_REMARKS],
            *(remark for remark in money.remarks if names or not trial.price_source or trial.price_source not in remark),
        ],
        "series": _series(user, view) if places else "",
        "next": _next(view, verdict),
        "yield_unit": verdict.yield_.unit if verdict.yield_ else "",
        "money_unit": money.unit,
        "caution": LABEL,
        "fingerprint": verdict.fingerprint,
        "frozen": written_day(protocol.frozen_at) if protocol else "",
        "protocol": protocol.fingerprint if protocol else "",
        "frozen_by": protocol.by if protocol and names else "",
    }


def _layout_words(view: TrialView) -> str:
    strips, blocks = len(view.strips), len({strip.block_id for strip in view.strips})
    if not strips:
        return "No layout yet."
    first = view.strips[0]
    width, length = (shown(size, "strip_width", view.show) for size in (first.width.value, first.length.value))
    size = f", strips {width.text} wide and {length.text} long" if width and length else ""
    order = f", order drawn from seed {view.trial.seed}" if view.trial.drawn and view.trial.seed is not None else ""
    if not view.design.drawn:
        order = ", order alternating, not drawn"
    return f"{view.trial.get_design_display()}: {strips} strips in {blocks} block{'s' if blocks != 1 else ''}{order}{size}."


def _measured(view: TrialView, verdict: VerdictOut) -> str:
    words = tally(view.strips).words
    source = f" {verdict.source}" if verdict.source else ""
    return f"{words or 'Nothing yet'}.{source}"


def _rows(verdict: VerdictOut, money: MoneyOut) -> list[dict[str, Any]]:
    if verdict.yield_ is None:
        return []
    budgets = {treatment.treatment_id: treatment for treatment in money.treatments}
    partial = {item.treatment_id: item for item in money.partial}
    unit = verdict.yield_.unit
    rows = []
    for mean in verdict.yield_.means:
        treatment_budget, extra = budgets.get(mean.treatment_id), partial.get(mean.treatment_id)
        ends = [_bare(end.text, unit) for end in (mean.lower, mean.upper) if end]
        rows.append(
            {
                "letter": mean.letter,
                "name": mean.name,
                "control": mean.is_control,
                "n": mean.n,
                "mean": _bare(mean.mean.text, unit),
                "interval": " to ".join(ends),
                "costs": _bare(treatment_budget.by_area.text, money.unit) if treatment_budget else "",
                "net": _bare(treatment_budget.net.text, money.unit) if treatment_budget else "",
                "gain": _bare(extra.net_gain.text, money.unit) if extra else "",
                "back": (extra.return_on_cost if extra.return_on_cost.endswith("%") else "–") if extra else "",
            }
        )
    return rows


def _bare(text: str, unit: str) -> str:
    """A shown number without the unit that stands in the head of its column."""
    return text.removesuffix(unit).strip()


def _series(user: User, view: TrialView) -> str:
    series = series_out(user, view)
    return "" if series.problem else f"{series.sentence} {series.held}"


def _next(view: TrialView, verdict: VerdictOut) -> str:
    """Advice by the money where it is reckoned, else by the yield."""
    found = computed(view)
    in_money = found.net is not None and verdict.net_return is not None
    result, trend, shown = (
        (found.net, found.net_trend, verdict.net_return) if in_money else (found.yield_, found.trend, verdict.yield_)
    )
    if result is None or shown is None:
        return ""
    settle = next((difference.settle for difference in shown.differences if difference.settle), "")
    rows = decisions_for(view, result, "net_return" if in_money else "yield", trend)
    amounts = amount_verdict(view) if answered_by_curve(view) is not None else ""
    of_amount = "" if isinstance(amounts, str) else next_sentence(view, amounts)
    if of_amount and not rows:
        return f"{of_amount} {ONE_SEASON}"
    return f"{of_amount} {advice(rows, in_money=in_money, settle=settle)}".strip()


def _record(
    view: TrialView, verdict: VerdictOut, protocol: ProtocolOut | None, money: MoneyOut, *, names: bool, places: bool
) -> dict[str, Any]:
    placed = places and bool(view.strips) and bool(view.strips[0].ring) and "boundary" in view.trial.plan
    return {
        "protocol_rows": [
            (name, text) for name, text in (protocol.content if protocol else []) if places or name not in ("field", "strip")
        ],
        "map": map_svg(view, map_out(view)) if placed else "",
        "strips": [_strip_row(view, strip) for strip in view.strips],
        "analyses": [_analysis(analysis) for analysis in (verdict.yield_, verdict.net_return) if analysis is not None],
        "alternates": verdict.alternates,
        "budget": money,
        "events": [
            {"day": written_day(event.happened_on), "kind": event.get_kind_display(), "text": event.text if names else ""}
            for event in view.events
        ],
    }


def _analysis(analysis: AnalysisOut) -> dict[str, Any]:
    """An analysis with its numbers free of the unit that its heading carries."""

    def bare(shown: ShownOut | None) -> str:
        return "" if shown is None else _bare(shown.text, analysis.unit)

    return {
        "title": "net return" if analysis.response == "net_return" else analysis.response,
        "unit": analysis.unit,
        "method": analysis.method,
        "cv": analysis.cv_pct,
        "sed": bare(analysis.sed),
        "differences": [
            {
                "name": f"{difference.factor + ': ' if difference.factor else ''}{difference.letter}"
                f" against {difference.against}{' at ' + difference.within if difference.within else ''}",
                "estimate": bare(difference.estimate),
                "se": bare(difference.se),
                "interval": f"{bare(difference.lower)} to {bare(difference.upper)}"
                if difference.lower and difference.upper
                else "",
                "p": difference.p or "",
                "p_family": difference.p_adjusted or "",
                "margin": bare(difference.margin),
                "call": difference.call_words + (f"; {difference.chances}" if difference.chances else ""),
            }
            for difference in analysis.differences
        ],
        "anova": analysis.anova,
        "said": [*analysis.checks, *analysis.second_looks, *analysis.warnings],
    }


def _strip_row(view: TrialView, strip: Any) -> dict[str, Any]:
    out = strip_out(view, strip)
    return {
        "order": strip.order,
        "block": strip.block.number,
        "planned": strip.treatment.letter,
        "received": strip.received.letter,
        "stand": out.stand.text if out.stand else "",
        "yield": out.yield_.text if out.yield_ else "",
        "net": out.net_return.text if out.net_return else "",
        "said": ("lost: " if strip.lost else "") + strip.reason,
    }
