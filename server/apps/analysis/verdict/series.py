"""Trials of one series taken together: every site-year alone, combined, and combined without each."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, Protocol

from cultrix_core.errors import Refusal
from cultrix_core.stats.decision_rule import make_call
from cultrix_core.stats.environments import Series, SiteYear, combine
from cultrix_core.stats.families import CellDifference
from cultrix_core.stats.repeated import repeated
from cultrix_core.stats.workings import CALL_WORDS
from cultrix_core.unit_formatting import format_number

from apps.accounts.models import User
from apps.analysis.verdict import wording
from apps.analysis.verdict.comparisons import compared_strips, net_of, yield_of
from apps.analysis.verdict.confounding import Withholding
from apps.analysis.verdict.responses import kind_of
from apps.analysis.verdict.schemas import NamedOut, SeriesDifferenceOut, SeriesOut, SeriesRowOut
from apps.base.formatting import shown
from apps.trial_state.view import TrialView, trials_in_series
from apps.trials.models import Level, Treatment, Trial
from apps.trials.naming import treatment_name

ALONE = "This trial belongs to no series. Name one under Question, the same for every year of the same question."
ONE_YEAR = "Only one trial of this series is harvested; two make a series, and five begin to speak for other years."
SPLIT_WORDS = (
    "A split or crossed layout is not combined over years here: its main strips have an error of their own, and an analysis "
    "of its combinations as if they stood in plain blocks would claim too much. Each year has its verdict."
)
SAME_STRIPS = (
    "The trials lie on the same strips with the same treatments: years of one strip are no site-years and no replicates. "
    "They are compared by what each strip gave in all."
)
NOT_DRAWN = (
    "One of the trials alternates without a draw: a drift across its field leans on the differences, so nothing is called over "
    "the series. Its own verdict says what it can."
)
UNLIKE = "The trials of this series have no two treatments in common, so there is nothing to combine."


@dataclass(frozen=True, slots=True)
class _Rows:
    response: list[float]
    treatment: list[str]
    environment: list[str]
    block: list[str]
    strip: list[str]


Answered = Literal["yield", "net_return"]


def series_out(user: User, view: TrialView, response: Answered = "yield") -> SeriesOut:
    """The series that a trial belongs to, its yields or its net returns combined."""
    show = view.show
    base = SeriesOut(
        response=response,
        name=view.trial.series,
        problem="",
        sentence="",
        against="",
        unit=show.unit(kind_of(response)),
        level_pct=100 * (1 - view.trial.alpha),
        alone=[],
        combined=[],
        without=[],
        held="",
        method="",
        components=[],
        remarks=[],
    )
    if not view.trial.series.strip():
        base.problem = ALONE
        return base
    views = _combined(user, view, response, base.remarks)
    try:
        base.problem = _refused(views)
        if base.problem and base.remarks:
            base.problem = f"{base.problem} {base.remarks[0]}"
        if base.problem:
            return base
        names = _shared(views)
        if _same_strips(views):
            return _over_the_years(base, view, views, names)
        rows, labels = _rows(views, names, response), _labels(views)
        control = _control(views, names)
        series = combine(
            rows.response,
            rows.treatment,
            rows.environment,
            rows.block,
            alpha=view.trial.alpha,
            control=control,
            levels=list(names),
        )
    except Refusal as refusal:
        base.problem = refusal.message
        return base
    return _told(base, view, views, labels, names, control, series)


def _combined(user: User, view: TrialView, response: Answered, remarks: list[str]) -> list[TrialView]:
    """Trials of the series that can be taken together; ``remarks`` is told of those left out."""
    views = [
        other_trial
        for other_trial in trials_in_series(user, view)
        if other_trial.design.replicated and compared_strips(other_trial)
    ]
    if response == "net_return":
        unpriced = [item for item in views if not any(net_of(item, strip) is not None for strip in compared_strips(item))]
        views = [item for item in views if item not in unpriced]
        if unpriced:
            remarks.append(_unpriced(unpriced))
    tied = [item for item in views if Withholding(view=item, response=response).pairs]
    if tied:
        views = [item for item in views if item not in tied]
        remarks.append(_tied(tied))
    return views


def _tied(views: list[TrialView]) -> str:
    """Trials whose treatments cannot be told apart from something else say nothing about them in a series either."""
    years = ", ".join(label for label, _ in _labels(views).values())
    return f"Left out, as its verdict makes no call: {years}. Treatments cannot be told apart from something else there."


def _unpriced(views: list[TrialView]) -> str:
    years = ", ".join(label for label, _ in _labels(views).values())
    return f"No price stands above its costs in {years}: what is not priced is not in the money."


def _refused(views: list[TrialView]) -> str:
    if len(views) < 2:
        return ONE_YEAR
    if any(view.design.split for view in views):
        return SPLIT_WORDS
    return ""


def _ground(view: TrialView) -> tuple[object, tuple[tuple[int, str], ...]]:
    """Field and treatment of every strip in field order: the same in two trials, the strips are the same."""
    return view.trial.field_id, tuple((strip.order, key_of(strip.treatment)) for strip in view.strips)


def _same_strips(views: list[TrialView]) -> bool:
    """Whether all trials lie on the same strips.

    Raises
    ------
    Refusal : ``not_for_design`` when some of them do and others do not.
    """
    grounds = [_ground(view) for view in views if view.trial.field_id is not None]
    repeated_ones = len(grounds) - len(set(grounds))
    if not repeated_ones:
        return False
    if len(grounds) == len(views) and len(set(grounds)) == 1:
        return True
    raise Refusal(
        "not_for_design",
        field="series",
        label="Combining",
        value="this series",
        limit="some trials repeat the same strips",
        remedy="Give the repeated ones a series of their own.",
    )


def key_of(treatment: Treatment) -> str:
    """What makes two treatments of different trials the same: kinds of factors with their amounts or names."""
    return "|".join(_level_key(level) for level in treatment.levels.all())


def _level_key(level: Level) -> str:
    amount = level.amount.value
    return f"{level.factor.kind}:{level.name.strip().lower() if amount is None else f'{amount:.6g}'}"


def _shared(views: list[TrialView]) -> dict[str, str]:
    """Names of treatments that stand in two trials or more, by key, in the order of the newest trial."""
    count: dict[str, int] = {}
    for view in views:
        for treatment in view.treatments:
            count[key_of(treatment)] = count.get(key_of(treatment), 0) + 1
    result = {
        key_of(treatment): treatment_name(treatment, view.show)
        for view in views
        for treatment in view.treatments
        if count[key_of(treatment)] > 1
    }
    if len(result) < 2:
        raise Refusal("not_for_design", field="series", label="Combining", value="this series", limit=UNLIKE)
    return result


def _control(views: list[TrialView], names: dict[str, str]) -> str | None:
    """The control, where it is the same in every trial."""
    controls = {key_of(view.control) if view.control else "" for view in views}
    only = next(iter(controls))
    return only if len(controls) == 1 and only in names else None


def _labels(views: list[TrialView]) -> dict[str, tuple[str, Trial]]:
    """Environment by trial id: place and season."""
    return {
        str(view.trial.id): (
            f"{view.trial.field.name if view.trial.field else view.trial.title} {view.trial.season}",
            view.trial,
        )
        for view in views
    }


def _rows(views: list[TrialView], names: dict[str, str], response: str) -> _Rows:
    rows = _Rows([], [], [], [], [])
    value_of = net_of if response == "net_return" else yield_of
    for view in views:
        for strip in compared_strips(view):
            key, value = key_of(strip.received), value_of(view, strip)
            if key in names and value is not None:
                rows.response.append(value)
                rows.treatment.append(key)
                rows.environment.append(str(view.trial.id))
                rows.block.append("1" if view.design.blocking == "none" else str(strip.block.number))
                rows.strip.append(str(strip.order))
    return rows


def _margin(views: list[TrialView], left: str, right: str, response: str) -> float | None:
    """The difference that matters, averaged over the trials that can say."""
    if response == "net_return":
        margins = [view.trial.net_margin.value for view in views if view.trial.net_margin.value is not None]
        return sum(margins) / len(margins) if margins else None
    result = []
    for view in views:
        by_key = {key_of(treatment): treatment for treatment in view.treatments}
        if left in by_key and right in by_key and view.control is not None and by_key[right].id == view.control.id:
            margin = view.margin_kg_per_ha(by_key[left])
            if margin is not None:
                result.append(margin)
    return sum(result) / len(result) if result else None


def _told(
    base: SeriesOut,
    view: TrialView,
    views: list[TrialView],
    labels: dict[str, tuple[str, Trial]],
    names: dict[str, str],
    control: str | None,
    series: Series,
) -> SeriesOut:
    tell = _teller(view, views, names, control, base.response, years=1)
    base.against = names[control] if control is not None else ""
    base.alone = _alone(series.alone, labels, tell)
    base.combined = tell(series.combined.differences, call=True)
    base.without = [
        SeriesRowOut(label=labels[left.name][0], trial_id=None, n=0, differences=tell(left.differences, call=True), problem="")
        for left in series.without
    ]
    base.held = _held(series, view.trial.alpha)
    base.method = series.combined.method
    unit = "kg/ha" if base.response == "yield" else f"{view.trial.workspace.currency}/ha"
    base.components = [NamedOut(name=name, text=f"{value:.4g} ({unit})²") for name, value in series.combined.components.items()]
    base.remarks += [*series.combined.warnings, *_undrawn(views), *_turned(base)]
    base.sentence = _sentence(base, f"Over {len(views)} site-years")
    return base


class _Teller(Protocol):
    def __call__(self, rows: tuple[CellDifference, ...], *, call: bool) -> list[SeriesDifferenceOut]: ...


def _teller(
    view: TrialView, views: list[TrialView], names: dict[str, str], control: str | None, response: str, *, years: int
) -> _Teller:
    """How differences are told; what matters in a year matters ``years`` times in a total."""
    show, drawn = view.show, all(item.design.drawn for item in views)
    kind = kind_of(response)

    def tell(rows: tuple[CellDifference, ...], *, call: bool) -> list[SeriesDifferenceOut]:
        result = []
        for row in rows:
            margin = _margin(views, row.left, row.right, response)
            own = make_call(row.lower, row.upper, None if margin is None else years * margin) if call and drawn else None
            estimate = shown(row.estimate, kind, show, signed=True)
            assert estimate is not None
            result.append(
                SeriesDifferenceOut(
                    name=names[row.left] if control is not None else f"{names[row.left]} against {names[row.right]}",
                    estimate=estimate,
                    lower=shown(row.lower, kind, show, signed=True),
                    upper=shown(row.upper, kind, show, signed=True),
                    call=own.name if own else None,
                    call_words=CALL_WORDS[own.name] if own else "no call" if call else "",
                )
            )
        return result

    return tell


def _alone(result: tuple[SiteYear, ...], labels: dict[str, tuple[str, Trial]], tell: _Teller) -> list[SeriesRowOut]:
    return [
        SeriesRowOut(
            label=labels[site_year.name][0],
            trial_id=labels[site_year.name][1].id,
            n=site_year.n,
            differences=tell(site_year.differences, call=False),
            problem=site_year.problem,
        )
        for site_year in result
    ]


def _over_the_years(base: SeriesOut, view: TrialView, views: list[TrialView], names: dict[str, str]) -> SeriesOut:
    """Trials on the same strips: totals compared as one trial, each year beside them."""
    rows, labels, control = _rows(views, names, base.response), _labels(views), _control(views, names)
    result = repeated(
        rows.response,
        rows.treatment,
        rows.block,
        rows.strip,
        rows.environment,
        alpha=view.trial.alpha,
        control=control,
        levels=list(names),
    )
    tell = _teller(view, views, names, control, base.response, years=len(views))
    base.against = names[control] if control is not None else ""
    base.alone = _alone(result.alone, labels, tell)
    base.combined = tell(result.total.deciding, call=True)
    base.held = _changed(None if result.changed is None else result.changed.p, view.trial.alpha)
    base.method = f"Total of each strip over {len(views)} years. {result.total.method}"
    base.remarks += [SAME_STRIPS, *_undrawn(views)]
    if result.without_total:
        base.remarks.append(f"Strips {', '.join(result.without_total)} lack a year and have no total.")
    base.sentence = _sentence(base, f"In all of {len(views)} years on the same strips")
    return base


def _changed(p: float | None, alpha: float) -> str:
    if p is None:
        return "Whether the differences changed over the years cannot be tested: too few strips."
    told = f"p {wording.p_text(p)}"
    if p < alpha:
        return f"The differences changed over the years ({told}): look at each year before the total."
    return f"No sign that the differences changed over the years ({told}); no proof that they did not."


def _held(series: Series, alpha: float) -> str:
    p = series.interaction_p
    if p is None:
        return "Whether the differences held everywhere cannot be tested: too few strips in each site-year."
    if p < alpha:
        return f"The differences were not the same everywhere (p {wording.p_text(p)}): look at each site-year before the whole."
    return f"No sign that the differences changed between site-years (p {wording.p_text(p)}); no proof that they did not."


def _undrawn(views: list[TrialView]) -> list[str]:
    return [NOT_DRAWN] if any(not view.design.drawn for view in views) else []


def _turned(base: SeriesOut) -> list[str]:
    """Which site-year carries a call on its own."""
    whole = {row.name: row.call for row in base.combined}
    return [
        f"{difference.name}: without {left.label} the call would be “{difference.call_words}”. One site-year decides it."
        for left in base.without
        for difference in left.differences
        if difference.call != whole.get(difference.name)
    ]


def _sentence(base: SeriesOut, over: str) -> str:
    level = format_number(base.level_pct, 0)
    told = []
    for row in base.combined:
        against = f" against {base.against}" if base.against else ""
        interval = f"{row.lower.text} to {row.upper.text}" if row.lower and row.upper else ""
        told.append(f"{row.name}{against}: {row.estimate.text} ({level} % interval {interval}), {row.call_words}.")
    return f"{over}. " + " ".join(told)
