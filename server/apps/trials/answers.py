"""Trials as the API carries them."""

from __future__ import annotations

from typing import Any, cast

from cultrix_core.economics.break_even import break_even_working
from cultrix_core.economics.net_return import net_return_per_ha, net_return_working
from cultrix_core.seeding.rates import kg_per_ha, row_geometry, row_geometry_working
from django.utils import timezone

from apps.accounts.models import User
from apps.accounts.selectors import role_in
from apps.farms.api import field_out
from apps.quantities import TypedOut, out
from apps.records.selectors import tally
from apps.shown import shown, working_out
from apps.trials import models
from apps.trials.models import Strip, Treatment
from apps.trials.naming import treatment_name
from apps.trials.schemas import AlongRowOut, BoundOut, DueOut, StageOut, StripOut, TreatmentOut, TrialOut, TrialRowOut
from apps.trials.selectors import TrialView

OPEN = BoundOut(open=True, reason="")


def trial_out(view: TrialView, user: User) -> TrialOut:
    """A trial whole."""
    trial, show = view.trial, view.show
    records = tally(view.strips)
    marked = any(strip.lost or strip.sown_treatment_id for strip in view.strips)
    bound = OPEN
    if records or marked:
        bound = BoundOut(open=False, reason=f"{records.words or 'Notes'} hang on these strips.")
    crop_bound = BoundOut(open=False, reason="Loads were reckoned at this crop's standard moisture.") if records.loads else OPEN
    return TrialOut(
        id=trial.id,
        workspace_id=trial.workspace_id,
        version=trial.version,
        writable=role_in(user, trial.workspace) != "viewer",
        title=trial.title,
        crop=trial.crop,
        crop_name=view.profile.name,
        season=trial.season,
        series=trial.series,
        field=field_out(trial.field, show) if trial.field else None,
        question=trial.question,
        guess=trial.guess,
        primary_response=cast(Any, trial.primary_response),
        alpha=trial.alpha,
        **{
            quantity.name: out(trial, quantity, show)
            for quantity in (
                models.PRICE,
                models.UNIT_COST,
                models.PRACTICAL_MARGIN,
                models.NET_MARGIN,
                models.ROW_SPACING,
                models.SEEDING_RATE,
                models.SEED_WEIGHT,
            )
        },
        planted_on=trial.planted_on,
        factor_kind=cast(Any, view.factor.kind) if view.factor else None,
        factor_name=view.factor.name if view.factor else "",
        treatments=[treatment_out(view, one) for one in view.treatments],
        design=cast(Any, trial.design),
        drawn=trial.drawn,
        seed=trial.seed,
        blocks=len({strip.block_id for strip in view.strips}),
        strips=[strip_out(view, strip, worked=True) for strip in view.strips],
        stages=_stages(view),
        treatments_bound=bound,
        layout_bound=bound,
        crop_bound=crop_bound,
        notes=_notes(view),
    )


def treatment_out(view: TrialView, treatment: Treatment) -> TreatmentOut:
    """A treatment with its difference that matters and what its rate means along the row."""
    level, money = treatment.level, view.money(treatment)
    margin = None if treatment.is_control else view.margin_kg_per_ha(treatment)
    return TreatmentOut(
        id=treatment.id,
        letter=treatment.letter,
        position=treatment.position,
        name=treatment_name(treatment, view.show),
        level=TypedOut(text=level.amount_typed or level.name, unit=level.amount_unit, shown=None),
        is_control=treatment.is_control,
        extra_cost=out(treatment, models.EXTRA_COST, view.show),
        margin=shown(margin, "yield", view.show),
        margin_working=working_out(break_even_working(money, view.show)) if money and not treatment.is_control else None,
        along_row=_along_row(view, treatment),
    )


def _along_row(view: TrialView, treatment: Treatment) -> AlongRowOut | None:
    rate, spacing, show = view.seeds_per_m2(treatment), view.row_spacing_m(treatment), view.show
    if not rate or not spacing:
        return None
    geometry = row_geometry(seeds_per_m2=rate, row_spacing_m=spacing)
    weight = view.trial.thousand_seed_weight_g
    return AlongRowOut(
        rate=show.text(rate, "density"),
        mass=show.text(kg_per_ha(rate, thousand_seed_weight_g=weight), "seed_rate_mass") if weight else None,
        per_row=show.text(geometry.seeds_per_m_row, "linear_density"),
        in_row=show.text(geometry.in_row_spacing_m, "in_row_spacing"),
        working=working_out(row_geometry_working(geometry, show)),
    )


def strip_out(view: TrialView, strip: Strip, *, worked: bool = False) -> StripOut:
    """A strip with what the ribbon draws on it; ``worked`` adds the working of its money."""
    records, show = view.records[strip.id], view.show
    received = next(treatment for treatment in view.treatments if treatment.id == strip.received.id)
    money = view.money(received)
    net = working = None
    if money and records.yield_kg_per_ha is not None:
        net = net_return_per_ha(records.yield_kg_per_ha, money)
        name = f"strip {strip.order}, {treatment_name(received, show)}"
        working = working_out(net_return_working(records.yield_kg_per_ha, money, show, treatment=name)) if worked else None
    return StripOut(
        id=strip.id,
        order=strip.order,
        block=strip.block.number,
        block_name=strip.block.name or f"Block {strip.block.number}",
        treatment_id=strip.treatment_id,
        received_id=received.id,
        lost=strip.lost,
        reason=strip.reason,
        width=shown(strip.width_m, "strip_width", show),
        length=shown(strip.length_m, "strip_length", show),
        counts=records.counts,
        stand=shown(records.plants_per_m2, "density", show),
        loads=records.loads,
        yield_=shown(records.yield_kg_per_ha, "yield", show),
        net_return=shown(net, "net_return", show),
        net_return_working=working,
    )


def _stages(view: TrialView) -> list[StageOut]:
    return [StageOut(key=stage.key, label=stage.label, state=stage.state, note=stage.note) for stage in view.stages]


def _notes(view: TrialView) -> list[str]:
    """What the reader of the question page should think about."""
    notes = []
    if view.treatments and view.control is None:
        notes.append("No control is chosen: without what the farm does now, a gain has nothing to be a gain over.")
    if (
        view.treatments
        and view.control
        and any(view.margin_kg_per_ha(one) is None for one in view.treatments if not one.is_control)
    ):
        notes.append(
            "A treatment without extra cost has no break-even gain. Set a practical margin, "
            "else “no difference that matters” cannot be called for it."
        )
    if view.trial.design == "unreplicated":
        notes.append("One strip a treatment shows what could be seen, never how sure it is. Three to six blocks would.")
    if not view.trial.guess:
        notes.append("Write your guess before the result is in: it is how one learns how good one's eye is.")
    return notes


def trial_row_out(view: TrialView) -> TrialRowOut:
    """A trial on the shelf."""
    following = next((stage for stage in view.stages if stage.state in ("due", "partly")), view.stages[-1])
    return TrialRowOut(
        id=view.trial.id,
        title=view.trial.title,
        crop_name=view.profile.name,
        season=view.trial.season,
        series=view.trial.series,
        field_name=str(view.trial.field) if view.trial.field else "",
        design=view.trial.design,
        treatments=[treatment_name(treatment, view.show) for treatment in view.treatments],
        treatment_letters={str(treatment.id): treatment.letter for treatment in view.treatments},
        strips=[strip_out(view, strip) for strip in view.strips],
        stages=_stages(view),
        next_stage=following.key,
        next_note=f"{following.label}: {following.note}",
    )


URGENCY = {"planting": 1, "harvest": 1, "stand": 2, "verdict": 3, "layout": 4, "treatments": 5, "question": 5, "seed": 6}
LATER = 10  # a trial harvested next year can wait for what this year's trials need
WHAT = {
    "planting": ("Record the planting", "Deviations are remembered best on the day."),
    "harvest": ("Enter the loads", "A missing strip weakens every comparison."),
    "stand": ("Count the stand", "Plants are easiest to count before they close the rows."),
    "verdict": ("Read the verdict", "It stands on what is in so far."),
    "layout": ("Draw the layout", "Strips must be known before the drill is filled."),
    "treatments": ("Settle the treatments", "Without them nothing can be drawn."),
    "question": ("Finish the question", "The guess and the price belong in before the result."),
    "seed": ("Set rate and spacing", "Percent of seed sown and seeds along the row rest on them."),
}


def dues_of(view: TrialView) -> list[DueOut]:
    """What is due on a trial, most urgent first."""
    dues = [
        DueOut(
            trial_id=view.trial.id,
            trial_title=view.trial.title,
            stage=stage.key,
            stage_label=stage.label,
            what=f"{WHAT[stage.key][0]}: {stage.note}",
            why=WHAT[stage.key][1],
            urgency=URGENCY[stage.key] + (LATER if view.trial.season > timezone.localdate().year else 0),
        )
        for stage in view.stages
        if stage.key in WHAT and _is_due(view, stage.key, stage.state)
    ]
    return sorted(dues, key=lambda due: due.urgency)


def _is_due(view: TrialView, key: str, state: str) -> bool:
    if key == "planting" and view.trial.planted_on:
        return False
    if key == "layout" and view.strips:
        return False
    if key == "verdict":
        return False
    finished = view.stages[-1].state == "done"
    return state == "due" and not finished or state == "partly" and key in ("stand", "harvest") and not finished
