"""The ledger: every comparison ranked by net return, series combined, and what the farm has learned."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal, cast

from cultrix_core.crops import crop
from cultrix_core.design.designs import design_kind
from cultrix_core.economics.ranking import Tried, ranking
from cultrix_core.stats.workings import CALL_WORDS
from cultrix_core.unit_formatting import UnitFormatter, chance_text, format_number

from apps.accounts.models import User, Workspace
from apps.accounts.queries import formatter_for
from apps.analysis.portfolio.learning import learning_out
from apps.analysis.power.queries import experience_of
from apps.analysis.verdict.amounts import against_own, amount_verdict, answered_by_curve
from apps.analysis.verdict.comparisons import received
from apps.analysis.verdict.decisions import Decision, call_words, decisions_for
from apps.analysis.verdict.queries import Computed, computed
from apps.analysis.verdict.responses import kind_of, noun_of
from apps.analysis.verdict.series import series_out
from apps.base.formatting import shown
from apps.field.season.models import StandLine
from apps.pages.ledger.schemas import CombinedOut, LedgerEntryOut, LessonOut, PortfolioOut
from apps.trial_state.listing import ListedTrial, parts_of, shelf
from apps.trial_state.view import TrialView, trials_of

MONEY: Literal["net_return"] = "net_return"


FILTERS = ("crop", "factor", "field", "year")


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """Which comparisons: by what each filter lets through, in an order, a page of them."""

    chosen: Mapping[str, str]
    order: Literal["net", "season", "crop"] = "net"
    offset: int = 0
    limit: int = 100


def comparisons_part(listed: ListedTrial) -> list[dict[str, Any]]:
    """What a summary keeps of a trial for the ledger: its comparisons, each with its net gain and standard error as numbers."""
    assert listed.view is not None
    return [entry.kept() for entry in _entries(listed.view)]


def ledger_out(user: User, workspace: Workspace, asked: Asked) -> dict[str, Any]:
    """Everything tried in a workspace, as JSON has it (``LedgerOut``); a page of it."""
    here = shelf(user, workspace)
    known, show = parts_of(here, "comparisons"), formatter_for(user, workspace)
    rows = [row for part in (*known.kept, *known.live) for row in part[1]]
    ranks = ranking(
        [Tried(key=row["key"], standing=row["standing"], net_per_ha=row["net_per_ha"], se=row["se"]) for row in rows]
    )
    place = dict(ranks.ranked)
    for row in rows:
        row["rank"] = place.get(row["key"])
    rows.sort(key=lambda row: (row["rank"] or 10**6, row["standing"] != "look", -row["season"], row["key"]))
    fitting = [row for row in rows if _fits(row, asked.chosen)]
    if asked.order != "net":
        fitting.sort(key=lambda row: -row["season"] if asked.order == "season" else row["crop_name"])
    ends = [row[name]["value"] for row in fitting for name in ("net", "lower", "upper") if row[name] is not None]
    return {
        "unit": show.unit(MONEY),
        "entries": [_told(row) for row in fitting[asked.offset : asked.offset + asked.limit]],
        "total": len(fitting),
        "span": [min(0.0, *ends), max(0.0, *ends)] if ends else [0.0, 0.0],
        "choices": {name: sorted({value for row in rows for value in _values(row, name)}) for name in FILTERS},
        "luck": _luck(ranks.luck_per_ha, len(place), show),
        "recalculating": known.recalculating,
    }


def _told(row: dict[str, Any]) -> dict[str, Any]:
    return {name: value for name, value in row.items() if name not in ("net_per_ha", "se")}


def _values(row: dict[str, Any], name: str) -> list[str]:
    """What a comparison is under a filter."""
    if name == "factor":
        return list(row["factors"])
    value = str(row[{"crop": "crop_name", "field": "field", "year": "season"}[name]])
    return [value] if value else []


def _fits(row: dict[str, Any], chosen: Mapping[str, str]) -> bool:
    return all(not wanted or wanted in _values(row, name) for name, wanted in chosen.items())


def portfolio_out(user: User, workspace: Workspace) -> PortfolioOut:
    """What the trials of a workspace say together: series combined, and what the farm has learned."""
    views = trials_of(user, workspace)
    return PortfolioOut(combined=_combined(user, views), lessons=_lessons(workspace, views))


@dataclass(frozen=True, slots=True)
class _RankedEntry:
    entry: LedgerEntryOut
    net: float | None
    se: float | None

    def kept(self) -> dict[str, Any]:
        return self.entry.model_dump(mode="json", by_alias=True) | {"net_per_ha": self.net, "se": self.se}


def _luck(luck: float | None, count: int, show: UnitFormatter) -> str:
    if luck is None:
        return ""
    top = show.text(luck, MONEY, signed=True)
    return (
        f"The best of many looks better than it is: with no true gain anywhere, the best of {count} comparisons as uncertain "
        f"as these would still show about {top}."
    )


def _entries(view: TrialView) -> list[_RankedEntry]:
    result = computed(view)
    judged = _judged_entries(view, result)
    if judged:
        return judged
    if result.yield_ is None:
        return [_ranked_entry(view, None, None, "")]
    curves = _by_curve(view)
    yields = decisions_for(view, result.yield_, "yield", result.trend)
    if curves and not yields:
        return curves
    by_place = {(row.left, row.right, row.within): row for row in yields}
    if result.net is None:
        why = "no price is set" if view.trial.price.value is None else "no net return can be reckoned"
        return [_ranked_entry(view, None, row, f"Not in the ranking: {why}.", place) for place, row in enumerate(yields)] or [
            _ranked_entry(view, None, None, why)
        ]
    rows = decisions_for(view, result.net, MONEY, result.net_trend)
    return curves + [
        _ranked_entry(view, row, by_place.get((row.left, row.right, row.within)), "", place)
        for place, row in enumerate(rows, start=len(curves))
    ]


def _judged_entries(view: TrialView, result: Computed) -> list[_RankedEntry]:
    """Comparisons of a trial that is judged by something else than yield or money: called, and outside the ranking."""
    response = view.trial.primary_response
    if result.judged is None:
        return []
    told, kind = [], kind_of(response)
    for place, row in enumerate(decisions_for(view, result.judged, response)):
        said = f"Judged by {noun_of(response)}: {view.show.text(row.difference.estimate, kind, signed=True)}."
        blank = _ranked_entry(view, None, None, said, place)
        entry = blank.entry.model_copy(
            update={
                "name": f"{row.left} against {row.right}{f' at {row.within}' if row.within else ''}",
                "standing": "open" if row.call or row.withheld else "look",
                "call": row.call.name if row.call else None,
                "call_words": call_words(row) if row.call or row.withheld else "a look, not a result",
                "said": " ".join(part for part in (said, row.withheld) if part),
            }
        )
        told.append(_RankedEntry(entry, None, None))
    return told


def _by_curve(view: TrialView) -> list[_RankedEntry]:
    """The best amount against the farm's own, where a curve answers for it."""
    verdict = amount_verdict(view) if answered_by_curve(view) is not None else ""
    if isinstance(verdict, str):
        return []
    told = []
    for place, row in enumerate(against_own(view, verdict)):
        blank = _ranked_entry(view, None, None, "" if verdict.in_money else "Not in the ranking: no price is set.", place)
        size, lower, upper = (
            shown(value, MONEY, view.show, signed=True) if verdict.in_money else None
            for value in (row.loss.size, row.least, row.loss.most)
        )
        entry = blank.entry.model_copy(
            update={
                "name": f"{verdict.factor.title}: {row.name}{f' at {row.within}' if row.within else ''}",
                "standing": "judged" if verdict.in_money else "open",
                "net": size,
                "lower": lower,
                "upper": upper,
                "call": row.call.name,
                "call_words": CALL_WORDS[row.call.name],
            }
        )
        told.append(_RankedEntry(entry, row.loss.size, row.loss.se) if verdict.in_money else _RankedEntry(entry, None, None))
    return told


def _ranked_entry(view: TrialView, row: Decision | None, grown: Decision | None, said: str, place: int = 0) -> _RankedEntry:
    show, trial = view.show, view.trial
    item = row.difference if row is not None else None
    told = row or grown
    withheld = told is not None and bool(told.withheld)
    look = not design_kind(trial.design).replicated or (told is not None and told.call is None and not withheld)
    standing = "look" if look and told is not None else "judged" if row is not None and not withheld else "open"
    name = "" if told is None else f"{told.left} against {told.right}{f' at {told.within}' if told.within else ''}"
    entry = LedgerEntryOut(
        key=f"{trial.id}/{place}",
        trial_id=trial.id,
        title=trial.title,
        crop=trial.crop,
        crop_name=view.profile.title,
        season=trial.season,
        field=str(trial.field) if trial.field else "",
        factors=[factor.title for factor in view.factors],
        design=trial.get_design_display() if trial.design else "not laid out yet",
        name=name or "not harvested yet",
        standing=cast(Any, standing),
        rank=None,
        net=shown(item.estimate, MONEY, show, signed=True) if item else None,
        lower=shown(item.lower, MONEY, show, signed=True) if item else None,
        upper=shown(item.upper, MONEY, show, signed=True) if item else None,
        chance="" if row is None or row.chance is None else chance_text(row.chance),
        call=row.call.name if row and row.call else None,
        call_words=_words(row, standing),
        yield_="" if grown is None else show.text(grown.difference.estimate, "yield", signed=True),
        yield_call=CALL_WORDS[grown.call.name] if grown and grown.call else "",
        said=" ".join(part for part in (said, told.withheld if told else "", _trap(row, grown), _damage(view)) if part),
        series=trial.series,
    )
    return _RankedEntry(entry, item.estimate if item and standing == "judged" else None, item.se if item else None)


def _words(row: Decision | None, standing: str) -> str:
    if standing == "look":
        return "a look, not a result"
    if row is None:
        return "open"
    return call_words(row)


def _trap(row: Decision | None, grown: Decision | None) -> str:
    if row is None or grown is None or grown.difference.lower is None or row.withheld:
        return ""
    return "Raised yield and still lost money." if grown.difference.lower > 0 > row.difference.estimate else ""


def _damage(view: TrialView) -> str:
    lost = sum(1 for strip in view.strips if strip.lost)
    other = sum(1 for strip in view.strips if not strip.lost and received(strip) != strip.treatment)
    parts = [f"{lost} strip{'s' if lost > 1 else ''} lost"] if lost else []
    parts += [f"{other} sown otherwise"] if other else []
    return f"{', '.join(parts)}." if parts else ""


def _combined(user: User, views: Sequence[TrialView]) -> list[CombinedOut]:
    """Every series with two harvested years or more, in money where it is priced."""
    first: dict[tuple[str, str], TrialView] = {}
    count: dict[tuple[str, str], int] = {}
    for view in views:
        key = (view.trial.crop, view.trial.series.strip().lower())
        if key[1] and computed(view).yield_ is not None:
            first.setdefault(key, view)
            count[key] = count.get(key, 0) + 1
    rows = []
    for key, view in first.items():
        if count[key] < 2:
            continue
        series = series_out(user, view, MONEY)
        base = CombinedOut(
            series=view.trial.series,
            trial_id=view.trial.id,
            crop=view.trial.crop,
            name="",
            years=len(series.alone),
            net=None,
            lower=None,
            upper=None,
            call=None,
            call_words="",
            held=series.held,
            problem=series.problem,
        )
        against = f" against {series.against}" if series.against else ""
        rows += [
            base.model_copy(
                update={
                    "name": f"{series_difference.name}{against}",
                    "net": series_difference.estimate,
                    "lower": series_difference.lower,
                    "upper": series_difference.upper,
                    "call": series_difference.call,
                    "call_words": series_difference.call_words,
                }
            )
            for series_difference in series.combined
        ] or [base]
    return rows


def _trials(count: int) -> str:
    return f"{count} trial{'s' if count != 1 else ''}"


def _lessons(workspace: Workspace, views: Sequence[TrialView]) -> list[LessonOut]:
    rows = []
    for key in dict.fromkeys(view.trial.crop for view in views):
        name = crop(key).name
        own = experience_of(views, key)
        if own.cv_pct is not None:
            usual = crop(key).planning_cv_pct
            rows.append(
                LessonOut(
                    crop=name,
                    about="Variation between strips",
                    words=f"CV {format_number(own.cv_pct, 1)} % over {_trials(len(own.trials))}, against {usual:g} % usual for "
                    "the crop.",
                    used="The next layout of this crop is judged with it.",
                )
            )
        of_crop = next(view for view in views if view.trial.crop == key)
        for group in learning_out(of_crop).groups:
            if group.group.startswith(name):
                rows.append(
                    LessonOut(
                        crop=name,
                        about=f"Estimates: {group.group.removeprefix(name + ', ')}",
                        words=group.words,
                        used="The next estimate shows it beside the number.",
                    )
                )
    for line in StandLine.objects.filter(workspace=workspace):
        rows.append(
            LessonOut(
                crop=crop(line.crop).name,
                about=f"Stand threshold: {line.key.replace('_', ' ')}",
                words=f"{line.value.text} {line.value.unit} ({line.source}).",
                used="Keep or replant takes it in the place of the published value.",
            )
        )
    return rows
