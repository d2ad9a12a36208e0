"""Harvest and season as the API carries them."""

from __future__ import annotations

from datetime import UTC, datetime, time, timedelta
from typing import Any, cast

from cultrix_core.harvest.loads import loads_working, questions_on_load, strip_yield, yield_working

from apps.quantities import out
from apps.records import models
from apps.records.models import FieldEvent, HarvestLoad
from apps.records.schemas import FieldEventOut, HarvestLoadOut, HarvestOut, StripHarvestOut
from apps.records.selectors import loads_of, shares_of
from apps.shown import QuestionOut, must, shown, working_out
from apps.trials.models import Strip
from apps.trials.selectors import TrialView


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
        yield_=must(load.yield_kg_per_ha, "yield", view.show),
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
        reentry_hours=event.reentry_hours,
        reentry_until=reentry_until(event),
        strip_ids=[strip.id for strip in event.strips.all()],
        recorded_by=event.recorded_by.get_full_name(),
    )


def reentry_until(event: FieldEvent) -> datetime | None:
    """When the label's re-entry interval ends, counted from the end of the day of spraying: the hour is not kept."""
    if event.reentry_hours is None:
        return None
    end_of_day = datetime.combine(event.happened_on + timedelta(days=1), time.min, tzinfo=UTC)
    return end_of_day + timedelta(hours=event.reentry_hours)
