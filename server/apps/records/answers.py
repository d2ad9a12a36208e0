"""Stand, harvest and season as the API carries them."""

from __future__ import annotations

from typing import Any, cast

from cultrix_core.harvest.loads import loads_working, questions_on_load, strip_yield, yield_working
from cultrix_core.stand.precision import LEVEL_ALPHA, WANTED_SHARE, precision_working, running_precision
from cultrix_core.stand.row_lengths import (
    count_in_quadrat,
    count_on_rows,
    count_working,
    share_of_seed_pct,
    tape_working,
    thousandth_length,
)
from cultrix_core.stand.summary import treatment_stand, treatment_stand_working
from cultrix_core.units import find_unit

from apps.quantities import TypedOut, out
from apps.records import models
from apps.records.models import FieldEvent, HarvestLoad, StandCount
from apps.records.schemas import (
    DensityUnitOut,
    FieldEventOut,
    HarvestLoadOut,
    HarvestOut,
    PrecisionOut,
    StandCountOut,
    StandOut,
    StripHarvestOut,
    StripStandOut,
    TapeOut,
    TreatmentStandOut,
)
from apps.records.selectors import counts_of, loads_of, shares_of
from apps.shown import QuestionOut, ShownOut, shown, working_out
from apps.trials.models import Strip
from apps.trials.naming import treatment_name
from apps.trials.selectors import TrialView

FEW_OF_THE_SEED = 0.35  # below the poorest emergence usually seen: common practice, no source


def _must(value: float, kind: str, view: TrialView) -> ShownOut:
    result = shown(value, kind, view.show)
    assert result is not None
    return result


def stand_out(view: TrialView) -> StandOut:
    """The stand stage: counts and precision by strip, tape lengths, means by treatment."""
    by_strip: dict[object, list[StandCount]] = {}
    for count in counts_of(view.trial):
        by_strip.setdefault(count.strip_id, []).append(count)
    unit = find_unit("areal_density", view.show.unit_code("density"))
    return StandOut(
        level_pct=100 * (1 - LEVEL_ALPHA),
        wanted_pct=100 * WANTED_SHARE,
        density_unit=DensityUnitOut(label=unit.label, factor=unit.factor, decimals=view.show.decimals("density")),
        tapes=_tapes(view),
        strips=[_strip_stand(view, strip, by_strip.get(strip.id, [])) for strip in view.strips],
        treatments=_treatment_stands(view),
    )


def _tapes(view: TrialView) -> list[TapeOut]:
    spacings = sorted({spacing for treatment in view.treatments if (spacing := view.row_spacing_m(treatment))})
    tapes = []
    for spacing, (rows, share) in ((one, way) for one in spacings for way in _ways_to_count(one)):
        tape = thousandth_length(spacing, system=view.show.system, rows=rows, share=share)
        tapes.append(
            TapeOut(
                row_spacing=view.show.text(spacing, "row_spacing"),
                rows=rows,
                share=tape.share_text,
                exact=view.show.text(tape.exact_m, "tape_length"),
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


def _strip_stand(view: TrialView, strip: Strip, counts: list[StandCount]) -> StripStandOut:
    seeds = view.seeds_per_m2(strip.received)
    precision = running_precision([count.plants_per_m2 for count in counts]) if counts else None
    spacing = _spacing(view, strip)
    return StripStandOut(
        strip_id=strip.id,
        seeds_per_m2=seeds,
        row_spacing=spacing,
        share_pct=share_of_seed_pct(precision.mean, seeds) if precision and seeds else None,
        counts=[count_out(view, count, seeds) for count in counts],
        precision=None
        if precision is None
        else PrecisionOut(
            n=precision.n,
            mean=_must(precision.mean, "density", view),
            half_width=shown(precision.half_width, "density", view.show),
            share_pct=None if precision.half_width_share is None else 100 * precision.half_width_share,
            needed=precision.needed,
            more=precision.more,
            working=working_out(precision_working(precision, view.show, seeds_per_m2=seeds)),
        ),
    )


def _spacing(view: TrialView, strip: Strip) -> TypedOut:
    """The row spacing a count on this strip starts from, as it was typed."""
    level = view.level_of(strip.received, "row_spacing")
    if level is not None:
        return TypedOut(
            text=level.amount_typed, unit=level.amount_unit, shown=view.show.text(level.amount_canonical or 0, "row_spacing")
        )
    trial = view.trial
    text = None if trial.row_spacing_m is None else view.show.text(trial.row_spacing_m, "row_spacing")
    return TypedOut(text=trial.row_spacing_typed, unit=trial.row_spacing_unit, shown=text)


def count_out(view: TrialView, count: StandCount, seeds: float | None) -> StandCountOut:
    """One count with its working and the questions it raises."""
    show = view.show
    if count.method == "rows":
        rows = count.rows or 1
        area = count_on_rows(count.plants, length_m=count.length_m or 0, rows=rows, row_spacing_m=count.row_spacing_m or 0)
        how = (
            f"{show.text(count.length_m or 0, 'tape_length')} × {rows} row{'s' if rows != 1 else ''} × "
            f"{show.text(count.row_spacing_m or 0, 'row_spacing')}"
        )
    else:
        area = count_in_quadrat(count.plants, area_m2=count.area_m2 or 0)
        how = show.text(count.area_m2 or 0, "sample_area")
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
        by_eye=count.by_eye,
        plants_per_m2=count.plants_per_m2,
        stand=_must(count.plants_per_m2, "density", view),
        share_pct=share_of_seed_pct(count.plants_per_m2, seeds) if seeds else None,
        working=working_out(count_working(area, how, show, seeds_per_m2=seeds)),
        questions=_count_questions(view, count, seeds),
        recorded_at=count.recorded_at,
        recorded_by=count.recorded_by.get_full_name(),
    )


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


def _treatment_stands(view: TrialView) -> list[TreatmentStandOut]:
    answers = []
    for treatment in view.treatments:
        strips = [strip for strip in view.strips if strip.received.id == treatment.id and not strip.lost]
        means = [mean for strip in strips if (mean := view.records[strip.id].plants_per_m2) is not None]
        name = treatment_name(treatment, view.show)
        stand = treatment_stand(means, seeds_per_m2=view.seeds_per_m2(treatment)) if means else None
        answers.append(
            TreatmentStandOut(
                treatment_id=treatment.id,
                name=name,
                stand=shown(stand.plants_per_m2, "density", view.show) if stand else None,
                share_pct=stand.share_pct if stand else None,
                counts=sum(view.records[strip.id].counts for strip in strips),
                working=working_out(treatment_stand_working(stand, means, view.show, name=name)) if stand else None,
            )
        )
    return answers


def harvest_out(view: TrialView) -> HarvestOut:
    """The harvest stage: loads by strip."""
    by_strip: dict[object, list[HarvestLoad]] = {}
    for load in loads_of(view.trial):
        by_strip.setdefault(load.strip_id, []).append(load)
    return HarvestOut(
        standard_moisture_pct=view.profile.standard_moisture_pct,
        strips=[
            StripHarvestOut(
                strip_id=strip.id,
                yield_=shown(view.records[strip.id].yield_kg_per_ha, "yield", view.show),
                loads=[load_out(view, strip, load) for load in by_strip.get(strip.id, [])],
                working=working_out(loads_working(shares_of(by_strip[strip.id]), view.show))
                if len(by_strip.get(strip.id, [])) > 1
                else None,
            )
            for strip in view.strips
        ],
    )


def load_out(view: TrialView, strip: Strip, load: HarvestLoad) -> HarvestLoadOut:
    """One load with its working and the questions it raises."""
    show = view.show
    others = [
        record.yield_kg_per_ha for key, record in view.records.items() if key != strip.id and record.yield_kg_per_ha is not None
    ]
    questions = questions_on_load(
        profile=view.profile,
        yield_kg_per_ha=load.yield_kg_per_ha,
        moisture_pct=load.moisture_pct,
        swath_width_m=load.swath_width_m,
        strip_width_m=strip.width_m,
        tare_given=None if load.gross_kg is None else load.tare_kg is not None,
        other_yields_kg_per_ha=others,
        show=show,
    )
    return HarvestLoadOut(
        id=load.id,
        strip_id=strip.id,
        version=load.version,
        method=cast(Any, load.method),
        **{
            quantity.name: out(load, quantity, show)
            for quantity in (
                models.GROSS,
                models.TARE,
                models.NET,
                models.MOISTURE,
                models.SWATH_WIDTH,
                models.CUT_LENGTH,
                models.STATED_YIELD,
            )
        },
        yield_=_must(load.yield_kg_per_ha, "yield", view),
        working=_load_working(view, load),
        questions=[QuestionOut(code=question.code, field=question.field, text=question.text) for question in questions],
        recorded_at=load.recorded_at,
        recorded_by=load.recorded_by.get_full_name(),
    )


def _load_working(view: TrialView, load: HarvestLoad):
    if load.method == "stated" or load.swath_width_m is None or load.length_m is None:
        return None
    net = load.net_kg if load.gross_kg is None else load.gross_kg - (load.tare_kg or 0.0)
    if net is None:
        return None
    result = strip_yield(
        net_kg=net,
        swath_width_m=load.swath_width_m,
        length_m=load.length_m,
        moisture_pct=load.moisture_pct,
        standard_moisture_pct=load.standard_moisture_pct,
    )
    return working_out(
        yield_working(
            result,
            view.show,
            gross_kg=load.gross_kg,
            tare_kg=load.tare_kg,
            swath_width_m=load.swath_width_m,
            length_m=load.length_m,
        )
    )


def event_out(event: FieldEvent) -> FieldEventOut:
    """One line of the season's log."""
    return FieldEventOut(
        id=event.id,
        version=event.version,
        kind=event.kind,
        kind_label=dict(FieldEvent.KINDS)[event.kind],
        happened_on=event.happened_on,
        text=event.text,
        strip_ids=[strip.id for strip in event.strips.all()],
        recorded_by=event.recorded_by.get_full_name(),
    )
