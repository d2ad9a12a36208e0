"""Treatments side by side in what was measured and judged: strips are the units, the latest visit of each trait counts."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from uuid import UUID

from cultrix_core.errors import Refusal
from cultrix_core.season.agreement import Agreement, StripPair, agreement_of
from cultrix_core.season.own_traits import is_own
from cultrix_core.season.traits import MEASURED, RATED, Rated, measured, rated
from cultrix_core.stand.visits import Span, visits_of_days
from cultrix_core.stats.compare import Difference
from cultrix_core.unit_formatting import format_number

from apps.analysis.profiles import profile_of
from apps.analysis.strip_means import compared, standing_strips, treatment_values, words_of
from apps.field.queries import counts_of
from apps.field.readings.models import Reading
from apps.field.readings.queries import readings_of
from apps.field.season.models import PlantMeasure, Rating
from apps.field.season.schemas import (
    AgreementOut,
    BothOut,
    ChoiceSummaryOut,
    ChosenOut,
    SummaryOut,
)
from apps.field.visits.queries import other_visits, spans_of
from apps.records.kinds import Kind, kind_of
from apps.trial_state.view import TrialView
from apps.trials.naming import treatment_name


@dataclass(frozen=True, slots=True, kw_only=True)
class TraitVisit:
    """Values of one trait at its latest visit: mean by strip. ``every``: strip and day of every record of it.

    ``visits``: first day and means by strip of all visits, earliest first.
    """

    values: Mapping[UUID, float]
    first: date
    last: date
    number: int
    by_eye: int
    blind: int
    days: tuple[date, ...]
    every: tuple[tuple[UUID, date], ...]
    visits: tuple[tuple[date, Mapping[UUID, float]], ...]


def measured_visits(view: TrialView) -> dict[tuple[str, str], TraitVisit]:
    """The latest visit of every measured trait and subject."""
    groups: dict[tuple[str, str], list[PlantMeasure]] = defaultdict(list)
    spans = spans_of(view.trial, "measure")
    for plant_measure in PlantMeasure.objects.filter(strip__trial=view.trial, voided=False):
        groups[plant_measure.trait, plant_measure.subject].append(plant_measure)
    return {
        key: _visit(
            [
                (measure.strip_id, measure.recorded_at.date(), measure.value.value or 0.0, measure.by_eye, False)
                for measure in group
            ],
            spans,
        )
        for key, group in groups.items()
    }


def rated_visits(view: TrialView) -> dict[str, TraitVisit]:
    """The latest visit of every judged trait."""
    groups: dict[str, list[Rating]] = defaultdict(list)
    spans = spans_of(view.trial, "rating")
    for rating in Rating.objects.filter(strip__trial=view.trial, voided=False):
        groups[rating.trait].append(rating)
    return {
        key: _visit([(item.strip_id, item.recorded_at.date(), float(item.score), False, item.blind) for item in group], spans)
        for key, group in groups.items()
    }


def reading_visits(view: TrialView) -> list[tuple[Kind, str, TraitVisit]]:
    """The latest visit of every kind of reading; those at different depths, or whatever else parts them, each by itself."""
    groups: dict[tuple[str, str], list[Reading]] = defaultdict(list)
    kinds: dict[str, Kind] = {}
    for reading in readings_of(view.trial):
        kind = kind_of(reading)
        kinds[kind.name] = kind
        parted = [entry.quantity for entry in kind.entries if entry.apart]
        at = [view.show.text(getattr(reading, quantity.value_column), quantity.kind) for quantity in parted]
        groups[kind.name, ", ".join(f"at {text}" for text in at)].append(reading)
    visits, spans = [], spans_of(view.trial, "reading")
    for (name, subject), group in sorted(groups.items(), key=lambda item: item[0]):
        column = kinds[name].entries[0].quantity.value_column
        rows = [(item.strip_id, item.recorded_at.date(), getattr(item, column), item.by_eye, False) for item in group]
        visits.append((kinds[name], subject, _visit(rows, spans)))
    return visits


def _visit(rows: Sequence[tuple[UUID, date, float, bool, bool]], spans: Sequence[Span]) -> TraitVisit:
    every = visits_of_days((day for _, day, _, _, _ in rows), spans)
    visits = tuple((days[0], _means_of(row for row in rows if row[1] in days)) for days in every)
    days = every[-1]
    latest = [row for row in rows if row[1] in days]
    return TraitVisit(
        values=visits[-1][1],
        visits=visits,
        first=days[0],
        last=days[-1],
        number=len(latest),
        by_eye=sum(1 for row in latest if row[3]),
        blind=sum(1 for row in latest if row[4]),
        days=days,
        every=tuple((strip_id, day) for strip_id, day, _, _, _ in rows),
    )


def _means_of(rows: Iterable[tuple[UUID, date, float, bool, bool]]) -> dict[UUID, float]:
    by_strip: dict[UUID, list[float]] = defaultdict(list)
    for strip_id, _, value, _, _ in rows:
        by_strip[strip_id].append(value)
    return {strip_id: sum(values) / len(values) for strip_id, values in by_strip.items()}


def _left_out(view: TrialView, visit: TraitVisit, verb: str) -> list[str]:
    orders = {strip.id: strip.order for strip in standing_strips(view)}
    return other_visits(((orders[key], day) for key, day in visit.every if key in orders), visit.days, verb=verb)


def summaries_of(view: TrialView) -> list[SummaryOut]:
    """Every trait by treatment: measured first, judged after."""
    visits = measured_visits(view)
    order = {trait.key: place for place, trait in enumerate(MEASURED)}
    summaries = [
        _summary(view, trait, measured(trait).name, subject, visits[trait, subject], measured(trait).kind)
        for trait, subject in sorted(visits, key=lambda key: (order.get(key[0], len(order)), *key))
    ]
    judged = rated_visits(view)
    own = [rated(key) for key in sorted(judged) if is_own(key)]
    scales = [item for item in (*RATED, *own) if item.key in judged and not item.choices]
    return summaries + [_summary(view, item.key, item.name, "", judged[item.key], None) for item in scales]


def choices_of(view: TrialView) -> list[ChoiceSummaryOut]:
    """Words chosen at the latest visit of each trait, counted by treatment; a strip judged again counts by its last word."""
    summaries = []
    for key, visit in sorted(rated_visits(view).items()):
        trait = rated(key)
        if not trait.choices:
            continue
        last = {
            rating.strip_id: rating.score
            for rating in Rating.objects.filter(strip__trial=view.trial, voided=False, trait=key).order_by("recorded_at")
            if rating.recorded_at.date() in visit.days
        }
        strips = [strip for strip in standing_strips(view) if strip.id in last]
        by_treatment = {
            treatment.id: [last[strip.id] for strip in strips if strip.received.id == treatment.id]
            for treatment in view.treatments
        }
        summaries.append(
            ChoiceSummaryOut(
                trait=key,
                name=trait.name,
                choices=list(trait.choices),
                on=visit.last,
                treatments=[
                    ChosenOut(
                        treatment_id=treatment_id,
                        strips=[scores.count(number) for number in range(1, len(trait.choices) + 1)],
                    )
                    for treatment_id, scores in by_treatment.items()
                ],
            )
        )
    return summaries


def reading_summaries_of(view: TrialView) -> list[SummaryOut]:
    """Every kind of reading by treatment."""
    return [
        _summary(view, kind.name, kind.words, subject, visit, kind.entries[0].quantity.kind)
        for kind, subject, visit in reading_visits(view)
    ]


def _summary(view: TrialView, trait: str, name: str, subject: str, visit: TraitVisit, kind: str | None) -> SummaryOut:
    comparison = compared(view, visit.values)
    return SummaryOut(
        trait=trait,
        name=name,
        subject=subject,
        judged=kind is None,
        blind=visit.blind,
        first=visit.first,
        last=visit.last,
        values=visit.number,
        by_eye=visit.by_eye,
        treatments=treatment_values(view, visit.values, comparison, kind or "count", decimals=1 if kind is None else None),
        words=words_of(view, comparison),
        left_out=_left_out(view, visit, "rated" if kind is None else "measured"),
        profile=profile_of(view, visit.visits, kind or "count", decimals=1 if kind is None else None),
    )


def agreements_of(view: TrialView) -> list[AgreementOut]:
    """Every rating that has a measurement of the same strips beside it."""
    if view.control is None or view.design.split:
        return []
    judged = rated_visits(view)
    if not judged:
        return []
    counted = measured_visits(view)
    agreements = []
    for trait in (item for item in RATED if item.key in judged and item.against):
        for name, kind, up, visit in _against(view, trait, counted):
            agreement = _agreement(view, trait, judged[trait.key], visit, up)
            if agreement is not None:
                agreements.append(_agreement_out(view, trait, name, kind, judged[trait.key], visit, agreement))
    return agreements


def _against(
    view: TrialView, trait: Rated, counted: Mapping[tuple[str, str], TraitVisit]
) -> list[tuple[str, str, bool, TraitVisit]]:
    """What a rating can be held against: (name, kind, whether more is better, visit)."""
    if trait.against == "stand":
        counts = counts_of(view.trial)
        rows = [(count.strip_id, count.recorded_at.date(), count.plants_per_m2, count.by_eye, False) for count in counts]
        spans = spans_of(view.trial, "count")
        return [("Stand counted", "density", True, _visit(rows, spans))] if rows else []
    return [
        (
            f"{measured(key).name}{', ' + subject if subject else ''}",
            measured(key).kind,
            measured(key).more_is_better is not False,
            visit,
        )
        for (key, subject), visit in counted.items()
        if key == trait.against
    ]


def _agreement(view: TrialView, trait: Rated, eye: TraitVisit, count: TraitVisit, up: bool) -> Agreement | None:
    assert view.control is not None
    pairs = [
        StripPair(
            treatment=str(strip.received.id),
            block=str(strip.block.number),
            row=str(strip.row),
            rating=eye.values[strip.id],
            measured=count.values[strip.id],
        )
        for strip in standing_strips(view)
        if strip.id in eye.values and strip.id in count.values
    ]
    names = {str(treatment.id): f"{treatment.letter}, {treatment_name(treatment, view.show)}" for treatment in view.treatments}
    try:
        return agreement_of(
            pairs,
            design=view.design.family,
            control=str(view.control.id),
            rating_up=rated(trait.key).more_is_better is not False,
            measured_up=up,
            alpha=view.trial.alpha,
            names=names,
        )
    except Refusal:
        return None


def _agreement_out(
    view: TrialView, trait: Rated, name: str, kind: str, eye: TraitVisit, count: TraitVisit, agreement: Agreement
) -> AgreementOut:
    def interval(difference: Difference, kind: str | None) -> str:
        values = (difference.estimate, difference.lower or 0.0, difference.upper or 0.0)
        if kind is None:
            text = [format_number(value, 1, signed=True) for value in values]
            return f"{text[0]} ({text[1]} to {text[2]})"
        return (
            f"{view.show.text(values[0], kind, signed=True)} ({view.show.text(values[1], kind, signed=True)} to "
            f"{view.show.text(values[2], kind, signed=True)})"
        )

    return AgreementOut(
        rating=trait.name,
        measured=name,
        rated_on=eye.last,
        measured_on=count.last,
        blind=eye.blind == eye.number,
        words=agreement.words,
        both=[
            BothOut(
                treatment_id=UUID(pair.treatment),
                eye=pair.eye,
                count=pair.count,
                agree=pair.agree,
                words=pair.words,
                eye_text=interval(pair.eye_difference, None),
                count_text=interval(pair.count_difference, kind),
            )
            for pair in agreement.both
        ],
    )
