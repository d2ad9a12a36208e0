"""The Harvest stage: loads by strip, and what is asked about them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, cast

from cultrix_core.harvest.beside import Beside, questions_beside
from cultrix_core.harvest.expected import Placed, expected_by_place
from cultrix_core.harvest.loads import Question, loads_working, questions_on_load, strip_yield, yield_working
from cultrix_core.harvest.on_loads import Swap, likely_swap
from cultrix_core.stats.compare import StripResponse
from cultrix_core.unit_formatting import format_number

from apps.base.formatting import QuestionOut, shown, working_out
from apps.base.quantities import Quantity, TypedOut, out
from apps.field.harvest import models as harvest_models
from apps.field.harvest.ground import area_of
from apps.field.harvest.models import HarvestLoad
from apps.field.harvest.schemas import HarvestLoadOut, HarvestOut, StripHarvestOut
from apps.field.queries import loads_of, net_of_load, shares_of
from apps.field.stand.schemas import DensityUnitOut
from apps.trial_state.view import TrialView
from apps.trials.models import STRIP_LENGTH, STRIP_WIDTH, Strip


def harvest_out(view: TrialView) -> HarvestOut:
    """The harvest stage: loads by strip."""
    every = loads_of(view.trial)
    by_strip: dict[object, list[HarvestLoad]] = {}
    for load in every:
        by_strip.setdefault(load.strip_id, []).append(load)
    swap = swap_of(view)
    return HarvestOut(
        standard_moisture_pct=view.profile.standard_moisture_pct,
        swap=_swap_words(swap) if swap else "",
        yield_unit=DensityUnitOut(
            label=view.show.unit("yield"), factor=1 / view.show.show(1.0, "yield").value, decimals=view.show.decimals("yield")
        ),
        strips=[_strip_out(view, strip, by_strip.get(strip.id, []), every) for strip in view.strips],
    )


def _strip_out(view: TrialView, strip: Strip, own: list[HarvestLoad], every: list[HarvestLoad]) -> StripHarvestOut:
    shares = shares_of(own)
    expected, words = _expected(view, strip)
    return StripHarvestOut(
        strip_id=strip.id,
        yield_=shown(view.records[strip.id].scale_kg_per_ha, "yield", view.show),
        expected=shown(expected, "yield", view.show),
        expected_words=words,
        swath_width=_as_cut(view, strip, every, harvest_models.SWATH_WIDTH, STRIP_WIDTH),
        length=_as_cut(view, strip, own, harvest_models.CUT_LENGTH, STRIP_LENGTH),
        loads=[load_out(view, strip, load, every) for load in own],
        working=working_out(loads_working(shares, view.show)) if len(shares) > 1 else None,
    )


def _as_cut(view: TrialView, strip: Strip, loads: list[HarvestLoad], cut: Quantity, drawn: Quantity) -> TypedOut:
    """A size as the latest load was cut, else as the strip was drawn."""
    last = next((load for load in reversed(loads) if getattr(load, cut.value_column) is not None), None)
    return out(last, cut, view.show) if last is not None else out(strip, drawn, view.show)


def _expected(view: TrialView, strip: Strip) -> tuple[float | None, str]:
    """What a strip is expected to make, and why: its own estimate, else what was typed with the trial."""
    estimate = view.records[strip.id].estimate
    if estimate is not None:
        return estimate.value, "estimated on this strip before harvest"
    if view.trial.expected_yield.value is not None:
        return view.trial.expected_yield.value, "expected when the trial was planned"
    return None, ""


def swap_of(view: TrialView) -> Swap | None:
    """Two strips whose loads look exchanged, None where none do or the layout is not one of whole blocks."""
    if not view.design.in_drawn_blocks:
        return None
    rows = [
        StripResponse(
            treatment=str(strip.received.id), block=str(strip.block.number), response=value, label=f"strip {strip.order}"
        )
        for strip in view.strips
        if not strip.lost and (value := view.records[strip.id].scale_kg_per_ha) is not None
    ]
    return likely_swap(rows) if len(rows) > 3 else None


def _swap_words(swap: Swap) -> str:
    return (
        f"{swap.first.capitalize()} and {swap.second} look exchanged: with their yields the other way round, "
        f"{100 * (1 - swap.share):.0f} % of what blocks and treatments leave unexplained would be gone. "
        "Look at the tickets; nothing is changed here."
    )


def _questions_on(view: TrialView, strip: Strip, load: HarvestLoad, every: Sequence[HarvestLoad]) -> tuple[Question, ...]:
    """What a load makes one ask: by itself, beside other strips, beside its neighbours."""
    if load.yield_kg_per_ha is None:
        return (NO_MOISTURE,)
    expected = _expected_by_place(view, strip)
    asked = questions_on_load(
        profile=view.profile,
        yield_kg_per_ha=load.yield_kg_per_ha,
        moisture_pct=load.moisture.value,
        swath_width_m=None if load.swath_width.value is None else load.swath_width.value * (load.passes or 1),
        strip_width_m=strip.width.value,
        tare_given=None if load.gross.value is None else load.tare.value is not None,
        expected_kg_per_ha=expected,
        show=view.show,
    )
    far = any(question.code == "far_from_others" for question in asked)
    more = questions_beside(load.yield_kg_per_ha, _beside(view, strip, load, every, expected), view.show)
    return asked + tuple(question for question in more if not (far and question.code == "off_expected"))


def load_out(view: TrialView, strip: Strip, load: HarvestLoad, every: Sequence[HarvestLoad] | None = None) -> HarvestLoadOut:
    """One load with its working and the questions it raises."""
    show = view.show
    questions = _questions_on(view, strip, load, loads_of(view.trial) if every is None else every)
    return HarvestLoadOut(
        id=load.id,
        strip_id=strip.id,
        version=load.version,
        method=cast(Any, load.method),
        **{
            quantity.name: out(load, quantity, show)
            for quantity in (
                harvest_models.GROSS,
                harvest_models.TARE,
                harvest_models.NET,
                harvest_models.MOISTURE,
                harvest_models.SWATH_WIDTH,
                harvest_models.CUT_LENGTH,
                harvest_models.TEST_WEIGHT,
                harvest_models.SHRINK,
                harvest_models.STATED_YIELD,
            )
        },
        passes=_count_out(load.passes),
        pieces=_count_out(load.pieces),
        yield_=shown(load.yield_kg_per_ha, "yield", view.show),
        per_area=_per_area(view, load),
        working=_load_working(view, load),
        questions=[QuestionOut(code=question.code, field=question.field, text=question.text) for question in questions],
        recorded_at=load.recorded_at,
        clock_shift_s=load.clock_shift_s,
        recorded_by=load.recorded_by.get_full_name(),
    )


LEAST_OTHERS = 3
NO_MOISTURE = Question(
    code="no_moisture",
    field="moisture",
    text="No moisture yet, so the yield waits. Take a sample from this load and type it when it is measured.",
)


def _expected_by_place(view: TrialView, strip: Strip) -> float | None:
    """Yield expected of a strip by its treatment and block, from the other strips that stand."""
    others = [
        Placed(treatment=str(other.received.id), block=str(other.block.number), value=value)
        for other in view.strips
        if other.id != strip.id and not other.lost and (value := view.records[other.id].scale_kg_per_ha) is not None
    ]
    if len(others) < LEAST_OTHERS:
        return None
    return expected_by_place(others, treatment=str(strip.received.id), block=str(strip.block.number))


def _beside(view: TrialView, strip: Strip, load: HarvestLoad, every: Sequence[HarvestLoad], expected: float | None) -> Beside:
    estimate = view.records[strip.id].estimate
    alike = {other.id for other in view.strips if other.received.id == strip.received.id}
    weights = [
        (harvest_load.strip.order, harvest_load.gross.value, harvest_load.tare.value)
        for harvest_load in every
        if harvest_load.strip_id != strip.id
    ]
    net = net_of_load(load)
    others = [item for item in every if item.id != load.id and item.pieces]
    alike_others = [item for item in others if item.strip_id in alike] or others
    per_piece = [weight / item.pieces for item in alike_others if item.pieces and (weight := net_of_load(item)) is not None]
    return Beside(
        estimate=(estimate.lower, estimate.value, estimate.upper) if estimate else None,
        expected=expected,
        same_weights=[
            order
            for order, gross, tare in weights
            if load.gross.value is not None
            and gross == load.gross.value
            and tare == load.tare.value
            and load.tare.value is not None
        ],
        test_weight_kg_hl=load.test_weight.value,
        legal_lb_bu=view.profile.bushel_lb,
        piece_kg=net / load.pieces if net and load.pieces else None,
        other_piece_kg=sum(per_piece) / len(per_piece) if per_piece else None,
    )


def _count_out(value: int | None) -> TypedOut:
    text = "" if value is None else str(value)
    return TypedOut(text=text, unit="", shown=text or None)


def _per_area(view: TrialView, load: HarvestLoad) -> str:
    """Pieces per area and the weight of one, where they were counted."""
    net = net_of_load(load)
    area = area_of(load)
    if not load.pieces or net is None or area is None:
        return ""
    return f"{view.show.text(load.pieces / area, 'density')}, {format_number(1000 * net / load.pieces, 0)} g each"


def _load_working(view: TrialView, load: HarvestLoad):
    if load.method == "stated" or load.swath_width.value is None or load.length.value is None or load.yield_kg_per_ha is None:
        return None
    net = net_of_load(load)
    if net is None:
        return None
    result = strip_yield(
        net_kg=net,
        swath_width_m=load.swath_width.value,
        length_m=load.length.value,
        moisture_pct=load.moisture.value,
        standard_moisture_pct=load.standard_moisture_pct,
        passes=load.passes or 1,
        shrink_pct=load.shrink.value or 0.0,
    )
    return working_out(
        yield_working(
            result,
            view.show,
            gross_kg=load.gross.value,
            tare_kg=load.tare.value,
            swath_width_m=load.swath_width.value,
            length_m=load.length.value,
            passes=load.passes or 1,
        )
    )
