"""The stand stage as the API carries it: visits, counts and precision by strip, places drawn, means by treatment."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from datetime import UTC, date, datetime, time, timedelta
from typing import Any, cast
from uuid import UUID

from cultrix_core.stand.places import Place, paces
from cultrix_core.stand.precision import LEVEL_ALPHA, WANTED_SHARE, precision_working, running_precision
from cultrix_core.stand.row_lengths import (
    count_in_quadrat,
    count_on_rows,
    count_working,
    hoop_area,
    share_of_seed_pct,
    tape_working,
    thousandth_length,
)
from cultrix_core.stand.summary import treatment_stand, treatment_stand_working
from cultrix_core.stand.visits import far_off, likely_meant, visits_of_days
from cultrix_core.units import find_unit
from cultrix_core.writing import written_day, written_strips

from apps.base.formatting import QuestionOut, shown, shown_value, working_out
from apps.base.quantities import TypedOut, out
from apps.field.harvest.models import HarvestLoad
from apps.field.queries import Counted, counted_by_day
from apps.field.stand import models
from apps.field.stand.models import StandCount
from apps.field.stand.sampling import plans_of
from apps.field.stand.schemas import (
    DensityUnitOut,
    PlaceOut,
    PrecisionOut,
    SamplingPlanOut,
    StandCountOut,
    StandOut,
    StepToOut,
    StripStandOut,
    TapeOut,
    TreatmentStandOut,
    VisitOut,
)
from apps.field.visits.models import JoinedVisit
from apps.field.visits.queries import day_of, joined_of, other_visits, visits_of
from apps.field.visits.schemas import JoinedVisitOut
from apps.trial_state.sampling_places import DrawnPlan, drawn
from apps.trial_state.view import TrialView
from apps.trials.models import Strip, Treatment
from apps.trials.naming import treatment_name

MOST_ALONG = 240  # counts that come with the page of their visit; of more, those of a strip are asked for
FEW_OF_THE_SEED = 0.35  # below the poorest emergence usually seen: common practice, no source


def stand_out(view: TrialView, visit: int | None = None) -> StandOut:
    """The stand at one visit (from 1; the latest when None): counts and precision by strip, places, means by treatment."""
    by_day = counted_by_day(view.trial)
    joined = joined_of(view.trial, "count")
    visits = visits_of_days(by_day, [(item.first_on, item.last_on) for item in joined])
    chosen = len(visits) if visit is None or not 1 <= visit <= len(visits) else visit
    days = visits[chosen - 1] if visits else ()
    by_strip: dict[UUID, list[Counted]] = {}
    for count in (count for day in days for count in by_day[day]):
        by_strip.setdefault(count.strip_id, []).append(count)
    along = sum(map(len, by_strip.values())) <= MOST_ALONG
    single = _single_counts(view, days) if along else {}
    plans = plans_of(view.trial)
    plan = drawn(view, plans[-1]) if plans else None
    unit = find_unit("areal_density", view.show.unit_code("density"))
    return StandOut(
        level_pct=100 * (1 - LEVEL_ALPHA),
        wanted_pct=100 * WANTED_SHARE,
        density_unit=DensityUnitOut(label=unit.label, factor=unit.factor, decimals=view.show.decimals("density")),
        tapes=_tapes(view),
        visits=[_visit_out(view, number, of, by_day, joined) for number, of in enumerate(visits, start=1)],
        visit=chosen or None,
        left_out=_left_out(view, by_day, days),
        plan=None if plan is None else plan_out(view, plan),
        counts_along=along,
        strips=[_strip_stand(view, strip, by_strip.get(strip.id, []), plan, single.get(strip.id, [])) for strip in view.strips],
        treatments=[_treatment_stand(view, treatment, by_strip) for treatment in view.treatments],
    )


def joined_out(joined: JoinedVisit) -> JoinedVisitOut:
    """Joined days for the API."""
    return JoinedVisitOut(
        id=joined.id,
        version=joined.version,
        task=cast(Any, joined.task),
        first_on=joined.first_on,
        last_on=joined.last_on,
        note=joined.note,
        recorded_at=joined.recorded_at,
        recorded_by=joined.recorded_by.get_full_name(),
    )


def _harvest_days(view: TrialView) -> dict[UUID, date]:
    """The first day each strip was harvested on."""
    days: dict[UUID, date] = {}
    loads = HarvestLoad.objects.filter(strip__trial=view.trial, voided=False)
    for strip_id, recorded_at in loads.values_list("strip_id", "recorded_at"):
        days[strip_id] = min(days.get(strip_id, recorded_at.date()), recorded_at.date())
    return days


def _single_counts(view: TrialView, days: Sequence[date], strip_id: UUID | None = None) -> dict[UUID, list[StandCountOut]]:
    """The counts made on these days by strip, each with its questions; those of one strip with their working as well."""
    if not days:
        return {}
    first, past = (datetime.combine(day, time(), UTC) for day in (min(days), max(days) + timedelta(days=1)))
    standing = StandCount.objects.filter(strip__trial=view.trial, voided=False, recorded_at__gte=first, recorded_at__lt=past)
    if strip_id is not None:
        standing = standing.filter(strip_id=strip_id)
    worked = strip_id is not None
    by_strip: dict[UUID, list[StandCount]] = {}
    for count in standing.select_related("recorded_by"):
        if day_of(count) in days:
            by_strip.setdefault(count.strip_id, []).append(count)
    harvested = _harvest_days(view)
    seeds = {strip.id: view.seeds_per_m2(strip.received) for strip in view.strips}
    return {
        key: [count_out(view, count, seeds[key], of, harvested.get(key), worked=worked) for count in of]
        for key, of in by_strip.items()
    }


def counts_out(view: TrialView, strip_id: UUID, visit: int | None) -> list[StandCountOut]:
    """The counts of one strip at a visit (from 1; the latest when None)."""
    visits = visits_of(view.trial, "count", counted_by_day(view.trial))
    if not visits or (visit is not None and not 1 <= visit <= len(visits)):
        return []
    return _single_counts(view, visits[(visit or len(visits)) - 1], strip_id).get(strip_id, [])


def _left_out(view: TrialView, by_day: Mapping[date, Sequence[Counted]], days: Sequence[date]) -> list[str]:
    """Counts that the table of a visit leaves out, with the reason."""
    told = []
    counted = {(count.strip_id, day) for day, counts in by_day.items() for count in counts}
    orders = {strip.id: strip.order for strip in view.strips if not strip.lost}
    if days:
        standing = ((orders[strip_id], day) for strip_id, day in counted if strip_id in orders)
        told += other_visits(standing, tuple(days), verb="counted")
    strips = {strip_id for strip_id, _ in counted}
    lost = {strip.order for strip in view.strips if strip.lost and strip.id in strips}
    if lost:
        told.append(f"{written_strips(lost).capitalize()}: counted, but lost since; shown by strip, not in the means.")
    return told + before_sowing(view, counted)


def before_sowing(view: TrialView, counted: Iterable[tuple[UUID, date]]) -> list[str]:
    """Counts made before their strip was sown, by its records: no age, so no part of a curve. ``counted``: strip and day."""
    early: dict[date, set[int]] = {}
    orders = {strip.id: strip.order for strip in view.strips}
    for strip_id, day in counted:
        sown = view.records[strip_id].sown_on
        if sown is not None and day < sown:
            early.setdefault(day, set()).add(orders[strip_id])
    return [
        f"{written_strips(numbers).capitalize()}: counted on {written_day(day, year=False)}, before the sowing that is "
        "recorded. Shown here; left out of emergence. Is the day of sowing right?"
        for day, numbers in sorted(early.items())
    ]


def _visit_out(
    view: TrialView,
    number: int,
    days: Sequence[date],
    by_day: Mapping[date, Sequence[Counted]],
    joined: Sequence[JoinedVisit],
) -> VisitOut:
    of = [count for day in days for count in by_day[day]]
    sown = ((day, view.records[strip_id].sown_on) for strip_id, day in {(count.strip_id, day_of(count)) for count in of})
    ages = [(day - on).days for day, on in sown if on is not None]
    span = next((item for item in joined if item.first_on <= days[0] <= item.last_on), None)
    return VisitOut(
        number=number,
        first=days[0],
        last=days[-1],
        days_from_sowing=min(ages, default=None),
        days_from_sowing_most=max(ages, default=None),
        joined=None if span is None else joined_out(span),
        strips=len({count.strip_id for count in of}),
        counts=len(of),
        by_eye=sum(1 for count in of if count.by_eye),
    )


def plan_out(view: TrialView, plan: DrawnPlan) -> SamplingPlanOut:
    """A plan with the walk along its places."""
    by_order = {strip.order: strip.id for strip in view.strips}
    sampling_plan, show = plan.plan, view.show
    return SamplingPlanOut(
        id=sampling_plan.id,
        version=sampling_plan.version,
        number=sampling_plan.number,
        name=sampling_plan.name,
        planned=sampling_plan.planned,
        reserve=sampling_plan.reserve,
        framed=sampling_plan.framed,
        rows=sampling_plan.rows,
        edge_rows=sampling_plan.edge_rows,
        wheel_rows=sampling_plan.wheel_rows,
        wanted=out(sampling_plan, models.WANTED, show),
        sample=out(sampling_plan, models.SAMPLE, show),
        end=out(sampling_plan, models.END, show),
        walk=[StepToOut(strip_id=by_order[order], place=number) for order, number in plan.walk.order],
        walked=show.text(plan.walk.walked_m, "strip_length"),
        from_stakes=show.text(plan.walk.from_stake_m, "strip_length"),
        problems=list(plan.problems),
        recorded_by=sampling_plan.recorded_by.get_full_name(),
    )


def place_out(view: TrialView, place: Place) -> PlaceOut:
    """A place with its whereabouts in words."""
    along = view.show.text(place.along_m, "strip_length")
    where = (
        f"row {place.row}" if place.row is not None else f"{view.show.text(place.across_m, 'strip_length')} from the left edge"
    )
    return PlaceOut(
        number=place.number,
        row=place.row,
        along_m=place.along_m,
        across_m=place.across_m,
        extra=place.extra,
        words=f"{where}, {along} from the stake ({paces(place.along_m)} paces)",
    )


def _tapes(view: TrialView) -> list[TapeOut]:
    spacings = sorted({spacing for treatment in view.treatments if (spacing := view.row_spacing_m(treatment))})
    tapes = []
    for spacing, (rows, share) in ((value, way) for value in spacings for way in _ways_to_count(value)):
        tape = thousandth_length(spacing, system=view.show.system, rows=rows, share=share)
        tapes.append(
            TapeOut(
                row_spacing=view.show.text(spacing, "row_spacing"),
                rows=rows,
                share=tape.share_text,
                exact=view.show.text(tape.exact_m, "row_length"),
                tape=tape.tape_text,
                tape_m=tape.tape_m,
                working=working_out(tape_working(tape, spacing, view.show)),
            )
        )
    return tapes


def _ways_to_count(spacing_m: float) -> list[tuple[int, float]]:
    """Rows at once and share of an acre or hectare, the handiest first (common practice, no source)."""
    if spacing_m >= 0.3:
        return [(1, 1 / 1000)] if spacing_m >= 0.5 else [(2, 1 / 1000), (1, 1 / 1000)]
    return [(4, 1 / 10_000), (1, 1 / 1000)]


def _strip_stand(
    view: TrialView, strip: Strip, counts: list[Counted], plan: DrawnPlan | None, single: list[StandCountOut]
) -> StripStandOut:
    seeds = view.seeds_per_m2(strip.received)
    live = _live_per_m2(view, strip.received)
    places = [] if plan is None else plan.places.get(strip.id, ())
    precision = running_precision([count.plants_per_m2 for count in counts]) if counts else None
    spacing = spacing_of(view, strip)
    return StripStandOut(
        strip_id=strip.id,
        seeds_per_m2=seeds,
        row_spacing=spacing,
        places=[place_out(view, place) for place in places],
        live_share_pct=share_of_seed_pct(precision.mean, live) if precision and live else None,
        share_pct=share_of_seed_pct(precision.mean, seeds) if precision and seeds else None,
        number=len(counts),
        counts=single,
        counted_places=sorted({item.place for item in counts if plan and item.plan_id == plan.plan.id and item.place}),
        precision=None
        if precision is None
        else PrecisionOut(
            n=precision.n,
            mean=shown_value(precision.mean, "density", view.show),
            half_width=shown(precision.half_width, "density", view.show),
            share_pct=None if precision.half_width_share is None else 100 * precision.half_width_share,
            needed=precision.needed,
            more=precision.more,
            working=working_out(precision_working(precision, view.show, seeds_per_m2=seeds)),
        ),
    )


def spacing_of(view: TrialView, strip: Strip) -> TypedOut:
    """The row spacing a count on this strip starts from, as it was typed."""
    level = view.level_of(strip.received, "row_spacing")
    if level is not None:
        return TypedOut(
            text=level.amount.text, unit=level.amount.unit, shown=view.show.text(level.amount.value or 0, "row_spacing")
        )
    trial = view.trial
    text = None if trial.row_spacing.value is None else view.show.text(trial.row_spacing.value, "row_spacing")
    return TypedOut(text=trial.row_spacing.text, unit=trial.row_spacing.unit, shown=text)


def _live_per_m2(view: TrialView, treatment: Treatment) -> float | None:
    """Live seeds sown per m², None without a germination test."""
    seeds, values = view.seeds_per_m2(treatment), view.lot_values(treatment)
    if seeds is None or values is None or values.live_frac is None:
        return None
    return seeds * values.live_frac


def count_out(
    view: TrialView,
    count: StandCount,
    seeds: float | None,
    others: Sequence[StandCount] = (),
    harvested: date | None = None,
    *,
    worked: bool = True,
) -> StandCountOut:
    """One count with its working and the questions it raises; ``others`` are those of its strip and visit."""
    show = view.show
    if count.method == "rows":
        rows = count.rows or 1
        area = count_on_rows(
            count.plants, length_m=count.length.value or 0, rows=rows, row_spacing_m=count.row_spacing.value or 0
        )
        how = (
            f"{show.text(count.length.value or 0, 'tape_length')} × {rows} row{'s' if rows != 1 else ''} × "
            f"{show.text(count.row_spacing.value or 0, 'row_spacing')}"
        )
    elif count.method == "hoop":
        area = count_in_quadrat(count.plants, area_m2=hoop_area(count.diameter.value or 0))
        how = f"π ÷ 4 × ({show.text(count.diameter.value or 0, 'tape_length')})²"
    else:
        area = count_in_quadrat(count.plants, area_m2=count.area.value or 0)
        how = show.text(count.area.value or 0, "sample_area")
    return StandCountOut(
        id=count.id,
        strip_id=count.strip_id,
        version=count.version,
        method=cast(Any, count.method),
        plants=count.plants,
        rows=count.rows,
        length=out(count, models.COUNT_LENGTH, show),
        row_spacing=out(count, models.COUNT_ROW_SPACING, show),
        area=out(count, models.COUNT_AREA, show),
        diameter=out(count, models.HOOP, show),
        gaps=count.gaps,
        doubles=count.doubles,
        plan_id=count.plan_id,
        place=count.place,
        by_eye=count.by_eye,
        opener=count.opener,
        plants_per_m2=count.plants_per_m2,
        stand=shown_value(count.plants_per_m2, "density", view.show),
        share_pct=share_of_seed_pct(count.plants_per_m2, seeds) if seeds else None,
        working=working_out(count_working(area, how, show, seeds_per_m2=seeds, row_m=_row_m(count))) if worked else None,
        questions=[*_slips(count, others, harvested), *_count_questions(view, count, seeds)],
        recorded_at=count.recorded_at,
        clock_shift_s=count.clock_shift_s,
        recorded_by=count.recorded_by.get_full_name(),
    )


def _slips(count: StandCount, others: Sequence[StandCount], harvested: date | None) -> list[QuestionOut]:
    """Slips of thumb and memory: a digit too many, the same place twice, a count after harvest."""
    questions = []
    like = [other for other in others if other.id != count.id and other.method == count.method and _size(other) == _size(count)]
    plants = [stand_count.plants for stand_count in like]
    if far_off(count.plants, plants):
        meant = likely_meant(count.plants, plants)
        rest = ", ".join(str(number) for number in plants[:4])
        text = f"{count.plants} beside {rest} on this strip." + (f" Was it {meant}?" if meant else " Is it right?")
        questions.append(QuestionOut(code="far_off", field="plants", text=text))
    if count.place is not None and any(
        stand_count.place == count.place and stand_count.plan_id == count.plan_id for stand_count in like
    ):
        text = f"Place {count.place} was counted twice at this visit. Is one of them another strip's?"
        questions.append(QuestionOut(code="place_twice", field="place", text=text))
    if harvested is not None and count.recorded_at.date() > harvested:
        counted, cut = written_day(count.recorded_at, year=False), written_day(harvested, year=False)
        text = f"Counted on {counted}, after this strip was harvested ({cut}). Right strip, right day?"
        questions.append(QuestionOut(code="after_harvest", field="recorded_at", text=text))
    return questions


def _row_m(count: StandCount) -> float | None:
    """Length of row counted, all rows together."""
    return (count.length.value or 0.0) * (count.rows or 1) if count.method == "rows" else None


def _size(count: StandCount) -> list[float | int | None]:
    return [count.length.value, count.rows, count.row_spacing.value, count.area.value, count.diameter.value]


def _count_questions(view: TrialView, count: StandCount, seeds: float | None) -> list[QuestionOut]:
    questions = []
    text = view.show.text(count.plants_per_m2, "density")
    if seeds and count.plants_per_m2 > 1.2 * seeds:
        questions.append(
            QuestionOut(
                code="more_than_sown",
                field="plants",
                text=f"{text} is more than was sown ({view.show.text(seeds, 'density')}). Right length, right row spacing?",
            )
        )
    if seeds and count.plants_per_m2 < FEW_OF_THE_SEED * seeds:
        questions.append(
            QuestionOut(
                code="few_of_the_seed",
                field="plants",
                text=f"{text} is {share_of_seed_pct(count.plants_per_m2, seeds):.0f} % of the seed sown. "
                "Right length, right number of rows?",
            )
        )
    low, high = view.profile.usual_stand_per_m2
    if not low / 3 <= count.plants_per_m2 <= 1.5 * high:
        questions.append(
            QuestionOut(
                code="odd_stand",
                field="plants",
                text=f"{text} is far from a usual stand of {view.profile.name.lower()} "
                f"({view.show.number(low, 'density')} to {view.show.text(high, 'density')}). Is the count right?",
            )
        )
    return questions


def _treatment_stand(view: TrialView, treatment: Treatment, by_strip: dict[UUID, list[Counted]]) -> TreatmentStandOut:
    strips = [strip for strip in view.strips if strip.received.id == treatment.id and not strip.lost and strip.id in by_strip]
    counts = [[count.plants_per_m2 for count in by_strip[strip.id]] for strip in strips]
    means = [sum(values) / len(values) for values in counts]
    name = treatment_name(treatment, view.show)
    stand = treatment_stand(means, seeds_per_m2=view.seeds_per_m2(treatment)) if means else None
    live = _live_per_m2(view, treatment)
    return TreatmentStandOut(
        treatment_id=treatment.id,
        name=name,
        stand=shown(stand.plants_per_m2, "density", view.show) if stand else None,
        share_pct=stand.share_pct if stand else None,
        live_share_pct=share_of_seed_pct(stand.plants_per_m2, live) if stand and live else None,
        strips=len(strips),
        counts=sum(len(values) for values in counts),
        working=working_out(treatment_stand_working(stand, means, view.show, name=name)) if stand else None,
    )


def beside(view: TrialView, count: StandCount) -> tuple[list[StandCount], date | None]:
    """The counts of the same strip and visit, and the day the strip was harvested."""
    of = list(StandCount.objects.filter(strip_id=count.strip_id, voided=False))
    visits = visits_of(view.trial, "count", (day_of(other) for other in of))
    days = next((visit for visit in visits if day_of(count) in visit), ())
    return [other for other in of if day_of(other) in days], _harvest_days(view).get(count.strip_id)
