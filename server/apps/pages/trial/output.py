"""Trials as the API carries them."""

from __future__ import annotations

from typing import Any, cast

from cultrix_core.design.designs import design_kind
from cultrix_core.design.factors import structure
from cultrix_core.design.frame import compass
from cultrix_core.design.geometry import check_gradient
from cultrix_core.economics.break_even import BreakEven, break_even_working
from cultrix_core.economics.budgets import Budget, budget_working
from cultrix_core.economics.costs import cost_words, extra_cost_steps, with_extra_cost
from cultrix_core.season.responses import RESPONSES, is_judged_response, response_of
from cultrix_core.seeding.rates import kg_per_ha, rate_table, row_geometry, row_geometry_working
from cultrix_core.unit_formatting import KINDS, UnitFormatter
from cultrix_core.writing import written_day

from apps.accounts.models import User
from apps.accounts.rights import DEEDS, reach_in
from apps.base.formatting import WorkingOut, shown, working_out
from apps.base.quantities import TypedIn, TypedOut, out
from apps.farms import models as farms
from apps.farms.api import field_out
from apps.field.season.own_traits import responses_in
from apps.pages.trial.money_apart import without_money
from apps.pages.trial.notes import notes_of
from apps.trial_state.listing import ListedTrial
from apps.trial_state.rows import stages_out, strip_out
from apps.trial_state.stages import is_finished, next_step
from apps.trial_state.view import TrialView
from apps.trials import models
from apps.trials.hooks import tally
from apps.trials.models import CostLine, Factor, Level, SeasonClosing, Strip, Treatment, Trial
from apps.trials.naming import ladder_amounts, level_name, response_name, treatment_name
from apps.trials.queries import amendments_of, closings_of, is_archived, protocol_of
from apps.trials.schemas import (
    AlongRowOut,
    AmendmentOut,
    BelongingOut,
    BoundOut,
    ClosingOut,
    CostOut,
    DrawOut,
    FactorOut,
    LayoutOut,
    ProtocolOut,
    ResponseChoiceOut,
    StripOut,
    TreatmentOut,
    TrialOut,
)
from apps.trials.treatment_package import SEPARATE

RESPONSE_CHOICES = [
    ResponseChoiceOut(key="yield", name="Yield", dimension=""),
    ResponseChoiceOut(key="net_return", name="Net return", dimension=""),
    *(ResponseChoiceOut(key=item.key, name=item.name, dimension=item.dimension) for item in RESPONSES),
]


def _responses(trial: Trial) -> list[ResponseChoiceOut]:
    """What a trial can be judged by: the catalogue, the workspace's own variables, and what it is judged by now."""
    keys = [*responses_in(trial.workspace, trial.crop)]
    if trial.primary_response not in {choice.key for choice in RESPONSE_CHOICES} | set(keys):
        keys.append(trial.primary_response)
    own = [response_of(key) for key in keys]
    return [*RESPONSE_CHOICES, *(ResponseChoiceOut(key=item.key, name=item.name, dimension=item.dimension) for item in own)]


TYPED = (
    models.PRICE,
    models.UNIT_COST,
    models.PRACTICAL_MARGIN,
    models.NET_MARGIN,
    models.STANDARD_MOISTURE,
    models.ROW_SPACING,
    models.SEEDING_RATE,
    farms.SEED_WEIGHT,
    models.EXPECTED_YIELD,
    farms.BAG_PRICE,
    farms.BAG_SEEDS,
    models.EMERGENCE,
    models.SURVIVAL,
    models.DEPTH,
)
OPEN = BoundOut(open=True, reason="")


def trial_out(view: TrialView, user: User) -> TrialOut:
    """A trial as this person may see it."""
    answer = _whole(view, user)
    return answer if "money" in answer.may else without_money(answer)


def _closing_out(closing: SeasonClosing) -> ClosingOut:
    return ClosingOut(
        at=closing.closed_at,
        by=closing.by.get_full_name() or closing.by.username,
        note=closing.note,
        opened_at=closing.opened_at,
        opened_by=closing.opened_by.get_full_name() or closing.opened_by.username if closing.opened_by else "",
        reason=closing.reason,
    )


def _whole(view: TrialView, user: User) -> TrialOut:
    trial, show = view.trial, view.show
    reach = reach_in(user, trial.workspace)
    records = tally(view.strips)
    marked = any(strip.lost or strip.sown_treatment_id for strip in view.strips)
    bound = OPEN
    if records or marked:
        bound = BoundOut(open=False, reason=f"{records.words or 'Notes'} hang on these strips.")
    crop_bound = BoundOut(open=False, reason="Loads were reckoned at this crop's standard moisture.") if records.loads else OPEN
    return TrialOut(
        id=trial.id,
        workspace_id=trial.workspace_id,
        units={kind: show.unit_code(kind) for kind in KINDS},
        version=trial.version,
        may=[deed for deed in DEEDS if reach.may(deed)],
        archived=is_archived(trial),
        closings=[_closing_out(closing) for closing in closings_of(trial)],
        title=trial.title,
        crop=trial.crop,
        crop_name=view.profile.title,
        season=trial.season,
        responsible=(trial.responsible or trial.created_by).get_full_name(),
        series=trial.series,
        field=field_out(trial.field, show) if trial.field else None,
        question=trial.question,
        guess=trial.guess,
        primary_response=trial.primary_response,
        response_name=response_name(trial.primary_response),
        response_margin=_response_margin(view),
        responses=_responses(trial),
        amounts_by=cast(Any, trial.amounts_by),
        package=cast(Any, trial.package),
        belongings=[BelongingOut(part=part, words=words, separate=SEPARATE[part]) for part, words in view.belongings.items()],
        alpha=trial.alpha,
        **{quantity.name: out(trial, quantity, show) for quantity in TYPED},
        emergence_of=cast(Any, trial.emergence_of),
        planted_on=trial.planted_on,
        price_source=trial.price_source,
        factors=[factor_out(view, factor) for factor in view.factors],
        costs=_costs(view),
        layout=layout_out(view),
        protocol=protocol_out(trial),
        design_name=trial.get_design_display() if trial.design else "",
        treatments=[treatment_out(view, treatment) for treatment in view.treatments],
        design=cast(Any, trial.design),
        drawn=trial.drawn,
        seed=trial.seed,
        blocks=len({strip.block_id for strip in view.strips}),
        strips=[_worked_strip_out(view, strip) for strip in view.strips],
        stages=stages_out(view.stages),
        treatments_bound=bound,
        layout_bound=bound,
        crop_bound=crop_bound,
        notes=notes_of(view),
    )


def _level_out(level: Level, show: UnitFormatter) -> TypedOut:
    text = level.amount.text or level.name
    return TypedOut(text=text, unit=level.amount.unit, shown=level_name(level, show) if level.amount.text else None)


def factor_out(view: TrialView, factor: Factor) -> FactorOut:
    """A factor with the levels that treatments have."""
    levels = _levels_of(view, factor)
    return FactorOut(
        kind=cast(Any, factor.kind),
        name=factor.name,
        title=factor.title,
        hard_to_change=factor.hard_to_change,
        levels=[_level_out(level, view.show) for level in levels],
        level_names=[level_name(level, view.show) for level in levels],
        level_ids=[level.pk for level in levels],
        ladder=bool(ladder_amounts(factor, view.treatments)),
    )


def _levels_of(view: TrialView, factor: Factor) -> list[Level]:
    result = {
        level.id: level for treatment in view.treatments for level in treatment.levels.all() if level.factor_id == factor.id
    }
    return sorted(result.values(), key=lambda level: level.position)


def _costs(view: TrialView) -> list[CostOut]:
    return [
        CostOut(
            factor=place,
            level=number,
            kind=cast(Any, line.kind),
            label=line.label,
            times=line.times.text,
            each=_each_out(view, line),
            basis=cast(Any, line.basis),
            spread=out(line, models.SPREAD, view.show),
            made_of={name: TypedIn(**item) for name, item in line.made_of.items()},
        )
        for place, factor in enumerate(view.factors)
        for number, level in enumerate(_levels_of(view, factor))
        for line in level.cost_lines.all()
    ]


def _each_out(view: TrialView, line: CostLine) -> TypedOut:
    """What one time costs: as typed, and by area or by yield in the reader's units."""
    by_yield = line.basis == "yield"
    value, kind = (line.each_per_t, "price") if by_yield else (line.each.value, "money_per_area")
    return TypedOut(text=line.each.text, unit=line.each.unit, shown=None if value is None else view.show.text(value, kind))


def treatment_out(view: TrialView, treatment: Treatment) -> TreatmentOut:
    """A treatment with its difference that matters and what its rate means along the row."""
    money = view.money(treatment)
    margin = None if treatment.is_control else view.break_even_kg_per_ha(treatment)
    more = None if treatment.is_control or view.control is None else view.extra_cost(treatment)
    return TreatmentOut(
        id=treatment.id,
        letter=treatment.letter,
        position=treatment.position,
        name=treatment_name(treatment, view.show),
        levels=[_level_out(level, view.show) for level in treatment.levels.all()],
        is_control=treatment.is_control,
        extra_cost=out(treatment, models.EXTRA_COST, view.show),
        costs_more=shown(more, "money_per_area", view.show, signed=True),
        margin=shown(margin, "yield", view.show),
        margin_working=_margin_working(view, treatment, money),
        along_row=_along_row(view, treatment),
    )


def _margin_working(view: TrialView, treatment: Treatment, money: BreakEven | None) -> WorkingOut | None:
    if money is None or view.control is None or treatment.is_control:
        return None
    steps = extra_cost_steps(
        view.cost(treatment),
        view.cost(view.control),
        view.show,
        name=f"{treatment.letter}, {treatment_name(treatment, view.show)}",
        control_name=f"{view.control.letter}, {treatment_name(view.control, view.show)}",
    )
    return working_out(with_extra_cost(break_even_working(money, view.show), steps))


def _along_row(view: TrialView, treatment: Treatment) -> AlongRowOut | None:
    rate, spacing, show = view.seeds_per_m2(treatment), view.row_spacing_m(treatment), view.show
    if not rate or not spacing:
        return None
    geometry = row_geometry(seeds_per_m2=rate, row_spacing_m=spacing)
    lot = view.lot(treatment)
    weight = lot.thousand_seed_weight_g
    return AlongRowOut(
        rate=show.text(rate, "density"),
        mass=show.text(kg_per_ha(rate, thousand_seed_weight_g=weight), "seed_rate_mass") if weight else None,
        per_row=show.text(geometry.seeds_per_m_row, "linear_density"),
        in_row=show.text(geometry.in_row_spacing_m, "in_row_spacing"),
        space=show.text(1 / rate, "plant_space"),
        shape=f"1 : {1 / geometry.squareness:.1f}",
        rates=[[unit, number] for unit, number in rate_table(rate, lot)],
        working=working_out(row_geometry_working(geometry, show)),
    )


def layout_out(view: TrialView) -> LayoutOut:
    """How the layout came about and how it lies."""
    trial, plan = view.trial, view.trial.plan
    placed = bool(view.strips) and view.strips[0].ring is not None
    gradient, wrong = "", False
    if placed and trial.field is not None and trial.field.gradient_deg is not None and design_kind(trial.design).replicated:
        checked = check_gradient(
            [_middle(strip) for strip in view.strips],
            [strip.block.number for strip in view.strips],
            gradient_deg=trial.field.gradient_deg,
        )
        gradient, wrong = checked.words, checked.wrong_way
    heading = plan.get("heading_deg")
    return LayoutOut(
        asked=plan.get("asked", {}),
        record=plan.get("record", []),
        remarks=plan.get("remarks", []),
        gradient=gradient,
        gradient_wrong=wrong,
        heading="" if heading is None else f"{heading:.1f}° ({compass(heading)})" if plan.get("frame") else f"{heading:.1f}°",
        placed=placed,
        georeferenced=bool(plan.get("frame")),
        draws=[
            DrawOut(at=drawn_layout.at, by=str(drawn_layout.by), said=drawn_layout.said)
            for drawn_layout in trial.draws.select_related("by")
        ],
        suggests=suggestion(view),
    )


def _middle(strip: Strip) -> tuple[float, float]:
    ring = strip.ring or [[0.0, 0.0]]
    return sum(point[0] for point in ring) / len(ring), sum(point[1] for point in ring) / len(ring)


def suggestion(view: TrialView) -> str:
    """A split-plot, where a factor is hard to change and the treatments allow one."""
    hard = [factor for factor in view.factors if factor.hard_to_change]
    easy = [factor for factor in view.factors if not factor.hard_to_change]
    names = [[str(level.id) for level in treatment.levels.all()] for treatment in view.treatments]
    if not hard or not easy or not names or not structure(names).complete:
        return ""
    return (
        f"{hard[0].title} needs another machine or pass, "
        f"{' and '.join(factor.title.lower() for factor in easy)} can be set from the cab. "
        f"A split-plot puts {hard[0].title.lower()} on main strips and the rest inside them: fewer changes, and it is then "
        "also judged by the difference between main strips, as it must be."
    )


def protocol_out(trial: Trial) -> ProtocolOut | None:
    """The frozen protocol with its amendments."""
    frozen = protocol_of(trial)
    if frozen is None:
        return None
    return ProtocolOut(
        frozen_at=frozen.frozen_at,
        by=str(frozen.by),
        fingerprint=frozen.fingerprint[:16],
        content=[[name, text] for name, text in frozen.content.items() if text],
        amendments=[
            AmendmentOut(at=amendment.at, by=str(amendment.by), reason=amendment.reason, changes=amendment.changes)
            for amendment in amendments_of(trial)
        ],
    )


def amendment_words(protocol: ProtocolOut | None) -> list[str]:
    """What was changed after the protocol was frozen, and why, for verdict and print."""
    return [
        f"{written_day(amended.at)}: {name} changed from “{before or 'nothing'}” to “{after or 'nothing'}”. {amended.reason}"
        for amended in (protocol.amendments if protocol else [])
        for name, before, after in amended.changes
    ]


def _worked_strip_out(view: TrialView, strip: Strip) -> StripOut:
    """A strip with the working of its money."""
    result, budget = strip_out(view, strip), view.budget_of(strip)
    if budget is not None:
        result.net_return_working = budget_working_out(view, strip, budget)
    return result


def budget_working_out(view: TrialView, strip: Strip, budget: Budget) -> WorkingOut:
    """The working of a strip's net return."""
    seed = view.seed_sown_per_ha(strip)
    return working_out(
        budget_working(
            budget,
            view.show,
            title=f"Net return of strip {strip.order}, {treatment_name(strip.received, view.show)}",
            area_costs=cost_words(view.cost(strip.received), view.show, seed_per_ha=seed),
            seed="planned" if seed is None else "sown",
        )
    )


def trial_row(listed: ListedTrial, layer: str) -> dict[str, Any]:
    """A trial in the list, as JSON has it (``TrialRowOut``)."""
    stages = listed.stages
    following = stages[next_step(stages)]
    ribbon = dict(listed.fixed["ribbon"])
    ribbon["values"] = ribbon.pop("layers").get(layer, [])
    return {
        "id": str(listed.trial.id),
        "title": listed.trial.title,
        "crop_name": listed.profile.title,
        "season": listed.trial.season,
        "series": listed.trial.series,
        "field_name": str(listed.trial.field) if listed.trial.field else "",
        "design": listed.trial.design,
        "treatments": listed.fixed["treatments"],
        "letters": listed.fixed["letters"],
        "ribbon": ribbon,
        "next_stage": following.key,
        "next_note": f"{following.label}: {following.note}",
        "verdict_note": stages[-1].note,
        "finished": is_finished(stages),
        "recalculating": listed.recalculating,
    }


def _response_margin(view: TrialView) -> TypedOut:
    """The margin of a recorded response, as typed."""
    margin = view.trial.response_margin
    if margin.value is None or not is_judged_response(view.trial.primary_response):
        return TypedOut(text="", unit="", shown=None)
    kind = response_of(view.trial.primary_response).kind
    return TypedOut(text=margin.text, unit=margin.unit, shown=view.show.text(margin.value, kind))
