"""What is scouted between planting and harvest, as the API carries it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from typing import Any, cast
from uuid import UUID

from cultrix_core.season.own_traits import is_own
from cultrix_core.season.traits import Measured, Rated, measured
from cultrix_core.seeding.rates import row_geometry
from cultrix_core.stand.growth_stage import stage_rule
from cultrix_core.stand.tape import long_gaps, spacings_of, tape_run_working, tapped
from cultrix_core.stand.visits import far_off
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.units import units_of

from apps.analysis.responses import agreements_of, choices_of, summaries_of
from apps.base.formatting import QuestionOut, shown, shown_value, working_out
from apps.base.quantities import TypedOut, out
from apps.field.season import models
from apps.field.season.models import DugPlant, Photo, PlantMeasure, Rating, TapeRun
from apps.field.season.own_traits import measured_in, rated_in
from apps.field.season.schemas import (
    DugPlantOut,
    HistogramOut,
    MeasuredOut,
    PhotoOut,
    PlantMeasureOut,
    RatedOut,
    RatingOut,
    ScoutingOut,
    SpacingsOut,
    StageRuleOut,
    StripScoutingOut,
    TapeRunOut,
)
from apps.field.season.services import positions_m
from apps.pages.stand.output import spacing_of
from apps.trial_state.view import TrialView
from apps.trials.models import Strip


def scouting_out(view: TrialView) -> ScoutingOut:
    """Everything the field book and the Season stage need."""
    of = {model: by_strip(model, view) for model in (TapeRun, DugPlant, PlantMeasure, Rating, Photo)}
    return ScoutingOut(
        measured=[_measured_out(trait, view.show) for trait in measured_in(view.trial.workspace, view.trial.crop)],
        rated=[_rated_out(trait) for trait in rated_in(view.trial.workspace, view.trial.crop)],
        rule=rule_out(view.trial.crop, view.show),
        strips=[
            StripScoutingOut(
                strip_id=strip.id,
                row_spacing=spacing_of(view, strip),
                spacing_wanted=shown(spacing_wanted_m(view, strip), "in_row_spacing", view.show),
                tapes=[tape_out(view, run) for run in of[TapeRun][strip.id]],
                dug=[dug_out(plant) for plant in of[DugPlant][strip.id]],
                measures=[measure_out(view, item, of[PlantMeasure][strip.id]) for item in of[PlantMeasure][strip.id]],
                ratings=[rating_out(one) for one in of[Rating][strip.id]],
                photos=[photo_out(one) for one in of[Photo][strip.id]],
            )
            for strip in view.strips
        ],
        summaries=summaries_of(view),
        agreements=agreements_of(view),
        choices=choices_of(view),
    )


def _rated_out(trait: Rated) -> RatedOut:
    return RatedOut(
        key=trait.key,
        name=trait.name,
        low=trait.low,
        high=trait.high,
        lowest=trait.lowest,
        highest=trait.highest,
        choices=list(trait.choices),
    )


def by_strip(model: Any, view: TrialView) -> dict[UUID, list[Any]]:
    """Standing records of a kind, by strip, in the order they were made."""
    result: dict[UUID, list[Any]] = defaultdict(list)
    for record in model._default_manager.filter(strip__trial=view.trial, voided=False).select_related("recorded_by"):
        result[record.strip_id].append(record)
    return result


def rule_out(crop: str, show: UnitFormatter) -> StageRuleOut | None:
    """The crop's counting rule."""
    rule = stage_rule(crop)
    if rule is None:
        return None
    return StageRuleOut(
        drawing=rule.drawing,
        what=show.words(rule.what),
        counts=[show.words(count) for count in rule.counts],
        counts_not=[show.words(name) for name in rule.counts_not],
    )


def spacing_wanted_m(view: TrialView, strip: Strip) -> float | None:
    """In-row spacing that the strip's rate and row width ask for."""
    rate, width = view.seeds_per_m2(strip.received), view.row_spacing_m(strip.received)
    return row_geometry(row_spacing_m=width, seeds_per_m2=rate).in_row_spacing_m if rate and width else None


def _measured_out(trait: Measured, show: UnitFormatter) -> MeasuredOut:
    plain = trait.by in ("area", "plants") or trait.dimension in ("count", "percent")
    name = show.unit_code(trait.kind)
    units = [] if plain else sorted(units_of(trait.dimension), key=lambda unit: unit.code != name)
    own = [["", show.unit(trait.kind)]] if is_own(trait.key) else []  # a number in the one unit it has
    return MeasuredOut(
        key=trait.key,
        name=trait.name,
        by=trait.by,
        subject=trait.subject,
        hint=show.words(trait.hint),
        unit=show.unit(trait.kind),
        units=own or [[unit.code, unit.label] for unit in units],
        signed=trait.least < 0,
    )


def tape_out(view: TrialView, run: TapeRun) -> TapeRunOut:
    """A tape run with its indices and the gaps it asks about."""
    spacings, questions = _spacings(view, run)
    return TapeRunOut(
        id=run.id,
        strip_id=run.strip_id,
        version=run.version,
        reference=out(run, models.REFERENCE, view.show),
        positions=run.positions,
        positions_unit=run.positions_unit,
        looked_at=run.looked_at,
        marks=run.marks,
        by_eye=run.by_eye,
        spacings=spacings,
        questions=questions,
        recorded_at=run.recorded_at,
        clock_shift_s=run.clock_shift_s,
        recorded_by=run.recorded_by.get_full_name(),
    )


def _spacings(view: TrialView, run: TapeRun) -> tuple[SpacingsOut, list[QuestionOut]]:
    show, reference = view.show, run.reference.value or 0.0
    if run.marks:
        marks = tapped(run.marks, reference_m=reference)
        return SpacingsOut(
            plants=marks.plants,
            mean=None,
            cv_pct=None,
            doubles_pct=100 * marks.doubles_frac,
            skips_pct=100 * marks.skips_frac,
            precision_pct=None,
            missed_pct=100 * marks.skips_frac,
            per_row=shown_value(marks.plants_per_m, "linear_density", show),
            histogram=[],
            working=None,
        ), []
    spacings = spacings_of(positions_m(run), reference_m=reference)
    questions = [
        QuestionOut(
            code="long_gap",
            field="positions",
            text=f"{show.text(spacings.spacings_m[number - 1], 'in_row_spacing')} without a plant after plant {number}: "
            "a real gap, or one overlooked?",
        )
        for number in long_gaps(spacings, run.looked_at)
    ]
    return SpacingsOut(
        plants=spacings.plants,
        mean=shown_value(spacings.mean_m, "in_row_spacing", show),
        cv_pct=_pct(spacings.cv_frac),
        doubles_pct=100 * spacings.doubles_frac,
        skips_pct=100 * spacings.skips_frac,
        precision_pct=_pct(spacings.precision_frac),
        missed_pct=100 * spacings.missed_frac,
        per_row=shown_value(spacings.plants_per_m, "linear_density", show),
        histogram=[
            HistogramOut(low=low, top=None if top == float("inf") else top, number=number)
            for low, top, number in spacings.histogram
        ],
        working=working_out(tape_run_working(spacings, show)),
    ), questions


def _pct(share: float | None) -> float | None:
    return None if share is None else 100 * share


def dug_out(plant: DugPlant) -> DugPlantOut:
    """A dug plant."""
    return DugPlantOut(
        id=plant.id,
        strip_id=plant.strip_id,
        version=plant.version,
        health=cast(Any, plant.health),
        shoots=plant.shoots,
        by_eye=plant.by_eye,
        recorded_at=plant.recorded_at,
        clock_shift_s=plant.clock_shift_s,
        recorded_by=plant.recorded_by.get_full_name(),
    )


def measure_out(view: TrialView, measure: PlantMeasure, others: Sequence[PlantMeasure] = ()) -> PlantMeasureOut:
    """A measured value with what it raises; ``others`` are those of its strip."""
    trait, value = measured(measure.trait), measure.value.value or 0.0
    same = [
        other.value.value or 0.0
        for other in others
        if other.id != measure.id
        and (other.trait, other.subject) == (measure.trait, measure.subject)
        and other.recorded_at.date() == measure.recorded_at.date()
    ]
    questions = []
    text = f"{trait.name} {view.show.text(value, trait.kind)}"
    if far_off(value, same):
        questions.append(QuestionOut(code="far_off", field="value", text=f"{text} is far from the others here. Is it right?"))
    elif trait.usual and not trait.usual[0] <= value <= trait.usual[1]:
        questions.append(QuestionOut(code="odd_value", field="value", text=f"{text} is unusual. Right unit?"))
    return PlantMeasureOut(
        id=measure.id,
        strip_id=measure.strip_id,
        version=measure.version,
        trait=measure.trait,
        subject=measure.subject,
        value=TypedOut(text=measure.value.text, unit=measure.value.unit, shown=view.show.text(value, trait.kind)),
        sample_plants=measure.sample_plants,
        area=out(measure, models.FRAME, view.show),
        by_eye=measure.by_eye,
        shown=shown_value(value, trait.kind, view.show),
        questions=questions,
        recorded_at=measure.recorded_at,
        clock_shift_s=measure.clock_shift_s,
        recorded_by=measure.recorded_by.get_full_name(),
    )


def rating_out(rating: Rating) -> RatingOut:
    """A rating."""
    return RatingOut(
        id=rating.id,
        strip_id=rating.strip_id,
        version=rating.version,
        trait=rating.trait,
        score=rating.score,
        blind=rating.blind,
        note=rating.note,
        recorded_at=rating.recorded_at,
        clock_shift_s=rating.clock_shift_s,
        recorded_by=rating.recorded_by.get_full_name(),
    )


def photo_out(photo: Photo) -> PhotoOut:
    """A photograph's record; the picture has its own address."""
    return PhotoOut(
        id=photo.id,
        strip_id=photo.strip_id,
        version=photo.version,
        caption=photo.caption,
        width=photo.width,
        height=photo.height,
        recorded_at=photo.recorded_at,
        clock_shift_s=photo.clock_shift_s,
        recorded_by=photo.recorded_by.get_full_name(),
    )


def of_strip(view: TrialView, measure: PlantMeasure) -> list[PlantMeasure]:
    """All standing measures of the same strip."""
    return by_strip(PlantMeasure, view)[measure.strip_id]
