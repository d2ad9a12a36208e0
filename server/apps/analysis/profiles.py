"""The course of a trait over its visits, and treatments compared in the mean level of each strip."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date
from uuid import UUID

from cultrix_core.season.profile import LEAST_VISITS, mean_level
from cultrix_core.stats.repeated import changes_over
from cultrix_core.writing import written_days, written_strips

from apps.analysis.strip_means import compared, standing_strips, treatment_values, words_of
from apps.base.formatting import shown
from apps.field.season.schemas import ProfileOut, ProfilePointOut, ProfileValueOut
from apps.trial_state.view import TrialView

Visit = tuple[date, Mapping[UUID, float]]


def profile_of(view: TrialView, every: Sequence[Visit], kind: str, *, decimals: int | None) -> ProfileOut | None:
    """The course of a trait over its visits, and treatments compared in the mean level of each strip; None with one visit.

    A visit to only some of the strips is drawn and left out of the mean level; strips that lack another have none. Both are
    named.
    """
    standing = {strip.id: strip for strip in standing_strips(view)}
    visits = [(day, {key: value for key, value in of.items() if key in standing}) for day, of in every]
    visits = [(day, of) for day, of in visits if of]
    if len(visits) < LEAST_VISITS:
        return None
    most = max(len(of) for _, of in visits)
    full = [(day, of) for day, of in visits if len(of) == most]
    if len(full) < LEAST_VISITS:
        full = visits
    whole = [key for key in standing if all(key in of for _, of in full)]
    start = full[0][0]
    days = [(day - start).days for day, _ in full]
    levels = {key: mean_level(days, [of[key] for _, of in full]) for key in whole}
    comparison = compared(view, levels)
    lacking = sorted(standing[key].order for key in standing if key not in levels and any(key in of for _, of in visits))
    words = f"Mean level from {written_days([full[0][0], full[-1][0]])}: the area under each strip's course over its days."
    return ProfileOut(
        points=[_profile_point(view, day, of, kind, decimals) for day, of in visits],
        level=treatment_values(view, levels, comparison, kind, decimals=decimals),
        changed=_changed_words(view, full, whole) if comparison is not None and comparison.replicated else "",
        words=f"{words} {words_of(view, comparison)}",
        left_out=[
            *([f"{written_strips(lacking).capitalize()}: not at every visit, so without a mean level."] if lacking else []),
            *(
                f"{written_days([day], year=False)}: {len(of)} of {most} strips, so not in the mean level."
                for day, of in visits
                if len(full) < len(visits) and len(of) < most
            ),
        ],
    )


def _profile_point(view: TrialView, day: date, of: Mapping[UUID, float], kind: str, decimals: int | None) -> ProfilePointOut:
    comparison = compared(view, of)
    means = {item.level: item for item in comparison.means} if comparison else {}
    values = []
    for treatment in view.treatments:
        own = [of[strip.id] for strip in standing_strips(view) if strip.received.id == treatment.id and strip.id in of]
        mean = means.get(str(treatment.id))
        middle = mean.mean if mean else sum(own) / len(own) if own else None
        lower, upper = (mean.lower, mean.upper) if mean else (None, None)
        told = (shown(value, kind, view.show, decimals=decimals) for value in (middle, lower, upper))
        values.append(ProfileValueOut(treatment_id=treatment.id, **dict(zip(("mean", "lower", "upper"), told, strict=True))))
    return ProfilePointOut(day=day, values=values)


def _changed_words(view: TrialView, visits: Sequence[tuple[date, Mapping[UUID, float]]], whole: Sequence[UUID]) -> str:
    """Whether the differences change from date to date, by the test with strips random."""
    strips = [strip for strip in standing_strips(view) if strip.id in whole]
    rows = [(strip, str(place), of[strip.id]) for place, (_, of) in enumerate(visits) for strip in strips]
    test = changes_over(
        [value for _, _, value in rows],
        [str(strip.received.id) for strip, _, _ in rows],
        [str(strip.block.number) for strip, _, _ in rows],
        [str(strip.order) for strip, _, _ in rows],
        [place for _, place, _ in rows],
    )
    if test is None:
        return "Whether differences change from date to date cannot be tested here."
    shown_p = "p < 0.0001" if test.p < 0.0001 else f"p {test.p:.4f}"
    told = "change" if test.p < view.trial.alpha else "are not shown to change"
    return f"Differences {told} from date to date ({shown_p}; the dates are of the same strips, which the test knows)."
