"""The ledger: every comparison ranked by net return, series combined, and what the farm has learned."""

from __future__ import annotations

from collections.abc import Sequence
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
from apps.analysis.verdict.comparisons import received
from apps.analysis.verdict.decisions import Decision, decisions_for
from apps.analysis.verdict.queries import computed
from apps.analysis.verdict.series import series_out
from apps.base.formatting import shown
from apps.field.season.models import StandLine
from apps.pages.ledger.schemas import CombinedOut, LedgerEntryOut, LedgerOut, LessonOut
from apps.trial_state.view import TrialView, trials_of

MONEY: Literal["net_return"] = "net_return"


@dataclass(frozen=True, slots=True)
class _RankedEntry:
    entry: LedgerEntryOut
    net: float | None
    se: float | None


def ledger_out(user: User, workspace: Workspace) -> LedgerOut:
    """Everything tried in a workspace."""
    views, show = trials_of(user, workspace), formatter_for(user, workspace)
    made = [entry for view in views for entry in _entries(view)]
    ranks = ranking([Tried(key=one.entry.key, standing=one.entry.standing, net_per_ha=one.net, se=one.se) for one in made])
    place = dict(ranks.ranked)
    for one in made:
        one.entry.rank = place.get(one.entry.key)
    ordered = sorted(made, key=lambda one: (one.entry.rank or 10**6, one.entry.standing != "look", -one.entry.season))
    return LedgerOut(
        unit=show.unit(MONEY),
        entries=[one.entry for one in ordered],
        combined=_combined(user, views),
        lessons=_lessons(workspace, views),
        luck=_luck(ranks.luck_per_ha, len(place), show),
    )


def _luck(luck: float | None, count: int, show: UnitFormatter) -> str:
    if luck is None:
        return ""
    top = show.text(luck, MONEY, signed=True)
    return (
        f"The best of many looks better than it is: with no true gain anywhere, the best of {count} comparisons as uncertain "
        f"as these would still show about {top}."
    )


def _entries(view: TrialView) -> list[_RankedEntry]:
    found = computed(view)
    if found.yield_ is None:
        return [_ranked_entry(view, None, None, "")]
    yields = decisions_for(view, found.yield_, "yield", found.trend)
    by_place = {(row.left, row.right, row.within): row for row in yields}
    if found.net is None:
        why = "no price is set" if view.trial.price.value is None else "no net return can be reckoned"
        return [_ranked_entry(view, None, row, f"Not in the ranking: {why}.") for row in yields] or [
            _ranked_entry(view, None, None, why)
        ]
    rows = decisions_for(view, found.net, MONEY, found.net_trend)
    return [_ranked_entry(view, row, by_place.get((row.left, row.right, row.within)), "") for row in rows]


def _ranked_entry(view: TrialView, row: Decision | None, grown: Decision | None, said: str) -> _RankedEntry:
    show, trial = view.show, view.trial
    one = row.difference if row is not None else None
    told = row or grown
    look = not design_kind(trial.design).replicated or (told is not None and told.call is None)
    standing = "look" if look and told is not None else "judged" if row is not None else "open"
    name = "" if told is None else f"{told.left} against {told.right}{f' at {told.within}' if told.within else ''}"
    entry = LedgerEntryOut(
        key=f"{trial.id}/{name}",
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
        net=shown(one.estimate, MONEY, show, signed=True) if one else None,
        lower=shown(one.lower, MONEY, show, signed=True) if one else None,
        upper=shown(one.upper, MONEY, show, signed=True) if one else None,
        chance="" if row is None or row.chance is None else chance_text(row.chance),
        call=row.call.name if row and row.call else None,
        call_words=_words(row, standing),
        yield_="" if grown is None else show.text(grown.difference.estimate, "yield", signed=True),
        yield_call=CALL_WORDS[grown.call.name] if grown and grown.call else "",
        said=" ".join(one for one in (said, _trap(row, grown), _damage(view)) if one),
        series=trial.series,
    )
    return _RankedEntry(entry, one.estimate if one and standing == "judged" else None, one.se if one else None)


def _words(row: Decision | None, standing: str) -> str:
    if standing == "look":
        return "a look, not a result"
    if row is None:
        return "open"
    return CALL_WORDS[row.call.name] if row.call else "no call"


def _trap(row: Decision | None, grown: Decision | None) -> str:
    if row is None or grown is None or grown.difference.lower is None:
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
        found = series_out(user, view, MONEY)
        base = CombinedOut(
            series=view.trial.series,
            trial_id=view.trial.id,
            crop=view.trial.crop,
            name="",
            years=len(found.alone),
            net=None,
            lower=None,
            upper=None,
            call=None,
            call_words="",
            held=found.held,
            problem=found.problem,
        )
        against = f" against {found.against}" if found.against else ""
        rows += [
            base.model_copy(
                update={
                    "name": f"{one.name}{against}",
                    "net": one.estimate,
                    "lower": one.lower,
                    "upper": one.upper,
                    "call": one.call,
                    "call_words": one.call_words,
                }
            )
            for one in found.combined
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
